package lookup

import (
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

// Query is a question to the library. Blank filters let everything through.
type Query struct {
	Text    string
	Filters map[string][]string // by parameter key, or drawer, status, standing, manufacturer, missing: values that may be; "a..b" is a range, "-" the blank
	Sort    []Order
	Group   string // a column by which the parts are put together, before the sorting
	Offset  int
	Limit   int
	Facets  bool // count the values of every parameter
}

// Order is a column to sort by: number, description, manufacturer, mpn, drawer, status, standing, updated, or a parameter.
type Order struct {
	Key  string
	Down bool
}

// Fact is one thing that the text asks for, and how it was read.
type Fact struct {
	Text    string    `json:"text" doc:"As it was written"`
	As      string    `json:"as" doc:"How it was read"`
	Kind    string    `json:"kind" enum:"value,words,name,state,skipped" doc:"skipped: it made no sense and was left out"`
	Options []Reading `json:"options" doc:"Other ways to read it, with what to write instead"`
}

// Reading is one way to read a fact.
type Reading struct {
	As    string `json:"as"`
	Write string `json:"write"`
}

// condition is a fact in the form that shelves are asked with: a row fits when a value of one of the columns is in the
// set, or its drawer is, or it is among the rows itself.
type condition struct {
	fact       Fact
	not        bool
	param      string // only this column; blank: any
	ids        valueSet
	at         [][]place // by shelf: where they stand, column by column
	drawers    map[string]bool
	rows       []uint32
	incomplete bool
	blank      bool // the column param must be blank
	dim        measure.Dimension
	value      measure.Measure // of a plain value, to find the nearest
}

// maxFacts bounds what one query may ask.
const maxFacts = 24

// read takes a query's text apart. What makes no sense is a skipped fact, never an error.
func (x *Index) read(text string) (out []condition) {
	if i, ok := x.byNumber(strings.ToUpper(strings.TrimSpace(text))); ok && strings.Contains(strings.TrimSpace(text), " ") {
		return []condition{{rows: []uint32{i}, fact: Fact{Text: strings.TrimSpace(text), As: "the part number " + x.numbers.get(i), Kind: "words"}}}
	}
	r := reader{x: x, words: x.parted(tokens(text))}
	not, notText := false, ""
	for r.i < len(r.words) && len(out) < maxFacts {
		switch w := strings.ToLower(r.words[r.i]); {
		case w == "or" && len(out) > 0 && !r.last():
			out = append(out, condition{fact: Fact{Text: r.words[r.i], As: "left out: facts are joined by and; choose several values of a filter instead", Kind: "skipped", Options: []Reading{}}})
			r.i++
			continue
		case w == "and" || w == "&" || w == "with" && !r.last():
			r.i++
			continue
		case w == "not" && !r.last():
			not, notText = !not, notText+r.words[r.i]+" "
			r.i++
			continue
		}
		c := r.fact()
		c.not = c.not != not
		if not {
			c.fact.Text, c.fact.As = notText+c.fact.Text, "not "+c.fact.As
			for i := range c.fact.Options {
				c.fact.Options[i].Write = notText + c.fact.Options[i].Write
			}
		}
		not, notText = false, ""
		out = append(out, c)
	}
	if r.i < len(r.words) {
		out = append(out, condition{fact: Fact{Text: strings.Join(r.words[r.i:], " "), As: fmt.Sprintf("more than %d facts; this was left out", maxFacts), Kind: "skipped"}})
	}
	return out
}

// parted takes words such as "10uF/16V/X5R" apart into their facts, unless a part is called so.
func (x *Index) parted(words []string) []string {
	for k := 0; k < len(words); k++ {
		w := words[k]
		if strings.HasPrefix(w, "\"") || !strings.Contains(w, "/") {
			continue
		}
		if facts := measure.Facts(w, measure.Options{}); len(facts) > 1 {
			if c := x.word(w); len(c.ids)+len(c.rows)+len(c.drawers) == 0 {
				pieces := make([]string, len(facts))
				for i, f := range facts {
					pieces[i] = w[f.From:f.To]
				}
				words = slices.Replace(words, k, k+1, pieces...)
				k += len(pieces) - 1
			}
		}
	}
	return words
}

type reader struct {
	x     *Index
	words []string
	i     int
}

func (r *reader) last() bool { return r.i+1 >= len(r.words) }

// fact reads the next fact.
func (r *reader) fact() condition {
	for _, try := range []func() (condition, bool){r.state, r.named, r.compared, r.value} {
		from := r.i
		if c, ok := try(); ok {
			c.fact.Text = asWritten(r.words[from:r.i])
			return c
		}
		r.i = from
	}
	w := r.words[r.i]
	r.i++
	if operator(w) {
		return condition{fact: Fact{Text: w, As: "a comparison without a value; it was left out", Kind: "skipped"}}
	}
	c := r.x.word(strings.TrimPrefix(w, "\""))
	c.fact.Text = asWritten([]string{w})
	return c
}

// lacks are the things a part may lack, by the words people use.
var lacks = map[string]string{"datasheet": "datasheet", "datasheets": "datasheet", "symbol": "symbol", "land": "land pattern", "body": "body", "source": "source", "sources": "source", "mpn": "source"}

// state reads "incomplete", "has no datasheet", "no symbol", "without body", "no tolerance", "has draft".
func (r *reader) state() (c condition, ok bool) {
	low := func(k int) string {
		if r.i+k < len(r.words) {
			return strings.ToLower(r.words[r.i+k])
		}
		return ""
	}
	switch low(0) {
	case "incomplete", "complete":
		c.incomplete, c.not = true, low(0) == "complete"
		c.fact = Fact{As: "a required value is missing", Kind: "state"}
		if c.not {
			c.fact.As = "every required value is there"
		}
		r.i++
		return c, true
	case "has", "no", "without", "missing":
	default:
		return c, false
	}
	k, without := 1, low(0) != "has"
	if low(0) == "has" && (low(1) == "no" || low(1) == "a" || low(1) == "an") {
		without, k = low(1) == "no", 2
	}
	if what, known := lacks[low(k)]; known && (what != "land pattern" || low(k+1) == "pattern") {
		r.i += k + 1
		if what == "land pattern" {
			r.i++
		}
		c.param, c.ids, c.not = colMissing, valueSet{}, !without
		c.ids.add(r.x.vals.terms[strings.ToUpper(what)])
		for _, id := range r.x.vals.terms[strings.ToUpper(strings.Fields(what)[0])] {
			if slices.Contains(r.x.vals.members(id), what) {
				c.ids[id] = true
			}
		}
		c.fact = Fact{As: map[bool]string{true: "has no ", false: "has a "}[without] + what, Kind: "state"}
		return c, true
	}
	if key, label, n := r.x.parameterAt(r.words[r.i+k:]); n > 0 {
		r.i += k + n
		c.param, c.blank, c.not = key, true, !without
		c.fact = Fact{As: map[bool]string{true: label + " is blank", false: label + " is filled in"}[without], Kind: "state"}
		return c, true
	}
	return c, false
}

// named reads "tolerance <= 1%", "colour:red", "power rating 0.25 W", "standing = obsolete".
func (r *reader) named() (c condition, ok bool) {
	key, label, n := r.x.parameterAt(r.words[r.i:])
	if n == 0 {
		return c, false
	}
	r.i += n
	op := ""
	if r.i < len(r.words) && operator(r.words[r.i]) {
		op = r.words[r.i]
		r.i++
	}
	if r.i >= len(r.words) {
		return c, false
	}
	c.param = key
	var p cabinet.Parameter
	if r.x.cab != nil {
		p, _ = r.x.cab.Parameter(key)
	}
	if p.Type == cabinet.Measure {
		dim, _ := measure.ParseDimension(p.Of)
		return r.measured(c, op, dim, label, p)
	}
	if known := r.x.vals.terms[strings.ToUpper(strings.TrimPrefix(r.words[r.i], "\""))]; op == "" && key != "drawer" && len(known) == 0 {
		return c, false // "product 5" is two words, not a comparison
	}
	w := strings.TrimPrefix(r.words[r.i], "\"")
	if w == "not" && (key == colStanding) {
		for r.i+1 < len(r.words) && slices.Contains([]string{"for", "new", "designs"}, strings.ToLower(r.words[r.i+1])) {
			r.i++
		}
		w = "not for new designs"
	}
	r.i++
	c.ids = valueSet{}
	if key == "drawer" {
		c.param, c.ids, c.drawers = "", nil, r.x.drawersNamed(w)
		c.fact = Fact{As: "in " + w, Kind: "name"}
		if len(c.drawers) == 0 {
			c.fact.As += " (there is no such drawer)"
		}
		return c, true
	}
	if p.Type == cabinet.Number && op != "" && op != ":" && op != "=" {
		n, err := measure.ParseNumber(w)
		if err != nil {
			c.fact = Fact{As: fmt.Sprintf("%q is no number; it was left out", w), Kind: "skipped"}
			return c, true
		}
		for i, v := range r.x.vals.all {
			if v.Type == cabinet.Number && compared(measure.Whole(v.Number).Cmp(n), op) {
				c.ids[uint32(i)] = true
			}
		}
		c.fact = Fact{As: label + " " + op + " " + w, Kind: "value"}
		return c, true
	}
	up := strings.ToUpper(w)
	if op == "=" {
		c.ids.add(r.x.vals.terms[up])
	} else {
		r.x.vals.blob.containing(up, func(i uint32) { c.ids.add(r.x.vals.terms[r.x.vals.byTerm[i]]) })
	}
	c.fact = Fact{As: label + " is “" + w + "”", Kind: "name"}
	return c, true
}

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
		c.ids = valueSet{}
		r.x.vals.within(from, to, c.ids)
		c.fact = Fact{As: label + " " + text, Kind: "value"}
		return c, true
	}
	for n := min(4, len(r.words)-r.i); n > 0; n-- {
		text := strings.Join(r.words[r.i:r.i+n], " ")
		if other := measure.Parse(text, measure.Options{}); other.Outcome == measure.Read && other.Measure.Of != dim && !measure.UnitOf(p.AssumeUnit, p.Of) {
			return c, false // "cap >= 25 V": the name was a word, and the comparison is another fact
		}
		reading := measure.Parse(text, o)
		m := reading.Measure
		if reading.Outcome == measure.Doubt && op != "" && len(reading.Possible) > 0 && reading.Possible[0].Measure.Of == dim {
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
		c.ids, c.dim, c.value = valueSet{}, dim, m
		if op == "" || op == ":" || op == "=" {
			r.x.vals.equal(m, c.ids)
			c.fact.As = label + " " + m.String()
		} else {
			r.x.vals.compare(op, m, c.ids)
			c.fact.As = label + " " + shownOp(op) + " " + m.String()
		}
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

func shownOp(op string) string {
	switch op {
	case ">=":
		return "≥"
	case "<=":
		return "≤"
	}
	return op
}

// compared reads ">= 25 V" and "10..100 nF" without a name: any parameter of that dimension.
func (r *reader) compared() (c condition, ok bool) {
	if from, to, text, n := r.x.rangeAt(r.words[r.i:], measure.Options{}); n > 0 {
		r.i += n
		c.ids = valueSet{}
		r.x.vals.within(from, to, c.ids)
		c.fact = Fact{As: text, Kind: "value"}
		return c, true
	}
	op := r.words[r.i]
	if !operator(op) || op == ":" || r.last() {
		return c, false
	}
	r.i++
	for n := min(3, len(r.words)-r.i); n > 0; n-- {
		m, others, ok := r.x.oneMeasure(strings.Join(r.words[r.i:r.i+n], " "))
		if !ok {
			continue
		}
		r.i += n
		c.ids = valueSet{}
		if op == "=" {
			r.x.vals.equal(m, c.ids)
		} else {
			r.x.vals.compare(op, m, c.ids)
		}
		c.fact = Fact{As: shownOp(op) + " " + m.String(), Kind: "value"}
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
		if !ok || strings.TrimSpace(a) == "" || strings.TrimSpace(b) == "" {
			continue
		}
		hi := measure.Parse(strings.Trim(b, ". "), o)
		if hi.Outcome != measure.Read {
			continue
		}
		low := o
		low.Of, low.Unit = hi.Measure.Of, ""
		lo := measure.Parse(strings.TrimSpace(a), low)
		if lo.Outcome != measure.Read { // "10..100 nF": the unit stands at the end only
			if r := measure.Parse(strings.TrimSpace(a)+" to "+strings.Trim(b, ". "), low); r.Outcome == measure.Read && r.Measure.Shape == measure.Range {
				return measure.Of(r.Measure.Of, r.Measure.Low), measure.Of(r.Measure.Of, r.Measure.High), r.Measure.String(), n
			}
			continue
		}
		return lo.Measure, hi.Measure, lo.Measure.String() + " to " + hi.Measure.String(), n
	}
	return from, to, "", 0
}

// value reads a value without a name, in every dimension that it may have, such as "4k7", "4.7 kΩ" or "± 1 %".
func (r *reader) value() (c condition, ok bool) {
	for n := min(4, len(r.words)-r.i); n > 0; n-- {
		text := strings.Join(r.words[r.i:r.i+n], " ")
		if strings.HasPrefix(text, "\"") || !strings.ContainsAny(text, "0123456789") {
			continue
		}
		if n > 1 && (digits(r.words[r.i]) && len(r.words[r.i]) > 3 && r.words[r.i][0] == '0' || slices.ContainsFunc(r.words[r.i:r.i+n], operator)) {
			continue // "0805 1%" are two facts
		}
		reading := measure.Parse(text, measure.Options{})
		ms := []measure.Measure{reading.Measure}
		if reading.Outcome == measure.Doubt {
			ms = nil
			for _, p := range reading.Possible {
				if p.Measure.Of != measure.None && (n == 1 || len(reading.Possible) > 1) && !digits(text) {
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
		c.ids = valueSet{}
		var as []string
		for _, m := range ms {
			before := len(c.ids)
			r.x.vals.equal(m, c.ids)
			if m.Of == measure.Ratio && m.Shape == measure.Nominal { // "1%" asks for ±1 % too
				r.x.vals.equal(m.AsDeviation(), c.ids)
			}
			if s := m.String(); !slices.Contains(as, s) && (len(c.ids) > before || len(ms) == 1) {
				as = append(as, s)
			}
			if len(ms) > 1 {
				c.fact.Options = append(c.fact.Options, Reading{As: m.String(), Write: m.String()})
			}
		}
		c.dim, c.value = ms[0].Of, ms[0]
		if len(as) == 0 {
			as = append(as, ms[0].String())
		}
		c.fact.As, c.fact.Kind = strings.Join(as, " or "), "value"
		if n == 1 && len(c.ids) == 0 { // "3M" may be the name of something after all
			if w := r.x.word(text); len(w.ids)+len(w.rows)+len(w.drawers) > 0 {
				return w, true
			}
		}
		if n == 1 { // a text that says the same, such as a part number "10R"
			c.ids.add(r.x.vals.terms[strings.ToUpper(text)])
			if i, ok := r.x.byNumber(strings.ToUpper(text)); ok {
				c.rows = append(c.rows, i)
			}
		}
		return c, true
	}
	return c, false
}
