package service

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/core/finding"
	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/drop"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// fitted are the drawings that a part's models come to.
type fitted struct{ symbol, land, body, pins *drawn }

// fitOf loads the drawings of a part. A model that is no more is left out: the part's own checks say that it is missing.
func (s *Service) fitOf(ctx context.Context, p part.Content) (f fitted, err error) {
	for _, at := range []struct {
		m    *part.Model
		into **drawn
	}{{p.Symbol, &f.symbol}, {p.LandPattern, &f.land}, {p.Body, &f.body}, {p.PinMap, &f.pins}} {
		if at.m == nil {
			continue
		}
		d, err := s.modelRevision(ctx, at.m.ID, at.m.Revision)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return f, err
		}
		if err == nil {
			*at.into = d
		}
	}
	return f, nil
}

func (f fitted) pinMap() *model.PinMap {
	if f.pins == nil {
		return nil
	}
	return f.pins.PinMap
}

// fitFindings says what is wrong between the models of a part: pins and pads, the body on its pads, the pitch, a block
// that stands in.
func (s *Service) fitFindings(ctx context.Context, t *cabinet.Template, p part.Content) ([]finding.Finding, error) {
	if p.Symbol == nil && p.LandPattern == nil && p.Body == nil {
		return nil, nil
	}
	f, err := s.fitOf(ctx, p)
	if err != nil {
		return nil, err
	}
	var out []finding.Finding
	if f.symbol != nil && f.land != nil && f.symbol.Symbol != nil && f.land.Land != nil {
		out = append(out, model.CheckPins(f.symbol.Symbol, f.land.Land, f.pinMap())...)
	}
	if f.body != nil && f.body.Body != nil {
		if f.land != nil && f.land.Land != nil {
			for _, c := range model.Fit(f.body.Body, f.body.Name, f.land.Land) {
				out = append(out, c.Finding)
			}
		}
	}
	if f.land != nil && f.land.Land != nil {
		if pitch := pitchOf(t, p); pitch > 0 {
			for _, x := range model.Check(&f.land.Content, model.House{}, pitch) {
				if x.Cause == "pitch" {
					x.Field = "land pattern"
					out = append(out, x)
				}
			}
		}
	}
	if f.symbol != nil && f.symbol.Symbol != nil {
		for _, l := range s.attachedPins(ctx, p) {
			if n := differing(f.symbol.Symbol, l.pins); n > 0 {
				out = append(out, finding.Finding{Severity: finding.Warning, Cause: "pins-differ", Field: "symbol", Text: l.name, What: fmt.Sprintf("the symbol and the attached list %s differ in %s", l.name, count(n, "line", "lines")), Mend: "compare them line by line, and correct one of them"})
			}
		}
	}
	return out, nil
}

// pitchOf reads the drawer's parameter of that name from a part.
func pitchOf(t *cabinet.Template, p part.Content) model.Length {
	for _, key := range []string{"pitch", "pin-pitch", "lead-pitch"} {
		if slot, ok := t.Slot(key); ok {
			if v := p.Values[key]; !v.IsBlank() {
				if l, err := model.ParseLength(slot.Shown(v)); err == nil {
					return l
				}
			}
		}
	}
	return 0
}

// pinList is a list of pins of another origin than the symbol.
type pinList struct {
	name string
	pins []model.ListedPin
}

// attachedPins returns the pin lists that are attached to a part. A file that is no list any more is passed over: its delivery
// said why.
func (s *Service) attachedPins(ctx context.Context, p part.Content) (out []pinList) {
	for _, a := range p.Attachments {
		if a.Is != drop.PinList && a.Is != drop.Signals {
			continue
		}
		all, err := s.readFile(ctx, a.File.Hash, a.File.Name)
		if err != nil {
			continue
		}
		for _, f := range all {
			if len(f.Pins) > 0 {
				out = append(out, pinList{a.File.Name, f.Pins})
				break
			}
		}
	}
	return out
}

