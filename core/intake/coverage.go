package intake

import (
	"cmp"
	"slices"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
)

// Coverage says how far the rows of one drawer fill its template.
type Coverage struct {
	Drawer     string    `json:"drawer"`
	Label      string    `json:"label"`
	Rows       int       `json:"rows"`
	Unused     int       `json:"unusedFacts" doc:"Facts in the rows' own descriptions that nothing used"`
	Parameters []Covered `json:"parameters"`
}

// Covered is one parameter of a drawer: from which fields it comes, and in how many rows.
type Covered struct {
	Key      string   `json:"key"`
	Label    string   `json:"label"`
	From     []string `json:"from" doc:"Fields, or what else fills it; empty: nothing does"`
	Filled   int      `json:"filled"`
	Unread   int      `json:"unread" doc:"Rows whose text could not be read"`
	Required bool     `json:"required,omitempty"`
	ByHand   bool     `json:"byHand,omitempty" doc:"Never comes from a supplier: to be filled by hand"`
}

// Coverage lists the drawers that rows go into, the largest first.
func (r *Result) Coverage() []Coverage {
	type tally struct {
		rows, filled, unread []int
		unused               int
	}
	facts := newFactsOf(r.in.Cabinet)
	all := map[string]*tally{}
	for i := range r.Candidates {
		c := &r.Candidates[i]
		p := r.templates[c.Drawer]
		if p == nil || c.State == LeftOut || c.State == Repeat {
			continue
		}
		n := all[c.Drawer]
		if n == nil {
			n = &tally{rows: []int{0}, filled: make([]int, len(p.t.Slots)), unread: make([]int, len(p.t.Slots))}
			all[c.Drawer] = n
		}
		n.rows[0]++
		n.unused += len(r.unused(facts, c))
		for _, v := range c.vals {
			if r.readings[v.reading].value.Type == cabinet.Raw {
				n.unread[v.slot]++
			} else {
				n.filled[v.slot]++
			}
		}
	}
	out := []Coverage{}
	for drawer, n := range all {
		p := r.templates[drawer]
		cov := Coverage{Drawer: drawer, Label: p.t.Label, Rows: n.rows[0], Unused: n.unused, Parameters: []Covered{}}
		for i, s := range p.t.Slots {
			one := Covered{Key: s.Key, Label: s.Label, From: []string{}, Filled: n.filled[i], Unread: n.unread[i], Required: s.Required, ByHand: s.ByHand}
			for _, f := range p.fills {
				if int(f.slot) == i {
					one.From = append(one.From, sourceOf(r.in.Crosswalk.Fields[f.rule]))
				}
			}
			if len(one.From) == 0 && one.Filled > 0 {
				one.From = append(one.From, "the table of chip cases")
			}
			cov.Parameters = append(cov.Parameters, one)
		}
		out = append(out, cov)
	}
	slices.SortFunc(out, func(a, b Coverage) int { return cmp.Or(b.Rows-a.Rows, cmp.Compare(a.Label, b.Label)) })
	return out
}

func sourceOf(r crosswalk.Rule) string {
	switch {
	case r.Constant != "":
		return "always “" + r.Constant + "”"
	case r.Combine != "":
		return r.Combine
	}
	return r.From
}

// Sample is what a rule does to one text of the file.
type Sample struct {
	Row     int    `json:"row"`
	Written string `json:"written"`
	Value   string `json:"value"`
	Note    string `json:"note,omitempty"`
	Problem string `json:"problem,omitempty"`
}

// Samples tries a rule on the file's rows: up to n distinct texts, the ones that it cannot read first, and the number
// of distinct texts that it reads and does not read among those looked at. drawer narrows the rows; blank: those that
// the rule applies to.
func (r *Result) Samples(rule crosswalk.Rule, n int) (out []Sample, good, bad int) {
	seen := map[string]bool{}
	var fine []Sample
	out = []Sample{}
	b, mark := builder{in: r.in, res: r}, r.mark(rule)
	for i := range r.Candidates {
		c := &r.Candidates[i]
		p := r.templates[c.Drawer]
		if p == nil || good+bad >= 2000 {
			continue
		}
		key, ok := rule.Applies(p.t)
		if !ok {
			continue
		}
		written := rule.Written(func(f string) string { return b.res.cell(c, f) })
		if written == "" || seen[p.t.Key+"\x00"+written] {
			continue
		}
		seen[p.t.Key+"\x00"+written] = true
		slot, _ := p.t.Slot(key)
		v, note, problem := rule.Read(slot.Parameter, written, mark)
		s := Sample{Row: c.Row, Written: written, Value: slot.Shown(v), Note: note}
		if problem != nil {
			bad++
			s.Problem = problem.Why
			if len(out) < n {
				out = append(out, s)
			}
			continue
		}
		good++
		if len(fine) < n {
			fine = append(fine, s)
		}
	}
	keep := max(n/2, n-len(out))
	return append(out[:min(len(out), n-min(keep, len(fine)))], fine[:min(keep, len(fine))]...), good, bad
}
