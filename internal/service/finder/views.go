package finder

import (
	"context"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// mostQuery is how long the question of a view may be, in bytes.
const mostQuery = 60_000

// Views lists the caller's saved views and those that others share.
func (s *Finder) Views(ctx context.Context, c deed.Call) (wire.ViewList, error) {
	out := wire.ViewList{Items: []wire.View{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	vs, err := s.Store.Read(ctx).Views(c.Actor.ID)
	for _, v := range vs {
		out.Items = append(out.Items, s.viewOf(ctx, c, v))
	}
	return out, err
}

func (s *Finder) viewOf(ctx context.Context, c deed.Call, v store.View) wire.View {
	return wire.View{ID: v.ID.String(), Name: v.Name, Drawer: v.Drawer, Query: v.Query, Shared: v.Shared, Own: v.Account == c.Actor.ID, By: s.Person(ctx, v.Account), At: v.Updated}
}

// SaveView keeps a view under its name; to share it needs a right of its own.
func (s *Finder) SaveView(ctx context.Context, c deed.Call, in wire.ViewEdit) (wire.View, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.View{}, err
	}
	if in.Shared {
		if err := deed.Allow(c, deed.OpViewShare); err != nil {
			return wire.View{}, err
		}
	}
	if in.Name = strings.TrimSpace(in.Name); in.Name == "" {
		return wire.View{}, deed.Fault(deed.Invalid, "no-name", "A view needs a name.", "Say in a word or two what it shows.")
	}
	have, err := s.Store.Read(ctx).Views(c.Actor.ID)
	if err != nil {
		return wire.View{}, err
	}
	if own := slices.DeleteFunc(have, func(v store.View) bool { return v.Account != c.Actor.ID }); len(own) >= 300 {
		return wire.View{}, deed.Fault(deed.Invalid, "views-full", "You have 300 saved views; this one was not saved.", "Remove some first.")
	}
	v := store.View{ID: store.NewID(), Account: c.Actor.ID, Name: in.Name, Drawer: in.Drawer, Query: strings.TrimPrefix(in.Query, "?"), Shared: in.Shared, Updated: store.Stamp(s.Now())}
	if err := s.Store.SaveView(ctx, &v); err != nil {
		return wire.View{}, deed.Sentence(err, "view")
	}
	return s.viewOf(ctx, c, v), nil
}

// FollowSteps finds the saved views of all people that name parameters which a change of templates renames. One whose question would
// grow too long stays as it is, and is refused by name when it is opened.
func (s *Finder) FollowSteps(r store.Reader, steps []cabinet.Step) (out []cabinets.Following, err error) {
	views, err := r.ViewsThatSay(cabinet.Renamed(steps))
	if err != nil {
		return nil, err
	}
	for _, v := range views {
		if now, changed := lookup.FollowAddress(v.Query, steps); changed && len(now) <= mostQuery {
			out = append(out, cabinets.Following{ID: v.ID, What: cabinets.Kind{One: "1 saved view", Many: "saved views"}, Write: func(t *store.Tx) error { return t.SetViewQuery(v, now) }})
		}
	}
	return out, nil
}

// DropView removes the caller's own view.
func (s *Finder) DropView(ctx context.Context, c deed.Call, id deed.ID) (wire.ViewList, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.ViewList{}, err
	}
	if err := s.Store.DropView(ctx, c.Actor.ID, id); err != nil {
		return wire.ViewList{}, deed.Sentence(err, "view of yours")
	}
	return s.Views(ctx, c)
}
