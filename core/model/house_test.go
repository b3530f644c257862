package model

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// found writes what a check says: its causes and sentences.
func found(c Content, h House, pitch Length) string {
	var out []string
	for _, f := range Check(&c, h, pitch) {
		out = append(out, fmt.Sprintf("%s %s: %s", f.Severity, f.Cause, f.What))
	}
	return strings.Join(out, "; ")
}

func pinAt(number, x, y string) Pin {
	return Pin{Number: number, Type: Passive, Runs: Right, Length: MustLength("2.54"), At: Point{MustLength(x), MustLength(y)}}
}

// One thing is wrong with each symbol, and only that is said.
func TestWhatAHouseWantsOfASymbol(t *testing.T) {
	h := House{Grid: MustLength("1.27"), PinLength: MustLength("2.54"), TextSize: MustLength("1.27"), Designator: true}
	good := func() Symbol {
		return Symbol{Pins: []Pin{pinAt("1", "-5.08", "0"), pinAt("2", "5.08", "0")}, Shapes: []Shape{{Form: Text, Text: Designator, Size: h.TextSize, Points: []Point{{}}}}}
	}
	for want, harm := range map[string]func(s *Symbol){
		"": func(*Symbol) {},
		"error pin-twice: the pin number 1 stands on two pins":                                   func(s *Symbol) { s.Pins[1].Number = "1" },
		"error pins-meet: the pins 1 and 2 connect at the same point":                            func(s *Symbol) { s.Pins[1].At = s.Pins[0].At },
		"warning off-grid: 1 pin does not connect on the grid of 1.27 mm: 2":                     func(s *Symbol) { s.Pins[1].At.Y = MustLength("0.1") },
		"warning off-grid: 2 pins do not connect on the grid of 1.27 mm: 1, 2":                   func(s *Symbol) { s.Pins[0].At.X++; s.Pins[1].At.X-- },
		"note pin-length: 1 pin is not 2.54 mm long: 1":                                          func(s *Symbol) { s.Pins[0].Length = MM },
		"warning power-unnamed: pins of a power type have no name: 2":                            func(s *Symbol) { s.Pins[1].Type = PowerIn },
		"note properties: 1 property is written on the symbol; what it says belongs to the part": func(s *Symbol) { s.Properties = map[string]string{"Value": "4k7"} },
		"note text-size: 1 text is not 1.27 mm high":                                             func(s *Symbol) { s.Shapes[0].Size++ },
		"warning no-designator: the designator is not shown":                                     func(s *Symbol) { s.Shapes[0].Text = "R?" },
	} {
		s := good()
		harm(&s)
		assert.Equal(t, want, found(Content{Kind: KindSymbol, Symbol: &s}, h, 0))
	}
	for name, fine := range map[string]func(s *Symbol){
		"a hidden pin may be of any length":   func(s *Symbol) { s.Pins[0].Length, s.Pins[0].Hidden = 0, true },
		"units may have pins in one place":    func(s *Symbol) { s.Pins[1].At, s.Units = s.Pins[0].At, []string{"A", "B"} },
		"a power pin with a name":             func(s *Symbol) { s.Pins[1].Type, s.Pins[1].Name = PowerOut, "VCC" },
		"a line has no height of text":        func(s *Symbol) { s.Shapes = append(s.Shapes, Shape{Form: Line, Points: []Point{{}, {X: MM}}}) },
		"a second text beside the designator": func(s *Symbol) { s.Shapes = append(s.Shapes, s.Shapes[0]); s.Shapes[1].Text = "x" },
	} {
		s := good()
		fine(&s)
		assert.Empty(t, found(Content{Kind: KindSymbol, Symbol: &s}, h, 0), name)
	}
	s := good()
	s.Pins[0].At.X, s.Pins[0].Length, s.Shapes = 1, 1, nil
	assert.Empty(t, found(Content{Kind: KindSymbol, Symbol: &s}, House{}, 0), "rules that are blank are not checked")
	for n := range 12 {
		s.Pins = append(s.Pins, pinAt(fmt.Sprint("P", n), fmt.Sprint(n), "0.3"))
	}
	assert.Contains(t, found(Content{Kind: KindSymbol, Symbol: &s}, House{Grid: MustLength("1.27")}, 0), "13 pins do not connect on the grid of 1.27 mm: 1, P0, P1, P2, P3, P4, P5, P6 and 5 more")
}

