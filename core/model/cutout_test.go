package model

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func ring(outer, inner Length) Pad {
	return Pad{Number: "1", Shape: PadRound, Width: outer, Height: outer, CutOuts: []CutOut{{Shape: PadRound, Width: inner, Height: inner}}}
}

func TestCutOutsLieInTheirCopper(t *testing.T) {
	cut := func(shape string, w, h, x, y float64) CutOut {
		return CutOut{Shape: shape, Width: Length(w * float64(MM)), Height: Length(h * float64(MM)), At: at(x, y)}
	}
	for _, c := range []struct {
		name string
		of   string
		cuts []CutOut
		err  string
	}{
		{"a ring", PadRound, []CutOut{cut(PadRound, 1, 1, 0, 0)}, ""},
		{"as large as its copper", PadRound, []CutOut{cut(PadRound, 4.1, 4.1, 0, 0)}, "does not lie within"},
		{"beside it", PadRound, []CutOut{cut(PadRound, 1, 1, 4, 0)}, "does not lie within"},
		{"over its edge", PadRectangle, []CutOut{cut(PadRectangle, 1, 1, 1.8, 0)}, "does not lie within"},
		{"a bar that reaches through", PadRectangle, []CutOut{cut(PadRectangle, 6, 0.5, 0, 0)}, "does not lie within"},
		{"in a corner that is round", PadRound, []CutOut{cut(PadRectangle, 0.6, 0.6, 1.6, 1.6)}, "does not lie within"},
		{"in a corner that is not", PadRectangle, []CutOut{cut(PadRectangle, 0.6, 0.6, 1.6, 1.6)}, ""},
		{"two apart", PadRectangle, []CutOut{cut(PadRound, 1, 1, -1, 0), cut(PadRound, 1, 1, 1, 0)}, ""},
		{"two on each other", PadRectangle, []CutOut{cut(PadRound, 1, 1, -0.4, 0), cut(PadRound, 1, 1, 0.4, 0)}, "lie on each other"},
		{"one in another", PadRectangle, []CutOut{cut(PadRound, 0.5, 0.5, 0, 0), cut(PadRound, 2, 2, 0, 0)}, "lie on each other"},
		{"a cross of two", PadRectangle, []CutOut{cut(PadRectangle, 3, 0.5, 0, 0), cut(PadRectangle, 0.5, 3, 0, 0)}, "lie on each other"},
		{"nothing wide", PadRectangle, []CutOut{cut(PadRound, 0, 0, 0, 0)}, "not above zero"},
		{"no shape", PadRectangle, []CutOut{cut("star", 1, 1, 0, 0)}, `cut-out's shape "star"`},
		{"too many", PadRectangle, make([]CutOut, 101), "at most 100"},
	} {
		p := Pad{Number: "1", Shape: c.of, Width: 4 * MM, Height: 4 * MM, CutOuts: c.cuts}
		err := (&LandPattern{Pads: []Pad{p}}).Check()
		if c.err == "" {
			assert.NoError(t, err, c.name)
		} else {
			assert.ErrorContains(t, err, c.err, c.name)
		}
	}
}

// The opening of the mask reaches into a ring from both sides, and closes it where it is narrow; paste that leaves nothing of it is refused.
func TestOpeningsOfARing(t *testing.T) {
	p := ring(3*MM, 2*MM)
	p.Mask = MM / 10
	require.NoError(t, p.check())
	got := p.Opened(OfMask)
	require.Len(t, got, 1)
	assert.Equal(t, 32*MM/10, got[0].Width)
	assert.Equal(t, []CutOut{{Shape: PadRound, Width: 18 * MM / 10, Height: 18 * MM / 10}}, got[0].CutOuts)
	p.Mask = MM
	assert.Empty(t, p.Opened(OfMask)[0].CutOuts)
	p.Mask, p.Paste = 0, -MM/5
	require.NoError(t, p.check())
	assert.Equal(t, 24*MM/10, p.Opened(OfPaste)[0].CutOuts[0].Width)
	p.Paste = -MM / 2
	assert.ErrorContains(t, p.check(), "opening of the paste")
}

// A pad in the middle of a ring shares no copper with it.
func TestAPadInsideARingStandsApart(t *testing.T) {
	outer := ring(3*MM, 2*MM)
	for _, c := range []struct {
		at   Point
		size Length
		meet int
	}{{at(0, 0), MM, 0}, {at(0.4, 0), MM, 0}, {at(0.6, 0), MM, 1}, {at(0, 0), 21 * MM / 10, 1}, {at(2, 0), MM / 2, 0}, {at(1.3, 0), MM / 2, 1}} {
		l := &LandPattern{Pads: []Pad{outer, {Number: "2", Shape: PadRound, At: c.at, Width: c.size, Height: c.size}}}
		assert.Len(t, overlaps(l), c.meet, fmt.Sprint(c))
	}
	solid := outer
	solid.CutOuts = nil
	assert.Len(t, overlaps(&LandPattern{Pads: []Pad{solid, {Number: "2", Shape: PadRound, Width: MM, Height: MM}}}), 1)
}

// However a figure with cut-outs is turned, mirrored and scaled, it is its own again when the same is done back, and another once a cut-out is another.
func TestCutOutsGoWithTheirFigure(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := Figure{Shape: PadRectangle, Width: 6 * MM, Height: 4 * MM, At: at(float64(rapid.IntRange(-3, 3).Draw(t, "x")), 0.5), Turn: Angle(rapid.IntRange(0, 3).Draw(t, "turn")) * 90 * Degree}
		for i := range rapid.IntRange(1, 3).Draw(t, "cuts") {
			f = f.Without(Figure{Shape: rapid.SampledFrom([]string{PadRound, PadRectangle}).Draw(t, "shape"), At: at(float64(i)*1.6-2, rapid.Float64Range(-0.5, 0.5).Draw(t, "y")), Width: MM, Height: MM})
		}
		require.NoError(t, f.check("its"))
		by := Angle(rapid.IntRange(0, 3).Draw(t, "by")) * 90 * Degree
		again := f.Turned(by).Mirrored().Scaled(2).Scaled(0.5).Mirrored().Turned(360*Degree - by)
		off, same := f.Off(again)
		require.True(t, same)
		require.LessOrEqual(t, off, Length(2))

		other := f.Mirrored().Mirrored()
		k := rapid.IntRange(0, len(f.CutOuts)-1).Draw(t, "which")
		switch rapid.IntRange(0, 3).Draw(t, "how") {
		case 0:
			other.CutOuts[k].At.X += MM / 50
		case 1:
			other.CutOuts[k].Width -= MM / 50
		case 2:
			other.CutOuts = append(other.CutOuts[:k], other.CutOuts[k+1:]...)
		case 3:
			other.CutOuts[k].Corner, other.CutOuts[k].Shape = MM/5, PadChamfered
		}
		off, same = f.Off(other)
		require.True(t, !same || off > sameWithin, "%v", off)
	})
}
