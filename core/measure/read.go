package measure

import (
	"fmt"
	"strings"
)

// Outcome says what became of a text.
type Outcome uint8

// The outcomes. Absent ("N/A", "-", "TBD") is neither read nor doubtful: somebody said that there is no value.
const (
	Unreadable Outcome = iota
	Read
	Doubt
	Absent
)

var outcomeNames = [...]string{"unreadable", "read", "doubt", "absent"}

// String returns "read", "doubt", "absent" or "unreadable".
func (o Outcome) String() string { return outcomeNames[o] }

// Reading is what was made of one text.
type Reading struct {
	Text     string
	Outcome  Outcome
	Measure  Measure    // valid when Outcome is Read
	Possible []Possible // every reading of a doubt
	Why      string     // for a doubt or an unreadable text: the reason, as a sentence part
}

// Possible is one reading of a doubtful text, with what would have to be so. A case code has no measure.
type Possible struct {
	Measure Measure
	Case    Case
	If      string
}

// String shows the reading.
func (p Possible) String() string {
	if p.Case != (Case{}) {
		return p.Case.String()
	}
	return p.Measure.String()
}

// Mark says which decimal mark a source uses.
type Mark uint8

// Decimal marks. With MarkUnknown a text such as "1,000" is a doubt.
const (
	MarkUnknown Mark = iota
	MarkPoint
	MarkComma
)

// Options is what is known about a text before it is read.
type Options struct {
	Of   Dimension // the dimension wanted; None accepts any
	Unit string    // the unit to assume where the text gives none
	Mark Mark
	// Choose settles doubts: of several possible readings the one with this If is meant.
	Choose string
}

// maxText is longer than any value that people write.
const maxText = 200

// Parse reads text as one measure. It never fails in another way than by its Outcome.
func Parse(text string, o Options) Reading {
	s := foldSigns(strings.TrimSpace(text))
	if absent(s) {
		return Reading{Text: text, Outcome: Absent}
	}
	if len(s) > maxText {
		return Reading{Text: text, Why: "it is longer than any value"}
	}
	if len(s) == 1 && o.Of == Ratio && toleranceLetter(s[0]) {
		return readToleranceLetter(text, s[0])
	}
	p := parser{s: s, o: o}
	m, ok := p.whole()
	switch {
	case !ok:
		return Reading{Text: text, Why: p.why}
	case p.doubt == "":
		return Reading{Text: text, Outcome: Read, Measure: m}
	}
	if o.Choose != "" {
		for _, w := range p.possible {
			if w.If == o.Choose && w.Case == (Case{}) {
				return Reading{Text: text, Outcome: Read, Measure: w.Measure}
			}
		}
	}
	return Reading{Text: text, Outcome: Doubt, Why: p.doubt, Possible: p.possible}
}

// MustParse is Parse for constants; it panics unless the text is read without doubt.
func MustParse(text string) Measure {
	r := Parse(text, Options{})
	if r.Outcome != Read {
		panic(fmt.Sprintf("measure: %q is %v: %s", text, r.Outcome, r.Why))
	}
	return r.Measure
}

func absent(s string) bool {
	if s == "" {
		return true
	}
	if len(s) > 14 {
		return false
	}
	for i := range len(s) {
		if digit(s[i]) {
			return false
		}
	}
	switch strings.ToLower(s) {
	case "-", "--", "---", "n/a", "na", "n.a.", "n/s", "tbd", "tba", "tbc", "none", "null", "nil", "?", "??", "???", "not applicable", "not specified", "unspecified", "unknown", "*", ".", "#n/a", "#value!", "nan", "\\n":
		return true
	}
	return false
}

type parser struct {
	s        string
	i        int
	o        Options
	why      string
	doubt    string
	possible []Possible
	tolDim   Dimension // of the tolerance that was read last
	letter   byte      // the tolerance letter that stood behind a value
	uneven   bool      // a fraction that has no exact decimal
}

func (p *parser) fail(format string, args ...any) bool {
	if p.why == "" {
		p.why = fmt.Sprintf(format, args...)
	}
	return false
}

func (p *parser) space() {
	for p.i < len(p.s) && (p.s[p.i] == ' ' || p.s[p.i] == '\t') {
		p.i++
	}
}

// take moves past a word if it comes next, in capitals or small letters; a letter must not follow a word of letters.
func (p *parser) take(w string) bool {
	p.space()
	end := p.i + len(w)
	if end > len(p.s) || p.s[p.i]|0x20 != w[0]|0x20 || !strings.EqualFold(p.s[p.i:end], w) {
		return false
	}
	if letter(w[len(w)-1]) && end < len(p.s) && letter(p.s[end]) {
		return false
	}
	p.i = end
	return true
}

