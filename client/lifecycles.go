package client

import (
	"context"
	"net/http"

	"jollydrawer/internal/wire"
)

// Release releases a part's draft.
func (c *Client) Release(ctx context.Context, key string, version int, note string) (wire.Part, error) {
	return change[wire.Part](ctx, c, http.MethodPost, "/parts/"+seg(key)+"/release", version, wire.Release{Note: note})
}

// ReleaseMany releases several drafts in one deed.
func (c *Client) ReleaseMany(ctx context.Context, in wire.BulkRelease) (wire.Released, error) {
	return post[wire.Released](ctx, c, "/releases", in)
}

// SetStanding says how a part may be used.
func (c *Client) SetStanding(ctx context.Context, key string, version int, in wire.Standing) (wire.Part, error) {
	return change[wire.Part](ctx, c, http.MethodPost, "/parts/"+seg(key)+"/standing", version, in)
}

// Lifecycles lists the lifecycles in force.
func (c *Client) Lifecycles(ctx context.Context) (wire.LifecycleList, error) {
	return get[wire.LifecycleList](ctx, c, "/lifecycles", nil)
}

// Lifecycle returns a lifecycle by name.
func (c *Client) Lifecycle(ctx context.Context, name string) (wire.Lifecycle, error) {
	return get[wire.Lifecycle](ctx, c, "/lifecycles/"+seg(name), nil)
}

// PreviewLifecycle says what a document would change.
func (c *Client) PreviewLifecycle(ctx context.Context, text string) (wire.LifecyclePreview, error) {
	return post[wire.LifecyclePreview](ctx, c, "/lifecycles/preview", wire.LifecycleText{Text: text})
}

// ApplyLifecycle puts a document in force.
func (c *Client) ApplyLifecycle(ctx context.Context, version int, text string) (wire.Lifecycle, error) {
	return change[wire.Lifecycle](ctx, c, http.MethodPost, "/lifecycles", version, wire.LifecycleText{Text: text})
}

// Move moves things in one deed.
func (c *Client) Move(ctx context.Context, in wire.MoveThings) (wire.Moved, error) {
	return post[wire.Moved](ctx, c, "/moves", in)
}

// PreviewMove says what a move would do.
func (c *Client) PreviewMove(ctx context.Context, in wire.MoveThings) (wire.MovePreview, error) {
	return post[wire.MovePreview](ctx, c, "/moves/preview", in)
}

// Life says where a thing is: a part by number, or anything by ID.
func (c *Client) Life(ctx context.Context, key string) (wire.Life, error) {
	return get[wire.Life](ctx, c, "/things/"+seg(key)+"/life", nil)
}

// Waive lets a thing pass a gate; a blank reason takes that back.
func (c *Client) Waive(ctx context.Context, id string, version int, gate, why string) (wire.Life, error) {
	return change[wire.Life](ctx, c, http.MethodPost, "/things/"+seg(id)+"/waiver", version, wire.WaiveGate{Gate: gate, Why: why})
}

// Prove notes built boards on which a thing's newest revision worked.
func (c *Client) Prove(ctx context.Context, id string, version int, in wire.Prove) (wire.Life, error) {
	return change[wire.Life](ctx, c, http.MethodPost, "/things/"+seg(id)+"/proof", version, in)
}

// Waivers lists the waivers of gates.
func (c *Client) Waivers(ctx context.Context, offset, limit int) (wire.WaiverList, error) {
	return get[wire.WaiverList](ctx, c, "/waivers", paging(offset, limit))
}

// Queue lists what waits for a review; mine only what the caller may review.
func (c *Client) Queue(ctx context.Context, mine bool, offset, limit int) (wire.Queue, error) {
	q := paging(offset, limit)
	if mine {
		q.Set("mine", "true")
	}
	return get[wire.Queue](ctx, c, "/queue", q)
}

// Review returns the review list of a thing.
func (c *Client) Review(ctx context.Context, key string) (wire.Review, error) {
	return get[wire.Review](ctx, c, "/things/"+seg(key)+"/review", nil)
}

// Tick ticks items of a review list.
func (c *Client) Tick(ctx context.Context, id string, version int, in wire.TickItems) (wire.Review, error) {
	return change[wire.Review](ctx, c, http.MethodPost, "/things/"+seg(id)+"/review/ticks", version, in)
}

// SignReview signs a review list.
func (c *Client) SignReview(ctx context.Context, id string, version int, in wire.SignReview) (wire.Review, error) {
	return change[wire.Review](ctx, c, http.MethodPost, "/things/"+seg(id)+"/review/signature", version, in)
}

// ReviewTogether lays the lists of all that waits for the caller beside each other that shares a datasheet with a part.
func (c *Client) ReviewTogether(ctx context.Context, key string) (wire.TogetherReview, error) {
	return get[wire.TogetherReview](ctx, c, "/things/"+seg(key)+"/review/together", nil)
}

// TickMany ticks items of several review lists.
func (c *Client) TickMany(ctx context.Context, in wire.TickMany) (wire.Reviewed, error) {
	return post[wire.Reviewed](ctx, c, "/reviews/ticks", in)
}

// SignMany signs several review lists.
func (c *Client) SignMany(ctx context.Context, in wire.SignMany) (wire.Reviewed, error) {
	return post[wire.Reviewed](ctx, c, "/reviews/signatures", in)
}

// TakeTurn takes a thing from the queue, or lets go of it.
func (c *Client) TakeTurn(ctx context.Context, id string, version int, letGo bool) (wire.Review, error) {
	return change[wire.Review](ctx, c, http.MethodPost, "/things/"+seg(id)+"/review/turn", version, wire.TakeTurn{LetGo: letGo})
}
