package client

import (
	"context"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"jollydrawer/internal/wire"
)

// PartQuery narrows a search for parts.
type PartQuery struct {
	Text                      string
	Filters                   []string // KEY:VALUE
	Drawers, Status, Standing []string
	Sort                      string // columns parted by commas, - before one for the largest first
	Down                      bool
	Group                     string
	Columns                   []string // that are shown
	Facets                    bool
	Pieces                    int64 // that prices are of; 0: 100
	Offset, Limit             int
}

func (p PartQuery) values() url.Values {
	q := paging(p.Offset, p.Limit)
	q.Set("q", p.Text)
	q["f"], q["drawer"], q["status"], q["standing"] = p.Filters, p.Drawers, p.Status, p.Standing
	for key, v := range map[string]string{"sort": p.Sort, "group": p.Group, "columns": strings.Join(p.Columns, ",")} {
		if v != "" {
			q.Set(key, v)
		}
	}
	for key, v := range map[string]bool{"down": p.Down, "facets": p.Facets} {
		if v {
			q.Set(key, "true")
		}
	}
	if p.Pieces > 0 {
		q.Set("pieces", strconv.FormatInt(p.Pieces, 10))
	}
	return q
}

// Parts looks parts up.
func (c *Client) Parts(ctx context.Context, p PartQuery) (wire.PartList, error) {
	return get[wire.PartList](ctx, c, "/parts", p.values())
}

// ExportParts reads what a query shows as csv, json or xlsx; the caller closes it.
func (c *Client) ExportParts(ctx context.Context, p PartQuery, format string) (io.ReadCloser, error) {
	q := p.values()
	q.Del("limit")
	q.Del("offset")
	q.Set("format", format)
	return c.stream(ctx, "/part-list", q)
}

// Compare lays two to six parts side by side.
func (c *Client) Compare(ctx context.Context, keys []string) (wire.Comparison, error) {
	return get[wire.Comparison](ctx, c, "/comparison", url.Values{"part": keys})
}

// Views lists your saved views and those that others share.
func (c *Client) Views(ctx context.Context) (wire.ViewList, error) {
	return get[wire.ViewList](ctx, c, "/views", nil)
}

// SaveView saves a view under its name.
func (c *Client) SaveView(ctx context.Context, in wire.ViewEdit) (wire.View, error) {
	return post[wire.View](ctx, c, "/views", in)
}

// DropView removes a view of yours.
func (c *Client) DropView(ctx context.Context, id string) (wire.ViewList, error) {
	return do[wire.ViewList](ctx, c, request{method: http.MethodDelete, path: "/views/" + seg(id), version: -1})
}
