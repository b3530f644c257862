package step

import (
	"math"
	"slices"
)

// mark is a point of a face's boundary with the direction in which the loop passes it.
type mark struct{ at, along vec }

// face widens the box by a face: its edges, and where its surface bulges beyond them.
func (r *reader) face(p []value) {
	r.faces++
	_, plane := r.all[param(p, 2).ref].part("PLANE") // of others the edge tells nothing of feet
	own := emptyBox()
	var edge []vec
	takeEdge := func(v vec) {
		r.box.take(v)
		if plane {
			own.take(v)
			edge = append(edge, v)
		}
	}
	sense := param(p, 3).text != "F"
	type passed struct {
		points  []vec
		forward bool
	}
	var edges []passed
	count := map[int]int{}
	var ids []int
	for _, b := range refs(param(p, 1)) {
		be := r.all[b]
		bound, ok := be.part("FACE_BOUND")
		if !ok {
			if bound, ok = be.part("FACE_OUTER_BOUND"); !ok {
				continue
			}
		}
		turned := param(bound, 2).text == "F"
		loop := r.all[param(bound, 1).ref]
		if poly, ok := loop.part("POLY_LOOP"); ok {
			for _, q := range refs(param(poly, 1)) {
				if v, ok := r.point(q); ok {
					takeEdge(v)
				}
			}
			continue
		}
		if v, ok := loop.part("VERTEX_LOOP"); ok {
			if at, ok := r.point(param(v, 1).ref); ok {
				r.box.take(at)
			}
			continue
		}
		el, _ := loop.part("EDGE_LOOP")
		for _, o := range refs(param(el, 1)) {
			oe, ok := r.all[o].part("ORIENTED_EDGE")
			if !ok {
				continue
			}
			id := param(oe, 3).ref
			points := r.edge(id)
			if !r.spend(len(points)) {
				return
			}
			for _, q := range points {
				takeEdge(q)
			}
			count[id]++
			ids = append(ids, id)
			edges = append(edges, passed{points, (param(oe, 4).text != "F") != turned})
		}
	}
	if plane {
		r.level(edge, own)
	}
	// A seam is passed twice and bounds nothing.
	var marks []mark
	for i, e := range edges {
		if count[ids[i]] > 1 || len(e.points) < 2 {
			continue
		}
		q := e.points
		if !e.forward {
			q = slices.Clone(q)
			slices.Reverse(q)
		}
		for k := range q {
			a, b := q[max(k-1, 0)], q[min(k+1, len(q)-1)]
			marks = append(marks, mark{q[k], b.minus(a).unit()})
		}
	}
	r.bulge(param(p, 2).ref, sense, marks, 0)
}

