package model

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// The families of packages of which land patterns are made from figures.
const (
	FamilyChip     = "chip"     // two ends of a block
	FamilyCylinder = "cylinder" // two end caps of a cylinder
	FamilyGullDual = "gull wing dual"
	FamilyGullQuad = "gull wing quad"
	FamilyFlatDual = "no-lead dual"
	FamilyFlatQuad = "no-lead quad"
	FamilyGrid     = "ball grid"
	FamilyHoles    = "pins in holes"
)

// Families lists the families.
var Families = []string{FamilyChip, FamilyCylinder, FamilyGullDual, FamilyGullQuad, FamilyFlatDual, FamilyFlatQuad, FamilyGrid, FamilyHoles}

// Figures are the dimensions of a package, as its drawing gives them. Which of them are needed, the family tells.
type Figures struct {
	Family string `json:"family" enum:"chip,cylinder,gull wing dual,gull wing quad,no-lead dual,no-lead quad,ball grid,pins in holes"`
	Pins   int    `json:"pins,omitempty" doc:"Terminals, without a thermal pad; of four rows the same number in each unless pinsAcross says otherwise"`
	// PinsAcross of four rows: how many stand in each of the upper and lower rows.
	PinsAcross int    `json:"pinsAcross,omitempty"`
	Pitch      Length `json:"pitch,omitzero"`
	Span       Range  `json:"span,omitzero" doc:"Over the ends of the terminals of the left and right rows"`
	SpanAcross Range  `json:"spanAcross,omitzero" doc:"The same of the upper and lower rows; as span where blank"`
	LeadLength Range  `json:"leadLength,omitzero" doc:"How long the part of a terminal is that is soldered"`
	LeadWidth  Range  `json:"leadWidth,omitzero" doc:"Width of a terminal; of pins in holes its thickness; of a chip the width of its end"`
	BodyWidth  Range  `json:"bodyWidth,omitzero" doc:"The case from left to right"`
	BodyLength Range  `json:"bodyLength,omitzero" doc:"The case from top to bottom"`
	ThermalX   Length `json:"thermalX,omitzero" doc:"Width of a thermal pad; none where blank"`
	ThermalY   Length `json:"thermalY,omitzero"`
	Rows       int    `json:"rows,omitempty" doc:"Of a ball grid, or of pins in holes: 1 or 2"`
	Columns    int    `json:"columns,omitempty" doc:"Of a ball grid"`
	Ball       Length `json:"ball,omitzero" doc:"Diameter of a ball"`
	Missing    string `json:"missing,omitempty" maxLength:"2000" doc:"Balls that are not there: D4-D9, E4"`
	RowSpacing Length `json:"rowSpacing,omitzero" doc:"Of pins in holes in two rows: from row to row"`
	Count      string `json:"count,omitempty" enum:"round,across," doc:"Of pins in holes in two rows: numbered round, or across from row to row; round where blank"`
	Name       string `json:"name,omitempty" maxLength:"100" doc:"Pattern of the name: {family} {pins} {pitch} {width} {length} {density}"`
}

// read are the figures with what the texts of their ranges say.
func (f Figures) read() (Figures, error) {
	for _, r := range []struct {
		what string
		of   *Range
	}{{"span", &f.Span}, {"span across", &f.SpanAcross}, {"length of a terminal", &f.LeadLength}, {"width of a terminal", &f.LeadWidth}, {"width of the body", &f.BodyWidth}, {"length of the body", &f.BodyLength}} {
		var err error
		if *r.of, err = r.of.read(r.what); err != nil {
			return f, err
		}
	}
	return f, nil
}

// Working is a figure that was worked out, for looking at beside the drawing.
type Working struct {
	What  string `json:"what"`
	Value Length `json:"value"`
}

// Made is a land pattern made from figures, with what it came to.
type Made struct {
	Name     string       `json:"name"`
	Density  string       `json:"density"`
	Land     *LandPattern `json:"landPattern"`
	Workings []Working    `json:"workings"`
}

