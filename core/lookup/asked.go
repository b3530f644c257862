package lookup

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

func compared(cmp int, op string) bool {
	switch op {
	case ">=":
		return cmp >= 0
	case ">":
		return cmp > 0
	case "<=":
		return cmp <= 0
	case "<":
		return cmp < 0
	}
	return cmp == 0
}

// measured reads the value behind a parameter's name.
func (r *reader) measured(c condition, op string, dim measure.Dimension, label string, p cabinet.Parameter) (condition, bool) {
	o := measure.Options{Of: dim, Unit: p.AssumeUnit}
	if from, to, text, n := r.x.rangeAt(r.words[r.i:], o); n > 0 && (op == "" || op == ":" || op == "=") {
		r.i += n
		c.between(r.x, from, to)
		c.dim = dim
		c.fact = Fact{As: label + " " + text, Kind: "value"}
		return c, true
	}
	for n := min(6, len(r.words)-r.i); n > 0; n-- {
		text := strings.Join(r.words[r.i:r.i+n], " ")
		if n > 1 && parting(r.words[r.i:r.i+n]) || r.ofNext(n) {
			continue
		}
		if other := measure.Parse(text, measure.Options{}); other.Outcome == measure.Read && other.Measure.Of != dim && !measure.UnitOf(p.AssumeUnit, p.Of) {
			return c, false // "cap >= 25 V": the name was a word, and the comparison is another fact
		}
		reading := measure.Parse(text, o)
		m := reading.Measure
		if reading.Outcome == measure.Doubt && (op != "" || limiting(reading)) && len(reading.Possible) > 0 && reading.Possible[0].Measure.Of == dim {
			m = reading.Possible[0].Measure
			for _, other := range reading.Possible[1:] {
				c.fact.Options = append(c.fact.Options, Reading{As: other.String(), Write: label + " " + strings.TrimSpace(op+" "+other.String())})
			}
		} else if reading.Outcome != measure.Read || m.Of != dim {
			continue
		}
		r.i += n
		if p.Deviation {
			m = m.AsDeviation()
		}
		c.fact.As = label + " " + c.asked(r.x, op, m)
		c.fact.Kind = "value"
		return c, true
	}
	if op == "" {
		return c, false
	}
	w := r.words[r.i]
	r.i++
	c.fact = Fact{As: fmt.Sprintf("%q is no %s; it was left out", w, p.Of), Kind: "skipped"}
	c.ids, c.param = nil, ""
	return c, true
}

// ofNext says whether the last of the next n words compares the value that follows them: in "30 V min 16 V" the limit is
// the latter's.
func (r *reader) ofNext(n int) bool {
	at := r.i + n
	if n < 2 || at >= len(r.words) || !comparing[strings.ToLower(strings.TrimSuffix(r.words[at-1], "."))] {
		return false
	}
	next := r.words[at]
	return digit(next[0]) || next[0] == '.' || next[0] == '-'
}

func digit(c byte) bool { return c >= '0' && c <= '9' }

// limiting says whether the readings of a doubtful text are limits or ranges: "at least 10k".
func limiting(r measure.Reading) bool {
	return len(r.Possible) > 0 && r.Possible[0].Measure.Shape != measure.Nominal && r.Possible[0].Measure.Shape != measure.Deviation && r.Possible[0].Measure.Shape != measure.List
}

// limits are the comparisons that limits stand for, in words or in signs.
var limits = map[measure.Shape]string{measure.AtMost: "<=", measure.AtLeast: ">=", measure.Below: "<", measure.Above: ">"}

// asked gives c the values that a measure stands for in a question, compared by op where there is one, and says so in
// the words of a question. A limit is a comparison whether it is written in words or in signs, and a range is
// everything between its ends.
func (c *condition) asked(x *Index, op string, m measure.Measure) string {
	if op == "" || op == ":" || op == "=" {
		op = limits[m.Shape]
		switch m.Shape {
		case measure.List: // "4k7 or 5k1"
			var shown []string
			for _, n := range m.Each() {
				var one condition
				shown = append(shown, one.asked(x, "", measure.Of(m.Of, n)))
				if c.ids == nil {
					c.ids, c.sizes = one.ids, one.sizes
				} else {
					c.join(one)
				}
			}
			x.vals.equal(m, c.ids)
			x.vals.equal(m, c.sizes)
			c.dim = m.Of
			return strings.Join(shown, " or ")
		case measure.Range:
			c.dim, c.compared = m.Of, true
			c.between(x, measure.Of(m.Of, m.Low), measure.Of(m.Of, m.High))
			return m.String()
		}
		if op != "" {
			m = measure.Of(m.Of, m.Value())
		}
	}
	c.dim = m.Of
	c.ids, c.sizes = valueSet{}, valueSet{}
	if op == "" {
		c.value = m
		x.vals.equal(m, c.ids)
		x.vals.sized("=", m, c.sizes)
		maps.Copy(c.sizes, c.ids)
		return m.String()
	}
	c.compared = true
	switch op {
	case ">", ">=":
		c.from = m
	case "<", "<=":
		c.to = m
	}
	x.vals.compare(op, m, c.ids)
	x.vals.sized(op, m, c.sizes)
	return shownOp(op) + " " + m.String()
}

