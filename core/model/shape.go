package model

import (
	"fmt"
	"math"
)

// Point is a place in a drawing. X runs right, Y runs up, as in IPC-7351.
type Point struct {
	X Length `json:"x"`
	Y Length `json:"y"`
}

// Add returns the point moved by d.
func (p Point) Add(d Point) Point { return Point{p.X + d.X, p.Y + d.Y} }

// Turned returns p turned about the origin, counter-clockwise. Quarter turns are exact.
func (p Point) Turned(a Angle) Point {
	switch a {
	case 0:
		return p
	case 90 * Degree:
		return Point{-p.Y, p.X}
	case 180 * Degree:
		return Point{-p.X, -p.Y}
	case 270 * Degree:
		return Point{p.Y, -p.X}
	}
	sin, cos := math.Sincos(a.Radians())
	x, y := float64(p.X), float64(p.Y)
	return Point{Length(math.Round(x*cos - y*sin)), Length(math.Round(x*sin + y*cos))}
}

// Form is what a piece of graphics is.
type Form string

// The forms. A line runs through two points or more; an arc through its start, a point between, and its end; a circle has its
// centre and a radius; a rectangle has two opposite corners; a polygon at least three corners; a text stands at one point.
const (
	Line      Form = "line"
	Arc       Form = "arc"
	Circle    Form = "circle"
	Rectangle Form = "rectangle"
	Polygon   Form = "polygon"
	Text      Form = "text"
)

var pointsOf = map[Form][2]int{Line: {2, 10000}, Arc: {3, 3}, Circle: {1, 1}, Rectangle: {2, 2}, Polygon: {3, 10000}, Text: {1, 1}}

// Purpose is what an outline of a land pattern is for.
type Purpose string

// The purposes. Of a symbol, all graphics have the blank purpose.
const (
	Courtyard  Purpose = "courtyard"
	Assembly   Purpose = "assembly"
	Silkscreen Purpose = "silkscreen"
)

// Shape is a piece of graphics.
type Shape struct {
	Form    Form    `json:"form"`
	Purpose Purpose `json:"purpose,omitempty"`
	Unit    int     `json:"unit,omitempty"` // of a symbol: the unit it is drawn in; 0 in all
	Points  []Point `json:"points"`
	Radius  Length  `json:"radius,omitzero"`
	Width   Length  `json:"width,omitzero"` // of the stroke
	Filled  bool    `json:"filled,omitempty"`
	Text    string  `json:"text,omitempty"` // {designator} and {value} stand for what the design tool writes there
	Size    Length  `json:"size,omitzero"`  // height of a text's capitals
	Turn    Angle   `json:"turn,omitzero"`
}

// Designator is the text that stands for a part's designator.
const Designator = "{designator}"

// Check says why s cannot be drawn.
func (s Shape) Check() error {
	n, ok := pointsOf[s.Form]
	switch {
	case !ok:
		return fmt.Errorf("%q is no form of graphics: use line, arc, circle, rectangle, polygon or text", clip(string(s.Form)))
	case len(s.Points) < n[0] || len(s.Points) > n[1]:
		return fmt.Errorf("a %s has %d points; it needs %s", s.Form, len(s.Points), span(n))
	case s.Form == Circle && s.Radius <= 0:
		return fmt.Errorf("a circle has a radius of %s mm; it needs one above zero", s.Radius)
	case s.Form == Text && s.Text == "":
		return fmt.Errorf("a text has no characters")
	case s.Width < 0 || s.Size < 0 || s.Radius < 0:
		return fmt.Errorf("a %s has a negative width, size or radius", s.Form)
	case s.Width > Farthest || s.Size > Farthest || s.Radius > Farthest:
		return fmt.Errorf("a %s is wider than %s mm", s.Form, Farthest)
	}
	for _, p := range s.Points {
		if err := near(p); err != nil {
			return fmt.Errorf("a %s: %w", s.Form, err)
		}
	}
	return nil
}

func span(n [2]int) string {
	if n[0] == n[1] {
		return fmt.Sprint(n[0])
	}
	return fmt.Sprintf("%d to %d", n[0], n[1])
}

func near(p Point) error {
	if p.X > Farthest || p.X < -Farthest || p.Y > Farthest || p.Y < -Farthest {
		return fmt.Errorf("the point %s, %s mm is farther than %s mm from the origin", p.X, p.Y, Farthest)
	}
	return nil
}

// Box is an upright rectangle. The zero value is empty.
type Box struct {
	Min, Max Point
	Some     bool
}

// Take widens b so that it holds p.
func (b *Box) Take(p Point) {
	if !b.Some {
		b.Min, b.Max, b.Some = p, p, true
		return
	}
	b.Min = Point{min(b.Min.X, p.X), min(b.Min.Y, p.Y)}
	b.Max = Point{max(b.Max.X, p.X), max(b.Max.Y, p.Y)}
}

