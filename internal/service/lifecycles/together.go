package lifecycles

import (
	"context"
	"fmt"
	"slices"

	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/service/series"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// mostTogether is how many parts are reviewed beside each other.
const mostTogether = 200

// Together returns the review lists of all parts in the caller's queue that are of a series with a part, one beside the other: what all of them
// say alike is looked up once. Where the part is of no series, they are those that have a datasheet in common with it. sheet is the hash of the
// datasheet; blank is the part's first one, or the first one of its series.
func (s *Lifecycles) Together(ctx context.Context, c deed.Call, key, sheet string) (wire.TogetherReview, error) {
	out := wire.TogetherReview{Alike: []wire.ReviewItem{}, Differ: []wire.ReviewColumn{}, Parts: []wire.Review{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	h, err := s.thing(ctx, key)
	if err != nil {
		return out, err
	}
	r := s.Store.Read(ctx)
	file, of, err := datasheet(r, h, sheet)
	if err != nil {
		return out, err
	}
	out.Sheet = file
	rules, err := s.policy.Rules(r)
	if err != nil {
		return out, err
	}
	ask := store.WaitingQuery{States: rules.Waiting(), Kinds: []string{store.KindPart}, NotBy: c.Actor.ID}
	groups, err := r.Groups()
	if err != nil {
		return out, err
	}
	ask.Without = othersDuties(groups, c.Actor, rules)
	var heads []store.Head
	if of != nil {
		out.Series = of.Number
		id, e := store.ParseID(of.ID)
		if e != nil {
			return out, e
		}
		heads, err = r.WaitingInSeries(ask, id, mostTogether+1)
	} else {
		heads, err = r.WaitingNaming(ask, file.Hash, mostTogether+1)
	}
	if err != nil {
		return out, err
	}
	if out.More = len(heads) > mostTogether; out.More {
		heads = heads[:mostTogether]
	}
	for _, h := range heads {
		again := func() (store.Head, error) { return r.Head(h.Kind, h.ID) }
		v, err := deed.Whole(h, again, func(h store.Head) (wire.Review, error) { return s.review(ctx, r, c.Actor, h) })
		if err != nil {
			return out, err
		}
		if of != nil || slices.ContainsFunc(v.Datasheets, func(f part.File) bool { return f.Hash == file.Hash }) { // others name the hash somewhere else
			out.Parts = append(out.Parts, v)
		}
	}
	if len(out.Parts) > 0 {
		out.Alike, out.Differ = sideBySide(out.Parts)
	}
	return out, nil
}

// datasheet finds the datasheet of a part by its hash, or its first one, and the series that shares it; nil where the part is of none.
func datasheet(r store.Reader, h store.Head, hash string) (part.File, *wire.PartSeries, error) {
	if h.Kind != store.KindPart {
		return part.File{}, nil, deed.Fault(deed.Invalid, "no-datasheet", "Parts have datasheets; a model is reviewed by itself.", "")
	}
	c, err := r.Content(h.Newest())
	if err != nil {
		return part.File{}, nil, err
	}
	p, err := parts.DecodeContent(c)
	if err != nil {
		return part.File{}, nil, err
	}
	of, err := series.Of(r, p)
	if err != nil {
		return part.File{}, nil, err
	}
	var first *wire.PartSeries
	sheets := p.Datasheets
	for i := range of {
		if first == nil {
			first = &of[i]
		}
		sheets = append(sheets[:len(sheets):len(sheets)], of[i].Datasheets...)
	}
	for _, f := range sheets {
		if hash == "" || f.Hash == hash {
			return f, first, nil
		}
	}
	if hash != "" {
		return part.File{}, nil, deed.Fault(deed.Unknown, "no-datasheet", fmt.Sprintf("%s has no such datasheet.", h.Number), "Load the page again.")
	}
	if first == nil {
		return part.File{}, nil, deed.Fault(deed.Invalid, "no-datasheet", fmt.Sprintf("%s has no datasheet as a file, and is of no series.", h.Number), "Attach one, put it into its series, or review it by itself.")
	}
	return part.File{}, first, nil
}

// sideBySide parts the items of several review lists into those that all lists have with the same value, and the others: a column for
// each label, and as many as the list that has most of it. An item that is alike is ticked where every list has it ticked.
func sideBySide(lists []wire.Review) (alike []wire.ReviewItem, differ []wire.ReviewColumn) {
	alike, differ = []wire.ReviewItem{}, []wire.ReviewColumn{}
	for _, i := range lists[0].Items {
		if same, ok := alikeIn(lists, i); ok && len(lists) > 1 {
			alike = append(alike, same)
		}
	}
	for at, l := range lists {
		nth := map[string]int{} // label → how often it came up in this list
		for _, i := range l.Items {
			if slices.ContainsFunc(alike, func(a wire.ReviewItem) bool { return a.Key == i.Key }) {
				continue
			}
			column, n := -1, nth[i.Label]
			nth[i.Label]++
			for c := range differ {
				if differ[c].Label == i.Label {
					if n == 0 {
						column = c
						break
					}
					n--
				}
			}
			if column < 0 {
				column = len(differ)
				differ = append(differ, wire.ReviewColumn{Label: i.Label, Items: make([]string, len(lists))})
			}
			differ[column].Items[at] = i.Key
		}
	}
	return alike, differ
}

// alikeIn says whether every list has an item with the same value, and how it stands on all of them.
func alikeIn(lists []wire.Review, i wire.ReviewItem) (wire.ReviewItem, bool) {
	for _, l := range lists {
		at := slices.IndexFunc(l.Items, func(x wire.ReviewItem) bool { return x.Key == i.Key && x.Value == i.Value })
		if at < 0 {
			return i, false
		}
		i.Mine, i.Changed = i.Mine && l.Items[at].Mine, i.Changed || l.Items[at].Changed
		i.By = slices.DeleteFunc(slices.Clone(i.By), func(who string) bool { return !slices.Contains(l.Items[at].By, who) })
	}
	return i, true
}

// TickMany ticks items on the review lists of several things in one deed, or takes that back.
func (s *Lifecycles) TickMany(ctx context.Context, c deed.Call, in wire.TickMany) (wire.Reviewed, error) {
	return s.reviewingMany(ctx, c, in.Things, in, func(t *store.Tx, h *store.Head) (string, any, error) {
		return s.tick(t, s.recall(nil), h, c.Actor, in.TickItems)
	})
}

// SignMany signs the review lists of several things in one deed, against one datasheet: all of them, or none.
func (s *Lifecycles) SignMany(ctx context.Context, c deed.Call, in wire.SignMany) (wire.Reviewed, error) {
	return s.reviewingMany(ctx, c, in.Things, in, func(t *store.Tx, h *store.Head) (string, any, error) {
		return s.sign(t, s.recall(nil), h, c.Actor, in.SignReview)
	})
}

// reviewingMany carries out a write about the reviews of several things, each as it was looked at, in one deed.
func (s *Lifecycles) reviewingMany(ctx context.Context, c deed.Call, things []wire.PartBase, in any, do func(*store.Tx, *store.Head) (action string, detail any, err error)) (wire.Reviewed, error) {
	return deed.DoAfter(ctx, s.Desk, c, deed.OpReview, "thing", in, func() error {
		if len(things) > mostTogether {
			return deed.Fault(deed.Invalid, "many-reviews", fmt.Sprintf("%d things are more than are reviewed at once.", len(things)), fmt.Sprintf("Take %d at a time.", mostTogether))
		}
		seen := map[string]bool{}
		for _, x := range things {
			if seen[x.ID] {
				return deed.Fault(deed.Invalid, "twice", fmt.Sprintf("%s is named twice.", x.ID), "Name each thing once.")
			}
			seen[x.ID] = true
		}
		return nil
	}, func(t *store.Tx) (wire.Reviewed, error) {
		made := wire.Reviewed{Things: []wire.PartBase{}}
		heads, err := named(t.Reader, things)
		if err != nil {
			return made, err
		}
		for i, x := range things {
			h := heads[i]
			if h.Version != x.Version {
				return made, deed.Fault(deed.Clash, "changed-meanwhile", fmt.Sprintf("%s was changed meanwhile; nothing was written.", policy.NameOf(h)), "Look at it again.")
			}
			if err := policy.Stands(h); err != nil {
				return made, err
			}
			action, detail, err := do(t, &h)
			if err == nil {
				err = t.Update(&h, action, detail)
			}
			if err != nil {
				return made, err
			}
			made.Things = append(made.Things, wire.PartBase{ID: x.ID, Version: h.Version})
		}
		return made, nil
	})
}

// named finds parts and models by their identifiers, in the same order.
func named(r store.Reader, things []wire.PartBase) ([]store.Head, error) {
	var ids []store.ID
	for _, x := range things {
		id, err := store.ParseID(x.ID)
		if err != nil {
			return nil, deed.Fault(deed.Unknown, "not-found", fmt.Sprintf("There is no part or model %s.", x.ID), "Look again.")
		}
		ids = append(ids, id)
	}
	found, err := r.HeadsByID(ids)
	if err != nil {
		return nil, err
	}
	out := make([]store.Head, len(ids))
	for i, id := range ids {
		at := slices.IndexFunc(found, func(h store.Head) bool { return h.ID == id && (h.Kind == store.KindPart || h.Kind == store.KindModel) })
		if at < 0 {
			return nil, deed.Fault(deed.Unknown, "not-found", fmt.Sprintf("There is no part or model %s.", things[i].ID), "Look again.")
		}
		out[i] = found[at]
	}
	return out, nil
}
