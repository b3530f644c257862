package edif

import (
	"math"
	"slices"
	"strings"

	"jollydrawer/core/model"
)

// walk calls f for each list of a keyword anywhere below n; the depth is limited by parse.
func walk(n *node, key string, f func(*node)) {
	if n == nil {
		return
	}
	if n.key() == key {
		f(n)
		return
	}
	for _, c := range n.list {
		walk(c, key, f)
	}
}

func (r *reader) point(n *node) model.Point {
	x, okX := number(n.arg(0))
	y, okY := number(n.arg(1))
	if !okX || !okY {
		r.fail(n, "a point is no pair of whole numbers")
		return model.Point{}
	}
	return model.Point{X: r.length(n, x), Y: r.length(n, y)}
}

func (r *reader) length(n *node, v float64) model.Length {
	l := math.Round(v * r.unit)
	if math.Abs(l) > float64(model.Farthest) {
		r.fail(n, "the drawing reaches farther than %s mm; is the library's scale right?", model.Farthest)
		return 0
	}
	return model.Length(l)
}

func (r *reader) points(n *node) (out []model.Point) {
	walk(n, "pt", func(p *node) { out = append(out, r.point(p)) })
	return out
}

// placed reads where a pin connects, how long it is and where it runs, from the pin's own figures alone; what else these draw, such as a
// bubble or the mark of a clock, is graphics of the symbol.
func (r *reader) placed(p *node, pin *model.Pin, of *port) {
	where := p.child("connectlocation")
	at := distinctPoints(r.points(where))
	where.quiet()
	if len(at) != 1 {
		r.fail(p, "the port %q connects at %d points; a pin connects at one", pin.Name, len(at))
		return
	}
	pin.At, pin.Runs = at[0], ""
	p.all("figure", func(f *node) {
		style := r.style(f)
		for _, c := range f.list[1:] {
			if c.key() == "path" {
				if line := r.points(c.child("pointlist")); len(line) > 1 && (line[0] == pin.At || line[len(line)-1] == pin.At) {
					r.taken(c)
					r.line(c, pin, line)
					continue
				}
			}
			r.piece(c, style)
		}
	})
	p.all("annotate", r.annotate)
	for _, k := range []string{"keyworddisplay", "propertydisplay", "commentgraphics"} {
		p.all(k, func(d *node) {
			if k == "commentgraphics" {
				r.graphics(d)
			}
			d.quiet()
		})
	}
	p.all("property", func(q *node) {
		q.quiet()
		v, _ := value(q)
		r.say(q, "the property %q of the pin %q was not kept: %q", name(q.arg(0)), pin.Name, v)
	})
	switch {
	case pin.Runs != "":
	case of.runs != "":
		pin.Runs = of.runs
	default:
		pin.Runs = model.Right
		r.say(p, "no line tells where the pin %q runs; it was taken to run to the right, without a length", pin.Name)
	}
}

// line reads the line of a pin: straight, and along one axis.
func (r *reader) line(n *node, pin *model.Pin, line []model.Point) {
	if line[0] != pin.At {
		line = slices.Clone(line)
		slices.Reverse(line)
	}
	to := line[len(line)-1]
	dx, dy := to.X-pin.At.X, to.Y-pin.At.Y
	length, runs := max(dx, -dx, dy, -dy), ""
	switch {
	case dx > 0 && dy == 0:
		runs = model.Right
	case dx < 0 && dy == 0:
		runs = model.Left
	case dx == 0 && dy > 0:
		runs = model.Up
	case dx == 0 && dy < 0:
		runs = model.Down
	case dx == 0 && dy == 0:
		return
	}
	for _, q := range line {
		if runs == "" || dx == 0 && q.X != pin.At.X || dy == 0 && q.Y != pin.At.Y {
			r.fail(n, "the line of the pin %q is bent or aslant; a pin runs straight along one axis", pin.Name)
			return
		}
	}
	if pin.Length > 0 && pin.Runs != runs {
		r.fail(n, "the pin %q has lines in two directions: where it runs cannot be told", pin.Name)
	}
	if length > pin.Length {
		pin.Length, pin.Runs = length, runs
	}
}

func distinctPoints(all []model.Point) (out []model.Point) {
	for _, p := range all {
		if !slices.Contains(out, p) {
			out = append(out, p)
		}
	}
	return out
}

// graphics reads the figures and texts of a symbol.
func (r *reader) graphics(n *node) {
	n.all("figure", r.figure)
	n.all("annotate", r.annotate)
	n.all("commentgraphics", r.graphics)
	n.all("keyworddisplay", func(k *node) {
		if k.arg(0) != nil && strings.EqualFold(k.arg(0).text, "designator") {
			k.all("display", func(d *node) { r.text(d, model.Designator) })
			return
		}
		k.quiet()
		r.say(k, "the display of a keyword was not kept")
	})
	n.all("propertydisplay", func(k *node) {
		key := name(k.arg(0))
		k.arg(0).quiet()
		k.all("display", func(d *node) { r.text(d, "{"+key+"}") })
	})
}

// style is how a figure is drawn: as its group says, and as it says itself (EIA-548 clause 8.4).
func (r *reader) style(f *node) model.Shape {
	g := model.Shape{}
	first := f.arg(0)
	over := first
	if first.key() != "figuregroupoverride" {
		over = nil
	}
	id := ident(first)
	if over != nil {
		over.read = true
		id = ident(over.arg(0))
	}
	width := r.groups[id].width
	if w, ok := number(over.child("pathwidth").arg(0)); ok {
		width = w
	}
	g.Width = r.length(f, width)
	if b := over.child("fillpattern"); b != nil {
		g.Filled = b.child("boolean").child("false") == nil
		b.quiet()
	}
	return g
}

