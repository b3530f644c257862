package service

import (
	"sync"
	"time"

	"jollydrawer/internal/auth"
)

// knownFor is how long an instance believes what it read of a session or token. What this instance itself ends, ends
// at once; what another ends, within this time.
const knownFor = time.Second

// maxKnown bounds how many are remembered.
const maxKnown = 10_000

// known remembers who sessions and tokens belong to, so that a page full of requests does not ask the database about
// the same person over and over. Only what was found is remembered.
type known struct {
	mu  sync.Mutex
	now map[[32]byte]knownActor
}

type knownActor struct {
	actor Actor
	csrf  string
	until time.Time
}

// get returns what is remembered, or asks and remembers the answer.
func (k *known) get(secret string, ask func([32]byte) (Actor, string, error)) (Actor, string, error) {
	hash := [32]byte(auth.SecretHash(secret))
	k.mu.Lock()
	have, ok := k.now[hash]
	k.mu.Unlock()
	if ok && time.Now().Before(have.until) {
		return have.actor, have.csrf, nil
	}
	a, csrf, err := ask(hash)
	if err != nil {
		return a, csrf, err
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.now == nil || len(k.now) >= maxKnown {
		k.now = map[[32]byte]knownActor{}
	}
	k.now[hash] = knownActor{a, csrf, time.Now().Add(knownFor)}
	return a, csrf, nil
}

// forget drops everything: an account, a session or a token was changed.
func (k *known) forget() {
	k.mu.Lock()
	defer k.mu.Unlock()
	k.now = nil
}
