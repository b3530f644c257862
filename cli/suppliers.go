package cli

import (
	"context"
	"fmt"
	"os"
	"slices"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"
	"golang.org/x/term"

	"jollydrawer/client"
	"jollydrawer/core/part"
	"jollydrawer/internal/wire"
)

func supplierCommand() *ucli.Command {
	asked := []ucli.Flag{
		&ucli.Int64Flag{Name: "pieces", Value: 1, Usage: "how many are to be bought: prices are of so `MANY`"},
		&ucli.Int64Flag{Name: "stock", Usage: "only what there are `N` of, all suppliers together"},
		&ucli.BoolFlag{Name: "in-production", Usage: "only what no supplier says is ending"},
		&ucli.StringFlag{Name: "packing", Usage: "only with a packing that has the `WORD`, such as tape"},
		&ucli.BoolFlag{Name: "again", Usage: "ask anew, whatever was answered within the hour"},
	}
	narrowed := []ucli.Flag{&ucli.BoolFlag{Name: "all", Usage: "also what a supplier calls a match and is none, with what does not hold"}, &ucli.IntFlag{Name: "limit", Value: 30, Usage: "at most `N` products"},
		&ucli.BoolFlag{Name: "usual", Usage: "keep these limits as your usual ones of that kind of part"},
		&ucli.StringSliceFlag{Name: "where", Usage: "`KEY:VALUE` of a parameter, manufacturer, drawer, offer.stock, offer.price or offer.lead, as in part find; a range is a..b"},
		&ucli.StringFlag{Name: "sort", Usage: "columns parted by commas, - before one for the largest first; blank: what fits first"}}
	return group("supplier", "ask the suppliers, and take what they have", "parts",
		command("ask", "ask all suppliers at once: facts as in the search box", "FACTS", "jolly supplier ask '4k7 0805 1%' --stock 100", 1, -1,
			append(slices.Clone(asked), narrowed...), askSuppliers),
		command("take", "make a draft of a product, with the question that it answered; with --into it becomes another source of a part", "FACTS MPN", "jolly supplier take '4k7 0805 1%' GR08054K7F", 2, 2,
			append(slices.Clone(asked), &ucli.StringFlag{Name: "from", Usage: "of the `SUPPLIER`; blank: the cheapest that has it"}, &ucli.StringFlag{Name: "into", Usage: "`PART` that it becomes a source of: only what is missing is filled"},
				&ucli.StringFlag{Name: "drawer", Usage: "`DRAWER` where it goes instead"}, &ucli.StringSliceFlag{Name: "set", Usage: "`PARAMETER=VALUE` that is filled by hand; may be given again"},
				&ucli.StringFlag{Name: "keep-separate", Usage: "why it stands beside a part that has the same source"}), takeProduct),
		command("intake", "make an intake of many products that answered a question: those that are named, or all that fit and that no part has", "FACTS [MPN...]", "jolly supplier intake '0805 1% resistor' GR08054K7F GR08055K1F", 1, 501, asked, intakeProducts),
	)
}

// question is what the flags and the first arguments ask.
func question(c *ucli.Command, text string) wire.SupplierQuestion {
	return wire.SupplierQuestion{Text: text, Pieces: c.Int64("pieces"), Stock: c.Int64("stock"), InProduction: c.Bool("in-production"), Packing: c.String("packing"), Again: c.Bool("again"), Limit: 500}
}

func askSuppliers(ctx context.Context, c *ucli.Command, k *client.Client) error {
	q := question(c, strings.Join(c.Args().Slice(), " "))
	for _, f := range c.StringSlice("where") {
		key, value, ok := strings.Cut(f, ":")
		if !ok {
			return Usage("%q is not KEY:VALUE", f)
		}
		if q.Filters == nil {
			q.Filters = map[string][]string{}
		}
		q.Filters[key] = append(q.Filters[key], value)
	}
	if list := c.String("sort"); list != "" {
		q.Sort = strings.Split(list, ",")
	}
	if err := usualLimits(ctx, c, k, &q); err != nil {
		return err
	}
	a, err := k.AskSuppliersAll(ctx, q, waiting())
	if err != nil {
		return err
	}
	if !c.Bool("all") {
		a.Rows = slices.DeleteFunc(a.Rows, func(r wire.OfferedRow) bool { return len(r.Fails) > 0 })
	}
	a.Rows = a.Rows[:min(len(a.Rows), int(c.Int("limit")))]
	w := c.Root().ErrWriter
	for _, s := range a.Suppliers {
		if s.Says != "" {
			fmt.Fprintln(w, s.Says)
		}
	}
	if a.OwnTotal > 0 {
		var own []string
		for _, p := range a.Own {
			own = append(own, p.Number)
		}
		fmt.Fprintf(w, "The library has %s: %s\n", count(a.OwnTotal, "such part", "such parts"), strings.Join(own[:min(5, len(own))], ", "))
	}
	if err := emit(c, a, func() table { return offeredTable(a.Rows, q.Pieces, c.Bool("all")) }); err != nil {
		return err
	}
	if a.Total == 0 {
		fmt.Fprintln(w, "No supplier answered with anything like it. Leave a fact out, or say that it is wanted: jolly want make")
	}
	if left := a.Total - a.Fit; left > 0 && !c.Bool("all") {
		fmt.Fprintf(w, "%s of what they answered with %s not what was asked for; --all shows why.\n", strconv.Itoa(left), map[bool]string{true: "is", false: "are"}[left == 1])
	}
	return nil
}

