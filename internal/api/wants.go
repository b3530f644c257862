package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/wants"
	"jollydrawer/internal/wire"
)

// wants adds the routes of what people want and the library lacks.
func (s *Server) wants(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/wants", "list-wants", "wants", "What people want, what waits longest first", func(ctx context.Context, c deed.Call, in *struct {
		Paged
		State string `query:"state" enum:"waiting,open,taken on,answered,declined" doc:"waiting is open or taken on"`
		Mine  bool   `query:"mine"`
	}) (wire.WantList, error) {
		return v.Wants.List(ctx, c, wants.Query{State: in.State, Mine: in.Mine, Offset: in.Offset, Limit: in.Limit})
	})
	register(s, api, http.MethodPost, "/wants", "make-wants", "wants", "Say what is wanted: one, or a list in one deed", func(ctx context.Context, c deed.Call, in *body[wire.WantsEdit]) (wire.WantsMade, error) {
		return v.Wants.Make(ctx, c, in.Body.Wants)
	})
	register(s, api, http.MethodPost, "/wants/look", "look-want", "wants", "Parts that would do, and wants that ask for the same; nothing is kept", func(ctx context.Context, c deed.Call, in *asked[wire.WantEdit]) (wire.WantLook, error) {
		return v.Wants.Look(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/wants/{key}", "get-want", "wants", "A want by number", func(ctx context.Context, c deed.Call, in *ByKey) (wire.Want, error) {
		return v.Wants.Get(ctx, c, in.Key)
	})
	register(s, api, http.MethodPost, "/wants/{key}/state", "settle-want", "wants", "Take a want on, answer it with a part, decline it, or open it again", func(ctx context.Context, c deed.Call, in *partChange[wire.SettleWant]) (wire.Want, error) {
		return change(in, func(key string, version int, b wire.SettleWant) (wire.Want, error) {
			return v.Wants.Settle(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodPost, "/boms/{key}/wants", "want-missing", "wants", "Wants of the lines of a BOM that the library lacks, or of one that nothing answers yet", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Key string `path:"key"`
		Row int    `query:"row" minimum:"0" doc:"Of this line alone, also where something is proposed for it"`
	}) (wire.WantsMade, error) {
		return v.Wants.FromBOM(ctx, c, in.Key, in.Row)
	})
}
