// Package series keeps the series of manufacturers: their members, the datasheets and the remarks that they share. A part is of a series by the
// part numbers that it may be bought under; nothing of its content says so, so that putting hundreds of released parts into a series changes
// none of them.
package series

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/finding"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/core/series"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Series keeps the series. Its methods may be called from several goroutines.
type Series struct {
	*deed.Desk
	index *lookup.Index
}

// New returns the series of an installation.
func New(d *deed.Desk, x *lookup.Index) *Series {
	return &Series{Desk: d, index: x}
}

// mostMoved is how many parts one deed puts into a series or takes out: it is one transaction.
const mostMoved = 2000

// read tidies and checks what somebody says of a series.
func (s *Series) read(r store.Reader, in wire.SeriesEdit) (series.Content, error) {
	c := series.Content(in)
	c.Members, c.Datasheets = slices.Clone(c.Members), slices.Clone(c.Datasheets)
	c.Tidy()
	if err := c.Check(); err != nil {
		return c, deed.Fault(deed.Invalid, "series-wrong", "Nothing was kept: "+err.Error()+".", "")
	}
	for i, f := range c.Datasheets {
		h, err := store.ParseHash(f.Hash)
		there := false
		if err == nil {
			if _, there, err = r.FileSize(h); err != nil {
				return c, err
			}
		}
		if !there {
			return c, deed.Fault(deed.Invalid, "series-wrong", fmt.Sprintf("Nothing was kept: the file %q of datasheet %d is not there.", f.Name, i+1), "Upload it first.")
		}
	}
	return c, nil
}

// Make keeps a new series.
func (s *Series) Make(ctx context.Context, c deed.Call, in wire.SeriesEdit) (wire.Series, error) {
	if err := deed.Allow(c, deed.OpPartEdit); err != nil {
		return wire.Series{}, err
	}
	said, err := s.read(s.Store.Read(ctx), in)
	if err != nil {
		return wire.Series{}, err
	}
	id, err := deed.Do(ctx, s.Desk, c, deed.OpPartEdit, "series", in, func(t *store.Tx) (store.ID, error) {
		h := store.Head{ID: store.NewID(), Kind: store.KindSeries, Number: said.Number()}
		if err := alone(t, h.ID, said); err != nil {
			return h.ID, err
		}
		if err := deed.SaveDraft(t, &h, series.Format, said); err != nil {
			return h.ID, err
		}
		if err := t.Insert(&h, "made", map[string]any{"members": len(said.Members)}); err != nil {
			return h.ID, err
		}
		return h.ID, s.members(t, h, nil, said)
	})
	if err != nil {
		return wire.Series{}, s.refused(ctx, err, said)
	}
	return s.Get(ctx, c, id.String())
}

// Edit changes a series as it was looked at.
func (s *Series) Edit(ctx context.Context, c deed.Call, key string, version int, in wire.SeriesEdit) (wire.Series, error) {
	if err := deed.Allow(c, deed.OpPartEdit); err != nil {
		return wire.Series{}, err
	}
	h, err := s.thing(s.Store.Read(ctx), key)
	if err != nil {
		return wire.Series{}, err
	}
	said, err := s.read(s.Store.Read(ctx), in)
	if err != nil {
		return wire.Series{}, err
	}
	_, err = deed.Do(ctx, s.Desk, c, deed.OpPartEdit, "series", []any{h.ID, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindSeries, h.ID, version)
		if err != nil {
			return 0, err
		}
		was, err := ContentOf(t.Reader, h)
		if err == nil && was.Number() != said.Number() {
			err = alone(t, h.ID, said)
		}
		if err != nil {
			return 0, err
		}
		h.Number = said.Number()
		if err := deed.SaveDraft(t, &h, series.Format, said); err != nil {
			return 0, err
		}
		detail := map[string]any{"members": len(said.Members)}
		if was.Number() != said.Number() {
			detail["before"] = was.Number()
		}
		if err := t.Update(&h, "changed", detail); err != nil {
			return 0, err
		}
		return h.Version, s.members(t, h, &was, said)
	})
	if err != nil {
		return wire.Series{}, s.refused(ctx, err, said)
	}
	return s.Get(ctx, c, h.ID.String())
}

// alone refuses a series that only capitals, marks or the legal form tell from another.
func alone(t *store.Tx, id store.ID, said series.Content) error {
	others, err := t.NumbersOf(store.KindSeries)
	if err != nil {
		return err
	}
	for number, other := range others {
		maker, name, _ := strings.Cut(number, ": ")
		if other != id && part.NormaliseMaker(maker) == part.NormaliseMaker(said.Manufacturer) && part.NormaliseMPN(name) == part.NormaliseMPN(said.Name) {
			return deed.Fault(deed.Clash, "series-taken", fmt.Sprintf("There is a series %s already; nothing was kept.", number), "Add the members to that one.")
		}
	}
	return nil
}

