package models

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/drop"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// LinkTo is how a part names the newest revision of a model.
func (s *Models) LinkTo(r store.Reader, h store.Head) (part.Model, error) {
	out := part.Model{ID: h.ID.String(), Name: NameOf(h), Revision: h.Revision}
	d, err := s.AtRevision(r, out.ID, h.Revision)
	if err == nil {
		out.StandIn = d.StandsIn()
	}
	return out, err
}

// NameOf is the name of a model, without its kind.
func NameOf(h store.Head) string { _, n, _ := strings.Cut(h.Number, ": "); return n }

func (s *Models) Head(ctx context.Context, id string) (store.Head, error) {
	i, err := store.ParseID(id)
	if err != nil {
		return store.Head{}, deed.Fault(deed.Invalid, "not-found", fmt.Sprintf("%q is no model.", id), "Name it by its ID.")
	}
	h, err := s.Store.Read(ctx).Head(store.KindModel, i)
	if err != nil {
		return h, deed.Sentence(err, "model")
	}
	return h, policy.Stands(h)
}

// Rename renames or describes several models in one deed, each as a new draft.
func (s *Models) Rename(ctx context.Context, c deed.Call, in wire.RenameModels) (wire.Mended, error) {
	out := wire.Mended{Models: []string{}, Parts: []string{}, Left: []string{}}
	if err := deed.Allow(c, deed.OpModelEdit); err != nil {
		return out, err
	}
	if in.Find == "" && in.Note == nil {
		return out, deed.Fault(deed.Invalid, "nothing-asked", "Neither words to replace nor a description was given.", "")
	}
	var chosen []*Entry
	shelf, err := s.Library(ctx)
	if err != nil {
		return out, err
	}
	for _, m := range shelf {
		if slices.Contains(in.Models, m.Head.ID.String()) {
			chosen = append(chosen, m)
			if err := deed.Seen(in.Seen, m.Head.ID.String(), m.Head.Version, "model"); err != nil {
				return out, err
			}
		}
	}
	return deed.Do(ctx, s.Desk, c, deed.OpModelEdit, "model", in, func(t *store.Tx) (wire.Mended, error) {
		out := wire.Mended{Models: []string{}, Parts: []string{}, Left: []string{}}
		for _, m := range chosen {
			next := m.Content
			if in.Find != "" {
				next.Name = strings.Join(strings.Fields(strings.ReplaceAll(m.Name, in.Find, in.Replace)), " ")
			}
			if in.Note != nil {
				next.Note = strings.TrimSpace(*in.Note)
			}
			if next.Name == m.Name && next.Note == m.Note {
				out.Left = append(out.Left, m.Name+": nothing to change")
				continue
			}
			h, err := t.HeadAt(store.KindModel, m.Head.ID, m.Head.Version)
			if err != nil {
				return out, err
			}
			if err := s.Redraw(t, c.Actor, &h, &next, "", "renamed", map[string]any{"from": m.Name, "to": next.Name}); err != nil {
				return out, err
			}
			out.Models = append(out.Models, next.Name)
		}
		return out, nil
	})
}

// TrySymbol makes a symbol from a pin table for looking at it; nothing is kept.
func (s *Models) TrySymbol(ctx context.Context, c deed.Call, in wire.SymbolTry) (wire.SymbolTried, error) {
	out := wire.SymbolTried{Pins: in.Pins, Wrong: []string{}, PinReading: wire.PinReading{Headings: []string{}, Lists: []string{}}}
	if err := deed.Allow(c, deed.OpModelEdit); err != nil {
		return out, err
	}
	if len(in.Pins) == 0 {
		r, err := s.listed(ctx, in.Text, in.File, in.PinChoice)
		if err != nil {
			return out, err
		}
		out.Pins, out.Wrong, out.PinReading = r.Pins, append(out.Wrong, r.Wrong...), r.PinReading
		if len(out.Pins) == 0 {
			return out, nil // a column, or one of several lists, must be chosen first
		}
	}
	sym, err := model.MakeSymbol(out.Pins, in.Layout, in.Earlier)
	if err != nil {
		return out, deed.Fault(deed.Invalid, "symbol-wrong", "The symbol cannot be made: "+err.Error()+".", "Correct the pin table.")
	}
	out.Symbol = sym
	out.SVG = string((&model.Content{Kind: model.KindSymbol, Name: in.Name, Symbol: sym}).SVG(model.Preview{Ink: Ink(in.Theme == "night")}))
	return out, nil
}

