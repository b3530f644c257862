package redraw_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/measure/measuretest"
	"jollydrawer/core/model"
	"jollydrawer/core/model/modeltest"
	"jollydrawer/core/model/redraw"
)

var house = model.House{Grid: model.MustLength("1.27"), PinLength: model.MustLength("2.54"), TextSize: model.MustLength("1.27"), LandText: model.MM, Origin: "centre"}

// drawn is a made-up drawing of each kind in turn.
func drawn(seed uint64) model.Content {
	m := modeltest.New(seed)
	c := model.Content{Kind: model.KindSymbol, Name: "made"}
	if seed%2 == 0 {
		c.Symbol = m.Symbol()
	} else {
		c.Kind, c.Land = model.KindLand, m.Land()
	}
	c.Normalise()
	return c
}

func text(t *testing.T, c model.Content) string {
	raw, err := json.Marshal(c)
	require.NoError(t, err)
	return string(raw)
}

func apply(t *testing.T, c model.Content, ch redraw.Change) (model.Content, []int) {
	t.Helper()
	out, selected, err := redraw.Apply(c, house, ch)
	require.NoError(t, err, "%+v", ch)
	return out, selected
}

// cell is what stands in a cell.
func cell(t *testing.T, c model.Content, of string, row int, column string) string {
	t.Helper()
	for _, l := range redraw.Lists(&c) {
		if l.Of != of {
			continue
		}
		i := slices.IndexFunc(l.Columns, func(c redraw.Column) bool { return c.Key == column })
		require.GreaterOrEqual(t, i, 0, column)
		return l.Rows[row].Cells[i]
	}
	t.Fatalf("no list of %s", of)
	return ""
}

// Every cell of a made-up drawing, written back as it stands into a drawing in which it is blank or other, is read as what it was.
func TestWhatStandsInACellIsReadAsWhatItSays(t *testing.T) {
	cells := 0
	for seed := range uint64(48) {
		c := drawn(seed)
		for _, l := range redraw.Lists(&c) {
			for r := range l.Rows {
				for k, column := range l.Columns {
					value := l.Rows[r].Cells[k]
					if value == "own" || l.Of == redraw.Graphics && column.Key == "form" {
						continue
					}
					// Another value first, where the cell takes one, and then the old one again.
					other := otherThan(column, value)
					changed, _, err := redraw.Apply(c, house, redraw.Change{Do: redraw.Set, Of: l.Of, Rows: []int{r}, Column: column.Key, Value: other})
					if err != nil || len(redraw.Lists(&changed)) == 0 || reshapes(column.Key) {
						continue
					}
					back, _ := apply(t, changed, redraw.Change{Do: redraw.Set, Of: l.Of, Rows: []int{r}, Column: column.Key, Value: value})
					require.Equal(t, value, cell(t, back, l.Of, r, column.Key), "seed %d, %s row %d, %s", seed, l.Of, r, column.Key)
					unplaced(&back)
					same := c
					back.Normalise()
					unplaced(&same)
					require.Equal(t, text(t, same), text(t, back), "seed %d, %s row %d, %s: %q, then %q", seed, l.Of, r, column.Key, other, value)
					cells++
				}
			}
		}
	}
	assert.Greater(t, cells, 4_000, "cells that were written twice")
}

// reshapes names the columns that take something else away: a shape its corners, a hole its slot.
func reshapes(column string) bool {
	return slices.Contains([]string{"shape", "hole", "unit", "height", "width", "bottom", "mask", "paste"}, column)
}

func otherThan(c redraw.Column, value string) string {
	switch c.Is {
	case "choice":
		for _, o := range c.Choices {
			if o != value {
				return o
			}
		}
	case "length":
		if value == "0.3" {
			return "0.4"
		}
		return "0.3"
	case "angle":
		if value == "90" {
			return "0"
		}
		return "90"
	}
	if c.Key == "points" {
		return "0 0; 1 0; 1 1"
	}
	return "other"
}

