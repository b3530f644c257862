// Package workbook reads workbooks, XLSX (ECMA-376) and ODS (ISO/IEC 26300), and writes XLSX: one sheet at a time, values as they are shown.
package workbook

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"jollydrawer/formats/rows"
)

// What a workbook may grow to when it is unpacked, and how much more than its packed size.
const (
	maxUnpacked = 512 << 20
	maxRatio    = 150
)

// sheet is one sheet of a workbook, row by row.
type sheet interface {
	// read returns the next row, blank ones included; ok is false behind the last.
	read() (r rows.Row, hidden, ok bool, err error)
	Close() error
}

// reader reads the table in a sheet: its header, and the rows under it.
type reader struct {
	sheet
	hidden, note int
	header       []string
	layout       rows.Layout
	lim          rows.Limits
	ahead        []rows.Row
}

// xlsxSheet is a sheet of an XLSX workbook.
type xlsxSheet struct {
	file     *excelize.File
	name     string
	it       *excelize.Rows
	raw      *excelize.Rows // the same rows once more, with numbers as they are kept
	from1904 bool
	n        int
}

// Open reads a workbook that is held in memory. Fields of want that are set are taken as given.
func Open(raw []byte, want rows.Layout, lim rows.Limits) (rows.Reader, error) {
	kind, err := checkArchive(raw)
	if err != nil {
		return nil, err
	}
	x := &reader{lim: lim}
	if kind == "ods" {
		x.sheet, x.layout, err = openODS(raw, want)
	} else {
		x.sheet, x.layout, err = openXLSX(raw, want)
	}
	if err != nil {
		return nil, err
	}
	if err := x.start(want.HeaderRow); err != nil {
		x.Close()
		return nil, err
	}
	return x, nil
}

func openXLSX(raw []byte, want rows.Layout) (sheet, rows.Layout, error) {
	lay := rows.Layout{Format: "xlsx", Sheet: want.Sheet}
	f, err := excelize.OpenReader(bytes.NewReader(raw), excelize.Options{UnzipSizeLimit: maxUnpacked, UnzipXMLSizeLimit: 64 << 20})
	if err != nil {
		return nil, lay, rows.Errorf("The workbook is damaged, or no XLSX: open it in a spreadsheet program, save it again as XLSX and try once more.")
	}
	lay.Sheets = f.GetSheetList()
	if lay.Sheet == "" {
		lay.Sheet = firstFilled(f)
	}
	if i, err := f.GetSheetIndex(lay.Sheet); err != nil || i < 0 {
		f.Close()
		return nil, lay, noSheet(lay)
	}
	x := &xlsxSheet{file: f, name: lay.Sheet}
	if x.it, err = f.Rows(lay.Sheet); err == nil {
		x.raw, err = f.Rows(lay.Sheet)
	}
	if err != nil {
		x.Close()
		return nil, lay, rows.Errorf("The sheet %q is damaged: open the workbook in a spreadsheet program, save it again and try once more.", lay.Sheet)
	}
	if props, err := f.GetWorkbookProps(); err == nil && props.Date1904 != nil {
		x.from1904 = *props.Date1904
	}
	if hasFormulas(raw) {
		lay.Notes = append(lay.Notes, "the workbook has formulas; the values that it computed last are read")
	}
	return x, lay, nil
}

func noSheet(lay rows.Layout) error {
	return rows.Errorf("The workbook has no sheet %q; it has %s.", lay.Sheet, strings.Join(lay.Sheets, ", "))
}

// checkArchive refuses a zip that would unpack to far more than it should, before anything is unpacked.
func checkArchive(raw []byte) (kind string, err error) {
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return "", rows.Errorf("The file is not an XLSX workbook, or it is damaged.")
	}
	var total uint64
	for _, f := range z.File {
		total += f.UncompressedSize64
	}
	kind = Kind(z)
	if total > maxUnpacked || total > uint64(len(raw))*maxRatio {
		return "", rows.Errorf("The workbook would unpack to %d MB from %d kB: it is not opened, because no real parts list is packed like this.", total>>20, len(raw)>>10)
	}
	if kind == "" {
		return "", rows.Errorf("The file is a zip archive, not an XLSX workbook: unpack it and upload the files inside.")
	}
	return kind, nil
}

