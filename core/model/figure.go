package model

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// The corners of a figure that lies upright, anticlockwise from the lower left.
const (
	LowerLeft  = "lower left"
	LowerRight = "lower right"
	UpperRight = "upper right"
	UpperLeft  = "upper left"
)

// FigureCorners lists the corners in the order in which a figure's outline passes them.
var FigureCorners = []string{LowerLeft, LowerRight, UpperRight, UpperLeft}

// Figure is one closed outline: the copper of a pad on one side, or an opening of the solder mask or of the paste. Its place is
// counted from the place of its pad, and turns with the pad.
type Figure struct {
	Shape   string   `json:"shape"`
	At      Point    `json:"at,omitzero"`
	Width   Length   `json:"width"`
	Height  Length   `json:"height"`
	Turn    Angle    `json:"turn,omitzero"`
	Corner  Length   `json:"corner,omitzero"`   // radius or chamfer of the corners
	Corners []string `json:"corners,omitempty"` // those that are rounded or chamfered; all where none is named
	Points  []Point  `json:"points,omitempty"`
	CutOuts []CutOut `json:"cutOuts,omitempty"`
}

// Figure is the pad's copper, about the pad's own place.
func (p Pad) Figure() Figure {
	return Figure{Shape: p.Shape, Width: p.Width, Height: p.Height, Corner: p.Corner, Corners: p.Corners, Points: p.Points, CutOuts: p.CutOuts}
}

// Pad is a pad of this copper, at the figure's own place and turn; it has no number, hole or opening of its own.
func (f Figure) Pad() Pad {
	return Pad{Shape: f.Shape, At: f.At, Width: f.Width, Height: f.Height, Turn: f.Turn % (360 * Degree), Corner: f.Corner, Corners: f.Corners, Points: f.Points, CutOuts: f.CutOuts}
}

// Grown is the figure with its edge moved outwards, as a parallel curve with corners as they were, and into its cut-outs; false where nothing would be left of
// it, or a polygon's edge would turn round.
func (f Figure) Grown(by Length) (Figure, bool) {
	out, ok := f.outerGrown(by)
	if !ok || by == 0 || len(f.CutOuts) == 0 {
		return out, ok
	}
	out.CutOuts = nil
	for _, c := range f.CutOuts {
		g := c.figure()
		if min(g.Width, g.Height)-2*by <= 0 { // it is closed
			continue
		}
		g, ok := g.outerGrown(-by)
		if !ok {
			return f, false
		}
		out.CutOuts = append(out.CutOuts, g.cutOut())
	}
	return out, out.checkCutOuts("its") == nil
}

// outerGrown is the figure with its outer edge moved outwards.
func (f Figure) outerGrown(by Length) (Figure, bool) {
	switch {
	case by == 0:
		return f, true
	case f.Width+2*by <= 0 || f.Height+2*by <= 0:
		return f, false
	case f.Shape == PadPolygon:
		return f.polygonGrown(by)
	}
	f.Width, f.Height = f.Width+2*by, f.Height+2*by
	if f.Shape == PadRounded && len(f.Corners) == 0 {
		f.Corner = max(f.Corner+by, 0)
	}
	return f, true
}

// polygonGrown moves each side of a polygon outwards and lets neighbours meet.
func (f Figure) polygonGrown(by Length) (Figure, bool) {
	p := straightened(f.Points)
	area := 0.0
	for i, a := range p {
		b := p[(i+1)%len(p)]
		area += float64(a.X)*float64(b.Y) - float64(b.X)*float64(a.Y)
	}
	d := float64(by)
	if area < 0 {
		d = -d
	}
	side := func(i int) (x, y, ux, uy float64) { // a point of the moved side, and its direction
		a, b := p[i%len(p)], p[(i+1)%len(p)]
		ux, uy = float64(b.X-a.X), float64(b.Y-a.Y)
		l := math.Hypot(ux, uy)
		ux, uy = ux/l, uy/l
		return float64(a.X) + uy*d, float64(a.Y) - ux*d, ux, uy
	}
	out := make([]Point, len(p))
	var box Box
	for i := range p {
		x1, y1, ux, uy := side(i + len(p) - 1)
		x2, y2, vx, vy := side(i)
		cross := ux*vy - uy*vx
		if math.Abs(cross) < 0.05 { // nearly straight, or so sharp that the sides meet far away
			return f, false
		}
		t := ((x2-x1)*vy - (y2-y1)*vx) / cross
		out[i] = Point{Length(math.Round(x1 + ux*t)), Length(math.Round(y1 + uy*t))}
		box.Take(out[i])
	}
	for i := range out {
		a, b, c, e := p[i], p[(i+1)%len(p)], out[i], out[(i+1)%len(out)]
		if float64(b.X-a.X)*float64(e.X-c.X)+float64(b.Y-a.Y)*float64(e.Y-c.Y) <= 0 {
			return f, false
		}
	}
	f.Points, f.Width, f.Height = out, box.Width(), box.Height()
	return f, true
}