// unplaced forgets which pins were placed by hand: that is set by whatever moves one.
func unplaced(c *model.Content) {
	if c.Symbol != nil {
		s := *c.Symbol
		s.Pins = slices.Clone(s.Pins)
		for i := range s.Pins {
			s.Pins[i].Placed = false
		}
		c.Symbol = &s
	}
}

// What is done and undone by the opposite leaves the drawing as it was, and no change touches the drawing it began with.
func TestMovingTurningAndMirroringComeBack(t *testing.T) {
	for seed := range uint64(200) {
		c := drawn(seed)
		unplaced(&c)
		before := text(t, c)
		d := &measuretest.Draws{State: seed + 7}
		for _, l := range redraw.Lists(&c) {
			var some []int
			for r := range l.Rows {
				if d.IntN(3) > 0 {
					some = append(some, r)
				}
			}
			if len(some) == 0 {
				continue
			}
			by := model.Point{X: model.Length(d.IntN(9)) * model.Mil, Y: -model.Length(d.IntN(9)) * model.MM}
			there, selected := apply(t, c, redraw.Change{Do: redraw.Move, Of: l.Of, Rows: some, By: by})
			assert.Equal(t, some, selected)
			moved, _ := apply(t, there, redraw.Change{Do: redraw.Move, Of: l.Of, Rows: some, By: model.Point{X: -by.X, Y: -by.Y}})
			turned, mirrored := c, c
			for range 4 {
				turned, _ = apply(t, turned, redraw.Change{Do: redraw.Turn, Of: l.Of, Rows: some, Angle: 90 * model.Degree})
			}
			for range 2 {
				mirrored, _ = apply(t, mirrored, redraw.Change{Do: redraw.Mirror, Of: l.Of, Rows: some})
			}
			for what, got := range map[string]model.Content{"moved": moved, "turned": turned, "mirrored": mirrored} {
				unplaced(&got)
				if l.Of == redraw.Graphics {
					got = boxes(got)
				}
				want := c
				if l.Of == redraw.Graphics {
					want = boxes(c)
				}
				got.Normalise()
				want.Normalise()
				require.Equal(t, text(t, want), text(t, got), "seed %d: %s there and back, of %s", seed, what, l.Of)
			}
		}
		require.Equal(t, before, text(t, c), "the drawing that was changed from is as it was")
	}
}

// boxes writes each rectangle from its lower left to its upper right corner, which is the same rectangle.
func boxes(c model.Content) model.Content {
	do := func(all []model.Shape) []model.Shape {
		all = slices.Clone(all)
		for i, g := range all {
			if g.Form == model.Rectangle {
				b := g.Bounds()
				all[i].Points = []model.Point{b.Min, b.Max}
			}
		}
		return all
	}
	if c.Symbol != nil {
		s := *c.Symbol
		s.Shapes = do(s.Shapes)
		c.Symbol = &s
	}
	if c.Land != nil {
		l := *c.Land
		l.Shapes = do(l.Shapes)
		c.Land = &l
	}
	return c
}

// A quarter turn is the same as the geometry says: a pin runs where the turned line from its end to the body runs.
func TestATurnedPinRunsAsItsLineDoes(t *testing.T) {
	for _, runs := range []string{model.Right, model.Up, model.Left, model.Down} {
		for quarters := range 8 {
			c := model.Content{Kind: model.KindSymbol, Name: "s", Symbol: &model.Symbol{Pins: []model.Pin{{Number: "1", Type: model.Passive, Runs: runs, At: model.Point{X: 3 * model.MM, Y: model.MM}, Length: 2 * model.MM}}}}
			was := c.Symbol.Pins[0]
			got, _ := apply(t, c, redraw.Change{Do: redraw.Turn, Of: redraw.Pins, Rows: []int{0}, Angle: model.Angle(quarters) * 90 * model.Degree})
			p := got.Symbol.Pins[0]
			turn := func(q model.Point) model.Point {
				for range quarters % 4 {
					q = model.Point{X: -q.Y, Y: q.X}
				}
				return q
			}
			line := func(p model.Pin) model.Point { return model.Point{X: p.Inner().X - p.At.X, Y: p.Inner().Y - p.At.Y} }
			assert.Equal(t, turn(line(was)), line(p), "%s turned %d times", runs, quarters)
		}
	}
}

