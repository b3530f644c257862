package measure_test

import (
	"fmt"
	"os"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	. "jollydrawer/core/measure"
	"jollydrawer/core/measure/measuretest"
)

// rounds is how many texts of each class are tried; JOLLY_SOAK makes it a hundred times as many.
func rounds() int {
	if n, err := strconv.Atoi(os.Getenv("JOLLY_SOAK")); err == nil && n > 0 {
		return 3000 * n
	}
	if testing.Short() { // as for every mistake of make mutants
		return 600
	}
	return 3000
}

func TestMadeTextsAreReadAsWhatTheyWereMadeFromOrDoubted(t *testing.T) {
	for _, class := range measuretest.Classes() {
		t.Run(class, func(t *testing.T) {
			maker := measuretest.New(uint64(len(class)))
			wrong, clear, read := 0, 0, 0
			unread := ""
			for range rounds() {
				made := maker.Make(class)
				var tally Tally
				r := Parse(made.Text, Options{Of: made.Of, Mark: made.Mark, Tally: &tally})
				if r.Outcome == Read && (made.Never || r.Measure != made.Want) {
					if wrong++; wrong < 12 {
						assert.Fail(t, "wrong", "%q (%s) was read as %s (%+v), and means %s (%+v) %v", made.Text, made.Of, r.Measure, r.Measure, made.Want, made.Want, tally)
					}
				}
				if made.Clear {
					clear++
					if r.Outcome == Read {
						read++
					} else if len(unread) < 1500 {
						unread += fmt.Sprintf("%q (%s): %s %v\n", made.Text, made.Of, r.Why, r.Possible)
					}
				}
			}
			t.Logf("values, %-26s %5d made: %d wrong, %d of %d clear ones read", class, rounds(), wrong, read, clear)
			require.Zero(t, wrong)
			if clear > 0 {
				assert.GreaterOrEqual(t, float64(read)/float64(clear), 0.97, "of %d clear texts %d were read; not read were\n%s", clear, read, unread)
			}
		})
	}
}
