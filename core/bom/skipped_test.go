package bom

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestRowsThatAreNoLinesAreToldFromLines(t *testing.T) {
	c := Columns{{At: 0, Heading: "Ref", Role: Designator, Meaning: ACount}, {At: 1, Heading: "Qty", Role: Quantity, Meaning: ACount}, {At: 2, Heading: "Value", Role: Value, Meaning: AFact}, {At: 3, Heading: "MPN", Role: MPN, Meaning: Identity}, {At: 4, Heading: "Notes", Role: Remark, Meaning: ARemark}}
	for row, want := range map[string]string{
		"|||": "blank", " | ||": "blank", "Ref|Qty|Value|MPN|Notes": "headings", "REF|QTY|VALUE|MPN|": "headings", "Ref|Qty||MPN|": "headings",
		"Resistors||||": "title", "-- Top side --||||": "title", "||||printed on Monday": "title", "Total|45|||": "sum", "Total: 45||||": "sum", "Summe|45|||": "sum", "Gesamt:|45|||": "sum", "TOTAL|45|||12.40": "sum", "End of BOM||||": "sum", "Somme|12|||": "sum",
		"R1|1|10k||": "", "R1||||": "", "|1|10k||": "", "|||TW-1|": "", "||10k||": "", "R?|1|10k||": "", "|4|||": "title", "|2 g|Paste||": "", "Total|1||TW-4|": "", "Wire|0.3 m|Wire||": "", "Total|1|10k||": "", "PCB|1||BP-1|": "", "R1|Qty|Value||": "headings", "Label|1|||": "",
		"J1|1|Ref||": "", "END1|1|||": "",
	} {
		got := NoLine(strings.Split(row, "|"), c)
		if want == "" {
			assert.Empty(t, got, row)
		} else {
			assert.Contains(t, got, want, row)
		}
	}
}

func TestUnitsOfOnePartInTwoLinesAreSaid(t *testing.T) {
	x, cab := house(t)
	lines := []Line{ReadLine(2, []string{"U1A", "1", "", "", ""}, benchColumns), ReadLine(3, []string{"U1B", "1", "", "", ""}, benchColumns), ReadLine(4, []string{"U2A", "1", "", "", ""}, benchColumns)}
	vs := Reconcile(lines, x, cab, Known{Columns: benchColumns})
	says := func(v Verdict, cause string) (n int) {
		for _, f := range v.Findings {
			if f.Cause == cause {
				n++
			}
		}
		return n
	}
	assert.Equal(t, []int{0, 1, 0}, []int{says(vs[0], "units-apart"), says(vs[1], "units-apart"), says(vs[2], "units-apart")})
	twice := Reconcile([]Line{lines[0], lines[0]}, x, cab, Known{Columns: benchColumns})
	assert.Equal(t, 0, says(twice[1], "units-apart"), "one designator twice is another finding")
	assert.Equal(t, 1, says(twice[1], "designator-twice"))
}

func TestWhatIsMeasuredOffIsNoPartThatItsWordsHappenToFit(t *testing.T) {
	x, cab := house(t)
	for amount, kind := range map[string]Kind{"1": Linked, "0.5 m": Missing} {
		l := ReadLine(2, []string{"", "4k7", amount}, Columns{{At: 0, Role: Designator}, {At: 1, Role: Value}, {At: 2, Role: Quantity}})
		got := Reconcile([]Line{l}, x, cab, Known{})[0].Kind
		if kind == Missing {
			assert.Equal(t, Missing, got, amount)
		} else {
			assert.Contains(t, []Kind{Proposed, Several}, got, amount)
		}
	}
}

// A row is never passed over that names a designator, a number or anything of a part beside its first cell, whatever words stand in it.
func TestNoRowOfAPartIsPassedOver(t *testing.T) {
	c := Columns{{At: 0, Heading: "Pos", Role: Remark, Meaning: ARemark}, {At: 1, Heading: "Ref", Role: Designator, Meaning: ACount}, {At: 2, Heading: "Qty", Role: Quantity, Meaning: ACount}, {At: 3, Heading: "Value", Role: Value, Meaning: AFact}, {At: 4, Heading: "MPN", Role: MPN, Meaning: Identity}}
	words := []string{"", "Total", "Sum", "Summe", "Ref", "Qty", "Resistors", "1", "end"}
	for _, first := range words {
		for _, qty := range []string{"", "1", "12"} {
			for _, sure := range [][3]string{{"R1", "", ""}, {"", "10k", ""}, {"", "", "TW-1"}, {"R1-R4", "4k7", "TW-2"}, {"C?", "", ""}} {
				row := []string{first, sure[0], qty, sure[1], sure[2]}
				if first == "" && sure[0] == "" && qty == "" {
					continue // a lone cell of a value is kept by another rule
				}
				assert.Empty(t, NoLine(row, c), "%q", row)
			}
		}
	}
	assert.Empty(t, NoLine([]string{"", "", "", "10k", ""}, c))
	assert.NotEmpty(t, NoLine([]string{"Total", "", "12", "", ""}, c))
	assert.NotEmpty(t, NoLine([]string{"Connectors", "", "", "", ""}, c))
}
