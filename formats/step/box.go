package step

import (
	"fmt"
	"math"
	"strings"

	"jollydrawer/core/model"
)

// Solid is what a library knows of a STEP file.
type Solid struct {
	Box  model.Box3
	Unit string // of length, as the file states it: "mm", "inch", …
	Name string // of the product
}

// Read finds the bounding box of all solids and surfaces of the file, each placed as its assemblies say. Edges count with
// their true curves, spheres and tori with their bulges, B-spline surfaces by samples of 1/32 of a span.
func Read(raw []byte) (Solid, error) {
	if !Is(raw) {
		return Solid{}, fmt.Errorf("it does not begin with ISO-10303-21")
	}
	if len(raw) > MaxBytes {
		return Solid{}, fmt.Errorf("the file has %d MB; at most %d MB are read", len(raw)>>20, MaxBytes>>20)
	}
	all, err := parse(raw)
	if err != nil {
		return Solid{}, err
	}
	r := &reader{all: all, scale: 1, box: emptyBox()}
	s := Solid{Unit: "mm"}
	for _, e := range all {
		if p, ok := e.part("PRODUCT"); ok && len(p) > 1 && (s.Name == "" || p[1].text < s.Name) {
			s.Name = p[1].text
		}
	}
	r.roots(func(unit string) { s.Unit = unit })
	if r.err != nil {
		return s, r.err
	}
	if r.faces == 0 || r.box.min[0] > r.box.max[0] {
		return s, fmt.Errorf("there is no solid in the file whose faces can be read")
	}
	for i := range 3 {
		if !(r.box.min[i] > -1e4 && r.box.max[i] < 1e4) {
			return s, fmt.Errorf("the body reaches farther than 2 m from its origin")
		}
	}
	at := func(v vec) model.Point3 {
		f := func(x float64) model.Length { // to a tenth of a micrometre: the geometry is no finer
			return model.Length(math.Round(x*10_000)) * (model.MM / 10_000)
		}
		return model.Point3{X: f(v[0]), Y: f(v[1]), Z: f(v[2])}
	}
	s.Box = model.Box3{Min: at(r.box.min), Max: at(r.box.max)}
	return s, nil
}

type box struct{ min, max vec }

func emptyBox() box {
	i := math.Inf(1)
	return box{vec{i, i, i}, vec{-i, -i, -i}}
}

func (b *box) take(p vec) {
	for i := range 3 {
		b.min[i], b.max[i] = math.Min(b.min[i], p[i]), math.Max(b.max[i], p[i])
	}
}

func (b *box) holds(p vec) bool {
	for i := range 3 {
		if p[i] < b.min[i]-1e-7 || p[i] > b.max[i]+1e-7 {
			return false
		}
	}
	return true
}

type reader struct {
	all   map[int]*entity
	scale float64 // of the file's unit, in mm
	move  motion
	box   box
	faces int
	steps int
	err   error
}

// maxSteps bounds the work on one file: assemblies may use one solid very often.
const maxSteps = 20_000_000

func (r *reader) spend(n int) bool {
	if r.steps += n; r.steps > maxSteps && r.err == nil {
		r.err = fmt.Errorf("the file is too large to be measured: its assemblies unfold to more than %d points", maxSteps)
	}
	return r.err == nil
}

func refs(v value) (out []int) {
	for _, l := range v.list {
		if l.kind == '#' {
			out = append(out, l.ref)
		}
	}
	return out
}

func param(p []value, i int) value {
	if i < len(p) {
		return p[i]
	}
	return value{}
}

// representations are the entities that hold shapes.
var representations = map[string]bool{"SHAPE_REPRESENTATION": true, "ADVANCED_BREP_SHAPE_REPRESENTATION": true, "MANIFOLD_SURFACE_SHAPE_REPRESENTATION": true,
	"FACETED_BREP_SHAPE_REPRESENTATION": true, "TESSELLATED_SHAPE_REPRESENTATION": true, "GEOMETRICALLY_BOUNDED_SURFACE_SHAPE_REPRESENTATION": true,
	"CSG_SHAPE_REPRESENTATION": true, "REPRESENTATION": true}

type link struct {
	child int
	move  motion
}

