package model

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func between2(min, max string) Range { return Range{Min: MustLength(min), Max: MustLength(max)} }

func soic8() Figures {
	return Figures{Family: FamilyGullDual, Pins: 8, Pitch: MustLength("1.27"), Span: between2("5.8", "6.2"), LeadLength: between2("0.4", "1.27"), LeadWidth: between2("0.31", "0.51"), BodyWidth: between2("3.8", "4"), BodyLength: between2("4.8", "5")}
}

// The figures beside each are worked out by hand from the formulas and tables of the standard.
func TestLandsByTheStandard(t *testing.T) {
	chip1608 := Figures{Family: FamilyChip, Span: between2("1.5", "1.7"), LeadLength: between2("0.2", "0.5"), LeadWidth: between2("0.7", "0.9")}
	chip1005 := Figures{Family: FamilyChip, Span: between2("0.95", "1.05"), LeadLength: between2("0.15", "0.3"), LeadWidth: between2("0.45", "0.55")}
	qfp := Figures{Family: FamilyGullQuad, Pins: 64, Pitch: MM / 2, Span: between2("11.8", "12.2"), LeadLength: between2("0.45", "0.75"), LeadWidth: between2("0.17", "0.27"), BodyWidth: between2("9.9", "10.1"), BodyLength: between2("9.9", "10.1")}
	qfn := Figures{Family: FamilyFlatQuad, Pins: 48, Pitch: MM / 2, Span: between2("6.9", "7.1"), LeadLength: between2("0.3", "0.5"), LeadWidth: between2("0.18", "0.3"), BodyWidth: between2("6.9", "7.1"), BodyLength: between2("6.9", "7.1"), ThermalX: MustLength("5.6"), ThermalY: MustLength("5.6")}
	for _, c := range []struct {
		name    string
		f       Figures
		density string
		z, g, x string
	}{
		// L 5.8: 5.8+0.7+√(0.4²+0.05²+0.025²)=6.9039; S: 5.4−(2.14−√(0.4²+2·0.87²))/2=4.9769, −0.7−√(1.2938²+…)=2.9820; W: 0.31+0.06+√(0.2²+…)=0.5777
		{"two rows, nominal", soic8(), "nominal", "6.9", "3", "0.6"},
		// 5.8+1.1+0.4039=7.3039; 4.9769−0.9−1.2950=2.7820; 0.31+0.1+0.2077=0.6177
		{"two rows, most", soic8(), "most", "7.3", "2.8", "0.6"},
		// 5.8+0.3+0.4039=6.5039; 4.9769−0.5−1.2950=3.1820; 0.31+0.02+0.2077=0.5377
		{"two rows, least", soic8(), "least", "6.5", "3.2", "0.55"},
		// 1.5+0.7+√(0.2²+0.003125)=2.4077; S: 1.3−(0.8−√(0.2²+2·0.3²))/2=1.1345, −√(0.4690²+…)=0.6622; 0.7+0+0.2077=0.9077
		{"a chip 1608, nominal", chip1608, "nominal", "2.4", "0.65", "0.9"},
		// below 1608: 0.95+0.4+√(0.1²+0.003125)=1.4646; S: 0.75−(0.4−√(0.1²+2·0.15²))/2=0.6673, −√(0.2345²+…)=0.4271; 0.45+0.1146=0.5646
		{"a chip 1005, nominal", chip1005, "nominal", "1.45", "0.45", "0.55"},
		// fine pitch: 11.8+0.7+0.4039=12.9039; S: 11.3−(1−√(0.4²+2·0.3²))/2=11.0915, −0.7−√(0.5831²+…)=9.8058; 0.17−0.04+√(0.1²+…)=0.2446
		{"four rows, nominal", qfp, "nominal", "12.9", "9.8", "0.25"},
		// 6.9+0.6+0.2077=7.7077; S: 6.5−(0.6−√(0.2²+2·0.2²))/2=6.3732, −0−√(0.3464²+…)=6.0223; 0.18−0.08+√(0.12²+…)=0.2324
		{"no lead, nominal", qfn, "nominal", "7.7", "6", "0.25"},
	} {
		m, err := MakeLand(c.f, c.density)
		require.NoError(t, err, c.name)
		w := map[string]string{}
		for _, x := range m.Workings {
			w[x.What[:1]] = x.Value.String()
		}
		assert.Equal(t, []string{c.z, c.g, c.x}, []string{w["Z"], w["G"], w["X"]}, c.name)
		assert.Empty(t, overlaps(m.Land), c.name)
		var wrong []string
		for _, x := range Check(&Content{Land: m.Land}, House{Courtyard: 0, Designator: true, Origin: "centre"}, c.f.Pitch) {
			wrong = append(wrong, x.What)
		}
		assert.Empty(t, wrong, "%s: what is made keeps the house's rules", c.name)
	}
}

