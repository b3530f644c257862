package client

import (
	"context"
	"net/http"
	"net/url"
	"strconv"

	"jollydrawer/internal/wire"
)

// Merge makes a part lead to another; the answer is the survivor.
func (c *Client) Merge(ctx context.Context, key string, version int, in wire.Merge) (wire.Part, error) {
	return change[wire.Part](ctx, c, http.MethodPost, "/parts/"+seg(key)+"/merge", version, in)
}

// SetSuccessor names the part that replaces another.
func (c *Client) SetSuccessor(ctx context.Context, key string, version int, in wire.SuccessorEdit) (wire.Part, error) {
	return change[wire.Part](ctx, c, http.MethodPost, "/parts/"+seg(key)+"/successor", version, in)
}

// AddFormer lets another number find a part.
func (c *Client) AddFormer(ctx context.Context, key string, version int, number string) (wire.Part, error) {
	return change[wire.Part](ctx, c, http.MethodPost, "/parts/"+seg(key)+"/former-numbers", version, wire.FormerNumber{Number: number})
}

// Part returns a part by number or ID.
func (c *Client) Part(ctx context.Context, key string) (wire.Part, error) {
	return get[wire.Part](ctx, c, "/parts/"+seg(key), nil)
}

// MakePart makes a part.
func (c *Client) MakePart(ctx context.Context, in wire.PartEdit) (wire.Part, error) {
	return post[wire.Part](ctx, c, "/parts", in)
}

// SaveDraft replaces a part's draft.
func (c *Client) SaveDraft(ctx context.Context, key string, version int, in wire.PartEdit) (wire.Part, error) {
	return change[wire.Part](ctx, c, http.MethodPut, "/parts/"+seg(key)+"/draft", version, in)
}

// Revision returns a released revision.
func (c *Client) Revision(ctx context.Context, key string, number int) (wire.PartContent, error) {
	return get[wire.PartContent](ctx, c, "/parts/"+seg(key)+"/revisions/"+strconv.Itoa(number), nil)
}

// GoBack makes an earlier revision of a part its draft again.
func (c *Client) GoBack(ctx context.Context, key string, version int, in wire.GoBack) (wire.Part, error) {
	return change[wire.Part](ctx, c, http.MethodPost, "/parts/"+seg(key)+"/back", version, in)
}

// Diff compares two revisions; 0 stands for the draft.
func (c *Client) Diff(ctx context.Context, key string, from, to int) (wire.Diff, error) {
	return get[wire.Diff](ctx, c, "/parts/"+seg(key)+"/diff", url.Values{"from": {strconv.Itoa(from)}, "to": {strconv.Itoa(to)}})
}

// Trail returns a part's trail, newest first.
func (c *Client) Trail(ctx context.Context, key string, offset, limit int) (wire.TrailList, error) {
	return get[wire.TrailList](ctx, c, "/parts/"+seg(key)+"/trail", paging(offset, limit))
}

// CopyOf returns a part as the beginning of another that is nearly the same.
func (c *Client) CopyOf(ctx context.Context, key string) (wire.PartEdit, error) {
	return get[wire.PartEdit](ctx, c, "/parts/"+seg(key)+"/copy", nil)
}
