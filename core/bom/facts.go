package bom

import (
	"maps"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/described"
	"jollydrawer/core/headings"
	"jollydrawer/core/measure"
)

// fact is one thing that a line says of the part, with its place in its column.
type fact struct {
	column   string // heading, or the role's name
	role     Role
	param    string // the parameter that its column or a name before it is of
	unit     string // of its column's heading
	from, to int
	text     string
	readings []measure.Measure // what it may be as a value: one where it is certain
	certain  bool
	cases    []measure.Case // what it may be as a chip case
	inchOnly bool           // the first of the cases is what the trade means where nothing else is said
	clash    bool           // it names two cases that are not the same
	word     bool           // neither
	number   bool           // a number without a unit
	skip     string         // why it is no evidence: "how many", a word for people
}

// bare is a fact's text without the punctuation around it.
func (f fact) bare() string { return strings.Trim(f.text, ".,;:()[]") }

// ipcChip matches the names of IPC-7351 for land patterns of chip parts, "RESC1608X55N": metric body sizes.
var ipcChip = regexp.MustCompile(`(?i)^(?:RES|CAP|IND|DIO|LED|FUS|BEAD|FB|XTAL|VAR)(?:C|CP|M|MELF)?C?(\d{4})X\d{1,4}[A-Z]?$`)

// chipWord matches a chip code with the letters that drawings put before and behind it, a designator's or a word: "R0603", "r-0603",
// "0603_C".
var chipWord = regexp.MustCompile(`(?i)^(?:(?:[A-Z]{1,2}|LED|RES|CAP|IND|CHIP|SMD|SMT|CASE|SIZE|FERRITE|BEAD|FUSE)[-_ ]?)?(\d{4,6})(?:[-_ ]?(?:R|C|L|D|SMD|CHIP|CASE|INCH|IN))?$`)

// system is which of two cases a word names, the inch one or the metric one.
var system = map[string]int{"inch": 1, "imperial": 1, "metric": 2, "m": 2, "mm": 2}

// ofSystem is the one of two cases that a word names.
func ofSystem(cases []measure.Case, word string) []measure.Case {
	if n := system[word]; len(cases) == 2 {
		return cases[n-1 : n]
	}
	return cases
}

// caseWords reads the chip cases that a package cell names, in both systems and with a drawing's letters. It finds none,
// though found is true, where the cell names two that are not the same.
func caseWords(text string) (cases []measure.Case, inchOnly, found bool) {
	if cs, _, ok := measure.ReadCase(text); ok {
		return cs, len(cs) > 1, true
	}
	if m := ipcChip.FindStringSubmatch(strings.TrimSpace(text)); m != nil {
		if inch, ok := measure.CaseFromMetric(m[1]); ok {
			return []measure.Case{{Inch: inch, Metric: m[1]}}, false, true
		}
	}
	all := [][]measure.Case{}
	first := "" // the system, where it is named before any code
	for _, w := range strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		low := strings.ToLower(w)
		if system[low] != 0 {
			if n := len(all); n > 0 {
				all[n-1] = ofSystem(all[n-1], low)
			} else {
				first = low
			}
			continue
		}
		code := strings.TrimSuffix(low, "metric")
		if m := chipWord.FindStringSubmatch(code); m != nil {
			if cs, _, ok := measure.ReadCase(m[1]); ok {
				if code != low {
					cs = ofSystem(cs, "metric")
				} else if first != "" && len(all) == 0 {
					cs = ofSystem(cs, first)
				}
				all = append(all, cs)
			}
		} else if m := ipcChip.FindStringSubmatch(w); m != nil {
			if inch, ok := measure.CaseFromMetric(m[1]); ok {
				all = append(all, []measure.Case{{Inch: inch, Metric: m[1]}})
			}
		}
	}
	switch len(all) {
	case 0:
		return nil, false, false
	case 1:
		return all[0], len(all[0]) > 1, true
	}
	common := all[0] // "0603 (1608 metric)": what all of them can be
	for _, next := range all[1:] {
		var both []measure.Case
		for _, c := range common {
			for _, d := range next {
				if c == d {
					both = append(both, c)
				}
			}
		}
		common = both
	}
	return common, len(common) > 1, true
}

