package formatstest

import (
	"fmt"
	"strings"

	"jollydrawer/core/model"
	"jollydrawer/core/model/modeltest"
)

// EDIF writes one symbol as another program might. It knows nothing of our writer.
type EDIF struct {
	modeltest.Maker
	per    model.Length // one unit of the file
	scale  string
	upper  bool
	number string // where the pin's number stands: "port", "place", "property", "name"
}

// NewEDIF is a way of writing, from a seed.
func NewEDIF(seed uint64) *EDIF {
	d := &EDIF{Maker: modeltest.New(seed)}
	n := d.IntN(3)
	d.per = []model.Length{model.MM / 100, model.MM / 1000, 1}[n]
	d.scale = []string{"(scale 1 (e 1 -5) (unit DISTANCE))", "(scale 1000000 1 (unit distance))", "(scale (e 1 3) (e 1 -7) (unit Distance))"}[n]
	d.upper = d.IntN(2) == 0
	d.number = []string{"port", "place", "property"}[d.IntN(3)]
	return d
}

// list writes a list whose keyword may be in any case.
func (d *EDIF) list(key string, parts ...string) string {
	if d.upper {
		key = strings.ToUpper(key)
	}
	return "(" + key + " " + strings.Join(parts, []string{" ", "\n", "\t "}[d.IntN(3)]) + ")"
}

// anyOrder is for lists whose order the standard leaves open.
func (d *EDIF) anyOrder(parts []string) string {
	d.Shuffle(len(parts), func(i, j int) { parts[i], parts[j] = parts[j], parts[i] })
	return strings.Join(parts, "\n")
}

func (d *EDIF) num(l model.Length) string {
	v := int64(l / d.per)
	if v != 0 && v%100 == 0 && d.IntN(3) == 0 {
		return fmt.Sprintf("(e %d 2)", v/100)
	}
	return fmt.Sprint(v)
}

func (d *EDIF) pt(p model.Point) string { return d.list("pt", d.num(p.X), d.num(p.Y)) }

func (d *EDIF) pts(points []model.Point) string {
	var all []string
	for _, p := range points {
		all = append(all, d.pt(p))
	}
	return strings.Join(all, " ")
}

func (d *EDIF) named(id, text string) string {
	if d.IntN(3) == 0 {
		return d.list("rename", id, d.list("stringDisplay", `"`+coded(text)+`"`))
	}
	return d.list("rename", id, `"`+coded(text)+`"`)
}

func (d *EDIF) figure(g model.Shape) string {
	group := "LINES"
	if g.Width > 0 || g.Filled {
		over := []string{"LINES"}
		if g.Width > 0 {
			over = append(over, d.list("pathWidth", d.num(g.Width)))
		}
		if g.Filled {
			over = append(over, "(fillPattern 1 1 (boolean (true)))")
		}
		group = d.list("figureGroupOverride", over...)
	}
	piece := ""
	switch g.Form {
	case model.Line:
		if d.IntN(2) == 0 {
			piece = d.list("openShape", d.list("curve", d.pts(g.Points)))
		} else {
			piece = d.list("path", d.list("pointList", d.pts(g.Points)))
		}
	case model.Polygon:
		piece = d.list("polygon", d.list("pointList", d.pts(g.Points)))
	case model.Rectangle:
		a, b := g.Points[0], g.Points[1]
		piece = d.list("rectangle", d.pts([]model.Point{{X: b.X, Y: a.Y}, {X: a.X, Y: b.Y}}))
	case model.Circle:
		c := g.Points[0]
		piece = d.list("circle", d.pts([]model.Point{{X: c.X, Y: c.Y + g.Radius}, {X: c.X, Y: c.Y - g.Radius}}))
	case model.Arc:
		piece = d.list("openShape", d.list("curve", d.list("arc", d.pts(g.Points))))
	}
	return d.list("figure", group, piece)
}

func (d *EDIF) text(g model.Shape) string {
	show := d.list("display", d.list("figureGroupOverride", "WORDS", d.list("textHeight", d.num(g.Size))), "(justify CENTERCENTER)", map[model.Angle]string{0: "(orientation R0)", 90 * model.Degree: "(orientation r90)"}[g.Turn], d.list("origin", d.pt(g.Points[0])))
	if g.Text == model.Designator {
		return d.list("keywordDisplay", "designator", show)
	}
	return d.list("annotate", d.list("stringDisplay", `"`+coded(g.Text)+`"`, show))
}

