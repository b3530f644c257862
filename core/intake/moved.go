package intake

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/origin"
)

// Moved is a row that becomes something else, with how somebody settled it before, where somebody did.
type Moved struct {
	Row     int    `json:"row"`
	MPN     string `json:"mpn,omitempty"`
	Settled string `json:"settled,omitempty" doc:"How somebody settled what changes now; blank where nobody did"`
	Moves   []Move `json:"moves"`
}

// Move is one thing about a row that changes.
type Move struct {
	What string `json:"what" doc:"state, drawer, number, source, or the key of a parameter"`
	From string `json:"from"`
	To   string `json:"to"`
	Text string `json:"text,omitempty" doc:"Of a parameter: as the file says it, or as it was corrected"`
	// Settled is how somebody settled just this, blank where nobody did.
	Settled string `json:"settled,omitempty"`
}

// Compare returns the rows of a file that become something else from one result to another, those that somebody settled first, then in the
// order of the file. Both are of the same table.
func Compare(was, now *Result) []Moved {
	before := make(map[int]int, len(was.Candidates))
	for i := range was.Candidates {
		before[was.Candidates[i].Row] = i
	}
	half := len(now.Candidates) / 2
	var rest []Moved
	done := make(chan struct{})
	go func() { // both halves only read
		defer close(done)
		rest = was.compare(now, before, half, len(now.Candidates))
	}()
	out := was.compare(now, before, 0, half)
	<-done
	out = append(out, rest...)
	slices.SortStableFunc(out, func(a, b Moved) int {
		switch {
		case (a.Settled == "") == (b.Settled == ""):
			return 0
		case a.Settled != "":
			return -1
		}
		return 1
	})
	return out
}

// compare compares the rows at the places from one to before another.
func (r *Result) compare(now *Result, before map[int]int, from, to int) (out []Moved) {
	for k := from; k < to; k++ {
		c := &now.Candidates[k]
		i, ok := before[c.Row]
		if !ok {
			out = append(out, Moved{Row: c.Row, Moves: []Move{{What: "state", To: string(c.State)}}})
			continue
		}
		if r.stays(i, now, k) {
			continue
		}
		if m := r.moved(i, now, k); len(m.Moves) > 0 {
			out = append(out, m)
		}
	}
	return out
}

// stays says whether a candidate is in every respect what it was, without writing anything of it: most rows of a large file are.
func (r *Result) stays(i int, now *Result, k int) bool {
	a, b := &r.Candidates[i], &now.Candidates[k]
	if a.State != b.State || a.Drawer != b.Drawer || a.Number != b.Number || a.source.MPN != b.source.MPN || a.source.Manufacturer != b.source.Manufacturer || len(a.vals) != len(b.vals) || r.in.Cabinet != now.in.Cabinet {
		return false
	}
	for n := range a.vals { // of one drawer of one cabinet, in the order of the rules: another order is looked at closely
		if a.vals[n].slot != b.vals[n].slot || r.readings[a.vals[n].reading].value != now.readings[b.vals[n].reading].value {
			return false
		}
	}
	return true
}

// moved says what becomes of a candidate.
func (r *Result) moved(i int, now *Result, k int) Moved {
	a, b := &r.Candidates[i], &now.Candidates[k]
	out := Moved{Row: a.Row, MPN: cmp.Or(a.source.MPN, b.source.MPN)}
	var settled []string
	texts := map[string]string{}
	put := func(what, from, to, by string) {
		if from == to {
			return
		}
		out.Moves = append(out.Moves, Move{what, from, to, texts[what], by})
		if by != "" && !slices.Contains(settled, by) {
			settled = append(settled, by)
		}
	}
	ed := &r.in.Edits
	byHand := ""
	if d, ok := ed.Decide[a.Row]; ok {
		byHand = fmt.Sprintf("the row was settled as %q", d.As)
	} else if slices.Contains(ed.LeaveOut, a.Row) {
		byHand = "the row was left out by hand"
	}
	put("state", string(a.State), string(b.State), byHand)
	sorted := ""
	if d := ed.Drawers[a.Row]; d != "" {
		sorted = fmt.Sprintf("the row was put into %s by hand", d)
	}
	put("drawer", a.Drawer, b.Drawer, sorted)
	put("number", a.Number, b.Number, r.corrected(a.Row, r.in.Crosswalk.Take.Number))
	put("source", strings.TrimSpace(a.source.Manufacturer+" "+a.source.MPN), strings.TrimSpace(b.source.Manufacturer+" "+b.source.MPN), r.corrected(a.Row, r.in.Crosswalk.Take.MPN))
	for _, d := range r.differing(i, now, k) {
		v := said{text: d.was.text}
		switch {
		case d.was.text == "":
			v.by = r.emptied(a, d.key)
		case !strings.HasSuffix(d.was.text, notRead): // what becomes readable undoes nothing
			v.by = d.was.by
		}
		texts[d.key] = d.written
		put(d.key, v.text, d.now, v.by)
	}
	out.Settled = strings.Join(settled, "; ")
	return out
}

