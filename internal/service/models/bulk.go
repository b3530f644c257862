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
	out := wire.SymbolTried{Pins: in.Pins, Wrong: []string{}}
	if err := deed.Allow(c, deed.OpModelEdit); err != nil {
		return out, err
	}
	if len(in.Pins) == 0 {
		pins, wrong, err := s.listed(ctx, in.Text, in.File)
		if err != nil {
			return out, err
		}
		out.Pins, out.Wrong = pins, append(out.Wrong, wrong...)
	}
	sym, err := model.MakeSymbol(out.Pins, in.Layout, in.Earlier)
	if err != nil {
		return out, deed.Fault(deed.Invalid, "symbol-wrong", "The symbol cannot be made: "+err.Error()+".", "Correct the pin table.")
	}
	out.Symbol = sym
	out.SVG = string((&model.Content{Kind: model.KindSymbol, Name: in.Name, Symbol: sym}).SVG(model.Preview{Ink: Ink(in.Theme == "night")}))
	return out, nil
}

// listed reads a pin list from a pasted text or an uploaded file.
func (s *Models) listed(ctx context.Context, text, file string) ([]model.ListedPin, []string, error) {
	if file != "" {
		all, err := s.files.Members(s.Store.Read(ctx), file, "pin table")
		if err != nil {
			return nil, nil, deed.Fault(deed.Invalid, "pins-unreadable", "The file cannot be read: "+deed.SentenceOf(err), "")
		}
		for _, m := range all {
			if len(m.Pins) > 0 {
				return m.Pins, m.Wrong, nil
			}
		}
		return nil, nil, deed.Fault(deed.Invalid, "no-pins", "The file holds no pin table: "+all[0].What, "It needs a heading for the pins' numbers and one for their names.")
	}
	pins, wrong, err := drop.Pins([]byte(text), drop.DefaultLimits)
	if err != nil {
		return nil, nil, deed.Fault(deed.Invalid, "no-pins", "The text is no pin table: "+deed.SentenceOf(err), "It needs a heading for the pins' numbers and one for their names.")
	}
	return pins, wrong, nil
}

// ComparePins lays a symbol's pins beside an independent list.
func (s *Models) ComparePins(ctx context.Context, c deed.Call, id store.ID, in wire.PinsBeside) (wire.PinComparison, error) {
	out := wire.PinComparison{Wrong: []string{}}
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
	pins, wrong, err := s.listed(ctx, in.Text, in.File)
	if err != nil {
		return out, err
	}
	out.Wrong = append(out.Wrong, wrong...)
	out.Lines = model.ComparePins(m.Symbol, pins)
	for _, l := range out.Lines {
		if l.What != "" {
			out.Differ++
		}
	}
	return out, nil
}
