// Package worklist says what waits for whom. It knows no kind of work: rooms register theirs, so that a later one appears without
// touching it.
package worklist

import (
	"context"
	"errors"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// Kind is one kind of work: what waits of it for whoever asks, what waits longest first, and how much there is.
type Kind struct {
	Key   string // stable, such as reviews
	Title string
	Empty string // what to say where nothing waits; blank leaves the kind out then
	Of    func(ctx context.Context, c deed.Call, limit int) (items []wire.WorkItem, total int, err error)
}

// Worklist gathers what waits. Its methods may be called from several goroutines once all kinds are registered.
type Worklist struct {
	*deed.Desk
	kinds []Kind
}

// New returns the worklist of an installation.
func New(d *deed.Desk) *Worklist { return &Worklist{Desk: d} }

// Register adds a kind of work; kinds are shown in the order in which they were registered.
func (w *Worklist) Register(k Kind) { w.kinds = append(w.kinds, k) }

// shown is how many things of a kind the start page shows.
const shown = 8

// Get returns what waits for the caller, kind by kind. A kind that cannot be asked says so and keeps no other from being shown.
func (w *Worklist) Get(ctx context.Context, c deed.Call) (wire.Worklist, error) {
	out := wire.Worklist{Kinds: []wire.WorkKind{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	for _, k := range w.kinds {
		items, total, err := k.Of(ctx, c, shown)
		kind := wire.WorkKind{Key: k.Key, Title: k.Title, Total: total, Items: append([]wire.WorkItem{}, items...)}
		var e *deed.Error
		switch {
		case errors.As(err, &e) && e.Kind == deed.Forbidden:
			continue // not for this person
		case err != nil && ctx.Err() != nil:
			return out, err
		case err != nil:
			w.Log.Error("a kind of work cannot be asked", "kind", k.Key, "error", err)
			kind.Problem = "This cannot be asked for now."
		case total == 0 && k.Empty == "":
			continue
		case total == 0:
			kind.Empty = k.Empty
		}
		out.Kinds = append(out.Kinds, kind)
	}
	return out, nil
}
