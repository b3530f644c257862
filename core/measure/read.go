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

// Possible is one reading of a doubtful text, with what would have to be so.
type Possible struct {
	Measure Measure
	If      string
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
}

// Parse reads text as one measure. It never fails in another way than by its Outcome.
func Parse(text string, o Options) Reading {
	s := foldSigns(strings.TrimSpace(text))
	if absent(s) {
		return Reading{Text: text, Outcome: Absent}
	}
	if len(s) > 200 {
		return Reading{Text: text, Why: "it is longer than any value"}
	}
	p := parser{s: s, o: o}
	m, ok := p.whole()
	switch {
	case !ok:
		return Reading{Text: text, Why: p.why}
	case p.doubt == "":
		return Reading{Text: text, Outcome: Read, Measure: m}
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
	switch strings.ToLower(s) {
	case "-", "--", "---", "n/a", "na", "n.a.", "tbd", "tba", "none", "null", "nil", "?", "not applicable", "unknown", "*", ".", "#n/a":
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
}

// amount is one number with its unit, or the alternatives it may stand for.
type amount struct {
	alt  [4]Number // in base units
	when [4]string // what would have to be so, for a doubt
	n    int
	dim  Dimension
	bare bool // no unit was written
	note string
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

func (p *parser) take(words ...string) bool {
	p.space()
	for _, w := range words {
		if len(p.s)-p.i < len(w) || !strings.EqualFold(p.s[p.i:p.i+len(w)], w) {
			continue
		}
		end := p.i + len(w)
		if letter(w[len(w)-1]) && end < len(p.s) && letter(p.s[end]) {
			continue
		}
		p.i = end
		return true
	}
	return false
}

func letter(c byte) bool { return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' }
func digit(c byte) bool  { return c >= '0' && c <= '9' }

// whole reads: [limit] amount [range amount] [tolerance] [limit] [condition].
func (p *parser) whole() (Measure, bool) {
	var m Measure
	if p.take("±", "+/-", "+-") {
		if !p.deviation(&m, true) {
			return m, false
		}
		m.Of, m.Shape = p.tolDim, Deviation
		return p.finish(m)
	}
	if save := p.i; p.twoSided(&m) {
		m.Of, m.Shape = p.tolDim, Deviation
		return p.finish(m)
	} else {
		p.i, m, p.why = save, Measure{}, ""
	}
	limited := p.limit(&m, true)
	a, ok := p.amount()
	if !ok {
		return m, false
	}
	b := a
	if !limited && p.rangeMark() {
		if b, ok = p.amount(); !ok {
			return m, false
		}
		if a.bare && !b.bare {
			p.retake(&a, b)
		}
		m.Shape = Range
	}
	if a.dim != b.dim || a.bare != b.bare {
		return m, p.fail("its two ends have different units")
	}
	p.tolerance(&m, a)
	if p.why != "" {
		return m, false
	}
	if !limited {
		p.limit(&m, false)
	}
	if a.note == "ppm" { // the number is in the base unit by now
		a.note = ""
	}
	m.Of, m.Note = a.dim, join(a.note, m.Note)
	p.settle(&m, a, b)
	return p.finish(m)
}

// retake gives the lower end of a range the unit that was only written at the upper end.
func (p *parser) retake(a *amount, b amount) {
	text := p.s[:p.i]
	end := strings.TrimLeft(text[lastNumberEnd(text):], " ")
	us := unitsFor(end, p.o.Of)
	if len(us) != 1 {
		p.fail("it has a unit at one end only")
		return
	}
	for k := range a.n {
		n, err := a.alt[k].Mul(us[0].factor)
		if err == nil {
			n, err = n.Add(us[0].offset)
		}
		if err != nil {
			p.fail("it has %v", err)
		}
		a.alt[k] = n
	}
	a.dim, a.bare = b.dim, false
}

func lastNumberEnd(s string) int {
	i := len(s)
	for i > 0 && !digit(s[i-1]) {
		i--
	}
	return i
}

// settle fills in the numbers, and turns alternatives, a missing unit or a wrong kind of unit into a doubt.
func (p *parser) settle(m *Measure, a, b amount) {
	build := func(x, y Number) Measure {
		r := *m
		switch r.Shape {
		case Nominal:
			r.Low, r.High = x, x
		case Range:
			if x.Cmp(y) > 0 {
				x, y = y, x
			}
			r.Low, r.High = x, y
		case AtMost, Below:
			r.High = x
		case AtLeast, Above:
			r.Low = x
		}
		return r
	}
	if a.bare {
		p.withoutUnit(m, a, b, build)
		return
	}
	*m = build(a.alt[0], b.alt[0])
	if a.n > 1 || b.n > 1 {
		p.doubt = "it can be read in more than one way"
		for k := range max(a.n, b.n) {
			p.possible = append(p.possible, Possible{build(a.alt[min(k, a.n-1)], b.alt[min(k, b.n-1)]), a.when[min(k, a.n-1)]})
		}
		return
	}
	if p.o.Of != None && a.dim != p.o.Of {
		p.doubt = fmt.Sprintf("it is a %s, and a %s is wanted", a.dim, p.o.Of)
		p.possible = []Possible{{*m, "the value belongs to another parameter"}}
	}
}

func (p *parser) withoutUnit(m *Measure, a, b amount, build func(x, y Number) Measure) {
	p.doubt = "it has no unit"
	want := p.o.Of
	if want == None {
		return
	}
	m.Of = want
	p.possible = append(p.possible, Possible{build(a.alt[0], b.alt[0]), "the unit is " + dims[want].base})
	if code, ok := threeDigitCode(p.s, want); ok {
		r := *m
		r.Low, r.High = code, code
		p.possible = append(p.possible, Possible{r, "it is a three-digit marking code"})
	}
}

// threeDigitCode reads "104" as 10 × 10⁴ in the customary unit (IEC 60062, clause 4: pF, µH, Ω).
func threeDigitCode(s string, d Dimension) (Number, bool) {
	unit := map[Dimension]int{Resistance: 0, Capacitance: -12, Inductance: -6}
	shift, ok := unit[d]
	if !ok || len(s) != 3 || !digit(s[0]) || !digit(s[1]) || !digit(s[2]) || s[0] == '0' {
		return Number{}, false
	}
	n, err := NewNumber(int64(s[0]-'0')*10+int64(s[1]-'0'), int(s[2]-'0')+shift)
	return n, err == nil
}

func (p *parser) limit(m *Measure, before bool) bool {
	if before {
		switch {
		case p.take("<=", "≤", "up to", "max.", "max", "at most"):
			m.Shape = AtMost
		case p.take(">=", "≥", "min.", "min", "at least", "from"):
			m.Shape = AtLeast
		case p.take("<", "less than", "below"):
			m.Shape = Below
		case p.take(">", "more than", "above"):
			m.Shape = Above
		case p.take("typ.", "typ"):
			m.Note = "typ"
			return false
		}
		return m.Shape != Nominal
	}
	if m.Shape != Nominal {
		return false
	}
	switch {
	case p.take("max.", "max", "maximum", "(max)", "(max.)"):
		m.Shape = AtMost
	case p.take("min.", "min", "minimum", "(min)", "(min.)"):
		m.Shape = AtLeast
	case p.take("typ.", "typ", "typical", "(typ)", "(typ.)"):
		m.Note = join(m.Note, "typ")
	}
	return m.Shape != Nominal
}

func join(a, b string) string {
	if a == "" || b == "" {
		return a + b
	}
	return a + "; " + b
}

func (p *parser) rangeMark() bool {
	save := p.i
	if p.take("to", "~", "....", "...", "..", "…", "through") {
		return true
	}
	p.space()
	if p.i < len(p.s) && p.s[p.i] == '-' {
		p.i++
		p.space()
		if p.i < len(p.s) && (digit(p.s[p.i]) || p.s[p.i] == '+') {
			return true
		}
	}
	p.i = save
	return false
}

// tolerance reads what follows a value: "± 1%", "+80/-20 %", or a plain "1%" after a value of another dimension.
func (p *parser) tolerance(m *Measure, a amount) {
	save := p.i
	if p.take(",", ";") {
		p.space()
	}
	if p.take("±", "+/-", "+-") {
		p.deviation(m, true)
		if p.why == "" && m.Tol == Absolute && p.o.Of == None {
			return
		}
		return
	}
	if p.twoSided(m) {
		return
	}
	p.why = ""
	if a.dim != Ratio && !a.bare && p.i < len(p.s) && digit(p.s[p.i]) {
		if p.deviation(m, false) {
			return
		}
	}
	p.why, p.i = "", save
}

// deviation reads the number and unit of a symmetric tolerance.
func (p *parser) deviation(m *Measure, absolute bool) bool {
	keep := p.o
	p.o.Of, p.o.Unit = None, ""
	a, ok := p.amount()
	p.o = keep
	if !ok || a.n != 1 {
		return p.fail("the tolerance is not a number")
	}
	return p.setTol(m, a, a.alt[0], a.alt[0], absolute)
}

func (p *parser) setTol(m *Measure, a amount, minus, plus Number, absolute bool) bool {
	m.Minus, m.Plus = minus, plus
	p.tolDim = a.dim
	switch {
	case a.dim == Ratio && strings.EqualFold(a.note, "ppm"):
		m.Tol = PPM
		var err error
		if m.Minus, err = minus.Mul(Whole(10000)); err == nil {
			m.Plus, err = plus.Mul(Whole(10000))
		}
		if err != nil {
			return p.fail("the tolerance has %v", err)
		}
	case a.dim == Ratio:
		m.Tol = Percent
	case absolute && !a.bare:
		m.Tol = Absolute
	default:
		m.Minus, m.Plus = Number{}, Number{}
		return p.fail("the tolerance has no unit")
	}
	return true
}

// twoSided reads "+80/-20 %" and "-20 / +80 %".
func (p *parser) twoSided(m *Measure) bool {
	save := p.i
	p.space()
	signed := func() (Number, bool) {
		p.space()
		if p.i >= len(p.s) || p.s[p.i] != '+' && p.s[p.i] != '-' {
			return Number{}, false
		}
		n, end, err := scanNumber(p.s[p.i:], '.')
		p.i += end
		return n, err == nil
	}
	x, ok := signed()
	if ok {
		p.take("%")
		ok = p.take("/", ",")
	}
	if !ok {
		p.i = save
		return false
	}
	y, ok := signed()
	if !ok || x.Sign()*y.Sign() > 0 {
		p.i = save
		return false
	}
	if x.Cmp(y) > 0 {
		x, y = y, x
	}
	p.space()
	word := p.unitText()
	us := unitsFor(word, None)
	if len(us) != 1 {
		p.i = save
		return false
	}
	x, err := x.Mul(us[0].factor)
	if err == nil {
		y, err = y.Mul(us[0].factor)
	}
	if err != nil {
		p.i = save
		return false
	}
	return p.setTol(m, amount{dim: us[0].dim, note: unitNote(word)}, x.Neg(), y, true)
}

// finish accepts the conditions after a value and refuses anything else that is left over.
func (p *parser) finish(m Measure) (Measure, bool) {
	for p.why == "" {
		p.space()
		rest := p.s[p.i:]
		switch {
		case rest == "":
			return m, true
		case p.take("AC", "DC", "rms", "RMS", "pk"):
			m.Note = join(m.Note, rest[:len(rest)-len(p.s[p.i:])])
		case rest[0] == '@' || rest[0] == '(' && rest[len(rest)-1] == ')' || strings.HasPrefix(rest, "at "):
			m.Note = join(m.Note, rest)
			p.i = len(p.s)
		default:
			p.fail("%q is left over at character %d", rest, p.i+1)
		}
		for k := range p.possible {
			p.possible[k].Measure.Note = m.Note
		}
	}
	return m, false
}
