package workbook

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/formats/formatstest"
	"jollydrawer/formats/rows"
)

// ods packs a workbook of sheets, each the elements inside its table.
func ods(t testing.TB, manifest string, sheets ...[2]string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	put := func(name, text string) {
		w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Store})
		require.NoError(t, err)
		_, err = io.WriteString(w, text)
		require.NoError(t, err)
	}
	put("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
	var body strings.Builder
	body.WriteString(`<?xml version="1.0" encoding="UTF-8"?><office:document-content xmlns:office="` + officeNS + `" xmlns:table="` + tableNS + `" xmlns:text="` + textNS + `"><office:body><office:spreadsheet>`)
	for _, s := range sheets {
		fmt.Fprintf(&body, `<table:table table:name="%s"><table:table-column table:number-columns-repeated="16384"/>%s</table:table>`, s[0], s[1])
	}
	body.WriteString(`</office:spreadsheet></office:body></office:document-content>`)
	put("content.xml", body.String())
	put("META-INF/manifest.xml", manifest)
	require.NoError(t, z.Close())
	return b.Bytes()
}

func tr(cells ...string) string {
	return "<table:table-row>" + strings.Join(cells, "") + "</table:table-row>"
}

func td(text string) string {
	return `<table:table-cell office:value-type="string"><text:p>` + text + `</text:p></table:table-cell>`
}

func number(value, shown string) string {
	return `<table:table-cell office:value-type="float" office:value="` + value + `"><text:p>` + shown + `</text:p></table:table-cell>`
}

func all(t testing.TB, raw []byte, want rows.Layout) (header []string, table [][]string, lay rows.Layout) {
	t.Helper()
	r, err := Open(raw, want, rows.DefaultLimits)
	require.NoError(t, err)
	defer r.Close()
	for {
		row, ok, err := r.Next()
		require.NoError(t, err)
		if !ok {
			return r.Header(), table, r.Layout()
		}
		table = append(table, append([]string{fmt.Sprint(row.Number)}, row.Cells...))
	}
}

func TestODSCellsAreReadAsTheyStand(t *testing.T) {
	cell := func(attrs, inside string) string {
		return "<table:table-cell " + attrs + ">" + inside + "</table:table-cell>"
	}
	for _, c := range []struct{ name, cell, want string }{
		{"text", td("4,7 kΩ"), "4,7 kΩ"},
		{"a number with all of its digits", number("0.123456789", "0,12"), "0.123456789"},
		{"with the unit of its format", number("4.7", "4,70 kΩ"), "4.7 kΩ"},
		{"with a narrow blank before the unit", number("100", "100\u00a0nF"), "100 nF"},
		{"a whole number", number("5000", "5.000"), "5000"},
		{"a large one", number("1.2E+11", "1,20E+011"), "120000000000"},
		{"less than nothing", number("-55", "-55 °C"), "-55 °C"},
		{"a share", cell(`office:value-type="percentage" office:value="0.015"`, "<text:p>2%</text:p>"), "1.5%"},
		{"money", cell(`office:value-type="currency" office:currency="EUR" office:value="0.0125"`, "<text:p>0,01 €</text:p>"), "0.0125 EUR"},
		{"a day", cell(`office:value-type="date" office:date-value="2026-03-01"`, "<text:p>01.03.26</text:p>"), "2026-03-01"},
		{"a day and a time", cell(`office:value-type="date" office:date-value="2026-03-01T10:30:00"`, "<text:p>x</text:p>"), "2026-03-01 10:30:00"},
		{"a truth", cell(`office:value-type="boolean" office:boolean-value="true"`, "<text:p>WAHR</text:p>"), "WAHR"},
		{"a formula's last value", cell(`table:formula="of:=1+1" office:value-type="float" office:value="2"`, "<text:p>2</text:p>"), "2"},
		{"lines, blanks and tabs", cell(`office:value-type="string"`, `<text:p>a<text:s text:c="3"/>b<text:tab/>c</text:p><text:p>d<text:line-break/>e</text:p>`), "a   b\tc\nd\ne"},
		{"letters of several kinds", cell(`office:value-type="string"`, `<text:p>10<text:span>µ</text:span>F <text:a>see</text:a></text:p>`), "10µF see"},
		{"without the note that hangs on it", cell(`office:value-type="string"`, `<office:annotation><text:p>a note</text:p></office:annotation><text:p>TW-1</text:p>`), "TW-1"},
		{"a text that is not shown", cell(`office:value-type="string" office:string-value="kept"`, ""), "kept"},
		{"entities", td("R&amp;D &lt;1 Ω"), "R&D <1 Ω"},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, table, _ := all(t, ods(t, "", [2]string{"S", tr(td("Maker"), td("What"), td("Pins")) + tr(td("Tidewright"), c.cell, td("2"))}), rows.Layout{})
			require.Len(t, table, 1)
			assert.Equal(t, []string{"2", "Tidewright", c.want, "2"}, table[0])
		})
	}
}

