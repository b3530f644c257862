package boms

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/decision"
	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// mostDeep is how many BOMs are looked through for one that would be made of itself.
const mostDeep = 10_000

// subs are the other BOMs that lines of a board are by some verdicts, each at the revision that the board holds on to, or at its newest; seen are their heads, as they were looked at.
func (s *BOMs) subs(ctx context.Context, own store.Head, doc bomDoc, some ...[]bom.Verdict) (out bom.Subs, seen []store.Head, err error) {
	for _, vs := range some {
		for i := range vs {
			if vs[i].Kind != bom.Another || vs[i].Chosen == nil {
				continue
			}
			outcome := vs[i].Chosen.Outcome
			if _, known := out[outcome]; known {
				continue
			}
			if out == nil {
				out = bom.Subs{}
			}
			sub, h, err := s.sub(ctx, own, doc, outcome)
			if err != nil {
				return out, seen, err
			}
			if out[outcome] = sub; !h.ID.IsZero() {
				seen = append(seen, h)
			}
		}
	}
	return out, seen, nil
}

func (s *BOMs) sub(ctx context.Context, own store.Head, doc bomDoc, outcome string) (out bom.Sub, h store.Head, err error) {
	key, variant, _ := bom.BoardIn(outcome)
	out.Pin = bom.BoardPin{ID: key, Name: "a BOM", Variant: variant}
	id, err := store.ParseID(key)
	if err != nil {
		out.Why = "the BOM that was chosen is not known"
		return out, h, nil
	}
	r := s.Store.Read(ctx)
	h, err = r.Head(store.KindBOM, id)
	if errors.Is(err, store.ErrNotFound) {
		out.Why = "the BOM that was chosen is no longer there"
		return out, store.Head{}, nil
	}
	if err != nil {
		return out, h, err
	}
	out.Pin.Name = h.Number
	switch {
	case h.ID == own.ID:
		out.Why = h.Number + " would be made of itself"
	case h.Revision == 0:
		out.Why = h.Number + " was never frozen: it has no revision that could be taken"
	}
	if out.Why != "" {
		return out, h, nil
	}
	at := h.Revision
	if held := doc.Held[key]; held > 0 {
		at = held
	}
	f, v, err := s.revision(ctx, h, at)
	if err != nil {
		return out, h, err
	}
	out.Pin.Revision, out.Pin.Label, out.Pin.Hash = at, label(v), v.Hash.String()
	if variant == "" {
		out.Pin.Variant = f.Variant
	}
	if bom.HoldsBoard(f.Lines, own.ID.String()) {
		out.Why = fmt.Sprintf("%s takes %s: it would be made of itself", h.Number, own.Number)
	}
	switch name, ok := bom.VariantNamed(f.Variants, out.Pin.Variant); {
	case ok:
		out.Pin.Variant = name
	case out.Pin.Variant != "":
		out.Why = fmt.Sprintf("revision %s of %s has no variant %s", out.Pin.Label, h.Number, out.Pin.Variant)
	case len(f.Variants) > 0:
		out.Why = fmt.Sprintf("revision %s of %s is of several variants (%s): say which is taken", out.Pin.Label, h.Number, strings.Join(f.Variants, ", "))
	}
	out.Lines = bom.PinnedOf(f.Lines, out.Pin.Variant)
	if at < h.Revision {
		newest, err := r.Revision(h.ID, h.Revision)
		if err != nil {
			return out, h, err
		}
		out.Newest = label(newest)
	}
	return out, h, s.notToUse(r, h, at, &out)
}

// notToUse says of a revision whether it may not be used any more.
func (s *BOMs) notToUse(r store.Reader, h store.Head, at int, out *bom.Sub) error {
	rules, err := s.policy.Rules(r)
	if err != nil {
		return err
	}
	states, err := r.RevisionStates([]store.ID{h.ID})
	if err != nil {
		return err
	}
	for _, m := range states {
		if m.Number == at {
			if st := rules.Revision(h, at, m.State); st.Use == lifecycle.UseNo {
				out.Withdrawn = st.Word
			}
		}
	}
	return nil
}

// pins are the lines of a board as they would be frozen, without those of other BOMs.
func (s *BOMs) pins(ctx context.Context, h store.Head, doc bomDoc, vs []bom.Verdict) (lines []bom.Pinned, subs bom.Subs, seen []store.Head, err error) {
	lines = doc.Held.Pin(vs)
	if subs, seen, err = s.subs(ctx, h, doc, vs); err != nil {
		return nil, nil, nil, err
	}
	subs.Pin(lines, vs)
	return lines, subs, seen, nil
}

