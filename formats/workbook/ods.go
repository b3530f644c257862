package workbook

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"strconv"
	"strings"

	"jollydrawer/formats/rows"
)

// The names of elements and attributes that are read (ISO/IEC 26300-1, clauses 6, 9 and 19).
const (
	tableNS  = "urn:oasis:names:tc:opendocument:xmlns:table:1.0"
	officeNS = "urn:oasis:names:tc:opendocument:xmlns:office:1.0"
	textNS   = "urn:oasis:names:tc:opendocument:xmlns:text:1.0"
)

// What a sheet may have: sheets are written with blank rows and columns to their very end, by repeating one.
const (
	maxODSRows    = 1 << 20
	maxODSColumns = 1 << 14
)

// odsSheet is a sheet of an ODS workbook.
type odsSheet struct {
	body   io.ReadCloser
	d      *xml.Decoder
	name   string
	n      int
	row    rows.Row // that comes again
	hidden bool
	again  int
	done   bool // the sheet has ended
}

func openODS(raw []byte, want rows.Layout) (sheet, rows.Layout, error) {
	lay := rows.Layout{Format: "ods", Sheet: want.Sheet}
	body, err := odsContent(raw)
	if err != nil {
		return nil, lay, err
	}
	filled := ""
	s := &odsSheet{body: body, d: xml.NewDecoder(body)}
	for { // once through all sheets: their names, and which of them has anything
		name, ok, err := s.table()
		if err != nil {
			body.Close()
			return nil, lay, err
		}
		if !ok {
			break
		}
		lay.Sheets = append(lay.Sheets, name)
		for filled == "" {
			r, _, ok, err := s.read()
			if err != nil || !ok {
				break
			}
			if !r.Blank() {
				filled = name
			}
		}
	}
	body.Close()
	if len(lay.Sheets) == 0 {
		return nil, lay, rows.Errorf("The workbook has no sheet.")
	}
	if lay.Sheet == "" {
		if lay.Sheet = filled; filled == "" {
			lay.Sheet = lay.Sheets[0]
		}
	}
	if body, err = odsContent(raw); err != nil {
		return nil, lay, err
	}
	s = &odsSheet{body: body, d: xml.NewDecoder(body), name: lay.Sheet}
	for {
		name, ok, err := s.table()
		if err == nil && !ok {
			err = noSheet(lay)
		}
		if err != nil {
			body.Close()
			return nil, lay, err
		}
		if name == lay.Sheet {
			break
		}
	}
	if bytes.Contains(odsHead(raw), []byte("table:formula=")) {
		lay.Notes = append(lay.Notes, "the workbook has formulas; the values that it computed last are read")
	}
	return s, lay, nil
}

// odsHead is the beginning of the content, to see whether anything is computed.
func odsHead(raw []byte) []byte {
	body, err := odsContent(raw)
	if err != nil {
		return nil
	}
	defer body.Close()
	head, _ := io.ReadAll(io.LimitReader(body, 1<<20))
	return head
}

func odsContent(raw []byte) (io.ReadCloser, error) {
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return nil, rows.Errorf("The workbook is damaged: save it again in a spreadsheet program and try once more.")
	}
	for _, f := range z.File {
		if f.Name == "META-INF/manifest.xml" {
			if r, err := f.Open(); err == nil {
				head, _ := io.ReadAll(io.LimitReader(r, 1<<20))
				r.Close()
				if bytes.Contains(head, []byte("encryption-data")) {
					return nil, rows.Errorf("The workbook is locked with a password: save it without one and try again.")
				}
			}
		}
	}
	for _, f := range z.File {
		if f.Name == "content.xml" {
			r, err := f.Open()
			if err != nil {
				break
			}
			return struct {
				io.Reader
				io.Closer
			}{io.LimitReader(r, maxUnpacked), r}, nil
		}
	}
	return nil, rows.Errorf("The workbook is damaged: it has no content. Save it again in a spreadsheet program and try once more.")
}

func (s *odsSheet) damaged() error {
	return rows.Errorf("The sheet %q is damaged behind row %d: save it again in a spreadsheet program and try once more.", s.name, s.n)
}

// table goes on to the next sheet.
func (s *odsSheet) table() (name string, ok bool, err error) {
	s.n, s.again, s.done = 0, 0, false
	for {
		t, err := s.d.Token()
		if errors.Is(err, io.EOF) {
			return "", false, nil
		}
		if err != nil {
			return "", false, s.damaged()
		}
		if e, is := t.(xml.StartElement); is && e.Name.Space == tableNS && e.Name.Local == "table" {
			s.name = attr(e, tableNS, "name")
			return s.name, true, nil
		}
	}
}

