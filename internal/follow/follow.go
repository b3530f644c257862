// Package follow keeps an instance up to date with the library: it puts committed deeds in order, applies them to the
// lookup index and tells live pages. It reads only the feed, so that a late commit is never missed; deeds of this very
// instance are applied at once.
package follow

import (
	"context"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/store"
)

// Follower applies the feed.
type Follower struct {
	Store *store.Store
	Index *lookup.Index
	Log   *slog.Logger
	Every time.Duration
	// Cabinet returns the cabinet in force, or nil; it is asked before the library is loaded and after each deed that
	// changed it.
	Cabinet func(ctx context.Context) *cabinet.Cabinet

	// States tells in which states a part is by the lifecycles in force; it is asked once for what a deed wrote. Where it is nil,
	// states are as they are stored.
	// The text names all that its answers hang on: where it is another, the states of all parts may be others.
	States func(ctx context.Context) (of StatesOf, by string, err error)

	// Step, where it is set, is called with each step of what passes through the parts of a deed over many, and decides when it is done.
	Step func(func())

	// Snapshot is the file that keeps the index between two starts; blank keeps none. CabinetID names the cabinet in
	// force, so that a snapshot made under another is not used.
	Snapshot  string
	CabinetID func(ctx context.Context) string

	saved     int64
	position  atomic.Int64
	switching sync.Mutex // a cabinet is given to the index
	ruling    sync.RWMutex
	states    StatesOf // under ruling; nil until they are asked for
	statesBy  string
	own       sync.Map // deeds of this instance that are applied, until the feed has brought them
	ready     atomic.Bool
	mu        sync.Mutex
	watchers  map[chan Event]bool
	changes   map[string]uint64   // by kind: how often things of it were written
	aside     map[store.ID]string // parts that this version of the program cannot read, with their numbers
}

// StatesOf says what the index shows of a part's states.
type StatesOf func(h store.Head) States

// States are those of a part: keys, and where it may not simply be used, the word of the state that says so.
type States struct {
	Status   lifecycle.Status
	Standing lifecycle.Standing
	Use      lifecycle.Use // blank: it may be used
	Flag     string
}

// Event is one deed that live pages hear of.
type Event struct {
	Position int64           `json:"position"`
	Kind     string          `json:"kind"`  // of the deed
	Kinds    []string        `json:"kinds"` // of what it wrote
	Heads    []store.Touched `json:"heads"` // what it wrote; nothing where that is more than mostHeads
	Many     bool            `json:"many"`  // it wrote more than mostHeads
}

// mostHeads is how many things an event names.
const mostHeads = 30

// Load fills the index with the whole library; only then is the instance ready. A snapshot that fits saves most of
// the work: what was done since is read from the feed.
func (f *Follower) Load(ctx context.Context) error {
	if cab := f.cabinet(ctx); cab != nil {
		f.Index.SetCabinet(cab)
	}
	if _, err := f.rule(ctx); err != nil {
		return err
	}
	if f.thaw(ctx) {
		if err := f.step(ctx); err == nil {
			f.ready.Store(true)
			return nil
		}
	}
	p, err := f.Store.Read(ctx).FeedEnd()
	if err != nil {
		return err
	}
	f.position.Store(p) // deeds that come in while we load are applied again, which does no harm
	if err := f.apply(ctx, store.ID{}, Event{}); err != nil {
		return err
	}
	f.ready.Store(true)
	return nil
}

// Ready says whether the index is loaded.
func (f *Follower) Ready() bool { return f.ready.Load() }

// Position returns how far the feed was applied.
func (f *Follower) Position() int64 { return f.position.Load() }

// ownDeed is a deed of this instance on its way into the index.
type ownDeed struct {
	at    time.Time
	ended chan struct{} // closed when it was applied, or could not be
	there bool          // it was; to be read when it has ended, as is what it wrote
	wrote Event
}

// Own applies a deed that this instance has just committed.
func (f *Follower) Own(deed store.ID) {
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Minute) // a deed may hold hundreds of thousands of parts
	defer cancel()
	own := &ownDeed{at: time.Now(), ended: make(chan struct{})}
	f.own.Store(deed, own)
	defer close(own.ended)
	e, err := f.event(ctx, store.FeedRow{Deed: deed})
	if err == nil {
		err = f.apply(ctx, deed, e)
		f.changed(e.Kinds)
	}
	if err != nil {
		f.Log.Warn("applying an own deed; the feed will bring it", "error", err)
		f.own.Delete(deed)
		return
	}
	own.there, own.wrote = true, e
}

// applied is what a deed of this instance wrote, where it was applied; nil where it was not. One that is about to be is waited for,
// where wait is set.
func (f *Follower) applied(deed store.ID, wait bool) *Event {
	v, ok := f.own.Load(deed)
	if !ok {
		return nil
	}
	own := v.(*ownDeed)
	if wait {
		<-own.ended
	}
	select {
	case <-own.ended:
		if own.there {
			return &own.wrote
		}
	default:
	}
	return nil
}

// keptOwn is how long an own deed is remembered at most: long after the feed has brought it.
const keptOwn = 10 * time.Minute

