// Package readout says how a drawer looks to a design tool that reads it as an SQL table: which columns its table has, what they
// are called, and which row a part's content makes. Tables, views and accounts are left to others.
package readout

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

// Type is the SQL type of a column.
type Type string

// The types of columns. A DOUBLE is for sorting and filtering: what is exact is the text beside it.
const (
	Text   Type = "TEXT"
	Double Type = "DOUBLE"
	Whole  Type = "BIGINT"
	YesNo  Type = "BOOLEAN"
	Day    Type = "DATE"
	Hash   Type = "BINARY(32)"
	Number Type = "VARCHAR(120)"
)

// Column is one column of a drawer's table that comes from a parameter.
type Column struct {
	Name      string `json:"name"`
	Type      Type   `json:"type"`
	Parameter string `json:"parameter"`
	Unit      string `json:"unit,omitempty"`    // of a number in base units
	Indexed   bool   `json:"indexed,omitempty"` // sorting by it is quick in a table of any length
}

// Shape is what the table of a drawer looks like. Two shapes that are the same make the same rows of the same contents.
type Shape struct {
	Drawer  string   `json:"drawer"`
	Columns []Column `json:"columns"`
	notes   []string
}

// Fixed are the columns that every drawer has, in their order, with what they say.
var Fixed = []struct{ Name, Says string }{
	{"part_number", "the key: one row a part"},
	{"description", "of the revision in use"},
	{"name", "of the part"},
	{"status", "the state of the revision in use, in the house's words"},
	{"standing", "how the part may be used, in the house's words"},
	{"may_be_used", "yes, with caution or no: the worse of what status and standing say"},
	{"revision", "its label"},
	{"manufacturer", "of the first source"},
	{"mpn", "of the first source"},
	{"datasheet", "the address of the first datasheet"},
	{"symbol", "its name"},
	{"land_pattern", "its name"},
	{"body", "its name"},
}

// mostIndexed is how many numbers of a table are indexed: each index is paid for by every release.
const mostIndexed = 5

// ShapeOf is the shape of a drawer's table. A measure has two columns: its text, named after the parameter, and its number in
// base units, by which it is sorted (see measure.Measure.Value).
func ShapeOf(t *cabinet.Template) Shape {
	s := Shape{Drawer: t.Key}
	taken := map[string]bool{}
	for _, f := range Fixed {
		taken[f.Name] = true
	}
	slots := slices.Clone(t.Slots)
	slices.SortFunc(slots, func(a, b cabinet.Slot) int { return strings.Compare(a.Key, b.Key) })
	text := map[string]string{}
	for _, p := range slots { // texts first, so that a number gives way to a parameter that is called like it
		text[p.Key] = s.name(p.Key, SQLName(p.Key), taken)
	}
	number := map[string]string{}
	for _, p := range slots {
		if p.Type == cabinet.Measure {
			number[p.Key] = s.name(p.Key, strings.TrimSuffix(text[p.Key], "_")+"_number", taken)
		}
	}
	indexed := 0
	for _, p := range t.Slots { // in the order of the template
		at := p.Key == t.Leading || p.Required && p.Type == cabinet.Measure && indexed < mostIndexed
		if at {
			indexed++
		}
		c := Column{Name: text[p.Key], Type: typeOf(p.Type), Parameter: p.Key, Indexed: at}
		if p.Type != cabinet.Measure {
			s.Columns = append(s.Columns, c)
			continue
		}
		c.Indexed = false
		s.Columns = append(s.Columns, c, Column{Name: number[p.Key], Type: Double, Parameter: p.Key, Unit: baseOf(p.Of), Indexed: at})
	}
	return s
}

// name gives a column a name that no other one has, and notes where it is not the one wanted.
func (s *Shape) name(key, want string, taken map[string]bool) string {
	got := Plain(want)
	for taken[got] {
		got = Plain(got + "_")
	}
	taken[got] = true
	switch {
	case got == want:
	case IsKeyword(want):
		s.notes = append(s.notes, fmt.Sprintf("The column of the parameter %q is called %s, because %s is a word of SQL.", key, got, want))
	case len(want) > longest:
		s.notes = append(s.notes, fmt.Sprintf("The column of the parameter %q is called %s, because a name in SQL has at most %d characters.", key, got, longest))
	default:
		s.notes = append(s.notes, fmt.Sprintf("The column of the parameter %q is called %s, because there is another column %s.", key, got, want))
	}
	return got
}

// Notes says in a sentence each which columns are not called as their parameters are.
func (s Shape) Notes() []string { return append([]string{}, s.notes...) }

