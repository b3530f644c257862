package tabular

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"io"
	"strings"
	"testing"
	"time"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"jollydrawer/formats/delimited"
	"jollydrawer/formats/rows"
	"jollydrawer/formats/workbook"
)

func read(raw string, want rows.Layout) (header []string, all []rows.Row, lay rows.Layout, err error) {
	r, err := Open(io.NopCloser(strings.NewReader(raw)), int64(len(raw)), want, rows.DefaultLimits)
	if err != nil {
		return
	}
	defer r.Close()
	for {
		row, ok, e := r.Next()
		if e != nil || !ok {
			return r.Header(), all, r.Layout(), e
		}
		all = append(all, row)
	}
}

func opened(raw string) (rows.Reader, error) {
	return Open(io.NopCloser(strings.NewReader(raw)), int64(len(raw)), rows.Layout{}, rows.DefaultLimits)
}

func utf16le(s string) string {
	b := []byte{0xFF, 0xFE}
	for _, u := range utf16.Encode([]rune(s)) {
		b = binary.LittleEndian.AppendUint16(b, u)
	}
	return string(b)
}

func TestOpenWorksOutEncodingDelimiterAndHeader(t *testing.T) {
	for name, c := range map[string]struct {
		raw  string
		want rows.Layout
	}{
		"semicolons and decimal commas": {"MPN;Value;Maker\nA1;4,7 kΩ;K\nA2;10 kΩ;K\n", rows.Layout{Format: "csv", Encoding: "utf-8", Delimiter: ";", HeaderRow: 1}},
		"UTF-16 with a mark and tabs":   {utf16le("MPN\tValue\tMaker\r\nA1\t4,7 kΩ\tK\r\n"), rows.Layout{Format: "csv", Encoding: "utf-16le", Delimiter: "\t", HeaderRow: 1}},
		"Windows-1252":                  {"MPN,Value,Maker\nA1,\"4,7 k\xb5\",K\n", rows.Layout{Format: "csv", Encoding: "windows-1252", Delimiter: ",", HeaderRow: 1}},
		"titles above the header":       {"Price list\nSpring\nMPN,Value,Maker\nA1,\"4,7 kΩ\",K\n", rows.Layout{Format: "csv", Encoding: "utf-8", Delimiter: ",", HeaderRow: 3}},
		"more titles than rows":         {"Price list\nSpring\nNo tax\nMPN,Value,Maker\nA1,\"4,7 kΩ\",K\n", rows.Layout{Format: "csv", Encoding: "utf-8", Delimiter: ",", HeaderRow: 4}},
		"a row with cells too many":     {"MPN,Value,Maker\nA1,\"4,7 kΩ\",K,x,y,z\n", rows.Layout{Format: "csv", Encoding: "utf-8", Delimiter: ",", HeaderRow: 1}},
		"a byte order mark":             {"\xEF\xBB\xBFMPN,Value,Maker\nA1,\"4,7 kΩ\",K\n", rows.Layout{Format: "csv", Encoding: "utf-8", Delimiter: ",", HeaderRow: 1}},
	} {
		h, all, lay, err := read(c.raw, rows.Layout{})
		require.NoError(t, err, name)
		assert.Equal(t, c.want, lay, name)
		assert.Equal(t, []string{"MPN", "Value", "Maker"}, h, name)
		assert.True(t, strings.HasPrefix(all[0].Cells[1], "4,7 k"), name)
	}
}

func TestOpenRefusesBadFilesWithASentence(t *testing.T) {
	var bomb bytes.Buffer
	z := zip.NewWriter(&bomb)
	w, _ := z.Create("xl/worksheets/sheet1.xml")
	_, _ = w.Write(make([]byte, 30<<20))
	z.Close()
	for name, c := range map[string]struct{ raw, says string }{
		"empty":                {"", "is empty"},
		"blank":                {" \n\n", "is empty"},
		"binary called csv":    {"\x7fELF\x02\x01\x00\x00\x00\x03\x00", "not a text file"},
		"header and no rows":   {"MPN,Value\n", "no rows"},
		"broken UTF-8":         {"MPN,Value\nA,10 Ω\nB,4 \xce(\n", "Line 3"},
		"zip bomb":             {bomb.String(), "would unpack"},
		"zip of other things":  {"PK\x03\x04rest", "not an XLSX"},
		"PDF":                  {"%PDF-1.4 ...", "is a PDF"},
		"the old binary sheet": {"\xD0\xCF\x11\xE0....", "old binary form"},
	} {
		_, _, _, err := read(c.raw, rows.Layout{})
		assert.ErrorContains(t, err, c.says, name)
	}
	_, err := Open(io.NopCloser(strings.NewReader("")), 200<<20, rows.Layout{}, rows.DefaultLimits)
	assert.ErrorContains(t, err, "at most 128 MB")
}

