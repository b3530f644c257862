package bom

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/measure/measuretest"
)

func TestDesignatorsInTheSpellingsOfBOMs(t *testing.T) {
	for in, want := range map[string]string{
		"": "", "R1": "R1", "r1": "R1", "R1, R2, R5-R9": "R1 R2 R5 R6 R7 R8 R9", "R1;R2 r3": "R1 R2 R3", "C10 - C12": "C10 C11 C12", "R1..R3": "R1 R2 R3", "R1...R3": "R1 R2 R3", "R1…R3": "R1 R2 R3", "R5-7": "R5 R6 R7", "U1A": "U1A",
		"R01-R03": "R01 R02 R03", "R1–R2": "R1 R2", "R1—R2": "R1 R2", "R1−R2": "R1 R2", "R1‑R2": "R1 R2", "R1~R3": "R1 R2 R3", "R1～R3": "R1 R2 R3", "R1 ~ R3": "R1 R2 R3", "R1:R3": "R1 R2 R3",
		"R1 to R3": "R1 R2 R3", "R1 TO R3": "R1 R2 R3", "R1 thru R3": "R1 R2 R3", "R1 through R3": "R1 R2 R3", "R1 bis R3": "R1 R2 R3", "R1 à R3": "R1 R2 R3", "R1 a R3": "R1 R2 R3", "C1 to C2, C5 to C6": "C1 C2 C5 C6",
		"R1 and R2": "R1 R2", "R1 & R2": "R1 R2", "R1&R2": "R1 R2", "R1 + R2": "R1 R2", "R1+R2+R3": "R1 R2 R3", "R1 und R2": "R1 R2", "R1 et R2": "R1 R2", "R1 y R2": "R1 R2", "R1, R2 and R3": "R1 R2 R3", "R1 and R2 and R3 and R4": "R1 R2 R3 R4",
		"R1, 2, 3": "R1 R2 R3", "R1,2,5-7": "R1 R2 R5 R6 R7", "R1;2": "R1 R2", "C3,C4,7": "C3 C4 C7", "R1-R3,5": "R1 R2 R3 R5",
		"R1/R2/R3": "R1 R2 R3", "R1/2/3": "R1 R2 R3", "R1-R3/R7": "R1 R2 R3 R7",
		"PSU/R5": "PSU/R5", "/Power/R5": "Power/R5", `Power\R5`: "Power/R5", "PSU/R5-R7": "PSU/R5 PSU/R6 PSU/R7", "top/left/R5": "top/left/R5", "/A2/R5": "A2/R5", "A2/R5, A2/R6": "A2/R5 A2/R6", "A2/R5-R6, A2/R9": "A2/R5 A2/R6 A2/R9",
		"(R1, R2)": "R1 R2", "[R1]": "R1", `"R1","R2"`: "R1 R2", "R1\nR2": "R1 R2", "R1\r\nR2": "R1 R2", "R1\tR2": "R1 R2", "R1,,R2": "R1 R2", ",R1,": "R1", "R1, R2,": "R1 R2", "R1,\u00a0R2": "R1 R2", "Ｒ１，Ｒ２": "R1 R2", "R1、R2": "R1 R2", "R1；R2": "R1 R2",
		"TP1-TP3": "TP1 TP2 TP3", "LED1, LED2": "LED1 LED2", "RN_1": "RN_1", "XTAL1": "XTAL1", "R9-R11": "R9 R10 R11", "R099-R101": "R099 R100 R101", "R1-R1": "R1",
	} {
		got := ReadDesignators(in, -1)
		assert.Equal(t, want, strings.Join(got.List, " "), in)
		assert.Empty(t, got.Problems, in)
	}
}

func TestWhatIsNoDesignatorIsSaidAndStays(t *testing.T) {
	for in, says := range map[string]string{
		"R9-R5": "backwards", "R1-R99999": "over more than", "1R": "is no designator", "R1-C5": "is no designator", "R?": "no number yet", "R?, R?": "no number yet", "resistors": "is no designator", "R1 (DNP)": `"DNP" is no designator`, "R1-R3-R5": "is no designator",
		"5": "is no designator", "5, 6": "is no designator", "R1 2": `"2" is no designator`, "R": "is no designator", "R1.2": "is no designator", "U1D-U1A": "backwards", "U1A-U2C": "is no designator", "/": "is no designator", "R1/": "", "A2/R?": "is no designator", "R1*": "is no designator", "all": "is no designator",
		"A2/R5": "may be R5 on A2", "U1A, U1B": "may be units of one part U1", "U1A-U1D": "may be units of one part U1", "R1/C1": "may be C1 on R1", "R1 R2 =": "is no designator",
	} {
		got := ReadDesignators(in, -1)
		assert.NotEmpty(t, got.List, "%s: what cannot be read stays", in)
		if says == "" {
			assert.Empty(t, got.Problems, in)
		} else if assert.NotEmpty(t, got.Problems, in) {
			assert.Contains(t, strings.Join(got.Problems, "\n"), says, in)
		}
	}
}

