// Package workbook reads and writes XLSX workbooks (ECMA-376): one sheet at a time, values as they are shown.
package workbook

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"strings"

	"github.com/xuri/excelize/v2"

	"jollydrawer/formats/rows"
)

// What a workbook may grow to when it is unpacked, and how much more than its packed size.
const (
	maxUnpacked = 512 << 20
	maxRatio    = 150
)

type reader struct {
	file         *excelize.File
	it           *excelize.Rows
	raw          *excelize.Rows // the same rows once more, with numbers as they are kept
	from1904     bool
	hidden, note int
	n            int
	header       []string
	layout       rows.Layout
	lim          rows.Limits
	ahead        []rows.Row
}

// Open reads a workbook that is held in memory. Fields of want that are set are taken as given.
func Open(raw []byte, want rows.Layout, lim rows.Limits) (rows.Reader, error) {
	if err := checkArchive(raw); err != nil {
		return nil, err
	}
	f, err := excelize.OpenReader(bytes.NewReader(raw), excelize.Options{UnzipSizeLimit: maxUnpacked, UnzipXMLSizeLimit: 64 << 20})
	if err != nil {
		return nil, rows.Errorf("The workbook is damaged, or no XLSX: open it in a spreadsheet program, save it again as XLSX and try once more.")
	}
	x := &reader{file: f, lim: lim, layout: rows.Layout{Format: "xlsx", Sheet: want.Sheet, Sheets: f.GetSheetList()}}
	if x.layout.Sheet == "" {
		x.layout.Sheet = firstFilled(f)
	}
	if i, err := f.GetSheetIndex(x.layout.Sheet); err != nil || i < 0 {
		f.Close()
		return nil, rows.Errorf("The workbook has no sheet %q; it has %s.", x.layout.Sheet, strings.Join(x.layout.Sheets, ", "))
	}
	if x.it, err = f.Rows(x.layout.Sheet); err != nil {
		f.Close()
		return nil, rows.Errorf("The sheet %q is damaged: open the workbook in a spreadsheet program, save it again and try once more.", x.layout.Sheet)
	}
	if x.raw, err = f.Rows(x.layout.Sheet); err != nil {
		x.it.Close()
		f.Close()
		return nil, rows.Errorf("The sheet %q is damaged: open the workbook in a spreadsheet program, save it again and try once more.", x.layout.Sheet)
	}
	if props, err := f.GetWorkbookProps(); err == nil && props.Date1904 != nil {
		x.from1904 = *props.Date1904
	}
	if hasFormulas(raw) {
		x.layout.Notes = append(x.layout.Notes, "the workbook has formulas; the values that it computed last are read")
	}
	if err := x.start(want.HeaderRow); err != nil {
		x.Close()
		return nil, err
	}
	return x, nil
}

// checkArchive refuses a zip that would unpack to far more than it should, before anything is unpacked.
func checkArchive(raw []byte) error {
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return rows.Errorf("The file is not an XLSX workbook, or it is damaged.")
	}
	var total uint64
	sheet := false
	for _, f := range z.File {
		total += f.UncompressedSize64
		sheet = sheet || strings.HasPrefix(f.Name, "xl/")
	}
	if total > maxUnpacked || total > uint64(len(raw))*maxRatio {
		return rows.Errorf("The workbook would unpack to %d MB from %d kB: it is not opened, because no real parts list is packed like this.", total>>20, len(raw)>>10)
	}
	if !sheet {
		return rows.Errorf("The file is a zip archive, not an XLSX workbook: unpack it and upload the files inside.")
	}
	return nil
}

func firstFilled(f *excelize.File) string {
	for _, s := range f.GetSheetList() {
		if it, err := f.Rows(s); err == nil {
			filled := it.Next()
			it.Close()
			if visible, _ := f.GetSheetVisible(s); filled && visible {
				return s
			}
		}
	}
	return f.GetSheetList()[0]
}

