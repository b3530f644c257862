package cli

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/internal/wire"
)

func reviewCommand() *ucli.Command {
	kind := &ucli.StringFlag{Name: "model", Usage: "the thing is a model of this `KIND`: symbol, land pattern, body or pin map"}
	board := &ucli.BoolFlag{Name: "bom", Usage: "the thing is a BOM"}
	return group("review", "what waits for a second person", "library",
		command("queue", "list what waits for a review, what waits longest first", "", "jolly review queue --mine", 0, 0, []ucli.Flag{&ucli.BoolFlag{Name: "mine", Usage: "only what you may review"}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			q, err := k.Queue(ctx, c.Bool("mine"), 0, 1000)
			if err != nil {
				return err
			}
			return emit(c, q, func() table {
				t := table{{"Since", "Thing", "What", "State", "By", "For", "Taken by"}}
				for _, i := range q.Items {
					t = append(t, []string{since(i.Since), i.Number, i.What, i.State.Word, strings.Join(i.Authors, ", "), strings.Join(i.Groups, ", "), i.Taken})
				}
				return t
			})
		}),
		command("show", "print the review list of a thing", "NAME", "jolly review show EW-R-00001", 1, 1, []ucli.Flag{kind, board}, reviewing(func(_ context.Context, _ *ucli.Command, _ *client.Client, r wire.Review) (wire.Review, error) {
			return r, nil
		})),
		command("take", "take a thing, so that others see that you are at it; --let-go gives it back", "NAME", "jolly review take EW-R-00001", 1, 1, []ucli.Flag{kind, board, &ucli.BoolFlag{Name: "let-go"}},
			reviewing(func(ctx context.Context, c *ucli.Command, k *client.Client, r wire.Review) (wire.Review, error) {
				return k.TakeTurn(ctx, r.ID, r.Version, c.Bool("let-go"))
			})),
		command("tick", "tick items of the review list, by their keys", "NAME ITEM...", "jolly review tick EW-R-00001 values.resistance values.tolerance", 2, -1, []ucli.Flag{kind, board, &ucli.BoolFlag{Name: "untick"}},
			reviewing(func(ctx context.Context, c *ucli.Command, k *client.Client, r wire.Review) (wire.Review, error) {
				return k.Tick(ctx, r.ID, r.Version, wire.TickItems{Items: c.Args().Slice()[1:], Untick: c.Bool("untick")})
			})),
		command("sign", "sign the review list, as laid beside a datasheet", "NAME AGAINST", "jolly review sign EW-R-00001 'datasheet TW-0805, page 2' --all", 2, 2, []ucli.Flag{kind, board, &ucli.BoolFlag{Name: "all", Usage: "you looked at every item: those that are not ticked are"}},
			reviewing(func(ctx context.Context, c *ucli.Command, k *client.Client, r wire.Review) (wire.Review, error) {
				return k.SignReview(ctx, r.ID, r.Version, wire.SignReview{Against: c.Args().Get(1), All: c.Bool("all")})
			})),
		command("together", "lay the parts that wait for you beside each other that have a part's datasheet in common; --sign signs all that is shown", "NUMBER", "jolly review together EW-R-00001 --sign 'datasheet TW-0805, page 2' --all", 1, 1,
			[]ucli.Flag{&ucli.StringFlag{Name: "sign", Usage: "sign all of them, as laid `AGAINST` this"}, &ucli.BoolFlag{Name: "all", Usage: "you looked at every item: those that are not ticked are"}},
			func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				r, err := k.ReviewTogether(ctx, c.Args().First())
				if err != nil {
					return err
				}
				if c.String("sign") != "" && len(r.Parts) > 0 {
					in := wire.SignMany{SignReview: wire.SignReview{Against: c.String("sign"), All: c.Bool("all")}}
					for _, p := range r.Parts {
						in.Things = append(in.Things, wire.PartBase{ID: p.ID, Version: p.Version})
					}
					if _, err := k.SignMany(ctx, in); err != nil {
						return err
					}
					if r, err = k.ReviewTogether(ctx, c.Args().First()); err != nil {
						return err
					}
				}
				return emit(c, r, func() table { return together(r) })
			}),
	)
}

// together is a table with a column for each item that parts do not say alike.
func together(r wire.TogetherReview) table {
	head := []string{"Part"}
	for _, d := range r.Differ {
		head = append(head, d.Label)
	}
	t := table{append(head, "Open", "Signed by")}
	for at, p := range r.Parts {
		row := []string{p.Number}
		for _, d := range r.Differ {
			text := ""
			for _, i := range p.Items {
				if i.Key == d.Items[at] {
					text = i.Text
				}
			}
			row = append(row, text)
		}
		var by []string
		for _, s := range p.Signed {
			if s.Current {
				by = append(by, s.By)
			}
		}
		t = append(t, append(row, strconv.Itoa(p.Open), strings.Join(by, ", ")))
	}
	alike := []string{}
	for _, i := range r.Alike {
		alike = append(alike, i.Label+" "+i.Text)
	}
	if r.More {
		t = append(t, []string{"more of them wait than are shown"})
	}
	if len(alike) > 0 {
		t = append(t, []string{"all: " + strings.Join(alike, "; ")})
	}
	return t
}

