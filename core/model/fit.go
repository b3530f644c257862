package model

import (
	"fmt"
	"math"

	"jollydrawer/core/finding"
)

// Correction is a body's wrong place with the one that would mend it.
type Correction struct {
	finding.Finding
	Place Placement `json:"place" doc:"The body's place after the correction"`
}

// surfaceSink is how far a body may reach below the board's surface without holes: less than any solder joint.
const surfaceSink = MM / 10

// Fit lays a body's box beside the pads and says how it sits wrong: scale, turn, place, height. Each correction builds on
// the ones before it, so that the last one holds them all. It compares boxes and cannot see what a box does not show,
// such as a body turned by 180° whose box is the same.
func Fit(b *Body, name string, l *LandPattern) []Correction {
	var out []Correction
	place := b.PlaceOn(l, name)
	pads := l.PadBounds()
	around := pads // where the body belongs: as the assembly drawing shows it, else between the pads
	drawn := false
	var assembly Box
	for _, g := range l.Shapes {
		if g.Purpose == Assembly && g.Form != Text {
			assembly.TakeBox(g.Bounds())
		}
	}
	centred := pads.Centre()
	if assembly.Some && assembly.Width() > 0 && assembly.Height() > 0 {
		// Leads reach over the pads, the case over the outline: what fills both is how large the body is.
		around.TakeBox(assembly)
		centred, drawn = assembly.Centre(), true
	}
	say := func(sev finding.Severity, cause, mend string, form string, args ...any) {
		out = append(out, Correction{finding.Finding{Severity: sev, Cause: cause, Field: "body", Mend: mend, What: fmt.Sprintf(form, args...)}, place})
	}
	now := b.Box.Placed(place)
	size := now.Size()
	if size.X <= 0 || size.Y <= 0 || pads.Width() <= 0 || pads.Height() <= 0 {
		return nil
	}
	if f, is := scaleOff(size, around); is != "" {
		scale := float64(place.Scale) / 1e6
		if place.Scale == 0 {
			scale = 1
		}
		place.Scale = int64(math.Round(scale * f * 1e6))
		say(finding.Error, "body-scale", "scale it by "+is, "the body is %s × %s mm and the land pattern %s × %s mm: it looks as if it were %s", size.X.rounded(), size.Y.rounded(), around.Width().rounded(), around.Height().rounded(), map[bool]string{true: "drawn in inch and read as millimetres", false: "drawn in millimetres and read as inch"}[f > 1])
		now = b.Box.Placed(place)
		size = now.Size()
	}
	straight, quarter := misfit(size.X, size.Y, around), misfit(size.Y, size.X, around)
	if quarter+0.3 < straight {
		place = turned(b, place, 90*Degree)
		say(finding.Error, "body-turned", "turn it by 90°", "the body is %s × %s mm on a land pattern of %s × %s mm: it is turned by 90°", size.X.rounded(), size.Y.rounded(), around.Width().rounded(), around.Height().rounded())
		now = b.Box.Placed(place)
		size = now.Size()
	}
	centre := Point{(now.Min.X + now.Max.X) / 2, (now.Min.Y + now.Max.Y) / 2}
	off := Point{centred.X - centre.X, centred.Y - centre.Y}
	tolerance := max(min(around.Width(), around.Height())/6, MM/5)
	if abs(off.X) > tolerance || abs(off.Y) > tolerance {
		back := place
		back.TurnZ = (back.TurnZ + 180*Degree) % (360 * Degree)
		t := b.Box.Placed(back)
		if tx, ty := centred.X-(t.Min.X+t.Max.X)/2, centred.Y-(t.Min.Y+t.Max.Y)/2; abs(tx) <= tolerance && abs(ty) <= tolerance && drawn {
			place = back
			say(finding.Error, "body-turned", "turn it by 180°", "the body lies %s, %s mm beside its outline and on it when it is turned by 180°", off.X.rounded(), off.Y.rounded())
		} else {
			place.At.X, place.At.Y = place.At.X+off.X, place.At.Y+off.Y
			sev := finding.Warning
			if abs(off.X)*2 > around.Width() || abs(off.Y)*2 > around.Height() {
				sev = finding.Error
			}
			say(sev, "body-off", "move it onto the pads", "the body lies %s, %s mm beside the pads", (-off.X).rounded(), (-off.Y).rounded())
		}
		now = b.Box.Placed(place)
	}
	holes := false
	for _, p := range l.Pads {
		holes = holes || p.Hole > 0
	}
	switch height := now.Max.Z - now.Min.Z; {
	case now.Max.Z <= surfaceSink && height > 0:
		place.At.Z -= now.Min.Z
		say(finding.Error, "body-under", "lift it onto the board", "the body lies under the board: its top is at %s mm", now.Max.Z.rounded())
	case !holes && now.Min.Z < -surfaceSink:
		place.At.Z -= now.Min.Z
		say(finding.Warning, "body-sunk", "lift it onto the board", "the body reaches %s mm into the board", (-now.Min.Z).rounded())
	case now.Min.Z > MM/2:
		place.At.Z -= now.Min.Z
		say(finding.Warning, "body-floats", "set it down on the board", "the body floats %s mm above the board", now.Min.Z.rounded())
	}
	return out
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