// evidenceReader takes the cells of lines apart. Texts repeat from line to line, and are read once.
type evidenceReader struct {
	lexicon *described.Lexicon
	phrases map[string]bool // choices of several words, see phrasesOf
	columns Columns
	memo    map[string][]fact
}

// facts lists what the fact columns of a line say.
func (r *evidenceReader) facts(l Line) (out []fact) {
	add := func(role Role, column, param, text string, unit string) {
		if text == "" {
			return
		}
		key := string(role) + "\x00" + column + "\x00" + param + "\x00" + text
		got, ok := r.memo[key]
		if !ok {
			got = r.read(role, column, param, unit, text)
			r.memo[key] = got
		}
		out = append(out, got...)
	}
	add(Value, r.heading(Value), "", l.Value, "")
	add(Package, r.heading(Package), "", l.Package, "")
	for _, c := range l.Facts {
		col := r.column(c.Column)
		add(Fact, col.Heading, col.Param, c.Text, col.Unit)
	}
	add(Description, r.heading(Description), "", l.Description, "")
	return out
}

func (r *evidenceReader) column(at int) Column {
	for _, c := range r.columns {
		if c.At == at {
			return c
		}
	}
	return Column{}
}

func (r *evidenceReader) heading(role Role) string {
	for _, c := range r.columns {
		if c.Role == role {
			return c.Heading
		}
	}
	return string(role)
}

// read takes one cell apart.
func (r *evidenceReader) read(role Role, column, param, unit, text string) (out []fact) {
	base := fact{column: column, role: role, param: param, unit: unit}
	switch role {
	case Fact:
		f := base
		f.to, f.text = len(text), text
		return []fact{f} // its parameter reads it, see beside
	case Package:
		f := base
		f.to, f.text = len(text), text
		if r := measure.Parse(text, measure.Options{}); r.Outcome == measure.Absent {
			f.skip = "it says that there is none"
			return []fact{f}
		}
		found := false
		f.cases, f.inchOnly, found = caseWords(text)
		f.word, f.clash = len(f.cases) == 0, found && len(f.cases) == 0
		return []fact{f}
	}
	for _, p := range r.lexicon.Read(text, measure.Options{}) {
		f := base
		f.from, f.to, f.text = p.From, p.To, p.Text
		if p.Count {
			f.skip = "how many"
		}
		if p.Name != "" {
			f.from = p.NameFrom
			switch len(p.Keys) {
			case 0:
				f.skip = ""
				f.param = unknownName
			case 1:
				f.param = p.Keys[0]
			}
		}
		switch {
		case p.Fact.Case != (measure.Case{}):
			f.cases = []measure.Case{p.Fact.Case}
		case len(p.Fact.Reading.Possible) > 0 && p.Fact.Reading.Possible[0].Case != (measure.Case{}):
			for _, w := range p.Fact.Reading.Possible {
				f.cases = append(f.cases, w.Case)
			}
			f.inchOnly = true
		case p.Fact.Word:
			if cs, inch, ok := caseWords(p.Text); ok && len(cs) > 0 {
				f.cases, f.inchOnly = cs, inch
			} else {
				f.word = true
			}
		case p.Fact.Reading.Outcome == measure.Read:
			out = append(out, split(f, p.Fact.Reading.Measure)...)
			continue
		default:
			for _, w := range p.Fact.Reading.Possible {
				if w.Case != (measure.Case{}) {
					f.cases = append(f.cases, w.Case)
				} else if w.Measure.Of != measure.None {
					f.readings = append(f.readings, w.Measure)
				}
			}
			f.number = p.Fact.Reading.Why == "it has no unit"
			f.word = len(f.readings) == 0 && len(f.cases) == 0 && !f.number
		}
		out = append(out, f)
	}
	out = r.joined(text, out)
	for i := range out {
		if f := &out[i]; f.word && f.skip == "" && f.param == "" && connective[headings.Plain(f.bare())] {
			f.skip = "a word that joins others"
		}
	}
	return out
}

