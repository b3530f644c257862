package service

import (
	"context"
	"errors"
	"fmt"
	"reflect"

	"go.yaml.in/yaml/v3"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/document"
	"jollydrawer/core/measure"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// theCabinet is the name under which the one cabinet of an installation is kept.
const theCabinet = "cabinet"

// currentCabinet returns the cabinet in force and its head. Before the first one is applied it is an error that says so.
func (s *Service) currentCabinet(ctx context.Context) (*cabinet.Cabinet, store.Head, error) {
	h, err := s.Store.HeadByNumber(ctx, store.KindCabinet, theCabinet)
	if errors.Is(err, store.ErrNotFound) {
		return nil, h, fault(Invalid, "no-cabinet", "There is no cabinet yet.", "Apply one: jolly cabinet apply FILE.")
	}
	if err != nil {
		return nil, h, err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.cabinet.content == h.Released {
		return s.cabinet.cab, h, nil
	}
	c, err := s.Store.Content(ctx, h.Released)
	if err != nil {
		return nil, h, err
	}
	cab, err := cabinet.FromJSON(c.Bytes)
	if err != nil {
		return nil, h, fmt.Errorf("the stored cabinet: %w", err)
	}
	s.cabinet.content, s.cabinet.cab = h.Released, cab
	return cab, h, nil
}

// Cabinet returns the cabinet in force.
func (s *Service) Cabinet(ctx context.Context, c Call) (wire.Cabinet, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.Cabinet{}, err
	}
	cab, h, err := s.currentCabinet(ctx)
	var e *Error
	if errors.As(err, &e) && e.Type == "no-cabinet" {
		return wire.Cabinet{Document: cabinet.Document{Format: cabinet.Format, Parameters: []cabinet.Parameter{}, Drawers: []cabinet.Drawer{}}, Drawers: []wire.Drawer{}}, nil
	}
	if err != nil {
		return wire.Cabinet{}, err
	}
	out := wire.Cabinet{Revision: h.Revision, Version: h.Version, Document: cab.Document, Drawers: []wire.Drawer{}}
	counts := s.Index.CountByDrawer()
	for _, t := range cab.Templates() {
		d := wire.Drawer{Key: t.Key, Label: t.Label, Path: t.Path, Leaf: t.Leaf, Prefix: t.Prefix, Digits: t.Digits, Designator: t.Designator,
			Leading: t.Leading, Description: t.Description, Identity: append([]string{}, t.Identity...), Class: t.Class, Name: t.Name, Case: t.Case,
			Search: append([]string{}, t.Search...), Drawing: append([]string{}, t.Drawing...), Designer: append([]string{}, t.Designer...),
			Columns: append([]string{}, t.Columns...), Models: t.Models, Parts: counts[t.Key], Slots: []wire.Slot{}}
		for _, sl := range t.Slots {
			dim, _ := measure.ParseDimension(sl.Of)
			d.Slots = append(d.Slots, wire.Slot{Key: sl.Key, Label: sl.Label, Type: string(sl.Type), Of: sl.Of, Unit: dim.UCUM(), Required: sl.Required,
				ByHand: sl.ByHand, From: sl.From, Inherited: sl.From != t.Key, Choices: append([]string{}, sl.Choices...), Help: sl.Help,
				Default: sl.Default, Show: sl.Show, Better: sl.Better, Narrowed: sl.Narrowed, Synonyms: append([]string{}, sl.Synonyms...)})
		}
		out.Drawers = append(out.Drawers, d)
	}
	return out, nil
}

// CabinetNow returns the cabinet in force, or nil where there is none yet.
func (s *Service) CabinetNow(ctx context.Context) *cabinet.Cabinet {
	cab, _, err := s.currentCabinet(ctx)
	if err != nil {
		return nil
	}
	return cab
}

// CabinetID names the content of the cabinet in force; "" where there is none.
func (s *Service) CabinetID(ctx context.Context) string {
	_, h, err := s.currentCabinet(ctx)
	if err != nil {
		return ""
	}
	return h.Released.String()
}

// DrawerUse says how a drawer is used: how complete its parts are, and what names it.
func (s *Service) DrawerUse(ctx context.Context, c Call, key string) (wire.DrawerUse, error) {
	out := wire.DrawerUse{Key: key, Filled: []wire.SlotUse{}, Crosswalks: []string{}, Samples: []wire.PatternOf{}}
	if err := allow(c, OpRead); err != nil {
		return out, err
	}
	cab, _, err := s.currentCabinet(ctx)
	if err != nil {
		return out, err
	}
	t, ok := cab.Template(key)
	if !ok {
		return out, fault(Unknown, "not-found", fmt.Sprintf("There is no drawer %q.", key), "Look at the cabinet.")
	}
	var filled map[string]int
	out.Parts, out.Incomplete, filled = s.Index.Completeness(key)
	for _, sl := range t.Slots {
		out.Filled = append(out.Filled, wire.SlotUse{Key: sl.Key, Label: sl.Label, Required: sl.Required, Parts: filled[sl.Key]})
	}
	out.Samples = s.samples(t, wire.PatternTry{})
	hs, _, err := s.Store.Heads(ctx, store.KindCrosswalk, 0, 200)
	if err != nil {
		return out, err
	}
	for _, h := range hs {
		cw, _, err := s.currentCrosswalk(ctx, h.Number)
		if err != nil {
			return out, err
		}
		if cw.Sorts(cab, key) {
			out.Crosswalks = append(out.Crosswalks, h.Number)
		}
	}
	return out, nil
}

// TryPatterns shows what patterns would make of real parts of a drawer; the error of a wrong pattern names the place.
func (s *Service) TryPatterns(ctx context.Context, c Call, key string, in wire.PatternTry) ([]wire.PatternOf, error) {
	if err := allow(c, OpRead); err != nil {
		return nil, err
	}
	cab, _, err := s.currentCabinet(ctx)
	if err != nil {
		return nil, err
	}
	doc := cab.Document.Clone()
	hit := false
	for i := range doc.Drawers {
		if d := &doc.Drawers[i]; d.Key == key {
			hit = true
			if in.Description != "" {
				d.Description = in.Description
			}
			if in.Name != "" {
				d.Name = in.Name
			}
		}
	}
	if !hit {
		return nil, fault(Unknown, "not-found", fmt.Sprintf("There is no drawer %q.", key), "Look at the cabinet.")
	}
	tried, err := cabinet.New(doc)
	if err != nil {
		return nil, fault(Invalid, "pattern-wrong", "The pattern cannot be used: "+err.Error()+".", "Write {key} for a parameter, [ ] around what may vanish.")
	}
	t, _ := tried.Template(key)
	return s.samples(t, in), nil
}

// samples shows what a template's patterns make of a few real parts.
func (s *Service) samples(t *cabinet.Template, in wire.PatternTry) []wire.PatternOf {
	out := []wire.PatternOf{}
	s.Index.Each("", func(e *lookupEntry) bool {
		if e.Drawer != t.Key && !s.inside(e.Drawer, t.Key) {
			return true
		}
		var maker, mpn string
		if len(e.Sources) > 0 {
			maker, mpn = e.Sources[0].Manufacturer, e.Sources[0].MPN
		}
		values := e.Values()
		out = append(out, wire.PatternOf{Number: e.Number, Name: t.NameOf(values, maker, mpn), Description: t.Describe(values), Was: e.Description})
		return len(out) < 8
	})
	return out
}

func (s *Service) inside(drawer, outer string) bool {
	cab := s.CabinetNow(context.Background())
	if cab == nil {
		return false
	}
	t, ok := cab.Template(drawer)
	return ok && t.Inside(outer)
}

// ApplyCabinet makes a document the cabinet in force. version is the one that was looked at, 0 for the first. Parts
// that are there must still have their drawers.
func (s *Service) ApplyCabinet(ctx context.Context, c Call, version int, text string) (wire.Cabinet, error) {
	if err := allow(c, OpCabinet); err != nil {
		return wire.Cabinet{}, err
	}
	cab, err := cabinet.Parse([]byte(text))
	if err != nil {
		return wire.Cabinet{}, fault(Invalid, "cabinet-wrong", "The cabinet was not applied: "+err.Error()+".", "")
	}
	if now, h, err := s.currentCabinet(ctx); err == nil && !reflect.DeepEqual(now.Document, cab.Document) {
		if h.Version != version {
			return wire.Cabinet{}, sentence(store.ErrConflict, "cabinet")
		}
		p, err := s.planChange(ctx, wire.CabinetChange{Text: text})
		if err != nil {
			return wire.Cabinet{}, err
		}
		if err := p.harmless(); err != nil {
			return wire.Cabinet{}, err
		}
	}
	raw, hash, err := document.Canonical(cab.Document)
	if err != nil {
		return wire.Cabinet{}, err
	}
	_, err = deed(ctx, s, c, OpCabinet, "cabinet", []any{version, hash.String()}, func(t *store.Tx) (int, error) {
		return applyDocument(t, store.KindCabinet, theCabinet, cabinet.Format, version, raw, store.Hash(hash))
	})
	if err != nil {
		return wire.Cabinet{}, err
	}
	return s.Cabinet(ctx, c)
}

// harmless refuses a document under which values that parts hold would have no place: changing those takes steps.
func (p *plan) harmless() error {
	for _, was := range p.from.Document.Parameters {
		now, ok := p.to.Parameter(was.Key)
		switch {
		case !ok && p.used(was.Key):
			return fault(Invalid, "parameter-in-use", fmt.Sprintf("The cabinet was not applied: the parameter %q is gone from the document, and drawers use it.", was.Key),
				"Retire or rename it with a step, which shows first what becomes of the parts: jolly cabinet change.")
		case ok && (now.Type != was.Type || now.Of != was.Of) && p.used(was.Key):
			return fault(Invalid, "parameter-in-use", fmt.Sprintf("The cabinet was not applied: the parameter %q would become a %s %s, and drawers use it.", was.Key, now.Type, now.Of),
				"Retype it with a step, which shows first what becomes of the parts: jolly cabinet change.")
		}
	}
	if p.preview.Parts > 0 || p.preview.Incomplete > 0 {
		return fault(Invalid, "parts-change", fmt.Sprintf("The cabinet was not applied: under it %d parts would change and %d would become incomplete.", p.preview.Parts, p.preview.Incomplete),
			"Look at the preview and apply it as a change: jolly cabinet change --file FILE.")
	}
	return nil
}

// used says whether any drawer has a parameter in its template.
func (p *plan) used(key string) bool {
	for _, t := range p.from.Templates() {
		if t.Has(key) && t.Leaf {
			return true
		}
	}
	return false
}

// applyDocument makes a document the next revision of a named head, and changes nothing when it is the same document.
func applyDocument(t *store.Tx, kind, name, format string, version int, raw []byte, hash store.Hash) (int, error) {
	h, err := t.HeadByNumber(kind, name)
	fresh := errors.Is(err, store.ErrNotFound)
	if err != nil && !fresh {
		return 0, err
	}
	if fresh {
		h = store.Head{ID: store.NewID(), Kind: kind, Number: name}
	} else {
		now, err := t.Content(h.Released)
		if err != nil {
			return 0, err
		}
		if now.Hash == hash {
			return h.Revision, nil
		}
	}
	if h.Version != version {
		return 0, store.ErrConflict
	}
	c := store.Content{ID: store.NewID(), Head: h.ID, Hash: hash, Format: format, Bytes: raw}
	if err := t.AddContent(&c); err != nil {
		return 0, err
	}
	if err := t.AddRevision(&h, c, "applied"); err != nil {
		return 0, err
	}
	detail := map[string]any{"revision": h.Revision, "hash": hash.String()}
	if fresh {
		return h.Revision, t.Insert(&h, "applied", detail)
	}
	return h.Revision, t.Update(&h, "applied", detail)
}

// currentCrosswalk returns a supplier's crosswalk; ErrNotFound where there is none.
func (s *Service) currentCrosswalk(ctx context.Context, supplier string) (crosswalk.Crosswalk, store.Head, error) {
	h, err := s.Store.HeadByNumber(ctx, store.KindCrosswalk, supplier)
	if err != nil {
		return crosswalk.Crosswalk{}, h, err
	}
	c, err := s.Store.Content(ctx, h.Released)
	if err != nil {
		return crosswalk.Crosswalk{}, h, err
	}
	cw, err := crosswalk.FromJSON(c.Bytes)
	return cw, h, err
}

func crosswalkView(h store.Head, cw crosswalk.Crosswalk) (wire.Crosswalk, error) {
	text, err := yaml.Marshal(cw)
	return wire.Crosswalk{ID: h.ID.String(), Supplier: h.Number, Revision: h.Revision, Version: h.Version, Updated: h.Updated, Text: string(text)}, err
}

// Crosswalk returns a supplier's crosswalk.
func (s *Service) Crosswalk(ctx context.Context, c Call, supplier string) (wire.Crosswalk, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.Crosswalk{}, err
	}
	cw, h, err := s.currentCrosswalk(ctx, supplier)
	if err != nil {
		return wire.Crosswalk{}, sentence(err, "crosswalk")
	}
	return crosswalkView(h, cw)
}

