package ipc2581

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/model"
)

// A plain shape that is drawn as an outline, with arcs or without, from whichever corner on, is read as that shape; an outline that is none to a few micrometres is not.
func TestOutlinesThatArePlainShapesAreReadAsThose(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mm := func(name string, from, to int) model.Length {
			return model.Length(rapid.IntRange(from, to).Draw(t, name)) * model.MM / 50
		}
		want := model.Figure{Shape: rapid.SampledFrom(model.PadShapes[:5]).Draw(t, "shape"), Width: 2 * mm("width", 20, 200), Height: 2 * mm("height", 20, 200), At: model.Point{X: mm("x", -50, 50), Y: mm("y", -50, 50)}}
		switch want.Shape {
		case model.PadRound:
			want.Height = want.Width
		case model.PadOblong:
			if want.Width == want.Height {
				want.Width += model.MM
			}
		case model.PadRounded, model.PadChamfered:
			want.Corner = mm("corner", 5, 15)
			if rapid.Bool().Draw(t, "some corners") {
				want.Corners = slices.Clone(model.FigureCorners[:rapid.IntRange(1, 3).Draw(t, "corners")])
			}
		}
		read := func(f model.Figure, steps string) (model.Figure, []string) {
			stack := `<PadstackPadDef layerRef="F" padUse="REGULAR"><Location x="0" y="0"/><Contour><Polygon>` + steps + `</Polygon></Contour></PadstackPadDef>`
			got, err := Read(one(stack, ``))
			require.NoError(t, err)
			require.Len(t, got.Packages, 1, "%v", got.Wrong)
			p := got.Packages[0].Land.Pads[0]
			out := p.Figure()
			out.At = p.At
			return out, slices.DeleteFunc(got.Packages[0].Said, func(s string) bool { return !strings.Contains(s, "chords") })
		}
		got, said := read(want, bent(want))
		require.Empty(t, said)
		off, same := got.Off(want)
		require.True(t, same && off <= exact, "%+v %+v", got, want)
		require.Equal(t, fmt.Sprint(want.Shape, want.Corners), fmt.Sprint(got.Shape, got.Corners))

		// One corner aside, and it is no such shape any more.
		points := want.Outline(1)
		points[rapid.IntRange(0, len(points)-1).Draw(t, "aside")].X += model.MM / 50
		var steps strings.Builder
		for i, p := range points {
			fmt.Fprintf(&steps, `<%s x="%s" y="%s"/>`, map[bool]string{true: "PolyBegin", false: "PolyStepSegment"}[i == 0], p.X, p.Y)
		}
		other, _ := read(want, steps.String())
		off, same = other.Off(want)
		require.True(t, !same || off > 5*exact, "%+v %+v", other, want)
	})
}
