// Package cabinets has the cabinet in force, with the parameter dictionary and all templates, and the crosswalks of
// suppliers. What a change of templates does to parts is above, in package reform.
package cabinets

import (
	"sync"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
)

// Cabinets gives the cabinet in force. Its methods may be called from several goroutines.
type Cabinets struct {
	*deed.Desk
	index *lookup.Index

	mu     sync.Mutex                       // guards what was decoded last
	apart  []apart                          // newest last
	mapped map[store.ID]crosswalk.Crosswalk // crosswalks by the content they were decoded from
}

// apart is a cabinet with the content that it was decoded from.
type apart struct {
	content store.ID
	cabinet *cabinet.Cabinet
}

// New returns the cabinets of an installation; index counts what lies in them.
func New(d *deed.Desk, index *lookup.Index) *Cabinets { return &Cabinets{Desk: d, index: index} }