func twoPadsAt(x, w, h string) LandPattern {
	pad := Pad{Number: "1", Shape: PadRectangle, At: Point{X: -MustLength(x)}, Width: MustLength(w), Height: MustLength(h)}
	other := pad
	other.Number, other.At.X = "2", MustLength(x)
	return LandPattern{Pads: []Pad{pad, other}}
}

// One thing is wrong with each land pattern, and only that is said.
func TestWhatAHouseWantsOfALandPattern(t *testing.T) {
	mm := MustLength
	h := House{LandText: MM, Origin: "centre", Courtyard: mm("0.25"), Designator: true, Silkscreen: mm("0.15")}
	good := func() LandPattern {
		l := twoPadsAt("1", "1", "1.4")
		l.Shapes = []Shape{{Form: Text, Purpose: Silkscreen, Text: Designator, Size: MM, Points: []Point{{}}}, {Form: Rectangle, Purpose: Courtyard, Points: []Point{{mm("-1.75"), mm("-0.95")}, {mm("1.75"), mm("0.95")}}, Width: mm("0.05")},
			{Form: Line, Purpose: Silkscreen, Points: []Point{{0, mm("-0.7")}, {0, mm("0.7")}}, Width: mm("0.15")}}
		return l
	}
	for want, harm := range map[string]func(l *LandPattern){
		"": func(*LandPattern) {},
		"error pads-overlap: the pads 1 and 2 overlap": func(l *LandPattern) {
			l.Pads[0].At.X, l.Pads[1].At.X = mm("-0.45"), mm("0.45")
			l.Shapes[1].Points = []Point{{mm("-1.2"), mm("-0.95")}, {mm("1.2"), mm("0.95")}}
		},
		"warning no-courtyard: there is no courtyard":                                                      func(l *LandPattern) { l.Shapes = append(l.Shapes[:1:1], l.Shapes[2]) },
		"error courtyard-tight: the pads 1 leave the courtyard":                                            func(l *LandPattern) { l.Shapes[1].Points[0].X = mm("-1.4") },
		"error courtyard-tight: the pads 1, 2 leave the courtyard":                                         func(l *LandPattern) { l.Shapes[1].Points[0].Y = mm("-0.6") },
		"error courtyard-tight: the pads 2 leave the courtyard":                                            func(l *LandPattern) { l.Shapes[1].Points[1].X = mm("1.4") },
		"warning courtyard-tight: the courtyard reaches 0.2 mm beyond the copper; the house wants 0.25 mm": func(l *LandPattern) { l.Shapes[1].Points[1].Y = mm("0.9") },
		"note silkscreen-thin: 1 line on the silkscreen is narrower than 0.15 mm":                          func(l *LandPattern) { l.Shapes[2].Width-- },
		"error pitch: the pads have a pitch of 2 mm; the part says 2.54 mm":                                func(l *LandPattern) { l.Density = "pitch" },
		"warning no-designator: the designator is not shown":                                               func(l *LandPattern) { l.Shapes[0].Text = "x" },
		"note text-size: 1 text is not 1 mm high":                                                          func(l *LandPattern) { l.Shapes[0].Size-- },
	} {
		l, pitch := good(), Length(0)
		harm(&l)
		if l.Density == "pitch" {
			l.Density, pitch = "", mm("2.54")
		}
		assert.Equal(t, want, found(Content{Kind: KindLand, Land: &l}, h, pitch))
	}
	l := good()
	assert.Empty(t, found(Content{Kind: KindLand, Land: &l}, h, mm("2.04")), "two hundredths of pitch are the same pitch")
	assert.NotEmpty(t, found(Content{Kind: KindLand, Land: &l}, h, mm("2.05")))
	l.Pads[1].Hole = mm("0.9")
	assert.Empty(t, found(Content{Kind: KindLand, Land: &l}, h, 0))
	l.Pads[1].Hole = mm("1")
	assert.Contains(t, found(Content{Kind: KindLand, Land: &l}, h, 0), "error no-ring: the hole of pad 2 leaves no ring of copper")
	l.Pads[1].Unplated = true
	assert.Empty(t, found(Content{Kind: KindLand, Land: &l}, h, 0), "what is not plated needs none")
	l.Pads[1].Number = ""
	l.Pads[1].Unplated = false
	assert.Contains(t, found(Content{Kind: KindLand, Land: &l}, h, 0), "the hole of pad at 1, 0 leaves")
}

