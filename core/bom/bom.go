// Package bom lays a bill of materials beside the library: it says what each column means, expands designators, takes
// every cell of a line as evidence, finds the records that it may stand for, and says where line and record disagree.
// What to do about it is decided elsewhere.
package bom

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"jollydrawer/core/decision"
)

// Line is one line of a BOM as it was written.
type Line struct {
	Row            int
	Designators    []string
	Written        string // the designators as written
	Quantity       int    // pieces of one board; -1 where none are written
	Amount         Amount // what is needed where it is not counted in pieces
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
	In             []string // the variants of its board that it is in; nil: all
	FitAsk         string   // what keeps it from being plain whether it is fitted
	Read           []string // how it was taken where it can be read in several ways
	Problems       []string // what could not be read
	Cells          []string // all cells, as they came

	Level    int    // of a BOM that has them
	Assembly bool   // it is made of the lines below it
	Times    int64  // how often one board takes the sub-assembly that it is part of
	LevelAsk string // what keeps its place among the levels from being plain

	nested bool     // it is part of a sub-assembly
	own    int      // designators that are written in it
	deep   int      // how many sub-assemblies it is in
	inside []string // places of the sub-assembly that it is part of
	places []string // places of its own, of a sub-assembly
	shared bool     // another line has its designators in other variants
}

// Cell is what stands in one column of a line.
type Cell struct {
	Column int
	Param  string // the parameter that its column is of
	Text   string
}

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
			l.Facts = append(l.Facts, Cell{col.At, col.Param, strings.TrimSpace(cells[col.At])})
		}
	}
	written := splitCell(l.Written)
	q := ReadCount(cell(Quantity), len(written.as(-1).List))
	d := written.as(q.Pieces)
	l.Quantity, l.Amount, l.Designators, l.Read, l.Problems = q.Pieces, q.Amount, d.List, d.Read, d.Problems
	if q.Problem != "" {
		l.Problems = append(l.Problems, q.Problem)
	}
	if q.Amount != (Amount{}) && len(d.List) > 1 {
		l.Problems = append(l.Problems, fmt.Sprintf("%s may be for each of the %d designators, or for all of them: write a line for each", q.Amount, len(d.List)))
	}
	l.readVariants(c)
	l.readFitting(c)
	return l
}

// Letters returns the designator letters of a line, sorted and without doubles: usually one.
func (l Line) Letters() []string {
	seen := map[string]bool{}
	for _, d := range l.Designators {
		if letters := letterOf(d); letters != "" {
			seen[letters] = true
		}
	}
	out := make([]string, 0, len(seen))
	for k := range seen {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}

// About is what a decision for the line hangs on: its designators, with the variants where another line has them in others; or what it says where it has none,
// as labels and boards do.
func (l Line) About() string {
	if len(l.Designators) == 0 {
		return "no designator\n" + l.Evidence()
	}
	about := decision.Designators(l.Designators)
	if l.shared {
		about += "\nin " + strings.Join(l.In, ", ")
	}
	return about
}

// Evidence is what the line says of the part, in one text: every cell of a column that means an identity or a fact. Two
// lines with the same evidence ask for the same part.
func (l Line) Evidence() string { return l.evidence(true) }

// evidence names the parameters of facts; what was kept before they were named does not.
func (l Line) evidence(named bool) string {
	parts := []string{"number " + l.Number, "mpn " + l.MPN, "maker " + l.Manufacturer, "supplier " + l.Supplier, "supplierNumber " + l.SupplierNumber, "value " + l.Value, "package " + l.Package, "description " + l.Description}
	for _, f := range l.Facts {
		fact := "fact "
		if named && f.Param != "" {
			fact += f.Param + " "
		}
		parts = append(parts, fact+f.Text)
	}
	for i, p := range parts {
		parts[i] = strings.Join(strings.Fields(p), " ")
	}
	return strings.Join(parts, "\n")
}

// Silent says whether a line says nothing of the part but where it stands. Of such a line nothing is learned for others, and it asks for the same as none.
func (l Line) Silent() bool {
	for _, text := range []string{l.Number, l.MPN, l.Manufacturer, l.Supplier, l.SupplierNumber, l.Value, l.Package, l.Description} {
		if strings.TrimSpace(text) != "" {
			return false
		}
	}
	return !slices.ContainsFunc(l.Facts, func(c Cell) bool { return strings.TrimSpace(c.Text) != "" })
}

// says tells whether a line says what was kept of it.
func (l Line) says(evidence string) bool {
	return evidence == l.evidence(true) || evidence == l.evidence(false)
}