func TestARowWithTooManyFieldsIsNamedAndTheRestIsRead(t *testing.T) {
	_, all, _, err := read("MPN,Value\nA,1,000 µF\nB,2\n", rows.Layout{Delimiter: ","})
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.Contains(t, all[0].Problem, "more than the header")
	assert.Empty(t, all[1].Problem)
}

func TestWorkbookRoundTripAndSafeCells(t *testing.T) {
	table := [][]string{{"Number", "Quantity"}, {"=1+1", "12"}, {"-40 to 85 °C", "3"}}
	var x, c bytes.Buffer
	require.NoError(t, workbook.Write(&x, "BOM", table, map[int]bool{1: true}))
	h, all, lay, err := read(x.String(), rows.Layout{})
	require.NoError(t, err)
	assert.Equal(t, []string{"Number", "Quantity"}, h)
	assert.Equal(t, "BOM", lay.Sheet)
	assert.Equal(t, []string{"=1+1", "12"}, all[0].Cells, "text stays text in a workbook")
	require.NoError(t, delimited.Write(&c, table))
	assert.Equal(t, "Number,Quantity\n'=1+1,12\n'-40 to 85 °C,3\n", c.String())
}

func FuzzOpen(f *testing.F) {
	f.Add([]byte("a;b\n1;2\n"))
	f.Add([]byte(utf16le("a\tb\n1\t2\n")))
	f.Add([]byte("a,\"b\n1,2\n"))
	f.Add([]byte(`[{"mpn":"A1","price":{"each":0.5}},{"mpn":"A2"}]`))
	f.Add([]byte("{\"a\":1}\n{\"a\":{\"b\":[1,{}]}}"))
	f.Fuzz(func(_ *testing.T, raw []byte) {
		_, _, _, _ = read(string(raw), rows.Layout{})
	})
}

func TestJSONIsReadAsRows(t *testing.T) {
	for name, text := range map[string]string{
		"an array":         `[{"mpn":"A1","price":{"each":0.5,"unit":"EUR"},"tags":["smd","new"]},{"mpn":"A2","rohs":true,"price":{"each":1.25}}]`,
		"one a line":       "{\"mpn\":\"A1\",\"price\":{\"each\":0.5,\"unit\":\"EUR\"},\"tags\":[\"smd\",\"new\"]}\n{\"mpn\":\"A2\",\"rohs\":true,\"price\":{\"each\":1.25}}\n",
		"wrapped":          `{"count":2,"parts":[{"mpn":"A1","price":{"each":0.5,"unit":"EUR"},"tags":["smd","new"]},{"mpn":"A2","rohs":true,"price":{"each":1.25}}]}`,
		"with a byte mark": "\xEF\xBB\xBF" + `[{"mpn":"A1","price":{"each":0.5,"unit":"EUR"},"tags":["smd","new"]},{"mpn":"A2","rohs":true,"price":{"each":1.25}}]`,
	} {
		r, err := opened(text)
		require.NoError(t, err, name)
		assert.Equal(t, []string{"mpn", "price.each", "price.unit", "tags", "rohs"}, r.Header(), name)
		one, ok, err := r.Next()
		require.NoError(t, err)
		require.True(t, ok)
		assert.Equal(t, []string{"A1", "0.5", "EUR", "smd, new", ""}, one.Cells, name)
		two, _, err := r.Next()
		require.NoError(t, err)
		assert.Equal(t, []string{"A2", "1.25", "", "", "true"}, two.Cells, name)
		_, ok, err = r.Next()
		require.NoError(t, err, "the end is no error")
		assert.False(t, ok, name)
	}
	for text, says := range map[string]string{
		`[]`: "holds no objects", `[{"a":1},{"a":`: "ends behind object 1", `[{"a":1},{"a":]`: "is broken behind object 1", `[{"a":1}, 5]`: "Entry 2 of the file is no object", `{}`: "The file has no header",
	} {
		_, err := opened(text)
		assert.ErrorContains(t, err, says, text)
	}
	r, err := opened(`[{"a":1,"a":2}]`)
	require.NoError(t, err)
	row, _, err := r.Next()
	require.NoError(t, err)
	assert.Contains(t, row.Problem, "twice")
}

