package client

import (
	"context"
	"net/http"

	"jollydrawer/internal/wire"
)

// Cabinet returns the cabinet in force.
func (c *Client) Cabinet(ctx context.Context) (wire.Cabinet, error) {
	return get[wire.Cabinet](ctx, c, "/cabinet", nil)
}

// ApplyCabinet applies a cabinet document.
func (c *Client) ApplyCabinet(ctx context.Context, version int, text string) (wire.Cabinet, error) {
	return change[wire.Cabinet](ctx, c, http.MethodPut, "/cabinet", version, wire.Text{Text: text})
}

// DrawerUse says how complete a drawer's parts are, and what names it.
func (c *Client) DrawerUse(ctx context.Context, key string) (wire.DrawerUse, error) {
	return get[wire.DrawerUse](ctx, c, "/drawers/"+seg(key), nil)
}

// TryPatterns shows what patterns would make of real parts of a drawer.
func (c *Client) TryPatterns(ctx context.Context, key string, in wire.PatternTry) ([]wire.PatternOf, error) {
	return post[[]wire.PatternOf](ctx, c, "/drawers/"+seg(key)+"/patterns", in)
}
