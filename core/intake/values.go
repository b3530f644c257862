package intake

import (
	"fmt"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/measure"
)

// values fills a candidate's parameters by the rules of its drawer.
func (b *builder) values(c *Candidate, p *plan) {
	c.vals = b.vals(len(p.fills) + 1)
	for _, f := range p.fills {
		id := b.read(c, p, f)
		r := &b.res.readings[id]
		slot := &p.t.Slots[f.slot]
		if r.problem != nil {
			rule := &b.in.Crosswalk.Fields[f.rule]
			b.find(finding.Finding{Severity: finding.Warning, Cause: r.problem.Kind + ":" + rule.From + rule.Combine + "→" + slot.Key, Row: c.Row, Field: rule.From, Param: slot.Key, Text: r.written,
				What: r.problem.Why, Mend: r.problem.Mend})
		}
		if r.written != "" {
			b.sheet(c, f, slot, r)
		}
		if r.value.IsBlank() {
			continue
		}
		if have := c.value(int(f.slot)); have != nil {
			if was := b.res.readings[have.reading].value; was != r.value {
				rule := &b.in.Crosswalk.Fields[f.rule]
				b.find(finding.Finding{Severity: finding.Warning, Cause: "two-fields:" + slot.Key, Row: c.Row, Field: rule.From, Param: slot.Key, Text: r.written,
					What: fmt.Sprintf("field %q says %s for %s, and another field says %s, which is kept", rule.From, r.value, slot.Label, was), Mend: "let one field fill the parameter"})
			}
			continue
		}
		c.vals = append(c.vals, valAt{f.slot, id})
	}
	b.shifted(c, p)
	b.derive(c, p)
	for i := range p.t.Slots {
		s := &p.t.Slots[i]
		if s.Required && !s.ByHand && c.value(i) == nil {
			b.say(c, b.lacks(p, s))
		}
	}
	b.sensible(c, p)
}

// vals is room for a candidate's values, taken from a large piece for many.
func (b *builder) vals(n int) []valAt {
	if len(b.room) < n {
		b.room = make([]valAt, max(n, 1<<14))
	}
	out := b.room[:0:n]
	b.room = b.room[n:]
	return out
}

// value returns the candidate's value of a parameter by its place in the template.
func (c *Candidate) value(slot int) *valAt {
	for i := range c.vals {
		if int(c.vals[i].slot) == slot {
			return &c.vals[i]
		}
	}
	return nil
}

type saidKey struct{ drawer, key string }

// oddKey is a value and the tolerance beside it, by their readings, which are of one drawer.
type oddKey struct{ value, tolerance uint32 }

// say finds for a row what was worked out once for all that are like it; nil says nothing.
func (b *builder) say(c *Candidate, f *finding.Finding) {
	if f != nil {
		one := *f
		one.Row = c.Row
		b.find(one)
	}
}

// lacks makes the finding of a missing required value once for each drawer and parameter.
func (b *builder) lacks(p *plan, s *cabinet.Slot) *finding.Finding {
	k := saidKey{p.t.Key, s.Key}
	if _, ok := b.said[k]; !ok {
		b.said[k] = &finding.Finding{Severity: finding.Warning, Cause: "required:" + p.t.Key + "." + s.Key, Field: s.Key, Param: s.Key,
			What: fmt.Sprintf("%s is required in %s and blank", s.Label, p.t.Label), Mend: "map a field to it, or fill it in on the part before release"}
	}
	return b.said[k]
}

// read gives the number of the reading of a rule's text, remembered by text: a column holds few distinct ones.
func (b *builder) read(c *Candidate, p *plan, f fill) uint32 {
	rule := &b.in.Crosswalk.Fields[f.rule]
	if rule.From != "" && (b.res.edited == nil || !b.res.edited[c.at]) {
		if f.col < 0 {
			return 0
		}
		cell := b.in.Table.cell(c.at, f.col)
		if cell == 0 {
			return 0
		}
		id, ok := f.memo[cell]
		if !ok {
			id = b.make(p, f, b.in.Table.texts[cell])
			f.memo[cell] = id
		}
		return id
	}
	text := rule.Written(func(field string) string { return b.res.cell(c, field) })
	if text == "" {
		return 0
	}
	k := freeKey{p.t.Key, f.rule, text}
	id, ok := b.free[k]
	if !ok {
		id = b.make(p, f, text)
		b.free[k] = id
	}
	return id
}

