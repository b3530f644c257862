// Package audit recomputes what can be recomputed and names every difference, and seals the trails.
package audit

import (
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/deed"
)

// Audit checks an installation. Its methods may be called from several goroutines.
type Audit struct {
	*deed.Desk
	index *lookup.Index
}

// New returns the audit of an installation.
func New(d *deed.Desk, index *lookup.Index) *Audit { return &Audit{Desk: d, index: index} }
