package intake

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
	"jollydrawer/core/measure"
	"jollydrawer/core/origin"
)

// What somebody settled stays settled, and is looked at again where something speaks against it that they had not seen: the file says
// something else by now in the same cell, the row says what would put it elsewhere, another file has another value for the same source,
// the row's own description or the datasheet's text disagrees.

// Claims finds what was settled elsewhere about a source: decisions that say which values it has. What a file settles itself is none.
type Claims func(sourceKey string) []decision.Record

// Who says who decided, when and in which intake.
func who(r *decision.Record) string {
	out := r.By
	if out == "" {
		out = "somebody"
	}
	if !r.At.IsZero() {
		out += " on " + r.At.UTC().Format(time.DateOnly)
	}
	if r.In != "" {
		out += " in " + r.In
	}
	return out
}

// Said says who corrected the cell of a row, when, where and why; blank where nobody did.
func (e *Edits) Said(row int, field string) string {
	r := e.said[saidOf{row, decision.Cell, field}]
	if r == nil {
		return ""
	}
	if r.Reason != "" {
		return who(r) + ": " + r.Reason
	}
	return who(r)
}

// Contradiction is a decision about a cell whose row says something else by now.
type Contradiction struct {
	Row int
	By  *decision.Record
}

// Contradicted lists the decisions that the findings of a cause are about.
func (r *Result) Contradicted(cause string) (out []Contradiction) {
	for _, o := range r.in.Edits.otherwise {
		row := int(r.in.Table.numbers[o.at])
		if o.by.Kind == decision.Cell && cause == "decided:"+o.by.Field && r.in.Edits.said[saidOf{row, decision.Cell, o.by.Field}] == nil {
			out = append(out, Contradiction{row, o.by})
		}
	}
	return out
}

// Settles returns the values that the cell of a row fills, those that were read: what a decision about the cell says of the source.
func (r *Result) Settles(row int, field string) map[string]cabinet.Value {
	at := r.in.Table.At(row)
	if at < 0 || r.Candidates[at].Drawer == "" {
		return nil
	}
	out := map[string]cabinet.Value{}
	r.EachValue(at, func(key string, v cabinet.Value, o origin.Origin, p *cabinet.Problem) {
		if o.Field == field && p == nil && v.Type != cabinet.Raw {
			out[key] = v
		}
	})
	return out
}

// otherwise says where the file says something else in a cell than when somebody corrected it. The file's text stands.
func (b *builder) otherwise(c *Candidate) {
	for _, r := range b.against[c.at] {
		if r.Kind != decision.Cell || b.in.Edits.said[saidOf{c.Row, decision.Cell, r.Field}] != nil {
			continue
		}
		seen, _ := decision.ReadWords(r.Evidence)
		now := b.res.cell(c, r.Field)
		b.find(finding.Finding{Severity: finding.Warning, Cause: "decided:" + r.Field, Row: c.Row, Field: r.Field, Text: now,
			What: fmt.Sprintf("%q in %q was corrected to %q (%s), and the file says %q now, which stands", seen[r.Field], r.Field, r.Outcome, who(r), now),
			Mend: "correct it again, or take the earlier correction back"})
	}
}

// elsewhere says where a row that somebody put into a drawer says by now what would put it into another.
func (b *builder) elsewhere(c *Candidate) {
	if len(b.in.Edits.Drawers) == 0 {
		return
	}
	r := b.in.Edits.said[saidOf{c.Row, decision.Drawer, ""}]
	if r == nil {
		return
	}
	seen, err := decision.ReadWords(r.Evidence)
	if err != nil || b.in.Table.says(c.at, b.res.col, seen) {
		return
	}
	if drawer, because := b.choose(c); drawer != "" && drawer != r.Outcome {
		b.find(finding.Finding{Severity: finding.Warning, Cause: "decided-drawer:" + drawer, Row: c.Row, Field: b.in.Crosswalk.Take.Kind, Text: c.Kind,
			What: fmt.Sprintf("the row was put into %s (%s) when it said %s; what it says now puts it into %s: %s", r.Outcome, who(r), seen.Say(), drawer, because), Mend: "look at it again: put it there, or accept that it stays"})
	}
}

