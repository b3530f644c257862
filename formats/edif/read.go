package edif

import (
	"bytes"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/model"
)

// Is says whether raw looks like EDIF, whatever its name is.
func Is(raw []byte) bool {
	head := strings.ToLower(strings.TrimLeft(string(raw[:min(len(raw), 400)]), " \t\r\n\ufeff"))
	return strings.HasPrefix(head, "(edif") && !strings.HasPrefix(head, "(edifversion")
}

// Cell is a symbol with the name of its cell.
type Cell struct {
	Name   string
	Symbol *model.Symbol
}

// Read returns the symbols of all libraries in the file. Cells that cannot be kept are named in wrong.
func Read(raw []byte) (cells []Cell, wrong []string, err error) {
	root, err := parse(bytes.TrimPrefix(raw, []byte("\ufeff")))
	if err != nil {
		return nil, nil, err
	}
	if root.key() != "edif" {
		return nil, nil, fmt.Errorf("line 1: the file's list is %q, not edif", root.key())
	}
	if v := root.child("edifversion"); v != nil && (v.arg(0) == nil || v.arg(0).text != "2") {
		return nil, nil, fmt.Errorf("line %d: only EDIF version 2 0 0 is read here", v.line)
	}
	for _, kind := range []string{"library", "external"} {
		root.all(kind, func(lib *node) {
			unit, problem := scaleOf(lib)
			lib.all("cell", func(c *node) {
				if problem != "" {
					wrong = append(wrong, fmt.Sprintf("line %d: cell %q: %s", c.line, name(c.arg(0)), problem))
					return
				}
				s, err := cell(c, unit)
				switch {
				case err != nil:
					wrong = append(wrong, fmt.Sprintf("line %d: cell %q: %v", c.line, name(c.arg(0)), err))
				case s != nil:
					cells = append(cells, Cell{name(c.arg(0)), s})
				}
			})
		})
	}
	if len(cells) == 0 && len(wrong) == 0 {
		return nil, nil, fmt.Errorf("no cell of the file has a symbol")
	}
	return cells, wrong, nil
}

// scaleOf reads a library's distance scale: how many lengths one unit of the file is. Without one, a unit is a micrometre.
func scaleOf(lib *node) (float64, string) {
	unit := float64(model.MM) / 1000
	problem := ""
	lib.child("technology").child("numberdefinition").all("scale", func(s *node) {
		of := s.child("unit")
		if of == nil || of.arg(0) == nil || !strings.EqualFold(of.arg(0).text, "distance") {
			return
		}
		a, okA := number(s.arg(0))
		b, okB := number(s.arg(1))
		if !okA || !okB || a <= 0 || b <= 0 {
			problem = "the library's scale is no pair of numbers above zero"
			return
		}
		unit = b / a * 1000 * float64(model.MM) // EDIF counts distances in metres (clause 6.3)
	})
	return unit, problem
}

// number reads 12, -4 or (e 254 -7).
func number(n *node) (float64, bool) {
	if n == nil {
		return 0, false
	}
	if n.key() == "e" && n.arg(0) != nil && n.arg(1) != nil {
		m, err1 := strconv.ParseInt(n.arg(0).text, 10, 64)
		x, err2 := strconv.Atoi(n.arg(1).text)
		if err1 != nil || err2 != nil || x > 12 || x < -30 {
			return 0, false
		}
		return float64(m) * math.Pow10(x), true
	}
	if n.list != nil {
		return 0, false
	}
	v, err := strconv.ParseInt(n.text, 10, 64)
	return float64(v), err == nil
}

// name reads an identifier, (rename id "shown") or (name id …). An identifier's leading & only guards a digit.
func name(n *node) string {
	if n == nil {
		return ""
	}
	switch n.key() {
	case "rename":
		if n.arg(1) == nil {
			return name(n.arg(0))
		}
		if n.arg(1).key() == "stringdisplay" {
			return name(n.arg(1).arg(0))
		}
		return name(n.arg(1))
	case "name", "array", "stringdisplay":
		return name(n.arg(0))
	}
	if n.list != nil {
		return ""
	}
	if n.quote {
		return n.text
	}
	return strings.TrimPrefix(n.text, "&")
}

// ident is the identifier that other places refer to.
func ident(n *node) string {
	if k := n.key(); k == "rename" || k == "name" || k == "array" {
		return ident(n.arg(0))
	}
	if n == nil || n.list != nil {
		return ""
	}
	return strings.ToLower(n.text)
}

type reader struct {
	unit float64
	s    *model.Symbol
	err  error
}

