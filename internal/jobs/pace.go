package jobs

import (
	"sync/atomic"
	"time"
)

// Pace is how fast work goes that passes through a whole library. While nobody asks for anything its steps go beside each other, as
// many as there are; while people do, one goes at a time, so that a processor is free for them. A nil Pace holds nothing up. Its
// methods may be called from several goroutines.
type Pace struct {
	asked atomic.Pointer[time.Time]
	turn  chan struct{}
}

// NewPace returns the pace of an instance.
func NewPace() *Pace { return &Pace{turn: make(chan struct{}, 1)} }

// about is for how long after their last question people are taken to be about.
const about = 500 * time.Millisecond

// Asked says that somebody asks for something now.
func (p *Pace) Asked() {
	now := time.Now()
	p.asked.Store(&now)
}

// Step does a step: some tenths of a second of work that waits for no other step.
func (p *Pace) Step(f func()) {
	if p != nil && p.People() {
		p.turn <- struct{}{}
		defer func() { <-p.turn }()
	}
	f()
}

// People says whether people are about.
func (p *Pace) People() bool {
	at := p.asked.Load()
	return at != nil && time.Since(*at) < about
}
