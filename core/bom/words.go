package bom

import (
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/described"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

// inText finds a piece in a text of the record, word for word or as the same measure: "16 bit" in the function "ADC 16
// bit", "2V5" in "reference 2.5 V".
func (j *judge) inText(b Beside, f fact, e *lookup.Entry, t *cabinet.Template) (Beside, bool) {
	said := " " + strings.Join(strings.Fields(strings.ToLower(f.text)), " ") + " "
	if len(said) < 4 && len(f.readings) == 0 || len(f.cases) > 0 {
		return b, false
	}
	for i := range t.Slots {
		s := &t.Slots[i]
		if s.Type != cabinet.Text || s.Key == t.Case {
			continue
		}
		if have := e.Value(s.Key); strings.Contains(" "+strings.ToLower(have.Text)+" ", said) || j.measuredIn(have.Text, f.readings) {
			b.Says, b.Param, b.Record = Agrees, s.Key, have.Text
			return b, true
		}
	}
	return b, false
}

// measuredIn says whether one or two words of a text are the measure that a piece was read as, unit and all.
func (j *judge) measuredIn(text string, readings []measure.Measure) bool {
	return len(readings) == 1 && slices.ContainsFunc(j.measuresIn(text), readings[0].Same)
}

// anotherIn finds a measure in a text that is of a piece's kind and has another value, where none has the same.
func (j *judge) anotherIn(text string, readings []measure.Measure) (other string, ok bool) {
	for _, m := range j.measuresIn(text) {
		for _, said := range readings {
			switch {
			case m.Of != said.Of:
			case m.Same(said):
				return "", false
			default:
				other, ok = m.String(), true
			}
		}
	}
	return other, ok
}

// measuresIn reads the values with units in a text.
func (j *judge) measuresIn(text string) (out []measure.Measure) {
	if !strings.ContainsAny(text, "0123456789") {
		return nil
	}
	words := strings.Fields(text)
	for i := 0; i < len(words); i++ {
		for _, n := range []int{2, 1} {
			r := j.parse(strings.Trim(strings.Join(words[i:min(i+n, len(words))], " "), ",;()"), measure.None, "")
			if r.Outcome == measure.Read && i+n <= len(words) {
				out = append(out, r.Measure)
				i += n - 1
				break
			}
		}
	}
	return out
}

// besideText compares a word with a choice, a number, yes or no, or a text.
func (j *judge) besideText(b Beside, text string, s *cabinet.Slot, have cabinet.Value) Beside {
	v, problem := s.Read(text, measure.Options{})
	switch {
	case problem == nil && v == have, strings.EqualFold(strings.TrimSpace(text), have.String()), alias(text) == alias(have.String()):
		b.Says = Agrees
	case problem == nil && s.Type == cabinet.Number && s.Better == "more" && have.Number > v.Number:
		b.Says = Better
	case problem != nil && s.Type != cabinet.Text:
		b.Says, b.Why = NotUnderstood, problem.Why
		if s.Type == cabinet.Choice && j.choices[alias(text)] {
			b.Says = Contradicts
		}
	case s.Type == cabinet.Text && (part.NormaliseMPN(text) == part.NormaliseMPN(have.Text)):
		b.Says = Agrees
	default:
		b.Says = Contradicts
	}
	return b
}

// alias writes the names that a dielectric has in two codes alike (IEC 60384-21 and EIA-198).
func alias(text string) string {
	w := strings.ToLower(strings.TrimSpace(text))
	switch w {
	case "np0", "npo", "cog", "cg":
		return "c0g"
	case "ge", "grn":
		return "green"
	case "smd", "smt", "surface mount":
		return "surface"
	case "tht", "pth", "through-hole", "through hole":
		return "through hole"
	}
	return w
}

// choiceOf finds the choice that a word means: by its own or another spelling in the dictionary, or by one of the trade.
func choiceOf(p *cabinet.Parameter, word string) (string, bool) {
	if c, ok := p.Choice(word); ok {
		return c, true
	}
	for _, c := range p.Choices {
		if alias(c) == alias(word) || plain(c) == plain(word) && plain(c) != "" {
			return c, true
		}
	}
	if one, other, ok := strings.Cut(word, "/"); ok && !strings.Contains(other, "/") { // "C0G/NP0": two names of one
		a, is := choiceOf(p, one)
		b, too := choiceOf(p, other)
		return a, is && too && a == b
	}
	return "", false
}

// besidePackage compares a package: a chip case in either system, a name, or what a choice of the drawer says of it: "SMD".
func (j *judge) besidePackage(b Beside, f fact, e *lookup.Entry, t *cabinet.Template) Beside {
	if s := packageChoice(f, t); s != nil {
		return j.besideNamed(b, fact{role: Fact, param: s.Key, text: f.text}, e, t)
	}
	return j.besideCase(b, f, e.Value(t.Case), t)
}

// packageChoice is the parameter with a choice that a package cell names; nil where it is a package.
func packageChoice(f fact, t *cabinet.Template) *cabinet.Slot {
	if f.role != Package || !f.word {
		return nil
	}
	for i := range t.Slots {
		if s := &t.Slots[i]; s.Type == cabinet.Choice {
			if _, ok := choiceOf(&s.Parameter, f.bare()); ok {
				return s
			}
		}
	}
	return nil
}

// besideCase compares a package with one value of the case parameter.
func (j *judge) besideCase(b Beside, f fact, have cabinet.Value, t *cabinet.Template) Beside {
	b.Param = t.Case
	if have.IsBlank() {
		b.Says = Silent
		return b
	}
	b.Record = have.Text
	metric, chip := measure.CaseToMetric(have.Text)
	switch {
	case f.clash:
		b.Says, b.Why = Contradicts, "it names two cases that are not the same"
	case len(f.cases) > 0 && chip:
		own := measure.Case{Inch: have.Text, Metric: metric}
		switch {
		case f.cases[0] == own:
			b.Says = Agrees
		case f.inchOnly && len(f.cases) > 1 && f.cases[1] == own:
			b.Says, b.Why = NotUnderstood, "the code is used in inch and in metric, and only the metric one is the record's"
		default:
			b.Says = Contradicts
		}
	case len(f.cases) > 0 || chip && f.role == Package && namesPackage(f.text):
		b.Says = Contradicts
	case chip && f.role == Package: // "chip": no size
		b.Says, b.Why = NotUnderstood, "it names no size"
	case f.role != Package:
		b.Says = NotUnderstood
	default:
		b.Says, b.Why = packageNames(f.text, have.Text)
	}
	return b
}

// namesPackage says whether a text looks like the name of a package: letters with digits, "SOT-23".
func namesPackage(text string) bool {
	return strings.ContainsAny(text, "0123456789") && strings.ContainsFunc(text, func(r rune) bool { return r >= 'A' && r <= 'Z' || r >= 'a' && r <= 'z' })
}

// packageNames compares two names of packages: the same letters and digits agree; one that goes on where the other ends
// may be the same or not.
func packageNames(said, have string) (Says, string) {
	a, b := part.NormaliseMPN(said), part.NormaliseMPN(have)
	switch {
	case a == b:
		return Agrees, ""
	case a == "" || b == "":
		return NotUnderstood, ""
	case strings.HasPrefix(a, b) || strings.HasPrefix(b, a) || strings.Contains(a, b):
		return NotUnderstood, fmt.Sprintf("%s may be %s or not", said, have)
	}
	return Contradicts, ""
}

// besideNumber compares a number without a unit with the parameters that count something.
func (j *judge) besideNumber(b Beside, f fact, e *lookup.Entry, t *cabinet.Template) Beside {
	if whole, ok := wholeNumber(f.text); ok {
		for i := range t.Slots {
			s := &t.Slots[i]
			if s.Type != cabinet.Number {
				continue
			}
			if have := e.Value(s.Key); !have.IsBlank() && have.Number == whole {
				b.Says, b.Param, b.Record = Agrees, s.Key, have.String()
				return b
			}
		}
	}
	b.Says, b.Why = NotUnderstood, "it has no unit"
	return b
}

func wholeNumber(text string) (int64, bool) {
	n, err := measure.ParseNumber(text)
	if err != nil {
		return 0, false
	}
	return n.Int64()
}

// besideWord compares a word with the choices and texts of the record, and with the kinds of part that it may name.
func (j *judge) besideWord(b Beside, f fact, e *lookup.Entry, t *cabinet.Template) Beside {
	w := alias(f.bare())
	var blank, against *Beside
	for i := range t.Slots {
		s := &t.Slots[i]
		have := e.Value(s.Key)
		one := b
		one.Param, one.Record = s.Key, s.Shown(have)
		switch s.Type {
		case cabinet.Choice:
			said, is := choiceOf(&s.Parameter, w)
			switch {
			case !have.IsBlank() && (is && have.Text == said || alias(have.Text) == w):
				one.Says = Agrees
				return one
			case !is:
			case have.IsBlank() && blank == nil:
				one.Says = Silent
				blank = &one
			case !have.IsBlank() && against == nil:
				one.Says = Contradicts
				against = &one
			}
		case cabinet.Text:
			if !have.IsBlank() && (part.NormaliseMPN(have.Text) == part.NormaliseMPN(f.text) || hasWord(have.Text, w)) {
				one.Says = Agrees
				return one
			}
		}
	}
	switch {
	case against != nil:
		return *against
	case blank != nil:
		return *blank
	}
	if in := j.drawers[described.Singular(w)]; len(in) > 0 {
		b.Param, b.Record = "drawer", t.Label
		switch b.Says = Contradicts; {
		case in[t.Key]:
			b.Says = Agrees
		case len(in) > 6 || len(w) < 3: // a word that many kinds have says little
			b.Says, b.Why = Unused, "a word that many kinds of part have"
		case j.neighbours(in, t):
			b.Says, b.Why = Unused, "a kind of part that lies beside its drawer"
		}
		return b
	}
	if j.choices[w] {
		b.Says, b.Why = NotUnderstood, "it is a choice of other kinds of part"
		return b
	}
	if f.role == Value || strings.ContainsAny(w, "0123456789") {
		if t.Case != "" && f.role != Value {
			if says, _ := packageNames(f.text, e.Value(t.Case).Text); says == Agrees {
				b.Says, b.Param, b.Record = Agrees, t.Case, e.Value(t.Case).Text
				return b
			}
		}
		b.Says = NotUnderstood
		return b
	}
	b.Says, b.Why = Unused, forPeople
	return b
}

// neighbours says whether one of some drawers lies in the same drawer as t: houses file such kinds more or less finely.
func (j *judge) neighbours(drawers map[string]bool, t *cabinet.Template) bool {
	for d := range drawers {
		if o, ok := j.cab.Template(d); ok && o.Parent == t.Parent && o.Parent != "" && o.Designator == t.Designator {
			return true
		}
	}
	return false
}

// forPeople is why a word is passed over that is neither a value nor the name of one.
const forPeople = "a word for people"

func hasWord(text, w string) bool {
	if len(w) < 2 {
		return false
	}
	for _, have := range strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return r == ' ' || r == ',' || r == ';' || r == '/' }) {
		if have == w {
			return true
		}
	}
	return false
}