// reading is a pin list that was read, with how.
type reading struct {
	model.PinList
	wire.PinReading
}

// listed reads a pin list from a pasted text or an uploaded file.
func (s *Models) listed(ctx context.Context, text, file string, choice wire.PinChoice) (out reading, err error) {
	const needs = "It needs a heading for the pins' numbers and one for their names; or say which column holds what."
	raw, lists := []byte(text), []model.PinList(nil)
	if file != "" {
		all, err := s.files.Members(s.Store.Read(ctx), file, "pin table")
		if err != nil {
			return out, deed.Fault(deed.Invalid, "pins-unreadable", "The file cannot be read: "+deed.SentenceOf(err), "")
		}
		raw = nil
		for _, m := range all {
			if raw == nil && (m.Is == drop.PinList || m.Is == drop.Unknown) {
				raw = m.Raw
			}
			if m.Is == drop.Signals {
				lists = append(lists, m.Lists...)
			}
		}
		if raw == nil && lists == nil {
			return out, deed.Fault(deed.Invalid, "no-pins", "The file holds no pin table: "+all[0].What, needs)
		}
	}
	if lists == nil {
		t, err := drop.PinTable(raw, drop.DefaultLimits)
		if err != nil {
			return out, deed.Fault(deed.Invalid, "no-pins", "The text is no pin table: "+deed.SentenceOf(err), needs)
		}
		c, ok := t.Columns()
		if choice.Columns != nil {
			c, ok = *choice.Columns, len(choice.Columns.Numbers) > 0
		}
		out.Headings, out.Columns = t.Headings, &c
		if !ok { // somebody can say which column holds what
			out.Pins, out.Lists, out.Wrong = []model.ListedPin{}, []string{}, []string{"It is " + drop.NoPinTable(t).Error() + ". " + needs}
			return out, nil
		}
		lists = t.Read(c)
	}
	return out.choose(lists, choice.List)
}

// choose takes the one list, or the named one of several. Where none is named, it takes none.
func (r reading) choose(lists []model.PinList, named string) (reading, error) {
	r.Lists = []string{}
	if r.Headings == nil {
		r.Headings = []string{}
	}
	if len(lists) > 1 {
		for _, l := range lists {
			r.Lists = append(r.Lists, l.Name)
		}
	}
	for _, l := range lists {
		if len(lists) > 1 && l.Name != named {
			continue
		}
		if len(l.Pins) == 0 {
			return r, deed.Fault(deed.Invalid, "no-pins", "No pin of the list was read: "+strings.Join(l.Wrong[:min(len(l.Wrong), 3)], "; ")+".", "Correct the list.")
		}
		r.PinList, r.List = l, l.Name
		return r, nil
	}
	if named != "" {
		return r, deed.Fault(deed.Invalid, "no-such-list", fmt.Sprintf("There is no list %q.", named), "Choose one of: "+strings.Join(r.Lists, ", ")+".")
	}
	r.Pins = []model.ListedPin{}
	return r, nil
}

// ComparePins lays a symbol's pins beside an independent list.
func (s *Models) ComparePins(ctx context.Context, c deed.Call, id store.ID, in wire.PinsBeside) (wire.PinComparison, error) {
	out := wire.PinComparison{Wrong: []string{}, PinReading: wire.PinReading{Headings: []string{}, Lists: []string{}}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	_, m, err := s.Newest(s.Store.Read(ctx), id)
	if err != nil {
		return out, deed.Sentence(err, "model")
	}
	if m.Symbol == nil {
		return out, deed.Fault(deed.Invalid, "no-pins", m.Name+" is no symbol with pins.", "")
	}
	r, err := s.listed(ctx, in.Text, in.File, in.PinChoice)
	if err != nil {
		return out, err
	}
	out.Wrong, out.PinReading = append(out.Wrong, r.Wrong...), r.PinReading
	if out.Lines = []model.PinDifference{}; len(r.Pins) == 0 {
		return out, nil // a column, or one of several lists, must be chosen first
	}
	out.Lines = model.ComparePins(m.Symbol, r.Pins)
	for _, l := range out.Lines {
		if l.What != "" {
			out.Differ++
		}
	}
	return out, nil
}
