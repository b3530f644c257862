package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/part"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// partFormat is the format number of a part's content.
const partFormat = "jolly-part/1"

// draftOf loads a part's newest content: its draft, or else what is released.
func draftOf(h store.Head) store.ID {
	if h.Draft.IsZero() {
		return h.Released
	}
	return h.Draft
}

func decodePart(c store.Content) (p part.Content, o origins, err error) {
	if err = json.Unmarshal(c.Bytes, &p); err == nil {
		err = json.Unmarshal(c.Origins, &o)
	}
	return p, o, err
}

var numberForm = regexp.MustCompile(`^[\p{L}\p{N}][\p{L}\p{N} ._/+:#-]{0,63}$`)

// CreatePart makes a part as a draft. Its number is the next of the drawer, or the one given.
func (s *Service) CreatePart(ctx context.Context, c Call, in wire.PartEdit) (wire.Part, error) {
	if err := allow(c, OpPartEdit); err != nil {
		return wire.Part{}, err
	}
	if id, ok, err := replayed[store.ID](ctx, s, c, OpPartEdit, "part", in); ok || err != nil {
		if err != nil {
			return wire.Part{}, err
		}
		return s.Part(ctx, c, id.String())
	}
	cab, ch, err := s.currentCabinet(ctx)
	if err != nil {
		return wire.Part{}, err
	}
	p, o, err := s.build(ctx, c, cab, in, part.Content{}, nil)
	if err != nil {
		return wire.Part{}, err
	}
	t, _ := cab.Template(p.Drawer)
	if err := s.defaultModels(ctx, t, &p); err != nil {
		return wire.Part{}, err
	}
	number := strings.TrimSpace(in.Number)
	for range 20 { // a number given by hand may lie ahead of the counter
		next := number
		if next == "" {
			if t.Prefix == "" {
				return wire.Part{}, fault(Invalid, "no-prefix", fmt.Sprintf("The drawer %s has no prefix for part numbers.", t.Label), "Give the part a number, or the drawer a prefix.")
			}
			n, err := s.Store.ReserveNumbers(ctx, t.Prefix, 1)
			if err != nil {
				return wire.Part{}, sentence(err, "part")
			}
			next = t.PartNumber(n)
		} else if !numberForm.MatchString(next) {
			return wire.Part{}, fault(Invalid, "number-form", fmt.Sprintf("%q cannot be a part number.", next), "Use letters, digits, blanks and . _ / + : # - only, at most 64.")
		}
		id, err := deed(ctx, s, c, OpPartEdit, "part", in, func(tx *store.Tx) (store.ID, error) {
			h := store.Head{ID: store.NewID(), Kind: store.KindPart, Number: next, Standing: string(lifecycle.Active)}
			if taken, err := tx.FormerTaken(next); err != nil {
				return h.ID, err
			} else if taken {
				return h.ID, store.ErrNumberTaken
			}
			if _, err := savePart(tx, &h, p, o, ch.Revision, in.KeepSeparate != ""); err != nil {
				return h.ID, err
			}
			detail := map[string]any{"number": next, "drawer": p.Drawer}
			if in.KeepSeparate != "" {
				detail["keptSeparate"] = in.KeepSeparate
			}
			return h.ID, tx.Insert(&h, "made", detail)
		})
		if errors.Is(err, store.ErrNumberTaken) && number == "" {
			continue
		}
		if err != nil {
			return wire.Part{}, s.refused(ctx, err, next, p)
		}
		if number != "" {
			s.stepPast(ctx, cab, number)
		}
		return s.Part(ctx, c, id.String())
	}
	return wire.Part{}, fault(Busy, "number-busy", "No free part number was found in twenty tries.", "Try again.")
}

// stepPast lets the counters continue after numbers of their form that were given from outside. The UNIQUE key is what
// guards numbers; this only saves the counters from running into them.
func (s *Service) stepPast(ctx context.Context, cab *cabinet.Cabinet, numbers ...string) {
	past := map[string]int64{}
	for _, prefix := range cab.Prefixes() {
		for _, number := range numbers {
			if rest, ok := strings.CutPrefix(strings.ToUpper(number), prefix+"-"); ok {
				if n, err := strconv.ParseInt(rest, 10, 64); err == nil && n < 1e12 {
					past[prefix] = max(past[prefix], n)
				}
			}
		}
	}
	for prefix, n := range past {
		if err := s.Store.StepPast(ctx, prefix, n); err != nil {
			s.Log.Warn("stepping a counter past a number", "prefix", prefix, "error", err)
		}
	}
}

