package intakes

import (
	"context"
	"errors"
	"fmt"
	"time"

	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const (
	// mostStale is how many intakes a question goes through that nobody went through yet, the newest first; the others are gone through beside.
	mostStale   = 20
	mostRecords = 20
)

// Records finds a manufacturer or supplier number in the files of all intakes, also of those not taken in: each file was gone through once, and again
// only where its rows, or how they are read, became otherwise.
func (s *Intakes) Records(ctx context.Context, c deed.Call, number string) (wire.RecordList, error) {
	out := wire.RecordList{Items: []wire.Record{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	want := part.NormaliseMPN(number)
	if want == "" {
		return out, deed.Fault(deed.Invalid, "no-number", "There is no number to look for.", "Give a manufacturer part number or a supplier's number.")
	}
	if _, err := s.GoThrough(ctx, mostStale); err != nil {
		return out, err
	}
	rows, err := s.Store.Read(ctx).RecordsOfNumber(want, 10*mostRecords)
	if err != nil {
		return out, err
	}
	files := map[string]store.ID{} // file → the newest intake of it
	for _, r := range rows {
		if len(out.Items) == mostRecords {
			break
		}
		h, err := s.Store.Read(ctx).Head(store.KindIntake, r.Intake)
		if err != nil {
			return out, err
		}
		doc, err := s.intakeDoc(s.Store.Read(ctx), h)
		if err != nil {
			return out, err
		}
		if first, ok := files[doc.FileHash]; ok && first != h.ID { // the same file again
			continue
		}
		files[doc.FileHash] = h.ID
		e, err := s.evaluate(ctx, h, doc)
		if err != nil {
			return out, err
		}
		at := e.table.At(r.Row)
		if at < 0 || at >= len(e.result.Candidates) { // it was edited this moment
			continue
		}
		k := &e.result.Candidates[at]
		out.Items = append(out.Items, wire.Record{Intake: h.ID.String(), Number: h.Number, Supplier: doc.Supplier, File: doc.FileName, Row: r.Row, Drawer: k.Drawer,
			Description: e.result.Content(at).Description, Source: k.Source()})
	}
	return out, nil
}

// GoThrough goes through the files of intakes that nobody went through as they are, at most some, the newest first, and says how many it found.
func (s *Intakes) GoThrough(ctx context.Context, most int) (int, error) {
	mark, err := s.cabinets.CrosswalksMark(ctx)
	if err != nil {
		return 0, err
	}
	heads, known, err := s.Store.Read(ctx).StaleRecords(mark, most)
	if err != nil {
		return 0, err
	}
	for _, h := range heads {
		if err := s.goThrough(ctx, h, mark, known[h.ID]); err != nil {
			return len(heads), fmt.Errorf("going through %s: %w", h.Number, err)
		}
	}
	return len(heads), nil
}

func (s *Intakes) goThrough(ctx context.Context, h store.Head, mark, known string) error {
	doc, err := s.intakeDoc(s.Store.Read(ctx), h)
	if err != nil {
		return err
	}
	lay, err := s.crosswalkOf(ctx, doc)
	if err != nil {
		return err
	}
	f := store.RecordsOf{Intake: h.ID, Mark: fmt.Sprintf("%d %s", h.Version, mark), Rules: fmt.Sprintf("%d/%s/%s/%d", h.Version, doc.FileHash, lay.head.ID, lay.head.Revision)}
	if f.Rules == known { // another supplier's crosswalk became otherwise
		return s.Store.RecordsStand(ctx, f)
	}
	e, err := s.evaluate(ctx, h, doc)
	var said *deed.Error
	switch {
	case errors.As(err, &said) && !deed.Temporary(err): // its page says why it cannot be read; nobody else waits for it
		return s.Store.KeepRecords(ctx, f, nil)
	case err != nil:
		return err
	}
	found := map[string][]int{}
	for i := range e.result.Candidates {
		k := &e.result.Candidates[i]
		src := k.Source()
		for n, number := range append([]part.Number{{Number: src.MPN}}, src.Numbers...) {
			if norm := part.NormaliseMPN(number.Number); norm != "" && (n == 0 || norm != part.NormaliseMPN(src.MPN)) {
				found[norm] = append(found[norm], k.Row)
			}
		}
	}
	return s.Store.KeepRecords(ctx, f, found)
}

// beside goes through one file, but not while an intake is taken in, for which somebody waits, and says how many it found.
func (s *Intakes) beside(ctx context.Context) (int, error) {
	if s.taking.Load() > 0 {
		return 0, nil
	}
	return s.GoThrough(ctx, 1)
}

// Run goes through the files of intakes beside, one at a time, until ctx ends.
func (s *Intakes) Run(ctx context.Context) {
	for {
		n, err := s.beside(ctx)
		wait := 30 * time.Second
		switch {
		case err != nil && ctx.Err() == nil:
			s.Log.Warn("a file was not gone through for its numbers", "error", err)
		case n > 0:
			wait = time.Second
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(wait):
		}
	}
}
