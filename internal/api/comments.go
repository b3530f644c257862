package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// comments adds the routes of what people say about things, and of who holds them.
func (s *Server) comments(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/things/{key}/comments", "list-comments", "comments", "What was said about a part, model, BOM or want, oldest first", func(ctx context.Context, c deed.Call, in *struct {
		Paged
		Key string `path:"key" doc:"Identifier, or number of a part"`
	}) (wire.CommentList, error) {
		return v.Comments.List(ctx, c, in.Key, in.Offset, in.Limit)
	})
	register(s, api, http.MethodPost, "/things/{key}/comments", "say", "comments", "Say something about a thing or one of its values, or answer", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Key  string `path:"key"`
		Body wire.NewComment
	}) (wire.CommentList, error) {
		return v.Comments.Say(ctx, c, in.Key, in.Body)
	})
	register(s, api, http.MethodPost, "/comments/{id}/settled", "settle-comment", "comments", "Settle a comment with its answers, or open it again", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		ID   string `path:"id" format:"uuid"`
		Body wire.SettleComment
	}) (wire.CommentList, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.CommentList{}, err
		}
		return v.Comments.Settle(ctx, c, i, in.Body.Settled)
	})
	register(s, api, http.MethodPost, "/things/{key}/hold", "hold-thing", "lifecycles", "Hold a part or model: others do not change its content meanwhile", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Key  string `path:"key"`
		Body wire.TakeHold
	}) (wire.Life, error) {
		return v.Lifecycles.Hold(ctx, c, in.Key, in.Body)
	})
	register(s, api, http.MethodPost, "/things/{key}/hold/end", "end-hold", "lifecycles", "Let go of it", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Key string `path:"key"`
	}) (wire.Life, error) {
		return v.Lifecycles.LetGo(ctx, c, in.Key)
	})
}
