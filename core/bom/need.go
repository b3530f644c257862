package bom

// Need is what the BOMs of a house take of one record.
type Need struct {
	Boards int    // BOMs on which it is linked
	Pieces int64  // that one build takes, of the BOM that takes most
	BOM    string // which that is
	Build  int    // boards of its build
}

// With adds what one more BOM takes: pieces for one board of it, and how many boards a build of it has.
func (n Need) With(bom string, each int64, build int) Need {
	n.Boards++
	if pieces := each * int64(max(build, 1)); pieces > n.Pieces {
		n.Pieces, n.BOM, n.Build = pieces, bom, build
	}
	return n
}

// Each is how many pieces of each record one board takes, by the record's ID: of the lines that are linked, and of those of the boards that lines are. A line that names no
// quantity takes one for each designator. Of several variants of a board a record counts as in the one that takes most of it; without any all lines count.
func (s Subs) Each(vs []Verdict, variants ...string) map[string]int64 {
	return mostOf(variants, func(variant string) map[string]int64 {
		out := map[string]int64{}
		for i := range vs {
			if v := &vs[i]; v.Line.Is(variant) {
				s.takes(v, func(id string, pieces int64) { out[id] += pieces })
			}
		}
		return out
	})
}

// takes says what one board takes of records by a line: of its own, or of what the board that it is is made of, as often as it is taken.
func (s Subs) takes(v *Verdict, says func(id string, pieces int64)) {
	if v.Kind == Linked && v.Part != nil {
		says(v.Part.ID, int64(v.Line.Pieces()))
	}
	sub, is := s.Board(v)
	if !is || sub.Why != "" {
		return
	}
	for i := range sub.Lines {
		if l := &sub.Lines[i]; l.Part != nil && !l.NotFitted {
			says(l.Part.ID, int64(l.Quantity)*int64(v.Line.Pieces()))
		}
	}
}

// Records are the records that one board takes by a line, each once, in the order of their lines.
func (s Subs) Records(v *Verdict) (ids []string) {
	seen := map[string]bool{}
	s.takes(v, func(id string, _ int64) {
		if !seen[id] {
			seen[id], ids = true, append(ids, id)
		}
	})
	return ids
}

// mostOf are the largest numbers that any of some variants has; of a board without them, its own.
func mostOf(variants []string, of func(variant string) map[string]int64) map[string]int64 {
	if len(variants) == 0 {
		return of("")
	}
	out := map[string]int64{}
	for _, v := range variants {
		for id, n := range of(v) {
			out[id] = max(out[id], n)
		}
	}
	return out
}
