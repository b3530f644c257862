package redraw

import (
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/model"
)

// own stands in a cell for what is more than a cell can say; written back, it stays as it is.
const own = "own"

func padsOf(l *model.LandPattern) table {
	return &rows[model.Pad]{all: &l.Pads, what: "pad",
		at:     func(p model.Pad) model.Point { return p.At },
		points: func(p model.Pad) []model.Point { return []model.Point{p.At} },
		move:   func(p *model.Pad, by model.Point) { p.At = p.At.Add(by) },
		turn: func(p *model.Pad, a model.Angle) error {
			p.At, p.Turn = p.At.Turned(quarter(a)), quarter(p.Turn+a)
			return nil
		},
		mirror: func(p *model.Pad) { at := p.At; *p = p.Mirrored(); p.At = model.Point{X: -at.X, Y: at.Y} },
		unit:   func(model.Pad) int { return 0 },
		number: func(p *model.Pad) *string { return &p.Number },
		box:    model.Pad.Bounds,
		added:  nextPad,
		columns: []column[model.Pad]{
			{Column{Key: "number", Name: "Number", Is: "text"}, func(p model.Pad) string { return p.Number }, func(p *model.Pad, s string) error { p.Number = strings.TrimSpace(s); return nil }},
			{Column{Key: "shape", Name: "Shape", Is: "choice", Choices: model.PadShapes}, func(p model.Pad) string { return p.Shape }, reshape},
			length("x", "X", func(p *model.Pad) *model.Length { return &p.At.X }, nil),
			length("y", "Y", func(p *model.Pad) *model.Length { return &p.At.Y }, nil),
			side("width", "Width", func(p *model.Pad) *model.Length { return &p.Width }),
			side("height", "Height", func(p *model.Pad) *model.Length { return &p.Height }),
			{Column{Key: "turn", Name: "Turn", Is: "angle"}, func(p model.Pad) string { return p.Turn.String() }, func(p *model.Pad, s string) (err error) { p.Turn, err = model.ParseAngle(s); return err }},
			length("hole", "Hole", func(p *model.Pad) *model.Length { return &p.Hole }, holeless),
			length("slot", "Slot", func(p *model.Pad) *model.Length { return &p.Slot }, nil),
			yes("unplated", "Unplated", func(p *model.Pad) *bool { return &p.Unplated }),
			yes("bottom", "Bottom", func(p *model.Pad) *bool { return &p.Bottom }),
			corner(),
			{Column{Key: "corners", Name: "Corners", Is: "text", Hint: "Those that are rounded or chamfered, such as lower left, upper left; blank: all"}, func(p model.Pad) string { return strings.Join(p.Corners, ", ") }, someCorners},
			{Column{Key: "points", Name: "Outline", Is: "points", Hint: "Corners of a polygon about the pad's place: 0 0; 1 0; 1 1"}, func(p model.Pad) string { return pointsText(p.Points) }, padPoints},
			openings("mask", "Mask", model.OfMask, func(p *model.Pad) (**bool, *model.Length) { return &p.WithMask, &p.Mask }),
			openings("paste", "Paste", model.OfPaste, func(p *model.Pad) (**bool, *model.Length) { return &p.WithPaste, &p.Paste }),
			cutOuts(),
			otherCopper("below", "Copper below", "Of a pad with a hole, where it is another than on top: round 1.6, or rectangle 1.6 x 1.2", func(p *model.Pad) **model.Figure { return &p.Below }),
			otherCopper("inner", "Copper within", "Of a pad with a hole, on the inner layers, where it is another than on top", func(p *model.Pad) **model.Figure { return &p.Inner }),
		}}
}

// nextPad is the pad that comes after others, and how far it is from the last.
func nextPad(after []model.Pad, _ Change) (model.Pad, model.Point, error) {
	if len(after) == 0 {
		return model.Pad{Number: "1", Shape: model.PadRectangle, Width: model.MM, Height: model.MM}, model.Point{}, nil
	}
	last := after[len(after)-1]
	step := model.Point{Y: -(last.Bounds().Height() + model.MM/2)}
	if len(after) > 1 {
		if before := after[0]; before.At != last.At && (before.At.X == last.At.X || before.At.Y == last.At.Y) {
			step = model.Point{X: last.At.X - before.At.X, Y: last.At.Y - before.At.Y}
		}
	}
	return last, step, nil
}

