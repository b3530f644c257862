package deed

import (
	"context"
	"strings"

	"jollydrawer/core/document"
	"jollydrawer/core/trail"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// TrailOf lists the trail of a head, newest first.
func (s *Desk) TrailOf(ctx context.Context, h store.Head, offset, limit int) (wire.TrailList, error) {
	offset, limit = Page(offset, limit)
	es, err := s.Store.Read(ctx).Trail(h.ID, offset, limit)
	out := wire.TrailList{Items: []wire.TrailEntry{}}
	for _, e := range es {
		by := s.Person(ctx, e.Account)
		out.Items = append(out.Items, wire.TrailEntry{Seq: e.Seq, At: e.At, By: by, Action: e.Action, Detail: e.Detail, Deed: e.Deed.String(), Says: trail.Says(by, h.Kind, h.Number, e.Action, e.Detail), Changes: trail.Changes(e.Detail)})
	}
	return out, err
}

// TrailChanges keeps what a trail entry can hold; the contents themselves are kept whole.
func TrailChanges(all []document.Change) []document.Change {
	all = all[:min(len(all), 100)]
	for i := range all {
		for _, s := range []*string{&all[i].Old, &all[i].New} {
			if len(*s) > 150 {
				*s = strings.ToValidUTF8((*s)[:150], "") + "…"
			}
		}
	}
	return all
}