// said is a value as it is shown, and how somebody settled it.
type said struct{ text, by string }

// difference is a parameter of a row whose value becomes another.
type difference struct {
	key     string
	was     said
	now     string
	written string // as the file says it afterwards, or else before
}

// differing lists the parameters that a row says otherwise afterwards, in the order of the rules. Those that stay are not written out.
func (r *Result) differing(i int, now *Result, k int) (out []difference) {
	a, b := &r.Candidates[i], &now.Candidates[k]
	var here, there func(v valAt) bool
	if r.in.Cabinet == now.in.Cabinet && a.Drawer == b.Drawer { // what has the same value in the same place is shown the same
		stays := func(v valAt, one *Result, other *Result, o *Candidate) bool {
			w := o.value(int(v.slot))
			return w != nil && one.readings[v.reading].value == other.readings[w.reading].value
		}
		here = func(v valAt) bool { return !stays(v, r, now, b) }
		there = func(v valAt) bool { return !stays(v, now, r, a) }
	}
	at := map[string]int{} // key → place in out
	r.eachValue(i, here, func(key string, v cabinet.Value, o origin.Origin, _ *cabinet.Problem) {
		at[key] = len(out)
		out = append(out, difference{key: key, was: said{r.shown(a.Drawer, key, v), r.settledBy(a.Row, o)}, written: o.Written})
	})
	now.eachValue(k, there, func(key string, v cabinet.Value, o origin.Origin, _ *cabinet.Problem) {
		n, ok := at[key]
		if !ok {
			n = len(out)
			out = append(out, difference{key: key})
		}
		out[n].now, out[n].written = now.shown(b.Drawer, key, v), o.Written
	})
	return slices.DeleteFunc(out, func(d difference) bool { return d.was.text == d.now })
}

// Loses counts the rows that moves leave out, and the values that they take away from rows that stay.
func Loses(all []Moved) (out, values int, of []string) {
	by := map[string]int{}
	for _, m := range all {
		if slices.ContainsFunc(m.Moves, func(v Move) bool { return v.What == "state" && v.To == string(LeftOut) }) {
			out++
			continue
		}
		if slices.ContainsFunc(m.Moves, func(v Move) bool { return v.What == "drawer" }) { // another drawer has other parameters
			continue
		}
		for _, v := range m.Moves {
			if !slices.Contains([]string{"state", "number", "source"}, v.What) && v.From != "" && v.To == "" {
				values++
				by[v.What]++
			}
		}
	}
	of = []string{}
	for _, key := range slices.Sorted(maps.Keys(by)) {
		of = append(of, fmt.Sprintf("%s %d", key, by[key]))
	}
	return out, values, of
}

// notRead stands behind a text that was not read as a value.
const notRead = " (not read)"

// shown is a value as people read it; a text that was not read as one says so.
func (r *Result) shown(drawer, key string, v cabinet.Value) string {
	switch t := r.templates[drawer]; {
	case v.IsBlank():
		return ""
	case v.Type == cabinet.Raw:
		return v.Text + notRead
	case t != nil:
		if slot, ok := t.t.Slot(key); ok {
			return slot.Shown(v)
		}
	}
	return v.String()
}

// settledBy says how somebody settled what a value came from: the cell was corrected, or its text has a word of its own.
func (r *Result) settledBy(row int, o origin.Origin) string {
	if by := r.corrected(row, o.Field); by != "" {
		return by
	}
	for _, rule := range r.in.Crosswalk.Fields {
		if rule.From == o.Field {
			if word, ok := rule.Words[o.Written]; ok {
				return fmt.Sprintf("%q was settled as %q", o.Written, word)
			}
		}
	}
	return ""
}

// emptied says that somebody corrected the cell that would fill a parameter to a text that says nothing, such as a dash.
func (r *Result) emptied(c *Candidate, key string) string {
	p := r.templates[c.Drawer]
	if p == nil || r.in.Edits.Cells[c.Row] == nil {
		return ""
	}
	for _, f := range p.fills {
		if p.t.Slots[f.slot].Key != key {
			continue
		}
		for _, field := range r.in.Crosswalk.Fields[f.rule].Inputs() {
			if by := r.corrected(c.Row, field); by != "" {
				return by
			}
		}
	}
	return ""
}

// corrected says that the cell of a field was corrected by hand.
func (r *Result) corrected(row int, field string) string {
	if text, ok := r.in.Edits.Cells[row][field]; ok {
		return fmt.Sprintf("the cell %q was corrected to %q", field, text)
	}
	return ""
}
