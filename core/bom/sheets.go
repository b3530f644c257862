package bom

import (
	"slices"
	"strconv"
	"strings"
)

// The forms that a BOM's sheets have beside the completed BOM.
const (
	FormLines    = "lines"    // the completed BOM: all that came in with its record
	FormWritten  = "written"  // the BOM in the layout that it came in, with the record's columns behind
	FormPurchase = "purchase" // what purchasing orders from
	FormAssembly = "assembly" // a row a designator, for who places parts
	FormNumbers  = "numbers"  // what the designer writes on the drawing
)

// Forms lists them.
var Forms = []string{FormLines, FormWritten, FormPurchase, FormAssembly, FormNumbers}

// AssemblySheet has a row for each designator, in the order of people, and those without one behind: what is placed there, and what is not. Another BOM that is placed has a
// list of its own.
// Where variants are named, each has a column of its own behind them.
func AssemblySheet(lines []Pinned, variants ...string) (table [][]string, numbers map[int]bool) {
	head := []string{"Designator", "Fitted", "Quantity", "Part number", "Revision", "Description", "Manufacturer", "MPN", "Value (as written)", "Package (as written)"}
	for _, v := range variants {
		head = append(head, "Fitted in "+v)
	}
	table = [][]string{head}
	var body [][]string
	for i := range lines {
		l := &lines[i]
		if l.Of != "" {
			continue
		}
		row := func(designator, quantity string) []string {
			fitted := "yes"
			if l.NotFitted {
				fitted = "no"
			}
			r := []string{designator, fitted, quantity, "", "", l.Description, l.Manufacturer, l.MPN, l.Value, l.Package}
			if p := l.Part; p != nil {
				r[3], r[4], r[5], r[6], r[7] = p.Number, p.Rev(), p.Description, p.Manufacturer, p.MPN
			}
			if b := l.Board; b != nil {
				r[3], r[4] = b.Name, b.Label
			}
			for _, v := range variants {
				in := "no"
				if !l.NotFitted && l.is(v) {
					in = "yes"
				}
				r = append(r, in)
			}
			return r
		}
		if len(l.Designators) == 0 {
			count := l.Amount
			if count == "" {
				count = strconv.Itoa(l.Quantity)
			}
			body = append(body, row("", count))
		}
		each := 1
		if n := len(l.Designators); n > 0 && strings.Contains(l.Designators[0], "/") && l.Quantity > n && l.Quantity%n == 0 {
			each = l.Quantity / n // of a sub-assembly whose places are not told apart
		}
		for _, d := range l.Designators {
			body = append(body, row(d, strconv.Itoa(each)))
		}
	}
	slices.SortStableFunc(body, func(a, b []string) int {
		if (a[0] == "") != (b[0] == "") {
			return strings.Compare(b[0], a[0]) // those without behind
		}
		return ByDesignator(a[0], b[0])
	})
	return append(table, body...), map[int]bool{4: true}
}

// NumbersSheet is what a designer changes on the drawing: designators whose line does not name the part's own number as it is, with the number to write.
func NumbersSheet(lines []Pinned) (table [][]string, numbers map[int]bool) {
	table = [][]string{{"Designators", "Write", "In place of", "Description"}}
	for i := range lines {
		l := &lines[i]
		if l.Part == nil || l.Of != "" || strings.EqualFold(strings.TrimSpace(l.Number), l.Part.Number) {
			continue
		}
		table = append(table, []string{strings.Join(l.Designators, " "), l.Part.Number, l.Number, l.Part.Description})
	}
	return table, nil
}
