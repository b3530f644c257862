// Package ipc2581 reads and writes land patterns in IPC-2581: the packages of a design with their land pattern, outlines
// and pins, the pad stacks and the dictionary of primitives they refer to. Everything else in a file is passed over.
package ipc2581

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/net/html/charset"

	"jollydrawer/core/model"
)

// Is says whether raw looks like IPC-2581, whatever its name is.
func Is(raw []byte) bool {
	head := raw[:min(len(raw), 2048)]
	return bytes.Contains(head, []byte("<IPC-2581"))
}

// Package is a land pattern with its name and the height the file states.
type Package struct {
	Name   string
	Height model.Length
	Land   *model.LandPattern
}

const (
	maxDepth    = 60
	maxElements = 3_000_000
)

// printable is a text without characters that nobody can see, as a damaged file brings them into a message.
func printable(text string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || r == utf8.RuneError {
			return '?'
		}
		return r
	}, text)
}

// element is one element of the parts of the file that are read.
type element struct {
	name  string
	attrs map[string]string
	kids  []*element
	line  int
}

func (e *element) child(name string) *element {
	if e != nil {
		for _, k := range e.kids {
			if k.name == name {
				return k
			}
		}
	}
	return nil
}

func (e *element) all(name string, f func(*element)) {
	if e == nil {
		return
	}
	for _, k := range e.kids {
		if k.name == name {
			f(k)
		}
	}
}

func (e *element) find(name string, f func(*element)) {
	if e == nil {
		return
	}
	for _, k := range e.kids {
		if k.name == name {
			f(k)
		} else {
			k.find(name, f)
		}
	}
}

// tree reads the XML. A document type is refused: no such file needs one, and entities are how such files do harm.
func tree(raw []byte) (*element, error) {
	d := xml.NewDecoder(bytes.NewReader(raw))
	d.CharsetReader = charset.NewReaderLabel
	root := &element{}
	stack := []*element{root}
	count := 0
	for {
		t, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		line, _ := d.InputPos()
		if err != nil {
			var syntax *xml.SyntaxError
			switch {
			case errors.As(err, &syntax) && syntax.Msg == "unexpected EOF", errors.Is(err, io.ErrUnexpectedEOF):
				return nil, fmt.Errorf("line %d: the file ends within an element", line)
			case errors.As(err, &syntax):
				return nil, fmt.Errorf("line %d: it is no XML: %s", syntax.Line, printable(syntax.Msg))
			}
			return nil, fmt.Errorf("line %d: it is no XML: %s", line, printable(err.Error()))
		}
		switch t := t.(type) {
		case xml.Directive:
			return nil, fmt.Errorf("line %d: it declares a document type, which is not read here because of what entities can do", line)
		case xml.StartElement:
			if count++; count > maxElements {
				return nil, fmt.Errorf("line %d: the file has more than %d elements", line, maxElements)
			}
			if len(stack) > maxDepth {
				return nil, fmt.Errorf("line %d: the elements are nested more than %d deep", line, maxDepth)
			}
			if skipped[t.Name.Local] {
				if err := d.Skip(); err != nil {
					return nil, fmt.Errorf("line %d: %v", line, err)
				}
				continue
			}
			e := &element{name: t.Name.Local, attrs: make(map[string]string, len(t.Attr)), line: line}
			for _, a := range t.Attr {
				e.attrs[a.Name.Local] = a.Value
			}
			top := stack[len(stack)-1]
			top.kids = append(top.kids, e)
			stack = append(stack, e)
		case xml.EndElement:
			stack = stack[:len(stack)-1]
		}
	}
	if len(root.kids) != 1 || root.kids[0].name != "IPC-2581" {
		return nil, fmt.Errorf("the file's root is not IPC-2581")
	}
	return root.kids[0], nil
}

// skipped are sections that hold boards and not packages, and can be huge.
var skipped = map[string]bool{"LayerFeature": true, "LogicalNet": true, "PhyNetGroup": true, "Component": true, "Bom": true, "Avl": true, "HistoryRecord": true, "LogisticHeader": true}

var unitsOf = map[string]model.Length{"MILLIMETER": model.MM, "MICRON": model.MM / 1000, "INCH": model.Inch, "": model.MM}

