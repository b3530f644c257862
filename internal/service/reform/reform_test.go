package reform_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
	"jollydrawer/core/measure/measuretest"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestAParameterIsRenamedOnEveryPartAndBack(t *testing.T) {
	h := housetest.Open(t)
	a := h.Make(housetest.Rated("4k7", "A"))
	_, err := h.Lifecycles.Release(t.Context(), h.Me, a.ID, a.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
	h.Make(housetest.Rated("1k", "B"))
	both := h.Make(housetest.Rated("2k2", "C")) // released, and worked on again
	both, err = h.Lifecycles.Release(t.Context(), h.Me, both.ID, both.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
	again := housetest.Rated("2k2", "C")
	again.Values["tolerance"] = "5%"
	_, err = h.Parts.Save(t.Context(), h.Me, both.ID, both.Version, again)
	require.NoError(t, err)
	_, err = h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, 0, housetest.CrosswalkText)
	require.NoError(t, err)
	p, j := h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: "tolerance", To: "resistance-tolerance", Label: "Resistance tolerance"}}})
	assert.Equal(t, []any{3, 2, 2, 0, 0, true}, []any{p.Parts, p.Released, p.Drafts, p.Incomplete, p.LossCount, p.Undoable})
	assert.Equal(t, 3, j.Changed.Parts)
	both, err = h.Parts.Get(t.Context(), h.Me, both.ID)
	require.NoError(t, err)
	assert.Equal(t, 2, both.Revision)
	assert.Equal(t, "±5 %", h.Value(both.Number, "resistance-tolerance"), "the draft is carried over beside the revision")
	require.NotNil(t, both.Draft)
	assert.Contains(t, both.Released.Description, "±1%")
	assert.Equal(t, "±1 %", h.Value(a.Number, "resistance-tolerance"))
	now, err := h.Parts.Get(t.Context(), h.Me, a.Number)
	require.NoError(t, err)
	assert.Equal(t, 2, now.Revision, "a released part gets a revision of its own")
	assert.Equal(t, "RES 4.7kΩ ±1% 125mW 0805", now.Released.Description, "the patterns follow the new key")
	was, err := h.Parts.Revision(t.Context(), h.Me, a.Number, 1)
	require.NoError(t, err)
	assert.Equal(t, "RES 4.7kΩ ±1% 125mW 0805", was.Description, "the frozen revision stays as it was")
	history, err := h.Reform.History(t.Context(), h.Me, 0, 10)
	require.NoError(t, err)
	require.NotEmpty(t, history.Items[0].Reverse)
	h.Change(wire.CabinetChange{Steps: history.Items[0].Reverse})
	assert.Equal(t, "±1 %", h.Value(a.Number, "tolerance"))
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

func TestWhatDoesNotCarryOverIsSaidFirstAndWaitsInADraft(t *testing.T) {
	h := housetest.Open(t)
	a := h.Make(housetest.Rated("4k7", "A"))
	a, err := h.Lifecycles.Release(t.Context(), h.Me, a.ID, a.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
	p, _ := h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Retype, Parameter: "power", Type: cabinet.Measure, Of: "current"}}})
	assert.Equal(t, []any{1, 0, 1, 1, 1, false}, []any{p.Parts, p.Released, p.Drafts, p.Incomplete, p.LossCount, p.Undoable})
	assert.Equal(t, "125 mW", p.Losses[0].Text)
	now, err := h.Parts.Get(t.Context(), h.Me, a.Number)
	require.NoError(t, err)
	assert.Equal(t, 1, now.Revision, "what others use stays as it was")
	require.NotNil(t, now.Draft)
	assert.Equal(t, "125 mW", h.Value(a.Number, "power"), "the text is kept, to be read by a person")
	retired, _ := h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Retire, Parameter: "qualification"}}})
	assert.Zero(t, retired.Parts)
	_, err = h.Reform.Preview(t.Context(), h.Me, wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Retire, Parameter: "resistance"}}})
	assert.Contains(t, housetest.Fails(t, err, "cabinet-wrong").What, "leading parameter")
	_, err = h.Reform.Preview(t.Context(), h.Me, wire.CabinetChange{Steps: []cabinet.Step{{Do: "melt", Parameter: "power"}}})
	assert.Contains(t, housetest.Fails(t, err, "cabinet-wrong").What, "step 1 (melt)")
}