// usualLimits are used where no limit is said, and say so; with --usual those that are said are kept.
func usualLimits(ctx context.Context, c *ucli.Command, k *client.Client, q *wire.SupplierQuestion) error {
	if c.Bool("usual") {
		_, err := k.KeepSupplierLimits(ctx, wire.SupplierLimitsEdit{Text: q.Text, Pieces: q.Pieces, Stock: q.Stock, InProduction: q.InProduction, Packing: q.Packing})
		return err
	}
	if slices.ContainsFunc([]string{"pieces", "stock", "in-production", "packing"}, c.IsSet) {
		return nil
	}
	l, err := k.SupplierLimits(ctx, q.Text)
	if err != nil || !l.Kept {
		return err
	}
	q.Pieces, q.Stock, q.InProduction, q.Packing = l.Pieces, l.Stock, l.InProduction, l.Packing
	of := l.Label
	if of == "" {
		of = "any part"
	}
	said := count(int(l.Pieces), "piece", "pieces")
	if l.Stock > 0 {
		said += fmt.Sprintf(", %d in stock", l.Stock)
	}
	if l.InProduction {
		said += ", in production"
	}
	if l.Packing != "" {
		said += ", packing " + l.Packing
	}
	fmt.Fprintf(c.Root().ErrWriter, "With your usual limits of %s: %s. Say --pieces 1 to ask without.\n", of, said)
	return nil
}

// waiting shows who has not answered yet, where a person looks on.
func waiting() func(wire.SupplierAnswers) {
	if !term.IsTerminal(int(os.Stderr.Fd())) {
		return nil
	}
	return func(a wire.SupplierAnswers) { fmt.Fprintln(os.Stderr, waitsFor(a)) }
}

// waitsFor says who has not answered yet.
func waitsFor(a wire.SupplierAnswers) string {
	var waiting []string
	for _, s := range a.Suppliers {
		if s.State == "waiting" {
			waiting = append(waiting, s.Supplier)
		}
	}
	return fmt.Sprintf("%s until now; waiting for %s", count(a.Fit, "product", "products"), strings.Join(waiting, ", "))
}

func offeredTable(rows []wire.OfferedRow, pieces int64, all bool) table {
	more := slices.ContainsFunc(rows, func(r wire.OfferedRow) bool {
		return len(r.Offers) > 0 && r.Offers[0].Buy != nil && (r.Offers[0].Buy.Over > 0 || r.Offers[0].Buy.Short)
	})
	head := []string{"Manufacturer", "MPN", "Description", "Stock", fmt.Sprintf("For %d", pieces), "Supplier", "Own"}
	ending := slices.ContainsFunc(rows, func(r wire.OfferedRow) bool { return r.Stands != "" && r.Stands != "active" })
	if ending {
		head = append(head, "Stands")
	}
	if more { // only where it is not just the pieces that were asked for
		head = append(head, "Buying")
	}
	if all {
		head = append(head, "Does not hold")
	}
	t := table{head}
	for _, r := range rows {
		row := []string{r.Manufacturer, r.MPN, r.Description, strconv.FormatInt(r.Stock, 10), "", "", strings.Join(r.Own, ", ")}
		if len(r.Offers) > 0 {
			row[4], row[5] = sum(r.Offers[0]), r.Offers[0].Supplier
			if ending {
				row = append(row, r.Stands)
			}
			if more {
				row = append(row, boughtOf(r.Offers[0]))
			}
		}
		if len(r.Differ) > 0 {
			row[2] += " (suppliers disagree: " + strings.Join(r.Differ, "; ") + ")"
		}
		if all {
			row = append(row, strings.Join(r.Fails, ", "))
		}
		t = append(t, row)
	}
	return t
}

// sum is what the pieces cost of an offer, in the house's currency where there is a rate.
func sum(o wire.Offer) string {
	if o.Converted != nil {
		return o.Converted.String()
	}
	return total(o)
}

// total is what the pieces cost of an offer.
func total(o wire.Offer) string {
	switch {
	case o.Ended:
		return "ended"
	case o.Buy == nil:
		return "no price"
	case o.Converted != nil:
		return o.Buy.Total.String() + " = " + o.Converted.String()
	}
	return o.Buy.Total.String()
}

// boughtOf is how many are bought, and why more than were asked for.
func boughtOf(o wire.Offer) string {
	switch {
	case o.Ended:
		return "till " + o.Until
	case o.Buy == nil:
		return ""
	}
	s := fmt.Sprintf("%d at %s", o.Buy.Pieces, o.Each)
	if o.Buy.Short {
		s += ", not all in stock"
	}
	return s
}

