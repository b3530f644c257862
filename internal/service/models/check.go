package models

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sort"

	"jollydrawer/core/finding"
	"jollydrawer/core/model"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// waiver names a finding of a model that a person accepted.
type waiver struct {
	head  store.ID
	cause string
}

// houseRules returns how drawings should be, and the waivers of one model or of all.
func (s *Models) houseRules(r store.Reader, head store.ID) (house model.House, waived map[waiver]string, err error) {
	cab, _, err := s.cabinets.In(r)
	var e *deed.Error
	switch {
	case err == nil:
		house = cab.Document.House
	case !errors.As(err, &e): // before there is a cabinet, there are no rules of the house
		return house, nil, err
	}
	ws, err := r.ModelWaivers(head)
	waived = map[waiver]string{}
	for _, w := range ws {
		waived[waiver{w.Head, w.Cause}] = w.Why
	}
	return house, waived, err
}

// Checked returns all models with what is needed to check them.
func (s *Models) Checked(ctx context.Context) (house model.House, waived map[waiver]string, shelf []*Entry, err error) {
	if house, waived, err = s.houseRules(s.Store.Read(ctx), store.ID{}); err == nil {
		shelf, err = s.Library(ctx)
	}
	return house, waived, shelf, err
}

func Findings(d *Drawing, head store.ID, house model.House, waived map[waiver]string) []wire.ModelFinding {
	out := []wire.ModelFinding{}
	for _, f := range model.Check(&d.Content, house, 0) {
		f.Waived = waived[waiver{head, f.Cause}]
		click, _ := model.Mends(f.Cause)
		out = append(out, wire.ModelFinding{Finding: f, Click: click})
	}
	return out
}

// checked returns all models with what a list of them is made with.
func (s *Models) checked(ctx context.Context) (how checks, shelf []*Entry, err error) {
	if how.house, how.waived, shelf, err = s.Checked(ctx); err == nil {
		how.rules, err = s.policy.Rules(s.Store.Read(ctx))
	}
	return how, shelf, err
}