// claimed compares the values of a row with what was settled elsewhere about its source.
func (b *builder) claimed(c *Candidate, p *plan) {
	if b.in.Claims == nil || c.source.MPN == "" {
		return
	}
	for _, r := range b.in.Claims(c.key) {
		for i := range c.vals {
			slot := &p.t.Slots[c.vals[i].slot]
			want, ok := r.Claims[slot.Key]
			have := &b.res.readings[c.vals[i].reading]
			if !ok || have.value.Type == cabinet.Raw || have.value.Meant() == want.Meant() || b.settledHere(c, have) {
				continue
			}
			seen, _ := decision.ReadWords(r.Evidence)
			b.find(finding.Finding{Severity: finding.Warning, Cause: "against:" + slot.Key, Row: c.Row, Field: b.fieldOf(have), Param: slot.Key, Text: have.written,
				What: fmt.Sprintf("%s of %s %s is %s here, and was settled as %s (%s, where the file said %s)", slot.Label, c.source.Manufacturer, c.source.MPN, slot.Shown(have.value), slot.Shown(want), who(&r), seen.Say()),
				Mend: "look at the datasheet: one of them is wrong"})
		}
	}
}

func (b *builder) fieldOf(x *reading) string {
	if x.rule < 0 {
		return ""
	}
	return b.in.Crosswalk.Fields[x.rule].From
}

// settledHere says whether a value comes from a cell that somebody corrected in this file.
func (b *builder) settledHere(c *Candidate, x *reading) bool {
	return x.rule >= 0 && slices.ContainsFunc(b.in.Crosswalk.Fields[x.rule].Inputs(), func(f string) bool {
		return b.in.Edits.said[saidOf{c.Row, decision.Cell, f}] != nil
	})
}

// corrected compares each value that somebody wrote into a cell with what the row's own description says, where it can be about nothing
// else: no other parameter of the drawer has its dimension. The leading value is compared in every row.
func (b *builder) corrected(c *Candidate, p *plan) {
	if c.description == "" || b.res.edited == nil || !b.res.edited[c.at] {
		return
	}
	for i := range c.vals {
		v := &c.vals[i]
		slot, r := &p.t.Slots[v.slot], &b.res.readings[v.reading]
		if int(v.slot) == p.leading || r.value.Type != cabinet.Measure || r.value.Measure.Shape == measure.Range || !b.settledHere(c, r) {
			continue
		}
		if slices.ContainsFunc(p.t.Slots, func(o cabinet.Slot) bool { return o.Key != slot.Key && o.Type == cabinet.Measure && o.Of == slot.Of }) {
			continue
		}
		if says := disagrees(c.description, r.value, measure.Options{Mark: b.in.Crosswalk.Mark()}); says != "" {
			b.find(finding.Finding{Severity: finding.Warning, Cause: "neighbour:" + p.t.Key + "." + slot.Key, Row: c.Row, Field: b.in.Crosswalk.Take.Description, Param: slot.Key, Text: c.description,
				What: fmt.Sprintf("%s was corrected to %s, and the row's own description says %s", slot.Label, slot.Shown(r.value), says), Mend: "look at the datasheet: one of them is wrong"})
		}
	}
}

// disagrees returns what a text says of a value's dimension where none of it is the value; blank where one of it is, or where it says
// nothing of it.
func disagrees(text string, v cabinet.Value, o measure.Options) (says string) {
	want := v.Meant().Measure
	for _, f := range measure.Facts(text, o) {
		all := []measure.Measure{f.Reading.Measure}
		if f.Reading.Outcome == measure.Doubt {
			all = nil
			for _, w := range f.Reading.Possible {
				all = append(all, w.Measure)
			}
		} else if f.Reading.Outcome != measure.Read {
			continue
		}
		for _, m := range all {
			if m.Of != want.Of {
				continue
			}
			if same(m.InPercent(), want) {
				return ""
			}
			says = m.String()
		}
	}
	return says
}

// same says whether two measures have the same numbers: the value, and the tolerance where both give one.
func same(a, b measure.Measure) bool {
	if a == b {
		return true
	}
	if a.Shape == measure.Nominal && b.Shape == measure.Nominal && a.Value() == b.Value() {
		return a.Of != measure.Ratio || a.Plus == b.Plus || a.Plus.Sign() == 0 || b.Plus.Sign() == 0
	}
	return strings.TrimPrefix(a.String(), "±") == strings.TrimPrefix(b.String(), "±")
}
