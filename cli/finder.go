package cli

import (
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/wire"
)

func findFlags() []ucli.Flag {
	return []ucli.Flag{&ucli.StringSliceFlag{Name: "drawer", Usage: "only there and in drawers inside it"}, &ucli.StringSliceFlag{Name: "intake", Usage: "only what taking this `INTAKE` in made or changed"}, &ucli.StringSliceFlag{Name: "status", Usage: "draft or released"}, &ucli.StringSliceFlag{Name: "standing"},
		&ucli.StringSliceFlag{Name: "where", Usage: "`KEY:VALUE` of a parameter, or of manufacturer or missing; a range is a..b, ..b or a.., a blank is -"},
		&ucli.StringFlag{Name: "sort", Usage: "columns or parameters parted by commas, - before one for the largest first; measures by size"}, &ucli.BoolFlag{Name: "down", Usage: "the first column largest first"},
		&ucli.StringFlag{Name: "group", Usage: "put parts together by this column"}, &ucli.StringFlag{Name: "columns", Usage: "columns and parameters to show, parted by commas"},
		&ucli.BoolFlag{Name: "facets", Usage: "count the values of every parameter instead of listing parts"},
		&ucli.Int64Flag{Name: "pieces", Usage: "prices are of so `MANY`; 100 where nothing is said"}, &ucli.Int64Flag{Name: "stock", Usage: "only what suppliers have at least `N` of, all sources together"},
		&ucli.StringFlag{Name: "price", Usage: "only what the pieces cost at most `SUM` of, in the house's currency"}, &ucli.Int64Flag{Name: "lead", Usage: "only what comes within so many `DAYS`"},
		&ucli.BoolFlag{Name: "single-source", Usage: "only parts with one source"}, &ucli.BoolFlag{Name: "in-production", Usage: "only what suppliers say is made"},
		&ucli.IntFlag{Name: "limit", Value: 50}, &ucli.IntFlag{Name: "offset"}}
}

func queryOf(c *ucli.Command, words []string) client.PartQuery {
	return client.PartQuery{Text: strings.Join(words, " "), Filters: slices.Concat(c.StringSlice("where"), offerFilters(c), intakeFilters(c)), Pieces: c.Int64("pieces"), Drawers: c.StringSlice("drawer"), Status: c.StringSlice("status"), Standing: c.StringSlice("standing"),
		Sort: c.String("sort"), Down: c.Bool("down"), Group: c.String("group"), Columns: shownColumns(c), Facets: c.Bool("facets"), Offset: c.Int("offset"), Limit: c.Int("limit")}
}

// shownColumns are the columns that are to be shown, where it is said which.
func shownColumns(c *ucli.Command) (out []string) {
	for _, key := range strings.Split(c.String("columns"), ",") {
		if key = strings.TrimSpace(key); key != "" {
			out = append(out, key)
		}
	}
	return out
}

// intakeFilters are the filters that let through what intakes made or changed.
func intakeFilters(c *ucli.Command) (out []string) {
	for _, number := range c.StringSlice("intake") {
		out = append(out, "intake:"+number)
	}
	return out
}

// offerFilters are the filters of what suppliers offer.
func offerFilters(c *ucli.Command) (out []string) {
	if n := c.Int64("stock"); n > 0 {
		out = append(out, fmt.Sprintf("offer.stock:%d..", n))
	}
	if sum := c.String("price"); sum != "" {
		out = append(out, "offer.price:.."+sum)
	}
	if c.IsSet("lead") {
		out = append(out, fmt.Sprintf("offer.lead:..%d", c.Int64("lead")))
	}
	if c.Bool("single-source") {
		out = append(out, "offer.named:1")
	}
	if c.Bool("in-production") {
		out = append(out, "offer.state:active")
	}
	return out
}

func findCommands() []*ucli.Command {
	return []*ucli.Command{
		command("find", "look parts up by facts: values, ranges, words, names", "[FACTS...]", "jolly part find 4k7 0805 1%\n  jolly part find cap '>=25 V' not x5r --sort capacitance\n  jolly part find has no datasheet\n  jolly part find 0805 --stock 500 --sort offer.price", 0, -1, findFlags(), findParts),
		command("export", "write what a search shows as CSV, JSON or XLSX", "FILE [FACTS...]", "jolly part export resistors.xlsx res --columns number,resistance,tolerance,case --sort resistance", 1, -1, findFlags(),
			func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				path := c.Args().First()
				format := strings.TrimPrefix(strings.ToLower(filepath.Ext(path)), ".")
				r, err := k.ExportParts(ctx, queryOf(c, c.Args().Tail()), format)
				if err != nil {
					return err
				}
				return writeFile(c, path, r)
			}),
		command("compare", "lay two to six parts side by side; * marks the best where more or less is better", "NUMBER NUMBER...", "jolly part compare EW-R-00001 EW-R-00002", 2, 6, nil,
			func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				x, err := k.Compare(ctx, c.Args().Slice())
				if err != nil {
					return err
				}
				return emit(c, x, func() table { return comparisonTable(x) })
			}),
	}
}

