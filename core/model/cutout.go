package model

import (
	"cmp"
	"fmt"
	"math"
	"slices"
)

// mostCutOuts is how many cut-outs a piece of copper may have.
const mostCutOuts = 100

// CutOut is a place within a figure that is no copper, or no opening: the middle of a ring around the port of a microphone. Its place is counted from where the
// figure's own is counted, and turns with the figure.
type CutOut struct {
	Shape   string   `json:"shape"`
	At      Point    `json:"at,omitzero"`
	Width   Length   `json:"width"`
	Height  Length   `json:"height"`
	Turn    Angle    `json:"turn,omitzero"`
	Corner  Length   `json:"corner,omitzero"`
	Corners []string `json:"corners,omitempty"`
	Points  []Point  `json:"points,omitempty"`
}

// figure is the outline of a cut-out, as it lies in the figure that it is cut out of.
func (c CutOut) figure() Figure {
	return Figure{Shape: c.Shape, At: c.At, Width: c.Width, Height: c.Height, Turn: c.Turn, Corner: c.Corner, Corners: c.Corners, Points: c.Points}
}

// cutOut is a figure as a cut-out of another.
func (f Figure) cutOut() CutOut {
	return CutOut{Shape: f.Shape, At: f.At, Width: f.Width, Height: f.Height, Turn: f.Turn, Corner: f.Corner, Corners: f.Corners, Points: f.Points}
}

// Without is the figure with another one cut out of it, which lies in it.
func (f Figure) Without(cut Figure) Figure {
	f.CutOuts = append(slices.Clone(f.CutOuts), cut.cutOut())
	return f
}

// Cut returns the cut-outs of a figure as they lie in it, before it is turned and moved to its place.
func (f Figure) Cut() (out []Figure) {
	for _, c := range f.CutOuts {
		out = append(out, c.figure())
	}
	return out
}

// cutPlaced returns the cut-outs about the place of the pad, as the figure lies there.
func (f Figure) cutPlaced() []Figure {
	out := f.Cut()
	for i, c := range out {
		c = c.Turned(f.Turn)
		c.At = c.At.Add(f.At)
		out[i] = c
	}
	return out
}

// cutAlike does the same to all cut-outs.
func (f Figure) cutAlike(do func(Figure) Figure) Figure {
	f.CutOuts = slices.Clone(f.CutOuts)
	for i, c := range f.CutOuts {
		f.CutOuts[i] = do(c.figure()).cutOut()
	}
	return f
}

// CheckCutOuts says why a figure cannot have its cut-outs.
func (f Figure) CheckCutOuts() error { return f.checkCutOuts("the copper's") }

// checkCutOuts says why a figure cannot have its cut-outs: each lies wholly within it, and apart from the others.
func (f Figure) checkCutOuts(what string) error {
	if len(f.CutOuts) > mostCutOuts {
		return fmt.Errorf("%s shape has %d cut-outs; at most %d are read", what, len(f.CutOuts), mostCutOuts)
	}
	if len(f.CutOuts) == 0 {
		return nil
	}
	alone := f
	alone.At, alone.Turn = Point{}, 0
	around := alone.Outline(12)
	var before [][]Point
	for _, c := range f.CutOuts {
		if err := c.figure().check(what + " cut-out's"); err != nil {
			return err
		}
		edge := c.figure().Outline(12)
		if !inside(around, edge) {
			return fmt.Errorf("%s cut-out of %s × %s mm does not lie within the shape that it is cut out of", what, c.Width, c.Height)
		}
		for _, other := range before {
			if inside(other, edge[:1]) || inside(edge, other[:1]) || crossing(other, edge) {
				return fmt.Errorf("%s cut-outs lie on each other", what)
			}
		}
		before = append(before, edge)
	}
	return nil
}

// normalCutOuts brings cut-outs into the one form and order in which they are kept.
func (f *Figure) normalCutOuts() {
	if len(f.CutOuts) == 0 {
		f.CutOuts = nil
		return
	}
	*f = f.cutAlike(func(c Figure) Figure { c.normal(); return c })
	slices.SortStableFunc(f.CutOuts, func(a, b CutOut) int {
		return cmp.Or(cmp.Compare(a.At.X, b.At.X), cmp.Compare(a.At.Y, b.At.Y), cmp.Compare(a.Width, b.Width), cmp.Compare(a.Height, b.Height))
	})
}

// cutOutsOff says how far the cut-outs of two figures lie apart; false where one has none that the other has.
func (f Figure) cutOutsOff(g Figure) (most Length, ok bool) {
	a, b := f.cutPlaced(), g.cutPlaced()
	if len(a) != len(b) {
		return 0, false
	}
	taken := make([]bool, len(b))
	for _, c := range a {
		which, best := -1, Length(math.MaxInt64)
		for i, d := range b {
			if off, ok := c.outerOff(d); ok && !taken[i] && off < best {
				which, best = i, off
			}
		}
		if which < 0 {
			return 0, false
		}
		taken[which] = true
		most = max(most, best)
	}
	return most, true
}

// inside says whether an outline lies wholly in another.
func inside(around, edge []Point) bool {
	for _, p := range edge {
		in := false
		for i, a := range around {
			b := around[(i+1)%len(around)]
			if (a.Y > p.Y) != (b.Y > p.Y) && float64(p.X) < float64(b.X-a.X)*float64(p.Y-a.Y)/float64(b.Y-a.Y)+float64(a.X) {
				in = !in
			}
		}
		if !in {
			return false
		}
	}
	return !crossing(around, edge)
}

// crossing says whether a side of one outline crosses a side of the other.
func crossing(a, b []Point) bool {
	side := func(p, q, r Point) float64 {
		return float64(q.X-p.X)*float64(r.Y-p.Y) - float64(q.Y-p.Y)*float64(r.X-p.X)
	}
	for i, p := range a {
		q := a[(i+1)%len(a)]
		for j, r := range b {
			t := b[(j+1)%len(b)]
			if side(p, q, r)*side(p, q, t) < 0 && side(r, t, p)*side(r, t, q) < 0 {
				return true
			}
		}
	}
	return false
}
