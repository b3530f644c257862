package cli

import (
	"context"
	"fmt"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/connection"
	"jollydrawer/internal/wire"
)

func connectionCommand() *ucli.Command {
	return group("connection", "how suppliers are asked", "library",
		command("list", "list the connections, and how they stand", "", "jolly connection list", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Connections(ctx, 0, 1000)
			if err != nil {
				return err
			}
			return emit(c, l, func() table {
				t := table{{"Supplier", "Kind", "Crosswalk", "Used today", "Last answer", "Secret"}}
				for _, x := range l.Items {
					t = append(t, []string{x.Supplier, x.Kind, map[bool]string{true: "yes", false: "no"}[x.Mapped], used(x), lastAnswer(x), secretOf(x)})
				}
				return t
			})
		}),
		command("show", "print a connection as a document", "SUPPLIER", "jolly connection show 'Harbour & Finch'", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			x, err := k.Connection(ctx, c.Args().First())
			if err != nil {
				return err
			}
			if c.Bool("json") || c.String("as") == "json" {
				return emit(c, x, nil)
			}
			_, err = fmt.Fprint(c.Root().Writer, x.Text)
			return err
		}),
		command("check", "ask a question of a document, or read an answer that was recorded, and say what was read and what was not; nothing is kept", "FILE [FACTS]", "jolly connection check demo/connections/sandbar.yaml '4k7 0805'", 1, 2,
			[]ucli.Flag{&ucli.StringFlag{Name: "recorded", Usage: "`FILE` with an answer that was recorded: nobody is asked"}}, checkConnection),
		command("apply", "make a document the connection to the supplier that it names", "FILE", "jolly connection apply demo/connections/sandbar.yaml", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			text, err := readDocument(c.Args().First())
			if err != nil {
				return err
			}
			doc, err := connection.Parse([]byte(text))
			if err != nil {
				return err
			}
			version := 0
			if have, err := k.Connection(ctx, doc.Number()); err == nil {
				version = have.Version
			}
			x, err := k.ApplyConnection(ctx, version, text)
			if err != nil {
				return err
			}
			return emit(c, x, func() table {
				return pairs("Supplier", x.Supplier, "Kind", x.Kind, "Revision", strconv.Itoa(x.Revision), "Secret", secretOf(x), "Crosswalk", map[bool]string{true: "there", false: "none yet: what is certain is read without one"}[x.Mapped])
			})
		}),
		&ucli.Command{Name: "schema", Usage: "print the JSON Schema of connections; needs no service", Action: func(_ context.Context, c *ucli.Command) error {
			_, err := fmt.Fprint(c.Root().Writer, connection.Schema)
			return err
		}},
		command("upload", "make a file the price list of a connection", "SUPPLIER FILE", "jolly connection upload 'Corner Shop' prices.xlsx", 2, 2, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			f, err := uploadFile(ctx, k, c.Args().Get(1))
			if err != nil {
				return err
			}
			x, err := k.UploadPriceList(ctx, c.Args().First(), wire.PriceListUpload{Hash: f.Hash, Name: f.Name})
			if err != nil {
				return err
			}
			return emit(c, x, func() table { return pairs("Supplier", x.Supplier, "Price list", x.List.Name) })
		}),
		command("rates", "print the exchange rates in force, or with a file put others in force", "[FILE]", "jolly connection rates demo/rates.yaml", 0, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			r, err := k.Rates(ctx)
			if err == nil && c.NArg() > 0 {
				var text string
				if text, err = readDocument(c.Args().First()); err == nil {
					r, err = k.ApplyRates(ctx, r.Version, text)
				}
			}
			if err != nil {
				return err
			}
			if c.Bool("json") || c.String("as") == "json" {
				return emit(c, r, nil)
			}
			_, err = fmt.Fprint(c.Root().Writer, r.Text)
			return err
		}),
	)
}

func used(x wire.Connection) string {
	if x.PerDay > 0 {
		return fmt.Sprintf("%d of %d", x.Used, x.PerDay)
	}
	return strconv.Itoa(x.Used)
}

