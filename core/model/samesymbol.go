package model

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// Compare says how b differs from a, both of one kind: land patterns as [Near] does, symbols by their pins and then by what is drawn.
func Compare(a, b *Content, tolerance Length) Difference {
	switch {
	case a.Symbol != nil && b.Symbol != nil:
		return nearSymbols(a.Symbol, b.Symbol)
	case a.Land != nil && b.Land != nil:
		return Near(a.Land, b.Land, tolerance)
	}
	return Difference{}
}

// nearSymbols compares two symbols. They are near where they have the same pins: numbers, names, types, and the units they lie on; their
// places and what is drawn around them may differ, which What says.
func nearSymbols(a, b *Symbol) (d Difference) {
	if len(a.Pins) != len(b.Pins) || max(len(a.Units), 1) != max(len(b.Units), 1) {
		return d
	}
	type pin struct {
		unit                int
		number, label, kind string
		hidden              bool
	}
	there := map[pin][]Pin{}
	for _, p := range b.Pins {
		k := pin{b.unitOf(p), p.Number, p.Label(), p.Type, p.Hidden}
		there[k] = append(there[k], p)
	}
	var moved, drawn []string
	for _, p := range a.Pins {
		k := pin{a.unitOf(p), p.Number, p.Label(), p.Type, p.Hidden}
		at := slices.IndexFunc(there[k], func(q Pin) bool { return apart(p.At, q.At) <= sameWithin && p.Runs == q.Runs })
		if len(there[k]) == 0 {
			return d
		}
		if at < 0 {
			at = 0
			moved = append(moved, p.Number)
			d.Most = max(d.Most, apart(p.At, there[k][0].At))
		} else if abs(p.Length-there[k][at].Length) > sameWithin {
			drawn = append(drawn, p.Number)
		}
		there[k] = slices.Delete(slices.Clone(there[k]), at, at+1)
	}
	d.Near = true
	if len(moved) > 0 {
		d.What = append(d.What, fmt.Sprintf("%s at other places or run otherwise: %s", count(len(moved), "pin is", "pins are"), list(moved)))
	}
	if len(drawn) > 0 {
		d.What = append(d.What, fmt.Sprintf("%s of another length: %s", count(len(drawn), "pin is", "pins are"), list(drawn)))
	}
	alike := sameGraphics(a, b)
	if !alike && !slices.ContainsFunc(a.Pins, func(p Pin) bool { return p.Label() != "" }) {
		return Difference{} // without a name on any pin, what is drawn is all that tells one symbol from another
	}
	if !alike {
		d.What = append(d.What, "it is drawn otherwise")
	}
	d.Same = len(d.What) == 0
	return d
}

func apart(a, b Point) Length { return max(abs(a.X-b.X), abs(a.Y-b.Y)) }

// sameGraphics compares what is drawn but for texts, whatever its order and the direction in which each piece was drawn.
func sameGraphics(a, b *Symbol) bool {
	drawn := func(s *Symbol) map[string][]Shape {
		out := map[string][]Shape{}
		for _, g := range s.Shapes {
			if g.Form == Text {
				continue
			}
			units := []int{g.Unit}
			switch {
			case len(s.Units) < 2:
				units = []int{0}
			case g.Unit == 0: // drawn in each
				units = units[:0]
				for u := range s.Units {
					units = append(units, u+1)
				}
			}
			for _, u := range units {
				k := fmt.Sprint(g.Form, g.Purpose, u, g.Filled, len(g.Points))
				out[k] = append(out[k], g)
			}
		}
		return out
	}
	x, y := drawn(a), drawn(b)
	if len(x) != len(y) {
		return false
	}
	for k, all := range x {
		left := slices.Clone(y[k])
		if len(left) != len(all) {
			return false
		}
		for _, g := range all {
			at := slices.IndexFunc(left, g.sameAs)
			if at < 0 {
				return false
			}
			left = slices.Delete(left, at, at+1)
		}
	}
	return true
}

// sameAs says whether two pieces of one form draw the same line. Its width does not count.
func (s Shape) sameAs(o Shape) bool {
	if abs(s.Radius-o.Radius) > sameWithin {
		return false
	}
	switch s.Form {
	case Polygon:
		off, ok := cyclic(s.Points, o.Points)
		return ok && off <= sameWithin
	case Rectangle:
		var a, b Box
		for i := range s.Points {
			a.Take(s.Points[i])
			b.Take(o.Points[i])
		}
		return apart(a.Min, b.Min) <= sameWithin && apart(a.Max, b.Max) <= sameWithin
	case Arc:
		p, q := halved(s.Points), halved(o.Points)
		return along(p, q) || along(p, []Point{q[2], q[1], q[0]})
	}
	back := slices.Clone(o.Points)
	slices.Reverse(back)
	return along(s.Points, o.Points) || along(s.Points, back)
}

func along(a, b []Point) bool {
	for i := range a {
		if apart(a[i], b[i]) > sameWithin {
			return false
		}
	}
	return true
}

// halved is an arc with its middle point half-way along it.
func halved(p []Point) []Point {
	c, r, ok := arcCentre(p)
	if !ok {
		return []Point{p[0], {(p[0].X + p[2].X) / 2, (p[0].Y + p[2].Y) / 2}, p[2]}
	}
	from, to := arcAngles(p, c)
	sin, cos := math.Sincos((from + to) / 2)
	return []Point{p[0], {Length(math.Round(c[0] + r*cos)), Length(math.Round(c[1] + r*sin))}, p[2]}
}

// How says in one phrase of a list how a near model differs: "has the same pads, but it is turned by 90°".
func (d Difference) How(kind Kind) string {
	what := "has the same pads"
	if kind == KindSymbol {
		what = "has the same pins"
	}
	switch {
	case d.Same:
		return "is the same"
	case !d.Near:
		return ""
	}
	return what + ", but " + strings.Join(d.What, "; ")
}
