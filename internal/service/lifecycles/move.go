package lifecycles

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"golang.org/x/sync/errgroup"

	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

func isRequired(f finding.Finding) bool { return strings.HasPrefix(f.Cause, "required:") }

// moving is a move of some things on its way. It is made anew whenever what it went by has changed.
type moving struct {
	*Lifecycles
	by      deed.Actor
	in      wire.MoveThings
	rules   policy.Rules
	steps   []step
	refused []refusal
	frees   bool // what it releases is frozen by another package
}

// step is what a move makes of one thing.
type step struct {
	head     store.Head
	move     lifecycle.Move
	from, to lifecycle.State
	status   bool
	revision int // that is moved where it is frozen
	freezing *policy.Freezing
	content  store.Content
	part     *part.Content // of a part: content, taken apart
	before   store.Hash
	uses     []store.Use
	waived   []string // gates
}

// refusal is why a thing cannot be moved.
type refusal struct {
	number, cause, what, mend string
	forbidden                 bool
}

// base reads the identifiers and versions that a call names.
func (m *moving) base() (ids []store.ID, versions map[store.ID]int, err error) {
	versions = map[store.ID]int{}
	for _, b := range m.in.Things {
		id, err := store.ParseID(b.ID)
		if err != nil {
			return nil, nil, deed.Fault(deed.Invalid, "id-wrong", err.Error()+".", "")
		}
		if _, twice := versions[id]; !twice {
			versions[id], ids = b.Version, append(ids, id)
		}
	}
	return ids, versions, nil
}

// consider works out for each thing what the move makes of it, or what keeps it from being moved.
func (m *moving) consider(ctx context.Context) (err error) {
	r := m.Store.Read(ctx)
	m.steps, m.refused = nil, nil
	if m.rules, err = m.policy.Rules(r); err != nil {
		return err
	}
	ids, versions, err := m.base()
	if err != nil {
		return err
	}
	g := m.gathering(r, m.rules, m.ask(ctx))
	lots := slices.Collect(slices.Chunk(ids, 500))
	found := make([]considered, len(lots))
	all, _ := errgroup.WithContext(ctx)
	all.SetLimit(2) // the database reads one lot while the gates are asked about another
	for i, some := range lots {
		all.Go(func() (err error) {
			found[i], err = m.lot(r, g, some, versions)
			return err
		})
	}
	if err := all.Wait(); err != nil {
		return err
	}
	for _, f := range found {
		m.steps, m.refused = append(m.steps, f.steps...), append(m.refused, f.refused...)
	}
	return nil
}

// considered is what a move makes of some things, in their order.
type considered struct {
	steps   []step
	refused []refusal
}

// lot considers some things. It may be called for several lots at a time.
func (m *moving) lot(r store.Reader, g *gathering, some []store.ID, versions map[store.ID]int) (out considered, err error) {
	heads, err := r.HeadsByID(some)
	if err != nil {
		return out, err
	}
	byID := map[store.ID]store.Head{}
	for _, h := range heads {
		byID[h.ID] = h
	}
	lot := make([]store.Head, 0, len(some))
	for _, id := range some {
		h, ok := byID[id]
		switch {
		case !ok || h.Kind != store.KindPart && h.Kind != store.KindModel && h.Kind != store.KindBOM:
			return out, store.ErrNotFound
		case h.Version != versions[id]:
			return out, store.ErrConflict
		}
		if err := policy.Stands(h); err != nil {
			return out, err
		}
		lot = append(lot, h)
	}
	told, err := g.gather(lot)
	if err != nil {
		return out, err
	}
	before, err := r.ReleasedHashes(some)
	if err != nil {
		return out, err
	}
	for _, h := range lot {
		st, no, err := m.one(r, h, told[h.ID])
		if err != nil {
			return out, err
		}
		if len(no) > 0 {
			out.refused = append(out.refused, no...)
			continue
		}
		st.before = before[h.ID]
		out.steps = append(out.steps, st)
	}
	return out, nil
}

// move finds the move that is asked for among those of a thing's lifecycle: by its name, by where it leads, or the one that releases.
func (m *moving) move(l policy.Ruled, h store.Head) (lifecycle.Move, bool) {
	if m.in.Move != "" {
		return l.Move(m.in.Move)
	}
	if m.in.To != "" {
		var to lifecycle.Move
		for _, mv := range l.Document.Moves {
			if mv.To == m.in.To && (to.Key == "" || slices.Contains(mv.From, m.rules.Draft(h).Key) || slices.Contains(mv.From, m.rules.Status(h).Key) || slices.Contains(mv.From, m.rules.Standing(h).Key)) {
				to = mv
			}
		}
		return to, to.Key != ""
	}
	for _, mv := range l.MovesFrom(m.rules.Draft(h).Key) {
		if l.Releases(mv) {
			return mv, true
		}
	}
	for _, mv := range l.Document.Moves {
		if l.Releases(mv) {
			return mv, true
		}
	}
	return lifecycle.Move{}, false
}

