package work

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/jobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// desk is a work with one kind of job, which does as it is told.
func desk(t *testing.T, run jobs.Handler) (*Work, deed.Call) {
	s, _ := testdb.Open(t)
	w := New(deed.NewDesk(s, slog.New(slog.DiscardHandler)), 500*time.Millisecond)
	Register(w, "count", run, func(j *wire.Job) **wire.Verification { return &j.Verified })
	ctx, cancel := context.WithCancel(context.Background())
	var wg sync.WaitGroup
	wg.Go(func() { w.Run(ctx) })
	t.Cleanup(func() { cancel(); wg.Wait() })
	return w, deed.Call{Actor: asker}
}

// asker is who asks in these tests.
var asker = deed.Actor{ID: store.NewID(), Role: deed.Librarian}

func count(about string) Asked {
	return Asked{Op: deed.OpIntakeTakeIn, Kind: "count", About: about, Prepare: func(time.Time) (any, int64, error) { return struct{}{}, 3, nil }}
}

func (w *Work) ask(t *testing.T, about string, d store.ID) wire.Job {
	t.Helper()
	j, err := w.Start(t.Context(), deed.Call{Actor: asker, Deed: d}, count(about))
	require.NoError(t, err)
	return j
}

func ended(t *testing.T, w *Work, c deed.Call, j wire.Job) wire.Job {
	t.Helper()
	id, err := deed.ParseID(j.ID)
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		j, err = w.Get(t.Context(), c, id)
		return err == nil && j.State != store.JobWaiting && j.State != store.JobRunning
	}, 20*time.Second, 10*time.Millisecond)
	return j
}

func TestAJobShowsTheResultOfItsKind(t *testing.T) {
	var w *Work
	w, c := desk(t, func(ctx context.Context, j store.Job, progress jobs.Progress) error {
		if err := progress(2, 3); err != nil {
			return err
		}
		raw, err := json.Marshal(wire.Verification{Heads: 7})
		if err != nil {
			return err
		}
		return w.Store.FinishJob(ctx, j, string(raw))
	})
	j := ended(t, w, c, w.ask(t, "", store.NewID()))
	assert.Equal(t, store.JobDone, j.State)
	require.NotNil(t, j.Verified)
	assert.Equal(t, 7, j.Verified.Heads)
	assert.Nil(t, j.Changed, "other kinds have results of their own")
	id, err := deed.ParseID(j.ID)
	require.NoError(t, err)
	found := false
	w.Followed = func(context.Context, store.ID) bool { return found }
	seen, err := w.Get(t.Context(), c, id)
	require.NoError(t, err)
	assert.Equal(t, store.JobRunning, seen.State, "it is done for who can find what it did")
	assert.Nil(t, seen.Verified)
	found = true
	seen, err = w.Get(t.Context(), c, id)
	require.NoError(t, err)
	assert.Equal(t, store.JobDone, seen.State)
}

func TestOneJobForADeedAndOneAboutAThing(t *testing.T) {
	hold := make(chan struct{})
	var runs atomic.Int32
	var w *Work
	w, c := desk(t, func(ctx context.Context, j store.Job, _ jobs.Progress) error {
		runs.Add(1)
		<-hold
		return w.Store.FinishJob(ctx, j, "{}")
	})
	d := store.NewID()
	var wg sync.WaitGroup
	ids := make([]string, 16)
	for i := range ids {
		wg.Go(func() {
			if i%2 == 0 {
				ids[i] = w.ask(t, "the cabinet", d).ID
			} else {
				ids[i] = w.ask(t, "the cabinet", store.NewID()).ID
			}
		})
	}
	wg.Wait()
	for _, id := range ids {
		assert.Equal(t, ids[0], id, "all are shown the one job")
	}
	close(hold)
	first := ended(t, w, c, wire.Job{ID: ids[0]})
	assert.Equal(t, store.JobDone, first.State)
	assert.EqualValues(t, 1, runs.Load())
	again := w.ask(t, "the cabinet", store.NewID())
	assert.NotEqual(t, first.ID, again.ID, "once it has ended, another may begin")
	assert.Equal(t, store.JobDone, ended(t, w, c, again).State)
}

