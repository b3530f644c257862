package client

import (
	"context"
	"net/http"

	"jollydrawer/internal/wire"
)

// Deliver brings in uploaded model files.
func (c *Client) Deliver(ctx context.Context, in wire.NewDelivery) (wire.Delivery, error) {
	return post[wire.Delivery](ctx, c, "/deliveries", in)
}

// Deliveries lists deliveries.
func (c *Client) Deliveries(ctx context.Context, offset, limit int) (wire.DeliveryList, error) {
	return get[wire.DeliveryList](ctx, c, "/deliveries", paging(offset, limit))
}

// Delivery returns a delivery by ID or number.
func (c *Client) Delivery(ctx context.Context, key string) (wire.Delivery, error) {
	return get[wire.Delivery](ctx, c, "/deliveries/"+seg(key), nil)
}

// UseDelivery takes models out of a delivery.
func (c *Client) UseDelivery(ctx context.Context, key string, version int, in wire.UseDelivery) (wire.Delivery, error) {
	return change[wire.Delivery](ctx, c, http.MethodPost, "/deliveries/"+seg(key)+"/use", version, in)
}

// LibraryIntake makes an intake of a library of many.
func (c *Client) LibraryIntake(ctx context.Context, key string, version int, in wire.LibraryIntake) (wire.Intake, error) {
	return change[wire.Intake](ctx, c, http.MethodPost, "/deliveries/"+seg(key)+"/intake", version, in)
}
