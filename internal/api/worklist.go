package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// worklist adds the route of what waits for whoever asks.
func (s *Server) worklist(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/worklist", "get-worklist", "worklist", "What waits for you and your groups, kind by kind", func(ctx context.Context, c deed.Call, _ *none) (wire.Worklist, error) {
		return v.Worklist.Get(ctx, c)
	})
}
