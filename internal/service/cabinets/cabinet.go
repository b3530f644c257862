package cabinets

import (
	"context"
	"errors"
	"fmt"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// TheCabinet is the name under which the one cabinet of an installation is kept.
const TheCabinet = "cabinet"

// None says that there is no cabinet yet.
func None() error {
	return deed.Fault(deed.Invalid, "no-cabinet", "There is no cabinet yet.", "Apply one: jolly cabinet apply FILE.")
}

// InForce returns the cabinet in force and its head. Before the first one is applied it is an error that says so.
func (s *Cabinets) InForce(ctx context.Context) (*cabinet.Cabinet, store.Head, error) {
	return s.In(s.Store.Read(ctx))
}

// In is InForce as a reader sees it, such as a write in progress.
func (s *Cabinets) In(r store.Reader) (*cabinet.Cabinet, store.Head, error) {
	h, err := r.HeadByNumber(store.KindCabinet, TheCabinet)
	if errors.Is(err, store.ErrNotFound) {
		return nil, h, None()
	}
	if err != nil {
		return nil, h, err
	}
	if cab := s.kept(h.Released); cab != nil {
		return cab, h, nil
	}
	c, err := r.Content(h.Released)
	if err != nil {
		return nil, h, err
	}
	cab, err := cabinet.FromJSON(c.Bytes)
	if err != nil {
		return nil, h, fmt.Errorf("the stored cabinet: %w", err)
	}
	s.Keep(h.Released, cab)
	return cab, h, nil
}

// mostKept is how many cabinets are kept taken apart: beside the one in force, those that writes are about to put in force.
const mostKept = 4

func (s *Cabinets) kept(content store.ID) *cabinet.Cabinet {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, k := range s.apart {
		if k.content == content {
			return k.cabinet
		}
	}
	return nil
}

// Keep keeps a content of the cabinet taken apart, for whoever has it so before it is read: that takes a while, and all writes of
// parts wait for a write that changes the templates.
func (s *Cabinets) Keep(content store.ID, cab *cabinet.Cabinet) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.apart = append(s.apart[max(0, len(s.apart)+1-mostKept):], apart{content, cab})
}

// Perhaps is In for what goes on before there is a cabinet: it is nil then, and no error.
func (s *Cabinets) Perhaps(r store.Reader) (*cabinet.Cabinet, store.Head, error) {
	cab, h, err := s.In(r)
	var e *deed.Error
	if errors.As(err, &e) && e.Type == "no-cabinet" {
		err = nil
	}
	return cab, h, err
}

// Under does a write that assumes the cabinet in force. When the templates are changed before it commits, it is done again
// under the new ones, so that what somebody typed is checked against what holds.
func Under[T any](ctx context.Context, s *Cabinets, do func(cab *cabinet.Cabinet, revision int) (T, error)) (out T, err error) {
	for range 5 {
		cab, h, e := s.InForce(ctx)
		if e != nil {
			return out, e
		}
		if out, err = do(cab, h.Revision); !deed.CabinetMoved(err) {
			break
		}
	}
	return out, err
}