// Turned is the figure turned about its pad's place.
func (f Figure) Turned(a Angle) Figure {
	f.At, f.Turn = f.At.Turned(a), (f.Turn+a)%(360*Degree)
	return f
}

// Scaled is the figure with all lengths multiplied, to the tenth of a nanometre.
func (f Figure) Scaled(by float64) Figure {
	l := func(v Length) Length { return Length(math.Round(float64(v) * by)) }
	point := func(p Point) Point { return Point{l(p.X), l(p.Y)} }
	f.At, f.Width, f.Height, f.Corner = point(f.At), l(f.Width), l(f.Height), l(f.Corner)
	f.Points = slices.Clone(f.Points)
	for i := range f.Points {
		f.Points[i] = point(f.Points[i])
	}
	return f.cutAlike(func(c Figure) Figure { return c.Scaled(by) })
}

func (f Figure) check(what string) error {
	const most = 200 * MM
	switch {
	case !slices.Contains(PadShapes, f.Shape):
		return fmt.Errorf("%s shape %q is none of %s", what, clip(f.Shape), strings.Join(PadShapes, ", "))
	case f.Width <= 0 || f.Height <= 0:
		return fmt.Errorf("%s size of %s × %s mm is not above zero", what, f.Width, f.Height)
	case f.Width > most || f.Height > most:
		return fmt.Errorf("%s size of %s × %s mm is more than %s mm, which no pad has", what, f.Width, f.Height, most)
	case f.Corner < 0 || f.Corner > most:
		return fmt.Errorf("%s corner of %s mm is not between 0 and %s mm", what, f.Corner, most)
	case f.Shape == PadPolygon && (len(f.Points) < 3 || len(f.Points) > 1000):
		return fmt.Errorf("%s polygon has %d corners; it needs 3 to 1,000", what, len(f.Points))
	case f.Shape != PadPolygon && len(f.Points) > 0:
		return fmt.Errorf("%s shape %q has points, which a polygon alone has", what, f.Shape)
	}
	for i, c := range f.Corners {
		if !slices.Contains(FigureCorners, c) || slices.Contains(f.Corners[:i], c) {
			return fmt.Errorf("%s corner %q is none of %s, each once", what, clip(c), strings.Join(FigureCorners, ", "))
		}
	}
	for _, q := range append([]Point{f.At}, f.Points...) {
		if err := near(q); err != nil {
			return err
		}
	}
	return f.checkCutOuts(what)
}

// normal brings a figure into the one form in which it is kept.
func (f *Figure) normal() {
	f.Turn = (f.Turn%(360*Degree) + 360*Degree) % (360 * Degree)
	switch {
	case (f.Shape == PadRounded || f.Shape == PadChamfered) && f.Corner == 0:
		f.Shape = PadRectangle
	case f.Shape == PadOblong && f.Width == f.Height:
		f.Shape = PadRound
	case f.Shape == PadRound && f.Width != f.Height:
		f.Shape = PadOblong
	}
	if f.Shape != PadRounded && f.Shape != PadChamfered {
		f.Corner, f.Corners = 0, nil
	}
	var in []string
	for _, c := range FigureCorners {
		if slices.Contains(f.Corners, c) {
			in = append(in, c)
		}
	}
	if f.Corners = in; len(in) == len(FigureCorners) {
		f.Corners = nil
	}
	f.normalCutOuts()
}

// shaped says which corners, in the order of [FigureCorners], are rounded or chamfered.
func (f Figure) shaped(i int) bool {
	return len(f.Corners) == 0 || slices.Contains(f.Corners, FigureCorners[i])
}