func TestNumbersGoOnAsPeopleCount(t *testing.T) {
	for n, next := range map[string]string{"": "1", "1": "2", "9": "10", "099": "100", "A1": "A2", "A9": "A10", "B": "C", "Z": "AA", "z": "aa", "1A": "1B", "EP": "EP2", "EP2": "EP3", "AA9": "AA10",
		"S.1": "S.2", "SH": "SH2", "-": "-2", "P0.07": "P0.08", "99999999999999999999": "100000000000000000000"} {
		assert.Equal(t, next, redraw.Next(n), "after %q", n)
	}
}

// A 48-pin quad, a 144-ball grid and a connector are made from nothing with a few changes; where the pads come to lie is worked out here.
func TestPackagesFromNothingInAFewChanges(t *testing.T) {
	mm := model.MustLength
	t.Run("ball grid", func(t *testing.T) {
		c := model.Content{Kind: model.KindLand, Name: "grid", Land: &model.LandPattern{}}
		c, _ = apply(t, c, redraw.Change{Do: redraw.Add, Of: redraw.Pads, Value: "A1"})
		for column, value := range map[string]string{"shape": "round", "width": "0.4"} {
			c, _ = apply(t, c, redraw.Change{Do: redraw.Set, Of: redraw.Pads, Rows: []int{0}, Column: column, Value: value})
		}
		c, _ = apply(t, c, redraw.Change{Do: redraw.Add, Of: redraw.Pads, Rows: []int{0}, Count: 11, By: model.Point{X: mm("0.8")}})
		row := []int{0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11}
		for i, letter := range []string{"B", "C", "D", "E", "F", "G", "H", "J", "K", "L", "M"} {
			c, _ = apply(t, c, redraw.Change{Do: redraw.Copy, Of: redraw.Pads, Rows: row, By: model.Point{Y: -mm("0.8") * model.Length(i+1)}, Value: letter + "1"})
		}
		require.Len(t, c.Land.Pads, 144)
		for i, p := range c.Land.Pads {
			r, k := i/12, i%12
			assert.Equal(t, fmt.Sprintf("%c%d", "ABCDEFGHJKLM"[r], k+1), p.Number)
			assert.Equal(t, model.Point{X: mm("0.8") * model.Length(k), Y: -mm("0.8") * model.Length(r)}, p.At)
			assert.Equal(t, []any{model.PadRound, mm("0.4"), mm("0.4")}, []any{p.Shape, p.Width, p.Height})
		}
	})
	t.Run("quad", func(t *testing.T) {
		c := model.Content{Kind: model.KindLand, Name: "quad", Land: &model.LandPattern{}}
		c, _ = apply(t, c, redraw.Change{Do: redraw.Add, Of: redraw.Pads})
		for column, value := range map[string]string{"width": "1.5", "height": "0.3", "x": "-4.2", "y": "2.75"} {
			c, _ = apply(t, c, redraw.Change{Do: redraw.Set, Of: redraw.Pads, Rows: []int{0}, Column: column, Value: value})
		}
		c, _ = apply(t, c, redraw.Change{Do: redraw.Add, Of: redraw.Pads, Rows: []int{0}, Count: 11, By: model.Point{Y: -mm("0.5")}})
		side := []int{0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11}
		for q := 1; q < 4; q++ {
			c, _ = apply(t, c, redraw.Change{Do: redraw.Copy, Of: redraw.Pads, Rows: side, Angle: model.Angle(q) * 90 * model.Degree})
		}
		require.Len(t, c.Land.Pads, 48)
		at := map[string]model.Point{"1": {X: -mm("4.2"), Y: mm("2.75")}, "12": {X: -mm("4.2"), Y: -mm("2.75")}, "13": {X: -mm("2.75"), Y: -mm("4.2")}, "24": {X: mm("2.75"), Y: -mm("4.2")},
			"25": {X: mm("4.2"), Y: -mm("2.75")}, "36": {X: mm("4.2"), Y: mm("2.75")}, "37": {X: mm("2.75"), Y: mm("4.2")}, "48": {X: -mm("2.75"), Y: mm("4.2")}}
		found := 0
		for _, p := range c.Land.Pads {
			if where, ok := at[p.Number]; ok {
				assert.Equal(t, where, p.At, p.Number)
				found++
			}
		}
		assert.Equal(t, len(at), found)
	})
	t.Run("connector", func(t *testing.T) {
		c := model.Content{Kind: model.KindSymbol, Name: "connector", Symbol: &model.Symbol{}}
		c, selected, err := redraw.Apply(c, house, redraw.Change{Do: redraw.Add, Of: redraw.Pins, Count: 10})
		require.NoError(t, err)
		require.Len(t, selected, 10)
		for i, p := range c.Symbol.Pins {
			assert.Equal(t, model.Pin{Number: fmt.Sprint(i + 1), Type: model.Passive, Runs: model.Right, Length: house.PinLength, At: model.Point{Y: -house.Grid * model.Length(i)}, Placed: true}, p)
		}
		c, selected = apply(t, c, redraw.Change{Do: redraw.Add, Of: redraw.Graphics, Value: "rectangle"})
		assert.Equal(t, []int{0}, selected)
		b := c.Symbol.Shapes[0].Bounds()
		assert.Equal(t, []model.Length{mm("2.54"), mm("2.54") + 4*mm("1.27"), -10 * mm("1.27"), mm("1.27")}, []model.Length{b.Min.X, b.Max.X, b.Min.Y, b.Max.Y}, "from where the pins end")
	})
}

