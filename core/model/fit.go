package model

import (
	"fmt"
	"math"
	"slices"

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

// Fit lays a body's box, its feet and its mark beside the pads and the outline and says how it sits wrong: another package, scale, turn, place, height. Feet that lie on
// the pads in one way tell it all. Boxes do not tell a half turn, nor which of two quarter turns is meant, nor whether a body hangs over the edge on purpose: where they allow
// several readings it asks, with each of them, that by which the body's mark lies at pad 1 first, and corrects nothing. The land pattern can say that a body is meant to hang over.
func Fit(b *Body, name string, l *LandPattern) Sitting {
	f := fitting{seat: seat{pads: l.PadBounds(), land: l}, body: b, place: b.PlaceOn(l, name), certain: true, out: Sitting{Findings: []finding.Finding{}, Placings: []Placing{}}}
	for _, g := range l.Shapes {
		if g.Purpose == Assembly && g.Form != Text {
			f.outline.TakeBox(g.Bounds())
		}
	}
	size := b.Box.Placed(f.place).Size()
	if size.X <= 0 || size.Y <= 0 || f.pads.Width() <= 0 || f.pads.Height() <= 0 {
		return f.out
	}
	scaled := f.scale()
	size = b.Box.Placed(f.place).Size()
	off, lies := f.sizeOff(size.X, size.Y)
	stands := f.standing(b, f.place)
	if !stands.sure() && f.another(b, f.place, off) {
		f.say(finding.Error, "body-other", "link the body of this package", "the body is %s: it looks like that of another package", f.sizes(size))
		return f.out
	}
	switch {
	case stands.sure():
		f.onFeet(stands)
	case lies:
		f.across(size)
	default:
		f.beside(off)
	}
	if stands.none {
		f.say(finding.Warning, "body-feet", "link the body of this package, or mend the land pattern", "the body stands on %d feet, as many as there are pads, and they do not lie on the pads however it is turned", len(b.Feet))
		f.certain = false
	}
	if scaled && f.certain && !stands.sure() && !f.upright(size.X, size.Y) { // its size tells that it is too small, and not how it lies
		f.ask(Placing{What: "scale it", Place: f.place}, Placing{What: "scale it and turn it by 90°", Place: turned(b, f.place, 90*Degree)}, Placing{What: "scale it and turn it by 270°", Place: turned(b, f.place, 270*Degree)})
	}
	f.mark()
	f.height()
	f.markedFirst(b, f.asked)
	switch {
	case len(f.asked) > 0:
		f.out.Placings = f.asked
	case f.certain && len(f.out.Findings) > 0:
		f.out.Placings = []Placing{{What: "put it right", Place: f.place, Certain: true}}
	}
	return f.out
}

// fitting is a body that is being laid on its seat.
type fitting struct {
	seat
	body    *Body
	place   Placement // with all that was put right so far
	certain bool      // nothing had to be asked so far
	asked   []Placing
	out     Sitting
}

func (f *fitting) say(sev finding.Severity, cause, mend string, form string, args ...any) {
	f.out.Findings = append(f.out.Findings, finding.Finding{Severity: sev, Cause: cause, Field: "body", Mend: mend, What: fmt.Sprintf(form, args...)})
}

// ask offers ways to put a body right. What is asked first is asked alone: each way is whole.
func (f *fitting) ask(ways ...Placing) {
	if f.certain {
		f.asked = append(f.asked, ways...)
	}
	f.certain = false
}

// sizes are those of the body and of what is drawn, in words.
func (f *fitting) sizes(size Point3) string {
	a := f.around()
	return fmt.Sprintf("%s × %s mm on a land pattern of %s × %s mm", size.X.rounded(), size.Y.rounded(), a.Width().rounded(), a.Height().rounded())
}

// scale mends a body that is smaller or larger than its pads by about the ratio of inch and millimetre.
func (f *fitting) scale() bool {
	size := f.body.Box.Placed(f.place).Size()
	by, words := scaleOff(size, f.around())
	if words == "" {
		return false
	}
	was := float64(f.place.Scale) / 1e6
	if f.place.Scale == 0 {
		was = 1
	}
	f.place.Scale = int64(math.Round(was * by * 1e6))
	f.say(finding.Error, "body-scale", "scale it by "+words, "the body is %s: it looks as if it were %s", f.sizes(size), map[bool]string{true: "drawn in inch and read as millimetres", false: "drawn in millimetres and read as inch"}[by > 1])
	return true
}

// onFeet lays a body as its feet tell.
func (f *fitting) onFeet(s standing) {
	switch {
	case s.asIs:
		return
	case s.by != 0:
		f.say(finding.Error, "body-turned", fmt.Sprintf("turn it by %s°", s.by), "the body's feet do not lie on the pads; turned by %s° they do", s.by)
	default:
		f.say(finding.Warning, "body-off", "move it onto the pads", "the body's feet lie %s, %s mm beside the pads", (f.place.At.X - s.place.At.X).rounded(), (f.place.At.Y - s.place.At.Y).rounded())
	}
	f.place = s.place
}

// across asks how a body is to be turned that lies the other way round.
func (f *fitting) across(size Point3) {
	f.say(finding.Error, "body-turned", "turn it by 90° or by 270°, as the part's pin 1 lies", "the body is %s: it is turned by 90° or by 270°", f.sizes(size))
	for _, by := range []Angle{90 * Degree, 270 * Degree} {
		f.asked = append(f.asked, Placing{What: fmt.Sprintf("turn it by %s°", by), Place: f.centred(f.body, turned(f.body, f.place, by))})
	}
	f.certain = false
}

// beside moves a body that lies beside its seat, or asks. It is certain where the outline is drawn and the body is of its size, so that it
// belongs onto it; a body that lies over its pads and reaches beyond them may be meant to.
func (f *fitting) beside(sizeOff float64) {
	b, p := f.body, f.place
	moved := f.centred(b, p)
	off := Point{moved.At.X - p.At.X, moved.At.Y - p.At.Y}
	if abs(off.X) <= f.tolerance() && abs(off.Y) <= f.tolerance() || f.hangs() && f.touched(b.Box.Placed(p)) >= 0.5 {
		return
	}
	sev := finding.Warning
	if a := f.around(); abs(off.X)*2 > a.Width() || abs(off.Y)*2 > a.Height() {
		sev = finding.Error
	}
	half := turned(b, p, 180*Degree)
	half.At = p.At // about its own origin, not its middle
	now, to := b.Box.Placed(half), f.centre()
	overHalf := abs(to.X-(now.Min.X+now.Max.X)/2) <= f.tolerance() && abs(to.Y-(now.Min.Y+now.Max.Y)/2) <= f.tolerance()
	if size := b.Box.Placed(p).Size(); f.drawn() && sizeOff < 0.25 && f.upright(size.X, size.Y) && !overHalf {
		f.say(sev, "body-off", "move it onto the pads", "the body lies %s, %s mm beside its outline", (-off.X).rounded(), (-off.Y).rounded())
		f.place = moved
		return
	}
	f.say(sev, "body-off", "move it, turn it, or say on the land pattern that it hangs over", "the body lies %s, %s mm beside the pads: it may be misplaced, or meant to hang over", (-off.X).rounded(), (-off.Y).rounded())
	if overHalf {
		f.asked = append(f.asked, Placing{What: "turn it by 180°", Place: half})
	}
	f.asked = append(f.asked, Placing{What: "move it onto the pads", Place: moved})
	f.certain = false
}

// mark asks about a body whose mark lies nearer to the first pad once it is turned.
func (f *fitting) mark() {
	if way, now, then, ok := f.marked(f.body, f.place); ok && f.certain {
		f.say(finding.Warning, "body-pin1", "turn it, or look at the mark", "the mark on the body lies %s mm from pad 1; turned it would lie %s mm from it", now.rounded(), then.rounded())
		f.ask(way)
	}
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

// height looks at a body from the side. What lies too low or too high may be misplaced, upside down, or meant so.
func (f *fitting) height() {
	b, place := f.body, f.place
	now := b.Box.Placed(place)
	holes := slices.ContainsFunc(f.land.Pads, func(p Pad) bool { return p.Hole > 0 })
	lifted, over := place, place
	lifted.At.Z -= now.Min.Z
	over.TurnX = (over.TurnX + 180*Degree) % (360 * Degree)
	switch height := now.Max.Z - now.Min.Z; {
	case now.Max.Z <= surfaceSink && height > 0:
		f.say(finding.Error, "body-under", "lift it onto the board, or turn it over", "the body lies under the board: its top is at %s mm", now.Max.Z.rounded())
		all := []Placing{{What: "lift it onto the board", Place: lifted}}
		if t := b.Box.Placed(over); t.Min.Z >= -surfaceSink {
			all = append(all, Placing{What: "turn it over", Place: over})
		}
		f.ask(all...)
	case !holes && now.Min.Z < -surfaceSink:
		f.say(finding.Warning, "body-sunk", "lift it onto the board", "the body reaches %s mm into the board, which has no hole there", (-now.Min.Z).rounded())
		f.ask(Placing{What: "lift it onto the board", Place: lifted})
	case now.Min.Z > MM/2:
		f.say(finding.Warning, "body-floats", "set it down on the board", "the body floats %s mm above the board", now.Min.Z.rounded())
		f.ask(Placing{What: "set it down on the board", Place: lifted})
	}
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
