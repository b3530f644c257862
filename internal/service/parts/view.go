package parts

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/service/series"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Find loads a part's head by ID, number or former number. The number of a part that was merged away leads to the
// survivor; only its ID leads to itself.
func (s *Parts) Find(ctx context.Context, key string) (store.Head, error) {
	if id, err := store.ParseID(key); err == nil {
		return s.Store.Read(ctx).Head(store.KindPart, id)
	}
	id, err := s.Store.Read(ctx).ByNumber(key)
	if err != nil {
		return store.Head{}, err
	}
	return s.Store.Read(ctx).Head(store.KindPart, id)
}

// Thing loads the head of a thing of some kinds by its identifier, or of a part by its number; what says in words which kinds they are.
func (s *Parts) Thing(ctx context.Context, key, what string, kinds ...string) (store.Head, error) {
	id, err := store.ParseID(key)
	if err != nil {
		h, err := s.Find(ctx, key)
		return h, deed.Sentence(err, "part")
	}
	h, err := s.Store.Read(ctx).HeadsByID([]store.ID{id})
	if err == nil && (len(h) != 1 || !slices.Contains(kinds, h[0].Kind)) {
		err = store.ErrNotFound
	}
	if err != nil {
		return store.Head{}, deed.Sentence(err, what)
	}
	return h[0], nil
}

// Get returns a part by ID or number.
func (s *Parts) Get(ctx context.Context, c deed.Call, key string) (wire.Part, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Part{}, err
	}
	h, err := s.Find(ctx, key)
	if err != nil {
		return wire.Part{}, deed.Sentence(err, "part")
	}
	return s.View(ctx, h)
}

// View returns all that is shown of a part.
func (s *Parts) View(ctx context.Context, h store.Head) (wire.Part, error) {
	return deed.Whole(h, func() (store.Head, error) { return s.Store.Read(ctx).Head(store.KindPart, h.ID) }, func(h store.Head) (wire.Part, error) { return s.view(ctx, h) })
}

func (s *Parts) view(ctx context.Context, h store.Head) (wire.Part, error) {
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return wire.Part{}, err
	}
	rules, err := s.policy.Rules(s.Store.Read(ctx))
	if err != nil {
		return wire.Part{}, err
	}
	states := rules.States(h)
	out := wire.Part{ID: h.ID.String(), Number: h.Number, Version: h.Version, Status: states.Status.Key, Standing: states.Standing.Key, States: states, Revision: h.Revision,
		Updated: h.Updated, Revisions: []wire.Revision{}, Newer: []string{}, Former: []string{}, Alike: []string{}, Series: []wire.PartSeries{}}
	if err := s.relations(ctx, h, &out); err != nil {
		return out, err
	}
	if !h.Draft.IsZero() {
		if out.Draft, _, err = s.contentView(ctx, cab, h.Draft); err != nil {
			return out, err
		}
	}
	if !h.Released.IsZero() {
		if out.Released, _, err = s.contentView(ctx, cab, h.Released); err != nil {
			return out, err
		}
	}
	if out.Revisions, err = s.policy.Revisions(ctx, rules, h); err != nil {
		return out, err
	}
	if c, err := s.Store.Read(ctx).Content(h.Newest()); err == nil && !store.Gone(h.Standing) {
		if p, _, err := Decode(c); err == nil {
			out.Alike = s.alike(cab, p, h.ID.String())
			if out.Series, err = series.Of(s.Store.Read(ctx), p); err != nil {
				return out, err
			}
		}
	}
	for _, c := range []*wire.PartContent{out.Draft, out.Released} {
		if c != nil && series.HaveSheet(out.Series) {
			c.Findings = series.WithSheet(c.Findings)
		}
	}
	show := out.Draft
	if show == nil {
		show = out.Released
	}
	for _, m := range []*part.Model{show.Symbol, show.LandPattern, show.Body, show.PinMap} {
		if m == nil {
			continue
		}
		if id, err := store.ParseID(m.ID); err == nil {
			mh, err := s.Store.Read(ctx).Head(store.KindModel, id)
			if err == nil && mh.Standing == store.Merged {
				if to, err := s.models.Survivor(s.Store.Read(ctx), mh); err == nil {
					out.Newer = append(out.Newer, fmt.Sprintf("%s was merged into %s", m.Name, models.NameOf(to)))
				}
			} else if why, gone := s.withdrawn(ctx, rules, mh, m.Revision); err == nil && gone {
				out.Newer = append(out.Newer, fmt.Sprintf("%s: revision %d was withdrawn: %s", m.Name, m.Revision, why))
			} else if err == nil && mh.Revision > m.Revision && m.Revision > 0 {
				out.Newer = append(out.Newer, fmt.Sprintf("%s: revision %d is there, %d is used", m.Name, mh.Revision, m.Revision))
			}
		}
	}
	return out, nil
}

