package store_test

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func deed(kind string) store.Deed {
	return store.Deed{ID: store.NewID(), Kind: kind, Account: store.NewID(), At: store.Stamp(time.Now()), Request: sha256.Sum256([]byte(kind))}
}

// newPart inserts a part's head with one draft and returns it.
func newPart(t *testing.T, s *store.Store, number string, keys ...string) store.Head {
	t.Helper()
	h := store.Head{ID: store.NewID(), Kind: store.KindPart, Number: number, Standing: "active"}
	_, err := s.Do(t.Context(), deed("make "+number), func(tx *store.Tx) (any, error) {
		c := store.Content{ID: store.NewID(), Head: h.ID, Hash: sha256.Sum256([]byte(number)), Format: "x", Bytes: []byte(`{"drawer":"d"}`)}
		h.Draft = c.ID
		if err := tx.AddContent(&c); err != nil {
			return nil, err
		}
		if err := tx.SetSources(h.ID, keys, false); err != nil {
			return nil, err
		}
		return h.ID, tx.Insert(&h, "made", map[string]string{"number": number})
	})
	require.NoError(t, err)
	return h
}

func TestADeedIsDoneOnce(t *testing.T) {
	s, _ := testdb.Open(t)
	d, runs := deed("count"), 0
	fn := func(*store.Tx) (any, error) { runs++; return map[string]int{"run": runs}, nil }
	first, err := s.Do(t.Context(), d, fn)
	require.NoError(t, err)
	again, err := s.Do(t.Context(), d, fn)
	require.NoError(t, err)
	assert.Equal(t, 1, runs)
	assert.JSONEq(t, string(first), string(again))
	other := d
	other.Request = sha256.Sum256([]byte("another question"))
	_, err = s.Do(t.Context(), other, fn)
	assert.ErrorIs(t, err, store.ErrReused)
	raw, err := s.Replay(t.Context(), d)
	require.NoError(t, err)
	assert.JSONEq(t, `{"run":1}`, string(raw))
}

func TestTheSameDeedFromManySidesAtOnceIsDoneOnce(t *testing.T) {
	s, _ := testdb.Open(t)
	d := deed("race")
	var wg sync.WaitGroup
	results := make([]string, 8)
	for n := range results {
		wg.Add(1)
		go func() {
			defer wg.Done()
			raw, err := s.Do(context.Background(), d, func(tx *store.Tx) (any, error) {
				h := store.Head{ID: store.NewID(), Kind: store.KindPart, Number: fmt.Sprintf("RACE-%d", n)}
				return h.Number, tx.Insert(&h, "made", nil)
			})
			if assert.NoError(t, err) {
				results[n] = string(raw)
			}
		}()
	}
	wg.Wait()
	for _, r := range results {
		assert.Equal(t, results[0], r)
	}
	_, total, err := s.Read(t.Context()).Heads(store.KindPart, 0, 100)
	require.NoError(t, err)
	assert.EqualValues(t, 1, total)
}

func TestAFailedDeedLeavesNothing(t *testing.T) {
	s, _ := testdb.Open(t)
	broken := errors.New("broken")
	_, err := s.Do(t.Context(), deed("fail"), func(tx *store.Tx) (any, error) {
		h := store.Head{ID: store.NewID(), Kind: store.KindPart, Number: "GONE"}
		if err := tx.Insert(&h, "made", nil); err != nil {
			return nil, err
		}
		return nil, broken
	})
	assert.ErrorIs(t, err, broken)
	_, err = s.Read(t.Context()).HeadByNumber(store.KindPart, "GONE")
	assert.ErrorIs(t, err, store.ErrNotFound)
	moved, err := s.Sequence(t.Context())
	require.NoError(t, err)
	assert.Zero(t, moved, "nothing waits for the feed")
}

func TestNumbersAndSourcesAreTakenOnce(t *testing.T) {
	s, _ := testdb.Open(t)
	h := newPart(t, s, "R-1", "maker|1", "maker|2")
	try := func(number string, twin bool, keys ...string) error {
		_, err := s.Do(t.Context(), deed("again"), func(tx *store.Tx) (any, error) {
			h := store.Head{ID: store.NewID(), Kind: store.KindPart, Number: number}
			if err := tx.SetSources(h.ID, keys, twin); err != nil {
				return nil, err
			}
			return nil, tx.Insert(&h, "made", nil)
		})
		return err
	}
	assert.ErrorIs(t, try("r-1", false), store.ErrNumberTaken, "numbers differ by more than case")
	assert.ErrorIs(t, try("R-2", false, "maker|2"), store.ErrSourceTaken)
	assert.NoError(t, try("R-3", true, "maker|2"), "unless two are kept side by side on purpose")
	id, ok, err := s.Read(t.Context()).SourceHolder("maker|2")
	require.NoError(t, err)
	assert.True(t, ok)
	assert.Equal(t, h.ID, id)
	_, ok, err = s.Read(t.Context()).SourceHolder("maker|9")
	require.NoError(t, err)
	assert.False(t, ok)
}

