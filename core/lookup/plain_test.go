package lookup

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/measure/measuretest"
	"jollydrawer/core/part"
)

// worn is a stall in which some parts are obsolete, some not released, some gone and some without a case.
func worn(t *testing.T) (*Index, []*Entry) {
	d := &measuretest.Draws{State: 97}
	x, all := stall(t, d)
	var left []*Entry
	for _, e := range all {
		e := *e
		e.Version = 2
		switch d.IntN(6) {
		case 0:
			e.Standing, e.Use, e.Flag = lifecycle.Obsolete, lifecycle.UseNo, "Obsolete"
		case 1:
			e.Revision = 1
		case 2:
			e.Gone = true
		case 3:
			e.Standing, e.Use, e.Flag, e.Revision, e.Label = lifecycle.NotForNew, lifecycle.UseCaution, "Not for new designs", 2, "B"
		}
		x.Put(&e)
		if !e.Gone {
			left = append(left, &e)
		}
	}
	return x, left
}

// Best answers as adding up the points of every part and sorting them would.
func TestTheBestAreThoseOfAPlainList(t *testing.T) {
	x, all := worn(t)
	d := &measuretest.Draws{State: 5}
	pick := func(list ...string) string { return list[d.IntN(len(list))] }
	several := 0
	for range rounds(400) {
		drawers := [][]string{{"chip-resistors"}, {"chip-resistors", "ceramic-capacitors"}, {"mosfets", "nowhere"}, {"regulators"}, {}}[d.IntN(5)]
		size, tol, out := pick("0402", "0603", "0805", "SOT-23"), pick("±1 %", "±5 %", "±0.1 %"), d.IntN(2) == 0
		score := func(_ *cabinet.Template, key string) func(cabinet.Value) int {
			switch key {
			case "case":
				return func(v cabinet.Value) int {
					if v.Text == size {
						return 4
					}
					if out {
						return Out
					}
					return 0
				}
			case "tolerance":
				return func(v cabinet.Value) int {
					if v.String() == tol {
						return 3
					}
					return 0
				}
			case "power":
				return func(v cabinet.Value) int {
					if v.IsBlank() {
						return 0
					}
					return 1
				}
			}
			return nil
		}
		a := Asked{Drawers: drawers, Least: 1 + d.IntN(5), Limit: 1 + d.IntN(6), Score: score}
		type one struct {
			e      *Entry
			points int
		}
		var want []one
		for _, e := range all {
			if !slices.Contains(drawers, e.Drawer) {
				continue
			}
			points := 0
			for _, key := range []string{"case", "tolerance", "power"} {
				points += score(nil, key)(e.Value(key))
			}
			if points >= a.Least && points > Out/2 {
				want = append(want, one{e, points})
			}
		}
		yes := func(b bool) int {
			if b {
				return 0
			}
			return 1
		}
		slices.SortStableFunc(want, func(a, b one) int {
			return cmp.Or(cmp.Compare(b.points, a.points), cmp.Compare(yes(a.e.Use == ""), yes(b.e.Use == "")), cmp.Compare(yes(a.e.Revision > 0), yes(b.e.Revision > 0)), cmp.Compare(a.e.Number, b.e.Number))
		})
		like := 0
		for _, w := range want {
			if w.points == want[0].points {
				like++
			}
		}
		var names []string
		for _, w := range want[:min(a.Limit, len(want))] {
			names = append(names, w.e.Number)
		}
		best, n := x.Best(a)
		var got []string
		for _, e := range best {
			got = append(got, e.Number)
		}
		assert.Equal(t, names, got, "%+v %s %s %v", a.Drawers, size, tol, out)
		assert.Equal(t, like, n)
		if len(names) > 1 {
			several++
		}
	}
	assert.Greater(t, several, rounds(100))
}

func TestWalkingFindsWhatIsThere(t *testing.T) {
	x, all := worn(t)
	count := map[string]int{}
	for _, e := range all {
		count[e.Drawer]++
	}
	assert.Equal(t, count, x.CountByDrawer())
	for _, drawer := range []string{"", "chip-resistors", "nowhere"} {
		n := 0
		x.Each(drawer, func(e *Entry) bool {
			assert.True(t, drawer == "" || e.Drawer == drawer)
			n++
			return true
		})
		if drawer == "" {
			assert.Equal(t, len(all), n)
		} else {
			assert.Equal(t, count[drawer], n)
		}
	}
	n := 0
	x.Each("", func(*Entry) bool { n++; return n < 3 })
	assert.Equal(t, 3, n, "it ends where it is told to")
	assert.Len(t, x.Some([]string{"nowhere", "mosfets"}, 4), 4)
	assert.Len(t, x.Some([]string{"mosfets"}, 1000), count["mosfets"])
	assert.Empty(t, x.Some([]string{"mosfets"}, 0))
}

