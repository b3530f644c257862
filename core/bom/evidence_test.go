package bom

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

// bench is a small library of parts of several kinds.
func bench(t *testing.T) (*lookup.Index, *cabinet.Cabinet) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	x := lookup.New()
	x.SetCabinet(cab)
	for _, p := range []struct{ number, drawer, values, sources string }{
		{"R-00001", "chip-resistors", "resistance=10k|tolerance=1%|power=125 mW|case=0603", "Tidewright:TW-0603-10K"},
		{"R-00002", "chip-resistors", "resistance=10k|tolerance=5%|power=125 mW|case=0603", "Tidewright:TW-0603-10KJ"},
		{"C-00001", "ceramic-capacitors", "capacitance=100n|tolerance=10%|voltage-rating=50 V|dielectric=X7R|case=0603", "Kelpline:KL-603-104"},
		{"C-00002", "ceramic-capacitors", "capacitance=100n|tolerance=10%|voltage-rating=16 V|dielectric=X5R|case=0402", "Kelpline:KL-402-104"},
		{"D-00001", "leds", "colour=red|wavelength=630 nm|case=0805", "Lumen Farm:LF-RED-1"},
		{"D-00002", "schottky-diodes", "current-rating=2 A @ 25 °C|reverse-voltage=40 V|forward-voltage=0.5 V|case=SMA", "Oystercatch:OCS240"},
		{"Q-00001", "mosfets", "drain-source-voltage=-20 V|drain-current=-2 A|channel=P|case=SOT-23", "Oystercatch:OCP2020"},
		{"J-00001", "pin-headers", "positions=10|pitch=2.54 mm|case=", "Brackwater:1022"},
		{"J-00002", "pin-headers", "positions=6|pitch=2.54 mm", "Brackwater:BW-6"},
		{"J-00003", "pin-headers", "positions=6|pitch=2.54 mm", "Sandpiper:BW-6"},
		{"1022", "chip-resistors", "resistance=47k|tolerance=1%|case=0805", "Tidewright:TW-0805-47K"},
	} {
		maker, mpn, _ := strings.Cut(p.sources, ":")
		x.Put(released(t, cab, p.number, p.drawer, p.values, maker, mpn))
	}
	return x, cab
}

// released is a released part with values written as "resistance=10k|case=0603".
func released(t *testing.T, cab *cabinet.Cabinet, number, drawer, values, maker, mpn string) *lookup.Entry {
	tpl, ok := cab.Template(drawer)
	require.True(t, ok, drawer)
	c := part.Content{Drawer: drawer, Values: map[string]cabinet.Value{}, Sources: []part.Source{{Manufacturer: maker, MPN: mpn, Numbers: []part.Number{{Supplier: "Marsh Lane", Number: "ML" + number}}}}}
	for _, kv := range strings.Split(values, "|") {
		k, text, _ := strings.Cut(kv, "=")
		slot, ok := tpl.Slot(k)
		require.True(t, ok, k)
		v, problem := slot.Read(text, measure.Options{})
		require.Nil(t, problem, kv)
		if !v.IsBlank() {
			c.Values[k] = v
		}
	}
	e := lookup.NewEntry(c)
	e.ID, e.Number, e.Standing, e.Revision, e.Version = number, number, lifecycle.Active, 1, 1
	return e
}

var benchColumns = Columns{{At: 0, Heading: "Ref", Role: Designator}, {At: 1, Heading: "No", Role: Number}, {At: 2, Heading: "MPN", Role: MPN}, {At: 3, Heading: "Maker", Role: Manufacturer}, {At: 4, Heading: "Value", Role: Value},
	{At: 5, Heading: "Package", Role: Package}, {At: 6, Heading: "Text", Role: Description}, {At: 7, Heading: "Tol", Role: Fact, Param: "tolerance"}, {At: 8, Heading: "V", Role: Fact, Param: "voltage-rating", Unit: "V"}, {At: 9, Heading: "Zzz"},
	{At: 10, Heading: "Order", Role: SupplierNumber}, {At: 11, Heading: "Shop", Role: Supplier}}

