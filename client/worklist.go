package client

import (
	"context"

	"jollydrawer/internal/wire"
)

// Worklist says what waits for you.
func (c *Client) Worklist(ctx context.Context) (wire.Worklist, error) {
	return get[wire.Worklist](ctx, c, "/worklist", nil)
}
