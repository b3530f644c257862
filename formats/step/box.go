package step

import (
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strings"

	"jollydrawer/core/model"
)

// Solid is what a library knows of a STEP file.
type Solid struct {
	Box  model.Box3
	Unit string // of length, as the file states it: "mm", "inch", …
	Name string // of the product
	// Feet are the level faces that the body stands on, Mark the one round place near its top that is off its middle, as beside pin 1.
	Feet []model.Foot
	Mark *model.Point
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
	if why := r.unmeasuredWords(); why != "" {
		return s, fmt.Errorf("%s: how large the body is cannot be told", why)
	}
	if r.faces == 0 || r.box.min[0] > r.box.max[0] {
		return s, fmt.Errorf("there is no solid in the file whose faces can be read")
	}
	for i := range 3 {
		if !(r.box.min[i] > -1e4 && r.box.max[i] < 1e4) {
			return s, fmt.Errorf("the body reaches farther than 2 m from its origin")
		}
	}
	at := func(v vec) model.Point3 { return model.Point3{X: tenth(v[0]), Y: tenth(v[1]), Z: tenth(v[2])} }
	s.Box = model.Box3{Min: at(r.box.min), Max: at(r.box.max)}
	s.Feet, s.Mark = r.feet(), r.mark()
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
	flats []flat
	steps int
	err   error
	// unmeasured counts what has a size that is not worked out here, by kind.
	unmeasured map[string]int
	reps       map[int][]value
}

// lost notes something whose size is not worked out.
func (r *reader) lost(kind string) {
	if r.unmeasured == nil {
		r.unmeasured = map[string]int{}
	}
	r.unmeasured[kind]++
}

