package cli

import (
	"context"
	"fmt"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/internal/wire"
)

func chooseLand(ctx context.Context, c *ucli.Command, k *client.Client) error {
	if c.Args().Len() == 2 {
		return Usage("part land needs a NUMBER, what to do and the NAME of a land pattern; or a NUMBER alone")
	}
	p, err := k.Part(ctx, c.Args().First())
	if err == nil && c.Args().Len() == 3 {
		p, err = k.ChooseLand(ctx, p.ID, p.Version, wire.ChooseLand{Do: c.Args().Get(1), Model: c.Args().Get(2), For: c.String("for")})
	}
	if err != nil {
		return err
	}
	content := p.Newest()
	return emit(c, p, func() table {
		t := table{{"Land pattern", "Revision", "For"}}
		if m := content.LandPattern; m != nil {
			t = append(t, []string{m.Name, fmt.Sprint(m.Revision), "the default"})
		}
		for _, o := range content.OtherLands {
			t = append(t, []string{o.Model.Name, fmt.Sprint(o.Model.Revision), o.For})
		}
		return t
	})
}