// bulge adds the points where a surface reaches farthest, if they lie within the face.
func (r *reader) bulge(id int, sense bool, marks []mark, depth int) {
	e := r.all[id]
	if e == nil || depth > 3 {
		return
	}
	take := func(c vec, normal func(vec) vec) {
		if !r.box.holds(c) && within(c, marks, sense, normal) {
			r.box.take(c)
		}
	}
	switch {
	case e.name == "SPHERICAL_SURFACE":
		f, ok := r.frame(param(e.params, 1).ref)
		if !ok {
			return
		}
		radius := param(e.params, 2).num * r.scale
		for _, d := range axes {
			take(f.o.plus(d.times(radius)), func(q vec) vec { return q.minus(f.o).unit() })
		}
	case e.name == "TOROIDAL_SURFACE" || e.name == "DEGENERATE_TOROIDAL_SURFACE":
		f, ok := r.frame(param(e.params, 1).ref)
		if !ok {
			return
		}
		major, minor := param(e.params, 2).num*r.scale, param(e.params, 3).num*r.scale
		normal := func(q vec) vec {
			v := q.minus(f.o)
			ring := v.minus(f.z.times(v.dot(f.z))).unit().times(major)
			if near, far := v.minus(ring), v.plus(ring); math.Abs(far.length()-minor) < math.Abs(near.length()-minor) {
				return far.unit().times(-1) // the inner sheet of a torus that crosses itself looks inwards
			}
			return v.minus(ring).unit()
		}
		if take, reach := take, extent(marks); minor > major {
			// Of a torus that crosses itself a face is a dome: what is farther away than the dome is wide is another sheet.
			bulge := func(c vec) bool { return len(marks) > 0 && c.minus(marks[0].at).length() <= reach }
			for _, d := range axes {
				across := d.minus(f.z.times(d.dot(f.z)))
				for _, n := range []vec{across.unit().times(major), across.unit().times(-major)} {
					if c := f.o.plus(n).plus(d.times(minor)); across.length() > 1e-6 && bulge(c) {
						take(c, normal)
					}
				}
			}
			for _, top := range []float64{1, -1} { // where the sheets meet on the axis
				if c := f.o.plus(f.z.times(top * math.Sqrt(minor*minor-major*major))); bulge(c) {
					take(c, normal)
				}
			}
			return
		}
		for _, d := range axes {
			across := d.minus(f.z.times(d.dot(f.z)))
			if across.length() > 1e-6 {
				n := across.unit().times(major)
				take(f.o.plus(n).plus(d.times(minor)), normal)
				take(f.o.minus(n).plus(d.times(minor)), normal)
				continue
			}
			for k := range 32 {
				sin, cos := math.Sincos(float64(k) * math.Pi / 16)
				take(f.o.plus(f.x.times(major*cos)).plus(f.y.times(major*sin)).plus(d.times(minor)), normal)
			}
		}
	case e.name == "RECTANGULAR_TRIMMED_SURFACE":
		r.bulge(param(e.params, 1).ref, sense, marks, depth+1)
	case e.name == "SURFACE_OF_REVOLUTION":
		r.revolution(e.params, take)
	default:
		s, ok := r.bsurface(e)
		switch {
		case ok:
			s.samples(r, take)
		case !ruled[e.name]:
			r.lost(kindOf(e))
		}
	}
}

// ruled are the surfaces that reach no farther than the edges of their faces.
var ruled = map[string]bool{"PLANE": true, "CYLINDRICAL_SURFACE": true, "CONICAL_SURFACE": true, "SURFACE_OF_LINEAR_EXTRUSION": true}

// extent is the diagonal of the box around a boundary.
func extent(marks []mark) float64 {
	b := emptyBox()
	for _, m := range marks {
		b.take(m.at)
	}
	if len(marks) == 0 {
		return 0
	}
	return b.max.minus(b.min).length()
}

var axes = []vec{{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}}

func (r *reader) revolution(p []value, take func(vec, func(vec) vec)) {
	axis, ok := r.all[param(p, 2).ref].part("AXIS1_PLACEMENT")
	if !ok {
		return
	}
	o, ok1 := r.point(param(axis, 1).ref)
	z, ok2 := r.direction(param(axis, 2).ref)
	if !ok1 || !ok2 {
		return
	}
	profile := r.whole(param(p, 1).ref)
	if !r.spend(len(profile) * 64) {
		return
	}
	for i, q := range profile {
		v := q.minus(o)
		up := z.times(v.dot(z))
		out := v.minus(up)
		along := profile[min(i+1, len(profile)-1)].minus(profile[max(i-1, 0)])
		for k := range 64 {
			sin, cos := math.Sincos(float64(k) * math.Pi / 32)
			turn := func(w vec) vec {
				return w.times(cos).plus(z.cross(w).times(sin)).plus(z.times(z.dot(w) * (1 - cos)))
			}
			at := o.plus(up).plus(turn(out))
			take(at, func(vec) vec { return z.cross(turn(out)).cross(turn(along)).unit() })
		}
	}
}

// within says whether a point of the surface lies inside the face: on the left of the loop where the loop passes nearest,
// seen from the side the face looks to (ISO 10303-42, face_bound).
func within(c vec, marks []mark, sense bool, normal func(vec) vec) bool {
	if len(marks) == 0 {
		return true // bounded by seams only: the whole surface
	}
	best := math.Inf(1)
	for _, m := range marks {
		best = math.Min(best, m.at.minus(c).length())
	}
	side := 0.0
	for _, m := range marks { // at a corner two edges are equally near: their sides are weighed together
		if d := c.minus(m.at); d.length() <= best*1.0001+1e-9 {
			n := normal(m.at)
			if !sense {
				n = n.times(-1)
			}
			side += n.cross(m.along).dot(d)
		}
	}
	return side > 0
}
