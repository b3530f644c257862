package boms

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// layoutDoc is what a person said of the columns of files with the same headings.
type layoutDoc struct {
	Decision decision.Record    `json:"decision"` // about the headings, with the columns as they stood
	Columns  map[int]bom.Column `json:"columns"`
}

// bomFile is a BOM's file as it was read.
type bomFile struct {
	lines   []bom.Line
	skipped []bom.Skipped // rows that are no lines
	columns bom.Columns
	layout  rows.Layout
	key     string // of the layout, by its headings
	by      string // who confirmed the layout

	variants []string    // of the board
	rows     map[int]int // where the line of a row is
}

// line is the line in a row.
func (f bomFile) line(row int) (l bom.Line, there bool) {
	if at, there := f.rows[row]; there {
		return f.lines[at], true
	}
	return l, false
}

// bomLines reads the file of a BOM.
func (s *BOMs) bomLines(ctx context.Context, doc bomDoc, cab *cabinet.Cabinet) (f bomFile, err error) {
	t, err := s.files.Table(ctx, doc.FileHash, doc.Layout)
	if err != nil {
		return f, deed.Sentence(err, "file")
	}
	defer t.Close()
	header := t.Header()
	f.layout = t.Layout()
	type numbered struct {
		row     int
		cells   []string
		problem string
	}
	var all []numbered
	var sample [][]string
	for {
		r, ok, err := t.Next()
		if err != nil {
			return f, deed.Sentence(err, "file")
		}
		if !ok {
			break
		}
		all = append(all, numbered{r.Number, slices.Clone(r.Cells), r.Problem})
		sample = append(sample, all[len(all)-1].cells)
		if len(all) > 2*maxLines {
			return f, deed.Fault(deed.Invalid, "bom-too-long", fmt.Sprintf("The BOM has more than %d lines.", maxLines), "Split it.")
		}
	}
	f.columns, err = bom.FindColumns(header, sample, cab)
	if err != nil {
		return f, deed.Fault(deed.Invalid, "no-designators", "The BOM was not read: "+err.Error()+".", "")
	}
	f.key = layoutKey(header[:max(len(header)-len(doc.Files), 0)]) // as that of a file of one variant, for which people may have said something
	said, err := s.layoutSaid(ctx, f.key)
	if err != nil {
		return f, err
	}
	f.columns, f.by = f.columns.With(said.Columns).TellVariants(doc.variantNames()).Seen(sample), said.Decision.By
	designators := 0
	for _, r := range all {
		if why := bom.NoLine(r.cells, f.columns); why != "" {
			if text := strings.Join(strings.Fields(strings.Join(r.cells, " ")), " "); text != "" {
				f.skipped = append(f.skipped, bom.Skipped{Row: r.row, Text: short(text), Why: why})
			}
			continue
		}
		l := bom.ReadLine(r.row, r.cells, f.columns)
		if r.problem != "" {
			l.Problems = append(l.Problems, r.problem)
		}
		if designators += len(l.Designators); designators > maxDesignators {
			return f, deed.Fault(deed.Invalid, "bom-too-long", fmt.Sprintf("The BOM has more than %d designators.", maxDesignators), "Split it.")
		}
		if f.lines = append(f.lines, l); len(f.lines) > maxLines {
			return f, deed.Fault(deed.Invalid, "bom-too-long", fmt.Sprintf("The BOM has more than %d lines.", maxLines), "Split it.")
		}
	}
	bom.Nest(f.lines, f.columns)
	bom.TellApart(f.lines)
	f.variants, f.rows = f.columns.Variants(), make(map[int]int, len(f.lines))
	for i := range f.lines {
		f.rows[f.lines[i].Row] = i
	}
	return f, nil
}

// short cuts what is shown of a row.
func short(text string) string {
	if r := []rune(text); len(r) > 80 {
		return string(r[:79]) + "…"
	}
	return text
}

// layoutKey names the files that have the same headings.
func layoutKey(header []string) string { return deed.ShortName(bom.Layout(header)) }

