package series_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func file(t *testing.T, h housetest.House, name string) part.File {
	t.Helper()
	f, err := h.Files.Keep(t.Context(), h.Me, name, strings.NewReader("%PDF-1.4 "+name))
	require.NoError(t, err)
	return part.File{Hash: f.Hash, Name: name}
}

func found(h housetest.House, text string) (out []string) {
	h.Level()
	for _, r := range h.Index.Search(lookup.Query{Text: text, Limit: 100}).Rows {
		out = append(out, r.Number)
	}
	return out
}

// Parts are of a series by their part numbers: nothing of their content changes, they are found by it, have its datasheet, and say so; a part
// that comes later with a member's number is of it from its first moment.
func TestPartsAreOfASeriesByTheirPartNumbers(t *testing.T) {
	h := housetest.Open(t)
	var numbers []string
	before := map[string]wire.Part{}
	for n := range 4 {
		p := h.Make(housetest.Rated(fmt.Sprint(n+1, "k"), fmt.Sprintf("TW-9-%dK", n+1)))
		numbers, before[p.Number] = append(numbers, p.Number), p
	}
	sheet := file(t, h, "tw9.pdf")
	s, err := h.Series.Make(t.Context(), h.Me, wire.SeriesEdit{Manufacturer: "Tidewright", Name: "TW-9", Members: []string{"TW-9-1K", "tw 9 2k", "TW-9-77K"}, Datasheets: []part.File{sheet}})
	require.NoError(t, err)
	assert.Equal(t, "Tidewright: TW-9", s.Number)
	assert.Equal(t, 2, s.Total)
	assert.Equal(t, []string{"TW-9-77K"}, s.Absent)
	for _, q := range []string{"series TW-9", "TW-9 series", "series: tw 9", "Series tw9"} {
		assert.ElementsMatch(t, numbers[:2], found(h, q), q)
	}
	assert.Empty(t, found(h, "not series TW-9 TW-9-1K"))
	assert.Equal(t, numbers[1:2], found(h, "series TW-9 2k"))
	for i, n := range numbers {
		p, err := h.Parts.Get(t.Context(), h.Me, n)
		require.NoError(t, err)
		assert.Equal(t, before[n].Draft.Hash, p.Draft.Hash, "its content is what it was")
		assert.Equal(t, before[n].Version, p.Version, "whoever edits it is not disturbed")
		var causes []string
		for _, f := range p.Draft.Findings {
			causes = append(causes, f.Cause)
		}
		if i < 2 {
			require.Len(t, p.Series, 1)
			assert.Equal(t, []part.File{sheet}, p.Series[0].Datasheets)
			assert.NotContains(t, causes, "no-datasheet", "the series has one")
		} else {
			assert.Empty(t, p.Series)
			assert.Contains(t, causes, "no-datasheet")
		}
	}
	late := h.Make(housetest.Rated("77k", "TW-9-77K"))
	assert.Len(t, late.Series, 1)
	assert.ElementsMatch(t, append([]string{late.Number}, numbers[:2]...), found(h, "series TW-9"))

	in := s.Said
	in.Name, in.Members = "TW-9 F", []string{"TW-9-2K", "TW-9-3K", "TW-9-77K"}
	s, err = h.Series.Edit(t.Context(), h.Me, s.Number, s.Version, in)
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{numbers[1], numbers[2], late.Number}, found(h, "series TW-9F"))
	trail, err := h.Parts.Trail(t.Context(), h.Me, numbers[0], 0, 10)
	require.NoError(t, err)
	assert.Equal(t, []string{"taken out of a series", "put into a series", "made"}, []string{trail.Items[0].Action, trail.Items[1].Action, trail.Items[2].Action})
	_, err = h.Series.Edit(t.Context(), h.Me, s.ID, s.Version-1, in)
	housetest.Fails(t, err, "changed-meanwhile")
}

