package cli

import (
	"cmp"
	"context"
	"encoding/csv"
	"fmt"
	"os"
	"slices"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/model"
	"jollydrawer/core/model/redraw"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/wire"
)

func ofFlag() ucli.Flag {
	return &ucli.StringFlag{Name: "of", Usage: "pins, pads or graphics; the pins or pads where it is not given"}
}

func changeFlags() []ucli.Flag {
	return []ucli.Flag{releaseFlag(), ofFlag(),
		&ucli.StringFlag{Name: "new", Usage: "make a new one of this `KIND`: symbol or land pattern"},
		&ucli.StringFlag{Name: "rows", Usage: "`ROWS` as model table counts them: 1-4,7; all where they are not given"},
		&ucli.StringSliceFlag{Name: "set", Usage: "`COLUMN=VALUE` in the rows"},
		&ucli.StringFlag{Name: "cells", Usage: "take all cells from a `FILE` that model table --as csv wrote"},
		&ucli.IntFlag{Name: "add", Usage: "so many `ROWS` after the last one, each further on by --by, numbered on from --first"},
		&ucli.BoolFlag{Name: "copy", Usage: "the rows, moved by --by, turned about the origin by --turn, numbered on from --first"},
		&ucli.BoolFlag{Name: "remove", Usage: "the rows"},
		&ucli.StringFlag{Name: "by", Usage: "`X,Y` in mm, or with a unit: 50mil,0; alone it moves the rows"},
		&ucli.StringFlag{Name: "turn", Usage: "the rows by `DEGREES`, counter-clockwise"},
		&ucli.BoolFlag{Name: "mirror", Usage: "the rows left to right"},
		&ucli.StringFlag{Name: "align", Usage: "the rows to the left, right, top or bottom"},
		&ucli.StringFlag{Name: "spread", Usage: "the rows by a `DISTANCE` from one to the next, or evenly"},
		&ucli.StringFlag{Name: "snap", Usage: "the rows onto a `GRID`"},
		&ucli.StringFlag{Name: "first", Usage: "`NUMBER` that is numbered on from; alone it numbers the rows"},
		&ucli.StringFlag{Name: "form", Usage: "of graphics that are added: line, arc, circle, rectangle, polygon or text"},
		&ucli.StringFlag{Name: "settle", Usage: "a `CAUSE` that model show names, as the house wants it"},
		&ucli.StringSliceFlag{Name: "drawing", Usage: "`FACT=VALUE` of the whole: grid or units of a symbol; density, mounting or overhang of a land pattern"},
		&ucli.BoolFlag{Name: "try", Usage: "show what would become of it, and keep nothing"},
	}
}

// drawingOf is a model's drawing as a try begins with it, and the model where it is there.
func drawingOf(ctx context.Context, c *ucli.Command, k *client.Client, name string) (in wire.DrawingTry, was wire.ModelEdit, m wire.Model, err error) {
	if kind := c.String("new"); kind != "" {
		return wire.DrawingTry{Kind: kind, Name: name}, wire.ModelEdit{Kind: kind, Name: name}, m, nil
	}
	if m, err = findModel(ctx, k, c, name); err != nil {
		return in, was, m, err
	}
	if was = *cmp.Or(m.Draft, m.Released); was.Symbol == nil && was.LandPattern == nil {
		return in, was, m, fmt.Errorf("%s is a %s: symbols and land patterns are changed in a table", m.Name, m.Kind)
	}
	return wire.DrawingTry{Kind: was.Kind, Name: was.Name, Symbol: was.Symbol, LandPattern: was.LandPattern, Model: m.ID}, was, m, nil
}

// listAt is one of a drawing's lists by its name; the first where none is named.
func listAt(t wire.DrawingTried, of string) (redraw.List, error) {
	i := 0
	if of != "" {
		i = slices.IndexFunc(t.Lists, func(l redraw.List) bool { return l.Of == of })
	}
	if i < 0 {
		return redraw.List{}, Usage("--of %s: the drawing has %s and graphics", of, t.Lists[0].Of)
	}
	return t.Lists[i], nil
}

