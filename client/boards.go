package client

import (
	"context"

	"jollydrawer/internal/wire"
)

// WhereUsed says on which boards the parts are that a question names, and what could stand in for them.
func (c *Client) WhereUsed(ctx context.Context, in wire.UsedAsked) (wire.WhereUsed, error) {
	q := paging(in.Offset, in.Limit)
	for key, v := range map[string]string{"part": in.Part, "maker": in.Maker, "mpn": in.MPN, "supplier": in.Supplier, "model": in.Model, "datasheet": in.Datasheet, "board": in.Board} {
		if v != "" {
			q.Set(key, v)
		}
	}
	if in.Instead {
		q.Set("instead", "true")
	}
	return get[wire.WhereUsed](ctx, c, "/where-used", q)
}

// ReplacePart says what putting a part in another's place on boards would do, or does it.
func (c *Client) ReplacePart(ctx context.Context, in wire.Replacement) (wire.Replaced, error) {
	return post[wire.Replaced](ctx, c, "/replacements", in)
}