// roots walks the representations that no other one places, with all that is placed in them.
func (r *reader) roots(unit func(string)) {
	reps := map[int][]value{}
	for id, e := range r.all {
		if representations[e.name] && len(e.params) >= 2 {
			reps[id] = e.params
		}
	}
	same, children, placed := map[int][]int{}, map[int][]link{}, map[int]bool{}
	for _, e := range r.all {
		p, ok := e.part("REPRESENTATION_RELATIONSHIP")
		if !ok {
			p, ok = e.part("SHAPE_REPRESENTATION_RELATIONSHIP")
		}
		if !ok || len(p) < 4 {
			continue
		}
		one, two := p[2].ref, p[3].ref
		t, with := e.part("REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION")
		if !with {
			same[one], same[two] = append(same[one], two), append(same[two], one)
			continue
		}
		r.scale, _ = r.unit(reps[one])
		m, ok := r.transformation(param(t, 0).ref)
		if !ok {
			continue
		}
		children[two], placed[one] = append(children[two], link{one, m}), true
	}
	for _, e := range r.all {
		if e.name == "REPRESENTATION_MAP" {
			placed[param(e.params, 1).ref] = true
		}
	}
	// what is equal to something placed is placed as well
	var spread func(int, int)
	spread = func(id, depth int) {
		for _, o := range same[id] {
			if !placed[o] && depth < 50 {
				placed[o] = true
				spread(o, depth+1)
			}
		}
	}
	for id := range placed {
		spread(id, 0)
	}
	done := map[int]bool{}
	for id := range reps {
		if placed[id] || done[id] {
			continue
		}
		r.scale, _ = r.unit(reps[id])
		if _, name := r.unit(reps[id]); name != "" {
			unit(name)
		}
		r.representation(id, still, reps, same, children, map[int]bool{}, done)
	}
}

func (r *reader) representation(id int, m motion, reps map[int][]value, same map[int][]int, children map[int][]link, path map[int]bool, done map[int]bool) {
	if path[id] || len(path) > 40 || !r.spend(50) { // each use of a solid costs more than a point does
		return
	}
	path[id], done[id] = true, true
	defer delete(path, id)
	if p, ok := reps[id]; ok {
		r.scale, _ = r.unit(p)
		for _, item := range refs(param(p, 1)) {
			r.move = m
			r.item(item, func(rep int, inner motion) {
				r.representation(rep, m.then(inner), reps, same, children, path, done)
			}, 0)
		}
	}
	for _, o := range same[id] {
		r.representation(o, m, reps, same, children, path, done)
	}
	for _, c := range children[id] {
		r.representation(c.child, m.then(c.move), reps, same, children, path, done)
	}
}

// unit returns millimetres per unit of length of a representation's context.
func (r *reader) unit(rep []value) (float64, string) {
	p, ok := r.all[param(rep, 2).ref].part("GLOBAL_UNIT_ASSIGNED_CONTEXT")
	if !ok {
		return 1, ""
	}
	for _, u := range refs(param(p, 0)) {
		if _, ok := r.all[u].part("LENGTH_UNIT"); ok {
			return r.lengthUnit(u, 0)
		}
	}
	return 1, ""
}

var prefixes = map[string]float64{"MILLI": 1, "CENTI": 10, "DECI": 100, "MICRO": 1e-3, "NANO": 1e-6, "": 1000, "KILO": 1e6}

func (r *reader) lengthUnit(id, depth int) (float64, string) {
	e := r.all[id]
	if p, ok := e.part("SI_UNIT"); ok {
		f, ok := prefixes[param(p, 0).text]
		if !ok {
			f = 1000
		}
		name := map[string]string{"MILLI": "mm", "": "m", "MICRO": "µm", "CENTI": "cm"}[param(p, 0).text]
		return f, name
	}
	if p, ok := e.part("CONVERSION_BASED_UNIT"); ok && depth < 4 {
		m, ok := r.all[param(p, 1).ref].part("LENGTH_MEASURE_WITH_UNIT")
		if !ok {
			m, _ = r.all[param(p, 1).ref].part("MEASURE_WITH_UNIT")
		}
		v := param(m, 0)
		n := v.num
		if v.kind == 't' {
			n = param(v.list, 0).num
		}
		f, _ := r.lengthUnit(param(m, 1).ref, depth+1)
		if n > 0 && f > 0 {
			return n * f, strings.ToLower(param(p, 0).text)
		}
	}
	return 1, ""
}

