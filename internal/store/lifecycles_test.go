package store_test

import (
	"crypto/sha256"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
)

// by does something to a part as a person, and notes it in the part's trail under a word.
func by(t *testing.T, s *store.Store, who store.ID, h store.Head, word string, fn func(*store.Tx, *store.Head) error) {
	t.Helper()
	d := deed(word)
	d.Account = who
	_, err := s.Do(t.Context(), d, func(tx *store.Tx) (any, error) {
		now, err := tx.Head(h.Kind, h.ID)
		if err != nil {
			return nil, err
		}
		if err := fn(tx, &now); err != nil {
			return nil, err
		}
		return nil, tx.Update(&now, word, nil)
	})
	require.NoError(t, err)
}

// edit gives a part a content of its own.
func edit(text string) func(*store.Tx, *store.Head) error {
	return func(tx *store.Tx, h *store.Head) error {
		c := content(h.ID, text)
		h.Draft = c.ID
		return tx.AddContent(&c)
	}
}

func release(label string) func(*store.Tx, *store.Head) error {
	return func(tx *store.Tx, h *store.Head) error {
		c := content(h.ID, "released as "+label)
		if err := tx.AddContent(&c); err != nil {
			return err
		}
		h.Draft = store.ID{}
		return tx.AddRevision(h, c, "note", label)
	}
}

func quietly(*store.Tx, *store.Head) error { return nil }

func TestAuthorsAreThoseWhoChangedTheContentSinceItWasReleased(t *testing.T) {
	s, _ := testdb.Open(t)
	h, other := newPart(t, s, "R-1"), newPart(t, s, "R-2")
	tove, iver, maren := store.NewID(), store.NewID(), store.NewID()
	authors := func() []store.ID {
		now, err := s.Read(t.Context()).HeadsByID([]store.ID{h.ID, other.ID})
		require.NoError(t, err)
		all, err := s.Read(t.Context()).Authors(now)
		require.NoError(t, err)
		require.Len(t, all[other.ID], 1, "of another thing it says what is its own")
		return all[h.ID]
	}
	made := authors()
	require.Len(t, made, 1)
	by(t, s, tove, h, "changed", edit("a"))
	by(t, s, iver, h, "changed", edit("b"))
	by(t, s, iver, h, "changed", edit("c"))
	by(t, s, maren, h, "asked for review", quietly)
	assert.ElementsMatch(t, append(made, tove, iver), authors(), "whoever passes a thing on is no author")
	by(t, s, maren, h, "released", release("A"))
	assert.Empty(t, authors(), "what is released has none: the next change is somebody's alone")
	by(t, s, maren, h, "changed", edit("d"))
	assert.Equal(t, []store.ID{maren}, authors())
}

