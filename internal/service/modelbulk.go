package service

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/drop"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// mostParts is how many parts one deed moves to another model.
const mostParts = 1000

// movePart is a part that is to take another model in the places of a given one.
type movePart struct {
	id      store.ID
	number  string
	version int
}

// usersOf lists the parts that use a model with a revision other than the newest; named narrows to numbers.
func (s *Service) usersOf(ctx context.Context, h store.Head, named []string, all bool) (out []movePart, err error) {
	uses, err := s.Store.UsedBy(ctx, h.ID, 0, 20_000)
	seen := map[store.ID]bool{}
	for _, u := range uses {
		e, ok := s.Index.ByID(u.Parent.String())
		if !ok || seen[u.Parent] || !all && u.ChildRevision >= h.Revision && u.ChildRevision > 0 {
			continue
		}
		if len(named) > 0 && !slices.Contains(named, e.Number) {
			continue
		}
		seen[u.Parent] = true
		out = append(out, movePart{u.Parent, e.Number, e.Version})
	}
	if len(out) > mostParts {
		return nil, fault(TooLarge, "too-many", fmt.Sprintf("%d parts would be changed; at most %d are in one deed.", len(out), mostParts), "Name some of them.")
	}
	return out, err
}

// linkTo is how a part names the newest revision of a model.
func (s *Service) linkTo(ctx context.Context, h store.Head) (part.Model, error) {
	out := part.Model{ID: h.ID.String(), Name: nameOf(h), Revision: h.Revision}
	d, err := s.modelRevision(ctx, out.ID, h.Revision)
	if err == nil {
		out.StandIn = d.StandsIn()
	}
	return out, err
}

// relink puts a model in all places of a part that hold another one.
func relink(p *part.Content, from string, to part.Model) bool {
	changed := false
	swap := func(m *part.Model) *part.Model {
		if m == nil || m.ID != from || *m == to {
			return m
		}
		changed = true
		next := to
		return &next
	}
	p.Symbol, p.LandPattern, p.Body, p.PinMap = swap(p.Symbol), swap(p.LandPattern), swap(p.Body), swap(p.PinMap)
	for i := range p.OtherLands {
		p.OtherLands[i].Model = *swap(&p.OtherLands[i].Model)
	}
	return changed
}

