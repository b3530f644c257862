package measure

import "strings"

// amount is one number with its unit, or the alternatives it may stand for.
type amount struct {
	alt    [4]Number // in base units; as written where no unit is
	when   [4]string // what would have to be so, for a doubt
	n      int
	dim    Dimension
	bare   bool // no unit was written
	letter byte // the tolerance letter of a marking code
	ppm    bool
	note   string
	raw    Number // as written, in the unit u
	u      unit
	word   string   // the unit as spelled
	part   fraction // one that waits for its unit
}

// amount reads one number and its unit: plain, fraction, marking code, wire gauge or scientific.
func (p *parser) amount(a *amount) bool {
	p.space()
	if p.i >= len(p.s) {
		return p.fail("a number is missing at the end")
	}
	from := p.here()
	if c := p.peek() | 0x20; c == 'a' || c == '#'|0x20 {
		if p.gaugeBefore() {
			return p.gauge(a)
		}
	}
	neg := false
	if c := p.peek(); c == '-' || c == '+' {
		if p.i+1 < len(p.s) && blank(p.s[p.i+1]) && (c == '-' || from.i == 0) {
			return p.fail("a blank stands between the sign and its number")
		}
		neg = c == '-'
		p.i++
		p.took(from.i, AsSign)
		p.space()
	}
	if p.i >= len(p.s) {
		return p.fail("a number is missing at the end")
	}
	start := p.here()
	if p.markable() {
		if p.marking(a) {
			if p.unitBehind(a) {
				if neg {
					p.negate(a)
				}
				return p.why == ""
			}
			p.letterless(a)
		}
		p.back(start)
	}
	num, ok := p.numeral()
	if !ok {
		if p.why != "" {
			return false
		}
		p.back(from)
		return p.fail("no number at character %d (%q)", p.i+1, string(p.s[p.i:]))
	}
	if p.i+1 < len(p.s) {
		p.fractionBehind(&num)
	}
	p.took(start.i, AsNumber)
	if num.coded {
		if p.gaugeBehind(start.i, neg, a) {
			return true
		}
		return p.fail("%q begins with a zero, as codes do and numbers do not", string([]byte(p.s[start.i:p.i])))
	}
	if p.aughts(num, neg, a) {
		return true
	}
	if num.doubt != "" {
		p.doubt = num.doubt
	}
	return p.withUnit(num, neg, a)
}

// letterless forgets what a marking code that was none left behind.
func (p *parser) letterless(a *amount) {
	*a = amount{}
	p.doubt, p.possible, p.why = "", p.possible[:0], ""
}

func (p *parser) negate(a *amount) {
	if p.doubt != "" {
		p.fail("a sign stands before a code that is doubtful")
	}
	a.alt[0], a.raw = a.alt[0].Neg(), a.raw.Neg()
}

// withUnit reads the unit behind a number.
func (p *parser) withUnit(num numeral, neg bool, a *amount) bool {
	if neg {
		for k := range num.n {
			num.v[k] = num.v[k].Neg()
		}
	}
	numberEnd := p.here()
	p.space()
	unitAt := p.i
	word := p.unitText()
	if word == "" {
		word = p.hyphened()
	}
	if len(word) <= 3 {
		word = p.prefixApart(word)
	}
	if notUnit(word, p.o.Of) {
		word = ""
	}
	if word == "" {
		p.back(numberEnd)
	}
	var us []unit
	if word != "" {
		newtons := word == "N" && unitAt == numberEnd.i && p.o.Of == None // "100N" on a capacitor, in capitals
		us = unitsFor(word, p.o.Of)
		if len(us) == 0 && !newtons {
			if short, ok := p.limitGlued(word); ok { // "5Vmax"
				word, us = short, unitsFor(short, p.o.Of)
			}
		}
		if len(us) == 0 || newtons {
			p.took(unitAt, AsUnit)
			if p.prefixOnly(word, num, a) {
				return true
			}
			return p.fail("%q is no unit that is known", string([]byte(word)))
		}
		p.took(unitAt, AsUnit)
	}
	if p.o.Binary != BinaryUnknown && len(us) > 0 && us[0].dim == Data {
		us = counted(us, p.o.Binary)
	}
	if num.form != noFraction && num.form != vulgar && us == nil {
		if num.form != plainFraction || neg {
			return p.fail("a fraction is read only with a unit")
		}
		a.part, a.bare, a.n = num.fraction, true, 1
		if q, err := Whole(num.over).Quo(Whole(num.under)); err == nil {
			a.alt[0], a.raw = q, q
			return true
		}
		return p.fail("the fraction does not come out even")
	}
	if num.form != noFraction && num.form != vulgar {
		if !p.asFraction(&num, us, neg, a) {
			return false
		}
		if p.settled {
			return true
		}
	}
	a.raw = num.v[0]
	if us == nil {
		a.alt[0], a.n, a.bare = num.v[0], num.n, true
		a.alt[1], a.when[0], a.when[1] = num.v[1], num.when[0], num.when[1]
		if num.marked && (p.o.Of == Resistance || p.o.Of == None) {
			p.doubt = "the E is an exponent or marks the decimal point of ohms"
			p.possible = append(p.possible, Possible{Measure: Of(Resistance, num.ohms), If: "it is a marking code"})
		}
		return true
	}
	return p.convert(num, us, word, a)
}

