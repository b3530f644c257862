package connection

import (
	"slices"
	"strings"

	"jollydrawer/core/intake"
	"jollydrawer/core/names"
	"jollydrawer/core/offer"
)

// Product is what a supplier says of one product, in its own words.
type Product struct {
	Manufacturer string        `json:"manufacturer,omitempty"`
	MPN          string        `json:"mpn,omitempty"`
	Description  string        `json:"description,omitempty"`
	Kind         string        `json:"kind,omitempty"`
	State        string        `json:"state,omitempty"`
	Series       string        `json:"series,omitempty"`
	Datasheet    string        `json:"datasheet,omitempty"`
	Fields       []Field       `json:"fields,omitempty"`
	Models       []Linked      `json:"models,omitempty"`
	Offers       []offer.Offer `json:"offers,omitempty"`
}

// Complete adds to p what another answer says of the same product and p does not: fields, models, and what every product has. What p says stays. It says
// whether anything was added.
func (p *Product) Complete(o Product) (added bool) {
	for to, from := range map[*string]string{&p.Description: o.Description, &p.Kind: o.Kind, &p.State: o.State, &p.Series: o.Series, &p.Datasheet: o.Datasheet} {
		if *to == "" && from != "" {
			*to, added = from, true
		}
	}
	p.Fields, p.Models = slices.Clone(p.Fields), slices.Clone(p.Models)
	for _, f := range o.Fields {
		if !slices.ContainsFunc(p.Fields, func(have Field) bool { return strings.EqualFold(have.Name, f.Name) }) {
			p.Fields, added = append(p.Fields, f), true
		}
	}
	for _, l := range o.Models {
		if !slices.Contains(p.Models, l) {
			p.Models, added = append(p.Models, l), true
		}
	}
	return added
}

// Unpriced are the supplier's numbers of offers that say neither a stock nor a price.
func Unpriced(products []Product) (numbers []string) {
	for i := range products {
		for _, o := range products[i].Offers {
			if o.Stock == nil && len(o.Breaks) == 0 && !slices.Contains(numbers, o.Number) {
				numbers = append(numbers, o.Number)
			}
		}
	}
	return numbers
}

// Price completes the offers of p that say neither a stock nor a price by what found says of the same number: what an offer says stays. Where a number is
// sold in several packings that p does not name, each becomes an offer. It says whether anything was added.
func (p *Product) Price(found []offer.Offer) (added bool) {
	var out []offer.Offer
	for _, o := range p.Offers {
		matched := false
		for _, f := range found {
			if o.Stock != nil || len(o.Breaks) > 0 || f.Number != o.Number || o.Packing != "" && f.Packing != "" && f.Packing != o.Packing {
				continue
			}
			out, matched = append(out, o.With(f)), true
		}
		if added = added || matched; !matched {
			out = append(out, o)
		}
	}
	p.Offers = offer.JoinAll(out)
	return added
}

// Field is one thing that a supplier says of a product.
type Field struct{ Name, Text string }

// Linked is a file of models that a supplier has ready.
type Linked struct {
	Kind    string `json:"kind,omitempty"` // in the supplier's words
	Name    string `json:"name,omitempty"`
	Address string `json:"address"`
}

// Headings under which what every product has stands in the table of products. They are the fields that a connection's crosswalk takes.
const (
	ManufacturerField = "Manufacturer"
	MPNField          = "MPN"
	NumberField       = "Supplier number"
	DescriptionField  = "Description"
	KindField         = "Kind"
	StateField        = "State"
	SeriesField       = "Series"
	DatasheetField    = "Datasheet"
)

// own are the columns that every table of products begins with.
var own = []string{ManufacturerField, MPNField, NumberField, DescriptionField, KindField, StateField, SeriesField, DatasheetField}

// Table lays products out as rows, so that they are read by a crosswalk as the rows of a file are: what every product has first, then each
// field that any of them has. A field that has the name of one of the first columns has a dot behind it. Row numbers count from 1.
func Table(products []Product) *intake.Table {
	header := slices.Clone(own)
	at := map[string]int{}
	for i, h := range header {
		at[strings.ToLower(h)] = i
	}
	column := func(name string) int {
		low := strings.ToLower(name)
		if i, ok := at[low]; ok && i >= len(own) {
			return i
		} else if ok {
			name, low = name+".", low+"."
			if i, ok := at[low]; ok {
				return i
			}
		}
		at[low] = len(header)
		header = append(header, name)
		return at[low]
	}
	places := make([][]int, len(products))
	for i := range products {
		var taken names.Taken
		used := map[int]bool{}
		for _, f := range products[i].Fields {
			at := column(taken.Free(f.Name, names.Bracketed))
			for used[at] { // said twice of one product: both are kept
				at = column(taken.Free(f.Name, names.Bracketed))
			}
			used[at] = true
			places[i] = append(places[i], at)
		}
	}
	t := intake.NewTable(header)
	for i := range products {
		p := &products[i]
		cells := make([]string, len(header))
		number := ""
		if len(p.Offers) > 0 {
			number = p.Offers[0].Number
		}
		copy(cells, []string{p.Manufacturer, p.MPN, number, p.Description, p.Kind, p.State, p.Series, p.Datasheet})
		for n, f := range p.Fields {
			cells[places[i][n]] = f.Text
		}
		t.Add(intake.Row{Number: i + 1, Cells: cells})
	}
	t.Done()
	return t
}
