package model

import (
	"fmt"
	"math"
	"slices"
)

// Pad shapes.
const (
	PadRectangle = "rectangle"
	PadRound     = "round"
	PadOblong    = "oblong"
	PadRounded   = "rounded"   // a rectangle with the corner radius Corner
	PadChamfered = "chamfered" // a rectangle whose corners are cut off by Corner, measured along each side
	PadPolygon   = "polygon"   // its corners in Points, about the pad's place
)

// PadShapes lists the pad shapes.
var PadShapes = []string{PadRectangle, PadRound, PadOblong, PadRounded, PadChamfered, PadPolygon}

// Densities are the density levels of IPC-7351B clause 3.1.4: A most, B nominal, C least copper.
var Densities = []string{"most", "nominal", "least"}

// Mountings are how a part sits on the board.
var Mountings = []string{"surface", "through", "mixed"}

// LandPattern is the copper and the outlines of a part on the board, seen from the top, in the zero turn of IPC-7351.
type LandPattern struct {
	Density  string `json:"density,omitempty"`
	Mounting string `json:"mounting,omitempty"`
	// Overhang: the body is meant to reach beyond pads and outline, as connectors at an edge, jacks and lying power packages do.
	Overhang bool    `json:"overhang,omitempty"`
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
	// Corners are those that are rounded or chamfered; all where none is named.
	Corners []string `json:"corners,omitempty"`
	// Hole is the drill's diameter, Slot how much longer the hole is than wide, in the pad's direction of width turned by HoleTurn.
	Hole     Length `json:"hole,omitzero"`
	Slot     Length `json:"slot,omitzero"`
	HoleAt   Point  `json:"holeAt,omitzero"` // of its middle, from the pad's place; it turns with the pad
	HoleTurn Angle  `json:"holeTurn,omitzero"`
	Unplated bool   `json:"unplated,omitempty"`
	Bottom   bool   `json:"bottom,omitempty"` // on the bottom side
	// Below is the copper on the bottom of a pad with a hole, where it is another than on the top.
	Below *Figure `json:"below,omitempty"`
	// Inner is the copper on the inner layers of a pad with a hole, where it is another than on the top.
	Inner     *Figure `json:"inner,omitempty"`
	Mask      Length  `json:"mask,omitzero"`  // how far the opening of the solder mask reaches beyond the copper
	Paste     Length  `json:"paste,omitzero"` // the same of the paste; below zero: smaller than the copper
	WithMask  *bool   `json:"withMask,omitempty"`
	WithPaste *bool   `json:"withPaste,omitempty"`
	// Openings are those of mask or paste that are not the copper grown alike; where there is one, there are no others of its kind.
	Openings []Opening `json:"openings,omitempty"`
	Points   []Point   `json:"points,omitempty"`
	CutOuts  []CutOut  `json:"cutOuts,omitempty"` // of the copper
}

// copper is the copper on a layer where it may be another than on the top.
func (p Pad) copper(other *Figure) Figure {
	if other != nil {
		return *other
	}
	return p.Figure()
}

// OtherCopper puts what do makes of it in the place of the copper on the bottom and on inner layers, where either is another than on the top.
func (p *Pad) OtherCopper(do func(Figure) Figure) {
	for _, of := range []**Figure{&p.Below, &p.Inner} {
		if *of != nil {
			made := do(**of)
			*of = &made
		}
	}
}

// What an opening is in.
const (
	OfMask  = "mask"
	OfPaste = "paste"
)

// Opening is an opening of the solder mask or of the paste stencil.
type Opening struct {
	Of     string `json:"of"`
	Bottom bool   `json:"bottom,omitempty"`
	Figure
}

