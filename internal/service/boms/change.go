package boms

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"unicode"

	"jollydrawer/core/decision"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Rename gives a BOM another name. Its revisions keep the name that they were frozen under.
func (s *BOMs) Rename(ctx context.Context, c deed.Call, key string, version int, in wire.BOMName) (wire.BOM, error) {
	name, err := named(in.Name)
	if err != nil {
		return wire.BOM{}, err
	}
	return s.change(ctx, c, key, version, in, nil, func(h *store.Head, doc *bomDoc) (string, any) {
		was := h.Number
		h.Number, doc.Name = name, name
		return "renamed", map[string]any{"before": was, "after": name}
	})
}

// Remove takes a BOM out of all lists; its name is free again. What was frozen is a promise and stays: a BOM with revisions is not removed. Its trail is kept.
func (s *BOMs) Remove(ctx context.Context, c deed.Call, key string, version int) (wire.RemovedBOM, error) {
	if err := deed.Allow(c, deed.OpBOMEdit); err != nil {
		return wire.RemovedBOM{}, err
	}
	h, doc, err := s.findBOM(ctx, key)
	if id, wrong := store.ParseID(key); err != nil && wrong == nil { // a removal that is asked for again, as its answer was lost
		if h, err = s.Store.Read(ctx).Head(store.KindRemovedBOM, id); err == nil {
			doc, err = s.bomDoc(ctx, h)
		}
		err = deed.Sentence(err, "BOM")
	}
	if err != nil {
		return wire.RemovedBOM{}, err
	}
	out := wire.RemovedBOM{Name: doc.Name, Decisions: len(doc.Decisions) + len(doc.Choices)}
	_, err = deed.Do(ctx, s.Desk, c, deed.OpBOMEdit, "BOM", []any{h.ID, version, "remove"}, func(t *store.Tx) (int, error) {
		h, _, err := at(t, h.ID, version)
		if err != nil {
			return 0, err
		}
		if err := s.mayChange(t, c, h); err != nil {
			return 0, err
		}
		if h.Revision > 0 {
			return 0, deed.Fault(deed.Clash, "bom-frozen", fmt.Sprintf("%s has frozen revisions, which stay as long as boards that were built of them.", h.Number), "Rename it where its name is wanted for another.")
		}
		was := h.Number
		short := []rune(was)
		h.Number = fmt.Sprintf("%s (removed, %s)", string(short[:min(len(short), 60)]), h.ID) // as long as a name may be
		if err := t.SetUses(h.ID, chosenWord, nil); err != nil {
			return 0, err
		}
		if err := t.Update(&h, "removed", map[string]any{"name": was, "file": doc.FileName, "decisions": out.Decisions}); err != nil {
			return 0, err
		}
		return h.Version, t.Retire(&h, store.KindRemovedBOM)
	})
	return out, err
}

// named is the name of a BOM as it is kept: in one line, with single blanks.
func named(name string) (string, error) {
	name = strings.Join(strings.Fields(name), " ")
	if name == "" || strings.ContainsFunc(name, unicode.IsControl) {
		return "", deed.Fault(deed.Invalid, "name-missing", "A BOM has a name, in letters that can be read.", "Name the board, for instance.")
	}
	return name, nil
}

// SetFile lays another file of the same board in the place of a BOM's: what people decided holds for lines that say the same under the same designators.
func (s *BOMs) SetFile(ctx context.Context, c deed.Call, key string, version int, in wire.BOMFile) (wire.BOM, error) {
	var fresh bomDoc
	var kept []decision.Record
	prepare := func(_ store.Head, doc bomDoc) error {
		cab, _, err := s.cabinets.InForce(ctx)
		if err != nil {
			return err
		}
		if kept, err = s.decided(ctx, doc, cab); err != nil {
			return err
		}
		fresh, _, err = s.from(ctx, in, cab)
		return err
	}
	return s.change(ctx, c, key, version, in, prepare, func(_ *store.Head, doc *bomDoc) (string, any) {
		was := doc.FileName
		doc.Decisions, doc.Choices = kept, nil
		doc.readOf(fresh)
		return "file replaced", map[string]any{"before": was, "file": doc.FileName, "hash": doc.FileHash}
	})
}

// change writes a BOM as somebody changed it, at the version that was seen; prepare looks at it beforehand, where there is one.
func (s *BOMs) change(ctx context.Context, c deed.Call, key string, version int, in any, prepare func(store.Head, bomDoc) error, make func(*store.Head, *bomDoc) (action string, detail any)) (wire.BOM, error) {
	if err := deed.Allow(c, deed.OpBOMEdit); err != nil {
		return wire.BOM{}, err
	}
	h, _, err := s.findBOM(ctx, key)
	if err != nil {
		return wire.BOM{}, err
	}
	ahead := func() error {
		now, doc, err := s.seen(ctx, h.ID, version)
		if err != nil || prepare == nil {
			return err
		}
		return prepare(now, doc)
	}
	_, err = deed.DoAfter(ctx, s.Desk, c, deed.OpBOMEdit, "BOM", []any{h.ID, version, in}, ahead, func(t *store.Tx) (int, error) {
		h, doc, err := at(t, h.ID, version)
		if err != nil {
			return 0, err
		}
		was := doc
		action, detail := make(&h, &doc)
		same, err := was.sameLines(doc)
		if err == nil && !same {
			err = s.mayChange(t, c, h)
		}
		if err != nil {
			return 0, err
		}
		if err := deed.SaveDraft(t, &h, bomFormat, doc); err != nil {
			return 0, err
		}
		return h.Version, t.Update(&h, action, detail)
	})
	if errors.Is(err, store.ErrNumberTaken) {
		return wire.BOM{}, deed.Fault(deed.Clash, "name-taken", "There is a BOM of that name already.", "Choose another name.")
	}
	if err != nil {
		return wire.BOM{}, err
	}
	return s.Get(ctx, c, h.ID.String())
}

// seen is a BOM as it is, where that is still what somebody looked at.
func (s *BOMs) seen(ctx context.Context, id store.ID, version int) (store.Head, bomDoc, error) {
	h, doc, err := s.findBOM(ctx, id.String())
	if err == nil && h.Version != version {
		err = deed.Sentence(store.ErrConflict, "BOM")
	}
	return h, doc, err
}