func (x *reader) start(headerRow int) error {
	var sample []rows.Row
	var cells [][]string
	for len(sample) < 25 {
		r, ok, err := x.read()
		if err != nil {
			return err
		}
		if !ok {
			break
		}
		sample = append(sample, r)
		cells = append(cells, r.Cells)
	}
	if len(sample) == 0 {
		return rows.Errorf("The sheet %q is empty.", x.layout.Sheet)
	}
	at := headerRow - 1
	if headerRow == 0 {
		at = rows.FindHeader(cells)
	}
	if at < 0 || at >= len(sample) {
		return rows.Errorf("No header was found in the sheet %q: one row near the top must name the fields.", x.layout.Sheet)
	}
	h, err := rows.CheckHeader(mergedAbove(cells, at), x.lim)
	if err != nil {
		return err
	}
	x.header, x.layout.HeaderRow, x.ahead = h, at+1, sample[at+1:]
	filled := false
	for _, r := range x.ahead {
		filled = filled || !r.Blank()
	}
	if !filled && len(sample) < 25 {
		return rows.Errorf("The sheet %q has a header and no rows under it.", x.layout.Sheet)
	}
	return nil
}

func (x *reader) read() (rows.Row, bool, error) {
	if !x.it.Next() {
		if err := x.it.Error(); err != nil {
			return rows.Row{}, false, rows.Errorf("The sheet %q is damaged behind row %d: save it again in a spreadsheet program and try once more.", x.layout.Sheet, x.n)
		}
		return rows.Row{}, false, nil
	}
	x.n++
	shown, err := x.it.Columns()
	var raw []string
	if err == nil && x.raw.Next() {
		raw, err = x.raw.Columns(excelize.Options{RawCellValue: true})
	}
	if err != nil {
		return rows.Row{}, false, rows.Errorf("Row %d of the sheet %q is damaged: save the workbook again in a spreadsheet program and try once more.", x.n, x.layout.Sheet)
	}
	cells := make([]string, len(shown))
	for i, s := range shown {
		cells[i] = s
		if i < len(raw) {
			cells[i] = exact(raw[i], s, x.from1904)
		}
	}
	r := rows.Row{Number: x.n, Cells: cells}
	if x.it.GetRowOpts().Hidden {
		if x.hidden++; x.hidden == 1 {
			x.layout.Notes = append(x.layout.Notes, "")
			x.note = len(x.layout.Notes) - 1
		}
		x.layout.Notes[x.note] = fmt.Sprintf("%d rows are hidden in the workbook; they are read all the same", x.hidden)
	}
	return r, true, nil
}

func (x *reader) Header() []string    { return x.header }
func (x *reader) Layout() rows.Layout { return x.layout }

func (x *reader) Close() error {
	x.it.Close()
	x.raw.Close()
	return x.file.Close()
}

func (x *reader) Next() (rows.Row, bool, error) {
	for {
		var r rows.Row
		if len(x.ahead) > 0 {
			r, x.ahead = x.ahead[0], x.ahead[1:]
		} else {
			var ok bool
			var err error
			if r, ok, err = x.read(); err != nil || !ok {
				return r, false, err
			}
		}
		if !r.Blank() {
			rows.CheckRow(&r, len(x.header), x.lim)
			return r, true, nil
		}
	}
}

// Write writes rows as a workbook with one sheet; the first row is the header. Every cell is text except those of
// the columns named as whole numbers.
func Write(w io.Writer, sheet string, table [][]string, numbers map[int]bool) error {
	f := excelize.NewFile()
	defer f.Close()
	if err := f.SetSheetName("Sheet1", sheet); err != nil {
		return err
	}
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return err
	}
	s, err := f.NewStreamWriter(sheet)
	if err != nil {
		return err
	}
	for i, r := range table {
		cells := make([]any, len(r))
		for k, c := range r {
			cells[k] = c
			if n, ok := wholeNumber(c); ok && numbers[k] && i > 0 {
				cells[k] = n
			}
			if i == 0 {
				cells[k] = excelize.Cell{Value: c, StyleID: bold}
			}
		}
		at, err := excelize.CoordinatesToCellName(1, i+1)
		if err != nil {
			return err
		}
		if err := s.SetRow(at, cells); err != nil {
			return err
		}
	}
	if err := s.Flush(); err != nil {
		return err
	}
	return f.Write(w)
}

func wholeNumber(s string) (int, bool) {
	n := 0
	for _, c := range s {
		if c < '0' || c > '9' || n > 1<<40 {
			return 0, false
		}
		n = n*10 + int(c-'0')
	}
	return n, s != ""
}