// Causes groups the findings on all models of a kind by cause.
func (s *Models) Causes(ctx context.Context, c deed.Call, kind string) (wire.ModelCauses, error) {
	out := wire.ModelCauses{Causes: []wire.ModelCause{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	house, waived, shelf, err := s.Checked(ctx)
	if err != nil {
		return out, err
	}
	var all []finding.Finding
	with := map[string][]wire.ModelRef{}
	for _, m := range shelf {
		if kind != "" && string(m.Kind) != kind || m.Kind == model.KindPinMap {
			continue
		}
		out.Models++
		for _, f := range Findings(m.Drawing, m.Head.ID, house, waived) {
			f.Text = m.Name
			all = append(all, f.Finding)
			if f.Waived == "" && len(with[f.Cause]) < 100 {
				with[f.Cause] = append(with[f.Cause], m.Ref())
			}
		}
	}
	for _, g := range finding.Group(all) {
		click, _ := model.Mends(g.Cause)
		out.Causes = append(out.Causes, wire.ModelCause{Cause: g, Click: click, Models: append([]wire.ModelRef{}, with[g.Cause]...)})
	}
	return out, nil
}

// Mend settles one cause on several models in one deed. Each becomes a new draft, released where there is a note.
func (s *Models) Mend(ctx context.Context, c deed.Call, in wire.ModelMend) (wire.Mended, error) {
	op := deed.OpModelEdit
	if in.Note != "" {
		op = deed.OpModelRelease
	}
	if err := deed.Allow(c, op); err != nil {
		return wire.Mended{}, err
	}
	if _, ok := model.Mends(in.Cause); !ok {
		return wire.Mended{}, deed.Fault(deed.Invalid, "not-mendable", fmt.Sprintf("%q cannot be mended by itself.", in.Cause), "Draw the model anew, or accept the finding with a reason.")
	}
	house, waived, shelf, err := s.Checked(ctx)
	if err != nil {
		return wire.Mended{}, err
	}
	var chosen []*Entry
	for _, m := range shelf {
		if len(in.Models) > 0 && !slices.Contains(in.Models, m.Head.ID.String()) {
			continue
		}
		if slices.ContainsFunc(Findings(m.Drawing, m.Head.ID, house, waived), func(f wire.ModelFinding) bool { return f.Cause == in.Cause && f.Waived == "" }) {
			chosen = append(chosen, m)
			if err := deed.Seen(in.Seen, m.Head.ID.String(), m.Head.Version, "model"); err != nil {
				return wire.Mended{}, err
			}
		}
	}
	if len(chosen) > 2000 {
		return wire.Mended{}, deed.Fault(deed.TooLarge, "too-many", fmt.Sprintf("%d models have this finding; at most 2,000 are mended in one deed.", len(chosen)), "Name some of them.")
	}
	return deed.Do(ctx, s.Desk, c, op, "model", in, func(t *store.Tx) (wire.Mended, error) {
		out := wire.Mended{Models: []string{}, Parts: []string{}, Left: []string{}}
		for _, m := range chosen {
			h, err := t.HeadAt(store.KindModel, m.Head.ID, m.Head.Version)
			if err != nil {
				return out, err
			}
			mended, err := model.Mend(&m.Content, in.Cause, house)
			if err != nil {
				out.Left = append(out.Left, fmt.Sprintf("%s: %v", m.Name, err))
				continue
			}
			if err := s.Redraw(t, c.Actor, &h, &mended, in.Note, "mended", map[string]any{"cause": in.Cause}); err != nil {
				return out, err
			}
			out.Models = append(out.Models, m.Name)
		}
		return out, nil
	})
}

// Waive accepts a finding on a model with a reason, or takes that back.
func (s *Models) Waive(ctx context.Context, c deed.Call, id store.ID, version int, in wire.ModelWaive) (wire.Model, error) {
	_, err := deed.Do(ctx, s.Desk, c, deed.OpModelEdit, "model", []any{id, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindModel, id, version)
		if err != nil {
			return 0, err
		}
		why := deed.Said(in.Why)
		if err := t.WaiveModel(store.ModelWaiver{Head: id, Cause: in.Cause, Why: why, Account: c.Actor.ID, At: t.Deed.At}); err != nil {
			return 0, err
		}
		return h.Version, t.Update(&h, "finding accepted", map[string]any{"cause": in.Cause, "why": why})
	})
	if err != nil {
		return wire.Model{}, err
	}
	return s.Get(ctx, c, id.String())
}

// Twins lists the clusters of models that are the same, or nearly the same.
func (s *Models) Twins(ctx context.Context, c deed.Call, kind string) (wire.TwinList, error) {
	out := wire.TwinList{Clusters: []wire.Twins{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	how, shelf, err := s.checked(ctx)
	if err != nil {
		return out, err
	}
	by := map[string]*Entry{}
	var all []model.Drawing
	for _, m := range shelf {
		if !m.Printed || kind != "" && string(m.Kind) != kind {
			continue
		}
		by[m.Head.ID.String()] = m
		all = append(all, model.Drawing{ID: m.Head.ID.String(), Fingerprint: m.Print, Content: &m.Content})
	}
	for _, t := range model.Twins(all, NearEnough) {
		w := wire.Twins{Kind: string(t.Kind), Exact: t.Exact, Most: t.Most, What: t.What, Models: []wire.ModelRow{}}
		for _, id := range t.IDs {
			w.Models = append(w.Models, modelRow(by[id], how))
		}
		sort.SliceStable(w.Models, func(i, j int) bool { return w.Models[i].Uses > w.Models[j].Uses })
		if out.Clusters = append(out.Clusters, w); len(out.Clusters) == 500 {
			break
		}
	}
	return out, nil
}

// LikeQuery asks for land patterns by what people measure; zero is any.
type LikeQuery struct {
	Model      string // whose features are asked for
	Pads       int
	Pitch, Row model.Length
	Within     model.Length
}

// Like lists land patterns like a given one, the nearest first.
func (s *Models) Like(ctx context.Context, c deed.Call, q LikeQuery) (wire.LikeList, error) {
	out := wire.LikeList{Items: []wire.LikeRow{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	how, shelf, err := s.checked(ctx)
	if err != nil {
		return out, err
	}
	if q.Within <= 0 {
		q.Within = NearEnough
	}
	var self *Entry
	for _, m := range shelf {
		if q.Model != "" && m.Head.ID.String() == q.Model && m.Land != nil {
			self, q.Pads, q.Pitch, q.Row = m, m.features.Pads, m.features.Pitch, m.features.Row
		}
	}
	out.Asked = model.Features{Pads: q.Pads, Pitch: q.Pitch, Row: q.Row}
	off := func(a, b model.Length) model.Length {
		if a == 0 {
			return 0
		}
		return max(a-b, b-a)
	}
	type found struct {
		m   *Entry
		far model.Length
	}
	var all []found
	for _, m := range shelf {
		if m.Land == nil || m == self || q.Pads > 0 && m.features.Pads != q.Pads {
			continue
		}
		if far := max(off(q.Pitch, m.features.Pitch), off(q.Row, m.features.Row)); far <= q.Within {
			all = append(all, found{m, far})
		}
	}
	sort.SliceStable(all, func(i, j int) bool { return all[i].far < all[j].far })
	for _, f := range all[:min(len(all), 200)] {
		near := "the same pitch and rows"
		if f.far > 0 {
			near = fmt.Sprintf("within %s mm", f.far)
		}
		out.Items = append(out.Items, wire.LikeRow{ModelRow: modelRow(f.m, checks{rules: how.rules}), Features: f.m.features, How: near})
	}
	return out, nil
}

// ReadLike reads what people type into a search by measures; a length without a unit is in mm.
func ReadLike(id string, pads int, pitch, row, within string) (q LikeQuery, err error) {
	q = LikeQuery{Model: id, Pads: pads}
	for _, f := range []struct {
		text string
		into *model.Length
	}{{pitch, &q.Pitch}, {row, &q.Row}, {within, &q.Within}} {
		if f.text == "" {
			continue
		}
		if *f.into, err = model.ParseLength(f.text); err != nil {
			return q, deed.Fault(deed.Invalid, "length-wrong", deed.SentenceOf(err), "")
		}
	}
	return q, nil
}