// refused says which key refused a part.
func (s *Service) refused(ctx context.Context, err error, number string, p part.Content) error {
	switch {
	case errors.Is(err, store.ErrNumberTaken):
		return fault(Clash, "number-taken", fmt.Sprintf("The part number %s is taken.", number), "Choose another, or leave it blank for the next one.")
	case errors.Is(err, store.ErrSourceTaken):
		for _, src := range p.Sources {
			id, ok, e := s.Store.SourceHolder(ctx, src.Key())
			if e != nil || !ok {
				continue
			}
			if h, e := s.Store.Head(ctx, store.KindPart, id); e == nil && h.Number != number {
				return fault(Clash, "source-taken", fmt.Sprintf("%s %s is in the library as %s; nothing was saved.", src.Manufacturer, src.MPN, h.Number),
					"Use that part, or say in keepSeparate why this one stands beside it.")
			}
		}
		return fault(Clash, "source-taken", "Another part has the same manufacturer part number; nothing was saved.", "Use that part, or say in keepSeparate why this one stands beside it.")
	}
	return err
}

// SaveDraft replaces a part's draft. version is the one that was edited: when the part has moved on, nothing is saved
// and the error carries the part as it is now.
func (s *Service) SaveDraft(ctx context.Context, c Call, key string, version int, in wire.PartEdit) (wire.Part, error) {
	if err := allow(c, OpPartEdit); err != nil {
		return wire.Part{}, err
	}
	cab, ch, err := s.currentCabinet(ctx)
	if err != nil {
		return wire.Part{}, err
	}
	h, err := s.findPart(ctx, key)
	if err != nil {
		return wire.Part{}, sentence(err, "part")
	}
	_, err = deed(ctx, s, c, OpPartEdit, "part", []any{h.ID, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindPart, h.ID, version)
		if err == nil {
			err = notMerged(h)
		}
		if err != nil {
			return 0, err
		}
		was, err := t.Content(draftOf(h))
		if err != nil {
			return 0, err
		}
		base, from, err := decodePart(was)
		if err != nil {
			return 0, err
		}
		p, o, err := s.build(ctx, c, cab, in, base, from)
		if err != nil {
			return 0, err
		}
		now, err := savePart(t, &h, p, o, ch.Revision, in.KeepSeparate != "")
		if err != nil {
			return 0, err
		}
		changes, err := document.Diff(was.Bytes, now.Bytes)
		if err != nil {
			return 0, err
		}
		changes = trailChanges(changes)
		return h.Version, t.Update(&h, "draft saved", map[string]any{"changes": changes})
	})
	if err != nil {
		return wire.Part{}, s.conflict(ctx, s.refused(ctx, err, h.Number, part.Content{Sources: in.Sources}), h.ID)
	}
	return s.Part(ctx, c, h.ID.String())
}

// trailChanges keeps what a trail entry can hold; the contents themselves are kept whole.
func trailChanges(all []document.Change) []document.Change {
	all = all[:min(len(all), 100)]
	for i := range all {
		for _, s := range []*string{&all[i].Old, &all[i].New} {
			if len(*s) > 150 {
				*s = strings.ToValidUTF8((*s)[:150], "") + "…"
			}
		}
	}
	return all
}

// conflict adds to a lost edit the part as it is now, and who changed it.
func (s *Service) conflict(ctx context.Context, err error, id store.ID) error {
	var e *Error
	if !errors.As(err, &e) || e.Type != "changed-meanwhile" {
		return err
	}
	h, herr := s.Store.Head(ctx, store.KindPart, id)
	if herr != nil {
		return err
	}
	now, verr := s.partView(ctx, h)
	if verr != nil {
		return err
	}
	who := "somebody else"
	if entries, terr := s.Store.Trail(ctx, id, 0, 1); terr == nil && len(entries) == 1 {
		who = s.person(ctx, entries[0].Account)
	}
	out := fault(Clash, "part-changed", fmt.Sprintf("%s was changed by %s meanwhile; nothing was saved.", h.Number, who), "Compare the two and save again.")
	out.Current = &now
	return out
}

// Release freezes a part's draft as its next revision.
func (s *Service) Release(ctx context.Context, c Call, key string, version int, in wire.Release) (wire.Part, error) {
	if err := allow(c, OpPartRelease); err != nil {
		return wire.Part{}, err
	}
	h, err := s.findPart(ctx, key)
	if err != nil {
		return wire.Part{}, sentence(err, "part")
	}
	_, err = s.release(ctx, c, []wire.PartBase{{ID: h.ID.String(), Version: version}}, in.Note)
	if err != nil {
		return wire.Part{}, s.conflict(ctx, err, h.ID)
	}
	return s.Part(ctx, c, h.ID.String())
}

