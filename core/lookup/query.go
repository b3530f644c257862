package lookup

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

// Query is a question to the library. Blank filters let everything through.
type Query struct {
	Text    string
	Filters map[string][]string // by parameter key, or drawer, status, standing, manufacturer, missing: values that may be; "a..b" is a range, "-" the blank
	// Sets are filters by what the index does not know: by their key, the identifiers of the parts that they let through.
	Sets   map[string][]string
	Sort   []Order
	Shown  []string // columns that are shown of what is found
	Group  string   // a column by which the parts are put together, before the sorting
	Offset int
	Limit  int
	Facets bool  // count the values of every parameter
	Pieces int64 // that prices are of; 0: 100
}

// Order is a column to sort by: number, description, manufacturer, mpn, drawer, status, standing, updated, or a parameter.
type Order struct {
	Key  string
	Down bool
}

// Fact is one thing that the text asks for, and how it was read.
type Fact struct {
	Text    string    `json:"text" doc:"As it was written"`
	As      string    `json:"as" doc:"How it was read, as a question that finds the same"`
	Note    string    `json:"note,omitempty" doc:"What more there is to say of it"`
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
	sizes      valueSet  // what is meant in columns where the sign does not count; nil: ids
	at         [][]place // by shelf: where they stand, column by column
	drawers    map[string]bool
	rows       []uint32
	incomplete bool
	blank      bool              // the column param must be blank
	compared   bool              // a comparison or range, no plain value
	textOp     string            // how a named text was compared, "=" or ":"
	leads      map[string]string // drawer → the only parameter that is meant there
	dim        measure.Dimension
	value      measure.Measure // of a plain value, to find the nearest
	from, to   measure.Measure // ends of what is compared; zero: open
}

// maxFacts bounds what one query may ask.
const maxFacts = 24

