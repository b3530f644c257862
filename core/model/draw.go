package model

import (
	"fmt"
	"html"
	"math"
	"slices"
	"strings"
)

// Ink is the set of colours a preview is drawn in.
type Ink struct{ Paper, Line, Fill, Pin, Text, Copper, CopperText, Hole, Court, Silk, Assembly, Body, Mark string }

// The two inks of the house.
var (
	Day   = Ink{Paper: "none", Line: "#1d3f4f", Fill: "#eaf2f1", Pin: "#1d3f4f", Text: "#16303c", Copper: "#c98a4b", CopperText: "#2b1705", Hole: "#ffffff", Court: "#8a4fa8", Silk: "#46606b", Assembly: "#7d95a0", Body: "#2f7d6b", Mark: "#b3261e"}
	Night = Ink{Paper: "none", Line: "#9fd0d8", Fill: "#173038", Pin: "#9fd0d8", Text: "#e3eff1", Copper: "#d59a5f", CopperText: "#1d0f03", Hole: "#0e1d23", Court: "#c79be0", Silk: "#b8cbd2", Assembly: "#7f99a4", Body: "#63c2ab", Mark: "#ff8a80"}
)

// Preview says how a drawing is shown.
type Preview struct {
	Ink    Ink
	Unit   int      // of a symbol: the unit to draw; 0 draws all beside each other
	Marked []string // pin or pad numbers that stand out
	Body   *Seen    // of a land pattern: its body as it sits, drawn over the pads
	Letter string   // of the designator, "C"; a generic model by itself has none
	// Texts of the part whose symbol it is, by the key that a text {key} stands for.
	Texts map[string]string
	Frame Box  // is in view too, so that two drawings side by side are of one scale; see Extent
	Small bool // a thumbnail: no names of pins, no numbers where they could not be read
}

// canvas collects SVG elements in millimetres, y down.
type canvas struct {
	letter string // of designators
	texts  map[string]string
	b      strings.Builder
	box    Box
	ink    Ink
}

func mm(l Length) string { return trimmed(l.Millimetres()) }

func trimmed(f float64) string {
	if math.Abs(f) < 0.00005 {
		return "0"
	}
	return strings.TrimSuffix(strings.TrimRight(fmt.Sprintf("%.4f", f), "0"), ".")
}

func (c *canvas) put(form string, args ...any) { fmt.Fprintf(&c.b, form, args...) }

// SVG draws the model; a body is drawn as its box from above and from the front. The result is a whole document that
// holds nothing but shapes and escaped text.
func (c *Content) SVG(o Preview) []byte {
	d := c.draw(o)
	if o.Frame.Some {
		d.box.TakeBox(o.Frame)
	}
	return d.done(c.Name)
}

// Sketch is the drawing as it is shown while somebody changes it: SVG, and which part of the plane it shows as left, lower, right and upper
// side in millimetres. What is shown grows by steps, so that the picture does not shift at each change, and holds the origin.
func (c *Content) Sketch(o Preview, step Length) (svg []byte, view [4]float64) {
	d := c.draw(o)
	d.box.TakeBox(Box{Min: Point{-step, -step}, Max: Point{step, step}, Some: true})
	lower := func(l Length) Length { return -outward(-l, step) }
	d.box.TakeBox(Box{Min: Point{lower(d.box.Min.X), lower(d.box.Min.Y)}, Max: Point{outward(d.box.Max.X, step), outward(d.box.Max.Y, step)}, Some: true})
	b := d.shown()
	return d.done(c.Name), [4]float64{b.Min.X.Millimetres(), b.Min.Y.Millimetres(), b.Max.X.Millimetres(), b.Max.Y.Millimetres()}
}

// outward is the next whole number of steps that is not less than l.
func outward(l, step Length) Length {
	n := l / step
	if n*step < l {
		n++
	}
	return n * step
}

// Extent is the box that the drawing needs.
func (c *Content) Extent(o Preview) Box { return c.draw(o).box }

