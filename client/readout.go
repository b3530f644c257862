package client

import (
	"context"
	"io"
)

// ReadoutFolder reads the models of all released parts, or of one part, as a ZIP archive; the caller closes it.
func (c *Client) ReadoutFolder(ctx context.Context, part string) (io.ReadCloser, error) {
	if part != "" {
		return c.stream(ctx, "/parts/"+seg(part)+"/models", nil)
	}
	return c.stream(ctx, "/readout-folder", nil)
}