func showTable(ctx context.Context, c *ucli.Command, k *client.Client) error {
	in, _, _, err := drawingOf(ctx, c, k, c.Args().First())
	if err != nil {
		return err
	}
	t, err := k.TryDrawing(ctx, in)
	if err != nil {
		return err
	}
	return printList(c, t)
}

func printList(c *ucli.Command, t wire.DrawingTried) error {
	l, err := listAt(t, c.String("of"))
	if err != nil {
		return err
	}
	return emit(c, l, func() table {
		head := []string{"Row"}
		used := make([]bool, len(l.Columns))
		for _, r := range l.Rows {
			for i, v := range r.Cells {
				used[i] = used[i] || v != "" && v != "0"
			}
		}
		whole := c.String("as") == "csv" // what is read back has every column; a table on the screen those that say something
		for i, col := range l.Columns {
			if used[i] || whole {
				head = append(head, col.Name)
			}
		}
		out := table{head}
		for n, r := range l.Rows {
			row := []string{strconv.Itoa(n + 1)}
			for i, v := range r.Cells {
				if used[i] || whole {
					row = append(row, v)
				}
			}
			out = append(out, row)
		}
		return out
	})
}

// rowsOf reads row numbers: 1-4,7. None are all.
func rowsOf(text string, count int) (rows []int, err error) {
	if text == "" {
		for i := range count {
			rows = append(rows, i)
		}
		return rows, nil
	}
	for part := range strings.SplitSeq(text, ",") {
		from, to, span := strings.Cut(strings.TrimSpace(part), "-")
		if !span {
			to = from
		}
		a, errA := strconv.Atoi(from)
		b, errB := strconv.Atoi(to)
		if errA != nil || errB != nil || a < 1 || b < a || b > count {
			return nil, Usage("--rows %s: there are rows 1 to %d; write them as 1-4,7", text, count)
		}
		for r := a; r <= b; r++ {
			rows = append(rows, r-1)
		}
	}
	return rows, nil
}

// changesOf are the changes that the options ask for, in the order of their help; at most one of the steps that move, add or take away.
func changesOf(c *ucli.Command, l redraw.List) (out []redraw.Change, err error) {
	rows, err := rowsOf(c.String("rows"), len(l.Rows))
	if err != nil {
		return nil, err
	}
	for _, fact := range c.StringSlice("drawing") {
		what, value, _ := strings.Cut(fact, "=")
		out = append(out, redraw.Change{Do: redraw.Drawing, Column: what, Value: value})
	}
	for _, cell := range c.StringSlice("set") {
		column, value, ok := strings.Cut(cell, "=")
		if !ok {
			return nil, Usage("--set %s: write COLUMN=VALUE", cell)
		}
		out = append(out, redraw.Change{Do: redraw.Set, Of: l.Of, Rows: rows, Column: column, Value: value})
	}
	if file := c.String("cells"); file != "" {
		sets, err := cellsOf(file, l)
		if err != nil {
			return nil, err
		}
		out = append(out, sets...)
	}
	step, err := drawStep(c, l, rows)
	if err != nil || step.Do == "" {
		return out, err
	}
	return append(out, step), nil
}

func drawStep(c *ucli.Command, l redraw.List, rows []int) (s redraw.Change, err error) {
	s = redraw.Change{Of: l.Of, Rows: rows}
	if by := c.String("by"); by != "" {
		x, y, two := strings.Cut(by, ",")
		if !two {
			return s, Usage("--by %s: write X,Y", by)
		}
		if s.By.X, err = model.ParseLength(x); err == nil {
			s.By.Y, err = model.ParseLength(y)
		}
		if err != nil {
			return s, Usage("--by: %v", err)
		}
	}
	if turn := c.String("turn"); turn != "" {
		if s.Angle, err = model.ParseAngle(turn); err != nil {
			return s, Usage("--turn: %v", err)
		}
	}
	first := c.String("first")
	asked := map[string]bool{redraw.Add: c.Int("add") > 0, redraw.Copy: c.Bool("copy"), redraw.Remove: c.Bool("remove"), redraw.Mirror: c.Bool("mirror"), redraw.Align: c.String("align") != "",
		redraw.Spread: c.String("spread") != "", redraw.Snap: c.String("snap") != "", redraw.Settle: c.String("settle") != ""}
	asked[redraw.Turn] = s.Angle != 0 && !asked[redraw.Copy]
	asked[redraw.Move] = c.String("by") != "" && !asked[redraw.Copy] && !asked[redraw.Add]
	asked[redraw.Number] = first != "" && !asked[redraw.Copy] && !asked[redraw.Add]
	for do, yes := range asked {
		if !yes {
			continue
		}
		if s.Do != "" {
			return s, Usage("one step at a time: %s and %s are two", min(s.Do, do), max(s.Do, do))
		}
		s.Do = do
	}
	switch s.Do {
	case redraw.Add:
		s.Count, s.Value = c.Int("add"), first
		if s.Value == "" {
			s.Value = c.String("form")
		}
		if c.String("rows") == "" {
			s.Rows = nil // after the last one
		}
	case redraw.Copy, redraw.Number:
		s.Value = first
	case redraw.Align:
		s.Value = c.String("align")
	case redraw.Spread:
		if s.Value = c.String("spread"); s.Value == "evenly" {
			s.Value = ""
		}
	case redraw.Snap:
		s.Value = c.String("snap")
	case redraw.Settle:
		s = redraw.Change{Do: redraw.Settle, Value: c.String("settle")}
	}
	return s, nil
}

