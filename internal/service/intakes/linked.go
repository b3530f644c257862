package intakes

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"jollydrawer/core/intake"
	"jollydrawer/core/part"
	"jollydrawer/internal/jobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/work"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const (
	jobLinked = "linked-datasheets"
	// mostLinked is how many parts' links one job fetches.
	mostLinked = 20_000
)

type linkedPayload struct{ Parts []store.ID }

// FetchLinked starts fetching the datasheets that parts of the library name only by a link.
func (s *Intakes) FetchLinked(ctx context.Context, c deed.Call, keys []string) (wire.Job, error) {
	return s.work.Start(ctx, c, work.Asked{Op: deed.OpPartEdit, Kind: jobLinked, Prepare: func(time.Time) (any, int64, error) {
		var heads []store.Head
		for _, key := range keys {
			h, err := s.parts.Find(ctx, key)
			if err != nil {
				return nil, 0, deed.Sentence(err, "part "+key)
			}
			heads = append(heads, h)
		}
		return s.linked(ctx, heads)
	}})
}

// fetchTaken is what fetches the links of the parts that an intake made and changed.
func (s *Intakes) fetchTaken(ctx context.Context, h store.Head, doc intakeDoc) (any, int64, error) {
	if doc.Back != "" {
		return nil, 0, deed.Fault(deed.Invalid, "taken-back", h.Number+" was taken back; it has no parts.", "")
	}
	written, err := s.Store.Read(ctx).WrittenBy(doc.Taken.Deed)
	if err != nil {
		return nil, 0, err
	}
	var heads []store.Head
	for _, w := range written {
		if !store.Gone(w.Head.Standing) {
			heads = append(heads, w.Head)
		}
	}
	return s.linked(ctx, heads)
}

// linked keeps of some parts those that have links.
func (s *Intakes) linked(ctx context.Context, heads []store.Head) (any, int64, error) {
	var p linkedPayload
	links := map[string]bool{}
	for some := range slices.Chunk(heads, 1000) {
		var ids []store.ID
		of := map[store.ID]store.ID{}
		for _, h := range some {
			ids = append(ids, h.Newest())
			of[h.Newest()] = h.ID
		}
		contents, err := s.Store.Read(ctx).Contents(ids)
		if err != nil {
			return nil, 0, err
		}
		for _, id := range ids {
			content, err := parts.DecodeContent(contents[id])
			if err != nil {
				return nil, 0, err
			}
			if len(content.Links) > 0 {
				p.Parts = append(p.Parts, of[id])
			}
			for _, l := range content.Links {
				links[l] = true
			}
		}
	}
	switch {
	case len(links) == 0:
		return nil, 0, deed.Fault(deed.Invalid, "no-links", "None of the parts has a link to a datasheet that is not fetched.", "")
	case len(p.Parts) > mostLinked:
		return nil, 0, deed.Fault(deed.TooLarge, "too-many", fmt.Sprintf("%d parts have links; at most %d are fetched at once.", len(p.Parts), mostLinked), "Name some of them.")
	}
	return p, int64(len(links)), nil
}

// runLinked fetches each link once and puts its file in the place of the link on every part that has it, where its text does not speak against
// that. What is not the part's stays a link, and is said.
func (s *Intakes) runLinked(ctx context.Context, j store.Job, progress jobs.Progress) error {
	var p linkedPayload
	if err := json.Unmarshal([]byte(j.Payload), &p); err != nil {
		return err
	}
	if p.Parts == nil { // the intake was taken in since somebody asked for the datasheets of its rows
		return deed.Fault(deed.Clash, "taken-in", "The intake was taken in meanwhile.", "Fetch again: its parts have the links now.")
	}
	var links []string
	on := map[string][]store.ID{}
	for _, id := range p.Parts {
		_, content, err := s.parts.Newest(ctx, id.String())
		if err != nil {
			return err
		}
		for _, l := range content.Links {
			if on[l] == nil {
				links = append(links, l)
			}
			on[l] = append(on[l], id)
		}
	}
	client := s.guard.Client(60 * time.Second)
	out := wire.Fetched{Links: len(links), Other: []string{}}
	files := map[store.Hash]bool{}
	err := s.fetchAll(ctx, links, func(link string) (store.Fetched, error) { return s.fetch(ctx, client, nil, link) }, func(done int, link string) error {
		have, err := s.Store.Read(ctx).FetchedLinks([]string{link})
		if err != nil {
			return err
		}
		f := have[link]
		if f.File.IsZero() {
			out.Dead++
		} else {
			files[f.File] = true
			if err := s.attachTo(ctx, j, f, on[link], &out); err != nil {
				return err
			}
		}
		return progress(int64(done), int64(len(links)))
	})
	if err != nil {
		return err
	}
	out.Files = len(files)
	result, err := json.Marshal(out)
	if err != nil {
		return err
	}
	return s.Store.FinishJob(ctx, j, string(result))
}

// attachTo puts a file that was fetched on the parts that link to it, each in a deed of its own.
func (s *Intakes) attachTo(ctx context.Context, j store.Job, f store.Fetched, ids []store.ID, out *wire.Fetched) error {
	texts := map[string]intake.Fetched{f.Link: {File: part.File{Hash: f.File.String(), Name: f.Name}}}
	if err := s.sheetTexts(ctx, texts); err != nil {
		return err
	}
	sheet := texts[f.Link]
	for _, id := range ids {
		h, content, err := s.parts.Newest(ctx, id.String())
		if err != nil {
			return err
		}
		if sheet.Text != nil && !sheet.Text.Blank && len(content.Sources) > 0 && !slices.ContainsFunc(content.Sources, func(x part.Source) bool { return sheet.Text.Names(x.MPN) }) {
			out.Other = append(out.Other, fmt.Sprintf("%s: %s names none of its part numbers, nor a series that they begin with", h.Number, f.Name))
			continue
		}
		_, cab, err := s.cabinets.InForce(ctx)
		if err != nil {
			return err
		}
		d, err := s.NewDeed(deed.Call{Actor: deed.Actor{ID: j.Account}, Deed: store.NewID()}, deed.OpPartEdit, []any{j.ID, id, f.Link})
		if err != nil {
			return err
		}
		_, err = s.Store.Do(ctx, d, func(t *store.Tx) (any, error) {
			return s.parts.Alter(t, id, 0, cab.Revision, "datasheet fetched", map[string]any{"link": f.Link, "file": f.Name}, func(c *part.Content) bool { return c.Fetched(f.Link, sheet.File) })
		})
		var said *deed.Error
		switch err = deed.Sentence(err, "part"); {
		case errors.As(err, &said) && !deed.Temporary(err):
			out.Other = append(out.Other, fmt.Sprintf("%s: %s", h.Number, said.Error()))
		case err != nil:
			return err
		default:
			out.Parts++
		}
	}
	return nil
}