func (p *parser) takeAny(words []string) bool {
	for _, w := range words {
		if p.take(w) {
			return true
		}
	}
	return false
}

func letter(c byte) bool { return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' }
func digit(c byte) bool  { return c >= '0' && c <= '9' }

// whole reads: [limit] amount [range amount | list] [tolerance] [limit] [more limits] [condition].
func (p *parser) whole() (Measure, bool) {
	var m Measure
	if c := p.s[0]; c == 0xC2 || c == '+' || c == '-' || c == 'p' {
		if p.plusMinus() {
			if !p.deviation(&m, true) {
				return m, false
			}
			m.Of, m.Shape = p.tolDim, Deviation
			return p.finish(m)
		}
		if p.twoSided(&m) {
			m.Of, m.Shape = p.tolDim, Deviation
			return p.finish(m)
		}
		p.i, m, p.why = 0, Measure{}, ""
	}
	if !digit(p.s[p.i]) {
		p.limitBefore(&m)
	}
	a, ok := p.amount()
	if !ok {
		return m, false
	}
	if p.uneven {
		return m, p.fail("the fraction does not come out even")
	}
	if p.doubt == "it is two values or a fraction" {
		return p.finish(m)
	}
	if (m.Note == "AC" || m.Note == "DC") && a.dim != Voltage && a.dim != Current && a.dim != Power {
		return m, p.fail("%s stands before what is no voltage, current or power", m.Note)
	}
	b := a
	if p.i < len(p.s) {
		if (m.Shape == Nominal || m.Shape == AtLeast) && p.rangeMark(m.Shape == AtLeast) {
			if b, ok = p.amount(); !ok {
				return m, false
			}
			if a.bare && !b.bare {
				p.retake(&a, b)
			}
			m.Shape = Range
		} else if m.Shape == Nominal && p.listed(&m, &a) {
			return p.finish(m)
		}
		if a.dim != b.dim || a.bare != b.bare {
			return m, p.fail("its two ends have different units")
		}
		p.tolerance(&m, a)
		if p.why != "" {
			return m, false
		}
		p.limitAfter(&m)
	}
	m.Of, m.Note = a.dim, join(a.note, m.Note)
	p.settle(&m, a, b)
	if p.i < len(p.s) && p.doubt == "" && !a.bare {
		p.moreLimits(&m)
	}
	return p.finish(m)
}

// retake gives the lower end of a range the unit that was only written at the upper end.
func (p *parser) retake(a *amount, b amount) {
	text := p.s[:p.i]
	us := unitsFor(strings.TrimLeft(text[lastNumberEnd(text):], " "), p.o.Of)
	if len(us) != 1 {
		p.fail("it has a unit at one end only")
		return
	}
	for k := range a.n {
		n, err := us[0].base(a.alt[k])
		if err != nil {
			p.fail("it has %v", err)
		}
		a.alt[k] = n
	}
	a.dim, a.bare = b.dim, false
}

// lastNumberEnd returns where the last number of s ends; digits that belong to a unit ("mm2") are passed over.
func lastNumberEnd(s string) int {
	i := len(s)
	for i > 0 && (!digit(s[i-1]) || i > 1 && letter(s[i-2])) {
		i--
	}
	return i
}

// settle fills in the numbers, and turns alternatives, a missing unit or a wrong kind of unit into a doubt.
func (p *parser) settle(m *Measure, a, b amount) {
	if a.bare {
		p.withoutUnit(m, a, b)
		return
	}
	*m = withLetter(m.with(a.alt[0], b.alt[0]), p.letter)
	if m.Of == Fahrenheit && p.o.Of != Fahrenheit {
		if c, ok := m.celsius(); ok {
			*m, a.dim = c, Temperature
		}
	}
	if a.n > 1 || b.n > 1 {
		p.doubt = "it can be read in more than one way"
		for k := range max(a.n, b.n) {
			p.possible = append(p.possible, Possible{Measure: m.with(a.alt[min(k, a.n-1)], b.alt[min(k, b.n-1)]), If: a.when[min(k, a.n-1)]})
		}
		return
	}
	if len(p.possible) > 0 && p.doubt == "the unit is used for more than one kind of value" {
		p.possible = append([]Possible{{Measure: *m, If: a.dim.isA()}}, p.possible...)
		return
	}
	if p.o.Of != None && a.dim != p.o.Of {
		p.doubt = a.dim.isA() + ", and " + p.o.Of.one() + " is wanted"
		if a.dim == Fahrenheit {
			p.doubt = "it does not come out even in °C"
		}
		p.possible = []Possible{{Measure: *m, If: "the value belongs to another parameter"}}
	}
}

// with returns m with its numbers, ordered where it is a range.
func (m Measure) with(x, y Number) Measure {
	switch m.Shape {
	case Nominal:
		m.Low, m.High = x, x
	case Range:
		if x.Cmp(y) > 0 {
			x, y = y, x
		}
		m.Low, m.High = x, y
	case AtMost, Below:
		m.High = x
	case AtLeast, Above:
		m.Low = x
	}
	return m
}

// celsius converts a temperature in °F where all of its numbers come out even.
func (m Measure) celsius() (Measure, bool) {
	ok := true
	conv := func(n Number) Number {
		n, err := n.Add(Whole(-32))
		if err == nil {
			n, err = n.Mul(Whole(5))
		}
		if err == nil {
			n, err = n.Quo(Whole(9))
		}
		ok = ok && err == nil
		return n
	}
	if m.Tol == Absolute {
		return m, false
	}
	m.Of = Temperature
	if m.Shape != AtMost && m.Shape != Below {
		m.Low = conv(m.Low)
	}
	if m.Shape != AtLeast && m.Shape != Above {
		m.High = conv(m.High)
	}
	return m, ok
}

func (p *parser) withoutUnit(m *Measure, a, b amount) {
	p.doubt = "it has no unit"
	want := p.o.Of
	if want == None {
		p.possible = append(p.possible, Possible{Measure: m.with(a.alt[0], b.alt[0]), If: "it is a count"})
		for _, d := range []Dimension{Resistance, Capacitance, Inductance} {
			if code, ok := codeValue(p.s, d); ok {
				p.possible = append(p.possible, Possible{Measure: Of(d, code), If: "it marks a " + d.String() + " (IEC 60062)"})
			}
		}
		return
	}
	m.Of = want
	for k := range a.n {
		when := "the unit is " + dims[want].base
		if a.when[k] != "" {
			when += " and " + a.when[k]
		}
		p.possible = append(p.possible, Possible{Measure: m.with(a.alt[k], b.alt[min(k, b.n-1)]), If: when})
	}
	if code, ok := codeValue(p.s, want); ok {
		p.possible = append(p.possible, Possible{Measure: m.with(code, code), If: "it is a marking code"})
	}
}

// finish accepts the conditions after a value and refuses anything else that is left over.
func (p *parser) finish(m Measure) (Measure, bool) {
	for p.why == "" {
		p.space()
		if p.i >= len(p.s) {
			return m, true
		}
		rest := p.s[p.i:]
		if rest[0] == ',' || rest[0] == ';' {
			p.i++
			continue
		}
		switch {
		case p.take("AC"), p.take("DC"), p.take("rms"), p.take("pk"), p.take("p-p"), p.take("nominal"), p.take("nom."), p.take("nom"), p.take("approx."), p.take("each"), p.take("abs."):
			m.Note = join(m.Note, spellNote(rest[:len(rest)-(len(p.s)-p.i)]))
		case rest[0] == '@' || strings.HasPrefix(rest, "at ") || strings.HasPrefix(rest, "when "):
			m.Note = join(m.Note, condition(rest))
			p.i = len(p.s)
		case rest[0] == '(' && rest[len(rest)-1] == ')':
			if !(len(rest) == 3 && m.Tol == Percent && toleranceLetter(rest[1]) && withLetter(m, rest[1]) == m) {
				m.Note = join(m.Note, condition(rest))
			}
			p.i = len(p.s)
		default:
			p.fail("%q is left over at character %d", string([]byte(rest)), p.i+1)
		}
		for k := range p.possible {
			p.possible[k].Measure.Note = m.Note
		}
	}
	return m, false
}

func spellNote(s string) string {
	switch strings.ToLower(s) {
	case "ac", "dc":
		return strings.ToUpper(s)
	}
	return strings.ToLower(s)
}

// condition writes "@100MHz", "at 100 MHz" and "@ 0.1 GHz" alike, so that equal conditions are equal.
func condition(text string) string {
	word := text
	for _, lead := range []string{"@", "at "} {
		word = strings.TrimPrefix(word, lead)
	}
	if word == text {
		return text
	}
	word = strings.TrimSpace(word)
	if r := Parse(word, Options{}); r.Outcome == Read {
		return "@ " + r.Measure.String()
	}
	return "@ " + word
}