// cellsOf reads the cells that somebody changed in a file which model table wrote.
func cellsOf(file string, l redraw.List) (out []redraw.Change, err error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	all, err := csv.NewReader(f).ReadAll()
	if err != nil {
		return nil, fmt.Errorf("%s: %w", file, err)
	}
	if len(all) == 0 || len(all)-1 != len(l.Rows) {
		return nil, fmt.Errorf("%s has %d rows and the drawing has %d: add or remove rows first, and write the table anew", file, max(len(all)-1, 0), len(l.Rows))
	}
	for n, head := range all[0] {
		i := slices.IndexFunc(l.Columns, func(c redraw.Column) bool { return c.Name == head })
		if head == "Row" {
			continue
		}
		if i < 0 {
			return nil, fmt.Errorf("%s: %s have no column %q", file, l.Of, head)
		}
		ch := redraw.Change{Do: redraw.Set, Of: l.Of, Column: l.Columns[i].Key}
		for r, row := range all[1:] {
			if now := rows.AsWritten(row[n]); now != l.Rows[r].Cells[i] {
				ch.Rows, ch.Values = append(ch.Rows, r), append(ch.Values, now)
			}
		}
		if len(ch.Rows) > 0 {
			out = append(out, ch)
		}
	}
	return out, nil
}

func changeDrawing(ctx context.Context, c *ucli.Command, k *client.Client) error {
	in, edit, m, err := drawingOf(ctx, c, k, c.Args().First())
	if err != nil {
		return err
	}
	now, err := k.TryDrawing(ctx, in)
	if err != nil {
		return err
	}
	l, err := listAt(now, c.String("of"))
	if err != nil {
		return err
	}
	if in.Changes, err = changesOf(c, l); err != nil {
		return err
	}
	if len(in.Changes) == 0 && c.String("cells") != "" {
		return modelDone(c, m, nil) // the file says what the drawing has
	}
	if len(in.Changes) == 0 {
		return Usage("nothing is said of what to change: see jolly model change --help")
	}
	if now, err = k.TryDrawing(ctx, in); err != nil {
		return err
	}
	if c.Bool("try") {
		return printList(c, now)
	}
	edit.Symbol, edit.LandPattern = now.Symbol, now.LandPattern
	if m.ID == "" {
		m, err = k.MakeModel(ctx, edit)
	} else {
		m, err = k.SaveModel(ctx, m.ID, m.Version, edit)
	}
	if err == nil && c.String("release") != "" {
		m, err = k.ReleaseModel(ctx, m.ID, m.Version, c.String("release"))
	}
	return modelDone(c, m, err)
}

func copyModel(ctx context.Context, c *ucli.Command, k *client.Client) error {
	_, edit, _, err := drawingOf(ctx, c, k, c.Args().First())
	if err != nil {
		return err
	}
	m, err := k.MakeModel(ctx, wire.ModelEdit{Kind: edit.Kind, Name: c.Args().Get(1), Note: edit.Note, Symbol: edit.Symbol, LandPattern: edit.LandPattern})
	return modelDone(c, m, err)
}
