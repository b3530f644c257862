package measure

// limitWords are what may stand before a value, longest first.
var limitWords = []struct {
	word  string
	shape Shape
	note  string
}{
	{"<=", AtMost, ""}, {"≤", AtMost, ""}, {"=<", AtMost, ""}, {">=", AtLeast, ""}, {"≥", AtLeast, ""}, {"=>", AtLeast, ""},
	{"<", Below, ""}, {">", Above, ""},
	{"up to", AtMost, ""}, {"at most", AtMost, ""}, {"not more than", AtMost, ""}, {"maximum", AtMost, ""}, {"max.", AtMost, ""}, {"max", AtMost, ""},
	{"at least", AtLeast, ""}, {"not less than", AtLeast, ""}, {"minimum", AtLeast, ""}, {"min.", AtLeast, ""}, {"min", AtLeast, ""}, {"from", AtLeast, ""},
	{"between", AtLeast, ""},
	{"less than", Below, ""}, {"below", Below, ""}, {"under", Below, ""}, {"more than", Above, ""}, {"above", Above, ""}, {"over", Above, ""},
	{"typical", Nominal, "typ"}, {"typ.", Nominal, "typ"}, {"typ", Nominal, "typ"}, {"nominal", Nominal, "nominal"}, {"nom.", Nominal, "nominal"}, {"nom", Nominal, "nominal"},
	{"approx.", Nominal, "approx."}, {"approx", Nominal, "approx."}, {"approximately", Nominal, "approx."}, {"about", Nominal, "approx."},
	{"AC", Nominal, "AC"}, {"DC", Nominal, "DC"},
	{"circa", Nominal, "approx."}, {"ca.", Nominal, "approx."}, {"ca", Nominal, "approx."}, {"≈", Nominal, "approx."}, {"~", Nominal, "approx."},
}

// limitBefore reads a limit, "typ" or "approx." in front of a value.
func (p *parser) limitBefore(m *Measure) bool {
	switch c := p.peek(); {
	case letter(c) || c >= 0x80 || c == '<' || c == '>' || c == '=' || c == '~':
	default:
		return false
	}
	for _, l := range limitWords {
		if p.take(l.word, AsLimit) {
			m.Shape, m.Note = l.shape, l.note
			p.take(":", AsSeparator)
			if l.note == "" {
				p.take("=", AsSeparator)
			}
			return true
		}
	}
	return false
}

var (
	maxWords = []string{"max.", "maximum", "max", "or less", "at most"}
	minWords = []string{"min.", "minimum", "min", "or more", "at least"}
	typWords = []string{"typ.", "typical", "typ"}
)

// limitAfter reads a limit behind a value.
func (p *parser) limitAfter(m *Measure) bool {
	if p.i >= len(p.s) || m.Note == "typ" { // "typ 10 max 20": the limit belongs to what follows
		return false
	}
	switch p.peek() | 0x20 {
	case 'm', 't', 'o', 'a':
	default:
		return false
	}
	at := p.here()
	shape, note := m.Shape, m.Note
	switch {
	case p.takeAny(maxWords, AsLimit):
		shape = AtMost
	case p.takeAny(minWords, AsLimit):
		shape = AtLeast
	case p.takeAny(typWords, AsLimit):
		note = join(note, "typ")
	default:
		return false
	}
	again := shape == m.Shape && note == m.Note // "≤ 5 V max" says it twice
	if !again && m.Shape != Nominal || !p.limitEnds() {
		p.back(at)
		return false
	}
	m.Shape, m.Note = shape, note
	return true
}

// limitEnds says whether a limit that was just read belongs to the value before it and not to one that follows at once:
// in "10 max 20" it is the latter's.
func (p *parser) limitEnds() bool {
	at := p.i
	p.space()
	next := p.i
	p.i = at
	if next >= len(p.s) {
		return true
	}
	c := p.s[next]
	return !digit(c) && c != '-' && c != '+' && c != '.'
}

// join adds a note to a note.
func join(a, b string) string {
	switch {
	case a == "" || a == b:
		return b
	case b == "":
		return a
	}
	return a + "; " + b
}

var rangeWords = []string{"to", "~", "...", "..", "…", "through", "thru", "bis", "÷", "→"}

// rangeMark takes what stands between the two ends of a range; "and" only behind "between". A plain dash counts where it
// has a blank on both sides or on neither: "5 -10 V" may be a minus.
func (p *parser) rangeMark(between bool) bool {
	at := p.here()
	p.dashed = false
	p.space()
	if p.i >= len(p.s) {
		return false
	}
	switch c := p.peek(); {
	case c == '.' || c == '~' || c >= 0x80 || c|0x20 == 't' || c|0x20 == 'b':
		if p.takeAny(rangeWords, AsRange) && !(c == '.' && p.i < len(p.s) && p.peek() == '.') { // "5....6": which point is whose?
			return true
		}
	case between && c|0x20 == 'a':
		if p.take("and", AsRange) {
			return true
		}
	case c == '-' || c == '/':
		from := p.i
		before := from > at.i
		p.i++
		behind := p.i < len(p.s) && blank(p.peek())
		p.took(from, AsRange)
		p.space()
		if p.i >= len(p.s) {
			break
		}
		next := p.peek()
		signed := next == '+' || next == '-'
		switch {
		case c == '/' && next == '+' && p.s[0] == '-': // "-40/+85 °C"
			return true
		case c == '/':
		case signed && p.i+1 < len(p.s) && (digit(p.s[p.i+1]) || p.s[p.i+1] == '.'):
			return true
		case (digit(next) || next == '.') && before == behind:
			p.dashed = true
			return true
		}
	}
	p.back(at)
	return false
}
