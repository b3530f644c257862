package modeltest

import (
	"fmt"
	"slices"

	"jollydrawer/core/model"
)

// Seat is a body on a land pattern of which it is known how it belongs there, and what was done to it.
type Seat struct {
	Body *model.Body
	Land *model.LandPattern
	True model.Box3 // where the body belongs, as a box
	What string
	// Wrong: the body does not sit as it belongs, or is of another package. Wanted: it hangs over its pads on purpose.
	Wrong, Other, Wanted bool
	lopsided             bool // its leads are not the same after half a turn
	feet                 []model.Foot
}

// Seat makes a package with its body, and does one thing to the body.
func (m Maker) Seat() Seat {
	var s Seat
	var w, h, z model.Length
	switch m.IntN(5) {
	case 4: // three leads: one on the one side, two on the other, on which the body stands
		w, h, z = m.mm(240, 900), m.mm(280, 1000), m.mm(80, 200)
		s.Land = &model.LandPattern{}
		p := model.Pad{Shape: model.PadRectangle, Width: w * 30 / 100, Height: h * 25 / 100}
		m.add(s.Land, p, "1", -w*38/100, h*32/100)
		m.add(s.Land, p, "2", -w*38/100, -h*32/100)
		m.add(s.Land, p, "3", w*38/100, 0)
		s.lopsided = true
	case 0: // a chip
		w, h, z = m.mm(160, 640), 0, m.mm(40, 150)
		h = w * model.Length(45+m.IntN(20)) / 100
		s.Land = &model.LandPattern{}
		p := model.Pad{Shape: model.PadRectangle, Width: w * 35 / 100, Height: h * 110 / 100}
		m.add(s.Land, p, "1", -w*45/100, 0)
		m.add(s.Land, p, "2", w*45/100, 0)
	case 1: // two rows of leads, the body as far as its leads reach
		n := 2 * (2 + m.IntN(10))
		pitch := model.Length(pick(m, 65, 127)) * model.MM / 100
		w, z = m.mm(500, 1100), m.mm(80, 260)
		h = pitch*model.Length(n/2) + m.mm(0, 60)
		s.Land = &model.LandPattern{}
		p := model.Pad{Shape: model.PadRectangle, Width: m.mm(120, 180), Height: pitch * 55 / 100}
		for i := range n {
			x, y := -w/2+p.Width/4, pitch*model.Length(n/2-1-2*i)/2
			if i >= n/2 {
				x, y = -x, pitch*model.Length(2*(i-n/2)-n/2+1)/2
			}
			m.add(s.Land, p, fmt.Sprint(i+1), x, y)
		}
	case 2: // four sides without leads
		w, z = m.mm(300, 1000), m.mm(50, 100)
		h = w
		s.Land = &model.LandPattern{}
		for i := range 16 {
			at := model.Point{X: -w / 2, Y: w / 8 * model.Length(3-2*(i%4)) / 2}.Turned(model.Angle(i/4) * 90 * model.Degree)
			m.add(s.Land, model.Pad{Shape: model.PadRectangle, Width: model.MM / 2, Height: w / 16, Turn: model.Angle(i/4) * 90 * model.Degree}, string(rune('A'+i)), at.X, at.Y)
		}
	default: // a connector at the edge: the body hangs over
		n := 2 + m.IntN(8)
		w, h, z = model.Length(n)*254*model.MM/100+m.mm(200, 600), m.mm(900, 1600), m.mm(500, 1200)
		s.Land = &model.LandPattern{}
		for i := range n {
			m.add(s.Land, model.Pad{Shape: model.PadRound, Width: 16 * model.MM / 10, Height: 16 * model.MM / 10, Hole: model.MM}, string(rune('A'+i)), model.Length(2*i-n+1)*127*model.MM/100, 0)
		}
		s.Wanted = true
	}
	centre := model.Point{}
	if s.Wanted {
		centre.Y = -h/2 + m.mm(100, 250) // its pads lie near its inner edge
	}
	lo := model.Point3{X: centre.X - w/2, Y: centre.Y - h/2}
	s.True = model.Box3{Min: lo, Max: model.Point3{X: lo.X + w, Y: lo.Y + h, Z: z}}
	if m.IntN(2) == 0 {
		s.Land.Shapes = []model.Shape{{Form: model.Rectangle, Purpose: model.Assembly, Points: []model.Point{{X: lo.X, Y: lo.Y}, {X: lo.X + w, Y: lo.Y + h}}}}
	}
	s.Body = &model.Body{Box: s.True}
	if s.lopsided || !s.Wanted && m.IntN(2) == 0 { // how it stands is known
		for _, p := range s.Land.Pads {
			at, d := p.At, min(p.Width, p.Height)/4
			foot := model.Foot{Min: model.Point{X: max(at.X-d, lo.X), Y: max(at.Y-d, lo.Y)}, Max: model.Point{X: min(at.X+d, lo.X+w), Y: min(at.Y+d, lo.Y+h)}}
			if foot.Min.X < foot.Max.X && foot.Min.Y < foot.Max.Y {
				s.Body.Feet = append(s.Body.Feet, foot)
			}
		}
	}
	if s.Land.Pads[0].Number == "1" && len(s.Land.Pads) > 3 && m.IntN(2) == 0 { // and where its mark is
		one := s.Land.Pads[0].At
		s.Body.Mark = &model.Point{X: one.X * 7 / 10, Y: one.Y * 9 / 10}
		if s.Body.Mark.X < lo.X || s.Body.Mark.Y > lo.Y+h || one.Y < h/4 {
			s.Body.Mark = nil
		}
	}
	s.feet = slices.Clone(s.Body.Feet)
	m.harm(&s)
	return s
}

