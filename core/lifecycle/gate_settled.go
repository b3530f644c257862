package lifecycle

import "fmt"

// settledGate: every line of a BOM is a released record or somebody's decision, and it is plain whether it is fitted and what it is part of.
var settledGate = gate{about: "every line is settled", of: ofBOMs, with: plain(func(f Facts) Answer {
	switch n := len(f.Open); n {
	case 0:
		return answer("", "", f.Open)
	case 1:
		return answer("a line is open: "+f.Open[0], "settle it", f.Open)
	default:
		return answer(fmt.Sprintf("%d lines are open: %s", n, some(f.Open)), "settle them", f.Open)
	}
})}
