package step

import (
	"cmp"
	"math"
	"slices"

	"jollydrawer/core/model"
)

// mostFlats bounds how many upright and level faces of a file are looked at for its feet.
const mostFlats = 20_000

// flat is a level face: all of its edge lies at one height.
type flat struct {
	box   box
	round bool // its edge is a circle
}

// level keeps a face whose edge is level.
func (r *reader) level(edge []vec, whole box) {
	if len(edge) < 3 || whole.max[2]-whole.min[2] > 0.003 || len(r.flats) >= mostFlats {
		return
	}
	w, h := whole.max[0]-whole.min[0], whole.max[1]-whole.min[1]
	if w < 0.02 || h < 0.02 {
		return
	}
	f := flat{box: whole, round: len(edge) >= 8 && math.Abs(w-h) < 0.01*w}
	centre := vec{(whole.min[0] + whole.max[0]) / 2, (whole.min[1] + whole.max[1]) / 2, whole.min[2]}
	for _, p := range edge {
		f.round = f.round && math.Abs(p.minus(centre).length()-w/2) < 0.01*w
	}
	r.flats = append(r.flats, f)
}

// feet are the level faces on which a body stands: those within the thickness of solder above its lowest, but for a face that lies around others. None where
// it stands on one only, or on more than a land pattern has pads: then they tell nothing.
func (r *reader) feet() (out []model.Foot) {
	const solder = 0.05 // mm
	var low []box
	for _, f := range r.flats {
		if f.box.min[2] <= r.box.min[2]+solder && !slices.ContainsFunc(low, func(b box) bool { return sameBox(b, f.box) }) {
			low = append(low, f.box)
		}
		if len(low) > model.MostFeet {
			return nil
		}
	}
	for i, b := range low {
		around := 0
		for j, c := range low {
			if x, y := (c.min[0]+c.max[0])/2, (c.min[1]+c.max[1])/2; i != j && x > b.min[0] && x < b.max[0] && y > b.min[1] && y < b.max[1] {
				around++
			}
		}
		if around < 2 {
			out = append(out, model.Foot{Min: model.Point{X: tenth(b.min[0]), Y: tenth(b.min[1])}, Max: model.Point{X: tenth(b.max[0]), Y: tenth(b.max[1])}})
		}
	}
	if len(out) < 2 {
		return nil
	}
	slices.SortFunc(out, func(a, b model.Foot) int {
		return cmp.Or(cmp.Compare(a.Min.X, b.Min.X), cmp.Compare(a.Min.Y, b.Min.Y), cmp.Compare(a.Max.X, b.Max.X), cmp.Compare(a.Max.Y, b.Max.Y))
	})
	return out
}

func sameBox(a, b box) bool {
	for i := range 2 {
		if math.Abs(a.min[i]-b.min[i]) > 0.005 || math.Abs(a.max[i]-b.max[i]) > 0.005 {
			return false
		}
	}
	return true
}

// mark is the one small round place near the top of a body and off its middle, as a dimple beside pin 1 is; nil where there is none, or where there are several.
func (r *reader) mark() *model.Point {
	b := r.box
	w, h, z := b.max[0]-b.min[0], b.max[1]-b.min[1], b.max[2]-b.min[2]
	mx, my := (b.min[0]+b.max[0])/2, (b.min[1]+b.max[1])/2
	var at []vec
	for _, f := range r.flats {
		d := f.box.max[0] - f.box.min[0]
		if !f.round || d > min(w, h)*0.35 || f.box.min[2] < b.min[2]+z/2 {
			continue
		}
		c := vec{(f.box.min[0] + f.box.max[0]) / 2, (f.box.min[1] + f.box.max[1]) / 2, 0}
		if !slices.ContainsFunc(at, func(o vec) bool { return o.minus(c).length() < 0.05 }) {
			at = append(at, c)
		}
	}
	if len(at) != 1 || math.Abs(at[0][0]-mx) < w/10 && math.Abs(at[0][1]-my) < h/10 {
		return nil
	}
	return &model.Point{X: tenth(at[0][0]), Y: tenth(at[0][1])}
}

// tenth is a length to a tenth of a micrometre: the geometry is no finer.
func tenth(mm float64) model.Length {
	return model.Length(math.Round(mm*10_000)) * (model.MM / 10_000)
}