// TakeBox widens b so that it holds o.
func (b *Box) TakeBox(o Box) {
	if o.Some {
		b.Take(o.Min)
		b.Take(o.Max)
	}
}

// Width and Height are the box's sides.
func (b Box) Width() Length { return b.Max.X - b.Min.X }

// Height is the upright side.
func (b Box) Height() Length { return b.Max.Y - b.Min.Y }

// Centre is the middle of the box.
func (b Box) Centre() Point { return Point{(b.Min.X + b.Max.X) / 2, (b.Min.Y + b.Max.Y) / 2} }

// Bounds returns the box that a shape fills, without the width of its stroke. A text counts with its estimated width.
func (s Shape) Bounds() (b Box) {
	switch s.Form {
	case Circle:
		b.Take(s.Points[0].Add(Point{-s.Radius, -s.Radius}))
		b.Take(s.Points[0].Add(Point{s.Radius, s.Radius}))
	case Arc:
		c, r, ok := arcCentre(s.Points)
		for _, p := range s.Points {
			b.Take(p)
		}
		if !ok {
			return b
		}
		from, to := arcAngles(s.Points, c)
		for q := -8; q <= 8; q++ {
			if a := float64(q) * math.Pi / 2; a > min(from, to) && a < max(from, to) {
				b.Take(Point{Length(c[0] + r*math.Cos(a)), Length(c[1] + r*math.Sin(a))})
			}
		}
	case Text:
		half := s.Size * Length(len([]rune(s.Text))) * 3 / 10
		d := Point{half, s.Size / 2}.Turned(s.Turn)
		b.Take(s.Points[0].Add(d))
		b.Take(s.Points[0].Add(Point{-d.X, -d.Y}))
	default:
		for _, p := range s.Points {
			b.Take(p)
		}
	}
	return b
}

// arcCentre returns centre and radius of the circle through three points; false where they lie on a line.
func arcCentre(p []Point) (c [2]float64, r float64, ok bool) {
	ax, ay := float64(p[0].X), float64(p[0].Y)
	bx, by := float64(p[1].X)-ax, float64(p[1].Y)-ay
	cx, cy := float64(p[2].X)-ax, float64(p[2].Y)-ay
	d := 2 * (bx*cy - by*cx)
	if math.Abs(d) < 1e-3*(math.Abs(bx*cy)+math.Abs(by*cx)+1) {
		return c, 0, false
	}
	ux := (cy*(bx*bx+by*by) - by*(cx*cx+cy*cy)) / d
	uy := (bx*(cx*cx+cy*cy) - cx*(bx*bx+by*by)) / d
	return [2]float64{ux + ax, uy + ay}, math.Hypot(ux, uy), true
}

// arcAngles returns the angles of an arc's start and end, so that going straight from one to the other passes its middle.
func arcAngles(p []Point, c [2]float64) (from, to float64) {
	angle := func(q Point) float64 { return math.Atan2(float64(q.Y)-c[1], float64(q.X)-c[0]) }
	from = angle(p[0])
	turn := func(a float64) float64 {
		for a < from {
			a += 2 * math.Pi
		}
		return a
	}
	mid, end := turn(angle(p[1])), turn(angle(p[2]))
	if mid > end {
		end -= 2 * math.Pi
	}
	return from, end
}

// moved returns s moved.
func (s Shape) moved(by Point) Shape {
	points := make([]Point, len(s.Points))
	for i, p := range s.Points {
		points[i] = p.Add(by)
	}
	s.Points = points
	return s
}

// Between returns a point of the arc from start to end about a centre, half-way along it in the given direction.
func Between(start, end, centre Point, clockwise bool) Point {
	from := math.Atan2(float64(start.Y-centre.Y), float64(start.X-centre.X))
	to := math.Atan2(float64(end.Y-centre.Y), float64(end.X-centre.X))
	if clockwise {
		from, to = to, from
	}
	for to <= from {
		to += 2 * math.Pi
	}
	r := math.Hypot(float64(start.X-centre.X), float64(start.Y-centre.Y))
	sin, cos := math.Sincos((from + to) / 2)
	return Point{centre.X + Length(math.Round(r*cos)), centre.Y + Length(math.Round(r*sin))}
}

// Centre returns the centre of an arc of three points, and whether it runs clockwise. Points on one line have the middle of
// the line as their centre.
func Centre(p []Point) (c Point, clockwise bool) {
	at, _, ok := arcCentre(p)
	if !ok {
		return Point{(p[0].X + p[2].X) / 2, (p[0].Y + p[2].Y) / 2}, false
	}
	from, to := arcAngles(p, at)
	return Point{Length(math.Round(at[0])), Length(math.Round(at[1]))}, to < from
}
