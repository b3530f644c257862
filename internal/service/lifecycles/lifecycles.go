// Package lifecycles moves things on: releasing drafts, and how a part may be used.
package lifecycles

import (
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/service/parts"
)

// Lifecycles moves parts from state to state. Its methods may be called from several goroutines.
type Lifecycles struct {
	*deed.Desk
	cabinets *cabinets.Cabinets
	models   *models.Models
	parts    *parts.Parts
}

// New returns the lifecycles of an installation.
func New(d *deed.Desk, c *cabinets.Cabinets, m *models.Models, p *parts.Parts) *Lifecycles {
	return &Lifecycles{Desk: d, cabinets: c, models: m, parts: p}
}
