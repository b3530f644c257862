package redraw

import (
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/model"
)

// graphicsOf is the list of graphics of a symbol, or of the outlines of a land pattern.
func graphicsOf(all *[]model.Shape, s *model.Symbol, l *model.LandPattern, h model.House) table {
	forms := []string{string(model.Line), string(model.Arc), string(model.Circle), string(model.Rectangle), string(model.Polygon), string(model.Text)}
	t := &rows[model.Shape]{all: all, what: "piece of graphic",
		at:     func(g model.Shape) model.Point { return g.Bounds().Centre() },
		points: func(g model.Shape) []model.Point { return g.Points },
		move:   func(g *model.Shape, by model.Point) { each(g, func(p model.Point) model.Point { return p.Add(by) }) },
		turn: func(g *model.Shape, a model.Angle) error {
			if a%(90*model.Degree) != 0 && (g.Form == model.Rectangle) {
				return fmt.Errorf("a rectangle turns by quarters, not by %s°; make it a polygon first", a)
			}
			each(g, func(p model.Point) model.Point { return p.Turned(quarter(a)) })
			if g.Form == model.Text {
				g.Turn = quarter(g.Turn + a)
			}
			return nil
		},
		mirror: func(g *model.Shape) { each(g, func(p model.Point) model.Point { return model.Point{X: -p.X, Y: p.Y} }) },
		unit:   func(g model.Shape) int { return g.Unit },
		box:    model.Shape.Bounds,
		columns: []column[model.Shape]{
			{Column{Key: "form", Name: "Form", Is: "choice", Choices: forms}, func(g model.Shape) string { return string(g.Form) }, reform},
			{Column{Key: "points", Name: "Points", Is: "points", Hint: "A line: its points; a rectangle: two corners; a circle: its centre; an arc: start, a point between, end; a text: its middle"}, func(g model.Shape) string { return pointsText(g.Points) }, func(g *model.Shape, s string) (err error) { g.Points, err = readPoints(s); return err }},
			length("radius", "Radius", func(g *model.Shape) *model.Length { return &g.Radius }, nil),
			length("width", "Stroke", func(g *model.Shape) *model.Length { return &g.Width }, nil),
			yes("filled", "Filled", func(g *model.Shape) *bool { return &g.Filled }),
			{Column{Key: "text", Name: "Text", Is: "text", Hint: "{designator} stands for what the design tool writes there"}, func(g model.Shape) string { return g.Text }, func(g *model.Shape, s string) error { g.Text = s; return nil }},
			length("size", "Height of text", func(g *model.Shape) *model.Length { return &g.Size }, nil),
			{Column{Key: "turn", Name: "Turn", Is: "angle"}, func(g model.Shape) string { return g.Turn.String() }, func(g *model.Shape, s string) (err error) { g.Turn, err = model.ParseAngle(s); return err }},
		}}
	for i := range t.columns { // a piece of graphics that cannot be drawn is refused where it was written
		read, write, key := t.columns[i].get, t.columns[i].set, t.columns[i].Key
		t.columns[i].get = func(g model.Shape) string {
			if of, ok := onlyOf[key]; ok && !slices.Contains(of, g.Form) {
				return ""
			}
			return read(g)
		}
		t.columns[i].set = func(g *model.Shape, s string) error {
			if of, ok := onlyOf[key]; ok && !slices.Contains(of, g.Form) {
				return fmt.Errorf("a %s has none", g.Form)
			}
			if err := write(g, s); err != nil {
				return err
			}
			return g.Check()
		}
	}
	switch {
	case l != nil:
		purposes := []string{string(model.Courtyard), string(model.Assembly), string(model.Silkscreen)}
		t.columns = slices.Insert(t.columns, 1, column[model.Shape]{Column{Key: "purpose", Name: "For", Is: "choice", Choices: purposes}, func(g model.Shape) string { return string(g.Purpose) }, func(g *model.Shape, s string) error { g.Purpose = model.Purpose(s); return nil }})
	case len(s.Units) > 1:
		t.columns = slices.Insert(t.columns, 1, unitColumn(s, func(g *model.Shape) *int { return &g.Unit }, true))
	}
	t.added = func(after []model.Shape, ch Change) (model.Shape, model.Point, error) {
		return nextShape(s, l, h, after, ch)
	}
	return t
}

// onlyOf says which columns are there for some forms only.
var onlyOf = map[string][]model.Form{
	"radius": {model.Circle}, "filled": {model.Circle, model.Rectangle, model.Polygon}, "text": {model.Text}, "size": {model.Text}, "turn": {model.Text},
}

func each(g *model.Shape, do func(model.Point) model.Point) {
	points := make([]model.Point, len(g.Points))
	for i, p := range g.Points {
		points[i] = do(p)
	}
	g.Points = points
}

