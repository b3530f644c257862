package modeltest

import (
	"encoding/json"
	"fmt"
	"slices"

	"jollydrawer/core/model"
)

// Pair is two drawings, and whether a board made with one is a board made with the other.
type Pair struct {
	A, B *model.Content
	Same bool
	What string // what was done to the second
}

// copied is c with nothing shared.
func copied(c *model.Content) *model.Content {
	raw, err := json.Marshal(c)
	if err != nil {
		panic(err)
	}
	out := &model.Content{}
	if err := json.Unmarshal(raw, out); err != nil {
		panic(err)
	}
	return out
}

// lengths calls f with every length of a drawing that becomes copper, or a place of a symbol.
func lengths(c *model.Content, f func(*model.Length)) {
	point := func(p *model.Point) { f(&p.X); f(&p.Y) }
	if s := c.Symbol; s != nil {
		for i := range s.Pins {
			point(&s.Pins[i].At)
			f(&s.Pins[i].Length)
		}
		for i := range s.Shapes {
			for j := range s.Shapes[i].Points {
				point(&s.Shapes[i].Points[j])
			}
			f(&s.Shapes[i].Radius)
		}
	}
	if c.Land == nil {
		return
	}
	figure := func(w, h, corner *model.Length, at *model.Point, points []model.Point, cut []model.CutOut) {
		f(w)
		f(h)
		f(corner)
		point(at)
		for i := range points {
			point(&points[i])
		}
		for i := range cut {
			f(&cut[i].Width)
			f(&cut[i].Height)
			point(&cut[i].At)
		}
	}
	for i := range c.Land.Pads {
		p := &c.Land.Pads[i]
		figure(&p.Width, &p.Height, &p.Corner, &p.At, p.Points, p.CutOuts)
		for _, l := range []*model.Length{&p.Hole, &p.Slot, &p.Mask, &p.Paste, &p.HoleAt.X, &p.HoleAt.Y} {
			f(l)
		}
		for _, b := range []*model.Figure{p.Below, p.Inner} {
			if b != nil {
				figure(&b.Width, &b.Height, &b.Corner, &b.At, b.Points, b.CutOuts)
			}
		}
		for j := range p.Openings {
			o := &p.Openings[j]
			figure(&o.Width, &o.Height, &o.Corner, &o.At, o.Points, o.CutOuts)
		}
	}
}

// Rounded sends all lengths through another unit, in steps of one part of it.
func Rounded(c *model.Content, step model.Length) *model.Content {
	out := copied(c)
	lengths(out, func(l *model.Length) {
		half := step / 2
		if *l < 0 {
			half = -half
		}
		*l = (*l + half) / step * step
	})
	if out.Land != nil {
		for i := range out.Land.Pads { // what is round stays round
			p := &out.Land.Pads[i]
			if p.Shape == model.PadRound {
				p.Height = p.Width
			}
		}
	}
	return out
}

// Pair makes two drawings: the second is the first after one thing was done to it.
func (m Maker) Pair() Pair {
	a := &model.Content{Kind: model.KindLand, Name: "A"}
	do := m.landDeeds()
	if m.IntN(4) == 0 {
		a.Kind, a.Symbol = model.KindSymbol, m.Symbol()
		do = m.symbolDeeds()
	} else {
		a.Land = m.Land()
	}
	a.Normalise()
	for {
		d := do[m.IntN(len(do))]
		b := copied(a)
		if !d.do(b) {
			continue
		}
		b.Name = "B"
		b.Normalise()
		if d.same && m.IntN(2) == 0 {
			b = Rounded(b, pick(m, model.Mil/10, model.MM/1000, model.Inch/100000))
		}
		return Pair{a, b, d.same, d.what}
	}
}

type deed struct {
	what string
	same bool
	do   func(*model.Content) bool // false where there is nothing to do it to
}

const little = model.MM / 50 // 0.02 mm