// layoutSaid is what a person said of files with these headings; nothing where nobody did.
func (s *BOMs) layoutSaid(ctx context.Context, key string) (doc layoutDoc, err error) {
	h, err := s.Store.Read(ctx).HeadByNumber(store.KindLayout, key)
	if errors.Is(err, store.ErrNotFound) {
		return doc, nil
	}
	if err != nil {
		return doc, err
	}
	return layoutOf(s.Store.Read(ctx), h)
}

func layoutOf(r store.Reader, h store.Head) (doc layoutDoc, err error) {
	c, err := r.Content(h.Draft)
	if err := deed.Decode(c, err, &doc); err != nil {
		return doc, err
	}
	if c.Format == "jolly-layout/1" { // which knew one kind of column about fitting
		for at, col := range doc.Columns {
			doc.Columns[at] = col.Sided()
		}
	}
	return doc, nil
}

// SayColumns says what the columns of a BOM mean; it holds for all files with the same headings.
func (s *BOMs) SayColumns(ctx context.Context, c deed.Call, key string, in wire.BOMColumns) (wire.BOM, error) {
	id, err := cabinets.Under(ctx, s.cabinets, func(cab *cabinet.Cabinet, revision int) (store.ID, error) {
		return s.sayColumns(ctx, c, key, in, cab, revision)
	})
	if err != nil {
		return wire.BOM{}, err
	}
	return s.Get(ctx, c, id.String())
}

// rolesSaid lists the roles that a column may be given, as they are written.
func rolesSaid() string {
	var out []string
	for _, r := range bom.Roles {
		if r == bom.Fact {
			r = "fact:PARAMETER"
		}
		out = append(out, string(r))
	}
	return strings.Join(out, ", ")
}

// sayColumns checks what is said against a cabinet, and keeps it where that is still in force.
func (s *BOMs) sayColumns(ctx context.Context, c deed.Call, key string, in wire.BOMColumns, cab *cabinet.Cabinet, revision int) (store.ID, error) {
	h, f, _, err := s.editedBOM(ctx, c, key)
	if err != nil {
		return h.ID, err
	}
	bad := deed.Fault(deed.Invalid, "columns-wrong", "Nothing was saved:", "")
	said := layoutDoc{Decision: decision.Record{Kind: decision.Layout, About: bom.Layout(f.columns.Headings()), Outcome: "confirmed", By: c.Actor.Name, At: s.Now().UTC()}, Columns: map[int]bom.Column{}}
	for i, col := range in.Columns {
		_, known := cab.Parameter(col.Param)
		switch {
		case col.At < 0 || col.At >= len(f.columns):
			bad.Places = append(bad.Places, wire.ProblemDetail{Location: fmt.Sprintf("columns[%d].at", i), Message: fmt.Sprintf("the file has no column %d", col.At)})
		case col.Role != "" && !slices.Contains(bom.Roles, col.Role):
			bad.Places = append(bad.Places, wire.ProblemDetail{Location: fmt.Sprintf("columns[%d].role", i), Message: fmt.Sprintf("%q is no role of a column; there are %s", col.Role, rolesSaid())})
		case col.Blank != "" && col.Role != bom.Fit && col.Role != bom.Unfit:
			bad.Places = append(bad.Places, wire.ProblemDetail{Location: fmt.Sprintf("columns[%d].blank", i), Message: "only in a column about fitting an empty cell means something"})
		case col.Variant != "" && !bom.OfVariant(col.Role):
			bad.Places = append(bad.Places, wire.ProblemDetail{Location: fmt.Sprintf("columns[%d].variant", i), Message: "only a column about fitting, or of quantities, is of one variant"})
		case (col.Role == bom.Fact) != known:
			bad.Places = append(bad.Places, wire.ProblemDetail{Location: fmt.Sprintf("columns[%d].param", i), Message: "a fact names a parameter of the dictionary, and nothing else does"})
		default:
			said.Columns[col.At] = bom.Column{At: col.At, Role: col.Role, Param: col.Param, Blank: col.Blank, Variant: strings.Join(strings.Fields(col.Variant), " "), Because: c.Actor.Name + " said so"}
		}
	}
	if len(bad.Places) > 0 {
		return h.ID, bad
	}
	after := f.columns.With(said.Columns)
	if _, ok := after.At(bom.Designator); !ok {
		return h.ID, deed.Fault(deed.Invalid, "no-designators", "No column of designators would be left.", "Give the role to another column.")
	}
	for _, col := range after { // what a person confirms are all columns as they stand
		if col.Because == "" || col.Role != "" {
			col.Because = c.Actor.Name + " said so"
		}
		said.Columns[col.At] = col
	}
	return h.ID, s.Say(ctx, c, deed.OpBOMEdit, store.KindLayout, f.key, in, func(t *store.Tx, lh *store.Head, _ bool) (string, error) {
		if err := t.UnderCabinet(revision); err != nil {
			return "", err
		}
		return "columns confirmed", deed.SaveDraft(t, lh, layoutFormat, said)
	})
}

