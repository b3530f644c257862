package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// fitting adds the routes of what lies between a part, its symbol, its land pattern and its body.
func (s *Server) fitting(api huma.API) {
	v := s.Service
	register(s, api, http.MethodPost, "/models/{id}/take-newer", "take-newer", "models", "Move parts to the newest revision, as new drafts", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		ID   string `path:"id" format:"uuid"`
		Body wire.TakeNewer
	}) (wire.Mended, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.Mended{}, err
		}
		return v.Fitting.TakeNewer(ctx, c, i, in.Body)
	})
	register(s, api, http.MethodPost, "/model-merges/taken-back", "take-merging-back", "models", "Make a model that was merged away one of its own again, with the parts that took the survivor", func(ctx context.Context, c deed.Call, in *body[wire.TakeMergingBack]) (wire.Mended, error) {
		return v.Fitting.TakeMergingBack(ctx, c, in.Body)
	})
	register(s, api, http.MethodPost, "/model-merges", "merge-models", "models", "Make models lead to one of them", func(ctx context.Context, c deed.Call, in *body[wire.MergeModels]) (wire.Mended, error) {
		return v.Fitting.Merge(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/parts/{key}/pins", "pins-on-pads", "parts", "What lies between a part's symbol, land pattern and body", func(ctx context.Context, c deed.Call, in *byKey) (wire.PinsOnPads, error) {
		return v.Fitting.PinsOnPads(ctx, c, in.Key)
	})
	register(s, api, http.MethodPost, "/parts/{key}/pins", "map-pins", "parts", "Give a part a pin map", func(ctx context.Context, c deed.Call, in *partChange[wire.MapPins]) (wire.PinsOnPads, error) {
		return change(in, func(key string, n int, b wire.MapPins) (wire.PinsOnPads, error) {
			return v.Fitting.MapPins(ctx, c, key, n, b)
		})
	})
	register(s, api, http.MethodPost, "/parts/{key}/land-patterns", "choose-land-pattern", "parts", "Add a land pattern for another assembly or density, make one the default, or remove one", func(ctx context.Context, c deed.Call, in *partChange[wire.ChooseLand]) (wire.Part, error) {
		return change(in, func(key string, n int, b wire.ChooseLand) (wire.Part, error) {
			return v.Fitting.ChooseLand(ctx, c, key, n, b)
		})
	})
	register(s, api, http.MethodPost, "/parts/{key}/body", "place-body", "parts", "Correct how a part's body sits on its pads", func(ctx context.Context, c deed.Call, in *partChange[wire.PlaceBody]) (wire.PinsOnPads, error) {
		return change(in, func(key string, n int, b wire.PlaceBody) (wire.PinsOnPads, error) {
			return v.Fitting.PlaceBody(ctx, c, key, n, b)
		})
	})
}