func TestPartsThatAreAlikeAreThoseWithTheSameValues(t *testing.T) {
	x, all := worn(t)
	keys := []string{"resistance", "tolerance", "power", "case"}
	some := 0
	for _, e := range all {
		values := map[string]cabinet.Value{}
		for _, k := range keys {
			values[k] = e.Value(k)
		}
		var want []string
		for _, o := range all {
			same := o.Drawer == e.Drawer && o.ID != e.ID
			for _, k := range keys {
				same = same && o.Value(k) == values[k]
			}
			if same {
				want = append(want, o.Number)
			}
		}
		if e.Drawer != "chip-resistors" {
			continue
		}
		got := x.Alike(e.Drawer, keys, values, e.ID, 100)
		assert.ElementsMatch(t, want, got, e.Number)
		if len(want) > 1 {
			some++
			assert.Len(t, x.Alike(e.Drawer, keys, values, e.ID, 1), 1)
		}
	}
	assert.Positive(t, some)
	assert.Empty(t, x.Alike("chip-resistors", keys, map[string]cabinet.Value{}, "", 10), "what says nothing is like nothing")
	assert.Empty(t, x.Alike("nowhere", keys, map[string]cabinet.Value{"case": {Type: cabinet.Text, Text: "0402"}}, "", 10))
	assert.Empty(t, x.Alike("chip-resistors", keys, map[string]cabinet.Value{"case": {Type: cabinet.Text, Text: "9999"}}, "", 10))
}

func TestCompletenessCountsWhatWasRead(t *testing.T) {
	x, all := worn(t)
	odd := NewEntry(part.Content{Drawer: "chip-resistors", Values: map[string]cabinet.Value{"resistance": {Type: cabinet.Raw, Text: "ten"}, "case": {Type: cabinet.Text, Text: "0402"}}})
	odd.ID, odd.Number, odd.Version = "odd", "FH-09999", 1
	x.Put(odd)
	want := map[string]int{"case": 1}
	n := 1
	for _, e := range all {
		if e.Drawer != "chip-resistors" {
			continue
		}
		n++
		for _, k := range []string{"resistance", "tolerance", "power", "case"} {
			if !e.Value(k).IsBlank() {
				want[k]++
			}
		}
	}
	parts, incomplete, filled := x.Completeness("chip-resistors")
	assert.Equal(t, n, parts)
	assert.Equal(t, 1, incomplete, "the one whose value was never read")
	for k, v := range want {
		assert.Equal(t, v, filled[k], k)
	}
	up, _, _ := x.Completeness("resistors")
	assert.Equal(t, n, up, "what lies inside a drawer counts in it")
	none, _, filled := x.Completeness("nowhere")
	assert.Zero(t, none)
	assert.Empty(t, filled)
}

func TestRowsSayWhatTheirPartsSay(t *testing.T) {
	x, all := worn(t)
	var ids []string
	for _, e := range all[:20] {
		ids = append(ids, e.ID)
	}
	rows := x.Rows(append([]string{"nobody"}, ids...), 0)
	require.Len(t, rows, 20)
	for i, r := range rows {
		e, ok := x.ByID(ids[i])
		require.True(t, ok)
		one := e.Row()
		assert.Equal(t, one.Number, r.Number)
		assert.ElementsMatch(t, one.Values, r.Values)
		assert.Equal(t, fmt.Sprint(one.Status, one.Standing, one.Use, one.Flag, one.Label, one.Revision, one.Missing, one.Sources, one.MPN), fmt.Sprint(r.Status, r.Standing, r.Use, r.Flag, r.Label, r.Revision, r.Missing, r.Sources, r.MPN))
		for _, v := range r.Values {
			assert.Equal(t, v.Text, r.Values.Get(v.Key))
		}
		assert.Empty(t, r.Values.Get("nothing"))
		raw, err := json.Marshal(r.Values)
		require.NoError(t, err)
		var back Shown
		require.NoError(t, json.Unmarshal(raw, &back))
		assert.ElementsMatch(t, r.Values, back)
	}
	var s Shown
	assert.Error(t, json.Unmarshal([]byte("[1]"), &s))
}
