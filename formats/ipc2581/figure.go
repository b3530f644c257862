package ipc2581

import (
	"fmt"
	"math"
	"strings"

	"jollydrawer/core/model"
)

// curveWithin is how far the chords of a curve may lie beside it.
const curveWithin = float64(model.MM) / 1000

// exact is what two ways to say one thing may differ by: files round.
const exact = model.MM / 1000

// standard are the primitives of the standard dictionary, that are read or named in a refusal.
var standard = map[string]bool{"Butterfly": true, "Circle": true, "Contour": true, "Diamond": true, "Donut": true, "Ellipse": true, "Hexagon": true, "Moire": true, "Octagon": true, "Oval": true,
	"RectCenter": true, "RectCham": true, "RectCorner": true, "RectRound": true, "Thermal": true, "Triangle": true}

// scope reads in one unit.
type scope struct {
	*file
	unit model.Length
	none string // why there is no unit
	err  error
	said []string
}

func (s *scope) fail(e *element, form string, args ...any) {
	if s.err == nil {
		s.err = fmt.Errorf("line %d: %s", e.line, fmt.Sprintf(form, args...))
	}
}

func (s *scope) say(e *element, form string, args ...any) {
	s.said = append(s.said, fmt.Sprintf("line %d: %s", e.line, fmt.Sprintf(form, args...)))
}

// length reads an attribute; zero where it is not there.
func (s *scope) length(e *element, name string) model.Length {
	t, ok := e.lookup(name)
	if !ok {
		return 0
	}
	if s.unit == 0 {
		s.fail(e, "%s", s.none)
		return 0
	}
	l, err := model.ParseLengthIn(t, s.unit)
	if err != nil {
		s.fail(e, "%s of %s: %v", name, e.name, err)
	}
	return l
}

// must reads an attribute that has to be there.
func (s *scope) must(e *element, name string) model.Length {
	if _, ok := e.lookup(name); !ok {
		s.fail(e, "%s says no %s", e.name, name)
	}
	return s.length(e, name)
}

func (s *scope) angle(e *element, name string) model.Angle {
	t := e.attr(name)
	if t == "" {
		return 0
	}
	a, err := model.ParseAngle(t)
	if err != nil {
		s.fail(e, "%s of %s: %v", name, e.name, err)
	}
	return a
}

func (s *scope) flag(e *element, name string) (value, said bool) {
	t, said := e.lookup(name)
	switch strings.ToLower(strings.TrimSpace(t)) {
	case "true", "1":
		return true, said
	case "false", "0", "":
		return false, said
	}
	s.fail(e, "%s of %s is %q, neither true nor false", name, e.name, clip(t))
	return false, said
}

// point is a place that has to be there whole.
func (s *scope) point(e *element) model.Point {
	return model.Point{X: s.must(e, "x"), Y: s.must(e, "y")}
}

// figure reads the one shape inside e: a standard primitive of clause 8.2 of IPC-2581, given in place or by its id, or a user primitive
// that is one. What is not read as what it is, is an error.
func (s *scope) figure(e *element) (f model.Figure, found bool) {
	for _, k := range e.kids {
		switch {
		case standard[k.name]:
			k.read = true
			s.primitive(k, &f)
		case k.name == "StandardPrimitiveRef":
			k.read = true
			f = s.entry(k, s.standard, "DictionaryStandard")
		case k.name == "UserPrimitiveRef":
			k.read = true
			f = s.entry(k, s.user, "DictionaryUser")
		case k.name == "UserSpecial", k.name == "StandardShape", k.name == "UserShape":
			k.read = true
			f, _ = s.figure(k)
		case k.name == "Outline" && k.child("Polygon") != nil, k.name == "Line", k.name == "Polyline", k.name == "Arc", k.name == "Text":
			k.read = true
			s.fail(k, "copper drawn as a %s, a stroke and not an area, is not read here", k.name)
		default:
			continue
		}
		if found {
			s.fail(k, "copper of several pieces (%s and more) is not read here: a pad is one piece", k.name)
			return f, true
		}
		found = true
	}
	return f, found
}