// cell reads the first view of a cell that has a symbol; nil where none has. Further views that have one are further units.
func cell(c *node, unit float64) (*model.Symbol, error) {
	r := &reader{unit: unit, s: &model.Symbol{Pins: []model.Pin{}, Properties: map[string]string{}}}
	c.all("property", r.property)
	var names []string
	views := 0
	c.all("view", func(v *node) {
		if v.child("interface").child("symbol") != nil {
			views++
		}
	})
	c.all("view", func(v *node) {
		face := v.child("interface")
		sym := face.child("symbol")
		if sym == nil || r.err != nil {
			return
		}
		names = append(names, name(v.arg(0)))
		at := 0
		if views > 1 {
			at = len(names)
		}
		face.all("property", r.property)
		r.view(face, sym, at)
	})
	if views == 0 {
		return nil, r.err
	}
	if views > 1 {
		r.s.Units = names
		common(r.s)
	}
	if g := r.s.Properties["GRID"]; g != "" {
		if l, err := model.ParseLength(g); err == nil {
			r.s.Grid = l
			delete(r.s.Properties, "GRID")
		}
	}
	if len(r.s.Properties) == 0 {
		r.s.Properties = nil
	}
	if r.err == nil {
		r.err = r.s.Check()
	}
	return r.s, r.err
}

// common makes one of the graphics that all units draw alike: EDIF has no place for what units share.
func common(s *model.Symbol) {
	key := func(g model.Shape) string { g.Unit = 0; return fmt.Sprint(g) }
	in := map[string]map[int]bool{}
	for _, g := range s.Shapes {
		k := key(g)
		if in[k] == nil {
			in[k] = map[int]bool{}
		}
		in[k][g.Unit] = true
	}
	kept := s.Shapes[:0]
	for _, g := range s.Shapes {
		if len(in[key(g)]) == len(s.Units) {
			if g.Unit > 1 {
				continue
			}
			g.Unit = 0
		}
		kept = append(kept, g)
	}
	s.Shapes = kept
}

func (r *reader) property(p *node) {
	key := name(p.arg(0))
	if key == "" || len(p.list) < 3 {
		return
	}
	if v, ok := value(p); ok {
		r.s.Properties[key] = v
	}
}

// value reads the typed value of a property.
func value(p *node) (string, bool) {
	for _, c := range p.list[2:] {
		switch c.key() {
		case "string", "integer", "boolean":
			if c.arg(0) == nil {
				return "", true
			}
			if b := c.arg(0).key(); b == "true" || b == "false" {
				return b, true
			}
			return name(c.arg(0)), true
		case "number":
			if v, ok := number(c.arg(0)); ok {
				return strconv.FormatFloat(v, 'g', 12, 64), true
			}
		}
	}
	return "", false
}

var directions = map[string]string{"input": model.Input, "output": model.Output, "inout": model.Bidirectional}

// view reads the ports and their places in a symbol.
func (r *reader) view(face, sym *node, unit int) {
	ports, runs := map[string]model.Pin{}, map[string]string{}
	face.all("port", func(p *node) {
		pin := model.Pin{Name: name(p.arg(0)), Type: model.Passive, Unit: unit}
		if d := p.child("direction"); d != nil && d.arg(0) != nil {
			if t, ok := directions[strings.ToLower(d.arg(0).text)]; ok {
				pin.Type = t
			}
		}
		pin.Number = name(p.child("designator").arg(0))
		p.all("property", func(q *node) {
			v, _ := value(q)
			switch strings.ToUpper(name(q.arg(0))) {
			case "PIN_TYPE", "ELECTRICAL_TYPE", "PINTYPE":
				if slices.Contains(model.PinTypes, strings.ToLower(v)) {
					pin.Type = strings.ToLower(v)
				}
			case "PIN_NUMBER", "PINNUMBER":
				if pin.Number == "" {
					pin.Number = v
				}
			case "HIDDEN":
				pin.Hidden = strings.EqualFold(v, "true")
			case "RUNS":
				runs[ident(p.arg(0))] = v
			case "PLACED":
				pin.Placed = strings.EqualFold(v, "true")
			}
		})
		ports[ident(p.arg(0))] = pin
	})
	sym.all("property", r.property)
	seen := map[string]bool{}
	sym.all("portimplementation", func(p *node) {
		id := ident(p.arg(0))
		pin, ok := ports[id]
		if !ok {
			r.fail(p, "the symbol places the port %q, which the interface does not have", id)
			return
		}
		seen[id] = true
		if n := name(p.child("designator").arg(0)); n != "" {
			pin.Number = n
		}
		if pin.Number == "" {
			pin.Number = pin.Name
		}
		var at model.Point
		found := false
		walk(p.child("connectlocation"), "pt", func(q *node) {
			if !found {
				at, found = r.point(q), true
			}
		})
		if !found {
			r.fail(p, "the port %q has no place where it connects", pin.Name)
			return
		}
		pin.At, pin.Runs = at, model.Right
		// the pin runs from where it connects to the far end of its own figure
		p.all("figure", func(f *node) {
			walk(f, "pt", func(q *node) {
				to := r.point(q)
				dx, dy := to.X-at.X, to.Y-at.Y
				if l := max(dx, -dx, dy, -dy); l > pin.Length {
					pin.Length = l
					switch {
					case max(dx, -dx) >= max(dy, -dy) && dx > 0:
						pin.Runs = model.Right
					case max(dx, -dx) >= max(dy, -dy):
						pin.Runs = model.Left
					case dy > 0:
						pin.Runs = model.Up
					default:
						pin.Runs = model.Down
					}
				}
			})
		})
		if pin.Length == 0 && runs[id] != "" { // no figure tells where it runs
			pin.Runs = runs[id]
		}
		r.s.Pins = append(r.s.Pins, pin)
	})
	for id, pin := range ports {
		if !seen[id] {
			r.fail(face, "the port %q has no place in the symbol", pin.Name)
		}
	}
	sym.all("figure", func(f *node) { r.figure(f, unit) })
	sym.all("annotate", func(a *node) { r.annotate(a, unit, "") })
	sym.all("keyworddisplay", func(k *node) {
		if k.arg(0) != nil && strings.EqualFold(k.arg(0).text, "designator") {
			r.annotate(k, unit, model.Designator)
		}
	})
}

