// Package deed is the kernel of the use cases: who asks and what they may do, errors as sentences, carrying out a write
// once, and what all kept things have in common: drafts, revisions, trails. It knows no part, model or BOM.
package deed

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"iter"
	"log/slog"
	"sync"
	"time"

	"jollydrawer/internal/store"
)

// Desk is what every use case works with. Its methods may be called from several goroutines.
type Desk struct {
	Store *store.Store
	Log   *slog.Logger
	Now   func() time.Time
	// Changes tells how often things of a kind were written, so that what was worked out from them can be kept until then; nil
	// where nobody follows the library, and nothing is kept.
	Changes func(kind string) uint64

	names sync.Map // account ID → name
}

// NewDesk returns a desk over a store.
func NewDesk(s *store.Store, log *slog.Logger) *Desk { return &Desk{Store: s, Log: log, Now: time.Now} }

// Call says who asks, and under which identifier the deed is to be done.
type Call struct {
	Actor Actor
	Deed  store.ID // zero: a fresh one
}

// Actor is the person who asks.
type Actor struct {
	ID    store.ID
	Login string
	Name  string
	Role  Role
}

// Do carries out one write: it checks the right, runs fn in a transaction, and gives the first result when the deed
// was done before. request is everything that was asked.
func Do[T any](ctx context.Context, s *Desk, c Call, op Op, what string, request any, fn func(*store.Tx) (T, error)) (out T, err error) {
	if err := Allow(c, op); err != nil {
		return out, err
	}
	d, err := s.NewDeed(c, op, request)
	if err != nil {
		return out, err
	}
	raw, err := s.Store.Do(ctx, d, func(t *store.Tx) (any, error) { return fn(t) })
	if err != nil {
		return out, Sentence(err, what)
	}
	return out, json.Unmarshal(raw, &out)
}

// DoAfter is Do with what has to be looked up and checked first. A deed that was done before answers without it: by the time
// a lost answer is asked for again, what prepare looks at may be otherwise, not least by the deed itself.
func DoAfter[T any](ctx context.Context, s *Desk, c Call, op Op, what string, request any, prepare func() error, fn func(*store.Tx) (T, error)) (T, error) {
	var none T
	if err := Allow(c, op); err != nil {
		return none, err
	}
	if first, ok, err := Replayed[T](ctx, s, c, op, what, request); ok || err != nil {
		return first, err
	}
	if err := prepare(); err != nil {
		if first, ok, e := Replayed[T](ctx, s, c, op, what, request); ok && e == nil { // another try of it was quicker
			return first, nil
		}
		return none, Sentence(err, what)
	}
	return Do(ctx, s, c, op, what, request, fn)
}

// Bulk is a deed over many things, which are staged before one short write shows them.
type Bulk[T any] struct {
	Op       Op
	What     string
	Request  any
	Prepare  func() error                   // looks up and checks; not called for a deed that was done before
	All      iter.Seq2[store.Staged, error] // the things as they shall be, asked for after Prepare
	Also     func(*store.Tx) (T, error)     // what the write does beside them; its result is the deed's
	Progress func(done int) error           // nil where nobody waits
}

// Do carries the deed out.
func (b Bulk[T]) Do(ctx context.Context, s *Desk, c Call) (out T, err error) {
	if err := Allow(c, b.Op); err != nil {
		return out, err
	}
	if first, ok, err := Replayed[T](ctx, s, c, b.Op, b.What, b.Request); ok || err != nil {
		return first, err
	}
	d, err := s.NewDeed(c, b.Op, b.Request)
	if err != nil {
		return out, err
	}
	progress := b.Progress
	if progress == nil {
		progress = func(int) error { return nil }
	}
	if err = b.Prepare(); err == nil {
		var raw json.RawMessage
		if raw, err = s.Store.Bulk(ctx, d, b.All, progress, func(t *store.Tx) (any, error) { return b.Also(t) }); err == nil {
			return out, json.Unmarshal(raw, &out)
		}
	}
	if first, ok, e := Replayed[T](ctx, s, c, b.Op, b.What, b.Request); ok && e == nil { // another try of it was quicker
		return first, nil
	}
	return out, Sentence(err, b.What)
}

// After is the identifier of the deed that follows another one of the same request, the same whenever it is asked again.
func After(id store.ID, what string) (out store.ID) {
	sum := sha256.Sum256(append(id[:], what...))
	copy(out[:], sum[:])
	out[6], out[8] = out[6]&0x0f|0x80, out[8]&0x3f|0x80 // RFC 9562, section 5.8
	return out
}

// Replayed returns the first result of a deed that was done before, so that a retry does not use up numbers.
func Replayed[T any](ctx context.Context, s *Desk, c Call, op Op, what string, request any) (out T, ok bool, err error) {
	if c.Deed.IsZero() {
		return out, false, nil
	}
	d, err := s.NewDeed(c, op, request)
	if err != nil {
		return out, false, err
	}
	raw, err := s.Store.Replay(ctx, d)
	if err != nil || raw == nil {
		return out, false, Sentence(err, what)
	}
	return out, true, json.Unmarshal(raw, &out)
}

// NewDeed is the deed of a call: its identifier, and the hash of all that was asked.
func (s *Desk) NewDeed(c Call, op Op, request any) (store.Deed, error) {
	raw, err := json.Marshal(request)
	if err != nil {
		return store.Deed{}, err
	}
	id := c.Deed
	if id.IsZero() {
		id = store.NewID()
	}
	return store.Deed{ID: id, Kind: string(op), Account: c.Actor.ID, At: store.Stamp(s.Now()), Request: sha256.Sum256(append([]byte(op+"\n"), raw...))}, nil
}

// Person returns an account's name for showing.
func (s *Desk) Person(ctx context.Context, id store.ID) string {
	if id.IsZero() {
		return "the service"
	}
	if n, ok := s.names.Load(id); ok {
		return n.(string)
	}
	a, err := s.Store.Read(ctx).AccountBy("id", id)
	if err != nil {
		return "somebody"
	}
	s.names.Store(id, a.Name)
	return a.Name
}

// Page bounds what a list gives at once.
func Page(offset, limit int) (int, int) {
	if limit <= 0 {
		limit = 50
	}
	return min(max(offset, 0), 100_000_000), min(limit, 1000)
}
