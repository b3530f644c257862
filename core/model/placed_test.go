package model

import (
	"fmt"
	"math"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/finding"
	"jollydrawer/internal/golden"
)

// Where every pin of some lists comes to stand, as it was looked at.
func TestPinsStandWhereTheyWereLookedAt(t *testing.T) {
	pin := func(text string) ListedPin {
		f := strings.Fields(text + " - - -")
		p := ListedPin{Number: f[0]}
		for i, into := range []*string{&p.Name, &p.Type, &p.Side} {
			if f[i+1] != "-" {
				*into = strings.ReplaceAll(f[i+1], "_", " ")
			}
		}
		return p
	}
	var out strings.Builder
	for _, c := range []struct {
		what string
		o    Layout
		pins string
	}{
		{"two pins", Layout{}, "1 A; 2 K"},
		{"an amplifier", Layout{}, "1 OUT output; 2 IN- input; 3 IN+ input; 4 VSS power_in; 5 IN2+ input; 6 OUT2 output; 7 GND power_in; 8 VCC power_in"},
		{"as it is counted", Layout{Order: "number"}, "1 A; 2 B; 3 C; 10 J; 9 I; 4 D; 5 E"},
		{"a connector", Layout{Order: "number", OneSide: true}, "2 B; 1 A; 10 J"},
		{"one side by function", Layout{OneSide: true}, "1 VCC power_in; 2 OUT output; 3 IN input"},
		{"a port of many", Layout{Grid: MustLength("2.54"), Pin: MustLength("5.08")}, "1 PA0; 2 PA1; 3 PA2; 4 PA10; 5 PA3; 6 RESET input; 7 NC not_connected"},
		{"sides that the list names", Layout{}, "1 A passive top; 2 B passive bottom; 3 C passive right; 4 D passive left; 5 E passive top; 6 F passive top; 7 G passive bottom"},
		{"long names", Layout{}, "1 A_VERY_LONG_NAME_INDEED input; 2 OUT output"},
		{"a fine grid", Layout{Grid: MustLength("0.5")}, "1 A; 2 B; 3 C"},
	} {
		var list []ListedPin
		for _, p := range strings.Split(c.pins, ";") {
			list = append(list, pin(p))
		}
		s, err := MakeSymbol(list, c.o, nil)
		require.NoError(t, err, c.what)
		fmt.Fprintf(&out, "%s\n", c.what)
		for _, p := range s.Pins {
			fmt.Fprintf(&out, "    %s %s at %s, %s runs %s for %s as %s\n", p.Number, p.Name, p.At.X, p.At.Y, p.Runs, p.Length, p.Type)
		}
		for _, g := range s.Shapes {
			fmt.Fprintf(&out, "    %s %v %s\n", g.Form, g.Points, g.Text)
		}
	}
	golden.Equal(t, filepath.Join("testdata", "pins.golden"), out.String())
}

// A quarter turn is what the general turn comes to, and four of them are none.
func TestQuarterTurnsAreTurns(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := Point{Length(rapid.Int64Range(-1e9, 1e9).Draw(t, "x")), Length(rapid.Int64Range(-1e9, 1e9).Draw(t, "y"))}
		for quarter := range 4 {
			a := Angle(quarter) * 90 * Degree
			sin, cos := math.Sincos(a.Radians())
			x, y := float64(p.X)*cos-float64(p.Y)*sin, float64(p.X)*sin+float64(p.Y)*cos
			got := p.Turned(a)
			assert.InDelta(t, x, float64(got.X), 1, "%v by %s", p, a)
			assert.InDelta(t, y, float64(got.Y), 1, "%v by %s", p, a)
		}
		q := p
		for range 4 {
			q = q.Turned(90 * Degree)
		}
		assert.Equal(t, p, q)
	})
	assert.Equal(t, Point{0, 10}, Point{10, 0}.Turned(90*Degree), "against the clock")
}

// The point half-way along an arc is as far from the centre as its ends, on the side that it runs over.
func TestThePointHalfWayAlongAnArc(t *testing.T) {
	c := Point{3 * MM, -2 * MM}
	at := func(degrees float64) Point {
		sin, cos := math.Sincos(degrees * math.Pi / 180)
		return Point{c.X + Length(math.Round(5*float64(MM)*cos)), c.Y + Length(math.Round(5*float64(MM)*sin))}
	}
	for _, a := range []struct {
		from, to, middle float64
		clockwise        bool
	}{{0, 90, 45, false}, {0, 90, 225, true}, {90, 0, 225, false}, {90, 0, 45, true}, {350, 10, 0, false}, {10, 350, 180, false}, {180, 270, 225, false}, {45, 45, 225, false}} {
		got := Between(at(a.from), at(a.to), c, a.clockwise)
		want := at(a.middle)
		assert.InDelta(t, float64(want.X), float64(got.X), 3, "%+v", a)
		assert.InDelta(t, float64(want.Y), float64(got.Y), 3, "%+v", a)
	}
}

