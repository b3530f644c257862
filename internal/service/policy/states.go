package policy

import (
	"context"
	"fmt"
	"strings"

	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/follow"
	"jollydrawer/internal/store"
)

// StatesOf says what the lookup index shows of the states of parts, by the lifecycles in force now, and names what that hangs on.
func (p *Policy) StatesOf(ctx context.Context) (follow.StatesOf, string, error) {
	rules, err := p.Rules(p.Store.Read(ctx))
	return rules.states, rules.String(), err
}

// String names the lifecycles in force and the drawers that name them.
func (r Rules) String() string {
	var out []string
	for _, l := range r.All() {
		out = append(out, fmt.Sprint(l.Document.Name, " ", l.Revision))
	}
	if r.cabinet != nil {
		for _, d := range r.cabinet.Document.Drawers {
			if d.Lifecycle != "" {
				out = append(out, d.Key+": "+d.Lifecycle)
			}
		}
	}
	return strings.Join(out, ", ")
}

func (r Rules) states(h store.Head) follow.States {
	status, standing := r.Status(h), r.Standing(h)
	out := follow.States{Status: lifecycle.Status(status.Key), Standing: lifecycle.Standing(standing.Key)}
	if status.Meaning == lifecycle.MeansDraft || status.Meaning == lifecycle.MeansReview {
		if status.Use != lifecycle.UseNo { // that nothing is released is said anyway
			status.Use = lifecycle.UseYes
		}
	}
	if worse := Worse(status.Use, standing.Use); worse != lifecycle.UseYes {
		out.Use, out.Flag = worse, standing.Word
		if status.Use == worse {
			out.Flag = status.Word
		}
	}
	return out
}

// CurrentID names the cabinet and the lifecycles in force: what the lookup index was built under.
func (p *Policy) CurrentID(ctx context.Context) string {
	rules, err := p.Rules(p.Store.Read(ctx))
	if err != nil {
		return ""
	}
	return p.cabinets.CurrentID(ctx) + ", " + rules.String()
}
