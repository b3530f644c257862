package model

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// pinTable reads a table that is written as lines with bars.
func pinTable(text string) PinTable {
	t := PinTable{FirstLine: 2}
	for i, line := range strings.Split(strings.TrimSpace(text), "\n") {
		cells := strings.Split(line, "|")
		for k := range cells {
			cells[k] = strings.TrimSpace(cells[k])
		}
		if i == 0 {
			t.Headings = cells
			continue
		}
		t.Rows = append(t.Rows, cells)
	}
	return t
}

// said writes what was read of a table: each list with its pins, then what was wrong.
func said(t PinTable) string {
	c, ok := t.Columns()
	if !ok {
		return "no pin table"
	}
	var out []string
	for _, l := range t.Read(c) {
		var pins []string
		for _, p := range l.Pins {
			w := p.Number + "=" + p.Name
			if p.Type != "" {
				w += " " + p.Type
			}
			if p.Unit != "" {
				w += " of " + p.Unit
			}
			if p.Side != "" {
				w += " on the " + p.Side
			}
			pins = append(pins, w)
		}
		w := strings.Join(pins, ", ")
		if l.Name != "" {
			w = l.Name + ": " + w
		}
		out = append(out, strings.Join(append([]string{w}, l.Wrong...), "; "))
	}
	return strings.Join(out, " / ")
}

