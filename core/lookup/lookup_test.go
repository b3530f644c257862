package lookup

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

func entry(number, value, size, mpn string) *Entry {
	v := cabinet.Value{Type: cabinet.Raw, Text: value}
	if r := measure.Parse(value, measure.Options{}); r.Outcome == measure.Read {
		v = cabinet.Value{Type: cabinet.Measure, Measure: r.Measure}
	}
	e := NewEntry(part.Content{Drawer: "resistors", Description: "RES " + value + " " + size, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: mpn}},
		Values: map[string]cabinet.Value{"case": {Type: cabinet.Text, Text: size}, "resistance": v}})
	e.ID, e.Number, e.Status, e.Standing, e.Version = number, number, lifecycle.Draft, lifecycle.Active, 1
	return e
}

func numbers(a Answer) (out []string) {
	for _, e := range a.Rows {
		out = append(out, e.Number)
	}
	return out
}

func TestSearchReadsFactsTheWayPeopleAsk(t *testing.T) {
	x := New()
	x.Put(entry("R-1", "4.7 kΩ", "0805", "TW-0805-4K7"), entry("R-2", "4.7 kΩ", "0603", "TW-0603-4K7"), entry("R-3", "47 kΩ", "0805", "TW-0805-47K"), entry("R-4", "100 Ω", "0402", "TW-0402-100R"))
	for q, want := range map[string][]string{
		"4k7": {"R-1", "R-2"}, "4k7 0805": {"R-1"}, "4.7 kΩ 0805": {"R-1"}, "4700 ohm": {"R-1", "R-2"}, "R-3": {"R-3"}, "tw-0603": {"R-2"}, "TW08054K7": {"R-1"},
		"tidewright 0402": {"R-4"}, "nothing": nil, "": {"R-1", "R-2", "R-3", "R-4"}, "4k7 nothing": nil,
	} {
		a := x.Search(Query{Text: q})
		assert.Equal(t, want, numbers(a), q)
		assert.Equal(t, len(want), a.Total, q)
	}
	assert.Equal(t, "4.7 kΩ", x.Search(Query{Text: "4k7"}).Facts[0].As)
}

func TestMeasuresSortBySizeAndWhatHasNoneComesLast(t *testing.T) {
	x := New()
	x.Put(entry("R-1", "1 kΩ", "0805", "A"), entry("R-2", "220 Ω", "0805", "B"), entry("R-3", "unclear", "0805", "C"), entry("R-4", "1 MΩ", "0805", "D"))
	assert.Equal(t, []string{"R-2", "R-1", "R-4", "R-3"}, numbers(x.Search(Query{Sort: []Order{{Key: "resistance"}}})))
	assert.Equal(t, []string{"R-4", "R-1", "R-2", "R-3"}, numbers(x.Search(Query{Sort: []Order{{Key: "resistance", Down: true}}})))
	assert.Equal(t, []string{"R-4"}, numbers(x.Search(Query{Sort: []Order{{Key: "resistance"}}, Offset: 2, Limit: 1})))
}

func TestFiltersCountWhatTheyHide(t *testing.T) {
	x := New()
	gone := entry("R-2", "1 kΩ", "0805", "B")
	gone.Standing = lifecycle.Obsolete
	x.Put(entry("R-1", "1 kΩ", "0805", "A"), gone)
	a := x.Search(Query{Text: "1k", Facets: true, Filters: map[string][]string{"standing": {"active"}}})
	assert.Equal(t, []string{"R-1"}, numbers(a))
	assert.Equal(t, 1, a.Hidden)
	for _, f := range a.Facets {
		if f.Key == "standing" {
			assert.Equal(t, []FacetValue{{"active", 1}, {"obsolete", 1}}, f.Values, "a facet counts under all filters but its own")
		}
	}
}

