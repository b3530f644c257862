package step

import (
	"fmt"
	"io"
	"strings"
	"time"

	"jollydrawer/core/model"
)

// WriteBlock writes a box as a solid of six plane faces (ISO 10303-214): what stands in for a body until there is one.
func WriteBlock(w io.Writer, name string, b model.Box3, at time.Time) error {
	var out strings.Builder
	n := 0
	put := func(form string, args ...any) int {
		n++
		fmt.Fprintf(&out, "#%d=%s;\n", n, fmt.Sprintf(form, args...))
		return n
	}
	num := func(l model.Length) string {
		s := l.String()
		if !strings.Contains(s, ".") {
			s += "."
		}
		return s
	}
	text := strings.NewReplacer("'", "''", "\\", "\\\\").Replace(strings.Map(func(r rune) rune {
		if r < ' ' || r > '~' {
			return '?'
		}
		return r
	}, name))
	point := func(x, y, z model.Length) int {
		return put("CARTESIAN_POINT('',(%s,%s,%s))", num(x), num(y), num(z))
	}
	direction := func(x, y, z int) int { return put("DIRECTION('',(%d.,%d.,%d.))", x, y, z) }
	x, y, z := direction(1, 0, 0), direction(0, 1, 0), direction(0, 0, 1)
	negative := []int{direction(-1, 0, 0), direction(0, -1, 0), direction(0, 0, -1)}
	dirs := []int{x, y, z}
	var points, corners [8]int
	at8 := func(i int) (model.Length, model.Length, model.Length) {
		pick := func(bit int, lo, hi model.Length) model.Length {
			if i&bit != 0 {
				return hi
			}
			return lo
		}
		return pick(1, b.Min.X, b.Max.X), pick(2, b.Min.Y, b.Max.Y), pick(4, b.Min.Z, b.Max.Z)
	}
	for i := range 8 {
		px, py, pz := at8(i)
		points[i] = point(px, py, pz)
		corners[i] = put("VERTEX_POINT('',#%d)", points[i])
	}
	edges := map[[2]int]int{}
	for i := range 8 {
		for axis, bit := range []int{1, 2, 4} {
			if i&bit == 0 {
				v := put("VECTOR('',#%d,1.)", dirs[axis])
				l := put("LINE('',#%d,#%d)", points[i], v)
				edges[[2]int{i, i | bit}] = put("EDGE_CURVE('',#%d,#%d,#%d,.T.)", corners[i], corners[i|bit], l)
			}
		}
	}
	// each face as its corners, anticlockwise seen from outside, with its normal and a direction in it
	faces := []struct {
		corners    [4]int
		normal, in int
	}{
		{[4]int{0, 2, 3, 1}, negative[2], x}, {[4]int{4, 5, 7, 6}, z, x}, {[4]int{0, 1, 5, 4}, negative[1], x},
		{[4]int{2, 6, 7, 3}, y, x}, {[4]int{0, 4, 6, 2}, negative[0], y}, {[4]int{1, 3, 7, 5}, x, y},
	}
	var shell []string
	for _, f := range faces {
		var loop []string
		for i, a := range f.corners {
			c := f.corners[(i+1)%4]
			sense, key := "T", [2]int{a, c}
			if a > c {
				sense, key = "F", [2]int{c, a}
			}
			loop = append(loop, fmt.Sprintf("#%d", put("ORIENTED_EDGE('',*,*,#%d,.%s.)", edges[key], sense)))
		}
		bound := put("FACE_OUTER_BOUND('',#%d,.T.)", put("EDGE_LOOP('',(%s))", strings.Join(loop, ",")))
		plane := put("PLANE('',#%d)", put("AXIS2_PLACEMENT_3D('',#%d,#%d,#%d)", points[f.corners[0]], f.normal, f.in))
		shell = append(shell, fmt.Sprintf("#%d", put("ADVANCED_FACE('',(#%d),#%d,.T.)", bound, plane)))
	}
	solid := put("MANIFOLD_SOLID_BREP('%s',#%d)", text, put("CLOSED_SHELL('',(%s))", strings.Join(shell, ",")))
	mm := put("(LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT(.MILLI.,.METRE.))")
	rad := put("(NAMED_UNIT(*) PLANE_ANGLE_UNIT() SI_UNIT($,.RADIAN.))")
	sr := put("(NAMED_UNIT(*) SI_UNIT($,.STERADIAN.) SOLID_ANGLE_UNIT())")
	near := put("UNCERTAINTY_MEASURE_WITH_UNIT(LENGTH_MEASURE(1.E-5),#%d,'distance_accuracy_value','')", mm)
	context := put("(GEOMETRIC_REPRESENTATION_CONTEXT(3) GLOBAL_UNCERTAINTY_ASSIGNED_CONTEXT((#%d)) GLOBAL_UNIT_ASSIGNED_CONTEXT((#%d,#%d,#%d)) REPRESENTATION_CONTEXT('',''))", near, mm, rad, sr)
	origin := put("AXIS2_PLACEMENT_3D('',#%d,#%d,#%d)", point(0, 0, 0), z, x)
	rep := put("ADVANCED_BREP_SHAPE_REPRESENTATION('%s',(#%d,#%d),#%d)", text, origin, solid, context)
	app := put("APPLICATION_CONTEXT('core data for automotive mechanical design processes')")
	put("APPLICATION_PROTOCOL_DEFINITION('international standard','automotive_design',2000,#%d)", app)
	product := put("PRODUCT('%s','%s','',(#%d))", text, text, put("PRODUCT_CONTEXT('',#%d,'mechanical')", app))
	definition := put("PRODUCT_DEFINITION('design','',#%d,#%d)", put("PRODUCT_DEFINITION_FORMATION('','',#%d)", product), put("PRODUCT_DEFINITION_CONTEXT('part definition',#%d,'design')", app))
	put("SHAPE_DEFINITION_REPRESENTATION(#%d,#%d)", put("PRODUCT_DEFINITION_SHAPE('','',#%d)", definition), rep)
	_, err := fmt.Fprintf(w, "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION(('a plain block'),'2;1');\nFILE_NAME('%s','%s',(''),(''),'','','');\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }'));\nENDSEC;\nDATA;\n%sENDSEC;\nEND-ISO-10303-21;\n",
		text, at.UTC().Format("2006-01-02T15:04:05"), out.String())
	return err
}