// one works out what the move makes of one thing.
func (m *moving) one(r store.Reader, h store.Head, k *known) (st step, no []refusal, err error) {
	name := policy.NameOf(h)
	refuse := func(cause, what, mend string) {
		no = append(no, refusal{number: name, cause: cause, what: what, mend: mend})
	}
	l := m.rules.Of(h)
	mv, ok := m.move(l, h)
	if !ok {
		refuse("no-move", fmt.Sprintf("its lifecycle %q has no move %q", l.Document.Name, m.in.Move+m.in.To), "use one of "+namesOf(l.Document.Moves))
		return st, no, nil
	}
	if l.Releases(mv) && m.tellers[h.Kind] != nil && !m.frees {
		refuse("freeze-it", fmt.Sprintf("%q freezes it, which is more than a move", mv.Label), "freeze it where its lines are looked at, or by jolly bom freeze")
		return st, no, nil
	}
	st = step{head: h, move: mv, content: k.content, part: k.part, uses: k.uses}
	st.to, st.status = l.Target(mv)
	var held *deed.Error
	frozen := st.status && !l.Releases(mv) && !st.to.Meaning.OfDraft()
	switch {
	case !st.status:
		st.from = m.rules.Standing(h)
	case frozen:
		if st.revision, st.from, err = m.revision(r, h); err != nil {
			return st, no, err
		}
		if st.revision == 0 {
			refuse("not-released", "nothing of it is released", "release it first")
			return st, no, nil
		}
		if st.to.Meaning == lifecycle.MeansUse && st.revision != h.Revision {
			refuse("older-revision", fmt.Sprintf("revision %s is not the newest", m.in.Revision), "go back to it as a new draft instead")
			return st, no, nil
		}
	case h.Draft.IsZero():
		refuse("no-draft", "it has no draft: all of it is released", "change it first")
		return st, no, nil
	default:
		st.from = m.rules.Draft(h)
		if err := m.rules.Free(h, m.by.ID); errors.As(err, &held) {
			refuse(held.Type, strings.TrimSuffix(held.What, "; nothing was changed."), held.Mend)
			return st, no, nil
		}
	}
	if !slices.Contains(mv.From, st.from.Key) {
		refuse("not-from-here", fmt.Sprintf("it is in the state %q, and %q does not begin there", st.from.Word, mv.Label), "use one of "+namesOf(l.MovesFrom(st.from.Key)))
		return st, no, nil
	}
	if mv.Note && deed.Said(m.in.Note) == "" {
		return st, nil, deed.Fault(deed.Invalid, "no-note", fmt.Sprintf("%q needs a note.", mv.Label), "Say in a few words what was made or changed.")
	}
	err = policy.May(r, m.by, mv.Who, fmt.Sprintf("%q", mv.Label), k.authors)
	var e *deed.Error
	if errors.As(err, &e) && e.Kind == deed.Forbidden {
		no = append(no, refusal{number: name, cause: e.Type, what: strings.TrimSuffix(e.What, "."), mend: e.Mend, forbidden: true})
		return st, no, nil
	}
	if err != nil {
		return st, no, err
	}
	if l.Releases(mv) {
		for _, f := range k.broken {
			refuse(f.Cause, f.What, f.Mend)
		}
		f, err := m.rules.Freeze(h, mv, m.in.Minor)
		if errors.As(err, &e) {
			refuse(e.Type, strings.TrimSuffix(e.What, "."), e.Mend)
		} else if err != nil {
			return st, no, err
		}
		st.freezing = &f
	}
	for _, a := range l.Ask(mv.Key, k.facts) {
		switch {
		case a.Holds:
		case waivedBy(k.waivers, a):
			st.waived = append(st.waived, a.Gate)
		default:
			refuse("gate:"+a.Gate, a.Why, a.Mend)
		}
	}
	return st, no, nil
}

func waivedBy(waivers []store.GateWaiver, a lifecycle.Answer) bool {
	return slices.ContainsFunc(waivers, func(w store.GateWaiver) bool { return w.Gate == a.Gate && w.Looked.String() == a.Looked })
}

