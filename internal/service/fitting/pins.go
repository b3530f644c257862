package fitting

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/document"
	"jollydrawer/core/finding"
	"jollydrawer/core/model"
	"jollydrawer/core/names"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

func refOf(m *part.Model) *wire.ModelRef {
	if m == nil {
		return nil
	}
	return &wire.ModelRef{ID: m.ID, Name: m.Name, Revision: m.Revision}
}

// PinsOnPads shows what lies between a part's symbol, its land pattern and its body.
func (s *Fitting) PinsOnPads(ctx context.Context, c deed.Call, key string) (wire.PinsOnPads, error) {
	out := wire.PinsOnPads{Rows: []wire.PinRow{}, Free: []string{}, Bare: []string{}, Findings: []finding.Finding{}, Fit: model.Sitting{Findings: []finding.Finding{}, Placings: []model.Placing{}}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	h, p, err := s.parts.Newest(ctx, key)
	if err != nil {
		return out, err
	}
	out.Part, out.Version = h.Number, h.Version
	out.Symbol, out.Land, out.Map = refOf(p.Symbol), refOf(p.LandPattern), refOf(p.PinMap)
	f, err := s.models.FitOf(s.Store.Read(ctx), p)
	if err != nil {
		return out, err
	}
	lists := s.models.AttachedPins(s.Store.Read(ctx), p)
	if f.Symbol != nil && f.Symbol.Symbol != nil {
		m := f.PinMap()
		land := &model.LandPattern{}
		if f.Land != nil && f.Land.Land != nil {
			land = f.Land.Land
			out.Findings = append(append(out.Findings, model.CheckPins(f.Symbol.Symbol, land, m)...), s.models.MapMoved(s.Store.Read(ctx), p)...)
		}
		if m == nil {
			m = model.SameNumbers(f.Symbol.Symbol, land)
		}
		var list []model.ListedPin // the one that differs most is the one to look at
		most := -1
		for _, l := range lists {
			if pins, n := l.Beside(f.Symbol.Symbol); n > most {
				list, most = pins, n
			}
		}
		out.Rows, out.Free, out.Bare = pinRows(f.Symbol.Symbol, land, m, list)
	}
	if f.Body != nil && f.Body.Body != nil && f.Land != nil && f.Land.Land != nil {
		out.Fit = model.Fit(f.Body.Body, f.Body.Name, f.Land.Land)
	}
	return out, nil
}

func pinRows(sym *model.Symbol, land *model.LandPattern, m *model.PinMap, list []model.ListedPin) (rows []wire.PinRow, free, bare []string) {
	pads, taken := map[string][]string{}, map[string]bool{}
	for _, x := range m.Pairs {
		pads[x.Pin] = x.Pads
		for _, d := range x.Pads {
			taken[d] = true
		}
	}
	differ := map[string]model.PinDifference{}
	if len(list) > 0 {
		for _, d := range model.ComparePins(sym, list) {
			differ[d.Number] = d
		}
	}
	rows = []wire.PinRow{}
	seen := map[string]bool{}
	byNumber := map[string]model.Pin{}
	for _, pin := range sym.Pins {
		byNumber[pin.Number] = pin
	}
	for _, n := range sym.Numbers() {
		if seen[n] {
			continue
		}
		seen[n] = true
		d := differ[n]
		rows = append(rows, wire.PinRow{Pin: n, Name: byNumber[n].Name, Type: byNumber[n].Type, Pads: append([]string{}, pads[n]...), NoPad: slices.Contains(m.NoPad, n), Listed: d.Listed, What: d.What})
	}
	free, bare = append([]string{}, m.Free...), []string{}
	for _, n := range land.Numbers() {
		if !taken[n] && !slices.Contains(m.Free, n) {
			bare = append(bare, n)
		}
	}
	return rows, free, bare
}

// MapPins gives a part a pin map. One that equals a map the library has is reused.
func (s *Fitting) MapPins(ctx context.Context, c deed.Call, key string, version int, in wire.MapPins) (wire.PinsOnPads, error) {
	op := deed.OpPartEdit
	if in.Note != "" {
		op = deed.OpModelRelease
	}
	h, p, ch, err := s.parts.ForChange(ctx, c, op, key)
	if err != nil {
		return wire.PinsOnPads{}, err
	}
	if !in.Same && (p.Symbol == nil || p.LandPattern == nil) {
		return wire.PinsOnPads{}, deed.Fault(deed.Invalid, "no-models", h.Number+" lacks a symbol or a land pattern; a pin map lies between the two.", "Link both first.")
	}
	shelf, err := s.models.Library(ctx)
	if err != nil {
		return wire.PinsOnPads{}, err
	}
	_, err = deed.Do(ctx, s.Desk, c, op, "pin map", []any{h.ID, version, in}, func(t *store.Tx) (int, error) {
		var link *part.Model
		if !in.Same {
			if link, err = s.pinMapFor(t, c.Actor, shelf, p, in); err != nil {
				return 0, err
			}
		}
		_, err := s.parts.Alter(t, h.ID, version, ch.Revision, "pin map changed", nil, func(p *part.Content) bool {
			if p.PinMap = link; p.LandPattern != nil {
				p.MapLand = p.LandPattern.ID
			}
			return true
		})
		return 0, err
	})
	if err != nil {
		return wire.PinsOnPads{}, s.parts.Conflict(ctx, err, h.ID)
	}
	return s.PinsOnPads(ctx, c, h.ID.String())
}

// pinMapFor finds or makes the pin map that an edit asks for.
func (s *Fitting) pinMapFor(t *store.Tx, by deed.Actor, shelf []*models.Entry, p part.Content, in wire.MapPins) (*part.Model, error) {
	m := model.Content{Kind: model.KindPinMap, Name: strings.TrimSpace(in.Name), PinMap: &in.Map}
	m.PinMap.Sorted()
	if err := m.PinMap.Check(); err != nil {
		return nil, deed.Fault(deed.Invalid, "map-wrong", fmt.Sprintf("Nothing was saved: %v.", err), "")
	}
	if m.Name == "" {
		m.Name = models.ClipName(p.Symbol.Name + " on " + p.LandPattern.Name)
	}
	_, want, err := document.Canonical(m.PinMap)
	if err != nil {
		return nil, err
	}
	var taken names.Taken
	for _, have := range shelf {
		if have.PinMap == nil {
			continue
		}
		taken.Add(have.Name)
		if _, got, err := document.Canonical(have.PinMap); err == nil && got == want && have.Head.Revision > 0 && have.Head.Draft.IsZero() {
			return &part.Model{ID: have.Head.ID.String(), Name: have.Name, Revision: have.Head.Revision}, nil
		}
	}
	m.Name = taken.Free(m.Name, names.Bracketed)
	h, err := s.models.Insert(t, by, &m, in.Note, nil)
	return &part.Model{ID: h.ID.String(), Name: m.Name, Revision: h.Revision}, err
}

// PlaceBody corrects how a part's body sits: a new draft of the body, or of the land pattern where it holds only there;
// the part takes the new revision where it is released.
func (s *Fitting) PlaceBody(ctx context.Context, c deed.Call, key string, version int, in wire.PlaceBody) (wire.PinsOnPads, error) {
	op := deed.OpModelEdit
	if in.Note != "" {
		op = deed.OpModelRelease
	}
	h, p, ch, err := s.parts.ForChange(ctx, c, op, key)
	if err != nil {
		return wire.PinsOnPads{}, err
	}
	if p.Body == nil || p.LandPattern == nil && in.OnlyHere {
		return wire.PinsOnPads{}, deed.Fault(deed.Invalid, "no-models", h.Number+" lacks the body or the land pattern to be corrected.", "Link it first.")
	}
	link := p.Body
	if in.OnlyHere {
		link = p.LandPattern
	}
	id, err := store.ParseID(link.ID)
	if err != nil {
		return wire.PinsOnPads{}, err
	}
	mh, m, err := s.models.Newest(s.Store.Read(ctx), id)
	if err != nil {
		return wire.PinsOnPads{}, deed.Sentence(err, "model")
	}
	if err := models.Placed(&m, p.Body.Name, in); err != nil {
		return wire.PinsOnPads{}, err
	}
	_, err = deed.Do(ctx, s.Desk, c, op, "body", []any{h.ID, version, in}, func(t *store.Tx) (int, error) {
		mh, err := t.HeadAt(store.KindModel, mh.ID, mh.Version)
		if err != nil {
			return 0, err
		}
		if err := s.models.Redraw(t, c.Actor, &mh, &m, in.Note, "body placed", map[string]any{"place": in.Place, "for": h.Number}); err != nil {
			return 0, err
		}
		_, err = s.parts.Alter(t, h.ID, version, ch.Revision, "body placed", nil, func(p *part.Content) bool {
			to := &part.Model{ID: link.ID, Name: link.Name, StandIn: link.StandIn}
			if in.Note != "" {
				to.Revision = mh.Revision
			}
			if in.OnlyHere {
				p.LandPattern = to
			} else {
				p.Body = to
			}
			return true
		})
		return 0, err
	})
	if err != nil {
		return wire.PinsOnPads{}, s.parts.Conflict(ctx, err, h.ID)
	}
	return s.PinsOnPads(ctx, c, h.ID.String())
}

// Board draws a part's land pattern with its body on it: as it sits, or as one of the proposed placings has it, counted from 1.
func (s *Fitting) Board(ctx context.Context, c deed.Call, key string, night bool, placing int, marked []string) ([]byte, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return nil, err
	}
	_, p, err := s.parts.Newest(ctx, key)
	if err != nil {
		return nil, err
	}
	f, err := s.models.FitOf(s.Store.Read(ctx), p)
	if err != nil {
		return nil, err
	}
	if f.Land == nil || f.Land.Land == nil {
		return nil, deed.Fault(deed.Unknown, "no-drawing", "The part has no land pattern with a drawing.", "Link one.")
	}
	o := model.Preview{Ink: models.Ink(night), Marked: marked}
	if f.Body != nil && f.Body.Body != nil {
		place := f.Body.Body.PlaceOn(f.Land.Land, f.Body.Name)
		if ways := model.Fit(f.Body.Body, f.Body.Name, f.Land.Land).Placings; placing > 0 && placing <= len(ways) {
			place = ways[placing-1].Place
		}
		seen := f.Body.Body.Seen(place)
		o.Body = &seen
	}
	return f.Land.SVG(o), nil
}