// Has says whether the index shows what a deed did. What is no deed has nothing to show.
func (f *Follower) Has(ctx context.Context, deed store.ID) bool {
	if f.applied(deed, false) != nil {
		return true
	}
	at, done, err := f.Store.Read(ctx).FeedPlace(deed)
	return err == nil && (!done || at > 0 && at <= f.position.Load())
}

// Run follows the feed until ctx ends.
func (f *Follower) Run(ctx context.Context) {
	var beside sync.WaitGroup
	defer beside.Wait()
	beside.Go(func() { f.tidy(ctx) })
	tick := time.NewTicker(f.Every)
	defer tick.Stop()
	kept := time.Now()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		if f.Snapshot != "" && f.position.Load() != f.saved && time.Since(kept) > snapshotEvery {
			kept = time.Now()
			f.Freeze(ctx)
		}
		if err := f.step(ctx); err != nil && ctx.Err() == nil {
			f.Log.Warn("following the feed", "error", err)
			time.Sleep(f.Every)
		}
	}
}

// tidy keeps the index small, beside the feed, which does not wait for it.
func (f *Follower) tidy(ctx context.Context) {
	tick := time.NewTicker(max(f.Every, 100*time.Millisecond))
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			f.Index.Tidy()
		}
	}
}

func (f *Follower) step(ctx context.Context) error {
	if _, err := f.Store.Sequence(ctx); err != nil {
		return fmt.Errorf("putting deeds in order: %w", err)
	}
	for {
		rows, err := f.Store.Read(ctx).Feed(f.position.Load(), 500)
		if err != nil || len(rows) == 0 {
			f.own.Range(func(deed, at any) bool { // what the feed brought before it was noted here
				if time.Since(at.(*ownDeed).at) > keptOwn {
					f.own.Delete(deed)
				}
				return true
			})
			return err
		}
		for _, r := range rows {
			e, err := f.reached(ctx, r)
			if err != nil {
				return err
			}
			f.changed(e.Kinds)
			f.position.Store(r.Position)
			f.own.Delete(r.Deed)
			f.tell(e)
		}
	}
}

// reached applies a step of the feed, and says what it wrote.
func (f *Follower) reached(ctx context.Context, r store.FeedRow) (e Event, err error) {
	own := f.applied(r.Deed, true)
	if own != nil && r.Kind != store.DeedNotices { // what was applied at once is not applied again: the parts are there as they are now
		e = *own
		e.Position, e.Kind = r.Position, r.Kind
		return e, nil
	}
	if e, err = f.event(ctx, r); err == nil && own == nil {
		err = f.apply(ctx, r.Deed, e)
	}
	return e, err
}

// event is what pages hear of a step of the feed.
func (f *Follower) event(ctx context.Context, r store.FeedRow) (Event, error) {
	e := Event{Position: r.Position, Kind: r.Kind, Kinds: []string{}, Heads: []store.Touched{}}
	if r.Kind == store.DeedNotices {
		e.Kinds = []string{store.KindNotice}
		return e, nil
	}
	heads, err := f.Store.Read(ctx).TouchedBy(r.Deed, mostHeads+1)
	if err != nil {
		return e, err
	}
	if len(heads) > mostHeads {
		e.Many = true
		e.Kinds, err = f.Store.Read(ctx).KindsTouchedBy(r.Deed)
		return e, err
	}
	for _, h := range heads {
		e.Heads = append(e.Heads, h)
		if !slices.Contains(e.Kinds, h.Kind) {
			e.Kinds = append(e.Kinds, h.Kind)
		}
	}
	return e, nil
}

// Since lists the events behind a position, so that a page that was away hears what it missed; whole is false where that is
// more than a page should be told one by one.
func (f *Follower) Since(ctx context.Context, position int64) (events []Event, whole bool, err error) {
	const most = 50
	rows, err := f.Store.Read(ctx).Feed(position, most+1)
	if err != nil || len(rows) > most {
		return nil, false, err
	}
	for _, r := range rows {
		if r.Position > f.position.Load() {
			break // it will be told when it is applied
		}
		e, err := f.event(ctx, r)
		if err != nil {
			return nil, false, err
		}
		events = append(events, e)
	}
	return events, true, nil
}

// changed notes that things of some kinds were written.
func (f *Follower) changed(kinds []string) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.changes == nil {
		f.changes = map[string]uint64{}
	}
	for _, k := range kinds {
		f.changes[k]++
	}
}

// Changes tells how often things of a kind were written since the start, here or elsewhere: what was worked out from them under
// another count may be stale. A deed of this instance is counted before its caller hears that it is done.
func (f *Follower) Changes(kind string) uint64 {
	f.mu.Lock()
	defer f.mu.Unlock()
	return f.changes[kind]
}

// cabinet is the cabinet in force; nil where there is none, or nobody tells.
func (f *Follower) cabinet(ctx context.Context) *cabinet.Cabinet {
	if f.Cabinet == nil {
		return nil
	}
	return f.Cabinet(ctx)
}

