package jobs

import (
	"sync"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
)

// atOnce is how many of three steps that begin together go beside each other at most.
func atOnce(p *Pace) (most int) {
	var mu sync.Mutex
	var all sync.WaitGroup
	now := 0
	for range 3 {
		all.Go(func() {
			p.Step(func() {
				mu.Lock()
				now++
				most = max(most, now)
				mu.Unlock()
				time.Sleep(time.Second)
				mu.Lock()
				now--
				mu.Unlock()
			})
		})
	}
	all.Wait()
	return most
}

func TestWorkGoesAStepAtATimeWhilePeopleAreAbout(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		p := NewPace()
		assert.Equal(t, 3, atOnce(p), "nobody has asked for anything yet")
		p.Asked()
		assert.Equal(t, 1, atOnce(p), "somebody is there")
		time.Sleep(about)
		assert.Equal(t, 3, atOnce(p), "they have been gone for a while")
		p.Asked()
		time.Sleep(about / 2)
		p.Asked()
		time.Sleep(about / 2)
		assert.Equal(t, 1, atOnce(p), "their last question counts")
		assert.Equal(t, 3, atOnce(nil))
	})
}

func TestAStepThatPanicsHoldsNobodyUp(t *testing.T) {
	p := NewPace()
	p.Asked()
	assert.Panics(t, func() { p.Step(func() { panic("broken") }) })
	p.Asked()
	done := false
	p.Step(func() { done = true })
	assert.True(t, done)
}
