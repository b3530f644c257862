package lookup

import (
	"bytes"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

// shop is an index over the starter cabinet with a handful of parts: drawer, values, MPN.
func shop(t testing.TB) *Index {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	x := New()
	x.SetCabinet(cab)
	for i, p := range []struct{ drawer, values, mpn string }{
		{"chip-resistors", "resistance=4k7|tolerance=1%|power=125 mW|case=0805", "TW-0805-4K7"},
		{"chip-resistors", "resistance=4k7|tolerance=5%|power=100 mW|case=0603", "TW-0603-4K7"},
		{"chip-resistors", "resistance=47k|tolerance=1%|power=125 mW|case=0805", "TW-0805-47K"},
		{"chip-resistors", "resistance=220R|tolerance=0.1%|power=250 mW|case=1206", "TW-1206-220"},
		{"ceramic-capacitors", "capacitance=100n|voltage-rating=50V|dielectric=X7R|case=0603|tolerance=10%", "SH-603-104"},
		{"ceramic-capacitors", "capacitance=100n|voltage-rating=16V|dielectric=X5R|case=0402", "SH-402-104"},
		{"ceramic-capacitors", "capacitance=4.7uF|voltage-rating=25V|dielectric=X7R|case=1206", "SH-1206-475"},
		{"schottky-diodes", "current-rating=3A|reverse-voltage=40V|forward-voltage=500 mV|case=SMC", "WD-S340"},
		{"rectifier-diodes", "current-rating=3A|reverse-voltage=1kV|case=SMC", "WD-R3K"},
		{"regulators", "output-voltage=3.3V|current-rating=500mA|supply-voltage=2.7 to 5.5 V|case=SOT-23-5", "OD-L33"},
		{"connectors", "", ""},
	} {
		tpl, _ := cab.Template(p.drawer)
		c := part.Content{Drawer: p.drawer, Values: map[string]cabinet.Value{}}
		for _, kv := range strings.Split(p.values, "|") {
			k, v, ok := strings.Cut(kv, "=")
			if slot, has := tpl.Slot(k); ok && has {
				val, problem := slot.Read(v, measure.Options{})
				require.Nil(t, problem, kv)
				c.Values[k] = val
			}
		}
		c.Description = tpl.Describe(c.Values)
		if p.mpn != "" {
			c.Sources = []part.Source{{Manufacturer: map[byte]string{'T': "Tidewright", 'S': "Shearwater", 'W': "Wadewright", 'O': "Oystercatch"}[p.mpn[0]], MPN: p.mpn}}
			c.Datasheets = []part.File{{Name: "x"}}
		}
		e := NewEntry(c)
		e.ID, e.Number, e.Version, e.Status, e.Standing = fmt.Sprint("id", i), fmt.Sprintf("P-%d", i+1), 1, lifecycle.Released, lifecycle.Active
		if i == 1 {
			e.Standing = lifecycle.Obsolete
		}
		x.Put(e)
	}
	return x
}

func TestFactsAreReadTheWayPeopleAsk(t *testing.T) {
	x := shop(t)
	for q, want := range map[string]string{
		"4k7 0805 1%": "P-1", "4k7/0805/1%": "P-1", "4.7K 0805": "P-1", "4.7 kΩ": "P-1 P-2", "100n x7r 50v": "P-5", "schottky 3A": "P-8", "diode 3A": "P-8 P-9", "TW-0805": "P-1 P-3", "P-4": "P-4", "wd-s340": "P-8",
		"cap >=25 V": "P-5 P-7", "10..200 nF": "P-5 P-6", "voltage rating >= 25 V": "P-5 P-7", "resistance < 1k": "P-4", "not 1% res": "P-2 P-4", "res not 0805": "P-2 P-4",
		"standing:obsolete": "P-2", "not obsolete res": "P-1 P-3 P-4", "manufacturer:shearwater 100n": "P-5 P-6", "drawer:capacitors x7r": "P-5 P-7", "dielectric:x5r": "P-6",
		"has no datasheet": "P-11", "incomplete": "P-11", "complete diode": "P-8 P-9", "no tolerance cap": "P-6 P-7", "has tolerance cap": "P-5", "tolerance <= 1%": "P-1 P-3 P-4", "\"SOT-23-5\"": "P-10",
		"3.3V": "P-10", "5V": "P-10", "supply voltage 3 V": "P-10", "3A 1kV": "P-9", "4k7 and 0603": "P-2", "power >= 0.125W res": "P-1 P-3 P-4", "case=0603": "P-2 P-5", "smd 220R": "P-4", "ohm nonsense": "", "cap 0603": "P-5", "case 0402": "P-6", "cap 4.7uF": "P-7",
	} {
		var got []string
		for _, e := range x.Search(Query{Text: q}).Rows {
			got = append(got, e.Number)
		}
		assert.Equal(t, want, strings.Join(got, " "), "%s: %+v", q, x.Search(Query{Text: q}).Facts)
	}
}

func TestHowAFactWasReadIsSaidAndCanBeChanged(t *testing.T) {
	x := shop(t)
	a := x.Search(Query{Text: "100n"})
	require.Len(t, a.Facts, 1)
	assert.Equal(t, "100 nF", a.Facts[0].As)
	assert.Equal(t, []Reading{{"100 nF", "100 nF"}, {"100 nH", "100 nH"}}, a.Facts[0].Options)
	a = x.Search(Query{Text: ">= 4k7 >="})
	assert.Equal(t, []string{"≥ 4.7 kΩ", "a comparison without a value; it was left out"}, []string{a.Facts[0].As, a.Facts[1].As})
	assert.Equal(t, 3, a.Total, "what makes no sense is left out, the rest is answered")
}

func TestNearMissesSayWhatToRelax(t *testing.T) {
	x := shop(t)
	a := x.Search(Query{Text: "4k7 1206 1%"})
	assert.Zero(t, a.Total)
	require.NotEmpty(t, a.Relax)
	assert.Equal(t, Relaxation{Fact: "1206", Write: "4k7 1%", As: "without “1206” (Case)", Parts: 1}, a.Relax[0])
	a = x.Search(Query{Text: "4k8 0805"})
	assert.Contains(t, a.Relax, Relaxation{Fact: "4k8", Write: "0805 4.7 kΩ", As: "with 4.7 kΩ instead of 4.8 kΩ", Parts: 1})
}

func TestFacetsCountEveryParameterTogether(t *testing.T) {
	x := shop(t)
	facet := func(a Answer, key string) map[string]int {
		out := map[string]int{}
		for _, f := range a.Facets {
			if f.Key == key {
				for _, v := range f.Values {
					out[v.Value] = v.Parts
				}
				out[""] = f.Blank
			}
		}
		return out
	}
	a := x.Search(Query{Facets: true, Filters: map[string][]string{"drawer": {"resistors"}, "tolerance": {"±1 %"}}})
	assert.Equal(t, 2, a.Total)
	assert.Equal(t, 9, a.Hidden, "seven of other drawers, two of other tolerances")
	assert.Equal(t, map[string]int{"±1 %": 2, "±5 %": 1, "±0.1 %": 1, "": 0}, facet(a, "tolerance"), "a facet counts under all filters but its own")
	assert.Equal(t, map[string]int{"0805": 2, "": 0}, facet(a, "case"))
	assert.Equal(t, 2, a.Drawers["chip-resistors"])
	assert.Equal(t, 1, x.Search(Query{Filters: map[string][]string{"resistance": {"100 Ω .. 1 kΩ"}}}).Total)
	assert.Equal(t, 4, x.Search(Query{Filters: map[string][]string{"case": {"0805", "0603"}, "status": {"released"}}}).Total)
	assert.Equal(t, 1, x.Search(Query{Filters: map[string][]string{"missing": {"datasheet"}}}).Total)
	assert.Zero(t, x.Search(Query{Filters: map[string][]string{"case": {"no such"}}}).Total)
}

func TestGroupsComeBeforeTheSorting(t *testing.T) {
	x := shop(t)
	a := x.Search(Query{Text: "res", Group: "case", Sort: []Order{{Key: "resistance", Down: true}}})
	assert.Equal(t, []FacetValue{{"0603", 1}, {"0805", 2}, {"1206", 1}}, a.Groups)
	assert.Equal(t, []string{"P-2", "P-3", "P-1", "P-4"}, numbers(a))
}

func TestMergedAndFormerNumbersLeadToTheSurvivor(t *testing.T) {
	x := shop(t)
	gone, _ := x.ByNumber("P-2")
	keep, _ := x.ByNumber("P-1")
	g, k := *gone, *keep
	g.Gone, g.Version = true, 2
	k.Former, k.Version = []string{"P-2", "OLD 17"}, 2
	x.Put(&g, &k)
	for _, n := range []string{"P-2", "old 17", "P-1"} {
		e, ok := x.ByNumber(n)
		require.True(t, ok)
		assert.Equal(t, "P-1", e.Number)
	}
	assert.Equal(t, 10, x.Len())
	assert.Equal(t, []string{"P-1"}, numbers(x.Search(Query{Text: "P-2"})))
	assert.Equal(t, 3, x.CountByDrawer()["chip-resistors"])
}

func FuzzQuery(f *testing.F) {
	x := shop(f)
	for _, s := range []string{"4k7 0805 1%", "not not", ">= 5 V <", "tolerance:", "\"", "a..b 1..2 V", "has no", "\xff: = 3"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		a := x.Search(Query{Text: s, Facets: true, Group: s, Sort: []Order{{Key: s}}, Filters: map[string][]string{"case": {s}}})
		if a.Total+a.Hidden > x.Len() {
			t.Fatalf("%q finds more parts than there are", s)
		}
	})
}

