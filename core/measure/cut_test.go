package measure_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"jollydrawer/core/measure"
	"jollydrawer/core/measure/measuretest"
)

// A text may end anywhere: each beginning of each text, alone and with what opens a piece and leaves it open, is answered,
// and what is read of it accounts for all of it.
func TestATextMayEndAnywhere(t *testing.T) {
	for _, class := range measuretest.Classes() {
		maker := measuretest.New(9)
		for range rounds() / 50 {
			made := maker.Make(class)
			for cut := range made.Text {
				for _, end := range []string{"", "(", "( )", "(\u00a0)", "±", "+", "-", "@", "at", " at ", "when ", "/", "(±)", "(+)", "(@)", "(at)", "max", ","} {
					text := made.Text[:cut] + end
					var tally measure.Tally
					r := measure.Parse(text, measure.Options{Of: made.Of, Tally: &tally})
					if r.Outcome == measure.Read {
						at := 0
						for _, p := range tally.Pieces(text) {
							assert.NotContains(t, "0123456789", firstOf(text[at:p.From]), "%q: %q is left out", text, text[at:p.From])
							at = p.To
						}
						assert.NotContains(t, "0123456789", firstOf(text[at:]), "%q: %q is left out", text, text[at:])
					}
					measure.Facts(text, measure.Options{})
				}
			}
		}
	}
}

// firstOf gives the first digit of a text, or a mark that is none.
func firstOf(text string) string {
	for _, r := range text {
		if r >= '0' && r <= '9' {
			return string(r)
		}
	}
	return "no digit"
}