func TestWhereTheOriginShouldBe(t *testing.T) {
	mm := MustLength
	for _, c := range []struct {
		origin, dx, dy string
		to             Point
		off            bool
	}{
		{"", "5", "5", Point{}, false}, {"centre", "0", "0", Point{}, false}, {"centre", "0.01", "0", Point{X: mm("0.01")}, false}, {"centre", "0.011", "0", Point{X: mm("0.011")}, true}, {"centre", "0", "-0.02", Point{Y: mm("-0.02")}, true},
		{"pin 1", "1", "0", Point{}, false}, {"pin 1", "0", "0", Point{X: mm("-1")}, true}, {"pin 1", "1", "0.5", Point{Y: mm("0.5")}, true},
	} {
		l := twoPadsAt("1", "1", "1")
		for i := range l.Pads {
			l.Pads[i].At.X += mm(c.dx)
			l.Pads[i].At.Y += mm(c.dy)
		}
		to, off := l.originOff(House{Origin: c.origin})
		assert.Equal(t, c.off, off, "%+v", c)
		assert.Equal(t, c.to, to, "%+v", c)
	}
	none := LandPattern{Pads: []Pad{{Shape: PadRound, Width: MM, Height: MM}}}
	_, off := none.originOff(House{Origin: "pin 1"})
	assert.False(t, off, "there is no pin 1")
}

// Two outlines meet where they share area, which a plain list of cases says.
func TestPadsThatShareCopper(t *testing.T) {
	mm := MustLength
	pad := func(number, shape, x, y string, turn Angle) Pad {
		return Pad{Number: number, Shape: shape, At: Point{mm(x), mm(y)}, Width: mm("1"), Height: mm("0.5"), Turn: turn}
	}
	for _, c := range []struct {
		a, b Pad
		meet bool
	}{
		{pad("1", PadRectangle, "0", "0", 0), pad("2", PadRectangle, "0.9", "0", 0), true}, {pad("1", PadRectangle, "0", "0", 0), pad("2", PadRectangle, "1", "0", 0), false}, {pad("1", PadRectangle, "0", "0", 0), pad("2", PadRectangle, "0", "0.5", 0), false},
		{pad("1", PadRectangle, "0", "0", 0), pad("2", PadRectangle, "0", "0.49", 0), true}, {pad("1", PadRectangle, "0", "0", 0), pad("1", PadRectangle, "0.5", "0", 0), false}, {pad("", PadRectangle, "0", "0", 0), pad("", PadRectangle, "0.5", "0", 0), true},
		{pad("1", PadRectangle, "0", "0", 45*Degree), pad("2", PadRectangle, "0.5", "-0.5", 45*Degree), false}, {pad("1", PadRectangle, "0", "0", 45*Degree), pad("2", PadRectangle, "0.3", "-0.3", 45*Degree), true},
		{pad("1", PadRound, "0", "0", 0), pad("2", PadRound, "0.9", "0.4", 0), false},
	} {
		got := overlaps(&LandPattern{Pads: []Pad{c.a, c.b}})
		assert.Equal(t, c.meet, len(got) == 1, "%+v %+v", c.a, c.b)
	}
	under := pad("2", PadRectangle, "0", "0", 0)
	under.Bottom = true
	assert.Empty(t, overlaps(&LandPattern{Pads: []Pad{pad("1", PadRectangle, "0", "0", 0), under}}), "one is below the board")
	under.Hole = mm("0.2")
	assert.Len(t, overlaps(&LandPattern{Pads: []Pad{pad("1", PadRectangle, "0", "0", 0), under}}), 1, "a hole goes through")
	var many []Pad
	for n := range 30 {
		many = append(many, pad(fmt.Sprint(n), PadRectangle, "0", "0", 0))
	}
	assert.Len(t, overlaps(&LandPattern{Pads: many}), 20)
}

