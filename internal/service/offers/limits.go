package offers

import (
	"context"
	"slices"
	"strings"

	"jollydrawer/core/answers"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Limits are the caller's usual limits of a question: those that were said last of the kind that it is about, of a drawer that it lies in, or of any.
func (s *Offers) Limits(ctx context.Context, c deed.Call, text string) (wire.SupplierLimits, error) {
	out := wire.SupplierLimits{Pieces: 1}
	if err := deed.Allow(c, deed.OpAsk); err != nil {
		return out, err
	}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return out, err
	}
	within := []string{""}
	if out.Drawer = answers.Kind(cab, lookup.Tell(cab, text)); out.Drawer != "" {
		t, _ := cab.Template(out.Drawer)
		out.Label = t.Label
		within = append(within, t.Path...)
		if !slices.Contains(within, out.Drawer) {
			within = append(within, out.Drawer)
		}
		slices.Reverse(within) // the narrowest first
	}
	l, ok, err := s.Store.Read(ctx).AskLimitsOf(c.Actor.ID, within)
	if err != nil || !ok {
		return out, err
	}
	out.Kept, out.Pieces, out.Stock, out.InProduction, out.Packing = true, l.Pieces, l.Stock, l.InProduction, l.Packing
	return out, nil
}

// KeepLimits keeps the limits of a question for the caller's others about the same kind.
func (s *Offers) KeepLimits(ctx context.Context, c deed.Call, in wire.SupplierLimitsEdit) (wire.SupplierLimits, error) {
	if err := deed.Allow(c, deed.OpAsk); err != nil {
		return wire.SupplierLimits{}, err
	}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return wire.SupplierLimits{}, err
	}
	l := store.AskLimits{Account: c.Actor.ID, Drawer: answers.Kind(cab, lookup.Tell(cab, in.Text)), Pieces: in.Pieces, Stock: in.Stock, InProduction: in.InProduction, Packing: strings.TrimSpace(in.Packing), Updated: store.Stamp(s.Now())}
	if err := s.Store.KeepAskLimits(ctx, l); err != nil {
		return wire.SupplierLimits{}, deed.Sentence(err, "limits")
	}
	return s.Limits(ctx, c, in.Text)
}
