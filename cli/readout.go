package cli

import (
	"context"
	"fmt"
	"slices"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/internal/wire"
)

// showReadout lists the views that design tools find, or the columns of one.
func showReadout(ctx context.Context, c *ucli.Command, k *client.Client) error {
	r, err := k.Readout(ctx)
	if err != nil {
		return err
	}
	if want := c.Args().First(); want != "" {
		at := slices.IndexFunc(r.Drawers, func(d wire.ReadoutDrawer) bool { return d.Drawer == want || d.View == want })
		if at < 0 {
			return fmt.Errorf("there is no drawer %q that holds parts: jolly readout show lists them", want)
		}
		return emit(c, r.Drawers[at], func() table { return columnsOf(r, r.Drawers[at]) })
	}
	return emit(c, r, func() table {
		t := table{{"View", "Drawer", "Columns", "State", "Remark"}}
		for _, d := range r.Drawers {
			state := "being made"
			if d.Ready {
				state = "ready"
			}
			if !r.On {
				state = "off"
			}
			remark := ""
			if len(d.Notes) > 0 {
				remark = fmt.Sprintf("%d called otherwise than the parameter", len(d.Notes))
			}
			t = append(t, []string{d.View, d.Label, fmt.Sprint(len(r.Fixed) + len(d.Columns)), state, remark})
		}
		if r.On {
			t = append(t, []string{}, []string{"Schema " + r.Schema}, []string{"Sign in as " + r.Account})
		} else {
			t = append(t, []string{}, []string{"The service keeps no tables: start it with --readout-dsn (see jolly grants)."})
		}
		if r.Problem != "" {
			t = append(t, []string{"Not kept lately: " + r.Problem})
		}
		return t
	})
}

func columnsOf(r wire.Readout, d wire.ReadoutDrawer) table {
	t := table{{"Column", "Type", "Quick to sort", "Says"}}
	for _, col := range r.Fixed {
		t = append(t, []string{col.Name, "TEXT", "", col.Says})
	}
	for _, col := range d.Columns {
		quick := ""
		if col.Indexed {
			quick = "yes"
		}
		t = append(t, []string{col.Name, col.Type, quick, col.Says})
	}
	for _, n := range d.Notes {
		t = append(t, []string{n})
	}
	return t
}
