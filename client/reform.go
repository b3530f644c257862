package client

import (
	"context"
	"net/http"

	"jollydrawer/internal/wire"
)

// AddChoice adds a choice to a parameter of the cabinet.
func (c *Client) AddChoice(ctx context.Context, in wire.NewChoice) (wire.Cabinet, error) {
	return post[wire.Cabinet](ctx, c, "/cabinet/choices", in)
}

// PreviewChange says what a change of templates would do.
func (c *Client) PreviewChange(ctx context.Context, in wire.CabinetChange) (wire.ChangePreview, error) {
	return post[wire.ChangePreview](ctx, c, "/cabinet/preview", in)
}

// ChangeCabinet starts a change of templates that was previewed.
func (c *Client) ChangeCabinet(ctx context.Context, version int, in wire.CabinetChange) (wire.Job, error) {
	return change[wire.Job](ctx, c, http.MethodPost, "/cabinet/changes", version, in)
}

// CabinetHistory lists what was changed in the cabinet, newest first.
func (c *Client) CabinetHistory(ctx context.Context) (wire.CabinetHistory, error) {
	return get[wire.CabinetHistory](ctx, c, "/cabinet/history", nil)
}