func TestEachCellIsEvidence(t *testing.T) {
	x, cab := bench(t)
	for _, c := range []struct {
		why   string
		cells string // Ref|No|MPN|Maker|Value|Package|Text|Tol|V|Zzz|Order|Shop
		kind  Kind
		part  string
		says  string // one piece of the tally: text=says
	}{
		{"all agrees", "R1||TW-0603-10K|Tidewright|10k|0603|RES 10k 1%|1 %", Linked, "R-00001", "1 %=agrees"},
		{"tolerance contradicts", "R1||TW-0603-10K|Tidewright|10k|0603||5 %", Proposed, "R-00001", "5 %=contradicts"},
		{"a tolerance in the value, too", "R1||TW-0603-10K|Tidewright|10k 5%|0603", Proposed, "R-00001", "5%=contradicts"},
		{"and in the description", "R1||TW-0603-10K|Tidewright|||RES 10k 5% 0603", Proposed, "R-00001", "5%=contradicts"},
		{"the value contradicts", "R1||TW-0603-10K|Tidewright|12k", Proposed, "R-00001", "12k=contradicts"},
		{"another kind of value", "R1||TW-0603-10K|Tidewright|100nF", Proposed, "R-00001", "100nF=contradicts"},
		{"the kind contradicts", "R1||TW-0603-10K|Tidewright|||CAP", Proposed, "R-00001", "CAP=contradicts"},
		{"dielectric contradicts", "C1||KL-603-104|Kelpline|100n|0603|X5R", Proposed, "C-00001", "X5R=contradicts"},
		{"a code of the same dielectric family does not agree", "C1||KL-603-104|Kelpline|100n|0603|NP0", Proposed, "C-00001", "NP0=contradicts"},
		{"more volts than asked are said", "C1||KL-603-104|Kelpline|100n|0603|||25", Linked, "C-00001", "25=better"},
		{"fewer volts contradict", "C1||KL-603-104|Kelpline|100n|0603|||100", Proposed, "C-00001", "100=contradicts"},
		{"a metric code is not the inch one", "C1||KL-402-104|Kelpline|100n|0402 metric", Proposed, "C-00002", "0402 metric=contradicts"},
		{"metric and inch side by side", "C1||KL-603-104|Kelpline|100n|0603 (1608 Metric)", Linked, "C-00001", "0603 (1608 Metric)=agrees"},
		{"a land pattern's name", "C1||KL-603-104|Kelpline|100n|CAPC1608X55N", Linked, "C-00001", "CAPC1608X55N=agrees"},
		{"of another case", "C1||KL-603-104|Kelpline|100n|CAPC2012X70N", Proposed, "C-00001", "CAPC2012X70N=contradicts"},
		{"letters before the code", "R1||TW-0603-10K|Tidewright|10k|r-0603", Linked, "R-00001", "r-0603=agrees"},
		{"two codes that are not the same case", "C1||KL-603-104|Kelpline|100n|0603/2012", Proposed, "C-00001", "0603/2012=contradicts"},
		{"colour contradicts", "D1||LF-RED-1|Lumen Farm|green", Proposed, "D-00001", "green=contradicts"},
		{"colour agrees", "D1||LF-RED-1|Lumen Farm|RED", Linked, "D-00001", "RED=agrees"},
		{"another package", "Q1||OCP2020|Oystercatch|20 V|SOT-89", Proposed, "Q-00001", "SOT-89=contradicts"},
		{"the sign of a rating does not count", "Q1||OCP2020|Oystercatch|20V|SOT23", Linked, "Q-00001", "20V=agrees"},
		{"a condition is part of the value", "D2||OCS240|Oystercatch|2 A @ 85 °C|SMA", Proposed, "D-00002", "2 A @ 85 °C=contradicts"},
		{"one that names none leaves it open", "D2||OCS240|Oystercatch|2 A|SMA", Linked, "D-00002", "2 A=agrees"},
		{"names decide", "D2||OCS240|Oystercatch|||VF 0.5V VR 40V", Linked, "D-00002", "0.5V=agrees"},
		{"and swapped they contradict", "D2||OCS240|Oystercatch|||VF 40V VR 0.5V", Proposed, "D-00002", "40V=contradicts"},
		{"what is not understood keeps a line from being linked", "R1||TW-0603-10K|Tidewright|10k|0603|RES qx17z", Proposed, "R-00001", "qx17z=not understood"},
		{"words for people do not", "R1||TW-0603-10K|Tidewright|10k|0603|RES precision", Linked, "R-00001", "precision=not used"},
		{"how many fills nothing", "R1||TW-0603-10K|Tidewright|||3 pcs RES 10k", Linked, "R-00001", "3=not used"},
		{"a column without a meaning is named", "R1||TW-0603-10K|Tidewright|10k|||||hello", Linked, "R-00001", "hello=not used"},
		{"another maker", "R1||TW-0603-10K|Kelpline|10k", Proposed, "R-00001", "Kelpline=contradicts"},
		{"two makers use the MPN", "J1||BW-6", Several, "", ""},
		{"and one is named", "J1||BW-6|Sandpiper", Linked, "J-00003", "Sandpiper=agrees"},
		{"plain digits are no MPN without their maker", "J1||1022", Proposed, "J-00001", ""},
		{"and are with a maker no name either", "J1||1022|Brackwater", Proposed, "J-00001", ""},
		{"a packing's ending proposes", "R1||TW-0603-10K-TR|Tidewright|10k", Proposed, "R-00001", "TW-0603-10K-TR=not understood"},
		{"an own number whatever its punctuation", "R1|r 00001", Linked, "R-00001", "r 00001=agrees"},
		{"designators of another kind speak against it", "C1|R-00001", Proposed, "R-00001", "C=not used"},
		{"a number without our form may be another house's", "R1|1022", Proposed, "1022", "1022=agrees"},
		{"a second identity that disagrees", "R1|R-00001|TW-0603-10KJ|Tidewright", Proposed, "R-00001", "TW-0603-10KJ=contradicts"},
		{"a second identity that nobody knows", "R1|X-77|TW-0603-10K|Tidewright", Proposed, "R-00001", "X-77=not understood"},
		{"an order code with its shop", "R1||||10k|||||| MLR-00001|Marsh Lane", Linked, "R-00001", "MLR-00001=agrees"},
		{"an order code alone proposes", "R1||||10k|||||| MLR-00001", Proposed, "R-00001", "MLR-00001=agrees"},
		{"an MPN inside the value proposes", "Q1||||OCP2020", Proposed, "Q-00001", "OCP2020=agrees"},
		{"facts alone propose", "R1||||10k|0603||1 %", Proposed, "R-00001", "10k=agrees"},
		{"two that fit are both shown", "R1||||10k|0603", Several, "", ""},
		{"nothing fits", "R1||||33k|0603", Missing, "", ""},
		{"an MPN in a column without a meaning proposes", "R1|||||||||TW-0603-10K", Proposed, "R-00001", "TW-0603-10K=agrees"},
		{"so does a supplier's number", "R1|||||||||MLR-00001", Proposed, "R-00001", "MLR-00001=agrees"},
		{"an MPN where our number belongs", "R1|TW-0603-10K", Proposed, "R-00001", ""},
		{"and where a supplier's does", "R1||||||||||TW-0603-10K", Proposed, "R-00001", ""},
		{"not against what else the line says", "R1||||33k|0603||||TW-0603-10K", Missing, "", ""},
		{"and facts go before it", "R1||||10k|0603||1 %||TW-0603-10KJ", Proposed, "R-00001", "TW-0603-10KJ=not used"},
		{"words there are words", "R1|||||||||Tidewright", Missing, "", ""},
		{"plain digits there are digits", "J1|||||||||1022", Missing, "", ""},
	} {
		cells := strings.Split(c.cells, "|")
		l := ReadLine(2, cells, benchColumns)
		v := Reconcile([]Line{l}, x, cab, Known{Columns: benchColumns})[0]
		got := ""
		if v.Part != nil {
			got = v.Part.Number
		}
		assert.Equal(t, []any{c.kind, c.part}, []any{v.Kind, got}, "%s: %v %v", c.why, v.Evidence, v.Tally)
		var says []string
		for _, b := range v.Tally {
			says = append(says, b.Text+"="+string(b.Says))
			assert.True(t, b.Says != Contradicts || b.Record != "" || b.Why != "", "%s: %+v says what it contradicts", c.why, b)
		}
		if c.says != "" {
			assert.Contains(t, says, c.says, c.why)
		}
		for _, e := range v.Evidence {
			if strings.Contains(e, "the only part that fits") {
				assert.Empty(t, v.Against(), "%s: it is only said of one that fits", c.why)
			}
		}
	}
}