// withdrawn says whether a revision of a model was withdrawn, and why.
func (s *Parts) withdrawn(ctx context.Context, rules policy.Rules, h store.Head, revision int) (why string, yes bool) {
	if revision == 0 || h.Revision == 0 {
		return "", false
	}
	moved, err := s.Store.Read(ctx).RevisionStates([]store.ID{h.ID})
	if err != nil {
		return "", false
	}
	for _, m := range moved {
		if m.Number == revision && rules.Revision(h, revision, m.State).Meaning == lifecycle.MeansWithdrawn {
			return m.Why, true
		}
	}
	return "", false
}

func (s *Parts) contentView(ctx context.Context, cab *cabinet.Cabinet, id store.ID) (*wire.PartContent, part.Content, error) {
	c, err := s.Store.Read(ctx).Content(id)
	if err != nil {
		return nil, part.Content{}, err
	}
	p, o, err := Decode(c)
	if err != nil {
		return nil, p, err
	}
	out := &wire.PartContent{Drawer: p.Drawer, Name: p.Name, Description: p.Description, Values: []wire.Value{}, Sources: append([]part.Source{}, p.Sources...),
		Datasheets: append([]part.File{}, p.Datasheets...), Links: append([]string{}, p.Links...), Symbol: p.Symbol, LandPattern: p.LandPattern, Body: p.Body, PinMap: p.PinMap, OtherLands: append([]part.OtherLand{}, p.OtherLands...),
		Attachments: append([]part.Attachment{}, p.Attachments...), Hash: c.Hash.String(), Template: c.Template,
		Findings: []finding.Finding{}}
	view := func(key, label string) {
		v := p.Values[key]
		w := wire.Value{Key: key, Label: label, Type: string(v.Type), Text: cabinets.Shown(cab, key, v)}
		if from, ok := o["values."+key]; ok {
			w.Origin = &from
			if v.Type == cabinet.Measure && from.Written != "" {
				var tally measure.Tally
				if measure.Parse(from.Written, measure.Options{Of: v.Measure.Of, Tally: &tally}).Outcome != measure.Unreadable {
					w.Tally = tally.Pieces(from.Written)
				}
			}
		}
		out.Values = append(out.Values, w)
	}
	t, ok := cab.Template(p.Drawer)
	if ok {
		for _, sl := range t.Slots {
			view(sl.Key, sl.Label)
		}
		out.Findings = append(out.Findings, part.Check(p, t)...)
		more, err := s.models.Fit(s.Store.Read(ctx), t, p)
		if err != nil {
			return nil, p, err
		}
		out.Findings = append(out.Findings, more...)
	}
	for key := range p.Values {
		if !ok || !t.Has(key) {
			view(key, key)
		}
	}
	return out, p, nil
}

// Revision returns the content of a released revision.
func (s *Parts) Revision(ctx context.Context, c deed.Call, key string, number int) (wire.PartContent, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.PartContent{}, err
	}
	h, err := s.Find(ctx, key)
	if err != nil {
		return wire.PartContent{}, deed.Sentence(err, "part")
	}
	r, err := s.Store.Read(ctx).Revision(h.ID, number)
	if err != nil {
		return wire.PartContent{}, deed.Sentence(err, "revision")
	}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return wire.PartContent{}, err
	}
	v, _, err := s.contentView(ctx, cab, r.Content)
	if err != nil {
		return wire.PartContent{}, err
	}
	return *v, nil
}

