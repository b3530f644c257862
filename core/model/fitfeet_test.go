package model

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// three is a land pattern of three leads, two of them on the left.
func three() *LandPattern {
	l := &LandPattern{}
	for i, p := range []Point{at(-1.1, 0.95), at(-1.1, -0.95), at(1.1, 0)} {
		l.Pads = append(l.Pads, Pad{Number: string(rune('1' + i)), Shape: PadRectangle, Width: MM, Height: MustLength("0.6"), At: p})
	}
	return l
}

// onLeads is a body whose feet lie over the middles of pads.
func onLeads(l *LandPattern, w, h string) Body {
	b := block(w, h, "1")
	for _, p := range l.Pads {
		b.Feet = append(b.Feet, Foot{Min: p.At.Add(Point{-MM / 10, -MM / 10}), Max: p.At.Add(Point{MM / 10, MM / 10})})
	}
	return b
}

func TestFeetTellHowABodySits(t *testing.T) {
	put := func(b Body, x, y string, turn Angle) Body {
		b.Place.At, b.Place.TurnZ = Point3{X: MustLength(x), Y: MustLength(y)}, turn*Degree
		return b
	}
	marked := func(b Body, x, y string) Body {
		b.Mark = &Point{MustLength(x), MustLength(y)}
		return b
	}
	eight := dual(8, "1.27", "5.4")
	eight.Pads[0].Number = "1"
	other := dual(8, "0.65", "5.4")
	five := three()
	five.Pads = append(five.Pads, Pad{Shape: PadRound, At: at(0, 3), Width: MM, Height: MM, Hole: MM, Unplated: true})
	hanging := leads(3)
	connector := onLeads(hanging, "8", "16")
	connector.Box.Min.Y, connector.Box.Max.Y = -15*MM, MM
	inch := onLeads(three(), "2.8", "2.4")
	inch.Box = Box3{Min: Point3{inch.Box.Min.X * 10 / 254, inch.Box.Min.Y * 10 / 254, 0}, Max: Point3{inch.Box.Max.X * 10 / 254, inch.Box.Max.Y * 10 / 254, inch.Box.Max.Z * 10 / 254}}
	for i := range inch.Feet {
		f := &inch.Feet[i]
		f.Min, f.Max = Point{f.Min.X * 10 / 254, f.Min.Y * 10 / 254}, Point{f.Max.X * 10 / 254, f.Max.Y * 10 / 254}
	}
	standing := onLeads(three(), "2.8", "2.4")
	standing.Place.TurnX = 90 * Degree
	for _, c := range []struct {
		name string
		body Body
		land *LandPattern
		want []string
		ways []string
	}{
		{"on its leads", onLeads(three(), "2.8", "2.4"), three(), nil, nil},
		{"half a turn round, which its box does not tell", put(onLeads(three(), "2.8", "2.4"), "0", "0", 180), three(), []string{"body-turned"}, []string{"certain"}},
		{"a quarter round", put(onLeads(three(), "2.8", "2.4"), "0", "0", 90), three(), []string{"body-turned"}, []string{"certain"}},
		{"beside, and half a turn round", put(onLeads(three(), "2.8", "2.4"), "5", "-3", 180), three(), []string{"body-turned"}, []string{"certain"}},
		{"beside", put(onLeads(three(), "2.8", "2.4"), "5", "-3", 0), three(), []string{"body-off"}, []string{"certain"}},
		{"in inch, and half a turn round", put(inch, "0", "0", 180), three(), []string{"body-scale", "body-turned"}, []string{"certain"}},
		{"on its leads, with a peg that has none", onLeads(three(), "2.8", "2.4"), five, nil, nil},
		{"two rows, half a turn round, which nothing tells", put(onLeads(eight, "6", "5"), "0", "0", 180), eight, nil, nil},
		{"two rows, half a turn round by the mark", put(marked(onLeads(eight, "6", "5"), "-2", "2"), "0", "0", 180), eight, []string{"body-pin1"}, []string{"turn it by 180°"}},
		{"two rows, as the mark has it", marked(onLeads(eight, "6", "5"), "-2", "2"), eight, nil, nil},
		{"a mark in the middle of a side", put(marked(onLeads(eight, "6", "5"), "-2", "0"), "0", "0", 180), eight, nil, nil},
		{"leads of another pitch", onLeads(other, "6", "5"), eight, []string{"body-feet"}, nil},
		{"a connector whose pins stand in its holes, hanging over", connector, hanging, nil, nil},
		{"boxes that allow two turns, with a mark", marked(block("1.25", "2", "0.5"), "0.4", "0.8"), chip("1.15", "1.4", "0.95"), []string{"body-turned"}, []string{"turn it by 90°: its mark then lies at pad 1", "turn it by 270°"}},
	} {
		s := Fit(&c.body, "body", c.land)
		assert.Equal(t, c.want, causes(s), "%s: %v", c.name, s.Findings)
		var ways []string
		for _, p := range s.Placings {
			again := c.body
			again.Place = p.Place
			if p.Certain {
				ways = append(ways, "certain")
				assert.True(t, seat{pads: c.land.PadBounds(), land: c.land}.stands(&again, p.Place), c.name)
				assert.Empty(t, Fit(&again, "body", c.land).Findings, c.name)
			} else {
				ways = append(ways, p.What)
			}
		}
		assert.Equal(t, c.ways, ways, c.name)
	}
	assert.NotContains(t, causes(Fit(&standing, "body", three())), "body-feet", "what is turned over stands on nothing")
}

func TestFeetAndMarkLieWithinTheBody(t *testing.T) {
	b := block("2", "2", "1")
	b.Feet = []Foot{{Min: at(-1, -1), Max: at(-0.5, -0.5)}}
	assert.NoError(t, b.Check())
	for _, f := range []Foot{{Min: at(-1.1, 0), Max: at(0, 0)}, {Min: at(0, 0), Max: at(0, 1.1)}, {Min: at(0.5, 0), Max: at(0, 0.5)}} {
		b.Feet = []Foot{f}
		assert.ErrorContains(t, b.Check(), "foot")
	}
	b.Feet = make([]Foot, MostFeet+1)
	assert.ErrorContains(t, b.Check(), "at most 1000")
	m := at(2, 0)
	b.Feet, b.Mark = nil, &m
	assert.ErrorContains(t, b.Check(), "mark")
}

// A file that came before its feet were read is the same when it comes again; another file, place or block is another.
func TestBodiesAreTheSameByTheirFile(t *testing.T) {
	file := func(hash string, change func(*Body)) *Content {
		b := block("2", "2", "1")
		if change != nil {
			change(&b)
		}
		return &Content{Kind: KindBody, FileHash: hash, Body: &b}
	}
	feet := func(b *Body) { b.Feet = []Foot{{Max: at(0.5, 0.5)}} }
	turned := func(b *Body) { b.Place.TurnZ = 90 * Degree }
	higher := func(b *Body) { b.Box.Max.Z += MM }
	for _, c := range []struct {
		a, b *Content
		same bool
	}{
		{file("x", nil), file("x", nil), true}, {file("x", nil), file("x", feet), true}, {file("x", nil), file("y", nil), false}, {file("x", nil), file("x", turned), false},
		{file("", nil), file("", nil), true}, {file("", nil), file("", higher), false}, {file("", nil), file("", turned), false}, {file("x", nil), file("", nil), false}, {file("", nil), file("x", nil), false},
	} {
		assert.Equal(t, c.same, Same(c.a, c.b), "%+v %+v", c.a.Body, c.b.Body)
	}
}
