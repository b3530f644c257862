package fitting_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/core/model/redraw"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

func causesOf(all []wire.ModelFinding) (out []string) {
	for _, f := range all {
		out = append(out, f.Cause)
	}
	return out
}

func TestADrawingIsTriedAgainstThePartThatUsesIt(t *testing.T) {
	h := housetest.Open(t)
	sym := h.Model(wire.ModelEdit{Kind: "symbol", Name: "Resistor", Symbol: housetest.TwoPins("1", "2")})
	land := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	mm := model.MustLength
	body := h.Model(wire.ModelEdit{Kind: "body", Name: "Block", Body: &model.Body{StandIn: true, Box: model.Box3{Min: model.Point3{X: -mm("1"), Y: -mm("0.6")}, Max: model.Point3{X: mm("1"), Y: mm("0.6"), Z: mm("0.5")}}}})
	e := housetest.Resistor("1k", "A")
	e.Symbol, e.LandPattern, e.Body = &part.Model{ID: sym.ID, Revision: 1}, &part.Model{ID: land.ID, Revision: 1}, &part.Model{ID: body.ID, Revision: 1}
	p := h.Make(e)
	ask := wire.DrawingTry{Kind: "land pattern", Name: "Chip", LandPattern: land.Released.LandPattern, Model: land.ID, Part: p.Number}

	out, err := h.Fitting.TryDrawing(t.Context(), h.Me, ask)
	require.NoError(t, err)
	assert.Empty(t, out.Fit)
	assert.Equal(t, []string{"pads", "graphics"}, []string{out.Lists[0].Of, out.Lists[1].Of})
	assert.Equal(t, land.Released.LandPattern, out.LandPattern, "nothing was asked to be changed")
	assert.Contains(t, out.SVG, "<svg")

	ask.Changes = []redraw.Change{{Do: redraw.Set, Of: redraw.Pads, Rows: []int{1}, Column: "number", Value: "3"}, {Do: redraw.Move, Of: redraw.Pads, Rows: []int{0, 1}, By: model.Point{X: mm("5")}}}
	out, err = h.Fitting.TryDrawing(t.Context(), h.Me, ask)
	require.NoError(t, err)
	var says []string
	for _, f := range out.Fit {
		says = append(says, f.What)
	}
	assert.Contains(t, says, "1 pin is on no pad: 2")
	assert.Contains(t, causesOf(out.Findings), model.CauseOrigin, "the house wants the origin in the middle")
	assert.Equal(t, []int{0, 1}, out.Selected)

	// What one click settles is settled in the drawing, too.
	ask.LandPattern, ask.Changes = out.LandPattern, []redraw.Change{{Do: redraw.Settle, Value: model.CauseOrigin}}
	out, err = h.Fitting.TryDrawing(t.Context(), h.Me, ask)
	require.NoError(t, err)
	assert.NotContains(t, causesOf(out.Findings), model.CauseOrigin)

	after, err := h.Models.Get(t.Context(), h.Me, land.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{land.Version, land.Released}, []any{after.Version, after.Released}, "a try keeps nothing")

	// The symbol is held against the pads.
	out, err = h.Fitting.TryDrawing(t.Context(), h.Me, wire.DrawingTry{Kind: "symbol", Name: "Resistor", Symbol: sym.Released.Symbol, Part: p.ID, Changes: []redraw.Change{{Do: redraw.Add, Of: redraw.Pins}}})
	require.NoError(t, err)
	require.Len(t, out.Fit, 1)
	assert.Contains(t, out.Fit[0].What, "3")
}

func TestDrawingsFromNothingAndWhatIsRefused(t *testing.T) {
	h := housetest.Open(t)
	out, err := h.Fitting.TryDrawing(t.Context(), h.Me, wire.DrawingTry{Kind: "symbol"})
	require.NoError(t, err)
	assert.Empty(t, out.Lists[0].Rows)
	out, err = h.Fitting.TryDrawing(t.Context(), h.Me, wire.DrawingTry{Kind: "symbol", Name: "S", Changes: []redraw.Change{{Do: redraw.Add, Of: redraw.Pins, Count: 3}}})
	require.NoError(t, err)
	assert.Len(t, out.Symbol.Pins, 3)

	drawn := out.Symbol
	for says, in := range map[string]wire.DrawingTry{
		"Nothing was changed: X, row 2: \"wide\" is no length":          {Kind: "symbol", Symbol: drawn, Changes: []redraw.Change{{Do: redraw.Set, Of: redraw.Pins, Rows: []int{1}, Column: "x", Value: "wide"}}},
		"Nothing was changed, for change 2 cannot be made: no row is":   {Kind: "symbol", Symbol: drawn, Changes: []redraw.Change{{Do: redraw.Mirror, Of: redraw.Pins, Rows: []int{1}}, {Do: redraw.Move, Of: redraw.Pins}}},
		"The drawing is none of a land pattern":                         {Kind: "land pattern", Symbol: drawn},
		"The drawing is none of a body":                                 {Kind: "body"},
		"The drawing cannot be looked at: pin 1 of the list":            {Kind: "symbol", Symbol: &model.Symbol{Pins: []model.Pin{{Number: "1", Type: "sideways", Runs: "right"}}}},
		"There is no such model":                                        {Kind: "symbol", Symbol: drawn, Model: "x"},
		"There is no such part":                                         {Kind: "symbol", Symbol: drawn, Part: "EW-X-99999"},
		"The drawing cannot be looked at: graphics 1 of the list: a li": {Kind: "symbol", Symbol: &model.Symbol{Shapes: []model.Shape{{Form: model.Line, Points: []model.Point{{}}}}}},
	} {
		_, err := h.Fitting.TryDrawing(t.Context(), h.Me, in)
		assert.ErrorContains(t, err, says)
	}
	reader := h.Me
	reader.Actor.Role = deed.Reader
	_, err = h.Fitting.TryDrawing(t.Context(), reader, wire.DrawingTry{Kind: "symbol"})
	housetest.Fails(t, err, "not-allowed")
}
