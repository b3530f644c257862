package cli

import (
	"context"
	"fmt"
	"strconv"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/internal/wire"
)

// much says how much waits of a kind, or how much at least.
func much(kind wire.WorkKind) string {
	if kind.AtLeast {
		return fmt.Sprintf("%d or more", kind.Total)
	}
	return strconv.Itoa(kind.Total)
}

func worklistCommand() *ucli.Command {
	c := command("worklist", "what waits for you and your groups", "", "jolly worklist", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
		w, err := k.Worklist(ctx)
		if err != nil {
			return err
		}
		return emit(c, w, func() table {
			t := table{{"What waits", "Since", "Thing", "What", "Remark"}}
			for _, kind := range w.Kinds {
				t = append(t, []string{kind.Title + " (" + much(kind) + ")", "", "", kind.Empty + kind.Problem, ""})
				for _, i := range kind.Items {
					t = append(t, []string{"", since(i.Since), i.Name, i.What, i.Remark})
				}
			}
			return t
		})
	})
	c.Category = "work"
	return c
}
