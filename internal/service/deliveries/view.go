package deliveries

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/finding"
	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// firstOf is the beginning of what is said of a file, with how much more there is.
func firstOf(all []string) []string {
	const most = 500
	out := append([]string{}, all[:min(len(all), most)]...)
	if n := len(all) - most; n > 0 {
		out = append(out, fmt.Sprintf("… and %d more", n))
	}
	return out
}

// maxShown is how many models of a delivery are shown one by one.
const maxShown = 1000

// Get shows a delivery: each file and what it became, each model beside what the library has.
func (s *Deliveries) Get(ctx context.Context, c deed.Call, key string) (wire.Delivery, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Delivery{}, err
	}
	d, err := s.openDelivery(ctx, key)
	if err != nil {
		return wire.Delivery{}, err
	}
	out := s.deliveryView(d)
	house, _, shelf, err := s.models.Checked(ctx)
	if err != nil {
		return out, err
	}
	byNumber, byID := map[string]*models.Entry{}, map[string]*models.Entry{}
	for _, m := range shelf {
		byNumber[strings.ToLower(m.Head.Number)], byID[m.Head.ID.String()] = m, m
	}
	houseName, err := s.houseNames(ctx, d.doc.Part)
	if err != nil {
		return out, err
	}
	var meant part.Content // the part that it is for
	if d.doc.Part != "" {
		if _, meant, err = s.parts.Newest(ctx, d.doc.Part); err != nil {
			return out, err
		}
	}
	var land *model.LandPattern
	for i, f := range d.members {
		out.Files = append(out.Files, wire.DeliveredFile{Path: f.Path, Hash: d.hash(&d.members[i]), Is: f.Is, What: f.What, Wrong: firstOf(f.Wrong), Said: firstOf(f.Said)})
		for _, l := range f.Lists {
			out.PinLists = append(out.PinLists, wire.DeliveredPins{Path: f.Path, Name: l.Name, Pins: l.Pins})
		}
		for _, m := range f.Models {
			if m.Land != nil && land == nil {
				land = m.Land
			}
		}
	}
	if land == nil && meant.LandPattern != nil { // what comes for a part that has its land pattern already is laid on that
		f, err := s.models.FitOf(s.Store.Read(ctx), meant)
		if err != nil {
			return out, err
		}
		if f.Land != nil {
			land = f.Land.Land
		}
	}
	var earlier model.Alike[string]
	for i, f := range d.members {
		for j, m := range f.Models {
			out.Count++
			if len(out.Models) >= maxShown {
				continue
			}
			key := fmt.Sprintf("%d.%d", i, j)
			m.FileHash = d.hash(&d.members[i])
			w := wire.DeliveredModel{Key: key, Path: f.Path, Kind: string(m.Kind), Name: m.Name, House: houseName(m.Kind), What: models.Describe(&m), Same: models.AlikeTo(shelf, &m, store.ID{}),
				Findings: models.Findings(&models.Drawing{Content: m}, store.ID{}, house, nil), Fit: model.Sitting{Findings: []finding.Finding{}, Placings: []model.Placing{}}}
			for _, f := range meant.NamesAnother(m.Name, fieldsOf(&m), func(mpn string) bool { return len(s.index.ByMPN(mpn)) > 0 }) {
				w.Findings = append(w.Findings, wire.ModelFinding{Finding: f})
			}
			if twin, ok := earlier.Find(&m); ok {
				w.Twin = twin
			} else {
				earlier.Add(&m, key)
			}
			if used := byID[d.doc.Used[key]]; used != nil {
				r := used.Ref()
				w.Used = &r
			}
			if have := byNumber[strings.ToLower(models.Number(m.Kind, m.Name))]; have != nil && !slices.ContainsFunc(w.Same, func(r wire.ModelRef) bool { return r.ID == have.Head.ID.String() }) {
				r := have.Ref()
				w.Named = &r
			}
			if m.Body != nil && land != nil {
				w.Fit = model.Fit(m.Body, m.Name, land)
			}
			out.Models = append(out.Models, w)
		}
	}
	askNames(out.Models)
	return out, nil
}

// fieldsOf are the fields that stand on a drawing.
func fieldsOf(m *model.Content) map[string]string {
	if m.Symbol == nil {
		return nil
	}
	return m.Symbol.Properties
}

// askNames takes the house's name from several models of a kind that would all have it, and asks for them.
func askNames(all []wire.DeliveredModel) {
	claim := map[string]int{}
	for _, m := range all {
		if m.House != "" && m.Twin == "" {
			claim[m.Kind+"\x00"+m.House]++
		}
	}
	for i := range all {
		m := &all[i]
		if n := claim[m.Kind+"\x00"+m.House]; n > 1 {
			m.Asked = fmt.Sprintf("The house would call %d %ss of this delivery %s: say which of them it is.", n, m.Kind, m.House)
			m.House = ""
		}
	}
}

// houseNames returns what the house calls models that arrive for a part: nothing where there is no part, or its drawer has no
// pattern.
func (s *Deliveries) houseNames(ctx context.Context, id string) (func(model.Kind) string, error) {
	none := func(model.Kind) string { return "" }
	if id == "" {
		return none, nil
	}
	_, p, err := s.parts.Newest(ctx, id)
	if err != nil {
		return none, err
	}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return none, err
	}
	t, ok := cab.Template(p.Drawer)
	if !ok {
		return none, nil
	}
	return func(kind model.Kind) string {
		maker, mpn := "", ""
		if len(p.Sources) > 0 {
			maker, mpn = p.Sources[0].Manufacturer, p.Sources[0].MPN
		}
		return models.ClipName(t.ModelName(string(kind), p.Values, maker, mpn))
	}, nil
}

func (s *Deliveries) deliveryView(d delivered) wire.Delivery {
	out := wire.Delivery{ID: d.head.ID.String(), Number: d.head.Number, Version: d.head.Version, Name: d.doc.Name, Updated: d.head.Updated, Files: []wire.DeliveredFile{}, Models: []wire.DeliveredModel{}, PinLists: []wire.DeliveredPins{}}
	if e, ok := s.index.ByID(d.doc.Part); ok {
		out.Part = e.Number
	}
	return out
}

// List lists deliveries, newest first, without what is in them.
func (s *Deliveries) List(ctx context.Context, c deed.Call, offset, limit int) (wire.DeliveryList, error) {
	offset, limit = deed.Page(offset, limit)
	out := wire.DeliveryList{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.Delivery{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	heads, total, err := s.Store.Read(ctx).Heads(store.KindDelivery, offset, limit)
	if err != nil {
		return out, err
	}
	out.Page.Total = int(total)
	for _, h := range heads {
		content, err := s.Store.Read(ctx).Content(h.Draft)
		if err != nil {
			return out, err
		}
		d := delivered{head: h}
		if err := json.Unmarshal(content.Bytes, &d.doc); err != nil {
			return out, err
		}
		w := s.deliveryView(d)
		for p, hash := range d.doc.Kept {
			w.Files = append(w.Files, wire.DeliveredFile{Path: p, Hash: hash, Wrong: []string{}, Said: []string{}})
		}
		w.Count = len(d.doc.Used)
		out.Items = append(out.Items, w)
	}
	return out, nil
}
