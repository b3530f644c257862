// Package bom lays a bill of materials beside the library: it says what each column means, expands designators, takes
// every cell of a line as evidence, finds the records that it may stand for, and says where line and record disagree.
// What to do about it is decided elsewhere.
package bom

import (
	"fmt"
	"regexp"
	"sort"
	"strconv"
	"strings"
	"unicode"

	"jollydrawer/core/headings"
)

// Line is one line of a BOM as it was written.
type Line struct {
	Row            int
	Designators    []string
	Written        string // the designators as written
	Quantity       int    // -1 where none is written
	Number         string
	MPN            string
	Manufacturer   string
	Supplier       string
	SupplierNumber string
	Value          string
	Package        string
	Description    string
	Facts          []Cell // cells of columns that name a parameter
	NotFitted      bool
	Problems       []string // what could not be read
	Cells          []string // all cells, as they came
}

// Cell is what stands in one column of a line.
type Cell struct {
	Column int
	Text   string
}

var designator = regexp.MustCompile(`^([A-Za-z_]{1,8})([0-9]{1,6})([A-Za-z]?)$`)
var stretch = regexp.MustCompile(`^([A-Za-z_]{1,8})([0-9]{1,6})\s*(?:-|\.\.+|–|—|…|:)\s*([A-Za-z_]{0,8})([0-9]{1,6})$`)

// dash is what a stretch is written with, and the blanks around it.
var dash = regexp.MustCompile(`\s*(-|\.\.+|–|—|…)\s*`)

// maxStretch bounds "R1-R9999" so that a slip does not become a million designators.
const maxStretch = 5000

// ExpandDesignators reads "R1, R2, R5-R9". What it cannot read stays in the list as written and is named in problems.
func ExpandDesignators(s string) (list, problems []string) {
	joined := dash.ReplaceAllString(s, "$1")
	for _, f := range strings.FieldsFunc(joined, func(r rune) bool { return r == ',' || r == ';' || r == '/' || unicode.IsSpace(r) }) {
		if m := stretch.FindStringSubmatch(f); m != nil && (m[3] == "" || strings.EqualFold(m[1], m[3])) {
			from, _ := strconv.Atoi(m[2])
			to, _ := strconv.Atoi(m[4])
			if to < from || to-from >= maxStretch {
				problems = append(problems, fmt.Sprintf("the stretch %q runs backwards or over more than %d", f, maxStretch))
				list = append(list, f)
				continue
			}
			for n := from; n <= to; n++ {
				list = append(list, fmt.Sprintf("%s%0*d", strings.ToUpper(m[1]), zeros(m[2]), n))
			}
			continue
		}
		if designator.MatchString(f) {
			f = strings.ToUpper(f)
		} else {
			problems = append(problems, fmt.Sprintf("%q is no designator", f))
		}
		list = append(list, f)
	}
	return list, problems
}

func zeros(digits string) int {
	if strings.HasPrefix(digits, "0") {
		return len(digits)
	}
	return 1
}

// notFitted are the marks of lines that are left off the board, in five languages, as headings.Plain writes them.
var notFitted = func() map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Split("no|dnp|dnf|dni|nf|n|not fitted|0|do not fit|do not populate|false|not mounted|open|none|unfitted|not placed|no fit|no pop|nein|nicht bestückt|unbestückt|nicht bestücken|nb|n b|n.b.|entfällt|nicht montiert|nc|non monté|ne pas monter|non câblé|non implanté|non|no montar|no montado|no poblar|sin montar|no monta|non montato|non montare|da non montare|non popolato", "|") {
		m[headings.Plain(w)] = true
	}
	return m
}()

// suffixes are marks that people write behind a value: "10k DNP".
var suffixes = []string{"DNP", "DNF", "DNI", "not fitted", "do not fit", "nicht bestückt", "unbestückt", "n.b.", "NB", "non monté", "no montar", "non montato", "non montare"}

// ReadLine reads one row of cells.
func ReadLine(row int, cells []string, c Columns) Line {
	cell := func(r Role) string {
		if i, ok := c.At(r); ok && i < len(cells) {
			return strings.TrimSpace(cells[i])
		}
		return ""
	}
	l := Line{Row: row, Written: cell(Designator), Quantity: -1, Number: cell(Number), MPN: cell(MPN), Manufacturer: cell(Manufacturer), Supplier: cell(Supplier),
		SupplierNumber: cell(SupplierNumber), Value: cell(Value), Package: cell(Package), Description: cell(Description), Cells: cells}
	for _, col := range c {
		if col.Role == Fact && col.At < len(cells) && strings.TrimSpace(cells[col.At]) != "" {
			l.Facts = append(l.Facts, Cell{col.At, strings.TrimSpace(cells[col.At])})
		}
	}
	l.Designators, l.Problems = ExpandDesignators(l.Written)
	if q := cell(Quantity); q != "" {
		n, err := strconv.Atoi(strings.TrimSuffix(strings.TrimSuffix(q, ".0"), ",0"))
		if err != nil || n < 0 {
			l.Problems = append(l.Problems, fmt.Sprintf("the quantity %q is no whole number", q))
		} else {
			l.Quantity = n
		}
	}
	fit := cell(Fit)
	l.NotFitted = notFitted[headings.Plain(fit)] && fit != "" || leftOff(l.Value) || leftOff(l.Package)
	for _, mark := range suffixes {
		cut := len(l.Value) - len(mark) // a mark has as many bytes in capitals as in small letters; other letters may not
		if cut > 0 && strings.EqualFold(l.Value[cut:], mark) && strings.ContainsAny(l.Value[cut-1:cut], " /,;(") {
			l.NotFitted = true
			l.Value = strings.TrimRight(l.Value[:cut], " /,;(")
			break
		}
	}
	return l
}

// leftOff says whether a value or package is nothing but a mark of what is not fitted; short ones are values: "0", "NC".
func leftOff(cell string) bool { return len(cell) > 2 && notFitted[headings.Plain(cell)] }

// Blank says whether the line carries nothing at all.
func (l Line) Blank() bool {
	return l.Written == "" && l.Number == "" && l.MPN == "" && l.Value == "" && l.Description == "" && l.Quantity < 0
}

// Letters returns the designator letters of a line, sorted and without doubles: usually one.
func (l Line) Letters() []string {
	seen := map[string]bool{}
	for _, d := range l.Designators {
		if m := designator.FindStringSubmatch(d); m != nil {
			seen[strings.ToUpper(m[1])] = true
		}
	}
	out := make([]string, 0, len(seen))
	for k := range seen {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}

// Evidence is what the line says of the part, in one text: every cell of a column that means an identity or a fact. Two
// lines with the same evidence ask for the same part.
func (l Line) Evidence() string {
	parts := []string{"number " + l.Number, "mpn " + l.MPN, "maker " + l.Manufacturer, "supplier " + l.Supplier, "supplierNumber " + l.SupplierNumber, "value " + l.Value, "package " + l.Package, "description " + l.Description}
	for _, f := range l.Facts {
		parts = append(parts, "fact "+f.Text)
	}
	for i, p := range parts {
		parts[i] = strings.Join(strings.Fields(p), " ")
	}
	return strings.Join(parts, "\n")
}