// reshape gives a pad another shape of its size.
func reshape(p *model.Pad, shape string) error {
	outline := model.Figure{Shape: p.Shape, Width: p.Width, Height: p.Height, Corner: p.Corner, Corners: p.Corners, Points: p.Points}.Outline(4)
	p.Shape, p.Points = shape, nil
	switch shape {
	case model.PadRound:
		p.Height = p.Width
	case model.PadRounded, model.PadChamfered:
		if p.Corner == 0 {
			p.Corner = min(p.Width, p.Height) / 4
		}
		return nil
	case model.PadPolygon:
		p.Points = outline
	}
	p.Corner, p.Corners = 0, nil
	return nil
}

// side is a column of a pad's width or height: a round pad has both alike, a polygon is as wide as its corners lie.
func side(key, name string, of func(*model.Pad) *model.Length) column[model.Pad] {
	c := length(key, name, of, func(p *model.Pad) {
		if p.Shape == model.PadRound {
			p.Width, p.Height = *of(p), *of(p)
		}
	})
	write := c.set
	c.set = func(p *model.Pad, s string) error {
		if p.Shape == model.PadPolygon {
			return fmt.Errorf("a polygon is as large as its corners say: write those")
		}
		return write(p, s)
	}
	return c
}

func corner() column[model.Pad] {
	c := length("corner", "Corner", func(p *model.Pad) *model.Length { return &p.Corner }, nil)
	c.Hint = "Radius of rounded corners, or how much is cut off chamfered ones along each side"
	write := c.set
	c.set = func(p *model.Pad, s string) error {
		if p.Shape != model.PadRounded && p.Shape != model.PadChamfered {
			return fmt.Errorf("a %s has no corners of a size: make it rounded or chamfered first", p.Shape)
		}
		return write(p, s)
	}
	return c
}

// holeless takes away what only a pad with a hole has.
func holeless(p *model.Pad) {
	if p.Hole == 0 {
		p.Slot, p.HoleAt, p.HoleTurn, p.Unplated, p.Below, p.Inner = 0, model.Point{}, 0, false, nil, nil
	} else {
		p.Bottom = false
	}
}

func someCorners(p *model.Pad, s string) error {
	if p.Shape != model.PadRounded && p.Shape != model.PadChamfered {
		return fmt.Errorf("a %s has no corners to choose from: make it rounded or chamfered first", p.Shape)
	}
	var some []string
	for c := range strings.SplitSeq(s, ",") {
		if c = strings.Join(strings.Fields(c), " "); c == "" {
			continue
		}
		if !slices.Contains(model.FigureCorners, c) {
			return fmt.Errorf("%q is no corner: a pad has %s", clip(c), words(model.FigureCorners))
		}
		some = append(some, c)
	}
	p.Corners = some
	return nil
}

func padPoints(p *model.Pad, s string) error {
	if p.Shape != model.PadPolygon {
		return fmt.Errorf("a %s has no outline of its own: make it a polygon first", p.Shape)
	}
	points, err := readPoints(s)
	if err != nil {
		return err
	}
	var b model.Box
	for _, q := range points {
		b.Take(q)
	}
	p.Points, p.Width, p.Height = points, b.Width(), b.Height()
	return nil
}

// openings is the column of how far the openings of mask or paste reach beyond the copper: none where there are none, own where they have
// figures of their own.
func openings(key, name, of string, with func(*model.Pad) (**bool, *model.Length)) column[model.Pad] {
	return column[model.Pad]{Column{Key: key, Name: name, Is: "text", Hint: "How far the opening reaches beyond the copper, mm; none where there is none"},
		func(p model.Pad) string {
			if slices.ContainsFunc(p.Openings, func(o model.Opening) bool { return o.Of == of }) {
				return own
			}
			has, by := with(&p)
			if *has != nil && !**has || *has == nil && of == model.OfPaste && p.Hole > 0 {
				return "none"
			}
			return by.String()
		},
		func(p *model.Pad, s string) error {
			has, by := with(p)
			there := s != "none"
			reach := model.Length(0)
			if there {
				var err error
				if reach, err = model.ParseLength(s); err != nil {
					return fmt.Errorf("%w; none where there is no opening", err)
				}
			}
			*has, *by = &there, reach
			p.Openings = slices.DeleteFunc(slices.Clone(p.Openings), func(o model.Opening) bool { return o.Of == of })
			return nil
		}}
}

