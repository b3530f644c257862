package model

import (
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/finding"
)

// House is how the house wants drawings to be. A rule that is blank or zero is not checked.
type House struct {
	Grid       Length `json:"grid,omitzero" yaml:"grid,omitempty" doc:"Grid that pins of symbols connect on, mm"`
	PinLength  Length `json:"pinLength,omitzero" yaml:"pinLength,omitempty" doc:"Length of all pins, mm"`
	TextSize   Length `json:"textSize,omitzero" yaml:"textSize,omitempty" doc:"Height of the texts of symbols, mm"`
	LandText   Length `json:"landTextSize,omitzero" yaml:"landTextSize,omitempty" doc:"Height of the texts of land patterns, mm"`
	Origin     string `json:"origin,omitempty" yaml:"origin,omitempty" doc:"Where the origin of a land pattern lies: centre or pin 1"`
	Courtyard  Length `json:"courtyard,omitzero" yaml:"courtyard,omitempty" doc:"How far the courtyard reaches beyond the copper, mm; none is checked where it is zero"`
	Designator bool   `json:"designator,omitempty" yaml:"designator,omitempty" doc:"Symbols and land patterns show the designator"`
	Texts      string `json:"texts,omitempty" yaml:"texts,omitempty" doc:"Side of a symbol on which texts of parameters stand that it has no place for: below, above, right or left; below where it is not said"`
	LandName   string `json:"landName,omitempty" yaml:"landName,omitempty" doc:"Pattern of the names of land patterns made from figures: {family} {pins} {pitch} {width} {length} {density}"`
	Silkscreen Length `json:"silkscreen,omitzero" yaml:"silkscreen,omitempty" doc:"Narrowest line on the silkscreen, mm"`
}

// Check says why h cannot be.
func (h House) Check() error {
	for _, l := range []Length{h.Grid, h.PinLength, h.TextSize, h.LandText, h.Courtyard, h.Silkscreen} {
		if l < 0 || l > 100*MM {
			return fmt.Errorf("house rules: %s mm is not between 0 and 100 mm", l)
		}
	}
	if h.Origin != "" && h.Origin != "centre" && h.Origin != "pin 1" {
		return fmt.Errorf(`house rules: the origin %q is none of "centre", "pin 1"`, h.Origin)
	}
	if err := CheckLandName(h.LandName); err != nil {
		return fmt.Errorf("house rules: %w", err)
	}
	if len(h.LandName) > 100 {
		return fmt.Errorf("house rules: the pattern of the names of land patterns is longer than 100 characters")
	}
	if h.Texts != "" && !slices.Contains(Sides, h.Texts) {
		return fmt.Errorf("house rules: the texts of parameters stand %q; they can stand %s", h.Texts, strings.Join(Sides, ", "))
	}
	return nil
}

// says collects findings.
type says struct{ all []finding.Finding }

func (s *says) say(sev finding.Severity, cause, field, mend, form string, args ...any) {
	s.all = append(s.all, finding.Finding{Severity: sev, Cause: cause, Field: field, Mend: mend, What: fmt.Sprintf(form, args...)})
}

// Causes that [Mend] can settle by itself.
const (
	CauseGrid       = "off-grid"
	CausePinLength  = "pin-length"
	CauseTextSize   = "text-size"
	CauseDesignator = "no-designator"
	CauseOrigin     = "origin"
	CauseCourtyard  = "no-courtyard"
	CauseTight      = "courtyard-tight"
	CauseSilk       = "silkscreen-thin"
	CauseProperties = "properties"
)

var mendable = map[string]string{
	CauseGrid:       "move the pins onto the grid",
	CausePinLength:  "give all pins the house's length, keeping the ends that connect",
	CauseTextSize:   "give all texts the house's height",
	CauseDesignator: "add the designator",
	CauseOrigin:     "move the origin",
	CauseCourtyard:  "draw the courtyard around copper and outlines",
	CauseTight:      "draw the courtyard anew around copper and outlines",
	CauseSilk:       "widen the lines",
	CauseProperties: "remove them from the symbol",
}

// Mends says which causes one click settles, and how.
func Mends(cause string) (string, bool) { m, ok := mendable[cause]; return m, ok }

// Check says what is wrong with a drawing by itself and under the house's rules. pitch is that of the drawer's parameter
// for a land pattern; zero where there is none.
func Check(c *Content, h House, pitch Length) []finding.Finding {
	var s says
	switch {
	case c.Symbol != nil:
		s.symbol(c.Symbol, h)
	case c.Land != nil:
		s.land(c.Land, h, pitch)
	case c.Body != nil:
		if c.Body.StandIn {
			s.say(finding.Warning, "stand-in", "body", "replace it with a STEP file", "a plain block stands in for the body")
		}
	}
	return s.all
}