// transformation reads an ITEM_DEFINED_TRANSFORMATION: what brings its first placement onto its second.
func (r *reader) transformation(id int) (motion, bool) {
	p, ok := r.all[id].part("ITEM_DEFINED_TRANSFORMATION")
	if !ok {
		return still, false
	}
	r.move = still
	a, okA := r.frame(param(p, 2).ref)
	b, okB := r.frame(param(p, 3).ref)
	if !okA || !okB {
		return still, false
	}
	return b.then(a.inverse()), true
}

// item adds what a representation holds. into is called for what a mapped item places.
func (r *reader) item(id int, into func(int, motion), depth int) {
	e := r.all[id]
	if e == nil || depth > 12 || !r.spend(1) {
		return
	}
	each := func(ids []int) {
		for _, i := range ids {
			r.item(i, into, depth+1)
		}
	}
	p := e.params
	switch e.name {
	case "MANIFOLD_SOLID_BREP", "FACETED_BREP":
		each([]int{param(p, 1).ref})
	case "BREP_WITH_VOIDS":
		each([]int{param(p, 1).ref})
	case "ORIENTED_CLOSED_SHELL", "ORIENTED_OPEN_SHELL":
		each([]int{param(p, 2).ref})
	case "SHELL_BASED_SURFACE_MODEL", "FACE_BASED_SURFACE_MODEL", "CLOSED_SHELL", "OPEN_SHELL", "CONNECTED_FACE_SET", "GEOMETRIC_SET", "GEOMETRIC_CURVE_SET", "TESSELLATED_SHELL", "TESSELLATED_SOLID":
		each(refs(param(p, 1)))
	case "ADVANCED_FACE", "FACE_SURFACE", "FACE":
		r.face(p)
	case "TRIANGULATED_FACE", "COMPLEX_TRIANGULATED_FACE", "TRIANGULATED_SURFACE_SET", "COMPLEX_TRIANGULATED_SURFACE_SET":
		c, _ := r.all[param(p, 1).ref].part("COORDINATES_LIST")
		for _, q := range param(c, 2).list {
			if len(q.list) == 3 && r.spend(1) {
				r.box.take(r.move.point(vec{q.list[0].num * r.scale, q.list[1].num * r.scale, q.list[2].num * r.scale}))
				r.faces++
			}
		}
	case "MAPPED_ITEM":
		m, ok := r.all[param(p, 1).ref].part("REPRESENTATION_MAP")
		if !ok {
			return
		}
		was := r.move
		r.move = still
		origin, ok1 := r.frame(param(m, 0).ref)
		target, ok2 := r.frame(param(p, 2).ref)
		r.move = was
		if ok1 && ok2 {
			scale := r.scale
			into(param(m, 1).ref, target.then(origin.inverse()))
			r.move, r.scale = was, scale
		}
	}
}

// point reads a CARTESIAN_POINT or VERTEX_POINT in the frame of the whole.
func (r *reader) point(id int) (vec, bool) {
	e := r.all[id]
	if v, ok := e.part("VERTEX_POINT"); ok {
		e = r.all[param(v, 1).ref]
	}
	p, ok := e.part("CARTESIAN_POINT")
	l := param(p, 1).list
	if !ok || len(l) != 3 {
		return vec{}, false
	}
	return r.move.point(vec{l[0].num * r.scale, l[1].num * r.scale, l[2].num * r.scale}), true
}

func (r *reader) direction(id int) (vec, bool) {
	p, ok := r.all[id].part("DIRECTION")
	l := param(p, 1).list
	if !ok || len(l) != 3 {
		return vec{}, false
	}
	return r.move.turn(vec{l[0].num, l[1].num, l[2].num}).unit(), true
}

// frame reads an AXIS2_PLACEMENT_3D in the frame of the whole.
func (r *reader) frame(id int) (motion, bool) {
	p, ok := r.all[id].part("AXIS2_PLACEMENT_3D")
	if !ok {
		return still, false
	}
	o, ok := r.point(param(p, 1).ref)
	if !ok {
		return still, false
	}
	z, ok := r.direction(param(p, 2).ref)
	if !ok {
		z = r.move.turn(vec{0, 0, 1})
	}
	x, ok := r.direction(param(p, 3).ref)
	if !ok {
		x = r.move.turn(vec{1, 0, 0})
		if math.Abs(x.dot(z)) > 0.999 {
			x = r.move.turn(vec{0, 1, 0})
		}
	}
	x = x.minus(z.times(x.dot(z)))
	if x.length() < 1e-9 {
		return still, false
	}
	x = x.unit()
	return motion{x: x, y: z.cross(x), z: z, o: o}, true
}
