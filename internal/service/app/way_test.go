package app_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/finding"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
	"jollydrawer/core/measure/measuretest"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// made is a resistor as it was made, before anybody wrote it down.
type made struct {
	mpn, maker, tolerance, power, size string
	ohms                               measure.Measure
}

// madeResistors makes resistors that differ in value, tolerance, power and case.
func madeResistors(n int) (out []made) {
	e24 := []int64{10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91}
	for i := range n {
		v, _ := measure.NewNumber(e24[i%24], 1+i/24%4)
		out = append(out, made{mpn: fmt.Sprintf("TW%c-%04d-%c", 'A'+i%7, 1000+i, 'F'+i%3), maker: []string{"Tidewright", "Kelpline Components"}[i%2], ohms: measure.Of(measure.Resistance, v),
			tolerance: []string{"±1 %", "±5 %"}[i/96%2], power: []string{"125 mW", "100 mW", "250 mW"}[i/3%3], size: []string{"0805", "0603", "1206"}[i/3%3]})
	}
	return out
}

// wordings write the same resistors as three suppliers do.
var wordings = []struct {
	supplier, header string
	row              func(m made) string
}{

	{"Marsh Lane", "Mfr Part No.;Manufacturer;Resistance (Ω);Tolerance;Power Rating;Case;Stock", func(m made) string {
		return strings.Join([]string{m.mpn, m.maker, m.ohms.Value().String(), m.tolerance, m.power, m.size, "100"}, ";")
	}},
	{"Deichbau", "Hersteller-Nr.;Hersteller;Widerstand;Toleranz;Belastbarkeit;Bauform;Lfd. Nr.", func(m made) string {
		watts, _ := measure.MustParse(m.power).In("W")
		return strings.Join([]string{m.mpn, strings.ToUpper(m.maker), strings.ReplaceAll(m.ohms.String(), ".", ","), strings.Trim(m.tolerance, "±"), strings.ReplaceAll(watts, ".", ","), m.size, "7"}, ";")
	}},
	{"Quai Nord", "Référence fabricant;Fabricant;Désignation", func(m made) string {
		return strings.Join([]string{m.mpn, m.maker, fmt.Sprintf("RES %s %s %s %s", m.ohms.Marking(), strings.Trim(m.tolerance, "± "), strings.ReplaceAll(m.power, " ", ""), m.size)}, ";")
	}},
}

// mapped opens an intake of resistors and makes every rule that is suggested.
func mapped(h housetest.House, supplier, text string) (wire.Intake, deed.Call) {
	h.T.Helper()
	f, err := h.Files.Keep(h.T.Context(), h.Me, supplier+".csv", strings.NewReader(text))
	require.NoError(h.T, err)
	i, err := h.Intakes.Open(h.T.Context(), h.Me, wire.NewIntake{Supplier: supplier, FileHash: f.Hash, FileName: f.Name})
	require.NoError(h.T, err)
	id, err := deed.ParseID(i.ID)
	require.NoError(h.T, err)
	drawer := "chip-resistors"
	i, err = h.Intakes.Edit(h.T.Context(), h.Me, id, i.Version, wire.IntakeEdit{Changes: []crosswalk.Change{{Drawer: &drawer}}})
	require.NoError(h.T, err)
	for range 2 { // what a description holds is suggested once the drawer is known
		var changes []crosswalk.Change
		for _, g := range i.Suggestions {
			if place, is := strings.CutPrefix(g.To, "take."); is {
				changes = append(changes, crosswalk.Change{Take: map[string]string{place: g.From}})
			} else if r, ok := g.Rule(); ok {
				changes = append(changes, crosswalk.Change{Rule: &r})
			}
		}
		if len(changes) > 0 {
			i, err = h.Intakes.Edit(h.T.Context(), h.Me, id, i.Version, wire.IntakeEdit{Changes: changes})
			require.NoError(h.T, err)
		}
	}
	return i, h.Me
}