// members writes who is in a series, and says on the trail of each part that comes or goes that it does. was is nil where it is new.
func (s *Series) members(t *store.Tx, h store.Head, was *series.Content, now series.Content) error {
	before := map[store.ID]store.Head{}
	if was != nil {
		heads, err := t.InSeries(h.ID)
		if err != nil {
			return err
		}
		for _, p := range heads {
			before[p.ID] = p
		}
	}
	if err := t.SetMembers(h.ID, now.Name, now.Keys()); err != nil {
		return err
	}
	after, err := t.InSeries(h.ID)
	if err != nil {
		return err
	}
	renamed := was != nil && was.Name != now.Name
	moved := 0
	note := func(p store.Head, action string) error {
		if moved++; moved > mostMoved {
			return deed.Fault(deed.TooLarge, "too-many", fmt.Sprintf("More than %d parts of the library would come into the series or go; nothing was changed.", mostMoved), "Do it in lots.")
		}
		return t.Note(&p, action, map[string]any{"series": now.Number()})
	}
	for _, p := range after {
		_, stays := before[p.ID]
		delete(before, p.ID)
		switch {
		case !stays:
			err = note(p, "put into a series")
		case renamed:
			err = note(p, "series renamed")
		}
		if err != nil {
			return err
		}
	}
	for _, p := range before {
		if err := note(p, "taken out of a series"); err != nil {
			return err
		}
	}
	return nil
}

// refused says why a series cannot be kept.
func (s *Series) refused(ctx context.Context, err error, said series.Content) error {
	switch {
	case errors.Is(err, store.ErrNumberTaken):
		return deed.Fault(deed.Clash, "series-taken", fmt.Sprintf("There is a series %s already; nothing was kept.", said.Number()), "Add the members to that one.")
	case errors.Is(err, store.ErrInSeries):
		what := "One of the members is in another series"
		for i, k := range said.Keys() {
			if of, e := s.Store.Read(ctx).SeriesOf([]string{k}); e == nil && len(of) > 0 && of[0].Number != said.Number() {
				what = fmt.Sprintf("%s is in the series %s", said.Members[i], of[0].Number)
				break
			}
		}
		return deed.Fault(deed.Clash, "in-series", what+"; nothing was kept.", "Take it out there first.")
	}
	return err
}

// thing finds a series by its identifier or number.
func (s *Series) thing(r store.Reader, key string) (store.Head, error) {
	h, err := r.Called(store.KindSeries, key)
	return h, deed.Sentence(err, "series")
}

// ContentOf reads what a series says of itself.
func ContentOf(r store.Reader, h store.Head) (c series.Content, err error) {
	raw, err := r.Content(h.Draft)
	if err != nil {
		return c, err
	}
	return Decode(h, raw)
}

// Decode is ContentOf for content that is loaded.
func Decode(h store.Head, raw store.Content) (c series.Content, err error) {
	if raw.Format != series.Format {
		return c, fmt.Errorf("the series %s is of the form %q, and this version of the program reads %q", h.Number, raw.Format, series.Format)
	}
	err = json.Unmarshal(raw.Bytes, &c)
	c.Tidy()
	return c, err
}

// shownParts is how many parts of a series are listed.
const shownParts = 1000

// Get returns a series with its parts.
func (s *Series) Get(ctx context.Context, c deed.Call, key string) (wire.Series, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Series{}, err
	}
	r := s.Store.Read(ctx)
	h, err := s.thing(r, key)
	if err != nil {
		return wire.Series{}, err
	}
	return deed.Whole(h, func() (store.Head, error) { return r.Head(store.KindSeries, h.ID) }, func(h store.Head) (wire.Series, error) {
		said, err := ContentOf(r, h)
		if err != nil {
			return wire.Series{}, err
		}
		out := wire.Series{ID: h.ID.String(), Number: h.Number, Version: h.Version, Said: wire.SeriesEdit(said), Parts: []wire.SeriesPart{}, Absent: []string{}}
		heads, err := r.InSeries(h.ID)
		if err != nil {
			return out, err
		}
		out.Total = len(heads)
		keys := map[string]string{} // of the members → as they are written
		for i, k := range said.Keys() {
			keys[k] = said.Members[i]
		}
		for _, p := range heads {
			w := wire.SeriesPart{ID: p.ID.String(), Number: p.Number, Draft: !p.Draft.IsZero()}
			if e, ok := s.index.ByID(w.ID); ok {
				w.Description, w.Flag = e.Description, e.Flag
				for _, src := range e.Sources {
					if m, ok := keys[src.Key()]; ok {
						w.MPN = m
					}
				}
			}
			if len(out.Parts) < shownParts {
				out.Parts = append(out.Parts, w)
			}
		}
		out.Absent, err = s.absent(r, said)
		return out, err
	})
}

