package bom

import (
	"fmt"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
)

// functions finds parts of a board that are equal in what identifies their kind, such as three 4.7 kΩ 0805 1 % of different makers: each is ordered, stored and
// loaded by itself, and one of them would do. The later ones are told of the first.
func (m *matcher) functions(all []Verdict) {
	type function struct {
		drawer            string
		leading, package_ cabinet.Value
	}
	first := map[function][]*Verdict{}
	seen := map[string]bool{}
	for i := range all {
		v := &all[i]
		if v.Kind != Linked || v.Part == nil || seen[v.Part.ID] {
			continue
		}
		seen[v.Part.ID] = true
		t, ok := m.cab.Template(v.Part.Drawer)
		if !ok || len(t.Identity) == 0 || v.Part.Value(t.Leading).IsBlank() {
			continue
		}
		key := function{v.Part.Drawer, v.Part.Value(t.Leading).Meant(), v.Part.Value(t.Case).Meant()}
		twice := false
		for _, o := range first[key] {
			if len(Differs(o.Part, v.Part, m.cab)) == 0 {
				v.say(finding.Note, "function-twice", fmt.Sprintf("%s is equal in what identifies its kind to %s in row %d", v.Part.Number, o.Part.Number, o.Line.Row), "put one of them in the place of the other, where nothing else speaks against it")
				twice = true
				break
			}
		}
		if !twice {
			first[key] = append(first[key], v)
		}
	}
}
