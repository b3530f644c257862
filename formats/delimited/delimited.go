// Package delimited reads and writes delimited text (RFC 4180 and its many relatives): it works out encoding and
// delimiter, and streams. What it decided is in the Layout.
package delimited

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/htmlindex"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"jollydrawer/formats/rows"
)

const sniff = 64 << 10

type reader struct {
	csv    *csv.Reader
	header []string
	layout rows.Layout
	lim    rows.Limits
	src    io.Closer
	ahead  []rows.Row
}

// Open starts reading r, which it closes in the end. Fields of want that are set are taken as given.
func Open(r io.ReadCloser, want rows.Layout, lim rows.Limits) (rows.Reader, error) {
	in := bufio.NewReaderSize(r, sniff)
	head, err := in.Peek(sniff)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, bufio.ErrBufferFull) {
		return nil, fmt.Errorf("reading the file: %w", err)
	}
	if len(bytes.TrimSpace(head)) == 0 {
		return nil, rows.Errorf("The file is empty.")
	}
	lay := rows.Layout{Format: "csv", Encoding: want.Encoding, Delimiter: want.Delimiter, HeaderRow: want.HeaderRow}
	if lay.Encoding == "" {
		if lay.Encoding, err = findEncoding(head); err != nil {
			return nil, err
		}
	}
	text, err := decoder(lay.Encoding, in)
	if err != nil {
		return nil, err
	}
	body := bufio.NewReaderSize(text, sniff)
	sample, _ := body.Peek(sniff)
	if bytes.IndexByte(sample, 0) >= 0 {
		return nil, rows.Errorf("The file is not a text file, although its name says so: save it as CSV or XLSX and try again.")
	}
	if lay.Delimiter == "" {
		lay.Delimiter = findDelimiter(sample)
	}
	d, size := utf8.DecodeRuneInString(lay.Delimiter)
	if size != len(lay.Delimiter) || d == '"' || d == '\n' || d == '\r' || d == utf8.RuneError {
		return nil, rows.Errorf("The delimiter %q is not a single character that can part fields.", lay.Delimiter)
	}
	c := csv.NewReader(body)
	c.Comma, c.FieldsPerRecord, c.ReuseRecord = d, -1, false
	c.LazyQuotes = true
	x := &reader{csv: c, layout: lay, lim: lim, src: r}
	return x, x.start(want.HeaderRow)
}

// start reads up to the header and keeps the rows that were read beyond it.
func (x *reader) start(headerRow int) error {
	var sample []rows.Row
	for len(sample) < 25 {
		r, ok, err := x.read()
		if err != nil {
			return err
		}
		if !ok {
			break
		}
		sample = append(sample, r)
	}
	at := -1
	for i, r := range sample {
		if headerRow > 0 && r.Number == headerRow {
			at = i
		}
	}
	if headerRow == 0 {
		cells := make([][]string, len(sample))
		for i, r := range sample {
			cells[i] = r.Cells
		}
		at = rows.FindHeader(cells)
	}
	if at < 0 {
		return rows.Errorf("No header was found: one row near the top must name the fields.")
	}
	h, err := rows.CheckHeader(sample[at].Cells, x.lim)
	if err != nil {
		return err
	}
	x.header, x.layout.HeaderRow, x.ahead = h, sample[at].Number, sample[at+1:]
	if len(x.ahead) == 0 {
		return &rows.Error{Sentence: "The file has a header and no rows under it.", Cause: rows.NoRows{Header: h}}
	}
	return nil
}

func (x *reader) read() (rows.Row, bool, error) {
	cells, err := x.csv.Read()
	if errors.Is(err, io.EOF) {
		return rows.Row{}, false, nil
	}
	var parse *csv.ParseError
	if errors.As(err, &parse) {
		return rows.Row{Number: parse.StartLine, Cells: cells, Problem: fmt.Sprintf("the quotes in line %d, column %d are not closed", parse.Line, parse.Column)}, true, nil
	}
	if err != nil {
		if s := (*rows.Error)(nil); errors.As(err, &s) {
			return rows.Row{}, false, s
		}
		return rows.Row{}, false, fmt.Errorf("reading the file: %w", err)
	}
	line, _ := x.csv.FieldPos(0)
	for i := range cells {
		cells[i] = rows.AsWritten(cells[i])
	}
	return rows.Row{Number: line, Cells: cells}, true, nil
}

func (x *reader) Header() []string    { return x.header }
func (x *reader) Layout() rows.Layout { return x.layout }
func (x *reader) Close() error        { return x.src.Close() }

func (x *reader) Next() (rows.Row, bool, error) {
	for {
		var r rows.Row
		ok := true
		if len(x.ahead) > 0 {
			r, x.ahead = x.ahead[0], x.ahead[1:]
		} else {
			var err error
			if r, ok, err = x.read(); err != nil || !ok {
				return r, false, err
			}
		}
		if r.Blank() && r.Problem == "" {
			continue
		}
		if r.Problem == "" {
			rows.CheckRow(&r, len(x.header), x.lim)
		}
		return r, true, nil
	}
}