func (b *builder) make(p *plan, f fill, text string) uint32 {
	rule := &b.in.Crosswalk.Fields[f.rule]
	v, note, problem := rule.Read(p.t.Slots[f.slot].Parameter, text, b.res.mark(*rule))
	b.res.readings = append(b.res.readings, reading{value: v, rule: f.rule, written: text, note: note, problem: problem})
	return uint32(len(b.res.readings) - 1)
}

// derivedOf makes the reading of the chip code that follows from the other, or of why the two disagree; 0 where nothing follows.
func (b *builder) derivedOf(c *Candidate, p *plan) uint32 {
	have := map[string]cabinet.Value{}
	for _, at := range []int{p.inch, p.metric} {
		if v := c.value(at); v != nil {
			have[p.t.Slots[at].Key] = b.res.readings[v.reading].value
		}
	}
	more, err := p.t.Derive(have)
	if err != nil {
		b.res.readings = append(b.res.readings, reading{rule: -1, note: err.Error()})
	}
	for _, v := range more {
		b.res.readings = append(b.res.readings, reading{value: v, rule: -1, note: "by the table of chip cases"})
	}
	if err == nil && len(more) == 0 {
		return 0
	}
	return uint32(len(b.res.readings) - 1)
}

// derive fills the metric code of a chip case from the inch code and back.
func (b *builder) derive(c *Candidate, p *plan) {
	if p.inch < 0 || p.metric < 0 {
		return
	}
	var k [2]uint32
	for n, at := range []int{p.inch, p.metric} {
		if v := c.value(at); v != nil {
			k[n] = v.reading
		}
	}
	if k == [2]uint32{} {
		return
	}
	id, ok := b.derived[k]
	if !ok {
		id = b.derivedOf(c, p)
		b.derived[k] = id
	}
	if id == 0 {
		return
	}
	if r := &b.res.readings[id]; r.value.IsBlank() {
		code := ""
		for n, at := range []int{p.inch, p.metric} {
			if k[n] > 0 {
				code += p.t.Slots[at].Key + "=" + b.res.readings[k[n]].value.Text + ";"
			}
		}
		b.find(finding.Finding{Severity: finding.Warning, Cause: "case-codes:" + p.t.Key, Row: c.Row, Param: p.t.Slots[p.inch].Key, Text: code, What: r.note, Mend: "correct one of the two case codes"})
		return
	}
	at := p.inch
	if c.value(p.inch) != nil {
		at = p.metric
	}
	c.vals = append(c.vals, valAt{uint16(at), id})
}

// sensible looks at the size of values: not what goes into the part's case, or not a preferred number for its tolerance.
// What no value of the parameter can be was doubted when it was read.
func (b *builder) sensible(c *Candidate, p *plan) {
	var in *valAt
	if p.caseAt >= 0 {
		in = c.value(p.caseAt)
	}
	for i := range c.vals {
		v := &c.vals[i]
		s := &p.t.Slots[v.slot]
		if s.UsualIn == nil && !s.Preferred {
			continue
		}
		r := &b.res.readings[v.reading]
		if r.value.Type != cabinet.Measure {
			continue
		}
		if in != nil {
			if why := p.t.UnusualInCase(s, r.value, b.res.readings[in.reading].value); why != "" {
				b.find(finding.Finding{Severity: finding.Warning, Cause: "unusual:" + s.Key, Row: c.Row, Field: b.in.Crosswalk.Fields[max(0, r.rule)].From, Param: s.Key, Text: r.written,
					What: why, Mend: "check its unit, and the case"})
			}
		}
		if s.Preferred && r.value.Measure.Shape == measure.Nominal && r.value.Measure.Value().Sign() > 0 {
			b.preferred(c, p, v.reading, s)
		}
	}
}

// preferred checks a value against the series of IEC 60063 that suits its tolerance (clause 3).
func (b *builder) preferred(c *Candidate, p *plan, reading uint32, s *cabinet.Slot) {
	at := oddKey{value: reading}
	if p.tol >= 0 {
		if t := c.value(p.tol); t != nil {
			at.tolerance = t.reading
		}
	}
	f, ok := b.odd[at]
	if !ok {
		f = b.notPreferred(c, p, &b.res.readings[reading], s)
		b.odd[at] = f
	}
	b.say(c, f)
}

