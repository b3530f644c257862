package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// cabinets adds the routes of the templates.
func (s *Server) cabinets(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/cabinet", "get-cabinet", "cabinet", "The cabinet in force", func(ctx context.Context, c deed.Call, _ *none) (wire.Cabinet, error) { return v.Cabinets.Get(ctx, c) })
	register(s, api, http.MethodGet, "/drawers/{key}", "drawer-use", "cabinet", "How complete a drawer's parts are, and what names it", func(ctx context.Context, c deed.Call, in *ByKey) (wire.DrawerUse, error) {
		return v.Cabinets.DrawerUse(ctx, c, in.Key)
	})
	register(s, api, http.MethodPost, "/drawers/{key}/patterns", "try-patterns", "cabinet", "What patterns would make of real parts", func(ctx context.Context, c deed.Call, in *struct {
		ByKey
		Body wire.PatternTry
	}) ([]wire.PatternOf, error) {
		return v.Cabinets.TryPatterns(ctx, c, in.Key, in.Body)
	})
}