// Outline returns the figure as a polygon about its pad's place, anticlockwise; a quarter of a circle as so many chords.
func (f Figure) Outline(chords int) []Point {
	var out []Point
	w, h := f.Width/2, f.Height/2
	switch f.Shape {
	case PadPolygon:
		out = append(out, f.Points...)
	case PadRectangle:
		out = []Point{{-w, -h}, {w, -h}, {w, h}, {-w, h}}
	default:
		r := f.Corner
		if f.Shape == PadRound || f.Shape == PadOblong {
			r = min(w, h)
		}
		r = min(r, w, h)
		for i, s := range []Point{{-1, -1}, {1, -1}, {1, 1}, {-1, 1}} {
			corner := Point{s.X * w, s.Y * h}
			centre := Point{corner.X - s.X*r, corner.Y - s.Y*r}
			switch {
			case !f.shaped(i):
				out = append(out, corner)
			case f.Shape == PadChamfered && i%2 == 0:
				out = append(out, Point{corner.X, centre.Y}, Point{centre.X, corner.Y})
			case f.Shape == PadChamfered:
				out = append(out, Point{centre.X, corner.Y}, Point{corner.X, centre.Y})
			default:
				for k := range chords + 1 {
					sin, cos := math.Sincos(float64(i-2)*math.Pi/2 + float64(k)*math.Pi/2/float64(chords))
					out = append(out, Point{centre.X + Length(math.Round(float64(r)*cos)), centre.Y + Length(math.Round(float64(r)*sin))})
				}
			}
		}
	}
	for i, c := range out {
		out[i] = c.Turned(f.Turn).Add(f.At)
	}
	return out
}

// CornerAt says whether the outline of a figure with round corners, as [Figure.Outline] with one chord gives it, bends after its point i, and about which centre.
func (f Figure) CornerAt(i int) (centre Point, bends bool) {
	r := min(f.Width, f.Height) / 2
	if f.Shape == PadRounded {
		r = min(f.Corner, r)
	}
	at := 0
	for k, s := range []Point{{-1, -1}, {1, -1}, {1, 1}, {-1, 1}} {
		if !f.shaped(k) {
			at++
			continue
		}
		if at == i {
			return Point{s.X * (f.Width/2 - r), s.Y * (f.Height/2 - r)}.Turned(f.Turn).Add(f.At), true
		}
		at += 2
	}
	return centre, false
}

// canonical is a figure in a form in which equal ones look alike: a box with four corners, or a polygon.
type canonical struct {
	at      Point
	w, h    Length
	turn    Angle
	corner  [4]Length // of each, its radius or chamfer
	chamfer bool
	points  []Point // of a polygon, about the pad's place
}

func (f Figure) canonical() canonical {
	c := canonical{at: f.At, w: f.Width, h: f.Height, turn: f.Turn}
	switch f.Shape {
	case PadRound, PadOblong:
		r := min(f.Width, f.Height) / 2
		c.corner = [4]Length{r, r, r, r}
	case PadRounded, PadChamfered:
		for i := range c.corner {
			if f.shaped(i) {
				c.corner[i] = min(f.Corner, f.Width/2, f.Height/2)
			}
		}
		c.chamfer = f.Shape == PadChamfered
	case PadPolygon:
		points := straightened(f.Outline(1))
		if b, ok := uprightBox(points); ok {
			return canonical{at: b.Centre(), w: b.Width(), h: b.Height()}
		}
		return canonical{points: points}
	}
	return c
}

// quarter returns the same figure described with its sides exchanged.
func (c canonical) quarter() canonical {
	c.w, c.h = c.h, c.w
	c.turn = (c.turn + 270*Degree) % (360 * Degree)
	// What was lower right is lower left of the box that is turned back by 90°.
	c.corner = [4]Length{c.corner[3], c.corner[0], c.corner[1], c.corner[2]}
	return c
}

// Off says how far two figures lie apart: the largest distance of what belongs together, cut-outs included; false where they are of other shapes.
func (f Figure) Off(g Figure) (Length, bool) {
	most, ok := f.outerOff(g)
	if !ok || len(f.CutOuts) == 0 && len(g.CutOuts) == 0 {
		return most, ok
	}
	in, ok := f.cutOutsOff(g)
	return max(most, in), ok
}

