package lifecycles

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// thing loads the head of a part, model or BOM by its ID, or of a part by its number.
func (s *Lifecycles) thing(ctx context.Context, key string) (store.Head, error) {
	return s.parts.Thing(ctx, key, "part, model or BOM", store.KindPart, store.KindModel, store.KindBOM)
}

// current gathers what is known of some things, as a reader sees them.
func (s *Lifecycles) current(r store.Reader, tell telling, heads ...store.Head) (policy.Rules, map[store.ID]*known, error) {
	rules, err := s.policy.Rules(r)
	if err != nil {
		return rules, nil, err
	}
	told, err := s.gathering(r, rules, tell).gather(heads)
	return rules, told, err
}

// Life says where a thing is, which moves lead away from there, who may make them, and what their gates say; with so many of the
// newest entries of its trail.
func (s *Lifecycles) Life(ctx context.Context, c deed.Call, key string, trail int) (wire.Life, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Life{}, err
	}
	h, err := s.thing(ctx, key)
	if err != nil {
		return wire.Life{}, err
	}
	r := s.Store.Read(ctx)
	again := func() (store.Head, error) { return r.Head(h.Kind, h.ID) }
	return deed.Whole(h, again, func(h store.Head) (wire.Life, error) {
		out, err := s.life(ctx, r, c.Actor, h)
		if err == nil && trail > 0 {
			var t wire.TrailList
			t, err = s.TrailOf(ctx, h, 0, min(trail, 1000))
			out.Trail = t.Items
		}
		return out, err
	})
}

func (s *Lifecycles) life(ctx context.Context, r store.Reader, who deed.Actor, h store.Head) (wire.Life, error) {
	rules, told, err := s.current(r, s.ask(ctx), h)
	if err != nil {
		return wire.Life{}, err
	}
	k := told[h.ID]
	out := wire.Life{ID: h.ID.String(), Version: h.Version, States: rules.States(h), Authors: []string{}, Moves: []wire.LifeMove{}, Waivers: []wire.GateWaiver{}, Boards: k.facts.Boards, Proofs: []wire.Proof{}}
	l := rules.Of(h)
	out.Hold = rules.HoldOf(h, who.ID)
	out.Revision = l.Revision
	for _, a := range k.authors {
		out.Authors = append(out.Authors, s.Person(ctx, a))
		out.Mine = out.Mine || a == who.ID
	}
	froms := []string{rules.Standing(h).Key}
	if !h.Draft.IsZero() {
		froms = append(froms, rules.Draft(h).Key)
	}
	if !h.Released.IsZero() {
		froms = append(froms, rules.Status(h).Key)
	}
	if store.Gone(h.Standing) {
		froms = nil
	}
	looked := lookedAt(l, k)
	for _, from := range froms {
		for _, mv := range l.MovesFrom(from) {
			w, err := s.lifeMove(r, who, h, l, mv, k)
			if err != nil {
				return out, err
			}
			if w.Releases && l.Document.Counting == lifecycle.MajorMinor && h.Revision > 0 {
				if err := s.suggest(r, rules, h, k, &w); err != nil {
					return out, err
				}
			}
			out.Moves = append(out.Moves, w)
		}
	}
	for _, w := range k.waivers {
		out.Waivers = append(out.Waivers, s.waiver(ctx, h, w, looked[w.Gate] == w.Looked.String()))
	}
	proofs, err := r.Proofs([]store.ID{h.ID})
	for _, p := range proofs {
		out.Proofs = append(out.Proofs, wire.Proof{Boards: p.Boards, Which: p.Which, By: s.Person(ctx, p.Account), At: p.At, Current: p.Content == k.content.Hash})
	}
	return out, err
}

