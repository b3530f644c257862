package readout

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"jollydrawer/core/readout"
	"jollydrawer/internal/store"
)

// every is how often it is looked whether tables fit the templates, where nothing tells that templates were changed; look is how
// often that is asked. lease is how long an instance that died keeps the others from it.
const (
	every  = time.Minute
	look   = 200 * time.Millisecond
	lease  = 30 * time.Second
	sweeps = time.Hour // between two looks for rows that nobody sees any more
)

// Run keeps the tables as the templates want them until ctx ends. Several instances may do so: one at a time works.
func (s *Readout) Run(ctx context.Context) {
	if s.Keeper == nil {
		return
	}
	tick := time.NewTicker(look)
	defer tick.Stop()
	var next time.Time
	var seen uint64
	for {
		if changed := s.changes(); time.Now().After(next) || changed != seen {
			seen, next = changed, time.Now().Add(every)
			worked, err := s.Keep(ctx)
			switch {
			case err != nil && ctx.Err() == nil:
				s.Log.Warn("keeping the readout's tables", "error", err)
				next = time.Now().Add(3 * time.Second)
			case !worked: // another instance is at it, and may not have seen what we did
				next = time.Now().Add(2 * time.Second)
			}
			s.note(err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// changes tells whether templates may have been changed since.
func (s *Readout) changes() uint64 {
	if s.Changes == nil {
		return 0
	}
	return s.Changes(store.KindCabinet)
}

func (s *Readout) note(err error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.problem = ""
	if err != nil {
		s.problem = err.Error()
		return
	}
	s.kept = time.Now()
}

// Keep makes the tables that the cabinet in force wants, puts views on them, and removes those that nobody reads any more. It goes
// on where it or another was stopped in the middle; worked is false where another instance is at it.
func (s *Readout) Keep(ctx context.Context) (worked bool, err error) {
	if mine, err := s.Store.Lease(ctx, "readout", s.me, lease); err != nil || !mine {
		return false, err
	}
	cab := s.Cabinets.Current(ctx)
	if cab == nil {
		return true, nil
	}
	kept, err := s.Store.Read(ctx).ReadoutTables()
	if err != nil {
		return true, err
	}
	by := map[string][]store.ReadoutTable{}
	for _, t := range kept {
		by[t.Drawer] = append(by[t.Drawer], t)
	}
	tables, err := s.Keeper.Tables(ctx)
	if err != nil {
		return true, err
	}
	views, err := s.Keeper.ViewsThere(ctx)
	if err != nil {
		return true, err
	}
	for _, t := range cab.Templates() {
		if !t.Leaf {
			continue
		}
		if _, err := s.Store.Lease(ctx, "readout", s.me, lease); err != nil {
			return true, err
		}
		view, err := s.keepDrawer(ctx, readout.ShapeOf(t), by[t.Key], tables, views)
		if err != nil {
			return true, fmt.Errorf("the readout of %s: %w", t.Key, err)
		}
		delete(by, t.Key)
		delete(views, view)
	}
	return true, s.clear(ctx, views, by, tables)
}

// clear removes views that no drawer has, and tables that no view shows.
func (s *Readout) clear(ctx context.Context, views map[string]bool, by map[string][]store.ReadoutTable, tables map[string]bool) error {
	for name := range views {
		if err := s.Keeper.Hide(ctx, name); err != nil {
			return err
		}
	}
	for _, gone := range by {
		for _, t := range gone {
			if err := s.Store.DropReadoutTable(ctx, t); err != nil {
				return err
			}
		}
	}
	kept, err := s.Store.Read(ctx).ReadoutTables()
	if err != nil {
		return err
	}
	sweep := s.Now().Sub(s.swept) > sweeps
	for _, t := range kept {
		if sweep {
			if _, err := s.Store.SweepReadoutTable(ctx, t); err != nil {
				return err
			}
		}
		delete(tables, t.Name)
	}
	if sweep {
		s.swept = s.Now()
	}
	for name := range tables { // those that were there before, and nobody writes any more
		if err := s.Keeper.DropTable(ctx, name); err != nil {
			return err
		}
	}
	return nil
}

// keepDrawer sees to the table and the view of one drawer, and returns the view's name. tables and views are those that are there.
func (s *Readout) keepDrawer(ctx context.Context, want readout.Shape, have []store.ReadoutTable, tables, views map[string]bool) (string, error) {
	var now store.ReadoutTable
	var others []store.ReadoutTable
	highest, hash := 0, want.Hash()
	for _, t := range have {
		var n int
		if _, err := fmt.Sscanf(t.Name[len(readout.SQLName(t.Drawer)):], "_%d", &n); err == nil {
			highest = max(highest, n)
		}
		if t.Hash == hash && t.Room == s.Keeper.Rows && tables[t.Name] && (now.Name == "" || t.Filled) {
			now = t
		}
	}
	for _, t := range have {
		if t.Name != now.Name {
			others = append(others, t)
		}
	}
	if now.Name == "" {
		raw, err := json.Marshal(want)
		if err != nil {
			return "", err
		}
		now = store.ReadoutTable{Room: s.Keeper.Rows, Drawer: want.Drawer, Hash: hash, Shape: string(raw), Made: store.Stamp(s.Now())}
		for n := highest + 1; now.Name == "" || tables[now.Name]; n++ { // one that a crash left is not ours
			now.Name = fmt.Sprintf("%s_%d", readout.SQLName(want.Drawer), n)
		}
		if err := s.Keeper.MakeTable(ctx, now.Name, want); err != nil {
			return "", err
		}
		tables[now.Name] = true
	}
	if !now.Filled {
		if err := s.fill(ctx, now); err != nil {
			return "", err
		}
	}
	view := s.Keeper.ViewOf(now, want, s.Base)
	if now.Shown != view.Hash() || !views[view.Name] {
		if err := s.Keeper.Show(ctx, view); err != nil {
			return "", err
		}
		if err := s.Store.ReadoutTableShown(ctx, now, view.Hash()); err != nil {
			return "", err
		}
	}
	for _, t := range others {
		if err := s.Store.DropReadoutTable(ctx, t); err != nil {
			return "", err
		}
	}
	return view.Name, nil
}

// fewLate is how many parts may be written inside the one write that says that a table is filled.
const fewLate = 200

// fill gives a table the row of everything that is in use, while others write.
func (s *Readout) fill(ctx context.Context, t store.ReadoutTable) error {
	mark, err := s.Store.Read(ctx).FeedEnd()
	if err != nil {
		return err
	}
	if err := s.Store.KeepReadoutTable(ctx, t); err != nil {
		return err
	}
	for again := 0; ; again++ {
		next, err := s.Store.Read(ctx).FeedEnd()
		if err != nil {
			return err
		}
		for after := (store.ID{}); ; {
			if after, err = s.Store.FillReadoutTable(ctx, t, after); err != nil {
				return err
			}
			if after.IsZero() {
				break
			}
			if _, err := s.Store.Lease(ctx, "readout", s.me, lease); err != nil {
				return err
			}
		}
		if again > 0 {
			mark = next
		}
		late, err := s.Store.Read(ctx).PartsWrittenSince(mark)
		if err != nil {
			return err
		}
		if len(late) <= fewLate || again == 5 {
			return s.Store.ReadoutTableFilled(ctx, t, mark)
		}
	}
}
