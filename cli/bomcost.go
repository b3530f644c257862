package cli

import (
	"cmp"
	"context"
	"fmt"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/buying"
	"jollydrawer/internal/wire"
)

// costOfBOMs are the commands about what builds of BOMs come to.
func costOfBOMs() []*ucli.Command {
	return []*ucli.Command{
		command("cost", "say what a build comes to by what suppliers said last: what is bought where, and what has no price", "BOM[@REVISION]", "jolly bom cost tide-logger --boards 40", 1, 1,
			[]ucli.Flag{variantFlag(), &ucli.Int64Flag{Name: "boards", Usage: "boards that are built at once; usually those of its build"}, &ucli.Int64SliceFlag{Name: "beside", Usage: "other numbers of boards to work out the sums for"}, &ucli.BoolFlag{Name: "sums", Usage: "only the sums, a row for each number of boards"}}, costBOM),
		command("ready", "say how far a BOM is from a board that can be built", "BOM[@REVISION]", "jolly bom ready tide-logger", 1, 1, []ucli.Flag{variantFlag(), &ucli.Int64Flag{Name: "boards", Usage: "boards that are built at once; usually those of its build"}}, readyBOM),
		command("buying", "say how a BOM's parts are bought; show it", "BOM", "jolly bom buying tide-logger --few --spare passives=2%+5 --exclude Sandbar", 1, 1,
			[]ucli.Flag{&ucli.BoolFlag{Name: "few", Usage: "rather from few suppliers than for the lowest sum"}, &ucli.BoolFlag{Name: "first-only", Usage: "only the first source of a part, no alternate"},
				&ucli.StringSliceFlag{Name: "prefer", Usage: "a supplier that is taken where it has enough"}, &ucli.StringSliceFlag{Name: "exclude", Usage: "a supplier that nothing is bought from"},
				&ucli.StringSliceFlag{Name: "spare", Usage: "what is bought beyond what the boards take: DRAWER=2%+5, the larger of the two; =2% for any drawer"}, &ucli.BoolFlag{Name: "anyhow", Usage: "as if nothing had been said"}}, sayBuying),
	}
}

func costBOM(ctx context.Context, c *ucli.Command, k *client.Client) error {
	which, err := atVariant(ctx, c, k)
	if err != nil {
		return err
	}
	cost, err := k.CostBOM(ctx, which, c.Int64("boards"), c.Int64Slice("beside"))
	if err != nil {
		return err
	}
	err = emit(c, cost, func() table {
		if c.Bool("sums") {
			return sumsTable(cost)
		}
		return boughtTable(cost)
	})
	if err != nil {
		return err
	}
	w := c.Root().ErrWriter
	fmt.Fprintf(w, "%s, %s on %s: %s, %s a board, from %s\n", cost.Name, count(int(cost.Boards), "board", "boards"), cost.Day, orNothing(cost.Sum.String()), orNothing(cost.Board.String()), count(len(cost.Suppliers), "supplier", "suppliers"))
	if n := len(cost.Unbought) + cost.NoRate; n > 0 {
		fmt.Fprintf(w, "not in the sum: %s\n", count(n, "part or line", "parts and lines"))
	}
	if cost.Short > 0 {
		until := "nobody says when all of it comes"
		if cost.LeadDays != nil {
			until = "the last comes in " + count(*cost.LeadDays, "day", "days")
		}
		fmt.Fprintf(w, "short: %s; %s\n", count(cost.Short, "part", "parts"), until)
	}
	if !cost.Exact {
		fmt.Fprintln(w, "there are too many suppliers to try all of them together: fewer might do")
	}
	return nil
}

func boughtTable(cost wire.BOMCost) table {
	t := table{{"Part", "Takes", "Supplier", "Number", "Buy", "Over", "Each", "Total", cost.Currency, "Note"}}
	for _, b := range cost.Bought {
		in := ""
		if b.Converted != nil {
			in = b.Converted.String()
		} else if b.Total.Code() == cost.Currency {
			in = b.Total.String()
		}
		in, _, _ = strings.Cut(in, " ")
		var notes []string
		if b.Short {
			notes = append(notes, "short: has "+strconv.FormatInt(*b.Stock, 10))
		}
		if b.Alternate {
			notes = append(notes, "alternate "+b.MPN)
		}
		if b.Spare > 0 {
			notes = append(notes, fmt.Sprintf("%d spare", b.Spare))
		}
		if b.Rate != "" && b.Converted == nil {
			notes = append(notes, "no rate")
		}
		t = append(t, []string{b.Number, strconv.FormatInt(b.Takes, 10), b.Supplier, b.SupplierNo, strconv.FormatInt(b.Pieces, 10), strconv.FormatInt(b.Over, 10), b.Each, b.Total.String(), in, strings.Join(notes, ", ")})
	}
	for _, u := range cost.Unbought {
		name := cmp.Or(u.Number, u.Description, strings.Join(u.Designators, " "))
		t = append(t, []string{name, strconv.FormatInt(u.Takes, 10), "", "", "", "", "", "", "", u.Why})
	}
	return t
}

