package reform

import (
	"context"
	"fmt"
	"reflect"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/core/readout"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Apply makes a document the cabinet in force. version is the one that was looked at, 0 for the first. Parts
// that are there must still have their drawers.
func (s *Reform) Apply(ctx context.Context, c deed.Call, version int, text string) (wire.Cabinet, error) {
	if err := deed.Allow(c, deed.OpCabinet); err != nil {
		return wire.Cabinet{}, err
	}
	cab, err := cabinet.Parse([]byte(text))
	if err != nil {
		return wire.Cabinet{}, deed.Fault(deed.Invalid, "cabinet-wrong", "The cabinet was not applied: "+err.Error()+".", "")
	}
	raw, hash, err := document.Canonical(cab.Document)
	if err != nil {
		return wire.Cabinet{}, err
	}
	tables := readout.ChangeTo(cab, nil)
	var looked store.FollowedTables
	prepare := func() (err error) {
		if looked, err = s.Store.Read(ctx).FollowTables(tables); err != nil {
			return err
		}
		rules, err := s.policy.Rules(s.Store.Read(ctx))
		if err == nil {
			err = rules.Missing(cab)
		}
		if err != nil {
			return deed.Fault(deed.Invalid, "cabinet-wrong", "The cabinet was not applied: "+err.Error()+".", "")
		}
		now, h, err := s.cabinets.InForce(ctx)
		if err != nil || reflect.DeepEqual(now.Document, cab.Document) {
			return nil // there is none yet, or it is this one
		}
		if h.Version != version {
			return store.ErrConflict
		}
		p, err := s.planChange(ctx, wire.CabinetChange{Text: text}, false)
		if err != nil {
			return err
		}
		return p.harmless()
	}
	_, err = deed.DoAfter(ctx, s.Desk, c, deed.OpCabinet, "cabinet", []any{version, hash.String()}, prepare, func(t *store.Tx) (int, error) {
		if err := t.MoveCabinet(tables, looked); err != nil {
			return 0, err
		}
		return deed.Apply(t, store.KindCabinet, cabinets.TheCabinet, cabinet.Format, version, raw, store.Hash(hash))
	})
	if err != nil {
		return wire.Cabinet{}, err
	}
	return s.cabinets.Get(ctx, c)
}

// harmless refuses a document under which values that parts hold would have no place: changing those takes steps.
func (p *plan) harmless() error {
	for _, was := range p.from.Document.Parameters {
		now, ok := p.to.Parameter(was.Key)
		switch {
		case !ok && p.used(was.Key):
			return deed.Fault(deed.Invalid, "parameter-in-use", fmt.Sprintf("The cabinet was not applied: the parameter %q is gone from the document, and drawers use it.", was.Key),
				"Retire or rename it with a step, which shows first what becomes of the parts: jolly cabinet change.")
		case ok && (now.Type != was.Type || now.Of != was.Of) && p.used(was.Key):
			return deed.Fault(deed.Invalid, "parameter-in-use", fmt.Sprintf("The cabinet was not applied: the parameter %q would become a %s %s, and drawers use it.", was.Key, now.Type, now.Of),
				"Retype it with a step, which shows first what becomes of the parts: jolly cabinet change.")
		}
	}
	if p.preview.Parts > 0 || p.preview.Incomplete > 0 {
		return deed.Fault(deed.Invalid, "parts-change", fmt.Sprintf("The cabinet was not applied: under it %d parts would change and %d would become incomplete.", p.preview.Parts, p.preview.Incomplete),
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
