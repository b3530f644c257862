// Package jobs carries out background work under leases: each instance of the service runs a Runner, and a job whose
// holder died is taken up by another. What a job does is given by its handler.
package jobs

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"sync/atomic"
	"time"

	"jollydrawer/internal/store"
)

// ErrStopped is returned by Progress when somebody asked for the job to be stopped.
var ErrStopped = errors.New("the job was stopped")

// Progress reports how far a job is; an error ends the job.
type Progress func(done, total int64) error

// Handler does the work. Its error becomes the sentence that people see; a handler that succeeds closes the job itself,
// in the transaction that makes its work visible.
type Handler func(ctx context.Context, j store.Job, progress Progress) error

// Runner claims and runs jobs.
type Runner struct {
	Store    *store.Store
	Lease    time.Duration
	Handlers map[string]Handler
	Log      *slog.Logger
	wake     chan struct{}
	once     sync.Once
}

// Wake makes the runner look for work at once.
func (r *Runner) Wake() {
	r.once.Do(func() { r.wake = make(chan struct{}, 1) })
	select {
	case r.wake <- struct{}{}:
	default:
	}
}

// Run works until ctx ends.
func (r *Runner) Run(ctx context.Context) {
	r.Wake()
	tick := time.NewTicker(min(r.Lease/2, time.Second))
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-r.wake:
		case <-tick.C:
		}
		for ctx.Err() == nil {
			j, ok, err := r.Store.ClaimJob(ctx, r.Lease)
			if err != nil || !ok {
				if err != nil && ctx.Err() == nil {
					r.Log.Warn("looking for jobs", "error", err)
				}
				break
			}
			r.one(ctx, j)
		}
	}
}

func (r *Runner) one(ctx context.Context, j store.Job) {
	ctx, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	var done, total atomic.Int64
	keep := func() error {
		stop, err := r.Store.KeepJob(ctx, j, r.Lease, done.Load(), total.Load())
		if stop {
			err = ErrStopped
		}
		if errors.Is(err, store.ErrConflict) || stop {
			cancel(err)
		}
		return err
	}
	go func() { // the lease outlives a long step
		for {
			select {
			case <-ctx.Done():
				return
			case <-time.After(r.Lease / 3):
				_ = keep()
			}
		}
	}()
	h := r.Handlers[j.Kind]
	err := errors.New("this version of the service does not know such jobs")
	if h != nil {
		err = h(ctx, j, func(d, t int64) error {
			done.Store(d)
			total.Store(t)
			return keep()
		})
	}
	cause := context.Cause(ctx)
	switch {
	case err == nil:
		r.Log.Info("job done", "job", j.ID, "kind", j.Kind)
	case errors.Is(err, ErrStopped) || errors.Is(cause, ErrStopped):
		r.close(ctx, j, store.JobStopped, "It was stopped; nothing was changed.")
	case errors.Is(cause, store.ErrConflict) || ctx.Err() != nil || store.Transient(err):
		// Another instance has it by now, or this one is going down: the lease lets somebody carry on.
		r.Log.Warn("job given up", "job", j.ID, "error", err)
	default:
		r.Log.Warn("job failed", "job", j.ID, "kind", j.Kind, "error", err)
		r.close(ctx, j, store.JobFailed, err.Error())
	}
}

func (r *Runner) close(ctx context.Context, j store.Job, state, sentence string) {
	if err := r.Store.FailJob(context.WithoutCancel(ctx), j, state, sentence); err != nil {
		r.Log.Error("closing a job", "job", j.ID, "error", err)
	}
}
