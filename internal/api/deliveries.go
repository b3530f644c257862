package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// deliveries adds the routes of deliveries.
func (s *Server) deliveries(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/deliveries", "list-deliveries", "deliveries", "What was handed over, newest first", func(ctx context.Context, c deed.Call, in *Paged) (wire.DeliveryList, error) {
		return v.Deliveries.List(ctx, c, in.Offset, in.Limit)
	})
	register(s, api, http.MethodPost, "/deliveries", "deliver", "deliveries", "Bring in uploaded model files, for a part or without one", func(ctx context.Context, c deed.Call, in *body[wire.NewDelivery]) (wire.Delivery, error) {
		return v.Deliveries.Bring(ctx, c, in.Body)
	})
	register(s, api, http.MethodGet, "/deliveries/{key}", "get-delivery", "deliveries", "A delivery beside what the library has", func(ctx context.Context, c deed.Call, in *byKey) (wire.Delivery, error) {
		return v.Deliveries.Get(ctx, c, in.Key)
	})
	register(s, api, http.MethodPost, "/deliveries/{key}/use", "use-delivery", "deliveries", "Take models out of a delivery, and link them to a part", func(ctx context.Context, c deed.Call, in *partChange[wire.UseDelivery]) (wire.Delivery, error) {
		return change(in, func(key string, n int, b wire.UseDelivery) (wire.Delivery, error) {
			return v.Deliveries.Use(ctx, c, key, n, b)
		})
	})
	register(s, api, http.MethodPost, "/deliveries/{key}/intake", "library-intake", "deliveries", "Make an intake of a library of many", func(ctx context.Context, c deed.Call, in *partChange[wire.LibraryIntake]) (wire.Intake, error) {
		return change(in, func(key string, n int, b wire.LibraryIntake) (wire.Intake, error) {
			return v.Deliveries.Intake(ctx, c, key, n, b)
		})
	})
}