func TestTheQuantityDecidesWhatDesignatorsMean(t *testing.T) {
	for _, c := range []struct {
		in       string
		quantity int
		want     string
		asks     bool
	}{
		{"U1A, U1B", 1, "U1", false}, {"U1A, U1B", 2, "U1A U1B", false}, {"U1A-U1D", 1, "U1", false}, {"U1A-D", 1, "U1", false}, {"U1A,U1B,U2A,U2B", 2, "U1 U2", false}, {"U1A,U1B,U2A,U2B", 4, "U1A U1B U2A U2B", false}, {"U1A, U1B, R7", 2, "U1 R7", false},
		{"R3A", 1, "R3A", false}, {"U1A, U1B", 3, "U1A U1B", false}, {"U1A, U1B", 5, "U1A U1B", false}, {"PSU/U1A, PSU/U1B", 1, "PSU/U1", false},
		{"A2/R5", 1, "A2/R5", false}, {"A2/R5", 2, "A2 R5", false}, {"A2/R5, A3/R5", 2, "A2/R5 A3/R5", false}, {"A2/R5, A3/R5", 4, "A2 R5 A3 R5", false}, {"A2/R5-R8", 4, "A2/R5 A2/R6 A2/R7 A2/R8", false}, {"A2/R5-R8", 5, "A2 R5 R6 R7 R8", false}, {"A2/R5", 3, "A2 R5", true}, {"R1, A2/R5, C4", 3, "R1 A2/R5 C4", false},
		{"A2/R5, A2/R6", 4, "A2 R5 A2 R6", false}, {"R1-R4", 3, "R1 R2 R3 R4", false}, {"R1-R4", 4, "R1 R2 R3 R4", false},
	} {
		got := ReadDesignators(c.in, c.quantity)
		assert.Equal(t, c.want, strings.Join(got.List, " "), "%s, %d", c.in, c.quantity)
		assert.Equal(t, c.asks, len(got.Problems) > 0, "%s, %d: %v", c.in, c.quantity, got.Problems)
	}
}

func TestExpandingNeverPanicsNorGrowsWithoutBound(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := rapid.StringMatching(`([RCLAU][0-9]{1,6}[A-D]?[-., ;/&+]{0,3}){0,8}`).Draw(t, "s")
		got := ReadDesignators(s, rapid.IntRange(-1, 9).Draw(t, "quantity"))
		require.LessOrEqual(t, len(got.List), 16*maxStretch)
	})
}

// cellOf writes designators as some tool or person might.
func cellOf(d *measuretest.Draws, letters string, numbers []int) string {
	var out []string
	between := drawnOf(d, []string{"-", "..", " - ", "…", "–", " to ", "~", " bis ", " thru "})
	short := d.IntN(4) == 0
	for i := 0; i < len(numbers); {
		k := i
		for k+1 < len(numbers) && numbers[k+1] == numbers[k]+1 {
			k++
		}
		l := letters
		if short && i > 0 {
			l = ""
		}
		switch {
		case k > i && d.IntN(3) > 0:
			second := letters
			if l == "" || between == "-" && d.IntN(2) == 0 {
				second = ""
			}
			mid := between
			if l == "" || second == "" {
				mid = "-"
			}
			out = append(out, fmt.Sprintf("%s%d%s%s%d", l, numbers[i], mid, second, numbers[k]))
			i = k + 1
		default:
			out = append(out, fmt.Sprintf("%s%d", l, numbers[i]))
			i++
		}
	}
	sep := drawnOf(d, []string{", ", ",", ";", " ; ", ",\n"})
	if !short && len(out) > 0 {
		sep = drawnOf(d, []string{", ", ",", ";", " ", "\n", " ", "、", " + ", " & "})
	}
	return strings.Join(out, sep)
}

func drawnOf[T any](d *measuretest.Draws, list []T) T { return list[d.IntN(len(list))] }