type reader struct {
	unit       model.Length
	primitives map[string]primitive
	stacks     map[string]stack
	err        error
}

// primitive is a shape of the dictionary: a pad's shape without a place.
type primitive struct {
	shape         string
	width, height model.Length
	corner        model.Length
	points        []model.Point
}

type stack struct {
	hole      model.Length
	unplated  bool
	top, mask *primitive
	paste     *primitive
	bottom    bool
	known     bool
}

// Read returns the packages of all steps. Packages that cannot be kept are named in wrong.
func Read(raw []byte) (out []Package, wrong []string, err error) {
	root, err := tree(raw)
	if err != nil {
		return nil, nil, err
	}
	r := &reader{unit: model.MM, primitives: map[string]primitive{}, stacks: map[string]stack{}}
	if u, ok := unitsOf[root.child("Ecad").child("CadHeader").attr("units")]; ok {
		r.unit = u
	} else {
		return nil, nil, fmt.Errorf("line %d: the unit %q is none of MILLIMETER, MICRON, INCH", root.line, root.child("Ecad").child("CadHeader").attr("units"))
	}
	root.find("DictionaryStandard", func(d *element) {
		in := *r
		if u, ok := unitsOf[d.attr("units")]; ok && d.attr("units") != "" {
			in.unit = u
		}
		d.all("EntryStandard", func(e *element) {
			if p, ok := in.primitive(e); ok {
				r.primitives[e.attr("id")] = p
			}
		})
		r.take(in.err)
	})
	root.find("PadStackDef", func(e *element) { r.stacks[e.attr("name")] = r.stack(e) })
	if r.err != nil {
		return nil, nil, r.err
	}
	seen := map[string]bool{}
	root.find("Package", func(e *element) {
		name := e.attr("name")
		r.err = nil
		l := r.land(e)
		if r.err == nil {
			r.err = l.Check()
		}
		if r.err == nil && seen[name] {
			r.err = fmt.Errorf("the file has two packages of this name; the first was read")
		}
		seen[name] = true
		if r.err != nil {
			wrong = append(wrong, fmt.Sprintf("line %d: package %q: %v", e.line, name, r.err))
			return
		}
		out = append(out, Package{Name: name, Height: r.length(e, "height"), Land: l})
	})
	if len(out) == 0 && len(wrong) == 0 {
		return nil, nil, fmt.Errorf("the file has no packages")
	}
	return out, wrong, nil
}

func (e *element) attr(name string) string {
	if e == nil {
		return ""
	}
	return e.attrs[name]
}

func (r *reader) take(err error) {
	if r.err == nil {
		r.err = err
	}
}

// length reads an attribute; zero where it is not there.
func (r *reader) length(e *element, name string) model.Length {
	t := e.attr(name)
	if t == "" {
		return 0
	}
	l, err := model.ParseLengthIn(t, r.unit)
	if err != nil {
		r.take(fmt.Errorf("line %d: %s of %s: %w", e.line, name, e.name, err))
	}
	return l
}

func (r *reader) angle(e *element, name string) model.Angle {
	t := e.attr(name)
	if t == "" {
		return 0
	}
	a, err := model.ParseAngle(t)
	if err != nil {
		r.take(fmt.Errorf("line %d: %s of %s: %w", e.line, name, e.name, err))
	}
	return a
}

func (r *reader) at(e *element) model.Point {
	return model.Point{X: r.length(e, "x"), Y: r.length(e, "y")}
}

// primitive reads the shape inside e: StandardPrimitive of IPC-2581 clause 4.2.
func (r *reader) primitive(e *element) (primitive, bool) {
	for _, k := range e.kids {
		p := primitive{width: r.length(k, "width"), height: r.length(k, "height")}
		switch k.name {
		case "RectCenter":
			p.shape = model.PadRectangle
		case "RectRound":
			p.shape, p.corner = model.PadRounded, r.length(k, "radius")
		case "Circle":
			d := r.length(k, "diameter")
			p.shape, p.width, p.height = model.PadRound, d, d
		case "Oval":
			p.shape = model.PadOblong
		case "Contour":
			p.shape, p.points = model.PadPolygon, r.polygon(k.child("Polygon"))
			var b model.Box
			for _, q := range p.points {
				b.Take(q)
			}
			p.width, p.height = b.Width(), b.Height()
		default:
			continue
		}
		return p, true
	}
	return primitive{}, false
}

