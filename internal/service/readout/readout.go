// Package readout writes what design tools read: the folder of model files.
package readout

import (
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/service/parts"
)

// Readout writes the readout. Its methods may be called from several goroutines.
type Readout struct {
	*deed.Desk
	models *models.Models
	parts  *parts.Parts
}

// New returns the readout of an installation.
func New(d *deed.Desk, m *models.Models, p *parts.Parts) *Readout {
	return &Readout{Desk: d, models: m, parts: p}
}
