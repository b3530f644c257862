package ipc2581

import (
	"math"
	"slices"
	"strings"

	"jollydrawer/core/model"
)

// mark is what our own writer says of a package in its comment.
type mark struct {
	outline   string // what the Outline holds: "courtyard", "assembly", or "none" where it was worked out
	courtyard int    // how many of the last markings of the assembly drawing are the courtyard
}

const ours = "jolly:"

// marks reads the comment of a package: that of our own writer, or one that is said not to be kept.
func (s *scope) marks(e *element, l *model.LandPattern) (m mark) {
	c := e.attr("comment")
	rest, is := strings.CutPrefix(c, ours)
	if d, older := strings.CutPrefix(c, "density="); older && slices.Contains(model.Densities, d) { // as our first writer had it
		l.Density, m.outline = d, "courtyard"
		return m
	}
	if !is {
		if c != "" {
			s.say(e, "the comment %q was not kept", clip(c))
		}
		return m
	}
	for _, word := range strings.Split(rest, ";") {
		key, value, _ := strings.Cut(strings.TrimSpace(word), "=")
		switch key {
		case "density":
			l.Density = value
		case "outline":
			m.outline = value
		case "courtyard":
			for _, r := range value {
				if r >= '0' && r <= '9' && m.courtyard < 1000 {
					m.courtyard = m.courtyard*10 + int(r-'0')
				}
			}
		case "left":
			s.say(e, "when the file was written this was left out: %s", clip(value))
		}
	}
	return m
}

// outlines reads what is drawn around the copper.
func (s *scope) outlines(e *element, l *model.LandPattern, m mark, whole move) {
	if whole.several() || whole.mirror || whole.scale != 1 || whole.turn != 0 {
		s.say(e, "outlines of a package that is turned, mirrored or scaled as a whole were not read")
		e.kids = nil
		return
	}
	in := len(l.Shapes)
	if o := e.child("Outline"); o != nil && m.outline != "none" {
		purpose := model.Assembly // the outline of the package is that of its body
		if m.outline == "courtyard" {
			purpose = model.Courtyard
		}
		s.outline(l, o, purpose)
	} else {
		o.quiet()
	}
	section := func(tag string, purpose model.Purpose) {
		e.all(tag, func(d *element) {
			d.all("Outline", func(o *element) { s.outline(l, o, purpose) })
			d.all("Marking", func(x *element) { s.marking(l, x, purpose) })
		})
	}
	section("SilkScreen", model.Silkscreen)
	assembly := len(l.Shapes)
	section("AssemblyDrawing", model.Assembly)
	if m.outline == "" && surrounds(l, in, assembly) {
		l.Shapes[in].Purpose = model.Courtyard
		s.say(e, "the outline lies around all copper and the assembly drawing: it was taken for the courtyard")
	}
	for i := max(0, len(l.Shapes)-m.courtyard); i < len(l.Shapes); i++ {
		l.Shapes[i].Purpose = model.Courtyard
	}
	by := whole.by.Add(whole.at)
	for i := in; i < len(l.Shapes); i++ {
		for j := range l.Shapes[i].Points {
			l.Shapes[i].Points[j] = l.Shapes[i].Points[j].Add(by)
		}
	}
}

// surrounds says whether the first shape, the outline of the package, lies around all copper and an outline of the assembly drawing: then
// it is no body's.
func surrounds(l *model.LandPattern, first, assembly int) bool {
	if first >= len(l.Shapes) || l.Shapes[first].Purpose != model.Assembly || first >= assembly {
		return false
	}
	around := l.Shapes[first].Bounds()
	inner := l.PadBounds()
	drawn := false
	for _, g := range l.Shapes[assembly:] {
		if g.Form == model.Rectangle || g.Form == model.Polygon {
			inner.TakeBox(g.Bounds())
			drawn = true
		}
	}
	return drawn && around.Min.X < inner.Min.X && around.Min.Y < inner.Min.Y && around.Max.X > inner.Max.X && around.Max.Y > inner.Max.Y
}

// outline reads an outline's polygon with the width of its line.
func (s *scope) outline(l *model.LandPattern, o *element, purpose model.Purpose) {
	at := s.moveOf(o)
	points := s.polygon(o.child("Polygon"), true)
	if len(points) < 3 {
		return
	}
	width, _ := s.stroke(o)
	if w, ok := s.stroke(o.child("Polygon")); ok {
		width = w
	}
	g := model.Figure{Shape: model.PadPolygon, Width: 1, Height: 1, Points: points}
	g = at.figure(g, false)
	l.Shapes = append(l.Shapes, upright(model.Shape{Form: model.Polygon, Purpose: purpose, Points: g.Outline(1), Width: width}))
}

// upright makes a rectangle of a polygon that is one.
func upright(s model.Shape) model.Shape {
	if len(s.Points) != 4 {
		return s
	}
	var b model.Box
	for _, p := range s.Points {
		b.Take(p)
	}
	for i, p := range s.Points {
		q := s.Points[(i+1)%4]
		if p.X != b.Min.X && p.X != b.Max.X || p.Y != b.Min.Y && p.Y != b.Max.Y || p.X != q.X && p.Y != q.Y {
			return s
		}
	}
	s.Form, s.Points = model.Rectangle, []model.Point{b.Min, b.Max}
	return s
}

// marking reads a marking of a silk screen or assembly drawing. What is no graphics that can be drawn here is said and left out.
func (s *scope) marking(l *model.LandPattern, m *element, purpose model.Purpose) {
	at := s.moveOf(m)
	s.drawn(l, m, m.attr("markingUsage"), at, purpose)
}