// Diff compares two revisions of a part field by field; 0 stands for the draft. Measures are compared as shown.
func (s *Parts) Diff(ctx context.Context, c deed.Call, key string, from, to int) (wire.Diff, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Diff{}, err
	}
	h, err := s.Find(ctx, key)
	if err != nil {
		return wire.Diff{}, deed.Sentence(err, "part")
	}
	var shown [2][]byte
	var held [2]part.Content
	for i, n := range []int{from, to} {
		content, err := deed.Numbered(s.Store.Read(ctx), h, n)
		if err != nil {
			return wire.Diff{}, err
		}
		if held[i], _, err = Decode(content); err != nil {
			return wire.Diff{}, err
		}
		if shown[i], err = shownForm(held[i]); err != nil {
			return wire.Diff{}, err
		}
	}
	changes, err := document.Diff(shown[0], shown[1])
	if err != nil {
		return wire.Diff{}, err
	}
	changes = slices.DeleteFunc(changes, func(c document.Change) bool { // the name says which model it is, unless it is another one of that name
		place, ok := strings.CutSuffix(c.Path, ".id")
		return ok && slices.ContainsFunc(changes, func(o document.Change) bool { return o.Path == place+".name" })
	})
	out := wire.Diff{From: from, To: to, Changes: append([]document.Change{}, changes...), Models: []wire.DiffModel{}}
	was, now := held[0].Models(), held[1].Models()
	for _, place := range []string{"symbol", "land pattern", "body"} {
		a, b := was[place], now[place]
		if (a == nil) != (b == nil) || a != nil && (a.ID != b.ID || a.Revision != b.Revision) {
			d := wire.DiffModel{Place: place, From: a, To: b}
			if d.FromContent, err = s.drawnAs(ctx, a); err == nil {
				d.ToContent, err = s.drawnAs(ctx, b)
			}
			if err != nil {
				return wire.Diff{}, err
			}
			out.Models = append(out.Models, d)
		}
	}
	return out, nil
}

// drawnAs names the content of the model's revision that a part holds; blank where it holds none that is there.
func (s *Parts) drawnAs(ctx context.Context, m *part.Model) (string, error) {
	if m == nil {
		return "", nil
	}
	id, err := store.ParseID(m.ID)
	if err != nil {
		return "", nil
	}
	r, err := s.Store.Read(ctx).Revision(id, m.Revision)
	if deed.NotFound(err) {
		return "", nil
	}
	return r.Content.String(), err
}

// Changes lists the fields in which two contents of a part differ, as people read them, as far as a trail holds them.
func Changes(was, now []byte) ([]document.Change, error) {
	var shown [2][]byte
	for i, raw := range [][]byte{was, now} {
		p, err := part.Decode(raw)
		if err == nil {
			shown[i], err = shownForm(p)
		}
		if err != nil {
			return nil, err
		}
	}
	all, err := document.Diff(shown[0], shown[1])
	return deed.TrailChanges(all), err
}

// shownForm is a part's content with every value as people read it, for comparing.
func shownForm(p part.Content) ([]byte, error) {
	values := map[string]string{}
	for k, v := range p.Values {
		values[k] = v.String()
	}
	return json.Marshal(map[string]any{"drawer": p.Drawer, "description": p.Description, "values": values, "sources": p.Sources,
		"datasheets": p.Datasheets, "datasheet links": p.Links, "symbol": p.Symbol, "land pattern": p.LandPattern, "body": p.Body, "pin map": p.PinMap, "other land patterns": p.OtherLands, "attachments": p.Attachments, "name": p.Name})
}

// Trail returns the trail of a part, newest first.
func (s *Parts) Trail(ctx context.Context, c deed.Call, key string, offset, limit int) (wire.TrailList, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.TrailList{}, err
	}
	h, err := s.Find(ctx, key)
	if err != nil {
		return wire.TrailList{}, deed.Sentence(err, "part")
	}
	return s.TrailOf(ctx, h, offset, limit)
}

// CopyOf returns a part as the beginning of another that is nearly the same.
func (s *Parts) CopyOf(ctx context.Context, c deed.Call, key string) (wire.PartEdit, error) {
	p, err := s.Get(ctx, c, key)
	if err != nil {
		return wire.PartEdit{}, err
	}
	h, err := s.Find(ctx, p.ID)
	if err != nil {
		return wire.PartEdit{}, deed.Sentence(err, "part")
	}
	rules, err := s.policy.Rules(s.Store.Read(ctx))
	if err == nil {
		err = rules.Forbids(h, lifecycle.ForbidCopy)
	}
	if err != nil {
		return wire.PartEdit{}, err
	}
	return p.Newest().Copy(), nil
}
