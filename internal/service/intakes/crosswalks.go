package intakes

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/document"
	"jollydrawer/core/intake"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// A crosswalk that changes may change rows of intakes that lie open: those of its layout. What somebody settled there is left alone unless told.

// touched is an open intake some of whose rows another crosswalk would change.
type touched struct {
	head store.Head
	file string
	was  *evaluation
	now  *evaluation
	rows []intake.Moved
}

// touchedBy works out what a crosswalk would change in the intakes that are open, but for one.
func (s *Intakes) touchedBy(ctx context.Context, cw crosswalk.Crosswalk, but store.ID) (out []touched, err error) {
	heads, err := s.cabinets.MappedCrosswalks(ctx)
	if err != nil {
		return nil, err
	}
	next := slices.Clone(heads)
	if at := slices.IndexFunc(next, func(m cabinets.Mapped) bool { return strings.EqualFold(m.Head.Number, cw.Number()) }); at >= 0 {
		next[at].Crosswalk = cw
	} else {
		next = append(next, cabinets.Mapped{Head: store.Head{Number: cw.Number()}, Crosswalk: cw})
	}
	const page = 200
	for offset := 0; ; offset += page {
		found, _, err := s.Store.Read(ctx).Heads(store.KindIntake, offset, page)
		if err != nil {
			return nil, err
		}
		for _, h := range found {
			if h.ID == but {
				continue
			}
			doc, err := s.intakeDoc(s.Store.Read(ctx), h)
			if err != nil || doc.Taken != nil || doc.Supplier != cw.Supplier { // one that cannot be read here is not open here
				continue
			}
			t, err := s.under(ctx, h, doc, heads, next)
			if err != nil {
				return nil, err
			}
			if len(t.rows) > 0 {
				out = append(out, t)
			}
		}
		if len(found) < page {
			return out, nil
		}
	}
}

// under works out what becomes of an intake where other crosswalks are in force.
func (s *Intakes) under(ctx context.Context, h store.Head, doc intakeDoc, heads, next []cabinets.Mapped) (touched, error) {
	out := touched{head: h, file: doc.FileName}
	before, err := s.crosswalkAmong(ctx, doc, heads)
	if err != nil {
		return out, err
	}
	after, err := s.crosswalkAmong(ctx, doc, next)
	if err != nil {
		return out, err
	}
	_, one, err := document.Canonical(before.cw)
	if err != nil {
		return out, err
	}
	if _, other, err := document.Canonical(after.cw); err != nil || one == other { // it is of another layout, or nothing changes
		return out, err
	}
	if out.was, err = s.evaluate(ctx, h, doc); err != nil {
		return out, err
	}
	out.now = s.begin(h.ID, out.was.cab, out.was.cabRev, after)
	if err := s.build(ctx, out.now, doc); err != nil {
		return out, err
	}
	out.rows = intake.Compare(out.was.result, out.now.result)
	return out, nil
}

// leavesSettledElsewhere refuses a crosswalk that changes rows of open intakes which somebody settled.
func (s *Intakes) leavesSettledElsewhere(ctx context.Context, cw crosswalk.Crosswalk, but store.ID) error {
	all, err := s.touchedBy(ctx, cw, but)
	if err != nil {
		return err
	}
	for _, t := range all {
		if says := settledRows(t.rows, nil); says != "" {
			return deed.Fault(deed.Clash, "settled", fmt.Sprintf("Nothing was changed: in %s, which is open, the crosswalk would change %s.", t.head.Number, says), "Look at them with a try, take that intake in first, or say that settled rows may change too.")
		}
	}
	return nil
}

// ApplyCrosswalk makes a document the crosswalk of the supplier and layout that it names, where it leaves alone what somebody settled in intakes
// that are open, or is told that it may change that.
func (s *Intakes) ApplyCrosswalk(ctx context.Context, c deed.Call, version int, in wire.CrosswalkEdit) (wire.Crosswalk, error) {
	if err := deed.Allow(c, deed.OpCrosswalk); err != nil {
		return wire.Crosswalk{}, err
	}
	if cw, err := crosswalk.Parse([]byte(in.Text)); err == nil && !in.EvenSettled { // a text that is wrong is refused where it is applied
		if err := s.leavesSettledElsewhere(ctx, cw, store.ID{}); err != nil {
			return wire.Crosswalk{}, err
		}
	}
	return s.cabinets.ApplyCrosswalk(ctx, c, version, in.Text)
}

// TryCrosswalk says what a crosswalk would change in the intakes that are open, row by row. It writes nothing.
func (s *Intakes) TryCrosswalk(ctx context.Context, c deed.Call, text string) (wire.CrosswalkTried, error) {
	out := wire.CrosswalkTried{Intakes: []wire.CrosswalkTouches{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	cw, err := crosswalk.Parse([]byte(text))
	if err == nil {
		cab, _, inForce := s.cabinets.InForce(ctx)
		if inForce != nil {
			return out, inForce
		}
		err = cw.CheckAgainst(cab)
	}
	if err != nil {
		return out, deed.Fault(deed.Invalid, "crosswalk-wrong", "The crosswalk cannot be applied: "+err.Error()+".", "")
	}
	out.Number = cw.Number()
	all, err := s.touchedBy(ctx, cw, store.ID{})
	for _, t := range all {
		out.Intakes = append(out.Intakes, wire.CrosswalkTouches{ID: t.head.ID.String(), Number: t.head.Number, FileName: t.file, Tried: tried(t.head, t.was, t.rows, t.now, wire.IntakeTry{})})
	}
	return out, err
}