// Names that are counted are counted on; no other name is made up.
func TestAddedPinsAreNumberedOnAndNotNamedByGuess(t *testing.T) {
	c := model.Content{Kind: model.KindSymbol, Name: "s", Symbol: &model.Symbol{Pins: []model.Pin{
		{Number: "3", Name: "D0", Type: model.Input, Runs: model.Left, At: model.Point{X: 10 * model.MM}}, {Number: "5", Name: "VCC", Type: model.PowerIn, Runs: model.Left, At: model.Point{X: 10 * model.MM, Y: -5 * model.MM}}}}}
	on, _ := apply(t, c, redraw.Change{Do: redraw.Add, Of: redraw.Pins, Rows: []int{0}, Value: "4"})
	assert.Equal(t, []any{"4", "D1", model.Input, model.Left}, []any{on.Symbol.Pins[2].Number, on.Symbol.Pins[2].Name, on.Symbol.Pins[2].Type, on.Symbol.Pins[2].Runs})
	on, _ = apply(t, c, redraw.Change{Do: redraw.Add, Of: redraw.Pins, Count: 2})
	assert.Equal(t, []string{"6", "", "7", ""}, []string{on.Symbol.Pins[2].Number, on.Symbol.Pins[2].Name, on.Symbol.Pins[3].Number, on.Symbol.Pins[3].Name})
	assert.Equal(t, -10*model.MM, on.Symbol.Pins[2].At.Y, "as far from the last as the last is from the one before it")
}

