package answers

import (
	"jollydrawer/core/cabinet"
	"jollydrawer/core/lookup"
)

// Kind is the drawer that a question is about: the one that it names, or the narrowest that holds most drawers whose leading parameter has the dimension
// of a value without a name. Blank where it may be about anything.
func Kind(cab *cabinet.Cabinet, told []lookup.Told) string {
	for _, t := range told {
		if d := around(cab, t.Drawers); d != "" {
			return d
		}
	}
	for _, t := range told {
		if !t.Measured() || t.Param != "" {
			continue
		}
		var leaves []string
		for _, x := range cab.Templates() {
			if s, ok := x.Slot(x.Leading); x.Leaf && ok && s.Of == t.Dim.String() {
				leaves = append(leaves, x.Key)
			}
		}
		if d := around(cab, leaves); d != "" {
			return d
		}
	}
	return ""
}

// around is the narrowest drawer that holds three of four of some, or all where they are fewer; blank where none does, or there are none.
func around(cab *cabinet.Cabinet, keys []string) string {
	best, depth := "", -1
	for _, t := range cab.Templates() {
		held := 0
		for _, k := range keys {
			if x, ok := cab.Template(k); ok && x.Inside(t.Key) {
				held++
			}
		}
		if held > 0 && held*4 >= len(keys)*3 && len(t.Path) > depth {
			best, depth = t.Key, len(t.Path)
		}
	}
	return best
}
