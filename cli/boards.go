package cli

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/buying"
	"jollydrawer/internal/wire"
)

func boardCommands() []*ucli.Command {
	question := []ucli.Flag{&ucli.StringFlag{Name: "maker", Usage: "the parts with a source of this maker"}, &ucli.StringFlag{Name: "mpn", Usage: "the parts with this source; --maker says whose"},
		&ucli.StringFlag{Name: "supplier", Usage: "the parts that this supplier sells"}, &ucli.StringFlag{Name: "model", Usage: "the parts that use this symbol, land pattern or body"},
		&ucli.StringFlag{Name: "datasheet", Usage: "the parts with this datasheet, their own or their series': a part of its file's name, or its hash"},
		&ucli.StringFlag{Name: "board", Usage: "the boards that take this BOM"}}
	return []*ucli.Command{
		command("where", "say on which boards and frozen revisions a part is, or the parts of a maker, a source, a supplier, a model or a datasheet", "[PART]", "jolly bom where EW-R-00042", 0, 1, question, whereUsed),
		command("instead", "say what is left, and what could take the place of a part, or of the parts of a maker, a source or a supplier, were they gone", "[PART]", "jolly bom instead --maker Tidewright", 0, 1, question, instead),
		command("replace", "put a part in another's place on boards in one deed; without --yes only say what that would do", "PART WITH [BOM...]", "jolly bom replace EW-R-00042 EW-R-00048 --reason 'its maker stops' --yes", 2, -1,
			[]ucli.Flag{&ucli.StringFlag{Name: "reason", Usage: "kept with each line"}, &ucli.BoolFlag{Name: "yes", Usage: "do it"}}, replacePart),
	}
}

func usedAsked(c *ucli.Command) wire.UsedAsked {
	return wire.UsedAsked{Part: c.Args().First(), Maker: c.String("maker"), MPN: c.String("mpn"), Supplier: c.String("supplier"), Model: c.String("model"), Datasheet: c.String("datasheet"), Board: c.String("board")}
}

// allUsed reads every page of an answer.
func allUsed(ctx context.Context, k *client.Client, in wire.UsedAsked) (all wire.WhereUsed, err error) {
	in.Limit = 1000
	if in.Instead {
		in.Limit = 50
	}
	for {
		in.Offset = len(all.Items)
		page, err := k.WhereUsed(ctx, in)
		if err != nil {
			return all, err
		}
		all.Page, all.Boards, all.Items = page.Page, page.Boards, append(all.Items, page.Items...)
		if len(page.Items) == 0 || len(all.Items) >= page.Page.Total {
			return all, nil
		}
	}
}

// byWay are the places where a board takes a part, and the other boards by way of which it does.
func byWay(b wire.UsedOn) string {
	out := strings.Join(b.Designators, ", ")
	if len(b.By) > 0 {
		out += " by way of " + strings.Join(b.By, ", ")
	}
	return out
}

func whereUsed(ctx context.Context, c *ucli.Command, k *client.Client) error {
	all, err := allUsed(ctx, k, usedAsked(c))
	if err != nil {
		return err
	}
	err = emit(c, all, func() table {
		t := table{{"Part", "Board", "Revision", "Designators", "Pieces", "A build", "A year"}}
		for _, p := range all.Items {
			for _, b := range p.Boards {
				revision, build, year := "now", "", ""
				if b.Revision > 0 {
					revision = fmt.Sprintf("%d, pinned to %d", b.Revision, b.PartRevision)
				}
				if b.Build > 0 {
					build = strconv.FormatInt(b.Build*b.Pieces, 10)
				}
				if b.Yearly > 0 {
					year = strconv.FormatInt(b.Yearly, 10)
				}
				t = append(t, []string{p.Part.Number, b.Name, revision, byWay(b), strings.Join(append([]string{strconv.FormatInt(b.Pieces, 10)}, b.Amounts...), ", "), build, year})
			}
		}
		return t
	})
	if err == nil {
		fmt.Fprintf(c.Root().ErrWriter, "%s on %s as they stand now\n", counted(len(all.Items), "part"), counted(all.Boards, "board"))
	}
	return err
}

func counted(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

func instead(ctx context.Context, c *ucli.Command, k *client.Client) error {
	in := usedAsked(c)
	in.Instead = true
	all, err := allUsed(ctx, k, in)
	if err != nil {
		return err
	}
	return emit(c, all, func() table {
		t := table{{"Part", "Boards", "Pieces", "Could be taken", "Buy", "What is to be said of it"}}
		for _, p := range all.Items {
			boards := map[string]bool{}
			for _, b := range p.Boards {
				if b.Revision == 0 {
					boards[b.Name] = true
				}
			}
			row := []string{p.Part.Number, strconv.Itoa(len(boards)), strconv.FormatInt(p.Needs, 10)}
			n := len(t)
			for _, l := range p.Left {
				t = append(t, append(row, l.Manufacturer+" "+l.MPN, bought(l.Buy), "a source of its own that is left"))
				row = []string{"", "", ""}
			}
			for _, x := range p.Instead {
				t = append(t, append(row, x.Part.Number, bought(x.Buy), strings.Join(slices.Concat([]string{x.Why}, x.Differs, x.Against), "; ")))
				row = []string{"", "", ""}
			}
			if len(t) == n {
				t = append(t, append(row, "nothing", "", ""))
			}
		}
		return t
	})
}

// bought says what is bought, in short.
func bought(b *buying.Bought) string {
	if b == nil {
		return "no price"
	}
	s := fmt.Sprintf("%s for %d from %s", b.Total, b.Pieces, b.Supplier)
	if b.Short {
		s += ", short"
	}
	return s
}

func replacePart(ctx context.Context, c *ucli.Command, k *client.Client) error {
	in := wire.Replacement{Part: c.Args().First(), With: c.Args().Get(1), BOMs: c.Args().Slice()[2:], Reason: c.String("reason")}
	if c.Bool("yes") && strings.TrimSpace(in.Reason) == "" {
		return Usage("a replacement needs --reason: it is kept with each line")
	}
	seen, err := k.ReplacePart(ctx, in)
	if err != nil {
		return err
	}
	if c.Bool("yes") && len(seen.Boards) > 0 {
		in.Digest = seen.Digest
		if seen, err = k.ReplacePart(ctx, in); err != nil {
			return err
		}
	}
	if err := emit(c, seen, func() table {
		t := table{{"Board", "Rows", "Designators", "The lines say otherwise"}}
		for _, b := range seen.Boards {
			var rows []string
			for _, r := range b.Rows {
				rows = append(rows, strconv.Itoa(r))
			}
			t = append(t, []string{b.Name, strings.Join(rows, ", "), strings.Join(b.Designators, ", "), strings.Join(b.Against, "; ")})
		}
		return t
	}); err != nil {
		return err
	}
	w := c.Root().ErrWriter
	for _, d := range seen.Differs {
		fmt.Fprintf(w, "%s is otherwise: %s\n", seen.To.Number, d)
	}
	switch {
	case len(seen.Boards) == 0:
		fmt.Fprintf(w, "no board takes %s\n", seen.From.Number)
	case seen.Done:
		fmt.Fprintf(w, "%s is in the place of %s on %s\n", seen.To.Number, seen.From.Number, counted(len(seen.Boards), "board"))
	default:
		fmt.Fprintf(w, "%s would be in the place of %s on %s; --yes does it\n", seen.To.Number, seen.From.Number, counted(len(seen.Boards), "board"))
	}
	return nil
}
