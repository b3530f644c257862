package audit

import (
	"bufio"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strconv"
	"time"

	"jollydrawer/core/trail"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// TrailQuery says which entries of all trails are asked for; what is blank narrows nothing.
type TrailQuery struct {
	By       string // sign-in name
	Kind     string
	Drawer   string // and all in it
	File     string // name or hash of one that came in: all that was done with it
	From, To time.Time
	After    string // place where the page begins
	Limit    int
}

// kindsOfTrails are the kinds of things that have a trail.
var kindsOfTrails = []string{store.KindPart, store.KindModel, store.KindCabinet, store.KindCrosswalk, store.KindIntake, store.KindBOM, store.KindRemovedBOM, store.KindLayout, store.KindEndings, store.KindReadings, store.KindDelivery, store.KindLifecycle, store.KindWant, store.KindSeries, store.KindConnection, store.KindRates, store.KindSeverities, store.KindForms}

// narrow turns what is asked for into what the store is asked.
func (s *Audit) narrow(ctx context.Context, q TrailQuery) (out store.TrailQuery, err error) {
	r := s.Store.Read(ctx)
	if out.After, err = store.ParseTrailPlace(q.After); err != nil {
		return out, deed.Fault(deed.Invalid, "place-unknown", "There is no such place in the trail.", "Begin with the first page.")
	}
	out.From, out.To = q.From.UTC(), q.To.UTC()
	if !q.From.IsZero() && !q.To.IsZero() && !q.From.Before(q.To) {
		return out, deed.Fault(deed.Invalid, "times-turned", "The time from which is not before the time to which.", "Exchange the two.")
	}
	if q.By != "" {
		a, err := r.AccountBy("login", q.By)
		if err != nil {
			return out, deed.Sentence(err, "person")
		}
		out.Account = a.ID
	}
	if q.Kind != "" {
		if !slices.Contains(kindsOfTrails, q.Kind) {
			return out, deed.Fault(deed.Invalid, "kind-unknown", fmt.Sprintf("%q is no kind of thing.", q.Kind), "Use part, model, bom, intake, want, delivery, cabinet, lifecycle, crosswalk, layout or endings.")
		}
		out.Kinds = []string{q.Kind}
	}
	if q.Drawer != "" {
		cab := s.cabinets.Current(ctx)
		if cab != nil {
			for _, t := range cab.Templates() {
				if t.Inside(q.Drawer) {
					out.Drawers = append(out.Drawers, t.Key)
				}
			}
		}
		if len(out.Drawers) == 0 {
			return out, deed.Fault(deed.Unknown, "drawer-unknown", fmt.Sprintf("There is no drawer %q.", q.Drawer), "Look at the cabinet: jolly cabinet show.")
		}
	}
	if q.File != "" {
		out.Deeds, err = r.DeedsWithFile(q.File)
	}
	return out, err
}

// Trail lists entries of all trails, newest first.
func (s *Audit) Trail(ctx context.Context, c deed.Call, q TrailQuery) (wire.TrailAcross, error) {
	out := wire.TrailAcross{Items: []wire.TrailLine{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	in, err := s.narrow(ctx, q)
	if err != nil {
		return out, err
	}
	_, limit := deed.Page(0, q.Limit)
	lines, err := s.Store.Read(ctx).TrailAcross(in, limit+1)
	if err != nil {
		return out, err
	}
	if len(lines) > limit {
		lines = lines[:limit]
		out.Next = lines[limit-1].Place().String()
	}
	for _, l := range lines {
		by := s.Person(ctx, l.Account)
		out.Items = append(out.Items, wire.TrailLine{At: l.At, By: by, Kind: l.Kind, ID: l.Head.String(), Number: l.Number, Drawer: l.Drawer, Action: l.Action, Says: trail.Says(by, l.Kind, l.Number, l.Action, l.Detail),
			Changes: trail.Changes(l.Detail), Seq: l.Seq, Deed: l.Deed.String(), Hash: l.Hash.String()})
	}
	return out, nil
}

// ExportTrail writes entries of all trails, oldest first, with the hashes of their chains: as CSV, or as JSON Lines, which can be
// checked without the service.
func (s *Audit) ExportTrail(ctx context.Context, c deed.Call, q TrailQuery, format string, w io.Writer) error {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return err
	}
	in, err := s.narrow(ctx, q)
	if err != nil {
		return err
	}
	in.Oldest = true
	out := bufio.NewWriterSize(w, 64<<10)
	write, end := jsonLines(out)
	if format == "csv" {
		write, end = commaLines(out)
	}
	for {
		lines, err := s.Store.Read(ctx).TrailAcross(in, 1000)
		if err != nil {
			return err
		}
		for _, l := range lines {
			by := s.Person(ctx, l.Account)
			e := trail.Entry{Head: l.Head.String(), Kind: l.Kind, Number: l.Number, Seq: l.Seq, Deed: l.Deed.String(), Account: l.Account.String(), By: by, At: l.At.UTC(), Action: l.Action,
				Says: trail.Says(by, l.Kind, l.Number, l.Action, l.Detail), Detail: l.Detail, HashBefore: l.HashBefore.String(), Hash: l.Hash.String()}
			if err := write(e); err != nil {
				return err
			}
		}
		if len(lines) < 1000 {
			break
		}
		in.After = lines[len(lines)-1].Place()
	}
	if err := end(); err != nil {
		return err
	}
	return out.Flush()
}

func jsonLines(w io.Writer) (write func(trail.Entry) error, end func() error) {
	e := json.NewEncoder(w)
	return func(x trail.Entry) error { return e.Encode(x) }, func() error { return nil }
}

func commaLines(w io.Writer) (write func(trail.Entry) error, end func() error) {
	c := csv.NewWriter(w)
	// What keeps the head from being written keeps all else from it, and is told at the end.
	_ = c.Write([]string{"at", "by", "kind", "number", "action", "says", "seq", "thing", "deed", "account", "detail", "hash before", "hash"})
	return func(x trail.Entry) error {
			row := []string{x.At.Format(time.RFC3339Nano), x.By, x.Kind, x.Number, x.Action, x.Says, strconv.Itoa(x.Seq), x.Head, x.Deed, x.Account, x.Detail, x.HashBefore, x.Hash}
			for i := range row {
				row[i] = rows.SafeCell(row[i])
			}
			return c.Write(row)
		}, func() error {
			c.Flush()
			return c.Error()
		}
}
