package intakes

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/core/measure"
	"jollydrawer/core/origin"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// ReadPart says what a pasted text, or a row of a file loaded before, says of one part; nothing is saved. The checks for
// duplicates are those of an intake, before anything is saved.
func (s *Intakes) ReadPart(ctx context.Context, c deed.Call, in wire.ReadPart) (wire.PartRead, error) {
	out := wire.PartRead{Same: []wire.PartRow{}, Alike: []wire.PartRow{}, Beside: []wire.LaidOut{}, Differ: []string{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return out, err
	}
	var beside wire.Part
	if in.Beside != "" {
		if beside, err = s.parts.Get(ctx, c, in.Beside); err != nil {
			return out, err
		}
		if in.Drawer == "" {
			in.Drawer = beside.Newest().Drawer
		}
	}
	if in.Intake != "" {
		out.Pasted, out.From, err = s.recordPart(ctx, in)
	} else {
		out.Pasted, err = s.pastedPart(ctx, cab, in)
	}
	if err != nil {
		return out, err
	}
	values := map[string]cabinet.Value{}
	t, ok := cab.Template(out.Drawer)
	if ok {
		out.Label = t.Label
		for _, v := range out.Values {
			if slot, there := t.Slot(v.Key); there && v.Problem == "" {
				if read, problem := slot.Read(v.Value, measure.Options{}); problem == nil {
					values[v.Key] = read
				}
			}
		}
		for _, number := range s.index.Alike(out.Drawer, t.Identity, values, beside.ID, 10) {
			if e, ok := s.index.ByNumber(number); ok {
				out.Alike = append(out.Alike, wire.PartRow(e.Row()))
			}
		}
	}
	for _, e := range s.index.ByMPN(out.Source.MPN) {
		if e.ID != beside.ID && out.Source.MPN != "" && len(out.Same) < 20 {
			out.Same = append(out.Same, wire.PartRow(e.Row()))
		}
	}
	if in.Beside != "" && ok {
		layBeside(&out, t, beside.Newest(), values)
	}
	return out, nil
}

// layBeside compares what was read with a part, parameter by parameter.
func layBeside(out *wire.PartRead, t *cabinet.Template, have *wire.PartContent, values map[string]cabinet.Value) {
	if have == nil {
		return
	}
	offered := map[string]string{}
	for _, v := range out.Values {
		offered[v.Key] = v.Value
	}
	shown := map[string]string{}
	for _, v := range have.Values {
		shown[v.Key] = v.Text
	}
	out.Equal = have.Drawer == out.Drawer
	for _, slot := range t.Slots {
		h, o := shown[slot.Key], offered[slot.Key]
		row := wire.LaidOut{Key: slot.Key, Label: slot.Label, Have: h, Offer: o}
		same := h == o
		if !same && h != "" && o != "" {
			read, _ := slot.Read(h, measure.Options{})
			same = read.Meant() == values[slot.Key].Meant() && !read.IsBlank()
		}
		switch {
		case h == "" && o == "":
			continue
		case same:
			row.State = "same"
		case o == "":
			row.State = "only here"
		case h == "":
			row.State = "missing"
		default:
			row.State = "differs"
		}
		if slices.Contains(t.Identity, slot.Key) && row.State == "differs" {
			out.Equal = false
			if out.Source.Unlike == nil {
				out.Source.Unlike = map[string]string{}
			}
			out.Source.Unlike[slot.Key] = o
			out.Differ = append(out.Differ, fmt.Sprintf("%s: %s here, %s there", slot.Label, h, o))
		}
		out.Beside = append(out.Beside, row)
	}
}

func (s *Intakes) pastedPart(ctx context.Context, cab *cabinet.Cabinet, in wire.ReadPart) (intake.Pasted, error) {
	if strings.TrimSpace(in.Text) == "" {
		return intake.Pasted{}, deed.Fault(deed.Invalid, "nothing-pasted", "There is no text to read.", "Paste a table, or a line such as RES 4.7 kΩ 1% 0.125 W 0805.")
	}
	if n := intake.PartsIn(in.Text); n > 1 {
		return intake.Pasted{}, deed.Fault(deed.Invalid, "several-parts", fmt.Sprintf("The text is a table of %d parts.", n), "Paste its heading with one of its rows, or bring all of them in as the file of an intake.")
	}
	all, err := s.cabinets.AllCrosswalks(ctx)
	if err != nil {
		return intake.Pasted{}, err
	}
	if in.Supplier != "" {
		all = slices.DeleteFunc(all, func(cw crosswalk.Crosswalk) bool { return cw.Supplier != in.Supplier })
	}
	p := intake.Paste(intake.ReadFields(in.Text), cab, all, in.Drawer)
	p.Source = s.houseSpelling(p.Source)
	return p, nil
}

// houseSpelling writes a known manufacturer as the library does.
func (s *Intakes) houseSpelling(src part.Source) part.Source {
	want := part.NormaliseMaker(src.Manufacturer)
	for _, m := range s.index.Makers() {
		if want != "" && part.NormaliseMaker(m) == want {
			src.Manufacturer = m
			break
		}
	}
	return src
}

// recordPart says what one row of an intake's file says.
func (s *Intakes) recordPart(ctx context.Context, in wire.ReadPart) (out intake.Pasted, from string, err error) {
	id, err := store.ParseID(in.Intake)
	if err != nil {
		return out, "", deed.Fault(deed.Unknown, "not-found", "There is no such intake.", "")
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return out, "", err
	}
	e, err := s.evaluate(ctx, h, doc)
	if err != nil {
		return out, "", err
	}
	row, corrected, ok := e.result.Cells(in.Row)
	at := e.table.At(in.Row)
	if !ok || at < 0 {
		return out, "", deed.Fault(deed.Unknown, "not-found", fmt.Sprintf("%s has no row %d.", h.Number, in.Row), "")
	}
	k := &e.result.Candidates[at]
	out = intake.Pasted{Drawer: k.Drawer, Because: k.Because, Source: k.Source(), Number: "", Values: []intake.Pasting{}, Unused: []intake.Field{}, ByHand: []string{}, Link: k.Datasheet}
	used := map[string]bool{}
	if t, ok := e.cab.Template(k.Drawer); ok {
		e.result.EachValue(at, func(key string, v cabinet.Value, o origin.Origin, problem *cabinet.Problem) {
			slot, _ := t.Slot(key)
			one := intake.Pasting{Key: key, Value: slot.Shown(v), Written: o.Written, Field: o.Field, Why: o.Rule}
			if one.Why == "" {
				one.Why = fmt.Sprintf("the crosswalk of %s maps %q so", doc.Supplier, o.Field)
			}
			if problem != nil {
				one.Value, one.Problem = o.Written, problem.Why
			}
			used[o.Field] = true
			out.Values = append(out.Values, one)
		})
		for _, slot := range t.Slots {
			if (slot.Required || slot.ByHand) && e.result.Value(at, slot.Key).IsBlank() {
				out.ByHand = append(out.ByHand, slot.Key)
			}
		}
	}
	for _, f := range e.cw.Take.Fields() {
		used[f] = true
	}
	for i, f := range e.table.Header {
		text := row.Cells[i]
		if now, edited := corrected[f]; edited {
			text = now
		}
		if !used[f] && text != "" {
			out.Unused = append(out.Unused, intake.Field{Name: f, Text: text})
		}
	}
	return out, fmt.Sprintf("%s, row %d", doc.FileName, in.Row), nil
}
