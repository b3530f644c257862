package answers

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/lookup"
	"jollydrawer/core/money"
)

// Answers are sorted, filtered and counted as the library is: by the size of a value, by what the pieces cost in one currency.
func TestAnswersAreNarrowedAsTheLibraryIs(t *testing.T) {
	rates := money.Rates{Format: money.RatesFormat, House: "EUR", Rates: []money.Rate{{One: "GBP", Is: "2", Of: "EUR", On: "2026-01-01"}}}
	merge := func() Merged {
		m := Merge([]Answer{
			answer(t, "Quay", said("A", "1k", "1%", "0805", sold("q1", 500, "0.30", "EUR")), said("B", "220R", "5%", "0603", sold("q2", 0, "0.10", "EUR")), said("C", "47k", "1%", "0805", sold("q3", 900, "", ""))),
			answer(t, "Finch", said("D", "1M", "1%", "0402", sold("f1", 200, "0.12", "GBP")), said("A", "1k", "1%", "0805", sold("f2", 100, "0.40", "EUR"))),
		}, "", nobody)
		Order(m.Rows, 10, Limits{}, rates, "2026-11-28")
		return m
	}
	names := func(m Merged) (out []string) {
		for _, r := range m.Rows {
			out = append(out, r.MPN)
		}
		return out
	}
	first := names(merge())
	for _, c := range []struct {
		name   string
		q      lookup.Query
		want   []string
		hidden int
	}{
		{"as they are", lookup.Query{}, first, 0},
		{"by size", lookup.Query{Sort: []lookup.Order{{Key: "resistance"}}}, []string{"B", "A", "C", "D"}, 0},
		{"largest first", lookup.Query{Sort: []lookup.Order{{Key: "resistance", Down: true}}}, []string{"D", "C", "A", "B"}, 0},
		{"by price in one currency", lookup.Query{Sort: []lookup.Order{{Key: "offer.price"}}, Pieces: 10}, []string{"B", "D", "A", "C"}, 0},
		{"by stock, of two suppliers together", lookup.Query{Sort: []lookup.Order{{Key: "offer.stock", Down: true}}}, []string{"C", "A", "D", "B"}, 0},
		{"only a case", lookup.Query{Filters: map[string][]string{"case": {"0805"}}, Sort: []lookup.Order{{Key: "resistance"}}}, []string{"A", "C"}, 2},
		{"only what is there", lookup.Query{Filters: map[string][]string{"offer.stock": {"201.."}}, Sort: []lookup.Order{{Key: "resistance"}}}, []string{"A", "C"}, 2},
		{"nothing is left", lookup.Query{Filters: map[string][]string{"case": {"1206"}}}, []string{}, 4},
	} {
		m := merge()
		hidden := m.Narrow(c.q, rates, "2026-11-28").Hidden
		assert.Equal(t, c.want, append([]string{}, names(m)...), c.name)
		assert.Equal(t, c.hidden, hidden, c.name)
	}
	m := merge()
	m.Narrow(lookup.Query{Filters: map[string][]string{"offer.stock": {"1.."}}}, rates, "2026-11-28")
	var left []string
	for _, n := range first {
		if n != "B" {
			left = append(left, n)
		}
	}
	assert.Equal(t, left, names(m), "a filter keeps the order of what fits")
	m = merge()
	n := m.Narrow(lookup.Query{Filters: map[string][]string{"case": {"0805"}}}, rates, "2026-11-28")
	assert.Equal(t, map[string]int{"chip-resistors": 2}, n.Drawers)
	found := false
	for _, f := range n.Facets {
		require.NotContains(t, []string{"status", "standing", "missing"}, f.Key)
		if f.Key == "case" {
			found = true
			assert.ElementsMatch(t, []lookup.FacetValue{{Value: "0805", Parts: 2}, {Value: "0402", Parts: 1}, {Value: "0603", Parts: 1}}, f.Values, "counted without its own filter")
		}
	}
	assert.True(t, found)
	var none Merged
	assert.Equal(t, Narrowed{Facets: []lookup.Facet{}, Drawers: map[string]int{}}, none.Narrow(lookup.Query{Sort: []lookup.Order{{Key: "case"}}}, rates, "2026-11-28"))
}
