// Package audit recomputes what can be recomputed and names every difference, and seals the trails.
package audit

import (
	"context"
	"encoding/json"
	"time"

	"jollydrawer/core/lookup"
	"jollydrawer/internal/jobs"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/service/work"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Audit checks an installation. Its methods may be called from several goroutines.
type Audit struct {
	*deed.Desk
	index    *lookup.Index
	work     *work.Work
	cabinets *cabinets.Cabinets
	policy   *policy.Policy
	patience time.Duration // how long the lookup index may take to show what is stored
}

const jobVerify = "verify"

// New returns the audit of an installation and registers its job.
func New(d *deed.Desk, index *lookup.Index, w *work.Work, c *cabinets.Cabinets, p *policy.Policy) *Audit {
	s := &Audit{Desk: d, index: index, work: w, cabinets: c, policy: p, patience: 10 * time.Second}
	work.Register(w, jobVerify, s.runVerify, func(j *wire.Job) **wire.Verification { return &j.Verified })
	return s
}

// Start starts verifying; the answer is the job that does it.
func (s *Audit) Start(ctx context.Context, c deed.Call) (wire.Job, error) {
	return s.work.Start(ctx, c, work.Asked{Op: deed.OpVerify, Kind: jobVerify, Prepare: func(time.Time) (any, int64, error) {
		total, err := s.Store.Read(ctx).CountHeads()
		return struct{}{}, total, err
	}})
}

func (s *Audit) runVerify(ctx context.Context, j store.Job, progress jobs.Progress) error {
	out, err := s.verify(ctx, func(done int) error { return progress(int64(done), max(j.Total, int64(done))) })
	if err != nil {
		return err
	}
	result, err := json.Marshal(out)
	if err != nil {
		return err
	}
	return s.Store.FinishJob(ctx, j, string(result))
}

// Verify recomputes hashes, chains and projections from what is stored, and names every difference.
func (s *Audit) Verify(ctx context.Context, c deed.Call) (wire.Verification, error) {
	if err := deed.Allow(c, deed.OpVerify); err != nil {
		return wire.Verification{}, err
	}
	return s.verify(ctx, func(int) error { return nil })
}
