package model

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// Pad shapes.
const (
	PadRectangle = "rectangle"
	PadRound     = "round"
	PadOblong    = "oblong"
	PadRounded   = "rounded" // a rectangle with the corner radius Corner
	PadPolygon   = "polygon" // its corners in Points, about the pad's place
)

// PadShapes lists the pad shapes.
var PadShapes = []string{PadRectangle, PadRound, PadOblong, PadRounded, PadPolygon}

// Densities are the density levels of IPC-7351B clause 3.1.4: A most, B nominal, C least copper.
var Densities = []string{"most", "nominal", "least"}

// Mountings are how a part sits on the board.
var Mountings = []string{"surface", "through", "mixed"}

// LandPattern is the copper and the outlines of a part on the board, seen from the top, in the zero turn of IPC-7351.
type LandPattern struct {
	Density  string  `json:"density,omitempty"`
	Mounting string  `json:"mounting,omitempty"`
	Pads     []Pad   `json:"pads"`
	Shapes   []Shape `json:"outlines,omitempty"`
	// Bodies says how named bodies sit on it, where that is not as the body's own document says.
	Bodies []BodyPlace `json:"bodies,omitempty"`
}

// Pad is one piece of copper that a lead is soldered to. Holes have a drill diameter; a pad without one is on one side only.
type Pad struct {
	Number string `json:"number,omitempty"` // blank for a hole or land that carries no pin
	Shape  string `json:"shape"`
	At     Point  `json:"at"`
	Width  Length `json:"width"`
	Height Length `json:"height"`
	Turn   Angle  `json:"turn,omitzero"`
	Corner Length `json:"corner,omitzero"`
	// Hole is the drill's diameter, Slot how much longer the hole is in the pad's direction of width.
	Hole      Length  `json:"hole,omitzero"`
	Slot      Length  `json:"slot,omitzero"`
	Unplated  bool    `json:"unplated,omitempty"`
	Bottom    bool    `json:"bottom,omitempty"` // on the bottom side
	Mask      Length  `json:"mask,omitzero"`    // how far the opening of the solder mask reaches beyond the copper
	Paste     Length  `json:"paste,omitzero"`   // the same of the paste; below zero: smaller than the copper
	WithPaste *bool   `json:"withPaste,omitempty"`
	Points    []Point `json:"points,omitempty"`
}

// BodyPlace is how a body sits on a land pattern.
type BodyPlace struct {
	Body  string    `json:"body"`
	Place Placement `json:"place"`
}

// Check says why l cannot be kept: the first thing that no drawing may have.
func (l *LandPattern) Check() error {
	switch {
	case len(l.Pads) == 0:
		return fmt.Errorf("the land pattern has no pads; it needs one at least")
	case len(l.Pads) > MostPins:
		return fmt.Errorf("the land pattern has %d pads; at most %d are read", len(l.Pads), MostPins)
	case l.Density != "" && !slices.Contains(Densities, l.Density):
		return fmt.Errorf("the density %q is none of most, nominal, least", clip(l.Density))
	case l.Mounting != "" && !slices.Contains(Mountings, l.Mounting):
		return fmt.Errorf("the mounting %q is none of surface, through, mixed", clip(l.Mounting))
	}
	for i, p := range l.Pads {
		if err := p.check(); err != nil {
			return fmt.Errorf("pad %d of the list (%q): %w", i+1, clip(p.Number), err)
		}
	}
	for _, b := range l.Bodies {
		if err := b.Place.Check(); err != nil {
			return fmt.Errorf("the place of the body %q: %w", clip(b.Body), err)
		}
	}
	for i, g := range l.Shapes {
		switch g.Purpose {
		case Courtyard, Assembly, Silkscreen:
		default:
			return fmt.Errorf("outline %d of the list: its purpose %q is none of courtyard, assembly, silkscreen", i+1, clip(string(g.Purpose)))
		}
	}
	return checkShapes(l.Shapes)
}

func (p Pad) check() error {
	const most = 200 * MM
	switch {
	case len(p.Number) > 40:
		return fmt.Errorf("its number is longer than 40 characters")
	case !slices.Contains(PadShapes, p.Shape):
		return fmt.Errorf("its shape %q is none of %s", clip(p.Shape), strings.Join(PadShapes, ", "))
	case p.Width <= 0 || p.Height <= 0:
		return fmt.Errorf("its size of %s × %s mm is not above zero", p.Width, p.Height)
	case p.Width > most || p.Height > most:
		return fmt.Errorf("its size of %s × %s mm is more than %s mm, which no pad has", p.Width, p.Height, most)
	case p.Hole < 0 || p.Slot < 0 || p.Corner < 0:
		return fmt.Errorf("its hole, slot or corner is negative")
	case p.Hole > most || p.Slot > most || p.Corner > most || p.Mask > most || p.Paste > most || p.Mask < -most || p.Paste < -most:
		return fmt.Errorf("one of its measures is more than %s mm, which no pad has", most)
	case p.Shape == PadPolygon && (len(p.Points) < 3 || len(p.Points) > 1000):
		return fmt.Errorf("its polygon has %d corners; it needs 3 to 1,000", len(p.Points))
	}
	for _, q := range p.Points {
		if err := near(q); err != nil {
			return err
		}
	}
	return near(p.At)
}

