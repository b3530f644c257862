package edif

import (
	"bytes"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/core/model/modeltest"
	"jollydrawer/formats/formatstest"
)

func nothing(string) string { return "" }

func symbolOf(s *model.Symbol) *model.Content {
	c := &model.Content{Kind: model.KindSymbol, Name: "S", Symbol: s}
	c.Normalise()
	return c
}

// A symbol that is written in any of the ways that the standard leaves open is read as what it is.
func TestEveryWayOfWritingIsReadAsWhatItIs(t *testing.T) {
	for seed := range uint64(600) {
		d := formatstest.NewEDIF(seed)
		want := d.Symbol()
		f, err := Read(d.File(`Ω "1"`, want, nothing))
		require.NoError(t, err, "seed %d", seed)
		require.Empty(t, f.Wrong, "seed %d", seed)
		require.Len(t, f.Cells, 1, "seed %d", seed)
		got := f.Cells[0]
		assert.Equal(t, `Ω "1"`, got.Name)
		a, b := symbolOf(want), symbolOf(got.Symbol)
		if !model.Same(a, b) {
			t.Fatalf("seed %d: %+v", seed, model.Compare(a, b, model.MM))
		}
		assert.Equal(t, want.Properties, got.Symbol.Properties, "seed %d", seed)
		assert.Equal(t, want.Units, got.Symbol.Units)
		assert.Empty(t, got.Said, "seed %d", seed)
	}
}

// Whatever else stands where a pin is said makes the cell refused; what else stands in the symbol is said.
func TestWhatIsNotKnownOfAPinIsNeverPassedOver(t *testing.T) {
	for seed := range uint64(300) {
		d := formatstest.NewEDIF(seed)
		at := []string{"port", "portImplementation", "symbol"}[d.IntN(3)]
		harm := []string{" (portListAlias x)", " (offPageConnector y)", ` (gateArray "2")`}[d.IntN(3)]
		f, err := Read(d.File("S", d.Symbol(), func(w string) string {
			if w == at {
				return harm
			}
			return ""
		}))
		require.NoError(t, err)
		if at == "symbol" {
			require.Len(t, f.Cells, 1, "seed %d", seed)
			assert.Regexp(t, `line \d+: \w+ was not read`, strings.Join(f.Cells[0].Said, "; "), "seed %d", seed)
			continue
		}
		assert.Empty(t, f.Cells, "seed %d: %s in %s", seed, harm, at)
		assert.Regexp(t, `line \d+`, f.Wrong[0])
	}
}

// What is exported is read back as it was.
func TestWhatIsWrittenIsReadBack(t *testing.T) {
	for seed := range uint64(300) {
		want := symbolOf(modeltest.New(seed).Symbol())
		var b bytes.Buffer
		require.NoError(t, Write(&b, "lib", []Cell{{Name: "S", Symbol: want.Symbol}}))
		f, err := Read(b.Bytes())
		require.NoError(t, err)
		require.Empty(t, f.Wrong, "seed %d", seed)
		require.Equal(t, want.Symbol, symbolOf(f.Cells[0].Symbol).Symbol, "seed %d", seed)
		require.Empty(t, f.Cells[0].Said, "seed %d", seed)
	}
}

// A file in which one list has a keyword that nobody knows, or one list stands twice, is read as what it was, or something is said, or it
// is refused: it never becomes something else in silence.
func TestAFileThatIsHarmedIsNeverReadAsSomethingElse(t *testing.T) {
	keyword := regexp.MustCompile(`\(([A-Za-z]+)\s`)
	leaf := regexp.MustCompile(`\((?i:designator|direction|scale|portImplementation|unit|origin|dot|property)\s[^()]*\)`)
	outcome := map[string]int{}
	for seed := range uint64(2500) {
		d := formatstest.NewEDIF(seed)
		want := d.Symbol()
		raw := string(d.File("S", want, nothing))
		how := d.IntN(2)
		places := keyword.FindAllStringSubmatchIndex(raw, -1)
		if how == 1 {
			places = leaf.FindAllStringSubmatchIndex(raw, -1)
		}
		at := places[d.IntN(len(places))]
		what := raw[at[0]:at[1]]
		if how == 0 {
			raw = raw[:at[2]] + "zz" + raw[at[2]:]
		} else {
			raw = raw[:at[1]] + what + raw[at[1]:]
		}
		f, err := Read([]byte(raw))
		switch {
		case err != nil:
			outcome["no file"]++
		case len(f.Wrong) > 0:
			outcome["refused"]++
		case len(f.Cells) > 0 && len(f.Cells[0].Said)+len(f.Said) > 0:
			outcome["said"]++
		case len(f.Cells) > 0 && model.Same(symbolOf(want), symbolOf(f.Cells[0].Symbol)):
			outcome["equal"]++
		default:
			t.Errorf("seed %d: harm %d to %q is passed over: %d cells", seed, how, what, len(f.Cells))
		}
	}
	t.Log(outcome)
	for _, o := range []string{"refused", "said", "equal"} {
		assert.Greater(t, outcome[o], 20, o)
	}
}