func TestAligningSpreadingSnapping(t *testing.T) {
	pads := func(at ...string) model.Content {
		c := model.Content{Kind: model.KindLand, Name: "l", Land: &model.LandPattern{}}
		for i, p := range at {
			x, y, _ := strings.Cut(p, " ")
			c.Land.Pads = append(c.Land.Pads, model.Pad{Number: fmt.Sprint(i + 1), Shape: model.PadRound, Width: model.MM, Height: model.MM, At: model.Point{X: model.MustLength(x), Y: model.MustLength(y)}})
		}
		return c
	}
	for _, x := range []struct {
		name string
		is   []string
		ch   redraw.Change
		want []string
	}{
		{"left", []string{"1 1", "2 2", "0.5 3"}, redraw.Change{Do: redraw.Align, Value: "left"}, []string{"0.5 1", "0.5 2", "0.5 3"}},
		{"right", []string{"1 1", "2 2", "0.5 3"}, redraw.Change{Do: redraw.Align, Value: "right"}, []string{"2 1", "2 2", "2 3"}},
		{"top", []string{"1 1", "2 2", "0.5 3"}, redraw.Change{Do: redraw.Align, Value: "top"}, []string{"1 3", "2 3", "0.5 3"}},
		{"bottom", []string{"1 1", "2 2", "0.5 3"}, redraw.Change{Do: redraw.Align, Value: "bottom"}, []string{"1 1", "2 1", "0.5 1"}},
		{"evenly across", []string{"0 0", "0.1 1", "3 0"}, redraw.Change{Do: redraw.Spread}, []string{"0 0", "1.5 1", "3 0"}},
		{"evenly down, in the order in which they lie", []string{"0 0", "0 -4", "0 -1"}, redraw.Change{Do: redraw.Spread}, []string{"0 0", "0 -4", "0 -2"}},
		{"by a distance", []string{"0 0", "0 -4", "0 -1"}, redraw.Change{Do: redraw.Spread, Value: "50 mil"}, []string{"0 0", "0 -2.54", "0 -1.27"}},
		{"onto a grid", []string{"0.12 -0.13", "0.125 0"}, redraw.Change{Do: redraw.Snap, Value: "0.05"}, []string{"0.1 -0.15", "0.15 0"}},
	} {
		c := pads(x.is...)
		x.ch.Of, x.ch.Rows = redraw.Pads, []int{0, 1, 2}[:len(x.is)]
		got, _ := apply(t, c, x.ch)
		var where []string
		for _, p := range got.Land.Pads {
			where = append(where, p.At.X.String()+" "+p.At.Y.String())
		}
		assert.Equal(t, x.want, where, x.name)
	}
}

