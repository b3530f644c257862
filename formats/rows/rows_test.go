package rows

import (
	"strings"
	"testing"

	"jollydrawer/core/measure/measuretest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestFindHeaderPassesTitlesBy(t *testing.T) {
	for name, c := range map[string]struct {
		sample [][]string
		want   int
	}{
		"at the top":                {[][]string{{"MPN", "Maker"}, {"A", "B"}}, 0},
		"under titles":              {[][]string{{"Price list"}, {"", ""}, {"MPN", "Maker", "Value"}, {"A", "B", "1"}}, 2},
		"a header fuller than rows": {[][]string{{"T"}, {"a", "b", "c", "d", "e"}, {"x", "y", "", "", ""}, {"x", "", "z", "", ""}}, 1},
		"rows of numbers have none": {[][]string{{"1", "2"}, {"3", "4"}}, -1},
		"nothing":                   {nil, -1},
		"one column":                {[][]string{{"MPN"}, {"A"}, {"B"}}, 0},
	} {
		assert.Equal(t, c.want, FindHeader(c.sample), name)
	}
}

func TestHeadersAreMadeUnambiguous(t *testing.T) {
	h, err := CheckHeader([]string{" Value ", "Value", "", "a\n b", "", ""}, DefaultLimits)
	require.NoError(t, err)
	assert.Equal(t, []string{"Value", "Value (2)", "(column 3)", "a b"}, h)
	_, err = CheckHeader(make([]string, 3), DefaultLimits)
	assert.ErrorContains(t, err, "no header")
	_, err = CheckHeader(strings.Split(strings.Repeat("x,", 3000), ","), DefaultLimits)
	assert.ErrorContains(t, err, "at most 2000")
	_, err = CheckHeader([]string{strings.Repeat("x", 300)}, DefaultLimits)
	assert.ErrorContains(t, err, "not a header row")
}

func TestRowsOfTheWrongShapeAreNamed(t *testing.T) {
	for problem, cells := range map[string][]string{
		"":                       {"a", "b", "", " "},
		"2 cells more":           {"a", "b", "c", "d"},
		"a quote is not closed":  {"a\nb"},
		"at most 10 can be read": {"a", strings.Repeat("x", 11)},
	} {
		r := Row{Cells: cells}
		CheckRow(&r, 2, Limits{Cell: 10})
		if problem == "" {
			assert.Empty(t, r.Problem)
		} else {
			assert.Contains(t, r.Problem, problem)
		}
	}
}

func TestNoCellRunsAsAFormula(t *testing.T) {
	for in, want := range map[string]string{"": "", "4k7": "4k7", "=1+1": "'=1+1", "+cmd": "'+cmd", "-5": "-5", "-40 to 85 °C": "'-40 to 85 °C", "@x": "'@x", "\tx": "'\tx", "+5,5": "+5,5", "=5": "'=5", "-": "'-"} {
		assert.Equal(t, want, SafeCell(in), in)
	}
}

// What was made harmless is read as what it was, whatever it was, and is harmless once more.
func TestWhatWasMadeHarmlessIsReadAsItWas(t *testing.T) {
	d := &measuretest.Draws{State: 11}
	const letters = "'''=+-@\t\r\n0.,5aΩ "
	all := []rune(letters)
	for range 20_000 {
		var b strings.Builder
		for range d.IntN(6) {
			b.WriteRune(all[d.IntN(len(all))])
		}
		s := b.String()
		safe := SafeCell(s)
		assert.Equal(t, s, AsWritten(safe), "%q as %q", s, safe)
		if plain := strings.Trim(safe, "+-.,0123456789") == "" && len(safe) > 1; !plain && safe != "" {
			assert.NotContains(t, "=+-@\t\r\n", safe[:1], "%q as %q", s, safe)
		}
	}
	assert.Equal(t, "'tis", AsWritten("'tis"), "no apostrophe but ours goes")
}
