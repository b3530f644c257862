package tabular

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"io"
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
	f.Fuzz(func(_ *testing.T, raw []byte) {
		_, _, _, _ = read(string(raw), rows.Layout{})
	})
}
