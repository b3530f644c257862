package boms

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/bom"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// placed is what one board takes of which parts, as its lines stand now. It holds as verdicts do.
type placed struct {
	head          store.Head
	build, yearly int
	key           string
	answers       *lookup.Answers
	uses          map[string]bom.Use
	takes         bool // other BOMs, which may be frozen anew
}

// mostPlaced bounds the boards of which that is kept; mostFrozenKept likewise the revisions.
const (
	mostPlaced     = 5_000
	mostFrozenKept = 5_000
)

// frozenAt names a revision.
type frozenAt struct {
	bom      store.ID
	revision int
}

// everyBoard are all boards as they were worked out last, and what that hangs on.
type everyBoard struct {
	stamp string
	list  []*placed
}

// stampOf names all that boards hang on together: while it is the same, nothing was written that could make one otherwise. Blank where nobody counts that.
func (s *BOMs) stampOf(cab store.Head) string {
	if s.Changes == nil {
		return ""
	}
	return fmt.Sprint(cab.Revision, s.Changes(store.KindBOM), s.Changes(store.KindLayout), s.Changes(store.KindEndings), s.Changes(store.KindReadings), s.index.Generation())
}

// boards are all boards with what they take now. One that cannot be read is left to its own page.
func (s *BOMs) boards(ctx context.Context) (out []*placed, err error) {
	_, cab, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, err
	}
	stamp := s.stampOf(cab) // asked before anything is read: what is written meanwhile makes it stale
	s.mu.Lock()
	was := s.every
	s.mu.Unlock()
	if stamp == "" {
		return s.lookThrough(ctx, cab, stamp)
	}
	if was.stamp == stamp {
		return was.list, nil
	}
	done := s.looking.DoChan(stamp, func() (any, error) { return s.lookThrough(context.WithoutCancel(ctx), cab, stamp) }) // once, however many ask
	select {
	case r := <-done:
		out, _ = r.Val.([]*placed)
		return out, r.Err
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// Run keeps at hand what boards take, from the start on and after each change, so that nobody who asks where a part is waits until all boards are laid beside the library.
// While a library is being filled it looks a tenth of the time at most.
func (s *BOMs) Run(ctx context.Context) {
	for was := ""; ctx.Err() == nil; {
		start := time.Now()
		_, cab, err := s.cabinets.InForce(ctx)
		if stamp := s.stampOf(cab); err == nil && stamp != was {
			if _, err = s.boards(ctx); err == nil {
				was = stamp
			}
		}
		if e := new(deed.Error); err != nil && !errors.As(err, &e) && ctx.Err() == nil { // a house that has no cabinet yet has no boards either
			s.Log.Warn("looking through the boards", "error", err)
		}
		select {
		case <-ctx.Done():
		case <-time.After(max(lookAgain, 9*time.Since(start))):
		}
	}
}

// lookAgain is how often it is asked whether boards may take something else.
const lookAgain = 3 * time.Second

// lookThrough looks through all boards.
func (s *BOMs) lookThrough(ctx context.Context, cab store.Head, stamp string) (out []*placed, err error) {
	whole := true
	var after store.ID
	for {
		heads, err := s.Store.Read(ctx).HeadsAfter(store.KindBOM, after, 1000)
		if err != nil {
			return nil, err
		}
		for _, h := range heads {
			after = h.ID
			p, err := s.placed(ctx, h, cab)
			if err != nil {
				return nil, err
			}
			out = append(out, p)
			whole = whole && p.answers != nil
		}
		if len(heads) < 1000 {
			break
		}
	}
	slices.SortFunc(out, func(a, b *placed) int { return cmp.Compare(a.head.Number, b.head.Number) })
	if stamp != "" && whole {
		s.mu.Lock()
		s.every = everyBoard{stamp, out}
		s.mu.Unlock()
	}
	return out, nil
}

func (s *BOMs) placed(ctx context.Context, h, cab store.Head) (*placed, error) {
	key := s.keyOf(h, cab)
	s.mu.Lock()
	p := s.places[h.ID]
	s.mu.Unlock()
	if p != nil && key != "" && p.key == key && !p.takes && p.answers.Hold() {
		return p, nil
	}
	doc, err := s.bomDoc(ctx, h)
	if err != nil {
		return nil, err
	}
	p = &placed{head: h, build: doc.Build, yearly: doc.Yearly, key: key}
	vs, f, err := s.verdictsOf(ctx, h, cab)
	if err != nil {
		return nil, err
	}
	lines, err := s.takenPins(ctx, h, doc, vs)
	if err != nil {
		return nil, err
	}
	p.uses, p.takes = bom.Uses(lines, doc.counted(f.variants)...), slices.ContainsFunc(lines, func(l bom.Pinned) bool { return l.Board != nil })
	k, kept := s.keptFor(key)
	if !kept { // something was touched meanwhile: it is what it was a moment ago, and is worked out anew next time
		return p, nil
	}
	p.answers = k.answers
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.places) >= mostPlaced {
		clear(s.places)
	}
	s.places[h.ID] = p
	return p, nil
}