// followLayouts finds what was said of columns by names of parameters that a change of templates renames. A column of one that is
// retired stays what it was said to be, and its lines say that there is no such parameter.
func followLayouts(r store.Reader, steps []cabinet.Step) (out []cabinets.Following, err error) {
	heads, err := r.HeadsThatSay(store.KindLayout, cabinet.Renamed(steps))
	if err != nil {
		return nil, err
	}
	for _, h := range heads {
		doc, err := layoutOf(r, h)
		if err != nil {
			return nil, err
		}
		changed := false
		for at, col := range doc.Columns {
			if now, _ := cabinet.Followed(col.Param, steps); now != col.Param {
				col.Param, changed = now, true
				doc.Columns[at] = col
			}
		}
		if changed {
			out = append(out, cabinets.Following{ID: h.ID, What: cabinets.Kind{One: "1 layout of BOM columns", Many: "layouts of BOM columns"}, Write: func(t *store.Tx) error {
				if err := deed.SaveDraft(t, &h, layoutFormat, doc); err != nil {
					return err
				}
				return t.Update(&h, "template changed", nil)
			}})
		}
	}
	return out, nil
}

// completed is the BOM for purchasing: each line with its record, then all that came in, as it came.
func completed(vs []bom.Verdict, f bomFile, subs bom.Subs) [][]string {
	own := bom.LinesColumns
	head := slices.Clone(own)
	for _, c := range f.columns { // all that came in, as it came
		head = append(head, c.Heading+" (as written)")
	}
	table := [][]string{head}
	for _, v := range vs {
		r := make([]string, len(own), len(head))
		takes := strconv.Itoa(v.Line.Pieces())
		switch {
		case v.Kind == bom.Unfitted:
			takes = "0"
		case v.Line.Amount != (bom.Amount{}):
			takes = v.Line.Needs().String()
		}
		r[0], r[1], r[2], r[3] = strconv.Itoa(v.Line.Row), strings.Join(v.Line.Designators, " "), takes, string(v.Kind)
		// Only what is linked is filled in from a record: a proposal nobody accepted must not be ordered from.
		if v.Kind == bom.Linked && v.Part != nil {
			e := v.Part
			r[4], r[5], r[6], r[12] = e.Number, strconv.Itoa(e.Revision), e.Description, string(e.Standing)
			for i, src := range e.Sources {
				if i > 0 {
					r[11] = strings.TrimPrefix(r[11]+"; "+src.Manufacturer+" "+src.MPN, "; ")
					continue
				}
				r[7], r[8] = src.Manufacturer, src.MPN
				for _, n := range src.Numbers {
					r[9] = strings.TrimPrefix(r[9]+"; "+n.Supplier, "; ")
					r[10] = strings.TrimPrefix(r[10]+"; "+n.Number, "; ")
				}
			}
		} else {
			r[6], r[7], r[8], r[10] = v.Line.Description, v.Line.Manufacturer, v.Line.MPN, v.Line.SupplierNumber
		}
		if sub, is := subs.Board(&v); is {
			r[4], r[5] = sub.Pin.Name, sub.Pin.Label
		}
		var says []string
		for _, f := range append(slices.Clip(v.Findings), subs.Findings(&v)...) {
			says = append(says, f.What)
		}
		r[13] = strings.Join(says, "; ")
		for _, c := range f.columns {
			cell := ""
			if c.At < len(v.Line.Cells) {
				cell = v.Line.Cells[c.At]
			}
			r = append(r, cell)
		}
		table = append(table, r)
	}
	return table
}
