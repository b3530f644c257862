package offers

import (
	"context"
	"sync"
	"time"

	"jollydrawer/core/connection"
	"jollydrawer/internal/store"
	"jollydrawer/internal/supplier"
)

const (
	// mostReserved is how many questions an instance takes of a connection's limits at once.
	mostReserved = 10
	// busy is how soon one question has to follow another for several to be taken at once: a person asks one, a refresh many.
	busy = time.Second
)

// budget keeps the limits of connections, for all instances, in the database. Whoever asks much takes some questions of them at once; those that nobody
// asked by their time are lost, and count as asked.
type budget struct {
	store *store.Store
	now   func() time.Time

	mu   sync.Mutex
	lots map[string]*lot // by connection
}

// lot is what an instance has taken of a connection's limits.
type lot struct {
	left   int
	next   time.Time // when the first that is left may go out
	step   time.Duration
	asked  time.Time // last
	streak int       // questions that followed each other at once
}

func newBudget(s *store.Store, now func() time.Time) *budget {
	return &budget{store: s, now: now, lots: map[string]*lot{}}
}

// Take is the asker's.
func (b *budget) Take(ctx context.Context, name string, l connection.Limits) (time.Duration, error) {
	n, wait, ok := b.have(name, l)
	if ok {
		return wait, nil
	}
	got, err := b.store.TakeBudget(ctx, name, l.PerSecond, l.PerDay, n)
	if err == nil && got.Over && n > 1 { // the last of the day, one by one
		n = 1
		got, err = b.store.TakeBudget(ctx, name, l.PerSecond, l.PerDay, n)
	}
	if err == nil && got.Over {
		return 0, &supplier.Trouble{What: "The day's questions to " + name + " are used up (" + plural(l.PerDay, "question") + "); they begin anew at midnight UTC.", Later: true}
	}
	if err != nil {
		return 0, err
	}
	if n > 1 {
		b.mu.Lock()
		defer b.mu.Unlock()
		at := b.lots[name]
		at.step = time.Second / time.Duration(max(l.PerSecond, 1))
		at.left, at.next = n-1, b.now().Add(got.Wait+at.step)
	}
	return got.Wait, nil
}

// have takes a question of those that were taken before. Where there is none, n says how many to take now.
func (b *budget) have(name string, l connection.Limits) (n int, wait time.Duration, ok bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	at := b.lots[name]
	if at == nil {
		at = &lot{}
		b.lots[name] = at
	}
	now := b.now()
	if now.Sub(at.asked) > busy+at.step {
		at.streak, at.left = 0, 0
	}
	at.asked = now
	at.streak++
	if at.left > 0 {
		at.left--
		wait = max(at.next.Sub(now), 0)
		at.asked, at.next = now.Add(wait), now.Add(wait+at.step)
		return 0, wait, true
	}
	return max(1, min(mostReserved, l.PerSecond, at.streak/3)), 0, false
}