func TestDesignatorsWrittenInManyWaysAreReadAsTheyAre(t *testing.T) {
	d := &measuretest.Draws{State: 18}
	for range 20_000 {
		letters := drawnOf(d, []string{"R", "C", "U", "LED", "TP", "FB", "J", "Q", "XTAL"})
		n, at := 1+d.IntN(7), d.IntN(60)+1
		var numbers []int
		var want []string
		for range n {
			numbers = append(numbers, at)
			want = append(want, fmt.Sprintf("%s%d", letters, at))
			at += 1 + d.IntN(3)/2*(1+d.IntN(9))
		}
		cell := cellOf(d, letters, numbers)
		got := ReadDesignators(cell, []int{-1, n}[d.IntN(2)])
		require.Equal(t, want, got.List, "%q", cell)
		require.Empty(t, got.Problems, "%q", cell)
	}
}

func TestQuantitiesAreReadOrSaid(t *testing.T) {
	for in, want := range map[string]int{
		"": -1, "4": 4, " 4 ": 4, "0": 0, "004": 4, "4.0": 4, "4,0": 4, "4.00": 4, "4.0000": 4, "12": 12, "4 pcs": 4, "4pcs": 4, "4 pcs.": 4, "4 PC": 4, "4 ea": 4, "4 each": 4, "4 Stk": 4, "4 Stk.": 4, "4 Stück": 4, "4 St.": 4, "4x": 4, "4 x": 4, "x4": 4, "x 4": 4, "×4": 4, "4 off": 4, "4 pzas": 4, "4 pièces": 4, "4 uds.": 4,
		"Qty 4": 4, "1 000": 1000, "1'000": 1000, "1’000": 1000, "1\u00a0000": 1000, "12'500": 12500, "1.000.000": 1000000, "1E+03": 1000, "1.5e3": 1500, "2E2": 200, "1000000": 1000000, "４": 4, "1200.0": 1200, "1234.000": 1234,
	} {
		got := ReadCount(in, 999)
		assert.Equal(t, want, got.Pieces, in)
		assert.Empty(t, got.Problem, in)
	}
	for in, says := range map[string]string{
		"n/a": "no whole number", "-": "no whole number", "-1": "no whole number", "−1": "no whole number", "+4": "no whole number", "1e9": "more than", "1000001": "more than", "99999999999999999999": "more than", "2.5": "no whole number", "2,5": "no whole number", "1.250": "no whole number", "1,250": "no whole number", "½": "no whole number", "four": "no whole number",
		"4/5": "no whole number", "2+1": "no whole number", "4 (1 DNP)": "no whole number", "1,00,000": "no whole number", "1.000,000": "no whole number", "1e-3": "no whole number", "1.25e1": "no whole number", "tbd": "no whole number", "?": "no whole number", "4 kΩ": "no whole number", "10 %": "no whole number", "0x4": "no whole number", "4.000": "may be 4 or 4000", "1,000": "may be 1 or 1000", "=A1": "no whole number", "1,500 m": "may be",
		"4-5": "no whole number", "∞": "no whole number", "1.5": "no whole number", "4 5": "no whole number", "4..0": "no whole number",
	} {
		got := ReadCount(in, 999)
		assert.Equal(t, -1, got.Pieces, in)
		assert.Contains(t, got.Problem, says, in)
	}
	for in, of := range map[string][2]int{"1.000": {1, 1}, "4,000": {4000, 4000}, "1.250": {1250, 1250}, "4.000": {4, 4}} {
		assert.Equal(t, of[1], ReadCount(in, of[0]).Pieces, in)
	}
	for in, want := range map[string]string{"0.3 m": "0.3 m", "0,3 m": "0.3 m", "2 g": "2 g", "2g": "2 g", "12.5 cm": "12.5 cm", "250 ml": "250 ml", "1 L": "1 l", "3 Meter": "3 m", "1,25 m²": "1.25 m²", "30 mm": "30 mm", "2 ft": "2 ft"} {
		got := ReadCount(in, 0)
		assert.Equal(t, want, got.Amount.String(), in)
		assert.Equal(t, -1, got.Pieces, in)
		assert.Empty(t, got.Problem, in)
	}
}

