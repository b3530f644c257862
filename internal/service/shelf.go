package service

import (
	"context"
	"fmt"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/internal/store"
)

// shelf lets the checks of an intake ask the lookup index.
type shelf struct{ x *lookup.Index }

func existing(e *lookup.Entry, ok bool) (intake.Existing, bool) {
	if !ok || e.Gone {
		return intake.Existing{}, false
	}
	return intake.Existing{ID: e.ID, Number: e.Number, Version: e.Version,
		Content: part.Content{Drawer: e.Drawer, Name: e.Name, Description: e.Description, Sources: e.Sources, Values: e.Values()}}, true
}

func (s shelf) Source(key string) (intake.Existing, bool) { return existing(s.x.BySource(key)) }
func (s shelf) Makers() []string                          { return s.x.Makers() }

// Numbered finds the part with a number, whatever its capitals, blanks and punctuation where that leaves one.
func (s shelf) Numbered(number string) (intake.Existing, bool) {
	if e, ok := s.x.ByNumber(number); ok {
		return existing(e, ok)
	}
	if like := s.x.ByNumberLike(number); len(like) == 1 {
		return existing(like[0], true)
	}
	return intake.Existing{}, false
}

func (s shelf) Like(drawer string, keys []string) func(func(string) cabinet.Value) []string {
	return s.x.Like(drawer, keys)
}

// crosswalks loads the crosswalks of all suppliers; the newest hundred say enough.
func (s *Service) crosswalks(ctx context.Context) (out []crosswalk.Crosswalk, err error) {
	hs, _, err := s.Store.Heads(ctx, store.KindCrosswalk, 0, 100)
	if err != nil {
		return nil, err
	}
	ids := make([]store.ID, 0, len(hs))
	for _, h := range hs {
		ids = append(ids, h.Released)
	}
	contents, err := s.Store.Contents(ctx, ids)
	if err != nil {
		return nil, err
	}
	for _, h := range hs {
		c, ok := contents[h.Released]
		if !ok {
			continue
		}
		cw, err := crosswalk.FromJSON(c.Bytes)
		if err != nil {
			return nil, fmt.Errorf("the crosswalk of %s: %w", h.Number, err)
		}
		out = append(out, cw)
	}
	return out, nil
}