// connective are words of six languages that join others and say nothing of a part, wherever they stand in its record too: "with" of "supervisor with watchdog". Those that
// stand for something in the trade are none of them: "and" and "or" are gates, "die", "on", "to", "con", "au".
var connective = wordSet("an|the|but|of|for|from|with|without|by|at|as|into|onto|upon|via|than|then|this|that|these|those|its|it|is|are|be|been|was|were|which|where|when|while|such|" +
	"und|oder|der|das|den|dem|des|ein|eine|einen|einem|einer|für|von|vom|mit|ohne|aus|bei|zum|zur|als|wie|auch|nur|" +
	"le|la|les|un|une|et|ou|où|du|de|pour|avec|sans|sur|dans|par|aux|ce|cette|el|las|uno|una|del|para|por|como|het|een|voor|van|met|zonder|bij|uit|och|eller|med|utan|för|från|till|av")

// phrasesOf are the choices of a cabinet that are several words, as plain writes them: "thick film".
func phrasesOf(cab *cabinet.Cabinet) map[string]bool {
	out := map[string]bool{}
	for _, p := range cab.Document.Parameters {
		for _, c := range append(slices.Collect(maps.Keys(p.Also)), p.Choices...) {
			if w := plain(c); strings.Contains(w, " ") {
				out[w] = true
			}
		}
	}
	return out
}

// plain writes a choice in small letters, with a blank for each of the signs between its words.
func plain(text string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }), " ")
}

// joined makes one fact of words that are a choice together.
func (r *evidenceReader) joined(text string, all []fact) []fact {
	alone := func(f fact) bool { return f.word && f.skip == "" && f.param == "" }
	out := all[:0:0]
	for i := 0; i < len(all); i++ {
		f := all[i]
		for n := 3; n > 1 && alone(f); n-- {
			if i+n > len(all) || !alone(all[i+n-1]) || !r.phrases[plain(text[f.from:all[i+n-1].to])] {
				continue
			}
			f.to, f.text = all[i+n-1].to, text[f.from:all[i+n-1].to]
			i += n - 1
			break
		}
		out = append(out, f)
	}
	return out
}

// unknownName stands for a name before a value that no parameter has.
const unknownName = "?"

// split parts "10 kΩ ±1 %" into the value and its tolerance: two facts.
func split(f fact, m measure.Measure) []fact {
	f.certain = true
	if m.Tol == measure.NoTol || m.Shape == measure.Deviation {
		f.readings = []measure.Measure{m}
		return []fact{f}
	}
	value, tol := f, f
	tolerance := measure.Measure{Of: measure.Ratio, Shape: measure.Deviation, Minus: m.Minus, Plus: m.Plus, Tol: m.Tol}
	if m.Tol == measure.Absolute {
		tolerance.Of = m.Of
	}
	m.Tol, m.Minus, m.Plus = measure.NoTol, measure.Number{}, measure.Number{}
	value.readings, tol.readings = []measure.Measure{m}, []measure.Measure{tolerance}
	tol.param = ""
	return []fact{value, tol}
}

// kinds are the words that name kinds of part, with the leaf drawers that they name.
func kinds(cab *cabinet.Cabinet) map[string]map[string]bool {
	out := map[string]map[string]bool{}
	put := func(word, drawer string) {
		w := described.Singular(strings.ToLower(word))
		if out[w] == nil {
			out[w] = map[string]bool{}
		}
		out[w][drawer] = true
	}
	for _, t := range cab.Templates() {
		if !t.Leaf {
			continue
		}
		words := append([]string{}, t.Search...)
		for _, up := range t.Path {
			if u, ok := cab.Template(up); ok {
				words = append(append(words, u.Search...), strings.FieldsFunc(u.Label, func(r rune) bool { return !unicode.IsLetter(r) })...)
			}
		}
		if first, _, ok := strings.Cut(t.Description, " "); ok && !strings.Contains(first, "{") { // "RES {resistance}": what our own descriptions begin with
			words = append(words, first)
		}
		for _, w := range words {
			if len(w) > 1 && !joining[strings.ToLower(w)] {
				put(w, t.Key)
			}
		}
	}
	return out
}

// joining are words of drawers' names that name no kind.
var joining = map[string]bool{"and": true, "or": true, "of": true, "with": true, "to": true, "parts": true, "electrical": true, "mechanical": true, "circuits": true, "integrated": true, "power": true, "small": true, "signal": true, "other": true, "board": true, "pin": true, "surface": true}
