// Package reform changes templates over the parts that stand on them: what a change would do, and doing it as one deed.
package reform

import (
	"jollydrawer/core/cabinet"
	"jollydrawer/core/intake"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/service/work"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Reform changes the cabinet. Its methods may be called from several goroutines.
type Reform struct {
	*deed.Desk
	index    *lookup.Index
	work     *work.Work
	cabinets *cabinets.Cabinets
	policy   *policy.Policy
	parts    *parts.Parts
	follow   []cabinets.Follow
}

// Register says what else than parts and crosswalks names parameters. It is called before anything is changed.
func (s *Reform) Register(f cabinets.Follow) { s.follow = append(s.follow, f) }

// following finds all that was registered and names what steps rename.
func (s *Reform) following(r store.Reader, steps []cabinet.Step) (out []cabinets.Following, err error) {
	for _, follow := range s.follow {
		found, err := follow(r, steps)
		if err != nil {
			return nil, err
		}
		out = append(out, found...)
	}
	return out, nil
}

// New returns what changes the cabinet of an installation, and registers its job.
func New(d *deed.Desk, index *lookup.Index, w *work.Work, c *cabinets.Cabinets, rules *policy.Policy, p *parts.Parts) *Reform {
	s := &Reform{Desk: d, index: index, work: w, cabinets: c, policy: rules, parts: p}
	work.Register(w, jobChange, s.runChange, func(j *wire.Job) **wire.Changed { return &j.Changed })
	return s
}

// NewChoice is a choice to be added to a parameter.
type NewChoice = intake.NewChoice
