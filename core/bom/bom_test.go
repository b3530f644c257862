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

func TestAColumnOfDesignatorsIsKnownByItsCellsBesideARowOfTheSum(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	header := []string{"Positie", "Aantal", "Waarde"}
	rows := [][]string{{"R1, R2", "2", "4k7"}, {"R3..R5", "3", "10k"}, {"R6", "1", "220"}, {"K1-K6", "6", "relais"}, {"", "0,5 m", "draad"}, {"Totaal", "12", ""}}
	c, err := FindColumns(header, rows, cab)
	require.NoError(t, err)
	assert.Equal(t, []Role{Designator, Quantity, Value}, []Role{c[0].Role, c[1].Role, c[2].Role})
	_, err = FindColumns(header, append(rows[:2:2], rows[5]), cab)
	require.ErrorContains(t, err, "no column of designators", "of three cells one is none: that is no column of them")
	_, err = FindColumns(header, append(rows, []string{"zie tekening", "", ""}), cab)
	require.ErrorContains(t, err, "no column of designators")
}

func TestFindColumnsByHeadingAndContent(t *testing.T) {
	_, cab := house(t)
	roles := func(header []string, sample ...[]string) string {
		c, err := FindColumns(header, sample, cab)
		require.NoError(t, err)
		var out []string
		for _, col := range c {
			r := string(col.Role)
			if col.Param != "" {
				r += ":" + col.Param
			}
			out = append(out, r)
			assert.NotEmpty(t, col.Because)
		}
		return strings.Join(out, " ")
	}
	for header, want := range map[string]string{
		"RefDes|Amount|House number|Value|Case|Maker part no.|Fit":                            "designator quantity number value package mpn fit",
		"Pos.|Referenz|Menge|Wert|Gehäuse|Hersteller|Hersteller-Nr.|Bestückt|Bemerkung":       "remark designator quantity value package manufacturer mpn fit remark",
		"Repère|Qté|Valeur|Boîtier|Fabricant|Référence fabricant|Désignation":                 "designator quantity value package manufacturer mpn description",
		"Referencia|Cantidad|Valor|Encapsulado|Fabricante|Referencia del fabricante|Montado":  "designator quantity value package manufacturer mpn fit",
		"Riferimento|Quantità|Valore|Contenitore|Produttore|Codice produttore|Codice interno": "designator quantity value package manufacturer mpn number",
		"Designators|Qty|Resistance (Ω)|Something":                                            "designator quantity fact:resistance ",
	} {
		assert.Equal(t, want, roles(strings.Split(header, "|")), header)
	}
	assert.Equal(t, "designator number", roles([]string{"Ref", "Zzz"}, []string{"R1", "R-001"}, []string{"R2", "r 002"}), "a column of own numbers is found whatever it is called")
	assert.Equal(t, "designator mpn", roles([]string{"Ref", "Part number"}, []string{"R1", "TW-0805-4K7"}, []string{"R2", "KL55-A"}, []string{"R3", "KL56-A"}), "numbers of the makers are no numbers of ours")
	assert.Equal(t, "remark designator", roles([]string{"Position", "Zzz"}, []string{"1", "R1, R2"}, []string{"2", "C4"}), "running numbers are no designators")
	_, err := FindColumns([]string{"Item", "Qty"}, nil, cab)
	assert.ErrorContains(t, err, `no column of designators was found among "Item", "Qty"`)
}

