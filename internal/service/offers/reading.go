package offers

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/connection"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/origin"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/intakes"
	"jollydrawer/internal/wire"
)

// reading is an answer whose products were laid beside the templates, as the rows of a file are.
type reading struct {
	key      string // of what it depends on
	doc      *connection.Document
	products []connection.Product
	table    *intake.Table
	result   *intake.Result
	cab      *cabinet.Cabinet
	cw       crosswalk.Crosswalk
	proposed []crosswalk.Suggestion // fields that no crosswalk maps and whose meaning is certain
}

// mostRead is how many answers are held as they were read.
const mostRead = 64

// mapping is the crosswalk that reads a connection's products; without one, only what every product has is read, and what is certain of its fields.
func (s *Offers) mapping(ctx context.Context, d *connection.Document) (cw crosswalk.Crosswalk, ok bool, err error) {
	all, err := s.cabinets.MappedCrosswalks(ctx)
	if err != nil {
		return cw, false, err
	}
	for _, m := range all {
		if m.Supplier == d.Supplier && m.Layout == d.LayoutName() {
			cw, ok = m.Crosswalk, true
		}
	}
	cw.Format, cw.Supplier = crosswalk.Format, d.Supplier
	cw.DecimalMark = cmp.Or(cw.DecimalMark, d.Decimal)
	for place, field := range map[*string]string{&cw.Take.Manufacturer: connection.ManufacturerField, &cw.Take.MPN: connection.MPNField, &cw.Take.SupplierNumber: connection.NumberField, &cw.Take.Description: connection.DescriptionField,
		&cw.Take.Kind: connection.KindField, &cw.Take.State: connection.StateField, &cw.Take.Datasheet: connection.DatasheetField} {
		*place = cmp.Or(*place, field)
	}
	return cw, ok, nil
}

// evaluate reads products by the crosswalk of their connection: values, drawers, and what the library has of them. key says which answer they are of.
func (s *Offers) evaluate(ctx context.Context, d *connection.Document, products []connection.Product, key string) (*reading, error) {
	cab, at, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, err
	}
	cw, _, err := s.mapping(ctx, d)
	if err != nil {
		return nil, err
	}
	r := &reading{key: fmt.Sprintf("%s/%d/%d/%s", key, len(products), at.Revision, cw.Number()), doc: d, products: products, cab: cab}
	if err := cw.CheckAgainst(cab); err != nil { // of an older cabinet: what it says of drawers and parameters that are gone is left out
		cw.Kinds, cw.Fields, cw.Sorting, cw.Drawer = nil, nil, nil, ""
	}
	r.table = connection.Table(products)
	library := intakes.Library(s.index)
	build := func() {
		r.cw = cw
		r.result = intake.Build(intake.Input{Name: d.Supplier, Table: r.table, Crosswalk: cw, Cabinet: cab, Library: library})
	}
	build()
	if len(r.result.Unmapped) > 0 {
		all, err := s.cabinets.AllCrosswalks(ctx)
		if err != nil {
			return nil, err
		}
		known := crosswalk.Known{Cabinet: cab, Earlier: all}
		seen := map[string]bool{}
		for i := range r.result.Candidates {
			if drawer := r.result.Candidates[i].Drawer; drawer != "" && !seen[drawer] {
				seen[drawer] = true
				known.Drawers = append(known.Drawers, drawer)
			}
		}
		for _, g := range intake.Suggest(r.table, cw, known) {
			if _, parameter := cab.Parameter(g.To); g.Sure == crosswalk.Certain && !g.Fact && (parameter || g.To == crosswalk.Leading) {
				r.proposed = append(r.proposed, g)
				cw.Fields = append(slices.Clip(cw.Fields), crosswalk.Rule{From: g.From, To: g.To, Unit: g.Unit, System: g.System})
			}
		}
		if len(r.proposed) > 0 {
			build()
		}
	}
	return r, nil
}

// held is evaluate with what was read last.
func (s *Offers) held(ctx context.Context, d *connection.Document, products []connection.Product, key string) (*reading, error) {
	_, at, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, err
	}
	mark, err := s.cabinets.CrosswalksMark(ctx)
	if err != nil {
		return nil, err
	}
	full := fmt.Sprintf("%s/%d/%d/%s", key, len(products), at.Revision, mark)
	s.mu.Lock()
	for _, r := range s.read {
		if r.key == full {
			s.mu.Unlock()
			return r, nil
		}
	}
	s.mu.Unlock()
	r, err := s.evaluate(ctx, d, products, key)
	if err != nil {
		return nil, err
	}
	r.key = full
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.read = append(s.read, r); len(s.read) > mostRead {
		s.read = slices.Clone(s.read[1:])
	}
	return r, nil
}

// fields says which field of the products fills what.
func (r *reading) fields() []wire.ConnectionField {
	out := []wire.ConnectionField{}
	samples := r.table.Samples(1)
	takes := map[string]string{}
	for place, field := range r.cw.Take.Places() {
		if *field != "" {
			takes[*field] = place
		}
	}
	for i, h := range r.table.Header {
		if len(samples[i]) == 0 {
			continue
		}
		f := wire.ConnectionField{Name: h, Example: samples[i][0], To: takes[h]}
		for _, rule := range r.cw.Fields {
			if slices.Contains(rule.Inputs(), h) {
				f.To = rule.To
			}
		}
		for _, g := range r.proposed {
			if g.From == h {
				f.Why = g.Reason
			}
		}
		out = append(out, f)
	}
	return out
}

// row is one product as it is shown, with the offers of its own supplier.
func (r *reading) row(i int, supplier string, seen time.Time) wire.OfferedRow {
	k, p := &r.result.Candidates[i], &r.products[i]
	src := r.source(i)
	w := wire.OfferedRow{Key: src.Key(), Manufacturer: src.Manufacturer, MPN: src.MPN, Drawer: k.Drawer, Because: k.Because, Values: map[string]string{}, Fails: []string{}, Own: []string{}, States: []string{}, Series: p.Series, Datasheet: p.Datasheet,
		Models: append([]connection.Linked{}, p.Models...), Differ: []string{}, Offers: []wire.Offer{}, Description: p.Description}
	if t, ok := r.cab.Template(k.Drawer); ok {
		w.Label = t.Label
		if d := r.result.Content(i).Description; d != "" {
			w.Description = d
		}
		r.result.EachValue(i, func(key string, v cabinet.Value, o origin.Origin, problem *cabinet.Problem) {
			if problem != nil {
				if w.Unread == nil {
					w.Unread = map[string]string{}
				}
				w.Unread[key] = o.Written
				return
			}
			slot, _ := t.Slot(key)
			w.Values[key] = slot.Shown(v)
		})
	}
	if p.State != "" {
		w.States = append(w.States, p.State)
		if stands, ok := lifecycle.Stated(p.State); ok {
			w.Stands = string(stands)
		}
	}
	for _, o := range p.Offers {
		w.Offers = append(w.Offers, wire.Offer{Supplier: supplier, Offer: o, Seen: seen})
	}
	return w
}

// source is the maker and part number of a product, with the numbers under which its supplier sells it.
func (r *reading) source(i int) part.Source {
	p := &r.products[i]
	src := r.result.Candidates[i].Source()
	if src.MPN == "" {
		src = part.Source{Manufacturer: p.Manufacturer, MPN: p.MPN}
	}
	src.Numbers = nil
	for _, o := range p.Offers {
		n := part.Number{Supplier: r.doc.Supplier, Number: o.Number}
		if !slices.Contains(src.Numbers, n) {
			src.Numbers = append(src.Numbers, n)
		}
	}
	return src
}
