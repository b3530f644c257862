package client

import (
	"context"
	"io"

	"jollydrawer/internal/wire"
)

// ReadoutFolder reads the models of all released parts, or of one part, as a ZIP archive; the caller closes it.
func (c *Client) ReadoutFolder(ctx context.Context, part string) (io.ReadCloser, error) {
	if part != "" {
		return c.stream(ctx, "/parts/"+seg(part)+"/models", nil)
	}
	return c.stream(ctx, "/readout-folder", nil)
}

// Readout says which tables design tools find.
func (c *Client) Readout(ctx context.Context) (wire.Readout, error) {
	return get[wire.Readout](ctx, c, "/readout", nil)
}
