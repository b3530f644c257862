package lifecycles_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// A series shares its datasheet, its review and what is said about it: parts without a datasheet of their own pass the gate that asks for one,
// are reviewed beside each other against it, and a remark about the series stands beside each.
func TestASeriesSharesItsDatasheetAndItsReview(t *testing.T) {
	h := housetest.Open(t)
	ines, tomas := h.As("ines", deed.Engineer), h.As("tomas", deed.Engineer)
	h.Lifecycle("parts", "from: [draft, in review], to: released, note: true, who: { role: librarian }, gates: [{ gate: required }]",
		"from: [in review], to: released, note: true, who: { role: engineer, notAuthor: true }, gates: [{ gate: required }, { gate: datasheet }]")
	var all []wire.Part
	for _, x := range [][2]string{{"1k", "SE-1"}, {"2k", "SE-2"}, {"3k", "OT-3"}} {
		p, err := h.Parts.Create(t.Context(), ines, housetest.Resistor(x[0], x[1]))
		require.NoError(t, err)
		p, err = h.Lifecycles.MovePart(t.Context(), ines, p.ID, p.Version, wire.MoveThing{Move: "ask for review"})
		require.NoError(t, err)
		all = append(all, p)
	}
	_, err := h.Lifecycles.Together(t.Context(), tomas, all[0].Number, "")
	housetest.Fails(t, err, "no-datasheet")
	release := func(p wire.Part) error {
		_, err := h.Lifecycles.Move(t.Context(), tomas, wire.MoveThings{To: "released", Note: "looked at", Things: []wire.PartBase{{ID: p.ID, Version: p.Version}}})
		return err
	}
	assert.ErrorContains(t, release(all[0]), "no datasheet is attached")
	paper := sheet(t, h, "se.pdf")
	s, err := h.Series.Make(t.Context(), ines, wire.SeriesEdit{Manufacturer: "Tidewright", Name: "SE", Members: []string{"SE-1", "SE-2", "SE-3"}, Datasheets: []part.File{paper}})
	require.NoError(t, err)
	r, err := h.Lifecycles.Together(t.Context(), tomas, all[0].Number, "")
	require.NoError(t, err)
	assert.Equal(t, []string{"Tidewright: SE", "se.pdf"}, []string{r.Series, r.Sheet.Name})
	var numbers []string
	for _, p := range r.Parts {
		numbers = append(numbers, p.Number)
		assert.Equal(t, []part.File{paper}, p.Datasheets)
	}
	assert.ElementsMatch(t, []string{all[0].Number, all[1].Number}, numbers, "the third is of no series")
	_, err = h.Lifecycles.SignMany(t.Context(), tomas, wire.SignMany{Things: things(r), SignReview: wire.SignReview{All: true, Against: "se.pdf"}})
	require.NoError(t, err)
	_, err = h.Comments.Say(t.Context(), tomas, s.ID, wire.NewComment{Text: "The power is at 70 °C."})
	require.NoError(t, err)
	now, err := h.Parts.Get(t.Context(), tomas, all[0].Number)
	require.NoError(t, err)
	require.NoError(t, release(now))
	assert.ErrorContains(t, release(all[2]), "no datasheet is attached")
}