func (f Figure) outerOff(g Figure) (Length, bool) {
	a, b := f.canonical(), g.canonical()
	if a.points != nil || b.points != nil {
		p, okP := f.sides(a)
		q, okQ := g.sides(b)
		if !okP || !okQ {
			return 0, false
		}
		return cyclic(p, q)
	}
	round := a.corner != [4]Length{} && !a.chamfer
	if sharp := func(c canonical) bool { return max(c.corner[0], c.corner[1], c.corner[2], c.corner[3]) <= sameWithin }; a.chamfer != b.chamfer && !sharp(a) && !sharp(b) {
		return 0, false
	}
	best, ok := Length(math.MaxInt64), false
	disc := func(c canonical) bool {
		return round && abs(c.w-c.h) <= sameWithin && abs(2*c.corner[0]-min(c.w, c.h)) <= sameWithin && c.corner[0] == c.corner[1] && c.corner[1] == c.corner[2] && c.corner[2] == c.corner[3]
	}
	for range 4 {
		turn := a.turn - b.turn
		if turn < 0 {
			turn = -turn
		}
		turn = min(turn, 360*Degree-turn)
		if disc(a) && disc(b) {
			turn = 0
		}
		if turn <= 45*Degree {
			d := max(abs(a.at.X-b.at.X), abs(a.at.Y-b.at.Y), abs(a.w-b.w), abs(a.h-b.h), Length(float64(max(a.w, a.h))/2*turn.Radians()))
			for i := range a.corner {
				d = max(d, abs(a.corner[i]-b.corner[i]))
			}
			best, ok = min(best, d), true
		}
		b = b.quarter()
	}
	return best, ok
}

// sides is a figure's outline where it has straight sides only.
func (f Figure) sides(c canonical) ([]Point, bool) {
	if c.points != nil {
		return c.points, true
	}
	return straightened(f.Outline(1)), c.chamfer || c.corner == [4]Length{}
}

// straightened leaves out the corners of a polygon at which it does not turn, to the micrometre.
func straightened(points []Point) []Point {
	out := slices.Clone(points)
	for i := 0; i < len(out) && len(out) > 3; {
		a, b, c := out[(i+len(out)-1)%len(out)], out[i], out[(i+1)%len(out)]
		ux, uy, vx, vy := float64(b.X-a.X), float64(b.Y-a.Y), float64(c.X-b.X), float64(c.Y-b.Y)
		length := math.Hypot(float64(c.X-a.X), float64(c.Y-a.Y))
		if math.Abs(ux*vy-uy*vx) <= float64(MM/1000)*max(length, 1) && ux*vx+uy*vy >= 0 {
			out = slices.Delete(out, i, i+1)
			i = max(i-1, 0)
			continue
		}
		i++
	}
	return out
}

// uprightBox returns the box that a polygon of four corners is, if it is one.
func uprightBox(p []Point) (b Box, ok bool) {
	if len(p) != 4 {
		return b, false
	}
	for _, q := range p {
		b.Take(q)
	}
	for i, q := range p {
		n := p[(i+1)%4]
		corner := (abs(q.X-b.Min.X) <= sameWithin/5 || abs(q.X-b.Max.X) <= sameWithin/5) && (abs(q.Y-b.Min.Y) <= sameWithin/5 || abs(q.Y-b.Max.Y) <= sameWithin/5)
		side := abs(q.X-n.X) <= sameWithin/5 || abs(q.Y-n.Y) <= sameWithin/5
		if !corner || !side {
			return b, false
		}
	}
	return b, b.Width() > 0 && b.Height() > 0
}

// cyclic says how far the corners of two polygons lie apart, whichever corner each begins with and whichever way it runs.
func cyclic(a, b []Point) (Length, bool) {
	if len(a) != len(b) {
		return 0, false
	}
	best := Length(math.MaxInt64)
	n := len(a)
	for _, back := range []bool{false, true} {
		for start := range n {
			most := Length(0)
			for i := range n {
				j := (start + i) % n
				if back {
					j = (start - i + n) % n
				}
				if most = max(most, abs(a[i].X-b[j].X), abs(a[i].Y-b[j].Y)); most >= best {
					break
				}
			}
			best = min(best, most)
		}
	}
	return best, true
}