// otherCopper is a column of the copper of a pad with a hole on other layers than the top.
func otherCopper(key, name, hint string, of func(*model.Pad) **model.Figure) column[model.Pad] {
	return column[model.Pad]{Column{Key: key, Name: name, Is: "text", Hint: hint},
		func(p model.Pad) string { return figureText(*of(&p)) },
		func(p *model.Pad, s string) error {
			if s == "" {
				*of(p) = nil
				return nil
			}
			if p.Hole == 0 {
				return fmt.Errorf("a pad without a hole has copper on one side only")
			}
			f, err := readFigure(s)
			if err == nil {
				*of(p) = &f
			}
			return err
		}}
}

func cutOuts() column[model.Pad] {
	return column[model.Pad]{Column{Key: "cutOuts", Name: "Cut-outs", Is: "text", Hint: "Places in the copper that are none, about the pad's place: round 1.6; rectangle 1 x 0.5 at 0.2, 0"},
		func(p model.Pad) string {
			var all []string
			for _, c := range p.Figure().Cut() {
				t := figureText(&c)
				if t == own {
					return own
				}
				all = append(all, t)
			}
			return strings.Join(all, "; ")
		},
		func(p *model.Pad, s string) error {
			f := p.Figure()
			f.CutOuts = nil
			for t := range strings.SplitSeq(s, ";") {
				if strings.TrimSpace(t) == "" {
					continue
				}
				c, err := readFigure(t)
				if err != nil {
					return err
				}
				f = f.Without(c)
			}
			p.CutOuts = f.CutOuts
			return f.CheckCutOuts()
		}}
}

// figureText writes a figure with one or two sizes and its place; a figure that has more to it is its own.
func figureText(f *model.Figure) string {
	if f == nil {
		return ""
	}
	if f.Turn != 0 || f.Corner != 0 || len(f.Points) > 0 || len(f.CutOuts) > 0 {
		return own
	}
	text := fmt.Sprintf("%s %s x %s", f.Shape, f.Width, f.Height)
	if f.Shape == model.PadRound {
		text = f.Shape + " " + f.Width.String()
	}
	if f.At != (model.Point{}) {
		text += fmt.Sprintf(" at %s, %s", f.At.X, f.At.Y)
	}
	return text
}

// readFigure reads what figureText writes.
func readFigure(s string) (f model.Figure, err error) {
	s, at, placed := strings.Cut(s, " at ")
	shape, size, _ := strings.Cut(strings.TrimSpace(s), " ")
	if !slices.Contains([]string{model.PadRound, model.PadRectangle, model.PadOblong}, shape) {
		return f, fmt.Errorf("%q begins with no shape: write round 1.6, rectangle 1.6 x 1.2 or oblong 1.6 x 1.2, and behind it at 0.5, 0 where its middle is not that of the pad", clip(s))
	}
	w, h, two := strings.Cut(strings.ReplaceAll(size, "×", "x"), "x")
	if !two {
		h = w
	}
	x, y, both := strings.Cut(at, ",")
	if placed && !both {
		return f, fmt.Errorf("%q says no place: write its x and y, such as at 0.5, -1", clip(at))
	}
	f.Shape = shape
	for _, l := range []struct {
		text string
		to   *model.Length
		is   bool
	}{{w, &f.Width, true}, {h, &f.Height, true}, {x, &f.At.X, placed}, {y, &f.At.Y, placed}} {
		if l.is {
			if *l.to, err = model.ParseLength(strings.TrimSpace(l.text)); err != nil {
				return f, err
			}
		}
	}
	return f, nil
}