// findEncoding looks at byte order marks, at zero bytes and at whether the bytes are UTF-8.
func findEncoding(head []byte) (string, error) {
	switch {
	case bytes.HasPrefix(head, []byte{0xFF, 0xFE}):
		return "utf-16le", nil
	case bytes.HasPrefix(head, []byte{0xFE, 0xFF}):
		return "utf-16be", nil
	}
	if zero := bytes.Count(head, []byte{0}); zero > 0 {
		even, odd := 0, 0
		for i, b := range head {
			if b == 0 && i%2 == 0 {
				even++
			} else if b == 0 {
				odd++
			}
		}
		switch {
		case odd > len(head)/3 && even == 0:
			return "utf-16le", nil
		case even > len(head)/3 && odd == 0:
			return "utf-16be", nil
		}
		return "", rows.Errorf("The file is not a text file, although its name says so: save it as CSV or XLSX and try again.")
	}
	good, bad := 0, 0
	for i := 0; i < len(head); {
		if head[i] < 0x80 {
			i++
			continue
		}
		r, n := utf8.DecodeRune(head[i:])
		if r == utf8.RuneError && n == 1 {
			if !utf8.FullRune(head[i:]) && len(head) >= sniff-4 {
				break // cut by the sample's end
			}
			bad++
		} else {
			good++
		}
		i += n
	}
	switch {
	case bad == 0 || good > 0:
		return "utf-8", nil // a broken place is named by line when it is reached
	case slices.ContainsFunc(head, func(b byte) bool { return b == 0x81 || b == 0x8D || b == 0x8F || b == 0x90 || b == 0x9D }):
		return "", rows.Errorf("The text encoding of the file is not known: save it as UTF-8 and try again.")
	}
	return "windows-1252", nil
}

func decoder(name string, r io.Reader) (io.Reader, error) {
	var e encoding.Encoding
	switch name {
	case "utf-8":
		return &strictUTF8{r: r, line: 1}, nil
	case "utf-16le":
		e = unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)
	case "utf-16be":
		e = unicode.UTF16(unicode.BigEndian, unicode.UseBOM)
	case "windows-1252":
		e = charmap.Windows1252
	default: // by its name on the web (WHATWG Encoding), such as iso-8859-2, windows-1251 or macintosh
		var err error
		if e, err = htmlindex.Get(name); err != nil {
			return nil, rows.Errorf("The encoding %q is not known: use a name such as utf-8, utf-16le, windows-1252 or iso-8859-2.", name)
		}
	}
	if strings.HasPrefix(name, "utf-16") {
		return transform.NewReader(r, unicode.BOMOverride(e.NewDecoder())), nil
	}
	return transform.NewReader(r, e.NewDecoder()), nil
}

// strictUTF8 passes UTF-8 through and stops at the first broken byte, naming its line: a replaced character in a
// part number would be a silently wrong one.
type strictUTF8 struct {
	r     io.Reader
	line  int
	begun bool
	tail  []byte
	out   []byte
	err   error
}

func (s *strictUTF8) Read(p []byte) (int, error) {
	for len(s.out) == 0 && s.err == nil {
		buf := make([]byte, 32<<10)
		n, err := s.r.Read(buf)
		chunk := append(s.tail, buf[:n]...)
		if !s.begun && len(chunk) >= 3 {
			chunk = bytes.TrimPrefix(chunk, []byte("\xEF\xBB\xBF"))
			s.begun = true
		}
		s.tail = nil
		valid := len(chunk)
		for i := 0; i < len(chunk); {
			if chunk[i] < 0x80 {
				if chunk[i] == '\n' {
					s.line++
				}
				i++
				continue
			}
			r, size := utf8.DecodeRune(chunk[i:])
			if r == utf8.RuneError && size == 1 {
				valid = i
				if !utf8.FullRune(chunk[i:]) && err == nil {
					s.tail = bytes.Clone(chunk[i:])
				} else {
					err = rows.Errorf("Line %d has a byte (0x%02X) that is not UTF-8: save the file as UTF-8 again, or name its encoding.", s.line, chunk[i])
				}
				break
			}
			i += size
		}
		s.out, s.err = chunk[:valid], err
	}
	n := copy(p, s.out)
	s.out = s.out[n:]
	if n > 0 {
		return n, nil
	}
	return 0, s.err
}

// findDelimiter picks the character that parts the lines into the most even number of fields.
func findDelimiter(sample []byte) string {
	if !bytes.Contains(sample, []byte("\n")) {
		sample = append(bytes.Clone(sample), '\n')
	}
	sample = sample[:bytes.LastIndexByte(sample, '\n')+1]
	best, score := ",", 0
	for _, d := range []string{";", "\t", "|", ","} {
		c := csv.NewReader(bytes.NewReader(sample))
		c.Comma, c.FieldsPerRecord, c.LazyQuotes = rune(d[0]), -1, true
		counts := map[int]int{}
		for range 60 {
			cells, err := c.Read()
			if err != nil {
				break
			}
			counts[len(cells)]++
		}
		for fields, lines := range counts {
			if fields > 1 && lines*min(fields, 8) > score {
				best, score = d, lines*min(fields, 8)
			}
		}
	}
	return best
}

// Write writes rows as CSV (RFC 4180) with cells that are safe in a spreadsheet.
func Write(w io.Writer, table [][]string) error {
	c := csv.NewWriter(w)
	for _, r := range table {
		safe := make([]string, len(r))
		for i, cell := range r {
			safe[i] = rows.SafeCell(cell)
		}
		if err := c.Write(safe); err != nil {
			return err
		}
	}
	c.Flush()
	return c.Error()
}