// MergeModels makes models lead to one that draws the same. Parts that are named take the survivor as a new draft; the
// others keep the revision they have and are shown as behind.
func (s *Service) MergeModels(ctx context.Context, c Call, in wire.MergeModels) (wire.Mended, error) {
	out := wire.Mended{Models: []string{}, Parts: []string{}, Left: []string{}}
	if err := allow(c, OpModelRelease); err != nil {
		return out, err
	}
	_, ch, err := s.currentCabinet(ctx)
	if err != nil {
		return out, err
	}
	keep, err := s.modelHead(ctx, in.Keep)
	if err != nil {
		return out, err
	}
	var gone []store.Head
	moves := map[store.ID][]movePart{}
	total := 0
	for _, id := range in.Gone {
		h, err := s.modelHead(ctx, id)
		if err != nil {
			return out, err
		}
		if h.ID == keep.ID {
			return out, fault(Invalid, "merge-self", "A model cannot be merged into itself.", "Leave the survivor out of those that go.")
		}
		if kindOf(h) != kindOf(keep) {
			return out, fault(Invalid, "kind-other", fmt.Sprintf("%s and %s are of two kinds.", nameOf(h), nameOf(keep)), "Merge models of one kind.")
		}
		if in.All || len(in.Move) > 0 {
			if moves[h.ID], err = s.usersOf(ctx, h, in.Move, true); err != nil {
				return out, err
			}
			total += len(moves[h.ID])
		}
		gone = append(gone, h)
	}
	if total > mostParts {
		return out, fault(TooLarge, "too-many", fmt.Sprintf("%d parts would be changed; at most %d are in one deed.", total, mostParts), "Merge fewer models at once.")
	}
	if total > 0 && keep.Revision == 0 {
		return out, fault(Invalid, "not-released", nameOf(keep)+" is not released: parts cannot be moved to it.", "Release it first.")
	}
	to, err := s.linkTo(ctx, keep)
	if err != nil {
		return out, err
	}
	return deed(ctx, s, c, OpModelRelease, "model", in, func(t *store.Tx) (wire.Mended, error) {
		keep, err := t.HeadAt(store.KindModel, keep.ID, keep.Version)
		if err == nil {
			err = modelStands(keep)
		}
		if err != nil {
			return out, err
		}
		out := wire.Mended{Models: []string{}, Parts: []string{}, Left: []string{}}
		for _, g := range gone {
			h, err := t.HeadAt(store.KindModel, g.ID, g.Version)
			if err == nil {
				err = modelStands(h)
			}
			if err != nil {
				return out, err
			}
			for _, m := range moves[g.ID] {
				done, err := s.alterPart(t, m.id, 0, ch.Revision, "model replaced", map[string]any{"from": nameOf(h), "to": nameOf(keep), "why": in.Why}, func(p *part.Content) bool {
					return relink(p, h.ID.String(), to)
				})
				if err != nil {
					return out, err
				}
				if done {
					out.Parts = append(out.Parts, m.number)
				}
			}
			h.Standing = store.Merged
			if err := t.SetSuccessor(h.ID, keep.ID, in.Why); err != nil {
				return out, err
			}
			if err := t.Update(&h, "merged", map[string]any{"into": nameOf(keep), "why": in.Why}); err != nil {
				return out, err
			}
			out.Models = append(out.Models, nameOf(h))
		}
		some := func(all []string) []string { return all[:min(len(all), 100)] } // a trail entry holds 64 kB; the models' own entries name the rest
		return out, t.Update(&keep, "took over", map[string]any{"merged": some(out.Models), "models": len(out.Models), "parts": some(out.Parts), "moved": len(out.Parts), "why": in.Why})
	})
}

func kindOf(h store.Head) string { k, _, _ := strings.Cut(h.Number, ": "); return k }

func nameOf(h store.Head) string { _, n, _ := strings.Cut(h.Number, ": "); return n }

func (s *Service) modelHead(ctx context.Context, id string) (store.Head, error) {
	i, err := store.ParseID(id)
	if err != nil {
		return store.Head{}, fault(Invalid, "not-found", fmt.Sprintf("%q is no model.", id), "Name it by its ID.")
	}
	h, err := s.Store.Head(ctx, store.KindModel, i)
	if err != nil {
		return h, sentence(err, "model")
	}
	return h, modelStands(h)
}

// TakeNewer moves parts to the newest revision of a model, as new drafts.
func (s *Service) TakeNewer(ctx context.Context, c Call, id store.ID, in wire.TakeNewer) (wire.Mended, error) {
	out := wire.Mended{Models: []string{}, Parts: []string{}, Left: []string{}}
	if err := allow(c, OpPartEdit); err != nil {
		return out, err
	}
	_, ch, err := s.currentCabinet(ctx)
	if err != nil {
		return out, err
	}
	h, err := s.Store.Head(ctx, store.KindModel, id)
	if err != nil {
		return out, sentence(err, "model")
	}
	to, err := s.survivor(ctx, h)
	if err != nil {
		return out, err
	}
	if to.Revision == 0 {
		return out, fault(Invalid, "not-released", nameOf(to)+" has no released revision.", "Release it first.")
	}
	users, err := s.usersOf(ctx, h, in.Parts, to.ID != h.ID)
	if err != nil {
		return out, err
	}
	link, err := s.linkTo(ctx, to)
	if err != nil {
		return out, err
	}
	return deed(ctx, s, c, OpPartEdit, "model", []any{id, in}, func(t *store.Tx) (wire.Mended, error) {
		out := wire.Mended{Models: []string{}, Parts: []string{}, Left: []string{}}
		for _, m := range users {
			done, err := s.alterPart(t, m.id, 0, ch.Revision, "newer model taken", map[string]any{"model": nameOf(to), "revision": to.Revision}, func(p *part.Content) bool {
				return relink(p, h.ID.String(), link)
			})
			if err != nil {
				return out, err
			}
			if done {
				out.Parts = append(out.Parts, m.number)
			}
		}
		return out, nil
	})
}

