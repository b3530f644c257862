package service

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
	"jollydrawer/formats/delimited"
	"jollydrawer/formats/workbook"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Search asks the lookup index.
func (s *Service) Search(_ context.Context, c Call, q lookup.Query) (wire.PartList, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.PartList{}, err
	}
	q.Offset, q.Limit = page(q.Offset, q.Limit)
	for _, st := range q.Filters["standing"] {
		if _, err := lifecycle.ParseStanding(st); err != nil {
			return wire.PartList{}, fault(Invalid, "standing-wrong", err.Error()+".", "")
		}
	}
	a := s.Index.Search(q)
	out := wire.PartList{Page: wire.Page{Offset: q.Offset, Limit: q.Limit, Total: a.Total}, Hidden: a.Hidden, Facts: a.Facts, Relax: a.Relax, Drawers: a.Drawers,
		Facets: a.Facets, Groups: append([]lookup.FacetValue{}, a.Groups...), Items: make([]wire.PartRow, len(a.Rows))}
	for i, r := range a.Rows {
		out.Items[i] = wire.PartRow(r)
	}
	return out, nil
}

// shown writes a value as its parameter wants it shown.
func shown(cab *cabinet.Cabinet, key string, v cabinet.Value) string {
	if cab != nil {
		if p, ok := cab.Parameter(key); ok {
			return p.Shown(v)
		}
	}
	return v.String()
}

// maxExport is how many parts one export gives; a workbook is held in memory while it is made and takes fewer.
const (
	maxExport   = 1_000_000
	maxWorkbook = 100_000
	exportChunk = 500 // parts that are read from the index at a time, and written with no lock held
)

// ExportParts writes exactly the parts that a query shows, with the columns that are asked for, as csv, json or xlsx.
func (s *Service) ExportParts(ctx context.Context, c Call, q lookup.Query, columns []string, format string, w io.Writer) error {
	if err := allow(c, OpRead); err != nil {
		return err
	}
	cab := s.CabinetNow(ctx)
	if len(columns) == 0 {
		columns = []string{"number", "description", "manufacturer", "mpn", "status", "standing"}
	}
	head := make([]string, len(columns))
	for i, k := range columns {
		head[i] = columnLabel(cab, k)
	}
	ids := s.Index.IDs(q, maxExport)
	line := func(r wire.PartRow) []string {
		out := make([]string, len(columns))
		for i, k := range columns {
			out[i] = column(r, k)
		}
		return out
	}
	switch format {
	case "xlsx":
		if len(ids) > maxWorkbook {
			return fault(TooLarge, "list-long", fmt.Sprintf("The list has %d parts; a workbook takes %d.", len(ids), maxWorkbook), "Narrow it, or save it as CSV.")
		}
		rows := [][]string{head}
		for _, r := range s.Index.Rows(ids) {
			rows = append(rows, line(wire.PartRow(r)))
		}
		return workbook.Write(w, "Parts", rows, nil)
	case "json":
		return s.exportJSON(w, ids, columns, line)
	}
	if err := delimited.Write(w, [][]string{head}); err != nil {
		return err
	}
	for some := range slices.Chunk(ids, exportChunk) {
		var rows [][]string
		for _, r := range s.Index.Rows(some) {
			rows = append(rows, line(wire.PartRow(r)))
		}
		if err := delimited.Write(w, rows); err != nil {
			return err
		}
	}
	return nil
}

// exportJSON writes a list of objects, one after the other.
func (s *Service) exportJSON(w io.Writer, ids, columns []string, line func(wire.PartRow) []string) error {
	mark := "["
	for some := range slices.Chunk(ids, exportChunk) {
		for _, r := range s.Index.Rows(some) {
			one := map[string]string{}
			for i, text := range line(wire.PartRow(r)) {
				one[columns[i]] = text
			}
			raw, err := json.Marshal(one)
			if err != nil {
				return err
			}
			if _, err := fmt.Fprintf(w, "%s\n%s", mark, raw); err != nil {
				return err
			}
			mark = ","
		}
	}
	if mark == "[" {
		_, err := io.WriteString(w, "[]\n")
		return err
	}
	_, err := io.WriteString(w, "\n]\n")
	return err
}

// columnLabel is the heading of a column.
func columnLabel(cab *cabinet.Cabinet, key string) string {
	if key == "mpn" {
		return "MPN"
	}
	if cab != nil {
		if p, ok := cab.Parameter(key); ok {
			return p.Label
		}
	}
	return strings.ToUpper(key[:min(1, len(key))]) + key[min(1, len(key)):]
}

// column returns one column of a row as text.
func column(r wire.PartRow, key string) string {
	switch key {
	case "number":
		return r.Number
	case "name":
		return r.Name
	case "description":
		return r.Description
	case "manufacturer":
		return r.Manufacturer
	case "mpn":
		return r.MPN
	case "drawer":
		return r.Drawer
	case "status":
		return r.Status
	case "standing":
		return r.Standing
	case "revision":
		return fmt.Sprint(r.Revision)
	case "missing":
		return strings.Join(r.Missing, ", ")
	}
	return r.Values.Get(key)
}