func TestASnapshotAnswersAsTheIndexDoes(t *testing.T) {
	x := shop(t)
	gone, _ := x.ByNumber("P-2")
	g := *gone
	g.Former, g.Version = []string{"OLD-2"}, 2
	x.Put(&g)
	var b bytes.Buffer
	require.NoError(t, x.Save(&b, Mark{Position: 7, Deed: "d", Cabinet: "c"}))
	raw := b.Bytes()
	y := New()
	y.SetCabinet(x.cab)
	m, err := y.Load(bytes.NewReader(raw), func(m Mark) bool { return m.Cabinet == "c" })
	require.NoError(t, err)
	assert.Equal(t, Mark{7, "d", "c"}, m)
	for _, q := range []Query{{Text: "4k7", Facets: true}, {Text: "old-2"}, {Text: "SH-603"}, {Text: "cap >=25V", Group: "case", Facets: true}, {Sort: []Order{{Key: "resistance", Down: true}}}} {
		assert.Equal(t, x.Search(q), y.Search(q), q.Text)
	}
	add := g
	add.ID, add.Number, add.Former = "new", "P-99", nil
	y.Put(&add)
	assert.Equal(t, x.Len()+1, y.Len(), "a loaded index takes further parts")
	_, err = New().Load(bytes.NewReader(raw), func(Mark) bool { return false })
	assert.ErrorIs(t, err, ErrSnapshot)
	for cut := 0; cut < len(raw); cut += 997 {
		z := New()
		_, err := z.Load(bytes.NewReader(raw[:cut]), func(Mark) bool { return true })
		assert.ErrorIs(t, err, ErrSnapshot)
		assert.Zero(t, z.Len())
	}
}

