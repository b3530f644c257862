package store_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
)

func TestAPlaceInTheTrailIsReadAsItWasWritten(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := store.TrailPlace{At: time.UnixMicro(rapid.Int64Range(0, 200_000_000_000_000_000).Draw(t, "at")).UTC(), Seq: rapid.IntRange(0, 1<<30).Draw(t, "seq"), Head: store.NewID()}
		got, err := store.ParseTrailPlace(p.String())
		assert.NoError(t, err)
		assert.Equal(t, p, got)
	})
	rapid.Check(t, func(t *rapid.T) { // whatever else is written is refused, or a place
		text := rapid.OneOf(rapid.String(), rapid.StringMatching(`[A-Za-z0-9_-]{0,60}`)).Draw(t, "text")
		p, err := store.ParseTrailPlace(text)
		if err == nil && text != "" {
			assert.Equal(t, text, p.String())
		}
	})
}

func TestALeaseIsHeldByOneAtATime(t *testing.T) {
	s, _ := testdb.Open(t)
	one, other := store.NewID(), store.NewID()
	take := func(who store.ID, keep time.Duration) bool {
		ok, err := s.Lease(t.Context(), "work", who, keep)
		require.NoError(t, err)
		return ok
	}
	assert.True(t, take(one, time.Minute))
	assert.True(t, take(one, time.Minute), "whoever has it holds on to it")
	assert.False(t, take(other, time.Minute))
	assert.True(t, take(one, -time.Second), "and lets go of it")
	assert.True(t, take(other, time.Minute))
	assert.False(t, take(one, time.Minute))
	ok, err := s.Lease(t.Context(), "other work", one, time.Minute)
	require.NoError(t, err)
	assert.True(t, ok, "another name is another lease")
}

// Many instances take what is to be sent: each is tried by one at a time.
func TestASendingIsTriedByOneAtATime(t *testing.T) {
	s, _ := testdb.Open(t)
	_, err := s.Do(t.Context(), store.Deed{ID: store.NewID(), Kind: "test", At: store.Stamp(time.Now())}, func(x *store.Tx) (any, error) {
		var all []store.Sending
		for range 30 {
			all = append(all, store.Sending{ID: store.NewID(), Account: store.NewID(), Way: "mail", Address: "a@b.example", Payload: "{}", Due: store.Stamp(time.Now().Add(-time.Hour)), Made: store.Stamp(time.Now())})
		}
		return nil, x.AddSendings(all)
	})
	require.NoError(t, err)
	claimed := make(chan store.ID, 200)
	done := make(chan bool)
	for range 6 {
		go func() {
			defer func() { done <- true }()
			for empty := 0; empty < 20; {
				w, ok, err := s.ClaimSending(t.Context(), time.Hour)
				if err != nil {
					t.Error(err)
					return
				}
				if !ok {
					empty++
					continue
				}
				claimed <- w.ID
			}
		}()
	}
	for range 6 {
		<-done
	}
	close(claimed)
	seen := map[store.ID]bool{}
	for id := range claimed {
		assert.False(t, seen[id], "tried twice at once")
		seen[id] = true
	}
	assert.Len(t, seen, 30)
}