// whole are lines with those of the other BOMs that they are below them.
func whole(lines []bom.Pinned, subs bom.Subs) ([]bom.Pinned, error) {
	if len(subs) == 0 {
		return lines, nil
	}
	of := map[bom.BoardPin][]bom.Pinned{}
	for _, s := range subs {
		of[s.Pin] = s.Lines
	}
	out, err := bom.Expanded(lines, func(p bom.BoardPin) []bom.Pinned { return of[p] })
	if err != nil {
		return nil, deed.Fault(deed.Invalid, "bom-too-long", "The board cannot be worked out: "+err.Error()+".", "Take fewer of the board in that line.")
	}
	return out, nil
}

// wholePins are the lines of a board as they are now, with those of other BOMs.
func (s *BOMs) wholePins(ctx context.Context, h store.Head, doc bomDoc, vs []bom.Verdict) ([]bom.Pinned, error) {
	lines, subs, _, err := s.pins(ctx, h, doc, vs)
	if err != nil {
		return nil, err
	}
	return whole(lines, subs)
}

// takenPins are the same for what is told of many boards at once: one that is too large to be worked out is told as far as its own lines go.
func (s *BOMs) takenPins(ctx context.Context, h store.Head, doc bomDoc, vs []bom.Verdict) ([]bom.Pinned, error) {
	lines, err := s.wholePins(ctx, h, doc, vs)
	if e := new(deed.Error); errors.As(err, &e) {
		return doc.Held.Pin(vs), nil
	}
	return lines, err
}

// otherBoard finds the BOM that a line is said to be, and refuses one that would make a board of itself, by way of others too, as they are chosen now.
func (s *BOMs) otherBoard(ctx context.Context, own store.ID, key string) (store.Head, error) {
	h, doc, err := s.findBOM(ctx, key)
	if err != nil {
		return h, err
	}
	seen := map[store.ID]bool{}
	next := []bomDoc{doc}
	reached := h.ID == own
	for len(next) > 0 && !reached && len(seen) < mostDeep {
		doc, next = next[0], next[1:]
		for _, d := range doc.Decisions {
			id, ok := boardOf(d)
			if !ok || seen[id] {
				continue
			}
			seen[id], reached = true, reached || id == own
			if _, below, err := s.findBOM(ctx, id.String()); err == nil {
				next = append(next, below)
			}
		}
	}
	if reached {
		return h, deed.Fault(deed.Invalid, "bom-circle", fmt.Sprintf("The board would be made of itself: it is, or is in, %s.", h.Number), "Choose another BOM, or a part.")
	}
	return h, nil
}

// boardOf is the BOM that a decision says a line is.
func boardOf(d decision.Record) (id store.ID, is bool) {
	if d.Kind != decision.Line || d.Withdrawn != "" {
		return id, false
	}
	key, _, is := bom.BoardIn(d.Outcome)
	if !is {
		return id, false
	}
	id, err := store.ParseID(key)
	return id, err == nil
}

// asSeen refuses what hangs on other BOMs that somebody changed meanwhile.
func asSeen(r store.Reader, seen []store.Head) error {
	for _, was := range seen {
		now, err := r.Head(store.KindBOM, was.ID)
		if err != nil || now.Version != was.Version {
			return deed.Fault(deed.Clash, "board-changed", was.Number+" was changed by somebody else meanwhile; nothing was frozen.", "Look at the board again.")
		}
	}
	return nil
}

// boardView is the other BOM that a line is, as it is shown.
func boardView(sub bom.Sub) *wire.BoardTaken {
	return &wire.BoardTaken{ID: sub.Pin.ID, Name: sub.Pin.Name, Revision: sub.Pin.Revision, Label: sub.Pin.Label, Variant: sub.Pin.Variant, Lines: len(sub.Lines)}
}

// boardsBehind says which other BOMs that a revision takes have newer revisions by now.
func (s *BOMs) boardsBehind(ctx context.Context, lines []bom.Pinned) (out []bom.Drift, err error) {
	r := s.Store.Read(ctx)
	for _, l := range lines {
		if l.Board == nil || l.Of != "" || l.NotFitted {
			continue
		}
		id, err := store.ParseID(l.Board.ID)
		if err != nil {
			return nil, err
		}
		h, err := r.Head(store.KindBOM, id)
		if err != nil {
			return nil, err // what was frozen is not removed
		}
		if h.Revision <= l.Board.Revision {
			continue
		}
		v, err := r.Revision(id, h.Revision)
		if err != nil {
			return nil, err
		}
		out = append(out, bom.Drift{Row: l.Row, Designators: l.Designators, Pin: bom.Pin{ID: l.Board.ID, Number: l.Board.Name, Revision: l.Board.Revision, Hash: l.Board.Hash, Description: "a board"}, Number: h.Number, Revision: h.Revision,
			Says: []string{"revision " + label(v) + " is frozen"}})
	}
	return out, nil
}