func TestLandsUnderBallsAndAroundLeads(t *testing.T) {
	for ball, want := range map[string]string{"0.75": "0.55", "0.65": "0.5", "0.6": "0.45", "0.55": "0.4", "0.5": "0.4", "0.45": "0.35", "0.4": "0.3", "0.3": "0.25", "0.25": "0.2", "0.2": "0.17"} {
		assert.Equal(t, want, ballLand(MustLength(ball)).String(), ball)
	}
	grid := Figures{Family: FamilyGrid, Rows: 12, Columns: 12, Pitch: MustLength("0.8"), Ball: MustLength("0.45"), BodyWidth: between2("9.9", "10.1"), BodyLength: between2("9.9", "10.1")}
	m, err := MakeLand(grid, "nominal")
	require.NoError(t, err)
	require.Len(t, m.Land.Pads, 144)
	assert.Equal(t, "ball grid 144 10 x 10 nominal", m.Name)
	assert.Equal(t, []any{"A1", Point{MustLength("-4.4"), MustLength("4.4")}}, []any{m.Land.Pads[0].Number, m.Land.Pads[0].At})
	assert.Equal(t, []any{"M12", Point{MustLength("4.4"), MustLength("-4.4")}}, []any{m.Land.Pads[143].Number, m.Land.Pads[143].At})
	assert.Equal(t, "J1", m.Land.Pads[96].Number, "no row is called I")
	grid.Missing = "D4-D9, E5"
	m, err = MakeLand(grid, "nominal")
	require.NoError(t, err)
	assert.Len(t, m.Land.Pads, 137)
	holes := Figures{Family: FamilyHoles, Pins: 4, Rows: 1, Pitch: MustLength("2.54"), LeadWidth: between2("0.6", "0.7"), BodyWidth: between2("2.4", "2.6"), BodyLength: between2("10", "10.2")}
	for density, want := range map[string]string{"most": "0.95 1.45", "nominal": "0.9 1.25", "least": "0.85 1.15"} {
		m, err := MakeLand(holes, density)
		require.NoError(t, err)
		assert.Equal(t, want, fmt.Sprint(m.Land.Pads[1].Hole, " ", m.Land.Pads[1].Width), density)
	}
	holes.Rows, holes.RowSpacing, holes.Pins = 2, MustLength("2.54"), 6
	for count, want := range map[string]string{"": "1-1.27,2.54 2-1.27,0 3-1.27,-2.54 41.27,-2.54 51.27,0 61.27,2.54", "across": "1-1.27,2.54 21.27,2.54 3-1.27,0 41.27,0 5-1.27,-2.54 61.27,-2.54"} {
		holes.Count = count
		m, err := MakeLand(holes, "nominal")
		require.NoError(t, err)
		got := ""
		for _, p := range m.Land.Pads {
			got += fmt.Sprintf(" %s%s,%s", p.Number, p.At.X, p.At.Y)
		}
		assert.Equal(t, " "+want, got, "counted %q", count)
	}
}

