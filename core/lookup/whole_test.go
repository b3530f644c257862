package lookup

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure/measuretest"
	"jollydrawer/core/part"
)

// Whole numbers are asked for in words, signs and ranges, as measures are: in the box and as a filter.
func TestWholeNumbersAreAskedForAsMeasuresAre(t *testing.T) {
	cab, err := cabinet.New(cabinet.Document{Format: cabinet.Format, Parameters: []cabinet.Parameter{{Key: "positions", Label: "Positions", Type: cabinet.Number}},
		Drawers: []cabinet.Drawer{{Key: "headers", Label: "Headers", Prefix: "H-", Digits: 3, Parameters: []cabinet.Use{{Key: "positions"}}}}})
	require.NoError(t, err)
	x := New()
	x.SetCabinet(cab)
	const most = 40
	for n := int64(1); n <= most; n++ {
		e := NewEntry(part.Content{Drawer: "headers", Values: map[string]cabinet.Value{"positions": {Type: cabinet.Number, Number: n}}})
		e.ID, e.Number = fmt.Sprint("id", n), fmt.Sprintf("H-%03d", n)
		x.Put(e)
	}
	at := func(text string, ok func(n, a, b int) bool) struct {
		text string
		ok   func(n, a, b int) bool
	} {
		return struct {
			text string
			ok   func(n, a, b int) bool
		}{text, ok}
	}
	is := func(n, a, _ int) bool { return n == a }
	least, most2 := func(n, a, _ int) bool { return n >= a }, func(n, a, _ int) bool { return n <= a }
	over, under := func(n, a, _ int) bool { return n > a }, func(n, a, _ int) bool { return n < a }
	within := func(n, a, b int) bool { return n >= a && n <= b }
	either := func(n, a, b int) bool { return n == a || n == b }
	ways := slices.Concat(
		[]struct {
			text string
			ok   func(n, a, b int) bool
		}{at("%[1]d", is), at("= %[1]d", is), at(":%[1]d", is), at("%[1]d…%[2]d", within), at("not %[1]d", func(n, a, b int) bool { return n != a }), at("!= %[1]d", func(n, a, b int) bool { return n != a }),
			at(">= %[1]d", least), at("≥ %[1]d", least), at(">=%[1]d", least), at("at least %[1]d", least), at("min %[1]d", least), at("min. %[1]d", least), at("%[1]d min", least), at("%[1]d or more", least),
			at("over %[1]d", over), at("more than %[1]d", over), at("above %[1]d", over), at("> %[1]d", over),
			at("<= %[1]d", most2), at("≤%[1]d", most2), at("at most %[1]d", most2), at("max %[1]d", most2), at("up to %[1]d", most2), at("%[1]d max", most2),
			at("under %[1]d", under), at("below %[1]d", under), at("less than %[1]d", under), at("< %[1]d", under),
			at("%[1]d..%[2]d", within), at("%[1]d .. %[2]d", within), at("%[1]d...%[2]d", within), at("%[1]d to %[2]d", within), at("%[1]d-%[2]d", within), at("%[1]d–%[2]d", within), at("%[1]d - %[2]d", within),
			at("between %[1]d and %[2]d", within), at("from %[1]d to %[2]d", within), at("%[1]d or %[2]d", either), at("%[1]d / %[2]d", either)})
	d := &measuretest.Draws{State: 3}
	for range 12 {
		a := d.IntN(most-2) + 2
		b := a + d.IntN(most-a+1)
		if a == b {
			continue
		}
		for text, want := range map[string]int{fmt.Sprint(a, ".."): most - a + 1, fmt.Sprint("..", a): a} {
			assert.Equal(t, want, x.Search(Query{Filters: map[string][]string{"positions": {text}}}).Total, text)
		}
		for _, w := range ways {
			want := 0
			for n := 1; n <= most; n++ {
				if w.ok(n, a, b) {
					want++
				}
			}
			text := strings.NewReplacer("%[1]d", fmt.Sprint(a), "%[2]d", fmt.Sprint(b)).Replace(w.text)
			got := x.Search(Query{Text: strings.Replace("positions "+text, " :", ":", 1), Limit: most})
			assert.Equal(t, want, got.Total, "positions %s: %v", text, got.Facts)
			switch w.text[0] {
			case '=', ':', '!', 'n':
			default:
				if w.text[0] != '>' && w.text[0] != '<' {
					got = x.Search(Query{Filters: map[string][]string{"positions": {text}}, Limit: most})
					assert.Equal(t, want, got.Total, "filter %s", text)
				}
			}
		}
	}
	for _, text := range []string{"4 mm", "4 V..6 V", ">= many", "4%"} { // what brings a unit along is no number
		if got := x.Search(Query{Text: "positions " + text, Limit: 1}); text != ">= many" {
			assert.Zero(t, got.Total, "%s: %v", text, got.Facts)
		} else {
			assert.Equal(t, "skipped", got.Facts[0].Kind)
		}
		assert.Zero(t, x.Search(Query{Filters: map[string][]string{"positions": {text}}}).Total, text)
	}
}