func TestPartsMoveToAnotherDrawerAndBack(t *testing.T) {
	h := housetest.Open(t)
	a, b := h.Make(housetest.Rated("4k7", "A")), h.Make(housetest.Rated("1k", "B"))
	p, _ := h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Move, Drawer: "chip-resistors", To: "leaded-resistors", Parts: []string{b.Number}}}})
	assert.Equal(t, 1, p.Parts)
	now, err := h.Parts.Get(t.Context(), h.Me, b.Number)
	require.NoError(t, err)
	assert.Equal(t, "leaded-resistors", now.Draft.Drawer)
	same, err := h.Parts.Get(t.Context(), h.Me, a.Number)
	require.NoError(t, err)
	assert.Equal(t, "chip-resistors", same.Draft.Drawer)
}

func documentText(t *testing.T, d cabinet.Document) string {
	raw, err := yaml.Marshal(d)
	require.NoError(t, err)
	return string(raw)
}

func TestANewPatternRebuildsDescriptionsWithAPreview(t *testing.T) {
	h := housetest.Open(t)
	a := h.Make(housetest.Rated("4k7", "A"))
	byHand := housetest.Rated("1k", "B")
	byHand.Description = "The good one"
	b := h.Make(byHand)
	cab, err := h.Cabinets.Get(t.Context(), h.Me)
	require.NoError(t, err)
	raw := strings.Replace(documentText(t, cab.Document), "RES {resistance}[ {tolerance}][ {power}][ {case}]", "R {resistance as marking}[/{tolerance}]", 1)
	_, err = h.Reform.Apply(t.Context(), h.Me, cab.Version, raw)
	housetest.Fails(t, err, "parts-change")
	p, _ := h.Change(wire.CabinetChange{Text: raw})
	assert.Equal(t, 1, p.Parts)
	assert.Equal(t, "R 4k7/±1%", p.Samples[0].Description)
	now, _ := h.Parts.Get(t.Context(), h.Me, a.Number)
	assert.Equal(t, "R 4k7/±1%", now.Draft.Description)
	kept, _ := h.Parts.Get(t.Context(), h.Me, b.Number)
	assert.Equal(t, "The good one", kept.Draft.Description, "a description written by hand stays")
	h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Redescribe, Drawer: "resistors"}}})
	kept, _ = h.Parts.Get(t.Context(), h.Me, b.Number)
	assert.Equal(t, "R 1k/±1%", kept.Draft.Description, "unless all are built anew")
	tried, err := h.Cabinets.TryPatterns(t.Context(), h.Me, "chip-resistors", wire.PatternTry{Description: "X {case}"})
	require.NoError(t, err)
	assert.Equal(t, "X 0805", tried[0].Description)
	_, err = h.Cabinets.TryPatterns(t.Context(), h.Me, "chip-resistors", wire.PatternTry{Description: "X {colour}"})
	assert.Contains(t, housetest.Fails(t, err, "pattern-wrong").What, "{colour} at character 3")
}

func TestADrawerWithPartsCannotBeTakenAway(t *testing.T) {
	h := housetest.Open(t)
	h.Make(housetest.Resistor("1k", "A"))
	now, err := h.Cabinets.Get(t.Context(), h.Me)
	require.NoError(t, err)
	_, err = h.Reform.Apply(t.Context(), h.Me, now.Version, "format: jolly-cabinet/1\nparameters: []\ndrawers: []\n")
	housetest.Fails(t, err, "drawer-in-use")
	_, err = h.Reform.Apply(t.Context(), h.Me, now.Version+5, "format: jolly-cabinet/1\nparameters: []\ndrawers: [{key: chip-resistors, label: Chips, prefix: EW-R, digits: 5}]\n")
	housetest.Fails(t, err, "changed-meanwhile")
	_, err = h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, 0, strings.Replace(housetest.CrosswalkText, "to: case", "to: colours", 1))
	housetest.Fails(t, err, "crosswalk-wrong")
}

