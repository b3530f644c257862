package models

import (
	"context"

	"jollydrawer/core/model"
	"jollydrawer/formats/drop"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

var unitWords = map[string]model.Length{"mm": model.MM, "mil": model.Mil, "inch": model.Inch, "µm": model.MM / 1000}

// TryLand makes land patterns for looking at them; nothing is kept.
func (s *Models) TryLand(ctx context.Context, c deed.Call, in wire.LandTry) (wire.LandTried, error) {
	out := wire.LandTried{Made: []wire.LandMade{}}
	if err := deed.Allow(c, deed.OpModelEdit); err != nil {
		return out, err
	}
	house, _, err := s.houseRules(s.Store.Read(ctx), store.ID{})
	if err != nil {
		return out, err
	}
	if in.Figures != nil && in.Figures.Name == "" {
		f := *in.Figures
		f.Name, in.Figures = house.LandName, &f
	}
	made, err := s.landsOf(ctx, in)
	if err != nil {
		return out, err
	}
	for _, m := range made {
		content := &Drawing{Content: model.Content{Kind: model.KindLand, Name: m.Name, Land: m.Land}}
		content.Normalise()
		out.Made = append(out.Made, wire.LandMade{Made: m, Findings: Findings(content, store.ID{}, house, nil), SVG: string(content.SVG(model.Preview{Ink: Ink(in.Theme == "night")}))})
	}
	return out, nil
}

func (s *Models) landsOf(ctx context.Context, in wire.LandTry) (made []model.Made, err error) {
	if in.Figures == nil {
		m, err := s.landOfTable(ctx, in)
		return []model.Made{m}, err
	}
	densities := in.Densities
	if len(densities) == 0 {
		densities = []string{"nominal"}
	}
	for _, d := range densities {
		m, err := model.MakeLand(*in.Figures, d)
		if err != nil {
			return nil, deed.Fault(deed.Invalid, "land-wrong", "The land pattern cannot be made: "+err.Error()+".", "Correct the figures.")
		}
		made = append(made, m)
	}
	return made, nil
}

func (s *Models) landOfTable(ctx context.Context, in wire.LandTry) (model.Made, error) {
	const needs = "A table of pads needs headings for number, x, y and width; height, shape, turn, hole, slot, corner, plated and side help."
	out := model.Made{Name: in.Name, Workings: []model.Working{}}
	raw := []byte(in.Text)
	if in.File != "" {
		all, err := s.files.Members(s.Store.Read(ctx), in.File, "table of pads")
		if err != nil || len(all) != 1 {
			return out, deed.Fault(deed.Invalid, "pads-unreadable", "The file is no single table of pads.", needs)
		}
		raw = all[0].Raw
	}
	t, err := drop.PinTable(raw, drop.DefaultLimits)
	if err == nil {
		out.Land, err = model.ReadPads(t, unitWords[in.Unit])
	}
	if err != nil {
		return out, deed.Fault(deed.Invalid, "pads-unreadable", "The table of pads was not read: "+deed.SentenceOf(err), needs)
	}
	return out, nil
}
