package bom

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/measure/measuretest"
)

func TestWhatStandsBeforeADesignatorIsAPlaceOrAskedAbout(t *testing.T) {
	for _, c := range []struct {
		in, want string
		asks     bool
	}{
		{"PSU/R1-R3", "PSU/R1 PSU/R2 PSU/R3", false},
		{"A1/R1-A1/R3", "A1/R1 A1/R2 A1/R3", false},
		{"PSU/R9..PSU/R11, PSU/C1", "PSU/R9 PSU/R10 PSU/R11 PSU/C1", false},
		{`TOP\U1`, "TOP/U1", false},
		{"2/R5", "2/R5", false},
		{"left-arm/R5", "left-arm/R5", false},
		{"sheet_3.2/LED1", "sheet_3.2/LED1", false},
		{"A1/R1-A2/R3", "A1/R1-A2/R3", true},
		{"A1/R3-A1/R1", "A1/R3-R1", true},
		{"A1/R1-A1/C3", "A1/R1-A1/C3", true},
		{"R1-A1/R5", "R1-A1/R5", true},
		{"R1../R5", "R1../R5", true},
		{"DNP/R5", "DNP/R5", true},
		{"n.b./R5", "n.b./R5", true},
		{"not-fitted/R5", "not-fitted/R5", true},
		{"opt/R5", "opt/R5", true},
		{"or/R5", "or/R5", true},
		{"oder/R5", "oder/R5", true},
		{"alt/R5", "alt/R5", true},
		{"2x/R5", "2x/R5", true},
		{"R1*2/R5", "R1*2/R5", true},
		{"10k/R5", "10k/R5", true},
		{"4.7/R5", "4.7/R5", true},
		{"?/R5", "?/R5", true},
		{"R?/R5", "R?/R5", true},
		{"=/R5", "=/R5", true},
		{"PSU/DNP/R5", "PSU/DNP/R5", true},
		{"(R1)/R5", "R1)/R5", true},
	} {
		got := ReadDesignators(c.in, -1)
		assert.Equal(t, c.asks, len(got.Problems) > 0, "%s: %v", c.in, got.Problems)
		if !c.asks {
			assert.Equal(t, c.want, strings.Join(got.List, " "), c.in)
		}
	}
}

// Whatever says that a part is not fitted, or perhaps, is asked about where it stands for a place, alone or among places.
func TestNoWordOfFittingIsTheNameOfAPlace(t *testing.T) {
	d := &measuretest.Draws{State: 30}
	odd := []string{"DNP", "dnf", "DNI", "dns", "N.B.", "np", "NF", "nc", "unfitted", "unpopulated", "nopop", "do-not-fit", "nicht-bestücken", "unbestückt", "non.monté", "no_montar", "non-montare", "omit", "optional", "opt", "option",
		"not", "no", "nicht", "or", "oder", "ou", "and", "und", "if", "spare", "alt", "instead", "either", "tbd", "see", "fitted", "3x", "10k", "4k7", "100n", "1.5", "*", "+", "#", "!", "R1-4", "R1..R4", "C3:C5"}
	for range 3000 {
		where := []string{drawnOf(d, []string{"PSU", "Sheet", "top", "A", "LEFT", "io", "Messung"})}
		if d.IntN(2) == 0 {
			where = append(where, drawnOf(d, []string{"cell", "B", "front-end", "ch"}))
		}
		at := 1 + d.IntN(90)
		stretch := fmt.Sprintf("R%d", at)
		want := []string{strings.Join(where, "/") + fmt.Sprintf("/R%d", at)}
		if n := d.IntN(4); n > 0 {
			second := drawnOf(d, []string{"", "R", strings.Join(where, "/") + "/R"})
			stretch += drawnOf(d, []string{"-", "..", "–", " - "}) + fmt.Sprintf("%s%d", second, at+n)
			for k := at + 1; k <= at+n; k++ {
				want = append(want, fmt.Sprintf("%s/R%d", strings.Join(where, "/"), k))
			}
		}
		slash := drawnOf(d, []string{"/", `\`})
		cell := strings.Join(where, "/") + slash + stretch
		got := ReadDesignators(cell, -1)
		require.Equal(t, want, got.List, cell)
		require.Empty(t, got.Problems, cell)

		k := d.IntN(len(where) + 1)
		spoiled := append(append(append([]string{}, where[:k]...), drawnOf(d, odd)), where[k:]...)
		cell = strings.Join(spoiled, slash) + slash + fmt.Sprintf("R%d", at)
		require.NotEmpty(t, ReadDesignators(cell, -1).Problems, cell)
	}
}

func TestAnAmountForSeveralDesignatorsIsAskedAboutAndNothingIsNoAmount(t *testing.T) {
	columns := Columns{{At: 0, Role: Designator}, {At: 1, Role: Quantity}}
	for cells, want := range map[[2]string]string{
		{"W1", "0.3 m"}:      "",
		{"", "2 g"}:          "",
		{"W1, W2", "0.3 m"}:  "each of the 2 designators",
		{"R1-R6", "6 mm"}:    "each of the 6 designators",
		{"W1", "0 m"}:        "is nothing",
		{"", "0,00 kg"}:      "is nothing",
		{"W1, W2, W3", "3 "}: "",
	} {
		problems := strings.Join(ReadLine(2, cells[:], columns).Problems, "; ")
		if want == "" {
			assert.Empty(t, problems, "%v", cells)
		} else {
			assert.Contains(t, problems, want, "%v", cells)
		}
	}
	for _, c := range []struct {
		line Line
		asks bool
	}{
		{Line{Quantity: 0}, true}, {Line{Quantity: 0, NotFitted: true}, false}, {Line{Quantity: 1}, false}, {Line{Quantity: -1}, false},
	} {
		v := Verdict{Line: &c.line}
		v.count()
		assert.Equal(t, c.asks, len(v.Findings) == 1, "%+v", c.line)
	}
}
