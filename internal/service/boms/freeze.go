package boms

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/buying"
	"jollydrawer/core/document"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/lifecycles"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const frozenFormat = "jolly-bom-frozen/1"

// frozenWord is what the uses of a revision are written as, with its number: the exact part revisions that it is pinned to.
const frozenWord = "frozen"

// mostNamed is how many lines a refusal names one by one.
const mostNamed = 20

// Freeze makes the next revision of a BOM: every line pinned to the revision of its part that is in use, as it is at the commit. Lines that nothing answers
// yet, and records without a revision, are refused, or left without a pin where somebody says why.
func (s *BOMs) Freeze(ctx context.Context, c deed.Call, key string, version int, in wire.FreezeBOM) (wire.BOM, error) {
	if err := deed.Allow(c, deed.OpBOMFreeze); err != nil {
		return wire.BOM{}, err
	}
	f := freezing{BOMs: s, version: version, note: deed.Said(in.Note), anyway: deed.Said(in.Anyway), minor: in.Minor}
	if f.note == "" {
		return wire.BOM{}, deed.Fault(deed.Invalid, "note-missing", "A revision needs a note: what it is for.", "Say it in a few words.")
	}
	h, _, err := s.findBOM(ctx, key)
	if err != nil {
		return wire.BOM{}, err
	}
	f.id = h.ID
	if _, err := deed.DoAfter(ctx, s.Desk, c, deed.OpBOMFreeze, "BOM", []any{h.ID, version, in}, func() error { return f.prepare(ctx, c.Actor) }, f.write); err != nil {
		return wire.BOM{}, err
	}
	return s.Get(ctx, c, h.ID.String())
}

// freezing is a BOM on its way to its next revision.
type freezing struct {
	*BOMs
	id           store.ID
	version      int // that a person looked at
	note, anyway string
	minor        bool

	content bom.Frozen // but for the pins, which are those of the commit
	entries []*lookup.Entry
	subs    bom.Subs
	seen    []store.Head
	as      lifecycles.Releasing
	still   lifecycles.Still
}

// prepare works out what the revision holds, and looks whether it may be.
func (f *freezing) prepare(ctx context.Context, who deed.Actor) error {
	now, doc, err := f.BOMs.seen(ctx, f.id, f.version)
	if err != nil {
		return err
	}
	vs, file, err := f.reconcile(ctx, now, doc)
	if err != nil {
		return err
	}
	own, subs, seen, err := f.pins(ctx, now, doc, vs)
	if err != nil {
		return err
	}
	f.subs, f.seen = subs, seen
	if hindered := append(bom.Hindrances(vs), subs.Hindrances(vs)...); len(hindered) > 0 && f.anyway == "" {
		return refused(hindered)
	}
	if f.as, f.still, err = f.lives.Freeze(ctx, who, now, f.note, f.minor); err != nil {
		return err
	}
	f.content = bom.Frozen{Name: now.Number, FileName: doc.FileName, FileHash: doc.FileHash, Build: doc.Build, Anyway: f.anyway, Variants: file.variants, Variant: doc.built(file.variants), Lines: own}
	f.entries = linked(vs)
	if doc.Build == 0 {
		return nil
	}
	if _, err := one(file.variants, doc.Variant, ""); err != nil {
		return err
	}
	all, err := whole(own, subs)
	if err != nil {
		return err
	}
	b, err := f.basket(ctx, bom.PinnedOf(all, f.content.Variant))
	if err != nil {
		return err
	}
	cost := b.plan(int64(doc.Build), doc.Buying)
	f.content.Rules, f.content.Cost = doc.Buying, &cost
	return nil
}