func namesOf(moves []lifecycle.Move) string {
	var out []string
	for _, m := range moves {
		out = append(out, fmt.Sprintf("%q", m.Key))
	}
	if len(out) == 0 {
		return "none: no move leads away from there"
	}
	return strings.Join(out, ", ")
}

// revision is the frozen revision that is to be moved, and the state that it is in.
func (m *moving) revision(r store.Reader, h store.Head) (int, lifecycle.State, error) {
	number := h.Revision
	if m.in.Revision != "" {
		v, err := r.LabelledRevision(h.ID, m.in.Revision)
		if err != nil {
			return 0, lifecycle.State{}, deed.Sentence(err, "revision")
		}
		number = v.Number
	}
	moved, err := r.RevisionStates([]store.ID{h.ID})
	if err != nil {
		return 0, lifecycle.State{}, err
	}
	at := ""
	for _, s := range moved {
		if s.Number == number {
			at = s.State
		}
	}
	return number, m.rules.Revision(h, number, at), nil
}

// staged is a thing as it is after its move.
func (s step) staged(note string, by policy.Ruled, at time.Time) store.Staged {
	h := s.head
	detail := map[string]any{"move": s.move.Key, "label": s.move.Label, "from": s.from.Word, "to": s.to.Word, "note": note, "lifecycle": by.Document.Name, "lifecycleRevision": by.Revision}
	if len(s.waived) > 0 {
		detail["waived"] = s.waived
	}
	out := store.Staged{Action: "moved", Detail: detail}
	switch {
	case s.freezing != nil:
		h.Revision++
		h.Released, h.Draft, h.State, h.Label = h.Draft, store.ID{}, s.freezing.State, s.freezing.Label
		detail["revision"], detail["hash"] = h.Revision, s.content.Hash.String()
		if h.Label != "" {
			detail["revisionLabel"] = h.Label
		}
		out.Action, out.Release = "released", &store.Release{Hash: s.content.Hash, HashBefore: s.before, Note: note}
		if h.Kind == store.KindPart {
			out.Frozen, out.Part = &s.content, s.part
			out.Uses, out.Clears = s.uses, store.ClearsDraft|store.ClearsReleased
		}
	case !s.status:
		out.Action = "standing changed"
		detail["from"], detail["to"], detail["why"] = s.from.Key, s.to.Key, note
		h.Standing = s.to.Key
	case s.revision > 0:
		detail["revision"] = s.revision
		if s.revision == h.Revision {
			h.State = s.to.Key
		}
	default:
		h.DraftState, h.Moved = s.to.Key, &at
	}
	out.Head = h
	return out
}

// Move moves some things as one deed: all of them, or none, unless those that cannot be moved are to be left.
func (s *Lifecycles) Move(ctx context.Context, c deed.Call, in wire.MoveThings) (wire.Moved, error) {
	return s.MoveFound(ctx, c, in, func() (wire.MoveThings, error) { return in, nil })
}

// MoveFound moves what is found when the deed is done; a deed that was done before answers without looking. request is what was asked for.
func (s *Lifecycles) MoveFound(ctx context.Context, c deed.Call, request any, find func() (wire.MoveThings, error)) (wire.Moved, error) {
	if err := deed.Allow(c, deed.OpMove); err != nil {
		return wire.Moved{}, err
	}
	for again := 0; ; again++ {
		out, err := s.move(ctx, c, request, find)
		if again < 5 && (deed.CabinetMoved(err) || errors.Is(err, errRulesMoved)) {
			continue
		}
		return out, err
	}
}

// errRulesMoved says that a lifecycle was changed while a move by it was on its way.
var errRulesMoved = deed.Fault(deed.Clash, "lifecycle-changed", "The lifecycle was changed by somebody else meanwhile; nothing was moved.", "Look at it, and do it again.")

func (s *Lifecycles) move(ctx context.Context, c deed.Call, request any, find func() (wire.MoveThings, error)) (wire.Moved, error) {
	m := &moving{Lifecycles: s, by: c.Actor}
	b := deed.Bulk[wire.Moved]{Op: deed.OpMove, What: "thing", Request: request}
	b.Prepare = func() (err error) {
		if m.in, err = find(); err != nil {
			return err
		}
		if err := m.consider(ctx); err != nil {
			return err
		}
		return m.refusal()
	}
	b.All = func(yield func(store.Staged, error) bool) {
		for _, st := range m.steps {
			if !yield(st.staged(m.in.Note, m.rules.Of(st.head), store.Stamp(s.Now())), nil) {
				return
			}
		}
	}
	b.Also = func(t *store.Tx) (wire.Moved, error) { return m.also(t) }
	return b.Do(ctx, s.Desk, c)
}

