package lookup

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// ofSeries is a part of some series.
func ofSeries(number, ohms, mpn string, series ...string) *Entry {
	e := entry(number, ohms, "0805", mpn)
	e.Series = series
	return e
}

// Parts are found by the series that they are of, however its name is written, beside other facts, and by a word that names none as before.
func TestPartsAreFoundByTheirSeries(t *testing.T) {
	x := New()
	x.Put(ofSeries("R-1", "4.7 kΩ", "TW-0805-4K7", "TW-0805"), ofSeries("R-2", "10 kΩ", "TW-0805-10K", "TW-0805", "House pick"), ofSeries("R-3", "10 kΩ", "QX-1", "QX"), ofSeries("R-4", "1 kΩ", "Q-9"))
	ask := func(want map[string][]string) {
		t.Helper()
		for q, numbersWanted := range want {
			assert.Equal(t, numbersWanted, numbers(x.Search(Query{Text: q})), q)
		}
	}
	ask(map[string][]string{
		"series TW-0805": {"R-1", "R-2"}, "series tw 0805": {"R-1", "R-2"}, "SERIES: tw0805": {"R-1", "R-2"}, "tw-0805 series": {"R-1", "R-2"}, "TW 0805 series": {"R-1", "R-2"}, `series "TW-0805"`: {"R-1", "R-2"},
		"series house pick": {"R-2"}, "house pick series": {"R-2"}, "series TW-0805 10k": {"R-2"}, "10k series TW-0805": {"R-2"}, "not series TW-0805": {"R-3", "R-4"}, "series QX or series TW-0805": {"R-1", "R-2", "R-3"},
		"series QX series TW-0805": nil, "series nobody": nil, "series": nil, "10k": {"R-2", "R-3"},
	})
	assert.Equal(t, "of the series “TW-0805”", x.Search(Query{Text: "series tw0805"}).Facts[0].As)

	// One leaves a series, one part goes, and a part of the same number comes again without any.
	x.Put(ofSeries("R-2", "10 kΩ", "TW-0805-10K", "House pick"))
	x.Remove("R-3")
	ask(map[string][]string{"series TW-0805": {"R-1"}, "series house pick": {"R-2"}, "series QX": nil})
	one, ok := x.ByNumber("R-2")
	require.True(t, ok)
	assert.Equal(t, []string{"House pick"}, one.Series)

	var b bytes.Buffer
	require.NoError(t, x.Save(&b, Mark{Position: 3}))
	y := New()
	_, err := y.Load(&b, func(Mark) bool { return true })
	require.NoError(t, err)
	x = y
	ask(map[string][]string{"series TW-0805": {"R-1"}, "series house pick": {"R-2"}, "series QX": nil})
}

// Whatever is asked about series is answered: the word at the end, alone, doubled, with marks and negations, in a library with a series of that
// very word.
func TestQuestionsAboutSeriesAreAlwaysAnswered(t *testing.T) {
	x := New()
	x.Put(ofSeries("R-1", "4.7 kΩ", "A-1", "Series", "1k", "or", "TW series"), ofSeries("R-2", "1 kΩ", "A-2", "1k"))
	words := []string{"series", "Series:", "TW", "1k", "or", "not", ">", "4k7", `"series"`, ",", "and", "no", "series series"}
	for n := range len(words) * len(words) * len(words) {
		q := strings.Join([]string{words[n%len(words)], words[n/len(words)%len(words)], words[n/len(words)/len(words)]}, " ")
		a := x.Search(Query{Text: q})
		assert.LessOrEqual(t, a.Total, 2, q)
		for _, f := range a.Facts {
			assert.NotEmpty(t, f.As, q)
		}
	}
	assert.Equal(t, []string{"R-1", "R-2"}, numbers(x.Search(Query{Text: "series 1k"})), "the series, not the value")
	assert.Equal(t, []string{"R-1"}, numbers(x.Search(Query{Text: "series series"})))
	for n := range 200 {
		x.Put(ofSeries(fmt.Sprint("S-", n), "1 kΩ", fmt.Sprint("B-", n), fmt.Sprint("N", n%7)))
	}
	assert.Len(t, numbers(x.Search(Query{Text: "series n3", Limit: 500})), 29)
}