func (s *says) symbol(m *Symbol, h House) {
	seen, places := map[string]bool{}, map[Point]string{}
	var off, long, unnamed, twice, onto []string
	for _, p := range m.Pins {
		if seen[p.Number] {
			twice = append(twice, p.Number)
		}
		seen[p.Number] = true
		if other, ok := places[p.At]; ok && len(m.Units) < 2 {
			onto = append(onto, other+" and "+p.Number)
		}
		places[p.At] = p.Number
		if h.Grid > 0 && (p.At.X%h.Grid != 0 || p.At.Y%h.Grid != 0) {
			off = append(off, p.Number)
		}
		if h.PinLength > 0 && p.Length != h.PinLength && !p.Hidden {
			long = append(long, p.Number)
		}
		if (p.Type == PowerIn || p.Type == PowerOut) && p.Label() == "" {
			unnamed = append(unnamed, p.Number)
		}
	}
	if len(twice) > 0 {
		s.say(finding.Error, "pin-twice", "pins", "give each pin its own number", "the pin number %s stands on two pins", list(twice))
	}
	if len(onto) > 0 {
		s.say(finding.Error, "pins-meet", "pins", "move one of them", "the pins %s connect at the same point", list(onto))
	}
	if len(unnamed) > 0 {
		s.say(finding.Warning, "power-unnamed", "pins", "name them as the datasheet does", "pins of a power type have no name: %s", list(unnamed))
	}
	if len(off) > 0 {
		s.say(finding.Warning, CauseGrid, "pins", mendable[CauseGrid], "%s not connect on the grid of %s mm: %s", count(len(off), "pin does", "pins do"), h.Grid, list(off))
	}
	if len(long) > 0 {
		s.say(finding.Note, CausePinLength, "pins", mendable[CausePinLength], "%s not %s mm long: %s", count(len(long), "pin is", "pins are"), h.PinLength, list(long))
	}
	if len(m.Properties) > 0 {
		s.say(finding.Note, CauseProperties, "properties", mendable[CauseProperties], "%s written on the symbol; what it says belongs to the part", count(len(m.Properties), "property is", "properties are"))
	}
	s.texts(m.Shapes, h.TextSize, h.Designator)
}

func list(all []string) string {
	const most = 8
	if len(all) > most {
		return strings.Join(all[:most], ", ") + fmt.Sprintf(" and %d more", len(all)-most)
	}
	return strings.Join(all, ", ")
}

func (s *says) texts(all []Shape, size Length, shown bool) {
	designator, sized := false, 0
	for _, g := range all {
		if g.Form != Text {
			continue
		}
		designator = designator || g.Text == Designator
		if size > 0 && g.Size != size {
			sized++
		}
	}
	if sized > 0 {
		s.say(finding.Note, CauseTextSize, "texts", mendable[CauseTextSize], "%s %s mm high", count(sized, "text is not", "texts are not"), size)
	}
	if shown && !designator {
		s.say(finding.Warning, CauseDesignator, "texts", mendable[CauseDesignator], "the designator is not shown")
	}
}

func (s *says) land(l *LandPattern, h House, pitch Length) {
	for _, p := range overlaps(l) {
		s.say(finding.Error, "pads-overlap", "pads", "move or narrow one of them", "the pads %s and %s overlap", name(p[0]), name(p[1]))
	}
	courtyard, outside := Box{}, []string{}
	for _, g := range l.Shapes {
		if g.Purpose == Courtyard {
			courtyard.TakeBox(g.Bounds())
		}
	}
	copper := l.PadBounds()
	switch {
	case !courtyard.Some && h.Courtyard > 0:
		s.say(finding.Warning, CauseCourtyard, "outlines", mendable[CauseCourtyard], "there is no courtyard")
	case courtyard.Some:
		for _, p := range l.Pads {
			if b := p.Bounds(); b.Min.X < courtyard.Min.X || b.Min.Y < courtyard.Min.Y || b.Max.X > courtyard.Max.X || b.Max.Y > courtyard.Max.Y {
				outside = append(outside, name(p))
			}
		}
		if len(outside) > 0 {
			s.say(finding.Error, CauseTight, "outlines", mendable[CauseTight], "the pads %s leave the courtyard", list(outside))
		} else if gap := min(copper.Min.X-courtyard.Min.X, copper.Min.Y-courtyard.Min.Y, courtyard.Max.X-copper.Max.X, courtyard.Max.Y-copper.Max.Y); gap < h.Courtyard {
			s.say(finding.Warning, CauseTight, "outlines", mendable[CauseTight], "the courtyard reaches %s mm beyond the copper; the house wants %s mm", gap, h.Courtyard)
		}
	}
	if f := l.Features(); pitch > 0 && f.Pitch > 0 && abs(f.Pitch-pitch)*50 > pitch {
		s.say(finding.Error, "pitch", "pads", "use a land pattern of that pitch, or correct the part's parameter", "the pads have a pitch of %s mm; the part says %s mm", f.Pitch, pitch)
	}
	if by, ok := l.originOff(h); ok {
		s.say(finding.Warning, CauseOrigin, "origin", mendable[CauseOrigin], "the origin is %s, %s mm away from the %s", by.X.rounded(), by.Y.rounded(), h.Origin)
	}
	thin := 0
	for _, g := range l.Shapes {
		if g.Purpose == Silkscreen && g.Form != Text && g.Width < h.Silkscreen {
			thin++
		}
	}
	if thin > 0 {
		s.say(finding.Note, CauseSilk, "outlines", mendable[CauseSilk], "%s narrower than %s mm", count(thin, "line on the silkscreen is", "lines on the silkscreen are"), h.Silkscreen)
	}
	for _, p := range l.Pads {
		if p.Hole > 0 && !p.Unplated && p.Hole >= min(p.Width, p.Height) {
			s.say(finding.Error, "no-ring", "pads", "widen the pad or narrow the hole", "the hole of pad %s leaves no ring of copper", name(p))
		}
	}
	var bare []string
	for _, p := range l.Pads {
		peg := p.Hole > 0 && p.Unplated && max(p.Width, p.Height) <= p.Hole+p.Slot
		if p.Number == "" && !peg {
			bare = append(bare, name(p))
		}
	}
	if len(bare) > 0 {
		s.say(finding.Warning, "copper-unnumbered", "pads", "number them, or accept that no pin belongs to them", "%s no number: %s", count(len(bare), "piece of copper has", "pieces of copper have"), list(bare))
	}
	s.texts(l.Shapes, h.LandText, h.Designator)
}

