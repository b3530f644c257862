package model

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestALandPatternFromATableOfPads(t *testing.T) {
	for _, c := range []struct {
		name, table, want string
		unit              Length
	}{
		{"in the unit of the headings", "Pin|X (mm)|Y (mm)|Width (mm)|Height (mm)\n1|-1|0|1|1.4\n2|1|0|1|1.4", "1 rectangle 1×1.4 at -1,0; 2 rectangle 1×1.4 at 1,0", 0},
		{"in mil", "Pin|X [mil]|Y [mil]|W [mil]|H [mil]|Shape\n1|-50|0|40|60|rect\n2|50|0|40|40|circle", "1 rectangle 1.016×1.524 at -1.27,0; 2 round 1.016×1.016 at 1.27,0", 0},
		{"in the unit of the cells", "Pin|X|Y|Width\n1|-1 mm|0 mm|40 mil", "1 rectangle 1.016×1.016 at -1,0", 0},
		{"in the unit that is given", "Nr.|X|Y|Breite|Höhe\n1|-1,5|0|1|2", "1 rectangle 1×2 at -1.5,0", MM},
		{"without a unit", "Pin|X|Y|Width\n1|-1|0|1", "line 2: the x \"-1\" has no unit", 0},
		{"holes and slots", "Pin|X|Y|Width|Height|Hole|Slot|Plated\n1|0|0|3|2|1|0.8|yes\n|5|0|2|2|2||no", "1 rectangle 3×2 at 0,0 hole 1 slot 0.8;  rectangle 2×2 at 5,0 hole 2 unplated", MM},
		{"corners, turn and side", "Pin|X|Y|Width|Height|Corner|Rotation|Side\n1|0|0|3|2|0.25|90|bottom", "1 rounded 3×2 at 0,0 turn 90 corner 0.25 bottom", MM},
		{"a column that is not known", "Pin|X|Y|Width|Thermal\n1|0|0|1|yes", "the column \"Thermal\" is not known", MM},
		{"no place", "Pin|X|Width\n1|0|1", "no column for the y", MM},
		{"two places", "Pin|X|Pos X|Y|Width\n1|0|0|0|1", "two columns are the x", MM},
		{"no number", "Pin|X|Y|Width\n1|a|0|1", "line 2: the x \"a\" is no length", MM},
		{"an unknown shape", "Pin|X|Y|Width|Shape\n1|0|0|1|star", "the shape \"star\"", MM},
		{"an unknown plating", "Pin|X|Y|Width|Plated\n1|0|0|1|maybe", "neither yes nor no", MM},
		{"no size", "Pin|X|Y|Width\n1|0|0|", "is not above zero", MM},
		{"nothing", "Pin|X|Y|Width", "has no pads", MM},
	} {
		l, err := ReadPads(pinTable(c.table), c.unit)
		if err != nil {
			assert.ErrorContains(t, err, c.want, c.name)
			continue
		}
		got := ""
		for i, p := range l.Pads {
			if i > 0 {
				got += "; "
			}
			got += fmt.Sprintf("%s %s %s×%s at %s,%s", p.Number, p.Shape, p.Width, p.Height, p.At.X, p.At.Y)
			for _, x := range []struct {
				is   bool
				text string
			}{{p.Turn != 0, " turn " + p.Turn.String()}, {p.Corner != 0, " corner " + p.Corner.String()}, {p.Hole != 0, " hole " + p.Hole.String()}, {p.Slot != 0, " slot " + p.Slot.String()}, {p.Unplated, " unplated"}, {p.Bottom, " bottom"}} {
				if x.is {
					got += x.text
				}
			}
		}
		assert.Equal(t, c.want, got, c.name)
	}
}

// What is written as a table is read back as it was.
func TestATableOfPadsIsReadBack(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 3))
	for range 500 {
		l := &LandPattern{}
		for i := range 1 + rng.IntN(30) {
			p := Pad{Number: fmt.Sprint(i + 1), Shape: []string{PadRectangle, PadRound, PadOblong, PadRounded, PadChamfered}[rng.IntN(5)], At: Point{Length(rng.IntN(1e8)) - 5e7, Length(rng.IntN(1e8))}, Width: MM + Length(rng.IntN(1e7)), Height: MM / 2, Turn: Angle(rng.IntN(360)) * Degree}
			if p.Shape == PadRound {
				p.Height = p.Width
			}
			if p.Shape == PadRounded || p.Shape == PadChamfered {
				p.Corner = MM / 10
			}
			if rng.IntN(3) == 0 {
				p.Hole, p.Unplated = MM/3, rng.IntN(2) == 0
			} else {
				p.Bottom = rng.IntN(4) == 0
			}
			p.normal()
			l.Pads = append(l.Pads, p)
		}
		table := PadTable(l)
		got, err := ReadPads(PinTable{Headings: table[0], Rows: table[1:], FirstLine: 2}, 0)
		require.NoError(t, err)
		require.Equal(t, l.Pads, got.Pads)
	}
}