// lifeMove is one move as a person sees it.
func (s *Lifecycles) lifeMove(r store.Reader, who deed.Actor, h store.Head, l policy.Ruled, mv lifecycle.Move, k *known) (wire.LifeMove, error) {
	to, status := l.Target(mv)
	out := wire.LifeMove{Key: mv.Key, Label: mv.Label, To: policy.View(to), Who: mv.Who.String(), Note: mv.Note, Releases: l.Releases(mv), Standing: !status, Gates: []wire.GateAnswer{}}
	err := policy.May(r, who, mv.Who, fmt.Sprintf("%q", mv.Label), k.authors)
	if err == nil {
		err = deed.Allow(deed.Call{Actor: who}, deed.OpMove)
	}
	var e *deed.Error
	if errors.As(err, &e) && e.Kind == deed.Forbidden {
		out.Not, err = e.What, nil
	}
	if err != nil {
		return out, err
	}
	for _, a := range l.Ask(mv.Key, k.facts) {
		g := wire.GateAnswer{Answer: a, About: lifecycle.GateAbout(a.Gate), Waived: !a.Holds && waivedBy(k.waivers, a)}
		if a.Waive != nil {
			g.Waive = a.Waive.String()
		}
		out.Gates = append(out.Gates, g)
	}
	if out.Releases {
		for _, f := range k.broken {
			out.Gates = append(out.Gates, wire.GateAnswer{Answer: lifecycle.Answer{Gate: "check", Why: f.What, Mend: f.Mend}, About: "nothing is broken"})
		}
	}
	return out, nil
}

func (s *Lifecycles) waiver(ctx context.Context, h store.Head, w store.GateWaiver, holds bool) wire.GateWaiver {
	return wire.GateWaiver{Thing: policy.NameOf(h), Gate: w.Gate, Why: w.Why, By: s.Person(ctx, w.Account), At: w.At, Fallen: !holds}
}

// Waive lets a thing pass a gate that does not hold, as long as what the gate looked at stays as it is now. A blank reason takes that back.
func (s *Lifecycles) Waive(ctx context.Context, c deed.Call, key string, version int, in wire.WaiveGate) (wire.Life, error) {
	id, err := s.note(ctx, c, deed.OpMove, key, version, in, func(t *store.Tx, h *store.Head, tell telling) (string, any, error) {
		why := deed.Said(in.Why)
		if why == "" {
			had, err := t.UnwaiveGate(h.ID, in.Gate)
			if err == nil && !had {
				err = deed.Fault(deed.Unknown, "no-waiver", fmt.Sprintf("%s has no waiver of the gate %q.", policy.NameOf(*h), in.Gate), "")
			}
			return "waiver withdrawn", map[string]any{"gate": in.Gate}, err
		}
		answer, err := s.waivable(t.Reader, tell, c.Actor, *h, in.Gate)
		if err != nil {
			return "", nil, err
		}
		looked, err := store.ParseHash(answer.Looked)
		if err != nil {
			return "", nil, err
		}
		w := store.GateWaiver{Head: h.ID, Gate: in.Gate, Looked: looked, Why: why, Account: c.Actor.ID, At: t.Deed.At}
		return "gate waived", map[string]any{"gate": in.Gate, "said": answer.Why, "why": why, "looked": answer.Looked}, t.WaiveGate(w)
	})
	if err != nil {
		return wire.Life{}, err
	}
	return s.Life(ctx, c, id, 0)
}

// waivable finds the gate among those of the moves that lead away from where a thing is, and says whether somebody may waive it.
func (s *Lifecycles) waivable(r store.Reader, tell telling, who deed.Actor, h store.Head, gate string) (lifecycle.Answer, error) {
	rules, told, err := s.current(r, tell, h)
	if err != nil {
		return lifecycle.Answer{}, err
	}
	l, k := rules.Of(h), told[h.ID]
	froms := []string{rules.Draft(h).Key, rules.Status(h).Key, rules.Standing(h).Key}
	var no error
	var closed []string // gates that do not hold
	for _, from := range froms {
		for _, mv := range l.MovesFrom(from) {
			for _, a := range l.Ask(mv.Key, k.facts) {
				switch {
				case a.Gate != gate:
					if !a.Holds && !slices.Contains(closed, a.Gate) {
						closed = append(closed, a.Gate)
					}
				case a.Holds:
					no = deed.Fault(deed.Invalid, "gate-holds", fmt.Sprintf("The gate %q holds: there is nothing to waive.", gate), "")
				case a.Waive == nil:
					no = deed.Fault(deed.Forbidden, "gate-not-waivable", fmt.Sprintf("The lifecycle lets nobody waive the gate %q.", gate), "Mend what it says: "+a.Mend+".")
				default:
					err := policy.May(r, who, *a.Waive, fmt.Sprintf("Waiving the gate %q", gate), k.authors)
					if err == nil {
						return a, nil
					}
					no = err
				}
			}
		}
	}
	if no == nil {
		way := "Every gate on its way holds: there is nothing to waive."
		if len(closed) > 0 {
			way = "These do not hold: " + strings.Join(closed, ", ") + "."
		}
		no = deed.Fault(deed.Invalid, "gate-unknown", fmt.Sprintf("%s: no move from where it is has the gate %q.", policy.NameOf(h), gate), way)
	}
	return lifecycle.Answer{}, no
}

