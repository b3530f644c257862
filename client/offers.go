package client

import (
	"context"
	"io"
	"net/http"
	"net/url"
	"strconv"

	"jollydrawer/internal/wire"
)

// Connections lists the connections to suppliers.
func (c *Client) Connections(ctx context.Context, offset, limit int) (wire.ConnectionList, error) {
	return get[wire.ConnectionList](ctx, c, "/connections", paging(offset, limit))
}

// Connection returns a connection with its document.
func (c *Client) Connection(ctx context.Context, key string) (wire.Connection, error) {
	return get[wire.Connection](ctx, c, "/connections/"+seg(key), nil)
}

// ApplyConnection keeps a document as the connection to the supplier that it names.
func (c *Client) ApplyConnection(ctx context.Context, version int, text string) (wire.Connection, error) {
	return change[wire.Connection](ctx, c, http.MethodPut, "/connections", version, wire.ConnectionEdit{Text: text})
}

// TryConnection asks a question of a document, or reads a recorded answer.
func (c *Client) TryConnection(ctx context.Context, in wire.ConnectionTrial) (wire.ConnectionTried, error) {
	return post[wire.ConnectionTried](ctx, c, "/connection-tries", in)
}

// UploadPriceList makes a kept file the price list of a connection.
func (c *Client) UploadPriceList(ctx context.Context, key string, in wire.PriceListUpload) (wire.Connection, error) {
	return post[wire.Connection](ctx, c, "/connections/"+seg(key)+"/price-list", in)
}

// AskSuppliers asks all suppliers, and returns what they answered until now.
func (c *Client) AskSuppliers(ctx context.Context, in wire.SupplierQuestion) (wire.SupplierAnswers, error) {
	return post[wire.SupplierAnswers](ctx, c, "/supplier-questions", in)
}

// AskSuppliersAll asks all suppliers and waits for the last of them; some is called with each answer until then.
func (c *Client) AskSuppliersAll(ctx context.Context, in wire.SupplierQuestion, some func(wire.SupplierAnswers)) (wire.SupplierAnswers, error) {
	for {
		a, err := c.AskSuppliers(ctx, in)
		if err != nil || a.Done {
			return a, err
		}
		in.Seen, in.Again = a.State, false
		if some != nil {
			some(a)
		}
	}
}

// SupplierLimits are one's usual limits of a question.
func (c *Client) SupplierLimits(ctx context.Context, text string) (wire.SupplierLimits, error) {
	return get[wire.SupplierLimits](ctx, c, "/supplier-limits", url.Values{"q": {text}})
}

// KeepSupplierLimits keeps the limits of a question for others about the same kind.
func (c *Client) KeepSupplierLimits(ctx context.Context, in wire.SupplierLimitsEdit) (wire.SupplierLimits, error) {
	return post[wire.SupplierLimits](ctx, c, "/supplier-limits", in)
}

// TakeProduct makes a part of a product that a supplier answered with, or a source of a part.
func (c *Client) TakeProduct(ctx context.Context, in wire.SupplierTake) (wire.SupplierTaken, error) {
	return post[wire.SupplierTaken](ctx, c, "/supplier-products", in)
}

// IntakeProducts makes intakes of many products that suppliers answered with.
func (c *Client) IntakeProducts(ctx context.Context, in wire.SupplierIntake) (wire.SupplierIntakes, error) {
	return post[wire.SupplierIntakes](ctx, c, "/supplier-intakes", in)
}

// PartOffers returns what suppliers offer of the sources of a part.
func (c *Client) PartOffers(ctx context.Context, key string, pieces int64) (wire.PartOffers, error) {
	return get[wire.PartOffers](ctx, c, "/parts/"+seg(key)+"/offers", url.Values{"pieces": {strconv.FormatInt(pieces, 10)}})
}

// RefreshOffers asks the suppliers for what they offer of parts.
func (c *Client) RefreshOffers(ctx context.Context, in wire.RefreshOffers) (wire.Job, error) {
	return post[wire.Job](ctx, c, "/offers/refresh", in)
}

// ExportOffers reads what suppliers offer of the library's parts as csv or json; the caller closes it.
func (c *Client) ExportOffers(ctx context.Context, pieces int64, format string) (io.ReadCloser, error) {
	return c.stream(ctx, "/offer-list", url.Values{"pieces": {strconv.FormatInt(pieces, 10)}, "format": {format}})
}

// OfferNews lists what became otherwise of offers.
func (c *Client) OfferNews(ctx context.Context, offset, limit int) (wire.OfferNewsList, error) {
	return get[wire.OfferNewsList](ctx, c, "/offers/news", paging(offset, limit))
}

// SettleOfferNews says that news were seen to.
func (c *Client) SettleOfferNews(ctx context.Context, ids []string) (wire.Settled, error) {
	return post[wire.Settled](ctx, c, "/offers/news/settled", wire.SettleNews{IDs: ids})
}

// Rates returns the exchange rates in force.
func (c *Client) Rates(ctx context.Context) (wire.Rates, error) {
	return get[wire.Rates](ctx, c, "/rates", nil)
}

// ApplyRates keeps a document as the exchange rates in force.
func (c *Client) ApplyRates(ctx context.Context, version int, text string) (wire.Rates, error) {
	return change[wire.Rates](ctx, c, http.MethodPut, "/rates", version, wire.RatesEdit{Text: text})
}