// Sentences say which cell, and what can be written there.
func TestWhatCannotBeIsRefusedWithItsPlace(t *testing.T) {
	symbol := model.Content{Kind: model.KindSymbol, Name: "s", Symbol: &model.Symbol{Units: []string{"A", "B"}, Pins: []model.Pin{{Number: "1", Type: model.Input, Runs: model.Right, Unit: 1}, {Number: "2", Type: model.Input, Runs: model.Right, Unit: 2}},
		Shapes: []model.Shape{{Form: model.Rectangle, Points: []model.Point{{}, {X: model.MM, Y: model.MM}}}}}}
	land := model.Content{Kind: model.KindLand, Name: "l", Land: &model.LandPattern{Pads: []model.Pad{{Number: "1", Shape: model.PadRectangle, Width: model.MM, Height: model.MM}, {Number: "2", Shape: model.PadPolygon, Width: model.MM, Height: model.MM, Points: []model.Point{{}, {X: model.MM}, {Y: model.MM}}}}}}
	set := func(of string, row int, column, value string) redraw.Change {
		return redraw.Change{Do: redraw.Set, Of: of, Rows: []int{row}, Column: column, Value: value}
	}
	for _, x := range []struct {
		c    model.Content
		ch   redraw.Change
		says string
	}{
		{symbol, set("pins", 0, "x", "wide"), `X, row 1: "wide" is no length: write a number of millimetres such as 1.27, or one with its unit such as 50 mil`},
		{symbol, set("pins", 0, "number", " "), "it has no number"},
		{symbol, set("pins", 1, "type", "power"), `Type, row 2: "power" is none of input, output`},
		{symbol, set("pins", 0, "unit", "C"), `Unit, row 1: "C" is none of A, B`},
		{symbol, set("pins", 0, "colour", "red"), `pins have no column "colour"`},
		{symbol, set("pins", 2, "x", "1"), "there is no row 3 among the 2 pins"},
		{symbol, set("pads", 0, "x", "1"), `a symbol has no list of "pads": it has pins and graphics`},
		{symbol, redraw.Change{Do: redraw.Drawing, Column: "units", Value: "A"}, "the unit B has the pin 2 still"},
		{symbol, redraw.Change{Do: redraw.Drawing, Column: "density", Value: "most"}, `nothing called "density" is said of a symbol`},
		{symbol, redraw.Change{Do: redraw.Turn, Of: "pins", Rows: []int{0}, Angle: 45 * model.Degree}, "a pin turns by quarters, not by 45°"},
		{symbol, redraw.Change{Do: redraw.Turn, Of: "graphics", Rows: []int{0}, Angle: 45 * model.Degree}, "a rectangle turns by quarters"},
		{symbol, redraw.Change{Do: redraw.Move, Of: "pins"}, "no row is chosen"},
		{symbol, redraw.Change{Do: redraw.Move, Of: "pins", Rows: []int{1, 1}}, "row 2 of the pins is named twice"},
		{symbol, redraw.Change{Do: redraw.Number, Of: "pins", Rows: []int{0}, Value: "2"}, "the number 2 stands on a row that is not chosen"},
		{symbol, redraw.Change{Do: redraw.Number, Of: "graphics", Rows: []int{0}, Value: "2"}, "graphics have no numbers"},
		{symbol, redraw.Change{Do: redraw.Add, Of: "pins", Value: "2"}, "the number 2 is taken"},
		{symbol, redraw.Change{Do: redraw.Add, Of: "pins", Count: 5000}, "at most 1000 rows"},
		{symbol, redraw.Change{Do: redraw.Add, Of: "pins", Unit: 3}, "there is no unit 3 among 2"},
		{symbol, redraw.Change{Do: redraw.Add, Of: "graphics", Value: "heart"}, `"heart" is no form of graphics`},
		{symbol, set("graphics", 0, "radius", "1"), "Radius, row 1: a rectangle has none"},
		{symbol, set("graphics", 0, "points", "1 2; 3"), `Points, row 1: "3" is no point`},
		{symbol, set("graphics", 0, "points", "1 2"), "Points, row 1: a rectangle has 1 points; it needs 2"},
		{symbol, redraw.Change{Do: redraw.Spread, Of: "pins", Rows: []int{0}}, "one row alone cannot be spread"},
		{symbol, redraw.Change{Do: redraw.Settle, Value: "pin-twice"}, `"pin-twice" is no cause that can be mended on a symbol`},
		{land, set("pads", 0, "corner", "0.1"), "Corner, row 1: a rectangle has no corners of a size"},
		{land, set("pads", 1, "width", "3"), "Width, row 2: a polygon is as large as its corners say"},
		{land, set("pads", 0, "width", "0"), "its size of 0 × 1 mm is not above zero"},
		{land, set("pads", 0, "slot", "1"), "it has a slot"},
		{land, set("pads", 0, "below", "round 1"), "Copper below, row 1: a pad without a hole has copper on one side only"},
		{land, set("pads", 0, "mask", "wide"), "none where there is no opening"},
		{land, redraw.Change{Do: redraw.Move, Of: "pads", Rows: []int{0}, By: model.Point{X: 3000 * model.MM}}, "farther than 2000 mm"},
		{land, redraw.Change{Do: redraw.Add, Of: "pads", Count: 1000, By: model.Point{X: model.MustLength("90000000000")}}, "farther than 4000 mm"},
		{land, redraw.Change{Do: redraw.Set, Of: "pads", Rows: []int{0, 1}, Column: "x", Values: []string{"1"}}, "there are 1 values for 2 rows"},
	} {
		before := text(t, x.c)
		_, _, err := redraw.Apply(x.c, house, x.ch)
		require.ErrorContains(t, err, x.says, "%+v", x.ch)
		assert.Equal(t, before, text(t, x.c))
	}
}

