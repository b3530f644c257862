// Package fitting puts models on parts: pins on pads, bodies on land patterns, one model in the place of another.
package fitting

import (
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/service/parts"
)

// Fitting changes what lies between parts and their models. Its methods may be called from several goroutines.
type Fitting struct {
	*deed.Desk
	index    *lookup.Index
	cabinets *cabinets.Cabinets
	models   *models.Models
	parts    *parts.Parts
}

// New returns the fitting of an installation.
func New(d *deed.Desk, index *lookup.Index, c *cabinets.Cabinets, m *models.Models, p *parts.Parts) *Fitting {
	return &Fitting{Desk: d, index: index, cabinets: c, models: m, parts: p}
}
