package reform

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/core/intake"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// AddChoice adds a choice to a parameter of the cabinet: the mend of values that the template does not know yet.
func (s *Reform) AddChoice(ctx context.Context, c deed.Call, in intake.NewChoice) (wire.Cabinet, error) {
	if err := deed.Allow(c, deed.OpCabinet); err != nil {
		return wire.Cabinet{}, err
	}
	cab, ch, err := s.cabinets.InForce(ctx)
	if err != nil {
		return wire.Cabinet{}, err
	}
	doc := cab.Document.Clone()
	i := slices.IndexFunc(doc.Parameters, func(p cabinet.Parameter) bool { return p.Key == in.Parameter })
	if i < 0 || doc.Parameters[i].Type != cabinet.Choice {
		return wire.Cabinet{}, deed.Fault(deed.Invalid, "no-choice", fmt.Sprintf("The parameter dictionary has no choice %q.", in.Parameter), "")
	}
	if choice := strings.TrimSpace(in.Choice); choice != "" && !slices.Contains(doc.Parameters[i].Choices, choice) {
		doc.Parameters[i].Choices = append(doc.Parameters[i].Choices, choice)
	}
	raw, _, err := document.Canonical(doc)
	if err != nil {
		return wire.Cabinet{}, err
	}
	return s.Apply(ctx, c, ch.Version, string(raw))
}
