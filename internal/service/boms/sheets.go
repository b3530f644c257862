package boms

import (
	"bufio"
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/buying"
	"jollydrawer/formats/delimited"
	"jollydrawer/formats/workbook"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// SheetName is what a sheet of a BOM is saved as: board, revision, form and day.
func (s *BOMs) SheetName(ctx context.Context, c deed.Call, in wire.BOMSheet) (string, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return "", err
	}
	h, _, err := s.findBOM(ctx, in.BOM)
	if err != nil {
		return "", err
	}
	name := h.Number
	if in.Revision > 0 {
		name += fmt.Sprintf(" revision %d", in.Revision)
	}
	if v := strings.Join(strings.Fields(in.Variant), " "); v != "" {
		name += " " + v
	}
	return fmt.Sprintf("%s %s %s.%s", name, in.Form, s.Now().UTC().Format("2006-01-02"), in.Format), nil
}

// Sheet writes a BOM in one of its forms, as csv, xlsx, json or pdf, or as xml, which is IPC-2581.
func (s *BOMs) Sheet(ctx context.Context, c deed.Call, in wire.BOMSheet, w io.Writer) error {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return err
	}
	switch in.Format {
	case "csv", "xlsx", "json":
	case "pdf":
		return s.paper(ctx, in, w)
	case "xml":
		if in.Form != bom.FormLines {
			return deed.Fault(deed.Invalid, "form-of-bill", "IPC-2581 has one form for a bill of materials.", "Ask for the form lines, or for another format.")
		}
		return s.bills(ctx, in, w)
	default:
		return deed.Fault(deed.Invalid, "format-unknown", fmt.Sprintf("%q is no format for a BOM.", in.Format), "Use csv, xlsx, json, pdf or xml (IPC-2581).")
	}
	table, numbers, err := s.sheet(ctx, in)
	if err != nil {
		return err
	}
	switch in.Format {
	case "xlsx":
		return workbook.Write(w, "BOM", table, numbers)
	case "json":
		return records(w, table, numbers)
	}
	return delimited.Write(w, table)
}

// records writes a table as a JSON array of objects, its headings for names in their order. What is counted or paid is a number as it was written, all else a text;
// a cell that is blank is left out. A heading that stands twice has its column's number behind it.
func records(w io.Writer, table [][]string, numbers map[int]bool) error {
	var names []string
	seen := map[string]bool{}
	for i, h := range table[0] {
		if h == "" || seen[h] {
			h = strings.TrimSpace(fmt.Sprintf("%s %d", h, i+1))
		}
		seen[h] = true
		names = append(names, h)
	}
	b := bufio.NewWriter(w)
	for n, row := range table[1:] {
		b.WriteString(map[bool]string{true: "[\n  {", false: ",\n  {"}[n == 0])
		sep := ""
		for i, cell := range row {
			if cell == "" {
				continue
			}
			name, err := json.Marshal(names[i])
			if err != nil {
				return err
			}
			value, err := json.Marshal(cell)
			if err != nil {
				return err
			}
			if numbers[i] && plainNumber.MatchString(cell) {
				value = []byte(cell)
			}
			b.WriteString(sep)
			b.Write(name)
			b.WriteString(": ")
			b.Write(value)
			sep = ", "
		}
		b.WriteString("}")
	}
	if len(table) == 1 {
		b.WriteString("[")
	}
	b.WriteString("\n]\n")
	return b.Flush()
}

// plainNumber is how JSON writes a number without an exponent (RFC 8259, 6).
var plainNumber = regexp.MustCompile(`^-?(0|[1-9][0-9]*)(\.[0-9]+)?$`)

func (s *BOMs) sheet(ctx context.Context, in wire.BOMSheet) (table [][]string, numbers map[int]bool, err error) {
	switch in.Form {
	case bom.FormLines, bom.FormWritten:
		if in.Revision > 0 {
			return nil, nil, deed.Fault(deed.Invalid, "form-of-draft", "A revision is not kept in the layout of its file.", "Use purchase, assembly or numbers, or the BOM as it is now.")
		}
		h, doc, err := s.findBOM(ctx, in.BOM)
		if err != nil {
			return nil, nil, err
		}
		vs, f, err := s.reconcile(ctx, h, doc)
		if err != nil {
			return nil, nil, err
		}
		of, err := variant(f.variants, in.Variant)
		if err != nil {
			return nil, nil, err
		}
		vs = bom.Of(vs, of)
		subs, _, err := s.subs(ctx, h, doc, vs)
		if err != nil {
			return nil, nil, err
		}
		if in.Form == bom.FormWritten {
			return writtenSheet(vs, f, subs), map[int]bool{}, nil
		}
		return completed(vs, f, subs), map[int]bool{0: true, 2: true, 5: true}, nil
	case bom.FormPurchase:
		at, err := s.costedAt(ctx, wire.BOMAt{BOM: in.BOM, Revision: in.Revision, Variant: in.Variant})
		if err != nil {
			return nil, nil, err
		}
		if in.Boards == 0 && at.cost != nil { // as it was frozen
			table, numbers = at.cost.Sheet()
			return table, numbers, nil
		}
		boards := cmp.Or(in.Boards, int64(at.doc.Build), 1)
		if boards < 1 || boards > buying.MostBoards {
			return nil, nil, boardsWrong()
		}
		b, err := s.basket(ctx, at.lines)
		if err != nil {
			return nil, nil, err
		}
		table, numbers = b.plan(boards, at.doc.Buying).Sheet()
		return table, numbers, nil
	case bom.FormAssembly, bom.FormNumbers:
		at, err := s.linesAt(ctx, wire.BOMAt{BOM: in.BOM, Revision: in.Revision, Variant: in.Variant})
		if err != nil {
			return nil, nil, err
		}
		if in.Form == bom.FormAssembly {
			table, numbers = bom.AssemblySheet(at.lines, at.unpicked()...)
		} else {
			table, numbers = bom.NumbersSheet(at.lines)
		}
		return table, numbers, nil
	}
	form, is, err := s.houseForm(ctx, in.Form)
	if err != nil || !is {
		return nil, nil, err
	}
	in.Form = form.Of
	if table, numbers, err = s.sheet(ctx, in); err != nil {
		return nil, nil, err
	}
	table, numbers = form.Make(table, numbers)
	return table, numbers, nil
}

// writtenSheet is the BOM in the layout that it came in: its columns in their order, and the record's behind them.
func writtenSheet(vs []bom.Verdict, f bomFile, subs bom.Subs) [][]string {
	own := []string{"Library part number", "Library revision", "Library description", "First manufacturer", "First MPN"}
	table := [][]string{append(slices.Clone(f.columns.Headings()), own...)}
	for i := range vs {
		v := &vs[i]
		r := make([]string, len(f.columns), len(f.columns)+len(own))
		copy(r, v.Line.Cells)
		more := make([]string, len(own))
		if v.Kind == bom.Linked && v.Part != nil {
			p := bom.PinOf(v.Part)
			more = []string{p.Number, p.Rev(), p.Description, p.Manufacturer, p.MPN}
		}
		if sub, is := subs.Board(v); is {
			more[0], more[1] = sub.Pin.Name, sub.Pin.Label
		}
		table = append(table, append(r, more...))
	}
	return table
}