// notPreferred says why a value is not of the series that suits its tolerance; nil where it is.
func (b *builder) notPreferred(c *Candidate, p *plan, r *reading, s *cabinet.Slot) *finding.Finding {
	tol := ""
	series := measure.Series(192)
	if p.tol >= 0 {
		if t := c.value(p.tol); t != nil {
			if m := b.res.readings[t.reading].value.Measure; m.Of == measure.Ratio && m.Plus.Sign() > 0 {
				series, tol = measure.SeriesFor(m.Plus), m.String()
			}
		}
	}
	k := saidKey{"preferred:" + p.t.Key + tol, r.value.Measure.Value().String()}
	odd, ok := b.said[k]
	if !ok {
		n := r.value.Measure.Value()
		in, any := measure.SeriesOf(n)
		var what string
		switch {
		case !any:
			what = fmt.Sprintf("%s is in no series of preferred numbers; the nearest is %s", r.value, measure.Of(r.value.Measure.Of, measure.Series(192).Nearest(n)))
		case tol != "" && in > max(series, 24):
			what = fmt.Sprintf("%s is of %s, and %s parts come in %s; the nearest there is %s", r.value, in, tol, series, measure.Of(r.value.Measure.Of, series.Nearest(n)))
		}
		if what != "" {
			odd = &finding.Finding{Severity: finding.Note, Cause: "not-preferred:" + s.Key, Param: s.Key, Text: r.written, What: what, Mend: "check the value against the datasheet"}
		}
		b.said[k] = odd
	}
	return odd
}

// neighbours compares the leading value with what the row's own description says.
func (b *builder) neighbours(c *Candidate, p *plan) {
	if c.description == "" || p.leading < 0 {
		return
	}
	v := c.value(p.leading)
	if v == nil {
		return
	}
	r := &b.res.readings[v.reading]
	if r.value.Type != cabinet.Measure || r.value.Measure.Shape != measure.Nominal || r.written == c.description || strings.Contains(r.note, "is a piece of") || strings.Contains(r.note, "is the ") {
		return
	}
	if names(c.description, r.written) {
		return
	}
	dim, want := r.value.Measure.Of, r.value.Measure.Value()
	says := ""
	for _, f := range measure.Facts(c.description, measure.Options{Mark: b.in.Crosswalk.Mark()}) {
		if f.Reading.Outcome == measure.Doubt {
			for _, w := range f.Reading.Possible {
				if w.Measure.Of == dim && w.Measure.Value() == want {
					return
				}
				if w.Measure.Of == dim && w.Measure.Shape == measure.Nominal {
					says = w.Measure.String()
				}
			}
		}
		if f.Reading.Outcome != measure.Read || f.Reading.Measure.Of != dim || f.Reading.Measure.Shape != measure.Nominal {
			continue
		}
		if f.Reading.Measure.Value() == want {
			return
		}
		says = f.Reading.Measure.String()
	}
	if says != "" {
		b.find(finding.Finding{Severity: finding.Warning, Cause: "neighbour:" + p.t.Key, Row: c.Row, Field: b.in.Crosswalk.Take.Description, Param: p.t.Leading, Text: c.description,
			What: fmt.Sprintf("%s is %s, and the row's own description says %s", p.t.Slots[p.leading].Label, r.value, says), Mend: "look at the datasheet: one of them is wrong"})
	}
}

// names says whether a text holds another between blanks: most descriptions repeat the value just as its field writes
// it, and need not be read for that.
func names(text, piece string) bool {
	i := strings.Index(text, piece)
	if i < 0 || piece == "" {
		return false
	}
	end := i + len(piece)
	return (i == 0 || text[i-1] == ' ') && (end == len(text) || text[end] == ' ')
}

// datasheet says what became of the row's link or path.
func (b *builder) datasheet(c *Candidate) {
	field := b.in.Crosswalk.Take.Datasheet
	if field == "" {
		return
	}
	if c.Datasheet == "" {
		b.find(finding.Finding{Severity: finding.Note, Cause: "no-datasheet", Row: c.Row, Field: field, What: "the row names no datasheet", Mend: "attach one to the part later"})
		return
	}
	if f, ok := b.in.Fetched[c.Datasheet]; ok && f.Problem != "" {
		b.find(finding.Finding{Severity: finding.Warning, Cause: "datasheet:" + f.Problem, Row: c.Row, Field: field, Text: c.Datasheet, What: fmt.Sprintf("%s: %s", c.Datasheet, f.Problem), Mend: "correct the link in the row, or attach the file to the part later"})
	}
}
