package edif

import (
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"jollydrawer/core/model"
)

// Write writes symbols as one library. What a text stands for, such as {designator}, is a display of it. Distances are in units of 0.1 nm, so that every length is a whole number of them.
func Write(w io.Writer, library string, cells []Cell) error {
	p := &printer{}
	p.put(0, `(edif %s`, p.id(library))
	p.put(1, "(edifVersion 2 0 0) (edifLevel 0) (keywordMap (keywordLevel 0))")
	p.put(1, "(library %s (edifLevel 0)", p.id(library))
	p.put(2, "(technology (numberDefinition (scale 1 (e 1 -10) (unit DISTANCE)))")
	for _, group := range []string{"PIN", "SYMBOL", "TEXT"} {
		p.put(3, "(figureGroup %s)", group)
	}
	p.put(2, ")")
	for _, c := range cells {
		p.cell(c)
	}
	p.put(1, ")")
	p.put(0, ")")
	_, err := io.WriteString(w, p.b.String())
	return err
}

type printer struct{ b strings.Builder }

func (p *printer) put(depth int, form string, args ...any) {
	p.b.WriteString(strings.Repeat(" ", depth))
	fmt.Fprintf(&p.b, form, args...)
	p.b.WriteByte('\n')
}

// id writes a name as an identifier, with its true spelling beside it where it is none.
func (p *printer) id(name string) string {
	plain := strings.Map(func(r rune) rune {
		if r >= '0' && r <= '9' || r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r == '_' {
			return r
		}
		return '_'
	}, name)
	if plain == "" || plain[0] == '_' || plain[0] >= '0' && plain[0] <= '9' {
		plain = "&" + plain
	}
	if len(plain) > 255 {
		plain = plain[:255]
	}
	if plain == name {
		return name
	}
	return fmt.Sprintf(`(rename %s "%s")`, plain, escape(name))
}

func pt(q model.Point) string { return fmt.Sprintf("(pt %d %d)", q.X, q.Y) }

var toDirection = map[string]string{model.Input: "INPUT", model.PowerIn: "INPUT", model.Output: "OUTPUT", model.PowerOut: "OUTPUT", model.OpenCollector: "OUTPUT",
	model.OpenEmitter: "OUTPUT", model.TriState: "OUTPUT"}

func (p *printer) cell(c Cell) {
	s := c.Symbol
	p.put(2, "(cell %s (cellType GENERIC)", p.id(c.Name))
	units := max(len(s.Units), 1)
	for u := 1; u <= units; u++ {
		view := "symbol"
		if len(s.Units) > 0 {
			view = s.Units[u-1]
		}
		p.put(3, "(view %s (viewType SCHEMATIC)", p.id(view))
		p.put(4, "(interface")
		var pins []model.Pin
		for _, pin := range s.Pins {
			if pin.Unit == u || pin.Unit == 0 && u == 1 {
				pins = append(pins, pin)
			}
		}
		for i, pin := range pins {
			direction := toDirection[pin.Type]
			if direction == "" {
				direction = "INOUT"
			}
			more := ""
			for _, k := range []struct {
				name string
				is   bool
			}{{"HIDDEN", pin.Hidden}, {"PLACED", pin.Placed}} {
				if k.is {
					more += fmt.Sprintf(` (property %s (string "true"))`, k.name)
				}
			}
			if pin.Length == 0 {
				more += fmt.Sprintf(` (property RUNS (string "%s"))`, pin.Runs)
			}
			p.put(5, `(port (rename P%d "%s") (direction %s) (designator "%s") (property PIN_TYPE (string "%s"))%s)`, i+1, escape(pin.Name), direction, escape(pin.Number), pin.Type, more)
		}
		if u == 1 {
			if s.Grid > 0 {
				p.put(5, `(property GRID (string "%s mm"))`, s.Grid)
			}
			values := maps.Clone(s.Properties)
			if values == nil {
				values = map[string]string{}
			}
			for _, g := range s.Shapes { // what is displayed must be there
				if key, is := model.Placeholder(g.Text); is && g.Text != model.Designator && values[key] == "" {
					values[key] = ""
				}
			}
			for _, k := range slices.Sorted(maps.Keys(values)) {
				p.put(5, `(property %s (string "%s"))`, p.id(k), escape(values[k]))
			}
		}
		p.put(5, "(symbol")
		for i, pin := range pins {
			p.put(6, "(portImplementation P%d (connectLocation (figure PIN (dot %s))) (figure PIN (path (pointList %s %s))))", i+1, pt(pin.At), pt(pin.At), pt(pin.Inner()))
		}
		for _, g := range s.Shapes {
			if g.Unit == u || g.Unit == 0 && (u == 1 || len(s.Units) > 0) {
				p.shape(g)
			}
		}
		p.put(5, ")")
		p.put(4, ")")
		p.put(3, ")")
	}
	p.put(2, ")")
}

func (p *printer) shape(g model.Shape) {
	over := "(figureGroupOverride SYMBOL"
	if g.Width > 0 {
		over += fmt.Sprintf(" (pathWidth %d)", g.Width)
	}
	if g.Filled {
		over += " (fillPattern 1 1 (boolean (true)))"
	}
	over += ")"
	var points []string
	for _, q := range g.Points {
		points = append(points, pt(q))
	}
	all := strings.Join(points, " ")
	switch g.Form {
	case model.Line:
		p.put(6, "(figure %s (path (pointList %s)))", over, all)
	case model.Polygon:
		p.put(6, "(figure %s (polygon (pointList %s)))", over, all)
	case model.Rectangle:
		p.put(6, "(figure %s (rectangle %s))", over, all)
	case model.Circle:
		c := g.Points[0]
		p.put(6, "(figure %s (circle %s %s))", over, pt(model.Point{X: c.X - g.Radius, Y: c.Y}), pt(model.Point{X: c.X + g.Radius, Y: c.Y}))
	case model.Arc:
		p.put(6, "(figure %s (openShape (curve (arc %s))))", over, all)
	case model.Text:
		const display = "(display (figureGroupOverride TEXT (textHeight %d)) (orientation %s) (origin %s))"
		turn := map[model.Angle]string{90 * model.Degree: "R90", 180 * model.Degree: "R180", 270 * model.Degree: "R270"}[g.Turn]
		if turn == "" {
			turn = "R0"
		}
		shown := fmt.Sprintf(display, g.Size, turn, pt(g.Points[0]))
		switch key, is := model.Placeholder(g.Text); {
		case g.Text == model.Designator: // what the design tool writes there
			p.put(6, "(keywordDisplay designator %s)", shown)
		case is:
			p.put(6, "(propertyDisplay %s %s)", p.id(key), shown)
		default:
			p.put(6, `(annotate (stringDisplay "%s" %s))`, escape(g.Text), shown)
		}
	}
}
