package step

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
)

// builder writes entities of a file, in any order at the end.
type builder struct{ lines []string }

func (b *builder) put(form string, args ...any) int {
	b.lines = append(b.lines, fmt.Sprintf("#%d=%s;", len(b.lines)+1, fmt.Sprintf(form, args...)))
	return len(b.lines)
}

func (b *builder) file(rng *rand.Rand) []byte {
	lines := slices.Clone(b.lines)
	rng.Shuffle(len(lines), func(i, j int) { lines[i], lines[j] = lines[j], lines[i] })
	return []byte("ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n" + strings.Join(lines, "\n") + "\nENDSEC;\nEND-ISO-10303-21;\n")
}

func (b *builder) context(unit string) int {
	u := 0
	switch unit {
	case "mm":
		u = b.put("(LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT(.MILLI.,.METRE.))")
	case "m":
		u = b.put("(LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT($,.METRE.))")
	case "inch":
		mm := b.put("(LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT(.MILLI.,.METRE.))")
		u = b.put("(CONVERSION_BASED_UNIT('INCH',#%d) LENGTH_UNIT() NAMED_UNIT(*))", b.put("LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(25.4),#%d)", mm))
	default:
		return b.put("(GEOMETRIC_REPRESENTATION_CONTEXT(3) REPRESENTATION_CONTEXT('',''))")
	}
	return b.put("(GEOMETRIC_REPRESENTATION_CONTEXT(3) GLOBAL_UNIT_ASSIGNED_CONTEXT((#%d)) REPRESENTATION_CONTEXT('',''))", u)
}

func num(v float64) string {
	s := fmt.Sprintf("%.9f", v)
	return s
}

func (b *builder) point(x, y, z float64) int {
	return b.put("CARTESIAN_POINT('',(%s,%s,%s))", num(x), num(y), num(z))
}

func (b *builder) direction(x, y, z float64) int {
	return b.put("DIRECTION('',(%s,%s,%s))", num(x), num(y), num(z))
}

// frame is a placement, turned by quarter turns about Z.
func (b *builder) frame(x, y, z float64, quarter int) int {
	c, s := []float64{1, 0, -1, 0}[quarter%4], []float64{0, 1, 0, -1}[quarter%4]
	return b.put("AXIS2_PLACEMENT_3D('',#%d,#%d,#%d)", b.point(x, y, z), b.direction(0, 0, 1), b.direction(c, s, 0))
}

// solid is a block from the origin.
func (b *builder) solid(x, y, z float64) int {
	var corners [8]int
	for i := range 8 {
		corners[i] = b.point(x*float64(i&1), y*float64(i>>1&1), z*float64(i>>2&1))
	}
	var faces []string
	for _, f := range [][4]int{{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 4, 6, 2}, {1, 3, 7, 5}} {
		loop := b.put("POLY_LOOP('',(#%d,#%d,#%d,#%d))", corners[f[0]], corners[f[1]], corners[f[2]], corners[f[3]])
		plane := b.put("PLANE('',#%d)", b.frame(0, 0, 0, 0))
		faces = append(faces, fmt.Sprintf("#%d", b.put("FACE_SURFACE('',(#%d),#%d,.T.)", b.put("FACE_OUTER_BOUND('',#%d,.T.)", loop), plane)))
	}
	return b.put("FACETED_BREP('',#%d)", b.put("CLOSED_SHELL('',(%s))", strings.Join(faces, ",")))
}

// product is a representation with the product definition whose shape it is.
func (b *builder) product(items string, context int) (rep, definition int) {
	rep = b.put("SHAPE_REPRESENTATION('',(%s),#%d)", items, context)
	definition = b.put("PRODUCT_DEFINITION('','',$,$)")
	b.put("SHAPE_DEFINITION_REPRESENTATION(#%d,#%d)", b.put("PRODUCT_DEFINITION_SHAPE('','',#%d)", definition), rep)
	return rep, definition
}

var perUnit = map[string]float64{"mm": 1, "inch": 25.4, "m": 1000}

