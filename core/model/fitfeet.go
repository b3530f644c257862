package model

import (
	"cmp"
	"fmt"
	"math"
	"slices"
)

// level says whether a placement leaves a body upright, so that its feet point down.
func (p Placement) level() bool { return p.TurnX == 0 && p.TurnY == 0 }

// placed is a foot where a placement puts it.
func (f Foot) placed(p Placement, z Length) (b Box) {
	for _, c := range []Point{f.Min, f.Max, {f.Min.X, f.Max.Y}, {f.Max.X, f.Min.Y}} {
		at := p.apply(Point3{c.X, c.Y, z})
		b.Take(Point{at.X, at.Y})
	}
	return b
}

// feet are the feet of a body where a placement puts them.
func (b *Body) feet(p Placement) (out []Box) {
	for _, f := range b.Feet {
		out = append(out, f.placed(p, b.Box.Min.Z))
	}
	return out
}

// stands says whether a body stands on the pads: all its feet lie on one, but for one in twenty, and three in four of the pads that carry a number have one.
func (s seat) stands(b *Body, p Placement) bool {
	feet := b.feet(p)
	on, carried, numbered := 0, 0, 0
	under := make([]bool, len(feet))
	for _, pad := range s.land.Pads {
		edge := pad.Bounds()
		has := false
		for i, f := range feet {
			c := f.Centre()
			if c.X >= edge.Min.X && c.X <= edge.Max.X && c.Y >= edge.Min.Y && c.Y <= edge.Max.Y {
				under[i], has = true, true
			}
		}
		if pad.Number != "" {
			numbered++
			if has {
				carried++
			}
		}
	}
	for _, u := range under {
		if u {
			on++
		}
	}
	return numbered > 0 && on*20 >= len(feet)*19 && carried*4 >= numbered*3
}

// standing is what a body's feet tell of how it belongs on the pads.
type standing struct {
	asIs  bool // it stands on the pads as it lies
	one   bool // it stands on them in one way, and not as it lies
	by    Angle
	place Placement
	none  bool // it stands on them in no way, though it has as many feet as they are
}

// sure says whether the feet tell all of how the body belongs in the board's plane.
func (s standing) sure() bool { return s.asIs || s.one }

// standing tries a body in all quarter turns, as it lies and with its feet over the middle of the pads.
func (s seat) standing(b *Body, p Placement) (out standing) {
	if len(b.Feet) < 2 || !p.level() {
		return out
	}
	if out.asIs = s.stands(b, p); out.asIs {
		return out
	}
	numbered := 0
	for _, pad := range s.land.Pads {
		if pad.Number != "" {
			numbered++
		}
	}
	ways := 0
	for q := range 4 {
		by := Angle(q) * 90 * Degree
		way := s.overPads(b, turned(b, p, by))
		if s.stands(b, way) {
			ways++
			out.by, out.place = by, way
		}
	}
	out.one, out.none = ways == 1, ways == 0 && len(b.Feet) == numbered
	return out
}

// overPads moves a body so that the middle of its feet lies over that of the pads.
func (s seat) overPads(b *Body, p Placement) Placement {
	var feet Box
	for _, f := range b.feet(p) {
		feet.TakeBox(f)
	}
	from, to := feet.Centre(), s.pads.Centre()
	p.At.X += to.X - from.X
	p.At.Y += to.Y - from.Y
	return p
}

// pinOne is the middle of the pad that is counted first, where one is numbered so.
func (l *LandPattern) pinOne() (Point, bool) {
	for _, first := range []string{"1", "A1"} {
		for _, p := range l.Pads {
			if p.Number == first {
				return p.At, true
			}
		}
	}
	return Point{}, false
}

// markOff is how far the mark on a body lies from the first pad.
func (b *Body) markOff(p Placement, one Point) float64 {
	at := p.apply(Point3{b.Mark.X, b.Mark.Y, b.Box.Max.Z})
	return math.Hypot(float64(at.X-one.X), float64(at.Y-one.Y))
}

// clearly is by how much one distance has to be the smaller of two to tell.
const clearly = 0.6

// marked is the turn of a body by which its mark lies clearly nearer to the first pad than as it lies, of those turns in which it fits as well: a half turn, and a quarter
// where it is square.
func (s seat) marked(b *Body, p Placement) (way Placing, asIs, then Length, ok bool) {
	one, has := s.land.pinOne()
	if b.Mark == nil || !has || !p.level() {
		return way, 0, 0, false
	}
	box := b.Box.Placed(p)
	size, at := box.Size(), p.apply(Point3{b.Mark.X, b.Mark.Y, b.Box.Max.Z})
	if abs(2*at.X-box.Min.X-box.Max.X)*5 < 2*size.X || abs(2*at.Y-box.Min.Y-box.Max.Y)*5 < 2*size.Y { // it does not lie towards a corner
		return way, 0, 0, false
	}
	square := math.Abs(math.Log(float64(size.X)/float64(size.Y))) < 0.03
	now := b.markOff(p, one)
	best := now
	for q := 1; q < 4; q++ {
		by := Angle(q) * 90 * Degree
		to := turned(b, p, by)
		if q != 2 && !square || len(b.Feet) > 1 && s.stands(b, p) && !s.stands(b, to) {
			continue
		}
		if off := b.markOff(to, one); off < best {
			best, way = off, Placing{What: fmt.Sprintf("turn it by %s°", by), Place: to}
		}
	}
	return way, Length(now), Length(best), best < clearly*now
}

// markedFirst puts the placing first by which the mark on a body lies nearest to the first pad, and says so, where that is clear.
func (s seat) markedFirst(b *Body, asked []Placing) {
	one, has := s.land.pinOne()
	if b.Mark == nil || !has || len(asked) < 2 {
		return
	}
	off := func(p Placing) float64 { return b.markOff(p.Place, one) }
	slices.SortStableFunc(asked, func(x, y Placing) int { return cmp.Compare(off(x), off(y)) })
	if off(asked[0]) < clearly*off(asked[1]) {
		asked[0].What += ": its mark then lies at pad 1"
	}
}