// corners returns the pad's outline as a polygon, anticlockwise; round ends as sixteen chords.
func (p Pad) corners() []Point {
	var out []Point
	w, h := p.Width/2, p.Height/2
	switch p.Shape {
	case PadPolygon:
		out = append(out, p.Points...)
	case PadRectangle:
		out = []Point{{-w, -h}, {w, -h}, {w, h}, {-w, h}}
	default:
		r := p.Corner
		if p.Shape == PadRound || p.Shape == PadOblong {
			r = min(w, h)
		}
		r = min(r, w, h)
		for q, c := range []Point{{w - r, h - r}, {-w + r, h - r}, {-w + r, -h + r}, {w - r, -h + r}} {
			for i := range 5 {
				sin, cos := math.Sincos(float64(q)*math.Pi/2 + float64(i)*math.Pi/8)
				out = append(out, Point{c.X + Length(math.Round(float64(r)*cos)), c.Y + Length(math.Round(float64(r)*sin))})
			}
		}
	}
	for i, c := range out {
		out[i] = c.Turned(p.Turn).Add(p.At)
	}
	return out
}

// Bounds returns the upright box around the pad's copper.
func (p Pad) Bounds() (b Box) {
	for _, c := range p.corners() {
		b.Take(c)
	}
	return b
}

// Bounds returns the box that holds pads and outlines.
func (l *LandPattern) Bounds() (b Box) {
	b = l.PadBounds()
	for _, g := range l.Shapes {
		b.TakeBox(g.Bounds())
	}
	return b
}

// PadBounds returns the box around all copper.
func (l *LandPattern) PadBounds() (b Box) {
	for _, p := range l.Pads {
		b.TakeBox(p.Bounds())
	}
	return b
}

// Numbers returns the distinct pad numbers in their natural order, without pads that carry none.
func (l *LandPattern) Numbers() []string {
	var all []string
	for _, p := range l.Pads {
		if p.Number != "" {
			all = append(all, p.Number)
		}
	}
	return distinct(all)
}

// Features are what people tell land patterns apart by.
type Features struct {
	Pads    int    `json:"pads"`
	Pitch   Length `json:"pitch" doc:"Distance of neighbouring pads that occurs most often, mm"`
	Row     Length `json:"row" doc:"Distance between the outermost rows of pads, mm"`
	Width   Length `json:"width" doc:"All copper from left to right, mm"`
	Height  Length `json:"height" doc:"All copper from top to bottom, mm"`
	Through bool   `json:"through"`
}

// Features measures l. Pitch and row are those of the pad centres; a pattern turned by 90° has the same ones.
func (l *LandPattern) Features() Features {
	f := Features{Pads: len(l.Pads)}
	box := l.PadBounds()
	f.Width, f.Height = box.Width(), box.Height()
	var centres Box
	count := map[Length]int{}
	for i, p := range l.Pads {
		centres.Take(p.At)
		f.Through = f.Through || p.Hole > 0
		best := Length(math.MaxInt64)
		for j, q := range l.Pads {
			if i == j || len(l.Pads) > 600 && j > i+40 {
				continue
			}
			d := Length(math.Round(math.Hypot(float64(p.At.X-q.At.X), float64(p.At.Y-q.At.Y))))
			if d > 0 && d < best {
				best = d
			}
		}
		if best < math.MaxInt64 {
			count[(best+MM/2000)/(MM/1000)*(MM/1000)]++
		}
	}
	most := 0
	for d, n := range count {
		if n > most || n == most && d < f.Pitch {
			f.Pitch, most = d, n
		}
	}
	f.Row = max(centres.Width(), centres.Height())
	if short := min(centres.Width(), centres.Height()); short > 0 && len(l.Pads) > 2 && !quad(l, centres) {
		// two rows: the distance across them is what counts, not the length of a row
		across := centres.Width()
		if onEdges(l, centres, true) < onEdges(l, centres, false) {
			across = centres.Height()
		}
		f.Row = across
	}
	return f
}

// onEdges counts pads on the left and right (or lower and upper) edge of the box of centres.
func onEdges(l *LandPattern, b Box, sides bool) (n int) {
	for _, p := range l.Pads {
		if sides && (p.At.X == b.Min.X || p.At.X == b.Max.X) || !sides && (p.At.Y == b.Min.Y || p.At.Y == b.Max.Y) {
			n++
		}
	}
	return n
}

// quad says whether pads stand on all four sides.
func quad(l *LandPattern, b Box) bool {
	return onEdges(l, b, true) > 4 && onEdges(l, b, false) > 4 && onEdges(l, b, true) < len(l.Pads) && onEdges(l, b, false) < len(l.Pads)
}