func name(p Pad) string {
	if p.Number == "" {
		return fmt.Sprintf("at %s, %s", p.At.X, p.At.Y)
	}
	return p.Number
}

// originOff returns where the origin should be, if it is not there.
func (l *LandPattern) originOff(h House) (to Point, off bool) {
	switch h.Origin {
	case "centre":
		to = l.PadBounds().Centre()
	case "pin 1":
		numbers := l.Numbers()
		if len(numbers) == 0 {
			return to, false
		}
		for _, p := range l.Pads {
			if p.Number == numbers[0] {
				to = p.At
				break
			}
		}
	default:
		return to, false
	}
	return to, abs(to.X) > MM/100 || abs(to.Y) > MM/100
}

// overlaps returns pairs of pads of different numbers whose copper meets on one side of the board.
func overlaps(l *LandPattern) (out [][2]Pad) {
	boxes := make([]Box, len(l.Pads))
	for i, p := range l.Pads {
		boxes[i] = p.Bounds()
	}
	for i, p := range l.Pads {
		for j := i + 1; j < len(l.Pads); j++ {
			q, a, b := l.Pads[j], boxes[i], boxes[j]
			if a.Max.X <= b.Min.X || b.Max.X <= a.Min.X || a.Max.Y <= b.Min.Y || b.Max.Y <= a.Min.Y {
				continue
			}
			if p.Number == q.Number && p.Number != "" || p.Bottom != q.Bottom && p.Hole == 0 && q.Hole == 0 {
				continue
			}
			if meet(p.corners(), q.corners()) && !p.leavesRoomFor(q) && !q.leavesRoomFor(p) {
				if out = append(out, [2]Pad{p, q}); len(out) == 20 {
					return out
				}
			}
		}
	}
	return out
}

// leavesRoomFor says whether a pad lies in a cut-out of this one, as the middle of a connector for coaxial cable does.
func (p Pad) leavesRoomFor(q Pad) bool {
	if q.Hole > 0 && p.Hole > 0 && (p.Below != nil || p.Inner != nil || q.Below != nil || q.Inner != nil) {
		return false // other copper on other layers is not looked at here
	}
	return slices.ContainsFunc(p.Figure().cutPlaced(), func(c Figure) bool { return inside(p.placed(c, 12), q.corners()) })
}

// meet tells whether two convex outlines share area, by looking for a line that parts them (separating axis).
func meet(a, b []Point) bool {
	for _, poly := range [][]Point{a, b} {
		for i, p := range poly {
			q := poly[(i+1)%len(poly)]
			nx, ny := float64(q.Y-p.Y), float64(p.X-q.X)
			span := func(points []Point) (lo, hi float64) {
				for k, c := range points {
					v := nx*float64(c.X) + ny*float64(c.Y)
					if k == 0 || v < lo {
						lo = v
					}
					if k == 0 || v > hi {
						hi = v
					}
				}
				return lo, hi
			}
			al, ah := span(a)
			bl, bh := span(b)
			if (nx != 0 || ny != 0) && (ah <= bl || bh <= al) {
				return false
			}
		}
	}
	return true
}
