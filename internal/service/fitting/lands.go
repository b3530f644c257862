package fitting

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// ChooseLand changes a part's land patterns in a draft: one is added beside the default, takes its place, or goes.
func (s *Fitting) ChooseLand(ctx context.Context, c deed.Call, key string, version int, in wire.ChooseLand) (wire.Part, error) {
	h, p, ch, err := s.parts.ForChange(ctx, c, deed.OpPartEdit, key)
	if err != nil {
		return wire.Part{}, err
	}
	// Sent once more it would be refused by what it did itself.
	if _, ok, err := deed.Replayed[bool](ctx, s.Desk, c, deed.OpPartEdit, "part", []any{h.ID, version, in}); ok || err != nil {
		if err != nil {
			return wire.Part{}, err
		}
		return s.parts.Get(ctx, c, h.ID.String())
	}
	change, said, err := s.landChange(ctx, h, p, in)
	if err != nil {
		return wire.Part{}, err
	}
	_, err = deed.Do(ctx, s.Desk, c, deed.OpPartEdit, "part", []any{h.ID, version, in}, func(t *store.Tx) (bool, error) {
		return s.parts.Alter(t, h.ID, version, ch.Revision, "land patterns chosen", map[string]any{"said": said}, func(p *part.Content) bool { change(p); return true })
	})
	if err != nil {
		return wire.Part{}, s.parts.Conflict(ctx, err, h.ID)
	}
	return s.parts.Get(ctx, c, h.ID.String())
}

// landChange is what a change does to a part's content, and says it.
func (s *Fitting) landChange(ctx context.Context, h store.Head, p part.Content, in wire.ChooseLand) (do func(*part.Content), said string, err error) {
	beside := slices.IndexFunc(p.OtherLands, func(o part.OtherLand) bool {
		return o.Model.ID == in.Model || strings.EqualFold(o.Model.Name, in.Model)
	})
	if in.Do != "add" && beside < 0 {
		return nil, "", deed.Fault(deed.Invalid, "land-not-beside", fmt.Sprintf("%s has no land pattern %q beside its default.", h.Number, in.Model), "Add it first.")
	}
	switch in.Do {
	case "add":
		return s.addLand(ctx, h, p, in)
	case "remove":
		return func(p *part.Content) { p.OtherLands = slices.Delete(slices.Clone(p.OtherLands), beside, beside+1) }, "removed " + p.OtherLands[beside].Model.Name, nil
	}
	now := p.OtherLands[beside]
	others := slices.Delete(slices.Clone(p.OtherLands), beside, beside+1)
	if was := p.LandPattern; was != nil {
		what, err := s.landFor(ctx, *was, in.For)
		if err != nil {
			return nil, "", err
		}
		others = slices.Insert(others, beside, part.OtherLand{For: what, Model: *was})
	}
	return func(p *part.Content) { p.LandPattern, p.OtherLands = &now.Model, others }, now.Model.Name + " is the default", nil
}

func (s *Fitting) addLand(ctx context.Context, h store.Head, p part.Content, in wire.ChooseLand) (do func(*part.Content), said string, err error) {
	key := in.Model
	if _, e := store.ParseID(key); e != nil {
		key = models.Number(model.KindLand, key)
	}
	m, err := s.models.Find(s.Store.Read(ctx), key)
	if err != nil || !strings.HasPrefix(m.Number, models.Number(model.KindLand, "")) {
		return nil, "", deed.Fault(deed.Unknown, "not-found", fmt.Sprintf("There is no land pattern %q.", in.Model), "")
	}
	add := part.Model{ID: m.ID.String(), Name: models.NameOf(m), Revision: in.Revision}
	if add.Revision == 0 {
		add.Revision = m.Revision
	}
	switch {
	case m.Revision == 0:
		return nil, "", deed.Fault(deed.Invalid, "model-not-released", add.Name+" is not released yet.", "Release it first.")
	case add.Revision > m.Revision:
		return nil, "", deed.Fault(deed.Invalid, "model-not-released", fmt.Sprintf("%s has no revision %d.", add.Name, add.Revision), "Its newest is taken where none is named.")
	}
	if p.LandPattern == nil {
		return func(p *part.Content) { p.LandPattern = &add }, add.Name + " is the default", nil
	}
	same := func(o part.Model) bool { return o.ID == add.ID }
	if same(*p.LandPattern) || slices.ContainsFunc(p.OtherLands, func(o part.OtherLand) bool { return same(o.Model) }) {
		return nil, "", deed.Fault(deed.Clash, "land-there", fmt.Sprintf("%s has %s already.", h.Number, add.Name), "")
	}
	what, err := s.landFor(ctx, add, in.For)
	if err != nil {
		return nil, "", err
	}
	return func(p *part.Content) {
		p.OtherLands = append(slices.Clone(p.OtherLands), part.OtherLand{For: what, Model: add})
	}, "added " + add.Name + " for " + what, nil
}

// landFor is what a land pattern beside the default is for: as somebody says, or the density level that it was drawn for.
func (s *Fitting) landFor(ctx context.Context, m part.Model, said string) (string, error) {
	if said = strings.TrimSpace(said); said != "" {
		return said, nil
	}
	d, err := s.models.AtRevision(s.Store.Read(ctx), m.ID, m.Revision)
	if err == nil && d.Land != nil && d.Land.Density != "" {
		return d.Land.Density + " density", nil
	}
	return "", deed.Fault(deed.Invalid, "land-for", fmt.Sprintf("It is not said what %s is for.", m.Name), "Say it, such as hand assembly.")
}