// absent lists the members that no part of the library has as a source.
func (s *Series) absent(r store.Reader, said series.Content) ([]string, error) {
	out := []string{}
	keys := said.Keys()
	there, err := r.SourcesThere(keys)
	if err != nil {
		return out, err
	}
	for i, k := range keys {
		if !there[k] {
			out = append(out, said.Members[i])
		}
	}
	return out, nil
}

// List returns a page of the series.
func (s *Series) List(ctx context.Context, c deed.Call, offset, limit int) (wire.SeriesList, error) {
	offset, limit = deed.Page(offset, limit)
	out := wire.SeriesList{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.SeriesRow{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	r := s.Store.Read(ctx)
	heads, total, err := r.HeadsByNumbers(store.KindSeries, offset, limit)
	if err != nil {
		return out, err
	}
	out.Page.Total = int(total)
	for _, h := range heads {
		said, err := ContentOf(r, h)
		if err != nil {
			return out, err
		}
		out.Items = append(out.Items, wire.SeriesRow{ID: h.ID.String(), Number: h.Number, Manufacturer: said.Manufacturer, Name: said.Name, Members: len(said.Members), Datasheets: said.Datasheets})
	}
	return out, nil
}

// named are the keys under which parts say of which series they are.
var named = []string{"series-name", "series"}

// Proposals lists the series that parts look as though they were of, by a parameter that names it, a datasheet in common or the stem of their
// numbers, the largest first. Blank maker stands for all.
func (s *Series) Proposals(ctx context.Context, c deed.Call, maker string, offset, limit int) (wire.SeriesProposals, error) {
	offset, limit = deed.Page(offset, limit)
	out := wire.SeriesProposals{Page: wire.Page{Offset: offset, Limit: limit}, Items: []series.Proposal{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	r := s.Store.Read(ctx)
	heads, _, err := r.Heads(store.KindSeries, 0, mostSeries)
	if err != nil {
		return out, err
	}
	var have []series.Content
	for _, h := range heads {
		said, err := ContentOf(r, h)
		if err != nil {
			return out, err
		}
		have = append(have, said)
	}
	var items []series.Item
	err = r.Parts(store.ID{}, func(p store.PartRow) error {
		if store.Gone(p.Standing) || p.Format != part.Format {
			return nil
		}
		content, err := part.Decode(p.Bytes)
		if err != nil {
			return nil // it is set aside and reported; nothing is proposed for it
		}
		name := ""
		for _, k := range named {
			if v := content.Values[k]; name == "" && !v.IsBlank() {
				name = v.String()
			}
		}
		for i, src := range content.Sources {
			if maker != "" && part.NormaliseMaker(src.Manufacturer) != part.NormaliseMaker(maker) {
				continue
			}
			it := series.Item{Manufacturer: src.Manufacturer, MPN: src.MPN}
			if i == 0 { // what the record says is said of its first source; its alternates are of other makers
				it.Series, it.Sheets = name, content.Datasheets
			}
			items = append(items, it)
		}
		return ctx.Err()
	})
	if err != nil {
		return out, err
	}
	all := series.Propose(items, have)
	out.Page.Total = len(all)
	if offset < len(all) {
		out.Items = append(out.Items, all[offset:min(offset+limit, len(all))]...)
	}
	return out, nil
}

// mostSeries is how many series are looked at beside what is proposed.
const mostSeries = 20_000

// Of lists the series that a part is of, by its sources.
func Of(r store.Reader, p part.Content) ([]wire.PartSeries, error) {
	out := []wire.PartSeries{}
	heads, err := r.SeriesOf(p.SourceKeys())
	if err != nil {
		return out, err
	}
	for _, h := range heads {
		said, err := ContentOf(r, h)
		if err != nil {
			return out, err
		}
		out = append(out, wire.PartSeries{ID: h.ID.String(), Number: h.Number, Name: said.Name, Members: len(said.Members), Datasheets: said.Datasheets})
	}
	return out, nil
}

// HaveSheet says whether some series has a datasheet: its parts have it too.
func HaveSheet(all []wire.PartSeries) bool {
	return slices.ContainsFunc(all, func(s wire.PartSeries) bool { return len(s.Datasheets) > 0 })
}

// WithSheet leaves out what is found of a part that has no datasheet, where its series has one.
func WithSheet(all []finding.Finding) []finding.Finding {
	return slices.DeleteFunc(slices.Clone(all), func(f finding.Finding) bool { return f.Cause == "no-datasheet" || f.Cause == "datasheet-linked" })
}