func attr(e xml.StartElement, space, name string) string {
	for _, a := range e.Attr {
		if a.Name.Space == space && a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

// times is how often an element stands for itself.
func times(e xml.StartElement, name string, most int) int {
	n, err := strconv.Atoi(attr(e, tableNS, name))
	if err != nil || n < 1 {
		return 1
	}
	return min(n, most)
}

func (s *odsSheet) read() (r rows.Row, hidden, ok bool, err error) {
	if s.again > 0 {
		s.again--
		s.n++
		s.row.Number = s.n
		return rows.Row{Number: s.n, Cells: s.row.Cells}, s.hidden, true, nil
	}
	for !s.done {
		t, err := s.d.Token()
		if err != nil {
			return r, false, false, s.damaged()
		}
		switch e := t.(type) {
		case xml.EndElement:
			s.done = s.done || e.Name.Space == tableNS && e.Name.Local == "table"
		case xml.StartElement:
			if e.Name.Space != tableNS {
				if err := s.d.Skip(); err != nil { // forms, shapes and the like
					return r, false, false, s.damaged()
				}
				continue
			}
			switch e.Name.Local {
			case "table-row":
				cells, err := s.cells()
				if err != nil {
					return r, false, false, err
				}
				s.row = rows.Row{Cells: cells}
				v := attr(e, tableNS, "visibility")
				s.hidden = (v == "collapse" || v == "filter") && !s.row.Blank()
				if s.again = times(e, "number-rows-repeated", maxODSRows-s.n); s.row.Blank() && s.again > 1000 { // the blank rest of the sheet
					s.n += s.again - 1
					s.again = 1
				}
				return s.read()
			case "table-row-group", "table-rows", "table-header-rows", "table-column-group", "table-columns", "table-header-columns": // rows and columns that belong together
			default:
				if err := s.d.Skip(); err != nil {
					return r, false, false, s.damaged()
				}
			}
		}
	}
	return r, false, false, nil
}

// cells reads the cells of a row; blank ones behind the last that is filled are dropped.
func (s *odsSheet) cells() (out []string, err error) {
	blanks := 0
	for {
		t, err := s.d.Token()
		if err != nil {
			return nil, s.damaged()
		}
		switch e := t.(type) {
		case xml.EndElement:
			return out, nil
		case xml.StartElement:
			if e.Name.Space != tableNS || e.Name.Local != "table-cell" && e.Name.Local != "covered-table-cell" {
				if err := s.d.Skip(); err != nil {
					return nil, s.damaged()
				}
				continue
			}
			shown, err := s.text()
			if err != nil {
				return nil, err
			}
			n := times(e, "number-columns-repeated", maxODSColumns)
			cell := odsValue(e, shown)
			if e.Name.Local == "covered-table-cell" { // under a cell that spans several: nobody sees it
				cell = ""
			}
			if cell == "" {
				blanks += n
				continue
			}
			if len(out)+blanks+n > maxODSColumns {
				return nil, rows.Errorf("Row %d of the sheet %q has more than %d columns.", s.n+1, s.name, maxODSColumns)
			}
			for ; blanks > 0; blanks-- {
				out = append(out, "")
			}
			for range n {
				out = append(out, cell)
			}
		}
	}
}

// text reads what a cell shows, up to its end: paragraphs as lines, without notes that hang on it.
func (s *odsSheet) text() (string, error) {
	var b strings.Builder
	paragraphs := 0
	depth := 0
	for {
		t, err := s.d.Token()
		if err != nil {
			return "", s.damaged()
		}
		switch e := t.(type) {
		case xml.StartElement:
			switch {
			case e.Name.Space == officeNS && e.Name.Local == "annotation" || e.Name.Space != textNS && depth == 0:
				if err := s.d.Skip(); err != nil {
					return "", s.damaged()
				}
				continue
			case e.Name.Space == textNS && e.Name.Local == "p":
				if paragraphs++; paragraphs > 1 {
					b.WriteByte('\n')
				}
			case e.Name.Space == textNS && e.Name.Local == "s":
				n, err := strconv.Atoi(attr(e, textNS, "c"))
				if err != nil || n < 1 {
					n = 1
				}
				b.WriteString(strings.Repeat(" ", min(n, 1000)))
			case e.Name.Space == textNS && e.Name.Local == "tab":
				b.WriteByte('\t')
			case e.Name.Space == textNS && e.Name.Local == "line-break":
				b.WriteByte('\n')
			}
			depth++
		case xml.EndElement:
			if depth == 0 {
				return b.String(), nil
			}
			depth--
		case xml.CharData:
			if depth > 0 {
				b.Write(e)
			}
		}
	}
}

// odsValue is a cell's text without the rounding and the decimal mark that its format has for showing: a number with all of its digits and
// the unit that the format adds.
func odsValue(e xml.StartElement, shown string) string {
	value := attr(e, officeNS, "value")
	f, err := strconv.ParseFloat(value, 64)
	switch attr(e, officeNS, "value-type") {
	case "float":
		if err != nil {
			return shown
		}
		return digits(f) + unitShown(shown)
	case "percentage":
		if err != nil {
			return shown
		}
		return digits(f*100) + "%"
	case "currency":
		if err != nil {
			return shown
		}
		return strings.TrimSpace(digits(f) + " " + attr(e, officeNS, "currency"))
	case "date":
		if date := attr(e, officeNS, "date-value"); date != "" {
			return strings.Replace(strings.TrimSuffix(date, "T00:00:00"), "T", " ", 1)
		}
	case "string":
		if text := attr(e, officeNS, "string-value"); text != "" && shown == "" {
			return text
		}
	}
	return shown
}

// unitShown is what a format writes behind a number, with the blank before it.
func unitShown(shown string) string {
	at := strings.LastIndexAny(shown, "0123456789")
	if at < 0 {
		return ""
	}
	unit := strings.TrimRight(shown[at+1:], " \u00a0")
	if first := strings.IndexAny(shown, "0123456789"); strings.ContainsAny(shown[first:at], "eE") && unit == "" { // a power of ten
		return ""
	}
	return strings.ReplaceAll(unit, "\u00a0", " ")
}

// Close lets go of the workbook.
func (s *odsSheet) Close() error { return s.body.Close() }
