package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// reform adds the routes of changes of templates that parts use.
func (s *Server) reform(api huma.API) {
	v := s.Service
	register(s, api, http.MethodPut, "/cabinet", "apply-cabinet", "cabinet", "Apply a cabinet document (YAML or JSON)", func(ctx context.Context, c deed.Call, in *TextInput) (wire.Cabinet, error) {
		n, err := in.version()
		if err != nil {
			return wire.Cabinet{}, err
		}
		return v.Reform.Apply(ctx, c, n, in.Body.Text)
	})
	register(s, api, http.MethodGet, "/cabinet/history", "cabinet-history", "cabinet", "What was changed in the cabinet, newest first", func(ctx context.Context, c deed.Call, in *Paged) (wire.CabinetHistory, error) {
		return v.Reform.History(ctx, c, in.Offset, in.Limit)
	})
	register(s, api, http.MethodPost, "/cabinet/preview", "preview-change", "cabinet", "What a change of templates would do", func(ctx context.Context, c deed.Call, in *struct {
		Reading
		Body wire.CabinetChange
	}) (wire.ChangePreview, error) {
		return v.Reform.Preview(ctx, c, in.Body)
	})
	register(s, api, http.MethodPost, "/cabinet/changes", "change-cabinet", "cabinet", "Change templates that parts use, as a job", func(ctx context.Context, c deed.Call, in *struct {
		BasedOn
		Body wire.CabinetChange
	}) (wire.Job, error) {
		n, err := in.version()
		if err != nil {
			return wire.Job{}, err
		}
		return v.Reform.Start(ctx, c, n, in.Body)
	})
}