func lastAnswer(x wire.Connection) string {
	switch {
	case x.List != nil:
		return "list of " + x.List.At.Local().Format("2006-01-02 15:04")
	case x.Last == nil:
		return "none yet"
	case x.Last.Problem != "":
		return since(x.Last.At) + " ago: " + x.Last.Problem
	}
	return since(x.Last.At) + " ago"
}

func secretOf(x wire.Connection) string {
	switch {
	case x.Secret == "":
		return "needs none"
	case x.Absent:
		return x.Secret + ", missing"
	}
	return x.Secret
}

func checkConnection(ctx context.Context, c *ucli.Command, k *client.Client) error {
	text, err := readDocument(c.Args().First())
	if err != nil {
		return err
	}
	in := wire.ConnectionTrial{Text: text, Words: c.Args().Get(1)}
	if path := c.String("recorded"); path != "" {
		if in.Recorded, err = readDocument(path); err != nil {
			return err
		}
	}
	got, err := k.TryConnection(ctx, in)
	if err != nil {
		return err
	}
	w := c.Root().ErrWriter
	if got.Asked != "" {
		fmt.Fprintln(w, "Asked:", got.Asked)
	}
	if got.Problem != "" {
		fmt.Fprintln(w, got.Problem)
	}
	fmt.Fprintf(w, "%d bytes, %s\n", got.Bytes, count(got.Products, "product", "products"))
	for _, p := range got.Problems {
		fmt.Fprintln(w, p)
	}
	err = emit(c, got, func() table {
		t := table{{"What", "Where", "Found", "Becomes"}}
		for _, p := range got.Places {
			found := strconv.Itoa(p.Found)
			if p.Found == 0 {
				found = "nowhere"
			}
			t = append(t, []string{p.Place, p.Path, found, ""})
		}
		for _, f := range got.Fields {
			to := f.To
			if f.Why != "" {
				to += " (" + f.Why + ")"
			}
			if to == "" {
				to = "not read"
			}
			t = append(t, []string{"field " + f.Name, "", "such as " + f.Example, to})
		}
		return t
	})
	if err == nil && got.Problem != "" {
		return ErrFindings
	}
	return err
}

func offersCommand() *ucli.Command {
	return group("offers", "what suppliers offer of the library's parts", "parts",
		command("refresh", "ask the suppliers anew: for parts, for a drawer, for a BOM, or for all", "[PART...]", "jolly offers refresh EW-R-00001", 0, -1,
			[]ucli.Flag{&ucli.StringFlag{Name: "drawer", Usage: "for the parts of a `DRAWER`"}, &ucli.StringFlag{Name: "bom", Usage: "for the parts that are chosen on a `BOM`"}, &ucli.BoolFlag{Name: "lists", Usage: "fetch the price lists as well"}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				j, err := k.RefreshOffers(ctx, wire.RefreshOffers{Parts: c.Args().Slice(), Drawer: c.String("drawer"), BOM: c.String("bom"), Lists: c.Bool("lists")})
				if err != nil {
					return err
				}
				if j, err = waitJob(ctx, k, j, "sources"); err != nil {
					return err
				}
				if j.Refreshed == nil {
					return fmt.Errorf("%s", j.Error)
				}
				r := *j.Refreshed
				if err := emit(c, r, func() table {
					t := table{{"Supplier", "State", "Offers", "What"}}
					for _, a := range r.Answers {
						t = append(t, []string{a.Supplier, a.State, strconv.Itoa(a.Products), a.Says})
					}
					return t
				}); err != nil {
					return err
				}
				for _, p := range r.Problems {
					fmt.Fprintln(c.Root().ErrWriter, p)
				}
				fmt.Fprintf(c.Root().ErrWriter, "%s asked for, %s seen, %d news.\n", count(r.Sources, "source", "sources"), count(r.Offers, "offer", "offers"), r.News)
				return nil
			}),
		command("export", "write what suppliers offer of the library's parts as CSV or JSON, one line an offer", "FILE", "jolly offers export offers.csv --pieces 250", 1, 1, []ucli.Flag{&ucli.Int64Flag{Name: "pieces", Value: 100, Usage: "sums are of so `MANY`"}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			path := c.Args().First()
			r, err := k.ExportOffers(ctx, c.Int64("pieces"), strings.TrimPrefix(strings.ToLower(filepath.Ext(path)), "."))
			if err != nil {
				return err
			}
			return writeFile(c, path, r)
		}),
		command("news", "list what became otherwise and nobody has seen to; with --settle say that you have", "", "jolly offers news --settle EW-C-00007", 0, 0, []ucli.Flag{&ucli.StringSliceFlag{Name: "settle", Usage: "`PART` whose news, or ID of one (in --json), were seen to; may be given again"}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.OfferNews(ctx, 0, 500)
			if err != nil {
				return err
			}
			if said := c.StringSlice("settle"); len(said) > 0 {
				var ids []string
				for _, what := range said {
					n := len(ids)
					for _, x := range l.Items {
						if x.ID == what || slices.ContainsFunc(x.Parts, func(p string) bool { return strings.EqualFold(p, what) }) {
							ids = append(ids, x.ID)
						}
					}
					if len(ids) == n {
						return fmt.Errorf("there is no news of %s that nobody has seen to", what)
					}
				}
				if _, err := k.SettleOfferNews(ctx, ids); err != nil {
					return err
				}
				if l, err = k.OfferNews(ctx, 0, 500); err != nil {
					return err
				}
			}
			return emit(c, l, func() table { return newsTable(l.Items) })
		}),
	)
}

