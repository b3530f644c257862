// Package jobs carries out background work under leases: each instance of the service runs a Runner, and a job whose
// holder died is taken up by another. What a job does is given by its handler. Kinds of jobs do not wait for each other.
package jobs

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"runtime/debug"
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

// MostAttempts is how often a job is begun that ends its instance, or panics, before it is shown as failed.
const MostAttempts = 3

// Runner claims and runs jobs.
type Runner struct {
	Store    *store.Store
	Lease    time.Duration
	Handlers map[string]Handler // by kind; complete before Run and Wake
	Log      *slog.Logger
	wake     map[string]chan struct{}
	once     sync.Once
}

func (r *Runner) wakers() map[string]chan struct{} {
	r.once.Do(func() {
		r.wake = map[string]chan struct{}{}
		for kind := range r.Handlers {
			r.wake[kind] = make(chan struct{}, 1)
		}
	})
	return r.wake
}

// Wake makes the runner look for jobs of a kind at once.
func (r *Runner) Wake(kind string) {
	select {
	case r.wakers()[kind] <- struct{}{}:
	default:
	}
}

// Run works until ctx ends, one job of each kind at a time.
func (r *Runner) Run(ctx context.Context) {
	var group sync.WaitGroup
	for kind, wake := range r.wakers() {
		group.Go(func() { r.kind(ctx, kind, wake) })
	}
	group.Go(func() { r.look(ctx) })
	group.Wait()
}

// look wakes those who work at kinds of which there are jobs: those of other instances, and those that fell out of somebody's hands.
func (r *Runner) look(ctx context.Context) {
	tick := time.NewTicker(min(r.Lease/2, time.Second))
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		kinds, err := r.Store.KindsOfJobs(ctx)
		if err != nil && ctx.Err() == nil {
			r.Log.Warn("looking for jobs", "error", err)
		}
		for _, kind := range kinds {
			r.Wake(kind)
		}
	}
}

func (r *Runner) kind(ctx context.Context, kind string, wake <-chan struct{}) {
	for {
		for ctx.Err() == nil {
			j, ok, err := r.Store.ClaimJob(ctx, kind, r.Lease)
			if err != nil || !ok {
				if err != nil && ctx.Err() == nil {
					r.Log.Warn("looking for jobs", "kind", kind, "error", err)
				}
				break
			}
			r.one(ctx, j)
		}
		select {
		case <-ctx.Done():
			return
		case <-wake:
		}
	}
}

// errPanic wraps what a handler panicked with.
var errPanic = errors.New("something went wrong inside the service")

func (r *Runner) one(ctx context.Context, j store.Job) {
	if j.Attempts > MostAttempts {
		r.Log.Error("job begun too often", "job", j.ID, "kind", j.Kind, "attempts", j.Attempts)
		r.close(ctx, j, store.JobFailed, fmt.Sprintf("It was begun %d times and did not end; nothing was changed. An administrator finds the cause in the log under the job %s.", MostAttempts, j.ID))
		return
	}
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
	err := r.handle(ctx, j, func(d, t int64) error {
		done.Store(d)
		total.Store(t)
		return keep()
	})
	cause := context.Cause(ctx)
	switch {
	case err == nil:
		r.Log.Info("job done", "job", j.ID, "kind", j.Kind)
	case errors.Is(err, ErrStopped) || errors.Is(cause, ErrStopped):
		r.close(ctx, j, store.JobStopped, "It was stopped; nothing was changed.")
	case errors.Is(err, errPanic):
		r.putBack(ctx, j, false)
	case errors.Is(cause, store.ErrConflict) || ctx.Err() != nil || store.Transient(err):
		// Another instance has it by now, or this one is going down, or the database is away: somebody carries on.
		r.Log.Warn("job given up", "job", j.ID, "error", err)
		r.putBack(ctx, j, true)
	default:
		r.Log.Warn("job failed", "job", j.ID, "kind", j.Kind, "error", err)
		r.close(ctx, j, store.JobFailed, err.Error())
	}
}

// handle runs the handler; a panic in it ends the job's try, not the process.
func (r *Runner) handle(ctx context.Context, j store.Job, progress Progress) (err error) {
	defer func() {
		if p := recover(); p != nil {
			r.Log.Error("panic in a job", "job", j.ID, "kind", j.Kind, "panic", fmt.Sprint(p), "stack", string(debug.Stack()))
			err = errPanic
		}
	}()
	return r.Handlers[j.Kind](ctx, j, progress)
}

func (r *Runner) putBack(ctx context.Context, j store.Job, innocent bool) {
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
	defer cancel()
	if err := r.Store.PutBackJob(ctx, j, innocent); err != nil { // then its lease runs out
		r.Log.Warn("putting a job back", "job", j.ID, "error", err)
	}
}

func (r *Runner) close(ctx context.Context, j store.Job, state, sentence string) {
	if err := r.Store.FailJob(context.WithoutCancel(ctx), j, state, sentence); err != nil {
		r.Log.Error("closing a job", "job", j.ID, "error", err)
	}
}
