package deed

import (
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"sync"
	"testing"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/document"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestEachRoleMayAllThatTheOneBeforeItMay(t *testing.T) {
	for i, r := range Roles {
		for op, need := range rights {
			want := false
			for _, up := range Roles[:i+1] {
				want = want || up == need
			}
			assert.Equal(t, want, Allows(r, op), "%s %s", r, op)
		}
		if i > 0 {
			assert.Greater(t, len(May(r)), len(May(Roles[i-1])), r)
			assert.Subset(t, May(r), May(Roles[i-1]), r)
		}
		assert.IsIncreasing(t, May(r))
	}
	assert.False(t, Allows(Administrator, "no such operation"), "what nobody gave a right for is nobody's")
	assert.False(t, Allows("no such role", OpRead))
	assert.Empty(t, May("no such role"))
	var e *Error
	require.ErrorAs(t, Allow(Call{}, OpRead), &e)
	assert.Equal(t, Stranger, e.Kind)
	require.ErrorAs(t, Allow(Call{Actor: Actor{ID: NewID(), Role: Engineer}}, OpPartStanding), &e)
	assert.Equal(t, Forbidden, e.Kind)
	assert.Contains(t, e.What, "needs the role librarian")
	assert.NoError(t, Allow(Call{Actor: Actor{ID: NewID(), Role: Librarian}}, OpPartStanding))
}

func TestErrorsOfLowerFloorsBecomeSentences(t *testing.T) {
	for _, c := range []struct {
		err  error
		kind Kind
		typ  string
	}{
		{store.ErrNotFound, Unknown, "not-found"}, {fmt.Errorf("reading: %w", store.ErrNotFound), Unknown, "not-found"}, {store.ErrConflict, Clash, "changed-meanwhile"}, {store.ErrCabinetMoved, Clash, "cabinet-changed"}, {store.ErrReused, Clash, "deed-reused"},
		{&mysql.MySQLError{Number: 1213}, Busy, "database-busy"}, {rows.Errorf("The file is empty."), Invalid, "file-unreadable"}, {Fault(TooLarge, "own", "Own.", ""), TooLarge, "own"},
	} {
		var e *Error
		require.ErrorAs(t, Sentence(c.err, "part"), &e, "%v", c.err)
		assert.Equal(t, c.kind, e.Kind, "%v", c.err)
		assert.Equal(t, c.typ, e.Type)
		assert.True(t, strings.HasSuffix(e.Error(), "."), e.Error())
	}
	odd := errors.New("nobody knows")
	assert.Equal(t, odd, Sentence(odd, "part"), "what is not known stays as it is")
	assert.NoError(t, Sentence(nil, "part"))
	assert.Equal(t, "It is odd.", SentenceOf(errors.New("It is odd")))
	assert.Equal(t, "It is odd.", SentenceOf(errors.New("It is odd.")))
	e := Fault(Invalid, "x", "Nothing was saved:", "Correct it.")
	e.Places = []wire.ProblemDetail{{Message: "a is wrong"}, {Message: "b too"}}
	assert.Equal(t, "Nothing was saved: a is wrong. b too. Correct it.", e.Error())
	assert.True(t, CabinetMoved(Sentence(store.ErrCabinetMoved, "part")))
	assert.True(t, CabinetMoved(store.ErrCabinetMoved))
	assert.False(t, CabinetMoved(store.ErrConflict))
	assert.True(t, NotFound(fmt.Errorf("x: %w", store.ErrNotFound)))
	assert.True(t, Temporary(&mysql.MySQLError{Number: 1205}))
	assert.False(t, Temporary(store.ErrConflict))
}

func TestAPageIsBounded(t *testing.T) {
	for _, c := range [][4]int{{0, 0, 0, 50}, {-5, 10, 0, 10}, {7, -1, 7, 50}, {7, 1000, 7, 1000}, {7, 1001, 7, 1000}, {1 << 40, 5, 100_000_000, 5}} {
		offset, limit := Page(c[0], c[1])
		assert.Equal(t, [2]int{c[2], c[3]}, [2]int{offset, limit}, "%v", c)
	}
}