// MakeLand makes the land pattern of a package at one density level, by IPC-7351B; of pins in holes by IPC-2221 and IPC-2222. With
// courtyard, assembly outline, a mark of pin 1 and the designator.
func MakeLand(f Figures, density string) (Made, error) {
	out := Made{Density: density, Land: &LandPattern{Density: density, Pads: []Pad{}}, Workings: []Working{}}
	if err := CheckLandName(f.Name); err != nil {
		return out, err
	}
	if !slices.Contains(Densities, density) {
		return out, fmt.Errorf("the density %q is none of %s", clip(density), strings.Join(Densities, ", "))
	}
	f, err := f.read()
	if err != nil {
		return out, err
	}
	m := maker{f: f, density: density, out: &out}
	switch f.Family {
	case FamilyChip, FamilyCylinder:
		err = m.chip()
	case FamilyGullDual, FamilyFlatDual:
		err = m.dual()
	case FamilyGullQuad, FamilyFlatQuad:
		err = m.quad()
	case FamilyGrid:
		err = m.grid()
	case FamilyHoles:
		err = m.holes()
	default:
		err = fmt.Errorf("the family %q is none of %s", clip(f.Family), strings.Join(Families, ", "))
	}
	if err != nil {
		return out, err
	}
	m.outlines()
	out.Name = m.f.named(density)
	return out, out.Land.Check()
}

// named fills in the pattern of the name.
func (f Figures) named(density string) string {
	pattern := f.Name
	if pattern == "" {
		pattern = DefaultLandName
	}
	pins := f.Pins
	switch f.Family {
	case FamilyChip, FamilyCylinder:
		pins = 2
	case FamilyGrid:
		pins = f.Rows*f.Columns - len(f.missing())
	}
	size := func(r Range) string { return ((r.Min + r.Max) / 2).rounded() }
	name := strings.NewReplacer("{family}", f.Family, "{pins}", strconv.Itoa(pins), "{pitch}", f.Pitch.rounded(), "{width}", size(f.BodyWidth), "{length}", size(f.BodyLength), "{density}", density).Replace(pattern)
	return strings.Join(strings.Fields(name), " ")
}

// DefaultLandName is the pattern of the names of land patterns made from figures where neither they nor the house have one.
const DefaultLandName = "{family} {pins} {width} x {length} {density}"

var inName = regexp.MustCompile(`\{[^}]*\}?`)

// CheckLandName says why a pattern of names of land patterns cannot be filled.
func CheckLandName(pattern string) error {
	known := []string{"{family}", "{pins}", "{pitch}", "{width}", "{length}", "{density}"}
	for _, in := range inName.FindAllString(pattern, -1) {
		if !slices.Contains(known, in) {
			return fmt.Errorf("the pattern %q of names has %s, which is none of %s", clip(pattern), clip(in), strings.Join(known, ", "))
		}
	}
	return nil
}

type maker struct {
	f       Figures
	density string
	out     *Made
	goal    goal
	beyond  Length // courtyard
}

func (m *maker) working(what string, v Length) {
	m.out.Workings = append(m.out.Workings, Working{what, v})
}

func (m *maker) add(number string, at Point, p Pad) {
	p.Number, p.At = number, at
	m.out.Land.Pads = append(m.out.Land.Pads, p)
}

// need checks the dimensions that a family cannot do without.
func (m *maker) need(all map[string]Range) error {
	for _, what := range []string{"span", "span across", "length of the terminals", "width of the terminals", "width of the body", "length of the body"} {
		if r, ok := all[what]; ok {
			if err := r.check(what); err != nil {
				return err
			}
		}
	}
	return nil
}

func (m *maker) spanned(what string, l, t, w Range) (rowLands, error) {
	s := landsOf(l, t, w, m.goal)
	if s.z <= s.g || s.x <= 0 || s.g <= 0 {
		return s, fmt.Errorf("the %s of %s to %s mm and the length of the terminals of %s to %s mm leave no room for two lands", what, l.Min, l.Max, t.Min, t.Max)
	}
	m.working("Z, over the lands ("+what+")", s.z)
	m.working("G, between the lands ("+what+")", s.g)
	m.working("X, width of a land", s.x)
	return s, nil
}

// flat is a pad of the surface; its corners are rounded by a fifth of the shorter side, 0.25 mm at most, as IPC-7351B clause 3.2 allows.
func flat(w, h Length) Pad {
	r := min(nearest(min(w, h)/5, MM/100), MM/4)
	if r <= 0 {
		return Pad{Shape: PadRectangle, Width: w, Height: h}
	}
	return Pad{Shape: PadRounded, Width: w, Height: h, Corner: r}
}

