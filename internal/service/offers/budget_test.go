package offers

import (
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/connection"
	"jollydrawer/internal/testdb"
)

// Two instances that ask as fast as they may keep the limits of a second together, and those of a day to the last question.
func TestTwoInstancesKeepTheLimitsTogether(t *testing.T) {
	s, _ := testdb.Open(t)
	l := connection.Limits{PerSecond: 50, PerDay: 120}
	var mu sync.Mutex
	var at []time.Time
	over := 0
	start := time.Now()
	var wait sync.WaitGroup
	for range 2 {
		b := newBudget(s, time.Now)
		wait.Go(func() {
			for {
				d, err := b.Take(t.Context(), "Northquay", l)
				if err != nil {
					assert.ErrorContains(t, err, "used up (120 questions)")
					mu.Lock()
					over++
					mu.Unlock()
					return
				}
				out := time.Now().Add(d)
				mu.Lock()
				at = append(at, out)
				mu.Unlock()
				time.Sleep(d)
			}
		})
	}
	wait.Wait()
	assert.Equal(t, 2, over)
	assert.Len(t, at, 120, "every question of the day, and none more")
	last := slices.MaxFunc(at, time.Time.Compare)
	assert.GreaterOrEqual(t, last.Sub(start), 119*time.Second/50, "fifty a second, both together")
}

// A person's questions are taken one by one: nothing is reserved that may be lost.
func TestASingleQuestionReservesNothing(t *testing.T) {
	s, _ := testdb.Open(t)
	now := time.Now()
	b := newBudget(s, func() time.Time { return now })
	l := connection.Limits{PerSecond: 10, PerDay: 100}
	for n := range 4 {
		_, err := b.Take(t.Context(), "Sandbar", l)
		require.NoError(t, err)
		used, err := s.Read(t.Context()).UsedToday()
		require.NoError(t, err)
		assert.Equal(t, n+1, used["Sandbar"])
		now = now.Add(3 * time.Second)
	}
}