func TestPadsKeepNothingTheyCannotHave(t *testing.T) {
	c := model.Content{Kind: model.KindLand, Name: "l", Land: &model.LandPattern{Pads: []model.Pad{{Number: "1", Shape: model.PadRectangle, Width: 2 * model.MM, Height: model.MM}}}}
	set := func(column, value string) {
		c, _ = apply(t, c, redraw.Change{Do: redraw.Set, Of: redraw.Pads, Rows: []int{0}, Column: column, Value: value})
	}
	set("hole", "0.8")
	set("slot", "0.6")
	set("below", "oblong 2.4 x 1.4")
	assert.Equal(t, "oblong 2.4 x 1.4", cell(t, c, redraw.Pads, 0, "below"))
	assert.Equal(t, "none", cell(t, c, redraw.Pads, 0, "paste"), "a pad with a hole has no paste unless it is said")
	set("paste", "0.1")
	assert.Equal(t, "0.1", cell(t, c, redraw.Pads, 0, "paste"))
	set("hole", "0")
	assert.Equal(t, []any{model.Length(0), (*model.Figure)(nil)}, []any{c.Land.Pads[0].Slot, c.Land.Pads[0].Below})
	set("shape", "rounded")
	assert.Equal(t, model.MM/4, c.Land.Pads[0].Corner)
	set("corners", "upper left,lower left")
	set("shape", "polygon")
	assert.Empty(t, c.Land.Pads[0].Corners)
	set("points", "0 0; 3 0; 0 2mm")
	assert.Equal(t, []model.Length{3 * model.MM, 2 * model.MM}, []model.Length{c.Land.Pads[0].Width, c.Land.Pads[0].Height})
	set("shape", "round")
	assert.Equal(t, []any{3 * model.MM, 3 * model.MM, 0}, []any{c.Land.Pads[0].Width, c.Land.Pads[0].Height, len(c.Land.Pads[0].Points)})
	set("mask", "none")
	require.NoError(t, c.Check())
	assert.Empty(t, c.Land.Pads[0].Opened(model.OfMask))
}

func TestUnitsComeAndGo(t *testing.T) {
	c := model.Content{Kind: model.KindSymbol, Name: "s", Symbol: &model.Symbol{Pins: []model.Pin{{Number: "1", Type: model.Input, Runs: model.Right}}, Shapes: []model.Shape{
		{Form: model.Rectangle, Points: []model.Point{{}, {X: model.MM, Y: model.MM}}}, {Form: model.Text, Text: model.Designator, Size: model.MM, Points: []model.Point{{}}}}}}
	c, _ = apply(t, c, redraw.Change{Do: redraw.Drawing, Column: "units", Value: "gate 1; gate 2"})
	assert.Equal(t, []any{1, 1, 0}, []any{c.Symbol.Pins[0].Unit, c.Symbol.Shapes[0].Unit, c.Symbol.Shapes[1].Unit})
	c, rows := apply(t, c, redraw.Change{Do: redraw.Add, Of: redraw.Pins, Unit: 2})
	assert.Equal(t, "gate 2", cell(t, c, redraw.Pins, rows[0], "unit"))
	c, _ = apply(t, c, redraw.Change{Do: redraw.Set, Of: redraw.Pins, Rows: rows, Column: "unit", Value: "gate 1"})
	c, _ = apply(t, c, redraw.Change{Do: redraw.Drawing, Column: "units", Value: ""})
	assert.Empty(t, c.Symbol.Units)
	assert.Equal(t, []int{0, 0, 0}, []int{c.Symbol.Pins[0].Unit, c.Symbol.Pins[1].Unit, c.Symbol.Shapes[0].Unit})
	require.NoError(t, c.Check())
}