// What waits is whose who wrote none of it, as the trail tells it entry by entry, whatever became of the things before.
func TestNobodysQueueHoldsWhatTheyWrote(t *testing.T) {
	s, _ := testdb.Open(t)
	people := []store.ID{store.NewID(), store.NewID(), store.NewID()}
	r := rand.New(rand.NewPCG(14, 3))
	type state struct {
		head    store.Head
		authors map[store.ID]bool // since the last release
		writer  store.ID          // of the newest content
		before  store.ID          // of what is released
	}
	var all []*state
	for n := range 8 {
		h := newPart(t, s, fmt.Sprintf("R-%d", n))
		now, err := s.Read(t.Context()).Head(h.Kind, h.ID)
		require.NoError(t, err)
		all = append(all, &state{head: h, authors: map[store.ID]bool{}, writer: now.WrittenBy})
	}
	seen := map[string]int{}
	for range 250 {
		x, who := all[r.IntN(len(all))], people[r.IntN(len(people))]
		switch step := r.IntN(10); {
		case step < 6:
			by(t, s, who, x.head, "changed", edit(fmt.Sprint(r.Int())))
			x.authors[who], x.writer = true, who
			seen["changed"]++
		case step < 8:
			by(t, s, who, x.head, "asked for review", quietly)
		default:
			by(t, s, who, x.head, "released", func(tx *store.Tx, h *store.Head) error {
				if h.Draft.IsZero() {
					return nil
				}
				c, err := tx.Content(h.Draft)
				if err != nil {
					return err
				}
				x.authors, x.before = map[store.ID]bool{}, x.writer
				seen["released"]++
				return tx.AddRevision(h, c, "note", "")
			})
		}
		by(t, s, who, x.head, "moved", func(_ *store.Tx, h *store.Head) error {
			at := store.Stamp(time.Now())
			h.DraftState, h.Moved = "in review", &at
			return nil
		})
		now, err := s.Read(t.Context()).Head(x.head.Kind, x.head.ID)
		require.NoError(t, err)
		assert.Equal(t, x.writer, now.WrittenBy)
		told, err := s.Read(t.Context()).Authors([]store.Head{now})
		require.NoError(t, err)
		for _, p := range people {
			assert.Equal(t, x.authors[p], slices.Contains(told[now.ID], p), "%s: what the record says is what was done", now.Number)
		}
		assert.LessOrEqual(t, min(len(x.authors), 2), now.Writers+1, "nobody is forgotten") // the first of a new part is whoever made it
		for _, p := range people {
			got, total, err := s.Read(t.Context()).Waiting(store.WaitingQuery{States: []string{"in review"}, Kinds: []string{"part"}, NotBy: p}, 0, 100)
			require.NoError(t, err)
			var numbers, want []string
			for _, h := range got {
				numbers = append(numbers, h.Number)
			}
			for _, y := range all {
				h, err := s.Read(t.Context()).Head("part", y.head.ID)
				require.NoError(t, err)
				if h.DraftState == "in review" && !y.authors[p] {
					want = append(want, h.Number)
				}
			}
			require.ElementsMatch(t, want, numbers)
			require.EqualValues(t, len(want), total)
		}
	}
	assert.Greater(t, seen["released"], 10)
}

func TestARevisionIsFoundByItsLabelAsItIsWritten(t *testing.T) {
	s, _ := testdb.Open(t)
	lettered, numbered := newPart(t, s, "R-1"), newPart(t, s, "R-2")
	for _, l := range []string{"A", "B", "1.10", "3"} { // the counting was changed twice: its fourth revision is labelled 3
		by(t, s, store.NewID(), lettered, "released", release(l))
	}
	for range 12 {
		by(t, s, store.NewID(), numbered, "released", release(""))
	}
	for _, c := range []struct {
		of    store.Head
		label string
		want  int // 0 is none
	}{
		{lettered, "A", 1}, {lettered, "B", 2}, {lettered, "1.10", 3}, {lettered, "3", 4}, {lettered, "a", 0}, {lettered, "C", 0},
		{lettered, "1", 0}, {lettered, "2", 0}, {lettered, "4", 0}, {lettered, "1.1", 0}, {lettered, "A ", 0}, {lettered, "", 0},
		{numbered, "1", 1}, {numbered, "12", 12}, {numbered, "2abc", 0}, {numbered, "1e1", 0}, {numbered, "2 ", 0}, {numbered, " 2", 0},
		{numbered, "02", 0}, {numbered, "+2", 0}, {numbered, "2.0", 0}, {numbered, "0x2", 0}, {numbered, "-2", 0}, {numbered, "0", 0},
		{numbered, "13", 0}, {numbered, "A", 0}, {numbered, "", 0}, {numbered, "٢", 0}, {numbered, "18446744073709551618", 0},
	} {
		v, err := s.Read(t.Context()).LabelledRevision(c.of.ID, c.label)
		if c.want == 0 {
			assert.ErrorIs(t, err, store.ErrNotFound, "%s of %s", c.label, c.of.Number)
		} else if assert.NoError(t, err, c.label) {
			assert.Equal(t, c.want, v.Number, "%s of %s", c.label, c.of.Number)
		}
	}
}