// Opened returns all openings of one kind that the pad has, its own and those that are its copper grown alike.
func (p Pad) Opened(of string) (out []Opening) {
	for _, o := range p.Openings {
		if o.Of == of {
			out = append(out, o)
		}
	}
	with, by := p.WithMask, p.Mask
	if of == OfPaste {
		with, by = p.WithPaste, p.Paste
	}
	if len(out) > 0 || with != nil && !*with || of == OfPaste && with == nil && p.Hole > 0 {
		return out
	}
	sides := []bool{p.Bottom}
	if p.Hole > 0 {
		sides = []bool{false, true}
	}
	for _, bottom := range sides {
		f := p.Figure()
		if bottom {
			f = p.copper(p.Below)
		}
		if g, ok := f.Grown(by); ok {
			out = append(out, Opening{of, bottom, g})
		}
	}
	return out
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
	case p.Hole < 0 || p.Slot < 0:
		return fmt.Errorf("its hole or slot is negative")
	case p.Hole > most || p.Slot > most || p.Mask > most || p.Paste > most || p.Mask < -most || p.Paste < -most:
		return fmt.Errorf("one of its measures is more than %s mm, which no pad has", most)
	case p.Hole == 0 && (p.Slot > 0 || p.HoleAt != Point{} || p.Below != nil || p.Inner != nil || p.Unplated):
		return fmt.Errorf("it has a slot, a place or plating of a hole, or copper below or within the board, and no hole")
	case p.Hole > 0 && p.Bottom:
		return fmt.Errorf("it has a hole and is on the bottom only")
	case len(p.Openings) > 400:
		return fmt.Errorf("it has %d openings of mask and paste; at most 400 are read", len(p.Openings))
	}
	for what, f := range map[string]*Figure{"its bottom's": p.Below, "its inner layers'": p.Inner} {
		if f == nil {
			continue
		}
		if err := f.check(what); err != nil {
			return err
		}
	}
	for _, o := range p.Openings {
		if o.Of != OfMask && o.Of != OfPaste {
			return fmt.Errorf("its opening is of %q; it can be of mask or paste", clip(o.Of))
		}
		if o.Bottom != p.Bottom && p.Hole == 0 {
			return fmt.Errorf("its opening is on the side on which it has no copper")
		}
		if err := o.check("its opening's"); err != nil {
			return err
		}
	}
	if err := p.Figure().check("its"); err != nil {
		return err
	}
	for by, what := range map[Length]string{p.Mask: "solder mask", p.Paste: "paste"} {
		if _, ok := p.Figure().Grown(by); !ok {
			return fmt.Errorf("its opening of the %s, %s mm beyond the copper, cannot be worked out: give it one of its own", what, by)
		}
	}
	if err := near(p.HoleAt); err != nil {
		return err
	}
	return near(p.At)
}

// normal brings the pad into the one form in which it is kept.
func (p *Pad) normal() {
	f := p.Figure()
	f.normal()
	p.Shape, p.Corner, p.Corners, p.CutOuts = f.Shape, f.Corner, f.Corners, f.CutOuts
	p.Turn = (p.Turn%(360*Degree) + 360*Degree) % (360 * Degree)
	if p.Hole == 0 || p.Slot == 0 {
		p.HoleTurn = 0
	}
	if p.Hole == 0 { // what an older format let stand
		p.Slot, p.HoleAt, p.Unplated, p.Below, p.Inner = 0, Point{}, false, nil, nil
	}
	p.HoleTurn %= 180 * Degree
	for _, of := range []**Figure{&p.Below, &p.Inner} {
		if *of == nil {
			continue
		}
		b := **of
		b.normal()
		if off, ok := b.Off(f); ok && off == 0 {
			*of = nil
			continue
		}
		*of = &b
	}
	if len(p.Openings) == 0 {
		p.Openings = nil
	}
	own := map[string]bool{}
	for _, o := range p.Openings {
		own[o.Of] = true
	}
	p.WithMask, p.Mask = openedAlike(p.WithMask, p.Mask, own[OfMask], true)
	p.WithPaste, p.Paste = openedAlike(p.WithPaste, p.Paste, own[OfPaste], p.Hole == 0)
	p.Openings = slices.Clone(p.Openings)
	for i := range p.Openings {
		p.Openings[i].normal()
	}
}

// openedAlike is how far the openings of one kind reach, and whether there are any, where nothing is said twice: usual is whether a pad has
// them when nothing is said.
func openedAlike(with *bool, by Length, own, usual bool) (*bool, Length) {
	switch {
	case own, with == nil && !usual:
		return nil, 0
	case with != nil && !*with && !usual:
		return nil, 0
	case with != nil && !*with:
		return with, 0
	case with != nil && usual:
		return nil, by
	}
	return with, by
}

// corners returns the pad's outline as a polygon, anticlockwise; round ends as sixteen chords.
func (p Pad) corners() []Point { return p.placed(p.Figure(), 4) }

// placed returns a figure of the pad as a polygon where it lies on the board.
func (p Pad) placed(f Figure, chords int) []Point {
	out := f.Outline(chords)
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
	for _, of := range []*Figure{p.Below, p.Inner} {
		if of == nil {
			continue
		}
		for _, c := range p.placed(*of, 4) {
			b.Take(c)
		}
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