// many is from how many parts of a deed on, and from which share of the library, the index is built anew beside what is asked:
// it takes less than putting each of them in the place of another, and they are seen at once.
const (
	many      = 5000
	manyShare = 4
)

// apply puts the parts that a deed wrote, as they are now, into the index; the zero deed stands for all parts. Only a deed that
// changed the cabinet gives the index another: nobody else is kept waiting for what that takes. e says what the deed wrote.
func (f *Follower) apply(ctx context.Context, deed store.ID, e Event) error {
	r := f.Store.Read(ctx)
	var cab *cabinet.Cabinet // nil: the index keeps its own
	others := false          // the states of all parts may be others
	if slices.Contains(e.Kinds, store.KindCabinet) || slices.Contains(e.Kinds, store.KindLifecycle) {
		f.switching.Lock() // which one is in force and giving it to the index are one step: an older one never follows a newer
		defer f.switching.Unlock()
		var err error
		if others, err = f.rule(ctx); err != nil {
			return err
		}
		if slices.Contains(e.Kinds, store.KindCabinet) {
			cab = f.cabinet(ctx)
		}
	}
	if others {
		deed = store.ID{}
	}
	states, by, err := f.ruled(ctx)
	if err != nil {
		return err
	}
	anew := others
	if e.Many && !others {
		n, err := r.CountPartsOf(deed)
		if err != nil {
			return err
		}
		anew = n >= many && int(n) >= f.Index.Len()/manyShare
	}
	step := func(do func()) { do() }
	if anew && f.Step != nil {
		step = f.Step
	}
	rows := rowsOf(r, deed)
	if e.Many && !deed.IsZero() {
		rows = f.rowsOfMany(r, deed, step)
	}
	entries := store.Ahead(f.entries(store.Ahead(rows), states, step))
	if anew {
		return f.Index.Renew(cab, stepped(entries, step))
	}
	if cab != nil {
		f.Index.SetCabinet(cab)
	}
	for some, err := range entries {
		if err != nil {
			return err
		}
		f.Index.Put(some...)
	}
	if _, now, err := f.ruled(ctx); err != nil || now == by {
		return err
	}
	return f.apply(ctx, deed, Event{Many: e.Many}) // the lifecycles were changed meanwhile, and what was put went by the earlier ones
}

// rule asks in which states parts are by what is in force now, and says whether that hangs on something else than before.
func (f *Follower) rule(ctx context.Context) (others bool, err error) {
	states, by := StatesOf(storedStates), ""
	if f.States != nil {
		if states, by, err = f.States(ctx); err != nil {
			return false, err
		}
	}
	f.ruling.Lock()
	defer f.ruling.Unlock()
	others = f.states != nil && by != f.statesBy
	f.states, f.statesBy = states, by
	return others, nil
}

// ruled returns what states hang on, as it was asked last.
func (f *Follower) ruled(ctx context.Context) (StatesOf, string, error) {
	f.ruling.RLock()
	states, by := f.states, f.statesBy
	f.ruling.RUnlock()
	if states != nil {
		return states, by, nil
	}
	if _, err := f.rule(ctx); err != nil {
		return nil, "", err
	}
	f.ruling.RLock()
	defer f.ruling.RUnlock()
	return f.states, f.statesBy, nil
}

// setAside keeps in mind that a part cannot be read here, as happens while instances are brought to a newer version one after
// the other. It is taken out of the index, so that nothing stale is found, and the feed goes on.
func (f *Follower) setAside(p store.PartRow, err error) {
	f.mu.Lock()
	defer f.mu.Unlock()
	_, was := f.aside[p.ID]
	switch {
	case err == nil && was:
		delete(f.aside, p.ID)
	case err != nil:
		if f.aside == nil {
			f.aside = map[store.ID]string{}
		}
		f.aside[p.ID] = p.Number
		f.Index.Remove(p.ID.String())
		f.Log.Error("a part is set aside: this version of the program cannot read it", "part", p.Number, "error", err)
	}
}

// Aside lists the numbers of the parts that this instance cannot read, and so does not find.
func (f *Follower) Aside() []string {
	f.mu.Lock()
	defer f.mu.Unlock()
	return slices.Sorted(maps.Values(f.aside))
}

// storedStates are the states of a part as they are stored, where nobody tells what the lifecycles make of them.
func storedStates(h store.Head) States {
	out := States{Status: lifecycle.Draft, Standing: lifecycle.Standing(h.Standing)}
	if !h.Released.IsZero() {
		out.Status = lifecycle.Released
	}
	return out
}

// Watch returns a channel that hears of every deed from now on; a watcher that does not keep up misses some and
// should ask anew. stop ends it.
func (f *Follower) Watch() (events <-chan Event, stop func()) {
	c := make(chan Event, 64)
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.watchers == nil {
		f.watchers = map[chan Event]bool{}
	}
	f.watchers[c] = true
	return c, func() {
		f.mu.Lock()
		defer f.mu.Unlock()
		delete(f.watchers, c)
	}
}

func (f *Follower) tell(e Event) {
	f.mu.Lock()
	defer f.mu.Unlock()
	for c := range f.watchers {
		select {
		case c <- e:
		default:
		}
	}
}