func TestWhatWaitsIsListedByHowLongItWaits(t *testing.T) {
	s, _ := testdb.Open(t)
	var want []string
	for n := range 7 {
		h := newPart(t, s, fmt.Sprintf("R-%d", n))
		by(t, s, store.NewID(), h, "asked for review", func(_ *store.Tx, h *store.Head) error {
			since := store.Stamp(time.Now().Add(-time.Duration(n%3)*time.Hour - time.Duration(n)*time.Second))
			h.DraftState, h.Moved = "in review", &since
			switch n {
			case 0:
				h.DraftState = "" // nobody asked
			case 1:
				h.Standing = store.Withdrawn
			case 2:
				h.Draft = store.ID{} // was released in the meantime
			}
			return nil
		})
		by(t, s, store.NewID(), h, "remarked", quietly) // does not make anybody wait anew
	}
	want = []string{"R-5", "R-4", "R-6", "R-3"}
	var got []string
	for offset := 0; ; offset += 3 {
		all, total, err := s.Read(t.Context()).Waiting(store.WaitingQuery{States: []string{"in review"}, Kinds: []string{store.KindPart}}, offset, 3)
		require.NoError(t, err)
		assert.EqualValues(t, 4, total)
		for _, h := range all {
			got = append(got, h.Number)
		}
		if len(all) < 3 {
			break
		}
	}
	assert.Equal(t, want, got)
	for most, want := range map[int]int{1: 1, 3: 3, 4: 4, 9: 4} {
		_, total, err := s.Read(t.Context()).Waiting(store.WaitingQuery{States: []string{"in review"}, Kinds: []string{store.KindPart}, Count: most}, 0, 3)
		require.NoError(t, err)
		assert.EqualValues(t, want, total, "of which %d are counted", most)
	}
	none, total, err := s.Read(t.Context()).Waiting(store.WaitingQuery{States: []string{"in review"}, Kinds: []string{"model"}}, 0, 3)
	require.NoError(t, err)
	assert.Empty(t, none)
	assert.Zero(t, total)
}

func TestHoldersAreThoseOfARevisionAndThoseOfAny(t *testing.T) {
	s, _ := testdb.Open(t)
	child := newPart(t, s, "M-1")
	for n, uses := range [][]store.Use{
		{{Place: "symbol", Child: child.ID, ChildRevision: 1}},
		{{Place: "symbol", Child: child.ID, ChildRevision: 2}},
		{{Place: "a", Child: child.ID, ChildRevision: 1}, {Place: "b", Child: child.ID, ChildRevision: 1}},
		{{Place: "line", Child: child.ID}}, // whatever revision is newest
		{{Place: "symbol", Child: store.NewID(), ChildRevision: 1}},
	} {
		h := newPart(t, s, fmt.Sprintf("R-%d", n))
		_, err := s.Do(t.Context(), deed("use"), func(tx *store.Tx) (any, error) { return nil, tx.SetUses(h.ID, "", uses) })
		require.NoError(t, err)
	}
	for revision, want := range map[int][]string{1: {"R-0", "R-2", "R-3"}, 2: {"R-1", "R-3"}, 3: {"R-3"}} {
		all, err := s.Read(t.Context()).HoldersOf(child.ID, revision, 10)
		require.NoError(t, err)
		var got []string
		for _, h := range all {
			got = append(got, h.Number)
		}
		assert.Equal(t, want, got, "revision %d", revision)
	}
	few, err := s.Read(t.Context()).HoldersOf(child.ID, 1, 2)
	require.NoError(t, err)
	assert.Len(t, few, 2)
}

