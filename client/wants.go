package client

import (
	"context"
	"net/http"
	"strconv"

	"jollydrawer/internal/wire"
)

// Wants lists what people want; state may be waiting, or one of the states.
func (c *Client) Wants(ctx context.Context, state string, mine bool, offset, limit int) (wire.WantList, error) {
	q := paging(offset, limit)
	if state != "" {
		q.Set("state", state)
	}
	if mine {
		q.Set("mine", "true")
	}
	return get[wire.WantList](ctx, c, "/wants", q)
}

// Want returns a want by number.
func (c *Client) Want(ctx context.Context, key string) (wire.Want, error) {
	return get[wire.Want](ctx, c, "/wants/"+seg(key), nil)
}

// LookWant says what would do.
func (c *Client) LookWant(ctx context.Context, in wire.WantEdit) (wire.WantLook, error) {
	return post[wire.WantLook](ctx, c, "/wants/look", in)
}

// MakeWants keeps what is wanted.
func (c *Client) MakeWants(ctx context.Context, all []wire.WantEdit) (wire.WantsMade, error) {
	return post[wire.WantsMade](ctx, c, "/wants", wire.WantsEdit{Wants: all})
}

// SettleWant takes a want on, answers it, declines it, or opens it again.
func (c *Client) SettleWant(ctx context.Context, id string, version int, in wire.SettleWant) (wire.Want, error) {
	return change[wire.Want](ctx, c, http.MethodPost, "/wants/"+seg(id)+"/state", version, in)
}

// WantMissing makes wants of the lines of a BOM that the library lacks, or of the open line in a row alone where that is above 0.
func (c *Client) WantMissing(ctx context.Context, bom string, row int) (wire.WantsMade, error) {
	return post[wire.WantsMade](ctx, c, "/boms/"+seg(bom)+"/wants?row="+strconv.Itoa(row), struct{}{})
}