// between gives c the values between two ends.
func (c *condition) between(x *Index, from, to measure.Measure) {
	c.ids, c.sizes, c.compared, c.dim, c.from, c.to = valueSet{}, valueSet{}, true, from.Of, from, to
	x.vals.within(from, to, c.ids)
	x.vals.withinSizes(from, to, c.sizes)
}

// quoted keeps a text of several words together.
func quoted(w string) string {
	if strings.ContainsAny(w, " ,|<>=") {
		return "“" + w + "”"
	}
	return w
}

func shownOp(op string) string {
	switch op {
	case ">=":
		return "≥"
	case "<=":
		return "≤"
	}
	return op
}

// compared reads ">= 25 V", "over 25 V" and "10..100 nF" without a name: any parameter of that dimension.
func (r *reader) compared() (c condition, ok bool) {
	if from, to, text, n := r.x.rangeAt(r.words[r.i:], measure.Options{}); n > 0 {
		r.i += n
		c.between(r.x, from, to)
		c.fact = Fact{As: text, Kind: "value"}
		return c, true
	}
	op := r.words[r.i]
	if !operator(op) || op == ":" || r.last() {
		return c, false
	}
	r.i++
	if op == "!=" {
		c.not, op = true, "="
	}
	for n := min(4, len(r.words)-r.i); n > 0; n-- {
		text := strings.Join(r.words[r.i:r.i+n], " ")
		if n > 1 && parting(r.words[r.i:r.i+n]) || r.ofNext(n) {
			continue
		}
		m, others, ok := r.x.oneMeasure(text)
		if !ok {
			continue
		}
		r.i += n
		c.fact = Fact{As: c.asked(r.x, op, m), Kind: "value"}
		if c.not {
			c.fact.As = "not " + c.fact.As
		}
		for _, o := range others {
			c.fact.Options = append(c.fact.Options, Reading{As: shownOp(op) + " " + o.String(), Write: op + " " + o.String()})
		}
		return c, true
	}
	return c, false
}

// oneMeasure reads a value whose dimension the text itself must give; of several readings the first is taken and the
// others are told.
func (x *Index) oneMeasure(text string) (m measure.Measure, others []measure.Measure, ok bool) {
	switch r := measure.Parse(text, measure.Options{}); r.Outcome {
	case measure.Read:
		return r.Measure, nil, true
	case measure.Doubt:
		for _, p := range r.Possible {
			if p.Measure.Of == measure.None {
				continue
			}
			if m.IsZero() {
				m = p.Measure
			} else {
				others = append(others, p.Measure)
			}
		}
		return m, others, !m.IsZero() && (len(others) > 0 || r.Why != "it has no unit")
	}
	return m, nil, false
}

// rangeAt reads "10..100 nF", "10nF..100nF", "10 nF .. 100 nF" at the front of the words.
func (x *Index) rangeAt(words []string, o measure.Options) (from, to measure.Measure, text string, n int) {
	for n = min(5, len(words)); n > 0; n-- {
		s := strings.Join(words[:n], " ")
		a, b, ok := strings.Cut(s, "..")
		a = strings.TrimSpace(a)
		if !ok || a == "" || strings.TrimSpace(b) == "" || strings.HasPrefix(b, "..") {
			continue
		}
		b = strings.TrimSpace(strings.TrimSuffix(strings.TrimPrefix(b, "."), ".")) // "1...5", and the end of a sentence
		hi := measure.Parse(b, o)
		if !limit(hi) {
			continue
		}
		low := o
		low.Of, low.Unit = hi.Measure.Of, ""
		lo := measure.Parse(a, low)
		if !limit(lo) { // "10..100 nF": the unit stands at the end only
			if r := measure.Parse(a+" to "+b, low); r.Outcome == measure.Read && r.Measure.Shape == measure.Range {
				return measure.Of(r.Measure.Of, r.Measure.Low), measure.Of(r.Measure.Of, r.Measure.High), r.Measure.String(), n
			}
			continue
		}
		return lo.Measure, hi.Measure, lo.Measure.String() + " to " + hi.Measure.String(), n
	}
	return from, to, "", 0
}

// limit says whether a reading can be an end of a range: one value, and neither a range nor one that says how far it may be off.
func limit(r measure.Reading) bool {
	return r.Outcome == measure.Read && (r.Measure.Shape == measure.Nominal && r.Measure.Tol == measure.NoTol || r.Measure.Shape == measure.Deviation)
}

