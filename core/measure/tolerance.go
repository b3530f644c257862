package measure

import "strings"

// letterTolerances are the letters of IEC 60062, clause 5, in per cent: minus, plus.
var letterTolerances = map[byte][2]string{
	'E': {"0.005", "0.005"}, 'L': {"0.01", "0.01"}, 'P': {"0.02", "0.02"}, 'W': {"0.05", "0.05"}, 'B': {"0.1", "0.1"}, 'C': {"0.25", "0.25"},
	'D': {"0.5", "0.5"}, 'F': {"1", "1"}, 'G': {"2", "2"}, 'H': {"3", "3"}, 'J': {"5", "5"}, 'K': {"10", "10"}, 'M': {"20", "20"}, 'N': {"30", "30"},
	'Q': {"10", "30"}, 'T': {"10", "50"}, 'S': {"20", "50"}, 'Z': {"20", "80"},
}

// letterPicofarads are the letters that mean an absolute tolerance on capacitors below 10 pF (IEC 60062, clause 5.2).
var letterPicofarads = map[byte]string{'B': "0.1", 'C': "0.25", 'D': "0.5", 'F': "1", 'G': "2"}

func toleranceLetter(c byte) bool { _, ok := letterTolerances[c]; return ok }

// withLetter gives m the tolerance of a letter; 0 is none.
func withLetter(m Measure, c byte) Measure {
	if c == 0 {
		return m
	}
	if pf, ok := letterPicofarads[c]; ok && m.Of == Capacitance && m.High.Cmp(Number{1, -11}) < 0 {
		n := mustNumber(MustParseNumber(pf).Mul(Number{1, -12}))
		m.Minus, m.Plus, m.Tol = n, n, Absolute
		return m
	}
	t := letterTolerances[c]
	m.Minus, m.Plus, m.Tol = MustParseNumber(t[0]), MustParseNumber(t[1]), Percent
	return m
}

// readToleranceLetter reads a tolerance that is only a letter. Five letters mean picofarads on small capacitors and
// per cent elsewhere, so alone they are doubts.
func readToleranceLetter(text string, c byte) Reading {
	t := letterTolerances[c]
	percent := Measure{Of: Ratio, Shape: Deviation, Minus: MustParseNumber(t[0]), Plus: MustParseNumber(t[1]), Tol: Percent}
	pf, two := letterPicofarads[c]
	if !two {
		return Reading{Text: text, Outcome: Read, Measure: percent}
	}
	n := mustNumber(MustParseNumber(pf).Mul(Number{1, -12}))
	small := Measure{Of: Capacitance, Shape: Deviation, Minus: n, Plus: n, Tol: Absolute}
	return Reading{Text: text, Outcome: Doubt, Why: "the letter means one tolerance below 10 pF and another elsewhere",
		Possible: []Possible{{Measure: percent, If: "it is no capacitor below 10 pF"}, {Measure: small, If: "it is a capacitor below 10 pF"}}}
}

// tolerance reads what follows a value: "± 1%", "+80/-20 %", "J", or a plain "1%" after a value of another dimension.
func (p *parser) tolerance(m *Measure, a amount) {
	p.space()
	if p.i >= len(p.s) {
		return
	}
	save := p.i
	if p.s[p.i] == ',' || p.s[p.i] == ';' {
		p.i++
		p.space()
		if p.i >= len(p.s) {
			p.i = save
			return
		}
	}
	if p.plusMinus() {
		p.deviation(m, true)
		return
	}
	if p.i < len(p.s) && (p.s[p.i] == '+' || p.s[p.i] == '-') && p.twoSided(m) {
		return
	}
	p.why = ""
	if a.dim != Ratio && !a.bare && p.i < len(p.s) {
		at := p.i
		if digit(p.s[p.i]) && p.deviation(m, false) {
			return
		}
		p.i = at
		c := p.s[p.i]
		if toleranceLetter(c) && p.i+1 == len(p.s) && (a.dim == Resistance || a.dim == Capacitance || a.dim == Inductance) {
			p.letter, p.i, p.why = c, p.i+1, ""
			return
		}
	}
	p.why, p.i = "", save
}

// plusMinus takes "±", "+/-", "+-", "+ / -" or "-/+".
func (p *parser) plusMinus() bool {
	if p.i >= len(p.s) {
		return false
	}
	switch c := p.s[p.i]; {
	case c == 0xC2:
		return p.take("±")
	case c == '+':
		return p.take("+/-") || p.take("+-") || p.take("+ / -") || p.take("+ -")
	case c == '-':
		return p.take("-/+")
	case c == 'p':
		return p.take("plus/minus") || p.take("plus or minus")
	}
	return false
}

// deviation reads the number and unit of a symmetric tolerance.
func (p *parser) deviation(m *Measure, absolute bool) bool {
	keep := p.o
	p.o.Of, p.o.Unit = None, ""
	if m.Of == None && keep.Unit != "" { // "±5" in a column whose unit is known
		p.o.Unit = keep.Unit
	}
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
	case a.dim == Ratio && a.ppm:
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

// twoSided reads "+80/-20 %", "-20 / +80 %" and "-20 %, +80 %". A temperature written so is a range.
func (p *parser) twoSided(m *Measure) bool {
	save := p.i
	x, ux, ok := p.signed()
	if ok {
		ok = p.take("/") || p.take(",")
	}
	var y Number
	var uy string
	if ok {
		y, uy, ok = p.signed()
	}
	if uy == "" {
		uy = ux
	}
	us := unitsFor(uy, None)
	if !ok || x.Sign()*y.Sign() > 0 || uy == "" || len(us) == 0 || us[0].dim == Temperature || us[0].dim == Fahrenheit || ux != "" && ux != uy || p.s[save] == p.s[p.i-1] {
		p.i = save
		return false
	}
	if x.Cmp(y) > 0 {
		x, y = y, x
	}
	x, err := us[0].base(x)
	if err == nil {
		y, err = us[0].base(y)
	}
	if err != nil {
		p.i = save
		return false
	}
	return p.setTol(m, amount{dim: us[0].dim, note: us[0].note, ppm: us[0].ppm}, x.Neg(), y, true)
}

// signed reads a number that carries its sign, and the unit behind it.
func (p *parser) signed() (Number, string, bool) {
	p.space()
	if p.i >= len(p.s) || p.s[p.i] != '+' && p.s[p.i] != '-' {
		return Number{}, "", false
	}
	mark := byte('.')
	if k := strings.IndexByte(p.s[p.i:], ','); k > 0 && p.i+k+1 < len(p.s) && digit(p.s[p.i+k+1]) && digit(p.s[p.i+k-1]) {
		mark = ','
	}
	n, end, err := scanNumber(p.s[p.i:], mark)
	if err != nil {
		return n, "", false
	}
	p.i += end
	p.space()
	unitAt := p.i
	word := p.unitText()
	if notUnit(word, None) {
		p.i, word = unitAt, ""
	}
	return n, word, true
}