func TestPinTablesAreReadByHeadingAndContent(t *testing.T) {
	for _, c := range []struct{ name, table, want string }{
		{"plain", "Pin|Name|Type\n1|VDD|power\n2|OUT|output", "1=VDD power in, 2=OUT output"},
		{"direction beside function", "PIN#|FUNCTION|DIR\n1|VDD|power\n2|OUT|output\n3|~{CS}|input", "1=VDD power in, 2=OUT output, 3=~{CS} input"},
		{"the name after the number's word", "NUMBER|PIN|DIRECTION\n1|IN+|I\n2|IN-|I", "1=IN+ input, 2=IN- input"},
		{"the number after the name", "NAME|NUMBER|DIRECTION\nCLK|A1|IN\nQ|B1|OUT", "A1=CLK input, B1=Q output"},
		{"a description is no name", "Pin|Description|Name\n1|Positive supply of the core, decouple well|VDDC\n2|Reference for all of the signals here|GNDC", "1=VDDC, 2=GNDC"},
		{"a description alone", "Pin|Description\n1|Positive supply of the core\n2|Reference for all signals", "no pin table"},
		{"symbols", "Ball|Symbol|I/O\nA1|VCC|P\nB12|D0|IO", "A1=VCC power in, B12=D0 bidirectional"},
		{"no heading for numbers", "Part|Value\nR1|4k7\nR2|10k", "no pin table"},
		{"no type, none guessed", "Pin|Signal\n1|VSYNC\n2|VSENSE\n3|VINP\n4|VDD_OK\n5|GNDSW\n6|NCS", "1=VSYNC, 2=VSENSE, 3=VINP, 4=VDD_OK, 5=GNDSW, 6=NCS"},
		{"a type that is not known", "Pin|Name|Type\n1|A|wiggly\n2|B|input\n3|C|output", "1=A, 2=B input, 3=C output; line 2: the type \"wiggly\" of pin 1 is not known; it was left open"},
		{"a blank type", "Pin|Name|Type\n1|A|\n2|B|input", "1=A, 2=B input"},
		{"spans and lists", "Pin|Name\nA1-A4|GND\n11 & 12|VDD\n3, 7|SHIELD\n20 … 22|D\nB1 to B2|Q\n30/31|Z\n40 and 41|Y", "A1=GND, A2=GND, A3=GND, A4=GND, 11=VDD, 12=VDD, 3=SHIELD, 7=SHIELD, 20=D, 21=D, 22=D, B1=Q, B2=Q, 30=Z, 31=Z, 40=Y, 41=Y"},
		{"a span over rows of a grid", "Pin|Name\nA1-B2|GND\nC1|X\nC2|Y\nC3|Z", "C1=X, C2=Y, C3=Z; line 2: \"A1-B2\" is no number of a pin, no list of them and no span such as A1-A4"},
		{"dashes that are none of a span", "Contact|Signal\n1-1|A\n1-2|B\n2-1|C\n2-2|D", "no pin table"},
		{"some dashes that are none of a span", "Pin|Signal\n1|A\n2|B\n3|C\n4|D\n5|E\n6|F\n7-8|G\n9-9|H", "1=A, 2=B, 3=C, 4=D, 5=E, 6=F; line 8: \"7-8\" is no number of a pin, no list of them and no span such as A1-A4; line 9: \"9-9\" is no number of a pin, no list of them and no span such as A1-A4"},
		{"marks of an active low", "Pin|Name\n1|~RESET\n2|/CS\n3|CS#\n4|nWR\n5|RESET_B\n6|!OE\n7|~{IRQ}\n8|R\u0305D\u0305\n9|\\overline{X}\n10|WE*\n11|-ACK", "1=~RESET, 2=/CS, 3=CS#, 4=nWR, 5=RESET_B, 6=!OE, 7=~{IRQ}, 8=R\u0305D\u0305, 9=\\overline{X}, 10=WE*, 11=-ACK"},
		{"packages side by side", "SOIC-8|QFN-16|Name|Type\n1|16|OUT|O\n2|-|IN|I\n4|EP|VSS|P\n–|5|NC|NC", "SOIC-8: 1=OUT output, 2=IN input, 4=VSS power in / QFN-16: 16=OUT output, EP=VSS power in, 5=NC not connected"},
		{"one of them with a word for numbers", "LQFP48 pin|LQFP64 pin|Pin name\n1|2|PA0\n2|3|PA1", "LQFP48 pin: 1=PA0, 2=PA1 / LQFP64 pin: 2=PA0, 3=PA1"},
		{"German", "Anschluss-Nr.|Bezeichnung|Richtung|Gruppe|Seite\n1|VDD|Versorgung|A|oben\n2|EIN|Eingang|A|links\n3|AUS|Ausgang|B|rechts", "1=VDD power in of A on the top, 2=EIN input of A on the left, 3=AUS output of B on the right"},
		{"French", "Broche|Nom|Sens\n1|VDD|alimentation\n2|E|entrée\n3|S|sortie", "1=VDD power in, 2=E input, 3=S output"},
		{"Spanish", "Patilla|Nombre|Dirección\n1|VDD|alimentación\n2|E|entrada\n3|S|salida", "1=VDD power in, 2=E input, 3=S output"},
		{"Italian", "Piedino|Nome|Direzione\n1|VDD|alimentazione\n2|E|ingresso\n3|U|uscita", "1=VDD power in, 2=E input, 3=U output"},
		{"Japanese", "端子番号|端子名|入出力\n1|VDD|電源\n2|IN|入力\n3|OUT|出力", "1=VDD power in, 2=IN input, 3=OUT output"},
		{"a number twice", "Pin|Name\n1|A\n1|B\n2|C", "1=A, 1=B, 2=C; line 3: the pin 1 stands in line 2 too"},
		{"a name without a number", "Pin|Name\n1|A\n|B\n2|C", "1=A, 2=C; line 3: the pin \"B\" has no number"},
		{"a type column without a heading of it", "Pin|Name|Usage\n1|A|input\n2|B|input\n3|C|output\n4|D|input\n5|E|output", "1=A input, 2=B input, 3=C output, 4=D input, 5=E output"},
		{"a column of page numbers", "Pin|Page|Name\n1|12|A\n2|12|B\n3|13|C", "1=A, 2=B, 3=C"},
		{"power outputs", "Pin|Name|Type\n1|VREG|Power output\n2|VDD|power", "1=VREG power out, 2=VDD power in"},
	} {
		assert.Equal(t, c.want, said(pinTable(c.table)), c.name)
	}
}

