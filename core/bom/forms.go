package bom

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/buying"
	"jollydrawer/core/document"
	"jollydrawer/core/measure"
)

// FormsFormat names the form of a document of a house's sheets.
const FormsFormat = "jolly-sheets/1"

// HouseForms are the sheets of a house: what its purchasing, its production or its partners want to have, made of the usual sheets of a BOM.
type HouseForms struct {
	Format string      `json:"format" yaml:"format"`
	Sheets []HouseForm `json:"sheets,omitempty" yaml:"sheets,omitempty"`
}

// HouseForm is one sheet: some columns of a usual sheet, in an order and under headings of the house's own, and columns that have the same text in each row.
type HouseForm struct {
	Name    string       `json:"name" yaml:"name"` // by which it is asked for
	Of      string       `json:"of" yaml:"of"`     // the usual sheet that it is made of
	Columns []FormColumn `json:"columns" yaml:"columns"`
	Sort    []string     `json:"sort,omitempty" yaml:"sort,omitempty"` // columns of the usual sheet; numbers by size, designators as people order them
}

// FormColumn is a column of the usual sheet, or one of a text.
type FormColumn struct {
	Take string `json:"take,omitempty" yaml:"take,omitempty"`
	Head string `json:"head,omitempty" yaml:"head,omitempty"` // blank: as the usual sheet has it
	Text string `json:"text,omitempty" yaml:"text,omitempty"`
}

// LinesColumns are the columns of the completed BOM before those that its file has.
var LinesColumns = []string{"Row", "Designators", "Quantity", "Verdict", "Part number", "Revision", "Description", "Manufacturer", "MPN", "Supplier", "Supplier number", "Alternates", "Standing", "Findings"}

// Sizes of a document of sheets.
const (
	mostSheets  = 50
	mostColumns = 100
	longestForm = 60 // of a name, in characters
)

// formColumns are the columns that a usual sheet always has, and beginnings or ends of those that hang on the BOM.
func formColumns(of string) (always []string, begins, ends string, known bool) {
	switch of {
	case FormLines:
		return LinesColumns, "", " (as written)", true
	case FormPurchase:
		return buying.SheetColumns, "", "", true
	case FormAssembly:
		table, _ := AssemblySheet(nil)
		return table[0], "Fitted in ", "", true
	case FormNumbers:
		table, _ := NumbersSheet(nil)
		return table[0], "", "", true
	}
	return nil, "", "", false
}

// ParseForms reads a document of sheets.
func ParseForms(raw []byte) (f HouseForms, err error) {
	if err := document.ReadYAML(raw, "the sheets", &f); err != nil {
		return f, err
	}
	if f.Format != FormsFormat {
		return f, fmt.Errorf("the sheets have format %q; this version reads %q", f.Format, FormsFormat)
	}
	if len(f.Sheets) > mostSheets {
		return f, fmt.Errorf("there are more than %d sheets", mostSheets)
	}
	seen := map[string]bool{}
	for i, s := range f.Sheets {
		name := strings.ToLower(s.Name)
		switch {
		case s.Name == "" || s.Name != strings.Join(strings.Fields(s.Name), " ") || len([]rune(s.Name)) > longestForm || strings.ContainsFunc(s.Name, func(r rune) bool { return unicode.IsControl(r) || strings.ContainsRune(`/\:*?"<>|`, r) }):
			return f, fmt.Errorf("sheets[%d].name: %q cannot be a part of a file's name, of at most %d characters", i, s.Name, longestForm)
		case slices.Contains(Forms, name):
			return f, fmt.Errorf("sheets[%d].name: %q is the name of a usual sheet", i, s.Name)
		case seen[name]:
			return f, fmt.Errorf("sheets[%d].name: %q stands twice", i, s.Name)
		}
		seen[name] = true
		if err := s.check(); err != nil {
			return f, fmt.Errorf("the sheet %q: %w", s.Name, err)
		}
	}
	return f, nil
}