// entry is a primitive of a dictionary.
func (s *scope) entry(ref *element, of map[string]*dictionaryEntry, dictionary string) model.Figure {
	id := ref.attr("id")
	d := of[id]
	if d == nil {
		s.fail(ref, "%q is not in the file's %s", clip(id), dictionary)
		return model.Figure{}
	}
	if d.twice {
		s.fail(ref, "the file's %s has two different entries %q", dictionary, clip(id))
	}
	if s.err == nil && d.err != nil {
		s.err = d.err
	}
	s.said = append(s.said, d.said...)
	return d.figure
}

func (s *scope) primitive(k *element, f *model.Figure) {
	switch k.name {
	case "RectCenter", "RectRound", "RectCham", "Oval", "Diamond", "Ellipse":
		f.Width, f.Height = s.must(k, "width"), s.must(k, "height")
	}
	switch k.name {
	case "RectCenter":
		f.Shape = model.PadRectangle
	case "RectCorner":
		lo := model.Point{X: s.must(k, "lowerLeftX"), Y: s.must(k, "lowerLeftY")}
		hi := model.Point{X: s.must(k, "upperRightX"), Y: s.must(k, "upperRightY")}
		f.Shape, f.Width, f.Height = model.PadRectangle, hi.X-lo.X, hi.Y-lo.Y
		f.At = model.Point{X: (lo.X + hi.X) / 2, Y: (lo.Y + hi.Y) / 2}
	case "RectRound":
		f.Shape, f.Corner = model.PadRounded, s.must(k, "radius")
		s.corners(k, f)
	case "RectCham":
		f.Shape, f.Corner = model.PadChamfered, s.must(k, "chamfer")
		s.corners(k, f)
	case "Circle":
		d := s.must(k, "diameter")
		f.Shape, f.Width, f.Height = model.PadRound, d, d
	case "Oval":
		f.Shape = model.PadOblong
	case "Diamond":
		w, h := f.Width/2, f.Height/2
		f.Shape, f.Points = model.PadPolygon, []model.Point{{X: w}, {Y: h}, {X: -w}, {Y: -h}}
	case "Octagon":
		s.octagon(k, f)
	case "Ellipse":
		s.ellipse(k, f)
	case "Donut":
		s.donut(k, f)
	case "Contour":
		*f = s.area(k.child("Polygon"))
		k.all("Cutout", func(c *element) { *f = f.Without(s.area(c)) })
	default:
		s.fail(k, "a %s is no shape that a pad can have here", k.name)
	}
	s.filled(k)
	if err := f.CheckCutOuts(); err != nil {
		s.fail(k, "%v", err)
	}
	if f.Shape != model.PadPolygon && f.Shape != "" && (f.Width <= 0 || f.Height <= 0) {
		s.fail(k, "the %s is %s × %s mm, which is nothing", k.name, f.Width, f.Height)
	}
}

// donut reads a ring, round or square.
func (s *scope) donut(k *element, f *model.Figure) {
	shape, is := map[string]string{"ROUND": model.PadRound, "SQUARE": model.PadRectangle}[strings.ToUpper(k.attr("shape"))]
	if !is {
		s.fail(k, "a ring of the shape %q is not read here: it can be ROUND or SQUARE", clip(k.attr("shape")))
	}
	of := func(name string) model.Figure {
		d := s.must(k, name)
		return model.Figure{Shape: shape, Width: d, Height: d}
	}
	in := of("innerDiameter")
	*f = of("outerDiameter")
	if in.Width > 0 {
		*f = f.Without(in)
	}
}

