package policy

import (
	"errors"
	"fmt"

	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
)

// Named says where a group is named by a lifecycle in force; "" where none names it.
func (p *Policy) Named(r store.Reader, group string) (string, error) {
	rules, err := p.Rules(r)
	if err != nil {
		return "", err
	}
	for _, l := range rules.All() {
		for _, m := range l.Document.Moves {
			if m.Who.Group == group {
				return fmt.Sprintf("the move %q of the lifecycle %s", m.Label, l.Document.Name), nil
			}
			for _, g := range m.Gates {
				if g.With["group"] == group || g.Waive != nil && g.Waive.Group == group {
					return fmt.Sprintf("the gate %q of the move %q of the lifecycle %s", g.Gate, m.Label, l.Document.Name), nil
				}
			}
		}
	}
	return "", nil
}

// Lacking lists what lifecycles wait for that nobody is there to do.
func (p *Policy) Lacking(r store.Reader) (out []lifecycle.Lack, err error) {
	rules, err := p.Rules(r)
	if err != nil {
		return nil, err
	}
	for _, l := range rules.All() {
		if l.Revision == 0 {
			continue // it asks for roles only
		}
		lacks, err := l.Lacking(func(w lifecycle.Who) (int, error) {
			ids, err := People(r, w)
			var unknown *deed.Error
			if errors.As(err, &unknown) { // a group that is not there has nobody in it
				err = nil
			}
			return len(ids), err
		})
		if err != nil {
			return nil, err
		}
		for _, x := range lacks {
			x.At, x.What = l.Document.Name+": "+x.At, fmt.Sprintf("by the lifecycle %s %s", l.Document.Name, x.What)
			out = append(out, x)
		}
	}
	return out, nil
}

// Unknown names a drawer that the cabinet in force lacks; "" where it has all.
func (p *Policy) Unknown(r store.Reader, drawers []string) (string, error) {
	rules, err := p.Rules(r)
	if err != nil {
		return "", err
	}
	for _, d := range drawers {
		if rules.cabinet == nil {
			return d, nil
		}
		if _, ok := rules.cabinet.Template(d); !ok {
			return d, nil
		}
	}
	return "", nil
}
