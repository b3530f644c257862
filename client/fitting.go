package client

import (
	"context"
	"net/http"

	"jollydrawer/internal/wire"
)

// PinsOnPads shows what lies between a part's symbol, land pattern and body.
func (c *Client) PinsOnPads(ctx context.Context, part string) (wire.PinsOnPads, error) {
	return get[wire.PinsOnPads](ctx, c, "/parts/"+seg(part)+"/pins", nil)
}

// MapPins gives a part a pin map.
func (c *Client) MapPins(ctx context.Context, part string, version int, in wire.MapPins) (wire.PinsOnPads, error) {
	return change[wire.PinsOnPads](ctx, c, http.MethodPost, "/parts/"+seg(part)+"/pins", version, in)
}

// ChooseLand adds a land pattern to a part, makes one its default, or removes one.
func (c *Client) ChooseLand(ctx context.Context, part string, version int, in wire.ChooseLand) (wire.Part, error) {
	return change[wire.Part](ctx, c, http.MethodPost, "/parts/"+seg(part)+"/land-patterns", version, in)
}

// PlaceBody corrects how a part's body sits.
func (c *Client) PlaceBody(ctx context.Context, part string, version int, in wire.PlaceBody) (wire.PinsOnPads, error) {
	return change[wire.PinsOnPads](ctx, c, http.MethodPost, "/parts/"+seg(part)+"/body", version, in)
}
