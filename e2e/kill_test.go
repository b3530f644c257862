package e2e

import (
	"database/sql"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/client"
	"jollydrawer/internal/dbserver"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// rounds is how often the kill tests kill: a few times, or as often as JOLLY_SOAK says.
func rounds() int {
	if n, err := strconv.Atoi(os.Getenv("JOLLY_SOAK")); err == nil && n > 0 {
		return n
	}
	return 3
}

const lot = 10_000 // parts of one intake: five staging batches

// allOrNothing asks the database how many parts of a lot can be seen, until the job has ended. At no moment is there
// a part of the lot only; in the end the whole lot is there, under numbers that are given once.
func allOrNothing(t *testing.T, dsn string, k *client.Client, word, job string, before int) {
	t.Helper()
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	deadline := time.Now().Add(4 * time.Minute)
	for {
		var n, distinct int
		if err := db.QueryRow("SELECT COUNT(*), COUNT(DISTINCT number) FROM heads WHERE kind = 'part'").Scan(&n, &distinct); err == nil {
			require.Contains(t, []int{before, before + lot}, n, "%s: a part of the intake can be seen", word)
			require.Equal(t, n, distinct)
		}
		j, err := k.Job(t.Context(), job)
		if err == nil && j.State != store.JobWaiting && j.State != store.JobRunning {
			require.Equal(t, store.JobDone, j.State, j.Error)
			break
		}
		require.True(t, time.Now().Before(deadline), "%s: the job did not end: %v %+v", word, err, j)
		time.Sleep(20 * time.Millisecond)
	}
	var list wire.PartList
	require.Eventually(t, func() bool {
		list, err = k.Parts(t.Context(), client.PartQuery{Text: word, Limit: 1})
		return err == nil && list.Page.Total == lot
	}, time.Minute, 50*time.Millisecond, "%s: %d found", word, list.Page.Total)
}

// begin opens an intake of a lot and starts taking it in.
func begin(t *testing.T, k *client.Client, word string) wire.Job {
	t.Helper()
	i, err := openIntake(t, k, "Marsh Lane Components", word+".csv", resistors(word, lot))
	require.NoError(t, err)
	require.Equal(t, lot, i.Counts["new"])
	j, err := k.TakeIn(t.Context(), i.ID, i.Version, "", wire.TakeIn{Digest: i.Digest})
	require.NoError(t, err)
	return j
}

func TestKillingTheServiceWhileAnIntakeIsTakenIn(t *testing.T) {
	t.Parallel() // it waits more than it works
	owner, dsn := freshSchema(t, shared)
	i := serve(t, owner, dsn)
	k := i.admin(t)
	stocked(t, k)
	for n := range rounds() {
		word := fmt.Sprintf("KS%03d", n)
		j := begin(t, k, word)
		time.Sleep(time.Duration(rand.IntN(500)) * time.Millisecond)
		i.kill()
		i = serve(t, owner, dsn)
		k = client.New(i.url, k.Token)
		allOrNothing(t, dsn, k, word, j.ID, n*lot)
	}
	v, err := k.Verify(t.Context())
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

func TestKillingTheDatabaseWhileAnIntakeIsTakenIn(t *testing.T) {
	t.Parallel() // it waits more than it works
	o := dbserver.Options{Dir: filepath.Join(t.TempDir(), "d")}
	db, err := dbserver.Start(t.Context(), o)
	require.NoError(t, err)
	defer func() { db.Stop() }()
	o.Port = db.Port // it comes back where the service looks for it
	owner, dsn := freshSchema(t, db)
	i := serve(t, owner, dsn)
	k := i.admin(t)
	stocked(t, k)
	for n := range rounds() {
		word := fmt.Sprintf("KD%03d", n)
		j := begin(t, k, word)
		time.Sleep(time.Duration(rand.IntN(500)) * time.Millisecond)
		db.Kill()
		back, err := dbserver.Start(t.Context(), o)
		require.NoError(t, err)
		db = back
		allOrNothing(t, dsn, k, word, j.ID, n*lot)
	}
	v, err := k.Verify(t.Context())
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

func TestADatabaseThatACrashLeftBehindIsTakenOver(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "with a space")
	one, err := dbserver.Start(t.Context(), dbserver.Options{Dir: dir})
	require.NoError(t, err)
	_, err = dbserver.Start(t.Context(), dbserver.Options{Dir: dir})
	assert.ErrorContains(t, err, "is in use by another running service")
	one.Abandon()
	two, err := dbserver.Start(t.Context(), dbserver.Options{Dir: dir})
	require.NoError(t, err)
	defer two.Stop()
	assert.True(t, two.Adopted)
	assert.Equal(t, one.Port, two.Port)
	_, err = dbserver.Start(t.Context(), dbserver.Options{Dir: filepath.Join(t.TempDir(), "other"), Port: one.Port})
	assert.ErrorContains(t, err, "is taken by another program")
	blocked := filepath.Join(t.TempDir(), "file")
	require.NoError(t, os.WriteFile(blocked, nil, 0o600))
	_, err = dbserver.Start(t.Context(), dbserver.Options{Dir: filepath.Join(blocked, "d")})
	assert.ErrorContains(t, err, "choose another with --data")
}
