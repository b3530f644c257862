package cli

import (
	"context"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/internal/wire"
)

func commentCommand() *ucli.Command {
	show := func(c *ucli.Command, l wire.CommentList, err error) error {
		if err != nil {
			return err
		}
		return emit(c, l, func() table {
			t := table{{"Comment", "When", "State", "What was said"}}
			for _, x := range l.Items {
				state := "open"
				if x.Settled {
					state = "settled"
				}
				text := x.By + ": " + x.Text
				if x.About != "" {
					text = "(" + x.About + ") " + text
				}
				if x.Answers != "" {
					state, text = "", "↳ "+text
				}
				t = append(t, []string{x.ID, since(x.At), state, text})
			}
			return t
		})
	}
	return group("comment", "what people say about a thing or one of its values", "work",
		command("list", "list what was said, oldest first", "THING", "jolly comment list EW-R-00045", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Comments(ctx, c.Args().First(), 0, 1000)
			return show(c, l, err)
		}),
		command("say", "say something about a part, or about a model, BOM or want by its identifier", "THING TEXT", "jolly comment say EW-R-00045 'the datasheet says 5 %' --about values.tolerance", 2, 2,
			[]ucli.Flag{&ucli.StringFlag{Name: "about", Usage: "`KEY` of a value, as values.tolerance"}, &ucli.StringFlag{Name: "answers", Usage: "`COMMENT` that it answers"}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				l, err := k.Say(ctx, c.Args().Get(0), wire.NewComment{Text: c.Args().Get(1), About: c.String("about"), Answers: c.String("answers")})
				return show(c, l, err)
			}),
		command("settle", "settle a comment with its answers", "COMMENT", "jolly comment settle 0198…", 1, 1, []ucli.Flag{&ucli.BoolFlag{Name: "open", Usage: "open it again instead"}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.SettleComment(ctx, c.Args().First(), !c.Bool("open"))
			return show(c, l, err)
		}))
}

// holdCommands hold a part for editing, and let go of it.
func holdCommands() []*ucli.Command {
	show := func(c *ucli.Command, l wire.Life, err error) error {
		if err != nil {
			return err
		}
		return emit(c, l, func() table {
			if l.Hold == nil {
				return table{{"Nobody holds it."}}
			}
			return pairs("Held by", l.Hold.By, "Until", l.Hold.Until.UTC().Format("2006-01-02 15:04 UTC"), "Why", l.Hold.Why)
		})
	}
	return []*ucli.Command{
		command("hold", "hold a part, or a model by its identifier: others do not change its content meanwhile", "PART WHY", "jolly part hold EW-U-00019 'new land pattern' --hours 24", 2, 2,
			[]ucli.Flag{&ucli.IntFlag{Name: "hours", Usage: "that it lasts; a working day where it is left out", Value: 8}, &ucli.BoolFlag{Name: "take-over", Usage: "also where somebody else holds it; for librarians"}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				l, err := k.Hold(ctx, c.Args().Get(0), wire.TakeHold{Why: c.Args().Get(1), Hours: c.Int("hours"), TakeOver: c.Bool("take-over")})
				return show(c, l, err)
			}),
		command("let-go", "let go of a part that you hold", "PART", "jolly part let-go EW-U-00019", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.LetGo(ctx, c.Args().First())
			return show(c, l, err)
		}),
	}
}
