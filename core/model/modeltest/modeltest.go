// Package modeltest makes symbols and land patterns of which it knows everything: drawings with all that a drawing can have, and pairs of
// which it knows whether a board made with one is a board made with the other. Tests and benches of other packages use it.
package modeltest

import (
	"fmt"
	"slices"

	"jollydrawer/core/measure/measuretest"
	"jollydrawer/core/model"
)

// Maker makes drawings from a seed: the same ones from the same seed.
type Maker struct{ *measuretest.Draws }

// New returns a maker.
func New(seed uint64) Maker { return Maker{&measuretest.Draws{State: (seed + 1) * 0xd1342543de82ef95}} }

// Shuffle puts n things in another order.
func (m Maker) Shuffle(n int, swap func(i, j int)) {
	for i := n - 1; i > 0; i-- {
		swap(i, m.IntN(i+1))
	}
}

// mm is a number of hundredths of a millimetre, between two.
func (m Maker) mm(from, to int) model.Length {
	return model.Length(from+m.IntN(to-from+1)) * model.MM / 100
}

func pick[T any](m Maker, all ...T) T { return all[m.IntN(len(all))] }

// Land makes a land pattern: a chip, two rows, four sides, a grid, or a connector, with shapes, holes, mask and paste of all kinds.
func (m Maker) Land() *model.LandPattern {
	l := &model.LandPattern{Density: pick(m, "", "most", "nominal", "least")}
	switch m.IntN(5) {
	case 0:
		m.rows(l, 2, 1, m.mm(80, 400), 0)
	case 1:
		n := 2 * (2 + m.IntN(14))
		m.rows(l, n, n/2, m.mm(300, 1200), pick(m, 127, 65, 50, 80))
	case 2:
		m.quad(l, 4*(2+m.IntN(12)))
	case 3:
		m.grid(l, 2+m.IntN(6), 2+m.IntN(6))
	default:
		m.connector(l, 2+m.IntN(12))
	}
	if m.IntN(3) == 0 {
		m.thermal(l)
	}
	if m.IntN(4) == 0 { // a peg without copper
		d := m.mm(80, 300)
		l.Pads = append(l.Pads, model.Pad{Shape: model.PadRound, At: model.Point{X: m.mm(2000, 2500), Y: m.mm(-100, 100)}, Width: d, Height: d, Hole: d, Unplated: true})
	}
	holes := 0
	for _, p := range l.Pads {
		if p.Hole > 0 {
			holes++
		}
	}
	switch holes {
	case 0:
		l.Mounting = "surface"
	case len(l.Pads):
		l.Mounting = "through"
	default:
		l.Mounting = "mixed"
	}
	m.outlines(l)
	return l
}

// flat is a pad of the surface that several pads of a pattern are like.
func (m Maker) flat(w, h model.Length) model.Pad {
	p := model.Pad{Shape: pick(m, model.PadShapes...), Width: w, Height: h, Turn: pick(m, 0, 0, 0, 90*model.Degree, 180*model.Degree, 270*model.Degree, 45*model.Degree)}
	small := min(w, h)
	switch p.Shape {
	case model.PadRounded, model.PadChamfered:
		p.Corner = small / 5
		if m.IntN(3) == 0 {
			p.Corners = slices.Clone(model.FigureCorners[:1+m.IntN(3)])
		}
	case model.PadRound:
		p.Width, p.Height = small, small
	case model.PadOblong:
		if w == h {
			p.Width += model.MM / 10
		}
	case model.PadPolygon:
		x, y := w/2, h/2
		p.Points = []model.Point{{X: -x, Y: -y}, {X: x, Y: -y}, {X: x, Y: y / 2}, {X: x / 3, Y: y}, {X: -x, Y: y}}
	}
	if p.Shape != model.PadPolygon && len(p.Corners) == 0 && small >= model.MM/2 && m.IntN(5) == 0 { // a ring, or an opening in the copper
		d := small / 3 / (model.MM / 100) * (model.MM / 100)
		cut := model.CutOut{Shape: model.PadRound, Width: d, Height: d, At: model.Point{X: pick(m, 0, 0, small/12/(model.MM/100)*(model.MM/100))}}
		if m.IntN(3) == 0 {
			cut.Shape, cut.Height = model.PadRectangle, d/2
		}
		p.CutOuts = []model.CutOut{cut}
	}
	if p.Shape != model.PadPolygon && m.IntN(2) == 0 {
		p.Mask = pick(m, model.MM/20, model.MM/10, -model.MM/50)
	}
	switch m.IntN(4) {
	case 0:
		p.WithPaste = ptr(false)
	case 1:
		if p.Shape != model.PadPolygon {
			p.Paste = -small / 10
		}
	}
	return p
}