func TestAColumnThatAPersonConfirmedAsOursLinksNumbersOfAnyForm(t *testing.T) {
	x, cab := bench(t)
	l := ReadLine(2, []string{"R1", "1022"}, benchColumns)
	v := Reconcile([]Line{l}, x, cab, Known{Columns: benchColumns, Confirmed: true})[0]
	assert.Equal(t, Linked, v.Kind)
	l = ReadLine(2, []string{"C1", "1022"}, benchColumns)
	assert.Equal(t, Proposed, Reconcile([]Line{l}, x, cab, Known{Columns: benchColumns, Confirmed: true})[0].Kind, "the designators speak against it")
}

func TestAChoiceHangsOnDesignatorsAndWhatTheLineSaid(t *testing.T) {
	x, cab := bench(t)
	l := ReadLine(9, []string{"R7, R8", "", "", "", "10k"}, benchColumns)
	d := decision.Record{Kind: decision.Line, About: "R7 R8", Evidence: l.Evidence(), Outcome: "R-00002", By: "Maren"}
	known := Known{Columns: benchColumns, Decisions: []decision.Record{d}}
	moved := l
	moved.Row = 3
	assert.Equal(t, "R-00002", Reconcile([]Line{moved}, x, cab, known)[0].Part.Number, "the row does not matter")
	other := ReadLine(9, []string{"R7, R8", "", "", "", "12k"}, benchColumns)
	v := Reconcile([]Line{other}, x, cab, known)[0]
	assert.Nil(t, v.Chosen)
	assert.Equal(t, "choice-open", v.Findings[0].Cause, "other evidence asks again")
}

