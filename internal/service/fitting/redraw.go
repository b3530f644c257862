package fitting

import (
	"context"

	"jollydrawer/core/finding"
	"jollydrawer/core/model"
	"jollydrawer/core/model/redraw"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/wire"
)

// TryDrawing makes changes to a drawing for looking at them: the drawing as it becomes, its table, its picture, what the house's rules say, and
// what lies between it and the other models of a part. Nothing is kept.
func (s *Fitting) TryDrawing(ctx context.Context, c deed.Call, in wire.DrawingTry) (wire.DrawingTried, error) {
	out := wire.DrawingTried{Fit: []finding.Finding{}}
	if err := deed.Allow(c, deed.OpModelEdit); err != nil {
		return out, err
	}
	d, err := s.models.Redraws(ctx, in)
	if err != nil {
		return out, err
	}
	how := model.Preview{Ink: models.Ink(in.Theme == "night"), Unit: in.Unit}
	if in.Part != "" {
		if out.Fit, how.Body, err = s.fitWith(ctx, in.Part, &d.Content); err != nil {
			return out, err
		}
	}
	svg, view := d.Sketch(how, 5*d.Step)
	out.Symbol, out.LandPattern, out.Lists, out.Findings = d.Symbol, d.Land, redraw.Lists(&d.Content), d.Findings
	out.SVG, out.View, out.Step = string(svg), view, d.Step
	if out.Selected = d.Selected; out.Selected == nil {
		out.Selected = []int{}
	}
	return out, nil
}

// fitWith says what lies between a drawing and the other models of a part, as if the part used it, and where its body lies.
func (s *Fitting) fitWith(ctx context.Context, key string, c *model.Content) (out []finding.Finding, body *model.Seen, err error) {
	out = []finding.Finding{}
	_, p, err := s.parts.Newest(ctx, key)
	if err != nil {
		return out, nil, err
	}
	f, err := s.models.FitOf(s.Store.Read(ctx), p)
	if err != nil {
		return out, nil, err
	}
	sym, land := c.Symbol, c.Land
	if sym == nil && f.Symbol != nil {
		sym = f.Symbol.Symbol
	}
	if land == nil && f.Land != nil {
		land = f.Land.Land
	}
	if sym != nil && land != nil {
		out = append(out, model.CheckPins(sym, land, f.PinMap())...)
	}
	if c.Land != nil && len(c.Land.Pads) > 0 && f.Body != nil && f.Body.Body != nil {
		out = append(out, model.Fit(f.Body.Body, f.Body.Name, c.Land).Findings...)
		seen := f.Body.Body.Seen(f.Body.Body.PlaceOn(c.Land, f.Body.Name))
		body = &seen
	}
	return out, body, nil
}