func TestAnUpdateFromAnOldVersionIsAConflict(t *testing.T) {
	s, _ := testdb.Open(t)
	h := newPart(t, s, "R-1")
	change := func(base int) error {
		_, err := s.Do(t.Context(), deed("change"), func(tx *store.Tx) (any, error) {
			now, err := tx.Head(store.KindPart, h.ID)
			if err != nil {
				return nil, err
			}
			now.Version = base
			now.Standing = "obsolete"
			return nil, tx.Update(&now, "changed", nil)
		})
		return err
	}
	require.NoError(t, change(1))
	assert.ErrorIs(t, change(1), store.ErrConflict)
	now, err := s.Read(t.Context()).Head(store.KindPart, h.ID)
	require.NoError(t, err)
	assert.Equal(t, 2, now.Version)
	assert.Equal(t, 2, now.TrailSeq)
	trail, err := s.Read(t.Context()).Trail(h.ID, 0, 10)
	require.NoError(t, err)
	require.Len(t, trail, 2)
	assert.Equal(t, trail[1].Hash, trail[0].HashBefore)
	for _, e := range trail {
		assert.Equal(t, e.Hash, e.Sum(), "what was read back hashes as what was written")
	}
	assert.Equal(t, now.TrailHash, trail[0].Hash)
}

func TestRevisionsAreChained(t *testing.T) {
	s, _ := testdb.Open(t)
	h := newPart(t, s, "R-1")
	for n := range 3 {
		_, err := s.Do(t.Context(), deed("release"), func(tx *store.Tx) (any, error) {
			now, err := tx.Head(store.KindPart, h.ID)
			if err != nil {
				return nil, err
			}
			c := store.Content{ID: store.NewID(), Head: h.ID, Hash: sha256.Sum256([]byte{byte(n)}), Format: "x", Bytes: []byte("{}")}
			if err := tx.AddContent(&c); err != nil {
				return nil, err
			}
			if err := tx.AddRevision(&now, c, "note", ""); err != nil {
				return nil, err
			}
			return nil, tx.Update(&now, "released", nil)
		})
		require.NoError(t, err)
	}
	all, err := s.Read(t.Context()).Revisions(h.ID)
	require.NoError(t, err)
	require.Len(t, all, 3)
	assert.Equal(t, []int{3, 2, 1}, []int{all[0].Number, all[1].Number, all[2].Number})
	assert.Equal(t, all[1].Hash, all[0].HashBefore)
	assert.True(t, all[2].HashBefore.IsZero())
	_, err = s.Read(t.Context()).Revision(h.ID, 4)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestReservedNumbersNeverOverlap(t *testing.T) {
	s, _ := testdb.Open(t)
	var mu sync.Mutex
	given := map[int64]bool{}
	var wg sync.WaitGroup
	for range 8 {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for range 20 {
				first, err := s.ReserveNumbers(context.Background(), "R", 3)
				if !assert.NoError(t, err) {
					return
				}
				mu.Lock()
				for n := first; n < first+3; n++ {
					assert.False(t, given[n], "%d was given twice", n)
					given[n] = true
				}
				mu.Unlock()
			}
		}()
	}
	wg.Wait()
	assert.Len(t, given, 480)
	require.NoError(t, s.StepPast(t.Context(), "R", 9000))
	require.NoError(t, s.StepPast(t.Context(), "R", 50))
	next, err := s.ReserveNumbers(t.Context(), "R", 1)
	require.NoError(t, err)
	assert.EqualValues(t, 9001, next, "a counter never goes back")
}

func TestTheFeedHoldsEveryDeedInOneOrder(t *testing.T) {
	s, _ := testdb.Open(t)
	for n := range 30 {
		newPart(t, s, fmt.Sprintf("R-%d", n))
	}
	var wg sync.WaitGroup
	for range 4 { // rivals
		wg.Add(1)
		go func() {
			defer wg.Done()
			for range 10 {
				_, err := s.Sequence(context.Background())
				assert.NoError(t, err)
			}
		}()
	}
	wg.Wait()
	_, err := s.Sequence(t.Context())
	require.NoError(t, err)
	all, err := s.Read(t.Context()).Feed(0, 1000)
	require.NoError(t, err)
	require.Len(t, all, 30)
	seen := map[store.ID]bool{}
	for n, row := range all {
		assert.EqualValues(t, n+1, row.Position, "without gaps")
		assert.False(t, seen[row.Deed])
		seen[row.Deed] = true
	}
	end, err := s.Read(t.Context()).FeedEnd()
	require.NoError(t, err)
	assert.EqualValues(t, 30, end)
}