// value reads a value without a name, in every dimension that it may have, such as "4k7", "4.7 kΩ", "± 1 %" or "at least
// 25 V".
func (r *reader) value() (c condition, ok bool) {
	for n := min(6, len(r.words)-r.i); n > 0; n-- {
		text := strings.Join(r.words[r.i:r.i+n], " ")
		if strings.HasPrefix(text, "\"") || !strings.ContainsAny(text, "0123456789") || n > 1 && parting(r.words[r.i:r.i+n]) || r.ofNext(n) {
			continue
		}
		if n > 1 && (digits(r.words[r.i]) && len(r.words[r.i]) > 3 && r.words[r.i][0] == '0' || slices.ContainsFunc(r.words[r.i:r.i+n], operator) || slices.Contains(bounded(r.words[r.i:r.i+n]), "or")) {
			continue // "0805 1%" are two facts
		}
		reading := measure.Parse(text, measure.Options{})
		ms := []measure.Measure{reading.Measure}
		if reading.Outcome == measure.Doubt {
			ms = nil
			for _, p := range reading.Possible {
				if p.Measure.Of != measure.None && (n == 1 || len(reading.Possible) > 1 || limiting(reading)) && !digits(text) {
					ms = append(ms, p.Measure)
				}
			}
		} else if reading.Outcome != measure.Read || n > 1 && reading.Measure.Tol != measure.NoTol && reading.Measure.Shape != measure.Deviation {
			continue
		}
		if len(ms) == 0 {
			continue
		}
		r.i += n
		c = r.valued(ms)
		if n == 1 && len(c.ids) == 0 { // "3M" may be the name of something after all
			if w := r.x.word(text); len(w.ids)+len(w.rows)+len(w.drawers) > 0 {
				return w, true
			}
		}
		if n == 1 && r.x.saysJust(text) { // a text that says the same, such as a part number "10R"
			c.join(r.x.just(text))
			c.fact.As += " or “" + text + "”"
		}
		return c, true
	}
	return c, false
}

// parting says whether a comma parts the words: one by itself, or one in a word that is no decimal mark or group of digits. The
// comma of "4,7 kΩ" belongs to its number.
func parting(words []string) bool {
	for _, w := range words {
		for i := range len(w) {
			if w[i] == ',' && (i == 0 || i+1 == len(w) || !digit(w[i-1]) || !digit(w[i+1])) {
				return true
			}
		}
	}
	return false
}

// bounded leaves "or more" and "or less" off the end of words: they are a limit and no alternative.
func bounded(words []string) []string {
	if n := len(words) - 2; n > 0 && strings.EqualFold(words[n], "or") && (strings.EqualFold(words[n+1], "more") || strings.EqualFold(words[n+1], "less")) {
		return words[:n]
	}
	return words
}

// valued makes a condition of the readings of one value. Behind the name of a kind of part, "ldo 3.3V", the value is that
// kind's leading one where it can be.
func (r *reader) valued(ms []measure.Measure) (c condition) {
	var as []string
	for _, m := range ms {
		var one condition
		shown := one.asked(r.x, "", m)
		if m.Of == measure.Ratio && m.Shape == measure.Nominal { // "1%" asks for ±1 % too
			dev := m.AsDeviation()
			r.x.vals.equal(dev, one.ids)
			r.x.vals.equal(dev, one.sizes)
		}
		if !slices.Contains(as, shown) && (len(one.ids) > 0 || len(ms) == 1) {
			as = append(as, shown)
		}
		if len(ms) > 1 {
			c.fact.Options = append(c.fact.Options, Reading{As: shown, Write: shown})
		}
		if c.ids == nil {
			c.ids, c.sizes, c.compared, c.from, c.to = one.ids, one.sizes, one.compared, one.from, one.to
		} else {
			c.join(one)
		}
	}
	c.dim, c.value = ms[0].Of, ms[0]
	if len(as) == 0 {
		as = append(as, shownAsked(ms[0]))
	}
	c.fact.As, c.fact.Kind = strings.Join(as, " or "), "value"
	if leads, label := r.x.leadingOf(r.after, ms[0].Of); len(leads) > 0 && len(ms) == 1 {
		c.leads = leads
		if c.fact.Note = "the leading parameter of the kind before it"; label != "" {
			c.fact.Note = label
		}
	}
	return c
}

// shownAsked writes a measure as a question has it.
func shownAsked(m measure.Measure) string {
	switch m.Shape {
	case measure.AtMost:
		return "≤ " + measure.Of(m.Of, m.High).String()
	case measure.AtLeast:
		return "≥ " + measure.Of(m.Of, m.Low).String()
	}
	return m.String()
}

// leadingOf gives for each of some kinds of part the leading parameter, where it is of a dimension; label is its name where
// all share one.
func (x *Index) leadingOf(drawers map[string]bool, of measure.Dimension) (leads map[string]string, label string) {
	if x.cab == nil || len(drawers) == 0 {
		return nil, ""
	}
	leads = map[string]string{}
	labels := map[string]bool{}
	for d := range drawers {
		t, ok := x.cab.Template(d)
		if !ok || !t.Leaf {
			continue
		}
		if s, ok := t.Slot(t.Leading); ok && s.Of == of.String() {
			leads[d], label = s.Key, s.Label
			labels[label] = true
		}
	}
	if len(labels) > 1 {
		label = ""
	}
	return leads, label
}
