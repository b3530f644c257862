package client

import (
	"context"

	"jollydrawer/internal/wire"
)

// Comments lists what was said about a thing, by its identifier or a part's number.
func (c *Client) Comments(ctx context.Context, key string, offset, limit int) (wire.CommentList, error) {
	return get[wire.CommentList](ctx, c, "/things/"+seg(key)+"/comments", paging(offset, limit))
}

// Say says something about a thing.
func (c *Client) Say(ctx context.Context, key string, in wire.NewComment) (wire.CommentList, error) {
	return post[wire.CommentList](ctx, c, "/things/"+seg(key)+"/comments", in)
}

// SettleComment settles a comment, or opens it again.
func (c *Client) SettleComment(ctx context.Context, id string, settled bool) (wire.CommentList, error) {
	return post[wire.CommentList](ctx, c, "/comments/"+seg(id)+"/settled", wire.SettleComment{Settled: settled})
}

// Hold holds a part or model.
func (c *Client) Hold(ctx context.Context, key string, in wire.TakeHold) (wire.Life, error) {
	return post[wire.Life](ctx, c, "/things/"+seg(key)+"/hold", in)
}

// LetGo ends that.
func (c *Client) LetGo(ctx context.Context, key string) (wire.Life, error) {
	return post[wire.Life](ctx, c, "/things/"+seg(key)+"/hold/end", struct{}{})
}
