package crosswalk

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/measure/measuretest"
)

func TestALayoutIsToldByItsHeadings(t *testing.T) {
	resistors := Crosswalk{Supplier: "Quay", Layout: "Resistors", Headings: []string{"MPN", "Maker", "Text", "R", "Tol", "Power", "Stock"},
		Take: Take{MPN: "MPN", Manufacturer: "Maker"}, Fields: []Rule{{From: "R", To: "resistance"}, {From: "Tol", To: "tolerance"}}}
	byHand := Crosswalk{Supplier: "Quay", Take: Take{MPN: "Part", Manufacturer: "Brand"}, Fields: []Rule{{Combine: "{L} x {W}", To: "size"}}, Sorting: []Sorting{{Condition: Condition{Field: "Family", Filled: true}, Drawer: "x"}}}
	empty := Crosswalk{Supplier: "Quay", Layout: "empty"}
	all := []Crosswalk{resistors, byHand, empty, {Supplier: "Other", Take: Take{MPN: "MPN"}}}
	for _, c := range []struct {
		name   string
		header []string
		want   string
	}{
		{"the same headings", resistors.Headings, "Quay: Resistors"},
		{"in another order", []string{"Stock", "Power", "Tol", "R", "Text", "Maker", "MPN"}, "Quay: Resistors"},
		{"one more column", append(slices.Clone(resistors.Headings), "Price"), "Quay: Resistors"},
		{"two columns less that nobody reads", []string{"MPN", "Maker", "R", "Tol", "Text"}, "Quay: Resistors"},
		{"one column renamed", []string{"MPN", "Maker", "Text", "R", "Tolerance", "Power", "Stock"}, "Quay: Resistors"},
		{"a sheet beside it", []string{"MPN", "Maker", "Text", "C", "Tol", "Volt", "Stock"}, ""},
		{"all that is read, in a file of other things", []string{"MPN", "Maker", "R", "Tol", "A", "B", "C", "D", "E", "F"}, ""},
		{"a document that no file was seen of", []string{"Part", "Brand", "L", "W", "Family", "X"}, "Quay"},
		{"a short file of it", []string{"Part", "Brand", "L"}, "Quay"},
		{"half of it beside as much that is new", []string{"Part", "Brand", "L", "X", "Y", "Z"}, ""},
		{"a short file of the layout", []string{"MPN", "Maker", "R"}, "Quay: Resistors"},
		{"nothing of any", []string{"a", "b"}, ""},
		{"no header", nil, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, ok := ForHeader(all, "Quay", c.header)
			assert.Equal(t, c.want != "", ok)
			if ok {
				assert.Equal(t, c.want, got.Number())
			}
		})
	}
	assert.Equal(t, []string{"Quay", "Quay: Resistors", "Quay: empty"}, OfSupplier(all, "Quay"))
}

func TestANewLayoutKeepsWhatHoldsForTheSupplier(t *testing.T) {
	one := Crosswalk{Supplier: "Quay", Manufacturers: map[string]string{"TW": "Tidewright"}, Kinds: map[string]string{"Res": "resistors", "X": "a"}, Take: Take{MPN: "MPN"}, DecimalMark: "comma"}
	two := Crosswalk{Supplier: "Quay", Layout: "layout 2", Kinds: map[string]string{"Cap": "capacitors", "X": "b"}}
	got := NewLayout([]Crosswalk{one, two}, "Quay", "")
	assert.Equal(t, "Quay: layout 3", got.Number())
	assert.Equal(t, map[string]string{"TW": "Tidewright"}, got.Manufacturers)
	assert.Equal(t, map[string]string{"Res": "resistors", "Cap": "capacitors"}, got.Kinds, "what two layouts say otherwise is said by neither")
	assert.Empty(t, got.Take)
	assert.Empty(t, got.DecimalMark)
	assert.Equal(t, "Quay: Caps", NewLayout([]Crosswalk{one, two}, "Quay", "Caps").Number())
	assert.Equal(t, "Quay: layout 3", NewLayout([]Crosswalk{one, two}, "Quay", "layout 2").Number(), "a name that is taken is not used")
	assert.Equal(t, "Pier", NewLayout([]Crosswalk{one}, "Pier", "Sheet1").Number(), "the first layout is the supplier's")
	assert.Equal(t, "Quay: Caps: layout 2", NewLayout([]Crosswalk{one, {Supplier: "Quay", Layout: "Caps"}}, "Quay: Caps", "").Number(), "nor the number of another supplier's")
}

// Layouts of made suppliers: each file finds the crosswalk of its own layout, whatever columns were added, dropped that nobody reads, or
// moved, and files of layouts that were never seen find none.
func TestFilesFindTheirLayout(t *testing.T) {
	for seed := range uint64(200) {
		d := &measuretest.Draws{State: seed}
		shared := []string{"MPN", "Maker", "Text", "Link"}[:2+d.IntN(3)]
		var all []Crosswalk
		layout := func(n int) Crosswalk {
			c := Crosswalk{Supplier: "Quay", Layout: fmt.Sprint("l", n), Headings: slices.Clone(shared), Take: Take{MPN: "MPN", Manufacturer: "Maker"}}
			for k := range 6 + d.IntN(10) {
				f := fmt.Sprintf("p%d-%d", n, k)
				c.Headings = append(c.Headings, f)
				if d.IntN(2) == 0 {
					c.Fields = append(c.Fields, Rule{From: f, To: "x"})
				}
			}
			return c
		}
		for n := range 2 + d.IntN(4) {
			all = append(all, layout(n))
		}
		for _, c := range all {
			h := slices.Clone(c.Headings)
			used := c.Used()
			if i := slices.IndexFunc(h, func(f string) bool { return !slices.Contains(used, f) }); i >= 0 && d.IntN(2) == 0 {
				h = slices.Delete(h, i, i+1)
			}
			if d.IntN(2) == 0 {
				h = append(h, "new")
			}
			for i := len(h) - 1; i > 0; i-- {
				j := d.IntN(i + 1)
				h[i], h[j] = h[j], h[i]
			}
			got, ok := ForHeader(all, "Quay", h)
			require.True(t, ok, "seed %d, %s: %v", seed, c.Layout, h)
			require.Equal(t, c.Layout, got.Layout, "seed %d", seed)
		}
		_, ok := ForHeader(all, "Quay", layout(99).Headings)
		require.False(t, ok, "seed %d: a layout that was never seen", seed)
	}
}
