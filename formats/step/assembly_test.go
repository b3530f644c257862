package step

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/formats/formatstest"
)

// A block that an assembly places lies where the assembly puts it.
func TestAnAssemblyPutsItsPartsWhereItSays(t *testing.T) {
	for seed := range uint64(600) {
		raw, lo, hi := formatstest.NewSTEP(seed).Assembly()
		got, err := Read(raw)
		require.NoError(t, err, "seed %d", seed)
		for k, pair := range [][2]model.Length{{got.Box.Min.X, got.Box.Max.X}, {got.Box.Min.Y, got.Box.Max.Y}, {got.Box.Min.Z, got.Box.Max.Z}} {
			require.InDelta(t, lo[k], pair[0].Millimetres(), 0.0002, "seed %d, axis %d", seed, k)
			require.InDelta(t, hi[k], pair[1].Millimetres(), 0.0002, "seed %d, axis %d", seed, k)
		}
	}
}

// What has a size that is not worked out is never left out of the box.
func TestWhatIsNotMeasuredIsNotLeftOut(t *testing.T) {
	for says, more := range map[string]func(b *formatstest.STEP) int{
		"":                    func(b *formatstest.STEP) int { return b.Frame(0, 0, 0, 0) },
		"1 × BLOCK":           func(b *formatstest.STEP) int { return b.Put("BLOCK('',#%d,1.,1.,1.)", b.Frame(9, 0, 0, 0)) },
		"EXTRUDED_AREA_SOLID": func(b *formatstest.STEP) int { return b.Put("EXTRUDED_AREA_SOLID('',$,$,$,1.)") },
		"BOOLEAN_RESULT":      func(b *formatstest.STEP) int { return b.Put("BOOLEAN_RESULT('',.UNION.,$,$)") },
		"1 × OFFSET_SURFACE": func(b *formatstest.STEP) int {
			return b.Put("ADVANCED_FACE('',(),#%d,.T.)", b.Put("OFFSET_SURFACE('',$,1.,.F.)"))
		},
		"1 × MAPPED_ITEM": func(b *formatstest.STEP) int {
			return b.Put("MAPPED_ITEM('',#%d,#%d)", b.Put("REPRESENTATION_MAP($,$)"), b.Put("CARTESIAN_TRANSFORMATION_OPERATOR_3D_NON_UNIFORM('')"))
		},
		"an edge without its ": func(b *formatstest.STEP) int {
			return b.Put("ADVANCED_FACE('',(#%d),$,.T.)", b.Put("FACE_BOUND('',#%d,.T.)", b.Put("EDGE_LOOP('',(#%d))", b.Put("ORIENTED_EDGE('',*,*,$,.T.)"))))
		},
		"1 × PARABOLA": func(b *formatstest.STEP) int {
			a, c := b.Put("VERTEX_POINT('',#%d)", b.Point(0, 0, 0)), b.Put("VERTEX_POINT('',#%d)", b.Point(1, 0, 0))
			edge := b.Put("EDGE_CURVE('',#%d,#%d,#%d,.T.)", a, c, b.Put("PARABOLA('',$,1.)"))
			return b.Put("ADVANCED_FACE('',(#%d),$,.T.)", b.Put("FACE_BOUND('',#%d,.T.)", b.Put("EDGE_LOOP('',(#%d))", b.Put("ORIENTED_EDGE('',*,*,#%d,.T.)", edge))))
		},
	} {
		b := formatstest.NewSTEP(1)
		b.Put("SHAPE_REPRESENTATION('',(#%d,#%d),#%d)", b.Solid(1, 1, 1), more(b), b.Context("mm"))
		s, err := Read(b.File())
		if says == "" {
			require.NoError(t, err)
			assert.Equal(t, model.MM, s.Box.Size().X)
			continue
		}
		require.ErrorContains(t, err, says)
		assert.ErrorContains(t, err, "how large the body is cannot be told")
	}
	b := formatstest.NewSTEP(1)
	b.Put("SHAPE_REPRESENTATION('',(#%d),#%d)", b.Solid(1, 1, 1), b.Context(""))
	_, err := Read(b.File())
	assert.ErrorContains(t, err, "without a unit of length")
}