// harm does one thing to a body, or nothing.
func (m Maker) harm(s *Seat) {
	size := s.True.Size()
	long := max(size.X, size.Y)
	s.Wrong = true
	switch s.What = pick(m, "nothing", "nothing", "turned by 90°", "turned by 270°", "moved", "in inch", "turned by 180°", "under the board", "floating", "of another package", "turned and in inch"); s.What {
	case "nothing":
		s.Wrong = false
	case "turned by 90°":
		s.Body.Place.TurnZ = 90 * model.Degree
	case "turned by 270°":
		s.Body.Place.TurnZ = 270 * model.Degree
	case "turned by 180°":
		s.Body.Place.TurnZ = 180 * model.Degree
		if !s.lopsided && s.Body.Mark == nil && !s.Wanted { // nothing can tell
			s.Body.Place.TurnZ, s.Wrong, s.What = 0, false, "nothing"
		}
	case "moved":
		s.Body.Place.At.X = long/2 + m.mm(50, 400)
	case "in inch", "turned and in inch":
		f := func(l *model.Length) { *l = *l * 10 / 254 }
		for _, p := range []*model.Point3{&s.Body.Box.Min, &s.Body.Box.Max} {
			f(&p.X)
			f(&p.Y)
			f(&p.Z)
		}
		flat := func(p *model.Point) { f(&p.X); f(&p.Y) }
		s.Body.Feet = slices.Clone(s.Body.Feet)
		for i := range s.Body.Feet {
			flat(&s.Body.Feet[i].Min)
			flat(&s.Body.Feet[i].Max)
		}
		if s.Body.Mark != nil {
			flat(s.Body.Mark)
		}
		if s.What == "turned and in inch" {
			s.Body.Place.TurnZ = 90 * model.Degree
		}
	case "under the board":
		s.Body.Place.At.Z = -size.Z
	case "floating":
		s.Body.Place.At.Z = model.MM + m.mm(0, 300)
	case "of another package":
		s.Other = true
		f := pick(m, model.Length(30), model.Length(35), model.Length(300))
		s.Body.Box = model.Box3{Min: model.Point3{X: -size.X * f / 200, Y: -size.Y * f / 200}, Max: model.Point3{X: size.X * f / 200, Y: size.Y * f / 200, Z: size.Z}}
		s.Body.Feet, s.Body.Mark = nil, nil
	}
	if size.X == size.Y && s.Body.Mark == nil && (s.What == "turned by 90°" || s.What == "turned by 270°") { // boxes cannot tell
		s.Body.Place.TurnZ, s.Wrong, s.What = 0, false, "nothing"
	}
}

// Put is where the body lies after what is certain was corrected.
func (s Seat) Put(sits model.Sitting) model.Box3 {
	place := s.Body.Place
	if p, ok := sits.Certain(); ok {
		place = p
	}
	return s.Body.Box.Placed(place)
}

// OnItsLeads says whether what was certain puts the first foot, of a body that is not the same after half a turn, where it belongs.
func (s Seat) OnItsLeads(sits model.Sitting) bool {
	place, ok := sits.Certain()
	if !ok || !s.lopsided || len(s.Body.Feet) == 0 {
		return true
	}
	f, g := s.Body.Feet[0], s.feet[0]
	at := model.Box3{Min: model.Point3{X: f.Min.X, Y: f.Min.Y}, Max: model.Point3{X: f.Max.X, Y: f.Max.Y}}.Placed(place)
	return max(abs(at.Min.X-g.Min.X), abs(at.Max.Y-g.Max.Y)) < s.True.Size().X/10
}

func abs(l model.Length) model.Length { return max(l, -l) }

// Near says whether a box lies where the body belongs: within a tenth of its longest side.
func (s Seat) Near(b model.Box3) bool {
	size := s.True.Size()
	most := max(size.X, size.Y, size.Z) / 10
	off := func(a, b model.Length) bool { return a-b > most || b-a > most }
	for _, p := range [][2]model.Point3{{b.Min, s.True.Min}, {b.Max, s.True.Max}} {
		if off(p[0].X, p[1].X) || off(p[0].Y, p[1].Y) || off(p[0].Z, p[1].Z) {
			return false
		}
	}
	return true
}
