package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// readout adds the route of what design tools find.
func (s *Server) readout(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/readout", "get-readout", "readout", "Which tables design tools find, under which names, and what is in them", func(ctx context.Context, c deed.Call, _ *none) (wire.Readout, error) {
		return v.Readout.Status(ctx, c)
	})
}