func differing(sym *model.Symbol, list []model.ListedPin) (n int) {
	for _, d := range model.ComparePins(sym, list) {
		if d.What != "" {
			n++
		}
	}
	return n
}

// newestPart loads a part with its newest content.
func (s *Service) newestPart(ctx context.Context, key string) (store.Head, part.Content, error) {
	h, err := s.findPart(ctx, key)
	if err != nil {
		return h, part.Content{}, sentence(err, "part")
	}
	c, err := s.Store.Content(ctx, draftOf(h))
	if err != nil {
		return h, part.Content{}, err
	}
	p, _, err := decodePart(c)
	return h, p, err
}

func refOf(m *part.Model) *wire.ModelRef {
	if m == nil {
		return nil
	}
	return &wire.ModelRef{ID: m.ID, Name: m.Name, Revision: m.Revision}
}

// PinsOnPads shows what lies between a part's symbol, its land pattern and its body.
func (s *Service) PinsOnPads(ctx context.Context, c Call, key string) (wire.PinsOnPads, error) {
	out := wire.PinsOnPads{Rows: []wire.PinRow{}, Free: []string{}, Bare: []string{}, Findings: []finding.Finding{}, Fit: []wire.Correction{}}
	if err := allow(c, OpRead); err != nil {
		return out, err
	}
	h, p, err := s.newestPart(ctx, key)
	if err != nil {
		return out, err
	}
	out.Part, out.Version = h.Number, h.Version
	out.Symbol, out.Land, out.Map = refOf(p.Symbol), refOf(p.LandPattern), refOf(p.PinMap)
	f, err := s.fitOf(ctx, p)
	if err != nil {
		return out, err
	}
	lists := s.attachedPins(ctx, p)
	if f.symbol != nil && f.symbol.Symbol != nil {
		m := f.pinMap()
		land := &model.LandPattern{}
		if f.land != nil && f.land.Land != nil {
			land = f.land.Land
			out.Findings = append(out.Findings, model.CheckPins(f.symbol.Symbol, land, m)...)
		}
		if m == nil {
			m = model.SameNumbers(f.symbol.Symbol, land)
		}
		var list []model.ListedPin // the one that differs most is the one to look at
		for i, l := range lists {
			if i == 0 || differing(f.symbol.Symbol, l.pins) > differing(f.symbol.Symbol, list) {
				list = l.pins
			}
		}
		out.Rows, out.Free, out.Bare = pinRows(f.symbol.Symbol, land, m, list)
	}
	if f.body != nil && f.body.Body != nil && f.land != nil && f.land.Land != nil {
		for _, x := range model.Fit(f.body.Body, f.body.Name, f.land.Land) {
			out.Fit = append(out.Fit, wire.Correction{Finding: x.Finding, Place: x.Place})
		}
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

// alterPart changes the models of a part's newest content in a write, as a new draft. It does nothing where change
// returns false.
func (s *Service) alterPart(t *store.Tx, id store.ID, version, template int, action string, detail map[string]any, change func(*part.Content) bool) (changed bool, err error) {
	h, err := t.Head(store.KindPart, id)
	if err == nil && version > 0 && h.Version != version {
		err = store.ErrConflict
	}
	if err == nil {
		err = notMerged(h)
	}
	if err != nil {
		return false, err
	}
	was, err := t.Content(draftOf(h))
	if err != nil {
		return false, err
	}
	p, o, err := decodePart(was)
	if err != nil || !change(&p) {
		return false, err
	}
	if where := p.TooLong(); where != "" || len(p.Attachments) > 50 || len(p.OtherLands) > 20 || len(p.Datasheets) > 50 {
		return false, fault(Invalid, "part-full", fmt.Sprintf("%s has too many files or land patterns; nothing was changed.", h.Number), "Remove some first.")
	}
	now, err := savePart(t, &h, p, o, template, true)
	if err != nil {
		return false, err
	}
	changes, err := document.Diff(was.Bytes, now.Bytes)
	if err != nil {
		return false, err
	}
	if detail == nil {
		detail = map[string]any{}
	}
	detail["changes"] = trailChanges(changes)
	return true, t.Update(&h, action, detail)
}

// partForChange loads what a change of a part's models begins with: the part's newest content and the cabinet's head.
func (s *Service) partForChange(ctx context.Context, c Call, op Op, key string) (h store.Head, p part.Content, cabinet store.Head, err error) {
	if err = allow(c, op); err != nil {
		return h, p, cabinet, err
	}
	if h, p, err = s.newestPart(ctx, key); err == nil {
		_, cabinet, err = s.currentCabinet(ctx)
	}
	return h, p, cabinet, err
}

// MapPins gives a part a pin map. One that equals a map the library has is reused.
func (s *Service) MapPins(ctx context.Context, c Call, key string, version int, in wire.MapPins) (wire.PinsOnPads, error) {
	op := OpPartEdit
	if in.Note != "" {
		op = OpModelRelease
	}
	h, p, ch, err := s.partForChange(ctx, c, op, key)
	if err != nil {
		return wire.PinsOnPads{}, err
	}
	if !in.Same && (p.Symbol == nil || p.LandPattern == nil) {
		return wire.PinsOnPads{}, fault(Invalid, "no-models", h.Number+" lacks a symbol or a land pattern; a pin map lies between the two.", "Link both first.")
	}
	shelf, err := s.modelShelf(ctx)
	if err != nil {
		return wire.PinsOnPads{}, err
	}
	_, err = deed(ctx, s, c, op, "pin map", []any{h.ID, version, in}, func(t *store.Tx) (int, error) {
		var link *part.Model
		if !in.Same {
			if link, err = s.pinMapFor(t, shelf, p, in); err != nil {
				return 0, err
			}
		}
		_, err := s.alterPart(t, h.ID, version, ch.Revision, "pin map changed", nil, func(p *part.Content) bool {
			p.PinMap = link
			return true
		})
		return 0, err
	})
	if err != nil {
		return wire.PinsOnPads{}, s.conflict(ctx, err, h.ID)
	}
	return s.PinsOnPads(ctx, c, h.ID.String())
}

// pinMapFor finds or makes the pin map that an edit asks for.
func (s *Service) pinMapFor(t *store.Tx, shelf []*shelved, p part.Content, in wire.MapPins) (*part.Model, error) {
	m := model.Content{Kind: model.KindPinMap, Name: strings.TrimSpace(in.Name), PinMap: &in.Map}
	m.PinMap.Sorted()
	if err := m.PinMap.Check(); err != nil {
		return nil, fault(Invalid, "map-wrong", fmt.Sprintf("Nothing was saved: %v.", err), "")
	}
	if m.Name == "" {
		m.Name = clipName(p.Symbol.Name + " on " + p.LandPattern.Name)
	}
	_, want, err := document.Canonical(m.PinMap)
	if err != nil {
		return nil, err
	}
	taken := map[string]bool{}
	for _, have := range shelf {
		if have.PinMap == nil {
			continue
		}
		taken[strings.ToLower(have.Name)] = true
		if _, got, err := document.Canonical(have.PinMap); err == nil && got == want && have.head.Revision > 0 && have.head.Draft.IsZero() {
			return &part.Model{ID: have.head.ID.String(), Name: have.Name, Revision: have.head.Revision}, nil
		}
	}
	m.Name = freeName(m.Name, taken)
	h, err := insertModel(t, &m, in.Note, nil)
	return &part.Model{ID: h.ID.String(), Name: m.Name, Revision: h.Revision}, err
}

// freeName adds a count to a name that is taken.
func freeName(name string, taken map[string]bool) string {
	out := name
	for n := 2; taken[strings.ToLower(out)]; n++ {
		out = fmt.Sprintf("%s (%d)", name, n)
	}
	return out
}

// clipName shortens a name to what a model may have.
func clipName(s string) string {
	if len(s) > 90 {
		return strings.TrimSpace(strings.ToValidUTF8(s[:90], ""))
	}
	return s
}

// PlaceBody corrects how a part's body sits: a new draft of the body, or of the land pattern where it holds only there;
// the part takes the new revision where it is released.
func (s *Service) PlaceBody(ctx context.Context, c Call, key string, version int, in wire.PlaceBody) (wire.PinsOnPads, error) {
	op := OpModelEdit
	if in.Note != "" {
		op = OpModelRelease
	}
	h, p, ch, err := s.partForChange(ctx, c, op, key)
	if err != nil {
		return wire.PinsOnPads{}, err
	}
	if p.Body == nil || p.LandPattern == nil && in.OnlyHere {
		return wire.PinsOnPads{}, fault(Invalid, "no-models", h.Number+" lacks the body or the land pattern to be corrected.", "Link it first.")
	}
	link := p.Body
	if in.OnlyHere {
		link = p.LandPattern
	}
	id, err := store.ParseID(link.ID)
	if err != nil {
		return wire.PinsOnPads{}, err
	}
	mh, m, err := s.loadModel(ctx, id)
	if err != nil {
		return wire.PinsOnPads{}, sentence(err, "model")
	}
	if err := placed(&m, p.Body.Name, in); err != nil {
		return wire.PinsOnPads{}, err
	}
	_, err = deed(ctx, s, c, op, "body", []any{h.ID, version, in}, func(t *store.Tx) (int, error) {
		mh, err := t.HeadAt(store.KindModel, mh.ID, mh.Version)
		if err != nil {
			return 0, err
		}
		if err := redraw(t, &mh, &m, in.Note, "body placed", map[string]any{"place": in.Place, "for": h.Number}); err != nil {
			return 0, err
		}
		_, err = s.alterPart(t, h.ID, version, ch.Revision, "body placed", nil, func(p *part.Content) bool {
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
		return wire.PinsOnPads{}, s.conflict(ctx, err, h.ID)
	}
	return s.PinsOnPads(ctx, c, h.ID.String())
}

// placed writes a place into a body's or a land pattern's content, without touching what is shared.
func placed(m *model.Content, body string, in wire.PlaceBody) error {
	if err := in.Place.Check(); err != nil {
		return fault(Invalid, "place-wrong", fmt.Sprintf("Nothing was saved: %v.", err), "")
	}
	if m.Body != nil {
		b := *m.Body
		b.Place = in.Place
		m.Body = &b
		return nil
	}
	if m.Land == nil {
		return fault(Invalid, "no-drawing", m.Name+" has no drawing that the body could be placed in.", "Bring in its file again.")
	}
	l := *m.Land
	l.Bodies = slices.Clone(l.Bodies)
	l.Bodies = append(slices.DeleteFunc(l.Bodies, func(b model.BodyPlace) bool { return b.Body == body }), model.BodyPlace{Body: body, Place: in.Place})
	m.Land = &l
	return nil
}

// Board draws a part's land pattern with its body on it; corrected shows it as the proposed correction would have it.
func (s *Service) Board(ctx context.Context, c Call, key string, night, corrected bool, marked []string) ([]byte, error) {
	if err := allow(c, OpRead); err != nil {
		return nil, err
	}
	_, p, err := s.newestPart(ctx, key)
	if err != nil {
		return nil, err
	}
	f, err := s.fitOf(ctx, p)
	if err != nil {
		return nil, err
	}
	if f.land == nil || f.land.Land == nil {
		return nil, fault(Unknown, "no-drawing", "The part has no land pattern with a drawing.", "Link one.")
	}
	o := model.Preview{Ink: ink(night), Marked: marked}
	if f.body != nil && f.body.Body != nil {
		place := f.body.Body.PlaceOn(f.land.Land, f.body.Name)
		if found := model.Fit(f.body.Body, f.body.Name, f.land.Land); corrected && len(found) > 0 {
			place = found[len(found)-1].Place
		}
		b := f.body.Body.Box.Placed(place)
		o.Body = &b
	}
	return f.land.SVG(o), nil
}
