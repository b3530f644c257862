package policy

import (
	"context"

	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// View is a state as it is shown.
func View(s lifecycle.State) wire.State {
	return wire.State{Key: s.Key, Word: s.Word, Meaning: string(s.Meaning), Use: string(s.Use), Shape: s.Shape, Readout: s.Readout, Change: s.Change, Forbids: append([]string{}, s.Forbids...)}
}

// States are those of a thing, as they are shown.
func (r Rules) States(h store.Head) wire.States {
	out := wire.States{Lifecycle: r.Of(h).Document.Name, Status: View(r.Status(h)), Standing: View(r.Standing(h)), Label: lifecycle.Label(h.Revision, h.Label)}
	frozen := h.Kind == store.KindBOM && h.Writers == 0 && h.DraftState == "" // one goes on from what was frozen
	if !h.Draft.IsZero() && !h.Released.IsZero() && !frozen {
		d := View(r.Draft(h))
		out.Draft = &d
	}
	return out
}

// Revisions lists what was released of a thing, newest first, with the state that each is in.
func (p *Policy) Revisions(ctx context.Context, rules Rules, h store.Head) ([]wire.Revision, error) {
	r := p.Store.Read(ctx)
	rs, err := r.Revisions(h.ID)
	if err != nil {
		return nil, err
	}
	moved, err := r.RevisionStates([]store.ID{h.ID})
	if err != nil {
		return nil, err
	}
	by := map[int]store.RevisionState{}
	for _, m := range moved {
		by[m.Number] = m
	}
	out := []wire.Revision{}
	for _, v := range rs {
		w := wire.Revision{Number: v.Number, Label: lifecycle.Label(v.Number, v.Label), Note: v.Note, By: p.Person(ctx, v.Account), At: v.At, Hash: v.Hash.String(), State: View(rules.Revision(h, v.Number, by[v.Number].State))}
		if m, ok := by[v.Number]; ok {
			w.Why, w.MovedBy = m.Why, p.Person(ctx, m.Account)
		}
		out = append(out, w)
	}
	return out, nil
}