// A block that an assembly places lies where the assembly puts it: whatever unit each is in, which is named first, how the entities are
// ordered, and whether it is placed by a relationship or mapped, enlarged or mirrored.
func TestAnAssemblyPutsItsPartsWhereItSays(t *testing.T) {
	for seed := range uint64(600) {
		rng := rand.New(rand.NewPCG(seed, 7))
		b := &builder{}
		units := []string{"mm", "inch", "m"}
		child, parent := units[rng.IntN(3)], units[rng.IntN(3)]
		size := [3]float64{1 + float64(rng.IntN(20)), 1 + float64(rng.IntN(20)), 1 + float64(rng.IntN(20))} // mm
		at := [3]float64{float64(rng.IntN(40) - 20), float64(rng.IntN(40) - 20), float64(rng.IntN(20))}
		from := [3]float64{float64(rng.IntN(5)), float64(rng.IntN(5)), 0}
		quarter := rng.IntN(4)
		in := func(v [3]float64, unit string) (x, y, z float64) {
			f := perUnit[unit]
			return v[0] / f, v[1] / f, v[2] / f
		}
		larger, mirror := 1.0, false
		cx, cy, cz := in(size, child)
		solid := b.solid(cx, cy, cz)
		fx, fy, fz := in(from, child)
		tx, ty, tz := in(at, parent)
		cc, pc := b.context(child), b.context(parent)
		if rng.IntN(2) == 0 { // by a relationship between two representations
			origin, target := b.frame(fx, fy, fz, 0), b.frame(tx, ty, tz, quarter)
			part, partDef := b.product(fmt.Sprintf("#%d,#%d", origin, solid), cc)
			whole, wholeDef := b.product(fmt.Sprintf("#%d", target), pc)
			one, two, first, second := part, whole, origin, target
			if rng.IntN(2) == 0 {
				one, two = two, one
			}
			if rng.IntN(2) == 0 == (one == part) || rng.IntN(2) == 0 {
				first, second = second, first
			}
			if (one == part) != (first == origin) && rng.IntN(2) == 0 { // mostly named as they stand
				first, second = second, first
			}
			move := b.put("ITEM_DEFINED_TRANSFORMATION('','',#%d,#%d)", first, second)
			rel := b.put("(REPRESENTATION_RELATIONSHIP('','',#%d,#%d) REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION(#%d) SHAPE_REPRESENTATION_RELATIONSHIP())", one, two, move)
			use := b.put("NEXT_ASSEMBLY_USAGE_OCCURRENCE('','','',#%d,#%d,$)", wholeDef, partDef)
			b.put("CONTEXT_DEPENDENT_SHAPE_REPRESENTATION(#%d,#%d)", rel, b.put("PRODUCT_DEFINITION_SHAPE('','',#%d)", use))
		} else {
			origin := b.frame(fx, fy, fz, 0)
			inner := b.put("SHAPE_REPRESENTATION('',(#%d,#%d),#%d)", origin, solid, cc)
			target := 0
			if rng.IntN(2) == 0 {
				target = b.frame(tx, ty, tz, quarter)
			} else {
				larger, mirror = []float64{1, 2, 0.5}[rng.IntN(3)], rng.IntN(2) == 0
				c, s := []float64{1, 0, -1, 0}[quarter], []float64{0, 1, 0, -1}[quarter]
				y := [2]float64{-s, c}
				if mirror {
					y = [2]float64{s, -c}
				}
				scale := num(larger)
				if larger == 1 && rng.IntN(2) == 0 {
					scale = "$"
				}
				target = b.put("CARTESIAN_TRANSFORMATION_OPERATOR_3D('','','',#%d,#%d,#%d,%s,#%d)", b.direction(c, s, 0), b.direction(y[0], y[1], 0), b.point(tx, ty, tz), scale, b.direction(0, 0, 1))
			}
			item := b.put("MAPPED_ITEM('',#%d,#%d)", b.put("REPRESENTATION_MAP(#%d,#%d)", origin, inner), target)
			b.put("SHAPE_REPRESENTATION('',(#%d),#%d)", item, pc)
		}
		// What comes out is worked out by hand: from the origin to the target, larger, mirrored and turned.
		lo, hi := [3]float64{}, [3]float64{}
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
		got, err := Read(b.file(rng))
		require.NoError(t, err, "seed %d", seed)
		for k, pair := range [][2]model.Length{{got.Box.Min.X, got.Box.Max.X}, {got.Box.Min.Y, got.Box.Max.Y}, {got.Box.Min.Z, got.Box.Max.Z}} {
			require.InDelta(t, lo[k], pair[0].Millimetres(), 0.0002, "seed %d: %s in %s, axis %d", seed, child, parent, k)
			require.InDelta(t, hi[k], pair[1].Millimetres(), 0.0002, "seed %d: %s in %s, axis %d", seed, child, parent, k)
		}
	}
}