func TestASourceIsInOneSeries(t *testing.T) {
	h := housetest.Open(t)
	_, err := h.Series.Make(t.Context(), h.Me, wire.SeriesEdit{Manufacturer: "Tidewright", Name: "A1", Members: []string{"X-1", "X-2"}})
	require.NoError(t, err)
	_, err = h.Series.Make(t.Context(), h.Me, wire.SeriesEdit{Manufacturer: "Tidewright Ltd", Name: "B1", Members: []string{"X-3", "x2"}})
	assert.Contains(t, housetest.Fails(t, err, "in-series").Error(), "x2 is in the series Tidewright: A1")
	_, err = h.Series.Make(t.Context(), h.Me, wire.SeriesEdit{Manufacturer: "Tidewright", Name: "A1", Members: []string{"X-9"}})
	housetest.Fails(t, err, "series-taken")
	_, err = h.Series.Make(t.Context(), h.Me, wire.SeriesEdit{Manufacturer: "TIDEWRIGHT Ltd.", Name: "a-1", Members: []string{"X-9"}})
	assert.Contains(t, housetest.Fails(t, err, "series-taken").Error(), "There is a series Tidewright: A1 already")
	_, err = h.Series.Make(t.Context(), h.Me, wire.SeriesEdit{Manufacturer: "Tidewright", Name: "C1", Datasheets: []part.File{{Hash: strings.Repeat("ab", 32), Name: "no.pdf"}}})
	housetest.Fails(t, err, "series-wrong")
	_, err = h.Series.Make(t.Context(), h.As("rita", deed.Reader), wire.SeriesEdit{Manufacturer: "Tidewright", Name: "D1"})
	housetest.Fails(t, err, "not-allowed")
	_, err = h.Series.Get(t.Context(), h.Me, "Nobody: A1")
	housetest.Fails(t, err, "not-found")
	l, err := h.Series.List(t.Context(), h.Me, 0, 10)
	require.NoError(t, err)
	require.Len(t, l.Items, 1)
	assert.Equal(t, 2, l.Items[0].Members)

	// Two instances give one source to two series at the same moment: one has it.
	beside := h.Beside()
	var won sync.Map
	var both sync.WaitGroup
	for i, at := range []housetest.House{h, beside} {
		both.Go(func() {
			_, err := at.Series.Make(t.Context(), h.Me, wire.SeriesEdit{Manufacturer: "Tidewright", Name: fmt.Sprint("R", i), Members: []string{"RACE-1"}})
			won.Store(i, err == nil)
		})
	}
	both.Wait()
	a, _ := won.Load(0)
	b, _ := won.Load(1)
	assert.NotEqual(t, a, b)
}

func TestSeriesAreProposedFromWhatPartsSay(t *testing.T) {
	h := housetest.Open(t)
	shared := file(t, h, "quay.pdf")
	for n := range 3 {
		e := housetest.Rated(fmt.Sprint(n+1, "k"), fmt.Sprintf("QY%d-%c", 40+n, 'A'+rune(n)))
		e.Datasheets = []part.File{shared}
		h.Make(e)
	}
	for n := range 3 {
		h.Make(housetest.Rated(fmt.Sprint(n+1, "k"), fmt.Sprintf("LEE-%d", n)))
	}
	h.Make(housetest.Rated("5k", "ALONE-5"))
	l, err := h.Series.Proposals(t.Context(), h.Me, "", 0, 10)
	require.NoError(t, err)
	got := map[string]string{}
	for _, p := range l.Items {
		got[p.Number()] = strings.Join(p.Members, " ") + ": " + p.Why
	}
	assert.Equal(t, map[string]string{"Tidewright: QY": "QY40-A QY41-B QY42-C: the parts of 3 part numbers have the datasheet quay.pdf in common", "Tidewright: LEE": "LEE-0 LEE-1 LEE-2: 3 part numbers begin with LEE"}, got)
	none, err := h.Series.Proposals(t.Context(), h.Me, "Nobody", 0, 10)
	require.NoError(t, err)
	assert.Empty(t, none.Items)
	_, err = h.Series.Make(t.Context(), h.Me, wire.SeriesEdit(l.Items[0].Content))
	require.NoError(t, err)
	l, err = h.Series.Proposals(t.Context(), h.Me, "", 0, 10)
	require.NoError(t, err)
	assert.Len(t, l.Items, 1, "what is in a series is not proposed again")
}