func TestFiltersSortingAndPagesAnswerAsAPlainListWould(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	tpl, _ := cab.Template("chip-resistors")
	rapid.Check(t, func(t *rapid.T) {
		x := New()
		x.SetCabinet(cab)
		var plain []*Entry
		for i := range rapid.IntRange(1, 150).Draw(t, "parts") {
			c := part.Content{Drawer: "chip-resistors", Values: map[string]cabinet.Value{}}
			for key, texts := range map[string][]string{"resistance": {"1k", "220R", "4k7", "1M", ""}, "case": {"0402", "0805", ""}, "tolerance": {"1%", "5%"}} {
				slot, _ := tpl.Slot(key)
				if v, _ := slot.Read(rapid.SampledFrom(texts).Draw(t, key), measure.Options{}); !v.IsBlank() {
					c.Values[key] = v
				}
			}
			e := NewEntry(c)
			e.ID, e.Number, e.Version, e.Status, e.Standing = fmt.Sprint("id", i), fmt.Sprintf("R-%d", i), 1, lifecycle.Draft, lifecycle.Active
			x.Put(e)
			plain = append(plain, e)
		}
		filters := map[string][]string{}
		if rapid.Bool().Draw(t, "by case") {
			filters["case"] = []string{rapid.SampledFrom([]string{"0402", "-", "0805"}).Draw(t, "chosen")}
		}
		if rapid.Bool().Draw(t, "by size") {
			filters["resistance"] = []string{"200 Ω .. 5 kΩ"}
		}
		down := rapid.Bool().Draw(t, "down")
		var want []*Entry
		for _, e := range plain {
			fits := true
			if c := filters["case"]; c != nil {
				fits = e.Value("case").Text == strings.Trim(c[0], "-")
			}
			if filters["resistance"] != nil {
				v := e.Value("resistance").Measure.Value()
				fits = fits && v.Cmp(measure.Whole(200)) >= 0 && v.Cmp(measure.Whole(5000)) <= 0
			}
			if fits {
				want = append(want, e)
			}
		}
		slices.SortStableFunc(want, func(a, b *Entry) int {
			va, vb := a.Value("resistance"), b.Value("resistance")
			c := compareValues(va, vb)
			if down && !va.IsBlank() && !vb.IsBlank() {
				c = -c
			}
			return c
		})
		q := Query{Filters: filters, Sort: []Order{{Key: "resistance", Down: down}}, Offset: rapid.IntRange(0, 40).Draw(t, "offset"), Limit: rapid.IntRange(1, 40).Draw(t, "limit"), Facets: true}
		a := x.Search(q)
		require.Equal(t, len(want), a.Total)
		require.Equal(t, len(plain)-len(want), a.Hidden)
		page := want[min(q.Offset, len(want)):min(q.Offset+q.Limit, len(want))]
		require.Len(t, a.Rows, len(page))
		for i := range page {
			require.Equal(t, page[i].Number, a.Rows[i].Number)
		}
		require.Len(t, x.IDs(q, 1000), len(want))
	})
}