// Kind says which workbook an archive is: xlsx, ods, or none.
func Kind(z *zip.Reader) string {
	for _, f := range z.File {
		if strings.HasPrefix(f.Name, "xl/") {
			return "xlsx"
		}
		if f.Name == "mimetype" { // ISO/IEC 26300-3, 3.3: it stands first and is not packed
			r, err := f.Open()
			if err != nil {
				continue
			}
			kind, _ := io.ReadAll(io.LimitReader(r, 200))
			r.Close()
			if strings.HasPrefix(string(kind), "application/vnd.oasis.opendocument.spreadsheet") {
				return "ods"
			}
		}
	}
	return ""
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
		r, ok, err := x.next()
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
		return &rows.Error{Sentence: fmt.Sprintf("The sheet %q has a header and no rows under it.", x.layout.Sheet), Cause: rows.NoRows{Header: x.header}}
	}
	return nil
}

func (x *xlsxSheet) read() (r rows.Row, hidden, ok bool, err error) {
	if !x.it.Next() {
		if err := x.it.Error(); err != nil {
			return r, false, false, rows.Errorf("The sheet %q is damaged behind row %d: save it again in a spreadsheet program and try once more.", x.name, x.n)
		}
		return r, false, false, nil
	}
	x.n++
	shown, err := x.it.Columns()
	var raw []string
	if err == nil && x.raw.Next() {
		raw, err = x.raw.Columns(excelize.Options{RawCellValue: true})
	}
	if err != nil {
		return r, false, false, rows.Errorf("Row %d of the sheet %q is damaged: save the workbook again in a spreadsheet program and try once more.", x.n, x.name)
	}
	cells := make([]string, len(shown))
	for i, s := range shown {
		cells[i] = s
		if i < len(raw) {
			cells[i] = exact(raw[i], s, x.from1904)
		}
	}
	return rows.Row{Number: x.n, Cells: cells}, x.it.GetRowOpts().Hidden, true, nil
}

// Close lets go of the workbook.
func (x *xlsxSheet) Close() error {
	for _, it := range []*excelize.Rows{x.it, x.raw} {
		if it != nil {
			it.Close()
		}
	}
	return x.file.Close()
}

// next reads a row of the sheet, and counts those that are hidden.
func (x *reader) next() (rows.Row, bool, error) {
	r, hidden, ok, err := x.read()
	if hidden {
		if x.hidden++; x.hidden == 1 {
			x.layout.Notes = append(x.layout.Notes, "")
			x.note = len(x.layout.Notes) - 1
		}
		x.layout.Notes[x.note] = fmt.Sprintf("%d rows are hidden in the workbook; they are read all the same", x.hidden)
	}
	return r, ok, err
}

func (x *reader) Header() []string    { return x.header }
func (x *reader) Layout() rows.Layout { return x.layout }

func (x *reader) Next() (rows.Row, bool, error) {
	for {
		var r rows.Row
		if len(x.ahead) > 0 {
			r, x.ahead = x.ahead[0], x.ahead[1:]
		} else {
			var ok bool
			var err error
			if r, ok, err = x.next(); err != nil || !ok {
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
// the columns named as numbers: there a plain number is one, as far as a workbook keeps it to the digit.
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
	if err := s.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}); err != nil { // the heading stays in sight
		return err
	}
	for i, r := range table {
		cells := make([]any, len(r))
		for k, c := range r {
			cells[k] = c
			if n, ok := plainNumber(c); ok && numbers[k] && i > 0 {
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

// plainNumber reads digits with at most one point. A number with noughts before it is a text, and one of more than 15 digits would not be kept.
func plainNumber(s string) (float64, bool) {
	whole, decimals, fraction := strings.Cut(s, ".")
	switch {
	case whole == "" || strings.Trim(whole, "0123456789") != "" || len(whole) > 1 && whole[0] == '0',
		fraction && (decimals == "" || strings.Trim(decimals, "0123456789") != ""),
		len(whole)+len(decimals) > 15:
		return 0, false
	}
	n, err := strconv.ParseFloat(s, 64)
	return n, err == nil
}
