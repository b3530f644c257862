// Package worklist says what waits for whom. It knows no kind of work: rooms register theirs, so that a later one appears without
// touching it.
package worklist

import (
	"context"
	"errors"

	"golang.org/x/sync/errgroup"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// Kind is one kind of work: what waits of it for whoever asks, what waits longest first, and how much there is.
type Kind struct {
	Key   string // stable, such as reviews
	Title string
	Empty string // what to say where nothing waits; blank leaves the kind out then
	Of    func(ctx context.Context, c deed.Call, limit int) (Waits, error)
}

// Waits is what waits of one kind: the first of it, and how much there is, or how much there is at least.
type Waits struct {
	Items   []wire.WorkItem
	Total   int
	AtLeast bool // no more than Total were counted
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
	asked := make([]*wire.WorkKind, len(w.kinds))
	all, ctx := errgroup.WithContext(ctx) // beside each other: the page waits for the slowest, not for all of them
	for i, k := range w.kinds {
		all.Go(func() (err error) {
			asked[i], err = w.ask(ctx, c, k)
			return err
		})
	}
	if err := all.Wait(); err != nil {
		return out, err
	}
	for _, k := range asked {
		if k != nil {
			out.Kinds = append(out.Kinds, *k)
		}
	}
	return out, nil
}

// ask returns what waits of one kind; nil where there is nothing to say of it.
func (w *Worklist) ask(ctx context.Context, c deed.Call, k Kind) (*wire.WorkKind, error) {
	of, err := k.Of(ctx, c, shown)
	out := &wire.WorkKind{Key: k.Key, Title: k.Title, Total: of.Total, AtLeast: of.AtLeast, Items: append([]wire.WorkItem{}, of.Items...)}
	var e *deed.Error
	switch {
	case errors.As(err, &e) && e.Kind == deed.Forbidden:
		return nil, nil // not for this person
	case err != nil && ctx.Err() != nil:
		return nil, err
	case err != nil:
		w.Log.Error("a kind of work cannot be asked", "kind", k.Key, "error", err)
		out.Problem = "This cannot be asked for now."
	case of.Total == 0 && k.Empty == "":
		return nil, nil
	case of.Total == 0:
		out.Empty = k.Empty
	}
	return out, nil
}
