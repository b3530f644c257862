// Package answers lays what suppliers answered to one question beside each other and beside the templates: one row a product, whoever sells it, with
// its values in the house's parameters, which facts of the question do not hold, where suppliers disagree, and what so many pieces cost. Who is
// asked, and what is kept, is left to others.
package answers

import (
	"cmp"
	"slices"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/connection"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/core/part"
)

// Reading is an answer whose products were laid beside the templates, as the rows of a file are.
type Reading struct {
	Doc       *connection.Document
	Products  []connection.Product
	Table     *intake.Table
	Result    *intake.Result
	Cabinet   *cabinet.Cabinet
	Crosswalk crosswalk.Crosswalk
	Proposed  []crosswalk.Suggestion // fields that no crosswalk maps and whose meaning is certain
}

// Mapping is the crosswalk that reads a connection's products, among all there are. Without one, only what every product has is read; there says
// which it is.
func Mapping(d *connection.Document, all []crosswalk.Crosswalk) (cw crosswalk.Crosswalk, there bool) {
	for _, m := range all {
		if m.Supplier == d.Supplier && m.Layout == d.LayoutName() {
			cw, there = m, true
		}
	}
	cw.Format, cw.Supplier = crosswalk.Format, d.Supplier
	cw.DecimalMark = cmp.Or(cw.DecimalMark, d.Decimal)
	for place, field := range map[*string]string{&cw.Take.Manufacturer: connection.ManufacturerField, &cw.Take.MPN: connection.MPNField, &cw.Take.SupplierNumber: connection.NumberField, &cw.Take.Description: connection.DescriptionField,
		&cw.Take.Kind: connection.KindField, &cw.Take.State: connection.StateField, &cw.Take.Datasheet: connection.DatasheetField} {
		*place = cmp.Or(*place, field)
	}
	return cw, there
}

// Read reads products by the crosswalk of their connection, which is among all: values, drawers, and what the library has of them. Where there is none
// yet, fields are read whose meaning is certain.
func Read(d *connection.Document, products []connection.Product, all []crosswalk.Crosswalk, cab *cabinet.Cabinet, library intake.Library) *Reading {
	return ReadIn(d, products, all, cab, library, "")
}

// ReadIn is Read where somebody says into which drawer all products go; blank leaves it to the crosswalk.
func ReadIn(d *connection.Document, products []connection.Product, all []crosswalk.Crosswalk, cab *cabinet.Cabinet, library intake.Library, drawer string) *Reading {
	var edits intake.Edits
	if drawer != "" {
		edits.Drawers = map[int]string{}
		for i := range products {
			edits.Drawers[i+1] = drawer
		}
	}
	cw, there := Mapping(d, all)
	if cw.CheckAgainst(cab) != nil { // of an older cabinet: what it says of drawers and parameters that are gone is left out
		cw.Kinds, cw.Fields, cw.Sorting, cw.Drawer = nil, nil, nil, ""
	}
	r := &Reading{Doc: d, Products: products, Cabinet: cab, Table: connection.Table(products), Crosswalk: cw}
	build := func() {
		r.Result = intake.Build(intake.Input{Name: d.Supplier, Table: r.Table, Crosswalk: r.Crosswalk, Cabinet: cab, Library: library, Edits: edits})
	}
	build()
	if there || len(r.Result.Unmapped) == 0 {
		return r
	}
	known := crosswalk.Known{Cabinet: cab, Earlier: all}
	for i := range r.Result.Candidates {
		if drawer := r.Result.Candidates[i].Drawer; drawer != "" && !slices.Contains(known.Drawers, drawer) {
			known.Drawers = append(known.Drawers, drawer)
		}
	}
	for _, g := range intake.Suggest(r.Table, cw, known) {
		if _, parameter := cab.Parameter(g.To); g.Sure == crosswalk.Certain && !g.Fact && (parameter || g.To == crosswalk.Leading) {
			r.Proposed = append(r.Proposed, g)
			r.Crosswalk.Fields = append(slices.Clip(r.Crosswalk.Fields), crosswalk.Rule{From: g.From, To: g.To, Unit: g.Unit, System: g.System})
		}
	}
	if len(r.Proposed) > 0 {
		build()
	}
	return r
}

// Field is a field of a supplier's products, and what it fills.
type Field struct {
	Name    string `json:"name"`
	Example string `json:"example"`
	To      string `json:"to,omitempty" doc:"Parameter or place that it fills; blank where nothing reads it"`
	Why     string `json:"why,omitempty" doc:"Why, where no crosswalk says so"`
}

// Fields says which field of the products fills what.
func (r *Reading) Fields() []Field {
	out := []Field{}
	samples := r.Table.Samples(1)
	takes := map[string]string{}
	for place, field := range r.Crosswalk.Take.Places() {
		if *field != "" {
			takes[*field] = place
		}
	}
	for i, h := range r.Table.Header {
		if len(samples[i]) == 0 {
			continue
		}
		f := Field{Name: h, Example: samples[i][0], To: takes[h]}
		for _, rule := range r.Crosswalk.Fields {
			if slices.Contains(rule.Inputs(), h) {
				f.To = rule.To
			}
		}
		for _, g := range r.Proposed {
			if g.From == h {
				f.Why = g.Reason
			}
		}
		out = append(out, f)
	}
	return out
}

// Source is the maker and part number of a product, with the numbers under which its supplier sells it.
func (r *Reading) Source(i int) part.Source {
	p := &r.Products[i]
	src := r.Result.Candidates[i].Source()
	if src.MPN == "" {
		src = part.Source{Manufacturer: p.Manufacturer, MPN: p.MPN}
	}
	src.Numbers = nil
	for _, o := range p.Offers {
		n := part.Number{Supplier: r.Doc.Supplier, Number: o.Number}
		if !slices.Contains(src.Numbers, n) {
			src.Numbers = append(src.Numbers, n)
		}
	}
	return src
}
