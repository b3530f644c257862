package intakes

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/crosswalk"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// said is a text of a field of which somebody says what stands for it wherever the field says that.
type said struct{ field, text string }

// everywhere turns the corrections that hold wherever their field says what it says in their row into changes of the crosswalk, and returns
// the others.
func (in *spelled) everywhere(e *evaluation) (rest []wire.CellEdit, err error) {
	if in.Everywhere {
		if err := in.rowsEverywhere(e); err != nil {
			return nil, err
		}
	}
	for _, c := range in.Cells {
		if !c.Everywhere {
			rest = append(rest, c)
			continue
		}
		at, col := e.table.At(c.Row), slices.Index(e.table.Header, c.Field)
		if at < 0 || col < 0 {
			return nil, deed.Fault(deed.Invalid, "no-cell", fmt.Sprintf("The file has no field %q in a row %d; nothing was saved.", c.Field, c.Row), "Look at the row again.")
		}
		text, stands := e.table.Row(at).Cells[col], strings.TrimSpace(c.Text)
		if text == "" || stands == "" {
			return nil, deed.Fault(deed.Invalid, "everywhere-blank", fmt.Sprintf("A blank cannot be corrected everywhere: %q is %q in row %d and would be %q.", c.Field, text, c.Row, stands), "Correct the cell of the row, or map the field otherwise.")
		}
		changes := 0
		if c.Field == e.cw.Take.Manufacturer {
			in.Changes = append(in.Changes, crosswalk.Change{Makers: map[string]string{text: stands}})
			changes++
		}
		for _, r := range e.cw.Fields {
			if r.From != c.Field {
				continue
			}
			words := map[string]string{text: stands}
			for k, v := range r.Words {
				if k != text {
					words[k] = v
				}
			}
			r.Words = words
			in.Changes = append(in.Changes, crosswalk.Change{Rule: &r})
			changes++
		}
		if changes == 0 {
			return nil, deed.Fault(deed.Invalid, "everywhere-unmapped", fmt.Sprintf("%q fills no parameter and no manufacturer, so that its texts cannot be corrected everywhere.", c.Field), "Map the field first, or correct the cells of the rows.")
		}
		in.wide = append(in.wide, said{c.Field, text})
	}
	return rest, nil
}

// rowsEverywhere turns leaving rows out, or putting them into a drawer, into rules for all rows of their part numbers.
func (in *spelled) rowsEverywhere(e *evaluation) error {
	field := e.cw.Take.MPN
	col := slices.Index(e.table.Header, field)
	if field == "" || col < 0 {
		return deed.Fault(deed.Invalid, "everywhere-unmapped", "No field is mapped to the manufacturer part number, by which rows are told everywhere; nothing was saved.", "Map it first, or decide about the rows of this file.")
	}
	rule := func(row int, change func(crosswalk.Condition) crosswalk.Change) error {
		at := e.table.At(row)
		if at < 0 {
			return deed.Fault(deed.Invalid, "no-row", fmt.Sprintf("The file has no row %d; nothing was saved.", row), "Look at the rows again.")
		}
		text := e.table.Row(at).Cells[col]
		if text == "" {
			return deed.Fault(deed.Invalid, "everywhere-blank", fmt.Sprintf("Row %d has no manufacturer part number, by which it is told everywhere; nothing was saved.", row), "Decide about the row of this file.")
		}
		in.Changes = append(in.Changes, change(crosswalk.Condition{Field: field, Is: text}))
		in.wide = append(in.wide, said{field, text})
		return nil
	}
	for _, row := range in.LeaveOut {
		if err := rule(row, func(is crosswalk.Condition) crosswalk.Change { return crosswalk.Change{Leave: &is} }); err != nil {
			return err
		}
	}
	in.LeaveOut = nil
	if in.Drawer == "" {
		return nil
	}
	for _, row := range in.Rows {
		if at := e.table.At(row); at >= 0 && e.cw.Kinds[e.result.Candidates[at].Kind] != "" { // a kind that has a drawer goes before such a rule
			return deed.Fault(deed.Invalid, "everywhere-kind", fmt.Sprintf("Row %d goes where all rows of the kind %q go; nothing was saved.", row, e.result.Candidates[at].Kind), "Say where the kind goes, or put the row of this file into the drawer.")
		}
		if err := rule(row, func(is crosswalk.Condition) crosswalk.Change {
			return crosswalk.Change{Sorting: &crosswalk.Sorting{Condition: is, Drawer: in.Drawer}}
		}); err != nil {
			return err
		}
	}
	in.Drawer, in.Rows = "", nil
	return nil
}

// mostFiles is how many other files are looked at for a text.
const mostFiles = 100

// elsewhere counts the rows of the supplier's other files of the same layout that say a text which somebody corrects everywhere.
func (s *Intakes) elsewhere(ctx context.Context, h store.Head, doc intakeDoc, e *evaluation, wide []said) (*wire.Elsewhere, error) {
	out := &wire.Elsewhere{Named: []string{}}
	seen := map[string]bool{doc.FileHash: true}
	const page = 200
	for offset := 0; out.Of < mostFiles; offset += page {
		heads, _, err := s.Store.Read(ctx).Heads(store.KindIntake, offset, page)
		if err != nil {
			return nil, err
		}
		for _, o := range heads {
			if out.Of == mostFiles || o.ID == h.ID {
				continue
			}
			other, err := s.intakeDoc(s.Store.Read(ctx), o)
			if err != nil || other.Supplier != doc.Supplier || seen[other.FileHash] { // one that cannot be read is no file to be touched
				continue
			}
			lay, err := s.crosswalkOf(ctx, other)
			if err != nil {
				return nil, err
			}
			if lay.cw.Number() != e.cw.Number() {
				continue
			}
			seen[other.FileHash] = true
			out.Of++
			rows, err := s.saying(ctx, other, wide)
			if err != nil {
				return nil, err
			}
			if rows > 0 {
				out.Rows += rows
				out.Files++
				if len(out.Named) < 10 {
					out.Named = append(out.Named, fmt.Sprintf("%s (%s)", o.Number, other.FileName))
				}
			}
		}
		if len(heads) < page {
			return out, nil
		}
	}
	return out, nil
}

// saying counts the rows of a file in which a field says one of some texts.
func (s *Intakes) saying(ctx context.Context, doc intakeDoc, wide []said) (rows int, err error) {
	t, _, err := s.tableOf(ctx, doc.FileHash, doc.Layout)
	if err != nil {
		return 0, keepProblem(deed.Sentence(err, "file"))
	}
	for at := range t.Len() {
		cells := t.Row(at).Cells
		if slices.ContainsFunc(wide, func(w said) bool {
			col := slices.Index(t.Header, w.field)
			return col >= 0 && cells[col] == w.text
		}) {
			rows++
		}
	}
	return rows, nil
}
