package measure

import "strings"

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
	{"typical", Nominal, "typ"}, {"typ.", Nominal, "typ"}, {"typ", Nominal, "typ"}, {"nominal", Nominal, "nominal"},
	{"approx.", Nominal, "approx."}, {"approx", Nominal, "approx."}, {"approximately", Nominal, "approx."}, {"about", Nominal, "approx."},
	{"AC", Nominal, "AC"}, {"DC", Nominal, "DC"},
	{"circa", Nominal, "approx."}, {"ca.", Nominal, "approx."}, {"ca", Nominal, "approx."}, {"≈", Nominal, "approx."}, {"~", Nominal, "approx."},
}

// limitBefore reads a limit, "typ" or "approx." in front of a value.
func (p *parser) limitBefore(m *Measure) {
	for _, l := range limitWords {
		if p.take(l.word) {
			m.Shape, m.Note = l.shape, l.note
			p.take(":")
			if l.note == "" {
				p.take("=")
			}
			return
		}
	}
}

var (
	maxWords = []string{"max.", "maximum", "max", "(max.)", "(max)", "or less"}
	minWords = []string{"min.", "minimum", "min", "(min.)", "(min)", "or more"}
	typWords = []string{"typ.", "typical", "typ", "(typ.)", "(typ)"}
)

// limitAfter reads a limit behind a value.
func (p *parser) limitAfter(m *Measure) {
	p.space()
	if m.Shape != Nominal || m.Note == "typ" || p.i >= len(p.s) { // "typ 10 max 20": the limit belongs to what follows
		return
	}
	switch p.s[p.i] | 0x20 {
	case 'm', 't', 'o', '(' | 0x20:
	default:
		return
	}
	switch {
	case p.takeAny(maxWords):
		m.Shape = AtMost
	case p.takeAny(minWords):
		m.Shape = AtLeast
	case p.takeAny(typWords):
		m.Note = join(m.Note, "typ")
	}
}

// moreLimits reads a second and third limited value: "2.5 V min, 5.5 V max" is a range, "typ 10 mΩ, max 20 mΩ" a
// limit that keeps what is typical.
func (p *parser) moreLimits(m *Measure) {
	for p.i < len(p.s) {
		save, was := p.i, *m
		_ = p.take(",") || p.take(";") || p.take("/")
		var next Measure
		p.space()
		if p.i < len(p.s) && !digit(p.s[p.i]) {
			p.limitBefore(&next)
		}
		var a amount
		ok := p.i < len(p.s)
		if ok {
			a, ok = p.amount()
		}
		if ok {
			p.limitAfter(&next)
			next.Of = a.dim
			next = next.with(a.alt[0], a.alt[0])
			next.Note = join(a.note, next.Note)
			ok = p.doubt == "" && a.n == 1 && a.dim == m.Of && m.combine(next)
		}
		if !ok {
			p.i, p.why, *m = save, "", was
			return
		}
	}
}

// combine joins two limited values of one thing; false where they do not go together.
func (m *Measure) combine(o Measure) bool {
	typ := func(x Measure) bool { return x.Shape == Nominal && x.Note == "typ" && x.Tol == NoTol }
	a, b := *m, o
	if typ(b) || a.Shape == AtMost && b.Shape == AtLeast {
		a, b = b, a
	}
	switch {
	case typ(a) && (b.Shape == AtMost || b.Shape == AtLeast || b.Shape == Range):
		a.Note = ""
		b.Note = join(b.Note, "typ "+a.String())
		*m = b
	case a.Shape == AtLeast && b.Shape == AtMost && a.Low.Cmp(b.High) <= 0:
		a.Shape, a.High, a.Note = Range, b.High, join(a.Note, b.Note)
		*m = a
	default:
		return false
	}
	return true
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

var rangeWords = []string{"to", "~", "....", "...", "..", "…", "through", "thru", "bis", "÷", "→"}

// rangeMark takes what stands between the two ends of a range; "and" only behind "between".
func (p *parser) rangeMark(between bool) bool {
	save := p.i
	p.space()
	if p.i >= len(p.s) || p.s[p.i] == ',' || p.s[p.i] == '@' {
		return false
	}
	if p.takeAny(rangeWords) || between && p.take("and") {
		return true
	}
	if p.s[p.i] == '-' || p.s[p.i] == '/' {
		slash := p.s[p.i] == '/'
		p.i++
		p.space()
		if p.i < len(p.s) && (p.s[p.i] == '+' && (!slash || p.s[0] == '-') || !slash && (digit(p.s[p.i]) || p.s[p.i] == '-')) {
			return true
		}
	}
	p.i = save
	return false
}

var listWords = []string{",", ";", "/", "|", "&", "or", "and"}

// listed reads the further values of "3.3 V, 5 V", "12, 24 V" or "3.3V/5V": two and more of one kind.
func (p *parser) listed(m *Measure, a *amount) bool {
	if a.n != 1 || p.doubt != "" || p.letter != 0 {
		return false
	}
	start, end := p.i, p.i
	values := append(make([]Number, 0, 24), a.alt[0])
	dim, note, bare := a.dim, a.note, 0 // bare counts the values at the end that still wait for their unit
	if a.bare {
		bare = 1
	}
	for len(values) < cap(values) && p.takeAny(listWords) {
		p.space()
		if p.i >= len(p.s) || !digit(p.s[p.i]) && p.s[p.i] != '-' && p.s[p.i] != '+' {
			break
		}
		keep := p.o
		p.o.Unit = ""
		b, ok := p.amount()
		p.o = keep
		if !ok || b.n != 1 || p.doubt != "" || dim != None && (!b.bare && b.dim != dim || b.note != note && !b.bare) {
			break
		}
		if values = append(values, b.alt[0]); b.bare {
			bare++
			continue
		}
		if bare > 0 && !p.unitForAll(values[len(values)-1-bare:len(values)-1]) {
			break
		}
		dim, note, bare, end = b.dim, b.note, 0, p.i
	}
	p.why = ""
	if end == start || bare > 0 || p.doubt != "" {
		p.doubt, p.possible, p.i = "", nil, start
		return false
	}
	p.i = end
	note = join(note, m.Note)
	*m = list(dim, values)
	m.Note = note
	if p.o.Of != None && dim != p.o.Of {
		p.doubt = dim.isA() + ", and " + p.o.Of.one() + " is wanted"
		p.possible = []Possible{{Measure: *m, If: "the value belongs to another parameter"}}
	}
	return true
}

// unitForAll gives values that were written without a unit the one that was just read behind the last.
func (p *parser) unitForAll(values []Number) bool {
	text := p.s[:p.i]
	us := unitsFor(strings.TrimLeft(text[lastNumberEnd(text):], " "), p.o.Of)
	if len(us) != 1 {
		return false
	}
	for k := range values {
		v, err := us[0].base(values[k])
		if err != nil {
			return false
		}
		values[k] = v
	}
	return true
}