func TestNotFittedMarksOfFiveLanguages(t *testing.T) {
	for value, want := range map[string]bool{"10k DNP": true, "10k nicht bestückt": true, "10k (non monté": true, "DNF": true, "unbestückt": true, "no montar": true, "non montato": true, "10k": false, "0": false, "0R": false, "NB21": false} {
		l := ReadLine(2, []string{"R1", "", "", "", value}, benchColumns)
		assert.Equal(t, want, l.NotFitted, value)
	}
	cols := Columns{{At: 0, Role: Designator}, {At: 1, Role: Fit}}
	for cell, want := range map[string]bool{"no": true, "nein": true, "non": true, "Nicht bestückt": true, "0": true, "yes": false, "ja": false, "": false} {
		assert.Equal(t, want, ReadLine(2, []string{"R1", cell}, cols).NotFitted, cell)
	}
}

// A number without a unit is compared with the value, a count or nothing; a value inside a range is no agreement where the
// record says elsewhere what it is.
func TestWhatIsOnlyInsideARangeDoesNotLink(t *testing.T) {
	x, cab := bench(t)
	for _, p := range []struct{ number, drawer, values string }{
		{"C-00009", "ceramic-capacitors", "capacitance=100n|voltage-rating=50 V|dielectric=X7R|case=0603|temperature-range=-55 to 125 °C"},
		{"U-00001", "regulators", "output-voltage=3.3 V|supply-voltage=2.5 to 12 V|current-rating=500 mA"},
		{"U-00002", "amplifiers", "supply-voltage=2.7 to 12 V|function=Voltage reference 2.5 V"},
		{"U-00003", "amplifiers", "supply-voltage=2.7 to 12 V|function=Operational amplifier"},
	} {
		x.Put(released(t, cab, p.number, p.drawer, p.values, "Curlew", "CUR-"+p.number))
	}
	for _, c := range []struct {
		mpn, ref, value string
		kind            Kind
	}{
		{"CUR-C-00009", "C1", "100n", Linked}, {"CUR-C-00009", "C1", "105", Proposed}, {"CUR-C-00009", "C1", "50", Proposed}, {"CUR-C-00009", "C1", "104", Linked}, {"CUR-C-00009", "C1", "100n 85 °C", Linked}, {"CUR-C-00009", "C1", "100n 150 °C", Proposed},
		{"CUR-U-00001", "U1", "3.3V", Linked}, {"CUR-U-00001", "U1", "3V3", Linked}, {"CUR-U-00001", "U1", "5V", Proposed}, {"CUR-U-00001", "U1", "5", Proposed}, {"CUR-U-00001", "U1", "3,3 V 500 mA", Linked}, {"CUR-U-00001", "U1", "3.3V 1A", Proposed},
		{"CUR-U-00002", "U1", "2.5V", Linked}, {"CUR-U-00002", "U1", "2V5", Linked}, {"CUR-U-00002", "U1", "5V", Proposed}, {"CUR-U-00002", "U1", "4.096 V", Proposed}, {"CUR-U-00002", "U1", "20V", Proposed},
		{"CUR-U-00003", "U1", "5V", Linked}, {"CUR-U-00003", "U1", "20V", Proposed}, {"CUR-U-00003", "U1", "5", Proposed},
	} {
		l := Line{Row: 2, MPN: c.mpn, Manufacturer: "Curlew", Value: c.value, Designators: []string{c.ref}, Quantity: 1}
		v := Reconcile([]Line{l}, x, cab, Known{})[0]
		assert.Equal(t, c.kind, v.Kind, "%s %q: %+v", c.mpn, c.value, v.Tally)
	}
}