// pins returns the ports of an interface and their places.
func (d *EDIF) pins(pins []model.Pin, extra func(string) string) (ports, places []string) {
	for i, p := range pins {
		id := fmt.Sprintf("&%dp", i)
		port := []string{d.named(id, p.Name)}
		place := []string{id}
		if d.IntN(2) == 0 {
			place[0] = d.list("name", id, d.list("display", "WORDS"))
		}
		number := `"` + coded(p.Number) + `"`
		switch d.number {
		case "port":
			port = append(port, d.list("designator", number))
		case "place":
			place = append(place, d.list("designator", number))
		default:
			port = append(port, d.list("property", d.named("PINNO", []string{"Pin Number", "PIN_NUMBER", "PinNo"}[d.IntN(3)]), d.list("string", number)))
		}
		direction := map[string]string{model.Input: "INPUT", model.Output: "output", model.Bidirectional: "InOut"}[p.Type]
		if direction == "" {
			word := map[string][]string{model.PowerIn: {"POWER", "Supply"}, model.PowerOut: {"power out", "Power Output"}, model.Passive: {"passive"}, model.OpenCollector: {"open collector", "OD"}, model.OpenEmitter: {"open emitter"}, model.TriState: {"tri-state", "3-state"}, model.NotConnected: {"NC", "no connect"}}[p.Type]
			port = append(port, d.list("property", []string{"ELECTRICAL_TYPE", "PinType"}[d.IntN(2)], d.list("string", `"`+word[d.IntN(len(word))]+`"`)))
		} else {
			port = append(port, d.list("direction", direction))
		}
		if p.Hidden {
			port = append(port, d.list("property", "hidden", "(boolean (true))"))
		}
		ports = append(ports, d.list("port", strings.Join(port, " ")+extra("port")))
		line := []model.Point{p.At, p.Inner()}
		if d.IntN(2) == 0 {
			line = []model.Point{p.Inner(), p.At}
		}
		if d.IntN(3) == 0 { // a corner at which it does not turn
			line = []model.Point{line[0], {X: (line[0].X + line[1].X) / 2 / d.per * d.per, Y: (line[0].Y + line[1].Y) / 2 / d.per * d.per}, line[1]}
		}
		place = append(place, d.list("connectLocation", d.list("figure", "PINS", d.list("dot", d.pt(p.At)))), d.list("figure", "PINS", d.list("path", d.list("pointList", d.pts(line)))))
		places = append(places, d.list("portImplementation", strings.Join(place, " ")+extra("portImplementation")))
	}
	return ports, places
}

// File is a file with one symbol. extra puts more inside a list: port, portImplementation or symbol.
func (d *EDIF) File(name string, s *model.Symbol, extra func(where string) string) []byte {
	var views []string
	for u := range max(len(s.Units), 1) {
		view := "v"
		if len(s.Units) > 0 {
			view = s.Units[u]
		}
		var pins []model.Pin
		for _, p := range s.Pins {
			if len(s.Units) == 0 || p.Unit == u+1 {
				pins = append(pins, p)
			}
		}
		ports, places := d.pins(pins, extra)
		for k, v := range s.Properties {
			if u == 0 {
				prop := d.list("property", d.named("k"+fmt.Sprint(len(k)), k), d.list("string", `"`+coded(v)+`"`))
				if d.IntN(2) == 0 {
					ports = append(ports, prop)
				} else {
					places = append(places, prop)
				}
			}
		}
		for _, g := range s.Shapes {
			switch {
			case len(s.Units) > 0 && g.Unit != u+1:
			case g.Form == model.Text:
				places = append(places, d.text(g))
			default:
				places = append(places, d.figure(g))
			}
		}
		face := d.list("interface", d.anyOrder(append(ports, d.list("symbol", d.anyOrder(places)+extra("symbol")))))
		views = append(views, d.list("view", view, "(viewType SCHEMATIC)", face))
	}
	tech := d.list("technology", d.list("numberDefinition", d.scale), "(figureGroup PINS)", "(figureGroup LINES)", "(figureGroup WORDS)")
	cell := d.list("cell", d.named("c", name), "(cellType GENERIC)", strings.Join(views, "\n"))
	return []byte(d.list("edif", "x", "(edifVersion 2 0 0)", "(edifLevel 0)", "(keywordMap (keywordLevel 0))", d.list("library", "l", "(edifLevel 0)", tech, cell)))
}

// coded writes what is not plain ASCII as codes (EIA-548 clause 2.3).
func coded(s string) string {
	var b strings.Builder
	for _, r := range s {
		if r < ' ' || r > '~' || r == '"' || r == '%' {
			fmt.Fprintf(&b, "%%%d%%", r)
		} else {
			b.WriteRune(r)
		}
	}
	return b.String()
}
