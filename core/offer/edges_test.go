package offer

import (
	"math"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/money"
)

// A name or number is kept as a person would copy it: whatever cannot be seen is a blank, blanks are single and nowhere at the ends.
func TestTextsAreTidied(t *testing.T) {
	for text, want := range map[string]string{"TW-1": "TW-1", " TW-1": "TW-1", "TW-1 ": "TW-1", "a  b": "a b", "a\tb": "a b", "a\u00a0b": "a b", "a\x00b": "a b", "a\x7fb": "a b", "a~b": "a~b", "a b": "a b", "\ufffdx": "x", "Größe": "Größe", "": "", " ": "", "\n": "",
		strings.Repeat("x", 200): strings.Repeat("x", 200), strings.Repeat("x", 201): strings.Repeat("x", 200), strings.Repeat("é", 201): strings.Repeat("é", 200)} {
		assert.Equal(t, want, tidied(text), "%q", text)
	}
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringOfN(rapid.RuneFrom([]rune(" \t\n\x00\x7fab~!é\u00a0\ufffd")), 0, 12, -1).Draw(t, "text")
		plain := strings.Join(strings.FieldsFunc(text, func(r rune) bool { return r <= ' ' || r == 0x7f || r == '\ufffd' || unicode.IsSpace(r) }), " ")
		require.Equal(t, plain, tidied(text))
	})
}

func TestCountsToTheEdge(t *testing.T) {
	for _, c := range []struct {
		text string
		n    int64
		ok   bool
	}{{"1000000000", most, true}, {"1.000.000.000", most, true}, {"1000000001", -1, false}, {"9999999999999999999999", -1, false}, {"999999999", 999_999_999, true}, {"", -1, true}, {"x", -1, false}, {"1.5", -1, false}, {"1000.000.000", -1, false}, {".000", -1, false}} {
		n, _, err := Count(c.text, money.Unsaid)
		assert.Equal(t, c.ok, err == nil, "%q: %v", c.text, err)
		assert.Equal(t, c.n, n, "%q", c.text)
	}
	for text, want := range map[string]int{"": -1, "x": -1, "3 fortnights": -1, "0 days": 0, "9999 d": 9999} {
		days, _ := lead(text, "days")
		assert.Equal(t, want, days, "%q", text)
	}
}

func TestWhatBothSayIsWhatTheFirstSays(t *testing.T) {
	n := func(n int64) *int64 { return &n }
	d := func(n int) *int { return &n }
	price := func(s string) []Break { return []Break{{From: 1, Price: money.Must(s, "EUR")}} }
	all := Offer{Number: "1", Packing: "reel", Manufacturer: "A", MPN: "A-1", Stock: n(5), AtLeast: true, Minimum: 10, Multiple: 5, LeadDays: d(7), Breaks: price("0.10"), State: "active", Until: "2027-01-01"}
	other := Offer{Number: "1", Packing: "tape", Manufacturer: "B", MPN: "B-1", Stock: n(6), Minimum: 20, Multiple: 6, LeadDays: d(8), Breaks: price("0.20"), State: "ends", Until: "2027-02-02", Problems: []string{"No."}}
	got := all.With(other)
	assert.Equal(t, []string{"No."}, got.Problems)
	got.Problems = nil
	assert.Equal(t, all, got)
	assert.Equal(t, all, Offer{Number: "1"}.With(all), "what it does not say is the other's")
}

func TestTheLeastMinimumOfTwo(t *testing.T) {
	for _, c := range []struct{ a, b, want int64 }{{0, 0, 0}, {0, 5, 5}, {5, 0, 5}, {5, 9, 5}, {9, 5, 5}, {5, 5, 5}} {
		assert.Equal(t, c.want, Join(Offer{Minimum: c.a}, Offer{Minimum: c.b}).Minimum, "%v", c)
	}
	d := func(n int) *int { return &n }
	assert.Equal(t, 9, *Join(Offer{LeadDays: d(5)}, Offer{LeadDays: d(9)}).LeadDays, "the longer")
	assert.Equal(t, 9, *Join(Offer{LeadDays: d(9)}, Offer{LeadDays: d(5)}).LeadDays)
	assert.Equal(t, 9, *Join(Offer{LeadDays: d(9)}, Offer{}).LeadDays)
	assert.Equal(t, "2027-01-01", Join(Offer{Until: "2027-02-02"}, Offer{Until: "2027-01-01"}).Until, "the earlier")
	assert.Equal(t, "2027-01-01", Join(Offer{Until: "2027-01-01"}, Offer{}).Until)
}

func TestAStateThatIsNotUnderstoodMatters(t *testing.T) {
	for _, c := range []struct {
		before, after string
		matters       bool
	}{{"active", "in production", false}, {"active", "obsolete", true}, {"active", "in its own words", true}, {"in its own words", "", false}, {"in its own words", "active", true}, {"odd", "odder", true}, {"active", "", true}} {
		got := Changes(Offer{State: c.before}, Offer{State: c.after}, Care{})
		require.Len(t, got, 1, "%v", c)
		assert.Equal(t, c.matters, got[0].Matters, "%v", c)
	}
}

func TestASumTooLargeIsNone(t *testing.T) {
	for _, c := range []struct {
		thousand, q int64
		want        int64
		ok          bool
	}{{1000, 1, 1, true}, {1499, 1, 1, true}, {1500, 1, 2, true}, {0, 5, 0, true}, {math.MaxInt64, 1, 0, false}, {math.MaxInt64 - 499, 1, 0, false}, {math.MaxInt64 - 500, 1, 0, true}, {math.MaxInt64/2 + 1, 2, 0, false}, {math.MaxInt64 / 10, 11, 0, false}} {
		got, ok := times(c.thousand, c.q)
		assert.Equal(t, c.ok, ok, "%v", c)
		if c.thousand < math.MaxInt64/2 {
			assert.Equal(t, c.want, got, "%v", c)
		}
	}
}
