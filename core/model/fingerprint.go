package model

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"math"
	"slices"
	"strings"
)

// Fingerprint tells whether two drawings are the same: what is drawn where, free of the model's name, of the place of its
// origin, of texts and of the order things are written in. Lengths count to the micrometre. Of a symbol the pins' numbers,
// names and types belong to it (two circuits in equal boxes are not one symbol), of a land pattern the pads' numbers.
type Fingerprint [16]byte

// String returns f as hexadecimal text.
func (f Fingerprint) String() string { return hex.EncodeToString(f[:]) }

// record collects what a fingerprint covers: each piece as its own bytes, put in order at the end.
type record struct{ pieces []string }

func (r *record) piece(kind byte, words []string, lengths ...Length) {
	b := make([]byte, 0, 64)
	b = append(b, kind)
	for _, w := range words {
		b = append(b, w...)
		b = append(b, 0)
	}
	for _, l := range lengths {
		b = binary.BigEndian.AppendUint64(b, uint64(micro(l)))
	}
	r.pieces = append(r.pieces, string(b))
}

func (r *record) sum() (f Fingerprint) {
	slices.Sort(r.pieces)
	h := sha256.New()
	var n [4]byte
	for _, p := range r.pieces {
		binary.BigEndian.PutUint32(n[:], uint32(len(p)))
		h.Write(n[:])
		h.Write([]byte(p))
	}
	copy(f[:], h.Sum(nil))
	return f
}

// micro rounds to whole micrometres.
func micro(l Length) int64 { return divRound(int64(l), int64(MM/1000)) }

// Fingerprint of the drawing in c; false where there is none that could be told from others, as of a body (whose file's
// hash tells) or a pin map.
func (c *Content) Fingerprint() (Fingerprint, bool) {
	switch {
	case c.Symbol != nil:
		return c.Symbol.Fingerprint(), true
	case c.Land != nil:
		return c.Land.Fingerprint(), true
	}
	return Fingerprint{}, false
}

// Fingerprint of a symbol. Units are told apart, their order and names are not.
func (s *Symbol) Fingerprint() Fingerprint {
	var r record
	origin := make([]Point, max(len(s.Units), 1)+1)
	for u := range origin {
		var b Box
		for _, p := range s.Pins {
			if p.Unit == u {
				b.Take(p.At)
			}
		}
		if !b.Some && u == 0 && len(s.Units) > 1 {
			continue // graphics common to all units: measured from the drawing's origin
		}
		origin[u] = b.Min
	}
	if len(s.Units) < 2 && len(origin) > 1 { // one unit may be written as 0 or 1
		var b Box
		for _, p := range s.Pins {
			b.Take(p.At)
		}
		origin[0], origin[1] = b.Min, b.Min
	}
	for _, p := range s.Pins {
		o := origin[min(p.Unit, len(origin)-1)]
		hidden := ""
		if p.Hidden {
			hidden = "h"
		}
		r.piece('p', []string{p.Number, p.Label(), p.Type, p.Runs, hidden}, p.At.X-o.X, p.At.Y-o.Y, p.Length)
	}
	for _, g := range s.Shapes {
		shape(&r, g, origin[min(g.Unit, len(origin)-1)])
	}
	return r.sum()
}

// Fingerprint of a land pattern.
func (l *LandPattern) Fingerprint() Fingerprint {
	var r record
	var b Box
	for _, p := range l.Pads {
		b.Take(p.At)
	}
	for _, p := range l.Pads {
		side := ""
		if p.Bottom {
			side = "b"
		}
		if p.Unplated {
			side += "u"
		}
		form, w, h, turn := p.upright()
		r.piece('P', []string{p.Number, form, side}, p.At.X-b.Min.X, p.At.Y-b.Min.Y, w, h, p.Corner, p.Hole, p.Slot, Length(turn)*(MM/1000))
		for _, q := range p.Points {
			r.piece('q', []string{p.Number}, q.X, q.Y)
		}
	}
	for _, g := range l.Shapes {
		shape(&r, g, b.Min)
	}
	return r.sum()
}

// upright returns a pad's shape with quarter turns worked into its sides, so that a rectangle turned by 90° equals the one
// that was drawn lying down.
func (p Pad) upright() (form string, w, h Length, turn Angle) {
	form, w, h, turn = p.Shape, p.Width, p.Height, p.Turn
	if form == PadPolygon {
		return form, w, h, turn
	}
	if form == PadRounded && p.Corner == 0 {
		form = PadRectangle
	}
	if form == PadRound && w != h {
		form = PadOblong
	}
	if form == PadOblong && w == h {
		form = PadRound
	}
	if form == PadRound {
		return form, w, h, 0
	}
	turn %= 180 * Degree
	if turn == 90*Degree {
		w, h, turn = h, w, 0
	}
	return form, w, h, turn
}

