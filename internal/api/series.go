package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// series adds the routes of manufacturers' series.
func (s *Server) series(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/series", "list-series", "series", "Series by manufacturer and name", func(ctx context.Context, c deed.Call, in *Paged) (wire.SeriesList, error) {
		return v.Series.List(ctx, c, in.Offset, in.Limit)
	})
	register(s, api, http.MethodPost, "/series", "make-series", "series", "Make a series", func(ctx context.Context, c deed.Call, in *body[wire.SeriesEdit]) (wire.Series, error) {
		return v.Series.Make(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/series/proposals", "propose-series", "series", "Series that parts look as though they were of, the largest first", func(ctx context.Context, c deed.Call, in *struct {
		Paged
		Manufacturer string `query:"manufacturer" maxLength:"100" doc:"Only of this one"`
	}) (wire.SeriesProposals, error) {
		return v.Series.Proposals(ctx, c, in.Manufacturer, in.Offset, in.Limit)
	})
	register(s, api, http.MethodGet, "/series/{key}", "get-series", "series", "A series by identifier, or by manufacturer and name", func(ctx context.Context, c deed.Call, in *ByKey) (wire.Series, error) {
		return v.Series.Get(ctx, c, in.Key)
	})
	register(s, api, http.MethodPut, "/series/{key}", "change-series", "series", "Change a series: its members, its datasheets, its name", func(ctx context.Context, c deed.Call, in *partChange[wire.SeriesEdit]) (wire.Series, error) {
		return change(in, func(key string, version int, b wire.SeriesEdit) (wire.Series, error) {
			return v.Series.Edit(ctx, c, key, version, b)
		})
	})
}
