package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// crosswalks adds the routes of crosswalks.
func (s *Server) crosswalks(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/crosswalks", "list-crosswalks", "crosswalks", "All crosswalks", func(ctx context.Context, c deed.Call, in *Paged) (wire.CrosswalkList, error) {
		return v.Cabinets.Crosswalks(ctx, c, in.Offset, in.Limit)
	})
	register(s, api, http.MethodGet, "/crosswalks/{key}", "get-crosswalk", "crosswalks", "A supplier's crosswalk", func(ctx context.Context, c deed.Call, in *ByKey) (wire.Crosswalk, error) {
		return v.Cabinets.Crosswalk(ctx, c, in.Key)
	})
	register(s, api, http.MethodPut, "/crosswalks", "apply-crosswalk", "crosswalks", "Apply a crosswalk document to the supplier it names", func(ctx context.Context, c deed.Call, in *struct {
		BasedOn
		Body wire.CrosswalkEdit
	}) (wire.Crosswalk, error) {
		n, err := in.version()
		if err != nil {
			return wire.Crosswalk{}, err
		}
		return v.Intakes.ApplyCrosswalk(ctx, c, n, in.Body)
	})
	register(s, api, http.MethodPost, "/crosswalks/try", "try-crosswalk", "crosswalks", "What a crosswalk would change in the intakes that are open, row by row; nothing is applied", func(ctx context.Context, c deed.Call, in *asked[wire.Text]) (wire.CrosswalkTried, error) {
		return v.Intakes.TryCrosswalk(ctx, c, in.Body.Text)
	})
}