// area reads a closed outline: as the plain shape that it is, or as a polygon, of which curved steps become chords within 1 µm, which is said.
func (s *scope) area(e *element) (f model.Figure) {
	points, arcs := s.steps(e, true)
	f = model.Figure{Shape: model.PadPolygon, Points: points}
	var b model.Box
	for _, q := range points {
		b.Take(q)
	}
	f.Width, f.Height = b.Width(), b.Height()
	if len(arcs) == 0 {
		if plain, ok := straight(points, b); ok {
			return plain
		}
		return f
	}
	if plain, ok := curved(points, arcs, b); ok {
		return plain
	}
	s.sayChords(e, len(arcs))
	return f
}

// corners reads which corners a RectRound or RectCham shapes: all of them where it says nothing of any.
func (s *scope) corners(k *element, f *model.Figure) {
	said := 0
	for i, name := range []string{"lowerLeft", "lowerRight", "upperRight", "upperLeft"} {
		is, here := s.flag(k, name)
		if here {
			said++
		}
		if is {
			f.Corners = append(f.Corners, model.FigureCorners[i])
		}
	}
	switch {
	case said == 0:
	case said < 4:
		s.fail(k, "%s says of %d corners whether they are shaped and leaves the others open", k.name, said)
	case len(f.Corners) == 0:
		f.Shape, f.Corner = model.PadRectangle, 0
	case len(f.Corners) == 4:
		f.Corners = nil
	}
}

// octagon reads a regular octagon, whose length is that from corner to corner, as one that lies on a side.
func (s *scope) octagon(k *element, f *model.Figure) {
	r := float64(s.must(k, "length")) / 2
	f.Shape = model.PadPolygon
	var b model.Box
	for i := range 8 {
		sin, cos := math.Sincos(math.Pi/8 + float64(i)*math.Pi/4)
		p := model.Point{X: model.Length(math.Round(r * cos)), Y: model.Length(math.Round(r * sin))}
		f.Points = append(f.Points, p)
		b.Take(p)
	}
	f.Width, f.Height = b.Width(), b.Height()
	s.say(k, "an octagon of %s mm was read from corner to corner, lying on a side: %s mm across the sides", model.Length(2*math.Round(r)), b.Width())
}

// ellipse reads an ellipse as a polygon of chords.
func (s *scope) ellipse(k *element, f *model.Figure) {
	a, b := float64(f.Width)/2, float64(f.Height)/2
	if f.Width == f.Height {
		f.Shape = model.PadRound
		return
	}
	n := chords(max(a, b), 2*math.Pi)
	n = (n + 3) / 4 * 4
	f.Shape = model.PadPolygon
	for i := range n {
		sin, cos := math.Sincos(float64(i) / float64(n) * 2 * math.Pi)
		f.Points = append(f.Points, model.Point{X: model.Length(math.Round(a * cos)), Y: model.Length(math.Round(b * sin))})
	}
	s.say(k, "an ellipse was read as a polygon of %d corners, within 1 µm", n)
}

// chords is how many chords keep within [curveWithin] of an arc.
func chords(radius, angle float64) int {
	if radius <= curveWithin {
		return 4
	}
	return max(2, int(math.Ceil(math.Abs(angle)/(2*math.Acos(1-curveWithin/radius)))))
}

// filled refuses copper that the file draws as an outline or with a stroke around it.
func (s *scope) filled(k *element) {
	fill := k.child("FillDesc")
	if ref := k.child("FillDescRef"); ref != nil {
		id := ref.attr("id")
		if fill = s.fills[id]; fill == nil {
			s.fail(ref, "%q is not in the file's DictionaryFillDesc", clip(id))
		}
	}
	if fill != nil {
		switch p := fill.attr("fillProperty"); strings.ToUpper(p) {
		case "FILL", "SOLID", "":
		default:
			s.fail(k, "copper with the fill %q is not read here: a pad is solid", clip(p))
		}
	}
	if w, drawn := s.stroke(k); drawn && w > 0 {
		s.fail(k, "copper with a stroke of %s mm around it is not read here: it would be wider than its shape", w)
	}
}

