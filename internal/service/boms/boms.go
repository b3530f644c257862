// Package boms lays bills of materials beside the library: reading them, a verdict on each line, what people decided for
// lines, layouts and endings.
package boms

import (
	"sync"

	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/service/policy"
)

// BOMs keeps BOMs. Its methods may be called from several goroutines.
type BOMs struct {
	*deed.Desk
	index    *lookup.Index
	files    *files.Files
	cabinets *cabinets.Cabinets
	policy   *policy.Policy

	mu   sync.Mutex // guards kept
	kept []keptVerdicts
}

// New returns the BOMs of an installation.
func New(d *deed.Desk, index *lookup.Index, f *files.Files, c *cabinets.Cabinets, p *policy.Policy) *BOMs {
	return &BOMs{Desk: d, index: index, files: f, cabinets: c, policy: p}
}
