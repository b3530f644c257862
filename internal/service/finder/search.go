package finder

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lookup"
	"jollydrawer/formats/delimited"
	"jollydrawer/formats/workbook"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// Search asks the lookup index.
func (s *Finder) Search(ctx context.Context, c deed.Call, q lookup.Query) (wire.PartList, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.PartList{}, err
	}
	if err := s.asks(ctx, &q); err != nil {
		return wire.PartList{}, err
	}
	q.Offset, q.Limit = deed.Page(q.Offset, q.Limit)
	a := s.index.Search(q)
	out := wire.PartList{Page: wire.Page{Offset: q.Offset, Limit: q.Limit, Total: a.Total}, Hidden: a.Hidden, Facts: a.Facts, Relax: a.Relax, Drawers: a.Drawers,
		Facets: a.Facets, Groups: append([]lookup.FacetValue{}, a.Groups...), Items: make([]wire.PartRow, len(a.Rows))}
	for i, r := range a.Rows {
		out.Items[i] = wire.PartRow(r)
	}
	return out, nil
}

// asks makes a question ready for the index: it finds what intakes brought, and refuses what would find nothing, or everything, and
// look like an answer.
func (s *Finder) asks(ctx context.Context, q *lookup.Query) error {
	if err := offerFilters(*q); err != nil {
		return err
	}
	if err := s.ofIntakes(ctx, q); err != nil {
		return err
	}
	return s.known(ctx, *q)
}

// valuesOf says how a value of a parameter is written in a filter.
func valuesOf(p cabinet.Parameter) string {
	switch p.Type {
	case cabinet.Choice:
		if n := len(p.Choices); n > 12 {
			return fmt.Sprintf("Write one of its %d choices, such as %s, or - for the blank.", n, strings.Join(p.Choices[:6], ", "))
		}
		return fmt.Sprintf("Write one of its choices: %s, or - for the blank.", strings.Join(p.Choices, ", "))
	case cabinet.YesNo:
		return "Write yes, no or - for the blank."
	case cabinet.Date:
		return "Write a day such as 2026-11-23, or - for the blank."
	}
	return "Write it with a point and its unit, such as 4.7 k, as a range such as 1 k..10 k or 1 k.., or - for the blank."
}

// known refuses a question by a column, a drawer or a state that there is not.
func (s *Finder) known(ctx context.Context, q lookup.Query) error {
	if len(q.Sort) > lookup.MaxOrder {
		return deed.Fault(deed.Invalid, "sort-long", fmt.Sprintf("A list is sorted by at most %d columns, and %d are named.", lookup.MaxOrder, len(q.Sort)), "Leave the last ones out.")
	}
	where, key := s.index.Unknown(q)
	if where == "" {
		if p, text, ok := s.index.Unreadable(q); ok {
			return deed.Fault(deed.Invalid, "filter-wrong", fmt.Sprintf("The filter %s:%s cannot be read as one value of %s.", p.Key, text, p.Label), valuesOf(p))
		}
		return s.knownStates(ctx, q)
	}
	what := fmt.Sprintf("There is no parameter and no column %q", key)
	switch where {
	case "filter":
		what += " to filter by."
	case "sort":
		what += " to sort by."
	case "group":
		what += " to put parts together by."
	case "column":
		what += " to show."
	case "drawer":
		what = fmt.Sprintf("There is no drawer %q.", key)
	}
	return deed.Fault(deed.Invalid, where+"-unknown", what, "Check how it is written: the cabinet lists the keys of drawers and parameters, by the names that they have now.")
}

func (s *Finder) knownStates(ctx context.Context, q lookup.Query) error {
	if len(q.Filters["status"])+len(q.Filters["standing"]) == 0 {
		return nil
	}
	rules, err := s.policy.Rules(s.Store.Read(ctx))
	if err != nil {
		return err
	}
	for kind, known := range map[string][]string{"status": rules.Statuses(), "standing": rules.Standings()} {
		for _, key := range q.Filters[kind] {
			if key != "-" && !slices.Contains(known, key) && !s.index.Holds(kind, key) { // parts may be in a state that no lifecycle names any more
				return deed.Fault(deed.Invalid, kind+"-wrong", fmt.Sprintf("%q is no %s.", key, kind), "Use one of "+strings.Join(known, ", ")+".")
			}
		}
	}
	return nil
}

