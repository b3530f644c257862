package lifecycles

import (
	"context"
	"fmt"
	"strings"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// MovePart moves one part.
func (s *Lifecycles) MovePart(ctx context.Context, c deed.Call, key string, version int, in wire.MoveThing) (wire.Part, error) {
	h, err := s.part(ctx, c, key)
	if err != nil {
		return wire.Part{}, err
	}
	if _, err := s.Move(ctx, c, alone(h.ID, version, in)); err != nil {
		return wire.Part{}, s.parts.Conflict(ctx, err, h.ID)
	}
	return s.parts.Get(ctx, c, h.ID.String())
}

func (s *Lifecycles) part(ctx context.Context, c deed.Call, key string) (store.Head, error) {
	if err := deed.Allow(c, deed.OpMove); err != nil {
		return store.Head{}, err
	}
	h, err := s.parts.Find(ctx, key)
	return h, deed.Sentence(err, "part")
}

func alone(id store.ID, version int, in wire.MoveThing) wire.MoveThings {
	return wire.MoveThings{Move: in.Move, Note: in.Note, Revision: in.Revision, Minor: in.Minor, Things: []wire.PartBase{{ID: id.String(), Version: version}}}
}

// MoveModel moves one model.
func (s *Lifecycles) MoveModel(ctx context.Context, c deed.Call, id store.ID, version int, in wire.MoveThing) (wire.Model, error) {
	if _, err := s.Move(ctx, c, alone(id, version, in)); err != nil {
		return wire.Model{}, err
	}
	return s.models.Get(ctx, c, id.String())
}

// Release freezes a part's draft as its next revision.
func (s *Lifecycles) Release(ctx context.Context, c deed.Call, key string, version int, in wire.Release) (wire.Part, error) {
	return s.MovePart(ctx, c, key, version, wire.MoveThing{Note: in.Note, Minor: in.Minor})
}

// ReleaseModel freezes a model's draft as its next revision.
func (s *Lifecycles) ReleaseModel(ctx context.Context, c deed.Call, id store.ID, version int, in wire.Release) (wire.Model, error) {
	return s.MoveModel(ctx, c, id, version, wire.MoveThing{Note: in.Note, Minor: in.Minor})
}

// SignModel signs the whole review list of a model's newest content.
func (s *Lifecycles) SignModel(ctx context.Context, c deed.Call, id store.ID, version int, in wire.NewSign) (wire.Model, error) {
	if _, err := s.Sign(ctx, c, id.String(), version, wire.SignReview{Against: in.Against, All: true}); err != nil {
		return wire.Model{}, err
	}
	return s.models.Get(ctx, c, id.String())
}

// ReleaseMany releases several drafts in one deed: all of them or none.
func (s *Lifecycles) ReleaseMany(ctx context.Context, c deed.Call, in wire.BulkRelease) (wire.Released, error) {
	out, err := s.Move(ctx, c, wire.MoveThings{Note: in.Note, Things: in.Parts})
	return wire.Released{Parts: out.Things, Numbers: append([]string{}, out.Numbers...)}, err
}

// SetStanding says how a part may be used from now on: by the move of its lifecycle that leads there.
func (s *Lifecycles) SetStanding(ctx context.Context, c deed.Call, key string, version int, in wire.Standing) (wire.Part, error) {
	h, err := s.part(ctx, c, key)
	if err != nil {
		return wire.Part{}, err
	}
	rules, err := s.policy.Rules(s.Store.Read(ctx))
	if err != nil {
		return wire.Part{}, err
	}
	l := rules.Of(h)
	to, words := "", []string{}
	for _, st := range l.Document.Standing {
		words = append(words, st.Key)
		if in.Standing == st.Key || strings.EqualFold(in.Standing, st.Word) {
			to = st.Key
		}
	}
	if to == "" {
		return wire.Part{}, deed.Fault(deed.Invalid, "standing-wrong", fmt.Sprintf("%q is no standing of the lifecycle %q: use %s.", in.Standing, l.Document.Name, strings.Join(words, ", ")), "")
	}
	if _, err := s.Move(ctx, c, wire.MoveThings{To: to, Note: in.Why, Things: []wire.PartBase{{ID: h.ID.String(), Version: version}}}); err != nil {
		return wire.Part{}, s.parts.Conflict(ctx, err, h.ID)
	}
	return s.parts.Get(ctx, c, h.ID.String())
}
