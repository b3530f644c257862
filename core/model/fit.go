package model

import (
	"fmt"
	"math"

	"jollydrawer/core/finding"
)

// Sitting is how a body sits on a land pattern: what is wrong, and how it could be put right.
type Sitting struct {
	Findings []finding.Finding `json:"findings"`
	// Placings are the ways to put it right, each whole. One that is certain is alone: boxes allow no other reading. Several are a
	// question to whoever knows the part.
	Placings []Placing `json:"placings"`
}

// Placing is a way in which a body could sit.
type Placing struct {
	What    string    `json:"what"`
	Place   Placement `json:"place"`
	Certain bool      `json:"certain" doc:"Boxes allow no other reading"`
}

// Certain is the one place that boxes leave no doubt about.
func (s Sitting) Certain() (Placement, bool) {
	if len(s.Placings) == 1 && s.Placings[0].Certain {
		return s.Placings[0].Place, true
	}
	return Placement{}, false
}

// surfaceSink is how far a body may reach below the board's surface without holes: less than any solder joint.
const surfaceSink = MM / 10

// seat is where a body belongs on a land pattern, as far as its drawing tells.
type seat struct {
	pads    Box
	outline Box // the assembly drawing's, where there is one
	land    *LandPattern
}

// around is what the body fills: leads reach over the pads, the case over the outline.
func (s seat) around() Box {
	b := s.pads
	b.TakeBox(s.outline)
	return b
}

func (s seat) drawn() bool { return s.outline.Some && s.outline.Width() > 0 && s.outline.Height() > 0 }

// centre is where the middle of the body belongs.
func (s seat) centre() Point {
	if s.drawn() {
		return s.outline.Centre()
	}
	return s.pads.Centre()
}

// sizeOff is how far a body of two sides is from what it should fill, as the sum of the logarithms of both ratios: the nearer of outline
// and all around. turned says that it fits that much better the other way round.
func (s seat) sizeOff(w, h Length) (off float64, turned bool) {
	fills := []Box{s.around()}
	if s.drawn() {
		fills = append(fills, s.outline)
	}
	straight, quarter, gain := math.Inf(1), math.Inf(1), 0.0
	for _, b := range fills {
		a, q := misfit(w, h, b), misfit(h, w, b)
		if q < quarter {
			gain = a - q
		}
		straight, quarter = min(straight, a), min(quarter, q)
	}
	return min(straight, quarter), gain > 0.3 && straight-quarter > 0.1
}

// upright says whether a body of two sides lies as it fills its seat, and not as well or better the other way round. Sides that are as
// good as equal lie either way.
func (s seat) upright(w, h Length) bool {
	fill, clear := s.around(), 0.25 // pads tell less than an outline
	if s.drawn() {
		fill, clear = s.outline, 0.1
	}
	a, q := misfit(w, h, fill), misfit(h, w, fill)
	return a < 0.6 && q > a+max(clear, a) || a < 0.25 && math.Abs(math.Log(float64(w)/float64(h))) < 0.03
}

// touched is the part of the pads that carry a number over which the body, or its leads, lie.
func (s seat) touched(b Box3) float64 {
	n, on := 0, 0
	for _, p := range s.land.Pads {
		if p.Number == "" {
			continue
		}
		n++
		if pb := p.Bounds(); pb.Min.X <= b.Max.X && b.Min.X <= pb.Max.X && pb.Min.Y <= b.Max.Y && b.Min.Y <= pb.Max.Y {
			on++
		}
	}
	if n == 0 {
		return 1
	}
	return float64(on) / float64(n)
}