func TestTheServiceAccountCannotRewriteHistory(t *testing.T) {
	_, dsn := testdb.Schema(t)
	s, err := store.Open(dsn)
	require.NoError(t, err)
	defer s.Close()
	newPart(t, s, "R-1")
	for _, q := range []string{"UPDATE contents SET bytes = ''", "DELETE FROM contents", "UPDATE revisions SET note = ''", "UPDATE trail SET action = ''", "DELETE FROM trail", "DELETE FROM deeds",
		"UPDATE feed SET kind = ''", "DROP TABLE heads", "CREATE TABLE x (a INT)", "DELETE FROM chunks", "UPDATE seals SET heads = 0"} {
		_, err := testdb.SQL(t, dsn, q)
		var m *mysql.MySQLError
		if assert.ErrorAs(t, err, &m, q) {
			assert.EqualValues(t, 1142, m.Number, q)
		}
	}
}

func TestANewerSchemaIsRefused(t *testing.T) {
	s, owner := testdb.Open(t)
	v, err := s.SchemaVersion(t.Context())
	require.NoError(t, err)
	assert.Equal(t, store.SchemaWanted(), v)
	db, err := sql.Open("mysql", owner)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (?, TRUE)", store.SchemaWanted()+1)
	require.NoError(t, err)
	assert.ErrorIs(t, store.Migrate(t.Context(), owner, owner), store.ErrNewer)
}

func TestManyInstancesMigrateOneSchemaOnce(t *testing.T) {
	_, owner := testdb.Open(t)
	db, err := sql.Open("mysql", owner)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("CREATE TABLE former_numbers SELECT number, head FROM numbers") // as if two steps were still to come
	require.NoError(t, err)
	_, err = db.Exec("DELETE FROM goose_db_version WHERE version_id >= ?", store.SchemaWanted()-1)
	require.NoError(t, err)
	var wg sync.WaitGroup
	for range 4 {
		wg.Add(1)
		go func() {
			defer wg.Done()
			assert.NoError(t, store.Migrate(context.Background(), owner, owner))
		}()
	}
	wg.Wait()
	var n int
	require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM goose_db_version WHERE version_id = ?", store.SchemaWanted()).Scan(&n))
	assert.Equal(t, 1, n)
}

