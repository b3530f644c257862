package supplier

import (
	"fmt"
	"hash/maphash"
	"maps"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/connection"
	"jollydrawer/core/offer"
	"jollydrawer/formats/rows"
)

// columns are the columns of a price list that a connection reads.
type columns struct {
	doc    *connection.Document
	header []string
	at     map[string]int
	rest   []int // read as fields
	typed  bool  // the list is in a form that has numbers beside texts
}

// columnsOf says where a price list has what. Headings that the connection names and the list lacks are the error, all of them at once: a list
// that looks otherwise than it did is not read in part.
func columnsOf(d *connection.Document, header []string) (*columns, error) {
	c := &columns{doc: d, header: header, at: map[string]int{}}
	for i, h := range header {
		c.at[strings.TrimSpace(h)] = i
	}
	var absent []string
	used := map[int]bool{}
	for _, of := range []map[string]string{d.Read.Product, d.Read.Offers.Paths, d.Read.Fields.Named, d.Read.Breaks.Paths, d.Read.Breaks.At} {
		for _, heading := range of {
			if used[c.place(heading)] = true; c.place(heading) < 0 && !slices.Contains(absent, heading) {
				absent = append(absent, heading)
			}
		}
	}
	if len(absent) > 0 {
		slices.Sort(absent)
		return nil, rows.Errorf("The price list has no column %s; its columns are %s.", strings.Join(quoted(absent), ", "), clip(strings.Join(header, ", ")))
	}
	if d.Read.Fields.Rest {
		for i, h := range header {
			if !used[i] && h != "" {
				c.rest = append(c.rest, i)
			}
		}
	}
	return c, nil
}

// place is where a column stands; -1 where it does not.
func (c *columns) place(heading string) int {
	if i, ok := c.at[heading]; ok {
		return i
	}
	return -1
}

func quoted(all []string) []string {
	out := make([]string, len(all))
	for i, s := range all {
		out[i] = strconv.Quote(s)
	}
	return out
}

// cell is what a row has under a heading; blank where it has none.
func (c *columns) cell(cells []string, heading string) string {
	if i := c.place(heading); heading != "" && i >= 0 && i < len(cells) {
		return strings.TrimSpace(cells[i])
	}
	return ""
}

// number is the number that a row is of; blank where it has none.
func (c *columns) number(cells []string) Number {
	at := c.doc.Read.Offers.Paths
	return Number{c.cell(cells, at["number"]), c.cell(cells, at["packing"])}
}

// product reads a row; why is what is wrong with it.
func (c *columns) product(row rows.Row) (p connection.Product, why string) {
	if row.Problem != "" {
		return p, row.Problem
	}
	cell := func(heading string) string { return c.cell(row.Cells, heading) }
	r := &c.doc.Read
	get := func(place string) string { return cell(r.Product[place]) }
	p = connection.Product{Manufacturer: get("manufacturer"), MPN: get("mpn"), Description: get("description"), Kind: get("kind"), State: get("state"), Series: get("series"), Datasheet: get("datasheet")}
	if p.MPN == "" {
		return p, "it has no manufacturer part number"
	}
	for name, heading := range r.Fields.Named {
		if text := cell(heading); text != "" {
			p.Fields = append(p.Fields, connection.Field{Name: name, Text: text})
		}
	}
	slices.SortFunc(p.Fields, func(a, b connection.Field) int { return strings.Compare(a.Name, b.Name) })
	for _, i := range c.rest {
		if i < len(row.Cells) && strings.TrimSpace(row.Cells[i]) != "" {
			p.Fields = append(p.Fields, connection.Field{Name: c.header[i], Text: strings.TrimSpace(row.Cells[i])})
		}
	}
	o := func(place string) string { return cell(r.Offers.Paths[place]) }
	raw := offer.Raw{Number: o("number"), Packing: o("packing"), Stock: o("stock"), Minimum: o("minimum"), Multiple: o("multiple"), Lead: o("lead"), Currency: o("currency"), Until: o("until"),
		Manufacturer: p.Manufacturer, MPN: p.MPN, State: p.State}
	if raw.Number == "" {
		return p, "it has no number of the supplier"
	}
	if b := r.Breaks.Paths; b["price"] != "" {
		raw.Breaks = append(raw.Breaks, offer.RawBreak{From: cell(b["from"]), Price: cell(b["price"]), Per: cell(b["per"]), Typed: c.typed})
	}
	for _, from := range slices.Sorted(maps.Keys(r.Breaks.At)) {
		raw.Breaks = append(raw.Breaks, offer.RawBreak{From: from, Price: cell(r.Breaks.At[from]), Typed: c.typed})
	}
	p.Offers = []offer.Offer{offer.Read(raw, (&Reader{doc: c.doc}).habits())}
	return p, ""
}

// ReadTable reads the products of a price list one by one; f is called with each, and with the number of its row. Rows that follow each other and are of
// one number in one packing are one product: a list may have a row for each quantity. Rows that cannot be read are counted and the first few are said. It
// stops where f does.
func ReadTable(d *connection.Document, list rows.Reader, f func(row int, p connection.Product) error) (read, left int, problems []string, err error) {
	c, err := columnsOf(d, list.Header())
	if err != nil {
		return 0, 0, nil, err
	}
	c.typed = list.Layout().Format != "csv"
	var open *connection.Product
	at := 0
	flush := func() error {
		if open == nil {
			return nil
		}
		p := *open
		open = nil
		read++
		return f(at, p)
	}
	for {
		row, ok, err := list.Next()
		if err != nil {
			return read, left, problems, err
		}
		if !ok {
			return read, left, problems, flush()
		}
		if row.Blank() {
			continue
		}
		p, why := c.product(row)
		if why != "" {
			if left++; len(problems) < 20 {
				problems = append(problems, fmt.Sprintf("Row %d was left out: %s.", row.Number, strings.TrimSuffix(why, ".")))
			}
			continue
		}
		if open != nil && oneNumber(open, &p) {
			open.Offers[0] = offer.Join(open.Offers[0], p.Offers[0])
			continue
		}
		if err := flush(); err != nil {
			return read, left, problems, err
		}
		open, at = &p, row.Number
	}
}

// Number is one number of a supplier in one packing, as rows of a list are told by.
type Number struct{ Number, Packing string }

// Twice lists the numbers of a price list that stand in it at several places, between which there are others, or for several products.
func Twice(d *connection.Document, list rows.Reader) (twice map[Number]bool, err error) {
	c, err := columnsOf(d, list.Header())
	if err != nil {
		return nil, err
	}
	twice = map[Number]bool{}
	seen := map[uint64]bool{} // a number that shares its mark with another is only looked at in vain
	seed := maphash.MakeSeed()
	var last [3]string
	for {
		row, ok, err := list.Next()
		if err != nil || !ok {
			return twice, err
		}
		n := c.number(row.Cells)
		one := [3]string{n.Number, n.Packing, c.cell(row.Cells, d.Read.Product["mpn"])}
		if one == last || n.Number == "" {
			continue
		}
		last = one
		mark := maphash.Comparable(seed, n)
		if seen[mark] {
			twice[Number{strings.Clone(n.Number), strings.Clone(n.Packing)}] = true
		}
		seen[mark] = true
	}
}

// oneNumber says whether two rows of a list are of one number in one packing, and of one product.
func oneNumber(a, b *connection.Product) bool {
	x, y := a.Offers[0], b.Offers[0]
	return x.Number == y.Number && x.Packing == y.Packing && a.MPN == b.MPN && a.Manufacturer == b.Manufacturer
}