// convert turns a number into base units, once for every reading of number and unit.
func (p *parser) convert(num numeral, us []unit, word string, a *amount) bool {
	a.word = word
	some := false
	for _, u := range us {
		v, err := u.base(num.v[0])
		some = some || err == nil && p.o.fits(u.dim, v)
	}
	first := true
	for _, u := range us {
		for k := range num.n {
			if a.n == len(a.alt) {
				break
			}
			v, err := u.base(num.v[k])
			if err != nil {
				return p.fail("it has %v", err)
			}
			if len(us) > 1 && some && !p.o.fits(u.dim, v) {
				continue // of several readings only those that can be
			}
			if first {
				a.u, a.dim, a.note, a.ppm, first = u, u.dim, u.note, u.ppm, false
			}
			if u.dim != a.dim {
				p.other(Of(u.dim, v), u.dim.isA())
				continue
			}
			a.alt[a.n], a.when[a.n] = v, num.when[k]
			if len(us) > 1 {
				a.when[a.n] = word + " means " + shownFactor(u)
			}
			a.n++
		}
	}
	if num.marked && us[0].dim == Resistance && len(us) == 1 {
		p.doubt = "the E is an exponent or marks the decimal point of ohms"
		if v, err := us[0].base(num.ohms); err == nil {
			p.possible = append(p.possible, Possible{Measure: Of(Resistance, a.alt[0]), If: "it is an exponent"}, Possible{Measure: Of(Resistance, v), If: "it is a marking code"})
		}
	}
	return true
}

// retake gives an amount without a unit the one that is written behind a later amount of the same value. It is false
// where that leaves open whether the prefix belongs to both.
func (p *parser) retake(a *amount, b *amount) bool {
	if b.n != 1 || b.word == "" {
		return p.fail("it has a unit at one end only")
	}
	if a.part.form != noFraction && !a.part.customary(b.u) {
		return p.fail("a fraction is customary for watts and inches only")
	}
	for k := range a.n {
		n, err := b.u.base(a.alt[k])
		if err != nil {
			return p.fail("it has %v", err)
		}
		a.alt[k] = n
	}
	if a.raw.Cmp(b.raw) > 0 && b.u.factor != Whole(1) && strings.Trim(a.raw.String(), "-") != "0" && prefixed(b.u) {
		p.doubt = "its first number has no unit, and is larger than the one that has"
	}
	a.dim, a.bare, a.u, a.ppm, a.note, a.word = b.dim, false, b.u, b.ppm, b.note, b.word
	return true
}

// prefixed says whether a unit's factor is a prefix that a base unit lacks.
func prefixed(u unit) bool { return u.factor.coef == 1 && u.factor.exp != 0 }

