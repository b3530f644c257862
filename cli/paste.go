package cli

import (
	"context"
	"fmt"
	"io"
	"os"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/part"
	"jollydrawer/internal/wire"
)

func readFlags() []ucli.Flag {
	return []ucli.Flag{
		&ucli.StringFlag{Name: "drawer", Usage: "where the text does not name it"}, &ucli.StringFlag{Name: "supplier", Usage: "whose crosswalk the field names follow"},
		&ucli.StringFlag{Name: "record", Usage: "`INTAKE:ROW` of a file loaded before instead of a text; see jolly part records"},
		&ucli.BoolFlag{Name: "save", Usage: "save it as a draft"}, &ucli.StringFlag{Name: "keep-separate", Usage: "why it stands beside a part with the same MPN"},
	}
}

// pasteCommands make one part from a text or a record, or give a part another source.
func pasteCommands() []*ucli.Command {
	return []*ucli.Command{
		command("read", "say what a pasted text says of one part, and save it as a draft with --save", "[FILE|-]", "echo 'RES 4.7 kΩ 1% 0.125 W 0805' | jolly part read - --drawer chip-resistors", 0, 1, readFlags(), func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			in, err := partReading(ctx, c, k, c.Args().First())
			if err != nil {
				return err
			}
			r, err := k.ReadPart(ctx, in)
			if err != nil {
				return err
			}
			if !c.Bool("save") {
				return emit(c, r, func() table { return readTable(r) })
			}
			p, err := k.MakePart(ctx, editOf(r, c.String("keep-separate")))
			if err != nil {
				return err
			}
			return emit(c, p, func() table { return partTable(p) })
		}),
		command("records", "find a manufacturer or supplier number in the files of all intakes", "NUMBER", "jolly part records TW-0805-4K70-F", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Records(ctx, c.Args().First())
			if err != nil {
				return err
			}
			return emit(c, l, func() table {
				t := table{{"Record", "Supplier", "File", "Drawer", "Manufacturer", "MPN", "Description"}}
				for _, r := range l.Items {
					t = append(t, []string{r.Number + ":" + strconv.Itoa(r.Row), r.Supplier, r.File, r.Drawer, r.Source.Manufacturer, r.Source.MPN, r.Description})
				}
				return t
			})
		}),
		command("attach", "give a part another source from a text or a record; only missing values are taken over", "NUMBER [FILE|-]", "jolly part attach EW-R-00003 --record IN-00002:14", 1, 2,
			append(append([]ucli.Flag{}, readFlags()...), &ucli.StringSliceFlag{Name: "take", Usage: "a parameter whose value is taken over although the part has another"}, &ucli.BoolFlag{Name: "although-different", Usage: "also where the two differ in an identifying parameter"}), attachSource),
	}
}

func partReading(ctx context.Context, c *ucli.Command, k *client.Client, path string) (wire.ReadPart, error) {
	in := wire.ReadPart{Drawer: c.String("drawer"), Supplier: c.String("supplier")}
	if rec := c.String("record"); rec != "" {
		number, row, ok := strings.Cut(rec, ":")
		n, err := strconv.Atoi(row)
		if !ok || err != nil {
			return in, Usage("%q is no record: write INTAKE:ROW, such as IN-00002:14", rec)
		}
		i, err := findIntake(ctx, k, number)
		in.Intake, in.Row = i.ID, n
		return in, err
	}
	var raw []byte
	var err error
	switch path {
	case "":
		return in, Usage("give a FILE, - for standard input, or --record")
	case "-":
		raw, err = io.ReadAll(io.LimitReader(os.Stdin, 1<<20))
	default:
		raw, err = os.ReadFile(path)
	}
	if err != nil {
		return in, fmt.Errorf("the text cannot be read: %w", err)
	}
	in.Text = string(raw)
	return in, nil
}

// editOf is what was read as a draft to be saved: values that could not be read are left to be filled by hand.
func editOf(r wire.PartRead, separate string) wire.PartEdit {
	in := wire.PartEdit{Drawer: r.Drawer, Number: "", Values: map[string]string{}, Came: map[string]string{}, KeepSeparate: separate}
	for _, v := range r.Values {
		if v.Problem == "" {
			in.Values[v.Key] = v.Value
			in.Came[v.Key] = cameFrom(r, v.Field, v.Written)
		}
	}
	if r.Source.MPN != "" {
		in.Sources = []part.Source{r.Source}
	}
	return in
}

func cameFrom(r wire.PartRead, field, written string) string {
	from := "a pasted text"
	if r.From != "" {
		from = r.From
	}
	if field != "" {
		return fmt.Sprintf("%s, %s: %s", from, field, written)
	}
	return fmt.Sprintf("%s: %s", from, written)
}

func readTable(r wire.PartRead) table {
	t := pairs("Drawer", strings.TrimSpace(r.Label+" "+parenthesised(r.Because)), "Source", strings.TrimSpace(r.Source.Manufacturer+" "+r.Source.MPN))
	for _, v := range r.Values {
		value := v.Value
		if v.Problem != "" {
			value = v.Written + " — " + v.Problem
		}
		t = append(t, []string{v.Key, value + " (" + v.Why + ")"})
	}
	for _, f := range r.Unused {
		t = append(t, []string{"not used", strings.TrimPrefix(f.Name+": "+f.Text, ": ")})
	}
	for _, key := range r.ByHand {
		t = append(t, []string{"by hand", key})
	}
	for _, p := range r.Same {
		t = append(t, []string{"same MPN", p.Number + " " + p.Description})
	}
	for _, p := range r.Alike {
		t = append(t, []string{"alike", p.Number + " " + p.Description})
	}
	return t
}

func attachSource(ctx context.Context, c *ucli.Command, k *client.Client) error {
	number := c.Args().First()
	in, err := partReading(ctx, c, k, c.Args().Get(1))
	if err != nil {
		return err
	}
	in.Beside = number
	r, err := k.ReadPart(ctx, in)
	if err != nil {
		return err
	}
	if !c.Bool("save") {
		return emit(c, r, func() table {
			t := table{{"Parameter", "Part", "Offered", "State"}}
			for _, b := range r.Beside {
				t = append(t, []string{b.Label, b.Have, b.Offer, b.State})
			}
			for _, d := range r.Differ {
				t = append(t, []string{"not equal", d, "", ""})
			}
			return t
		})
	}
	if r.Source.MPN == "" {
		return fmt.Errorf("the text names no manufacturer part number; nothing was saved")
	}
	if !r.Equal && !c.Bool("although-different") {
		return fmt.Errorf("%s differs in what identifies it (%s); nothing was saved. Say --although-different where it is meant", number, strings.Join(r.Differ, "; "))
	}
	p, err := k.Part(ctx, number)
	if err != nil {
		return err
	}
	e := p.Newest().Edit()
	e.Came, e.KeepSeparate = map[string]string{}, c.String("keep-separate")
	take := map[string]bool{}
	for _, key := range c.StringSlice("take") {
		take[key] = true
	}
	for _, v := range r.Values {
		if v.Problem == "" && (e.Values[v.Key] == "" || take[v.Key]) {
			e.Values[v.Key], e.Came[v.Key] = v.Value, cameFrom(r, v.Field, v.Written)
		}
	}
	e.Sources = append(e.Sources, r.Source)
	if p, err = k.SaveDraft(ctx, p.ID, p.Version, e); err != nil {
		return err
	}
	return emit(c, p, func() table { return partTable(p) })
}
