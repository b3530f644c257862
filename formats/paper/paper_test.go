package paper

import (
	"bytes"
	"fmt"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/formats/pdf"
)

var day = time.Date(2026, 11, 29, 12, 0, 0, 0, time.UTC)

func written(t *testing.T, s Sheet) []byte {
	t.Helper()
	s.Made = day
	var out bytes.Buffer
	require.NoError(t, Write(&out, s))
	return out.Bytes()
}

func pages(raw []byte) int { return len(regexp.MustCompile(`/Type /Page\b[^s]`).FindAll(raw, -1)) }

func TestASheetIsTheSameBytesEachTime(t *testing.T) {
	s := Sheet{Title: "Tide logger revision 1", Says: []string{"first build"}, Table: [][]string{{"Part", "Qty"}, {"EW-R-1", "4"}}, Right: map[int]bool{1: true}}
	assert.Equal(t, written(t, s), written(t, s))
	assert.True(t, bytes.HasPrefix(written(t, s), []byte("%PDF-1.")))
}

// All that stands in a table stands on its pages, however long a cell is, and the headings on each.
func TestNothingIsCutOff(t *testing.T) {
	table := [][]string{{"Designators", "Description", "Findings"}}
	for n := range 120 {
		table = append(table, []string{fmt.Sprintf("R%d", n), "RES 4.7 kΩ ±1 % 0603", ""})
	}
	long := []string{}
	for n := range 900 {
		long = append(long, fmt.Sprintf("word%d", n))
	}
	table[60][2] = strings.Join(long, " ")
	table[61][0] = strings.Repeat("X", 400) // without a blank
	raw := written(t, Sheet{Title: "Review", Table: table})
	assert.Greater(t, pages(raw), 3)
	text := pdfText(t, raw)
	for _, want := range append(long, "R0", "R119", "4.7 kΩ ±1 %") {
		require.Contains(t, text, want)
	}
	assert.GreaterOrEqual(t, strings.Count(text, "Designators"), pages(raw))
	assert.Contains(t, text, fmt.Sprintf("page 1 of %d", pages(raw)))
	assert.Equal(t, 400, strings.Count(text, "X"))
}

func TestWhatTheFontHasNotIsABox(t *testing.T) {
	assert.Equal(t, "10 µF ≤ 16 V × 2 — Größe □□ a b", legible("10 µF ≤ 16 V × 2 — Größe 実装 a\nb"))
	assert.Contains(t, pdfText(t, written(t, Sheet{Title: "Empty"})), "Nothing is on it.")
}

// pdfText is what a reader finds on the pages.
func pdfText(t *testing.T, raw []byte) string {
	t.Helper()
	all, err := pdf.Text(t.Context(), bytes.NewReader(raw))
	require.NoError(t, err)
	return strings.Join(all, "\f")
}

func TestRoomIsSharedAmongColumns(t *testing.T) {
	for name, c := range map[string]struct{ parts, least, want []float64 }{
		"by their parts":                 {[]float64{1, 3}, []float64{5, 5}, []float64{25, 75}},
		"but none has less than it must": {[]float64{1, 3}, []float64{40, 5}, []float64{40, 60}},
		"one after the other":            {[]float64{1, 4, 5}, []float64{30, 35, 1}, []float64{30, 35, 35}},
		"too little for all":             {[]float64{1, 1}, []float64{150, 50}, []float64{75, 25}},
	} {
		got := shared(100, c.parts, c.least)
		for i := range got {
			assert.InDelta(t, c.want[i], got[i], 1e-9, name)
		}
	}
}