func TestAnOlderEntryNeverReplacesANewerOne(t *testing.T) {
	x := New()
	newer, older := entry("R-1", "2 kΩ", "0805", "A"), entry("R-1", "1 kΩ", "0805", "A")
	newer.Version = 2
	x.Put(newer)
	x.Put(older)
	e, ok := x.ByNumber("r-1")
	require.True(t, ok)
	assert.Equal(t, 2, e.Version)
	assert.Equal(t, 1, x.Len())
}

func TestTheIndexAnswersAsAPlainListWould(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x, plain := New(), map[string]*Entry{}
		for n := range rapid.IntRange(1, 60).Draw(t, "writes") {
			e := entry(fmt.Sprintf("R-%d", rapid.IntRange(1, 15).Draw(t, "number")), fmt.Sprintf("%d Ω", rapid.IntRange(1, 9).Draw(t, "ohms")), "0805", fmt.Sprintf("M-%d", n))
			e.Version = n
			x.Put(e)
			plain[e.ID] = e
		}
		want := 0
		for _, e := range plain {
			if e.Value("resistance").Measure == measure.MustParse("5 Ω") {
				want++
			}
			_, ok := x.BySource(e.Sources[0].Key())
			require.True(t, ok)
		}
		require.Equal(t, want, x.Search(Query{Text: "5R", Limit: 1000}).Total)
		require.Equal(t, len(plain), x.Len())
		require.Len(t, x.Search(Query{Limit: 1000}).Rows, len(plain))
	})
}

// While the contents are built anew beside what is asked, others put entries: nothing is lost, doubled or stale afterwards, and
// what can be found meanwhile is whole.
func TestAReplacementBesideLosesNothingThatIsPutMeanwhile(t *testing.T) {
	cab := func(label string) *cabinet.Cabinet {
		c, err := cabinet.New(cabinet.Document{Format: cabinet.Format, Parameters: []cabinet.Parameter{{Key: "resistance", Label: label, Type: cabinet.Measure, Of: "resistance"}, {Key: "case", Label: "Case", Type: cabinet.Text}},
			Drawers: []cabinet.Drawer{{Key: "resistors", Label: "Resistors", Prefix: "R-X", Digits: 5, Parameters: []cabinet.Use{{Key: "resistance"}, {Key: "case"}}}}})
		require.NoError(t, err)
		return c
	}
	x := New()
	const parts, writers, rounds = 3000, 3, 6000
	for i := range parts {
		x.Put(entry(fmt.Sprintf("R-%d", i), fmt.Sprintf("%d Ω", i+1), "0805", fmt.Sprintf("M-%d", i)))
	}
	var wg sync.WaitGroup
	for w := range writers {
		wg.Go(func() {
			for n := range rounds / writers {
				i := (n*writers + w) % parts
				e := entry(fmt.Sprintf("R-%d", i), fmt.Sprintf("%d kΩ", i+1), "0603", fmt.Sprintf("M-%d", i))
				e.Version = 2 + n
				x.Put(e)
				if n%50 == 0 {
					a := x.Search(Query{Text: fmt.Sprintf("M-%d", i), Limit: 1})
					assert.Equal(t, 1, a.Total, "M-%d", i)
					assert.Equal(t, parts, x.Len())
				}
			}
		})
	}
	for n := range 5 {
		x.SetCabinet(cab(fmt.Sprint("Resistance ", n)))
	}
	for n := range 5 { // every second part is old news, or new ones come with a cabinet
		require.NoError(t, x.Renew(cab(fmt.Sprint("Ohms ", n)), func(yield func([]*Entry, error) bool) {
			for i := 0; i < parts; i += 2 {
				e := entry(fmt.Sprintf("R-%d", i), "1 Ω", "1206", fmt.Sprintf("M-%d", i))
				e.Version = 1
				if !yield([]*Entry{e}, nil) {
					return
				}
			}
		}))
	}
	wg.Wait()
	broken := errors.New("the line broke")
	require.ErrorIs(t, x.Renew(cab("none"), func(yield func([]*Entry, error) bool) {
		_ = yield([]*Entry{entry("R-0", "1 Ω", "1206", "M-0")}, nil) && yield(nil, broken)
	}), broken)
	assert.Equal(t, "Ohms 4", x.Cabinet().Document.Parameters[0].Label, "what cannot be read changes nothing")
	assert.Equal(t, parts, x.Len())
	a := x.Search(Query{Text: "0603", Limit: parts})
	assert.Equal(t, parts, a.Total, "every one is as it was put last")
	assert.Zero(t, x.Search(Query{Text: "0805"}).Total)
	seen := map[string]bool{}
	for _, r := range a.Rows {
		assert.False(t, seen[r.Number], "%s is there twice", r.Number)
		seen[r.Number] = true
	}
	e, ok := x.ByID("R-7")
	require.True(t, ok)
	assert.Equal(t, "8 kΩ", e.Values()["resistance"].String())
	x.Remove("R-7")
	_, ok = x.ByID("R-7")
	assert.False(t, ok)
	assert.Equal(t, parts-1, x.Len())
}

