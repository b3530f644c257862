package boms

import (
	"context"
	"fmt"
	"slices"

	"jollydrawer/core/bom"
	"jollydrawer/core/decision"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
)

// chosenWord is what the uses of a BOM are written as: the parts that people chose for its lines.
const chosenWord = "chosen"

// uses lists the parts, and the other BOMs, that people chose for lines, each once.
func (d *bomDoc) uses() []store.Use {
	seen := map[store.ID]bool{}
	add := func(part string) {
		if id, err := store.ParseID(part); err == nil {
			seen[id] = true
		}
	}
	for _, r := range d.Decisions {
		if id, is := boardOf(r); is {
			seen[id] = true
		} else if r.Kind == decision.Line {
			add(r.Outcome)
		}
	}
	for _, c := range d.Choices {
		add(c.Part)
	}
	var ids []store.ID
	for id := range seen {
		ids = append(ids, id)
	}
	slices.SortFunc(ids, func(a, b store.ID) int { return slices.Compare(a[:], b[:]) })
	out := make([]store.Use, 0, len(ids))
	for i, id := range ids {
		out = append(out, store.Use{Place: fmt.Sprintf("%s %d", chosenWord, i+1), Child: id})
	}
	return out
}

// UsesOf lists the uses that stored content of a BOM stands for: its draft, or a revision.
func UsesOf(c store.Content, revision int) ([]store.Use, error) {
	if revision > 0 {
		var f bom.Frozen
		err := deed.Decode(c, nil, &f)
		return frozenUses(f, revision), err
	}
	var doc bomDoc
	err := deed.Decode(c, nil, &doc)
	return doc.uses(), err
}

// frozenUses lists the exact part revisions that a revision is pinned to, each once.
func frozenUses(f bom.Frozen, revision int) (out []store.Use) {
	seen := map[string]bool{}
	add := func(child string, at int) {
		if seen[child] {
			return
		}
		seen[child] = true
		if id, err := store.ParseID(child); err == nil {
			out = append(out, store.Use{Place: fmt.Sprintf("%s %d %d", frozenWord, revision, len(out)+1), Child: id, ChildRevision: at})
		}
	}
	for _, l := range f.Lines {
		if l.Part != nil {
			add(l.Part.ID, l.Part.Revision)
		}
		if l.Board != nil {
			add(l.Board.ID, l.Board.Revision)
		}
	}
	return out
}

// usesFilled is the version of how the uses of BOMs are written.
const usesFilled = 1

// Fill writes the uses of BOMs from before they were written with each choice.
func (s *BOMs) Fill(ctx context.Context) error {
	const name, step = "uses of BOMs", 200
	have, err := s.Store.Read(ctx).Projection(name)
	if err != nil || have >= usesFilled {
		return err
	}
	var after store.ID
	for {
		heads, err := s.Store.Read(ctx).HeadsAfter(store.KindBOM, after, step)
		if err != nil {
			return err
		}
		for _, h := range heads {
			after = h.ID
			c, err := s.Store.Read(ctx).Content(h.Draft)
			if err != nil {
				return err
			}
			uses, err := UsesOf(c, 0)
			if err != nil {
				return fmt.Errorf("the BOM %s: %w", h.Number, err)
			}
			if err := s.Store.FillUses(ctx, h, chosenWord, uses); err != nil {
				return err
			}
		}
		if len(heads) < step {
			return s.Store.Filled(ctx, name, usesFilled)
		}
	}
}
