package offers

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/answers"
	"jollydrawer/core/connection"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/blobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Intake makes intakes of products that suppliers answered with: one for each supplier whose words are read, mapped by the crosswalk of its answers,
// so that they are checked, mended and taken in as a file is. Nothing of the library changes; what is offered of the products is kept.
func (s *Offers) Intake(ctx context.Context, c deed.Call, in wire.SupplierIntake) (wire.SupplierIntakes, error) {
	out := wire.SupplierIntakes{Items: []wire.SupplierIntakeMade{}}
	if err := deed.Allow(c, deed.OpIntakeEdit); err != nil {
		return out, err
	}
	if c.Deed.IsZero() {
		c.Deed = store.NewID()
	}
	in.Question.Text = strings.Join(strings.Fields(in.Question.Text), " ")
	all, err := s.connections(ctx)
	if err != nil {
		return out, err
	}
	each, err := s.each(ctx, all, in.Question, false, true)
	if err != nil {
		return out, err
	}
	m := s.merge(each, in.Question.Text)
	chosen, err := s.chosen(ctx, m, in)
	if err != nil {
		return out, err
	}
	for _, a := range each {
		if a.reading == nil {
			continue
		}
		var of []connection.Product
		for _, row := range chosen {
			if row.From != a.SupplierAnswer.Supplier {
				continue
			}
			for i := range a.reading.Products {
				if a.reading.Source(i).Key() == row.Key {
					of = append(of, a.reading.Products[i])
					break
				}
			}
			if err := s.keepOffersOf(ctx, taking{Product: row, from: a, others: each, asked: in.Question.Text}); err != nil {
				return out, err
			}
		}
		if len(of) == 0 {
			continue
		}
		made, err := s.intakeOf(ctx, c, a, in.Question.Text, of)
		if err != nil {
			return out, err
		}
		out.Items = append(out.Items, made)
	}
	return out, nil
}

// chosen are the products that are meant, in the order of the answer.
func (s *Offers) chosen(ctx context.Context, m answers.Merged, in wire.SupplierIntake) (out []*answers.Product, err error) {
	rates, err := s.rates(ctx)
	if err != nil {
		return nil, err
	}
	answers.Order(m.Rows, max(in.Question.Pieces, 1), limitsOf(in.Question), rates, s.today())
	left := slices.Clone(in.Keys)
	for _, row := range m.Rows {
		if i := slices.Index(left, row.Key); i >= 0 {
			left = slices.Delete(left, i, i+1)
			out = append(out, row)
		} else if len(in.Keys) == 0 && len(row.Fails) == 0 && len(row.Own) == 0 {
			out = append(out, row)
		}
	}
	switch {
	case len(left) > 0:
		return nil, deed.Fault(deed.Unknown, "not-offered", fmt.Sprintf("Nobody answered %q with %s, or the answer is older than an hour.", in.Question.Text, left[0]), "Ask again, and choose among what is there now.")
	case len(out) == 0:
		return nil, deed.Fault(deed.Invalid, "nothing-chosen", "No product fits that the library has not; no intake was made.", "Choose products, or relax the question.")
	}
	return out, nil
}

// intakeOf makes an intake of what one supplier says of products.
func (s *Offers) intakeOf(ctx context.Context, c deed.Call, a answered, question string, of []connection.Product) (wire.SupplierIntakeMade, error) {
	none := wire.SupplierIntakeMade{}
	t := connection.Table(of)
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	lines := [][]string{t.Header}
	for at := range t.Len() {
		lines = append(lines, t.Row(at).Cells)
	}
	if err := w.WriteAll(lines); err != nil {
		return none, err
	}
	hash, _, err := blobs.Put(ctx, s.Store, &b, s.files.Limits.Bytes)
	if err != nil {
		return none, err
	}
	crosswalks, err := s.cabinets.AllCrosswalks(ctx)
	if err != nil {
		return none, err
	}
	open := wire.NewIntake{Supplier: a.Supplier, FileHash: hash.String(), Layout: rows.Layout{Format: "csv", Encoding: "utf-8", Delimiter: ",", HeaderRow: 1},
		FileName: files.CleanName(clip(fmt.Sprintf("%s to %s on %s", a.SupplierAnswer.Supplier, question, a.At.UTC().Format("2006-01-02 1504")), 200)) + ".csv"}
	if cw, there := answers.Mapping(a.Document, crosswalks); there {
		open.Mapped = cw.Number()
	}
	c.Deed = deed.After(c.Deed, a.Supplier)
	made, err := s.intakes.Open(ctx, c, open)
	return wire.SupplierIntakeMade{ID: made.ID, Number: made.Number, Supplier: a.SupplierAnswer.Supplier, Products: len(of)}, err
}
