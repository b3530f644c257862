package formatstest

import (
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/measure/measuretest"
)

// STEP writes entities of a STEP file (ISO 10303-21), in any order at the end.
type STEP struct {
	lines []string
	draws *measuretest.Draws
}

// NewSTEP is the file of a seed, with nothing in it.
func NewSTEP(seed uint64) *STEP {
	return &STEP{draws: &measuretest.Draws{State: (seed + 1) * 0xd1342543de82ef95}}
}

// Put writes an entity and returns its number.
func (b *STEP) Put(form string, args ...any) int {
	b.lines = append(b.lines, fmt.Sprintf("#%d=%s;", len(b.lines)+1, fmt.Sprintf(form, args...)))
	return len(b.lines)
}

// File is the file with its entities in any order.
func (b *STEP) File() []byte {
	lines := slices.Clone(b.lines)
	for i := len(lines) - 1; i > 0; i-- {
		j := b.draws.IntN(i + 1)
		lines[i], lines[j] = lines[j], lines[i]
	}
	return []byte("ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n" + strings.Join(lines, "\n") + "\nENDSEC;\nEND-ISO-10303-21;\n")
}

// Context is a context of lengths in mm, m or inch; in none where the unit is blank.
func (b *STEP) Context(unit string) int {
	u := 0
	switch unit {
	case "mm":
		u = b.Put("(LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT(.MILLI.,.METRE.))")
	case "m":
		u = b.Put("(LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT($,.METRE.))")
	case "inch":
		mm := b.Put("(LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT(.MILLI.,.METRE.))")
		u = b.Put("(CONVERSION_BASED_UNIT('INCH',#%d) LENGTH_UNIT() NAMED_UNIT(*))", b.Put("LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(25.4),#%d)", mm))
	default:
		return b.Put("(GEOMETRIC_REPRESENTATION_CONTEXT(3) REPRESENTATION_CONTEXT('',''))")
	}
	return b.Put("(GEOMETRIC_REPRESENTATION_CONTEXT(3) GLOBAL_UNIT_ASSIGNED_CONTEXT((#%d)) REPRESENTATION_CONTEXT('',''))", u)
}

func num(v float64) string {
	s := fmt.Sprintf("%.9f", v)
	return s
}

// Point is a point.
func (b *STEP) Point(x, y, z float64) int {
	return b.Put("CARTESIAN_POINT('',(%s,%s,%s))", num(x), num(y), num(z))
}

// Direction is a direction.
func (b *STEP) Direction(x, y, z float64) int {
	return b.Put("DIRECTION('',(%s,%s,%s))", num(x), num(y), num(z))
}

// Frame is a placement, turned by quarter turns about Z.
func (b *STEP) Frame(x, y, z float64, quarter int) int {
	c, s := []float64{1, 0, -1, 0}[quarter%4], []float64{0, 1, 0, -1}[quarter%4]
	return b.Put("AXIS2_PLACEMENT_3D('',#%d,#%d,#%d)", b.Point(x, y, z), b.Direction(0, 0, 1), b.Direction(c, s, 0))
}

// Solid is a block from the origin.
func (b *STEP) Solid(x, y, z float64) int {
	var corners [8]int
	for i := range 8 {
		corners[i] = b.Point(x*float64(i&1), y*float64(i>>1&1), z*float64(i>>2&1))
	}
	var faces []string
	for _, f := range [][4]int{{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 4, 6, 2}, {1, 3, 7, 5}} {
		loop := b.Put("POLY_LOOP('',(#%d,#%d,#%d,#%d))", corners[f[0]], corners[f[1]], corners[f[2]], corners[f[3]])
		plane := b.Put("PLANE('',#%d)", b.Frame(0, 0, 0, 0))
		faces = append(faces, fmt.Sprintf("#%d", b.Put("FACE_SURFACE('',(#%d),#%d,.T.)", b.Put("FACE_OUTER_BOUND('',#%d,.T.)", loop), plane)))
	}
	return b.Put("FACETED_BREP('',#%d)", b.Put("CLOSED_SHELL('',(%s))", strings.Join(faces, ",")))
}

// Product is a representation with the product definition whose shape it is.
func (b *STEP) Product(items string, context int) (rep, definition int) {
	rep = b.Put("SHAPE_REPRESENTATION('',(%s),#%d)", items, context)
	definition = b.Put("PRODUCT_DEFINITION('','',$,$)")
	b.Put("SHAPE_DEFINITION_REPRESENTATION(#%d,#%d)", b.Put("PRODUCT_DEFINITION_SHAPE('','',#%d)", definition), rep)
	return rep, definition
}

var perUnit = map[string]float64{"mm": 1, "inch": 25.4, "m": 1000}

// Blocks is a file of blocks, each of three sides at a corner, and of discs, each of a middle and a diameter.
func Blocks(blocks [][6]float64, discs [][4]float64) []byte {
	b := NewSTEP(uint64(len(blocks)*7 + len(discs)))
	mm := b.Context("mm")
	var items []string
	for _, k := range blocks {
		inner := b.Put("SHAPE_REPRESENTATION('',(#%d,#%d),#%d)", b.Frame(0, 0, 0, 0), b.Solid(k[0], k[1], k[2]), mm)
		items = append(items, fmt.Sprintf("#%d", b.Put("MAPPED_ITEM('',#%d,#%d)", b.Put("REPRESENTATION_MAP(#%d,#%d)", b.Frame(0, 0, 0, 0), inner), b.Frame(k[3], k[4], k[5], 0))))
	}
	for _, d := range discs {
		frame := b.Frame(d[0], d[1], d[2], 0)
		v := b.Put("VERTEX_POINT('',#%d)", b.Point(d[0]+d[3]/2, d[1], d[2]))
		edge := b.Put("EDGE_CURVE('',#%d,#%d,#%d,.T.)", v, v, b.Put("CIRCLE('',#%d,%s)", frame, fmt.Sprintf("%.6f", d[3]/2)))
		loop := b.Put("EDGE_LOOP('',(#%d))", b.Put("ORIENTED_EDGE('',*,*,#%d,.T.)", edge))
		face := b.Put("ADVANCED_FACE('',(#%d),#%d,.T.)", b.Put("FACE_OUTER_BOUND('',#%d,.T.)", loop), b.Put("PLANE('',#%d)", frame))
		items = append(items, fmt.Sprintf("#%d", b.Put("SHELL_BASED_SURFACE_MODEL('',(#%d))", b.Put("OPEN_SHELL('',(#%d))", face))))
	}
	b.Product(strings.Join(items, ","), mm)
	return b.File()
}

