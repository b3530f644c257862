package policy

import (
	"errors"
	"fmt"
	"strings"

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

// Possible refuses people and groups by which nobody could make some move.
func (p *Policy) Possible(r store.Reader) error {
	rules, err := p.Rules(r)
	if err != nil {
		return err
	}
	for _, l := range rules.All() {
		if l.Revision == 0 {
			continue // it asks for roles only
		}
		err := Manned(r, l.Lifecycle)
		if store.Transient(err) {
			return err
		}
		var e *deed.Error
		if err != nil && !errors.As(err, &e) {
			return deed.Fault(deed.Clash, "nobody-left", fmt.Sprintf("Nothing was changed, because by the lifecycle %s %s.", l.Document.Name, strings.TrimSuffix(err.Error(), ".")), "Leave enough people in the group, or change the lifecycle first.")
		}
		if err != nil {
			return err
		}
	}
	return nil
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