// writeFile writes a file that the service sends, and says how large it is.
func writeFile(c *ucli.Command, path string, r io.ReadCloser) error {
	defer r.Close()
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	n, err := io.Copy(f, r)
	if e := f.Close(); err == nil {
		err = e
	}
	if err != nil {
		return err
	}
	return emit(c, map[string]any{"file": path, "bytes": n}, func() table { return table{{"File", "Bytes"}, {path, strconv.FormatInt(n, 10)}} })
}

func comparisonTable(x wire.Comparison) table {
	head := []string{"", "Differs"}
	for _, p := range x.Parts {
		head = append(head, p.Number)
	}
	t := table{head}
	for _, r := range x.Rows {
		line := []string{r.Label, ""}
		if r.Differs {
			line[1] = "≠"
		}
		line = append(line, r.Values...)
		for _, i := range r.Best {
			line[i+2] += " *"
		}
		t = append(t, line)
	}
	return t
}

func findParts(ctx context.Context, c *ucli.Command, k *client.Client) error {
	asked := queryOf(c, c.Args().Slice())
	l, err := k.Parts(ctx, asked)
	if err != nil {
		return err
	}
	columns := []string{"number", "description", "manufacturer", "mpn", "status", "standing"}
	if len(asked.Columns) > 0 {
		columns = asked.Columns
	} else if strings.Contains(strings.Join(asked.Filters, " ")+asked.Sort, "offer.") {
		columns = []string{"number", "description", "mpn", "offer.stock", "offer.price", "offer.lead", "offer.state"}
	}
	if err := emit(c, l, func() table {
		if c.Bool("facets") {
			return facetTable(l)
		}
		t := table{nil}
		for _, k := range columns {
			t[0] = append(t[0], columnHead(k))
		}
		for _, p := range l.Items {
			var line []string
			for _, k := range columns {
				line = append(line, cellOf(p, k))
			}
			t = append(t, line)
		}
		return t
	}); err != nil {
		return err
	}
	w := c.Root().ErrWriter
	for _, f := range l.Facts {
		if f.Kind == "skipped" || len(f.Options) > 0 {
			fmt.Fprintf(w, "%q was read as %s\n", f.Text, f.As)
		}
	}
	note := fmt.Sprintf("%d of %d parts", len(l.Items), l.Page.Total)
	if l.Hidden > 0 {
		note += fmt.Sprintf("; %d more outside the filters", l.Hidden)
	}
	fmt.Fprintln(w, note)
	for _, r := range l.Relax {
		fmt.Fprintf(w, "  %d parts %s: jolly part find %s\n", r.Parts, r.As, r.Write)
	}
	return nil
}

func columnHead(key string) string {
	if key == "mpn" {
		return "MPN"
	}
	if key == "" {
		return ""
	}
	if heading, ok := lookup.SupplyColumn(key); ok {
		return heading
	}
	return strings.ToUpper(key[:1]) + strings.ReplaceAll(key[1:], "-", " ")
}

func cellOf(p wire.PartRow, key string) string {
	switch key {
	case "number":
		return p.Number
	case "name":
		return p.Name
	case "description":
		return p.Description
	case "manufacturer":
		return p.Manufacturer
	case "mpn":
		return p.MPN
	case "drawer":
		return p.Drawer
	case "status":
		return status(p.Status, lifecycle.Label(p.Revision, p.Label), p.HasDraft)
	case "standing":
		return p.Standing
	}
	if _, ok := lookup.SupplyColumn(key); ok {
		row := lookup.Row(p)
		return row.SupplyText(key)
	}
	return p.Values.Get(key)
}

func facetTable(l wire.PartList) table {
	t := table{{"Parameter", "Value", "Parts"}}
	for _, f := range l.Facets {
		name := f.Label
		if len(f.Steps) > 0 {
			for _, s := range f.Steps {
				t = append(t, []string{name, s.Label, strconv.Itoa(s.Parts)})
				name = ""
			}
			continue
		}
		for _, v := range f.Values {
			t = append(t, []string{name, v.Value, strconv.Itoa(v.Parts)})
			name = ""
		}
		if f.More > 0 {
			t = append(t, []string{"", fmt.Sprintf("(%d more values)", f.More), ""})
		}
	}
	return t
}