func (m *maker) chip() error {
	f := &m.f
	if f.BodyWidth == (Range{}) {
		f.BodyWidth = f.Span
	}
	if f.BodyLength == (Range{}) {
		f.BodyLength = f.LeadWidth
	}
	if err := m.need(map[string]Range{"span": f.Span, "length of the terminals": f.LeadLength, "width of the terminals": f.LeadWidth}); err != nil {
		return err
	}
	table := f.Family
	if table == FamilyChip && (f.Span.Min+f.Span.Max)/2 < 14*MM/10 { // smaller than 1608
		table = "small chip"
	}
	m.goal = goals[table][m.density]
	m.beyond = m.goal.courtyard
	s, err := m.spanned("length", f.Span, f.LeadLength, f.LeadWidth)
	if err != nil {
		return err
	}
	pad := flat((s.z-s.g)/2, s.x)
	at := (s.z + s.g) / 4
	m.add("1", Point{X: -at}, pad)
	m.add("2", Point{X: at}, pad)
	m.out.Land.Mounting = "surface"
	return nil
}

// rowsGoal finds the goals of leads in rows.
func (m *maker) rowsGoal() error {
	f := m.f
	if f.Pitch <= 0 || f.Pitch > 100*MM {
		return fmt.Errorf("the pitch of %s mm is not between 0 and 100 mm", f.Pitch)
	}
	table := "no-lead"
	if f.Family == FamilyGullDual || f.Family == FamilyGullQuad {
		if table = "gull"; f.Pitch <= 625*MM/1000 {
			table = "fine gull"
		}
	}
	m.goal = goals[table][m.density]
	m.beyond = m.goal.courtyard
	m.out.Land.Mounting = "surface"
	return m.need(map[string]Range{"span": f.Span, "length of the terminals": f.LeadLength, "width of the terminals": f.LeadWidth, "width of the body": f.BodyWidth, "length of the body": f.BodyLength})
}

// narrow keeps lands of neighbours apart: by 0.2 mm at least where the pitch allows it.
func (m *maker) narrow(x Length) Length {
	if most := m.f.Pitch - MM/5; x > most && most >= m.f.LeadWidth.Max {
		m.working("X, kept 0.2 mm from its neighbour", most)
		return most
	}
	return x
}

func (m *maker) dual() error {
	f := m.f
	if err := m.rowsGoal(); err != nil {
		return err
	}
	if f.Pins < 2 || f.Pins%2 != 0 || f.Pins > 1000 {
		return fmt.Errorf("two rows need an even number of pins, 2 to 1,000, not %d", f.Pins)
	}
	s, err := m.spanned("span", f.Span, f.LeadLength, f.LeadWidth)
	if err != nil {
		return err
	}
	pad := flat((s.z-s.g)/2, m.narrow(s.x))
	each := f.Pins / 2
	for i := range f.Pins {
		at := Point{-(s.z + s.g) / 4, f.Pitch * Length(each-1-2*i) / 2}
		if i >= each {
			at = Point{(s.z + s.g) / 4, f.Pitch * Length(2*(i-each)-each+1) / 2}
		}
		m.add(strconv.Itoa(i+1), at, pad)
	}
	return m.thermal(f.Pins + 1)
}

func (m *maker) quad() error {
	f := m.f
	if err := m.rowsGoal(); err != nil {
		return err
	}
	across := f.PinsAcross
	if across == 0 {
		across = f.Pins / 4
	}
	side := (f.Pins - 2*across) / 2
	if f.Pins < 4 || f.Pins > 1000 || across < 1 || side < 1 || 2*side+2*across != f.Pins {
		return fmt.Errorf("four rows need %d pins to be shared out: opposite rows have as many as each other", f.Pins)
	}
	other := f.SpanAcross
	if !other.some() {
		other = f.Span
	}
	s, err := m.spanned("span", f.Span, f.LeadLength, f.LeadWidth)
	if err != nil {
		return err
	}
	a := s
	if other != f.Span {
		if err := other.check("span across"); err != nil {
			return err
		}
		if a, err = m.spanned("span across", other, f.LeadLength, f.LeadWidth); err != nil {
			return err
		}
	}
	x := m.narrow(s.x)
	lying, upright := flat((s.z-s.g)/2, x), flat(x, (a.z-a.g)/2)
	n := 0
	row := func(count int, at func(i Length) Point, p Pad) {
		for i := range count {
			n++
			m.add(strconv.Itoa(n), at(Length(2*i-count+1)*f.Pitch/2), p)
		}
	}
	row(side, func(i Length) Point { return Point{-(s.z + s.g) / 4, -i} }, lying)
	row(across, func(i Length) Point { return Point{i, -(a.z + a.g) / 4} }, upright)
	row(side, func(i Length) Point { return Point{(s.z + s.g) / 4, i} }, lying)
	row(across, func(i Length) Point { return Point{-i, (a.z + a.g) / 4} }, upright)
	return m.thermal(n + 1)
}