// reviewing does something with the review list of the thing that is named first, and prints the list as it is then.
func reviewing(do func(context.Context, *ucli.Command, *client.Client, wire.Review) (wire.Review, error)) func(context.Context, *ucli.Command, *client.Client) error {
	return func(ctx context.Context, c *ucli.Command, k *client.Client) error {
		key := c.Args().First()
		if kind := c.String("model"); kind != "" {
			m, err := k.Model(ctx, kind+": "+key)
			if err != nil {
				return err
			}
			key = m.ID
		}
		if c.Bool("bom") {
			b, err := k.BOM(ctx, key)
			if err != nil {
				return err
			}
			key = b.ID
		}
		r, err := k.Review(ctx, key)
		if err == nil {
			r, err = do(ctx, c, k, r)
		}
		if err != nil {
			return err
		}
		return emit(c, r, func() table {
			t := table{{"Item", "What", "Says", "Ticked by"}}
			for _, i := range r.Items {
				by := strings.Join(i.By, ", ")
				if by == "" && i.Changed {
					by = "changed since it was ticked"
				}
				t = append(t, []string{i.Key, i.Label, i.Text, by})
			}
			for _, s := range r.Signed {
				what := "signed: " + s.Against
				if !s.Current {
					what = "signed an earlier content: " + s.Against
				}
				if s.Author {
					what += " (by an author)"
				}
				t = append(t, []string{"", "Signature", what, s.By})
			}
			return t
		})
	}
}

// since says in a word how long ago something was.
func since(at time.Time) string {
	switch d := time.Since(at); {
	case d < time.Hour:
		return fmt.Sprintf("%d min", int(d.Minutes()))
	case d < 48*time.Hour:
		return fmt.Sprintf("%d h", int(d.Hours()))
	default:
		return fmt.Sprintf("%d days", int(d.Hours()/24))
	}
}

func groupCommand() *ucli.Command {
	about := []ucli.Flag{&ucli.StringFlag{Name: "about"}, &ucli.StringSliceFlag{Name: "member", Usage: "`LOGIN` of a person; may be given several times"},
		&ucli.StringSliceFlag{Name: "drawer", Usage: "`KEY` of a drawer that the group answers for"}, &ucli.StringSliceFlag{Name: "model", Usage: "`KIND` of model that it answers for"}}
	show := func(c *ucli.Command, l wire.GroupList) error {
		return emit(c, l, func() table {
			t := table{{"Group", "About", "People", "Drawers", "Models"}}
			for _, g := range l.Items {
				var people []string
				for _, m := range g.Members {
					people = append(people, m.Login)
				}
				t = append(t, []string{g.Name, g.About, strings.Join(people, ", "), strings.Join(g.Drawers, ", "), strings.Join(g.Kinds, ", ")})
			}
			return t
		})
	}
	return group("group", "people who answer for drawers or kinds of model", "people",
		command("list", "list the groups", "", "jolly group list", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Groups(ctx)
			if err != nil {
				return err
			}
			return show(c, l)
		}),
		command("set", "make a group, or say anew who is in it and what it answers for", "NAME", "jolly group set 'Analog reviewers' --member tomas --member ines --drawer resistors", 1, 1, about, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			in := wire.GroupEdit{Name: c.Args().First(), About: c.String("about"), Members: append([]string{}, c.StringSlice("member")...), Drawers: c.StringSlice("drawer"), Kinds: c.StringSlice("model")}
			l, err := k.Groups(ctx)
			if err != nil {
				return err
			}
			if g, ok := groupNamed(l, in.Name); ok {
				l, err = k.ChangeGroup(ctx, g.ID, g.Version, in)
			} else {
				l, err = k.AddGroup(ctx, in)
			}
			if err != nil {
				return err
			}
			return show(c, l)
		}),
		command("drop", "remove a group that no lifecycle names", "NAME", "jolly group drop 'Analog reviewers'", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Groups(ctx)
			if err != nil {
				return err
			}
			g, ok := groupNamed(l, c.Args().First())
			if !ok {
				return fmt.Errorf("there is no group %s; see jolly group list", strconv.Quote(c.Args().First()))
			}
			if l, err = k.DropGroup(ctx, g.ID, g.Version); err != nil {
				return err
			}
			return show(c, l)
		}),
	)
}

func groupNamed(l wire.GroupList, name string) (wire.Group, bool) {
	for _, g := range l.Items {
		if strings.EqualFold(g.Name, name) {
			return g, true
		}
	}
	return wire.Group{}, false
}