func (c *Content) draw(o Preview) *canvas {
	d := &canvas{ink: o.Ink, letter: o.Letter, texts: o.Texts}
	switch {
	case c.Symbol != nil:
		d.symbol(c.Symbol, o)
	case c.Land != nil:
		d.land(c.Land, o)
	case c.Body != nil:
		d.body(c.Body, o.Small)
	}
	return d
}

func (c *canvas) done(title string) []byte {
	b := c.shown()
	x, y, w, h := b.Min.X, -b.Max.Y, b.Width(), b.Height()
	var out strings.Builder
	fmt.Fprintf(&out, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="%s %s %s %s" width="%s" height="%s" role="img" font-family="ui-monospace,DejaVu Sans Mono,monospace" stroke-linecap="round" stroke-linejoin="round"><title>%s</title>`,
		mm(x), mm(y), mm(w), mm(h), trimmed(640), trimmed(640*float64(h)/float64(w)), safe(title))
	out.WriteString(c.b.String())
	out.WriteString("</svg>\n")
	return []byte(out.String())
}

// shown is the box of what is drawn with a margin.
func (c *canvas) shown() Box {
	b := c.box
	if !b.Some {
		b.Take(Point{})
		b.Take(Point{10 * MM, 5 * MM})
	}
	margin := max(b.Width(), b.Height())/20 + MM/10
	b.Min, b.Max = b.Min.Add(Point{-margin, -margin}), b.Max.Add(Point{margin, margin})
	return b
}

// safe escapes text and drops what XML 1.0 does not allow in a document.
func safe(s string) string {
	return html.EscapeString(strings.Map(func(r rune) rune {
		if r < ' ' || r == 0xfffe || r == 0xffff || r >= 0xd800 && r < 0xe000 {
			return -1
		}
		return r
	}, strings.ToValidUTF8(s, "?")))
}

func (c *canvas) text(at Point, size Length, anchor, fill, s string, turn Angle) {
	if s == "" {
		return
	}
	dx := size * 6 * Length(len([]rune(s))) / 10
	b := Box{}
	half := Point{dx / 2, size / 2}
	middle := at
	switch anchor {
	case "start":
		middle = at.Add(Point{dx / 2, 0}.Turned(turn))
	case "end":
		middle = at.Add(Point{-dx / 2, 0}.Turned(turn))
	}
	for _, q := range []Point{half, {-half.X, half.Y}} {
		q = q.Turned(turn)
		b.Take(middle.Add(q))
		b.Take(middle.Add(Point{-q.X, -q.Y}))
	}
	c.box.TakeBox(b)
	rotate := ""
	if turn != 0 {
		rotate = fmt.Sprintf(` transform="rotate(-%s %s %s)"`, turn, mm(at.X), mm(-at.Y))
	}
	// Half of the height of capitals and digits brings their middle to the place; viewers differ in what they take for a central baseline.
	c.put(`<text x="%s" y="%s" font-size="%s" dy="0.36em" text-anchor="%s" fill="%s"%s>%s</text>`, mm(at.X), mm(-at.Y), mm(size), anchor, fill, rotate, safe(s))
}

func (c *canvas) shape(g Shape, stroke, fill string, by Point) {
	g = g.moved(by)
	width := max(g.Width, MM/20)
	if g.Form != Text {
		c.box.TakeBox(g.Bounds())
	}
	if !g.Filled && fill == "" || g.Form == Line || g.Form == Arc {
		fill = "none"
	} else if g.Filled {
		fill = stroke
	}
	style := fmt.Sprintf(`stroke="%s" stroke-width="%s" fill="%s"`, stroke, mm(width), fill)
	switch g.Form {
	case Line, Polygon:
		tag := "polyline"
		if g.Form == Polygon {
			tag = "polygon"
		}
		var points []string
		for _, p := range g.Points {
			points = append(points, mm(p.X)+","+mm(-p.Y))
		}
		c.put(`<%s points="%s" %s/>`, tag, strings.Join(points, " "), style)
	case Rectangle:
		var b Box
		b.Take(g.Points[0])
		b.Take(g.Points[1])
		c.put(`<rect x="%s" y="%s" width="%s" height="%s" %s/>`, mm(b.Min.X), mm(-b.Max.Y), mm(b.Width()), mm(b.Height()), style)
	case Circle:
		c.put(`<circle cx="%s" cy="%s" r="%s" %s/>`, mm(g.Points[0].X), mm(-g.Points[0].Y), mm(g.Radius), style)
	case Arc:
		centre, r, ok := arcCentre(g.Points)
		if !ok {
			c.shape(Shape{Form: Line, Points: []Point{g.Points[0], g.Points[2]}, Width: g.Width}, stroke, "", Point{})
			return
		}
		from, to := arcAngles(g.Points, centre)
		large, sweep := 0, 0
		if math.Abs(to-from) > math.Pi {
			large = 1
		}
		if to < from { // clockwise in our upright plane
			sweep = 1
		}
		c.put(`<path d="M%s %sA%s %s 0 %d %d %s %s" %s/>`, mm(g.Points[0].X), mm(-g.Points[0].Y), trimmed(r/float64(MM)), trimmed(r/float64(MM)), large, sweep, mm(g.Points[2].X), mm(-g.Points[2].Y), style)
	case Text:
		s := g.Text
		if key, is := Placeholder(s); is && c.texts[key] != "" {
			s = c.texts[key]
		}
		if s == Designator {
			if s = "REF"; c.letter != "" {
				s = c.letter + "?"
			}
		}
		c.text(g.Points[0], max(g.Size, MM/4), "middle", c.ink.Text, s, g.Turn)
	}
}

// symbol draws one unit, or all beside each other.
func (c *canvas) symbol(s *Symbol, o Preview) {
	units := max(len(s.Units), 1)
	by := Point{}
	for u := 1; u <= units; u++ {
		if o.Unit != 0 && o.Unit != u {
			continue
		}
		b := s.Bounds(u)
		if o.Unit == 0 && u > 1 {
			by.X = c.box.Max.X + 3*MM - b.Min.X
		}
		for _, g := range s.Shapes {
			if g.Unit == 0 || g.Unit == u {
				fill := ""
				if g.Form == Rectangle || g.Form == Polygon || g.Form == Circle {
					fill = c.ink.Fill
				}
				if g.Width == 0 {
					g.Width = MM / 5
				}
				c.shape(g, c.ink.Line, fill, by)
			}
		}
		for _, p := range s.Pins {
			if p.Unit == 0 || p.Unit == u || units == 1 {
				c.pin(p, by, o)
			}
		}
		if units > 1 {
			name := s.Units[u-1]
			c.text(Point{b.Centre().X + by.X, b.Max.Y + 2*MM}, MM*13/10, "middle", c.ink.Silk, name, 0)
		}
	}
}

func (c *canvas) pin(p Pin, by Point, o Preview) {
	at, inner := p.At.Add(by), p.Inner().Add(by)
	c.box.Take(at)
	c.box.Take(inner)
	ink, dash := c.ink.Pin, ""
	if slices.Contains(o.Marked, p.Number) {
		ink = c.ink.Mark
	}
	if p.Hidden {
		dash = ` stroke-dasharray="0.4 0.4"`
	}
	c.put(`<line x1="%s" y1="%s" x2="%s" y2="%s" stroke="%s" stroke-width="0.18"%s/>`, mm(at.X), mm(-at.Y), mm(inner.X), mm(-inner.Y), ink, dash)
	if p.Type == NotConnected {
		c.put(`<path d="M%s %sl0.8 0.8m0 -0.8l-0.8 0.8" stroke="%s" stroke-width="0.15" fill="none"/>`, trimmed(at.X.Millimetres()-0.4), trimmed(-at.Y.Millimetres()-0.4), ink)
	} else {
		c.put(`<circle cx="%s" cy="%s" r="0.3" fill="%s"/>`, mm(at.X), mm(-at.Y), ink)
	}
	d := runs[p.Runs]
	size := MM * 11 / 10
	middle := Point{(at.X + inner.X) / 2, (at.Y + inner.Y) / 2}
	upright := d.Y != 0
	turn := Angle(0)
	lift := Point{0, size * 7 / 10}
	if upright {
		turn, lift = 90*Degree, Point{-size * 7 / 10, 0}
	}
	if p.Length > MM/2 {
		c.text(middle.Add(lift), size*9/10, "middle", ink, p.Number, turn)
	}
	if o.Small && len(p.Label()) > 8 {
		return
	}
	anchor := "start"
	if p.Runs == Left || p.Runs == Down {
		anchor = "end"
	}
	c.text(inner.Add(Point{d.X * MM * 6 / 10, d.Y * MM * 6 / 10}), size, anchor, c.ink.Text, p.Label(), turn)
}

// land draws copper first, then outlines over it, then numbers.
func (c *canvas) land(l *LandPattern, o Preview) {
	for _, g := range l.Shapes {
		if g.Purpose == Courtyard {
			c.outline(g)
		}
	}
	for _, p := range l.Pads {
		c.pad(p, o)
	}
	for _, g := range l.Shapes {
		if g.Purpose != Courtyard {
			c.outline(g)
		}
	}
	if o.Body != nil {
		c.seen(*o.Body)
	}
	for _, p := range l.Pads {
		c.padNumber(p, o)
	}
	s := c.stroke() * 4 // the origin, as a cross
	c.put(`<path d="M%s 0H%sM0 %sV%s" stroke="%s" stroke-width="%s"/>`, mm(-s), mm(s), mm(-s), mm(s), c.ink.Mark, mm(c.stroke()/2))
	c.box.Take(Point{})
}

// Seen is a body as it is seen from above where it sits.
type Seen struct {
	Box  Box
	Feet []Box
	Mark *Point
}

// Seen is the body from above, after a placement.
func (b *Body) Seen(p Placement) (out Seen) {
	at := b.Box.Placed(p)
	out.Box.Take(Point{at.Min.X, at.Min.Y})
	out.Box.Take(Point{at.Max.X, at.Max.Y})
	if p.level() {
		out.Feet = b.feet(p)
		if b.Mark != nil {
			m := p.apply(Point3{b.Mark.X, b.Mark.Y, b.Box.Max.Z})
			out.Mark = &Point{m.X, m.Y}
		}
	}
	return out
}

// seen draws a body from above: its box, what it stands on, and its mark.
func (c *canvas) seen(s Seen) {
	c.box.TakeBox(s.Box)
	c.put(`<rect x="%s" y="%s" width="%s" height="%s" fill="%s" fill-opacity="0.22" stroke="%s" stroke-width="%s"/>`, mm(s.Box.Min.X), mm(-s.Box.Max.Y), mm(s.Box.Width()), mm(s.Box.Height()), c.ink.Body, c.ink.Body, mm(c.stroke()))
	c.feet(s)
}

// feet draws what a body stands on, and its mark.
func (c *canvas) feet(s Seen) {
	for _, f := range s.Feet {
		c.put(`<rect x="%s" y="%s" width="%s" height="%s" fill="%s" fill-opacity="0.45"/>`, mm(f.Min.X), mm(-f.Max.Y), mm(f.Width()), mm(f.Height()), c.ink.Body)
	}
	if s.Mark != nil {
		c.put(`<circle cx="%s" cy="%s" r="%s" fill="%s"/>`, mm(s.Mark.X), mm(-s.Mark.Y), mm(min(s.Box.Width(), s.Box.Height())/20), c.ink.Body)
	}
}

// stroke is a line width that suits the size of what is drawn.
func (c *canvas) stroke() Length {
	return max(max(c.box.Width(), c.box.Height())/160, MM/50)
}

func (c *canvas) outline(g Shape) {
	switch g.Purpose {
	case Courtyard:
		g.Width = max(g.Width, MM/20)
		c.shape(g, c.ink.Court, "", Point{})
	case Assembly:
		c.shape(g, c.ink.Assembly, "", Point{})
	default:
		c.shape(g, c.ink.Silk, "", Point{})
	}
}

func (c *canvas) pad(p Pad, o Preview) {
	c.box.TakeBox(p.Bounds())
	fill, opacity := c.ink.Copper, ""
	if p.Unplated {
		fill = "none"
	}
	if p.Bottom {
		opacity = ` fill-opacity="0.45"`
	}
	edge := ""
	if slices.Contains(o.Marked, p.Number) {
		edge = fmt.Sprintf(` stroke="%s" stroke-width="%s"`, c.ink.Mark, mm(min(p.Width, p.Height)/6))
	} else if p.Unplated {
		edge = fmt.Sprintf(` stroke="%s" stroke-width="0.05"`, c.ink.Copper)
	}
	if p.Below != nil {
		c.figure(p, *p.Below, fmt.Sprintf(`fill="%s" fill-opacity="0.45"`, fill))
	}
	c.figure(p, p.Figure(), fmt.Sprintf(`fill="%s"%s%s`, fill, opacity, edge))
	if p.Inner != nil && !o.Small {
		c.figure(p, *p.Inner, fmt.Sprintf(`fill="none" stroke="%s" stroke-width="%s"`, c.ink.CopperText, mm(MM/25)))
	}
	if !o.Small {
		for _, w := range p.Openings { // windows of the paste, and of the mask
			ink := map[string]string{OfPaste: c.ink.Silk, OfMask: c.ink.Court}[w.Of]
			c.figure(p, w.Figure, fmt.Sprintf(`fill="none" stroke="%s" stroke-width="%s" stroke-dasharray="%s"`, ink, mm(MM/25), mm(MM/8)))
		}
	}
	if p.Hole > 0 {
		c.figure(p, Figure{Shape: PadOblong, At: p.HoleAt, Turn: p.HoleTurn, Width: p.Hole + p.Slot, Height: p.Hole}, fmt.Sprintf(`fill="%s"`, c.ink.Hole))
	}
}

// figure draws a figure of a pad in a style.
func (c *canvas) figure(p Pad, f Figure, style string) {
	turn := ""
	at := f.At.Turned(p.Turn).Add(p.At)
	if a := (f.Turn + p.Turn) % (360 * Degree); a != 0 {
		turn = fmt.Sprintf(` transform="rotate(-%s %s %s)"`, a, mm(at.X), mm(-at.Y))
	}
	r := Length(0)
	switch {
	case len(f.CutOuts) > 0:
		path := outlinePath(p.placed(f, 12))
		for _, cut := range f.cutPlaced() {
			path += outlinePath(p.placed(cut, 12))
		}
		c.put(`<path fill-rule="evenodd" d="%s" %s/>`, path, style)
		return
	case f.Shape == PadPolygon || f.Shape == PadChamfered || len(f.Corners) > 0:
		var points []string
		for _, q := range p.placed(f, 8) {
			points = append(points, mm(q.X)+","+mm(-q.Y))
		}
		c.put(`<polygon points="%s" %s/>`, strings.Join(points, " "), style)
		return
	case f.Shape == PadRound || f.Shape == PadOblong:
		r = min(f.Width, f.Height) / 2
	case f.Shape == PadRounded:
		r = min(f.Corner, f.Width/2, f.Height/2)
	}
	c.put(`<rect x="%s" y="%s" width="%s" height="%s" rx="%s" %s%s/>`, mm(at.X-f.Width/2), mm(-at.Y-f.Height/2), mm(f.Width), mm(f.Height), mm(r), style, turn)
}

// outlinePath is a closed outline as a part of a path.
func outlinePath(points []Point) string {
	words := make([]string, len(points))
	for i, q := range points {
		words[i] = mm(q.X) + " " + mm(-q.Y)
	}
	return "M" + strings.Join(words, "L") + "Z"
}

func (c *canvas) padNumber(p Pad, o Preview) {
	if p.Number == "" {
		return
	}
	b := p.Bounds()
	n := Length(len([]rune(p.Number)))
	flat := min(b.Height()*7/10, b.Width()*15/10/max(n, 1))
	tall := min(b.Width()*7/10, b.Height()*15/10/max(n, 1))
	size, turn := flat, Angle(0)
	if tall > flat*22/10 {
		size, turn = tall, 90*Degree
	}
	if whole := max(c.box.Width(), c.box.Height()); o.Small && size*40 < whole {
		return // it could not be read, and would be a speck
	}
	size = min(size, max(c.box.Width(), c.box.Height())/10)
	ink := c.ink.CopperText
	if p.Hole*2 > size {
		ink = c.ink.Text
		if p.Hole*10 > min(b.Width(), b.Height())*6 && !p.Unplated {
			size = min(size, p.Hole*7/10)
		}
	}
	at, room := p.numbered()
	if room > 0 {
		size, turn, ink = min(size, room*8/10), 0, c.ink.CopperText
	}
	c.text(at, size, "middle", ink, p.Number, turn)
}

// numbered is where a pad's number stands: in its middle, or, where that is cut out, on the copper above, of which there is so much room.
func (p Pad) numbered() (at Point, room Length) {
	for _, cut := range p.Figure().cutPlaced() {
		edge := cut.Outline(12)
		if !inside(edge, []Point{{}, {}}) {
			continue
		}
		var in, out Box
		for _, q := range edge {
			in.Take(q)
		}
		for _, q := range p.Figure().Outline(12) {
			out.Take(q)
		}
		return Point{0, (in.Max.Y + out.Max.Y) / 2}.Turned(p.Turn).Add(p.At), out.Max.Y - in.Max.Y
	}
	return p.At, 0
}

// body draws the box from above and from the front, in first-angle order, with its sides.
func (c *canvas) body(m *Body, small bool) {
	b := m.Box.Placed(m.Place)
	s := b.Size()
	gap := max(s.X, s.Y, s.Z) / 5
	size := max(s.X, s.Y, s.Z) / 14
	if small {
		size = size * 8 / 5
	}
	dash := ""
	if m.StandIn {
		dash = fmt.Sprintf(` stroke-dasharray="%s"`, mm(c.strokeOf(s)*4))
	}
	rect := func(x, y, w, h Length) {
		c.box.Take(Point{x, y})
		c.box.Take(Point{x + w, y + h})
		c.put(`<rect x="%s" y="%s" width="%s" height="%s" fill="%s" fill-opacity="0.25" stroke="%s" stroke-width="%s"%s/>`, mm(x), mm(-y-h), mm(w), mm(h), c.ink.Body, c.ink.Body, mm(c.strokeOf(s)), dash)
	}
	rect(b.Min.X, b.Min.Y, s.X, s.Y)
	c.feet(m.Seen(m.Place))
	front := b.Min.Y - gap - s.Z - size*2
	rect(b.Min.X, front, s.X, s.Z)
	label := func(at Point, l Length, turn Angle) { c.text(at, size, "middle", c.ink.Text, l.rounded(), turn) }
	label(Point{b.Min.X + s.X/2, b.Min.Y - size}, s.X, 0)
	label(Point{b.Max.X + size, b.Min.Y + s.Y/2}, s.Y, 90*Degree)
	label(Point{b.Max.X + size, front + s.Z/2}, s.Z, 90*Degree)
	if m.StandIn {
		c.text(Point{b.Min.X + s.X/2, b.Min.Y + s.Y/2}, size, "middle", c.ink.Text, "stand-in", 0)
	}
}

func (c *canvas) strokeOf(s Point3) Length { return max(max(s.X, s.Y, s.Z)/150, MM/50) }

// rounded shows l to the hundredth of a millimetre.
func (l Length) rounded() string {
	return (Length(divRound(int64(l), int64(MM/100))) * (MM / 100)).String()
}
