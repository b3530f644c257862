// Package models has the symbols, land patterns, bodies and pin maps of the library: reading them from files, their checks,
// their previews, and whether those that a part names fit each other.
package models

import (
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/service/policy"
)

// Models keeps models. Its methods may be called from several goroutines.
type Models struct {
	*deed.Desk
	index    *lookup.Index
	files    *files.Files
	cabinets *cabinets.Cabinets
	policy   *policy.Policy
	drawings drawings // that were decoded and drawn
	kept     kept
}

// New returns the models of an installation; index tells what the parts are that use them.
func New(d *deed.Desk, index *lookup.Index, f *files.Files, c *cabinets.Cabinets, p *policy.Policy) *Models {
	return &Models{Desk: d, index: index, files: f, cabinets: c, policy: p}
}