// Get returns the cabinet in force.
func (s *Cabinets) Get(ctx context.Context, c deed.Call) (wire.Cabinet, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Cabinet{}, err
	}
	cab, h, err := s.Perhaps(s.Store.Read(ctx))
	if err != nil {
		return wire.Cabinet{}, err
	}
	if cab == nil {
		return wire.Cabinet{Document: cabinet.Document{Format: cabinet.Format, Parameters: []cabinet.Parameter{}, Drawers: []cabinet.Drawer{}}, Drawers: []wire.Drawer{}}, nil
	}
	out := wire.Cabinet{Revision: h.Revision, Version: h.Version, Document: cab.Document, Drawers: []wire.Drawer{}}
	counts := s.index.CountByDrawer()
	for _, t := range cab.Templates() {
		d := wire.Drawer{Key: t.Key, Label: t.Label, Path: t.Path, Leaf: t.Leaf, Prefix: t.Prefix, Digits: t.Digits, Designator: t.Designator,
			Leading: t.Leading, Description: t.Description, Identity: append([]string{}, t.Identity...), Class: t.Class, Lifecycle: t.Lifecycle, Name: t.Name, Case: t.Case,
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

// Current returns the cabinet in force, or nil where there is none yet.
func (s *Cabinets) Current(ctx context.Context) *cabinet.Cabinet {
	cab, _, err := s.InForce(ctx)
	if err != nil {
		return nil
	}
	return cab
}

// CurrentID names the content of the cabinet in force; "" where there is none.
func (s *Cabinets) CurrentID(ctx context.Context) string {
	_, h, err := s.InForce(ctx)
	if err != nil {
		return ""
	}
	return h.Released.String()
}

// DrawerUse says how a drawer is used: how complete its parts are, and what names it.
func (s *Cabinets) DrawerUse(ctx context.Context, c deed.Call, key string) (wire.DrawerUse, error) {
	out := wire.DrawerUse{Key: key, Filled: []wire.SlotUse{}, Crosswalks: []string{}, Samples: []wire.PatternOf{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	cab, _, err := s.InForce(ctx)
	if err != nil {
		return out, err
	}
	t, ok := cab.Template(key)
	if !ok {
		return out, deed.Fault(deed.Unknown, "not-found", fmt.Sprintf("There is no drawer %q.", key), "Look at the cabinet.")
	}
	var filled map[string]int
	out.Parts, out.Incomplete, filled = s.index.Completeness(key)
	for _, sl := range t.Slots {
		out.Filled = append(out.Filled, wire.SlotUse{Key: sl.Key, Label: sl.Label, Required: sl.Required, Parts: filled[sl.Key]})
	}
	out.Samples = s.samples(cab, t)
	all, err := s.AllCrosswalks(ctx)
	for _, cw := range all {
		if cw.Sorts(cab, key) {
			out.Crosswalks = append(out.Crosswalks, cw.Number())
		}
	}
	return out, err
}

// TryPatterns shows what patterns would make of real parts of a drawer; the error of a wrong pattern names the place.
func (s *Cabinets) TryPatterns(ctx context.Context, c deed.Call, key string, in wire.PatternTry) ([]wire.PatternOf, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return nil, err
	}
	cab, _, err := s.InForce(ctx)
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
		return nil, deed.Fault(deed.Unknown, "not-found", fmt.Sprintf("There is no drawer %q.", key), "Look at the cabinet.")
	}
	tried, err := cabinet.New(doc)
	if err != nil {
		return nil, deed.Fault(deed.Invalid, "pattern-wrong", "The pattern cannot be used: "+err.Error()+".", "Write {key} for a parameter, [ ] around what may vanish.")
	}
	t, _ := tried.Template(key)
	return s.samples(tried, t), nil
}

// samples shows what a template's patterns make of a few real parts, of its own drawer and those inside.
func (s *Cabinets) samples(cab *cabinet.Cabinet, t *cabinet.Template) []wire.PatternOf {
	var drawers []string
	for _, x := range cab.Templates() {
		if x.Inside(t.Key) {
			drawers = append(drawers, x.Key)
		}
	}
	out := []wire.PatternOf{}
	for _, e := range s.index.Some(drawers, 8) {
		var maker, mpn string
		if len(e.Sources) > 0 {
			maker, mpn = e.Sources[0].Manufacturer, e.Sources[0].MPN
		}
		values := e.Values()
		out = append(out, wire.PatternOf{Number: e.Number, Name: t.NameOf(values, maker, mpn), Description: t.Describe(values), Was: e.Description})
	}
	return out
}

// Shown writes a value as its parameter wants it shown.
func Shown(cab *cabinet.Cabinet, key string, v cabinet.Value) string {
	if cab != nil {
		if p, ok := cab.Parameter(key); ok {
			return p.Shown(v)
		}
	}
	return v.String()
}
