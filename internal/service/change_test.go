package service_test

import (
	"bytes"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service"
	"jollydrawer/internal/wire"
)

// change previews a change of templates, makes it and waits for its job.
func (h house) change(in wire.CabinetChange) (wire.ChangePreview, wire.Job) {
	p, err := h.PreviewChange(h.t.Context(), h.me, in)
	require.NoError(h.t, err)
	in.Digest = p.Digest
	j, err := h.ChangeCabinet(h.t.Context(), h.me, p.Version, in)
	require.NoError(h.t, err)
	id, err := service.ParseID(j.ID)
	require.NoError(h.t, err)
	for deadline := time.Now().Add(20 * time.Second); time.Now().Before(deadline); time.Sleep(20 * time.Millisecond) {
		if j, err = h.Job(h.t.Context(), h.me, id); err != nil || j.State != "waiting" && j.State != "running" {
			break
		}
	}
	require.NoError(h.t, err)
	require.Equal(h.t, "done", j.State, j.Error)
	return p, j
}

// rated is a resistor with a power rating.
func rated(ohms, mpn string) wire.PartEdit {
	e := resistor(ohms, mpn)
	e.Values["power"] = "125 mW"
	return e
}

func (h house) value(number, key string) string {
	p, err := h.Part(h.t.Context(), h.me, number)
	require.NoError(h.t, err)
	for _, v := range p.Newest().Values {
		if v.Key == key {
			return v.Text
		}
	}
	return ""
}

func TestAParameterIsRenamedOnEveryPartAndBack(t *testing.T) {
	h := open(t)
	a := h.make(rated("4k7", "A"))
	_, err := h.Release(t.Context(), h.me, a.ID, a.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
	h.make(rated("1k", "B"))
	both := h.make(rated("2k2", "C")) // released, and worked on again
	both, err = h.Release(t.Context(), h.me, both.ID, both.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
	again := rated("2k2", "C")
	again.Values["tolerance"] = "5%"
	_, err = h.SaveDraft(t.Context(), h.me, both.ID, both.Version, again)
	require.NoError(t, err)
	_, err = h.ApplyCrosswalk(t.Context(), h.me, 0, crosswalkText)
	require.NoError(t, err)
	p, j := h.change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: "tolerance", To: "resistance-tolerance", Label: "Resistance tolerance"}}})
	assert.Equal(t, []any{3, 2, 2, 0, 0, true}, []any{p.Parts, p.Released, p.Drafts, p.Incomplete, p.LossCount, p.Undoable})
	assert.Equal(t, 3, j.Changed.Parts)
	both, err = h.Part(t.Context(), h.me, both.ID)
	require.NoError(t, err)
	assert.Equal(t, 2, both.Revision)
	assert.Equal(t, "±5 %", h.value(both.Number, "resistance-tolerance"), "the draft is carried over beside the revision")
	require.NotNil(t, both.Draft)
	assert.Contains(t, both.Released.Description, "±1%")
	assert.Equal(t, "±1 %", h.value(a.Number, "resistance-tolerance"))
	now, err := h.Part(t.Context(), h.me, a.Number)
	require.NoError(t, err)
	assert.Equal(t, 2, now.Revision, "a released part gets a revision of its own")
	assert.Equal(t, "RES 4.7kΩ ±1% 125mW 0805", now.Released.Description, "the patterns follow the new key")
	was, err := h.PartRevision(t.Context(), h.me, a.Number, 1)
	require.NoError(t, err)
	assert.Equal(t, "RES 4.7kΩ ±1% 125mW 0805", was.Description, "the frozen revision stays as it was")
	history, err := h.CabinetHistory(t.Context(), h.me, 0, 10)
	require.NoError(t, err)
	require.NotEmpty(t, history.Items[0].Reverse)
	h.change(wire.CabinetChange{Steps: history.Items[0].Reverse})
	assert.Equal(t, "±1 %", h.value(a.Number, "tolerance"))
	v, err := h.Verify(t.Context(), h.me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

func TestWhatDoesNotCarryOverIsSaidFirstAndWaitsInADraft(t *testing.T) {
	h := open(t)
	a := h.make(rated("4k7", "A"))
	a, err := h.Release(t.Context(), h.me, a.ID, a.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
	p, _ := h.change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Retype, Parameter: "power", Type: cabinet.Measure, Of: "current"}}})
	assert.Equal(t, []any{1, 0, 1, 1, 1, false}, []any{p.Parts, p.Released, p.Drafts, p.Incomplete, p.LossCount, p.Undoable})
	assert.Equal(t, "125 mW", p.Losses[0].Text)
	now, err := h.Part(t.Context(), h.me, a.Number)
	require.NoError(t, err)
	assert.Equal(t, 1, now.Revision, "what others use stays as it was")
	require.NotNil(t, now.Draft)
	assert.Equal(t, "125 mW", h.value(a.Number, "power"), "the text is kept, to be read by a person")
	retired, _ := h.change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Retire, Parameter: "qualification"}}})
	assert.Zero(t, retired.Parts)
	_, err = h.PreviewChange(t.Context(), h.me, wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Retire, Parameter: "resistance"}}})
	assert.Contains(t, fails(t, err, "cabinet-wrong").What, "leading parameter")
	_, err = h.PreviewChange(t.Context(), h.me, wire.CabinetChange{Steps: []cabinet.Step{{Do: "melt", Parameter: "power"}}})
	assert.Contains(t, fails(t, err, "cabinet-wrong").What, "step 1 (melt)")
}

