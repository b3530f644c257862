package client

import (
	"context"
	"net/http"

	"jollydrawer/internal/wire"
)

// Crosswalks lists crosswalks.
func (c *Client) Crosswalks(ctx context.Context, offset, limit int) (wire.CrosswalkList, error) {
	return get[wire.CrosswalkList](ctx, c, "/crosswalks", paging(offset, limit))
}

// Crosswalk returns a supplier's crosswalk.
func (c *Client) Crosswalk(ctx context.Context, supplier string) (wire.Crosswalk, error) {
	return get[wire.Crosswalk](ctx, c, "/crosswalks/"+seg(supplier), nil)
}

// ApplyCrosswalk applies a crosswalk document.
func (c *Client) ApplyCrosswalk(ctx context.Context, version int, text string) (wire.Crosswalk, error) {
	return change[wire.Crosswalk](ctx, c, http.MethodPut, "/crosswalks", version, wire.Text{Text: text})
}
