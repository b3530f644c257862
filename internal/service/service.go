// Package service holds the use cases: one function, one deed. It decides who may do what, checks input against the
// rules in core, and lets the store write. It returns the types of package wire, which the API passes on unchanged.
package service

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lookup"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/jobs"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Service carries out the use cases. Its methods may be called from several goroutines.
type Service struct {
	Store  *store.Store
	Index  *lookup.Index
	Jobs   *jobs.Runner
	Log    *slog.Logger
	Limits rows.Limits
	Now    func() time.Time
	Guard  reach.Guard // what the service may ask of other machines
	// Followed says whether the index shows what a deed did; nil where nobody follows.
	Followed func(ctx context.Context, deed store.ID) bool

	mu      sync.Mutex
	cabinet struct {
		content store.ID
		cab     *cabinet.Cabinet
	}
	evaluated []*evaluation // the intakes looked at last
	tables    []heldTable   // files whose rows are in memory
	numbers   []numbersIn   // of files that were looked through
	working   sync.Map      // intake → lock of whoever works it out
	names     sync.Map      // account ID → name
	known     known
	drawings  drawings // models that were decoded and drawn
	opened    []openedDelivery
}

// New wires a service and its background work together.
func New(s *store.Store, x *lookup.Index, lim rows.Limits, lease time.Duration, log *slog.Logger) *Service {
	v := &Service{Store: s, Index: x, Limits: lim, Log: log, Now: time.Now}
	v.Jobs = &jobs.Runner{Store: s, Lease: lease, Log: log, Handlers: map[string]jobs.Handler{jobTakeIn: v.runTakeIn, jobChange: v.runChange, jobFetch: v.runFetch}}
	return v
}

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

// Kind groups errors by what the caller can do about them.
type Kind int

// The kinds of error.
const (
	Invalid   Kind = iota // the request is wrong
	Unknown               // what it names is not there
	Clash                 // it was changed meanwhile, or is taken
	Forbidden             // the role does not allow it
	Stranger              // nobody is signed in
	TooLarge
	Busy // try again
)

// Error is a sentence for a person, with what would mend it.
type Error struct {
	Kind    Kind
	Type    string // stable name, such as "part-changed"
	What    string
	Mend    string
	Places  []wire.ProblemDetail
	Current *wire.Part // in a conflict: the part as it is now
}

func (e *Error) Error() string {
	s := e.What
	for _, p := range e.Places {
		s += " " + p.Message + "."
	}
	if e.Mend != "" {
		s += " " + e.Mend
	}
	return s
}

func fault(k Kind, typ, what, mend string) *Error {
	return &Error{Kind: k, Type: typ, What: what, Mend: mend}
}

// sentence turns errors of lower layers into an Error; what it does not know stays as it is and is an internal error.
func sentence(err error, what string) error {
	var e *Error
	var r *rows.Error
	switch {
	case err == nil || errors.As(err, &e):
		return err
	case errors.As(err, &r):
		return fault(Invalid, "file-unreadable", r.Sentence, "")
	case errors.Is(err, store.ErrNotFound):
		return fault(Unknown, "not-found", fmt.Sprintf("There is no such %s.", what), "Check how it is written, or look it up.")
	case errors.Is(err, store.ErrConflict):
		return fault(Clash, "changed-meanwhile", fmt.Sprintf("The %s was changed by somebody else meanwhile; nothing was saved.", what), "Load it again and repeat your change.")
	case errors.Is(err, store.ErrReused):
		return fault(Clash, "deed-reused", "The identifier of this deed was used for another deed.", "Send a new Deed-Id.")
	case store.Transient(err):
		return fault(Busy, "database-busy", "The database did not take the change.", "Try again in a moment: the deed is done once, however often it is sent with the same Deed-Id.")
	}
	return err
}

// deed carries out one write: it checks the right, runs fn in a transaction, and gives the first result when the deed
// was done before. request is everything that was asked.
func deed[T any](ctx context.Context, s *Service, c Call, op Op, what string, request any, fn func(*store.Tx) (T, error)) (out T, err error) {
	if err := allow(c, op); err != nil {
		return out, err
	}
	d, err := s.newDeed(c, op, request)
	if err != nil {
		return out, err
	}
	raw, err := s.Store.Do(ctx, d, func(t *store.Tx) (any, error) { return fn(t) })
	if err != nil {
		return out, sentence(err, what)
	}
	return out, json.Unmarshal(raw, &out)
}

// replayed returns the first result of a deed that was done before, so that a retry does not use up numbers.
func replayed[T any](ctx context.Context, s *Service, c Call, op Op, what string, request any) (out T, ok bool, err error) {
	if c.Deed.IsZero() {
		return out, false, nil
	}
	d, err := s.newDeed(c, op, request)
	if err != nil {
		return out, false, err
	}
	raw, err := s.Store.Replay(ctx, d)
	if err != nil || raw == nil {
		return out, false, sentence(err, what)
	}
	return out, true, json.Unmarshal(raw, &out)
}

func (s *Service) newDeed(c Call, op Op, request any) (store.Deed, error) {
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

// person returns an account's name for showing.
func (s *Service) person(ctx context.Context, id store.ID) string {
	if id.IsZero() {
		return "the service"
	}
	if n, ok := s.names.Load(id); ok {
		return n.(string)
	}
	a, err := s.Store.AccountBy(ctx, "id", id)
	if err != nil {
		return "somebody"
	}
	s.names.Store(id, a.Name)
	return a.Name
}

// page bounds what a list gives at once.
func page(offset, limit int) (int, int) {
	if limit <= 0 {
		limit = 50
	}
	return min(max(offset, 0), 100_000_000), min(limit, 1000)
}
