// Package bom lays a bill of materials beside the library: it finds the columns, expands designators, matches each
// line with its evidence, and says where line and record disagree. What to do about it is decided elsewhere.
package bom

import (
	"fmt"
	"regexp"
	"sort"
	"strconv"
	"strings"
	"unicode"
)

// Role is what a column of a BOM means.
type Role string

// The roles.
const (
	Designator     Role = "designator"
	Quantity       Role = "quantity"
	Number         Role = "number"
	MPN            Role = "mpn"
	Manufacturer   Role = "manufacturer"
	SupplierNumber Role = "supplierNumber"
	Value          Role = "value"
	Package        Role = "package"
	Description    Role = "description"
	Fit            Role = "fit"
)

var roleNames = []struct {
	role  Role
	names string
}{
	{Designator, "designator|designators|reference|references|refdes|ref des|ref|position|positions|ref designator|circuit reference|parts"},
	{Quantity, "quantity|qty|count|pcs|amount|menge"},
	{Number, "part number|house number|our number|internal number|article number|part no|article|library number|item number"},
	{MPN, "mpn|manufacturer part number|mfr part number|mfr part no|maker part no|maker s number|mfr pn|manufacturer pn"},
	{Manufacturer, "manufacturer|maker|mfr|brand"},
	{SupplierNumber, "supplier number|order code|order number|order no|stock code|supplier part number"},
	{Value, "value|nominal|val"},
	{Package, "package|case|size|land pattern|case size|outline|footprint"},
	{Description, "description|text|designation|comment|remark"},
	{Fit, "fit|fitted|fitting|assembly|populate|variant|mount"},
}

// Columns maps roles to column places, from 0.
type Columns map[Role]int

// FindColumns recognises the columns of a BOM by their headings.
func FindColumns(header []string) (Columns, error) {
	c := Columns{}
	for i, h := range header {
		p := strings.Join(strings.FieldsFunc(strings.ToLower(h), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }), " ")
		for _, r := range roleNames {
			if _, have := c[r.role]; !have && p != "" && strings.Contains("|"+r.names+"|", "|"+p+"|") {
				c[r.role] = i
				break
			}
		}
	}
	if _, ok := c[Designator]; !ok {
		return nil, fmt.Errorf("no column of designators was found among %s: name one of them Designator or Reference", quoteList(header))
	}
	return c, nil
}

func quoteList(list []string) string {
	var q []string
	for _, l := range list {
		if l != "" {
			q = append(q, strconv.Quote(l))
		}
	}
	return strings.Join(q, ", ")
}

// Line is one line of a BOM as it was written.
type Line struct {
	Row            int
	Designators    []string
	Written        string // the designators as written
	Quantity       int    // -1 where none is written
	Number         string
	MPN            string
	Manufacturer   string
	SupplierNumber string
	Value          string
	Package        string
	Description    string
	NotFitted      bool
	Problems       []string // what could not be read
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

var notFitted = map[string]bool{"no": true, "dnp": true, "dnf": true, "dni": true, "nf": true, "n": true, "not fitted": true, "0": true,
	"do not fit": true, "do not populate": true, "false": true, "not mounted": true, "open": true, "none": true}

// ReadLine reads one row of cells.
func ReadLine(row int, cells []string, c Columns) Line {
	cell := func(r Role) string {
		if i, ok := c[r]; ok && i < len(cells) {
			return strings.TrimSpace(cells[i])
		}
		return ""
	}
	l := Line{Row: row, Written: cell(Designator), Quantity: -1, Number: cell(Number), MPN: cell(MPN), Manufacturer: cell(Manufacturer),
		SupplierNumber: cell(SupplierNumber), Value: cell(Value), Package: cell(Package), Description: cell(Description)}
	l.Designators, l.Problems = ExpandDesignators(l.Written)
	if q := cell(Quantity); q != "" {
		n, err := strconv.Atoi(strings.TrimSuffix(strings.TrimSuffix(q, ".0"), ",0"))
		if err != nil || n < 0 {
			l.Problems = append(l.Problems, fmt.Sprintf("the quantity %q is no whole number", q))
		} else {
			l.Quantity = n
		}
	}
	l.NotFitted = notFitted[strings.ToLower(cell(Fit))] || strings.EqualFold(l.Value, "DNP") || strings.EqualFold(l.Value, "DNF")
	for _, mark := range []string{"DNP", "DNF", "not fitted"} {
		if low := strings.ToLower(l.Value); strings.HasSuffix(low, " "+strings.ToLower(mark)) || strings.HasSuffix(low, "/"+strings.ToLower(mark)) {
			l.NotFitted = true
			l.Value = strings.TrimRight(l.Value[:len(l.Value)-len(mark)], " /")
		}
	}
	return l
}

// Blank says whether the line carries nothing at all.
func (l Line) Blank() bool {
	return l.Written == "" && l.Number == "" && l.MPN == "" && l.Value == "" && l.Description == "" && l.Quantity < 0
}

// Letters returns the designator letters of a line, sorted and without doubles: usually one.
func (l Line) Letters() []string {
	seen := map[string]bool{}
	for _, d := range l.Designators {
		if m := designator.FindStringSubmatch(d); m != nil {
			seen[m[1]] = true
		}
	}
	out := make([]string, 0, len(seen))
	for k := range seen {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}