// archive packs files as a zip.
func packed(t *testing.T, files map[string]string) string {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for name, text := range files {
		f, err := w.Create(name)
		require.NoError(t, err)
		_, err = f.Write([]byte(text))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return b.String()
}

func TestAnArchiveIsOpenedWithCare(t *testing.T) {
	raw := packed(t, map[string]string{"old lib/parts.csv": "a;b\n1;2\n", "sheets/x.PDF": "%PDF-1.4", ".hidden.csv": "c;d\n3;4\n"})
	r, err := opened(raw)
	require.NoError(t, err)
	assert.Equal(t, []string{"a", "b"}, r.Header())
	assert.Equal(t, "old lib/parts.csv", r.Layout().Inside)
	beside, err := Beside(strings.NewReader(raw), int64(len(raw)), ".pdf", rows.DefaultLimits)
	require.NoError(t, err)
	assert.Equal(t, map[string][]byte{"sheets/x.pdf": []byte("%PDF-1.4")}, beside)
	for says, files := range map[string]map[string]string{
		"another archive":         {"inner.zip": "PK\x03\x04"},
		"leads out of it":         {"../../etc/parts.csv": "a;b\n1;2\n"},
		"holds no table":          {"readme.md": "x"},
		"no real files":           {"parts.csv": strings.Repeat("a;b;c\n", 4_000_000)},
		"rows under it":           {"parts.csv": "a;b\n"},
		"leads out of it (\"C:\\": {`C:\parts.csv`: "a;b\n1;2\n"},
	} {
		_, err := opened(packed(t, files))
		assert.ErrorContains(t, err, says)
	}
}

func TestNumbersInAWorkbookKeepAllTheirDigits(t *testing.T) {
	f := excelize.NewFile()
	defer f.Close()
	style := func(format string) int {
		id, err := f.NewStyle(&excelize.Style{CustomNumFmt: &format})
		require.NoError(t, err)
		return id
	}
	for cell, v := range map[string]any{"A1": "Electrical", "A2": "R", "B2": "P", "C2": "Tol", "D2": "Since", "E2": "Text", "E1": "Remarks", "A3": 4.7, "B3": 0.125, "C3": 0.005, "D3": time.Date(2026, 5, 4, 0, 0, 0, 0, time.UTC), "E3": "0402", "A4": 1200.0, "B4": 0.1 + 0.2, "C4": 0.01} {
		require.NoError(t, f.SetCellValue("Sheet1", cell, v))
	}
	for cell, format := range map[string]string{"A3": `0" kΩ"`, "B3": "0.0", "C3": "0%", "D3": "dd/mm/yy", "A4": "#,##0", "B4": "0.00", "C4": "0%"} {
		require.NoError(t, f.SetCellStyle("Sheet1", cell, cell, style(format)))
	}
	require.NoError(t, f.SetRowVisible("Sheet1", 4, false))
	require.NoError(t, f.SetCellFormula("Sheet1", "F4", "A4*2"))
	var b bytes.Buffer
	require.NoError(t, f.Write(&b))
	r, err := opened(b.String())
	require.NoError(t, err)
	one, _, err := r.Next()
	require.NoError(t, err)
	assert.Equal(t, []string{"4.7 kΩ", "0.125", "0.5%", "2026-05-04", "0402"}, one.Cells[:5], "what a format rounds for showing is not lost")
	two, _, err := r.Next()
	require.NoError(t, err)
	assert.Equal(t, []string{"1200", "0.3", "1%"}, two.Cells[:3])
	assert.Contains(t, strings.Join(r.Layout().Notes, "; "), "1 rows are hidden")
	assert.Contains(t, strings.Join(r.Layout().Notes, "; "), "formulas")
}

func TestOtherEncodingsAreNamed(t *testing.T) {
	r, err := Open(io.NopCloser(strings.NewReader("a;b\n\xB9;\xBC\n")), 8, rows.Layout{Encoding: "iso-8859-2"}, rows.DefaultLimits)
	require.NoError(t, err)
	row, _, err := r.Next()
	require.NoError(t, err)
	assert.Equal(t, []string{"š", "ź"}, row.Cells)
	_, err = Open(io.NopCloser(strings.NewReader("a;b\n1;2\n")), 8, rows.Layout{Encoding: "ebcdic-odd"}, rows.DefaultLimits)
	assert.ErrorContains(t, err, "is not known")
}