func TestODSSheetsAndRepeats(t *testing.T) {
	blank := `<table:table-row table:number-rows-repeated="1048000"><table:table-cell table:number-columns-repeated="16384"/></table:table-row>`
	list := tr(td("List of parts")) + `<table:table-header-rows>` + tr(td("Maker"), td("MPN"), td("Value")) + `</table:table-header-rows>` +
		tr(td("Tidewright"), td("TW-1"), `<table:table-cell table:number-columns-repeated="16381"/>`) +
		`<table:table-row table:number-rows-repeated="2"><table:table-cell table:number-columns-repeated="2" office:value-type="string"><text:p>x</text:p></table:table-cell>` + td("y") + `</table:table-row>` +
		`<table:table-row table:visibility="filter">` + td("Kelpline") + `<table:covered-table-cell><text:p>unseen</text:p></table:covered-table-cell>` + td("100 nF") + `</table:table-row>` + blank
	raw := ods(t, "", [2]string{"Cover", blank}, [2]string{"Parts", list}, [2]string{"More", tr(td("A"), td("B")) + tr(td("1"), td("2"))})
	header, table, lay := all(t, raw, rows.Layout{})
	assert.Equal(t, []string{"Maker", "MPN", "Value"}, header)
	assert.Equal(t, [][]string{{"3", "Tidewright", "TW-1"}, {"4", "x", "x", "y"}, {"5", "x", "x", "y"}, {"6", "Kelpline", "", "100 nF"}}, table)
	assert.Equal(t, []string{"Cover", "Parts", "More"}, lay.Sheets)
	assert.Equal(t, []string{"ods", "Parts"}, []string{lay.Format, lay.Sheet}, "the first sheet that has anything")
	assert.Contains(t, strings.Join(lay.Notes, ";"), "1 rows are hidden in the workbook; they are read all the same")
	header, table, _ = all(t, raw, rows.Layout{Sheet: "More"})
	assert.Equal(t, []any{[]string{"A", "B"}, [][]string{{"2", "1", "2"}}}, []any{header, table})
	_, err := Open(raw, rows.Layout{Sheet: "Nope"}, rows.DefaultLimits)
	assert.EqualError(t, err, `The workbook has no sheet "Nope"; it has Cover, Parts, More.`)
	_, err = Open(ods(t, `<manifest:file-entry><manifest:encryption-data/></manifest:file-entry>`, [2]string{"S", list}), rows.Layout{}, rows.DefaultLimits)
	assert.EqualError(t, err, "The workbook is locked with a password: save it without one and try again.")
	_, err = Open(ods(t, ""), rows.Layout{}, rows.DefaultLimits)
	assert.EqualError(t, err, "The workbook has no sheet.")
	_, err = Open(ods(t, "", [2]string{"S", blank}), rows.Layout{}, rows.DefaultLimits)
	assert.Error(t, err)
	_, err = Open(ods(t, "", [2]string{"S", tr(td("A"), td("B")) + "<table:table-row><broken>"}), rows.Layout{}, rows.DefaultLimits)
	assert.ErrorContains(t, err, "is damaged")
}

func TestODSKeepsWhatAllReadersKeep(t *testing.T) {
	wide := ods(t, "", [2]string{"S", tr(td("A"), td("B"), td("C"), td("D"), td("E")) + tr(td("something long"), td("2"), td("3"), td("4"), td("5")) + tr(td("1"), td("2"), td("3"), td("4"), td("5"))})
	formatstest.Limits(t, opened, wide)
}

func FuzzODS(f *testing.F) {
	f.Add("<table:table-row><table:table-cell table:number-columns-repeated=\"99999999\"><text:p>a</text:p></table:table-cell></table:table-row>")
	f.Add(tr(td("A"), td("B")) + tr(td("1"), number("2", "2,0 V")))
	f.Fuzz(func(t *testing.T, inside string) {
		if len(inside) > 5000 {
			return
		}
		r, err := Open(ods(t, "", [2]string{"S", inside}), rows.Layout{}, rows.DefaultLimits)
		if err != nil {
			return
		}
		defer r.Close()
		for n := 0; n < 1000; n++ {
			row, ok, err := r.Next()
			if err != nil || !ok {
				return
			}
			if len(row.Cells) > maxODSColumns {
				t.Fatalf("a row of %d cells", len(row.Cells))
			}
		}
	})
}