// unitBehind takes the unit behind a marking code or a prefix: "4k7 ohm", "100n F", "4n7H". It settles what the letter
// left open, and is false where a unit follows that the letter is not customary for: "10m Ω" is no code.
func (p *parser) unitBehind(a *amount) bool {
	at := p.here()
	p.space()
	unitAt := p.i
	us := exactUnits[p.unitText()]
	if len(us) == 1 && us[0].factor == (Number{1, 0}) && us[0].shift.coef == 0 && unitAt < p.i && a.letter == 0 {
		if us[0].dim == a.dim && p.doubt == "" {
			p.took(unitAt, AsUnit)
			return true
		}
		for _, o := range p.possible {
			if o.Measure.Of == us[0].dim && o.Measure.Shape == Nominal && o.Measure.Tol == NoTol {
				a.dim, a.alt[0], p.doubt, p.possible = us[0].dim, o.Measure.High, "", p.possible[:0]
				p.took(unitAt, AsUnit)
				return true
			}
		}
		if p.doubt == prefixNoUnit {
			return false
		}
	}
	p.back(at)
	return true
}

// hyphened takes a unit behind a hyphen, "12-bit"; single letters are left alone, because "5-A" is a name of something.
func (p *parser) hyphened() string {
	at := p.i
	if at+1 >= len(p.s) || p.s[at] != '-' || !letter(p.s[at+1]) {
		return ""
	}
	p.i++
	if word := p.unitText(); len(word) > 1 && len(exactUnits[word]) == 1 {
		return word
	}
	p.i = at
	return ""
}

// prefixApart joins a prefix with the unit that a blank parts from it: "100 k ohm". A lone m behind a blank is a metre,
// unless a unit follows that.
func (p *parser) prefixApart(word string) string {
	if _, ok := prefixPower(word); !ok && word != "m" || p.i >= len(p.s) || !blank(p.peek()) {
		return word
	}
	at := p.i
	p.space()
	text := p.unitText()
	us := exactUnits[text]
	if len(text) > 2 && len(us) == 0 { // "10 K OHM": a word in capitals
		us = foldedOf(text)
	}
	if len(us) == 1 && us[0].factor == (Number{1, 0}) && us[0].shift.coef == 0 && us[0].note == "" {
		both := strings.TrimSuffix(strings.TrimSuffix(word, "eg"), "EG") + strings.TrimLeft(p.s[at:p.i], " \t\x01")
		if len(unitsFor(both, p.o.Of)) > 0 {
			return both
		}
	}
	p.i = at
	return word
}

// prefixPower is the power of ten of a prefix that may stand without its unit.
func prefixPower(word string) (exp int32, ok bool) {
	switch word {
	case "k", "M", "G", "n", "p", "u":
		return prefixExp[word[0]], true
	case "K", "N", "P", "U":
		return prefixExp[word[0]|0x20], true
	case "µ":
		return -6, true
	case "Meg", "MEG", "meg":
		return 6, true
	}
	return 0, false
}

// prefixOnly reads "4.7 k" and "10 Meg" where no dimension is wanted: resistances most likely, and a doubt.
func (p *parser) prefixOnly(word string, num numeral, a *amount) bool {
	exp, ok := prefixPower(word)
	if !ok || p.o.Of != None || num.n != 1 || num.form != noFraction {
		return false
	}
	plain := num.v[0]
	n, err := NewNumber(plain.coef, int(plain.exp+exp))
	if err != nil {
		return p.fail("it has %v", err)
	}
	of := []Dimension{Resistance}
	if exp < 0 {
		of = []Dimension{Capacitance, Inductance}
	}
	p.doubt = prefixNoUnit
	for _, d := range of {
		p.possible = append(p.possible, Possible{Measure: Of(d, n), If: d.isA()})
	}
	if word == "N" {
		p.possible = append(p.possible, Possible{Measure: Of(Force, plain), If: Force.isA()})
	}
	a.alt[0], a.n, a.dim, a.raw, a.word = n, 1, of[0], plain, word
	a.u = unit{dim: of[0], factor: Number{1, exp}}
	return true
}

// other notes a reading in another dimension than the first: the whole is then a doubt.
func (p *parser) other(m Measure, when string) {
	if p.doubt == "" {
		p.doubt = twoKinds
	}
	p.possible = append(p.possible, Possible{Measure: m, If: when})
}

const twoKinds = "the unit is used for more than one kind of value"

