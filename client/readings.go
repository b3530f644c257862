package client

import (
	"context"
	"net/http"

	"jollydrawer/internal/wire"
)

// BOMOrigin says who or what a BOM's files come from.
func (c *Client) BOMOrigin(ctx context.Context, key string, version int, in wire.BOMOrigin) (wire.BOM, error) {
	return change[wire.BOM](ctx, c, http.MethodPost, "/boms/"+seg(key)+"/origin", version, in)
}

// Readings lists what people taught that lines of BOMs stand for.
func (c *Client) Readings(ctx context.Context, in wire.ReadingsAsked) (wire.Readings, error) {
	q := paging(in.Offset, in.Limit)
	if in.BOM != "" {
		q.Set("bom", in.BOM)
	}
	return get[wire.Readings](ctx, c, "/bom-readings", q)
}

// WithdrawReading takes a reading back.
func (c *Client) WithdrawReading(ctx context.Context, in wire.WithdrawReading) (wire.Readings, error) {
	return post[wire.Readings](ctx, c, "/bom-readings/withdraw", in)
}
