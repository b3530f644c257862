package intake

import (
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/finding"
)

// promise matches what a way to mend says of an example: `: "12" becomes 12 Ω`.
var promise = regexp.MustCompile(`: ("(?:[^"\\]|\\.)*") becomes (.+)$`)

// odd are texts of columns, plain and doubtful, by parameter.
var oddTexts = map[string][]string{
	"resistance": {"4.700", "4,700 kΩ", "0,47", "4,7k", "1.000 kΩ", "12", "104", "4k7", "10 kΩ ±1 %", "chip 4.7 kΩ thick", "red", "1.000.000", "2,50 MΩ", "1k-2k"},
	"tolerance":  {"1", "1,0 %", "±1 %", "5.000 %", "J", "0,5", "+10/-20 %", "1.000", "two"},
	"power":      {"0,125 W", "0.125", "1.000 mW", "1/8", "62,5 mW", "250", "1,000 W", "weak"},
}

// What a way to mend promises of an example is what the intake then makes of it; and what a page shows of a rule's effect on rows is
// what the intake reads, whatever else stands in the column.
func TestMendsKeepWhatTheyPromise(t *testing.T) {
	promises, doubts := 0, 0
	rapid.Check(t, func(rt *rapid.T) {
		to := rapid.SampledFrom([]string{"resistance", "tolerance", "power"}).Draw(rt, "to")
		texts := rapid.SliceOfN(rapid.SampledFrom(oddTexts[to]), 1, 5).Draw(rt, "texts")
		heading := rapid.SampledFrom([]string{"V", "V/kΩ", "V (mW)", "V in %"}).Draw(rt, "heading")
		lines := []string{"Maker|MPN|" + heading}
		for i, text := range texts {
			lines = append(lines, "Tern|T-"+strconv.Itoa(i)+"|"+text)
		}
		rule := crosswalk.Rule{From: heading, To: to, Mark: rapid.SampledFrom([]string{"", "", "comma", "point"}).Draw(rt, "mark")}
		cw := "format: jolly-crosswalk/1\nsupplier: Tern Quay\ntake: { manufacturer: Maker, mpn: MPN }\ndrawer: chip-resistors\n" +
			rapid.SampledFrom([]string{"", "decimalMark: comma\n", "decimalMark: point\n"}).Draw(rt, "house")
		before := mended(t, cw, []crosswalk.Change{{Rule: &rule}}, lines)
		shown(rt, before, rule, to, texts)
		for _, c := range finding.Group(before.Findings) {
			doubts++
			for _, m := range before.Mends(c) {
				says := promise.FindStringSubmatch(m.Label)
				if says == nil || m.Change == nil || m.Change.Rule == nil {
					continue
				}
				example, err := strconv.Unquote(says[1])
				require.NoError(rt, err)
				after := mended(t, cw, []crosswalk.Change{{Rule: &rule}, *m.Change}, lines)
				for i, text := range texts {
					if text == example {
						promises++
						assert.Equal(rt, says[2], after.Value(i, to).String(), "%s, beside %q under %q", m.Label, texts, heading)
					}
				}
				shown(rt, after, *m.Change.Rule, to, texts)
			}
		}
	})
	assert.Greater(t, promises, 20)
	assert.Greater(t, doubts, 20)
}

// mended builds lines under a crosswalk with changes.
func mended(t *testing.T, cw string, changes []crosswalk.Change, lines []string) *Result {
	c, err := crosswalk.Parse([]byte(cw))
	require.NoError(t, err)
	c, err = c.With(changes)
	require.NoError(t, err)
	return sheetUnder(t, Input{}, c, lines...)
}

// shown asserts that the samples of a rule are what rows became by it.
func shown(t *rapid.T, r *Result, rule crosswalk.Rule, to string, texts []string) {
	samples, _, _ := r.Samples(rule, 100)
	for _, s := range samples {
		at := s.Row - 2
		require.Equal(t, strings.TrimSpace(texts[at]), s.Written)
		if r.Value(at, to).Type == cabinet.Raw {
			assert.NotEmpty(t, s.Problem, "%q is not read, beside %q", s.Written, texts)
		} else {
			assert.Equal(t, r.Value(at, to).String(), s.Value, "%q beside %q", s.Written, texts)
		}
	}
}
