package boms

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/names"
	"jollydrawer/formats/ipc2581"
	"jollydrawer/formats/paper"
	"jollydrawer/internal/wire"
)

// formTitles are what the forms of sheets are called on paper.
var formTitles = map[string]string{bom.FormLines: "for review", bom.FormWritten: "in the layout it came in", bom.FormPurchase: "order list", bom.FormAssembly: "assembly list", bom.FormNumbers: "numbers for the drawing"}

// paper lays a sheet of a BOM on pages, for a meeting.
func (s *BOMs) paper(ctx context.Context, in wire.BOMSheet, w io.Writer) error {
	at, err := s.linesAt(ctx, wire.BOMAt{BOM: in.BOM, Revision: in.Revision, Variant: in.Variant})
	if err != nil {
		return err
	}
	out := onPaper{paper.Sheet{Title: at.name + ", " + cmp.Or(formTitles[in.Form], in.Form), Made: s.Now().UTC(), Right: map[int]bool{}}}
	out.Says = append(out.Says, fmt.Sprintf("%s · printed on %s", at.doc.FileName, s.Now().UTC().Format("2006-01-02")))
	if in.Revision > 0 {
		_, v, err := s.revision(ctx, at.head, in.Revision)
		if err != nil {
			return err
		}
		views, err := s.revisionViews(ctx, at.head, v)
		if err != nil {
			return err
		}
		r := views[0]
		if r.State.Use != string(lifecycle.UseYes) { // what is withdrawn says so on paper, too
			out.Title += " (" + r.State.Word + ")"
		}
		out.Says[0] = fmt.Sprintf("%s · frozen by %s on %s · %s", at.frozen.FileName, r.By, r.At.Format("2006-01-02"), r.Note)
		out.Says = append(out.Says, "content "+r.Hash)
	}
	if in.Form == bom.FormLines {
		out.Table = s.reviewed(at)
		out.Widths, out.Right = []float64{17, 5, 12, 4, 30, 24, 10, 34}, map[int]bool{1: true, 3: true}
	} else {
		var numbers map[int]bool
		out.Table, numbers, err = s.sheet(ctx, in)
		if out.Right = numbers; in.Form == bom.FormPurchase && err == nil {
			out.ordered()
		}
	}
	if err != nil {
		return err
	}
	return paper.Write(w, out.Sheet)
}

type onPaper struct{ paper.Sheet }

// orderWidths are the columns of an order list that have room beside each other on a page, and how much of it; the others are in the list as a file.
var orderWidths = map[string]float64{"Part number": 14, "Description": 24, "Manufacturer": 14, "MPN": 21, "Supplier": 15, "Supplier number": 11, "Packing": 7, "For the boards": 6, "Buy": 6, "Price each": 7, "Currency": 6, "Extended price": 9, "Note": 22}

// ordered leaves the columns of an order list that have room.
func (p *onPaper) ordered() {
	var keep []int
	for i, h := range p.Table[0] {
		name, _, _ := strings.Cut(h, " (")
		if w := orderWidths[name]; w > 0 && (name != "Extended price" || h != name || !slices.ContainsFunc(p.Table[0], func(o string) bool { return strings.HasPrefix(o, "Extended price (") })) {
			keep, p.Widths = append(keep, i), append(p.Widths, w)
		}
	}
	right := map[int]bool{}
	for k, row := range p.Table {
		cells := make([]string, len(keep))
		for i, at := range keep {
			right[i] = p.Right[at]
			if at < len(row) {
				cells[i] = row[at]
			}
		}
		p.Table[k] = cells
	}
	p.Right = right
}

// reviewed are the lines of a BOM as they are looked at in a meeting: of each what it is, and what is to be said of it.
func (s *BOMs) reviewed(at lined) [][]string {
	says := map[int][]string{}
	verdict := map[int]string{}
	for _, v := range at.verdicts {
		verdict[v.Line.Row] = string(v.Kind)
		for _, f := range v.Findings {
			if f.Severity != finding.Note {
				says[v.Line.Row] = append(says[v.Line.Row], f.What)
			}
		}
		if v.Chosen != nil && v.Chosen.Reason != "" {
			says[v.Line.Row] = append(says[v.Line.Row], "chosen by "+v.Chosen.By+": "+v.Chosen.Reason)
		}
	}
	if at.verdicts == nil { // of a revision what became otherwise since is said
		for _, d := range bom.Behind(at.lines, s.index) {
			says[d.Row] = append(says[d.Row], d.Says...)
		}
	}
	table := [][]string{{"Designators", "Qty", "Part number", "Rev", "Description", "First source", "Verdict", "To be said"}}
	for _, l := range at.lines {
		r := []string{strings.Join(l.Designators, " "), cmp.Or(l.Amount, strconv.Itoa(l.Quantity)), "", "", strings.Join(strings.Fields(l.Value+" "+l.Package+" "+l.Description), " "), strings.TrimSpace(l.Manufacturer + " " + l.MPN), verdict[l.Row], strings.Join(says[l.Row], "; ")}
		if l.Of != "" {
			r[6], r[7] = "", "of "+l.Of
		}
		if p := l.Part; p != nil {
			r[2], r[3], r[4], r[5] = p.Number, p.Rev(), p.Description, strings.TrimSpace(p.Manufacturer+" "+p.MPN)
		}
		if b := l.Board; b != nil {
			r[2], r[3] = b.Name, b.Label
		}
		switch {
		case l.NotFitted:
			r[1], r[6] = "0", string(bom.Unfitted)
		case l.NoPart:
			r[7] = strings.TrimPrefix(r[7]+"; "+l.By+": "+l.Reason, "; ")
		}
		if l.In != nil {
			r[0] += " (" + strings.Join(l.In, ", ") + ")"
		}
		table = append(table, r)
	}
	return table
}