// read takes a query's text apart. What makes no sense is a skipped fact, never an error.
func (x *Index) read(text string) (out []condition) {
	r := reader{x: x, words: x.parted(tokens(text))}
	not, notText := false, ""
	for r.i < len(r.words) && len(out) < maxFacts {
		switch w := strings.ToLower(r.words[r.i]); {
		case w == "," || w == "and" || w == "&" || w == "with" && !r.last():
			r.i++
			continue
		case w == "or":
			out = append(out, condition{fact: Fact{Text: r.words[r.i], As: "left out: nothing stands before or behind it that it could join", Kind: "skipped", Options: []Reading{}}})
			r.i++
			continue
		case (w == "not" || w == "no" && r.valueNext()) && !r.last():
			not, notText = !not, notText+r.words[r.i]+" "
			r.i++
			continue
		}
		c := r.fact()
		r.others(&c)
		r.after = c.drawers
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

// valueNext says whether a value follows at once: "no 1%" leaves it out, and "no datasheet" is a state.
func (r *reader) valueNext() bool {
	return !r.last() && measure.Parse(r.words[r.i+1], measure.Options{}).Outcome == measure.Read
}

// others reads the alternatives behind a fact: "4k7 or 5k1", "16V|25V", and values of one kind that commas part.
func (r *reader) others(c *condition) {
	for c.fact.Kind != "skipped" && c.fact.Kind != "state" && r.i+1 < len(r.words) {
		mark := strings.ToLower(r.words[r.i])
		if mark != "or" && mark != "," {
			return
		}
		at := r.i
		r.i++
		var o condition
		from := r.i
		if c.param != "" && c.dim != measure.None { // "resistance 4k7 or 5k1": the name holds for both
			p, _ := r.x.cab.Parameter(c.param)
			var ok bool
			op := ""
			if operator(r.words[r.i]) && r.i+1 < len(r.words) {
				op = r.words[r.i]
				r.i++
			}
			if o, ok = r.measured(condition{param: c.param}, op, c.dim, p.Label, p); ok {
				o.fact.Text = asWritten(r.words[from:r.i])
			} else {
				r.i = from
				o = r.fact()
			}
		} else if c.param != "" && c.textOp != "" && !operator(r.words[r.i]) { // "dielectric:x7r or x5r"
			o = r.text(condition{param: c.param}, c.textOp, r.label(c.param))
		} else {
			o = r.fact()
		}
		same := o.fact.Kind != "skipped" && o.fact.Kind != "state" && o.param == c.param && !o.not && !c.not
		if mark == "," && (o.dim == measure.None || o.dim != c.dim || c.compared || o.compared) {
			same = false // a comma parts facts, unless they are values of one kind
		}
		if !same {
			if r.i = at; mark == "or" {
				c.fact.Note = strings.TrimLeft(c.fact.Note+"; “or” joins facts of one kind only: what follows must hold too", "; ")
				r.i++
			}
			return
		}
		c.fact.Text += " " + asWritten(r.words[at:r.i])
		c.fact.As += " or " + strings.TrimLeft(strings.TrimPrefix(o.fact.As, r.label(o.param)), ": =")
		c.fact.Options = append(c.fact.Options, o.fact.Options...)
		c.join(o)
	}
}

// label is how a parameter is called.
func (r *reader) label(param string) string {
	if p, ok := r.x.parameter(param); ok {
		return p.Label
	}
	return param
}

func (x *Index) parameter(key string) (cabinet.Parameter, bool) {
	if x.cab == nil || key == "" {
		return cabinet.Parameter{}, false
	}
	return x.cab.Parameter(key)
}

// join makes c hold where o does, too.
func (c *condition) join(o condition) {
	if c.ids == nil {
		c.ids = valueSet{}
	}
	if c.sizes == nil && o.sizes != nil {
		c.sizes = maps.Clone(c.ids)
	}
	if c.sizes != nil {
		from := o.sizes
		if from == nil {
			from = o.ids
		}
		maps.Copy(c.sizes, from)
	}
	maps.Copy(c.ids, o.ids)
	if o.drawers != nil {
		d := maps.Clone(c.drawers)
		if d == nil {
			d = map[string]bool{}
		}
		maps.Copy(d, o.drawers)
		c.drawers = d
	}
	c.rows = append(c.rows, o.rows...)
	c.value = measure.Measure{}
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
	after map[string]bool // the kinds of part that the fact before named
}

func (r *reader) last() bool { return r.i+1 >= len(r.words) }

// fact reads the next fact.
func (r *reader) fact() condition {
	for _, try := range []func() (condition, bool){r.series, r.number, r.state, r.named, r.compared, r.value} {
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
	if limit := strings.ToLower(w); comparing[limit] && !r.x.known(w) {
		return condition{fact: Fact{Text: w, As: "a comparison without a value; it was left out", Kind: "skipped"}}
	}
	c := r.x.word(strings.TrimPrefix(w, "\""))
	if len(c.ids)+len(c.rows)+len(c.drawers) == 0 {
		if g, ok := r.glued(w); ok {
			return g
		}
	}
	c.fact.Text = asWritten([]string{w})
	return c
}

// glued reads a word that nothing is called, and that is the name of a whole number with the number behind it: DN20, PN16. The word was read.
func (r *reader) glued(w string) (c condition, ok bool) {
	at := strings.IndexFunc(w, unicode.IsDigit)
	if at < 2 || strings.Trim(w[at:], "0123456789") != "" {
		return c, false
	}
	key, _, n := r.x.parameterAt([]string{w[:at]})
	if p, there := r.x.parameter(key); n == 0 || !there || p.Type != cabinet.Number {
		return c, false
	}
	apart := reader{x: r.x, words: []string{w[:at], w[at:]}}
	if c, ok = apart.named(); ok {
		c.fact.Text = w
	}
	return c, ok
}

// comparing are words that compare, and are no facts of their own.
var comparing = map[string]bool{"over": true, "under": true, "below": true, "above": true, "least": true, "most": true, "between": true, "than": true, "more": true, "less": true, "max": true, "min": true, "maximum": true, "minimum": true, "up": true, "at": true, "from": true}

// number reads a part number of ours, whatever its capitals, blanks and punctuation: "fh 1022" is FH-1022.
func (r *reader) number() (c condition, ok bool) {
	for n := min(4, len(r.words)-r.i); n > 0; n-- {
		text := strings.Join(r.words[r.i:r.i+n], " ")
		key := part.NormaliseMPN(text)
		if len(key) < 3 || digits(key) || strings.HasPrefix(text, "\"") || !strings.ContainsAny(key, "0123456789") || slices.ContainsFunc(r.words[r.i:r.i+n], operator) {
			continue
		}
		rows := r.x.numbered(key)
		if len(rows) == 0 || n == 1 && strings.EqualFold(text, r.x.numbers.get(rows[0])) && len(rows) == 1 && r.x.alsoSaid(text) {
			continue // a word that is more than a number is read as such
		}
		if n > 1 && measure.Parse(text, measure.Options{}).Outcome == measure.Read {
			continue
		}
		r.i += n
		var all []string
		for _, row := range rows {
			all = append(all, "“"+r.x.numbers.get(row)+"”")
		}
		return condition{rows: rows, fact: Fact{As: strings.Join(all, " or "), Note: "a part number", Kind: "words"}}, true
	}
	return c, false
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
		c.fact = Fact{As: low(0), Note: "a required value is missing", Kind: "state"}
		if c.not {
			c.fact.Note = "every required value is there"
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
		c.fact = Fact{As: map[bool]string{true: "no " + label, false: "has " + label}[without], Note: map[bool]string{true: "it is blank", false: "it is filled in"}[without], Kind: "state"}
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
	if op == "!=" {
		c.not, op = true, "="
	}
	if p.Type == cabinet.Measure || p.Type == cabinet.Number {
		m, ok := r.sized(c, op, label, p)
		if ok || p.Type == cabinet.Measure {
			return m, ok
		}
	}
	if known := r.x.vals.terms[strings.ToUpper(strings.TrimPrefix(r.words[r.i], "\""))]; op == "" && key != "drawer" && len(known) == 0 {
		return c, false // "product 5" is two words, not a comparison
	}
	w := strings.TrimPrefix(r.words[r.i], "\"")
	r.i++
	c.ids = valueSet{}
	if key == "drawer" {
		c.param, c.ids, c.drawers = "", nil, r.x.drawersNamed(w)
		c.fact = Fact{As: "drawer:" + quoted(w), Kind: "name"}
		if len(c.drawers) == 0 {
			c.fact.Note = "there is no such drawer"
		}
		return c, true
	}
	r.i--
	t := r.text(c, op, label)
	if t.not {
		t.fact.As = "not " + t.fact.As
	}
	return t, true
}

// sized reads the size behind a parameter's name, "not" in front of it included; where it is false nothing was read.
func (r *reader) sized(c condition, op, label string, p cabinet.Parameter) (m condition, ok bool) {
	from := r.i
	if strings.ToLower(r.words[r.i]) == "not" && !r.last() {
		c.not = !c.not
		r.i++
	}
	if p.Type == cabinet.Number {
		m, ok = r.wholeNumbers(c, op, label)
	} else {
		dim, _ := measure.ParseDimension(p.Of)
		m, ok = r.measured(c, op, dim, label, p)
	}
	if !ok {
		r.i = from
	} else if m.not && m.fact.Kind != "skipped" {
		m.fact.As = "not " + m.fact.As
	}
	return m, ok
}

// text reads the next word as a text of a parameter: the whole of it behind "=", a piece of it otherwise.
func (r *reader) text(c condition, op, label string) condition {
	w := strings.TrimPrefix(r.words[r.i], "\"")
	r.i++
	up := strings.ToUpper(w)
	c.ids = valueSet{}
	if op == "=" {
		c.textOp = "="
		c.ids.add(r.x.vals.terms[up])
		c.fact = Fact{As: label + " = “" + w + "”", Kind: "name"}
		return c
	}
	c.textOp = ":"
	if p, ok := r.x.parameter(c.param); ok && p.Type == cabinet.Choice {
		if choice, ok := p.Choice(w); ok { // "colour:red" is not infrared, and "dielectric:np0" is C0G
			c.ids.add(r.x.vals.terms[strings.ToUpper(choice)])
			c.fact = Fact{As: label + ": “" + choice + "”", Kind: "name"}
			return c
		}
	}
	r.x.vals.blob.containing(up, func(i uint32) { c.ids.add(r.x.vals.terms[r.x.vals.byTerm[i]]) })
	c.fact = Fact{As: label + ": “" + w + "”", Kind: "name"}
	return c
}
