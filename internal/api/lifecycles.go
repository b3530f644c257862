package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/lifecycles"
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
	s.lifecycleDocuments(api)
	s.moves(api)
	s.reviews(api)
}

// lifecycleDocuments adds the routes of the lifecycles themselves.
func (s *Server) lifecycleDocuments(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/lifecycles", "list-lifecycles", "lifecycles", "The lifecycles in force", func(ctx context.Context, c deed.Call, _ *none) (wire.LifecycleList, error) {
		return v.Lifecycles.Documents(ctx, c)
	})
	register(s, api, http.MethodGet, "/lifecycles/{key}", "get-lifecycle", "lifecycles", "A lifecycle by name", func(ctx context.Context, c deed.Call, in *ByKey) (wire.Lifecycle, error) {
		return v.Lifecycles.Document(ctx, c, in.Key)
	})
	register(s, api, http.MethodPost, "/lifecycles", "apply-lifecycle", "lifecycles", "Put a lifecycle document in force", func(ctx context.Context, c deed.Call, in *struct {
		BasedOn
		Body wire.LifecycleText
	}) (wire.Lifecycle, error) {
		n, err := in.version()
		if err != nil {
			return wire.Lifecycle{}, err
		}
		return v.Lifecycles.ApplyDocument(ctx, c, n, in.Body.Text)
	})
	register(s, api, http.MethodPost, "/lifecycles/preview", "preview-lifecycle", "lifecycles", "What a lifecycle document would change; nothing is written", func(ctx context.Context, c deed.Call, in *asked[wire.LifecycleText]) (wire.LifecyclePreview, error) {
		return v.Lifecycles.PreviewDocument(ctx, c, in.Body.Text)
	})
	register(s, api, http.MethodGet, "/waivers", "list-waivers", "lifecycles", "Waivers of gates, newest first, with those that count for nothing any more", func(ctx context.Context, c deed.Call, in *Paged) (wire.WaiverList, error) {
		return v.Lifecycles.Waivers(ctx, c, in.Offset, in.Limit)
	})
}

