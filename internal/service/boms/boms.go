// Package boms lays bills of materials beside the library: reading them, a verdict on each line, what people decided for
// lines, layouts and endings.
package boms

import (
	"context"
	"sync"

	"golang.org/x/sync/singleflight"

	"jollydrawer/core/bom"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/service/offers"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
)

// BOMs keeps BOMs. Its methods may be called from several goroutines.
type BOMs struct {
	*deed.Desk
	index    *lookup.Index
	files    *files.Files
	cabinets *cabinets.Cabinets
	policy   *policy.Policy
	market   Market
	lives    Lives

	looking singleflight.Group // through all boards

	mu     sync.Mutex // guards what follows
	kept   []keptVerdicts
	places map[store.ID]*placed
	every  everyBoard
	frozen map[frozenAt]map[string]bom.Use
}

// Market says what suppliers offer of sources.
type Market interface {
	Market(ctx context.Context, sources []part.Source) (offers.Market, error)
}

// New returns the BOMs of an installation.
func New(d *deed.Desk, index *lookup.Index, f *files.Files, c *cabinets.Cabinets, p *policy.Policy, m Market, l Lives) *BOMs {
	return &BOMs{Desk: d, index: index, files: f, cabinets: c, policy: p, market: m, lives: l, places: map[store.ID]*placed{}, frozen: map[frozenAt]map[string]bom.Use{}}
}