func TestWhatWouldBeLostSinceThePreviewStopsTheChange(t *testing.T) {
	h := housetest.Open(t)
	h.Make(housetest.Resistor("4k7", "A"))
	in := wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Retype, Parameter: "power", Type: cabinet.Measure, Of: "current"}}}
	p, err := h.Reform.Preview(t.Context(), h.Me, in)
	require.NoError(t, err)
	require.Zero(t, p.LossCount)
	b := h.Make(housetest.Rated("1k", "B")) // its power would be no current
	in.Digest = p.Digest
	j, err := h.Reform.Start(t.Context(), h.Me, p.Version, in)
	require.NoError(t, err)
	j = h.Wait(j)
	assert.Equal(t, store.JobFailed, j.State)
	assert.Contains(t, j.Error, "Look at the preview again.")
	assert.Equal(t, "125 mW", h.Value(b.Number, "power"))
	now, err := h.Cabinets.Get(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Equal(t, p.Version, now.Version, "nothing was changed")

	// Looked at again, it is done; what was made since and loses nothing is carried over.
	p, err = h.Reform.Preview(t.Context(), h.Me, in)
	require.NoError(t, err)
	require.Equal(t, 1, p.LossCount)
	c := h.Make(housetest.Resistor("2k", "C"))
	in.Digest = p.Digest
	j, err = h.Reform.Start(t.Context(), h.Me, p.Version, in)
	require.NoError(t, err)
	assert.Equal(t, store.JobDone, h.Wait(j).State)
	assert.Equal(t, "2 kΩ", h.Value(c.Number, "resistance"))
	_, err = h.Reform.Start(t.Context(), h.Me, p.Version, in)
	housetest.Fails(t, err, "preview-stale")
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

// A preview of steps that only give names is worked out from the index; it says what looking at every part would say.
func TestAPreviewOfNamesSaysWhatLookingAtEveryPartWould(t *testing.T) {
	h := housetest.Open(t)
	cab, err := h.Cabinets.Get(t.Context(), h.Me)
	require.NoError(t, err)
	c, err := cabinet.New(cab.Document)
	require.NoError(t, err)
	d := &measuretest.Draws{State: 41}
	made := 0
	for _, drawer := range cab.Document.Drawers {
		tpl, ok := c.Template(drawer.Key)
		if !ok || !tpl.Leaf {
			continue
		}
		edit := func(n int) wire.PartEdit {
			e := wire.PartEdit{Drawer: drawer.Key, Values: map[string]string{}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: fmt.Sprint(drawer.Key, "-", n)}}}
			for _, slot := range tpl.Slots {
				text := fmt.Sprint(d.IntN(9) + 1)
				switch of, ok := measure.ParseDimension(slot.Of); {
				case len(slot.Choices) > 0:
					text = slot.Choices[d.IntN(len(slot.Choices))]
				case ok:
					text += " " + of.Base()
					if usual, _, ok := strings.Cut(slot.Usual, " to "); ok {
						text = usual
					}
				case slot.Type == cabinet.YesNo:
					text = "yes"
				case slot.Type == cabinet.Link:
					text = "https://tidewright.example/" + text
				case slot.Type == cabinet.Date:
					text = "2031-04-0" + text
				}
				if slot.Required || d.IntN(3) > 0 {
					e.Values[slot.Key] = text
				}
			}
			return e
		}
		for n := range 4 {
			p := h.Make(edit(n))
			made++
			if n == 0 {
				continue
			}
			released, err := h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "first"})
			if err == nil && n == 3 {
				_, err = h.Parts.Save(t.Context(), h.Me, p.ID, released.Version, edit(n))
				require.NoError(t, err)
			}
		}
	}
	one := h.Make(housetest.Rated("4k7", "REL"))
	one, err = h.Lifecycles.Release(t.Context(), h.Me, one.ID, one.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
	e := housetest.Rated("4k7", "REL")
	delete(e.Values, "tolerance") // the draft lacks what the released revision has
	_, err = h.Parts.Save(t.Context(), h.Me, one.ID, one.Version, e)
	require.NoError(t, err)
	require.Greater(t, made, 40)

	name := func(from, to string) cabinet.Step { return cabinet.Step{Do: cabinet.Rename, Parameter: from, To: to} }
	changes := [][]cabinet.Step{
		{name("resistance", "a"), name("capacitance", "resistance"), name("a", "capacitance")}, // exchanged
		{name("tolerance", "b"), name("b", "tolerance")},                                       // there and back
		{{Do: cabinet.Rename, Parameter: "tolerance", Label: "How exact"}},                     // a label is no key
		{name("tolerance", "tol"), {Do: cabinet.Retire, Parameter: "rohs"}},                    // not only names
	}
	for i, p := range cab.Document.Parameters {
		if i%4 > 0 {
			continue
		}
		changes = append(changes, []cabinet.Step{name(p.Key, "new-"+p.Key)})
	}
	changed := 0
	for _, steps := range changes {
		in := wire.CabinetChange{Steps: steps}
		quick, err := h.Reform.Preview(t.Context(), h.Me, in)
		require.NoError(t, err)
		each, err := h.Reform.PreviewOfEach(t.Context(), in)
		require.NoError(t, err)
		assert.Len(t, quick.Samples, len(each.Samples), "%v", steps)
		quick.Samples, each.Samples = nil, nil
		assert.Equal(t, each, quick, "%v", steps)
		changed += each.Parts
	}
	assert.Greater(t, changed, made, "the changes change something")
}