// bills writes a BOM as IPC-2581: a bill for each variant of its board, or for the one that is named, with the approved sources of its parts. What sub-assemblies are made
// of stands behind their places.
func (s *BOMs) bills(ctx context.Context, in wire.BOMSheet, w io.Writer) error {
	all, err := s.linesAt(ctx, wire.BOMAt{BOM: in.BOM, Revision: in.Revision})
	if err != nil {
		return err
	}
	variants := []string{""}
	if name, err := variant(all.variants, in.Variant); err != nil {
		return err
	} else if name != "" {
		variants[0] = name
	} else if len(all.variants) > 0 {
		variants = all.variants
	}
	var bills []ipc2581.Bill
	for _, v := range variants {
		at, err := all.of(v)
		if err != nil {
			return err
		}
		b := ipc2581.Bill{Name: cmp.Or(v, all.head.Number), Assembly: all.head.Number, Revision: strconv.Itoa(in.Revision)}
		numbers := itemNumbers{of: map[string]string{}}
		for _, l := range at.lines {
			if !l.Assembly {
				b.Items = append(b.Items, s.billItem(l, in.Revision, &numbers))
			}
		}
		bills = append(bills, b)
	}
	return ipc2581.WriteBills(w, bills, "")
}

// itemNumbers are the numbers of a bill's items, by what the items are: two things that would have one number have two.
type itemNumbers struct {
	taken names.Taken
	of    map[string]string
}

func (n *itemNumbers) take(what, number string) string {
	key := what + "\x00" + number
	if _, has := n.of[key]; !has {
		n.of[key] = n.taken.Free(number, names.Bracketed)
	}
	return n.of[key]
}

// billItem is a line as an item of a bill. Lines that no record of the library answers are numbered as the file has them, or by what they are.
func (s *BOMs) billItem(l bom.Pinned, revision int, numbers *itemNumbers) ipc2581.BillItem {
	i := ipc2581.BillItem{Designators: l.Designators, Populate: !l.NotFitted, Pieces: l.Quantity, Package: l.Package, Description: l.Description,
		Texts: [][2]string{{"Value", l.Value}}}
	switch {
	case l.NotFitted && len(l.Designators) > 0:
		i.Pieces = len(l.Designators)
	case l.Amount != "":
		i.Amount, i.Unit, _ = strings.Cut(l.Amount, " ")
		i.Category = "MATERIAL"
	case len(l.Designators) == 0:
		i.Category = "MECHANICAL"
	}
	what := ""
	if p := l.Part; p != nil {
		what, i.Number, i.Description = p.ID, p.Number, p.Description
		if p.Revision > 0 {
			i.Texts = append(i.Texts, [2]string{"Library revision", strconv.Itoa(p.Revision)})
		}
		if e, ok := s.index.ByID(p.ID); ok && revision == 0 {
			for _, src := range e.Sources {
				i.Sources = append(i.Sources, ipc2581.Source{Manufacturer: src.Manufacturer, MPN: src.MPN})
			}
		} else if p.MPN != "" {
			i.Sources = []ipc2581.Source{{Manufacturer: p.Manufacturer, MPN: p.MPN}}
		}
	} else {
		what = strings.Join([]string{l.Number, l.MPN, l.Manufacturer, l.Value, l.Package, l.Description}, "\n")
		i.Number = cmp.Or(l.Number, l.MPN, strings.Join(strings.Fields(l.Value+" "+l.Package), " "), l.Description, fmt.Sprintf("row %d", l.Row))
		if l.MPN != "" {
			i.Sources = []ipc2581.Source{{Manufacturer: l.Manufacturer, MPN: l.MPN}}
		}
	}
	i.Number = numbers.take(what, i.Number)
	i.Designators = slices.Clone(i.Designators)
	return i
}