// Entries that come with a new cabinet take the place of those they replace, and what was put meanwhile stands, whichever is newer.
func TestRenewedEntriesStandWithWhatWasPutMeanwhile(t *testing.T) {
	x := New()
	for i := range 10 {
		x.Put(entry(fmt.Sprintf("R-%d", i), "10 kΩ", "0805", fmt.Sprintf("M-%d", i)))
	}
	answers := x.Answers()
	_, asked := answers.ByID("R-3")
	require.True(t, asked)
	put := func(i, version int, size string) {
		e := entry(fmt.Sprintf("R-%d", i), "10 kΩ", size, fmt.Sprintf("M-%d", i))
		e.Version = version
		x.Put(e)
	}
	fresh := func(i, version int) *Entry {
		e := entry(fmt.Sprintf("R-%d", i), "10 kΩ", "0603", fmt.Sprintf("M-%d", i))
		e.Version = version
		return e
	}
	require.NoError(t, x.Renew(nil, func(yield func([]*Entry, error) bool) {
		yield([]*Entry{fresh(0, 2), fresh(1, 2), fresh(2, 2), fresh(20, 1)}, nil)
		put(1, 3, "1206") // newer than what was read
		put(2, 1, "1206") // old news of another follower
		put(4, 2, "2512") // of no concern to the deed
		x.Remove("R-5")
		assert.Equal(t, "0805", x.mustCase(t, "R-0"), "nothing of it is seen before all is")
	}))
	for id, want := range map[string]string{"R-0": "0603", "R-1": "1206", "R-2": "0603", "R-3": "0805", "R-4": "2512", "R-20": "0603"} {
		assert.Equal(t, want, x.mustCase(t, id), id)
	}
	_, there := x.ByID("R-5")
	assert.False(t, there)
	assert.Equal(t, 10, x.Len())
	assert.False(t, answers.Hold(), "what changed at once is asked anew as a whole")
}

func (x *Index) mustCase(t *testing.T, id string) string {
	t.Helper()
	e, ok := x.ByID(id)
	require.True(t, ok, id)
	return e.Values()["case"].String()
}

// Nobody waits for somebody else who builds the contents anew: neither for the cabinet that is coming, nor to put an entry.
func TestNobodyWaitsForAReplacementBySomebodyElse(t *testing.T) {
	cab, err := cabinet.New(cabinet.Document{Format: cabinet.Format, Parameters: []cabinet.Parameter{{Key: "case", Label: "Case", Type: cabinet.Text}},
		Drawers: []cabinet.Drawer{{Key: "resistors", Label: "Resistors", Prefix: "R-X", Digits: 5, Parameters: []cabinet.Use{{Key: "case"}}}}})
	require.NoError(t, err)
	x := New()
	for i := range 2001 {
		x.Put(entry(fmt.Sprintf("R-%d", i), "10 kΩ", "0805", fmt.Sprintf("M-%d", i)))
	}
	require.NoError(t, x.Renew(cab, func(yield func([]*Entry, error) bool) {
		x.SetCabinet(cab) // this hangs where it waits
		for version := range 5 {
			for i := range 2001 {
				e := entry(fmt.Sprintf("R-%d", i), "10 kΩ", "0603", fmt.Sprintf("M-%d", i))
				e.Version = version + 2
				x.Put(e)
			}
		}
	}))
	assert.Same(t, cab, x.Cabinet())
	require.NoError(t, x.Renew(nil, func(func([]*Entry, error) bool) {}))
	assert.Same(t, cab, x.Cabinet(), "entries that come without a cabinet leave the one that is there, whenever it came")
	assert.Equal(t, 2001, x.Search(Query{Text: "0603", Limit: 1}).Total)
}

