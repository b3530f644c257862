package cli

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/internal/wire"
)

func wantCommand() *ucli.Command {
	said := []ucli.Flag{&ucli.StringFlag{Name: "mpn"}, &ucli.StringFlag{Name: "manufacturer"}, &ucli.StringFlag{Name: "link"}, &ucli.StringFlag{Name: "board", Usage: "what it is for"},
		&ucli.StringFlag{Name: "by", Usage: "`DAY` it is needed, as 2031-04-30"}, &ucli.IntFlag{Name: "quantity"}, &ucli.StringFlag{Name: "note"},
		&ucli.BoolFlag{Name: "try", Usage: "only say what would do, and who wants the same"}}
	settle := func(state string) func(context.Context, *ucli.Command, *client.Client) error {
		return func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			w, err := k.Want(ctx, c.Args().First())
			if err != nil {
				return err
			}
			in := wire.SettleWant{State: state, Why: c.Args().Get(1)}
			if state == "answered" {
				in.Part, in.Why = c.Args().Get(1), c.Args().Get(2)
			}
			if w, err = k.SettleWant(ctx, w.ID, w.Version, in); err != nil {
				return err
			}
			return emit(c, w, func() table { return wantTable([]wire.Want{w}) })
		}
	}
	return group("want", "what people need and the library lacks", "work",
		command("list", "list what waits, what waits longest first", "", "jolly want list --mine", 0, 0,
			[]ucli.Flag{&ucli.BoolFlag{Name: "mine"}, &ucli.StringFlag{Name: "state", Value: "waiting", Usage: "waiting, open, taken on, answered, declined or all"}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				l, err := k.Wants(ctx, strings.TrimPrefix(c.String("state"), "all"), c.Bool("mine"), 0, 1000)
				if err != nil {
					return err
				}
				return emit(c, l, func() table { return wantTable(l.Items) })
			}),
		command("make", "say what is wanted: facts as in the search box, or a maker's number, a link", "[FACTS]", "jolly want make '4k7 0402 0.1%' --board 'Tide gauge D' --quantity 200", 0, 1, said, makeWant),
		command("import", "wants from a CSV file with a head: facts, manufacturer, mpn, link, board, by, quantity, note", "FILE", "jolly want import wanted.csv", 1, 1, nil, importWants),
		command("missing", "wants of the lines of a BOM that the library lacks, or of one that nothing answers yet", "BOM [LINE]", "jolly want missing 'Radar head rev A' C77", 1, 2, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			var l wire.BOMLine
			if c.Args().Len() > 1 {
				var err error
				if _, l, err = namedLine(ctx, c, k); err != nil {
					return err
				}
			}
			m, err := k.WantMissing(ctx, c.Args().First(), l.Row)
			return wantsMade(c, m, err)
		}),
		command("show", "show a want, what would do, and who wants the same", "WANT", "jolly want show W-00001", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			w, err := k.Want(ctx, c.Args().First())
			if err != nil {
				return err
			}
			return emit(c, w, func() table {
				t := pairs("Want", w.Number, "What", w.What, "State", w.State, "Wanted by", w.By, "For", w.Said.Board, "Needed", w.Said.By, "Note", w.Said.Note, "Part", w.Part, "Why", w.Why)
				return append(t, lookRows(w.Look)...)
			})
		}),
		command("take", "take a want on, so that others see that you are at it", "WANT", "jolly want take W-00001", 1, 1, nil, settle("taken on")),
		command("answer", "answer a want with a part", "WANT PART [WHY]", "jolly want answer W-00001 EW-R-00045", 2, 3, nil, settle("answered")),
		command("decline", "decline a want with a reason", "WANT WHY", "jolly want decline W-00001 'use the 1 % part'", 2, 2, nil, settle("declined")),
		command("reopen", "say that an answer is not what was meant, or let go of a want", "WANT [WHY]", "jolly want reopen W-00001 'it must be 0402'", 1, 2, nil, settle("open")),
	)
}

func wantTable(all []wire.Want) table {
	t := table{{"Want", "Waits", "What", "For", "Needed", "State", "By", "At it", "Part"}}
	for _, w := range all {
		t = append(t, []string{w.Number, since(w.Asked), w.What, w.Said.Board, w.Said.By, w.State, w.By, w.TakenBy, w.Part})
	}
	return t
}

