package intake

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/decision"
	"jollydrawer/core/measure/measuretest"
	"jollydrawer/core/origin"
)

// become is what each row of a file becomes: by row, each thing about it, and by thing the field that filled it.
func become(r *Result) (out, from map[int]map[string]string) {
	out, from = map[int]map[string]string{}, map[int]map[string]string{}
	for i := range r.Candidates {
		c := &r.Candidates[i]
		now := map[string]string{"state": string(c.State), "drawer": c.Drawer, "number": c.Number, "source": strings.TrimSpace(c.Source().Manufacturer + " " + c.Source().MPN)}
		from[c.Row] = map[string]string{}
		r.EachValue(i, func(key string, v cabinet.Value, o origin.Origin, _ *cabinet.Problem) {
			now[key], from[c.Row][key] = v.String(), o.Field
		})
		out[c.Row] = now
	}
	return out, from
}

// Twenty files of made rows and four hundred steps: cells, rows and mends of any kind, in any order. After each step exactly the rows that it
// names have become something else, each row that was left out or put into a drawer is where it was put, and where a rule changes what a
// corrected cell says, the step says so of that row. What was decided holds in the next file, whatever order its rows are in.
func TestStepsNameWhatTheyChangeAndWhatWasSettled(t *testing.T) {
	cab, err := cabinet.Parse([]byte(cabinetText))
	require.NoError(t, err)
	base := madeCrosswalk(t)
	changed, settled, rules := 0, 0, 0
	for seed := range uint64(20) {
		d := &measuretest.Draws{State: seed*13 + 3}
		f := makeFile(d, 25)
		order := f.shuffled()
		table := f.table(order, false)
		var kept Kept
		var changes []crosswalk.Change
		built := func(table *Table) *Result {
			cw, err := base.With(changes)
			require.NoError(t, err)
			ed, _ := kept.On(table)
			return Build(Input{File: "f", Name: "f.csv", Table: table, Crosswalk: cw, Cabinet: cab, Edits: ed})
		}
		before := built(table)
		for step := range 20 {
			cw, err := base.With(changes)
			require.NoError(t, err)
			by := NewDecider(table, cw)
			row := int(table.numbers[d.IntN(table.Len())])
			rule := false
			put := func(r decision.Record, ok bool) {
				require.True(t, ok)
				kept.Put(r)
			}
			word := func(from, to string, texts ...string) {
				rule = true
				changes = append(slices.Clip(changes), crosswalk.Change{Rule: &crosswalk.Rule{From: from, To: to, System: map[string]string{"case": "metric"}[to],
					Words: map[string]string{texts[d.IntN(len(texts))]: texts[d.IntN(len(texts))]}}})
			}
			switch d.IntN(7) {
			case 0:
				put(by.Out(row))
			case 1:
				put(by.Drawer(row, []string{"resistors", "capacitors"}[d.IntN(2)]))
			case 2, 3:
				put(by.Cell(row, []string{"Value", "Value", "Size", "MPN"}[d.IntN(4)], []string{"4k7", "4k7", "100n", "1608", "Q-1"}[d.IntN(5)], ""))
			case 4:
				word("Value", "@leading", "4k7", "100n", "4k7", "5k6", "blue")
			case 5:
				word("Size", "case", "1608", "2012", "1608")
			case 6:
				rule = true
				changes = append(slices.Clip(changes), crosswalk.Change{Rule: &crosswalk.Rule{From: "Value", To: "@leading", Unit: []string{"pF", "kOhm"}[d.IntN(2)]}})
			}
			after := built(table)
			was, from := become(before)
			now, _ := become(after)
			moved := map[int]Moved{}
			for _, m := range Compare(before, after) {
				moved[m.Row] = m
			}
			for r := range was {
				_, named := moved[r]
				require.Equal(t, fmt.Sprint(was[r]) != fmt.Sprint(now[r]), named, "seed %d, step %d, row %d: %v → %v", seed, step, r, was[r], now[r])
			}
			changed += len(moved)
			ed, _ := kept.On(table)
			for _, r := range ed.LeaveOut {
				require.Equal(t, string(LeftOut), now[r]["state"], "row %d is left out by hand", r)
			}
			for r, drawer := range ed.Drawers {
				if now[r]["state"] != string(LeftOut) && table.problems[table.At(r)] == "" {
					require.Equal(t, drawer, now[r]["drawer"], "row %d was put there by hand", r)
				}
			}
			if rule {
				rules++
				for r, cells := range ed.Cells {
					for key, field := range from[r] {
						if _, ok := cells[field]; ok && was[r][key] != "" && was[r][key] != now[r][key] && before.Value(table.At(r), key).Type != cabinet.Raw {
							require.NotEmpty(t, moved[r].Settled, "row %d: %s was %s by hand and becomes %s", r, key, was[r][key], now[r][key])
							settled++
						}
					}
				}
			}
			before = after
		}
		next := f.shuffled() // next month's file: other row numbers, another stock
		again := f.table(next, true)
		old, _ := become(before)
		new, _ := become(built(again))
		said := map[string][]string{}
		for at, i := range order {
			key := strings.Join(f.rows[i], "|")
			said[key] = append(said[key], strings.TrimPrefix(fmt.Sprint(old[int(table.numbers[at])]["drawer"], " ", old[int(table.numbers[at])]["resistance"], " ", old[int(table.numbers[at])]["capacitance"]), " "))
		}
		for at, i := range next {
			key := strings.Join(f.rows[i], "|")
			r := int(again.numbers[at])
			if len(said[key]) == 1 && old[int(table.numbers[slices.Index(order, i)])]["state"] == string(New) && new[r]["state"] == string(New) {
				require.Contains(t, said[key], strings.TrimPrefix(fmt.Sprint(new[r]["drawer"], " ", new[r]["resistance"], " ", new[r]["capacitance"]), " "), "seed %d: %s", seed, key)
			}
		}
	}
	assert.Greater(t, changed, 300)
	assert.Greater(t, settled, 5)
	assert.Greater(t, rules, 50)
}