func TestPartsMoveToAnotherDrawerAndBack(t *testing.T) {
	h := open(t)
	a, b := h.make(rated("4k7", "A")), h.make(rated("1k", "B"))
	p, _ := h.change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Move, Drawer: "chip-resistors", To: "leaded-resistors", Parts: []string{b.Number}}}})
	assert.Equal(t, 1, p.Parts)
	now, err := h.Part(t.Context(), h.me, b.Number)
	require.NoError(t, err)
	assert.Equal(t, "leaded-resistors", now.Draft.Drawer)
	same, err := h.Part(t.Context(), h.me, a.Number)
	require.NoError(t, err)
	assert.Equal(t, "chip-resistors", same.Draft.Drawer)
}

func documentText(t *testing.T, d cabinet.Document) string {
	raw, err := yaml.Marshal(d)
	require.NoError(t, err)
	return string(raw)
}

func TestANewPatternRebuildsDescriptionsWithAPreview(t *testing.T) {
	h := open(t)
	a := h.make(rated("4k7", "A"))
	byHand := rated("1k", "B")
	byHand.Description = "The good one"
	b := h.make(byHand)
	cab, err := h.Cabinet(t.Context(), h.me)
	require.NoError(t, err)
	raw := strings.Replace(documentText(t, cab.Document), "RES {resistance}[ {tolerance}][ {power}][ {case}]", "R {resistance as marking}[/{tolerance}]", 1)
	_, err = h.ApplyCabinet(t.Context(), h.me, cab.Version, raw)
	fails(t, err, "parts-change")
	p, _ := h.change(wire.CabinetChange{Text: raw})
	assert.Equal(t, 1, p.Parts)
	assert.Equal(t, "R 4k7/±1%", p.Samples[0].Description)
	now, _ := h.Part(t.Context(), h.me, a.Number)
	assert.Equal(t, "R 4k7/±1%", now.Draft.Description)
	kept, _ := h.Part(t.Context(), h.me, b.Number)
	assert.Equal(t, "The good one", kept.Draft.Description, "a description written by hand stays")
	h.change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Redescribe, Drawer: "resistors"}}})
	kept, _ = h.Part(t.Context(), h.me, b.Number)
	assert.Equal(t, "R 1k/±1%", kept.Draft.Description, "unless all are built anew")
	tried, err := h.TryPatterns(t.Context(), h.me, "chip-resistors", wire.PatternTry{Description: "X {case}"})
	require.NoError(t, err)
	assert.Equal(t, "X 0805", tried[0].Description)
	_, err = h.TryPatterns(t.Context(), h.me, "chip-resistors", wire.PatternTry{Description: "X {colour}"})
	assert.Contains(t, fails(t, err, "pattern-wrong").What, "{colour} at character 3")
}

