package offers

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"time"

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
		if _, err = supplier.ColumnsIn(base.Header(), none.Header, request.Gone); err == nil {
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
	changes, err := supplier.ReadChanges(one.Document, request.Gone, base.Header(), table)
	if errors.As(err, &wrong) {
		s.Log.Warn("the changes of a price list do not fit it; it is fetched whole", "supplier", one.Supplier, "says", wrong.Sentence)
		return have, false, nil
	} else if err != nil {
		return have, false, err
	}
	r, w := io.Pipe()
	go func() { w.CloseWithError(changes.Over(base, w)) }()
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
