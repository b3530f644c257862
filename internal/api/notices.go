package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// notices adds the routes of what people are told, and of what they want to hear.
func (s *Server) notices(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/notices", "list-notices", "notices", "What you were told, newest first", func(ctx context.Context, c deed.Call, in *struct {
		Paged
		Unread bool `query:"unread" doc:"Only what you have not seen"`
	}) (wire.NoticeList, error) {
		return v.Notices.List(ctx, c, in.Unread, in.Offset, in.Limit)
	})
	register(s, api, http.MethodGet, "/notices/unread", "count-unread", "notices", "How much you were told that you have not seen", func(ctx context.Context, c deed.Call, _ *none) (wire.Unread, error) {
		return v.Notices.Unread(ctx, c)
	})
	register(s, api, http.MethodPost, "/notices/seen", "see-notices", "notices", "Note that you have seen notices", func(ctx context.Context, c deed.Call, in *body[wire.SeeNotices]) (wire.Unread, error) {
		return v.Notices.See(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/watches", "list-watches", "notices", "What you watch", func(ctx context.Context, c deed.Call, _ *none) (wire.WatchList, error) {
		return v.Notices.Watches(ctx, c)
	})
	register(s, api, http.MethodPost, "/watches", "watch", "notices", "Hear of a part, model, BOM, want, drawer, kind of model or question from now on", func(ctx context.Context, c deed.Call, in *body[wire.WatchEdit]) (wire.WatchList, error) {
		return v.Notices.Watch(ctx, c, in.Body)
	})
	register(s, api, http.MethodPost, "/watches/end", "end-watch", "notices", "Hear of it no more", func(ctx context.Context, c deed.Call, in *body[wire.WatchEdit]) (wire.WatchList, error) {
		return v.Notices.Unwatch(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/told", "get-told", "notices", "How you are told beside the console", func(ctx context.Context, c deed.Call, _ *none) (wire.Told, error) {
		return v.Notices.Told(ctx, c)
	})
	register(s, api, http.MethodPut, "/told", "set-told", "notices", "Be told by mail, in digests, or by a hook", func(ctx context.Context, c deed.Call, in *struct {
		BasedOn
		Body wire.ToldEdit
	}) (wire.Told, error) {
		n, err := in.version()
		if err != nil {
			return wire.Told{}, err
		}
		return v.Notices.SetTold(ctx, c, n, in.Body)
	})
	register(s, api, http.MethodGet, "/sendings", "list-sendings", "notices", "Mails and calls of hooks that wait, or were set aside", func(ctx context.Context, c deed.Call, in *struct {
		Paged
		All bool `query:"all" doc:"Everybody's; for administrators"`
	}) (wire.SendingList, error) {
		return v.Notices.Sendings(ctx, c, in.All, in.Offset, in.Limit)
	})
	register(s, api, http.MethodPost, "/sendings/{id}/again", "send-again", "notices", "Try anew what was set aside", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		ID string `path:"id" format:"uuid"`
	}) (wire.SendingList, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.SendingList{}, err
		}
		return v.Notices.SendAgain(ctx, c, i)
	})
}