func (r *reader) fail(n *node, form string, args ...any) {
	if r.err == nil {
		r.err = fmt.Errorf("line %d: %s", n.line, fmt.Sprintf(form, args...))
	}
}

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

// figure reads the shapes of a figure (EIA-548 clause 8.4). Widths come from its own figureGroupOverride.
func (r *reader) figure(f *node, unit int) {
	g := model.Shape{Unit: unit}
	if over := f.child("figuregroupoverride"); over != nil || f.arg(0).key() == "figuregroupoverride" {
		if over == nil {
			over = f.arg(0)
		}
		if w, ok := number(over.child("pathwidth").arg(0)); ok {
			g.Width = r.length(f, w)
		}
		if b := over.child("fillpattern"); b != nil {
			g.Filled = true
		}
	}
	add := func(form model.Form, points []model.Point) {
		s := g
		s.Form, s.Points = form, points
		r.s.Shapes = append(r.s.Shapes, s)
	}
	for _, c := range f.list {
		switch c.key() {
		case "path":
			if p := r.points(c.child("pointlist")); len(p) > 1 {
				add(model.Line, p)
			}
		case "polygon":
			if p := r.points(c.child("pointlist")); len(p) > 2 {
				add(model.Polygon, p)
			}
		case "rectangle":
			if p := r.points(c); len(p) == 2 {
				add(model.Rectangle, p)
			}
		case "circle": // two points on a diameter
			if p := r.points(c); len(p) == 2 {
				s := g
				s.Form = model.Circle
				s.Points = []model.Point{{X: (p[0].X + p[1].X) / 2, Y: (p[0].Y + p[1].Y) / 2}}
				s.Radius = model.Length(math.Round(math.Hypot(float64(p[0].X-p[1].X), float64(p[0].Y-p[1].Y)) / 2))
				r.s.Shapes = append(r.s.Shapes, s)
			}
		case "openshape", "shape":
			walk(c, "arc", func(a *node) {
				if p := r.points(a); len(p) == 3 {
					add(model.Arc, p)
				}
			})
		}
	}
}

// annotate reads a text with its display.
func (r *reader) annotate(a *node, unit int, text string) {
	show := a.child("stringdisplay")
	if text == "" {
		if show == nil || show.arg(0) == nil {
			return
		}
		text = name(show.arg(0))
	} else {
		show = a
	}
	d := show.child("display")
	s := model.Shape{Form: model.Text, Unit: unit, Text: text, Size: 127 * model.MM / 100, Points: []model.Point{{}}}
	walk(d, "textheight", func(h *node) {
		if v, ok := number(h.arg(0)); ok {
			s.Size = r.length(h, v)
		}
	})
	if p := r.points(d.child("origin")); len(p) > 0 {
		s.Points = p[:1]
	}
	if o := d.child("orientation"); o != nil && o.arg(0) != nil {
		turn := map[string]model.Angle{"r90": 90, "r180": 180, "r270": 270}[strings.ToLower(o.arg(0).text)]
		s.Turn = turn * model.Degree
	}
	if text != "" {
		r.s.Shapes = append(r.s.Shapes, s)
	}
}