func TestPinsRunRoundAPackage(t *testing.T) {
	f := Figures{Family: FamilyFlatQuad, Pins: 20, PinsAcross: 4, Pitch: MM / 2, Span: between2("3.4", "3.6"), SpanAcross: between2("4.4", "4.6"), LeadLength: between2("0.3", "0.5"), LeadWidth: between2("0.18", "0.3"), BodyWidth: between2("3.4", "3.6"), BodyLength: between2("4.4", "4.6")}
	m, err := MakeLand(f, "least")
	require.NoError(t, err)
	at := func(n int) string { p := m.Land.Pads[n-1].At; return fmt.Sprint(p.X < 0, p.Y < 0) }
	assert.Equal(t, "true false", at(1), "pin 1 is at the upper left")
	assert.Equal(t, "true true", at(6), "and they run down the left")
	assert.Equal(t, "false true", at(10))
	assert.Equal(t, "false false", at(16))
	assert.Equal(t, "true false", at(20))
	for says, harm := range map[string]func(f *Figures){
		"the family":              func(f *Figures) { f.Family = "square" },
		"opposite rows have":      func(f *Figures) { f.Pins = 21 },
		"the pitch of 0":          func(f *Figures) { f.Pitch = 0 },
		"the span needs":          func(f *Figures) { f.Span = Range{} },
		"above the greatest":      func(f *Figures) { f.LeadWidth = between2("0.4", "0.3") },
		"leave no room":           func(f *Figures) { f.LeadLength = between2("2", "3") },
		"the thermal pad":         func(f *Figures) { f.ThermalX, f.ThermalY = 3*MM, 3*MM },
		"needs a width and":       func(f *Figures) { f.ThermalX = MM },
		"width of the body needs": func(f *Figures) { f.BodyWidth = Range{} },
		"more than 200 mm":        func(f *Figures) { f.BodyLength = between2("1", "300") },
	} {
		g := f
		harm(&g)
		_, err := MakeLand(g, "least")
		assert.ErrorContains(t, err, says)
	}
	chip, err := MakeLand(Figures{Family: FamilyChip, Span: between2("1.5", "1.7"), LeadLength: between2("0.2", "0.5"), LeadWidth: between2("0.7", "0.9")}, "most")
	require.NoError(t, err)
	assert.Equal(t, "chip 2 1.6 x 0.8 most", chip.Name)
	_, err = MakeLand(f, "densest")
	assert.ErrorContains(t, err, "the density")
}

// The silkscreen keeps clear of all copper, and the dot of pin 1 is seen when the part is on the board.
func TestMarksKeepClearOfCopperAndBody(t *testing.T) {
	for _, f := range []Figures{soic8(), {Family: FamilyFlatQuad, Pins: 48, Pitch: MM / 2, Span: between2("6.9", "7.1"), LeadLength: between2("0.3", "0.5"), LeadWidth: between2("0.18", "0.3"), BodyWidth: between2("7", "7"), BodyLength: between2("7", "7")},
		{Family: FamilyGrid, Rows: 5, Columns: 7, Pitch: MM, Ball: MM / 2, BodyWidth: between2("8", "8"), BodyLength: between2("6", "6")}, {Family: FamilyHoles, Pins: 6, Rows: 2, RowSpacing: 3 * MM, Pitch: MustLength("2.54"), LeadWidth: between2("0.6", "0.7"), BodyWidth: between2("5", "5"), BodyLength: between2("9", "9")}} {
		for _, density := range Densities {
			m, err := MakeLand(f, density)
			require.NoError(t, err)
			body := m.Land.Shapes[0].Bounds()
			for _, g := range m.Land.Shapes {
				if g.Purpose != Silkscreen || g.Form == Text {
					continue
				}
				b := g.Bounds()
				for _, p := range m.Land.Pads {
					c := p.Bounds()
					assert.False(t, b.Max.X+g.Width/2 > c.Min.X && b.Min.X-g.Width/2 < c.Max.X && b.Max.Y+g.Width/2 > c.Min.Y && b.Min.Y-g.Width/2 < c.Max.Y, "%s, %s: a mark on the land of pin %s", f.Family, density, p.Number)
				}
				if g.Form == Circle {
					assert.False(t, b.Max.X > body.Min.X && b.Min.X < body.Max.X && b.Max.Y > body.Min.Y && b.Min.Y < body.Max.Y, "%s, %s: the dot is under the body", f.Family, density)
				}
			}
		}
	}
}

func TestNamesByPattern(t *testing.T) {
	f := Figures{Family: FamilyChip, Span: Range{Min: 19 * MM / 10, Max: 21 * MM / 10}, LeadLength: Range{Min: MM / 4, Max: MM / 2}, LeadWidth: Range{Min: 115 * MM / 100, Max: 135 * MM / 100}}
	for pattern, name := range map[string]string{"": "chip 2 2 x 1.25 nominal", "LP-{pins}": "LP-2", "{density} {family}": "nominal chip"} {
		f.Name = pattern
		m, err := MakeLand(f, "nominal")
		require.NoError(t, err)
		assert.Equal(t, name, m.Name)
	}
	for _, pattern := range []string{"{pin}", "LP {pins", "{}", "{Pins}"} {
		f.Name = pattern
		_, err := MakeLand(f, "nominal")
		assert.ErrorContains(t, err, "which is none of {family}, {pins}", pattern)
		assert.ErrorContains(t, House{LandName: pattern}.Check(), "house rules: the pattern")
	}
	assert.ErrorContains(t, House{Texts: "inside"}.Check(), "they can stand below, above, right, left")
}