// shapeOf is a primitive given in place or by its id.
func (r *reader) shapeOf(e *element) *primitive {
	if p, ok := r.primitive(e); ok {
		return &p
	}
	if ref := e.child("StandardPrimitiveRef"); ref != nil {
		p, ok := r.primitives[ref.attr("id")]
		if !ok {
			r.take(fmt.Errorf("line %d: the primitive %q is in no dictionary of the file", ref.line, ref.attr("id")))
			return nil
		}
		return &p
	}
	return nil
}

func (r *reader) polygon(e *element) []model.Point {
	if e == nil {
		return nil
	}
	var out []model.Point
	e.all("PolyBegin", func(b *element) { out = append(out, r.at(b)) })
	for _, k := range e.kids {
		switch k.name {
		case "PolyStepSegment":
			out = append(out, r.at(k))
		case "PolyStepCurve":
			r.take(fmt.Errorf("line %d: an outline with curved steps is not read here", k.line))
		}
	}
	if len(out) > 1 && out[0] == out[len(out)-1] {
		out = out[:len(out)-1]
	}
	return out
}

// stack reads a pad stack: its hole, and its shapes on the outer copper, mask and paste layers by the layers' names.
func (r *reader) stack(e *element) (s stack) {
	s.known = true
	e.all("PadstackHoleDef", func(h *element) {
		s.hole = r.length(h, "diameter")
		s.unplated = h.attr("platingStatus") == "NONPLATED"
	})
	e.all("PadstackPadDef", func(p *element) {
		layer := strings.ToUpper(p.attr("layerRef"))
		shape := r.shapeOf(p)
		if use := p.attr("padUse"); shape == nil || use != "" && use != "REGULAR" {
			return
		}
		bottom := strings.Contains(layer, "BOT")
		switch {
		case strings.Contains(layer, "MASK"):
			if s.mask == nil || !bottom {
				s.mask = shape
			}
		case strings.Contains(layer, "PASTE"):
			if s.paste == nil || !bottom {
				s.paste = shape
			}
		case s.top == nil || !bottom:
			s.top, s.bottom = shape, bottom
		}
	})
	return s
}

func (r *reader) land(e *element) *model.LandPattern {
	l := &model.LandPattern{}
	comment := e.attr("comment")
	for _, d := range model.Densities {
		if strings.Contains(comment, "density="+d) {
			l.Density = d
		}
	}
	holes, flats := 0, 0
	e.all("LandPattern", func(lp *element) {
		lp.all("Pad", func(p *element) {
			pad := r.pad(p)
			if pad.Hole > 0 {
				holes++
			} else {
				flats++
			}
			l.Pads = append(l.Pads, pad)
		})
	})
	if len(l.Pads) == 0 { // only pins: their own shapes are the copper
		e.all("Pin", func(p *element) {
			pad := r.pad(p)
			pad.Number = p.attr("number")
			if p.attr("type") == "THRU" {
				holes++
			} else {
				flats++
			}
			l.Pads = append(l.Pads, pad)
		})
	}
	switch {
	case holes > 0 && flats > 0:
		l.Mounting = "mixed"
	case holes > 0:
		l.Mounting = "through"
	case flats > 0:
		l.Mounting = "surface"
	}
	if o := e.child("Outline"); o != nil {
		r.outline(l, o, model.Courtyard)
	}
	if s := e.child("SilkScreen"); s != nil {
		s.all("Outline", func(o *element) { r.outline(l, o, model.Silkscreen) })
		s.all("Marking", func(m *element) { r.marking(l, m, model.Silkscreen) })
	}
	if a := e.child("AssemblyDrawing"); a != nil {
		a.all("Outline", func(o *element) { r.outline(l, o, model.Assembly) })
		a.all("Marking", func(m *element) { r.marking(l, m, model.Assembly) })
	}
	return l
}

