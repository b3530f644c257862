package step

import (
	"math"
	"slices"
)

// edge returns points along an EDGE_CURVE from its first to its second vertex, its farthest points among them.
func (r *reader) edge(id int) []vec {
	e, ok := r.all[id].part("EDGE_CURVE")
	a, okA := r.point(param(e, 1).ref)
	b, okB := r.point(param(e, 2).ref)
	if !ok || !okA || !okB {
		r.lost("an edge without its ends")
		return nil
	}
	return r.curve(param(e, 3).ref, a, b, param(e, 4).text != "F", 0)
}

// curve returns points of a curve between two of its points. sense: from a to b in the curve's own direction.
func (r *reader) curve(id int, a, b vec, sense bool, depth int) []vec {
	e := r.all[id]
	if e == nil || depth > 6 {
		return []vec{a, b}
	}
	switch e.name {
	case "SURFACE_CURVE", "SEAM_CURVE", "INTERSECTION_CURVE", "TRIMMED_CURVE":
		return r.curve(param(e.params, 1).ref, a, b, sense, depth+1)
	case "CIRCLE", "ELLIPSE":
		f, ok := r.frame(param(e.params, 1).ref)
		if !ok {
			return []vec{a, b}
		}
		ra := param(e.params, 2).num * r.scale
		rb := ra
		if e.name == "ELLIPSE" {
			rb = param(e.params, 3).num * r.scale
		}
		if !(ra > 0 && rb > 0) {
			return []vec{a, b}
		}
		return ellipse(f, ra, rb, a, b, sense)
	case "POLYLINE":
		return r.between(r.whole(id), a, b, sense)
	}
	if c, ok := r.bcurve(e); ok {
		return r.between(c.samples(r), a, b, sense)
	}
	if e.name != "LINE" {
		r.lost(kindOf(e))
	}
	return []vec{a, b}
}

// kindOf names an entity: that of a complex one by its last part.
func kindOf(e *entity) string {
	if e.name == "" && len(e.parts) > 0 {
		return e.parts[len(e.parts)-1].name
	}
	return e.name
}

// whole returns points along a whole curve, without ends.
func (r *reader) whole(id int) []vec {
	e := r.all[id]
	if e == nil {
		return nil
	}
	switch e.name {
	case "POLYLINE":
		var out []vec
		for _, q := range refs(param(e.params, 1)) {
			if v, ok := r.point(q); ok {
				out = append(out, v)
			}
		}
		return out
	case "CIRCLE":
		if f, ok := r.frame(param(e.params, 1).ref); ok {
			ra := param(e.params, 2).num * r.scale
			a := f.o.plus(f.x.times(ra))
			return ellipse(f, ra, ra, a, a, true)
		}
	}
	if c, ok := r.bcurve(e); ok {
		return c.samples(r)
	}
	return nil
}

// ellipse returns points along an arc, its extreme points exactly.
func ellipse(f motion, ra, rb float64, a, b vec, sense bool) []vec {
	angle := func(p vec) float64 {
		v := p.minus(f.o)
		return math.Atan2(v.dot(f.y)/rb, v.dot(f.x)/ra)
	}
	from, to := angle(a), angle(b)
	if !sense {
		from, to = to, from
	}
	if a.minus(b).length() < 1e-7*(1+ra) || to <= from {
		to += 2 * math.Pi
	}
	at := func(t float64) vec {
		sin, cos := math.Sincos(t)
		return f.o.plus(f.x.times(ra * cos)).plus(f.y.times(rb * sin))
	}
	var ts []float64
	const n = 24
	for i := range n + 1 {
		ts = append(ts, from+(to-from)*float64(i)/n)
	}
	for i := range 3 {
		top := math.Atan2(rb*f.y[i], ra*f.x[i])
		for k := -4; k <= 4; k++ {
			if t := top + float64(k)*math.Pi; t > from && t < to {
				ts = append(ts, t)
			}
		}
	}
	slices.Sort(ts)
	out := make([]vec, len(ts))
	for i, t := range ts {
		out[i] = at(t)
	}
	if !sense {
		slices.Reverse(out)
	}
	out[0], out[len(out)-1] = a, b
	return out
}

// between cuts samples of a curve to the stretch from a to b.
func (r *reader) between(all []vec, a, b vec, sense bool) []vec {
	if len(all) < 2 {
		return []vec{a, b}
	}
	if !sense {
		all = slices.Clone(all)
		slices.Reverse(all)
	}
	near := func(p vec, last bool) int {
		best, at := math.Inf(1), 0
		for i, q := range all {
			if d := q.minus(p).length(); d < best-1e-9 || last && d <= best+1e-9 {
				best, at = d, i
			}
		}
		return at
	}
	if a.minus(b).length() < 1e-7 && all[0].minus(all[len(all)-1]).length() < 1e-4 {
		return all
	}
	i, j := near(a, false), near(b, true)
	out := []vec{a}
	switch {
	case i < j:
		out = append(out, all[i+1:j]...)
	case i > j && all[0].minus(all[len(all)-1]).length() < 1e-4: // the stretch passes the closing point
		out = append(append(out, all[i+1:]...), all[:j]...)
	}
	return append(out, b)
}

