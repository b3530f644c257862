package lookup

import (
	"hash/maphash"
	"sync"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/part"
)

// touch is one entry that was put or removed: as it was and as it is, nil where it was or is not there.
type touch struct {
	generation    uint64
	before, after *Entry
}

// mostTouches is how many touches an index remembers. What changes more at once is asked anew as a whole.
const mostTouches = 4096

// touched remembers a touch; the caller holds the lock. The oldest ones are forgotten some at a time.
func (x *Index) touched(before, after *Entry) {
	if len(x.touches) >= 2*mostTouches {
		x.forgotten = x.touches[mostTouches-1].generation
		x.touches = append(x.touches[:0:0], x.touches[mostTouches:]...)
	}
	x.touches = append(x.touches, touch{x.generation + 1, before, after})
}

// Answers asks an index and remembers what was asked, answers of nothing included: a new part may answer those. What was worked
// out from it holds as long as nothing is touched that could answer otherwise. Its methods may be called from several goroutines.
type Answers struct {
	x     *Index
	seed  maphash.Seed
	mu    sync.Mutex
	since uint64
	asked map[askedFor]bool
	likes map[string]*likeAsked
	any   map[string]bool // drawers of which anything could be an answer; "" stands for all
}

// likeAsked is what was asked of the values of a drawer's parts.
type likeAsked struct {
	keys   []string
	hashes map[uint64]bool // of the values asked for
}

// Answers returns a way to ask that remembers.
func (x *Index) Answers() *Answers {
	return &Answers{x: x, seed: maphash.MakeSeed(), since: x.Generation(), asked: map[askedFor]bool{}, likes: map[string]*likeAsked{}, any: map[string]bool{}}
}

// askedFor is a key that was asked for, and the kind of key.
type askedFor struct {
	kind byte
	key  string
}

// Kinds of keys.
const (
	askedID byte = iota
	askedNumber
	askedMPN
	askedSource
	askedSupplied
	askedMaker
	askedMakers
)

func (a *Answers) note(kind byte, key string) {
	a.mu.Lock()
	a.asked[askedFor{kind, key}] = true
	a.mu.Unlock()
}

// ByID is Index.ByID.
func (a *Answers) ByID(id string) (*Entry, bool) { a.note(askedID, id); return a.x.ByID(id) }

// ByNumber is Index.ByNumber.
func (a *Answers) ByNumber(number string) (*Entry, bool) {
	a.note(askedNumber, part.NormaliseMPN(number))
	return a.x.ByNumber(number)
}

// ByNumberLike is Index.ByNumberLike.
func (a *Answers) ByNumberLike(number string) []*Entry {
	a.note(askedNumber, part.NormaliseMPN(number))
	return a.x.ByNumberLike(number)
}

// ByMPN is Index.ByMPN.
func (a *Answers) ByMPN(mpn string) []*Entry {
	a.note(askedMPN, part.NormaliseMPN(mpn))
	return a.x.ByMPN(mpn)
}

// BySource is Index.BySource.
func (a *Answers) BySource(key string) (*Entry, bool) {
	a.note(askedSource, key)
	return a.x.BySource(key)
}

// BySupplierNumber is Index.BySupplierNumber.
func (a *Answers) BySupplierNumber(number string) []*Entry {
	a.note(askedSupplied, part.NormaliseMPN(number))
	return a.x.BySupplierNumber(number)
}

// Makers is Index.Makers.
func (a *Answers) Makers() []string {
	all := a.x.Makers()
	a.mu.Lock()
	defer a.mu.Unlock()
	a.asked[askedFor{kind: askedMakers}] = true
	for _, m := range all {
		a.asked[askedFor{askedMaker, m}] = true
	}
	return all
}

// Best is Index.Best.
func (a *Answers) Best(q Asked) (best []*Entry, like int) {
	a.mu.Lock()
	for _, d := range q.Drawers {
		a.any[d] = true
	}
	if len(q.Drawers) == 0 {
		a.any[""] = true
	}
	a.mu.Unlock()
	return a.x.Best(q)
}

// Like is Index.Like.
func (a *Answers) Like(drawer string, keys []string) func(value func(key string) cabinet.Value) []string {
	find := a.x.Like(drawer, keys)
	a.mu.Lock()
	l := a.likes[drawer]
	if l == nil {
		l = &likeAsked{keys: keys, hashes: map[uint64]bool{}}
		a.likes[drawer] = l
	}
	a.mu.Unlock()
	return func(value func(key string) cabinet.Value) []string {
		h := a.hash(keys, value)
		a.mu.Lock()
		l.hashes[h] = true
		a.mu.Unlock()
		if find == nil {
			return nil
		}
		return find(value)
	}
}

func (a *Answers) hash(keys []string, value func(key string) cabinet.Value) uint64 {
	var sum uint64
	for _, k := range keys {
		sum = sum*1099511628211 + maphash.Comparable(a.seed, value(k))
	}
	return sum
}

// Hold says whether every answer is still what it was. It is quick where little was touched.
func (a *Answers) Hold() bool {
	a.mu.Lock()
	defer a.mu.Unlock()
	touches, now, whole := a.x.touchesSince(a.since)
	if !whole {
		return false
	}
	for _, t := range touches {
		if t.before != nil && a.concerns(t.before) || t.after != nil && a.concerns(t.after) {
			return false
		}
	}
	a.since = now
	return true
}

// touchesSince returns what was touched since a generation; whole is false where some of it is forgotten.
func (x *Index) touchesSince(generation uint64) (out []touch, now uint64, whole bool) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	if generation < x.forgotten {
		return nil, 0, false
	}
	i := len(x.touches)
	for i > 0 && x.touches[i-1].generation > generation {
		i--
	}
	return x.touches[i:len(x.touches):len(x.touches)], x.generation, true
}

// concerns says whether an entry could be, or could have been, among the answers.
func (a *Answers) concerns(e *Entry) bool {
	if a.any[""] || a.any[e.Drawer] || a.asked[askedFor{askedID, e.ID}] || a.asked[askedFor{askedNumber, part.NormaliseMPN(e.Number)}] {
		return true
	}
	for _, n := range e.Former {
		if a.asked[askedFor{askedNumber, part.NormaliseMPN(n)}] {
			return true
		}
	}
	for _, s := range e.Sources {
		if a.asked[askedFor{askedSource, s.Key()}] || a.asked[askedFor{askedMPN, part.NormaliseMPN(s.MPN)}] || a.asked[askedFor{kind: askedMakers}] && !a.asked[askedFor{askedMaker, s.Manufacturer}] {
			return true
		}
		for _, n := range s.Numbers {
			if a.asked[askedFor{askedSupplied, part.NormaliseMPN(n.Number)}] {
				return true
			}
		}
	}
	l := a.likes[e.Drawer]
	return l != nil && l.hashes[a.hash(l.keys, e.Value)]
}