// thermal adds a thermal pad, its paste in windows of some 60 % of it.
func (m *maker) thermal(number int) error {
	w, h := m.f.ThermalX, m.f.ThermalY
	if w == 0 && h == 0 {
		return nil
	}
	if w <= 0 || h <= 0 {
		return fmt.Errorf("a thermal pad needs a width and a height above zero")
	}
	for _, p := range m.out.Land.Pads {
		b := p.Bounds()
		if b.Min.X < w/2+MM/10 && b.Max.X > -w/2-MM/10 && b.Min.Y < h/2+MM/10 && b.Max.Y > -h/2-MM/10 {
			return fmt.Errorf("the thermal pad of %s × %s mm comes nearer than 0.1 mm to the land of pin %s", w, h, p.Number)
		}
	}
	p := Pad{Shape: PadRectangle, Width: w, Height: h}
	columns, rows := max(1, int(w/(15*MM/10))), max(1, int(h/(15*MM/10)))
	cw, ch := w/Length(columns), h/Length(rows)
	for i := range columns {
		for j := range rows {
			p.Openings = append(p.Openings, Opening{Of: OfPaste, Figure: Figure{Shape: PadRectangle, At: Point{cw * Length(2*i-columns+1) / 2, ch * Length(2*j-rows+1) / 2}, Width: nearest(cw*775/1000, MM/100), Height: nearest(ch*775/1000, MM/100)}})
		}
	}
	m.add(strconv.Itoa(number), Point{}, p)
	return nil
}

// rowLetters are the letters of the rows of a ball grid (JEDEC JEP95 section 3: without I, O, Q, S, X, Z).
const rowLetters = "ABCDEFGHJKLMNPRTUVWY"

func rowName(i int) string {
	if i < len(rowLetters) {
		return string(rowLetters[i])
	}
	i -= len(rowLetters)
	return string(rowLetters[i/len(rowLetters)]) + string(rowLetters[i%len(rowLetters)])
}

// missing are the balls that are not there.
func (f Figures) missing() map[string]bool {
	out := map[string]bool{}
	if all, ok := numbersIn(f.Missing); ok && strings.TrimSpace(f.Missing) != "" {
		for _, n := range all {
			out[strings.ToUpper(n)] = true
		}
	}
	return out
}

func (m *maker) grid() error {
	f := m.f
	switch {
	case f.Rows < 1 || f.Columns < 1 || f.Rows > 100 || f.Columns > 100 || f.Rows*f.Columns > MostPins:
		return fmt.Errorf("a grid of %d rows and %d columns is not between 1 and 100 each, with at most %d balls", f.Rows, f.Columns, MostPins)
	case f.Pitch <= 0 || f.Pitch > 10*MM:
		return fmt.Errorf("the pitch of %s mm is not between 0 and 10 mm", f.Pitch)
	case f.Ball <= 0 || f.Ball >= f.Pitch:
		return fmt.Errorf("a ball of %s mm at a pitch of %s mm leaves no room between two", f.Ball, f.Pitch)
	}
	if _, ok := numbersIn(f.Missing); !ok && strings.TrimSpace(f.Missing) != "" {
		return fmt.Errorf("the missing balls %q are no list such as D4-D9, E4", clip(f.Missing))
	}
	if err := m.need(map[string]Range{"width of the body": f.BodyWidth, "length of the body": f.BodyLength}); err != nil {
		return err
	}
	d := ballLand(f.Ball)
	m.working("land under a ball", d)
	m.beyond = gridCourtyard[m.density]
	gone := f.missing()
	for r := range f.Rows {
		for c := range f.Columns {
			number := rowName(r) + strconv.Itoa(c+1)
			if gone[number] {
				delete(gone, number)
				continue
			}
			m.add(number, Point{f.Pitch * Length(2*c-f.Columns+1) / 2, f.Pitch * Length(f.Rows-1-2*r) / 2}, Pad{Shape: PadRound, Width: d, Height: d})
		}
	}
	for n := range gone {
		return fmt.Errorf("the ball %s that is to be missing is not in the grid", clip(n))
	}
	m.out.Land.Mounting = "surface"
	return nil
}