// house is a small library of resistors.
func house(t *testing.T) (*lookup.Index, *cabinet.Cabinet) {
	cab, err := cabinet.Parse([]byte(`
format: jolly-cabinet/1
parameters: [{ key: resistance, label: Resistance, type: measure, of: resistance }, { key: case, label: Case, type: text }]
drawers: [{ key: resistors, label: Resistors, prefix: R, digits: 3, designator: R, leading: resistance, case: case, parameters: [{ key: resistance }, { key: case }] }]
`))
	require.NoError(t, err)
	x := lookup.New()
	x.SetCabinet(cab)
	for _, p := range []struct {
		number, ohms, size, mpn string
		standing                lifecycle.Standing
		revision                int
	}{
		{"R-001", "4.7 kΩ", "0805", "TW-0805-4K7", lifecycle.Active, 1}, {"R-002", "4.7 kΩ", "0603", "TW-0603-4K7", lifecycle.Active, 1}, {"R-003", "10 kΩ", "0805", "TW-0805-10K", lifecycle.Active, 0},
		{"R-004", "22 Ω", "0805", "TW-0805-22R", lifecycle.Obsolete, 1}, {"R-005", "1 kΩ", "0805", "TW-A", lifecycle.Active, 1}, {"R-006", "1 kΩ", "0805", "TW-B", lifecycle.Active, 1},
	} {
		e := lookup.NewEntry(part.Content{Drawer: "resistors",
			Values:  map[string]cabinet.Value{"resistance": {Type: cabinet.Measure, Measure: measure.MustParse(p.ohms)}, "case": {Type: cabinet.Text, Text: p.size}},
			Sources: []part.Source{{Manufacturer: "Tidewright", MPN: p.mpn, Numbers: []part.Number{{Supplier: "Marsh Lane", Number: "ML-" + p.number}}}}})
		e.ID, e.Number, e.Standing, e.Revision, e.Former = p.number, p.number, p.standing, p.revision, []string{"OLD-" + p.number}
		if p.standing == lifecycle.Obsolete {
			e.Use, e.Flag = lifecycle.UseNo, "Obsolete"
		}
		x.Put(e)
	}
	return x, cab
}

func TestALineWhosePartWasMergedAwayFollowsTheSurvivor(t *testing.T) {
	x, cab := house(t)
	gone, _ := x.ByNumber("R-005")
	keep, _ := x.ByNumber("R-006")
	g, k := *gone, *keep
	g.Gone, g.Version, g.Former = true, 2, nil
	k.Former, k.Version = append(k.Former, "R-005", "OLD-R-005"), 2
	x.Put(&g, &k)
	vs := Reconcile([]Line{{Row: 2, Number: "R-005", Designators: []string{"R1"}, Quantity: 1}, {Row: 3, Value: "1k", Designators: []string{"R2"}, Quantity: 1}}, x, cab, Known{Decisions: []decision.Record{{Kind: decision.Line, About: "R2", Outcome: "R-005", By: "Maren"}}})
	for _, v := range vs {
		require.NotNil(t, v.Part)
		assert.Equal(t, Linked, v.Kind)
		assert.Equal(t, "R-006", v.Part.Number)
		require.NotEmpty(t, v.Findings)
		assert.Contains(t, v.Findings[0].What, "the line is behind: R-005 leads to R-006 by now")
	}
}

func TestVerdictsWithTheirEvidence(t *testing.T) {
	x, cab := house(t)
	for name, c := range map[string]struct {
		line    Line
		kind    Kind
		part    string
		causes  string
		because string
	}{
		"own number":                       {Line{Number: "R-001", Value: "4k7"}, Linked, "R-001", "", "is in the library"},
		"former number":                    {Line{Number: "old-R-001"}, Proposed, "R-001", "", "former number of R-001"},
		"MPN":                              {Line{MPN: "TW-0805-4K7", Manufacturer: "Tidewright Ltd"}, Linked, "R-001", "", "the MPN"},
		"MPN with a dash too many":         {Line{MPN: "TW-08-05-4K7"}, Linked, "R-001", "", "written there as TW-0805-4K7"},
		"MPN of another maker":             {Line{MPN: "TW-0805-4K7", Manufacturer: "Kelpline"}, Proposed, "R-001", "manufacturer", ""},
		"MPN against value":                {Line{MPN: "TW-0805-4K7", Value: "10k"}, Proposed, "R-001", "value", ""},
		"MPN against package":              {Line{MPN: "TW-0805-4K7", Package: "R_0603"}, Proposed, "R-001", "package", ""},
		"number against MPN":               {Line{Number: "R-001", MPN: "TW-0805-10K"}, Proposed, "R-001", "mpn", ""},
		"supplier number":                  {Line{SupplierNumber: "ML-R-001"}, Proposed, "R-001", "", "a supplier sells it"},
		"value and package, one fits":      {Line{Value: "4k7", Package: "R0805"}, Proposed, "R-001", "", "the only part that fits"},
		"value without package":            {Line{Value: "4k7"}, Several, "", "", "2 parts fit"},
		"two with one value":               {Line{Value: "1k", Package: "0805"}, Several, "", "", "2 parts fit"},
		"value with more behind it":        {Line{Value: "4k7 1%", Package: "0603"}, Proposed, "R-002", "", ""},
		"an obsolete part is not proposed": {Line{Value: "22R", Package: "0805"}, Missing, "", "", "no part fits"},
		"an obsolete part by number":       {Line{Number: "R-004"}, Linked, "R-004", "obsolete", ""},
		"an unreleased part":               {Line{Number: "R-003"}, Linked, "R-003", "unreleased", ""},
		"nobody has it":                    {Line{MPN: "QX-9"}, Missing, "", "", "no part has the MPN"},
		"a number nobody has":              {Line{Number: "R-999"}, Missing, "", "number-unknown", "no part has the number"},
		"not fitted":                       {Line{Value: "4k7", Package: "0805", NotFitted: true}, Unfitted, "R-001", "", "not fitted"},
		"quantity":                         {Line{Number: "R-001", Quantity: 3}, Linked, "R-001", "quantity", ""},
	} {
		if c.line.Quantity == 0 {
			c.line.Quantity = -1
		}
		c.line.Row, c.line.Designators = 2, []string{"R1"}
		v := Reconcile([]Line{c.line}, x, cab, Known{})[0]
		assert.Equal(t, c.kind, v.Kind, "%s: %v", name, v.Evidence)
		got := ""
		if v.Part != nil {
			got = v.Part.Number
		}
		assert.Equal(t, c.part, got, name)
		var causes []string
		for _, f := range v.Findings {
			if f.Severity != "note" {
				causes = append(causes, f.Cause)
			}
		}
		assert.Equal(t, c.causes, strings.Join(causes, " "), name)
		assert.Contains(t, strings.Join(v.Evidence, "; "), c.because, name)
	}
}

