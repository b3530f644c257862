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

// Each is how many pieces of each record one board takes, by the record's ID: of the lines that are linked. A line that names no quantity takes one for each
// designator. Of several variants of a board a record counts as in the one that takes most of it; without any all lines count.
func Each(vs []Verdict, variants ...string) map[string]int64 {
	return mostOf(variants, func(variant string) map[string]int64 {
		out := map[string]int64{}
		for i := range vs {
			if v := &vs[i]; v.Kind == Linked && v.Part != nil && v.Line.Is(variant) {
				out[v.Part.ID] += int64(v.Line.Pieces())
			}
		}
		return out
	})
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
