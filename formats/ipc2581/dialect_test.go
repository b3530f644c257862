package ipc2581

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/core/model/modeltest"
	"jollydrawer/formats/formatstest"
)

func nothing(string) string { return "" }

func landOf(l *model.LandPattern) *model.Content {
	c := &model.Content{Kind: model.KindLand, Name: "L", Land: l}
	c.Normalise()
	return c
}

// A land pattern that is written in any of the ways that the standard leaves open is read as what it is.
func TestEveryWayOfWritingIsReadAsWhatItIs(t *testing.T) {
	for seed := range uint64(600) {
		d := formatstest.NewIPC2581(seed)
		want := d.Land()
		raw := d.File("Ω & <1>", want, nothing)
		switch d.IntN(8) {
		case 0:
			raw = formatstest.Wide(raw, binary.LittleEndian, true)
		case 1:
			raw = formatstest.Wide(raw, binary.BigEndian, d.IntN(2) == 0)
		}
		require.True(t, Is(raw), "seed %d", seed)
		f, err := Read(raw)
		require.NoError(t, err, "seed %d", seed)
		require.Empty(t, f.Wrong, "seed %d", seed)
		require.Len(t, f.Packages, 1, "seed %d", seed)
		got := f.Packages[0]
		assert.Equal(t, "Ω & <1>", got.Name)
		if !model.Same(landOf(want), landOf(got.Land)) {
			t.Fatalf("seed %d (%s): %v", seed, d.Unit, model.Near(landOf(want).Land, landOf(got.Land).Land, model.MM/20).What)
		}
		assert.Empty(t, got.Said, "seed %d", seed)
		assert.Equal(t, landOf(want).Land.Mounting, got.Land.Mounting)
	}
}

// Whatever else stands where copper is said makes the package refused: it is never passed over.
func TestWhatIsNotKnownOfCopperIsNeverPassedOver(t *testing.T) {
	where := []string{"Pad", "LandPattern", "PadStackDef"}
	what := []string{`<Target shape="x"/>`, `<Keepout/>`, `<NonstandardAttribute name="thermal" value="4"/>`, `<Circle diameter="1"/>`, `some text`, `<PadstackPadDef layerRef="L0" padUse="REGULAR"><Circle diameter="9"/></PadstackPadDef>`}
	for seed := range uint64(300) {
		d := formatstest.NewIPC2581(seed)
		at, harm := where[d.IntN(3)], what[d.IntN(len(what))]
		if at == "LandPattern" && strings.HasPrefix(harm, "<Circle") {
			harm = what[0]
		}
		raw := d.File("L", d.Land(), func(w string) string {
			if w == at {
				return harm
			}
			return ""
		})
		f, err := Read(raw)
		require.NoError(t, err)
		assert.Empty(t, f.Packages, "seed %d: %s in %s", seed, harm, at)
		require.Len(t, f.Wrong, 1)
		assert.Regexp(t, `line \d+`, f.Wrong[0])
	}
}

// What is exported is read back as it was, outlines and texts included.
func TestWhatIsWrittenIsReadBack(t *testing.T) {
	byPurpose := func(l *model.LandPattern) *model.LandPattern {
		slices.SortStableFunc(l.Shapes, func(a, b model.Shape) int { return strings.Compare(fmt.Sprint(a.Purpose, a), fmt.Sprint(b.Purpose, b)) })
		return l
	}
	for seed := range uint64(300) {
		want := landOf(modeltest.New(seed).Land())
		var b bytes.Buffer
		require.NoError(t, Write(&b, []Package{{Name: "L", Land: want.Land}}))
		f, err := Read(b.Bytes())
		require.NoError(t, err)
		require.Empty(t, f.Wrong, "seed %d", seed)
		got := landOf(f.Packages[0].Land)
		require.Equal(t, byPurpose(want.Land), byPurpose(got.Land), "seed %d", seed)
		require.Empty(t, f.Packages[0].Said)
	}
}

// mayGo are attributes without which a file says something else, and is right to: nothing is turned, or nothing is known that a land
// pattern would hold.
var mayGo = map[string]bool{"rotation": true, "plusTol": true, "minusTol": true, "revision": true, "xmlns": true, "pinOne": true}

// A file of which one attribute is lost, or has a name that nobody knows, or one element stands in it twice, is read as what it was, or
// something is said, or it is refused: it never becomes something else in silence.
func TestAFileThatIsHarmedIsNeverReadAsSomethingElse(t *testing.T) {
	attr := regexp.MustCompile(` ([A-Za-z]+)="[^"]*"`)
	lone := regexp.MustCompile(`<[A-Za-z0-9:]+(?: [A-Za-z]+="[^"]*")*/>`)
	outcome := map[string]int{}
	for seed := range uint64(800) {
		d := formatstest.NewIPC2581(seed)
		want := d.Land()
		raw := string(d.File("L", want, nothing))
		how := d.IntN(3)
		places := attr.FindAllStringSubmatchIndex(raw, -1)
		if how == 2 {
			places = lone.FindAllStringSubmatchIndex(raw, -1)
		}
		at := places[d.IntN(len(places))]
		what := raw[at[0]:at[1]]
		switch how {
		case 0:
			if mayGo[raw[at[2]:at[3]]] {
				continue
			}
			raw = raw[:at[0]] + raw[at[1]:]
		case 1:
			raw = raw[:at[2]] + "zz" + raw[at[2]:]
		default:
			raw = raw[:at[1]] + what + raw[at[1]:]
		}
		f, err := Read([]byte(raw))
		switch {
		case err != nil:
			outcome["no file"]++
		case len(f.Wrong) > 0:
			outcome["refused"]++
		case len(f.Packages[0].Said) > 0:
			outcome["said"]++
		case model.Same(landOf(want), landOf(f.Packages[0].Land)):
			outcome["equal"]++
		default:
			t.Errorf("seed %d: harm %d to %s is passed over: %v", seed, how, what, model.Near(landOf(want).Land, landOf(f.Packages[0].Land).Land, model.MM).What)
		}
	}
	t.Log(outcome)
	for _, o := range []string{"refused", "said", "equal"} {
		assert.Greater(t, outcome[o], 20, o)
	}
}