func TestWaiversSignsTicksAndProofsAreKeptOncePerPersonAndContent(t *testing.T) {
	s, _ := testdb.Open(t)
	h, maren, iver := newPart(t, s, "R-1"), store.NewID(), store.NewID()
	old, now := store.Hash(sha256.Sum256([]byte("old"))), store.Hash(sha256.Sum256([]byte("now")))
	at := store.Stamp(time.Now())
	do := func(fn func(*store.Tx) error) {
		t.Helper()
		_, err := s.Do(t.Context(), deed("aside"), func(tx *store.Tx) (any, error) { return nil, fn(tx) })
		require.NoError(t, err)
	}
	for n, looked := range []store.Hash{old, now, now} {
		do(func(tx *store.Tx) error {
			return tx.WaiveGate(store.GateWaiver{Head: h.ID, Gate: "sources", Looked: looked, Why: fmt.Sprint(n), Account: maren, At: at.Add(time.Duration(n) * time.Second)})
		})
		do(func(tx *store.Tx) error {
			return tx.SignReview(store.ReviewSign{Head: h.ID, Content: looked, Account: maren, Against: fmt.Sprint(n), At: at.Add(time.Duration(n) * time.Second)})
		})
		do(func(tx *store.Tx) error {
			return tx.Tick(store.ReviewTick{Head: h.ID, Item: "value", Account: maren, Value: looked, At: at.Add(time.Duration(n) * time.Second)})
		})
	}
	do(func(tx *store.Tx) error {
		return tx.SignReview(store.ReviewSign{Head: h.ID, Content: now, Account: iver, Author: true, Against: "x", At: at})
	})
	do(func(tx *store.Tx) error {
		return tx.Tick(store.ReviewTick{Head: h.ID, Item: "value", Account: iver, Value: now, At: at})
	})
	r := s.Read(t.Context())
	waivers, err := r.GateWaivers([]store.ID{h.ID})
	require.NoError(t, err)
	require.Len(t, waivers, 2, "a waiver of what the gate looked at before stays to be seen")
	assert.Equal(t, []string{"0", "2"}, []string{waivers[0].Why, waivers[1].Why})
	signs, err := r.ReviewSigns([]store.ID{h.ID})
	require.NoError(t, err)
	require.Len(t, signs, 3)
	assert.Equal(t, "2", signs[0].Against, "the newest first")
	ticks, err := r.ReviewTicks(h.ID)
	require.NoError(t, err)
	require.Len(t, ticks, 2)
	assert.Equal(t, now, ticks[0].Value)

	do(func(tx *store.Tx) error {
		return tx.Tick(store.ReviewTick{Head: h.ID, Item: "value", Account: maren})
	})
	ticks, err = s.Read(t.Context()).ReviewTicks(h.ID)
	require.NoError(t, err)
	require.Len(t, ticks, 1, "a tick taken back is one's own")
	assert.Equal(t, iver, ticks[0].Account)
	do(func(tx *store.Tx) error {
		there, err := tx.UnwaiveGate(h.ID, "sources")
		assert.True(t, there)
		return err
	})
	do(func(tx *store.Tx) error {
		there, err := tx.UnwaiveGate(h.ID, "sources")
		assert.False(t, there)
		return err
	})
	all, total, err := s.Read(t.Context()).AllGateWaivers(0, 10)
	require.NoError(t, err)
	assert.Empty(t, all)
	assert.Zero(t, total)
}

func TestGroupsAreChangedAsAWhole(t *testing.T) {
	s, _ := testdb.Open(t)
	accounts := map[string]store.ID{}
	for login, role := range map[string]string{"maren": "librarian", "tove": "engineer", "iver": "engineer", "gone": "engineer"} {
		a := store.Account{ID: store.NewID(), Login: login, Name: login, Role: role, Disabled: login == "gone", Version: 1, Created: store.Stamp(time.Now())}
		_, err := s.Do(t.Context(), deed("account"), func(tx *store.Tx) (any, error) { return nil, tx.AddAccount(&a) })
		require.NoError(t, err)
		accounts[login] = a.ID
	}
	save := func(g store.Group) (store.Group, error) {
		_, err := s.Do(t.Context(), deed("group"), func(tx *store.Tx) (any, error) { return nil, tx.SaveGroup(&g) })
		return g, err
	}
	desk, err := save(store.Group{ID: store.NewID(), Name: "Power desk", Members: []store.ID{accounts["tove"], accounts["maren"]}, Drawers: []string{"b", "a"}, Kinds: []string{"symbol"}})
	require.NoError(t, err)
	_, err = save(store.Group{ID: store.NewID(), Name: "Power desk"})
	assert.ErrorIs(t, err, store.ErrNumberTaken)
	room, err := save(store.Group{ID: store.NewID(), Name: "Drawing room", Members: []store.ID{accounts["gone"], accounts["tove"]}})
	require.NoError(t, err)
	_, err = save(store.Group{ID: room.ID, Name: "Power desk", Version: room.Version})
	assert.ErrorIs(t, err, store.ErrNumberTaken, "nor by another name")

	desk.Members, desk.Drawers, desk.Kinds, desk.About = []store.ID{accounts["iver"]}, nil, []string{"body"}, "power"
	stale := desk
	desk, err = save(desk)
	require.NoError(t, err)
	_, err = save(stale)
	assert.ErrorIs(t, err, store.ErrConflict)

	r := s.Read(t.Context())
	all, err := r.Groups()
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.Equal(t, "Drawing room", all[0].Name)
	assert.Equal(t, desk, all[1])
	mine, err := r.GroupsOf(accounts["tove"])
	require.NoError(t, err)
	assert.Equal(t, []string{"Drawing room"}, mine)
	with, err := r.PeopleWith([]string{"engineer", "librarian"}, "")
	require.NoError(t, err)
	assert.ElementsMatch(t, []store.ID{accounts["maren"], accounts["tove"], accounts["iver"]}, with, "nobody who may not sign in")
	with, err = r.PeopleWith([]string{"engineer"}, "Drawing room")
	require.NoError(t, err)
	assert.Equal(t, []store.ID{accounts["tove"]}, with)
	_, err = r.PeopleWith([]string{"engineer"}, "Rigging")
	assert.ErrorIs(t, err, store.ErrNotFound)

	drop := func(version int) error {
		_, err := s.Do(t.Context(), deed("drop"), func(tx *store.Tx) (any, error) { return nil, tx.DropGroup(room.ID, version) })
		return err
	}
	assert.ErrorIs(t, drop(room.Version+1), store.ErrConflict)
	require.NoError(t, drop(room.Version))
	mine, err = s.Read(t.Context()).GroupsOf(accounts["tove"])
	require.NoError(t, err)
	assert.Empty(t, mine)
}