func TestAMergedPartLeadsToItsSurvivor(t *testing.T) {
	h := open(t)
	a, b := h.make(rated("4k7", "A-1")), h.make(rated("4k7", "B-1"))
	assert.Equal(t, []string{a.Number}, b.Alike, "equal in the identifying parameters")
	a, err := h.Release(t.Context(), h.me, a.ID, a.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
	b, err = h.AddFormer(t.Context(), h.me, b.ID, b.Version, wire.FormerNumber{Number: "OLD 17"})
	require.NoError(t, err)
	_, err = h.Merge(t.Context(), h.me, b.ID, b.Version, wire.Merge{Into: b.Number, Why: "?"})
	fails(t, err, "merge-self")
	_, err = h.Merge(t.Context(), h.me, b.ID, b.Version+7, wire.Merge{Into: a.Number, Why: "twins"})
	fails(t, err, "part-changed")
	keep, err := h.Merge(t.Context(), h.me, b.ID, b.Version, wire.Merge{Into: a.Number, Why: "twins"})
	require.NoError(t, err)
	assert.Equal(t, a.Number, keep.Number)
	assert.ElementsMatch(t, []string{b.Number, "OLD 17"}, keep.Former)
	assert.Len(t, keep.Released.Sources, 2, "the survivor takes over the sources")
	assert.Equal(t, 2, keep.Revision)
	for _, n := range []string{b.Number, "old 17"} {
		p, err := h.Part(t.Context(), h.me, n)
		require.NoError(t, err)
		assert.Equal(t, a.Number, p.Number)
		l, err := h.Search(t.Context(), h.me, service.Query{Text: n})
		require.NoError(t, err)
		require.Len(t, l.Items, 1, n)
		assert.Equal(t, a.Number, l.Items[0].Number)
	}
	gone, err := h.Part(t.Context(), h.me, b.ID)
	require.NoError(t, err)
	assert.Equal(t, a.Number, gone.MergedTo)
	_, err = h.SaveDraft(t.Context(), h.me, b.ID, gone.Version, rated("9k", "C"))
	fails(t, err, "merged")
	again := rated("9k", "C")
	again.Number = "OLD 17"
	_, err = h.CreatePart(t.Context(), h.me, again)
	fails(t, err, "number-taken")
	v, err := h.Verify(t.Context(), h.me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

func TestASuccessorLeadsNobodyInACircle(t *testing.T) {
	h := open(t)
	a, b := h.make(rated("1k", "A")), h.make(rated("2k", "B"))
	a, err := h.SetSuccessor(t.Context(), h.me, a.ID, a.Version, wire.SuccessorEdit{Number: b.Number, Why: "stopped"})
	require.NoError(t, err)
	assert.Equal(t, &wire.Successor{Number: b.Number, Why: "stopped"}, a.Successor)
	_, err = h.SetSuccessor(t.Context(), h.me, b.ID, b.Version, wire.SuccessorEdit{Number: a.Number, Why: "stopped"})
	fails(t, err, "successor-circle")
	a, err = h.SetSuccessor(t.Context(), h.me, a.ID, a.Version, wire.SuccessorEdit{Why: "it goes on"})
	require.NoError(t, err)
	assert.Nil(t, a.Successor)
}

func TestViewsBelongToWhoSavedThem(t *testing.T) {
	h := open(t)
	_, err := h.AddAccount(t.Context(), h.me, wire.NewAccount{Login: "tove", Name: "Tove", Role: "reader", Password: "a-long-password"})
	require.NoError(t, err)
	_, secret, err := h.SignIn(t.Context(), wire.SignIn{Login: "tove", Password: "a-long-password"})
	require.NoError(t, err)
	tove, _, err := h.BySession(t.Context(), secret)
	require.NoError(t, err)
	own := wire.ViewEdit{Name: "small", Query: "?q=0402", Drawer: "chip-resistors"}
	mine, err := h.SaveView(t.Context(), h.me, own)
	require.NoError(t, err)
	own.Query, own.Shared = "q=0603", true
	again, err := h.SaveView(t.Context(), h.me, own)
	require.NoError(t, err)
	assert.Equal(t, mine.ID, again.ID, "one name, one view")
	seen, err := h.Views(t.Context(), service.Call{Actor: tove})
	require.NoError(t, err)
	require.Len(t, seen.Items, 1)
	assert.False(t, seen.Items[0].Own)
	_, err = h.SaveView(t.Context(), service.Call{Actor: tove}, own)
	fails(t, err, "not-allowed")
	id, _ := service.ParseID(mine.ID)
	_, err = h.DropView(t.Context(), service.Call{Actor: tove}, id)
	fails(t, err, "not-found")
	left, err := h.DropView(t.Context(), h.me, id)
	require.NoError(t, err)
	assert.Empty(t, left.Items)
}

func TestPartsAreComparedAndExportedAsShown(t *testing.T) {
	h := open(t)
	a, b := h.make(rated("4k7", "A")), rated("4k7", "B")
	b.Values["tolerance"], b.Values["power"] = "5%", "250 mW"
	bb := h.make(b)
	c, err := h.Compare(t.Context(), h.me, []string{a.Number, bb.Number})
	require.NoError(t, err)
	rows := map[string]wire.ComparisonRow{}
	for _, r := range c.Rows {
		rows[r.Key] = r
	}
	assert.False(t, rows["resistance"].Differs)
	assert.Equal(t, []int{0}, rows["tolerance"].Best, "less is better")
	assert.Equal(t, []int{1}, rows["power"].Best, "more is better")
	_, err = h.Compare(t.Context(), h.me, []string{a.Number})
	fails(t, err, "compare-count")
	_, err = h.Compare(t.Context(), h.me, []string{a.Number, "nobody"})
	fails(t, err, "not-found")
	var out bytes.Buffer
	q := service.Query{Text: "res", Sort: []lookup.Order{{Key: "power", Down: true}}}
	require.NoError(t, h.ExportParts(t.Context(), h.me, q, []string{"number", "power"}, "csv", &out))
	assert.Equal(t, "Number,Power rating\n"+bb.Number+",250 mW\n"+a.Number+",125 mW\n", strings.ReplaceAll(out.String(), "\r", ""))
}
