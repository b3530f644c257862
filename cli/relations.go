package cli

import (
	"context"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/internal/wire"
)

// relationCommands say what a part has to do with others.
func relationCommands() []*ucli.Command {
	changed := func(c *ucli.Command, p wire.Part, err error) error {
		if err != nil {
			return err
		}
		return emit(c, p, func() table { return partTable(p) })
	}
	return []*ucli.Command{
		command("merge", "make one part lead to another, which takes over its numbers and sources", "NUMBER SURVIVOR WHY", "jolly part merge EW-R-00171 EW-R-00044 'same part under two numbers'", 3, 3, nil,
			func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				p, err := k.Part(ctx, c.Args().First())
				if err == nil {
					p, err = k.Merge(ctx, p.ID, p.Version, wire.Merge{Into: c.Args().Get(1), Why: c.Args().Get(2)})
				}
				return changed(c, p, err)
			}),
		command("successor", "name the part that replaces another; - withdraws it", "NUMBER SUCCESSOR WHY", "jolly part successor EW-U-00003 EW-U-00007 'maker stopped it'", 3, 3, nil,
			func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				p, err := k.Part(ctx, c.Args().First())
				if err == nil {
					p, err = k.SetSuccessor(ctx, p.ID, p.Version, wire.SuccessorEdit{Number: strings.TrimPrefix(c.Args().Get(1), "-"), Why: c.Args().Get(2)})
				}
				return changed(c, p, err)
			}),
		command("former-number", "let a number from an older list find a part", "NUMBER FORMER", "jolly part former-number EW-R-00044 'OLD 4711'", 2, 2, nil,
			func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				p, err := k.Part(ctx, c.Args().First())
				if err == nil {
					p, err = k.AddFormer(ctx, p.ID, p.Version, c.Args().Get(1))
				}
				return changed(c, p, err)
			}),
	}
}

// viewCommand lists and removes saved views; the console saves them.
func viewCommand() *ucli.Command {
	list := func(c *ucli.Command, l wire.ViewList) error {
		return emit(c, l, func() table {
			t := table{{"Name", "Drawer", "Shared", "By", "Address", "ID"}}
			for _, v := range l.Items {
				shared := ""
				if v.Shared {
					shared = "shared"
				}
				t = append(t, []string{v.Name, v.Drawer, shared, v.By, "/parts?" + v.Query, v.ID})
			}
			return t
		})
	}
	return group("view", "saved views of the parts list", "library",
		command("list", "list your views and those that others share", "", "jolly view list", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Views(ctx)
			if err != nil {
				return err
			}
			return list(c, l)
		}),
		command("save", "save a view under a name", "NAME QUERY", "jolly view save 'small X7R' 'drawer=ceramic-capacitors&f=dielectric:X7R&sort=capacitance' --shared", 2, 2,
			[]ucli.Flag{&ucli.BoolFlag{Name: "shared"}, &ucli.StringFlag{Name: "drawer"}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				v, err := k.SaveView(ctx, wire.ViewEdit{Name: c.Args().Get(0), Query: c.Args().Get(1), Drawer: c.String("drawer"), Shared: c.Bool("shared")})
				if err != nil {
					return err
				}
				return list(c, wire.ViewList{Items: []wire.View{v}})
			}),
		command("drop", "remove a view of yours", "ID", "jolly view drop 0197…", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.DropView(ctx, c.Args().First())
			if err != nil {
				return err
			}
			return list(c, l)
		}),
	)
}
