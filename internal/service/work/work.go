// Package work keeps the background jobs of the use cases: in line, under way, shown, stopped. What a kind of job does and
// what its result looks like is registered by the package that it belongs to.
package work

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"jollydrawer/internal/jobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Work carries out jobs on this instance and shows those of all instances.
type Work struct {
	*deed.Desk
	// Followed says whether the lookup index shows what a deed did; nil where nobody follows.
	Followed func(ctx context.Context, deed store.ID) bool
	// Pace holds up what passes through a whole library while people are about.
	Pace *jobs.Pace

	runner *jobs.Runner
	shows  map[string]func(result []byte, out *wire.Job) error
}

// New makes the jobs of an instance; lease is how long one that died keeps a job from the others.
func New(d *deed.Desk, lease time.Duration) *Work {
	return &Work{Desk: d, Pace: jobs.NewPace(), runner: &jobs.Runner{Store: d.Store, Lease: lease, Log: d.Log, Handlers: map[string]jobs.Handler{}}, shows: map[string]func([]byte, *wire.Job) error{}}
}

// Register says what carries out a kind of job and where its result, of type T, is shown. It is called before Run.
func Register[T any](w *Work, kind string, run jobs.Handler, at func(*wire.Job) **T) {
	w.runner.Handlers[kind] = func(ctx context.Context, j store.Job, progress jobs.Progress) error {
		return w.spoken(ctx, j, run(ctx, j, progress))
	}
	w.shows[kind] = func(result []byte, out *wire.Job) error {
		var t T
		if err := json.Unmarshal(result, &t); err != nil {
			return err
		}
		*at(out) = &t
		return nil
	}
}

// spoken turns an error that is not for people into a sentence that is; the log keeps what it was.
func (w *Work) spoken(ctx context.Context, j store.Job, err error) error {
	if err == nil || errors.Is(err, jobs.ErrStopped) || ctx.Err() != nil || deed.Temporary(err) { // the runner knows what to do
		return err
	}
	var e *deed.Error
	if err = deed.Sentence(err, "job"); errors.As(err, &e) {
		return err
	}
	w.Log.Error("a job met an error of its own", "job", j.ID, "kind", j.Kind, "error", err)
	return deed.Fault(deed.Invalid, "internal", "The service met an error of its own; nothing was done.", fmt.Sprintf("Try again, and tell the administrator: the log has it under job %s.", j.ID))
}

// Run carries out jobs until ctx ends.
func (s *Work) Run(ctx context.Context) { s.runner.Run(ctx) }

// Asked is what somebody wants to be done in the background.
type Asked struct {
	Op    deed.Op
	Kind  string
	Head  store.ID // what it works on; zero: no thing
	About string   // of jobs that are about the same, one is on its way at a time; blank: any number
	// Prepare looks up and checks. It says what the job needs to know, as JSON can hold it, and how many steps it has. It is not
	// called for a deed that has a job already: by then things may be otherwise, not least by that job.
	Prepare func(at time.Time) (payload any, total int64, err error)
}

// Start puts a job in line and answers with it; where the deed has one already, with that. Whoever asks for another job about
// the same thing is shown the one on its way.
func (s *Work) Start(ctx context.Context, c deed.Call, a Asked) (wire.Job, error) {
	if err := deed.Allow(c, a.Op); err != nil {
		return wire.Job{}, err
	}
	if c.Deed.IsZero() {
		c.Deed = store.NewID()
	}
	if first, err := s.first(ctx, c, a); !errors.Is(err, store.ErrNotFound) {
		return first, err
	}
	out, err := s.add(ctx, c, a)
	if err != nil {
		if first, e := s.first(ctx, c, a); e == nil { // another try of it was quicker
			return first, nil
		}
	}
	return out, err
}

// first is the job that the deed has already; store.ErrNotFound when it has none.
func (s *Work) first(ctx context.Context, c deed.Call, a Asked) (wire.Job, error) {
	j, err := s.Store.Read(ctx).JobOfDeed(c.Deed)
	if err != nil {
		return wire.Job{}, err
	}
	if j.Kind != a.Kind || j.Head != a.Head || j.Account != c.Actor.ID {
		return wire.Job{}, deed.Sentence(store.ErrReused, "job")
	}
	return s.View(j), nil
}

func (s *Work) add(ctx context.Context, c deed.Call, a Asked) (wire.Job, error) {
	now := store.Stamp(s.Now())
	payload, total, err := a.Prepare(now)
	if err != nil {
		return wire.Job{}, err
	}
	raw, err := json.Marshal(payload)
	if err != nil {
		return wire.Job{}, err
	}
	j := store.Job{ID: store.NewID(), State: store.JobWaiting, Kind: a.Kind, Deed: c.Deed, Account: c.Actor.ID, Head: a.Head, Payload: string(raw), Total: total, Created: now, Updated: now}
	if a.About != "" {
		j.Sole = &a.About
	}
	if err := s.Store.AddJob(ctx, &j); err != nil {
		if a.About != "" {
			if other, e := s.Store.Read(ctx).JobAbout(a.About); e == nil {
				return s.View(other), nil
			}
		}
		return wire.Job{}, deed.Sentence(err, "job")
	}
	s.runner.Wake(j.Kind)
	return s.View(j), nil
}

// View shows a job as it is stored.
func (s *Work) View(j store.Job) wire.Job {
	out := wire.Job{ID: j.ID.String(), Kind: j.Kind, State: j.State, Done: j.Done, Total: j.Total, Error: j.Error}
	if show := s.shows[j.Kind]; show != nil && j.State == store.JobDone {
		if err := show([]byte(j.Result), &out); err != nil {
			s.Log.Warn("the result of a job cannot be shown", "job", j.ID, "kind", j.Kind, "error", err)
		}
	}
	return out
}

// Get returns a job.
func (s *Work) Get(ctx context.Context, c deed.Call, id store.ID) (wire.Job, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Job{}, err
	}
	j, err := s.Store.Read(ctx).Job(id)
	if err != nil {
		return wire.Job{}, deed.Sentence(err, "job")
	}
	return s.Seen(ctx, j), nil
}

// Seen shows a job as done only when what it did can be found here: who waits for it looks at once.
func (s *Work) Seen(ctx context.Context, j store.Job) wire.Job {
	if j.State == store.JobDone && s.Followed != nil && !s.Followed(ctx, j.Deed) {
		j.State = store.JobRunning
	}
	return s.View(j)
}

// Stop asks for a job to be stopped; what it was doing leaves nothing behind.
func (s *Work) Stop(ctx context.Context, c deed.Call, id store.ID) (wire.Job, error) {
	if err := deed.Allow(c, deed.OpIntakeTakeIn); err != nil {
		return wire.Job{}, err
	}
	if err := s.Store.StopJob(ctx, id); err != nil {
		return wire.Job{}, deed.Sentence(err, "job")
	}
	return s.Get(ctx, c, id)
}