// write keeps the revision, where everything is as it was looked at.
func (f *freezing) write(t *store.Tx) (int, error) {
	h, doc, err := at(t, f.id, f.version)
	if err != nil {
		return 0, err
	}
	hashed, err := f.pinned(t, doc.Held)
	if err != nil {
		return 0, err
	}
	doc.Held = bom.HeldBy(hashed.Lines) // it holds on to them from now on
	if hashed.Lines, err = whole(hashed.Lines, f.subs); err != nil {
		return 0, err
	}
	raw, hash, err := document.Canonical(hashed)
	if err != nil {
		return 0, err
	}
	if len(raw) > mostFrozen {
		return 0, deed.Fault(deed.TooLarge, "bom-too-large", fmt.Sprintf("The revision would be %d MB large; at most %d can be kept.", len(raw)>>20, mostFrozen>>20), "Shorten its texts, or split the BOM.")
	}
	kept := store.Content{ID: store.NewID(), Head: h.ID, Hash: store.Hash(hash), Format: frozenFormat, Bytes: raw}
	if err := t.AddContent(&kept); err != nil {
		return 0, err
	}
	if err := deed.SaveDraft(t, &h, bomFormat, doc); err != nil {
		return 0, err
	}
	draft := h.Draft
	if err := t.AddRevision(&h, kept, f.note, f.as.Label); err != nil {
		return 0, err
	}
	h.Draft, h.State, h.DraftState, h.Moved = draft, f.as.State, "", nil // one goes on working on it
	if err := t.SetUses(h.ID, fmt.Sprintf("%s %d", frozenWord, h.Revision), frozenUses(hashed, h.Revision)); err != nil {
		return 0, err
	}
	detail := map[string]any{"revision": h.Revision, "note": f.note, "anyway": f.anyway, "file": doc.FileName, "hash": kept.Hash.String()}
	maps.Copy(detail, f.as.Detail)
	return h.Version, t.Update(&h, "frozen", detail)
}

// pinned is what the revision holds, with the pins of now, where what was looked at still stands.
func (f *freezing) pinned(t *store.Tx, held bom.Held) (out bom.Frozen, err error) {
	if err := f.still(t); err != nil {
		return out, err
	}
	if err := f.stand(t.Reader, f.entries, lifecycle.ForbidFreeze); err != nil {
		return out, err
	}
	if out, err = pinned(t.Reader, f.content, held); err != nil {
		return out, err
	}
	return out, asSeen(t.Reader, f.seen)
}

// mostFrozen is how large a revision can be: as the database keeps it in one piece.
const mostFrozen = 12 << 20

// refused says which lines keep a BOM from being frozen, by cause.
func refused(all []bom.Hindrance) error {
	n := map[string]int{}
	bad := deed.Fault(deed.Invalid, "not-to-freeze", "", "Settle these lines first, or say why it is frozen all the same: they are then without a pin.")
	for _, h := range all {
		if n[h.Cause]++; len(bad.Places) < mostNamed {
			bad.Places = append(bad.Places, wire.ProblemDetail{Location: fmt.Sprintf("row %d", h.Row), Message: h.Says})
		}
	}
	var says []string
	if n["open"] > 0 {
		says = append(says, fmt.Sprintf("lines without a record: %d", n["open"]))
	}
	if n["unreleased"] > 0 {
		says = append(says, fmt.Sprintf("lines whose record is not released: %d", n["unreleased"]))
	}
	if n["board-open"] > 0 {
		says = append(says, fmt.Sprintf("lines that are another BOM of which no revision can be taken: %d", n["board-open"]))
	}
	if n["fitted-unclear"] > 0 {
		says = append(says, fmt.Sprintf("lines of which it is not clear whether they are fitted: %d", n["fitted-unclear"]))
	}
	if n["level-unclear"] > 0 {
		says = append(says, fmt.Sprintf("lines of which it is not clear what they are part of: %d", n["level-unclear"]))
	}
	bad.What = "Nothing was frozen; " + strings.Join(says, ", ") + "."
	return bad
}

// linked are the records that lines are linked to, each once.
func linked(vs []bom.Verdict) (out []*lookup.Entry) {
	seen := map[string]bool{}
	for i := range vs {
		if v := &vs[i]; v.Kind == bom.Linked && v.Part != nil && !seen[v.Part.ID] {
			seen[v.Part.ID] = true
			out = append(out, v.Part)
		}
	}
	return out
}

