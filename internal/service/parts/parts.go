// Package parts has the making and editing of parts, their sources, and what one part has to do with others. Releasing
// them is above, in package lifecycles; the models that they name are below, in package models.
package parts

import (
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/service/policy"
)

// Parts keeps parts. Its methods may be called from several goroutines.
type Parts struct {
	*deed.Desk
	index    *lookup.Index
	cabinets *cabinets.Cabinets
	policy   *policy.Policy
	models   *models.Models
}

// New returns the parts of an installation.
func New(d *deed.Desk, index *lookup.Index, c *cabinets.Cabinets, p *policy.Policy, m *models.Models) *Parts {
	return &Parts{Desk: d, index: index, cabinets: c, policy: p, models: m}
}
