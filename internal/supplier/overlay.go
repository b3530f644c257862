package supplier

import (
	"encoding/csv"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"jollydrawer/core/connection"
	"jollydrawer/formats/rows"
)

// ListChanges are rows that take the place of those of the same number in a price list, in the order of its columns.
type ListChanges struct {
	list  *columns
	rows  map[Number][][]string // none: the number is sold no more
	order []Number
}

// ColumnsIn says where changes have the columns of a list, each of which they need, and the one that says what is gone.
func ColumnsIn(list, changes []string, gone string) (at []int, err error) {
	for _, h := range append(slices.Clone(list), gone) {
		i := slices.Index(changes, h)
		if i < 0 && h != "" {
			return nil, rows.Errorf("The changes have no column %q.", h)
		}
		at = append(at, i)
	}
	return at, nil
}

// ReadChanges reads the changes of a list with a header.
func ReadChanges(d *connection.Document, gone string, header []string, table rows.Reader) (*ListChanges, error) {
	at, err := ColumnsIn(header, table.Header(), gone)
	if err != nil {
		return nil, err
	}
	at, out := at[:len(header)], at[len(header)]
	list, err := columnsOf(d, header)
	if err != nil {
		return nil, err
	}
	c := &ListChanges{list: list, rows: map[Number][][]string{}}
	for {
		row, ok, err := table.Next()
		switch {
		case err != nil:
			return nil, err
		case !ok:
			return c, nil
		case row.Problem != "":
			return nil, rows.Errorf("Row %d of the changes cannot be read: %s.", row.Number, row.Problem)
		case row.Blank():
			continue
		}
		cells := make([]string, len(header))
		for i, n := range at {
			if n >= 0 && n < len(row.Cells) {
				cells[i] = row.Cells[n]
			}
		}
		n := c.list.number(cells)
		if n.Number == "" {
			return nil, rows.Errorf("Row %d of the changes has no number of the supplier.", row.Number)
		}
		if _, there := c.rows[n]; !there {
			c.order = append(c.order, n)
			c.rows[n] = nil
		}
		if out < 0 || out >= len(row.Cells) || !said(row.Cells[out]) {
			c.rows[n] = append(c.rows[n], cells)
		}
	}
}

// said says whether a cell says yes.
func said(cell string) bool {
	switch strings.ToLower(strings.TrimSpace(cell)) {
	case "", "0", "no", "n", "false", "-":
		return false
	}
	return true
}

// Over writes a list with the changes in it as CSV: the rows of a number where its first one was, new ones at the end.
func (c *ListChanges) Over(base rows.Reader, to io.Writer) error {
	w := csv.NewWriter(to)
	if mark, size := utf8.DecodeRuneInString(base.Layout().Delimiter); size > 0 { // as it was found out once
		w.Comma = mark
	}
	if err := w.Write(base.Header()); err != nil {
		return err
	}
	written := map[Number]bool{}
	for {
		row, ok, err := base.Next()
		if err != nil {
			return err
		}
		if !ok {
			break
		}
		n := c.list.number(row.Cells)
		now, changed := c.rows[n]
		if !changed {
			now = [][]string{row.Cells}
		} else if written[n] {
			continue
		}
		if changed {
			written[n] = true
		}
		for _, cells := range now {
			if err := w.Write(cells); err != nil {
				return err
			}
		}
	}
	for _, n := range c.order {
		if written[n] {
			continue
		}
		for _, cells := range c.rows[n] {
			if err := w.Write(cells); err != nil {
				return err
			}
		}
	}
	w.Flush()
	return w.Error()
}
