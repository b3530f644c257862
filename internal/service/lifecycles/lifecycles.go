// Package lifecycles moves things on: releasing drafts, reviewing them, withdrawing revisions, and how a thing may be used. What a
// house may do is written in its lifecycle documents; which of them is in force, and who may, says package policy.
package lifecycles

import (
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/policy"
)

// Lifecycles moves parts, models and BOMs from state to state. Its methods may be called from several goroutines.
type Lifecycles struct {
	*deed.Desk
	index    *lookup.Index
	cabinets *cabinets.Cabinets
	policy   *policy.Policy
	models   *models.Models
	parts    *parts.Parts
	tellers  map[string]Teller // by kind of thing
}

// New returns the lifecycles of an installation.
func New(d *deed.Desk, x *lookup.Index, c *cabinets.Cabinets, p *policy.Policy, m *models.Models, of *parts.Parts) *Lifecycles {
	return &Lifecycles{Desk: d, index: x, cabinets: c, policy: p, models: m, parts: of, tellers: map[string]Teller{}}
}