// What has a size that is not worked out is never left out of the box.
func TestWhatIsNotMeasuredIsNotLeftOut(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 1))
	for says, more := range map[string]func(b *builder) int{
		"":                    func(b *builder) int { return b.frame(0, 0, 0, 0) },
		"1 × BLOCK":           func(b *builder) int { return b.put("BLOCK('',#%d,1.,1.,1.)", b.frame(9, 0, 0, 0)) },
		"EXTRUDED_AREA_SOLID": func(b *builder) int { return b.put("EXTRUDED_AREA_SOLID('',$,$,$,1.)") },
		"BOOLEAN_RESULT":      func(b *builder) int { return b.put("BOOLEAN_RESULT('',.UNION.,$,$)") },
		"1 × OFFSET_SURFACE": func(b *builder) int {
			return b.put("ADVANCED_FACE('',(),#%d,.T.)", b.put("OFFSET_SURFACE('',$,1.,.F.)"))
		},
		"1 × MAPPED_ITEM": func(b *builder) int {
			return b.put("MAPPED_ITEM('',#%d,#%d)", b.put("REPRESENTATION_MAP($,$)"), b.put("CARTESIAN_TRANSFORMATION_OPERATOR_3D_NON_UNIFORM('')"))
		},
		"an edge without its ": func(b *builder) int {
			return b.put("ADVANCED_FACE('',(#%d),$,.T.)", b.put("FACE_BOUND('',#%d,.T.)", b.put("EDGE_LOOP('',(#%d))", b.put("ORIENTED_EDGE('',*,*,$,.T.)"))))
		},
		"1 × PARABOLA": func(b *builder) int {
			a, c := b.put("VERTEX_POINT('',#%d)", b.point(0, 0, 0)), b.put("VERTEX_POINT('',#%d)", b.point(1, 0, 0))
			edge := b.put("EDGE_CURVE('',#%d,#%d,#%d,.T.)", a, c, b.put("PARABOLA('',$,1.)"))
			return b.put("ADVANCED_FACE('',(#%d),$,.T.)", b.put("FACE_BOUND('',#%d,.T.)", b.put("EDGE_LOOP('',(#%d))", b.put("ORIENTED_EDGE('',*,*,#%d,.T.)", edge))))
		},
	} {
		b := &builder{}
		b.put("SHAPE_REPRESENTATION('',(#%d,#%d),#%d)", b.solid(1, 1, 1), more(b), b.context("mm"))
		s, err := Read(b.file(rng))
		if says == "" {
			require.NoError(t, err)
			assert.Equal(t, model.MM, s.Box.Size().X)
			continue
		}
		require.ErrorContains(t, err, says)
		assert.ErrorContains(t, err, "how large the body is cannot be told")
	}
	b := &builder{}
	b.put("SHAPE_REPRESENTATION('',(#%d),#%d)", b.solid(1, 1, 1), b.context(""))
	_, err := Read(b.file(rng))
	assert.ErrorContains(t, err, "without a unit of length")
}
