package parts_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/finder"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestAMergedPartLeadsToItsSurvivor(t *testing.T) {
	h := housetest.Open(t)
	a, b := h.Make(housetest.Rated("4k7", "A-1")), h.Make(housetest.Rated("4k7", "B-1"))
	assert.Equal(t, []string{a.Number}, b.Alike, "equal in the identifying parameters")
	a, err := h.Lifecycles.Release(t.Context(), h.Me, a.ID, a.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
	b, err = h.Parts.AddFormer(t.Context(), h.Me, b.ID, b.Version, wire.FormerNumber{Number: "OLD 17"})
	require.NoError(t, err)
	_, err = h.Parts.Merge(t.Context(), h.Me, b.ID, b.Version, wire.Merge{Into: b.Number, Why: "?"})
	housetest.Fails(t, err, "merge-self")
	_, err = h.Parts.Merge(t.Context(), h.Me, b.ID, b.Version+7, wire.Merge{Into: a.Number, Why: "twins"})
	housetest.Fails(t, err, "part-changed")
	keep, err := h.Parts.Merge(t.Context(), h.Me, b.ID, b.Version, wire.Merge{Into: a.Number, Why: "twins"})
	require.NoError(t, err)
	assert.Equal(t, a.Number, keep.Number)
	assert.ElementsMatch(t, []string{b.Number, "OLD 17"}, keep.Former)
	assert.Len(t, keep.Released.Sources, 2, "the survivor takes over the sources")
	assert.Equal(t, 2, keep.Revision)
	for _, n := range []string{b.Number, "old 17"} {
		p, err := h.Parts.Get(t.Context(), h.Me, n)
		require.NoError(t, err)
		assert.Equal(t, a.Number, p.Number)
		l, err := h.Finder.Search(t.Context(), h.Me, finder.Query{Text: n})
		require.NoError(t, err)
		require.Len(t, l.Items, 1, n)
		assert.Equal(t, a.Number, l.Items[0].Number)
	}
	gone, err := h.Parts.Get(t.Context(), h.Me, b.ID)
	require.NoError(t, err)
	assert.Equal(t, a.Number, gone.MergedTo)
	_, err = h.Parts.Save(t.Context(), h.Me, b.ID, gone.Version, housetest.Rated("9k", "C"))
	housetest.Fails(t, err, "merged")
	again := housetest.Rated("9k", "C")
	again.Number = "OLD 17"
	_, err = h.Parts.Create(t.Context(), h.Me, again)
	housetest.Fails(t, err, "number-taken")
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

func TestASuccessorLeadsNobodyInACircle(t *testing.T) {
	h := housetest.Open(t)
	a, b := h.Make(housetest.Rated("1k", "A")), h.Make(housetest.Rated("2k", "B"))
	a, err := h.Parts.SetSuccessor(t.Context(), h.Me, a.ID, a.Version, wire.SuccessorEdit{Number: b.Number, Why: "stopped"})
	require.NoError(t, err)
	assert.Equal(t, &wire.Successor{Number: b.Number, Why: "stopped"}, a.Successor)
	_, err = h.Parts.SetSuccessor(t.Context(), h.Me, b.ID, b.Version, wire.SuccessorEdit{Number: a.Number, Why: "stopped"})
	housetest.Fails(t, err, "successor-circle")
	a, err = h.Parts.SetSuccessor(t.Context(), h.Me, a.ID, a.Version, wire.SuccessorEdit{Why: "it goes on"})
	require.NoError(t, err)
	assert.Nil(t, a.Successor)
}

func TestPartNumbers(t *testing.T) {
	h := housetest.Open(t)
	assert.Equal(t, "EW-R-00001", h.Make(housetest.Resistor("1k", "A-1")).Number)
	kept := housetest.Resistor("2k", "A-2")
	kept.Number = "EW-R-00005"
	assert.Equal(t, "EW-R-00005", h.Make(kept).Number)
	assert.Equal(t, "EW-R-00006", h.Make(housetest.Resistor("3k", "A-3")).Number, "the counter steps past a number that was given")
	again := housetest.Resistor("4k", "A-4")
	again.Number = "ew-r-00005"
	_, err := h.Parts.Create(t.Context(), h.Me, again)
	housetest.Fails(t, err, "number-taken")
	odd := housetest.Resistor("5k", "A-5")
	odd.Number = "OLD 17/b"
	p := h.Make(odd)
	found, err := h.Parts.Get(t.Context(), h.Me, "old 17/B")
	require.NoError(t, err)
	assert.Equal(t, p.ID, found.ID)
	// A retry of the same deed does not use up a number.
	c := h.Me
	c.Deed = deed.NewID()
	one, err := h.Parts.Create(t.Context(), c, housetest.Resistor("6k", "A-6"))
	require.NoError(t, err)
	two, err := h.Parts.Create(t.Context(), c, housetest.Resistor("6k", "A-6"))
	require.NoError(t, err)
	assert.Equal(t, one.Number, two.Number)
	assert.Equal(t, "EW-R-00008", h.Make(housetest.Resistor("7k", "A-7")).Number)
}

func TestOneManufacturerPartNumberBelongsToOnePart(t *testing.T) {
	h := housetest.Open(t)
	first := h.Make(housetest.Resistor("1k", "TW-1K"))
	twin := housetest.Resistor("1k", "tw 1k")
	twin.Sources[0].Manufacturer = "TIDEWRIGHT Ltd."
	_, err := h.Parts.Create(t.Context(), h.Me, twin)
	e := housetest.Fails(t, err, "source-taken")
	assert.Contains(t, e.What, first.Number)
	twin.KeepSeparate = "selected for low noise"
	assert.NotEqual(t, first.Number, h.Make(twin).Number)
	other := h.Make(housetest.Resistor("2k", "TW-2K"))
	steal := other.Draft.Edit()
	steal.Sources = first.Draft.Sources
	_, err = h.Parts.Save(t.Context(), h.Me, other.ID, other.Version, steal)
	housetest.Fails(t, err, "source-taken")
	free := first.Draft.Edit()
	free.Sources = []part.Source{{Manufacturer: "Tidewright", MPN: "TW-1K-B"}}
	_, err = h.Parts.Save(t.Context(), h.Me, first.ID, first.Version, free)
	require.NoError(t, err)
}

func TestDraftsKeepWhatWasNotTouched(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("4k7", "A"))
	e := p.Draft.Edit()
	e.Values["power"] = "1/8 W"
	p, err := h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	byKey := map[string]wire.Value{}
	for _, v := range p.Draft.Values {
		byKey[v.Key] = v
	}
	assert.Equal(t, "125 mW", byKey["power"].Text)
	assert.Equal(t, "1/8 W", byKey["power"].Origin.Written)
	assert.Equal(t, "4k7", byKey["resistance"].Origin.Written, "a value that was not touched keeps its origin")
	assert.Equal(t, "RES 4.7kΩ ±1% 125mW 0805", p.Draft.Description, "a built description follows the values")
	e = p.Draft.Edit()
	e.Description = "the special one"
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	e = p.Draft.Edit()
	e.Values["power"] = ""
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	assert.Equal(t, "the special one", p.Draft.Description, "one that somebody wrote stays")
	e.Values["resistance"] = "1,000 Ω"
	_, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	bad := housetest.Fails(t, err, "values-wrong")
	assert.Equal(t, "values.resistance", bad.Places[0].Location)
	assert.Contains(t, bad.Places[0].Message, "it may be 1 Ω if")
}

