package client

import (
	"context"
	"io"
	"net/http"
	"net/url"

	"jollydrawer/internal/wire"
)

// Upload keeps a file.
func (c *Client) Upload(ctx context.Context, name string, r io.Reader) (wire.File, error) {
	return do[wire.File](ctx, c, request{method: http.MethodPost, path: "/files", query: url.Values{"name": {name}}, raw: r, version: -1})
}

// Download reads a stored file; the caller closes it.
func (c *Client) Download(ctx context.Context, hash string) (io.ReadCloser, error) {
	return c.stream(ctx, "/files/"+seg(hash), nil)
}

func (c *Client) stream(ctx context.Context, path string, q url.Values) (io.ReadCloser, error) {
	res, err := c.send(ctx, request{method: http.MethodGet, path: path, query: q, version: -1})
	if err != nil {
		return nil, err
	}
	return res.Body, nil
}
