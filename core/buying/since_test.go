package buying

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/measure/measuretest"
)

func TestWhatABuildWouldComeToNowIsSaid(t *testing.T) {
	marsh := func(in int64, minimum int64, price string) Offered {
		return of("Marsh Lane", stock(in), minimum, 1, "EUR", "1", price)
	}
	other := marsh(1000, 1, "0.10")
	other.MPN = "TW-1-TR"
	reel := marsh(1000, 1, "0.10")
	reel.Number = "Marsh Lane-1R"
	ended := marsh(1000, 1, "0.10")
	ended.Gone = true
	was := marsh(1000, 1, "0.10")
	for name, c := range map[string]struct {
		was, now []Offered
		says     string
	}{
		"as it was":              {[]Offered{was}, []Offered{was}, ""},
		"dearer":                 {[]Offered{was}, []Offered{marsh(1000, 1, "0.12")}, "a piece is 0.12 EUR, and was 0.10 EUR"},
		"a minimum":              {[]Offered{was}, []Offered{marsh(1000, 500, "0.10")}, "500 are paid, and 40 were"},
		"too little":             {[]Offered{was}, []Offered{marsh(39, 1, "0.10")}, "Marsh Lane has 39, and 40 are bought"},
		"enough again":           {[]Offered{marsh(39, 1, "0.10")}, []Offered{was}, "there is enough of it now"},
		"less, and still enough": {[]Offered{was}, []Offered{marsh(40, 1, "0.10")}, ""},
		"another supplier":       {[]Offered{was}, []Offered{was, of("Creek", stock(1000), 1, 1, "EUR", "1", "0.08")}, "it would be bought from Creek at 0.08 EUR, and was from Marsh Lane at 0.10 EUR"},
		"another source":         {[]Offered{was}, []Offered{other}, "it would be Tidewright TW-1-TR at 0.10 EUR, and was Tidewright TW-1 at 0.10 EUR"},
		"another packing":        {[]Offered{was}, []Offered{reel}, "it would be bought as Marsh Lane-1R at 0.10 EUR, and was as Marsh Lane-1 at 0.10 EUR"},
		"nobody any more":        {[]Offered{was}, []Offered{ended}, "it cannot be bought now: Marsh Lane does not have it any more; it was bought from Marsh Lane"},
		"somebody now":           {nil, []Offered{was}, "Marsh Lane has it now, at 0.10 EUR; it could not be bought then"},
		"nobody ever":            {nil, nil, ""},
	} {
		got := SinceThen(Plan([]Wanted{want("R-1", 4, c.was...)}, 10, terms), Plan([]Wanted{want("R-1", 4, c.now...)}, 10, terms))
		var says []string
		for _, ch := range got.Changes {
			assert.Equal(t, "R-1", ch.Number, name)
			says = append(says, ch.Says...)
		}
		assert.Equal(t, c.says, strings.Join(says, "; "), name)
	}
}

func TestAPartThatWasMergedAwayIsFoundByItsPlaces(t *testing.T) {
	was, now := want("R-1", 1, of("Creek", nil, 1, 1, "EUR", "1", "0.10")), want("R-2", 1, of("Creek", nil, 1, 1, "EUR", "1", "0.20"))
	was.Designators, now.Designators = []string{"R1", "R2"}, []string{"R1", "R2"}
	got := SinceThen(Plan([]Wanted{was}, 1, terms), Plan([]Wanted{now}, 1, terms))
	assert.Equal(t, []Otherwise{{"R-1", "R-1", []string{"R1", "R2"}, []string{"a piece is 0.20 EUR, and was 0.10 EUR"}}}, got.Changes)
}

// TestNothingIsOtherwiseOnTheSameDay lays made builds beside themselves, and beside such of which one price rose: that is said, and nothing else.
func TestNothingIsOtherwiseOnTheSameDay(t *testing.T) {
	d := &measuretest.Draws{State: 11}
	for range 200 {
		all := made(d, 8, 3)
		for i := range all {
			all[i].Part, all[i].Number = strings.Repeat("p", i+1), strings.Repeat("p", i+1)
		}
		was := Plan(all, 10, terms)
		require.Empty(t, SinceThen(was, Plan(all, 10, terms)).Changes)
		if len(was.Bought) == 0 {
			continue
		}
		at := d.IntN(len(was.Bought))
		now := was
		now.Bought = append([]Bought{}, was.Bought...)
		now.Bought[at].Each = "77 EUR"
		got := SinceThen(was, now)
		require.Len(t, got.Changes, 1)
		require.Equal(t, []any{was.Bought[at].Part, []string{"a piece is 77 EUR, and was " + was.Bought[at].Each}}, []any{got.Changes[0].Part, got.Changes[0].Says})
	}
}