// RenameModels renames or describes several models in one deed, each as a new draft.
func (s *Service) RenameModels(ctx context.Context, c Call, in wire.RenameModels) (wire.Mended, error) {
	out := wire.Mended{Models: []string{}, Parts: []string{}, Left: []string{}}
	if err := allow(c, OpModelEdit); err != nil {
		return out, err
	}
	if in.Find == "" && in.Note == nil {
		return out, fault(Invalid, "nothing-asked", "Neither words to replace nor a description was given.", "")
	}
	var chosen []*shelved
	shelf, err := s.modelShelf(ctx)
	if err != nil {
		return out, err
	}
	for _, m := range shelf {
		if slices.Contains(in.Models, m.head.ID.String()) {
			chosen = append(chosen, m)
		}
	}
	return deed(ctx, s, c, OpModelEdit, "model", in, func(t *store.Tx) (wire.Mended, error) {
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
			h, err := t.HeadAt(store.KindModel, m.head.ID, m.head.Version)
			if err != nil {
				return out, err
			}
			if err := redraw(t, &h, &next, "", "renamed", map[string]any{"from": m.Name, "to": next.Name}); err != nil {
				return out, err
			}
			out.Models = append(out.Models, next.Name)
		}
		return out, nil
	})
}

// TrySymbol makes a symbol from a pin table for looking at it; nothing is kept.
func (s *Service) TrySymbol(ctx context.Context, c Call, in wire.SymbolTry) (wire.SymbolTried, error) {
	out := wire.SymbolTried{Pins: in.Pins, Wrong: []string{}}
	if err := allow(c, OpModelEdit); err != nil {
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
		return out, fault(Invalid, "symbol-wrong", "The symbol cannot be made: "+err.Error()+".", "Correct the pin table.")
	}
	out.Symbol = sym
	out.SVG = string((&model.Content{Kind: model.KindSymbol, Name: in.Name, Symbol: sym}).SVG(model.Preview{Ink: ink(in.Theme == "night")}))
	return out, nil
}

// listed reads a pin list from a pasted text or an uploaded file.
func (s *Service) listed(ctx context.Context, text, file string) ([]model.ListedPin, []string, error) {
	if file != "" {
		all, err := s.readFile(ctx, file, "pin table")
		if err != nil {
			return nil, nil, fault(Invalid, "pins-unreadable", "The file cannot be read: "+sentenceOf(err), "")
		}
		for _, m := range all {
			if len(m.Pins) > 0 {
				return m.Pins, m.Wrong, nil
			}
		}
		return nil, nil, fault(Invalid, "no-pins", "The file holds no pin table: "+all[0].What, "It needs a heading for the pins' numbers and one for their names.")
	}
	pins, wrong, err := drop.Pins([]byte(text), drop.DefaultLimits)
	if err != nil {
		return nil, nil, fault(Invalid, "no-pins", "The text is no pin table: "+sentenceOf(err), "It needs a heading for the pins' numbers and one for their names.")
	}
	return pins, wrong, nil
}

// ComparePins lays a symbol's pins beside an independent list.
func (s *Service) ComparePins(ctx context.Context, c Call, id store.ID, in wire.PinsBeside) (wire.PinComparison, error) {
	out := wire.PinComparison{Wrong: []string{}}
	if err := allow(c, OpRead); err != nil {
		return out, err
	}
	_, m, err := s.loadModel(ctx, id)
	if err != nil {
		return out, sentence(err, "model")
	}
	if m.Symbol == nil {
		return out, fault(Invalid, "no-pins", m.Name+" is no symbol with pins.", "")
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
