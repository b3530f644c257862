package headings

import (
	"strings"

	"jollydrawer/core/measure"
)

// Unit parts "Power (W)", "Pitch/mm", "Iout [mA]" and "Length in mm" into name and unit; unit is blank where none is named.
// What else stands in brackets is a remark and no part of the name.
func Unit(heading string) (name, unit string) {
	name = strings.TrimSpace(heading)
	for _, around := range [...][2]string{{"(", ")"}, {"[", "]"}, {"/", ""}, {" in ", ""}, {", ", ""}} {
		i := strings.LastIndex(name, around[0])
		if i <= 0 || !strings.HasSuffix(name, around[1]) {
			continue
		}
		if u := strings.TrimSpace(strings.TrimSuffix(name[i+len(around[0]):], around[1])); measure.KnownUnit(u) {
			return strings.TrimSpace(name[:i]), u
		}
	}
	if i := strings.IndexAny(name, "([{"); i > 0 {
		name = name[:i]
	}
	return strings.TrimSpace(name), ""
}