// A job changes what its own asking looked at: a second try of the same deed is shown the job, never what it met.
func TestATryThatComesTooLateIsShownTheJobOfItsDeed(t *testing.T) {
	var w *Work
	w, c := desk(t, func(ctx context.Context, j store.Job, _ jobs.Progress) error { return w.Store.FinishJob(ctx, j, "{}") })
	c.Deed = store.NewID()
	stale := deed.Fault(deed.Clash, "stale", "Somebody was quicker.", "Look again.")
	var first wire.Job
	slow := count("the cabinet")
	slow.Prepare = func(time.Time) (any, int64, error) {
		first = ended(t, w, c, w.ask(t, "the cabinet", c.Deed))
		return nil, 0, stale
	}
	got, err := w.Start(t.Context(), c, slow)
	require.NoError(t, err)
	assert.Equal(t, first.ID, got.ID)
	asked := false
	slow.Prepare = func(time.Time) (any, int64, error) { asked = true; return nil, 0, stale }
	got, err = w.Start(t.Context(), c, slow)
	require.NoError(t, err)
	assert.Equal(t, first.ID, got.ID)
	assert.False(t, asked, "what was done before is not looked up again")

	var e *deed.Error
	for name, other := range map[string]deed.Call{"a fresh deed": {Actor: asker}, "somebody else's": {Actor: deed.Actor{ID: store.NewID(), Role: deed.Librarian}, Deed: c.Deed}} {
		_, err = w.Start(t.Context(), other, slow)
		require.ErrorAs(t, err, &e, name)
	}
	assert.True(t, asked)
	for name, change := range map[string]func(*Asked){"kind": func(a *Asked) { a.Kind = "other" }, "thing": func(a *Asked) { a.Head = store.NewID() }} {
		a := slow
		change(&a)
		_, err = w.Start(t.Context(), c, a)
		require.ErrorAs(t, err, &e, name)
		assert.NotEqual(t, "stale", e.Type, "the deed was another one: %s", name)
	}
	_, err = w.Start(t.Context(), deed.Call{Actor: deed.Actor{ID: store.NewID(), Role: deed.Reader}}, slow)
	require.ErrorAs(t, err, &e)
	assert.Equal(t, deed.Forbidden, e.Kind)
}

func TestAJobThatFailsSaysWhy(t *testing.T) {
	what := error(deed.Fault(deed.Clash, "odd", "The file is odd.", "Correct it."))
	w, c := desk(t, func(context.Context, store.Job, jobs.Progress) error { return what })
	j := ended(t, w, c, w.ask(t, "", store.NewID()))
	assert.Equal(t, store.JobFailed, j.State)
	assert.Contains(t, j.Error, "The file is odd.")
	what = errors.New("connection string with secrets")
	j = ended(t, w, c, w.ask(t, "", store.NewID()))
	assert.Equal(t, store.JobFailed, j.State)
	assert.NotContains(t, j.Error, "secrets", "what is inside stays inside")
}

func TestAJobIsStoppedByWhoMay(t *testing.T) {
	started := make(chan struct{}, 9)
	w, c := desk(t, func(ctx context.Context, _ store.Job, progress jobs.Progress) error {
		started <- struct{}{}
		for {
			if err := progress(1, 3); err != nil {
				return err
			}
			select {
			case <-ctx.Done():
				return ctx.Err()
			case <-time.After(5 * time.Millisecond):
			}
		}
	})
	j := w.ask(t, "", store.NewID())
	<-started
	id, err := deed.ParseID(j.ID)
	require.NoError(t, err)
	_, err = w.Stop(t.Context(), deed.Call{Actor: deed.Actor{ID: store.NewID(), Role: deed.Reader}}, id)
	var e *deed.Error
	require.ErrorAs(t, err, &e)
	assert.Equal(t, deed.Forbidden, e.Kind)
	_, err = w.Stop(t.Context(), c, id)
	require.NoError(t, err)
	assert.Equal(t, store.JobStopped, ended(t, w, c, j).State)
	_, err = w.Get(t.Context(), c, store.NewID())
	require.ErrorAs(t, err, &e)
	assert.Equal(t, "not-found", e.Type)
}