// Waivers lists the waivers of the library, newest first.
func (s *Lifecycles) Waivers(ctx context.Context, c deed.Call, offset, limit int) (wire.WaiverList, error) {
	offset, limit = deed.Page(offset, limit)
	out := wire.WaiverList{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.GateWaiver{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	r := s.Store.Read(ctx)
	all, total, err := r.AllGateWaivers(offset, limit)
	if err != nil {
		return out, err
	}
	out.Page.Total = int(total)
	var ids []store.ID
	for _, w := range all {
		ids = append(ids, w.Head)
	}
	heads, err := r.HeadsByID(ids)
	if err != nil {
		return out, err
	}
	rules, told, err := s.current(r, s.ask(ctx), heads...)
	if err != nil {
		return out, err
	}
	byID, looked := map[store.ID]store.Head{}, map[store.ID]map[string]string{}
	for _, h := range heads {
		byID[h.ID], looked[h.ID] = h, lookedAt(rules.Of(h), told[h.ID])
	}
	for _, w := range all {
		out.Items = append(out.Items, s.waiver(ctx, byID[w.Head], w, looked[w.Head][w.Gate] == w.Looked.String()))
	}
	return out, nil
}

// lookedAt is what each gate of a lifecycle goes by now; where several moves have it, the one that does not hold.
func lookedAt(l policy.Ruled, k *known) map[string]string {
	out := map[string]string{}
	for _, mv := range l.Document.Moves {
		for _, a := range l.Ask(mv.Key, k.facts) {
			if out[a.Gate] == "" || !a.Holds {
				out[a.Gate] = a.Looked
			}
		}
	}
	return out
}

// Prove notes that a thing worked on built boards, with the content that it has now.
func (s *Lifecycles) Prove(ctx context.Context, c deed.Call, key string, version int, in wire.Prove) (wire.Life, error) {
	id, err := s.note(ctx, c, deed.OpReview, key, version, in, func(t *store.Tx, h *store.Head, _ telling) (string, any, error) {
		if s.tellers[h.Kind] != nil {
			return "", nil, deed.Fault(deed.Invalid, "built-of-revision", fmt.Sprintf("%s is a BOM: which boards were built is said of its revision.", h.Number), "Note them there.")
		}
		if h.Released.IsZero() {
			return "", nil, deed.Fault(deed.Invalid, "not-released", policy.NameOf(*h)+" has no released revision: what worked on a board was never frozen.", "Release it first.")
		}
		content, err := t.Content(h.Released)
		if err != nil {
			return "", nil, err
		}
		p := store.Proof{ID: store.NewID(), Head: h.ID, Content: content.Hash, Boards: in.Boards, Which: strings.TrimSpace(in.Which), Account: c.Actor.ID, At: t.Deed.At}
		return "proved", map[string]any{"revision": h.Revision, "boards": in.Boards, "which": p.Which}, t.AddProof(p)
	})
	if err != nil {
		return wire.Life{}, err
	}
	return s.Life(ctx, c, id, 0)
}

// Hold holds a part or model for the caller.
func (s *Lifecycles) Hold(ctx context.Context, c deed.Call, key string, in wire.TakeHold) (wire.Life, error) {
	op := deed.OpPartEdit
	if in.TakeOver {
		op = deed.OpHoldTakeOver
	}
	if err := deed.Allow(c, op); err != nil {
		return wire.Life{}, err
	}
	h, err := s.thing(ctx, key)
	if err != nil {
		return wire.Life{}, err
	}
	if err := s.policy.Hold(ctx, c, h, in); err != nil {
		return wire.Life{}, err
	}
	return s.Life(ctx, c, h.ID.String(), 0)
}

// LetGo ends that.
func (s *Lifecycles) LetGo(ctx context.Context, c deed.Call, key string) (wire.Life, error) {
	if err := deed.Allow(c, deed.OpPartEdit); err != nil {
		return wire.Life{}, err
	}
	h, err := s.thing(ctx, key)
	if err != nil {
		return wire.Life{}, err
	}
	if err := s.policy.LetGo(ctx, c, h); err != nil {
		return wire.Life{}, err
	}
	return s.Life(ctx, c, h.ID.String(), 0)
}