func baseOf(dimension string) string {
	d, _ := measure.ParseDimension(dimension) // the cabinet has no other
	return d.Base()
}

func typeOf(t cabinet.Type) Type {
	switch t {
	case cabinet.Number:
		return Whole
	case cabinet.YesNo:
		return YesNo
	case cabinet.Date:
		return Day
	}
	return Text
}

// derivation counts how rows are made of contents. It belongs to a shape, so that tables whose rows an earlier program made otherwise
// are filled anew: 2 reads deviations in millionths as per cent.
const derivation = 2

// Hash tells shapes apart, and rows that are made otherwise.
func (s Shape) Hash() string {
	raw, _ := json.Marshal([]any{derivation, s}) // strings, flags and numbers only
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(sum[:])
}

// HashesOf tells the hash of the shape that each drawer's table has under a cabinet.
func HashesOf(cab *cabinet.Cabinet) map[string]string {
	out := map[string]string{}
	for _, t := range cab.Templates() {
		out[t.Key] = ShapeOf(t).Hash()
	}
	return out
}

// Change is what a change of templates does to the tables of drawers; the zero value is none.
type Change struct {
	hashes map[string]string
	steps  []cabinet.Step
}

// ChangeTo is the change that puts a cabinet in force by steps. What is changed otherwise than by steps, a parameter that is new or
// that no drawer uses, is nothing that a row says.
func ChangeTo(cab *cabinet.Cabinet, steps []cabinet.Step) Change { return Change{HashesOf(cab), steps} }

// IsZero says whether there is no change.
func (c Change) IsZero() bool { return c.hashes == nil }

// Replaces says whether the table of a drawer, told by the hash of its shape, gives way to another one.
func (c Change) Replaces(drawer, hash string) bool {
	return c.hashes != nil && c.hashes[drawer] != hash
}

// Follow is the shape of a table that gives way, by which contents of after the change are written into it as long as it is read: under
// the columns of before.
func (c Change) Follow(s Shape) Shape {
	s.Columns = slices.Clone(s.Columns)
	for i := range s.Columns {
		s.Columns[i].Parameter, _ = cabinet.Followed(s.Columns[i].Parameter, c.steps)
	}
	return s
}

// Kept are the columns of a table beside those of parameters: what a part's content says, and which content it is.
var Kept = []struct {
	Name string
	Type Type
}{
	{"number", Number}, {"description", Text}, {"name", Text}, {"manufacturer", Text}, {"mpn", Text}, {"datasheet_hash", Hash}, {"datasheet_name", Text},
	{"symbol", Text}, {"land_pattern", Text}, {"body", Text},
}

// Row is what a content says under the columns Kept and those of the shape; nil where it says nothing. The part number stands
// first.
func (s Shape) Row(number string, c *part.Content) []any {
	row := make([]any, 0, len(Kept)+len(s.Columns))
	var first part.Source
	if len(c.Sources) > 0 {
		first = c.Sources[0]
	}
	var sheet any
	name := ""
	if len(c.Datasheets) > 0 {
		if raw, err := hex.DecodeString(c.Datasheets[0].Hash); err == nil && len(raw) == sha256.Size {
			sheet, name = raw, c.Datasheets[0].Name
		}
	}
	row = append(row, number, said(c.Description), said(c.Name), said(first.Manufacturer), said(first.MPN), sheet, said(name), modelName(c.Symbol), modelName(c.LandPattern), modelName(c.Body))
	for _, col := range s.Columns {
		row = append(row, col.of(c.Values[col.Parameter]))
	}
	return row
}

func said(s string) any {
	if s == "" {
		return nil
	}
	return s
}

func modelName(m *part.Model) any {
	if m == nil {
		return nil
	}
	return said(m.Name)
}

// of is what a value says under a column; nil where it is blank, or none of the column's type.
func (c Column) of(v cabinet.Value) any {
	if v.IsBlank() {
		return nil
	}
	switch c.Type {
	case Text:
		return said(v.String())
	case Double:
		if v.Type != cabinet.Measure {
			return nil
		}
		n := v.Measure.Value().Float64()
		if math.IsInf(n, 0) || math.IsNaN(n) {
			return nil
		}
		return n
	case Whole:
		if v.Type == cabinet.Number {
			return v.Number
		}
	case YesNo:
		if v.Type == cabinet.YesNo {
			return v.Yes
		}
	case Day:
		if _, err := time.Parse(time.DateOnly, v.Text); err == nil && v.Type == cabinet.Date {
			return v.Text
		}
	}
	return nil
}
