package boms

import (
	"context"
	"fmt"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/buying"
	"jollydrawer/core/document"
	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/lifecycles"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Lives says how a BOM is released, as every other thing is.
type Lives interface {
	Freeze(ctx context.Context, who deed.Actor, h store.Head, note string, minor bool) (lifecycles.Releasing, lifecycles.Still, error)
}

// reviewed is what a signature on a BOM covers: the file, and every line with the exact revision that it would be pinned to. What it costs, for how many boards it
// is bought and what it is called are none of it.
type reviewed struct {
	FileHash string       `json:"fileHash"`
	Variants []string     `json:"variants,omitempty"`
	Lines    []bom.Pinned `json:"lines"`
}

// Tell says of a BOM what its gates are asked about, and what somebody who reviews it looks at: each part with the places it stands in, each line without one, and
// what is not fitted.
func (s *BOMs) Tell(ctx context.Context, h store.Head) (out lifecycles.Told, err error) {
	now, doc, err := s.findBOM(ctx, h.ID.String())
	if err != nil {
		return out, err
	}
	vs, file, err := s.reconcile(ctx, now, doc)
	if err != nil {
		return out, err
	}
	seen := wire.BOM{Counts: map[string]int{}, Hindered: map[string]int{}}
	_, taken, err := s.house(ctx)
	if err != nil {
		return out, err
	}
	if _, err := s.lay(ctx, &seen, vs, file, now, doc, taken); err != nil {
		return out, err
	}
	own, subs, _, err := s.pins(ctx, now, doc, vs)
	if err != nil {
		return out, err
	}
	f, err := pinned(s.Store.Read(ctx), bom.Frozen{Variants: file.variants, Lines: own}, doc.Held)
	if err != nil {
		return out, err
	}
	_, hash, err := document.Canonical(reviewed{FileHash: doc.FileHash, Variants: f.Variants, Lines: f.Lines})
	if err != nil {
		return out, err
	}
	out.Version, out.Facts.Content = now.Version, hash.String()
	for _, l := range seen.Lines {
		for _, x := range l.Findings {
			if x.Field == "" {
				x.Field = fmt.Sprintf("%s (row %d)", strings.Join(l.Designators, ", "), l.Row)
			}
			out.Facts.Findings = append(out.Facts.Findings, x)
		}
	}
	for _, x := range append(bom.Hindrances(vs), subs.Hindrances(vs)...) {
		out.Facts.Open = append(out.Facts.Open, x.Says)
	}
	if now.Revision > 0 {
		was, _, err := s.revision(ctx, now, now.Revision)
		if err != nil {
			return out, err
		}
		out.Major = bom.Compare(bom.OwnLines(was.Lines), f.Lines).Major()
		built, err := s.builds(ctx, now.ID, now.Revision)
		if err != nil {
			return out, err
		}
		for _, b := range built {
			out.Facts.Boards += b.Boards
		}
	}
	out.Items, err = bom.ReviewItems(f.Lines)
	return out, err
}

// mayChange refuses what changes a BOM's lines in a state in which they stand as they are.
func (s *BOMs) mayChange(t *store.Tx, c deed.Call, h store.Head) error {
	return s.policy.MayChange(t.Reader, h, c.Actor.ID)
}

// sameLines says whether two BOMs have the same file and decisions: what one writes beside them is no change of its content.
func (d bomDoc) sameLines(o bomDoc) (bool, error) {
	lines := func(d bomDoc) (document.Hash, error) {
		d.Name, d.Build, d.Yearly, d.Due, d.Variant, d.Buying = "", 0, 0, "", "", buying.Rules{}
		_, hash, err := document.Canonical(d)
		return hash, err
	}
	a, err := lines(d)
	if err != nil {
		return false, err
	}
	b, err := lines(o)
	return a == b, err
}

// label is how a revision of a BOM is called.
func label(v store.Revision) string { return lifecycle.Label(v.Number, v.Label) }