func (m Maker) landDeeds() []deed {
	pad := func(f func(p *model.Pad) bool) func(c *model.Content) bool {
		return func(c *model.Content) bool {
			p := &c.Land.Pads[m.IntN(len(c.Land.Pads))]
			if !f(p) {
				return false
			}
			return p.Width > 0 && p.Height > 0
		}
	}
	each := func(f func(p *model.Pad)) func(c *model.Content) bool {
		return func(c *model.Content) bool {
			for i := range c.Land.Pads {
				f(&c.Land.Pads[i])
			}
			return true
		}
	}
	sign := func() model.Length { return pick(m, -little, little) }
	box := func(p *model.Pad) bool { return p.Shape != model.PadPolygon && p.Shape != model.PadRound }
	return []deed{
		{"nothing", true, func(*model.Content) bool { return true }},
		{"the pads in another order", true, func(c *model.Content) bool {
			m.Shuffle(len(c.Land.Pads), func(i, j int) { c.Land.Pads[i], c.Land.Pads[j] = c.Land.Pads[j], c.Land.Pads[i] })
			return true
		}},
		{"other texts and silkscreen", true, func(c *model.Content) bool {
			c.Land.Shapes = append(c.Land.Shapes, m.drawn(model.Silkscreen), model.Shape{Form: model.Text, Purpose: model.Silkscreen, Text: "other", Size: model.MM, Points: []model.Point{{}}})
			return true
		}},
		{"a rectangle that is turned and lies the other way", true, pad(func(p *model.Pad) bool {
			if p.Shape != model.PadRectangle || p.Slot > 0 || p.Below != nil || p.Inner != nil || p.HoleAt != (model.Point{}) || len(p.Openings) > 0 || len(p.CutOuts) > 0 {
				return false
			}
			p.Width, p.Height, p.Turn = p.Height, p.Width, (p.Turn+90*model.Degree)%(360*model.Degree)
			return true
		})},
		{"a rectangle drawn as a polygon", true, pad(func(p *model.Pad) bool {
			if p.Shape != model.PadRectangle || p.Mask != 0 || p.Paste != 0 || p.Hole > 0 {
				return false
			}
			x, y := p.Width/2, p.Height/2
			p.Shape, p.Points = model.PadPolygon, []model.Point{{X: x, Y: y}, {X: x, Y: -y}, {X: -x, Y: -y}, {X: -x, Y: y}}
			return true
		})},
		{"an oblong drawn as a rectangle with round ends", true, pad(func(p *model.Pad) bool {
			if p.Shape != model.PadOblong || p.Mask != 0 || p.Paste != 0 {
				return false
			}
			p.Shape, p.Corner = model.PadRounded, min(p.Width, p.Height)/2
			return true
		})},
		{"a polygon begun at another corner, and back", true, pad(func(p *model.Pad) bool {
			if p.Shape != model.PadPolygon {
				return false
			}
			p.Points = slices.Concat(p.Points[2:], p.Points[:2])
			slices.Reverse(p.Points)
			return true
		})},
		{"a polygon with a corner at which it does not turn", true, pad(func(p *model.Pad) bool {
			if p.Shape != model.PadPolygon {
				return false
			}
			q, r := p.Points[0], p.Points[1]
			p.Points = slices.Insert(p.Points, 1, model.Point{X: (q.X + r.X) / 2, Y: (q.Y + r.Y) / 2})
			return true
		})},
		{"the origin moved", false, func(c *model.Content) bool {
			by := model.Point{X: sign(), Y: m.mm(-300, 300)}
			return each(func(p *model.Pad) { p.At = p.At.Add(by) })(c)
		}},
		{"turned", false, func(c *model.Content) bool {
			turn := pick(m, 90*model.Degree, 180*model.Degree, 270*model.Degree)
			return each(func(p *model.Pad) {
				p.At = p.At.Turned(turn)
				p.Turn = (p.Turn + turn) % (360 * model.Degree)
			})(c)
		}},
		{"mirrored", false, each(func(p *model.Pad) {
			p.At.X = -p.At.X
			p.Turn, p.HoleAt.X = (360*model.Degree-p.Turn)%(360*model.Degree), -p.HoleAt.X
			for i := range p.Points {
				p.Points[i].X = -p.Points[i].X
			}
			p.Corners = mirrored(p.Corners)
			for i := range p.CutOuts {
				p.CutOuts[i].At.X = -p.CutOuts[i].At.X
			}
		})},
		{"two numbers exchanged", false, func(c *model.Content) bool {
			i, j := m.IntN(len(c.Land.Pads)), m.IntN(len(c.Land.Pads))
			a, b := &c.Land.Pads[i], &c.Land.Pads[j]
			if a.Number == b.Number {
				return false
			}
			a.Number, b.Number = b.Number, a.Number
			return true
		}},
		{"a pad moved by 0.02 mm", false, pad(func(p *model.Pad) bool {
			if m.IntN(2) == 0 {
				p.At.X += sign()
			} else {
				p.At.Y += sign()
			}
			return true
		})},
		{"a pad wider by 0.02 mm", false, pad(func(p *model.Pad) bool {
			if !box(p) {
				return false
			}
			p.Width += sign()
			return true
		})},
		{"a pad larger by 0.02 mm", false, pad(func(p *model.Pad) bool {
			if p.Shape != model.PadRound {
				return false
			}
			by := sign()
			p.Width, p.Height = p.Width+by, p.Height+by
			return true
		})},
		{"a corner of another radius", false, pad(func(p *model.Pad) bool {
			if p.Corner <= little {
				return false
			}
			p.Corner -= little
			return true
		})},
		{"a corner fewer", false, pad(func(p *model.Pad) bool {
			if p.Shape != model.PadRounded && p.Shape != model.PadChamfered || p.Corner < little {
				return false
			}
			if len(p.Corners) == 0 {
				p.Corners = slices.Clone(model.FigureCorners)
			}
			p.Corners = p.Corners[1:]
			if len(p.Corners) == 0 {
				p.Shape, p.Corner = model.PadRectangle, 0
			}
			return true
		})},
		{"rounded for chamfered", false, pad(func(p *model.Pad) bool {
			if p.Shape != model.PadRounded || p.Corner < model.MM/20 {
				return false
			}
			p.Shape = model.PadChamfered
			return true
		})},
		{"a polygon's corners in another order", false, pad(func(p *model.Pad) bool {
			if p.Shape != model.PadPolygon || len(p.Points) < 5 {
				return false
			}
			p.Points[1], p.Points[3] = p.Points[3], p.Points[1]
			return true
		})},
		{"a polygon's corner moved", false, pad(func(p *model.Pad) bool {
			if p.Shape != model.PadPolygon || len(p.Points) < 5 {
				return false
			}
			p.Points[3].Y += sign()
			return true
		})},
		{"the paste narrower by 0.02 mm", false, pad(func(p *model.Pad) bool {
			if len(p.Opened(model.OfPaste)) == 0 || len(p.Openings) > 0 {
				return false
			}
			p.Paste -= little
			return true
		})},
		{"no paste", false, pad(func(p *model.Pad) bool {
			if len(p.Opened(model.OfPaste)) == 0 || len(p.Openings) > 0 {
				return false
			}
			p.WithPaste = ptr(false)
			return true
		})},
		{"a window of the paste moved", false, pad(func(p *model.Pad) bool {
			if len(p.Openings) == 0 {
				return false
			}
			p.Openings[m.IntN(len(p.Openings))].At.X += sign()
			return true
		})},
		{"the mask 0.02 mm further", false, pad(func(p *model.Pad) bool {
			if len(p.Opened(model.OfMask)) == 0 {
				return false
			}
			p.Mask += little
			return true
		})},
		{"no opening of the mask", false, pad(func(p *model.Pad) bool {
			if len(p.Opened(model.OfMask)) == 0 {
				return false
			}
			p.WithMask = ptr(false)
			return true
		})},
		{"another plating", false, pad(func(p *model.Pad) bool {
			p.Unplated = !p.Unplated
			return p.Hole > 0
		})},
		{"another hole", false, pad(func(p *model.Pad) bool {
			if p.Hole == 0 {
				return false
			}
			p.Hole += sign()
			return true
		})},
		{"a slot", false, pad(func(p *model.Pad) bool {
			p.Slot += little
			return p.Hole > 0
		})},
		{"the hole off its place", false, pad(func(p *model.Pad) bool {
			p.HoleAt.Y += sign()
			return p.Hole > 0
		})},
		{"other copper below", false, pad(func(p *model.Pad) bool {
			if p.Hole == 0 {
				return false
			}
			p.Below = &model.Figure{Shape: model.PadRectangle, Width: p.Width + model.MM, Height: p.Height + model.MM}
			return true
		})},
		{"other copper on inner layers", false, pad(func(p *model.Pad) bool {
			if p.Hole == 0 {
				return false
			}
			p.Inner = &model.Figure{Shape: model.PadRound, Width: p.Width + 2*model.MM, Height: p.Width + 2*model.MM}
			return true
		})},
		{"a cut-out more", false, pad(func(p *model.Pad) bool {
			if p.Shape == model.PadPolygon || len(p.CutOuts) > 0 || len(p.Openings) > 0 || p.Hole > 0 {
				return false
			}
			p.CutOuts = []model.CutOut{{Shape: model.PadRound, Width: min(p.Width, p.Height) / 3, Height: min(p.Width, p.Height) / 3}}
			return true
		})},
		{"a cut-out fewer", false, pad(func(p *model.Pad) bool {
			if len(p.CutOuts) == 0 {
				return false
			}
			p.CutOuts = p.CutOuts[1:]
			return true
		})},
		{"a cut-out 0.02 mm aside", false, pad(func(p *model.Pad) bool {
			if len(p.CutOuts) == 0 {
				return false
			}
			p.CutOuts[0].At.Y += sign()
			return true
		})},
		{"a cut-out 0.02 mm smaller", false, pad(func(p *model.Pad) bool {
			if len(p.CutOuts) == 0 {
				return false
			}
			p.CutOuts[0].Width, p.CutOuts[0].Height = p.CutOuts[0].Width-little, p.CutOuts[0].Height-little
			return true
		})},
		{"on the other side", false, pad(func(p *model.Pad) bool {
			if p.Hole > 0 || len(p.Openings) > 0 {
				return false
			}
			p.Bottom = !p.Bottom
			return true
		})},
		{"a hole where there was none", false, pad(func(p *model.Pad) bool {
			if p.Hole > 0 || len(p.Openings) > 0 {
				return false
			}
			p.Hole = model.MM / 5
			return true
		})},
		{"a pad fewer", false, func(c *model.Content) bool {
			c.Land.Pads = c.Land.Pads[1:]
			return true
		}},
		{"a pad turned by a degree", false, pad(func(p *model.Pad) bool {
			if p.Shape == model.PadRound || p.Width < model.MM {
				return false
			}
			p.Turn = (p.Turn + 3*model.Degree) % (360 * model.Degree)
			return true
		})},
	}
}

