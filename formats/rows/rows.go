// Package rows is what every tabular format gives and takes: a header, then rows of text cells, one at a time.
package rows

import (
	"fmt"
	"strings"
)

// Row is one row. Number counts rows (for text files: lines) of the file from 1. Problem is set where the row could
// not be read whole; its cells are then what could be.
type Row struct {
	Number  int
	Cells   []string
	Problem string
}

// Reader gives the rows under the header. Next returns ok = false at the end; err ends the reading.
type Reader interface {
	Header() []string
	Layout() Layout
	Next() (row Row, ok bool, err error)
	Close() error
}

// Layout is what was decided about a file. All of it can be given instead of found out.
type Layout struct {
	Format    string   `json:"format,omitempty" doc:"csv, xlsx or json"`
	Encoding  string   `json:"encoding,omitempty" doc:"utf-8, utf-16le, utf-16be or windows-1252"`
	Delimiter string   `json:"delimiter,omitempty"`
	Sheet     string   `json:"sheet,omitempty"`
	Sheets    []string `json:"sheets,omitempty" doc:"All sheets of the workbook"`
	Inside    string   `json:"inside,omitempty" doc:"File in the archive"`
	Files     []string `json:"files,omitempty" doc:"All files in the archive that may be tables"`
	HeaderRow int      `json:"headerRow,omitempty" doc:"Row of the header, from 1"`
	Notes     []string `json:"notes,omitempty" doc:"What else was seen, such as hidden rows"`
}

// Blank says whether nothing is given.
func (l Layout) Blank() bool {
	return l.Format == "" && l.Encoding == "" && l.Delimiter == "" && l.Sheet == "" && l.Inside == "" && l.HeaderRow == 0
}

// Limits bound what a file from outside may cost.
type Limits struct {
	Bytes   int64 // of the file as it came
	Columns int
	Cell    int // bytes in one cell
}

// DefaultLimits are generous for parts lists and small for attacks.
var DefaultLimits = Limits{Bytes: 128 << 20, Columns: 2000, Cell: 64 << 10}

// Error says why a file cannot be read, as a sentence for a person.
type Error struct {
	Sentence string
	Cause    error // one of those below; nil: another
}

// NoRows is the cause where a file has a header and nothing under it.
type NoRows struct{ Header []string }

func (NoRows) Error() string { return "no rows" }

func (e *Error) Error() string { return e.Sentence }
func (e *Error) Unwrap() error { return e.Cause }

// Errorf makes an Error.
func Errorf(format string, args ...any) error { return &Error{Sentence: fmt.Sprintf(format, args...)} }

// FindHeader picks the header among the first rows: the first that fills at least three fifths of the cells that rows
// here usually fill, and fills them with words. Titles above a header fill too few; it returns -1 where no row will do.
func FindHeader(sample [][]string) int {
	filled, words := make([]int, len(sample)), make([]int, len(sample))
	often, usual := map[int]int{}, 0
	for i, r := range sample {
		for _, c := range r {
			if c = strings.TrimSpace(c); c == "" {
				continue
			}
			filled[i]++
			if strings.IndexFunc(c, func(r rune) bool { return r >= 'A' && r <= 'z' || r > 127 }) >= 0 {
				words[i]++
			}
		}
		if n := filled[i]; n > 1 { // a lone cell is a title
			if often[n]++; often[n] > often[usual] {
				usual = n
			}
		}
	}
	for i := range sample {
		if filled[i] > 0 && filled[i]*5 >= usual*3 && words[i]*5 >= filled[i]*4 {
			return i
		}
	}
	return -1
}

// CheckHeader trims the names, and refuses a header that is empty or too wide. Doubled names get a number so that
// every field can be told apart.
func CheckHeader(h []string, lim Limits) ([]string, error) {
	for len(h) > 0 && strings.TrimSpace(h[len(h)-1]) == "" {
		h = h[:len(h)-1]
	}
	if len(h) == 0 {
		return nil, Errorf("The file has no header: the first row must name the fields.")
	}
	if len(h) > lim.Columns {
		return nil, Errorf("The file has %d columns; at most %d can be read. Remove those that are not needed.", len(h), lim.Columns)
	}
	seen := map[string]int{}
	out := make([]string, len(h))
	for i, n := range h {
		n = strings.Join(strings.Fields(n), " ")
		if len(n) > 200 {
			return nil, Errorf("The header of column %d is %d characters long: this is not a header row.", i+1, len(n))
		}
		if n == "" {
			n = fmt.Sprintf("(column %d)", i+1)
		}
		seen[n]++
		if seen[n] > 1 {
			n = fmt.Sprintf("%s (%d)", n, seen[n])
		}
		out[i] = n
	}
	return out, nil
}

// CheckRow names what is wrong with the shape of a row.
func CheckRow(r *Row, columns int, lim Limits) {
	extra, broken := 0, false
	for i, c := range r.Cells {
		broken = broken || strings.Contains(c, "\n")
		if strings.IndexByte(c, 0) >= 0 {
			r.Problem = fmt.Sprintf("the cell in column %d holds null bytes: it is no text", i+1)
		}
		if len(c) > lim.Cell {
			r.Problem = fmt.Sprintf("the cell in column %d is %d bytes long; at most %d can be read", i+1, len(c), lim.Cell)
			r.Cells[i] = c[:lim.Cell]
		}
		if i >= columns && strings.TrimSpace(c) != "" {
			extra++
		}
	}
	if broken && len(r.Cells) < columns {
		r.Problem = "a value runs over several lines and swallows the fields after it: a quote is not closed"
	}
	if extra > 0 {
		r.Problem = fmt.Sprintf("the row has %d cells more than the header has fields: a delimiter inside a value is not in quotes", extra)
	}
}

// Blank says whether no cell holds anything.
func (r Row) Blank() bool {
	for _, c := range r.Cells {
		if strings.TrimSpace(c) != "" {
			return false
		}
	}
	return true
}

// SafeCell makes a cell harmless for spreadsheets that would run it as a formula: text that begins with = + - @ or a control character gets
// an apostrophe before it, and so does such text with apostrophes before it, so that [AsWritten] gives back what it was. Plain numbers stay
// as they are.
func SafeCell(s string) string {
	bare := strings.TrimLeft(s, "'")
	if bare == "" || !strings.ContainsRune("=+-@\t\r\n", rune(bare[0])) {
		return s
	}
	if strings.IndexFunc(s[1:], func(r rune) bool { return (r < '0' || r > '9') && r != '.' && r != ',' }) < 0 && len(s) > 1 && (s[0] == '+' || s[0] == '-') {
		return s
	}
	return "'" + s
}

// AsWritten is what a cell was before [SafeCell] made it harmless.
func AsWritten(s string) string {
	if was, ok := strings.CutPrefix(s, "'"); ok && SafeCell(was) == s {
		return was
	}
	return s
}