func TestAJobHasOneHolderAtATime(t *testing.T) {
	s, _ := testdb.Open(t)
	j := store.Job{ID: store.NewID(), Kind: "x", Deed: store.NewID(), Account: store.NewID(), Payload: "{}", State: store.JobWaiting, Created: time.Now().UTC(), Updated: time.Now().UTC()}
	require.NoError(t, s.AddJob(t.Context(), &j))
	assert.Error(t, s.AddJob(t.Context(), &store.Job{ID: store.NewID(), Kind: "x", Deed: j.Deed, Account: j.Account, State: store.JobWaiting, Created: j.Created, Updated: j.Updated}), "one deed, one job")
	const lease = 300 * time.Millisecond
	one, ok, err := s.ClaimJob(t.Context(), "x", lease)
	require.NoError(t, err)
	require.True(t, ok)
	_, ok, err = s.ClaimJob(t.Context(), "x", lease)
	require.NoError(t, err)
	assert.False(t, ok, "it is held")
	_, err = s.KeepJob(t.Context(), one, lease, 5, 10)
	require.NoError(t, err)
	var two store.Job
	require.Eventually(t, func() bool {
		two, ok, err = s.ClaimJob(t.Context(), "x", time.Minute)
		return err == nil && ok
	}, 10*time.Second, 50*time.Millisecond, "a lease that ran out frees it")
	_, err = s.KeepJob(t.Context(), one, lease, 6, 10)
	assert.ErrorIs(t, err, store.ErrConflict, "the first holder is fenced off")
	require.NoError(t, s.StopJob(t.Context(), j.ID))
	stop, err := s.KeepJob(t.Context(), two, time.Minute, 6, 10)
	require.NoError(t, err)
	assert.True(t, stop)
	_, err = s.Do(t.Context(), deed("end"), func(tx *store.Tx) (any, error) { return nil, tx.EndJob(two, "{}") })
	assert.ErrorIs(t, err, store.ErrConflict, "a job that was asked to stop does not end well")
	require.NoError(t, s.FailJob(t.Context(), two, store.JobStopped, "stopped"))
	now, err := s.Read(t.Context()).Job(j.ID)
	require.NoError(t, err)
	assert.Equal(t, store.JobStopped, now.State)
	_, err = s.Read(t.Context()).JobOfDeed(store.NewID())
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestUsesAreReplacedAsAWhole(t *testing.T) {
	s, _ := testdb.Open(t)
	part, model := newPart(t, s, "R-1"), store.NewID()
	set := func(word string, uses ...store.Use) {
		_, err := s.Do(t.Context(), deed(word), func(tx *store.Tx) (any, error) { return nil, tx.SetUses(part.ID, word, uses) })
		require.NoError(t, err)
	}
	set("draft", store.Use{Place: "draft symbol", Child: model, ChildRevision: 1}, store.Use{Place: "draft body", Child: model, ChildRevision: 2})
	set("released", store.Use{Place: "released symbol", Child: model, ChildRevision: 1})
	set("draft")
	left, err := s.Read(t.Context()).UsedBy(model, 0, 10)
	require.NoError(t, err)
	assert.Equal(t, []store.Use{{Parent: part.ID, Place: "released symbol", Child: model, ChildRevision: 1}}, left)
}

func TestIdentifiersAndHashesRoundTrip(t *testing.T) {
	id := store.NewID()
	raw, err := json.Marshal(map[string]store.ID{"id": id})
	require.NoError(t, err)
	var back map[string]store.ID
	require.NoError(t, json.Unmarshal(raw, &back))
	assert.Equal(t, id, back["id"])
	h := store.SourceHash("x")
	parsed, err := store.ParseHash(h.String())
	require.NoError(t, err)
	assert.Equal(t, h, parsed)
	for _, bad := range []string{"", "x", "zz" + h.String()[2:], h.String() + "00"} {
		_, err := store.ParseHash(bad)
		assert.Error(t, err, bad)
		_, err = store.ParseID(bad)
		assert.Error(t, err, bad)
	}
	assert.Error(t, new(store.ID).Scan([]byte{1, 2}))
	v, err := store.ID{}.Value()
	require.NoError(t, err)
	assert.Nil(t, v, "the zero identifier is NULL")
}

// A thing is found by its identifier and by its number, with blanks around it or in other capitals, and only among its kind.
func TestAThingIsFoundAsPeopleCallIt(t *testing.T) {
	s, _ := testdb.Open(t)
	h := store.Head{ID: store.NewID(), Kind: store.KindSeries, Number: "SR-00001"}
	_, err := s.Do(t.Context(), deed("called"), func(tx *store.Tx) (any, error) { return nil, tx.Insert(&h, "made", nil) })
	require.NoError(t, err)
	for _, key := range []string{"SR-00001", " sr-00001 ", h.ID.String()} {
		got, err := s.Read(t.Context()).Called(store.KindSeries, key)
		require.NoError(t, err, key)
		assert.Equal(t, h.ID, got.ID)
		_, err = s.Read(t.Context()).Called(store.KindWant, key)
		assert.ErrorIs(t, err, store.ErrNotFound, key)
	}
	_, err = s.Read(t.Context()).Called(store.KindSeries, store.NewID().String())
	assert.ErrorIs(t, err, store.ErrNotFound)
}

// A page says how much there is in all, whether it had to be counted or the page itself tells.
func TestAPageSaysHowMuchThereIs(t *testing.T) {
	s, _ := testdb.Open(t)
	for n := range 5 {
		newPart(t, s, fmt.Sprintf("R-%d", n))
	}
	for offset := range 8 {
		for limit := 1; limit < 8; limit++ {
			got, total, err := s.Read(t.Context()).HeadsByNumbers(store.KindPart, offset, limit)
			require.NoError(t, err)
			assert.EqualValues(t, 5, total, "%d from %d on", limit, offset)
			want := max(0, min(limit, 5-offset))
			require.Len(t, got, want)
			for i, h := range got {
				assert.Equal(t, fmt.Sprintf("R-%d", offset+i), h.Number)
			}
		}
	}
	_, total, err := s.Read(t.Context()).HeadsByNumbers(store.KindModel, 0, 3)
	require.NoError(t, err)
	assert.Zero(t, total)
}

// What the server has no room for is told from its own errors, with the column.
func TestWhatDoesNotFitIsTold(t *testing.T) {
	s, owner := testdb.Open(t)
	p := newPart(t, s, "R-1")
	for column, statement := range map[string]string{
		"label":    "UPDATE heads SET label = REPEAT('x', 100) WHERE number = 'R-1'",
		"revision": "UPDATE heads SET revision = 99999999999 WHERE number = 'R-1'",
		"detail":   "UPDATE trail SET detail = REPEAT('x', 70000)",
	} {
		_, err := testdb.SQL(t, owner, statement)
		got, ok := store.Unfit(fmt.Errorf("saving %s: %w", p.Number, err))
		assert.True(t, ok, "%v", err)
		assert.Equal(t, column, got)
	}
	_, err := testdb.SQL(t, owner, "UPDATE heads SET nothing = 1")
	require.Error(t, err)
	_, ok := store.Unfit(err)
	assert.False(t, ok)
	_, ok = store.Unfit(nil)
	assert.False(t, ok)
}