// lookRows says what would do.
func lookRows(l *wire.WantLook) (t table) {
	if l == nil {
		return nil
	}
	for _, p := range l.Parts {
		t = append(t, []string{"would do", strings.TrimSpace(p.Number + " " + p.Description)})
	}
	if n := l.Total - len(l.Parts); n > 0 {
		t = append(t, []string{"", fmt.Sprintf("and %d more", n)})
	}
	for _, d := range l.Doubles {
		t = append(t, []string{"the same", fmt.Sprintf("%s of %s: %s (%s)", d.Number, d.By, d.What, d.Why)})
	}
	return t
}

func makeWant(ctx context.Context, c *ucli.Command, k *client.Client) error {
	in := wire.WantEdit{Facts: c.Args().First(), MPN: c.String("mpn"), Manufacturer: c.String("manufacturer"), Link: c.String("link"), Board: c.String("board"), By: c.String("by"), Quantity: c.Int("quantity"), Note: c.String("note")}
	l, err := k.LookWant(ctx, in)
	if err != nil {
		return err
	}
	if c.Bool("try") {
		return emit(c, l, func() table { return append(table{{"What", "Which"}}, lookRows(&l)...) })
	}
	m, err := k.MakeWants(ctx, []wire.WantEdit{in})
	if err == nil {
		for _, row := range lookRows(&l) { // it is kept all the same, and said aloud
			fmt.Fprintf(c.Root().ErrWriter, "%s: %s\n", row[0], row[1])
		}
	}
	return wantsMade(c, m, err)
}

func wantsMade(c *ucli.Command, m wire.WantsMade, err error) error {
	if err != nil {
		return err
	}
	return emit(c, m, func() table {
		return table{{"Wants", "Numbers"}, {strconv.Itoa(m.Wants), strings.Join(m.Numbers, ", ")}}
	})
}

// importWants reads a list. A column that is not known is named, and nothing is sent.
func importWants(ctx context.Context, c *ucli.Command, k *client.Client) error {
	f, err := os.Open(c.Args().First())
	if err != nil {
		return fmt.Errorf("the list cannot be read: %w", err)
	}
	defer f.Close()
	all, err := readWants(f)
	if err != nil {
		return err
	}
	m, err := k.MakeWants(ctx, all)
	return wantsMade(c, m, err)
}

// readWants reads wants from CSV (RFC 4180) with a head.
func readWants(in io.Reader) ([]wire.WantEdit, error) {
	r := csv.NewReader(in)
	r.FieldsPerRecord = -1
	head, err := r.Read()
	if err != nil {
		return nil, fmt.Errorf("the list has no head: %w", err)
	}
	var all []wire.WantEdit
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, fmt.Errorf("the list cannot be read: %w", err)
		}
		line, _ := r.FieldPos(0)
		var w wire.WantEdit
		into := map[string]*string{"facts": &w.Facts, "manufacturer": &w.Manufacturer, "mpn": &w.MPN, "link": &w.Link, "board": &w.Board, "by": &w.By, "note": &w.Note}
		if len(row) > len(head) {
			return nil, fmt.Errorf("line %d of the list has %d cells, and the head has %d", line, len(row), len(head))
		}
		for i, cell := range row {
			name := strings.ToLower(strings.TrimSpace(strings.TrimPrefix(head[i], "\ufeff")))
			switch {
			case name == "quantity" && strings.TrimSpace(cell) == "":
			case name == "quantity":
				if w.Quantity, err = strconv.Atoi(strings.TrimSpace(cell)); err != nil {
					return nil, fmt.Errorf("line %d of the list: %q is no quantity", line, cell)
				}
			case into[name] != nil:
				*into[name] = cell
			default:
				return nil, fmt.Errorf("the list has the column %q: use facts, manufacturer, mpn, link, board, by, quantity and note", head[i])
			}
		}
		all = append(all, w)
	}
	if len(all) == 0 {
		return nil, errors.New("the list has a head and nothing below it")
	}
	return all, nil
}
