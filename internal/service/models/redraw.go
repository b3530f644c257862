package models

import (
	"context"
	"fmt"

	"jollydrawer/core/finding"
	"jollydrawer/core/model"
	"jollydrawer/core/model/redraw"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Redrawn is a drawing with the changes made that were asked for, not yet shown.
type Redrawn struct {
	Drawing
	Selected []int
	Step     model.Length
	Findings []wire.ModelFinding
}

// Redraws makes the changes of a try to its drawing and looks at what comes of it by the house's rules. Nothing is kept.
func (s *Models) Redraws(ctx context.Context, in wire.DrawingTry) (out Redrawn, err error) {
	c := model.Content{Kind: model.Kind(in.Kind), Name: in.Name, Symbol: in.Symbol, Land: in.LandPattern}
	switch {
	case c.Kind == model.KindSymbol && c.Land == nil:
		if c.Symbol == nil {
			c.Symbol = &model.Symbol{Pins: []model.Pin{}}
		}
	case c.Kind == model.KindLand && c.Symbol == nil:
		if c.Land == nil {
			c.Land = &model.LandPattern{Pads: []model.Pad{}}
		}
	default:
		return out, deed.Fault(deed.Invalid, "drawing-other", fmt.Sprintf("The drawing is none of a %s.", c.Kind), "A symbol or a land pattern can be changed in the table.")
	}
	head, err := store.ParseID(in.Model)
	if err != nil && in.Model != "" {
		return out, deed.Fault(deed.Unknown, "not-found", "There is no such model.", "")
	}
	house, waived, err := s.houseRules(s.Store.Read(ctx), head)
	if err != nil {
		return out, err
	}
	if err := redraw.Whole(&c); err != nil {
		return out, deed.Fault(deed.Invalid, "model-wrong", fmt.Sprintf("The drawing cannot be looked at: %v.", err), "Correct it.")
	}
	for i, ch := range in.Changes {
		if c, out.Selected, err = redraw.Apply(c, house, ch); err != nil {
			what := "Nothing was changed: "
			if len(in.Changes) > 1 {
				what = fmt.Sprintf("Nothing was changed, for change %d cannot be made: ", i+1)
			}
			return out, deed.Fault(deed.Invalid, "change-refused", what+err.Error()+".", "")
		}
	}
	out.Content, out.Step, out.Findings = c, redraw.Step(&c, house), []wire.ModelFinding{}
	if err := c.Check(); err != nil && c.Name != "" {
		out.Findings = append(out.Findings, wire.ModelFinding{Finding: finding.Finding{Severity: finding.Error, Cause: "model-wrong", What: err.Error(), Mend: "it cannot be kept like this"}})
		return out, nil
	}
	out.Findings = Findings(&out.Drawing, head, house, waived)
	return out, nil
}
