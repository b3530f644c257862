package offers

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Series is the room of series, as far as a product that is taken over needs it.
type Series interface {
	Get(ctx context.Context, c deed.Call, key string) (wire.Series, error)
	Edit(ctx context.Context, c deed.Call, key string, version int, in wire.SeriesEdit) (wire.Series, error)
}

// mostSeries is more than a house has.
const mostSeries = 20_000

// intoSeries makes a product a member of its series, where the library has that: of the same maker, and called the same but for marks. It says its number;
// blank where there is none. A series that the library has not is proposed from its parts, as any other.
func (s *Offers) intoSeries(ctx context.Context, c deed.Call, k taking) (string, error) {
	if k.Series == "" || s.Series == nil {
		return "", nil
	}
	known, _, err := s.Store.Read(ctx).HeadsByNumbers(store.KindSeries, 0, mostSeries)
	if err != nil {
		return "", err
	}
	name := part.NormaliseMPN(strings.TrimSuffix(strings.TrimSuffix(k.Series, " series"), " Series"))
	for _, h := range known {
		number, id := h.Number, h.ID
		maker, called, _ := strings.Cut(number, ": ")
		if part.NormaliseMaker(maker) != part.NormaliseMaker(k.Manufacturer) || part.NormaliseMPN(called) != name {
			continue
		}
		have, err := s.Series.Get(ctx, c, id.String())
		if err != nil {
			return "", err
		}
		if slices.ContainsFunc(have.Said.Members, func(m string) bool { return part.NormaliseMPN(m) == part.NormaliseMPN(k.MPN) }) {
			return number, nil
		}
		edit := have.Said
		edit.Members = append(slices.Clone(edit.Members), k.MPN)
		if _, err := s.Series.Edit(ctx, deed.Call{Actor: c.Actor, Deed: store.NewID()}, id.String(), have.Version, edit); err != nil {
			return "", fmt.Errorf("putting %s into the series %s: %w", k.MPN, number, err)
		}
		return number, nil
	}
	return "", nil
}