func TestWantsAreListedByHowLongTheyWait(t *testing.T) {
	s, _ := testdb.Open(t)
	iver, tove, now := store.NewID(), store.NewID(), store.Stamp(time.Now())
	part := newPart(t, s, "R-1")
	var ids []store.ID
	for n := range 6 {
		h := store.Head{ID: store.NewID(), Kind: "want", Number: fmt.Sprintf("W-%d", n)}
		w := store.Want{Head: h.ID, WantedBy: []store.ID{iver, tove}[n%2], State: "open", Asked: now.Add(-time.Duration(n) * time.Hour)}
		_, err := s.Do(t.Context(), deed("want"), func(tx *store.Tx) (any, error) {
			if err := tx.AddWants([]store.Want{w}); err != nil {
				return nil, err
			}
			if n >= 4 {
				ended := now.Add(-time.Duration(n) * time.Minute)
				w.State, w.Part, w.TakenBy, w.Settled = "answered", part.ID, tove, &ended
			}
			return nil, errorOr(tx.SaveWant(w), func() error { return tx.Insert(&h, "wanted", nil) })
		})
		require.NoError(t, err)
		ids = append(ids, h.ID)
	}
	for _, c := range []struct {
		q    store.WantQuery
		want []string
	}{
		{store.WantQuery{}, []string{"W-5", "W-4", "W-3", "W-2", "W-1", "W-0"}},
		{store.WantQuery{States: []string{"open"}}, []string{"W-3", "W-2", "W-1", "W-0"}},
		{store.WantQuery{States: []string{"open", "answered"}, WantedBy: iver}, []string{"W-4", "W-2", "W-0"}},
		{store.WantQuery{Part: part.ID}, []string{"W-5", "W-4"}},
		{store.WantQuery{SettledSince: now.Add(-4*time.Minute - 30*time.Second)}, []string{"W-4"}},
		{store.WantQuery{States: []string{"declined"}}, nil},
	} {
		var got []string
		for offset := 0; offset == len(got); offset += 4 {
			all, heads, total, err := s.Read(t.Context()).Wants(c.q, offset, 4)
			require.NoError(t, err)
			assert.EqualValues(t, len(c.want), total)
			for _, w := range all {
				got = append(got, heads[w.Head].Number)
			}
		}
		assert.Equal(t, c.want, got, "%+v", c.q)
	}
	counts, err := s.Read(t.Context()).CountWants()
	require.NoError(t, err)
	assert.Equal(t, map[string]int{"open": 4, "answered": 2}, counts)
	w, err := s.Read(t.Context()).Want(ids[5])
	require.NoError(t, err)
	assert.Equal(t, part.ID, w.Part)
	_, err = s.Read(t.Context()).Want(store.NewID())
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func errorOr(err error, next func() error) error {
	if err != nil {
		return err
	}
	return next()
}