// Crosswalks lists the crosswalks, without their texts.
func (s *Service) Crosswalks(ctx context.Context, c Call, offset, limit int) (wire.CrosswalkList, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.CrosswalkList{}, err
	}
	offset, limit = page(offset, limit)
	hs, total, err := s.Store.Heads(ctx, store.KindCrosswalk, offset, limit)
	out := wire.CrosswalkList{Page: wire.Page{Offset: offset, Limit: limit, Total: int(total)}, Items: []wire.Crosswalk{}}
	for _, h := range hs {
		out.Items = append(out.Items, wire.Crosswalk{ID: h.ID.String(), Supplier: h.Number, Revision: h.Revision, Version: h.Version, Updated: h.Updated})
	}
	return out, err
}

// ApplyCrosswalk makes a document the crosswalk of the supplier it names.
func (s *Service) ApplyCrosswalk(ctx context.Context, c Call, version int, text string) (wire.Crosswalk, error) {
	if err := allow(c, OpCrosswalk); err != nil {
		return wire.Crosswalk{}, err
	}
	cw, err := crosswalk.Parse([]byte(text))
	if err == nil {
		var cab *cabinet.Cabinet
		if cab, _, err = s.currentCabinet(ctx); err != nil {
			return wire.Crosswalk{}, err
		}
		err = cw.CheckAgainst(cab)
	}
	if err != nil {
		return wire.Crosswalk{}, fault(Invalid, "crosswalk-wrong", "The crosswalk was not applied: "+err.Error()+".", "")
	}
	raw, hash, err := document.Canonical(cw)
	if err != nil {
		return wire.Crosswalk{}, err
	}
	_, err = deed(ctx, s, c, OpCrosswalk, "crosswalk", []any{version, hash.String()}, func(t *store.Tx) (int, error) {
		return applyDocument(t, store.KindCrosswalk, cw.Supplier, crosswalk.Format, version, raw, store.Hash(hash))
	})
	if err != nil {
		return wire.Crosswalk{}, err
	}
	return s.Crosswalk(ctx, c, cw.Supplier)
}