func mirrored(corners []string) []string {
	other := map[string]string{model.LowerLeft: model.LowerRight, model.LowerRight: model.LowerLeft, model.UpperLeft: model.UpperRight, model.UpperRight: model.UpperLeft}
	var out []string
	for _, c := range corners {
		out = append(out, other[c])
	}
	return out
}

func (m Maker) symbolDeeds() []deed {
	pin := func(f func(p *model.Pin) bool) func(c *model.Content) bool {
		return func(c *model.Content) bool { return f(&c.Symbol.Pins[m.IntN(len(c.Symbol.Pins))]) }
	}
	return []deed{
		{"nothing", true, func(*model.Content) bool { return true }},
		{"other names of the units", true, func(c *model.Content) bool {
			for i := range c.Symbol.Units {
				c.Symbol.Units[i] = fmt.Sprint("unit ", i+1)
			}
			return len(c.Symbol.Units) > 0
		}},
		{"other texts and properties", true, func(c *model.Content) bool {
			c.Symbol.Shapes = append(c.Symbol.Shapes, model.Shape{Form: model.Text, Text: "x", Size: model.MM, Points: []model.Point{{}}})
			c.Symbol.Properties = map[string]string{"MPN": "TQ-1"}
			return true
		}},
		{"the pins in another order", true, func(c *model.Content) bool {
			slices.Reverse(c.Symbol.Pins)
			slices.Reverse(c.Symbol.Shapes)
			return true
		}},
		{"two units exchanged", false, func(c *model.Content) bool {
			for i := range c.Symbol.Pins {
				p := &c.Symbol.Pins[i]
				if p.Unit == 1 || p.Unit == 2 {
					p.Unit = 3 - p.Unit
				}
			}
			return len(c.Symbol.Units) > 1
		}},
		{"a pin on another unit", false, func(c *model.Content) bool {
			p := &c.Symbol.Pins[m.IntN(len(c.Symbol.Pins))]
			p.Unit = p.Unit%2 + 1
			return len(c.Symbol.Units) > 1
		}},
		{"two numbers exchanged", false, func(c *model.Content) bool {
			a, b := &c.Symbol.Pins[0], &c.Symbol.Pins[len(c.Symbol.Pins)-1]
			a.Number, b.Number = b.Number, a.Number
			return true
		}},
		{"another name", false, pin(func(p *model.Pin) bool { p.Name = "other"; return true })},
		{"another type", false, pin(func(p *model.Pin) bool {
			if p.Type == model.Input {
				p.Type = model.Output
			} else {
				p.Type = model.Input
			}
			return true
		})},
		{"a pin hidden or shown", false, pin(func(p *model.Pin) bool { p.Hidden = !p.Hidden; return true })},
		{"a pin moved", false, pin(func(p *model.Pin) bool { p.At.Y += little; return true })},
		{"a pin that runs the other way", false, pin(func(p *model.Pin) bool {
			if p.Runs == model.Right {
				p.Runs = model.Up
			} else {
				p.Runs = model.Right
			}
			return true
		})},
		{"the origin moved", false, func(c *model.Content) bool {
			for i := range c.Symbol.Pins {
				c.Symbol.Pins[i].At.X += model.MM
			}
			return true
		}},
		{"graphics moved", false, func(c *model.Content) bool {
			c.Symbol.Shapes[0].Points[0].X -= model.MM / 10
			return true
		}},
	}
}
