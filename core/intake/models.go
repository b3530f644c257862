package intake

import (
	"fmt"

	"jollydrawer/core/finding"
	"jollydrawer/core/part"
)

// places are the kinds of models that a row may name, in a fixed order.
var places = [3]string{"symbol", "land pattern", "body"}

// named are the fields that name a candidate's models.
func (r *Result) named() [3]string {
	t := r.in.Crosswalk.Take
	return [3]string{t.Symbol, t.LandPattern, t.Body}
}

// models are the models of a candidate: those that its row names, else those that its drawer gives to new parts.
func (r *Result) models(c *Candidate) (out [3]*part.Model) {
	if r.in.Models == nil {
		return out
	}
	for i, field := range r.named() {
		if field == "" {
			continue
		}
		if m, ok := r.in.Models(places[i], r.cell(c, field)); ok {
			out[i] = &m
		}
	}
	p := r.templates[c.Drawer]
	if p == nil {
		return out
	}
	pattern := p.t.Models.LandPattern
	if len(p.t.Models.LandPatterns) > 0 {
		if by := p.t.Models.LandPatterns[r.value(c, p.t.Case)]; by != "" {
			pattern = by
		}
	}
	for i, name := range [3]string{p.t.Models.Symbol, pattern, p.t.Models.Body} {
		if name == "" || out[i] != nil {
			continue
		}
		if m, ok := r.in.Models(places[i], name); ok {
			out[i] = &m
		}
	}
	return out
}

// value is the text of a candidate's value of a parameter.
func (r *Result) value(c *Candidate, key string) string {
	p := r.templates[c.Drawer]
	for _, v := range c.vals {
		if p.t.Slots[v.slot].Key == key {
			return r.readings[v.reading].value.Text
		}
	}
	return ""
}

// link gives content the models of its row, where it has none in their place.
func (r *Result) link(c *Candidate, into *part.Content) {
	m := r.models(c)
	for i, at := range []**part.Model{&into.Symbol, &into.LandPattern, &into.Body} {
		if *at == nil {
			*at = m[i]
		}
	}
}

// models says which of the models that a row names are not in the library.
func (b *builder) models(c *Candidate) {
	if b.in.Models == nil {
		return
	}
	for i, field := range b.res.named() {
		if field == "" {
			continue
		}
		name := b.res.cell(c, field)
		if name == "" {
			continue
		}
		if _, ok := b.in.Models(places[i], name); !ok {
			b.find(finding.Finding{Severity: finding.Warning, Cause: "model-missing:" + places[i], Row: c.Row, Field: field, Text: name,
				What: fmt.Sprintf("the library has no released %s named %q", places[i], name), Mend: "bring the " + places[i] + " in, or correct the name in the row"})
		}
	}
}