// Two lines are only the same where the same parameters say the same: 5 as a tolerance is no 5 as a voltage.
func TestFactsOfOtherColumnsAreNoSameEvidence(t *testing.T) {
	x, cab := bench(t)
	right := ReadLine(2, []string{"R1", "", "TW-0603-10K", "Tidewright", "10k", "0603", "", "", "5 %", "", "", ""}, benchColumns)
	wrong := ReadLine(3, []string{"R2", "", "TW-0603-10K", "Tidewright", "10k", "0603", "", "5 %", "", "", "", ""}, benchColumns)
	assert.NotEqual(t, right.Evidence(), wrong.Evidence())
	vs := Reconcile([]Line{right, wrong}, x, cab, Known{Columns: benchColumns})
	assert.Equal(t, Linked, vs[0].Kind)
	assert.NotEqual(t, Linked, vs[1].Kind, "its tolerance contradicts, whatever the line before said")

	was := decision.Record{Kind: decision.Line, About: "R1", Evidence: right.evidence(false), Outcome: vs[0].Part.ID, By: "Maren"}
	assert.NotNil(t, Reconcile([]Line{right}, x, cab, Known{Columns: benchColumns, Decisions: []decision.Record{was}})[0].Chosen, "what was kept before parameters were named holds")
	learned := decision.Record{Kind: decision.Reading, About: asks(wrong, false), Evidence: Matters(vs[0].Part, cab), Outcome: vs[0].Part.ID, By: "Maren", Links: true}
	v := Reconcile([]Line{right}, x, cab, Known{Columns: benchColumns, Readings: []decision.Record{learned}})[0]
	assert.Equal(t, Linked, v.Kind)
	assert.Nil(t, v.Reading, "its own evidence links it")
}