func takeProduct(ctx context.Context, c *ucli.Command, k *client.Client) error {
	in := wire.SupplierTake{Question: question(c, c.Args().First()), Drawer: c.String("drawer"), Separate: c.String("keep-separate"), Values: map[string]string{}}
	for _, set := range c.StringSlice("set") {
		key, value, ok := strings.Cut(set, "=")
		if !ok {
			return Usage("%q is not PARAMETER=VALUE", set)
		}
		in.Values[strings.TrimSpace(key)] = strings.TrimSpace(value)
	}
	a, err := k.AskSuppliersAll(ctx, in.Question, nil)
	if err != nil {
		return err
	}
	o, err := offerOf(a.Rows, c.Args().Get(1), c.String("from"))
	if err != nil {
		return err
	}
	in.Question.Again = false
	in.Supplier, in.Number = o.Supplier, o.Number
	if into := c.String("into"); into != "" {
		p, err := k.Part(ctx, into)
		if err != nil {
			return err
		}
		in.Into, in.Version = p.Number, p.Version
	}
	got, err := k.TakeProduct(ctx, in)
	if err != nil {
		return err
	}
	if got.Fetching != nil {
		if job, err := k.WaitJob(ctx, got.Fetching.ID, nil); err == nil {
			got.Fetching = &job
		}
		if got.Part, err = k.Part(ctx, got.Part.ID); err != nil {
			return err
		}
	}
	if got.Models != nil {
		if job, err := k.WaitJob(ctx, got.Models.ID, nil); err == nil {
			got.Models = &job
		}
	}
	return emit(c, got, func() table {
		t := table{{"Part", got.Part.Number}, {"Description", got.Part.Newest().Description}, {"Status", got.Part.Status}}
		add := func(what string, all []string) {
			for i, s := range all {
				if i > 0 {
					what = ""
				}
				t = append(t, []string{what, s})
			}
		}
		add("From the suppliers", got.Added)
		add("Differs", got.Differ)
		add("Fill by hand", got.ByHand)
		var sheets []string
		for _, f := range got.Part.Newest().Datasheets {
			sheets = append(sheets, f.Name)
		}
		add("Datasheet", append(sheets, got.Part.Newest().Links...))
		if got.Fetching != nil && got.Fetching.Fetched != nil {
			add("Not attached", got.Fetching.Fetched.Other)
		}
		if got.Models != nil && got.Models.Models != nil {
			if m := got.Models.Models; m.Delivery != "" {
				add("Models", []string{fmt.Sprintf("%s beside the library's: jolly delivery show %s", count(m.Files, "file lies", "files lie"), m.Delivery)})
			}
			add("Models not fetched", got.Models.Models.Problems)
		}
		return t
	})
}

func intakeProducts(ctx context.Context, c *ucli.Command, k *client.Client) error {
	in := wire.SupplierIntake{Question: question(c, c.Args().First())}
	a, err := k.AskSuppliersAll(ctx, in.Question, nil)
	if err != nil {
		return err
	}
	in.Question.Again = false
	for _, mpn := range c.Args().Tail() {
		at := slices.IndexFunc(a.Rows, func(r wire.OfferedRow) bool { return part.NormaliseMPN(r.MPN) == part.NormaliseMPN(mpn) })
		if at < 0 {
			return fmt.Errorf("no supplier answered %q with %s", in.Question.Text, mpn)
		}
		in.Keys = append(in.Keys, a.Rows[at].Key)
	}
	got, err := k.IntakeProducts(ctx, in)
	if err != nil {
		return err
	}
	return emit(c, got, func() table {
		t := table{{"Intake", "Supplier", "Products"}}
		for _, i := range got.Items {
			t = append(t, []string{i.Number, i.Supplier, strconv.Itoa(i.Products)})
		}
		return t
	})
}

// offerOf finds the offer that is meant by a maker's or a supplier's number.
func offerOf(rows []wire.OfferedRow, number, supplier string) (wire.Offer, error) {
	var found []wire.Offer
	var makers []string
	want := part.NormaliseMPN(number)
	for _, r := range rows {
		for _, o := range r.Offers {
			if (supplier == "" || strings.EqualFold(o.Supplier, supplier)) && (part.NormaliseMPN(r.MPN) == want || part.NormaliseMPN(o.Number) == want) {
				if !slices.Contains(makers, r.Manufacturer) {
					makers = append(makers, r.Manufacturer)
				}
				found = append(found, o)
			}
		}
	}
	switch {
	case len(found) == 0 && supplier != "":
		return wire.Offer{}, fmt.Errorf("%s did not answer with %s; see jolly supplier ask", supplier, number)
	case len(found) == 0:
		return wire.Offer{}, fmt.Errorf("no supplier answered with %s; see jolly supplier ask", number)
	case len(makers) > 1:
		return wire.Offer{}, fmt.Errorf("%s is made by %s; name the supplier's own number instead", number, strings.Join(makers, " and "))
	}
	return found[0], nil
}
