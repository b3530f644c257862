// Package deliveries brings models in: archives of several files for one part, and libraries of many models, which become an
// intake.
package deliveries

import (
	"sync"

	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/service/intakes"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/service/parts"
)

// Deliveries keeps deliveries. Its methods may be called from several goroutines.
type Deliveries struct {
	*deed.Desk
	index    *lookup.Index
	files    *files.Files
	cabinets *cabinets.Cabinets
	models   *models.Models
	parts    *parts.Parts
	intakes  *intakes.Intakes

	mu     sync.Mutex // guards opened
	opened []openedDelivery
}

// Rooms are what deliveries stand on.
type Rooms struct {
	Index    *lookup.Index
	Files    *files.Files
	Cabinets *cabinets.Cabinets
	Models   *models.Models
	Parts    *parts.Parts
	Intakes  *intakes.Intakes
}

// New returns the deliveries of an installation.
func New(d *deed.Desk, r Rooms) *Deliveries {
	return &Deliveries{Desk: d, index: r.Index, files: r.Files, cabinets: r.Cabinets, models: r.Models, parts: r.Parts, intakes: r.Intakes}
}