// stroke is the width of the line that something is drawn with.
func (s *scope) stroke(k *element) (model.Length, bool) {
	if d := k.child("LineDesc"); d != nil {
		return s.length(d, "lineWidth"), true
	}
	if ref := k.child("LineDescRef"); ref != nil {
		id := ref.attr("id")
		l, ok := s.lines[id]
		if !ok {
			s.fail(ref, "%q is not in the file's DictionaryLineDesc", clip(id))
		}
		return l, true
	}
	return 0, false
}

// polygon reads the steps of a polygon or polyline; curved steps become chords within 1 µm, which is said where it is copper.
func (s *scope) polygon(e *element, closed bool) []model.Point {
	points, arcs := s.steps(e, closed)
	if len(arcs) > 0 {
		s.sayChords(e, len(arcs))
	}
	return points
}

func (s *scope) sayChords(e *element, curves int) {
	s.say(e, "%d curved steps of an outline were read as chords, within 1 µm", curves)
}

// arc is a curved step of an outline.
type arc struct {
	centre model.Point
	radius float64
}

// steps reads the steps of a polygon or polyline, curved ones as chords.
func (s *scope) steps(e *element, closed bool) (out []model.Point, arcs []arc) {
	if e == nil {
		return nil, nil
	}
	for _, k := range e.kids {
		switch k.name {
		case "PolyBegin":
			k.read = true
			if len(out) > 0 {
				s.fail(k, "an outline begins twice")
			}
			out = append(out, s.point(k))
		case "PolyStepSegment":
			k.read = true
			out = append(out, s.point(k))
		case "PolyStepCurve":
			k.read = true
			if len(out) == 0 {
				s.fail(k, "an outline begins with a curve")
				return nil, nil
			}
			centre := model.Point{X: s.must(k, "centerX"), Y: s.must(k, "centerY")}
			clockwise, _ := s.flag(k, "clockwise")
			from := out[len(out)-1]
			bend, ok := curve(from, s.point(k), centre, clockwise)
			if !ok {
				s.fail(k, "a curved step ends at another distance from its centre than it begins")
			}
			out = append(out, bend...)
			arcs = append(arcs, arc{centre, math.Hypot(float64(from.X-centre.X), float64(from.Y-centre.Y))})
		}
		if len(out) > 9000 {
			s.fail(k, "an outline has more than 9,000 corners")
			return nil, nil
		}
	}
	if closed && len(out) > 1 && near(out[0], out[len(out)-1]) {
		out = out[:len(out)-1]
	}
	return out, arcs
}

func near(a, b model.Point) bool {
	return max(a.X-b.X, b.X-a.X, a.Y-b.Y, b.Y-a.Y) <= exact
}

// curve is an arc as points after its first, the last one included.
func curve(from, to, centre model.Point, clockwise bool) (out []model.Point, ok bool) {
	r := math.Hypot(float64(from.X-centre.X), float64(from.Y-centre.Y))
	end := math.Hypot(float64(to.X-centre.X), float64(to.Y-centre.Y))
	if math.Abs(r-end) > max(10*curveWithin, r/1000) {
		return []model.Point{to}, false
	}
	a := math.Atan2(float64(from.Y-centre.Y), float64(from.X-centre.X))
	b := math.Atan2(float64(to.Y-centre.Y), float64(to.X-centre.X))
	for clockwise && b >= a {
		b -= 2 * math.Pi
	}
	for !clockwise && b <= a {
		b += 2 * math.Pi
	}
	n := min(chords(r, b-a), 2000)
	for i := 1; i < n; i++ {
		t := float64(i) / float64(n)
		sin, cos := math.Sincos(a + (b-a)*t)
		d := r + (end-r)*t
		out = append(out, model.Point{X: centre.X + model.Length(math.Round(d*cos)), Y: centre.Y + model.Length(math.Round(d*sin))})
	}
	return append(out, to), true
}