func (r *reader) pad(e *element) model.Pad {
	p := model.Pad{At: r.at(e.child("Location")), Turn: r.angle(e.child("Xform"), "rotation"), Number: e.child("PinRef").attr("pin")}
	st := r.stacks[e.attr("padstackDefRef")]
	if ref := e.attr("padstackDefRef"); ref != "" && !st.known {
		r.take(fmt.Errorf("line %d: the pad stack %q is not in the file", e.line, ref))
	}
	shape := r.shapeOf(e)
	if shape == nil {
		shape = st.top
	}
	if shape == nil {
		r.take(fmt.Errorf("line %d: the pad %q has no shape", e.line, p.Number))
		return p
	}
	p.Shape, p.Width, p.Height, p.Corner, p.Points = shape.shape, shape.width, shape.height, shape.corner, shape.points
	p.Hole, p.Unplated, p.Bottom = st.hole, st.unplated, st.bottom && st.hole == 0
	if st.mask != nil {
		p.Mask = (st.mask.width - p.Width) / 2
	}
	if st.paste != nil {
		p.Paste = (st.paste.width - p.Width) / 2
	}
	if st.hole == 0 && st.known && st.paste == nil && st.mask != nil {
		no := false
		p.WithPaste = &no
	}
	return p
}

// outline reads an outline's polygon or contour with the width of its line.
func (r *reader) outline(l *model.LandPattern, o *element, purpose model.Purpose) {
	if points := r.polygon(o.child("Polygon")); len(points) > 2 {
		s := model.Shape{Form: model.Polygon, Purpose: purpose, Points: points, Width: r.length(o.child("LineDesc"), "lineWidth")}
		l.Shapes = append(l.Shapes, upright(s))
	}
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
	for _, p := range s.Points {
		if p.X != b.Min.X && p.X != b.Max.X || p.Y != b.Min.Y && p.Y != b.Max.Y {
			return s
		}
	}
	s.Form, s.Points = model.Rectangle, []model.Point{b.Min, b.Max}
	return s
}

// marking reads lines, arcs, circles and texts of a silk screen or assembly drawing.
func (r *reader) marking(l *model.LandPattern, m *element, purpose model.Purpose) {
	width := func(e *element) model.Length { return r.length(e.child("LineDesc"), "lineWidth") }
	add := func(s model.Shape) { s.Purpose = purpose; l.Shapes = append(l.Shapes, s) }
	m.find("Line", func(e *element) {
		add(model.Shape{Form: model.Line, Width: width(e), Points: []model.Point{{X: r.length(e, "startX"), Y: r.length(e, "startY")}, {X: r.length(e, "endX"), Y: r.length(e, "endY")}}})
	})
	m.find("Polyline", func(e *element) {
		if p := r.polygon(e); len(p) > 1 {
			add(model.Shape{Form: model.Line, Width: width(e), Points: p})
		}
	})
	m.find("Arc", func(e *element) {
		start := model.Point{X: r.length(e, "startX"), Y: r.length(e, "startY")}
		end := model.Point{X: r.length(e, "endX"), Y: r.length(e, "endY")}
		centre := model.Point{X: r.length(e, "centerX"), Y: r.length(e, "centerY")}
		add(model.Shape{Form: model.Arc, Width: width(e), Points: []model.Point{start, model.Between(start, end, centre, e.attr("clockwise") == "true"), end}})
	})
	m.find("Circle", func(e *element) {
		add(model.Shape{Form: model.Circle, Radius: r.length(e, "diameter") / 2, Width: width(e), Points: []model.Point{r.at(m.child("Location"))}, Filled: e.child("FillDesc") != nil})
	})
	m.find("Text", func(e *element) {
		box := e.child("BoundingBox")
		low := model.Point{X: r.length(box, "lowerLeftX"), Y: r.length(box, "lowerLeftY")}
		high := model.Point{X: r.length(box, "upperRightX"), Y: r.length(box, "upperRightY")}
		text := e.attr("textString")
		if m.attr("markingUsage") == "REFDES" {
			text = model.Designator
		}
		turn := r.angle(e.child("Xform"), "rotation")
		size := high.Y - low.Y
		if turn == 90*model.Degree || turn == 270*model.Degree {
			size = high.X - low.X
		}
		add(model.Shape{Form: model.Text, Text: text, Size: size, Turn: turn, Points: []model.Point{{X: (low.X + high.X) / 2, Y: (low.Y + high.Y) / 2}}})
	})
}