func TestWhereAPinStandsOnASymbol(t *testing.T) {
	at := func(o Layout, text string) string {
		table := pinTable(text)
		c, _ := table.Columns()
		s, err := MakeSymbol(table.Read(c)[0].Pins, o, nil)
		require.NoError(t, err)
		sides := map[string][]Pin{}
		for _, p := range s.Pins {
			sides[p.Runs] = append(sides[p.Runs], p)
		}
		var out []string
		for _, side := range []string{Right, Left, Down, Up} {
			list := sides[side]
			for i := range list { // downwards, then to the right
				for j := i + 1; j < len(list); j++ {
					if list[j].At.Y > list[i].At.Y || list[j].At.Y == list[i].At.Y && list[j].At.X < list[i].At.X {
						list[i], list[j] = list[j], list[i]
					}
				}
			}
			var names []string
			for _, p := range list {
				names = append(names, p.Name)
			}
			out = append(out, strings.Join(names, " "))
		}
		return strings.Join(out, " | ")
	}
	var bus []string
	for i := range 12 {
		bus = append(bus, fmt.Sprintf("%d|D[%d]|input", i+1, (i*5)%12))
	}
	assert.Equal(t, "D[0] D[1] D[2] D[3] D[4] D[5] D[6] D[7] D[8] D[9] D[10] D[11] |  |  | ", at(Layout{}, "Pin|Name|Type\n"+strings.Join(bus, "\n")), "numbers in names count as people do")
	assert.Equal(t, " | TX1_P TX1_N TX2_P TX2_N TX10_P TX10_N |  | ", at(Layout{}, "Pin|Name|Type\n1|TX2_N|O\n2|TX10_P|O\n3|TX1_N|O\n4|TX1_P|O\n5|TX10_N|O\n6|TX2_P|O"), "pairs stand together")
	assert.Equal(t, " |  | VDD VDDIO | AGND CGND COM RFGND VSS", at(Layout{}, "Pin|Name|Type\n1|CGND|P\n2|VDD|P\n3|RFGND|P\n4|COM|P\n5|VDDIO|P\n6|VSS|P\n7|AGND|P"), "grounds by type and name down")
	assert.Equal(t, "PA0 PA1 PA2 PA3 PA4 | PB0 PB1 PB2 |  | ", at(Layout{}, "Pin|Name|Type\n1|PA0|IO\n2|PB1|IO\n3|PA2|IO\n4|PA3|IO\n5|PB0|IO\n6|PA1|IO\n7|PA4|IO\n8|PB2|IO"), "a port stays on one side")
	assert.Equal(t, "GND D+ VBUS D- |  |  | ", at(Layout{OneSide: true}, "Pin|Name\n1|GND\n2|D+\n10|D-\n3|VBUS"), "a connector counts")
}

func TestHowASignalIsKeptSaysNothingOfItsDirection(t *testing.T) {
	for words, want := range map[string]string{"in": Input, "input": Input, "out": Output, "i/o": Bidirectional, "ground": PowerIn, "supply": PowerIn, "open drain": OpenCollector, "eingang": Input, "sortie": Output, "entrada": Input} {
		for _, kept := range []string{"analog %", "Digital %", "% analogique", "LVCMOS digital %", "digitaler %", "% Schmitt", "analog % digital"} {
			text := strings.ReplaceAll(kept, "%", words)
			got, ok := PinType(text)
			assert.True(t, ok, text)
			assert.Equal(t, want, got, text)
		}
	}
	for _, text := range []string{"digital", "logic cmos", "analog thing", "fast in", "digital in fast"} {
		got, ok := PinType(text)
		assert.False(t, ok && text != "analog", "%q was taken for %q", text, got)
	}
	got, ok := PinType("analog")
	assert.True(t, ok)
	assert.Equal(t, Passive, got)
}
