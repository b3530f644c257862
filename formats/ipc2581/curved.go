package ipc2581

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"jollydrawer/core/model"
)

// curved finds the plain shape that an outline with arcs is: round, oblong, or a rectangle with rounded corners, all of one radius and upright. False
// where it is none to 2 µm.
func curved(points []model.Point, arcs []arc, b model.Box) (f model.Figure, ok bool) {
	const off = 2 * float64(model.MM) / 1000
	r := model.Length(math.Round(arcs[0].radius))
	if slices.ContainsFunc(arcs, func(a arc) bool { return math.Abs(a.radius-arcs[0].radius) > off }) || r <= 0 || len(points) > 3000 {
		return f, false
	}
	f = model.Figure{Shape: model.PadRounded, At: b.Centre(), Width: b.Width(), Height: b.Height(), Corner: r}
	switch small := min(f.Width, f.Height); {
	case float64(small-2*r) > off: // rounded at the corners whose middle an arc has
		for i, s := range []model.Point{{X: -1, Y: -1}, {X: 1, Y: -1}, {X: 1, Y: 1}, {X: -1, Y: 1}} {
			middle := f.At.Add(model.Point{X: s.X * (f.Width/2 - r), Y: s.Y * (f.Height/2 - r)})
			if slices.ContainsFunc(arcs, func(a arc) bool {
				return math.Hypot(float64(a.centre.X-middle.X), float64(a.centre.Y-middle.Y)) <= off
			}) {
				f.Corners = append(f.Corners, model.FigureCorners[i])
			}
		}
		if len(f.Corners) == 0 {
			return f, false
		}
		if len(f.Corners) == len(model.FigureCorners) {
			f.Corners = nil
		}
	case math.Abs(float64(f.Width-f.Height)) <= off:
		f.Shape, f.Corner, f.Height = model.PadRound, 0, f.Width
	default:
		f.Shape, f.Corner = model.PadOblong, 0
	}
	edge := f.Outline(128)
	return f, lies(points, edge, off) && lies(edge, points, off)
}

// straight finds the plain shape that an outline of straight sides is: an upright rectangle, some of whose corners may be cut off alike.
func straight(points []model.Point, b model.Box) (f model.Figure, ok bool) {
	f = model.Figure{Shape: model.PadRectangle, At: b.Centre(), Width: b.Width(), Height: b.Height()}
	if len(points) < 4 || len(points) > 8 || b.Min.Add(b.Max) != f.At.Add(f.At) {
		return f, false
	}
	for i, c := range []model.Point{b.Min, {X: b.Max.X, Y: b.Min.Y}, b.Max, {X: b.Min.X, Y: b.Max.Y}} {
		if slices.Contains(points, c) {
			continue
		}
		f.Shape, f.Corners = model.PadChamfered, append(f.Corners, model.FigureCorners[i])
		for _, p := range points { // how far the nearest corner on its lower or upper side is
			if d := max(p.X-c.X, c.X-p.X); p.Y == c.Y && d > 0 && (f.Corner == 0 || d < f.Corner) {
				f.Corner = d
			}
		}
	}
	edge := f.Outline(1)
	if len(f.Corners) == len(model.FigureCorners) {
		f.Corners = nil
	}
	if len(edge) != len(points) || f.Shape == model.PadChamfered && 2*f.Corner >= min(f.Width, f.Height) {
		return f, false
	}
	// Corner by corner, from whichever on and whichever way about.
	at := slices.Index(points, edge[0])
	if at < 0 {
		return f, false
	}
	n := len(points)
	forth, back := true, true
	for i, p := range edge {
		forth = forth && points[(at+i)%n] == p
		back = back && points[(at-i+n)%n] == p
	}
	return f, forth || back
}

// lies says whether all corners of one outline lie on the other.
func lies(corners, edge []model.Point, off float64) bool {
	sides := sidesOf(edge)
	for _, p := range corners {
		if !slices.ContainsFunc(sides, func(s [2]model.Point) bool { return distance(p, s) <= off }) {
			return false
		}
	}
	return true
}

func sidesOf(edge []model.Point) [][2]model.Point {
	out := make([][2]model.Point, len(edge))
	for i, p := range edge {
		out[i] = [2]model.Point{p, edge[(i+1)%len(edge)]}
	}
	return out
}

// distance of a point from a side.
func distance(p model.Point, side [2]model.Point) float64 {
	ux, uy := float64(side[1].X-side[0].X), float64(side[1].Y-side[0].Y)
	vx, vy := float64(p.X-side[0].X), float64(p.Y-side[0].Y)
	t := 0.0
	if l := ux*ux + uy*uy; l > 0 {
		t = min(max((vx*ux+vy*uy)/l, 0), 1)
	}
	return math.Hypot(vx-t*ux, vy-t*uy)
}

// contour writes a figure with its cut-outs as an outline of steps; round corners are curved ones.
func contour(f model.Figure) string {
	f.At, f.Turn = model.Point{}, 0
	if in := f.Cut(); len(in) == 1 && f.Shape == model.PadRound && in[0].Shape == model.PadRound && in[0].At == (model.Point{}) {
		return fmt.Sprintf(`<Donut shape="ROUND" outerDiameter="%s" innerDiameter="%s"/>`, f.Width, in[0].Width)
	}
	out := "<Contour><Polygon>" + bent(f) + "</Polygon>"
	for _, c := range f.Cut() {
		out += "<Cutout>" + bent(c) + "</Cutout>"
	}
	return out + "</Contour>"
}

// bent are the steps along a figure's outline.
func bent(f model.Figure) string {
	points := f.Outline(1)
	round := f.Shape == model.PadRound || f.Shape == model.PadOblong || f.Shape == model.PadRounded
	var b strings.Builder
	step := func(name string, p model.Point, more string) {
		fmt.Fprintf(&b, `<%s x="%s" y="%s"%s/>`, name, p.X, p.Y, more)
	}
	step("PolyBegin", points[0], "")
	for i := range points {
		from, to := points[i], points[(i+1)%len(points)]
		if from == to {
			continue
		}
		if c, bends := f.CornerAt(i); round && bends {
			step("PolyStepCurve", to, fmt.Sprintf(` centerX="%s" centerY="%s" clockwise="false"`, c.X, c.Y))
			continue
		}
		step("PolyStepSegment", to, "")
	}
	return b.String()
}