// notUnit says whether a word after a number is a range mark, a limit or a condition. "min" is minutes only where
// a time is wanted.
func notUnit(word string, want Dimension) bool {
	switch len(word) {
	case 1:
		return word == "x" || word == "X" && want == Length || word == "~"
	case 2, 3, 4, 5, 6, 7:
	default:
		return false
	}
	if word == "min" || word == "MIN" || word == "Min" {
		return want != Time
	}
	switch word {
	case "AC", "DC", "ac", "dc", "to", "TO", "max", "MAX", "Max", "typ", "TYP", "Typ", "rms", "RMS", "pk", "at", "bis", "thru", "or", "and", "up", "when":
		return true
	case "through", "maximum", "typical", "minimum", "nominal", "nom", "MAXIMUM", "MINIMUM", "TYPICAL", "NOMINAL", "Maximum", "Minimum", "Typical", "or less", "each":
		return true
	}
	return false
}

// limitGlued takes "Vmax" for V and leaves "max" to be read: a unit that is known, with a limit or a × written to it.
func (p *parser) limitGlued(word string) (string, bool) {
	for _, limit := range [...]string{"max", "MAX", "Max", "min", "MIN", "Min", "typ", "TYP", "Typ"} {
		if short, ok := strings.CutSuffix(word, limit); ok && len(exactUnits[short]) > 0 {
			p.i -= len(limit)
			return short, true
		}
	}
	if n := len(word) - 1; n > 0 && word[n]|0x20 == 'x' && p.i < len(p.s) { // "5mmx3mm"
		if us := exactUnits[word[:n]]; len(us) == 1 && us[0].dim == Length {
			p.i--
			return word[:n], true
		}
	}
	return word, false
}

// gaugeBefore takes "AWG", "AWG-" and "#" before the number of a wire gauge.
func (p *parser) gaugeBefore() bool {
	from := p.i
	if !p.word("AWG") && !p.word("#") {
		return false
	}
	p.took(from, AsUnit)
	if at := p.i; at+1 < len(p.s) && p.s[at] == '-' && digit(p.s[at+1]) {
		p.i++
		p.took(at, AsSeparator)
	}
	return true
}

// gauge reads the number after "AWG" or "#": "24", "2/0", "0000".
func (p *parser) gauge(a *amount) bool {
	p.space()
	at := p.i
	for p.i < len(p.s) && digit(p.peek()) {
		p.i++
	}
	text := p.s[at:p.i]
	if text == "" || len(text) > 4 {
		return p.fail("no wire gauge after AWG")
	}
	n := Whole(atoi(text))
	switch {
	case strings.Trim(text, "0") == "": // "00" is 2/0
		n = Whole(1 - int64(len(text)))
	case text[0] == '0':
		return p.fail("%q is no wire gauge", string([]byte(text)))
	case strings.HasPrefix(p.s[p.i:], "/0"):
		n, p.i = Whole(1-atoi(text)), p.i+2
	}
	p.took(at, AsNumber)
	p.space()
	at = p.i
	if p.word("AWG") {
		p.took(at, AsUnit)
	}
	p.gaugeOf(n, a)
	return true
}

func (p *parser) gaugeOf(n Number, a *amount) {
	a.alt[0], a.raw, a.n, a.dim, a.u, a.word = n, n, 1, WireGauge, exactUnits["AWG"][0], "AWG"
}

// gaugeBehind reads "00 AWG" and "0000AWG": as many zeros as the gauge says.
func (p *parser) gaugeBehind(from int, neg bool, a *amount) bool {
	text, at := p.s[from:p.i], p.here()
	p.space()
	unitAt := p.i
	if neg || strings.Trim(text, "0") != "" || len(text) > 4 || !p.word("AWG") {
		p.back(at)
		return false
	}
	p.took(unitAt, AsUnit)
	p.gaugeOf(Whole(1-int64(len(text))), a)
	return true
}

// aughts reads the rest of "2/0 AWG", which is gauge -1.
func (p *parser) aughts(num numeral, neg bool, a *amount) bool {
	at := p.here()
	n, whole := num.v[0].Int64()
	if neg || !whole || n > 9 || !strings.HasPrefix(p.s[p.i:], "/0") {
		return false
	}
	p.i += 2
	p.took(at.i, AsNumber)
	p.space()
	unitAt := p.i
	if !p.word("AWG") {
		p.back(at)
		return false
	}
	p.took(unitAt, AsUnit)
	p.gaugeOf(Whole(1-n), a)
	return true
}
