package policy

import (
	"context"
	"fmt"
	"time"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Hours that a hold lasts: at most, and where nobody says.
const (
	longestHold = 14 * 24
	usualHold   = 8
)

// Free refuses what would change a thing that somebody else holds.
func (r Rules) Free(h store.Head, by store.ID) error {
	held, ok := r.holds[h.ID]
	if !ok || held.Account == by {
		return nil
	}
	return deed.Fault(deed.Clash, "held", fmt.Sprintf("%s is held by %s until %s (%s); nothing was changed.", NameOf(h), held.Name, held.Until.UTC().Format("2006-01-02 15:04 UTC"), held.Why), "Ask them, wait, or let a librarian take it over.")
}

// HoldOf says who holds a thing; nil where nobody does.
func (r Rules) HoldOf(h store.Head, me store.ID) *wire.Hold {
	held, ok := r.holds[h.ID]
	if !ok {
		return nil
	}
	return &wire.Hold{By: held.Name, Mine: held.Account == me, Why: held.Why, Since: held.At, Until: held.Until}
}

// Hold holds a thing for the caller, or for longer. What somebody else holds, a librarian takes over, who says so.
func (p *Policy) Hold(ctx context.Context, c deed.Call, h store.Head, in wire.TakeHold) error {
	in.Why = deed.Said(in.Why)
	if in.Why == "" {
		return deed.Fault(deed.Invalid, "hold-why", "A hold needs a reason.", "Say in a few words what you are at.")
	}
	if in.Hours == 0 {
		in.Hours = usualHold
	}
	if in.Hours < 1 || in.Hours > longestHold {
		return deed.Fault(deed.Invalid, "hold-long", fmt.Sprintf("A hold lasts 1 to %d hours.", longestHold), "It can be made longer later.")
	}
	_, err := deed.Do(ctx, p.Desk, c, opOf(h), "thing", []any{"hold", h.ID, in}, func(t *store.Tx) (bool, error) {
		h, rules, err := p.now(t, h)
		if err != nil {
			return false, err
		}
		if err := Stands(h); err != nil {
			return false, err
		}
		detail := map[string]any{"why": in.Why, "hours": in.Hours}
		if was, held := rules.holds[h.ID]; held && was.Account != c.Actor.ID {
			if !in.TakeOver {
				return false, rules.Free(h, c.Actor.ID)
			}
			if err := deed.Allow(c, deed.OpHoldTakeOver); err != nil {
				return false, err
			}
			detail["from"], detail["fromAccount"] = was.Name, was.Account
		}
		if err := t.SetHold(store.Hold{Head: h.ID, Account: c.Actor.ID, Why: in.Why, At: t.Deed.At, Until: t.Deed.At.Add(time.Duration(in.Hours) * time.Hour)}); err != nil {
			return false, err
		}
		return true, t.Note(&h, "held", detail)
	})
	return err
}

// LetGo ends the caller's hold of a thing; what nobody holds is let go of already.
func (p *Policy) LetGo(ctx context.Context, c deed.Call, h store.Head) error {
	_, err := deed.Do(ctx, p.Desk, c, opOf(h), "thing", []any{"let go", h.ID}, func(t *store.Tx) (bool, error) {
		h, rules, err := p.now(t, h)
		if err != nil {
			return false, err
		}
		was, held := rules.holds[h.ID]
		if !held {
			return false, nil
		}
		if was.Account != c.Actor.ID && !deed.Allows(c.Actor.Role, deed.OpHoldTakeOver) {
			return false, rules.Free(h, c.Actor.ID)
		}
		if err := t.EndHold(h.ID); err != nil {
			return false, err
		}
		return true, t.Note(&h, "no longer held", nil)
	})
	return err
}

// now is a thing and the rules as a write finds them.
func (p *Policy) now(t *store.Tx, h store.Head) (store.Head, Rules, error) {
	rules, err := p.Rules(t.Reader)
	if err != nil {
		return h, rules, err
	}
	h, err = t.Head(h.Kind, h.ID)
	return h, rules, err
}

func opOf(h store.Head) deed.Op {
	if h.Kind == store.KindModel {
		return deed.OpModelEdit
	}
	return deed.OpPartEdit
}
