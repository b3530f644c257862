package client

import (
	"context"
	"io"
	"net/url"
	"strconv"

	"jollydrawer/internal/wire"
)

// TrailQuery says which entries of all trails are asked for; what is blank narrows nothing.
type TrailQuery struct {
	By, Kind, Drawer, File, From, To string
	After                            string // place where the page begins
	Limit                            int
}

func (q TrailQuery) values() url.Values {
	out := url.Values{}
	for name, v := range map[string]string{"by": q.By, "kind": q.Kind, "drawer": q.Drawer, "file": q.File, "from": q.From, "to": q.To, "after": q.After} {
		if v != "" {
			out.Set(name, v)
		}
	}
	return out
}

// TrailAcross lists entries of all trails, newest first.
func (c *Client) TrailAcross(ctx context.Context, q TrailQuery) (wire.TrailAcross, error) {
	v := q.values()
	v.Set("limit", strconv.Itoa(q.Limit))
	return get[wire.TrailAcross](ctx, c, "/trail", v)
}

// ExportTrail reads entries of all trails as csv or jsonl; the caller closes it.
func (c *Client) ExportTrail(ctx context.Context, q TrailQuery, format string) (io.ReadCloser, error) {
	v := q.values()
	v.Set("format", format)
	return c.stream(ctx, "/trail-list", v)
}