// moves adds the routes that move things.
func (s *Server) moves(api huma.API) {
	v := s.Service
	register(s, api, http.MethodPost, "/moves", "move-things", "lifecycles", "Move parts, models and BOMs in one deed: all, or those that can be", func(ctx context.Context, c deed.Call, in *body[wire.MoveThings]) (wire.Moved, error) {
		return v.Lifecycles.Move(ctx, c, in.Body)
	})
	register(s, api, http.MethodPost, "/moves/preview", "preview-moves", "lifecycles", "What a move would do, and what keeps things from it, by cause; nothing is written", func(ctx context.Context, c deed.Call, in *asked[wire.MoveThings]) (wire.MovePreview, error) {
		return v.Lifecycles.Preview(ctx, c, in.Body)
	})
	register(s, api, http.MethodPost, "/parts/{key}/moves", "move-part", "lifecycles", "Move a part", func(ctx context.Context, c deed.Call, in *partChange[wire.MoveThing]) (wire.Part, error) {
		return change(in, func(key string, version int, b wire.MoveThing) (wire.Part, error) {
			return v.Lifecycles.MovePart(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodPost, "/models/{id}/moves", "move-model", "lifecycles", "Move a model", func(ctx context.Context, c deed.Call, in *modelChange[wire.MoveThing]) (wire.Model, error) {
		return with(in.ID, in.BasedOn, func(i deed.ID, n int) (wire.Model, error) { return v.Lifecycles.MoveModel(ctx, c, i, n, in.Body) })
	})
	register(s, api, http.MethodGet, "/things/{key}/life", "get-life", "lifecycles", "Where a part, model or BOM is, and what leads away from there", func(ctx context.Context, c deed.Call, in *struct {
		ByKey
		Trail int `query:"trail" minimum:"0" maximum:"1000" doc:"So many of the newest entries of its trail are added"`
	}) (wire.Life, error) {
		return v.Lifecycles.Life(ctx, c, in.Key, in.Trail)
	})
	register(s, api, http.MethodPost, "/things/{key}/waiver", "waive-gate", "lifecycles", "Let a thing pass a gate, with a reason, or take that back", func(ctx context.Context, c deed.Call, in *partChange[wire.WaiveGate]) (wire.Life, error) {
		return change(in, func(key string, version int, b wire.WaiveGate) (wire.Life, error) {
			return v.Lifecycles.Waive(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodPost, "/things/{key}/proof", "prove-thing", "lifecycles", "Note the built boards on which the newest revision worked", func(ctx context.Context, c deed.Call, in *partChange[wire.Prove]) (wire.Life, error) {
		return change(in, func(key string, version int, b wire.Prove) (wire.Life, error) {
			return v.Lifecycles.Prove(ctx, c, key, version, b)
		})
	})
}

// reviews adds the routes of the queue and of review lists.
func (s *Server) reviews(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/queue", "get-queue", "reviews", "What waits for a review, what waits longest first", func(ctx context.Context, c deed.Call, in *struct {
		Paged
		Mine bool   `query:"mine" doc:"Only what the caller may review"`
		Kind string `query:"kind" enum:"part,model,bom"`
	}) (wire.Queue, error) {
		return v.Lifecycles.Queue(ctx, c, lifecycles.QueueQuery{Mine: in.Mine, Kind: in.Kind, Offset: in.Offset, Limit: in.Limit})
	})
	register(s, api, http.MethodGet, "/things/{key}/review", "get-review", "reviews", "The review list of a part, model or BOM", func(ctx context.Context, c deed.Call, in *ByKey) (wire.Review, error) {
		return v.Lifecycles.Review(ctx, c, in.Key)
	})
	register(s, api, http.MethodPost, "/things/{key}/review/ticks", "tick-items", "reviews", "Tick items of a review list, or take that back", func(ctx context.Context, c deed.Call, in *partChange[wire.TickItems]) (wire.Review, error) {
		return change(in, func(key string, version int, b wire.TickItems) (wire.Review, error) {
			return v.Lifecycles.Tick(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodPost, "/things/{key}/review/signature", "sign-review", "reviews", "Sign a review list", func(ctx context.Context, c deed.Call, in *partChange[wire.SignReview]) (wire.Review, error) {
		return change(in, func(key string, version int, b wire.SignReview) (wire.Review, error) {
			return v.Lifecycles.Sign(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodGet, "/things/{key}/review/together", "get-review-together", "reviews", "The review lists of all that waits for the caller and shares a datasheet with a part", func(ctx context.Context, c deed.Call, in *struct {
		ByKey
		Sheet string `query:"sheet" maxLength:"64" doc:"Hash of the datasheet; the part's first where blank"`
	}) (wire.TogetherReview, error) {
		return v.Lifecycles.Together(ctx, c, in.Key, in.Sheet)
	})
	register(s, api, http.MethodPost, "/reviews/ticks", "tick-many", "reviews", "Tick items of several review lists in one deed, or take that back", func(ctx context.Context, c deed.Call, in *body[wire.TickMany]) (wire.Reviewed, error) {
		return v.Lifecycles.TickMany(ctx, c, in.Body)
	})
	register(s, api, http.MethodPost, "/reviews/signatures", "sign-many", "reviews", "Sign several review lists in one deed", func(ctx context.Context, c deed.Call, in *body[wire.SignMany]) (wire.Reviewed, error) {
		return v.Lifecycles.SignMany(ctx, c, in.Body)
	})
	register(s, api, http.MethodPost, "/things/{key}/review/turn", "take-turn", "reviews", "Take a thing from the queue, or let go of it", func(ctx context.Context, c deed.Call, in *partChange[wire.TakeTurn]) (wire.Review, error) {
		return change(in, func(key string, version int, b wire.TakeTurn) (wire.Review, error) {
			return v.Lifecycles.Take(ctx, c, key, version, b)
		})
	})
}