// through is a pad with a hole.
func (m Maker) through(d model.Length) model.Pad {
	p := model.Pad{Shape: pick(m, model.PadRound, model.PadOblong, model.PadRectangle, model.PadRounded), Width: d + m.mm(40, 90), Height: d + m.mm(40, 90), Hole: d, Mask: model.MM / 20}
	switch p.Shape {
	case model.PadRound:
		p.Height = p.Width
	case model.PadRounded:
		p.Corner = model.MM / 10
	case model.PadOblong:
		if p.Width == p.Height {
			p.Width += model.MM / 5
		}
	}
	switch m.IntN(7) {
	case 0:
		p.Width += model.MM
		p.Slot, p.HoleTurn = m.mm(30, 80), pick(m, 0, 0, 90*model.Degree, 30*model.Degree)
		if p.Shape == model.PadRound {
			p.Shape = model.PadOblong
		}
	case 1:
		p.HoleAt = model.Point{X: m.mm(5, 15)}
	case 2:
		p.Below = &model.Figure{Shape: model.PadRectangle, Width: p.Width + model.MM/5, Height: p.Height + model.MM/4}
	case 3:
		p.Unplated = true
	case 4:
		p.WithPaste = ptr(true)
	case 5:
		p.Inner = &model.Figure{Shape: model.PadRound, Width: d + model.MM/5, Height: d + model.MM/5}
	}
	if p.WithPaste == nil {
		p.Paste = 0
	}
	return p
}

func ptr[T any](v T) *T { return &v }

func (m Maker) add(l *model.LandPattern, p model.Pad, number string, x, y model.Length) {
	p.Number, p.At = number, model.Point{X: x, Y: y}
	l.Pads = append(l.Pads, p)
}

func (m Maker) rows(l *model.LandPattern, n, each int, row model.Length, hundredths int) {
	pitch := model.Length(hundredths) * model.MM / 100
	p := m.flat(m.mm(50, 160), max(pitch*6/10, m.mm(30, 90)))
	for i := range n {
		at := model.Point{X: -row / 2, Y: pitch * model.Length(each-1-2*i) / 2}
		if i >= each {
			at = model.Point{X: row / 2, Y: pitch * model.Length(2*(i-each)-each+1) / 2}
		}
		m.add(l, p, fmt.Sprint(i+1), at.X, at.Y)
	}
}

func (m Maker) quad(l *model.LandPattern, n int) {
	pitch := model.Length(pick(m, 40, 50, 65, 80)) * model.MM / 100
	reach := pitch*model.Length(n/4)/2 + m.mm(40, 120)
	p := m.flat(m.mm(60, 120), pitch*55/100)
	for i := range n {
		at := model.Point{X: -reach, Y: pitch * model.Length(n/4-1-2*(i%(n/4))) / 2}
		q := p
		turn := model.Angle(i/(n/4)) * 90 * model.Degree
		q.Turn = (q.Turn + turn) % (360 * model.Degree)
		at = at.Turned(turn)
		m.add(l, q, fmt.Sprint(i+1), at.X, at.Y)
	}
}

func (m Maker) grid(l *model.LandPattern, rows, columns int) {
	pitch := model.Length(pick(m, 50, 65, 80, 100)) * model.MM / 100
	d := pitch * 45 / 100
	p := model.Pad{Shape: model.PadRound, Width: d, Height: d, Mask: pick(m, 0, model.MM/20)}
	for r := range rows {
		for c := range columns {
			m.add(l, p, fmt.Sprintf("%c%d", 'A'+r, c+1), pitch*model.Length(2*c-columns+1)/2, pitch*model.Length(rows-1-2*r)/2)
		}
	}
}

func (m Maker) connector(l *model.LandPattern, n int) {
	p := m.through(m.mm(70, 120))
	for i := range n {
		q := p
		if i == 0 && p.Below == nil && p.HoleAt == (model.Point{}) { // pin 1 stands out
			q.Shape, q.Corner, q.Corners = model.PadRectangle, 0, nil
		}
		m.add(l, q, fmt.Sprint(i+1), model.Length(i)*254*model.MM/100, 0)
	}
}

// thermal is a large pad in the middle, its paste in windows.
func (m Maker) thermal(l *model.LandPattern) {
	w, h := m.mm(150, 300), m.mm(150, 300)
	p := model.Pad{Number: "EP", Shape: model.PadRectangle, Width: w, Height: h, At: model.Point{Y: m.mm(-3000, -2500)}}
	if m.IntN(2) == 0 {
		for i := range 4 {
			x, y := w/4, h/4
			p.Openings = append(p.Openings, model.Opening{Of: model.OfPaste, Figure: model.Figure{Shape: pick(m, model.PadRectangle, model.PadRound), At: model.Point{X: x * model.Length(i%2*2-1), Y: y * model.Length(i/2*2-1)}, Width: w / 5, Height: w / 5}})
		}
	}
	if m.IntN(3) == 0 {
		p.WithMask = ptr(false)
	}
	l.Pads = append(l.Pads, p)
}

