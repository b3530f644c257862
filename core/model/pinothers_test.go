package model

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Tables as other people write them, with what was expected of each before it was read.
func TestPinTablesOfOtherPeople(t *testing.T) {
	for table, want := range map[string]string{
		"Pin No.|Pin Name|Pin Function|I/O\n1|VIN|Input voltage of the regulator|P\n2|EN|Enable, active high|I\n3|GND|Ground of the device|G": "1=VIN power in, 2=EN input, 3=GND power in",
		"Terminal|Designation\n1|L1\n2|N\n3|PE":                                        "1=L1, 2=N, 3=PE",
		"Klemme|Bezeichnung|Art\n1|L+|Versorgung\n2|M|Masse\n3|DI1|Eingang":            "1=L+ power in, 2=M power in, 3=DI1 input",
		"Pin|Mnemonic|Type\nA1|DQ0|I/O\nA2|DQ1|I/O\nB1|CK_t|Input\nB2|CK_c|Input":      "A1=DQ0 bidirectional, A2=DQ1 bidirectional, B1=CK_t input, B2=CK_c input",
		"No|Name\n1|+5V\n2|D-\n3|D+\n4|GND\nSH|SHELL":                                  "1=+5V, 2=D-, 3=D+, 4=GND, SH=SHELL",
		"Pin|Name|Bank\n1|IO_L1P|0\n2|IO_L1N|0\n3|IO_L2P|1":                            "1=IO_L1P of 0, 2=IO_L1N of 0, 3=IO_L2P of 1",
		"Pin|Name|Voltage\n1|VDD|3.3\n2|GND|0\n3|OUT|3.3":                              "1=VDD, 2=GND, 3=OUT",
		"Pin number(s)|Signal name\n1, 5, 9|VSS\n2|A":                                  "1=VSS, 5=VSS, 9=VSS, 2=A",
		"Pin|Name\n1 – 3|VDD\n4|X":                                                     "1=VDD, 2=VDD, 3=VDD, 4=X",
		"Pin|Name\n1…3|VDD\n4|X":                                                       "1=VDD, 2=VDD, 3=VDD, 4=X",
		"Pin|Name\n1 through 3|VDD\n4|X":                                               "1=VDD, 2=VDD, 3=VDD, 4=X",
		"Pin|Name\nA1, A2–A4|VDD\nB1|X":                                                "A1=VDD, A2=VDD, A3=VDD, A4=VDD, B1=X",
		"Pin|Name\nA9-A11|VDD\nB1|X":                                                   "A9=VDD, A10=VDD, A11=VDD, B1=X",
		"Pin|Name\n3-1|VDD\n4|X\n5|Y\n6|Z":                                             "4=X, 5=Y, 6=Z; line 2: \"3-1\" is no number of a pin, no list of them and no span such as A1-A4",
		"Pin|Name\nEP|GND\n1|A\n2|B":                                                   "EP=GND, 1=A, 2=B",
		"Pin|Name\nPAD|GND\n1|A\n2|B":                                                  "PAD=GND, 1=A, 2=B",
		"Pin|Name\nExposed pad|GND\n1|A\n2|B":                                          "EP=GND, 1=A, 2=B; line 2: \"Exposed pad\" was taken for the number EP",
		"Pin|Name\nThermal Pad|GND\n1|A\n2|B":                                          "EP=GND, 1=A, 2=B; line 2: \"Thermal Pad\" was taken for the number EP",
		"Pin|Name\n1|A (B)\n2|C/D\n3|E, F":                                             "1=A (B), 2=C/D, 3=E, F",
		"Pin|Name|Alternate functions\n1|PA0|ADC0, TIM1\n2|PA1|ADC1, UART":             "1=PA0, 2=PA1",
		"Pin|Default function|Name\n1|GPIO|PA0\n2|GPIO|PA1":                            "1=PA0, 2=PA1",
		"Number|Name\n1|One\n2|Two":                                                    "1=One, 2=Two",
		"Pin;|Name:\n1|A\n2|B":                                                         "1=A, 2=B",
		"PIN NUMBER|PIN NAME|TYPE|DESCRIPTION\n1|nCS|I|Chip select\n2|SO|O|Serial out": "1=nCS input, 2=SO output",
		"Name|Pin|Name (alt)|Type\nA|1|X|in\nB|2|Y|out":                                "1=A input, 2=B output",
		"Contact|Signal|Wire colour\n1|TX|white\n2|RX|brown\n3|GND|green":              "1=TX, 2=RX, 3=GND",
		"Position|Signal\n1|TX\n2|RX":                                                  "1=TX, 2=RX",
		"Kontakt|Signal|Farbe\n1|TX|weiß\n2|RX|braun":                                  "1=TX, 2=RX",
		"Ball|Ball name|Buffer type\nAA12|DDR_A[0]|LVCMOS\nAB3|DDR_A[1]|LVCMOS":        "AA12=DDR_A[0], AB3=DDR_A[1]",
		"Lead|Function\n1|Anode\n2|Cathode":                                            "1=Anode, 2=Cathode",
		"Pin|Function\n1|Gate\n2|Source\n3|Drain":                                      "1=Gate, 2=Source, 3=Drain",
		"Pin|Symbol|Beschreibung\n1|G|Gate\n2|S|Source\n3|D|Drain":                     "1=G, 2=S, 3=D",
		"Pin|Name|Active\n1|CS|low\n2|EN|high":                                         "1=CS, 2=EN",
		"Pin|Name|Side|Order\n1|A|left|2\n2|B|right|1":                                 "1=A on the left, 2=B on the right",
		"Pin|Name|Unit\n1|IN1|A\n2|OUT1|A\n3|IN2|B\n4|OUT2|B\n5|V+|P":                  "1=IN1 of A, 2=OUT1 of A, 3=IN2 of B, 4=OUT2 of B, 5=V+ of P",
		"DIP-8|SO-8|MSOP-8|Name\n1|1|1|OUT\n2|2|2|IN-\n3|3|3|IN+":                      "DIP-8: 1=OUT, 2=IN-, 3=IN+ / SO-8: 1=OUT, 2=IN-, 3=IN+ / MSOP-8: 1=OUT, 2=IN-, 3=IN+",
		"Pin (SOT-23)|Pin (SC-70)|Name\n1|3|IN\n2|2|GND\n3|1|OUT":                      "Pin (SOT-23): 1=IN, 2=GND, 3=OUT / Pin (SC-70): 3=IN, 2=GND, 1=OUT",
		"Pin|Name\n01|A\n02|B\n10|C":                                                   "01=A, 02=B, 10=C",
		"Pin|Name\n1.|A\n2.|B":                                                         "1=A, 2=B",
		"Pin|Name\n#1|A\n#2|B":                                                         "1=A, 2=B",
		"Pin|Name\nPin 1|A\nPin 2|B":                                                   "1=A, 2=B",
		"Pin|Name\n1*|A\n2|B":                                                          "no pin table",
		"Pin|Name\n1 (note 2)|A\n2|B":                                                  "no pin table",
		"Pin|Name\n1|A\n\n2|B":                                                         "1=A, 2=B",
		"Pin|Name|Type\n1|A|I\n2|B|I\n3|C|I\n4|D|O, open drain":                        "1=A input, 2=B input, 3=C input, 4=D open collector",
		"Pin|Name|Dir.\n1|A|→\n2|B|←":                                                  "1=A, 2=B; line 1: what stands below \"Dir.\", such as \"→\", is no type that is known; the types were left open",
		"Pin|Net\n1|GND\n2|3V3":                                                        "1=GND, 2=3V3",
		"Pin|Anschluss\n1|GND\n2|3V3":                                                  "1=GND, 2=3V3",
		"Numéro de broche|Nom du signal|Type\n1|VCC|alimentation\n2|RST|entrée":        "1=VCC power in, 2=RST input",
		"Nº de pin|Nombre|Tipo\n1|VCC|alimentación\n2|RST|entrada":                     "1=VCC power in, 2=RST input",
		"Numero pin|Nome segnale|Tipo\n1|VCC|alimentazione\n2|RST|ingresso":            "1=VCC power in, 2=RST input",
		"ピン番号|信号名|機能\n1|VCC|電源入力\n2|RST|リセット":                                          "1=VCC, 2=RST",
		"Pin|Name|Level\n1|A|5V\n2|B|3.3V":                                             "1=A, 2=B",
		"Pin|Pin|Name\n1|2|A\n3|4|B":                                                   "Pin: 1=A, 3=B / Pin (column 2): 2=A, 4=B",
		"Port|Pin|Name\nA|1|PA1\nA|2|PA2\nB|3|PB1":                                     "1=PA1, 2=PA2, 3=PB1",
		"Bank|Pin|Name\n0|1|IO1\n0|2|IO2\n1|3|IO3":                                     "1=IO1 of 0, 2=IO2 of 0, 3=IO3 of 1",
		"Pin|Name\n1-4, 6|GND\n5|X":                                                    "1=GND, 2=GND, 3=GND, 4=GND, 6=GND, 5=X",
		"Pin|Name\nA1:A3|GND\nB5|X":                                                    "A1=GND, A2=GND, A3=GND, B5=X",
		"Pin|Name\nA1-3|GND\nB5|X":                                                     "A1=GND, A2=GND, A3=GND, B5=X",
		"Pin|Name\n1|A\n2|\n3|C":                                                       "1=A, 2=, 3=C; line 3: the pin 2 has no name",
	} {
		assert.Equal(t, want, said(pinTable(table)), table)
	}
}
