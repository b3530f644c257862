package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// audit adds the routes of verification.
func (s *Server) audit(api huma.API) {
	v := s.Service
	register(s, api, http.MethodPost, "/verification", "verify", "administration", "Recompute hashes, chains and projections; the answer is the job that does it", func(ctx context.Context, c deed.Call, _ *struct{ Writing }) (wire.Job, error) {
		return v.Audit.Start(ctx, c)
	})
}
