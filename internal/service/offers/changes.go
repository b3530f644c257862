package offers

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"jollydrawer/core/connection"
	"jollydrawer/formats/rows"
	"jollydrawer/formats/tabular"
	"jollydrawer/internal/blobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/supplier"
)

const (
	wholeEvery = 7 * 24 * time.Hour // that a price list is fetched whole all the same: what its changes left out is found then
	overlap    = time.Hour          // that changes are asked for again: clocks differ, and a list takes its time to be written
)

// changedList brings a price list up to date by what is new or otherwise in it since it was looked at. ok is false where it has to be fetched whole: that
// is not to be had, is not of the same columns, or the last whole list is too old.
func (s *Offers) changedList(ctx context.Context, one connected, have store.PriceList) (l store.PriceList, ok bool, err error) {
	request, asked := one.Ask[connection.Changes]
	if !asked || have.File.IsZero() || have.Whole == nil || s.Now().Sub(*have.Whole) >= wholeEvery {
		return have, false, nil
	}
	now := store.Stamp(s.Now())
	raw, err := s.asker.Changes(ctx, one.Document, have.Checked.Add(-overlap))
	if why := (*supplier.Trouble)(nil); errors.As(err, &why) {
		s.Log.Warn("the changes of a price list were not to be had; it is fetched whole", "supplier", one.Supplier, "says", why.What)
		return have, false, nil
	} else if err != nil {
		return have, false, err
	}
	l = have
	l.Checked = now
	base, err := s.files.Table(ctx, have.File.String(), rows.Layout{})
	if err != nil {
		return have, false, err
	}
	defer base.Close()
	table, err := tabular.Open(io.NopCloser(bytes.NewReader(raw)), int64(len(raw)), rows.Layout{}, s.files.Limits)
	var wrong *rows.Error
	var none rows.NoRows
	if errors.As(err, &none) {
		if _, err = columnsIn(base.Header(), none.Header, request.Gone); err == nil {
			return l, true, s.Store.KeepPriceList(ctx, l)
		}
	}
	switch {
	case errors.As(err, &wrong):
		s.Log.Warn("the changes of a price list cannot be read; it is fetched whole", "supplier", one.Supplier, "says", wrong.Sentence)
		return have, false, nil
	case err != nil:
		return have, false, err
	}
	defer table.Close()
	if base.Layout().Format != "csv" || table.Layout().Format != "csv" { // a workbook has numbers beside texts, which cells of CSV have not
		return have, false, nil
	}
	changes, err := readChanges(one.Document, request.Gone, base.Header(), table)
	if errors.As(err, &wrong) {
		s.Log.Warn("the changes of a price list do not fit it; it is fetched whole", "supplier", one.Supplier, "says", wrong.Sentence)
		return have, false, nil
	} else if err != nil {
		return have, false, err
	}
	r, w := io.Pipe()
	go func() { w.CloseWithError(changes.over(base, w)) }()
	l.File, _, err = blobs.Put(ctx, s.Store, r, s.files.Limits.Bytes)
	r.CloseWithError(io.ErrClosedPipe)
	switch {
	case errors.Is(err, blobs.ErrTooLarge):
		return have, false, nil
	case errors.As(err, &wrong):
		return have, false, nil
	case err != nil:
		return have, false, deed.Sentence(err, "price list")
	}
	if l.Name = fmt.Sprintf("%s %s", one.Supplier, now.Format(time.DateOnly)); l.File != have.File {
		l.At = now
	}
	return l, true, s.Store.KeepPriceList(ctx, l)
}

// listChanges are rows that take the place of those of the same number in a price list, in the order of its columns.
type listChanges struct {
	doc   *connection.Document
	rows  map[supplier.Number][][]string // none: the number is sold no more
	order []supplier.Number
}

// columnsIn says where changes have the columns of a list, each of which they need, and the one that says what is gone.
func columnsIn(list, changes []string, gone string) (at []int, err error) {
	for _, h := range append(slices.Clone(list), gone) {
		i := slices.Index(changes, h)
		if i < 0 && h != "" {
			return nil, rows.Errorf("The changes have no column %q.", h)
		}
		at = append(at, i)
	}
	return at, nil
}

// readChanges reads the changes of a list with a header.
func readChanges(d *connection.Document, gone string, header []string, table rows.Reader) (*listChanges, error) {
	at, err := columnsIn(header, table.Header(), gone)
	if err != nil {
		return nil, err
	}
	at, out := at[:len(header)], at[len(header)]
	c := &listChanges{doc: d, rows: map[supplier.Number][][]string{}}
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
		n := c.number(header, cells)
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

// number is the supplier's number and packing of a row.
func (c *listChanges) number(header, cells []string) supplier.Number {
	cell := func(place string) string {
		if i := slices.Index(header, c.doc.Read.Offers.Paths[place]); i >= 0 && i < len(cells) {
			return strings.TrimSpace(cells[i])
		}
		return ""
	}
	return supplier.Number{Number: cell("number"), Packing: cell("packing")}
}

// over writes a list with the changes in it as CSV: the rows of a number where its first one was, new ones at the end.
func (c *listChanges) over(base rows.Reader, to io.Writer) error {
	w := csv.NewWriter(to)
	if mark, size := utf8.DecodeRuneInString(base.Layout().Delimiter); size > 0 { // as it was found out once
		w.Comma = mark
	}
	header := base.Header()
	if err := w.Write(header); err != nil {
		return err
	}
	written := map[supplier.Number]bool{}
	for {
		row, ok, err := base.Next()
		if err != nil {
			return err
		}
		if !ok {
			break
		}
		n := c.number(header, row.Cells)
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
