package readout

import (
	"context"

	"jollydrawer/core/readout"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// Status says which tables design tools find, under which names, and what is in them.
func (s *Readout) Status(ctx context.Context, c deed.Call) (out wire.Readout, err error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	out = wire.Readout{On: s.Keeper != nil, Account: s.Reader, Drawers: []wire.ReadoutDrawer{}, Fixed: []wire.ReadoutColumn{}}
	for _, f := range readout.Fixed {
		out.Fixed = append(out.Fixed, wire.ReadoutColumn{Name: f.Name, Says: f.Says})
	}
	if s.Keeper != nil {
		out.Schema = s.Keeper.Views
	}
	s.mu.Lock()
	out.Problem = s.problem
	s.mu.Unlock()
	cab := s.Cabinets.Current(ctx)
	if cab == nil {
		return out, nil
	}
	kept, err := s.Store.Read(ctx).ReadoutTables()
	if err != nil {
		return out, err
	}
	shown := map[string]bool{}
	for _, t := range kept {
		shown[t.Drawer+"\n"+t.Hash] = t.Shown != ""
	}
	for _, t := range cab.Templates() {
		if !t.Leaf {
			continue
		}
		shape := readout.ShapeOf(t)
		d := wire.ReadoutDrawer{Drawer: t.Key, Label: t.Label, View: readout.Plain(readout.SQLName(t.Key)), Ready: s.Keeper != nil && shown[t.Key+"\n"+shape.Hash()], Notes: shape.Notes(), Columns: []wire.ReadoutColumn{}}
		for _, col := range shape.Columns {
			p, _ := t.Slot(col.Parameter)
			says := p.Label
			if col.Type == readout.Double {
				says += ", as a number"
				if col.Unit != "" {
					says += " in " + col.Unit
				}
			}
			d.Columns = append(d.Columns, wire.ReadoutColumn{Name: col.Name, Type: string(col.Type), Says: says, Parameter: col.Parameter, Indexed: col.Indexed})
		}
		out.Drawers = append(out.Drawers, d)
	}
	return out, nil
}