func TestTheWholeWayKeepsWhatWasMade(t *testing.T) {
	h := housetest.Open(t)
	all := madeResistors(180)
	for k, w := range wordings {
		text := w.header + "\n"
		for i, m := range all {
			if i%3 == k {
				text += w.row(m) + "\n"
			}
		}
		i, _ := mapped(h, w.supplier, text)
		require.Equal(t, 60, i.Counts["new"], "%s: %v %v", w.supplier, i.Counts, i.Causes)
		id, err := deed.ParseID(i.ID)
		require.NoError(t, err)
		job, err := h.Intakes.TakeIn(t.Context(), h.Me, id, i.Version, wire.TakeIn{Digest: i.Digest})
		require.NoError(t, err)
		require.Equal(t, "done", string(h.Wait(job).State))
	}
	number := map[string]string{}
	var release wire.BulkRelease
	release.Note = "the first of them"
	for _, m := range all {
		es := h.Index.ByMPN(m.mpn)
		require.Len(t, es, 1, m.mpn)
		number[m.mpn] = es[0].Number
		p, err := h.Parts.Get(t.Context(), h.Me, es[0].Number)
		require.NoError(t, err)
		got := map[string]string{}
		for _, v := range p.Draft.Values {
			got[v.Key] = v.Text
		}
		assert.Equal(t, []string{m.ohms.String(), m.tolerance, m.power, m.size}, []string{got["resistance"], got["tolerance"], got["power"], got["case"]}, "%+v", m)
		release.Parts = append(release.Parts, wire.PartBase{ID: p.ID, Version: p.Version})
	}
	_, err := h.Lifecycles.ReleaseMany(t.Context(), h.Me, release)
	require.NoError(t, err)
	for _, m := range all { // a colleague asks for it by two or three facts
		var found []string
		for _, r := range h.Index.Search(lookup.Query{Text: fmt.Sprintf("%s %s %s %s", m.ohms.Marking(), m.size, strings.Trim(m.tolerance, "± "), m.power), Limit: 50}).Rows {
			found = append(found, r.Number)
		}
		assert.Contains(t, found, number[m.mpn], "%+v", m)
	}
	text := "Ref,Qty,Value,Package,MPN,Manufacturer,Tol\n"
	for i, m := range all {
		text += fmt.Sprintf("R%d,1,%s,R%s,%s,%s,%s\n", i+1, m.ohms.Marking(), m.size, m.mpn, m.maker, strings.Trim(m.tolerance, "± "))
	}
	b := h.Board(t, "Board A", text)
	require.Equal(t, 180, b.Counts["linked"], "%+v", b.Counts)
	var out bytes.Buffer
	require.NoError(t, h.BOMs.Sheet(t.Context(), h.Me, wire.BOMSheet{BOM: b.ID, Form: "lines", Format: "csv"}, &out))
	table, err := csv.NewReader(&out).ReadAll()
	require.NoError(t, err)
	at := func(name string) int { return slices.Index(table[0], name) }
	for i, m := range all {
		r := table[i+1]
		assert.Equal(t, []string{number[m.mpn], m.mpn, m.ohms.Marking(), "R" + m.size}, []string{r[at("Part number")], r[at("MPN")], r[at("Value (as written)")], r[at("Package (as written)")]})
		assert.Equal(t, fmt.Sprintf("RES %s %s %s %s", m.ohms.Short(), strings.ReplaceAll(m.tolerance, " ", ""), strings.ReplaceAll(m.power, " ", ""), m.size), r[at("Description")])
	}
	damagedLines(h, t, all)
	damagedRows(h, t)
}

// damagedLines changes one fact of each of 500 lines; none of them may be linked.
func damagedLines(h housetest.House, t *testing.T, all []made) {
	d := &measuretest.Draws{State: 8}
	text, harm := "Ref,Qty,Value,Package,MPN,Manufacturer,Tol\n", []string{}
	for i := range 500 {
		m := all[d.IntN(len(all))]
		value, size, mpn, maker, tol := m.ohms.Marking(), "R"+m.size, m.mpn, m.maker, strings.Trim(m.tolerance, "± ")
		other := all[(i+7)%len(all)]
		switch what := []string{"value", "package", "maker", "tolerance", "mpn"}[i%5]; what {
		case "value":
			value = map[bool]string{true: "3k14", false: other.ohms.Marking()}[other.ohms == m.ohms]
			harm = append(harm, what)
		case "package":
			size, harm = "R2512", append(harm, what)
		case "maker":
			maker, harm = "Sandpiper Electronics", append(harm, what)
		case "tolerance":
			tol, harm = "2 %", append(harm, what)
		default:
			for other.ohms == m.ohms || other.maker != m.maker {
				other = all[d.IntN(len(all))]
			}
			mpn, harm = other.mpn, append(harm, what)
		}
		text += fmt.Sprintf("R%d,1,%s,%s,%s,%s,%s\n", i+1, value, size, mpn, maker, tol)
	}
	b := h.Board(t, "Damaged", text)
	for i, l := range b.Lines {
		assert.NotEqual(t, "linked", l.Verdict, "%s of %+v", harm[i], l)
	}
}

// damagedRows changes one fact of each of 500 rows of a file; each is found where its class says.
func damagedRows(h housetest.House, t *testing.T) {
	text, want := wordings[0].header+"\n", map[int]string{}
	for i, m := range madeResistors(500) {
		cells := []string{m.mpn + "Z", m.maker, m.ohms.Value().String(), m.tolerance, m.power, m.size, "100"}
		row := i + 2
		switch i % 8 {
		case 0:
			cells[0], want[row] = fmt.Sprintf("1.%dE+11", i), "spreadsheet-number"
		case 1:
			cells[5], want[row] = strings.TrimPrefix(m.size, "0"), "spreadsheet-zeros"
			if m.size == "1206" {
				cells[5] = "805"
			}
		case 2:
			cells[2], want[row] = "4,700", "doubt"
		case 3:
			cells[3], want[row] = "±5 V", "doubt"
		case 4:
			cells[4], want[row] = "600 W", "doubt"
		case 5:
			cells[2], want[row] = "-47", "doubt"
		case 6:
			cells[2], want[row] = "10 nF", "doubt"
		case 7:
			cells[2], want[row] = "0805 1/8W", "unreadable"
		}
		text += strings.Join(cells, ";") + "\n"
	}
	i, _ := mapped(h, "Marsh Lane", text)
	id, err := deed.ParseID(i.ID)
	require.NoError(t, err)
	found := map[int][]finding.Finding{}
	for offset := 0; ; offset += 1000 {
		l, err := h.Intakes.Findings(t.Context(), h.Me, id, offset, 1000)
		require.NoError(t, err)
		for _, f := range l.Items {
			found[f.Row] = append(found[f.Row], f)
		}
		if len(l.Items) < 1000 {
			break
		}
	}
	for row, cause := range want {
		assert.True(t, slices.ContainsFunc(found[row], func(f finding.Finding) bool { return strings.HasPrefix(f.Cause, cause) }), "row %d: %s is not among %v", row, cause, found[row])
	}
}
