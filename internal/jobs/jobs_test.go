package jobs_test

import (
	"context"
	"errors"
	"log/slog"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/jobs"
	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// run starts a runner and returns what asks for a job's state until it is one that ends the wait.
func run(t *testing.T, s *store.Store, handlers map[string]jobs.Handler) *jobs.Runner {
	t.Helper()
	r := &jobs.Runner{Store: s, Lease: 300 * time.Millisecond, Log: slog.New(slog.DiscardHandler), Handlers: handlers}
	ctx, cancel := context.WithCancel(context.Background())
	done := make(chan bool)
	go func() { r.Run(ctx); close(done) }()
	t.Cleanup(func() { cancel(); <-done })
	return r
}

func add(t *testing.T, s *store.Store, kind string) store.Job {
	t.Helper()
	now := store.Stamp(time.Now())
	j := store.Job{ID: store.NewID(), Kind: kind, Deed: store.NewID(), Account: store.NewID(), Payload: "{}", State: store.JobWaiting, Created: now, Updated: now}
	require.NoError(t, s.AddJob(t.Context(), &j))
	return j
}

func ended(t *testing.T, s *store.Store, id store.ID) (j store.Job) {
	t.Helper()
	require.Eventually(t, func() bool {
		var err error
		j, err = s.Read(t.Context()).Job(id)
		return err == nil && j.State != store.JobWaiting && j.State != store.JobRunning
	}, 30*time.Second, 10*time.Millisecond)
	return j
}

func TestAPanicIsTriedAgainAndThenShownAsFailed(t *testing.T) {
	s, _ := testdb.Open(t)
	var begun atomic.Int32
	r := run(t, s, map[string]jobs.Handler{
		"breaks": func(context.Context, store.Job, jobs.Progress) error { begun.Add(1); panic("nobody thought of this") },
		"works":  func(ctx context.Context, j store.Job, _ jobs.Progress) error { return s.FinishJob(ctx, j, "{}") },
	})
	bad := add(t, s, "breaks")
	r.Wake("breaks")
	j := ended(t, s, bad.ID)
	assert.Equal(t, store.JobFailed, j.State)
	assert.EqualValues(t, jobs.MostAttempts, begun.Load(), "begun so often, and no more")
	assert.Contains(t, j.Error, "log")
	assert.NotContains(t, j.Error, "nobody thought", "what the program says of itself is for the log")
	good := add(t, s, "works")
	assert.Equal(t, store.JobDone, ended(t, s, good.ID).State, "the process goes on")
}

func TestKindsOfJobsDoNotWaitForEachOther(t *testing.T) {
	s, _ := testdb.Open(t)
	free := make(chan bool)
	run(t, s, map[string]jobs.Handler{
		"long": func(ctx context.Context, j store.Job, _ jobs.Progress) error {
			<-free
			return s.FinishJob(ctx, j, "{}")
		},
		"short": func(ctx context.Context, j store.Job, _ jobs.Progress) error { return s.FinishJob(ctx, j, "{}") },
	})
	long := add(t, s, "long")
	require.Eventually(t, func() bool {
		j, err := s.Read(t.Context()).Job(long.ID)
		return err == nil && j.State == store.JobRunning
	}, 10*time.Second, 10*time.Millisecond)
	assert.Equal(t, store.JobDone, ended(t, s, add(t, s, "short").ID).State)
	close(free)
	assert.Equal(t, store.JobDone, ended(t, s, long.ID).State)
}

func TestAJobThatOnlyLacksTheDatabaseIsNotToBlame(t *testing.T) {
	s, _ := testdb.Open(t)
	var begun atomic.Int32
	run(t, s, map[string]jobs.Handler{"x": func(ctx context.Context, j store.Job, _ jobs.Progress) error {
		if begun.Add(1) <= 2*jobs.MostAttempts {
			return mysqlAway()
		}
		return s.FinishJob(ctx, j, "{}")
	}})
	j := ended(t, s, add(t, s, "x").ID)
	assert.Equal(t, store.JobDone, j.State, j.Error)
	assert.EqualValues(t, 2*jobs.MostAttempts+1, begun.Load())
}

func TestAHandlersSentenceIsShown(t *testing.T) {
	s, _ := testdb.Open(t)
	run(t, s, map[string]jobs.Handler{"x": func(context.Context, store.Job, jobs.Progress) error { return errors.New("The file is gone.") }})
	j := ended(t, s, add(t, s, "x").ID)
	assert.Equal(t, []string{store.JobFailed, "The file is gone."}, []string{j.State, j.Error})
}

func mysqlAway() error { return mysql.ErrInvalidConn }