// newsTable is one line for each thing that is said: the same of several packings is said once.
func newsTable(all []wire.OfferNews) table {
	t := table{{"Part", "What is said", "Supplier", "Since"}}
	for _, n := range all {
		says := n.Says
		if n.Propose != "" {
			says += " (proposed: " + n.Propose + ")"
		}
		row := []string{strings.Join(n.Parts, ", "), says, n.Supplier, since(n.At)}
		if !slices.ContainsFunc(t, func(have []string) bool { return slices.Equal(have, row) }) {
			t = append(t, row)
		}
	}
	return t
}

// partOffers shows what suppliers offer of a part.
func partOffers(ctx context.Context, c *ucli.Command, k *client.Client) error {
	o, err := k.PartOffers(ctx, c.Args().First(), c.Int64("pieces"))
	if err != nil {
		return err
	}
	w := c.Root().ErrWriter
	for _, n := range o.News {
		fmt.Fprintf(w, "%s, %s: %s\n", n.Supplier, n.Source, n.Says)
	}
	if err := emit(c, o, func() table {
		t := table{{"Source", "Supplier", "Number", "Packing", "Stock", fmt.Sprintf("For %d", o.Pieces), "Buying", "State", "Seen"}}
		for _, src := range o.Sources {
			for _, x := range src.Offers {
				state := x.State
				if x.Gone {
					state = "not known any more"
				}
				t = append(t, []string{src.Manufacturer + " " + src.MPN, x.Supplier, x.Number, x.Packing, stockText(x), total(x), boughtOf(x), state, since(x.Seen) + " ago"})
			}
		}
		return t
	}); err != nil {
		return err
	}
	if !slices.ContainsFunc(o.Sources, func(s wire.SourceOffers) bool { return len(s.Offers) > 0 }) {
		fmt.Fprintf(w, "No supplier has been asked for %s, or none has it: jolly offers refresh %s\n", o.Number, o.Number)
	}
	if o.Best != nil {
		fmt.Fprintf(w, "Cheapest for %d: %s of %s, %s\n", o.Pieces, boughtOf(*o.Best), o.Best.Supplier, total(*o.Best))
	}
	return nil
}

func stockText(o wire.Offer) string {
	switch {
	case o.Stock == nil:
		return "not said"
	case o.AtLeast:
		return strconv.FormatInt(*o.Stock, 10) + "+"
	}
	return strconv.FormatInt(*o.Stock, 10)
}
