package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// work adds the routes of jobs.
func (s *Server) work(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/jobs/{id}", "get-job", "jobs", "How far a job is", func(ctx context.Context, c deed.Call, in *ByID) (wire.Job, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.Job{}, err
		}
		return v.Work.Get(ctx, c, i)
	})
	register(s, api, http.MethodPost, "/jobs/{id}/stop", "stop-job", "jobs", "Stop a job; it leaves nothing behind", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		ID string `path:"id" format:"uuid"`
	}) (wire.Job, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.Job{}, err
		}
		return v.Work.Stop(ctx, c, i)
	})
}