// ofIntakes finds the parts that a filter by intakes lets through: those that were made or changed by taking them in.
func (s *Finder) ofIntakes(ctx context.Context, q *lookup.Query) error {
	keys := q.Filters["intake"]
	if len(keys) == 0 {
		return nil
	}
	all := []string{}
	for _, key := range keys {
		ids, err := s.OfIntake(ctx, key)
		if err != nil {
			return err
		}
		all = append(all, ids...)
	}
	q.Sets = map[string][]string{"intake": all}
	return nil
}

// offerFilters says which filter of what suppliers offer cannot be read.
func offerFilters(q lookup.Query) error {
	for key, texts := range q.Filters {
		for _, text := range texts {
			if err := lookup.CheckSupplyFilter(key, text); err != nil {
				return deed.Fault(deed.Invalid, "filter-wrong", fmt.Sprintf("The filter %s:%s cannot be read: %s.", key, text, err), "Write it as offer.stock:100.. or offer.price:..0.50, for example.")
			}
		}
	}
	return nil
}

// maxExport is how many parts one export gives; a workbook is held in memory while it is made and takes fewer.
const (
	maxExport   = 1_000_000
	maxWorkbook = 100_000
	exportChunk = 500 // parts that are read from the index at a time, and written with no lock held
)

// Export writes exactly the parts that a query shows, with the columns that it names, as csv, json or xlsx.
func (s *Finder) Export(ctx context.Context, c deed.Call, q lookup.Query, format string, w io.Writer) error {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return err
	}
	if err := s.asks(ctx, &q); err != nil {
		return err
	}
	cab := s.cabinets.Current(ctx)
	columns := q.Shown
	if len(columns) == 0 {
		columns = []string{"number", "description", "manufacturer", "mpn", "status", "standing"}
	}
	head := make([]string, len(columns))
	for i, k := range columns {
		if head[i] = columnLabel(cab, k); k == "offer.price" && q.Pieces > 0 {
			head[i] = fmt.Sprintf("Price of %d", q.Pieces)
		}
	}
	ids := s.index.IDs(q, maxExport)
	line := func(r wire.PartRow) []string {
		out := make([]string, len(columns))
		for i, k := range columns {
			out[i] = column(r, k)
		}
		return out
	}
	if format == "xlsx" {
		if len(ids) > maxWorkbook {
			return deed.Fault(deed.TooLarge, "list-long", fmt.Sprintf("The list has %d parts; a workbook takes %d.", len(ids), maxWorkbook), "Narrow it, or save it as CSV.")
		}
		rows := [][]string{head}
		for _, r := range s.index.Rows(ids, q.Pieces) {
			rows = append(rows, line(wire.PartRow(r)))
		}
		return workbook.Write(w, "Parts", rows, nil)
	}
	if format == "json" {
		head = columns
	}
	out, err := delimited.NewStream(w, head, format == "json")
	if err != nil {
		return err
	}
	for some := range slices.Chunk(ids, exportChunk) {
		var rows [][]string
		for _, r := range s.index.Rows(some, q.Pieces) {
			rows = append(rows, line(wire.PartRow(r)))
		}
		if err := out.Add(rows); err != nil {
			return err
		}
	}
	return out.Close()
}

// columnLabel is the heading of a column.
func columnLabel(cab *cabinet.Cabinet, key string) string {
	if key == "mpn" {
		return "MPN"
	}
	if heading, ok := lookup.SupplyColumn(key); ok {
		return heading
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
	if _, ok := lookup.SupplyColumn(key); ok {
		row := lookup.Row(r)
		return row.SupplyText(key)
	}
	return r.Values.Get(key)
}