func (r *reader) unmeasuredWords() string {
	var all []string
	for kind, n := range r.unmeasured {
		all = append(all, fmt.Sprintf("%d × %s", n, strings.Map(func(c rune) rune {
			if c < ' ' || c > '~' {
				return '?'
			}
			return c
		}, kind)))
	}
	if len(all) == 0 {
		return ""
	}
	slices.Sort(all)
	return "the file holds what is not measured here (" + strings.Join(all[:min(len(all), 5)], ", ") + ")"
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

// link is a representation that another one places.
type link struct {
	child int
	move  motion
}

// roots walks the representations that no other one places, with all that is placed in them.
func (r *reader) roots(unit func(string)) {
	r.reps = map[int][]value{}
	for id, e := range r.all {
		if representations[e.name] && len(e.params) >= 2 {
			r.reps[id] = e.params
		}
	}
	same, children, placed := map[int][]int{}, map[int][]link{}, map[int]bool{}
	parts := r.usage()
	for id, e := range r.all {
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
		child, parent := one, two
		m, ok := r.transformation(param(t, 0).ref, one, two)
		if !ok {
			r.lost("a placement in an assembly")
			continue
		}
		if parts.assembled(id, one) && !parts.assembled(id, two) { // the assembly is named first
			child, parent, m = two, one, m.inverse()
		}
		children[parent], placed[child] = append(children[parent], link{child, m}), true
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
	w := walker{same: same, children: children, path: map[int]bool{}, done: map[int]bool{}}
	ids := slices.Sorted(maps.Keys(r.reps))
	for _, id := range ids {
		if placed[id] || w.done[id] {
			continue
		}
		if _, name, ok := r.unit(r.reps[id]); ok {
			unit(name)
		}
		r.representation(id, still, 1, w)
	}
}

// assemblies says of each relationship between representations which product definition is the assembly in it, and of each
// representation whose shape it is.
type assemblies struct{ whole, shape map[int]int }

// assembled says whether a representation is the shape of the assembly in a relationship.
func (a assemblies) assembled(relationship, rep int) bool {
	whole, ok := a.whole[relationship]
	return ok && a.shape[rep] == whole
}

// usage reads which representation of a relationship is that of the assembly (ISO 10303-44, next_assembly_usage_occurrence): the order in
// which the two are named does not tell.
func (r *reader) usage() assemblies {
	out := assemblies{map[int]int{}, map[int]int{}}
	for _, e := range r.all {
		switch e.name {
		case "SHAPE_DEFINITION_REPRESENTATION":
			if d, ok := r.all[param(e.params, 0).ref].part("PRODUCT_DEFINITION_SHAPE"); ok {
				out.shape[param(e.params, 1).ref] = param(d, 2).ref
			}
		case "CONTEXT_DEPENDENT_SHAPE_REPRESENTATION":
			d, ok := r.all[param(e.params, 1).ref].part("PRODUCT_DEFINITION_SHAPE")
			if !ok {
				continue
			}
			if u, ok := r.all[param(d, 2).ref].part("NEXT_ASSEMBLY_USAGE_OCCURRENCE"); ok {
				out.whole[param(e.params, 0).ref] = param(u, 3).ref
			}
		}
	}
	return out
}

// walker is how representations hang together, and which of them were walked.
type walker struct {
	same     map[int][]int
	children map[int][]link
	path     map[int]bool
	done     map[int]bool
}

// representation adds what a representation holds, moved, and larger by zoom.
func (r *reader) representation(id int, m motion, zoom float64, w walker) {
	if w.path[id] || len(w.path) > 40 || !r.spend(50) { // each use of a solid costs more than a point does
		return
	}
	w.path[id], w.done[id] = true, true
	defer delete(w.path, id)
	if p, ok := r.reps[id]; ok {
		scale, _, known := r.unit(p)
		r.scale = scale * zoom
		for _, item := range refs(param(p, 1)) {
			r.move = m
			before := r.faces
			r.item(item, func(rep int, inner motion, larger float64) {
				r.representation(rep, m.then(inner), zoom*larger, w)
			}, 0)
			if e := r.all[item]; r.faces > before && !known && e != nil && e.name != "MAPPED_ITEM" {
				r.lost("a shape without a unit of length")
			}
		}
	}
	for _, o := range w.same[id] {
		r.representation(o, m, zoom, w)
	}
	for _, c := range w.children[id] {
		c.move.o = c.move.o.times(zoom)
		r.representation(c.child, m.then(c.move), zoom, w)
	}
}

// unit returns millimetres per unit of length of a representation's context; false where it states none.
func (r *reader) unit(rep []value) (float64, string, bool) {
	p, ok := r.all[param(rep, 2).ref].part("GLOBAL_UNIT_ASSIGNED_CONTEXT")
	if !ok {
		return 1, "", false
	}
	for _, u := range refs(param(p, 0)) {
		if _, ok := r.all[u].part("LENGTH_UNIT"); ok {
			return r.lengthUnit(u, 0)
		}
	}
	return 1, "", false
}

var prefixes = map[string]float64{"MILLI": 1, "CENTI": 10, "DECI": 100, "MICRO": 1e-3, "NANO": 1e-6, "": 1000, "KILO": 1e6}

func (r *reader) lengthUnit(id, depth int) (float64, string, bool) {
	e := r.all[id]
	if p, ok := e.part("SI_UNIT"); ok {
		f, ok := prefixes[param(p, 0).text]
		name := map[string]string{"MILLI": "mm", "": "m", "MICRO": "µm", "CENTI": "cm"}[param(p, 0).text]
		return f, name, ok
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
		f, _, known := r.lengthUnit(param(m, 1).ref, depth+1)
		if n > 0 && f > 0 && known {
			return n * f, strings.ToLower(param(p, 0).text), true
		}
	}
	return 1, "", false
}

// transformation reads an ITEM_DEFINED_TRANSFORMATION between two representations: what brings its first placement, which stands in the
// first of them and in its unit, onto its second. Where a file names the placements the other way round, the lists of the
// representations tell.
func (r *reader) transformation(id, one, two int) (motion, bool) {
	p, ok := r.all[id].part("ITEM_DEFINED_TRANSFORMATION")
	if !ok {
		return still, false
	}
	first, second := param(p, 2).ref, param(p, 3).ref
	in := func(rep, item int) bool { return slices.Contains(refs(param(r.reps[rep], 1)), item) }
	if in(one, second) && in(two, first) && !in(one, first) {
		first, second = second, first
	}
	r.move = still
	at := func(rep, item int) (motion, bool) {
		r.scale, _, _ = r.unit(r.reps[rep])
		return r.frame(item)
	}
	a, okA := at(one, first)
	b, okB := at(two, second)
	if !okA || !okB {
		return still, false
	}
	return b.then(a.inverse()), true
}

// operator reads what a mapped item is put to: a placement, or an operator that may enlarge or mirror as well (ISO 10303-42,
// cartesian_transformation_operator_3d).
func (r *reader) operator(id int) (m motion, larger float64, ok bool) {
	p, is := r.all[id].part("CARTESIAN_TRANSFORMATION_OPERATOR_3D")
	if !is {
		m, ok = r.frame(id)
		return m, 1, ok
	}
	if _, uneven := r.all[id].part("CARTESIAN_TRANSFORMATION_OPERATOR_3D_NON_UNIFORM"); uneven {
		return m, 1, false
	}
	// Its last five are axis 1, axis 2, origin, scale and axis 3, whatever names stand before them; a complex entity spreads them.
	if base, complex := r.all[id].part("CARTESIAN_TRANSFORMATION_OPERATOR"); complex && len(base) >= 4 && len(p) > 0 {
		p = append(slices.Clone(base[len(base)-4:]), p[len(p)-1])
	}
	if len(p) < 5 {
		return m, 1, false
	}
	p = p[len(p)-5:]
	o, ok := r.point(param(p, 2).ref)
	if !ok {
		return m, 1, false
	}
	larger = 1
	if v := param(p, 3); v.kind == 'n' {
		larger = v.num
	}
	if larger <= 0 {
		return m, 1, false
	}
	axis := func(i int, otherwise vec) vec {
		if d, ok := r.direction(param(p, i).ref); ok {
			return d
		}
		return otherwise
	}
	z := axis(4, vec{0, 0, 1})
	x := axis(0, vec{1, 0, 0})
	x = x.minus(z.times(x.dot(z)))
	if x.length() < 1e-9 {
		return m, 1, false
	}
	x = x.unit()
	y := z.cross(x)
	if d, ok := r.direction(param(p, 1).ref); ok && d.dot(y) < 0 {
		y = y.times(-1) // mirrored
	}
	return motion{x: x, y: y, z: z, o: o}, larger, true
}

// item adds what a representation holds. into is called for what a mapped item places.
func (r *reader) item(id int, into func(int, motion, float64), depth int) {
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
		was, scale := r.move, r.scale
		r.move = still
		target, larger, ok2 := r.operator(param(p, 2).ref)
		mapped := param(m, 1).ref
		if inner, _, known := r.unit(r.reps[mapped]); known { // the origin of what is mapped is in its own unit
			r.scale = inner
		}
		origin, ok1 := r.frame(param(m, 0).ref)
		r.move, r.scale = was, scale
		if !ok1 || !ok2 {
			r.lost("MAPPED_ITEM")
			return
		}
		back := origin.inverse()
		back.o = back.o.times(larger)
		into(mapped, target.then(back), larger)
		r.move, r.scale = was, scale
	default:
		if shaped.MatchString(e.name) {
			r.lost(e.name)
		}
	}
}

// shaped are the names of items that have a size: solids, surfaces and what they are made of.
var shaped = regexp.MustCompile(`SOLID|BREP|SHELL|FACE|SURFACE|CSG|BOOLEAN|HALF_SPACE|TESSELLATED|^(BLOCK|SPHERE|TORUS|WEDGE|RIGHT_.*)$`)

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