// shape records a piece of graphics other than text. The direction in which it was drawn does not matter.
func shape(r *record, g Shape, o Point) {
	if g.Form == Text {
		return
	}
	points := make([]Point, len(g.Points))
	for i, p := range g.Points {
		points[i] = Point{p.X - o.X, p.Y - o.Y}
	}
	switch {
	case g.Form == Rectangle:
		var b Box
		b.Take(points[0])
		b.Take(points[1])
		points[0], points[1] = b.Min, b.Max
	case g.Form == Polygon: // begin at the lowest left corner, run in the direction whose second corner is the lesser
		at := 0
		for i, p := range points {
			if less(p, points[at]) {
				at = i
			}
		}
		points = append(points[at:len(points):len(points)], points[:at]...)
		if less(points[len(points)-1], points[1]) {
			slices.Reverse(points[1:])
		}
	case len(points) > 1 && less(points[len(points)-1], points[0]):
		slices.Reverse(points)
	}
	lengths := []Length{g.Radius}
	for _, p := range points {
		lengths = append(lengths, p.X, p.Y)
	}
	fill := ""
	if g.Filled {
		fill = "f"
	}
	r.piece('g', []string{string(g.Form), string(g.Purpose), fill}, lengths...)
}

func less(a, b Point) bool { return a.X < b.X || a.X == b.X && a.Y < b.Y }

// outline is what near twins share: the numbers of their pads, and nearly the sides of the box of their centres, the longer
// one first. It finds candidates; [Near] decides.
func (l *LandPattern) outline() (numbers string, long, short Length) {
	var c Box
	all := make([]string, len(l.Pads))
	for i, p := range l.Pads {
		c.Take(p.At)
		all[i] = p.Number
	}
	slices.Sort(all)
	return strings.Join(all, "\x00"), max(c.Width(), c.Height()), min(c.Width(), c.Height())
}

// Difference says how two land patterns differ.
type Difference struct {
	Same   bool   `json:"same" doc:"Pads are the same within the tolerance"`
	Turn   Angle  `json:"turn" doc:"How far the other one must be turned to lie on this one"`
	Most   Length `json:"most" doc:"The largest difference of a place or size, mm"`
	Number bool   `json:"numbers" doc:"The pads lie on each other, and carry other numbers"`
}

// Near compares the pads of two land patterns, whatever their origin and turn: the same within tolerance if each pad of one
// has a pad of the other with the same number, place and size.
func Near(a, b *LandPattern, tolerance Length) (d Difference) {
	if len(a.Pads) != len(b.Pads) {
		return d
	}
	centre := func(l *LandPattern) Point {
		var c Box
		for _, p := range l.Pads {
			c.Take(p.At)
		}
		return c.Centre()
	}
	ca, cb := centre(a), centre(b)
	for _, byNumber := range []bool{true, false} {
		for q := range 4 {
			turn := Angle(q) * 90 * Degree
			if most, ok := lies(a, b, ca, cb, turn, tolerance, byNumber); ok {
				return Difference{Same: byNumber, Turn: turn, Most: most, Number: !byNumber}
			}
		}
	}
	return d
}

func lies(a, b *LandPattern, ca, cb Point, turn Angle, tolerance Length, byNumber bool) (most Length, ok bool) {
	taken := make([]bool, len(b.Pads))
	index := map[string][]int{}
	for i, p := range b.Pads {
		key := ""
		if byNumber {
			key = p.Number
		}
		index[key] = append(index[key], i)
	}
	for _, p := range a.Pads {
		at := Point{p.At.X - ca.X, p.At.Y - ca.Y}
		key := ""
		if byNumber {
			key = p.Number
		}
		best, which := Length(math.MaxInt64), -1
		for _, i := range index[key] {
			o := b.Pads[i]
			if taken[i] || o.Hole > 0 != (p.Hole > 0) || o.Bottom != p.Bottom {
				continue
			}
			to := Point{o.At.X - cb.X, o.At.Y - cb.Y}.Turned(turn)
			o.Turn = (o.Turn + turn) % (360 * Degree)
			_, w, h, _ := p.upright()
			_, ow, oh, _ := o.upright()
			if off := max(abs(at.X-to.X), abs(at.Y-to.Y), abs(w-ow), abs(h-oh), abs(p.Hole-o.Hole)); off < best {
				best, which = off, i
			}
		}
		if which < 0 || best > tolerance {
			return 0, false
		}
		taken[which] = true
		most = max(most, best)
	}
	return most, true
}