func TestAViewIsOfOneVersion(t *testing.T) {
	version, looks := 1, 0
	again := func() (store.Head, error) { return store.Head{Version: version}, nil }
	got, err := Whole(store.Head{Version: 1}, again, func(h store.Head) (int, error) {
		if looks++; looks < 3 {
			version++ // somebody saves while it is put together
		}
		return h.Version, nil
	})
	require.NoError(t, err)
	assert.Equal(t, []int{3, 3}, []int{got, looks}, "what came out of two versions is made anew")
	_, err = Whole(store.Head{}, again, func(h store.Head) (int, error) { version++; return 0, nil })
	var e *Error
	require.ErrorAs(t, err, &e)
	assert.Equal(t, Busy, e.Kind)
	_, err = Whole(store.Head{}, again, func(store.Head) (int, error) { return 0, store.ErrNotFound })
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestATrailKeepsWhatFits(t *testing.T) {
	long := strings.Repeat("é", 100) // 200 bytes
	got := TrailChanges([]document.Change{{Path: "a", Old: "short", New: long}})
	assert.Equal(t, "short", got[0].Old)
	assert.Equal(t, strings.Repeat("é", 75)+"…", got[0].New, "no letter is cut in two")
	odd := TrailChanges([]document.Change{{Old: "x" + long}})
	assert.Equal(t, "x"+strings.Repeat("é", 74)+"…", odd[0].Old)
	assert.Len(t, TrailChanges(make([]document.Change, 101)), 100)
	assert.Equal(t, strings.Repeat("x", 150), TrailChanges([]document.Change{{Old: strings.Repeat("x", 150)}})[0].Old)
}

func TestTheDeedBehindAnotherIsAlwaysTheSame(t *testing.T) {
	id := NewID()
	assert.Equal(t, After(id, "release"), After(id, "release"))
	assert.NotEqual(t, After(id, "release"), After(id, "link"))
	assert.NotEqual(t, After(id, "release"), After(NewID(), "release"))
	assert.Equal(t, "8", After(id, "x").String()[14:15], "RFC 9562, version 8")
	assert.Len(t, ShortName(strings.Repeat("long ", 100)), 32)
	assert.NotEqual(t, ShortName("a"), ShortName("A"))
}

// A named document is said once whoever says it, however often the same deed is sent, and only by who saw its newest version.
func TestANamedDocumentIsSaidOnce(t *testing.T) {
	s, _ := testdb.Open(t)
	d := NewDesk(s, slog.New(slog.DiscardHandler))
	me := Call{Actor: Actor{ID: NewID(), Role: Administrator}, Deed: NewID()}
	apply := func(c Call, version int, text string) (int, error) {
		return Do(t.Context(), d, c, OpCabinet, "document", text, func(t *store.Tx) (int, error) {
			raw, hash, err := document.Canonical(map[string]string{"text": text})
			if err != nil {
				return 0, err
			}
			return Apply(t, store.KindCrosswalk, "one", "test/1", version, raw, store.Hash(hash))
		})
	}
	n, err := apply(me, 0, "a")
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	var wg sync.WaitGroup
	for range 8 {
		wg.Go(func() {
			n, err := apply(me, 0, "a")
			assert.NoError(t, err)
			assert.Equal(t, 1, n, "the same deed answers the same")
		})
	}
	wg.Wait()
	me.Deed = NewID()
	n, err = apply(me, 7, "a")
	require.NoError(t, err)
	assert.Equal(t, 1, n, "the same document is no new revision, whatever version is named")
	me.Deed = NewID()
	_, err = apply(me, 7, "b")
	var e *Error
	require.ErrorAs(t, err, &e)
	assert.Equal(t, "changed-meanwhile", e.Type)
	n, err = apply(me, 1, "b")
	require.NoError(t, err, "a deed that came to nothing may be sent again")
	assert.Equal(t, 2, n)
	_, err = apply(me, 2, "c")
	require.ErrorAs(t, err, &e)
	assert.Equal(t, "deed-reused", e.Type, "one deed asks for one thing")
	_, err = apply(Call{Actor: Actor{ID: NewID(), Role: Reader}}, 2, "c")
	require.ErrorAs(t, err, &e)
	assert.Equal(t, "not-allowed", e.Type)
	h, err := s.Read(t.Context()).HeadByNumber(store.KindCrosswalk, "one")
	require.NoError(t, err)
	revs, err := s.Read(t.Context()).Revisions(h.ID)
	require.NoError(t, err)
	assert.Len(t, revs, 2)
	trail, err := d.TrailOf(t.Context(), h, 0, 1)
	require.NoError(t, err)
	require.Len(t, trail.Items, 1)
	assert.Equal(t, int64(2), int64(trail.Items[0].Seq), "newest first")
}