// Fit lays a body's box beside the pads and the outline and says how it sits wrong: another package, scale, turn, place, height. Boxes do
// not tell a half turn, nor which of two quarter turns is meant, nor whether a body hangs over the edge on purpose: where they allow
// several readings it asks, with each of them, and corrects nothing. The land pattern can say that a body is meant to hang over.
func Fit(b *Body, name string, l *LandPattern) Sitting {
	out := Sitting{Findings: []finding.Finding{}, Placings: []Placing{}}
	place := b.PlaceOn(l, name)
	s := seat{pads: l.PadBounds(), land: l}
	for _, g := range l.Shapes {
		if g.Purpose == Assembly && g.Form != Text {
			s.outline.TakeBox(g.Bounds())
		}
	}
	say := func(sev finding.Severity, cause, mend string, form string, args ...any) {
		out.Findings = append(out.Findings, finding.Finding{Severity: sev, Cause: cause, Field: "body", Mend: mend, What: fmt.Sprintf(form, args...)})
	}
	size := b.Box.Placed(place).Size()
	if size.X <= 0 || size.Y <= 0 || s.pads.Width() <= 0 || s.pads.Height() <= 0 {
		return out
	}
	certain, scaled, asked := true, false, []Placing{}
	around := s.around()
	if f, is := scaleOff(size, around); is != "" {
		scale := float64(place.Scale) / 1e6
		if place.Scale == 0 {
			scale = 1
		}
		place.Scale = int64(math.Round(scale * f * 1e6))
		say(finding.Error, "body-scale", "scale it by "+is, "the body is %s × %s mm and the land pattern %s × %s mm: it looks as if it were %s", size.X.rounded(), size.Y.rounded(), around.Width().rounded(), around.Height().rounded(), map[bool]string{true: "drawn in inch and read as millimetres", false: "drawn in millimetres and read as inch"}[f > 1])
		size, scaled = b.Box.Placed(place).Size(), true
	}
	sizeOff, lies := s.sizeOff(size.X, size.Y)
	if s.another(b, place, sizeOff) {
		say(finding.Error, "body-other", "link the body of this package", "the body is %s × %s mm and the land pattern %s × %s mm: it looks like that of another package", size.X.rounded(), size.Y.rounded(), around.Width().rounded(), around.Height().rounded())
		return out
	}
	if lies {
		say(finding.Error, "body-turned", "turn it by 90° or by 270°, as the part's pin 1 lies", "the body is %s × %s mm on a land pattern of %s × %s mm: it is turned by 90° or by 270°", size.X.rounded(), size.Y.rounded(), around.Width().rounded(), around.Height().rounded())
		for _, by := range []Angle{90 * Degree, 270 * Degree} {
			asked = append(asked, Placing{What: fmt.Sprintf("turn it by %s°", by), Place: s.centred(b, turned(b, place, by))})
		}
		certain = false
	} else if moved, how := s.beside(b, place, sizeOff); how != "" {
		off := Point{moved.At.X - place.At.X, moved.At.Y - place.At.Y}
		sev := finding.Warning
		if abs(off.X)*2 > around.Width() || abs(off.Y)*2 > around.Height() {
			sev = finding.Error
		}
		half := turned(b, place, 180*Degree)
		half.At = place.At // about its own origin, not its middle
		now := b.Box.Placed(half)
		overHalf := abs(s.centre().X-(now.Min.X+now.Max.X)/2) <= s.tolerance() && abs(s.centre().Y-(now.Min.Y+now.Max.Y)/2) <= s.tolerance()
		switch {
		case how == "certain" && !overHalf:
			say(sev, "body-off", "move it onto the pads", "the body lies %s, %s mm beside its outline", (-off.X).rounded(), (-off.Y).rounded())
			place = moved
		default:
			say(sev, "body-off", "move it, turn it, or say on the land pattern that it hangs over", "the body lies %s, %s mm beside the pads: it may be misplaced, or meant to hang over", (-off.X).rounded(), (-off.Y).rounded())
			if overHalf {
				asked = append(asked, Placing{What: "turn it by 180°", Place: half})
			}
			asked = append(asked, Placing{What: "move it onto the pads", Place: moved})
			certain = false
		}
	}
	if scaled && certain && !s.upright(size.X, size.Y) { // its size tells that it is too small, and not how it lies
		certain = false
		for _, by := range []Angle{0, 90 * Degree, 270 * Degree} {
			what := "scale it"
			if by > 0 {
				what = fmt.Sprintf("scale it and turn it by %s°", by)
			}
			asked = append(asked, Placing{What: what, Place: turned(b, place, by)})
		}
	}
	asked = s.height(b, &place, asked, &certain, say)
	switch {
	case len(asked) > 0:
		out.Placings = asked
	case certain && len(out.Findings) > 0:
		out.Placings = []Placing{{What: "put it right", Place: place, Certain: true}}
	}
	return out
}

// tolerance is how far the middle of a body may lie beside where it belongs.
func (s seat) tolerance() Length {
	a := s.around()
	return max(min(a.Width(), a.Height())/6, MM/5)
}

// another says whether a body is of another package: it cannot reach half of the pads however it lies, or it is far from the outline's
// size both ways, or far larger than all that is drawn in both directions.
func (s seat) another(b *Body, p Placement, off float64) bool {
	size := b.Box.Placed(p).Size()
	around := s.around()
	reach := max(s.touched(b.Box.Placed(s.centred(b, p))), s.touched(b.Box.Placed(s.centred(b, turned(b, p, 90*Degree)))))
	large := float64(size.X) > 1.8*float64(around.Width()) && float64(size.Y) > 1.8*float64(around.Height())
	return reach < 0.5 || large || s.drawn() && off > 0.9 && !s.hangs()
}