// nextShape is a piece of graphics of the form that is asked for, as large as suits the drawing; after another one of that form, the same
// once more.
func nextShape(s *model.Symbol, l *model.LandPattern, h model.House, after []model.Shape, ch Change) (g model.Shape, step model.Point, err error) {
	form := model.Form(ch.Value)
	var b model.Box
	stroke, size := model.MM/4, h.TextSize
	unit := 0
	switch {
	case s != nil:
		step = model.Point{Y: -Step(&model.Content{Symbol: s}, h)}
		if unit = ch.Unit; len(s.Units) < 2 {
			unit = 0
		}
		b = bodyOf(s, unit, -step.Y)
	case l != nil:
		b, stroke, size = l.PadBounds(), max(h.Silkscreen, model.MM/10), h.LandText
		step = model.Point{Y: -model.MM}
	}
	if n := len(after); len(ch.Rows) > 0 && (form == "" || after[n-1].Form == form) {
		return after[n-1], step, nil
	}
	if size == 0 {
		size = model.MM
	}
	if !b.Some || b.Width() < model.MM || b.Height() < model.MM {
		c := b.Centre()
		b.Take(model.Point{X: c.X - model.MM, Y: c.Y - model.MM})
		b.Take(model.Point{X: c.X + model.MM, Y: c.Y + model.MM})
	}
	g = model.Shape{Form: model.Rectangle, Points: []model.Point{b.Min, b.Max}, Width: stroke, Unit: unit}
	if l != nil {
		g.Purpose = model.Silkscreen
	}
	if form == "" {
		form = model.Rectangle
	}
	if form == model.Text {
		g.Text, g.Size = "text", size
	}
	err = reform(&g, string(form))
	if len(after) > 0 {
		step = model.Point{} // after one of another form it stands where it suits the drawing
	}
	return g, step, err
}

// bodyOf is the box that the pins of a unit end at: on sides where there are none, a step or four further.
func bodyOf(s *model.Symbol, unit int, grid model.Length) (b model.Box) {
	side := map[string]bool{}
	for _, p := range s.Pins {
		if unit == 0 || p.Unit == 0 || p.Unit == unit {
			b.Take(p.Inner())
			side[p.Runs] = true
		}
	}
	if !b.Some {
		return b
	}
	if !side[model.Left] {
		b.Max.X = max(b.Max.X, b.Min.X+4*grid)
	}
	if !side[model.Right] {
		b.Min.X = min(b.Min.X, b.Max.X-4*grid)
	}
	if !side[model.Down] {
		b.Max.Y += grid
	}
	if !side[model.Up] {
		b.Min.Y -= grid
	}
	return b
}

// reform makes a piece of graphics one of another form that fills the same box.
func reform(g *model.Shape, form string) error {
	was := *g
	b := g.Bounds()
	c := b.Centre()
	g.Form, g.Radius, g.Text, g.Size, g.Turn = model.Form(form), 0, "", 0, 0
	if g.Form == model.Line || g.Form == model.Arc || g.Form == model.Text {
		g.Filled = false
	}
	switch g.Form {
	case model.Line:
		if g.Points = []model.Point{b.Min, b.Max}; was.Form == model.Polygon {
			g.Points = append(slices.Clone(was.Points), was.Points[0])
		}
	case model.Rectangle:
		g.Points = []model.Point{b.Min, b.Max}
	case model.Polygon:
		if g.Points = []model.Point{b.Min, {X: b.Max.X, Y: b.Min.Y}, b.Max, {X: b.Min.X, Y: b.Max.Y}}; was.Form == model.Line && len(was.Points) > 2 {
			g.Points = was.Points
		}
	case model.Circle:
		g.Points, g.Radius = []model.Point{c}, max(min(b.Width(), b.Height())/2, max(b.Width(), b.Height())/4)
	case model.Arc:
		g.Points = []model.Point{{X: b.Min.X, Y: b.Min.Y}, {X: c.X, Y: b.Max.Y}, {X: b.Max.X, Y: b.Min.Y}}
	case model.Text:
		g.Points, g.Text, g.Size = []model.Point{c}, was.Text, was.Size
		if g.Text == "" {
			g.Text = "text"
		}
		if g.Size == 0 {
			g.Size = model.MM
		}
	default:
		return fmt.Errorf("%q is no form of graphics", clip(form))
	}
	return nil
}

// pointsText writes points as they are typed: 0 0; 1.27 0.
func pointsText(all []model.Point) string {
	out := make([]string, len(all))
	for i, p := range all {
		out[i] = p.X.String() + " " + p.Y.String()
	}
	return strings.Join(out, "; ")
}

// readPoints reads points: two lengths with a blank between them, points parted by semicolons.
func readPoints(s string) (out []model.Point, err error) {
	for part := range strings.SplitSeq(strings.TrimRight(s, "; "), ";") {
		f := strings.Fields(part)
		if len(f) != 2 {
			return nil, fmt.Errorf("%q is no point: write its x and its y with a blank between them, such as 1.27 0", clip(strings.TrimSpace(part)))
		}
		var p model.Point
		if p.X, err = model.ParseLength(f[0]); err == nil {
			p.Y, err = model.ParseLength(f[1])
		}
		if err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	return out, nil
}
