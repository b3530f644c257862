package client

import (
	"context"
	"net/http"

	"jollydrawer/internal/wire"
)

// SeriesList lists the series by manufacturer and name.
func (c *Client) SeriesList(ctx context.Context, offset, limit int) (wire.SeriesList, error) {
	return get[wire.SeriesList](ctx, c, "/series", paging(offset, limit))
}

// Series returns a series by identifier or number.
func (c *Client) Series(ctx context.Context, key string) (wire.Series, error) {
	return get[wire.Series](ctx, c, "/series/"+seg(key), nil)
}

// SeriesProposals lists the series that parts look as though they were of.
func (c *Client) SeriesProposals(ctx context.Context, manufacturer string, offset, limit int) (wire.SeriesProposals, error) {
	q := paging(offset, limit)
	if manufacturer != "" {
		q.Set("manufacturer", manufacturer)
	}
	return get[wire.SeriesProposals](ctx, c, "/series/proposals", q)
}

// MakeSeries makes a series.
func (c *Client) MakeSeries(ctx context.Context, in wire.SeriesEdit) (wire.Series, error) {
	return post[wire.Series](ctx, c, "/series", in)
}

// ChangeSeries changes a series.
func (c *Client) ChangeSeries(ctx context.Context, id string, version int, in wire.SeriesEdit) (wire.Series, error) {
	return change[wire.Series](ctx, c, http.MethodPut, "/series/"+seg(id), version, in)
}