func (s HouseForm) check() error {
	always, begins, ends, known := formColumns(s.Of)
	if !known {
		return fmt.Errorf("of: %q is no usual sheet that it could be made of: use lines, purchase, assembly or numbers", s.Of)
	}
	has := func(name string) bool {
		return slices.Contains(always, name) || begins != "" && strings.HasPrefix(name, begins) || ends != "" && strings.HasSuffix(name, ends)
	}
	if len(s.Columns) == 0 || len(s.Columns) > mostColumns {
		return fmt.Errorf("columns: it has 1 to %d of them", mostColumns)
	}
	heads := map[string]bool{}
	for i, c := range s.Columns {
		head := cmp.Or(c.Head, c.Take)
		switch {
		case c.Take == "" && c.Head == "":
			return fmt.Errorf("columns[%d]: it takes a column of the usual sheet, or has a head of its own", i)
		case c.Take != "" && c.Text != "":
			return fmt.Errorf("columns[%d]: it takes %q, or has a text, not both", i, c.Take)
		case c.Take != "" && !has(c.Take):
			return fmt.Errorf("columns[%d].take: the sheet %s has no column %q; it has %s", i, s.Of, c.Take, strings.Join(always, ", "))
		case heads[head]:
			return fmt.Errorf("columns[%d]: the head %q stands twice", i, head)
		}
		heads[head] = true
	}
	for i, name := range s.Sort {
		if !has(name) {
			return fmt.Errorf("sort[%d]: the sheet %s has no column %q", i, s.Of, name)
		}
	}
	return nil
}

// Named finds a sheet by its name, whatever the size of its letters.
func (f HouseForms) Named(name string) (HouseForm, bool) {
	i := slices.IndexFunc(f.Sheets, func(s HouseForm) bool { return strings.EqualFold(s.Name, strings.Join(strings.Fields(name), " ")) })
	if i < 0 {
		return HouseForm{}, false
	}
	return f.Sheets[i], true
}

// Make makes the sheet of the usual one. A column that the usual sheet has of other BOMs only is blank. The sum of a list for purchasing stays below its lines, where the
// column with the sums is taken.
func (s HouseForm) Make(table [][]string, numbers map[int]bool) ([][]string, map[int]bool) {
	find := func(name string) int {
		if s.Of == FormPurchase && name == buying.HouseColumn {
			return buying.HouseAt
		}
		return slices.Index(table[0], name)
	}
	body := slices.Clone(table[1:])
	var sum []string
	if s.Of == FormPurchase && len(body) > 0 {
		sum, body = body[len(body)-1], body[:len(body)-1]
	}
	slices.SortStableFunc(body, func(a, b []string) int {
		for _, name := range s.Sort {
			at := find(name)
			if at < 0 {
				continue
			}
			if c := bySize(a[at], b[at], numbers[at]); c != 0 {
				return c
			}
		}
		return 0
	})
	out := make([][]string, 1, len(body)+2)
	right := map[int]bool{}
	var takes []int
	for i, c := range s.Columns {
		out[0] = append(out[0], cmp.Or(c.Head, c.Take))
		at := -1
		if c.Take != "" {
			at = find(c.Take)
		}
		takes = append(takes, at)
		right[i] = at >= 0 && numbers[at]
	}
	row := func(of []string, texts bool) []string {
		r := make([]string, len(s.Columns))
		for i, at := range takes {
			switch {
			case at >= 0 && at < len(of):
				r[i] = of[at]
			case texts:
				r[i] = s.Columns[i].Text
			}
		}
		return r
	}
	for _, of := range body {
		out = append(out, row(of, true))
	}
	if sum != nil && slices.Contains(takes, buying.HouseAt) {
		last := row(sum, false)
		if !slices.Contains(takes, 0) && last[0] == "" {
			last[0] = sum[0]
		}
		out = append(out, last)
	}
	return out, right
}

// bySize orders cells: numbers by size, blank ones behind, texts as people order designators.
func bySize(a, b string, number bool) int {
	if (a == "") != (b == "") {
		return cmp.Compare(len(b), len(a))
	}
	if number {
		x, errX := measure.ParseNumber(a)
		y, errY := measure.ParseNumber(b)
		if errX == nil && errY == nil {
			return x.Cmp(y)
		}
	}
	return ByDesignator(a, b)
}
