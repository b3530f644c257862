package bom

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestSheetsSayWhatIsPlacedAndWhatTheDesignerWrites(t *testing.T) {
	lines := []Pinned{
		{Designators: []string{"R10", "R2"}, Quantity: 2, Number: "ew-a", Value: "4k7", Part: &Pin{ID: "a", Number: "EW-A", Revision: 2, Description: "RES", MPN: "TW-1"}},
		{Designators: []string{"C1"}, Quantity: 1, Value: "100n", Part: &Pin{ID: "b", Number: "EW-B", Description: "CAP"}},
		{Designators: []string{}, Amount: "0.3 m", Description: "wire"},
		{Designators: []string{"D1"}, Quantity: 1, NotFitted: true, MPN: "KL-9"},
		{Designators: []string{"A1"}, Quantity: 1, Assembly: true, Board: &BoardPin{ID: "x", Name: "Head", Revision: 2, Label: "B"}, Description: "head"},
		{Designators: []string{"A1/R1"}, Quantity: 1, Of: "Head revision B", Value: "1k", Part: &Pin{ID: "a", Number: "EW-A"}},
	}
	flat := func(table [][]string) (out []string) {
		for _, r := range table[1:] {
			out = append(out, strings.Join(r, "|"))
		}
		return out
	}
	table, numbers := AssemblySheet(lines)
	assert.Equal(t, []string{"A1|yes|1|Head|B|head||||", "C1|yes|1|EW-B|draft|CAP|||100n|", "D1|no|1|||||KL-9||", "R2|yes|1|EW-A|2|RES||TW-1|4k7|", "R10|yes|1|EW-A|2|RES||TW-1|4k7|", "|yes|0.3 m|||wire||||"}, flat(table))
	assert.Equal(t, map[int]bool{4: true}, numbers)
	table, _ = NumbersSheet(lines)
	assert.Equal(t, []string{"C1|EW-B||CAP"}, flat(table), "what names the part already is not changed")
}