// frozenUse is what a revision of a BOM takes of a part. Revisions never change, so that what was read once is kept.
func (s *BOMs) frozenUse(ctx context.Context, at frozenAt, id string) (bom.Use, error) {
	s.mu.Lock()
	uses, ok := s.frozen[at]
	s.mu.Unlock()
	if !ok {
		f, _, err := s.revision(ctx, store.Head{ID: at.bom}, at.revision)
		if err != nil {
			return bom.Use{}, err
		}
		uses = bom.Uses(f.Lines, f.Counted()...)
		s.mu.Lock()
		if len(s.frozen) >= mostFrozenKept {
			clear(s.frozen)
		}
		s.frozen[at] = uses
		s.mu.Unlock()
	}
	return uses[id], nil
}

// mostRevisions bounds the frozen revisions that one answer names.
const mostRevisions = 2000

// WhereUsed says on which boards parts are that a question names, with designators and pieces: on each board as it stands now, and in its frozen revisions.
func (s *BOMs) WhereUsed(ctx context.Context, c deed.Call, in wire.UsedAsked) (wire.WhereUsed, error) {
	offset, limit := deed.Page(in.Offset, in.Limit)
	out := wire.WhereUsed{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.UsedPart{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	all, err := s.boards(ctx)
	if err != nil {
		return out, err
	}
	ids, err := s.asked(ctx, in, all)
	if err != nil {
		return out, err
	}
	out.Page.Total = len(ids)
	on := map[string]bool{}
	for _, p := range all {
		for _, id := range ids {
			if _, ok := p.uses[id]; ok {
				on[p.head.Number] = true
			}
		}
	}
	out.Boards = len(on)
	ids = ids[min(offset, len(ids)):min(offset+limit, len(ids))]
	revisions, err := s.frozenWith(ctx, ids)
	if err != nil {
		return out, err
	}
	for _, id := range ids {
		item := wire.UsedPart{Part: s.usedPart(id, all), Boards: []wire.UsedOn{}}
		for _, p := range all {
			if u, ok := p.uses[id]; ok {
				on := usedOn(p.head.ID.String(), p.head.Number, 0, u)
				on.Build, on.Yearly = int64(p.build), int64(p.yearly)*u.Pieces
				item.Boards = append(item.Boards, on)
			}
		}
		item.Boards = append(item.Boards, revisions[id]...)
		out.Items = append(out.Items, item)
	}
	if in.Instead {
		err = s.instead(ctx, in, all, &out)
	}
	return out, err
}

func usedOn(id, name string, revision int, u bom.Use) wire.UsedOn {
	return wire.UsedOn{BOM: id, Name: name, Revision: revision, Rows: append([]int{}, u.Rows...), By: u.By, Designators: append([]string{}, u.Designators...), Pieces: u.Pieces, Amounts: u.Amounts, In: u.In, PartRevision: u.Revision}
}

func (s *BOMs) usedPart(id string, all []*placed) wire.BOMPart {
	if i := slices.IndexFunc(all, func(p *placed) bool { return p.head.ID.String() == id }); i >= 0 {
		return wire.BOMPart{ID: id, Number: all[i].head.Number, Description: "a board", Revision: all[i].head.Revision, Sources: []part.Source{}}
	}
	if e, ok := s.index.ByID(id); ok {
		return bomPart(e)
	}
	return wire.BOMPart{ID: id, Number: "a part that is gone", Sources: []part.Source{}}
}

// frozenWith are the revisions of BOMs that are pinned to some parts, by part.
func (s *BOMs) frozenWith(ctx context.Context, parts []string) (map[string][]wire.UsedOn, error) {
	out := map[string][]wire.UsedOn{}
	var ids []store.ID
	for _, p := range parts {
		if id, err := store.ParseID(p); err == nil {
			ids = append(ids, id)
		}
	}
	found, err := s.Store.Read(ctx).FrozenWith(ids, mostRevisions)
	if err != nil {
		return nil, err
	}
	for _, f := range found {
		at := frozenAt{bom: f.BOM}
		if _, err := fmt.Sscanf(f.Place, frozenWord+" %d", &at.revision); err != nil {
			return nil, fmt.Errorf("the use %q of a revision: %w", f.Place, err)
		}
		id := f.Part.String()
		u, err := s.frozenUse(ctx, at, id)
		if err != nil {
			return nil, err
		}
		out[id] = append(out[id], usedOn(f.BOM.String(), f.Name, at.revision, u))
	}
	for _, list := range out {
		slices.SortFunc(list, func(a, b wire.UsedOn) int { return cmp.Or(cmp.Compare(a.Name, b.Name), b.Revision-a.Revision) })
	}
	return out, nil
}

// asked lists the parts that a question names: one, or those on boards that have a source of a maker, an MPN, a supplier, a model or a datasheet. By number.
func (s *BOMs) asked(ctx context.Context, in wire.UsedAsked, all []*placed) ([]string, error) {
	n := 0
	for _, q := range []string{in.Part, in.Maker, in.Supplier, in.Model, in.Datasheet} {
		if strings.TrimSpace(q) != "" {
			n++
		}
	}
	if in.MPN != "" && in.Maker == "" {
		n++
	}
	if in.Board != "" {
		n++
	}
	if n != 1 {
		return nil, deed.Fault(deed.Invalid, "question-wrong", "Where-used asks about one thing: a part, a source, a maker, a supplier, a model, a datasheet or a board.", "Name one of them; an MPN may have its maker beside it.")
	}
	if in.Part != "" {
		e, ok := s.index.ByNumber(in.Part)
		if !ok {
			if e, ok = s.index.ByID(in.Part); !ok {
				return nil, deed.Fault(deed.Unknown, "part-unknown", fmt.Sprintf("There is no part %s.", in.Part), "")
			}
		}
		return []string{e.ID}, nil
	}
	if in.Board != "" {
		h, _, err := s.findBOM(ctx, in.Board)
		return []string{h.ID.String()}, err
	}
	on := map[string]bool{}
	for _, p := range all {
		for id := range p.uses {
			on[id] = true
		}
	}
	if in.Model != "" {
		return s.withModel(ctx, in.Model, on)
	}
	if in.Datasheet != "" {
		return s.withSheet(ctx, in.Datasheet, on)
	}
	sold, err := s.soldBy(ctx, in.Supplier, on)
	if err != nil {
		return nil, err
	}
	about := ofSource(in)
	var found []*lookup.Entry
	for id := range on {
		e, ok := s.index.ByID(id)
		if ok && (sold[id] || in.Supplier == "" && slices.ContainsFunc(e.Sources, about)) {
			found = append(found, e)
		}
	}
	return numbered(found), nil
}

// ofSource says whether a source is of the maker and the MPN that a question names.
func ofSource(in wire.UsedAsked) func(part.Source) bool {
	maker, mpn := part.NormaliseMaker(in.Maker), part.NormaliseMPN(in.MPN)
	return func(src part.Source) bool {
		return (maker == "" || part.NormaliseMaker(src.Manufacturer) == maker) && (mpn == "" || part.NormaliseMPN(src.MPN) == mpn)
	}
}

// numbered are the identifiers of parts, by their numbers.
func numbered(list []*lookup.Entry) []string {
	slices.SortFunc(list, func(a, b *lookup.Entry) int { return cmp.Compare(a.Number, b.Number) })
	out := make([]string, len(list))
	for i, e := range list {
		out[i] = e.ID
	}
	return out
}

// withModel are the parts on boards that use a model.
func (s *BOMs) withModel(ctx context.Context, key string, on map[string]bool) ([]string, error) {
	h, err := s.Store.Read(ctx).Called(store.KindModel, key)
	if err != nil {
		return nil, deed.Sentence(err, "model")
	}
	uses, err := s.Store.Read(ctx).UsedBy(h.ID, 0, 20_000)
	if err != nil {
		return nil, err
	}
	found := map[string]*lookup.Entry{}
	for _, u := range uses {
		if e, ok := s.index.ByID(u.Parent.String()); ok && on[e.ID] {
			found[e.ID] = e
		}
	}
	return numbered(slices.Collect(maps.Values(found))), nil
}

// soldBy are the parts on boards that a supplier sells: by the numbers of their sources, or by what it offers.
func (s *BOMs) soldBy(ctx context.Context, supplier string, on map[string]bool) (map[string]bool, error) {
	out := map[string]bool{}
	who := part.NormaliseMaker(supplier)
	if who == "" {
		return out, nil
	}
	var sources []part.Source
	for id := range on {
		e, ok := s.index.ByID(id)
		if !ok {
			continue
		}
		for _, src := range e.Sources {
			if slices.ContainsFunc(src.Numbers, func(n part.Number) bool { return part.NormaliseMaker(n.Supplier) == who }) {
				out[id] = true
			}
		}
		sources = append(sources, e.Sources...)
	}
	market, err := s.market.Market(ctx, sources)
	if err != nil {
		return nil, err
	}
	for id := range on {
		e, ok := s.index.ByID(id)
		if !ok {
			continue
		}
		for _, src := range e.Sources {
			for _, o := range market.By[src.Key()] {
				out[id] = out[id] || !o.Gone && part.NormaliseMaker(o.Supplier) == who
			}
		}
	}
	maps.DeleteFunc(out, func(_ string, sold bool) bool { return !sold })
	return out, nil
}

// BoardsWith lists the boards that take some parts now, by part: for notices.
func (s *BOMs) BoardsWith(ctx context.Context, parts []store.ID) (map[store.ID][]store.Head, error) {
	all, err := s.boards(ctx)
	if e := new(deed.Error); errors.As(err, &e) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	out := map[store.ID][]store.Head{}
	for _, id := range parts {
		text := id.String()
		for _, p := range all {
			if _, ok := p.uses[text]; ok {
				out[id] = append(out[id], p.head)
			}
		}
	}
	return out, nil
}
