package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// offers adds the routes of suppliers: connections, questions, offers.
func (s *Server) offers(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/connections", "list-connections", "suppliers", "Connections to suppliers", func(ctx context.Context, c deed.Call, in *Paged) (wire.ConnectionList, error) {
		return v.Offers.Connections(ctx, c, in.Offset, in.Limit)
	})
	register(s, api, http.MethodGet, "/connections/{key}", "get-connection", "suppliers", "A connection with its document, by identifier or supplier", func(ctx context.Context, c deed.Call, in *ByKey) (wire.Connection, error) {
		return v.Offers.Connection(ctx, c, in.Key)
	})
	register(s, api, http.MethodPut, "/connections", "apply-connection", "suppliers", "Keep a document as the connection to the supplier that it names", func(ctx context.Context, c deed.Call, in *struct {
		BasedOn
		Body wire.ConnectionEdit
	}) (wire.Connection, error) {
		n, err := in.version()
		if err != nil {
			return wire.Connection{}, err
		}
		return v.Offers.Apply(ctx, c, n, in.Body)
	})
	register(s, api, http.MethodPost, "/connection-tries", "try-connection", "suppliers", "Ask a question of a document that is not kept yet, or read a recorded answer, and say what was read", func(ctx context.Context, c deed.Call, in *asked[wire.ConnectionTrial]) (wire.ConnectionTried, error) {
		return v.Offers.Try(ctx, c, in.Body)
	})
	register(s, api, http.MethodPost, "/connections/{key}/price-list", "upload-price-list", "suppliers", "Make a kept file the price list of a connection", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Key  string `path:"key" doc:"Identifier or supplier"`
		Body wire.PriceListUpload
	}) (wire.Connection, error) {
		return v.Offers.UploadList(ctx, c, in.Key, in.Body)
	})
	register(s, api, http.MethodPost, "/supplier-questions", "ask-suppliers", "suppliers", "Ask all suppliers, and hear what they answered until now", func(ctx context.Context, c deed.Call, in *asked[wire.SupplierQuestion]) (wire.SupplierAnswers, error) {
		return v.Offers.Ask(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/supplier-limits", "supplier-limits", "suppliers", "Your usual limits of a question", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Text string `query:"q" maxLength:"400"`
	}) (wire.SupplierLimits, error) {
		return v.Offers.Limits(ctx, c, in.Text)
	})
	register(s, api, http.MethodPost, "/supplier-limits", "keep-supplier-limits", "suppliers", "Keep the limits of a question for your others about the same kind", func(ctx context.Context, c deed.Call, in *body[wire.SupplierLimitsEdit]) (wire.SupplierLimits, error) {
		return v.Offers.KeepLimits(ctx, c, in.Body)
	})
	register(s, api, http.MethodPost, "/supplier-products", "take-product", "suppliers", "Make a part of a product that a supplier answered with, or a source of a part", func(ctx context.Context, c deed.Call, in *body[wire.SupplierTake]) (wire.SupplierTaken, error) {
		return v.Offers.Take(ctx, c, in.Body)
	})
	register(s, api, http.MethodPost, "/supplier-intakes", "intake-products", "suppliers", "Make intakes of many products that suppliers answered with", func(ctx context.Context, c deed.Call, in *body[wire.SupplierIntake]) (wire.SupplierIntakes, error) {
		return v.Offers.Intake(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/parts/{key}/offers", "list-offers", "suppliers", "What suppliers offer of the sources of a part", func(ctx context.Context, c deed.Call, in *struct {
		ByKey
		Pieces int64 `query:"pieces" minimum:"0" maximum:"1000000000" doc:"How many are to be bought; 0 is 1"`
	}) (wire.PartOffers, error) {
		return v.Offers.OfPart(ctx, c, in.Key, in.Pieces)
	})
	register(s, api, http.MethodPost, "/offers/refresh", "refresh-offers", "suppliers", "Ask the suppliers for what they offer of parts", func(ctx context.Context, c deed.Call, in *body[wire.RefreshOffers]) (wire.Job, error) {
		return v.Offers.Refresh(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/offers/news", "list-offer-news", "suppliers", "What became otherwise of offers, and nobody has seen to", func(ctx context.Context, c deed.Call, in *Paged) (wire.OfferNewsList, error) {
		return v.Offers.News(ctx, c, in.Offset, in.Limit)
	})
	register(s, api, http.MethodPost, "/offers/news/settled", "settle-offer-news", "suppliers", "Say that news were seen to", func(ctx context.Context, c deed.Call, in *body[wire.SettleNews]) (wire.Settled, error) {
		n, err := v.Offers.Settle(ctx, c, in.Body)
		return wire.Settled{Settled: n}, err
	})
	register(s, api, http.MethodGet, "/rates", "get-rates", "suppliers", "The exchange rates in force", func(ctx context.Context, c deed.Call, _ *none) (wire.Rates, error) {
		return v.Offers.Rates(ctx, c)
	})
	register(s, api, http.MethodPut, "/rates", "apply-rates", "suppliers", "Keep a document as the exchange rates in force", func(ctx context.Context, c deed.Call, in *struct {
		BasedOn
		Body wire.RatesEdit
	}) (wire.Rates, error) {
		n, err := in.version()
		if err != nil {
			return wire.Rates{}, err
		}
		return v.Offers.ApplyRates(ctx, c, n, in.Body)
	})
}