func (m *maker) holes() error {
	f := m.f
	switch {
	case f.Pins < 1 || f.Pins > 1000:
		return fmt.Errorf("the number of pins is %d; it can be 1 to 1,000", f.Pins)
	case f.Rows != 1 && f.Rows != 2:
		return fmt.Errorf("pins in holes stand in 1 or 2 rows, not %d", f.Rows)
	case f.Rows == 2 && (f.Pins%2 != 0 || f.RowSpacing <= 0):
		return fmt.Errorf("two rows need an even number of pins and the distance from row to row")
	case f.Pitch <= 0 || f.Pitch > 100*MM:
		return fmt.Errorf("the pitch of %s mm is not between 0 and 100 mm", f.Pitch)
	}
	if err := m.need(map[string]Range{"width of the terminals": f.LeadWidth, "width of the body": f.BodyWidth, "length of the body": f.BodyLength}); err != nil {
		return err
	}
	hole := nearest(f.LeadWidth.Max+holeOver[m.density], MM/20)
	landOf := nearest(hole+ringOver[m.density], MM/20)
	m.working("hole", hole)
	m.working("land around it", landOf)
	if landOf+MM/10 > f.Pitch {
		return fmt.Errorf("lands of %s mm at a pitch of %s mm leave less than 0.1 mm between two", landOf, f.Pitch)
	}
	m.goal = goals["gull"][m.density]
	m.beyond = m.goal.courtyard
	each := f.Pins / f.Rows
	for i := range f.Pins {
		at := Point{-f.RowSpacing / 2 * Length(f.Rows-1), f.Pitch * Length(each-1-2*i) / 2}
		switch {
		case f.Rows == 2 && f.Count == "across":
			at.Y = f.Pitch * Length(each-1-2*(i/2)) / 2
			if i%2 == 1 {
				at.X = -at.X
			}
		case f.Rows == 2 && i >= each:
			at = Point{-at.X, f.Pitch * Length(2*(i-each)-each+1) / 2}
		}
		p := Pad{Shape: PadRound, Width: landOf, Height: landOf, Hole: hole}
		if i == 0 {
			p.Shape = PadRectangle // pin 1 stands out
		}
		m.add(strconv.Itoa(i+1), at, p)
	}
	m.out.Land.Mounting = "through"
	return nil
}

// outlines draws the assembly outline, the mark of pin 1, the designator and the courtyard.
func (m *maker) outlines() {
	l := m.out.Land
	body := Box{}
	w, h := (m.f.BodyWidth.Min+m.f.BodyWidth.Max)/2, (m.f.BodyLength.Min+m.f.BodyLength.Max)/2
	body.Take(Point{-w / 2, -h / 2})
	body.Take(Point{w / 2, h / 2})
	l.Shapes = append(l.Shapes, Shape{Form: Rectangle, Purpose: Assembly, Points: []Point{body.Min, body.Max}, Width: MM / 10})
	pads := l.PadBounds()
	const line, gap = 15 * MM / 100, MM / 5
	first := l.Pads[0].Bounds()
	if m.f.Family != FamilyChip && m.f.Family != FamilyCylinder {
		// The dot of pin 1 lies above the first land where no body will hide it, or else left of the body.
		dot := Point{(first.Min.X + first.Max.X) / 2, first.Max.Y + gap + line}
		if dot.X+line > body.Min.X && dot.Y-line < body.Max.Y {
			dot = Point{min(first.Min.X, body.Min.X) - gap - line, (first.Min.Y + first.Max.Y) / 2}
		}
		l.Shapes = append(l.Shapes, Shape{Form: Circle, Purpose: Silkscreen, Points: []Point{dot}, Radius: line, Width: line, Filled: true})
		corner := min(w, h) / 4
		l.Shapes = append(l.Shapes, Shape{Form: Line, Purpose: Assembly, Points: []Point{{body.Min.X, body.Max.Y - corner}, {body.Min.X + corner, body.Max.Y}}, Width: MM / 10})
	}
	// Lines of the silkscreen run along the body where they keep clear of the lands.
	for _, y := range []Length{body.Min.Y - gap, body.Max.Y + gap} {
		edge := Shape{Form: Line, Purpose: Silkscreen, Points: []Point{{body.Min.X, y}, {body.Max.X, y}}, Width: line}
		if !slices.ContainsFunc(l.Pads, func(p Pad) bool {
			b := p.Bounds()
			return b.Min.X-gap < body.Max.X && b.Max.X+gap > body.Min.X && b.Min.Y-gap < y && b.Max.Y+gap > y
		}) {
			l.Shapes = append(l.Shapes, edge)
		}
	}
	top := max(pads.Max.Y, body.Max.Y) + max(m.beyond, gap+line)
	l.Shapes = append(l.Shapes, Shape{Form: Text, Purpose: Silkscreen, Text: Designator, Size: MM, Points: []Point{{0, top + MM*7/10}}})
	l.drawCourtyard(m.beyond)
}