// Each gives every part that was there when it began once, whatever happens meanwhile.
func TestEachGivesEveryPartOnceWhateverIsPutMeanwhile(t *testing.T) {
	x := New()
	const parts = 300
	for i := range parts {
		x.Put(entry(fmt.Sprintf("R-%d", i), "10 kΩ", "0805", fmt.Sprintf("M-%d", i)))
	}
	given := map[string]int{}
	n := 0
	x.Each("", func(e *Entry) bool {
		given[e.ID]++
		n++
		switch i := n * 7 % parts; n % 4 {
		case 0:
			again := entry(fmt.Sprintf("R-%d", i), "22 kΩ", "0603", fmt.Sprintf("M-%d", i))
			again.Version = n
			x.Put(again, entry(fmt.Sprintf("R-%d", parts+n), "1 Ω", "0603", fmt.Sprintf("M-%d", parts+n)))
		case 1:
			x.Remove(fmt.Sprintf("R-%d", i))
		case 2:
			assert.NoError(t, x.Renew(nil, func(yield func([]*Entry, error) bool) {}))
		}
		return true
	})
	assert.Len(t, given, parts)
	for id, times := range given {
		assert.Equal(t, 1, times, id)
	}
	n = 0
	x.Each("", func(*Entry) bool { n++; return n < 3 })
	assert.Equal(t, 3, n, "until it is told to stop")
	x.Each("nowhere", func(*Entry) bool { t.Error("no part lies there"); return true })
}

// Holding counts as a walk through the entries does.
func TestHoldingCountsAsAWalkWould(t *testing.T) {
	x, all := worn(t)
	var drafted []string
	for i, e := range all {
		if i%5 == 0 && e.Revision > 0 {
			again := *e
			again.Version, again.HasDraft = 3, true
			x.Put(&again)
			drafted = append(drafted, e.ID)
		}
	}
	require.NotEmpty(t, drafted)
	for _, keys := range [][]string{{"resistance"}, {"resistance", "capacitance"}, {"tolerance"}, {"nowhere"}, {}} {
		want := Holding{}
		for _, e := range all {
			holds := slices.ContainsFunc(keys, func(k string) bool { v := e.Value(k); return !v.IsBlank() })
			switch {
			case slices.Contains(drafted, e.ID) || !holds:
			case e.Revision > 0:
				want.Released++
			default:
				want.Drafts++
			}
		}
		got := x.Holding(keys, 3)
		assert.Equal(t, []int{want.Released, want.Drafts}, []int{got.Released, got.Drafts}, "%v", keys)
		assert.ElementsMatch(t, drafted, got.Edited, "%v", keys)
		assert.Len(t, got.Some, min(3, want.Released+want.Drafts))
		for _, e := range got.Some {
			assert.True(t, slices.ContainsFunc(keys, func(k string) bool { v := e.Value(k); return !v.IsBlank() }), e.Number)
		}
	}
	assert.Positive(t, x.Holding([]string{"resistance"}, 0).Released)
	assert.Positive(t, x.Holding([]string{"resistance"}, 0).Drafts)
}

