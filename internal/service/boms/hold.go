package boms

import (
	"context"
	"fmt"
	"slices"

	"jollydrawer/core/bom"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// MoveOn takes the newer revisions of parts that a board holds on to older ones of: of some, or of all that are behind. What is frozen next is pinned to them.
func (s *BOMs) MoveOn(ctx context.Context, c deed.Call, key string, version int, in wire.MoveOnParts) (wire.BOM, error) {
	var moved []*lookup.Entry
	var boards []bom.Sub
	newest := map[string]int{} // revisions of other BOMs
	prepare := func(h store.Head, doc bomDoc) error {
		vs, _, err := s.reconcile(ctx, h, doc)
		if err != nil {
			return err
		}
		moved = nil
		for _, id := range doc.Held.Behind(vs) {
			if e, ok := s.index.ByID(id); ok && (len(in.Parts) == 0 || slices.Contains(in.Parts, e.ID) || slices.Contains(in.Parts, e.Number)) {
				moved = append(moved, e)
			}
		}
		subs, heads, err := s.subs(ctx, h, doc, vs)
		if err != nil {
			return err
		}
		boards = nil
		for _, b := range heads {
			newest[b.ID.String()] = b.Revision
		}
		for _, sub := range subs {
			again := slices.ContainsFunc(boards, func(o bom.Sub) bool { return o.Pin.ID == sub.Pin.ID })
			if sub.Newest != "" && !again && (len(in.Parts) == 0 || slices.Contains(in.Parts, sub.Pin.ID) || slices.Contains(in.Parts, sub.Pin.Name)) {
				boards = append(boards, sub)
			}
		}
		for _, p := range in.Parts {
			if slices.ContainsFunc(boards, func(o bom.Sub) bool { return o.Pin.ID == p || o.Pin.Name == p }) {
				continue
			}
			if !slices.ContainsFunc(moved, func(e *lookup.Entry) bool { return e.ID == p || e.Number == p }) {
				return deed.Fault(deed.Invalid, "not-behind", fmt.Sprintf("%s does not hold on to an older revision of %s.", h.Number, p), "Look at the BOM again: it may be moved on already.")
			}
		}
		if len(moved)+len(boards) == 0 {
			return deed.Fault(deed.Invalid, "not-behind", h.Number+" holds on to no older revision.", "")
		}
		return nil
	}
	return s.change(ctx, c, key, version, in, prepare, func(_ *store.Head, doc *bomDoc) (string, any) {
		var names []string
		for _, e := range moved {
			names = append(names, fmt.Sprintf("%s from revision %d to %d", e.Number, doc.Held[e.ID], e.Revision))
			doc.hold(e.ID, e.Revision)
		}
		for _, b := range boards {
			names = append(names, fmt.Sprintf("%s from revision %s to %s", b.Pin.Name, b.Pin.Label, b.Newest))
			doc.hold(b.Pin.ID, newest[b.Pin.ID])
		}
		return "moved on", map[string]any{"parts": len(names), "which": names[:min(len(names), 20)]}
	})
}

// hold holds on to a revision of a part.
func (d *bomDoc) hold(id string, revision int) {
	next := bom.Held{}
	for k, v := range d.Held {
		next[k] = v
	}
	next[id] = revision
	d.Held = next
}

// withdrawn says of the older revisions that a board holds on to which may not be used any more, by the record's ID.
func (s *BOMs) withdrawn(ctx context.Context, vs []bom.Verdict, held bom.Held) (map[string]string, error) {
	out := map[string]string{}
	var ids []store.ID
	for _, id := range held.Behind(vs) {
		if id, err := store.ParseID(id); err == nil {
			ids = append(ids, id)
		}
	}
	if len(ids) == 0 {
		return out, nil
	}
	r := s.Store.Read(ctx)
	rules, err := s.policy.Rules(r)
	if err != nil {
		return nil, err
	}
	heads, err := r.HeadsByID(ids)
	if err != nil {
		return nil, err
	}
	states, err := r.RevisionStates(ids)
	if err != nil {
		return nil, err
	}
	for _, h := range heads {
		for _, m := range states {
			if m.Head == h.ID && m.Number == held[h.ID.String()] {
				if st := rules.Revision(h, m.Number, m.State); st.Use == lifecycle.UseNo {
					out[h.ID.String()] = st.Word
				}
			}
		}
	}
	return out, nil
}

// asTheyWere gives pins of older revisions the hash, description and first source that those revisions have.
func asTheyWere(r store.Reader, lines []bom.Pinned, older map[store.ID]int) error {
	if len(older) == 0 {
		return nil
	}
	var ids []store.ID
	for id := range older {
		ids = append(ids, id)
	}
	all, err := r.RevisionsOf(ids)
	if err != nil {
		return err
	}
	at := map[string]store.Revision{}
	var contents []store.ID
	for id, revisions := range all {
		for _, v := range revisions {
			if v.Number == older[id] {
				at[id.String()], contents = v, append(contents, v.Content)
			}
		}
	}
	found, err := r.ContentsAlone(contents)
	if err != nil {
		return err
	}
	for i := range lines {
		if lines[i].Part == nil {
			continue
		}
		v, is := at[lines[i].Part.ID]
		if !is || v.Number != lines[i].Part.Revision {
			continue
		}
		p, err := parts.DecodeContent(found[v.Content])
		if err != nil {
			return err
		}
		pin := *lines[i].Part
		pin.Hash, pin.Description, pin.Manufacturer, pin.MPN = v.Hash.String(), p.Description, "", ""
		if len(p.Sources) > 0 {
			pin.Manufacturer, pin.MPN = p.Sources[0].Manufacturer, p.Sources[0].MPN
		}
		lines[i].Part = &pin
	}
	return nil
}
