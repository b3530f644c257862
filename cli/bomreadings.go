package cli

import (
	"context"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/internal/wire"
)

// originFlag says who or what a file comes from.
func originFlag() ucli.Flag {
	return &ucli.StringFlag{Name: "origin", Usage: "who or what the file comes from: what was taught for that origin counts"}
}

// learnFlags say how far a choice goes.
func learnFlags() []ucli.Flag {
	return []ucli.Flag{reasonFlag(),
		&ucli.BoolFlag{Name: "alike", Usage: "for every other open line that asks for the same, too"},
		&ucli.StringFlag{Name: "learn", Usage: "for the next files with these headings from this origin: propose the part to such lines, or link it where a fact agrees and nothing speaks against it (propose, link)"}}
}

// choiceOf is a choice with what is said of how far it goes.
func choiceOf(c *ucli.Command, row int, part string) (wire.BOMChoice, error) {
	learn := c.String("learn")
	if learn != "" && learn != "propose" && learn != wire.LearnLink {
		return wire.BOMChoice{}, Usage("--learn is propose or link")
	}
	return wire.BOMChoice{Row: row, Part: part, Reason: c.String("reason"), Alike: c.Bool("alike"), Learn: learn}, nil
}

func readingCommands() []*ucli.Command {
	return []*ucli.Command{
		command("origin", "say who or what a BOM's files come from", "BOM ORIGIN", "jolly bom origin tide-logger 'Harbour office'", 2, 2, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			b, err := k.BOM(ctx, c.Args().First())
			if err != nil {
				return err
			}
			if b, err = k.BOMOrigin(ctx, b.ID, b.Version, wire.BOMOrigin{Origin: c.Args().Get(1)}); err != nil {
				return err
			}
			return showBOM(c, b)
		}),
		command("mark", "say that lines are no parts of the library: boards, labels, fiducials, consumables", "BOM LINE...", "jolly bom mark tide-logger J3 --reason 'test pads' --learn link", 2, -1, learnFlags(), markLines),
		command("nest", "say that a line is another BOM: the board takes what a frozen revision of it is made of", "BOM LINE OTHER", "jolly bom nest station M1 mast", 3, 3, []ucli.Flag{variantFlag(), &ucli.StringFlag{Name: "reason", Usage: "kept with the line"}}, nestBOM),
		command("learned", "list what people taught that lines stand for: for files like a BOM's, or for all", "[BOM]", "jolly bom learned tide-logger", 0, 1,
			[]ucli.Flag{&ucli.StringFlag{Name: "withdraw", Usage: "take the reading of such lines back: what they say, as it is listed, or its ID"}}, listReadings),
	}
}

func markLines(ctx context.Context, c *ucli.Command, k *client.Client) error {
	b, rows, err := namedLines(ctx, c, k)
	if err != nil {
		return err
	}
	var in wire.BOMChoices
	for _, row := range rows {
		one, err := choiceOf(c, row, "")
		if err != nil {
			return err
		}
		one.None = true
		in.Choose = append(in.Choose, one)
	}
	if b, err = k.ChooseBOM(ctx, b.ID, b.Version, in); err != nil {
		return err
	}
	return showBOM(c, b)
}

func nestBOM(ctx context.Context, c *ucli.Command, k *client.Client) error {
	b, l, err := namedLine(ctx, c, k)
	if err != nil {
		return err
	}
	one := wire.BOMChoice{Row: l.Row, Board: c.Args().Get(2), Variant: c.String("variant"), Reason: c.String("reason")}
	if b, err = k.ChooseBOM(ctx, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{one}}); err != nil {
		return err
	}
	return showBOM(c, b)
}

func listReadings(ctx context.Context, c *ucli.Command, k *client.Client) error {
	all, err := allReadings(ctx, c, k)
	if err != nil {
		return err
	}
	if which := c.String("withdraw"); which != "" {
		id, n := which, 0
		for _, r := range all.Items {
			if r.Text == which {
				id, n = r.ID, n+1
			}
		}
		if n > 1 {
			return Usage("%d readings are of lines that say %q: name the BOM, or the ID of one (--json)", n, which)
		}
		if _, err := k.WithdrawReading(ctx, wire.WithdrawReading{ID: id}); err != nil {
			return err
		}
		if all, err = allReadings(ctx, c, k); err != nil {
			return err
		}
	}
	return emit(c, all, func() table {
		t := table{{"Lines that say", "Are", "", "Origin", "By", "When"}}
		for _, r := range all.Items {
			how, part := "proposed", r.Part
			if r.None {
				part = r.Description
			}
			if r.Links {
				how = "linked"
			}
			if r.Void != "" {
				how = "void: " + r.Void
			}
			t = append(t, []string{r.Text, part, how, strings.TrimSpace(r.Origin), r.By, r.At.Local().Format("2006-01-02")})
		}
		return t
	})
}

// allReadings reads every page of what was taught.
func allReadings(ctx context.Context, c *ucli.Command, k *client.Client) (all wire.Readings, err error) {
	for {
		page, err := k.Readings(ctx, wire.ReadingsAsked{BOM: c.Args().First(), Offset: len(all.Items), Limit: 1000})
		if err != nil {
			return all, err
		}
		all.Items = append(all.Items, page.Items...)
		if all.Page = page.Page; len(page.Items) == 0 || len(all.Items) >= page.Page.Total {
			return all, nil
		}
	}
}
