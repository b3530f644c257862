package model

import (
	"fmt"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"jollydrawer/internal/golden"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func at(x, y float64) Point {
	return Point{Length(x * float64(MM)), Length(y * float64(MM))}
}

// drawings are models with one of everything that is drawn.
func drawings() map[string]struct {
	c Content
	o Preview
} {
	pin := func(number, name, kind, runs string, unit int, p Point) Pin {
		return Pin{Number: number, Name: name, Type: kind, Runs: runs, Unit: unit, At: p, Length: 254 * MM / 100}
	}
	gate := &Symbol{Units: []string{"A", "B", "supply"}, Pins: []Pin{
		pin("1", "IN", Input, Right, 1, at(-7.62, 2.54)), pin("2", "2", Input, Right, 1, at(-7.62, -2.54)), pin("3", "OUT", Output, Left, 1, at(7.62, 0)),
		pin("5", "IN", Input, Right, 2, at(-7.62, 0)), pin("6", "~", TriState, Left, 2, at(7.62, 0)), {Number: "7", Name: "NC", Type: NotConnected, Runs: Left, Unit: 2, At: at(7.62, -2.54), Hidden: true},
		pin("8", "VCC", PowerIn, Down, 3, at(0, 7.62)), pin("4", "A VERY LONG NAME", PowerIn, Up, 3, at(0, -7.62)),
	}, Shapes: []Shape{
		{Form: Rectangle, Unit: 1, Points: []Point{at(5, 5), at(-5, -5)}, Width: MM / 4},
		{Form: Polygon, Unit: 2, Points: []Point{at(-5, 5), at(5, 0), at(-5, -5)}, Filled: true},
		{Form: Circle, Unit: 3, Points: []Point{at(0, 0)}, Radius: 5 * MM},
		{Form: Line, Unit: 3, Points: []Point{at(-5, 0), at(0, 1), at(5, 0)}},
		{Form: Arc, Unit: 1, Points: []Point{at(-5, 0), at(0, 5), at(5, 0)}, Width: MM / 5},
		{Form: Arc, Unit: 1, Points: []Point{at(5, 0), at(0, 2), at(-5, 0)}},
		{Form: Arc, Unit: 1, Points: []Point{at(0, 0), at(1, 1), at(2, 2)}}, // three points on a line are one
		{Form: Arc, Unit: 1, Points: []Point{at(3, 0), at(-3, 0.1), at(3, -1)}},
		{Form: Text, Text: Designator, Size: MM, Points: []Point{at(0, 6)}},
		{Form: Text, Text: "a < b", Points: []Point{at(2, 2)}, Turn: 90 * Degree},
	}}
	yes := true
	land := &LandPattern{Pads: []Pad{
		{Number: "1", Shape: PadRectangle, At: at(-3, 2), Width: 2 * MM, Height: MM},
		{Number: "2", Shape: PadRound, At: at(-3, 0), Width: 15 * MM / 10, Height: 15 * MM / 10, Hole: 8 * MM / 10},
		{Number: "3", Shape: PadOblong, At: at(-3, -2), Width: 2 * MM, Height: MM, Turn: 30 * Degree},
		{Number: "4", Shape: PadRounded, At: at(3, 2), Width: 2 * MM, Height: MM, Corner: MM / 4},
		{Number: "A10", Shape: PadRounded, At: at(3, 0), Width: MM / 2, Height: 2 * MM, Corner: 5 * MM},
		{Number: "6", Shape: PadPolygon, At: at(3, -3), Width: MM, Height: MM, Points: []Point{at(0, 0), at(1, 0), at(0, 1)}, Turn: 90 * Degree, Bottom: true},
		{Shape: PadRound, At: at(0, 4), Width: MM, Height: MM, Hole: MM, Unplated: true},
		{Number: "8", Shape: PadOblong, At: at(0, -4), Width: 3 * MM, Height: 2 * MM, Hole: MM, Slot: MM, WithPaste: &yes},
	}, Shapes: []Shape{
		{Form: Rectangle, Purpose: Courtyard, Points: []Point{at(-5, -6), at(5, 6)}},
		{Form: Line, Purpose: Silkscreen, Points: []Point{at(-1, 3), at(1, 3)}, Width: MM / 5},
		{Form: Rectangle, Purpose: Assembly, Points: []Point{at(-1, -3), at(1, 3)}, Width: MM / 10},
		{Form: Text, Purpose: Assembly, Text: Designator, Size: MM, Points: []Point{at(0, 0)}},
	}}
	rings := &LandPattern{Pads: []Pad{
		{Number: "1", Shape: PadRound, At: at(-3, 0), Width: 3 * MM, Height: 3 * MM, CutOuts: []CutOut{{Shape: PadRound, Width: 2 * MM, Height: 2 * MM}}},
		{Number: "2", Shape: PadRound, At: at(-3, 0), Width: MM, Height: MM},
		{Number: "3", Shape: PadRounded, At: at(2, 0), Width: 4 * MM, Height: 2 * MM, Corner: MM / 2, Turn: 30 * Degree, Mask: MM / 10, CutOuts: []CutOut{{Shape: PadRectangle, At: at(-1, 0.2), Width: MM, Height: MM}, {Shape: PadPolygon, Width: MM, Height: MM, Points: []Point{at(0.5, -0.5), at(1.5, -0.5), at(1.5, 0.5)}}}},
		{Number: "4", Shape: PadRound, At: at(0, -3), Width: 2 * MM, Height: 2 * MM, Hole: MM, Inner: &Figure{Shape: PadRound, Width: 14 * MM / 10, Height: 14 * MM / 10}},
	}}
	box := Box3{Min: Point3{-2 * MM, -3 * MM, 0}, Max: Point3{2 * MM, 3 * MM, 3 * MM / 2}}
	seen := (&Body{Box: box}).Seen(Placement{})
	mark := at(-1.2, 2)
	legs := &Body{Box: box, Mark: &mark, Feet: []Foot{{Min: at(-2, -2.5), Max: at(-1.4, -2)}, {Min: at(-2, 2), Max: at(-1.4, 2.5)}, {Min: at(1.4, -0.3), Max: at(2, 0.3)}}}
	turned := legs.Seen(Placement{TurnZ: 90 * Degree, Scale: 600_000})
	many := &LandPattern{}
	for i := range 40 {
		many.Pads = append(many.Pads, Pad{Number: strings.Repeat("1", i%3+1), Shape: PadRectangle, At: at(float64(i), 0), Width: MM / 3, Height: 2 * MM})
	}
	return map[string]struct {
		c Content
		o Preview
	}{
		"symbol":       {Content{Name: "Gate & more", Symbol: gate}, Preview{Ink: Day, Marked: []string{"3"}, Letter: "U"}},
		"symbol-unit":  {Content{Name: "Gate", Symbol: gate}, Preview{Ink: Night, Unit: 2}},
		"symbol-small": {Content{Name: "Gate", Symbol: gate}, Preview{Ink: Day, Unit: 3, Small: true}},
		"land":         {Content{Name: "Everything", Land: land}, Preview{Ink: Day, Marked: []string{"2"}, Body: &seen, Letter: "C"}},
		"land-rings":   {Content{Name: "Rings", Land: rings}, Preview{Ink: Day}},
		"land-many":    {Content{Name: "Row", Land: many}, Preview{Ink: Day}},
		"land-small":   {Content{Name: "Row", Land: many}, Preview{Ink: Night, Small: true}},
		"body":         {Content{Name: "Box", Body: &Body{Box: box}}, Preview{Ink: Day}},
		"body-feet":    {Content{Name: "Legs", Body: legs}, Preview{Ink: Day}},
		"land-feet":    {Content{Name: "Legs on it", Land: three()}, Preview{Ink: Day, Body: &turned}},
		"body-small":   {Content{Name: "Box", Body: &Body{Box: box, StandIn: true}}, Preview{Ink: Day, Small: true}},
		"nothing":      {Content{Name: "Nothing"}, Preview{Ink: Day}},
	}
}

func TestDrawingsAreAsTheyWereLookedAt(t *testing.T) {
	for name, one := range drawings() {
		t.Run(name, func(t *testing.T) {
			// One element a line, so that a difference can be read.
			got := strings.ReplaceAll(string(one.c.SVG(one.o)), "><", ">\n<")
			golden.Equal(t, filepath.Join("testdata", name+".svg"), got)
		})
	}
}

func TestEveryDrawingLiesWithinItsPaper(t *testing.T) {
	// A quarter, a half and three quarters of a circle of 5 mm about the origin, and what they reach.
	for _, one := range []struct {
		points   []Point
		min, max Point
	}{
		{[]Point{at(5, 0), at(3.5355339, 3.5355339), at(0, 5)}, at(0, 0), at(5, 5)},
		{[]Point{at(5, 0), at(0, 5), at(-5, 0)}, at(-5, 0), at(5, 5)},
		{[]Point{at(-5, 0), at(0, 5), at(5, 0)}, at(-5, 0), at(5, 5)},
		{[]Point{at(5, 0), at(0, -5), at(-5, 0)}, at(-5, -5), at(5, 0)},
		{[]Point{at(5, 0), at(-5, 0), at(0, -5)}, at(-5, -5), at(5, 5)},
		{[]Point{at(0, -5), at(-5, 0), at(5, 0)}, at(-5, -5), at(5, 5)},
		{[]Point{at(0, 0), at(1, 1), at(2, 2)}, at(0, 0), at(2, 2)},
	} {
		b := Shape{Form: Arc, Points: one.points}.Bounds()
		for _, d := range []Length{b.Min.X - one.min.X, b.Min.Y - one.min.Y, b.Max.X - one.max.X, b.Max.Y - one.max.Y} {
			assert.InDelta(t, 0, float64(d), float64(MM)/1000, "%v: %v", one.points, b)
		}
		backwards := Shape{Form: Arc, Points: []Point{one.points[2], one.points[1], one.points[0]}}.Bounds()
		assert.InDelta(t, float64(b.Width()), float64(backwards.Width()), 2, "the other way round it is the same arc")
	}
	b := Shape{Form: Circle, Points: []Point{at(1, 2)}, Radius: 3 * MM}.Bounds()
	assert.Equal(t, Box{at(-2, -1), at(4, 5), true}, b)
	b = Shape{Form: Text, Text: "abcd", Size: MM, Points: []Point{at(0, 0)}}.Bounds()
	assert.Equal(t, []Length{24 * MM / 10, MM}, []Length{b.Width(), b.Height()})
	b = Shape{Form: Text, Text: "abcd", Size: MM, Turn: 90 * Degree, Points: []Point{at(0, 0)}}.Bounds()
	assert.Equal(t, []Length{MM, 24 * MM / 10}, []Length{b.Width(), b.Height()})
}

func TestTheMiddleAndTheCentreOfAnArcFitEachOther(t *testing.T) {
	for _, clockwise := range []bool{true, false} {
		for _, ends := range [][2]Point{{at(5, 0), at(0, 5)}, {at(0, 5), at(5, 0)}, {at(-5, 0), at(5, 0)}, {at(3, 4), at(4, -3)}, {at(-3, -4), at(-4, 3)}} {
			mid := Between(ends[0], ends[1], Point{}, clockwise)
			c, turned := Centre([]Point{ends[0], mid, ends[1]})
			assert.InDelta(t, 0, float64(c.X), 3, "%v", ends)
			assert.InDelta(t, 0, float64(c.Y), 3, "%v", ends)
			assert.Equal(t, clockwise, turned, "%v", ends)
		}
	}
	assert.Equal(t, at(-5, 0), Between(at(0, 5), at(0, -5), Point{}, false))
	assert.Equal(t, at(5, 0), Between(at(0, 5), at(0, -5), Point{}, true))
	c, clockwise := Centre([]Point{at(0, 0), at(1, 0), at(4, 0)})
	assert.Equal(t, at(2, 0), c)
	assert.False(t, clockwise)
}

func TestAShapeThatCannotBeDrawnIsRefused(t *testing.T) {
	two, far := []Point{at(0, 0), at(1, 1)}, Point{X: Farthest + 1}
	for _, one := range []struct {
		s    Shape
		says string
	}{
		{Shape{Form: Line, Points: two}, ""},
		{Shape{Form: Line, Points: two[:1]}, "needs 2 to 10000"},
		{Shape{Form: Rectangle, Points: two}, ""},
		{Shape{Form: Rectangle, Points: append(two, two...)}, "it needs 2"},
		{Shape{Form: Polygon, Points: two}, "needs 3 to 10000"},
		{Shape{Form: Circle, Points: two[:1], Radius: 1}, ""},
		{Shape{Form: Circle, Points: two[:1]}, "needs one above zero"},
		{Shape{Form: Text, Points: two[:1], Text: "x"}, ""},
		{Shape{Form: Text, Points: two[:1]}, "no characters"},
		{Shape{Form: "blob", Points: two}, "no form of graphics"},
		{Shape{Form: Line, Points: two, Width: -1}, "negative"},
		{Shape{Form: Line, Points: two, Size: -1}, "negative"},
		{Shape{Form: Line, Points: two, Radius: -1}, "negative"},
		{Shape{Form: Line, Points: two, Width: Farthest}, ""},
		{Shape{Form: Line, Points: two, Width: Farthest + 1}, "wider than"},
		{Shape{Form: Line, Points: two, Size: Farthest + 1}, "wider than"},
		{Shape{Form: Line, Points: two, Radius: Farthest + 1}, "wider than"},
		{Shape{Form: Line, Points: []Point{{X: Farthest}, {Y: -Farthest}}}, ""},
		{Shape{Form: Line, Points: []Point{{}, far}}, "farther than"},
		{Shape{Form: Line, Points: []Point{{}, {X: -far.X}}}, "farther than"},
		{Shape{Form: Line, Points: []Point{{}, {Y: far.X}}}, "farther than"},
		{Shape{Form: Line, Points: []Point{{}, {Y: -far.X}}}, "farther than"},
	} {
		if err := one.s.Check(); one.says == "" {
			assert.NoError(t, err, "%+v", one.s)
		} else {
			assert.ErrorContains(t, err, one.says, "%+v", one.s)
		}
	}
}

func TestAPadOrPinThatCannotBeIsRefused(t *testing.T) {
	const most = 200 * MM
	for says, spoil := range map[string]func(*Pad){
		"":                       func(p *Pad) { p.Width, p.Height, p.Hole, p.Mask, p.Paste = most, most, most, most, -most/4 },
		"longer than 40":         func(p *Pad) { p.Number = strings.Repeat("1", 41) },
		`its shape "star"`:       func(p *Pad) { p.Shape = "star" },
		"is not above zero":      func(p *Pad) { p.Width = 0 },
		"0 mm is not above zero": func(p *Pad) { p.Height = 0 },
		"which no pad has":       func(p *Pad) { p.Width = most + 1 },
		"mm, which no pad has":   func(p *Pad) { p.Height = most + 1 },
		"is negative":            func(p *Pad) { p.Hole = -1 },
		"is not between 0 and":   func(p *Pad) { p.Corner = -1 },
		"hole or slot":           func(p *Pad) { p.Slot = -1 },
		"one of its measures":    func(p *Pad) { p.Hole = most + 1 },
		"its measures is":        func(p *Pad) { p.Mask = -most - 1 },
		"of its measures":        func(p *Pad) { p.Paste = most + 1 },
		"needs 3 to 1,000":       func(p *Pad) { p.Shape, p.Points = PadPolygon, []Point{{}, {}} },
		"farther than":           func(p *Pad) { p.At.X = Farthest + 1 },
		"is farther than":        func(p *Pad) { p.Shape, p.Points = PadPolygon, []Point{{Y: -Farthest - 1}, {}, {X: MM}} },
		"a polygon alone has":    func(p *Pad) { p.Points = []Point{{}} },
		"and no hole":            func(p *Pad) { p.Unplated = true },
		"on the bottom only":     func(p *Pad) { p.Hole, p.Bottom = 1, true },
		"each once":              func(p *Pad) { p.Shape, p.Corners = PadRounded, []string{UpperLeft, UpperLeft} },
		"lower left, lower":      func(p *Pad) { p.Shape, p.Corners = PadRounded, []string{"left"} },
		"mask or paste":          func(p *Pad) { p.Openings = []Opening{{Of: "copper", Figure: p.Figure()}} },
		"which it has no copper": func(p *Pad) { p.Openings = []Opening{{Of: OfPaste, Bottom: true, Figure: p.Figure()}} },
		"its bottom's size":      func(p *Pad) { p.Hole, p.Below = MM/2, &Figure{Shape: PadRound} },
		"its opening's size":     func(p *Pad) { p.Openings = []Opening{{Of: OfPaste, Figure: Figure{Shape: PadRound}}} },
		"the paste, -0.5 mm":     func(p *Pad) { p.Paste = -MM / 2 },
	} {
		p := Pad{Number: strings.Repeat("1", 40), Shape: PadRectangle, Width: MM, Height: MM}
		spoil(&p)
		l := &LandPattern{Pads: []Pad{p}}
		if says == "" {
			assert.NoError(t, l.Check())
		} else {
			assert.ErrorContains(t, l.Check(), says)
		}
	}
	for says, spoil := range map[string]func(*Pin){
		"":                    func(p *Pin) { p.Length = Farthest },
		"it has no number":    func(p *Pin) { p.Number = " " },
		"longer than":         func(p *Pin) { p.Number = strings.Repeat("1", 41) },
		"name is longer than": func(p *Pin) { p.Name = strings.Repeat("1", 121) },
		"its type":            func(p *Pin) { p.Type = "wire" },
		"it runs":             func(p *Pin) { p.Runs = "" },
		"is not between 0":    func(p *Pin) { p.Length = -1 },
		"mm is not between 0": func(p *Pin) { p.Length = Farthest + 1 },
		"unit 2 of 1":         func(p *Pin) { p.Unit = 2 },
		"unit -1":             func(p *Pin) { p.Unit = -1 },
		"farther than":        func(p *Pin) { p.At.Y = Farthest + 1 },
	} {
		p := Pin{Number: strings.Repeat("1", 40), Name: strings.Repeat("n", 120), Type: Passive, Runs: Up, Unit: 1}
		spoil(&p)
		s := &Symbol{Pins: []Pin{p}}
		if says == "" {
			assert.NoError(t, s.Check())
		} else {
			assert.ErrorContains(t, s.Check(), says)
		}
	}
}

// Laid beside each other, two drawings show the same millimetre in the same size, whichever is the larger one.
func TestDrawingsBesideEachOtherAreOfOneScale(t *testing.T) {
	land := func(x, size string) *Content {
		at, w := MustLength(x), MustLength(size)
		return &Content{Kind: KindLand, Name: "L", Land: &LandPattern{Pads: []Pad{{Number: "1", Shape: PadRectangle, At: Point{X: -at}, Width: w, Height: w}, {Number: "2", Shape: PadRectangle, At: Point{X: at}, Width: w, Height: w}}}}
	}
	view := regexp.MustCompile(`viewBox="([^"]+)" width="([^"]+)"`)
	rapid.Check(t, func(t *rapid.T) {
		some := func(label string) *Content {
			return land(fmt.Sprintf("%.2f", rapid.Float64Range(0.5, 9).Draw(t, label)), fmt.Sprintf("%.2f", rapid.Float64Range(0.2, 4).Draw(t, label+" pads")))
		}
		a, b := some("one"), some("other")
		how := Preview{Ink: Day}
		seen := func(c, beside *Content) string {
			of := how
			of.Frame = beside.Extent(how)
			return view.FindString(string(c.SVG(of)))
		}
		assert.Equal(t, seen(a, b), seen(b, a))
		assert.Equal(t, view.FindString(string(a.SVG(how))), seen(a, a), "beside itself it is as it is alone")
	})
}
