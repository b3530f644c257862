package lifecycles

import (
	"context"
	"encoding/hex"

	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
)

// Told is what is known of a thing whose content another package works out: what gates are asked about, and what a reviewer lays beside the drawing.
type Told struct {
	Facts   lifecycle.Facts // Content is the hash of all that a signature covers
	Items   []lifecycle.Item
	Major   []string // what changed since the newest revision that makes the next one a major step
	Version int      // of the thing as it was told of
}

// hash is that of all that a signature covers.
func (t Told) hash() (h store.Hash, err error) {
	_, err = hex.Decode(h[:], []byte(t.Facts.Content))
	return h, err
}

// Teller tells of things of one kind. It is asked outside of transactions.
type Teller interface {
	Tell(ctx context.Context, h store.Head) (Told, error)
}

// Register has a kind of things told of by somebody else. It is called before the lifecycles are used.
func (s *Lifecycles) Register(kind string, t Teller) { s.tellers[kind] = t }

// telling gives what is told of a thing; ok is false where its kind is known here.
type telling func(h store.Head) (t Told, ok bool, err error)

// ask is the telling of what is asked for now.
func (s *Lifecycles) ask(ctx context.Context) telling {
	return func(h store.Head) (Told, bool, error) {
		teller, ok := s.tellers[h.Kind]
		if !ok {
			return Told{}, false, nil
		}
		t, err := teller.Tell(ctx, h)
		return t, true, err
	}
}

// recall is the telling of what was asked for before a transaction; a thing that was changed since is a conflict.
func (s *Lifecycles) recall(told map[store.ID]Told) telling {
	return func(h store.Head) (Told, bool, error) {
		if s.tellers[h.Kind] == nil {
			return Told{}, false, nil
		}
		t, ok := told[h.ID]
		if !ok || t.Version != h.Version {
			return t, true, store.ErrConflict
		}
		return t, true, nil
	}
}

// Releasing is how a thing that another package freezes is released.
type Releasing struct {
	State, Label string
	Detail       map[string]any // for the trail
}

// Freeze says how a thing is released now by a person, or what keeps it from that, as for every other thing. note is what the person says of it; minor is
// whether only the second figure of its label counts on. What it hangs on is checked again by Still, in the transaction.
func (s *Lifecycles) Freeze(ctx context.Context, who deed.Actor, h store.Head, note string, minor bool) (Releasing, Still, error) {
	m := &moving{Lifecycles: s, by: who, frees: true}
	m.in.Note, m.in.Minor = note, minor
	r := s.Store.Read(ctx)
	var err error
	if m.rules, err = s.policy.Rules(r); err != nil {
		return Releasing{}, nil, err
	}
	told, err := s.gathering(r, m.rules, s.ask(ctx)).gather([]store.Head{h})
	if err != nil {
		return Releasing{}, nil, err
	}
	st, no, err := m.one(r, h, told[h.ID])
	if err != nil {
		return Releasing{}, nil, err
	}
	if m.refused = no; len(no) > 0 {
		return Releasing{}, nil, m.refusal()
	}
	out := Releasing{State: st.freezing.State, Label: st.freezing.Label, Detail: st.freezing.Detail}
	if len(st.waived) > 0 {
		out.Detail["waived"] = st.waived
	}
	return out, func(t *store.Tx) error {
		now, err := s.policy.Rules(t.Reader)
		if err == nil && !now.Same(m.rules) {
			err = errRulesMoved
		}
		return err
	}, nil
}

// Still refuses a release whose lifecycle was changed since.
type Still func(*store.Tx) error