func TestAMemberOfSeveralWordsIsAFilter(t *testing.T) {
	x := New()
	x.Put([]*Entry{{ID: "1", Number: "A", Missing: []string{"symbol", "land pattern"}, Sources: []part.Source{{Manufacturer: "Salt Marsh", MPN: "1"}, {Manufacturer: "Tide Water", MPN: "2"}}},
		{ID: "2", Number: "B", Missing: []string{"land pattern"}}, {ID: "3", Number: "C", Missing: []string{"symbol"}}}...)
	for filter, want := range map[[2]string]int{{"missing", "land pattern"}: 2, {"missing", "symbol"}: 2, {"missing", "land"}: 0, {"manufacturer", "Tide Water"}: 1, {"manufacturer", "Tide"}: 0} {
		assert.Equal(t, want, x.Search(Query{Filters: map[string][]string{filter[0]: {filter[1]}}}).Total, filter)
	}
}

// A name and its number in one word are a fact; a word that something is called stays that.
func TestANameWithItsNumberInOneWord(t *testing.T) {
	cab, err := cabinet.New(cabinet.Document{Format: cabinet.Format, Parameters: []cabinet.Parameter{{Key: "size", Label: "Nominal size", Type: cabinet.Number, Synonyms: []string{"DN"}}, {Key: "pressure", Label: "Pressure", Type: cabinet.Measure, Of: "pressure", Synonyms: []string{"PN"}}},
		Drawers: []cabinet.Drawer{{Key: "valves", Label: "Valves", Prefix: "V", Digits: 5, Parameters: []cabinet.Use{{Key: "size"}, {Key: "pressure"}}}}})
	require.NoError(t, err)
	x := New()
	x.SetCabinet(cab)
	for i, size := range []int64{20, 25, 20} {
		e := NewEntry(part.Content{Drawer: "valves", Values: map[string]cabinet.Value{"size": {Type: cabinet.Number, Number: size}}, Sources: []part.Source{{Manufacturer: "M", MPN: []string{"A", "B", "DN25"}[i]}}})
		e.ID, e.Number, e.Version = fmt.Sprint(i), fmt.Sprintf("V-%d", i), 1
		x.Put(e)
	}
	for q, want := range map[string][]string{"DN20": {"V-0", "V-2"}, "dn20": {"V-0", "V-2"}, "DN 20": {"V-0", "V-2"}, "not DN20": {"V-1"}, "DN25": {"V-2"}, "DN99": nil, "PN16": nil, "20DN": nil, "DN20x": nil} {
		assert.Equal(t, want, numbers(x.Search(Query{Text: q})), q)
	}
}