// also writes what a move changes beside the things themselves, and checks that it was made by the lifecycles that are in force.
func (m *moving) also(t *store.Tx) (wire.Moved, error) {
	out := wire.Moved{Things: len(m.steps), Left: len(m.refused), Numbers: []string{}, Holders: []string{}}
	now, err := m.policy.Rules(t.Reader)
	if err != nil {
		return out, err
	}
	if !now.Same(m.rules) {
		return out, errRulesMoved
	}
	releases := false
	for _, st := range m.steps {
		if len(out.Numbers) < 100 {
			out.Numbers = append(out.Numbers, st.head.Number)
		}
		releases = releases || st.freezing != nil
		if st.revision == 0 {
			continue
		}
		state := store.RevisionState{Head: st.head.ID, Number: st.revision, State: st.to.Key, Why: deed.Said(m.in.Note), Account: t.Deed.Account, At: t.Deed.At}
		if err := t.MoveRevision(state); err != nil {
			return out, err
		}
		if st.to.Meaning == lifecycle.MeansWithdrawn && len(out.Holders) < mostHolders {
			held, err := t.HoldersOf(st.head.ID, st.revision, mostHolders)
			if err != nil {
				return out, err
			}
			for _, h := range held {
				out.Holders = append(out.Holders, policy.NameOf(h))
			}
		}
	}
	if cab, revision := m.rules.Cabinet(); releases && cab != nil {
		return out, t.UnderCabinet(revision)
	}
	return out, nil
}

// mostHolders is how many holders of a withdrawn revision a call names.
const mostHolders = 200

// within is a sentence as it stands behind a semicolon.
func within(sentence string) string {
	first, size := utf8.DecodeRuneInString(sentence)
	return string(unicode.ToLower(first)) + sentence[size:]
}

// refusal says why nothing is moved; nil where all can be, or the rest may be left.
func (m *moving) refusal() error {
	if len(m.refused) == 0 || m.in.Skip && len(m.steps) > 0 {
		return nil
	}
	kind, typ := deed.Invalid, "not-ready"
	if !slices.ContainsFunc(m.refused, func(r refusal) bool { return !r.forbidden }) {
		kind, typ = deed.Forbidden, m.refused[0].cause
	}
	what := "Nothing was moved:"
	if m.in.Move+m.in.To == "" {
		what = "Nothing was released:"
	}
	bad := deed.Fault(kind, typ, what, "")
	for _, r := range m.refused[:min(len(m.refused), 50)] {
		text := r.number + ": " + r.what
		if r.mend != "" {
			text += "; " + within(strings.TrimSuffix(r.mend, "."))
		}
		bad.Places = append(bad.Places, wire.ProblemDetail{Location: r.number, Message: text})
	}
	return bad
}

// Preview says what a move would do: to how many things, and what keeps the others from it, by cause. It writes nothing.
func (s *Lifecycles) Preview(ctx context.Context, c deed.Call, in wire.MoveThings) (wire.MovePreview, error) {
	out := wire.MovePreview{Can: []string{}, Cannot: []wire.MoveRefused{}}
	if err := deed.Allow(c, deed.OpMove); err != nil {
		return out, err
	}
	m := &moving{Lifecycles: s, by: c.Actor, in: in}
	if in.Note == "" {
		m.in.Note = "preview"
	}
	if err := m.consider(ctx); err != nil {
		return out, deed.Sentence(err, "thing")
	}
	out.Things = len(m.steps)
	for _, st := range m.steps {
		if len(out.Can) < 100 {
			out.Can = append(out.Can, st.head.Number)
		}
		out.Note = out.Note || st.move.Note
		if len(st.waived) > 0 {
			out.Waived++
		}
	}
	at := map[string]int{}
	for _, r := range m.refused {
		i, ok := at[r.cause]
		if !ok {
			i = len(out.Cannot)
			at[r.cause] = i
			out.Cannot = append(out.Cannot, wire.MoveRefused{Cause: r.cause, What: r.what, Mend: r.mend, Things: []string{}})
		}
		out.Cannot[i].Count++
		if len(out.Cannot[i].Things) < 20 && !slices.Contains(out.Cannot[i].Things, r.number) {
			out.Cannot[i].Things = append(out.Cannot[i].Things, r.number)
		}
	}
	slices.SortStableFunc(out.Cannot, func(a, b wire.MoveRefused) int { return b.Count - a.Count })
	return out, nil
}
