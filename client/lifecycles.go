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
