package model

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A table may have as many pads as a model, and not one more.
func TestATableHasAtMostAsManyPadsAsAModel(t *testing.T) {
	rows := func(n int) string {
		var b strings.Builder
		b.WriteString("Pin|X|Y|Width")
		for i := range n {
			fmt.Fprintf(&b, "\n%d|%d|%d|1", i+1, 2*(i%900), 2*(i/900))
		}
		return b.String()
	}
	l, err := ReadPads(pinTable(rows(MostPins)), MM)
	require.NoError(t, err)
	assert.Len(t, l.Pads, MostPins)
	_, err = ReadPads(pinTable(rows(MostPins+1)), MM)
	assert.ErrorContains(t, err, fmt.Sprintf("more than %d pads", MostPins))
}

// An arc whose three points lie on a line is that line, wherever on it the middle one was set.
func TestAnArcThatIsALineIsHalvedInItsMiddle(t *testing.T) {
	for _, c := range []struct{ from, on, to, middle Point }{
		{Point{0, 0}, Point{2 * MM, 1 * MM}, Point{10 * MM, 5 * MM}, Point{5 * MM, 5 * MM / 2}},
		{Point{-4 * MM, 6 * MM}, Point{-3 * MM, 6 * MM}, Point{8 * MM, 6 * MM}, Point{2 * MM, 6 * MM}},
		{Point{6 * MM, -4 * MM}, Point{6 * MM, 0}, Point{6 * MM, 10 * MM}, Point{6 * MM, 3 * MM}},
	} {
		assert.Equal(t, []Point{c.from, c.middle, c.to}, halved([]Point{c.from, c.on, c.to}))
	}
	quarter := halved([]Point{{10 * MM, 0}, {Length(8 * MM), Length(6 * MM)}, {0, 10 * MM}})
	assert.InDelta(t, 7.0711*float64(MM), float64(quarter[1].X), 1e-4*float64(MM))
	assert.InDelta(t, 7.0711*float64(MM), float64(quarter[1].Y), 1e-4*float64(MM))
}

// Turns add up, and a whole one is none.
func TestAFigureIsTurnedOn(t *testing.T) {
	for _, c := range []struct{ turn, by, want Angle }{
		{0, 90 * Degree, 90 * Degree}, {90 * Degree, 45 * Degree, 135 * Degree}, {270 * Degree, 180 * Degree, 90 * Degree}, {180 * Degree, 180 * Degree, 0}, {30 * Degree, 0, 30 * Degree},
	} {
		f := Figure{Shape: PadRectangle, Width: 2 * MM, Height: MM, At: Point{MM, 0}, Turn: c.turn}.Turned(c.by)
		assert.Equal(t, c.want, f.Turn)
		assert.Equal(t, Point{MM, 0}.Turned(c.by), f.At)
	}
}

// A content that holds nothing yet is of a kind all the same.
func TestAnEmptyContentIsOfAKindThatThereIs(t *testing.T) {
	for _, k := range Kinds {
		assert.NoError(t, (&Content{Kind: k, Name: "X"}).Check(), k)
	}
	assert.ErrorContains(t, (&Content{Kind: "drawing", Name: "X"}).Check(), `"drawing" is no kind of model`)
	assert.Error(t, (&Content{}).Check())
}
