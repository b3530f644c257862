package intake

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"jollydrawer/core/crosswalk"
)

// movedWords writes what becomes of rows: "2 resistance 4.7 kΩ→4.7 MΩ; ... [how it was settled]".
func movedWords(all []Moved) string {
	var out []string
	for _, m := range all {
		var moves []string
		for _, v := range m.Moves {
			moves = append(moves, fmt.Sprintf("%s %s→%s", v.What, v.From, v.To))
		}
		s := fmt.Sprintf("%d %s", m.Row, strings.Join(moves, ", "))
		if m.Settled != "" {
			s += " [" + m.Settled + "]"
		}
		out = append(out, s)
	}
	return strings.Join(out, "; ")
}

func TestWhatBecomesOfRows(t *testing.T) {
	rows := [][]string{row("Res", "Tidewright", "TW-1", "", "4,7", "", "2012"), row("Cap", "Kelpline", "K-1", "", "471", "", "big"), row("Fuse", "Kelpline", "F-1", "", "1 A", "", "")}
	rule := func(r crosswalk.Rule) []crosswalk.Change { return []crosswalk.Change{{Rule: &r}} }
	settledText := rule(crosswalk.Rule{From: "Value", To: "@leading", Words: map[string]string{"471": "470 pF"}})
	inMicro := rule(crosswalk.Rule{From: "Value", To: "@leading", Unit: "uF"})
	for _, x := range []struct {
		name       string
		edits, now Edits
		was, after []crosswalk.Change
		want       string
	}{
		{"nothing", Edits{}, Edits{}, nil, nil, ""},
		{"a cell that is corrected now", Edits{}, Edits{Cells: map[int]map[string]string{2: {"Value": "5k6"}}}, nil, nil, "2 resistance 4,7 (not read)→5.6 kΩ"},
		{"a kind that gets its drawer", Edits{}, Edits{}, nil, []crosswalk.Change{{Kinds: map[string]string{"Fuse": "resistors"}}}, "4 state unsorted→new, drawer →resistors, resistance →1 A (not read)"},
		{"a row that is left out", Edits{}, Edits{LeaveOut: []int{3}}, settledText, settledText, `3 state new→left out, drawer capacitors→, source Kelpline K-1→, capacitance 470 pF→, case 1206→ ["471" was settled as "470 pF"; "big" was settled as "1206"]`},
		{"a row that was left out by hand comes back", Edits{LeaveOut: []int{3}}, Edits{}, settledText, settledText, `3 state left out→new, drawer →capacitors, source →Kelpline K-1, capacitance →470 pF, case →1206 [the row was left out by hand]`},
		{"a settled text that a later rule reads as something else", Edits{}, Edits{}, settledText, append(settledText[:1:1], inMicro...), `3 capacitance 470 pF→471 µF ["471" was settled as "470 pF"]`},
		{"what was not read is undone by nothing", Edits{Cells: map[int]map[string]string{2: {"Value": "4,8"}}}, Edits{Cells: map[int]map[string]string{2: {"Value": "4,8"}}}, nil, rule(crosswalk.Rule{From: "Value", To: "@leading", Unit: "kOhm"}), "2 resistance 4,8 (not read)→4.8 kΩ"},
		{"a corrected cell that is read otherwise", Edits{Cells: map[int]map[string]string{2: {"Size": "1608"}}}, Edits{Cells: map[int]map[string]string{2: {"Size": "1608"}}}, nil, rule(crosswalk.Rule{From: "Size", To: "case", System: "metric", Words: map[string]string{"1608": "1005", "big": "1206"}}), `2 case 0603→0402 [the cell "Size" was corrected to "1608"]`},
		{"a drawer that was chosen by hand", Edits{Drawers: map[int]string{4: "resistors"}}, Edits{Drawers: map[int]string{4: "capacitors"}}, nil, nil, "4 drawer resistors→capacitors, resistance 1 A (not read)→, capacitance →1 A (not read) [the row was put into resistors by hand]"},
		{"another maker's name", Edits{}, Edits{}, nil, []crosswalk.Change{{Makers: map[string]string{"Kelpline": "Kelp Line"}}}, "3 source Kelpline K-1→Kelp Line K-1; 4 source Kelpline F-1→Kelp Line F-1"},
	} {
		a, b := buildWith(t, nil, x.edits, x.was, rows...), buildWith(t, nil, x.now, x.after, rows...)
		assert.Equal(t, x.want, movedWords(Compare(a, b)), x.name)
		assert.Empty(t, Compare(a, a), x.name)
	}
}