// Compare lays two to six parts side by side.
func (s *Service) Compare(ctx context.Context, c Call, keys []string) (wire.Comparison, error) {
	out := wire.Comparison{Parts: []wire.PartRow{}, Rows: []wire.ComparisonRow{}}
	if err := allow(c, OpRead); err != nil {
		return out, err
	}
	if len(keys) < 2 || len(keys) > 6 {
		return out, fault(Invalid, "compare-count", fmt.Sprintf("%d parts cannot be compared.", len(keys)), "Name two to six.")
	}
	cab, _, err := s.currentCabinet(ctx)
	if err != nil {
		return out, err
	}
	var entries []*lookup.Entry
	for _, k := range keys {
		e, ok := s.Index.ByNumber(k)
		if !ok {
			e, ok = s.Index.ByID(k)
		}
		if !ok {
			return out, fault(Unknown, "not-found", fmt.Sprintf("There is no part %s.", k), "Check how it is written, or look it up.")
		}
		entries = append(entries, e)
		out.Parts = append(out.Parts, wire.PartRow(e.Row()))
	}
	row := func(key, label, better string, value func(int) string) {
		r := wire.ComparisonRow{Key: key, Label: label, Better: better, Best: []int{}}
		any := false
		for i := range entries {
			v := value(i)
			any = any || v != ""
			r.Differs = r.Differs || i > 0 && v != r.Values[0]
			r.Values = append(r.Values, v)
		}
		if better != "" && r.Differs {
			r.Best = best(entries, key, better)
		}
		if any {
			out.Rows = append(out.Rows, r)
		}
	}
	for _, k := range []string{"description", "drawer", "manufacturer", "mpn", "status", "standing", "missing"} {
		row(k, columnLabel(nil, k), "", func(i int) string { return column(out.Parts[i], k) })
	}
	seen := map[string]bool{}
	for _, e := range entries {
		t, ok := cab.Template(e.Drawer)
		if !ok {
			continue
		}
		for _, sl := range t.Slots {
			if !seen[sl.Key] {
				seen[sl.Key] = true
				row(sl.Key, sl.Label, sl.Better, func(i int) string { return out.Parts[i].Values.Get(sl.Key) })
			}
		}
	}
	return out, nil
}

// best says which of the parts have the best value of a parameter, where all that have one can be compared.
func best(entries []*lookup.Entry, key, better string) []int {
	out, top := []int{}, measure.Number{}
	for i, e := range entries {
		v := e.Value(key)
		n := measure.Number{}
		switch v.Type {
		case cabinet.Measure:
			n = v.Measure.Value()
		case cabinet.Number:
			n = measure.Whole(v.Number)
		default:
			continue
		}
		c := n.Cmp(top)
		if better == "less" {
			c = -c
		}
		if len(out) == 0 || c > 0 {
			out, top = []int{i}, n
		} else if c == 0 {
			out = append(out, i)
		}
	}
	return out
}

// Views lists the caller's saved views and those that others share.
func (s *Service) Views(ctx context.Context, c Call) (wire.ViewList, error) {
	out := wire.ViewList{Items: []wire.View{}}
	if err := allow(c, OpRead); err != nil {
		return out, err
	}
	vs, err := s.Store.Views(ctx, c.Actor.ID)
	for _, v := range vs {
		out.Items = append(out.Items, s.viewOf(ctx, c, v))
	}
	return out, err
}

func (s *Service) viewOf(ctx context.Context, c Call, v store.View) wire.View {
	return wire.View{ID: v.ID.String(), Name: v.Name, Drawer: v.Drawer, Query: v.Query, Shared: v.Shared, Own: v.Account == c.Actor.ID, By: s.person(ctx, v.Account), At: v.Updated}
}

// SaveView keeps a view under its name; to share it needs a right of its own.
func (s *Service) SaveView(ctx context.Context, c Call, in wire.ViewEdit) (wire.View, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.View{}, err
	}
	if in.Shared {
		if err := allow(c, OpViewShare); err != nil {
			return wire.View{}, err
		}
	}
	if in.Name = strings.TrimSpace(in.Name); in.Name == "" {
		return wire.View{}, fault(Invalid, "no-name", "A view needs a name.", "Say in a word or two what it shows.")
	}
	have, err := s.Store.Views(ctx, c.Actor.ID)
	if err != nil {
		return wire.View{}, err
	}
	if own := slices.DeleteFunc(have, func(v store.View) bool { return v.Account != c.Actor.ID }); len(own) >= 300 {
		return wire.View{}, fault(Invalid, "views-full", "You have 300 saved views; this one was not saved.", "Remove some first.")
	}
	v := store.View{ID: store.NewID(), Account: c.Actor.ID, Name: in.Name, Drawer: in.Drawer, Query: strings.TrimPrefix(in.Query, "?"), Shared: in.Shared, Updated: store.Stamp(s.Now())}
	if err := s.Store.SaveView(ctx, &v); err != nil {
		return wire.View{}, sentence(err, "view")
	}
	return s.viewOf(ctx, c, v), nil
}

// DropView removes the caller's own view.
func (s *Service) DropView(ctx context.Context, c Call, id ID) (wire.ViewList, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.ViewList{}, err
	}
	if err := s.Store.DropView(ctx, c.Actor.ID, id); err != nil {
		return wire.ViewList{}, sentence(err, "view of yours")
	}
	return s.Views(ctx, c)
}
