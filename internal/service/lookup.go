package service

import (
	"context"

	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/wire"
)

// Search asks the lookup index.
func (s *Service) Search(_ context.Context, c Call, q lookup.Query) (wire.PartList, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.PartList{}, err
	}
	q.Offset, q.Limit = page(q.Offset, q.Limit)
	for _, st := range q.Standing {
		if _, err := lifecycle.ParseStanding(st); err != nil {
			return wire.PartList{}, fault(Invalid, "standing-wrong", err.Error()+".", "")
		}
	}
	a := s.Index.Search(q)
	out := wire.PartList{Page: wire.Page{Offset: q.Offset, Limit: q.Limit, Total: a.Total}, Hidden: a.Hidden, Facts: []wire.Fact{}, Drawers: a.Drawers,
		Status: map[string]int{}, Standing: map[string]int{}, Items: []wire.PartRow{}}
	for _, f := range a.Facts {
		out.Facts = append(out.Facts, wire.Fact(f))
	}
	for k, n := range a.Status {
		out.Status[string(k)] = n
	}
	for k, n := range a.Stand {
		out.Standing[string(k)] = n
	}
	for _, e := range a.Entries {
		row := wire.PartRow{ID: e.ID, Number: e.Number, Version: e.Version, Drawer: e.Drawer, Description: e.Description, Sources: len(e.Sources),
			Status: string(e.Status), Standing: string(e.Standing), Revision: e.Revision, HasDraft: e.HasDraft, Missing: append([]string{}, e.Missing...), Values: map[string]string{}}
		if len(e.Sources) > 0 {
			row.Manufacturer, row.MPN = e.Sources[0].Manufacturer, e.Sources[0].MPN
		}
		for k, v := range e.Values() {
			row.Values[k] = v.String()
		}
		out.Items = append(out.Items, row)
	}
	return out, nil
}