func (m Maker) outlines(l *model.LandPattern) {
	b := l.PadBounds()
	lo, hi := b.Min, b.Max
	grow := m.mm(10, 50)
	corner := func(by model.Length) []model.Point {
		return []model.Point{{X: lo.X - by, Y: lo.Y - by}, {X: hi.X + by, Y: hi.Y + by}}
	}
	if m.IntN(4) > 0 {
		l.Shapes = append(l.Shapes, model.Shape{Form: model.Rectangle, Purpose: model.Courtyard, Points: corner(grow), Width: model.MM / 20})
	}
	if m.IntN(3) > 0 {
		l.Shapes = append(l.Shapes, model.Shape{Form: model.Rectangle, Purpose: model.Assembly, Points: corner(0), Width: model.MM / 10})
	}
	for range m.IntN(4) {
		l.Shapes = append(l.Shapes, m.drawn(model.Silkscreen))
	}
	if m.IntN(2) == 0 {
		l.Shapes = append(l.Shapes, model.Shape{Form: model.Text, Purpose: model.Silkscreen, Text: pick(m, model.Designator, "PIN 1", "Ω <&> \"µ\""), Size: model.MM, Points: []model.Point{{X: m.mm(-300, 300), Y: m.mm(-300, 300)}}, Turn: pick(m, 0, 90*model.Degree)})
	}
}

// drawn is a piece of graphics.
func (m Maker) drawn(purpose model.Purpose) model.Shape {
	at := func() model.Point { return model.Point{X: m.mm(-500, 500), Y: m.mm(-500, 500)} }
	s := model.Shape{Purpose: purpose, Width: pick(m, model.MM/10, model.MM/8, model.MM/5)}
	a := at()
	switch m.IntN(5) {
	case 0:
		s.Form, s.Points = model.Line, []model.Point{a, {X: a.X + m.mm(10, 300), Y: a.Y + m.mm(10, 300)}}
	case 1:
		s.Form, s.Points = model.Line, []model.Point{a, {X: a.X + m.mm(10, 300), Y: a.Y}, {X: a.X, Y: a.Y + m.mm(10, 300)}}
	case 2:
		s.Form, s.Points, s.Radius, s.Filled = model.Circle, []model.Point{a}, m.mm(10, 200), m.IntN(2) == 0
	case 3:
		s.Form, s.Points = model.Polygon, []model.Point{a, {X: a.X + m.mm(10, 300), Y: a.Y}, {X: a.X + m.mm(10, 300), Y: a.Y + m.mm(10, 300)}, {X: a.X, Y: a.Y + m.mm(400, 500)}}
		s.Filled = m.IntN(2) == 0
	default:
		r := m.mm(20, 200)
		s.Form, s.Points = model.Arc, []model.Point{{X: a.X + r, Y: a.Y}, {X: a.X, Y: a.Y + r}, {X: a.X - r, Y: a.Y}}
	}
	return s
}

// Symbol makes a symbol of one unit or of several.
func (m Maker) Symbol() *model.Symbol {
	s := &model.Symbol{Grid: 127 * model.MM / 100}
	units := pick(m, 1, 1, 2, 3, 4)
	if units > 1 {
		for u := range units {
			s.Units = append(s.Units, string(rune('A'+u)))
		}
	}
	names := []string{"IN", "OUT", "~{RESET}", "VDD", "GND", "D[0]", "TX1_P", "Ω", "", "A/B \"C\""}
	step := 254 * model.MM / 100
	number := 0
	for u := 1; u <= units; u++ {
		n := 2 + m.IntN(8)
		for i := range n {
			number++
			p := model.Pin{Number: fmt.Sprint(number), Name: pick(m, names...), Type: pick(m, model.PinTypes...), Runs: model.Right, Length: pick(m, step, step*2), At: model.Point{X: -3 * step, Y: step * model.Length(n/2-i)}, Hidden: m.IntN(12) == 0}
			if i%2 == 1 {
				p.Runs, p.At.X = model.Left, 3*step
			}
			if units > 1 {
				p.Unit = u
			}
			s.Pins = append(s.Pins, p)
		}
		unit := u
		if units == 1 {
			unit = 0
		}
		s.Shapes = append(s.Shapes, model.Shape{Form: model.Rectangle, Unit: unit, Points: []model.Point{{X: -step, Y: -step * model.Length(n)}, {X: step, Y: step * model.Length(n)}}, Width: model.MM / 4})
		for range m.IntN(3) {
			g := m.drawn("")
			g.Unit = unit
			s.Shapes = append(s.Shapes, g)
		}
		if m.IntN(2) == 0 {
			s.Shapes = append(s.Shapes, model.Shape{Form: model.Text, Unit: unit, Text: pick(m, model.Designator, "x"), Size: 127 * model.MM / 100, Points: []model.Point{{Y: step * model.Length(n+1)}}})
		}
	}
	if m.IntN(2) == 0 {
		s.Properties = map[string]string{"Value": "4k7", "Wert \"µ\" %": "4,7 kΩ"}
	}
	return s
}