// pinned gives every pin the hash of its revision, and what it says of itself where an older one is held on to.
func pinned(r store.Reader, f bom.Frozen, held bom.Held) (bom.Frozen, error) {
	f.Lines = slices.Clone(f.Lines)
	ids := map[string]store.ID{}
	var all []store.ID
	for _, l := range f.Lines {
		if l.Part == nil || ids[l.Part.ID] != (store.ID{}) {
			continue
		}
		id, err := store.ParseID(l.Part.ID)
		if err != nil {
			return f, err
		}
		ids[l.Part.ID] = id
		all = append(all, id)
	}
	hashes, err := r.ReleasedHashes(all)
	if err != nil {
		return f, err
	}
	for i, l := range f.Lines {
		if l.Part == nil {
			continue
		}
		pin := *l.Part
		if h, released := hashes[ids[pin.ID]]; released {
			pin.Hash = h.String()
		}
		f.Lines[i].Part = &pin
	}
	older := map[store.ID]int{}
	for _, l := range f.Lines {
		if l.Part != nil && l.Part.Revision > 0 && held[l.Part.ID] == l.Part.Revision {
			older[ids[l.Part.ID]] = l.Part.Revision
		}
	}
	return f, asTheyWere(r, f.Lines, older)
}

// Revision returns a frozen revision of a BOM, with what became otherwise in the library since.
func (s *BOMs) Revision(ctx context.Context, c deed.Call, key string, number int) (wire.FrozenBOM, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.FrozenBOM{}, err
	}
	h, _, err := s.findBOM(ctx, key)
	if err != nil {
		return wire.FrozenBOM{}, err
	}
	f, v, err := s.revision(ctx, h, number)
	if err != nil {
		return wire.FrozenBOM{}, err
	}
	views, err := s.revisionViews(ctx, h, v)
	if err != nil {
		return wire.FrozenBOM{}, err
	}
	out := wire.FrozenBOM{BOMRevision: views[0], ID: h.ID.String(), Frozen: f, Behind: append([]bom.Drift{}, bom.Behind(f.Lines, s.index)...)}
	boards, err := s.boardsBehind(ctx, f.Lines)
	if err != nil {
		return out, err
	}
	out.Behind = append(out.Behind, boards...)
	if f.Cost != nil {
		b, err := s.basket(ctx, bom.PinnedOf(f.Lines, f.Variant))
		if err != nil {
			return out, err
		}
		now := buying.SinceThen(*f.Cost, b.plan(f.Cost.Boards, f.Rules))
		out.Now = &now
	}
	out.Builds, err = s.builds(ctx, h.ID, number)
	return out, err
}

// revision loads a revision of a BOM.
func (s *BOMs) revision(ctx context.Context, h store.Head, number int) (f bom.Frozen, v store.Revision, err error) {
	r := s.Store.Read(ctx)
	v, err = r.Revision(h.ID, number)
	if errors.Is(err, store.ErrNotFound) {
		return f, v, deed.Fault(deed.Unknown, "no-revision", fmt.Sprintf("%s has no revision %d.", h.Number, number), "List its revisions.")
	}
	if err != nil {
		return f, v, err
	}
	c, err := r.Content(v.Content)
	return f, v, deed.Decode(c, err, &f)
}

// revisionViews are revisions of a BOM as they are shown, with the state that each is in.
func (s *BOMs) revisionViews(ctx context.Context, h store.Head, some ...store.Revision) ([]wire.BOMRevision, error) {
	out := []wire.BOMRevision{}
	r := s.Store.Read(ctx)
	rules, err := s.policy.Rules(r)
	if err != nil {
		return out, err
	}
	moved, err := r.RevisionStates([]store.ID{h.ID})
	if err != nil {
		return out, err
	}
	by := map[int]store.RevisionState{}
	for _, m := range moved {
		by[m.Number] = m
	}
	for _, v := range some {
		m := by[v.Number]
		out = append(out, wire.BOMRevision{Revision: v.Number, Label: label(v), State: policy.View(rules.Revision(h, v.Number, m.State)), Why: m.Why, Note: v.Note, By: s.Person(ctx, v.Account), At: v.At, Hash: v.Hash.String(), Before: v.HashBefore.String()})
	}
	return out, nil
}

