package intakes

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/decision"
	"jollydrawer/core/intake"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// maxTakeBack is how many parts one taking back may touch: it is one transaction.
const maxTakeBack = 20_000

// TakeBack withdraws what an intake made and changed, as long as nobody has built on any of it.
func (s *Intakes) TakeBack(ctx context.Context, c deed.Call, id store.ID, version int, in wire.TakeBack) (wire.Intake, error) {
	if err := deed.Allow(c, deed.OpIntakeTakeIn); err != nil {
		return wire.Intake{}, err
	}
	_, err := deed.Do(ctx, s.Desk, c, deed.OpIntakeTakeIn, "intake", []any{id, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindIntake, id, version)
		if err != nil {
			return 0, err
		}
		doc, err := s.intakeDoc(t.Reader, h)
		if err != nil {
			return 0, err
		}
		if doc.Taken == nil || doc.Back != "" || doc.Taken.Deed.IsZero() {
			return 0, deed.Fault(deed.Invalid, "not-taken-in", h.Number+" is not taken in; there is nothing to take back.", "")
		}
		written, err := t.WrittenBy(doc.Taken.Deed)
		if err != nil {
			return 0, err
		}
		if len(written) > maxTakeBack {
			return 0, deed.Fault(deed.TooLarge, "too-many", fmt.Sprintf("%s made and changed %d parts; at most %d can be taken back at once.", h.Number, len(written), maxTakeBack), "Merge or correct them instead.")
		}
		var moved []string
		for _, w := range written {
			if w.Head.Deed != doc.Taken.Deed {
				moved = append(moved, w.Head.Number)
			}
		}
		if used, err := t.Leading(written); err != nil {
			return 0, err
		} else if len(used) > 0 {
			moved = append(moved, used...)
		}
		boards, err := boardsWith(t.Reader, written)
		if err != nil {
			return 0, err
		}
		moved = append(moved, boards...)
		if len(moved) > 0 {
			slices.Sort(moved)
			moved = slices.Compact(moved) // one that was edited may also be on a board
			return 0, deed.Fault(deed.Clash, "built-on", fmt.Sprintf("Somebody has built on %d of its parts since: %s; nothing was taken back.", len(moved), strings.Join(moved[:min(len(moved), 5)], ", ")),
				"Correct the others one by one, or merge them.")
		}
		keys, err := s.keysGiven(t, written)
		if err != nil {
			return 0, err
		}
		if err := t.Withdraw(doc.Taken.Deed, written, keys, map[string]any{"intake": h.Number, "why": in.Why}); err != nil {
			return 0, err
		}
		doc.Back = in.Why
		if err := deed.SaveDraft(t, &h, intakeFormat, doc); err != nil {
			return 0, err
		}
		return h.Version, t.Update(&h, "taken back", map[string]any{"parts": len(written), "why": in.Why})
	})
	if err != nil {
		return wire.Intake{}, err
	}
	return s.Get(ctx, c, id)
}

// boardsWith lists the made parts that somebody chose for a line of a BOM.
func boardsWith(r store.Reader, written []store.Written) (out []string, err error) {
	var made []store.ID
	for _, w := range written {
		if w.Made {
			made = append(made, w.Head.ID)
		}
	}
	chosen, err := r.ChosenOn(made, 20)
	for _, c := range chosen {
		out = append(out, c.Part+" (in the BOM "+c.BOM+")")
	}
	return out, err
}

// keysGiven lists the source keys that changed parts have now and did not have before.
func (s *Intakes) keysGiven(t *store.Tx, written []store.Written) (map[store.ID][]string, error) {
	out := map[store.ID][]string{}
	for _, w := range written {
		if w.Made {
			continue
		}
		before := w.Before
		if before.IsZero() {
			before = w.Head.Released
		}
		had := map[string]bool{}
		for n, id := range []store.ID{before, w.Head.Draft} {
			c, err := t.Content(id)
			if err != nil {
				return nil, err
			}
			p, _, err := parts.Decode(c)
			if err != nil {
				return nil, err
			}
			for _, src := range p.Sources {
				if n == 0 {
					had[src.Key()] = true
				} else if !had[src.Key()] {
					out[w.Head.ID] = append(out[w.Head.ID], src.Key())
				}
			}
		}
	}
	return out, nil
}

// GoOver opens an intake on the file of one that was taken in, so that a crosswalk that became better fills what it left
// blank: the decisions about rows are kept, and blanks of known parts are filled unless somebody says otherwise.
func (s *Intakes) GoOver(ctx context.Context, c deed.Call, id store.ID) (wire.Intake, error) {
	if err := deed.Allow(c, deed.OpIntakeEdit); err != nil {
		return wire.Intake{}, err
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return wire.Intake{}, err
	}
	if doc.Taken == nil || doc.Back != "" {
		return wire.Intake{}, deed.Fault(deed.Invalid, "not-taken-in", h.Number+" is not taken in.", "Go on with it as it is.")
	}
	over := intakeDoc{Supplier: doc.Supplier, FileHash: doc.FileHash, FileName: doc.FileName, Layout: doc.Layout, Edits: doc.Edits, Over: h.Number}
	over.Edits.Known = intake.Fill
	over.Edits.Decide = nil
	over.Edits.Drop(func(r *decision.Record) bool { return r.Kind == decision.Settle })
	return s.openIntake(ctx, c, []any{"over", id}, over)
}
