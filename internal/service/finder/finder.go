// Package finder looks things up: questions to the lookup index, exports of what they find, comparing, and the views that
// people keep.
package finder

import (
	"context"

	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/policy"
)

// Finder looks parts up. Its methods may be called from several goroutines.
type Finder struct {
	*deed.Desk
	index    *lookup.Index
	cabinets *cabinets.Cabinets
	policy   *policy.Policy
	// OfIntake lists the parts that an intake made or changed, by its number or identifier.
	OfIntake func(ctx context.Context, key string) ([]string, error)
}

// New returns a finder over an index.
func New(d *deed.Desk, index *lookup.Index, c *cabinets.Cabinets, p *policy.Policy) *Finder {
	return &Finder{Desk: d, index: index, cabinets: c, policy: p}
}

// Query is a question to the lookup index.
type Query = lookup.Query

// Order is a column to sort by.
type Order = lookup.Order