// figure reads the pieces of a figure.
func (r *reader) figure(f *node) {
	style := r.style(f)
	for _, c := range f.list[1:] {
		r.piece(c, style)
	}
}

// piece reads one piece of a figure.
func (r *reader) piece(c *node, style model.Shape) {
	add := func(form model.Form, points []model.Point) {
		s := style
		s.Form, s.Points = form, points
		r.s.Shapes = append(r.s.Shapes, s)
	}
	few := func(p []model.Point, n int) bool {
		if len(p) >= n {
			return false
		}
		r.say(c, "a %s with %d points was not drawn", c.key(), len(p))
		return true
	}
	switch c.key() {
	case "path":
		if p := r.points(c.child("pointlist")); !few(p, 2) {
			add(model.Line, p)
		}
	case "polygon":
		if p := r.points(c.child("pointlist")); !few(p, 3) {
			add(model.Polygon, p)
		}
	case "rectangle":
		if p := r.points(c); !few(p, 2) {
			add(model.Rectangle, p[:2])
		}
	case "circle": // two points on a diameter
		if p := r.points(c); !few(p, 2) {
			s := style
			s.Form = model.Circle
			s.Points = []model.Point{{X: (p[0].X + p[1].X) / 2, Y: (p[0].Y + p[1].Y) / 2}}
			s.Radius = model.Length(math.Round(math.Hypot(float64(p[0].X-p[1].X), float64(p[0].Y-p[1].Y)) / 2))
			r.s.Shapes = append(r.s.Shapes, s)
		}
	case "dot":
		r.say(c, "a dot was not drawn")
	case "openshape", "shape":
		r.curve(c, add)
	default:
		return // an atom, the group's name, or what nobody takes in and is said
	}
	r.taken(c)
}

// drawnOf are the lists that a piece of a figure is made of.
var drawnOf = map[string]bool{"pointlist": true, "pt": true, "curve": true, "arc": true, "e": true}

// taken marks a piece of a figure as read, and says what else than points stands in it.
func (r *reader) taken(n *node) {
	n.read = true
	for _, c := range n.list {
		switch {
		case c.list == nil, empty[c.key()]:
		case drawnOf[c.key()]:
			r.taken(c)
		default:
			r.say(c, "%s in a %s was not read", c.key(), n.key())
			c.quiet()
		}
	}
}

// curve reads a curve: points joined by lines, and arcs of three points.
func (r *reader) curve(c *node, add func(model.Form, []model.Point)) {
	closed := c.key() == "shape"
	var first, last *model.Point
	var run []model.Point
	flush := func() {
		if len(run) > 1 {
			add(model.Line, run)
		}
		run = nil
	}
	to := func(p model.Point) {
		if first == nil {
			first = &p
		}
		if len(run) == 0 && last != nil {
			run = append(run, *last)
		}
		if len(run) == 0 || run[len(run)-1] != p {
			run = append(run, p)
		}
		last = &p
	}
	curve := c.child("curve")
	if curve == nil {
		r.say(c, "a shape without a curve was not drawn")
		return
	}
	for _, k := range curve.list[1:] {
		switch k.key() {
		case "pt":
			to(r.point(k))
		case "arc":
			p := r.points(k)
			if len(p) != 3 {
				r.say(k, "an arc with %d points was not drawn", len(p))
				continue
			}
			to(p[0])
			flush()
			add(model.Arc, p)
			last = &p[2]
		}
	}
	if closed && first != nil && last != nil && *first != *last {
		to(*first)
	}
	flush()
	if closed {
		r.say(c, "a closed curve was drawn as its edge; it is not filled here")
	}
}

// annotate reads texts with their displays.
func (r *reader) annotate(a *node) {
	if a.arg(0).key() != "stringdisplay" {
		if a.arg(0) != nil {
			r.say(a, "the text %q has no place and was not kept", name(a.arg(0)))
		}
		a.quiet()
		return
	}
	show := a.arg(0)
	show.read = true
	text := name(show.arg(0))
	any := false
	show.all("display", func(d *node) { any = true; r.text(d, text) })
	if !any {
		r.say(a, "the text %q has no place and was not kept", text)
	}
}

var turns = map[string]model.Angle{"r0": 0, "r90": 90, "r180": 180, "r270": 270}

// text reads one display of a text.
func (r *reader) text(d *node, text string) {
	defer d.quiet()
	s := model.Shape{Form: model.Text, Text: text, Points: []model.Point{{}}}
	id, height := ident(d.arg(0)), 0.0
	if o := d.arg(0); o.key() == "figuregroupoverride" {
		id = ident(o.arg(0))
		height, _ = number(o.child("textheight").arg(0))
	}
	if height == 0 {
		height = r.groups[id].text
	}
	if s.Size = r.length(d, height); s.Size <= 0 {
		s.Size = 127 * model.MM / 100
		r.say(d, "the height of the text %q is not said; 1.27 mm was taken", text)
	}
	if p := r.points(d.child("origin")); len(p) > 0 {
		s.Points = p[:1]
	}
	if o := d.child("orientation"); o != nil && o.arg(0) != nil {
		turn, ok := turns[strings.ToLower(o.arg(0).text)]
		if !ok {
			r.say(o, "the text %q is mirrored, which was not kept", text)
		}
		s.Turn = turn * model.Degree
	}
	if text != "" {
		r.s.Shapes = append(r.s.Shapes, s)
	}
}