// hangs says whether the land pattern says that its body hangs over.
func (s seat) hangs() bool { return s.land.Overhang }

// centred moves a body's middle onto where it belongs.
func (s seat) centred(b *Body, p Placement) Placement {
	now, to := b.Box.Placed(p), s.centre()
	p.At.X += to.X - (now.Min.X+now.Max.X)/2
	p.At.Y += to.Y - (now.Min.Y+now.Max.Y)/2
	return p
}

// beside tells whether a body lies beside its seat. It is certain where the outline is drawn and the body is of its size, so that it
// belongs onto it; a body that lies over its pads and reaches beyond them may be meant to.
func (s seat) beside(b *Body, p Placement, off float64) (Placement, string) {
	moved := s.centred(b, p)
	if d := (Point{moved.At.X - p.At.X, moved.At.Y - p.At.Y}); abs(d.X) <= s.tolerance() && abs(d.Y) <= s.tolerance() || s.hangs() && s.touched(b.Box.Placed(p)) >= 0.5 {
		return p, ""
	}
	if size := b.Box.Placed(p).Size(); s.drawn() && off < 0.25 && s.upright(size.X, size.Y) {
		return moved, "certain"
	}
	return moved, "asked"
}

// height looks at a body from the side. What lies too low or too high may be misplaced, upside down, or meant so.
func (s seat) height(b *Body, place *Placement, asked []Placing, certain *bool, say func(sev finding.Severity, cause, mend, form string, args ...any)) []Placing {
	now := b.Box.Placed(*place)
	holes := false
	for _, p := range s.land.Pads {
		holes = holes || p.Hole > 0
	}
	lifted := *place
	lifted.At.Z -= now.Min.Z
	over := *place
	over.TurnX = (over.TurnX + 180*Degree) % (360 * Degree)
	ask := func(all ...Placing) {
		if *certain {
			asked = append(asked, all...)
		}
		*certain = false
	}
	switch height := now.Max.Z - now.Min.Z; {
	case now.Max.Z <= surfaceSink && height > 0:
		say(finding.Error, "body-under", "lift it onto the board, or turn it over", "the body lies under the board: its top is at %s mm", now.Max.Z.rounded())
		all := []Placing{{What: "lift it onto the board", Place: lifted}}
		if t := b.Box.Placed(over); t.Min.Z >= -surfaceSink {
			all = append(all, Placing{What: "turn it over", Place: over})
		}
		ask(all...)
	case !holes && now.Min.Z < -surfaceSink:
		say(finding.Warning, "body-sunk", "lift it onto the board", "the body reaches %s mm into the board, which has no hole there", (-now.Min.Z).rounded())
		ask(Placing{What: "lift it onto the board", Place: lifted})
	case now.Min.Z > MM/2:
		say(finding.Warning, "body-floats", "set it down on the board", "the body floats %s mm above the board", now.Min.Z.rounded())
		ask(Placing{What: "set it down on the board", Place: lifted})
	}
	return asked
}

// turned turns a body about its own middle, so that it stays where it lies.
func turned(b *Body, p Placement, by Angle) Placement {
	was := b.Box.Placed(p)
	p.TurnZ = (p.TurnZ + by) % (360 * Degree)
	now := b.Box.Placed(p)
	p.At.X += (was.Min.X+was.Max.X)/2 - (now.Min.X+now.Max.X)/2
	p.At.Y += (was.Min.Y+was.Max.Y)/2 - (now.Min.Y+now.Max.Y)/2
	return p
}

// misfit is how far two sides are from those of a box: the sum of the logarithms of both ratios.
func misfit(w, h Length, b Box) float64 {
	return math.Abs(math.Log(float64(w)/float64(b.Width()))) + math.Abs(math.Log(float64(h)/float64(b.Height())))
}

// scaleOff tells whether a body is smaller or larger than its pads by about the ratio of inch and millimetre.
func scaleOff(size Point3, around Box) (float64, string) {
	ratio := float64(max(around.Width(), around.Height())) / float64(max(size.X, size.Y))
	switch {
	case ratio > 25.4/2.2 && ratio < 25.4*2.2:
		return 25.4, "25.4"
	case ratio > 1/(25.4*2.2) && ratio < 2.2/25.4:
		return 1 / 25.4, "1 ÷ 25.4"
	}
	return 1, ""
}