// How far a body may lie beside its pads, sink and float before somebody is told, and how loudly.
func TestHowFarABodyMayBeOff(t *testing.T) {
	for _, c := range []struct {
		what    string
		x, y, z string
		holes   bool
		cause   string
		sev     finding.Severity
	}{
		{"in place", "0", "0", "0", false, "", ""}, {"a little beside", "0.2", "0", "0", false, "", ""}, {"beside", "0.4", "0", "0", false, "body-off", finding.Warning}, {"beside the other way", "0", "-0.4", "0", false, "body-off", finding.Warning},
		{"farther than half of it", "1.6", "0", "0", false, "body-off", finding.Error}, {"nearly half of it", "1.5", "0", "0", false, "body-off", finding.Warning}, {"farther than half of its height", "0", "0.75", "0", false, "body-off", finding.Error},
		{"sunk", "0", "0", "-0.2", false, "body-sunk", finding.Warning}, {"a solder joint", "0", "0", "-0.1", false, "", ""}, {"with holes it may", "0", "0", "-0.2", true, "", ""}, {"floating", "0", "0", "0.51", false, "body-floats", finding.Warning}, {"half a millimetre up", "0", "0", "0.5", false, "", ""},
		{"under the board", "0", "0", "-0.5", false, "body-under", finding.Error},
	} {
		l := chip("1.15", "1.4", "0.95") // copper from -1.525 to 1.525 and from -0.7 to 0.7
		if c.holes {
			l.Pads[1].Hole = MM / 2
		}
		b := block("2", "1.25", "0.5")
		b.Place.At = Point3{MustLength(c.x), MustLength(c.y), MustLength(c.z)}
		sits := Fit(&b, "body", l)
		found := sits.Findings
		if c.cause == "" {
			assert.Empty(t, found, c.what)
			continue
		}
		require.Len(t, found, 1, c.what)
		assert.Equal(t, []any{c.cause, c.sev}, []any{found[0].Cause, found[0].Severity}, c.what)
		b.Place = sits.Placings[0].Place
		assert.Empty(t, Fit(&b, "body", l).Findings, "%s: the correction leaves nothing to say", c.what)
	}
}

func TestAModelHasItsDrawing(t *testing.T) {
	for _, c := range []struct {
		c     Content
		drawn bool
		block bool
	}{{Content{}, false, false}, {Content{Symbol: &Symbol{}}, true, false}, {Content{Land: &LandPattern{}}, true, false}, {Content{Body: &Body{}}, true, false}, {Content{Body: &Body{StandIn: true}}, true, true}, {Content{PinMap: &PinMap{}}, true, false}} {
		assert.Equal(t, c.drawn, c.c.Drawn())
		assert.Equal(t, c.block, c.c.StandsIn())
	}
	assert.Empty(t, Check(&Content{Body: &Body{}}, House{}, 0))
	assert.Len(t, Check(&Content{Body: &Body{StandIn: true}}, House{}, 0), 1)
}

// The same copper has one shape, however it was drawn.
func TestPadsHaveTheirPlainestShape(t *testing.T) {
	for _, c := range []struct{ was, want Pad }{
		{Pad{Shape: PadRounded, Width: 2, Height: 1}, Pad{Shape: PadRectangle, Width: 2, Height: 1}}, {Pad{Shape: PadRounded, Width: 2, Height: 1, Corner: 1}, Pad{Shape: PadRounded, Width: 2, Height: 1, Corner: 1}},
		{Pad{Shape: PadOblong, Width: 2, Height: 2}, Pad{Shape: PadRound, Width: 2, Height: 2}}, {Pad{Shape: PadOblong, Width: 2, Height: 1}, Pad{Shape: PadOblong, Width: 2, Height: 1}}, {Pad{Shape: PadRound, Width: 2, Height: 1}, Pad{Shape: PadOblong, Width: 2, Height: 1}},
		{Pad{Shape: PadRound, Width: 2, Height: 2, Corner: 1}, Pad{Shape: PadRound, Width: 2, Height: 2}}, {Pad{Shape: PadRectangle, Width: 2, Height: 2, Corner: 1}, Pad{Shape: PadRectangle, Width: 2, Height: 2}},
	} {
		m := Content{Kind: KindLand, Land: &LandPattern{Pads: []Pad{c.was}}}
		m.Normalise()
		got := m.Land.Pads[0]
		assert.Equal(t, []any{c.want.Shape, c.want.Corner, c.want.Width}, []any{got.Shape, got.Corner, got.Width}, "%+v", c.was)
	}
}

func TestPolygonsHaveThreeToAThousandCorners(t *testing.T) {
	for n, fine := range map[int]bool{2: false, 3: true, 1000: true, 1001: false} {
		p := Pad{Number: "1", Shape: PadPolygon, Width: MM, Height: MM, Points: make([]Point, n)}
		l := LandPattern{Pads: []Pad{p}}
		err := l.Check()
		assert.Equal(t, fine, err == nil, "%d corners: %v", n, err)
	}
	square := LandPattern{Pads: []Pad{{Number: "1", Shape: PadRectangle, Width: MM, Height: MM, Points: nil}}}
	assert.NoError(t, square.Check())
}

// Near twins are found however much the longer side differs, up to twice the tolerance.
func TestNearTwinsAreWithinTheTolerance(t *testing.T) {
	tolerance := MM / 20
	for by, twins := range map[Length]bool{0: true, tolerance / 2: true, tolerance: true, tolerance + 2: false, 3 * tolerance: false} {
		a, b := twoPadsAt("1", "1", "1.4"), twoPadsAt("1", "1", "1.4")
		b.Pads[0].At.X -= by
		b.Pads[1].At.X += by
		d := Near(&a, &b, tolerance)
		assert.Equal(t, twins, d.Near, "each pad is %s mm farther out", by)
	}
}
