package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// lifecycles adds the routes of releases and standings.
func (s *Server) lifecycles(api huma.API) {
	v := s.Service
	register(s, api, http.MethodPost, "/parts/{key}/release", "release-part", "parts", "Freeze the draft as the next revision", func(ctx context.Context, c deed.Call, in *partChange[wire.Release]) (wire.Part, error) {
		n, err := in.version()
		if err != nil {
			return wire.Part{}, err
		}
		return v.Lifecycles.Release(ctx, c, in.Key, n, in.Body)
	})
	register(s, api, http.MethodPost, "/parts/{key}/standing", "set-standing", "parts", "Say how a part may be used", func(ctx context.Context, c deed.Call, in *partChange[wire.Standing]) (wire.Part, error) {
		n, err := in.version()
		if err != nil {
			return wire.Part{}, err
		}
		return v.Lifecycles.SetStanding(ctx, c, in.Key, n, in.Body)
	})
	register(s, api, http.MethodPost, "/releases", "release-parts", "parts", "Release several drafts in one deed: all or none", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Body wire.BulkRelease
	}) (wire.Released, error) {
		return v.Lifecycles.ReleaseMany(ctx, c, in.Body)
	})
}
