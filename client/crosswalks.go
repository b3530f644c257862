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
	return c.PutCrosswalk(ctx, version, wire.CrosswalkEdit{Text: text})
}

// PutCrosswalk is ApplyCrosswalk with what becomes of settled rows.
func (c *Client) PutCrosswalk(ctx context.Context, version int, in wire.CrosswalkEdit) (wire.Crosswalk, error) {
	return change[wire.Crosswalk](ctx, c, http.MethodPut, "/crosswalks", version, in)
}

// TryCrosswalk says what a crosswalk would change in the intakes that are open.
func (c *Client) TryCrosswalk(ctx context.Context, text string) (wire.CrosswalkTried, error) {
	return post[wire.CrosswalkTried](ctx, c, "/crosswalks/try", wire.Text{Text: text})
}