// Whatever is asked of a made-up drawing, the answer is a drawing that can be kept or a sentence, and never another drawing beneath.
func FuzzApply(f *testing.F) {
	f.Add(uint64(1), []byte(`[{"do":"move","of":"pads","rows":[0,1],"by":{"x":"1","y":"2"}}]`))
	f.Add(uint64(2), []byte(`[{"do":"add","of":"pins","count":3},{"do":"turn","of":"pins","rows":[0],"angle":"90"}]`))
	f.Add(uint64(4), []byte(`[{"do":"set","of":"graphics","rows":[0],"column":"form","value":"arc"},{"do":"drawing","column":"units","value":"a;b"}]`))
	f.Fuzz(func(t *testing.T, seed uint64, raw []byte) {
		var all []redraw.Change
		if json.Unmarshal(raw, &all) != nil || len(all) > 20 {
			return
		}
		c := drawn(seed % 64)
		for _, ch := range all {
			before := text(t, c)
			next, selected, err := redraw.Apply(c, house, ch)
			require.Equal(t, before, text(t, c))
			if err != nil {
				require.NotEmpty(t, err.Error())
				continue
			}
			require.NoError(t, redraw.Whole(&next))
			for _, l := range redraw.Lists(&next) {
				if l.Of == ch.Of {
					for _, r := range selected {
						require.Less(t, r, len(l.Rows))
					}
				}
			}
			c = next
		}
	})
}

func TestCutOutsAndCopperWithinAreCells(t *testing.T) {
	c := model.Content{Kind: model.KindLand, Name: "Port", Land: &model.LandPattern{Pads: []model.Pad{{Number: "1", Shape: model.PadRound, Width: 3 * model.MM, Height: 3 * model.MM}, {Number: "2", Shape: model.PadRound, At: model.Point{X: 5 * model.MM}, Width: 2 * model.MM, Height: 2 * model.MM, Hole: model.MM}}}}
	set := func(row int, column, text string) error {
		changed, _, err := redraw.Apply(c, house, redraw.Change{Do: redraw.Set, Of: redraw.Pads, Rows: []int{row}, Column: column, Value: text})
		if err == nil {
			c = changed
		}
		return err
	}
	for _, text := range []string{"round 1.6", "rectangle 1 x 0.5 at 0.2, -0.1", "oblong 1 x 0.4 at -0.5, 0.6; round 0.5 at 0.5, -0.5"} {
		require.NoError(t, set(0, "cutOuts", text))
		assert.Equal(t, text, cell(t, c, redraw.Pads, 0, "cutOuts"))
	}
	for text, want := range map[string]string{"round 4": "does not lie within", "star 1": "begins with no shape", "round 1 at 3": "says no place", "round x": "is no length", "round 1; round 1": "lie on each other"} {
		assert.ErrorContains(t, set(0, "cutOuts", text), want, text)
	}
	assert.Equal(t, "oblong 1 x 0.4 at -0.5, 0.6; round 0.5 at 0.5, -0.5", cell(t, c, redraw.Pads, 0, "cutOuts"), "what was refused changed nothing")
	require.NoError(t, set(0, "cutOuts", ""))
	assert.Empty(t, c.Land.Pads[0].CutOuts)
	assert.ErrorContains(t, set(0, "inner", "round 1.2"), "on one side only")
	require.NoError(t, set(1, "inner", "round 1.2"))
	assert.Equal(t, "round 1.2", cell(t, c, redraw.Pads, 1, "inner"))
	require.NoError(t, set(1, "hole", "0"))
	assert.Nil(t, c.Land.Pads[1].Inner, "without a hole there is nothing within")
}
