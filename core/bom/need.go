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
// designator.
func Each(vs []Verdict) map[string]int64 {
	out := map[string]int64{}
	for i := range vs {
		v := &vs[i]
		if v.Kind != Linked || v.Part == nil {
			continue
		}
		out[v.Part.ID] += int64(v.Line.Pieces())
	}
	return out
}
