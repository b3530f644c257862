package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// parts adds the routes of parts.
func (s *Server) parts(api huma.API) {
	v := s.Service
	register(s, api, http.MethodPost, "/parts", "make-part", "parts", "Make a part as a draft", func(ctx context.Context, c deed.Call, in *partInput) (wire.Part, error) {
		return v.Parts.Create(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/parts/{key}/copy", "copy-part", "parts", "A part as the beginning of another that is nearly the same: nothing in it names the old one's MPN", func(ctx context.Context, c deed.Call, in *ByKey) (wire.PartEdit, error) {
		return v.Parts.CopyOf(ctx, c, in.Key)
	})
	register(s, api, http.MethodGet, "/parts/{key}", "get-part", "parts", "A part with draft, released content and revisions", func(ctx context.Context, c deed.Call, in *ByKey) (wire.Part, error) {
		return v.Parts.Get(ctx, c, in.Key)
	})
	register(s, api, http.MethodPut, "/parts/{key}/draft", "save-draft", "parts", "Replace a part's draft", func(ctx context.Context, c deed.Call, in *partChange[wire.PartEdit]) (wire.Part, error) {
		n, err := in.version()
		if err != nil {
			return wire.Part{}, err
		}
		return v.Parts.Save(ctx, c, in.Key, n, in.Body)
	})
	register(s, api, http.MethodPost, "/parts/{key}/merge", "merge-part", "parts", "Make a part lead to another", func(ctx context.Context, c deed.Call, in *partChange[wire.Merge]) (wire.Part, error) {
		n, err := in.version()
		if err != nil {
			return wire.Part{}, err
		}
		return v.Parts.Merge(ctx, c, in.Key, n, in.Body)
	})
	register(s, api, http.MethodPost, "/parts/{key}/successor", "set-successor", "parts", "Name the part that replaces another", func(ctx context.Context, c deed.Call, in *partChange[wire.SuccessorEdit]) (wire.Part, error) {
		n, err := in.version()
		if err != nil {
			return wire.Part{}, err
		}
		return v.Parts.SetSuccessor(ctx, c, in.Key, n, in.Body)
	})
	register(s, api, http.MethodPost, "/parts/{key}/former-numbers", "add-former-number", "parts", "Let another number find a part", func(ctx context.Context, c deed.Call, in *partChange[wire.FormerNumber]) (wire.Part, error) {
		n, err := in.version()
		if err != nil {
			return wire.Part{}, err
		}
		return v.Parts.AddFormer(ctx, c, in.Key, n, in.Body)
	})
	register(s, api, http.MethodPost, "/parts/{key}/back", "go-back", "parts", "Make an earlier revision the draft again, carried over what the templates became", func(ctx context.Context, c deed.Call, in *partChange[wire.GoBack]) (wire.Part, error) {
		n, err := in.version()
		if err != nil {
			return wire.Part{}, err
		}
		return v.Reform.GoBack(ctx, c, in.Key, n, in.Body)
	})
	register(s, api, http.MethodPost, "/alike", "alike", "parts", "Parts that an edit would equal in the identifying parameters", func(ctx context.Context, c deed.Call, in *partInput) ([]string, error) {
		return v.Parts.Alike(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/parts/{key}/revisions/{number}", "get-revision", "parts", "A released revision", func(ctx context.Context, c deed.Call, in *struct {
		ByKey
		Number int `path:"number" minimum:"1"`
	}) (wire.PartContent, error) {
		return v.Parts.Revision(ctx, c, in.Key, in.Number)
	})
	register(s, api, http.MethodGet, "/parts/{key}/diff", "diff-part", "parts", "Compare two revisions; 0 stands for the draft", func(ctx context.Context, c deed.Call, in *struct {
		ByKey
		From int `query:"from" minimum:"0"`
		To   int `query:"to" minimum:"0"`
	}) (wire.Diff, error) {
		return v.Parts.Diff(ctx, c, in.Key, in.From, in.To)
	})
	register(s, api, http.MethodGet, "/parts/{key}/trail", "part-trail", "parts", "Who did what to a part, newest first", func(ctx context.Context, c deed.Call, in *struct {
		Paged
		Key string `path:"key"`
	}) (wire.TrailList, error) {
		return v.Parts.Trail(ctx, c, in.Key, in.Offset, in.Limit)
	})
}
