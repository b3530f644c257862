package offers

import (
	"context"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"jollydrawer/core/money"
	"jollydrawer/core/offer"
	"jollydrawer/formats/delimited"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
)

// exported are the columns of a list of offers.
var exported = []string{"Part", "Manufacturer", "MPN", "Supplier", "Supplier number", "Packing", "Stock", "Minimum", "Multiple", "Lead time (days)", "Price breaks", "Pieces", "Bought", "Sum", "In the house's currency", "Rate", "Product state", "Prices until", "Seen", "Gone"}

// Export writes what suppliers offer of the library's parts, source by source, as csv or json: one line an offer, with what a number of pieces costs.
func (s *Offers) Export(ctx context.Context, c deed.Call, pieces int64, format string, w io.Writer) error {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return err
	}
	if pieces <= 0 {
		pieces = 100
	}
	rates, err := s.rates(ctx)
	if err != nil {
		return err
	}
	names, err := s.names(ctx)
	if err != nil {
		return err
	}
	b := bringing{Offers: s, names: names}
	out, err := delimited.NewStream(w, exported, format == "json")
	if err != nil {
		return err
	}
	var after store.Hash
	for {
		page, err := s.Store.Read(ctx).OffersAfter(after, atOnce)
		if err != nil {
			return err
		}
		if len(page) == 0 {
			return out.Close()
		}
		after = page[len(page)-1].K
		var lines [][]string
		for _, o := range page {
			if line, ok := b.line(o, pieces, rates); ok {
				lines = append(lines, line)
			}
		}
		if err := out.Add(lines); err != nil {
			return err
		}
	}
}

// line is an offer as a line of a list; ok is false where no part has its source any more.
func (b *bringing) line(o store.Offer, pieces int64, rates money.Rates) (line []string, ok bool) {
	is, err := decoded(o)
	if err != nil {
		return nil, false
	}
	key, ok := b.sourceOf(o, is)
	if !ok {
		return nil, false
	}
	e, ok := b.index.BySource(key)
	if !ok || e.Gone {
		return nil, false
	}
	w, err := b.shownOffer(o, b.names, pieces, rates)
	if err != nil {
		return nil, false
	}
	number := func(n int64) string {
		if n == 0 {
			return ""
		}
		return strconv.FormatInt(n, 10)
	}
	line = []string{e.Number, is.Manufacturer, is.MPN, w.Supplier, is.Number, is.Packing, offer.StockText(is.Stock, is.AtLeast), number(is.Minimum), number(is.Multiple), "", "", strconv.FormatInt(pieces, 10), "", "", "", w.Rate, is.State, is.Until, o.Seen.UTC().Format(time.RFC3339), map[bool]string{true: "yes"}[o.Gone]}
	if is.LeadDays != nil {
		line[9] = strconv.Itoa(*is.LeadDays)
	}
	var breaks []string
	for _, at := range is.Breaks {
		breaks = append(breaks, fmt.Sprintf("%d: %s", at.From, at.Each()))
	}
	line[10] = strings.Join(breaks, "; ")
	if w.Buy != nil {
		line[12], line[13] = strconv.FormatInt(w.Buy.Pieces, 10), w.Buy.Total.String()
	}
	if w.Converted != nil {
		line[14] = w.Converted.String()
	}
	return line, true
}
