package people

import (
	"sync"
	"time"

	"jollydrawer/internal/auth"
	"jollydrawer/internal/service/deed"
)

// rememberedFor is how long an instance believes what it read of a session or token. What this instance itself ends, ends
// at once; what another ends, within this time.
const rememberedFor = time.Second

// maxRemembered bounds how many are remembered.
const maxRemembered = 10_000

// remembered remembers who sessions and tokens belong to, so that a page full of requests does not ask the database about
// the same person over and over. Only what was found is remembered.
type remembered struct {
	mu  sync.Mutex
	now map[[32]byte]rememberedActor
}

type rememberedActor struct {
	actor deed.Actor
	csrf  string
	until time.Time
}

// get returns what is remembered, or asks and remembers the answer.
func (k *remembered) get(secret string, ask func([32]byte) (deed.Actor, string, error)) (deed.Actor, string, error) {
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
	if k.now == nil || len(k.now) >= maxRemembered {
		k.now = map[[32]byte]rememberedActor{}
	}
	k.now[hash] = rememberedActor{a, csrf, time.Now().Add(rememberedFor)}
	return a, csrf, nil
}

// forget drops everything: an account, a session or a token was changed.
func (k *remembered) forget() {
	k.mu.Lock()
	defer k.mu.Unlock()
	k.now = nil
}
