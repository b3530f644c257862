package cli

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/decision"
	"jollydrawer/internal/wire"
)

// decisionCommands list what people decided about rows, and take it back.
func decisionCommands() []*ucli.Command {
	return []*ucli.Command{
		command("decisions", "list what people decided about rows: of one intake with how it stands there, or of all files", "[INTAKE]", "jolly intake decisions IN-00001", 0, 1, []ucli.Flag{
			&ucli.StringFlag{Name: "fate", Usage: "of an intake: holds, needless, otherwise or absent"}, &ucli.StringFlag{Name: "supplier", Usage: "of all files: only of this supplier"},
			&ucli.BoolFlag{Name: "withdrawn", Usage: "of all files: also what was taken back"}, &ucli.IntFlag{Name: "limit", Value: 100}, &ucli.IntFlag{Name: "offset"}}, listDecisions),
		command("withdraw", "take decisions back: in an intake, or for the files that come from now on", "[INTAKE] DECISION...", "jolly intake withdraw IN-00001 4f21c8aa", 1, -1, []ucli.Flag{tryFlag()}, withdrawDecisions),
	}
}

// shortID is as much of a decision's identifier as people type.
const shortID = 8

func decisionTable(l wire.DecisionList) table {
	t := table{{"Decision", "About", "What", "By", "On", "In", "Stands"}}
	for _, d := range l.Items {
		stands, on := "", ""
		if d.Fate != "" {
			stands = d.Fate
			if len(d.Rows) > 0 {
				stands += " in row " + strconv.Itoa(d.Rows[0])
			}
			if len(d.Rows) > 1 {
				stands += fmt.Sprintf(" and %d more", len(d.Rows)-1)
			}
		}
		if d.Withdrawn != "" {
			if stands != "" {
				stands += "; for later files "
			}
			stands += "taken back by " + d.Withdrawn
		}
		if !d.At.IsZero() {
			on = d.At.Local().Format("2006-01-02")
		}
		t = append(t, []string{d.ID[:shortID], d.Row, outcomeWords(d), d.By, on, d.Intake, stands})
	}
	return t
}

// outcomeWords says what was decided.
func outcomeWords(d wire.Decision) string {
	out := ""
	switch decision.Kind(d.Kind) {
	case decision.Out:
		out = "left out"
	case decision.Drawer:
		out = "goes into " + d.Outcome
	case decision.Cell:
		out = fmt.Sprintf("%s: %q for %q", d.Field, d.Outcome, d.Seen[d.Field])
	case decision.Settle:
		out = "settled as " + d.Outcome
	case decision.Accept:
		out = "accepted: " + d.Field
	}
	if d.Why != "" {
		out += ", " + d.Why
	}
	return out
}

func listDecisions(ctx context.Context, c *ucli.Command, k *client.Client) error {
	var l wire.DecisionList
	if c.NArg() == 0 {
		var err error
		if l, err = k.Decisions(ctx, c.String("supplier"), c.Bool("withdrawn"), c.Int("offset"), c.Int("limit")); err != nil {
			return err
		}
	} else {
		i, err := findIntake(ctx, k, c.Args().First())
		if err != nil {
			return err
		}
		if l, err = k.IntakeDecisions(ctx, i.ID, c.String("fate"), c.Int("offset"), c.Int("limit")); err != nil {
			return err
		}
	}
	return emit(c, l, func() table { return decisionTable(l) })
}

// fullIDs finds the identifiers that begin with what was typed.
func fullIDs(typed []string, page func(offset int) (wire.DecisionList, error)) ([]string, error) {
	found := make([][]string, len(typed))
	for offset := 0; ; {
		l, err := page(offset)
		if err != nil {
			return nil, err
		}
		for _, d := range l.Items {
			for i, s := range typed {
				if strings.HasPrefix(d.ID, strings.ToLower(s)) {
					found[i] = append(found[i], d.ID)
				}
			}
		}
		if offset += len(l.Items); len(l.Items) == 0 || offset >= l.Page.Total {
			break
		}
	}
	var out []string
	for i, all := range found {
		switch len(all) {
		case 1:
			out = append(out, all[0])
		case 0:
			return nil, Usage("there is no decision %q: see jolly intake decisions", typed[i])
		default:
			return nil, Usage("%q begins the identifiers of %d decisions: type more of it", typed[i], len(all))
		}
	}
	return out, nil
}

func withdrawDecisions(ctx context.Context, c *ucli.Command, k *client.Client) error {
	if i, err := findIntake(ctx, k, c.Args().First()); err == nil {
		ids, err := fullIDs(c.Args().Tail(), func(offset int) (wire.DecisionList, error) { return k.IntakeDecisions(ctx, i.ID, "", offset, 500) })
		if err != nil {
			return err
		}
		if len(ids) == 0 {
			return Usage("withdraw needs decisions: see jolly intake decisions %s", i.Number)
		}
		return edited(ctx, c, k, i, wire.IntakeEdit{Withdraw: ids})
	}
	if c.Bool("try") {
		return Usage("--try needs an intake: what is taken back for later files changes no row yet")
	}
	ids, err := fullIDs(c.Args().Slice(), func(offset int) (wire.DecisionList, error) { return k.Decisions(ctx, "", false, offset, 500) })
	if err != nil {
		return err
	}
	w, err := k.WithdrawDecisions(ctx, wire.WithdrawDecisions{IDs: ids})
	if err != nil {
		return err
	}
	return emit(c, w, func() table { return pairs("Taken back", strconv.Itoa(w.Decisions)) })
}