func TestLinesAreLaidSideBySide(t *testing.T) {
	x, cab := house(t)
	vs := Reconcile([]Line{{Row: 2, Designators: []string{"R1", "R2"}, Quantity: 2, Number: "R-001"}, {Row: 3, Designators: []string{"R2"}, Quantity: 1, Number: "R-001"}}, x, cab, Known{})
	var causes []string
	for _, f := range vs[1].Findings {
		causes = append(causes, f.Cause)
	}
	assert.Subset(t, causes, []string{"designator-twice", "part-twice"})
}

func TestAChoiceStandsAndStillShowsWhatDisagrees(t *testing.T) {
	x, cab := house(t)
	v := Reconcile([]Line{{Row: 2, Designators: []string{"R1"}, Quantity: -1, Value: "10k"}}, x, cab, Known{Decisions: []decision.Record{{Kind: decision.Line, About: "R1", Outcome: "R-001", By: "Maren"}}})[0]
	assert.Equal(t, Linked, v.Kind)
	assert.Contains(t, v.Evidence, "chosen by Maren")
	assert.Equal(t, "value", v.Findings[0].Cause)
	v = Reconcile([]Line{{Row: 2, Designators: []string{"R1"}, Quantity: -1}}, x, cab, Known{Decisions: []decision.Record{{Kind: decision.Line, About: "R1", Outcome: "gone"}}})[0]
	assert.Equal(t, Missing, v.Kind)
	assert.Equal(t, "choice-gone", v.Findings[0].Cause)
}

func FuzzReadLine(f *testing.F) {
	f.Add("R1-R3, C5", "3", "4k7")
	f.Fuzz(func(_ *testing.T, des, qty, value string) {
		ReadLine(1, []string{des, qty, value}, Columns{{At: 0, Role: Designator}, {At: 1, Role: Quantity}, {At: 2, Role: Value}})
	})
}

func FuzzReconcile(f *testing.F) {
	w := newWorld(f, 5, 2)
	for _, s := range []string{"10k 1%", "R0603", "RES 10k 1% 0603", "TW-0805-4K7", "\xff\x00", "0603 (1608 Metric)", "VF 0.5V VR 40V", "3 pcs"} {
		f.Add(s, s, s, "R-00001")
	}
	f.Fuzz(func(t *testing.T, value, size, text, number string) {
		l := Line{Row: 2, Designators: []string{"R1"}, Quantity: 1, Value: value, Package: size, Description: text, Number: number, MPN: value}
		for _, v := range Reconcile([]Line{l}, w.index, w.cab, Known{Columns: madeColumns}) {
			if v.Kind == Linked && len(v.Against()) > 0 {
				t.Fatalf("%+v is linked to %s although it contradicts: %v", l, v.Part.Number, v.Tally)
			}
			if len(v.Options) > maxOptions {
				t.Fatalf("%d records are proposed", len(v.Options))
			}
		}
	})
}