// bspline is a B-spline curve; weights are all one where it is not rational.
type bspline struct {
	degree  int
	points  []vec
	weights []float64
	knots   []float64
}

func numbers(v value) (out []float64) {
	for _, l := range v.list {
		out = append(out, l.num)
	}
	return out
}

// knotsOf unfolds multiplicities; knots of a quasi-uniform or Bézier form are made where none are given.
func knotsOf(mult, knots []float64, degree, n int) ([]float64, bool) {
	var out []float64
	for i, m := range mult {
		if i < len(knots) && m >= 1 && m <= 64 {
			for range int(m) {
				out = append(out, knots[i])
			}
		}
	}
	if len(mult) == 0 {
		for i := range n + degree + 1 {
			out = append(out, math.Min(math.Max(float64(i-degree), 0), float64(n-degree)))
		}
	}
	return out, len(out) == n+degree+1 && slices.IsSorted(out) && out[degree] < out[n]
}

func (r *reader) bcurve(e *entity) (c bspline, ok bool) {
	var mult, knots []float64
	var points value
	if p, simple := e.part("B_SPLINE_CURVE_WITH_KNOTS"); simple && e.name != "" {
		c.degree, points, mult, knots = int(param(p, 1).num), param(p, 2), numbers(param(p, 6)), numbers(param(p, 7))
	} else if p, there := e.part("B_SPLINE_CURVE"); there && e.name == "" {
		c.degree, points = int(param(p, 0).num), param(p, 1)
		if k, there := e.part("B_SPLINE_CURVE_WITH_KNOTS"); there {
			mult, knots = numbers(param(k, 0)), numbers(param(k, 1))
		}
		if w, there := e.part("RATIONAL_B_SPLINE_CURVE"); there {
			c.weights = numbers(param(w, 0))
		}
	} else if e.name == "QUASI_UNIFORM_CURVE" || e.name == "BEZIER_CURVE" || e.name == "UNIFORM_CURVE" {
		c.degree, points = int(param(e.params, 1).num), param(e.params, 2)
	} else {
		return c, false
	}
	for _, id := range refs(points) {
		if v, ok := r.point(id); ok {
			c.points = append(c.points, v)
		}
	}
	if c.degree < 1 || c.degree > 25 || len(c.points) <= c.degree {
		return c, false
	}
	if len(c.weights) != len(c.points) {
		c.weights = nil
	}
	c.knots, ok = knotsOf(mult, knots, c.degree, len(c.points))
	return c, ok
}

// basis returns the span of t and the values of the degree+1 basis functions there (Cox and de Boor).
func basis(knots []float64, degree, n int, t float64) (span int, out []float64) {
	span = degree
	for span < n-1 && t >= knots[span+1] {
		span++
	}
	out = make([]float64, degree+1)
	out[0] = 1
	for d := 1; d <= degree; d++ {
		saved := 0.0
		for i := range d {
			lo, hi := knots[span+1-d+i], knots[span+1+i]
			f := 0.0
			if hi > lo {
				f = out[i] / (hi - lo)
			}
			out[i], saved = saved+(hi-t)*f, (t-lo)*f
		}
		out[d] = saved
	}
	return span, out
}

func (c *bspline) at(t float64) vec {
	span, b := basis(c.knots, c.degree, len(c.points), t)
	var sum vec
	w := 0.0
	for i, f := range b {
		k := span - c.degree + i
		if c.weights != nil {
			f *= c.weights[k]
		}
		sum, w = sum.plus(c.points[k].times(f)), w+f
	}
	if w == 0 {
		return c.points[span]
	}
	return sum.times(1 / w)
}

// samples walks the curve in steps of 1/16 of a span and finds its extreme points between them.
func (c *bspline) samples(r *reader) []vec {
	var ts []float64
	for i := c.degree; i < len(c.points); i++ {
		if a, b := c.knots[i], c.knots[i+1]; b > a {
			for k := range 16 {
				ts = append(ts, a+(b-a)*float64(k)/16)
			}
		}
	}
	ts = append(ts, c.knots[len(c.points)])
	if !r.spend(len(ts) * (c.degree + 1)) {
		return nil
	}
	at := make([]vec, len(ts))
	for i, t := range ts {
		at[i] = c.at(t)
	}
	var more []float64
	for axis := range 3 {
		for _, sign := range []float64{1, -1} {
			best := 0
			for i := range at {
				if sign*at[i][axis] > sign*at[best][axis] {
					best = i
				}
			}
			lo, hi := ts[max(best-1, 0)], ts[min(best+1, len(ts)-1)]
			for range 40 {
				a, b := lo+(hi-lo)/3, hi-(hi-lo)/3
				if sign*c.at(a)[axis] > sign*c.at(b)[axis] {
					hi = b
				} else {
					lo = a
				}
			}
			more = append(more, (lo+hi)/2)
		}
	}
	ts = append(ts, more...)
	slices.Sort(ts)
	out := make([]vec, len(ts))
	for i, t := range ts {
		out[i] = c.at(t)
	}
	return out
}
