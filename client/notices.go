package client

import (
	"context"
	"net/http"
	"net/url"

	"jollydrawer/internal/wire"
)

// Notices lists what you were told, newest first.
func (c *Client) Notices(ctx context.Context, unread bool, offset, limit int) (wire.NoticeList, error) {
	q := paging(offset, limit)
	if unread {
		q.Set("unread", "true")
	}
	return get[wire.NoticeList](ctx, c, "/notices", q)
}

// SeeNotices notes that you have seen notices, and says how many are left.
func (c *Client) SeeNotices(ctx context.Context, in wire.SeeNotices) (wire.Unread, error) {
	return post[wire.Unread](ctx, c, "/notices/seen", in)
}

// Watches lists what you watch.
func (c *Client) Watches(ctx context.Context) (wire.WatchList, error) {
	return get[wire.WatchList](ctx, c, "/watches", nil)
}

// Watch lets you hear of something.
func (c *Client) Watch(ctx context.Context, of, about string) (wire.WatchList, error) {
	return post[wire.WatchList](ctx, c, "/watches", wire.WatchEdit{Of: of, About: about})
}

// Unwatch ends that.
func (c *Client) Unwatch(ctx context.Context, of, about string) (wire.WatchList, error) {
	return post[wire.WatchList](ctx, c, "/watches/end", wire.WatchEdit{Of: of, About: about})
}

// Told says how you are told beside the console.
func (c *Client) Told(ctx context.Context) (wire.Told, error) {
	return get[wire.Told](ctx, c, "/told", nil)
}

// SetTold changes how you are told.
func (c *Client) SetTold(ctx context.Context, version int, in wire.ToldEdit) (wire.Told, error) {
	return change[wire.Told](ctx, c, http.MethodPut, "/told", version, in)
}

// Sendings lists mails and calls of hooks that wait or were set aside.
func (c *Client) Sendings(ctx context.Context, all bool) (wire.SendingList, error) {
	q := url.Values{}
	if all {
		q.Set("all", "true")
	}
	return get[wire.SendingList](ctx, c, "/sendings", q)
}

// SendAgain tries anew what was set aside.
func (c *Client) SendAgain(ctx context.Context, id string) (wire.SendingList, error) {
	return post[wire.SendingList](ctx, c, "/sendings/"+seg(id)+"/again", struct{}{})
}
