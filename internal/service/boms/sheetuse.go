package boms

import (
	"context"
	"maps"
	"slices"
	"strings"

	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/series"
	"jollydrawer/internal/store"
)

// mostSeries is how many series are looked through for a datasheet.
const mostSeries = 20_000

// sheetNamed says whether a datasheet is the one that a question names: by its hash, or by what stands in its name.
func sheetNamed(question string) func(part.File) bool {
	q := strings.ToLower(strings.TrimSpace(question))
	return func(f part.File) bool {
		return f.Hash == q || len(q) >= 8 && strings.HasPrefix(f.Hash, q) || strings.Contains(strings.ToLower(f.Name), q)
	}
}

// withSheet are the parts on boards that have a datasheet, as their own or as that of a series that one of their sources is of.
func (s *BOMs) withSheet(ctx context.Context, question string, on map[string]bool) ([]string, error) {
	named := sheetNamed(question)
	r := s.Store.Read(ctx)
	all, _, err := r.Heads(store.KindSeries, 0, mostSeries)
	if err != nil {
		return nil, err
	}
	var of []store.ID
	for some := range slices.Chunk(all, 500) {
		var contents []store.ID
		for _, h := range some {
			contents = append(contents, h.Newest())
		}
		read, err := r.ContentsAlone(contents)
		if err != nil {
			return nil, err
		}
		for _, h := range some {
			said, err := series.Decode(h, read[h.Newest()])
			if err != nil {
				return nil, err
			}
			if slices.ContainsFunc(said.Datasheets, named) {
				of = append(of, h.ID)
			}
		}
	}
	members, err := r.MembersOf(of)
	if err != nil {
		return nil, err
	}
	inSeries := map[store.Hash]bool{}
	for _, keys := range members {
		for _, k := range keys {
			inSeries[k] = true
		}
	}
	found := map[string]*lookup.Entry{}
	var ids []store.ID
	for id := range on {
		e, ok := s.index.ByID(id)
		if !ok {
			continue
		}
		if slices.ContainsFunc(e.Sources, func(src part.Source) bool { return inSeries[store.SourceHash(src.Key())] }) {
			found[id] = e
			continue
		}
		if at, err := store.ParseID(id); err == nil {
			ids = append(ids, at)
		}
	}
	for some := range slices.Chunk(ids, 500) {
		heads, err := r.HeadsByID(some)
		if err != nil {
			return nil, err
		}
		var contents []store.ID
		for _, h := range heads {
			contents = append(contents, shown(h))
		}
		read, err := r.ContentsAlone(contents)
		if err != nil {
			return nil, err
		}
		for _, h := range heads {
			p, err := parts.DecodeContent(read[shown(h)])
			if err != nil {
				return nil, err
			}
			if e, ok := s.index.ByID(h.ID.String()); ok && slices.ContainsFunc(p.Datasheets, named) {
				found[e.ID] = e
			}
		}
	}
	if len(found) == 0 && len(of) == 0 {
		return nil, deed.Fault(deed.Unknown, "datasheet-unknown", "No series, and no part on a board, has such a datasheet.", "Name it by a part of its file's name, or by its hash.")
	}
	return numbered(slices.Collect(maps.Values(found))), nil
}

// shown is the content of a part that others see: what is released, or its draft.
func shown(h store.Head) store.ID {
	if h.Released.IsZero() {
		return h.Draft
	}
	return h.Released
}