func sumsTable(cost wire.BOMCost) table {
	t := table{{"Boards", "Sum", "A board", "Suppliers", "Short", "No price"}}
	for _, p := range cost.Points {
		t = append(t, []string{strconv.FormatInt(p.Boards, 10), p.Sum.String(), p.Board.String(), strconv.Itoa(p.Suppliers), strconv.Itoa(p.Short), strconv.Itoa(p.Unbought + p.NoRate)})
	}
	return t
}

func readyBOM(ctx context.Context, c *ucli.Command, k *client.Client) error {
	which, err := atVariant(ctx, c, k)
	if err != nil {
		return err
	}
	cost, err := k.CostBOM(ctx, which, c.Int64("boards"), nil)
	if err != nil {
		return err
	}
	return emit(c, cost.Ready, func() table {
		r := cost.Ready
		t := table{{"", "Lines", "Of"}}
		for _, x := range []struct {
			what string
			n    int
		}{{"linked to a record", r.Linked}, {"released, without a flag", r.Released}, {"a source in production", r.Production}, {"several sources", r.Several}, {fmt.Sprintf("in stock for %s", count(int(cost.Boards), "board", "boards")), r.InStock}, {"models complete", r.Models}, {"datasheet", r.Datasheet}} {
			t = append(t, []string{x.what, strconv.Itoa(x.n), strconv.Itoa(r.Lines)})
		}
		return t
	})
}

func sayBuying(ctx context.Context, c *ucli.Command, k *client.Client) error {
	b, err := k.BOM(ctx, c.Args().First())
	if err != nil {
		return err
	}
	in := b.Buying
	said := c.Bool("anyhow")
	if said {
		in = wire.BuyingRules{}
	}
	for name, to := range map[string]*bool{"few": &in.Few, "first-only": &in.FirstOnly} {
		if c.IsSet(name) {
			*to, said = c.Bool(name), true
		}
	}
	for name, to := range map[string]*[]string{"prefer": &in.Prefer, "exclude": &in.Exclude} {
		if c.IsSet(name) {
			*to, said = c.StringSlice(name), true
		}
	}
	if c.IsSet("spare") {
		in.Spares, said = nil, true
		for _, text := range c.StringSlice("spare") {
			s, err := spareOf(text)
			if err != nil {
				return err
			}
			in.Spares = append(in.Spares, s)
		}
	}
	if said {
		if b, err = k.BOMBuying(ctx, b.ID, b.Version, in); err != nil {
			return err
		}
	}
	return emit(c, b.Buying, func() table {
		r := b.Buying
		var spares []string
		for _, s := range r.Spares {
			spares = append(spares, fmt.Sprintf("%s=%d%%+%d", s.Drawer, s.Percent, s.Pieces))
		}
		if t := buyingTable(r, spares); len(t) > 0 {
			return t
		}
		return pairs("Bought", "for the lowest sum, from anybody, without spare parts")
	})
}

func buyingTable(r wire.BuyingRules, spares []string) table {
	return pairs("Few suppliers", yesNo(r.Few), "First source only", yesNo(r.FirstOnly), "Preferred", strings.Join(r.Prefer, ", "), "Excluded", strings.Join(r.Exclude, ", "), "Spare", strings.Join(spares, ", "))
}

// spareOf reads DRAWER=2%+5.
func spareOf(text string) (s buying.Spare, err error) {
	drawer, much, ok := strings.Cut(text, "=")
	s.Drawer = drawer
	for _, one := range strings.Split(much, "+") {
		share, is := strings.CutSuffix(strings.TrimSpace(one), "%")
		n, err := strconv.Atoi(strings.TrimSpace(share))
		if !ok || err != nil || n < 0 {
			return s, Usage("%q is no DRAWER=2%%+5", text)
		}
		if is {
			s.Percent = n
		} else {
			s.Pieces = int64(n)
		}
	}
	return s, nil
}
