package reform

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/core/intake"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// AddChoice adds a choice to a parameter of the cabinet: the mend of values that the template does not know yet. No part
// changes by it, so that it need not be worked out over them.
func (s *Reform) AddChoice(ctx context.Context, c deed.Call, in intake.NewChoice) (wire.Cabinet, error) {
	in.Choice = strings.TrimSpace(in.Choice)
	_, err := deed.Do(ctx, s.Desk, c, deed.OpCabinet, "cabinet", in, func(t *store.Tx) (int, error) {
		h, err := t.HeadByNumber(store.KindCabinet, cabinets.TheCabinet)
		if errors.Is(err, store.ErrNotFound) {
			return 0, cabinets.None()
		}
		if err != nil {
			return 0, err
		}
		now, err := t.Content(h.Released)
		if err != nil {
			return 0, err
		}
		cab, err := cabinet.FromJSON(now.Bytes)
		if err != nil {
			return 0, err
		}
		doc, ok := cab.Document.WithChoice(in.Parameter, in.Choice, in.Drawers...)
		if !ok {
			return 0, deed.Fault(deed.Invalid, "no-choice", fmt.Sprintf("The parameter dictionary has no choice %q.", in.Parameter), "")
		}
		if _, err := cabinet.New(doc); err != nil {
			return 0, deed.Fault(deed.Invalid, "cabinet-wrong", "The choice was not added: "+err.Error()+".", "")
		}
		raw, hash, err := document.Canonical(doc)
		if err != nil {
			return 0, err
		}
		return deed.Apply(t, store.KindCabinet, cabinets.TheCabinet, cabinet.Format, h.Version, raw, store.Hash(hash))
	})
	if err != nil {
		return wire.Cabinet{}, err
	}
	return s.cabinets.Get(ctx, c)
}