// ReleaseMany releases several drafts in one deed: all of them or none.
func (s *Service) ReleaseMany(ctx context.Context, c Call, in wire.BulkRelease) (wire.Released, error) {
	if err := allow(c, OpPartRelease); err != nil {
		return wire.Released{}, err
	}
	return s.release(ctx, c, in.Parts, in.Note)
}

func (s *Service) release(ctx context.Context, c Call, bases []wire.PartBase, note string) (wire.Released, error) {
	if strings.TrimSpace(note) == "" {
		return wire.Released{}, fault(Invalid, "no-note", "A release needs a note.", "Say in a few words what was made or changed.")
	}
	cab, _, err := s.currentCabinet(ctx)
	if err != nil {
		return wire.Released{}, err
	}
	return deed(ctx, s, c, OpPartRelease, "part", []any{bases, note}, func(t *store.Tx) (wire.Released, error) {
		out := wire.Released{Numbers: []string{}}
		bad := fault(Invalid, "not-ready", "Nothing was released:", "")
		seen := map[string]bool{}
		for _, b := range bases {
			id, err := store.ParseID(b.ID)
			if err != nil {
				return out, fault(Invalid, "id-wrong", err.Error()+".", "")
			}
			if seen[b.ID] {
				continue
			}
			seen[b.ID] = true
			h, err := t.HeadAt(store.KindPart, id, b.Version)
			if err == nil {
				err = notMerged(h)
			}
			if err != nil {
				return out, err
			}
			if h.Draft.IsZero() {
				bad.Places = append(bad.Places, wire.ProblemDetail{Location: h.Number, Message: h.Number + " has no draft: all of it is released"})
				continue
			}
			content, err := t.Content(h.Draft)
			if err != nil {
				return out, err
			}
			p, _, err := decodePart(content)
			if err != nil {
				return out, err
			}
			tpl, ok := cab.Template(p.Drawer)
			if !ok {
				return out, fault(Invalid, "drawer-unknown", fmt.Sprintf("%s is in the drawer %q, which the cabinet lacks.", h.Number, p.Drawer), "")
			}
			fit, err := s.fitFindings(ctx, tpl, p)
			if err != nil {
				return out, err
			}
			for _, f := range append(part.Check(p, tpl), fit...) {
				if f.Severity == finding.Error && len(bad.Places) < 50 {
					bad.Places = append(bad.Places, wire.ProblemDetail{Location: h.Number + " " + f.Field, Message: h.Number + ": " + f.What + "; " + f.Mend})
				}
			}
			if len(bad.Places) > 0 {
				continue
			}
			if err := t.AddRevision(&h, content, note); err != nil {
				return out, err
			}
			if err := t.SetUses(h.ID, "draft", nil); err != nil {
				return out, err
			}
			if err := t.SetUses(h.ID, "released", usesOf(p)); err != nil {
				return out, err
			}
			if err := t.Update(&h, "released", map[string]any{"revision": h.Revision, "note": note, "hash": content.Hash.String()}); err != nil {
				return out, err
			}
			out.Parts++
			if len(out.Numbers) < 100 {
				out.Numbers = append(out.Numbers, h.Number)
			}
		}
		if len(bad.Places) > 0 {
			return out, bad
		}
		return out, nil
	})
}

// SetStanding says how a part may be used from now on.
func (s *Service) SetStanding(ctx context.Context, c Call, key string, version int, in wire.Standing) (wire.Part, error) {
	if err := allow(c, OpPartStanding); err != nil {
		return wire.Part{}, err
	}
	standing, err := lifecycle.ParseStanding(in.Standing)
	if err != nil {
		return wire.Part{}, fault(Invalid, "standing-wrong", err.Error()+".", "")
	}
	h, err := s.findPart(ctx, key)
	if err != nil {
		return wire.Part{}, sentence(err, "part")
	}
	_, err = deed(ctx, s, c, OpPartStanding, "part", []any{h.ID, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindPart, h.ID, version)
		if err == nil {
			err = notMerged(h)
		}
		if err != nil {
			return 0, err
		}
		was := h.Standing
		h.Standing = string(standing)
		return h.Version, t.Update(&h, "standing changed", map[string]any{"from": was, "to": standing, "why": in.Why})
	})
	if err != nil {
		return wire.Part{}, s.conflict(ctx, err, h.ID)
	}
	return s.Part(ctx, c, h.ID.String())
}
