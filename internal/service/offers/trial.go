package offers

import (
	"cmp"
	"context"
	"errors"
	"strings"
	"time"

	"jollydrawer/core/answers"
	"jollydrawer/core/connection"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/supplier"
	"jollydrawer/internal/wire"
)

// Try asks a question of a document that may not be kept yet, or reads an answer that was recorded, and says what was asked, what came, what was
// read and what was not. It keeps nothing.
func (s *Offers) Try(ctx context.Context, c deed.Call, in wire.ConnectionTrial) (wire.ConnectionTried, error) {
	out := wire.ConnectionTried{Places: []wire.ConnectionPlace{}, Problems: []string{}, Fields: []answers.Field{}, Sample: []wire.OfferedRow{}}
	if err := deed.Allow(c, deed.OpConnection); err != nil {
		return out, err
	}
	d, err := s.checked(ctx, in.Text)
	if err != nil {
		return out, err
	}
	if d.Read.Form == "table" {
		return out, deed.Fault(deed.Invalid, "no-trial", "A price list is tried by fetching it, or by uploading it: it has no questions.", "")
	}
	r, err := supplier.NewReader(&d, connection.Words)
	if err != nil {
		return out, err
	}
	var pages []supplier.Answer
	kind := connection.Words
	if in.Recorded != "" {
		a, err := r.Read([]byte(in.Recorded))
		if err != nil {
			out.Problem = upper(err.Error()) + "."
		}
		out.Bytes, pages = len(in.Recorded), append(pages, a)
	} else {
		q, err := s.question(ctx, &d, cmp.Or(strings.TrimSpace(in.Words), "10k"))
		if err != nil {
			return out, err
		}
		filled, err := d.Fill(q, d.FirstPage())
		if err != nil {
			return out, deed.Fault(deed.Invalid, "no-words", upper(err.Error())+".", "Add the question words to its document.")
		}
		out.Asked = filled.Method + " " + filled.Address
		d.Limits.Pages = 1
		ctx, stop := context.WithTimeout(ctx, time.Minute)
		defer stop()
		if pages, err = s.tryQuestion(ctx, &d, q, &out); err != nil {
			return out, err
		}
		kind = q.Kind
	}
	products := placesFound(&out, &d, "", kind, pages)
	if in.Recorded == "" && out.Problem == "" {
		if err := s.tryPrices(ctx, &d, products, &out); err != nil {
			return out, err
		}
	}
	out.Products = len(products)
	read, err := s.evaluate(ctx, &d, products)
	if err != nil {
		return out, err
	}
	out.Fields = append(out.Fields, read.Fields()...)
	for i := range read.Products {
		if len(out.Sample) < 10 {
			out.Sample = append(out.Sample, read.Product(i, d.Supplier, s.Now()).Row)
		}
	}
	return out, nil
}

// tryQuestion asks a question; what is wrong with the answer is the trial's problem.
func (s *Offers) tryQuestion(ctx context.Context, d *connection.Document, q connection.Question, out *wire.ConnectionTried) (pages []supplier.Answer, err error) {
	err = s.asker.Ask(ctx, d, q, func(p supplier.Page) error {
		out.Bytes += len(p.Raw)
		pages = append(pages, p.Answer)
		return nil
	})
	if why := (*supplier.Trouble)(nil); errors.As(err, &why) {
		out.Problem = why.What
		return pages, nil
	}
	return pages, err
}

// placesFound says which paths of the answers to a kind of question led to something, and returns what they told.
func placesFound(out *wire.ConnectionTried, d *connection.Document, prefix, kind string, pages []supplier.Answer) (products []connection.Product) {
	found := map[string]int{}
	for _, p := range pages {
		products = append(products, p.Products...)
		out.Problems = append(out.Problems, p.Problems...)
		for place, n := range p.Found {
			found[place] += n
		}
	}
	for _, p := range supplier.Paths(d, kind) {
		if n, counted := found[p.Place]; counted || p.OfProduct {
			out.Places = append(out.Places, wire.ConnectionPlace{Place: prefix + p.Place, Path: p.Path, Found: n})
		}
	}
	return products
}

// tryPrices asks for the stock and prices of the first products that say none, where that is a question of its own, and completes them.
func (s *Offers) tryPrices(ctx context.Context, d *connection.Document, products []connection.Product, out *wire.ConnectionTried) error {
	size, numbers := d.LotSize(connection.Prices), connection.Unpriced(products)
	if size == 0 || len(numbers) == 0 {
		return nil
	}
	lot := numbers[:min(size, len(numbers))]
	pages, err := s.tryQuestion(ctx, d, connection.Question{Kind: connection.Prices, Number: lot[0], Numbers: lot}, out)
	if err != nil {
		return err
	}
	found := offersOf(placesFound(out, d, "prices: ", connection.Prices, pages))
	for i := range products {
		products[i].Price(found)
	}
	return nil
}