func TestAComparisonNamesTheModelsThatDiffer(t *testing.T) {
	h := housetest.Open(t)
	small := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	wide := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip wide", LandPattern: housetest.TwoPads("1.2")})
	hold := func(m wire.Model) *part.Model { return &part.Model{ID: m.ID, Name: m.Name, Revision: m.Revision} }
	e := housetest.Rated("4k7", "A")
	e.LandPattern = hold(small)
	p := h.Make(e)
	p, err := h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
	e.LandPattern = hold(wide)
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	d, err := h.Parts.Diff(t.Context(), h.Me, p.ID, 1, 0)
	require.NoError(t, err)
	require.Len(t, d.Models, 1)
	assert.Equal(t, []string{"land pattern", "Chip", "Chip wide"}, []string{d.Models[0].Place, d.Models[0].From.Name, d.Models[0].To.Name})
	e.LandPattern = nil
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	d, err = h.Parts.Diff(t.Context(), h.Me, p.ID, 1, 0)
	require.NoError(t, err)
	require.Len(t, d.Models, 1)
	assert.Nil(t, d.Models[0].To, "a side without a model has none")
	same, err := h.Parts.Diff(t.Context(), h.Me, p.ID, 1, 1)
	require.NoError(t, err)
	assert.Empty(t, same.Models)
}

func TestAnAlternateThatIsNotEqualIsFlaggedUntilItIs(t *testing.T) {
	h := housetest.Open(t)
	a := h.Make(housetest.Rated("4k7", "A-1"))
	other := housetest.Rated("4k7", "B-1")
	other.Values["tolerance"] = "5 %"
	b := h.Make(other)
	twin := h.Make(housetest.Rated("4k7", "C-1"))
	warned := func(p wire.Part) (out []string) {
		for _, f := range p.Newest().Findings {
			if f.Cause == "alternate-unlike" {
				out = append(out, f.What)
			}
		}
		return out
	}
	p, err := h.Parts.Merge(t.Context(), h.Me, twin.ID, twin.Version, wire.Merge{Into: a.Number, Why: "the same"})
	require.NoError(t, err)
	assert.Empty(t, warned(p), "what is equal is an alternate")
	p, err = h.Parts.Merge(t.Context(), h.Me, b.ID, b.Version, wire.Merge{Into: a.Number, Why: "meant to be the same"})
	require.NoError(t, err)
	assert.Equal(t, []string{"Tidewright B-1: Tolerance ±5 %, not ±1 %"}, warned(p))

	// An editor that knows nothing of it loses nothing.
	e := p.Newest().Edit()
	for i := range e.Sources {
		e.Sources[i].Unlike = nil
	}
	e.Values["power"] = "250 mW"
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	assert.Equal(t, []string{"Tidewright B-1: Tolerance ±5 %, not ±1 %"}, warned(p))
	// What somebody says that it differs in and that it does not is not kept.
	e.Sources[0].Unlike = map[string]string{"tolerance": "1 %", "height": "9 mm", "nowhere": "x", "resistance": ""}
	e.Values["power"] = "125 mW"
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	assert.Nil(t, p.Newest().Sources[0].Unlike)
	e.Values["tolerance"] = "5 %"
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	assert.Empty(t, warned(p), "now all say the same")
}