// Assembly is a file in which an assembly places a block, and the two corners of the block where it lies, mm: whatever unit each is in, which is
// named first, how the entities are ordered, and whether it is placed by a relationship or mapped, enlarged or mirrored.
func (b *STEP) Assembly() (raw []byte, lo, hi [3]float64) {
	units := []string{"mm", "inch", "m"}
	child, parent := units[b.draws.IntN(3)], units[b.draws.IntN(3)]
	size := [3]float64{1 + float64(b.draws.IntN(20)), 1 + float64(b.draws.IntN(20)), 1 + float64(b.draws.IntN(20))} // mm
	at := [3]float64{float64(b.draws.IntN(40) - 20), float64(b.draws.IntN(40) - 20), float64(b.draws.IntN(20))}
	from := [3]float64{float64(b.draws.IntN(5)), float64(b.draws.IntN(5)), 0}
	quarter := b.draws.IntN(4)
	in := func(v [3]float64, unit string) (x, y, z float64) {
		f := perUnit[unit]
		return v[0] / f, v[1] / f, v[2] / f
	}
	larger, mirror := 1.0, false
	cx, cy, cz := in(size, child)
	solid := b.Solid(cx, cy, cz)
	fx, fy, fz := in(from, child)
	tx, ty, tz := in(at, parent)
	cc, pc := b.Context(child), b.Context(parent)
	if b.draws.IntN(2) == 0 { // by a relationship between two representations
		origin, target := b.Frame(fx, fy, fz, 0), b.Frame(tx, ty, tz, quarter)
		part, partDef := b.Product(fmt.Sprintf("#%d,#%d", origin, solid), cc)
		whole, wholeDef := b.Product(fmt.Sprintf("#%d", target), pc)
		one, two, first, second := part, whole, origin, target
		if b.draws.IntN(2) == 0 {
			one, two = two, one
		}
		if b.draws.IntN(2) == 0 == (one == part) || b.draws.IntN(2) == 0 {
			first, second = second, first
		}
		if (one == part) != (first == origin) && b.draws.IntN(2) == 0 { // mostly named as they stand
			first, second = second, first
		}
		move := b.Put("ITEM_DEFINED_TRANSFORMATION('','',#%d,#%d)", first, second)
		rel := b.Put("(REPRESENTATION_RELATIONSHIP('','',#%d,#%d) REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION(#%d) SHAPE_REPRESENTATION_RELATIONSHIP())", one, two, move)
		use := b.Put("NEXT_ASSEMBLY_USAGE_OCCURRENCE('','','',#%d,#%d,$)", wholeDef, partDef)
		b.Put("CONTEXT_DEPENDENT_SHAPE_REPRESENTATION(#%d,#%d)", rel, b.Put("PRODUCT_DEFINITION_SHAPE('','',#%d)", use))
	} else {
		origin := b.Frame(fx, fy, fz, 0)
		inner := b.Put("SHAPE_REPRESENTATION('',(#%d,#%d),#%d)", origin, solid, cc)
		target := 0
		if b.draws.IntN(2) == 0 {
			target = b.Frame(tx, ty, tz, quarter)
		} else {
			larger, mirror = []float64{1, 2, 0.5}[b.draws.IntN(3)], b.draws.IntN(2) == 0
			c, s := []float64{1, 0, -1, 0}[quarter], []float64{0, 1, 0, -1}[quarter]
			y := [2]float64{-s, c}
			if mirror {
				y = [2]float64{s, -c}
			}
			scale := num(larger)
			if larger == 1 && b.draws.IntN(2) == 0 {
				scale = "$"
			}
			target = b.Put("CARTESIAN_TRANSFORMATION_OPERATOR_3D('','','',#%d,#%d,#%d,%s,#%d)", b.Direction(c, s, 0), b.Direction(y[0], y[1], 0), b.Point(tx, ty, tz), scale, b.Direction(0, 0, 1))
		}
		item := b.Put("MAPPED_ITEM('',#%d,#%d)", b.Put("REPRESENTATION_MAP(#%d,#%d)", origin, inner), target)
		b.Put("SHAPE_REPRESENTATION('',(#%d),#%d)", item, pc)
	}
	// What comes out is worked out by hand: from the origin to the target, larger, mirrored and turned.
	for i := range 8 {
		p := [3]float64{size[0] * float64(i&1), size[1] * float64(i>>1&1), size[2] * float64(i>>2&1)}
		for k := range 3 {
			p[k] = (p[k] - from[k]) * larger
		}
		if mirror {
			p[1] = -p[1]
		}
		for range quarter {
			p[0], p[1] = -p[1], p[0]
		}
		for k := range 3 {
			p[k] += at[k]
			if i == 0 || p[k] < lo[k] {
				lo[k] = p[k]
			}
			if i == 0 || p[k] > hi[k] {
				hi[k] = p[k]
			}
		}
	}
	return b.File(), lo, hi
}
