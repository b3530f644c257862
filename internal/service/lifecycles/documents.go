package lifecycles

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"go.yaml.in/yaml/v3"

	"jollydrawer/core/document"
	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Documents lists the lifecycles in force.
func (s *Lifecycles) Documents(ctx context.Context, c deed.Call) (wire.LifecycleList, error) {
	out := wire.LifecycleList{Items: []wire.Lifecycle{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	r := s.Store.Read(ctx)
	rules, err := s.policy.Rules(r)
	if err != nil {
		return out, err
	}
	for _, l := range rules.All() {
		w, err := s.document(r, rules, l)
		if err != nil {
			return out, err
		}
		out.Items = append(out.Items, w)
	}
	return out, nil
}

// Document returns one lifecycle in force.
func (s *Lifecycles) Document(ctx context.Context, c deed.Call, name string) (wire.Lifecycle, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Lifecycle{}, err
	}
	r := s.Store.Read(ctx)
	rules, err := s.policy.Rules(r)
	if err != nil {
		return wire.Lifecycle{}, err
	}
	l, ok := rules.Named(name)
	if !ok {
		return wire.Lifecycle{}, deed.Fault(deed.Unknown, "not-found", fmt.Sprintf("There is no lifecycle %q.", name), "Look at the list of them.")
	}
	return s.document(r, rules, l)
}

func (s *Lifecycles) document(r store.Reader, rules policy.Rules, l policy.Ruled) (wire.Lifecycle, error) {
	text, err := yaml.Marshal(l.Document)
	out := wire.Lifecycle{Name: l.Document.Name, Of: l.Document.Of, Revision: l.Revision, Shipped: l.Revision == 0, Text: string(text), Document: l.Document, Drawers: rules.DrawersOf(l.Document.Name)}
	if err == nil && l.Revision > 0 {
		var h store.Head
		h, err = r.HeadByNumber(store.KindLifecycle, l.Document.Name)
		out.Version, out.Updated = h.Version, &h.Updated
	}
	return out, err
}

// planned is a lifecycle document that is to be in force, and what that changes.
type planned struct {
	next    *lifecycle.Lifecycle
	version int
	preview wire.LifecyclePreview
}

// plan reads a document and lays it over the one in force.
func (s *Lifecycles) plan(r store.Reader, text string) (out planned, err error) {
	wrong := func(err error) error {
		return deed.Fault(deed.Invalid, "lifecycle-wrong", "The lifecycle was not applied: "+strings.TrimSuffix(err.Error(), ".")+".", "")
	}
	asked, err := lifecycle.Parse([]byte(text))
	if err != nil {
		return out, wrong(err)
	}
	name := asked.Document.Name
	out.next, out.preview = asked, wire.LifecyclePreview{Name: name, Gone: []wire.StateGone{}, Added: []string{}, Moves: []string{}, New: true}
	h, err := r.HeadByNumber(store.KindLifecycle, name)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return out, err
	}
	out.version = h.Version
	rules, err := s.policy.Rules(r)
	if err != nil {
		return out, err
	}
	if was, ok := rules.Named(name); ok {
		next, change, err := was.Follow(asked.Document)
		if err != nil {
			return out, wrong(err)
		}
		out.next, out.preview.New = next, false
		out.preview.Added, out.preview.Moves, out.preview.Counting = append(out.preview.Added, change.Added...), append(out.preview.Moves, change.Moves...), change.Counting
		kind := map[string]string{"parts": store.KindPart, "models": store.KindModel, "boms": store.KindBOM}[next.Document.Of]
		for _, g := range change.Gone {
			places, err := r.InState(kind, g.Was.Key)
			if err != nil {
				return out, err
			}
			gone := wire.StateGone{Was: policy.View(g.Was), Becomes: policy.View(g.Becomes)}
			for _, p := range places { // others live by another document that has a state of the same key
				if rules.Of(store.Head{Kind: kind, Drawer: p.Place, Number: p.Place + ": "}).Document.Name == name {
					gone.Things += p.Count
				}
			}
			out.preview.Gone = append(out.preview.Gone, gone)
		}
	}
	err = policy.Manned(r, out.next)
	var e *deed.Error
	switch {
	case errors.As(err, &e):
		err = wrong(errors.New(e.What))
	case err != nil && !store.Transient(err): // that one is for whoever tries again
		err = wrong(err)
	}
	out.preview.Version = out.version
	return out, err
}

// PreviewDocument says what a document would change, and writes nothing.
func (s *Lifecycles) PreviewDocument(ctx context.Context, c deed.Call, text string) (wire.LifecyclePreview, error) {
	if err := deed.Allow(c, deed.OpLifecycle); err != nil {
		return wire.LifecyclePreview{}, err
	}
	p, err := s.plan(s.Store.Read(ctx), text)
	return p.preview, err
}

// ApplyDocument puts a document in force. version is the one of the head that was looked at; 0 where only the shipped one, or none, was
// there.
func (s *Lifecycles) ApplyDocument(ctx context.Context, c deed.Call, version int, text string) (wire.Lifecycle, error) {
	if err := deed.Allow(c, deed.OpLifecycle); err != nil {
		return wire.Lifecycle{}, err
	}
	name, err := deed.Do(ctx, s.Desk, c, deed.OpLifecycle, "lifecycle", []any{version, text}, func(t *store.Tx) (string, error) {
		p, err := s.plan(t.Reader, text)
		if err != nil {
			return "", err
		}
		raw, hash, err := document.Canonical(p.next.Document)
		if err != nil {
			return "", err
		}
		_, err = deed.Apply(t, store.KindLifecycle, p.next.Document.Name, lifecycle.Format, version, raw, store.Hash(hash))
		return p.next.Document.Name, err
	})
	if err != nil {
		return wire.Lifecycle{}, err
	}
	return s.Document(ctx, c, name)
}
