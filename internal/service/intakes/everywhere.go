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