// Tolerances in per cent and in millionths stand in one column: one order, one filter, twins that find each other.
func TestTolerancesOfBothUnitsAreOneColumn(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		x := New()
		x.SetCabinet(cab)
		millionths := map[string]int64{}
		written := func(n int64) cabinet.Value {
			text := fmt.Sprintf("±%d.%04d %%", n/10_000, n%10_000)
			if rapid.Bool().Draw(t, "in millionths") {
				text = fmt.Sprintf("±%d ppm", n)
			}
			return cabinet.Value{Type: cabinet.Measure, Measure: measure.MustParse(text)}
		}
		some := []int64{10, 20, 100, 200, 1_000, 5_000, 10_000, 50_000}
		for i := range 20 {
			n, number := rapid.SampledFrom(some).Draw(t, "tolerance"), fmt.Sprintf("R-%02d", i)
			e := NewEntry(part.Content{Drawer: "chip-resistors", Values: map[string]cabinet.Value{"case": {Type: cabinet.Text, Text: "0805"}, "tolerance": written(n)}})
			e.ID, e.Number, e.Status, e.Standing, e.Version = number, number, lifecycle.Draft, lifecycle.Active, 1
			x.Put(e)
			millionths[number] = n
		}
		sorted := numbers(x.Search(Query{Sort: []Order{{Key: "tolerance"}}, Limit: 50}))
		require.Len(t, sorted, 20)
		assert.True(t, slices.IsSortedFunc(sorted, func(a, b string) int { return int(millionths[a] - millionths[b]) }), "%v", sorted)
		asked := rapid.SampledFrom(some).Draw(t, "asked")
		v := written(asked)
		var alike, most []string
		for _, number := range sorted {
			if millionths[number] == asked {
				alike = append(alike, number)
			}
			if millionths[number] <= asked {
				most = append(most, number)
			}
		}
		slices.Sort(alike)
		assert.Equal(t, alike, slices.Sorted(slices.Values(x.Alike("chip-resistors", []string{"tolerance"}, map[string]cabinet.Value{"tolerance": v}, "", 50))))
		assert.Equal(t, len(alike), x.Search(Query{Filters: map[string][]string{"tolerance": {v.String()}}}).Total)
		assert.Equal(t, len(most), x.Search(Query{Text: "tolerance <= " + strings.TrimPrefix(v.String(), "±")}).Total, v.String())
		like := x.Like("chip-resistors", []string{"tolerance", "case"})(func(key string) cabinet.Value {
			if key == "tolerance" {
				return v
			}
			return cabinet.Value{Type: cabinet.Text, Text: "0805"}
		})
		assert.Len(t, like, min(len(alike), maxLike))
	})
}

// Who looks for drafts finds what is being worked on: also the draft beside a released revision, which stays what it is.
func TestADraftBesideAReleasedRevisionIsADraft(t *testing.T) {
	x := New()
	first, second, third := entry("R-1", "1 kΩ", "0805", "A1"), entry("R-2", "2 kΩ", "0805", "A2"), entry("R-3", "3 kΩ", "0805", "A3")
	second.Status, third.Status, third.HasDraft = lifecycle.Released, lifecycle.Released, true
	x.Put(first, second, third)
	for status, want := range map[string][]string{"draft": {"R-1", "R-3"}, "released": {"R-2", "R-3"}} {
		a := x.Search(Query{Filters: map[string][]string{"status": {status}}, Limit: 10})
		assert.Equal(t, want, numbers(a), status)
	}
	rows := x.Search(Query{Limit: 10}).Rows
	require.Len(t, rows, 3)
	assert.Equal(t, []string{"draft", "released", "released"}, []string{rows[0].Status, rows[1].Status, rows[2].Status})
	back, ok := x.ByNumber("R-3")
	require.True(t, ok)
	assert.Equal(t, lifecycle.Released, back.Status)
	third.HasDraft, third.Version = false, 2 // released again
	x.Put(third)
	assert.Equal(t, []string{"R-1"}, numbers(x.Search(Query{Filters: map[string][]string{"status": {"draft"}}, Limit: 10})))
}