// Revisions lists the revisions of a BOM, newest first.
func (s *BOMs) Revisions(ctx context.Context, c deed.Call, key string) (wire.BOMRevisions, error) {
	out := wire.BOMRevisions{Items: []wire.BOMRevision{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	h, _, err := s.findBOM(ctx, key)
	if err != nil {
		return out, err
	}
	all, err := s.Store.Read(ctx).Revisions(h.ID)
	if err != nil {
		return out, err
	}
	out.Items, err = s.revisionViews(ctx, h, all...)
	return out, err
}

// Compare lays two BOMs beside each other, or two revisions of one. A revision of 0 is the BOM as it is now.
func (s *BOMs) Compare(ctx context.Context, c deed.Call, from, to wire.BOMAt) (wire.BOMComparison, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.BOMComparison{}, err
	}
	a, err := s.linesAt(ctx, from)
	if err != nil {
		return wire.BOMComparison{}, err
	}
	b, err := s.linesAt(ctx, to)
	if err != nil {
		return wire.BOMComparison{}, err
	}
	out := wire.BOMComparison{From: a.name, To: b.name, Comparison: bom.Compare(a.lines, b.lines), Boards: int64(cmp.Or(b.doc.Build, a.doc.Build, 1))}
	if out.Before, err = s.boardCost(ctx, a, out.Boards, b.doc.Buying); err != nil { // both as the second is bought
		return out, err
	}
	out.After, err = s.boardCost(ctx, b, out.Boards, b.doc.Buying)
	return out, err
}

// boardCost is what one board of a build comes to now.
func (s *BOMs) boardCost(ctx context.Context, at lined, boards int64, rules buying.Rules) (wire.BoardCost, error) {
	name := cmp.Or(at.variant, at.doc.built(at.variants))
	if name == "" && len(at.variants) > 0 { // of all variants together nothing is built
		return wire.BoardCost{}, nil
	}
	b, err := s.basket(ctx, bom.PinnedOf(at.lines, name))
	if err != nil {
		return wire.BoardCost{}, err
	}
	c := b.plan(boards, rules)
	return wire.BoardCost{Board: c.Board, Missing: len(c.Unbought) + c.NoRate}, nil
}

// lined is a BOM with its lines at a revision, or as they are now.
type lined struct {
	head  store.Head
	doc   bomDoc
	name  string // with the revision
	lines []bom.Pinned
	cost  *buying.Costing // what the revision's build came to when it was frozen

	verdicts []bom.Verdict // of the BOM as it is now
	variants []string      // of the board
	variant  string        // whose lines they are; blank: of all
	frozen   bom.Frozen
}

func (s *BOMs) linesAt(ctx context.Context, at wire.BOMAt) (out lined, err error) {
	if out.head, out.doc, err = s.findBOM(ctx, at.BOM); err != nil {
		return out, err
	}
	if at.Revision > 0 {
		f, v, err := s.revision(ctx, out.head, at.Revision)
		out.name, out.lines, out.cost, out.variants, out.frozen = fmt.Sprintf("%s revision %s", out.head.Number, label(v)), f.Lines, f.Cost, f.Variants, f
		if err != nil {
			return out, err
		}
		return out.of(at.Variant)
	}
	vs, f, err := s.reconcile(ctx, out.head, out.doc)
	if err != nil {
		return out, err
	}
	if out.lines, err = s.wholePins(ctx, out.head, out.doc, vs); err != nil {
		return out, err
	}
	out.name, out.verdicts, out.variants = out.head.Number+" as it is now", vs, f.variants
	return out.of(at.Variant)
}

// of are the lines of one variant; of a blank one all.
func (l lined) of(asked string) (lined, error) {
	var err error
	if l.variant, err = variant(l.variants, asked); err != nil || l.variant == "" {
		return l, err
	}
	l.lines, l.verdicts = bom.PinnedOf(l.lines, l.variant), bom.Of(l.verdicts, l.variant)
	l.name = strings.TrimSuffix(l.name, " as it is now") + ", variant " + l.variant
	if l.frozen.Variant != l.variant {
		l.cost = nil // it is of another
	}
	return l, nil
}

// costedAt are lines that a build can be worked out of: of a board with variants those of one.
func (s *BOMs) costedAt(ctx context.Context, at wire.BOMAt) (lined, error) {
	all, err := s.linesAt(ctx, wire.BOMAt{BOM: at.BOM, Revision: at.Revision})
	if err != nil {
		return all, err
	}
	name, err := one(all.variants, cmp.Or(all.frozen.Variant, all.doc.Variant), at.Variant)
	if err != nil {
		return all, err
	}
	return all.of(name)
}