func (s *scope) drawn(l *model.LandPattern, e *element, usage string, at move, purpose model.Purpose) {
	place := func(p model.Point) model.Point {
		return at.figure(model.Figure{At: p, Width: 1, Height: 1, Shape: model.PadRound}, false).At
	}
	add := func(g model.Shape) {
		g.Purpose = purpose
		for i := range g.Points {
			g.Points[i] = place(g.Points[i])
		}
		l.Shapes = append(l.Shapes, g)
	}
	pt := func(e *element, x, y string) model.Point { return model.Point{X: s.must(e, x), Y: s.must(e, y)} }
	width := func(k *element) model.Length { w, _ := s.stroke(k); return w }
	for _, k := range e.kids {
		if k.name == "Location" || k.name == "Xform" {
			continue
		}
		before := s.err
		switch k.name {
		case "Line":
			k.read = true
			add(model.Shape{Form: model.Line, Width: width(k), Points: []model.Point{pt(k, "startX", "startY"), pt(k, "endX", "endY")}})
		case "Polyline":
			k.read = true
			if p := s.polygon(k, false); len(p) > 1 {
				add(model.Shape{Form: model.Line, Width: width(k), Points: p})
			}
		case "Arc":
			k.read = true
			start, end, centre := pt(k, "startX", "startY"), pt(k, "endX", "endY"), pt(k, "centerX", "centerY")
			clockwise, _ := s.flag(k, "clockwise")
			if near(start, end) {
				r := model.Length(math.Round(math.Hypot(float64(start.X-centre.X), float64(start.Y-centre.Y))))
				add(model.Shape{Form: model.Circle, Radius: r, Width: width(k), Points: []model.Point{centre}})
				break
			}
			g := model.Shape{Form: model.Arc, Width: width(k), Points: []model.Point{start, model.Between(start, end, centre, clockwise), end}}
			add(g)
		case "Text":
			k.read = true
			s.text(k, usage, at, add)
		case "UserSpecial":
			k.read = true
			s.drawn(l, k, usage, at, purpose)
		case "Outline", "Contour":
			k.read = true
			filled := k.name == "Contour"
			if p := s.polygon(k.child("Polygon"), true); len(p) > 2 {
				w := width(k)
				if inner, ok := s.stroke(k.child("Polygon")); ok {
					w = inner
				}
				g := model.Shape{Form: model.Polygon, Width: w, Points: p, Filled: filled || k.child("FillDesc") != nil}
				for i := range g.Points {
					g.Points[i] = place(g.Points[i])
				}
				g.Purpose = purpose
				l.Shapes = append(l.Shapes, upright(g))
			}
			k.child("FillDesc").quiet()
		case "Circle":
			k.read = true
			fill := k.child("FillDesc")
			add(model.Shape{Form: model.Circle, Radius: s.length(k, "diameter") / 2, Width: width(k), Points: []model.Point{{}}, Filled: fill != nil && !strings.EqualFold(fill.attr("fillProperty"), "HOLLOW")})
			fill.quiet()
		case "UserPrimitiveRef":
			k.read = true
			if d := s.user[k.attr("id")]; d != nil && !d.twice {
				in := d.scope
				in.drawn(l, d.in, usage, at, purpose)
				s.said = append(s.said, in.said...)
				s.err = before
				break
			}
			s.say(k, "the user primitive %q is not in the file, or twice; it was not drawn", clip(k.attr("id")))
		case "StandardPrimitiveRef", "RectCenter", "RectCorner", "RectRound", "RectCham", "Oval", "Diamond", "Octagon", "Ellipse":
			only := &element{kids: []*element{k}, line: k.line}
			f, _ := s.figure(only)
			if s.err == nil && f.Shape != "" {
				f = at.figure(f, false)
				l.Shapes = append(l.Shapes, upright(model.Shape{Form: model.Polygon, Purpose: purpose, Points: f.Outline(8), Filled: true}))
			}
			s.lost(before)
		}
		s.lost(before)
	}
}

// lost makes an error about graphics a thing that is said: a mark that cannot be read does not lose the copper.
func (s *scope) lost(before error) {
	if s.err != nil && before == nil {
		s.said = append(s.said, s.err.Error()+": it was not drawn")
		s.err = nil
	}
}

// quiet marks an element as one of which nothing more is asked.
func (e *element) quiet() {
	if e == nil {
		return
	}
	e.read, e.kids = true, nil
	for i := range e.attrs {
		e.attrs[i].read = true
	}
}

// text reads a text: its size from the box around it, as it stands before it is turned.
func (s *scope) text(k *element, usage string, at move, add func(model.Shape)) {
	box := k.child("BoundingBox")
	lo := model.Point{X: s.length(box, "lowerLeftX"), Y: s.length(box, "lowerLeftY")}
	hi := model.Point{X: s.length(box, "upperRightX"), Y: s.length(box, "upperRightY")}
	text := k.attr("textString")
	if usage == "REFDES" {
		text = model.Designator
	}
	turn := s.angle(k.child("Xform"), "rotation")
	if x := k.child("Xform"); x != nil {
		if m := s.moveOf(&element{kids: []*element{x}, line: k.line}); m.mirror || m.scale != 1 || m.by != (model.Point{}) {
			s.say(k, "the text %q is mirrored, scaled or moved by its own Xform, which was not kept", clip(text))
		}
	}
	size := hi.Y - lo.Y
	if turn == 90*model.Degree || turn == 270*model.Degree {
		size = hi.X - lo.X
	}
	if text == "" || size <= 0 {
		s.say(k, "a text without characters or without height was not kept")
		return
	}
	add(model.Shape{Form: model.Text, Text: text, Size: size, Turn: (turn + at.turn) % (360 * model.Degree), Points: []model.Point{{X: (lo.X + hi.X) / 2, Y: (lo.Y + hi.Y) / 2}}})
}
