package model

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// outlined adds an assembly outline of a size about a point.
func outlined(l *LandPattern, w, h, x, y string) *LandPattern {
	at := Point{MustLength(x), MustLength(y)}
	d := Point{MustLength(w) / 2, MustLength(h) / 2}
	l.Shapes = append(l.Shapes, Shape{Form: Rectangle, Purpose: Assembly, Points: []Point{{at.X - d.X, at.Y - d.Y}, at.Add(d)}})
	return l
}

// leads is a row of pads in holes at a pitch of 2.54 mm, along X.
func leads(n int) *LandPattern {
	l := &LandPattern{}
	for i := range n {
		l.Pads = append(l.Pads, Pad{Number: string(rune('1' + i)), Shape: PadRound, Width: MustLength("1.6"), Height: MustLength("1.6"), Hole: MM, At: Point{X: Length(2*i-n+1) * 127 * MM / 100}})
	}
	return l
}

func TestHowABodySits(t *testing.T) {
	chip := func() *LandPattern { return chip("1.15", "1.4", "0.95") }
	at := func(b Body, x, y, z string) Body {
		b.Place.At = Point3{MustLength(x), MustLength(y), MustLength(z)}
		return b
	}
	turn := func(b Body, x, z Angle) Body { b.Place.TurnX, b.Place.TurnZ = x*Degree, z*Degree; return b }
	hanging := func(l *LandPattern) *LandPattern { l.Overhang = true; return l }
	for _, c := range []struct {
		name string
		body Body
		land *LandPattern
		want []string // causes
		ways []string // what it can be put to; "certain" where there is no doubt
	}{
		{"as it should be", block("2", "1.25", "0.5"), chip(), nil, nil},
		{"turned", block("1.25", "2", "0.5"), chip(), []string{"body-turned"}, []string{"turn it by 90°", "turn it by 270°"}},
		{"off an outline of its size", at(block("2", "1.25", "0.5"), "4", "0", "0"), outlined(chip(), "2", "1.25", "0", "0"), []string{"body-off"}, []string{"certain"}},
		{"off pads without an outline", at(block("2", "1.25", "0.5"), "4", "0", "0"), chip(), []string{"body-off"}, []string{"move it onto the pads"}},
		{"in inch", block("0.0787", "0.0492", "0.0197"), chip(), []string{"body-scale"}, []string{"certain"}},
		{"in inch and turned", block("0.0492", "0.0787", "0.0197"), chip(), []string{"body-scale", "body-turned"}, []string{"turn it by 90°", "turn it by 270°"}},
		{"under the board", turn(block("2", "1.25", "0.5"), 180, 0), chip(), []string{"body-under"}, []string{"lift it onto the board", "turn it over"}},
		{"sunk", at(block("2", "1.25", "0.5"), "0", "0", "-0.3"), chip(), []string{"body-sunk"}, []string{"lift it onto the board"}},
		{"floating", at(block("2", "1.25", "0.5"), "0", "0", "0.8"), chip(), []string{"body-floats"}, []string{"set it down on the board"}},
		{"of another package", block("2", "1.25", "0.5"), dual(8, "1.27", "5.4"), []string{"body-other"}, nil},
		{"of a larger package", block("10", "8", "2"), chip(), []string{"body-other"}, nil},
		{"of another package by its outline", block("5", "1.25", "0.5"), outlined(dual(8, "1.27", "5.4"), "3.9", "4.9", "0", "0"), []string{"body-other"}, nil},
		{"a connector that hangs over the edge", at(block("12", "16", "11"), "0", "-7", "0"), leads(4), []string{"body-off"}, []string{"move it onto the pads"}},
		{"a connector of which the land pattern says so", at(block("12", "16", "11"), "0", "-7", "0"), hanging(leads(4)), nil, nil},
		{"a connector that hangs over, and lies beside its pads", at(block("12", "16", "11"), "0", "40", "0"), hanging(leads(4)), []string{"body-off"}, []string{"move it onto the pads"}},
		{"a lying power package", at(block("10", "15", "4.5"), "0", "8", "0"), outlined(leads(3), "10", "15", "0", "8"), nil, nil},
		{"a body drawn off its middle, half a turn round", func() Body {
			b := block("10", "9", "4")
			b.Box.Min.Y, b.Box.Max.Y = b.Box.Min.Y+MM*4, b.Box.Max.Y+MM*4
			return turn(b, 0, 180)
		}(), outlined(leads(3), "10", "9", "0", "4"), []string{"body-off"}, []string{"turn it by 180°", "move it onto the pads"}},
		{"nothing to compare", block("2", "1.25", "0.5"), &LandPattern{}, nil, nil},
	} {
		s := Fit(&c.body, "body", c.land)
		assert.Equal(t, c.want, causes(s), c.name)
		var ways []string
		for _, p := range s.Placings {
			if p.Certain {
				ways = append(ways, "certain")
			} else {
				ways = append(ways, p.What)
			}
			again := c.body
			again.Place = p.Place
			if c.name != "a connector that hangs over the edge" && c.name != "a connector that hangs over, and lies beside its pads" {
				assert.Empty(t, Fit(&again, "body", c.land).Findings, "%s: %s leaves nothing to say", c.name, p.What)
			}
		}
		assert.Equal(t, c.ways, ways, c.name)
	}
}

func TestPinsOnHolesThatAreNotPlated(t *testing.T) {
	s := &Symbol{Pins: []Pin{{Number: "1"}, {Number: "2"}}}
	l := leads(2)
	assert.Empty(t, CheckPins(s, l, nil))
	l.Pads[1].Unplated = true
	found := CheckPins(s, l, nil)
	assert.Len(t, found, 1)
	assert.Equal(t, "1 pin is on a hole that is not plated: 2", found[0].What)
	l.Pads = append(l.Pads, Pad{Number: "2", Shape: PadRectangle, Width: MM, Height: MM})
	assert.Empty(t, CheckPins(s, l, nil), "it has plain copper as well")
	peg := Pad{Shape: PadRound, Width: MM, Height: MM, Hole: MM, Unplated: true, At: Point{X: 9 * MM}}
	l.Pads = append(l.Pads, peg)
	assert.NotContains(t, found2(l), "copper-unnumbered")
	peg.Width, peg.Height, peg.At.X = 2*MM, 2*MM, 15*MM
	l.Pads = append(l.Pads, peg)
	assert.Contains(t, found2(l), "warning copper-unnumbered: 1 piece of copper has no number: at 15, 0")
}

func found2(l *LandPattern) string { return found(Content{Kind: KindLand, Land: l}, House{}, 0) }