// A file from outside cannot make a cell of some thousand letters into millions of designators.
func TestACellOfStretchesIsBounded(t *testing.T) {
	for _, cell := range []string{strings.Repeat("R1-R5000,", 7000), strings.Repeat("R1-R5000/", 7000), strings.Repeat("R1-R5000/", 7000) + "C1", "R1-R5000,R1-R5000,R1-R5000,R1-R5000,R1"} {
		got := ReadDesignators(cell, -1)
		assert.Equal(t, []string{"R1"}, got.List)
		assert.Contains(t, got.Problems[0], "more than 20000 designators")
	}
	many := make([]string, 0, 19_000)
	for i := range 9_500 {
		many = append(many, fmt.Sprintf("U%dA", i), fmt.Sprintf("U%dB", i))
	}
	units := ReadDesignators(strings.Join(many, ","), 9_500)
	assert.Len(t, units.List, 9_500)
	assert.Empty(t, units.Problems)
}

func FuzzDesignators(f *testing.F) {
	for _, s := range []string{"R1, R2-R5", "U1A, U1B", "A2/R5", "R1 to R4", "R1,2,5-7", "PSU/R5-R7", "R?", "Ｒ１、Ｒ２", "R1-R5000,R1-R5000", "(R1", "\x00", "R1/\\/2"} {
		f.Add(s, 1)
	}
	f.Fuzz(func(t *testing.T, s string, quantity int) {
		got := ReadDesignators(s, quantity)
		require.LessOrEqual(t, len(got.List), MostDesignators+maxStretch+1)
		for _, d := range got.List {
			require.NotEmpty(t, d)
		}
		if len(got.Problems) == 0 { // what was read is read as the same when it is written plainly
			again := ReadDesignators(strings.Join(got.List, ", "), len(got.List))
			require.Equal(t, got.List, again.List, "%q", s)
		}
	})
}

func FuzzCounts(f *testing.F) {
	for _, s := range []string{"4", "4.0", "1.000", "1'000", "0,3 m", "1E+03", "n/a", "4 Stk.", "x4", "999999999999999999999"} {
		f.Add(s, 4)
	}
	f.Fuzz(func(t *testing.T, s string, designators int) {
		got := ReadCount(s, designators)
		require.LessOrEqual(t, got.Pieces, MostPieces)
		if got.Problem != "" || got.Amount != (Amount{}) {
			require.Equal(t, -1, got.Pieces, "%q", s)
		}
	})
}

// Places before designators and units of parts are read as the quantity says, whatever they are mixed with.
func TestPlacesAndUnitsAreReadAsTheQuantitySays(t *testing.T) {
	d := &measuretest.Draws{State: 181}
	for range 10_000 {
		var cell, placed, separate []string
		n := 1 + d.IntN(4)
		base := d.IntN(50)
		kind := d.IntN(3)
		for i := range n {
			at := base + 7*i + 1
			switch kind {
			case 0: // a place that can be a designator: R5 on A2, or A2 and R5
				cell = append(cell, fmt.Sprintf("A%d/R%d", at, at))
				placed = append(placed, fmt.Sprintf("A%d/R%d", at, at))
				separate = append(separate, fmt.Sprintf("A%d", at), fmt.Sprintf("R%d", at))
			case 1: // two units of a part, or two parts
				cell = append(cell, fmt.Sprintf("U%dA", at), fmt.Sprintf("U%dB", at))
				placed = append(placed, fmt.Sprintf("U%d", at))
				separate = append(separate, fmt.Sprintf("U%dA", at), fmt.Sprintf("U%dB", at))
			default: // a place that is a word: nothing to decide
				cell = append(cell, fmt.Sprintf("PSU/R%d", at))
				placed = append(placed, fmt.Sprintf("PSU/R%d", at))
				separate = placed
			}
		}
		plain := []string{}
		for i := range d.IntN(3) {
			plain = append(plain, fmt.Sprintf("C%d", 100+i))
		}
		text := strings.Join(append(append([]string{}, cell...), plain...), drawnOf(d, []string{", ", ",", ";", "; "}))
		one := ReadDesignators(text, len(placed)+len(plain))
		require.ElementsMatch(t, append(append([]string{}, placed...), plain...), one.List, text)
		require.Empty(t, one.Problems, text)
		if kind == 2 {
			continue
		}
		two := ReadDesignators(text, len(separate)+len(plain))
		require.ElementsMatch(t, append(append([]string{}, separate...), plain...), two.List, text)
		require.Empty(t, two.Problems, text)
		require.NotEmpty(t, ReadDesignators(text, -1).Problems, "%s without a quantity is asked", text)
	}
}