func TestHouseRulesThatCannotBe(t *testing.T) {
	require.NoError(t, House{Grid: 100 * MM, Origin: "pin 1"}.Check())
	require.NoError(t, House{Origin: "centre"}.Check())
	for _, h := range []House{{Grid: -1}, {Grid: 100*MM + 1}, {PinLength: -1}, {TextSize: -1}, {LandText: -1}, {Courtyard: -1}, {Silkscreen: -1}} {
		assert.ErrorContains(t, h.Check(), "is not between 0 and 100 mm", "%+v", h)
	}
	assert.ErrorContains(t, House{Origin: "corner"}.Check(), `"corner" is none of`)
}

func TestABodyThatCannotBeIsRefused(t *testing.T) {
	box := func(x, y, z Length) Body { return Body{Box: Box3{Max: Point3{x, y, z}}} }
	for _, c := range []struct {
		body Body
		says string
	}{
		{box(MM, MM, MM), ""}, {box(0, 0, 0), ""}, {box(Farthest, MM, MM), ""}, {box(-1, MM, MM), "ends before it begins"}, {box(MM, -1, MM), "ends before it begins"}, {box(MM, MM, -1), "ends before it begins"}, {box(MM, MM, Farthest+1), "reaches farther"},
		{Body{StandIn: true, Box: Box3{Max: Point3{MM, MM, MM}}}, ""}, {Body{StandIn: true, Box: Box3{Max: Point3{0, MM, MM}}}, "length, a width and a height"}, {Body{StandIn: true, Box: Box3{Max: Point3{MM, 0, MM}}}, "length, a width and a height"},
		{Body{StandIn: true, Box: Box3{Max: Point3{MM, MM, 0}}}, "length, a width and a height"}, {Body{Box: Box3{Min: Point3{X: -Farthest - 1}}}, "reaches farther"},
		{Body{Place: Placement{Scale: 1_000_000_000}}, ""}, {Body{Place: Placement{Scale: 1_000_000_001}}, "millionths"}, {Body{Place: Placement{Scale: -1}}, "millionths"}, {Body{Place: Placement{At: Point3{Z: Farthest}}}, ""}, {Body{Place: Placement{At: Point3{Z: -Farthest - 1}}}, "farther than"},
	} {
		if err := c.body.Check(); c.says == "" {
			assert.NoError(t, err, "%+v", c.body)
		} else {
			assert.ErrorContains(t, err, c.says, "%+v", c.body)
		}
	}
}

func TestAnglesAreExactAndTurnOnlyOnce(t *testing.T) {
	for text, want := range map[string]string{"90": "90", "90°": "90", " 45.5 °": "45.5", "-90": "270", "360": "0", "359.999": "359.999", "720.25": "0.25", "-0.001": "359.999", "0": "0"} {
		a, err := ParseAngle(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, a.String(), text)
		raw, err := json.Marshal(map[string]Angle{"a": a})
		require.NoError(t, err)
		var back map[string]Angle
		require.NoError(t, json.Unmarshal(raw, &back))
		assert.Equal(t, a, back["a"], text)
	}
	for _, text := range []string{"", "°", "ninety", "--1", "90°°"} {
		_, err := ParseAngle(text)
		assert.ErrorContains(t, err, "is no angle", text)
	}
	var a Angle
	require.NoError(t, json.Unmarshal([]byte("12.5"), &a))
	assert.Equal(t, Angle(12500), a)
	require.NoError(t, a.UnmarshalText([]byte("1.5")))
	assert.Equal(t, Angle(1500), a)
	assert.Equal(t, "50", MustLength("1.27").Mils())
	assert.Equal(t, "-39.37", MustLength("-1").Mils())
	var l Length
	require.NoError(t, l.UnmarshalText([]byte("2.5")))
	assert.Equal(t, MustLength("2.5"), l)
	assert.Equal(t, "2.5", l.String())
}

func TestAMapHasOneOrder(t *testing.T) {
	m := PinMap{Pairs: []Pair{{"10", []string{"2", "1"}}, {"2", []string{"B2", "B10", "A1"}}}, Free: []string{"9", "10", "1"}, NoPad: []string{"b", "a"}}
	m.Sorted()
	assert.Equal(t, PinMap{Pairs: []Pair{{"2", []string{"A1", "B2", "B10"}}, {"10", []string{"1", "2"}}}, Free: []string{"1", "9", "10"}, NoPad: []string{"a", "b"}}, m)
}
