package measure

// letterTolerances are the letters of IEC 60062, clause 5, in per cent: minus, plus.
var letterTolerances = map[byte][2]string{
	'E': {"0.005", "0.005"}, 'L': {"0.01", "0.01"}, 'P': {"0.02", "0.02"}, 'W': {"0.05", "0.05"}, 'B': {"0.1", "0.1"}, 'C': {"0.25", "0.25"},
	'D': {"0.5", "0.5"}, 'F': {"1", "1"}, 'G': {"2", "2"}, 'H': {"3", "3"}, 'J': {"5", "5"}, 'K': {"10", "10"}, 'M': {"20", "20"}, 'N': {"30", "30"},
	'Q': {"10", "30"}, 'T': {"10", "50"}, 'S': {"20", "50"}, 'Z': {"20", "80"},
}

// letterPicofarads are the letters that mean an absolute tolerance on capacitors below 10 pF (IEC 60062, clause 5.2).
var letterPicofarads = map[byte]string{'B': "0.1", 'C': "0.25", 'D': "0.5", 'F': "1", 'G': "2"}

func toleranceLetter(c byte) bool { _, ok := letterTolerances[c]; return ok }

var tenPicofarads = Number{1, -11}

// withLetter gives m the tolerance of a letter; 0 is none.
func withLetter(m Measure, c byte) Measure {
	if c == 0 {
		return m
	}
	if pf, ok := letterPicofarads[c]; ok && m.Of == Capacitance && m.High.Cmp(tenPicofarads) < 0 {
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

// deviationAlone reads a text that is a tolerance and nothing else: "±5 %", "+80/-20 %", "0/+5 %". is says whether it was.
func (p *parser) deviationAlone() (m Measure, ok, is bool) {
	c := p.s[0]
	if c != 0xC2 && c != '+' && c != '-' && c != 'p' && c != '0' {
		return m, false, false
	}
	p.as = AsTolerance
	plusMinus := p.plusMinus()
	if plusMinus {
		if !p.deviation(&m, None) {
			return m, false, true
		}
	} else if !p.twoSided(&m, None) || m.Tol == Absolute && c == '0' && p.tolDim != TempCoefficient {
		p.as = 0
		p.back(place{})
		p.why, p.doubt, p.possible = "", "", nil
		return Measure{}, false, false
	}
	p.as = 0
	m.Of, m.Shape = p.tolDim, Deviation
	rest := clause{m: m, a: amount{dim: m.Of, n: 1}}
	if !p.behind(&rest) {
		return m, false, true
	}
	if m.Cond, m.Note = rest.m.Cond, rest.m.Note; rest.m.Shape != Deviation {
		return m, p.fail("a tolerance is no limit"), true
	}
	for k := range p.possible {
		w := &p.possible[k].Measure
		w.Of, w.Shape, w.Cond, w.Note = m.Of, Deviation, m.Cond, m.Note
	}
	if p.doubt == "" {
		p.check(&m, &rest.a)
	}
	return m, true, true
}

// tolerance reads what follows a value: "± 1%", "+80/-20 %", "J", or a plain "1%" behind a value of another dimension.
// It is false, and takes nothing, where no tolerance follows.
func (p *parser) tolerance(c *clause) bool {
	m, a := &c.m, &c.a
	at := p.here()
	p.as = AsTolerance
	defer func() { p.as = 0 }()
	if p.plusMinus() {
		return p.deviation(m, a.dim) && p.sameKind(m, a) || p.fail("the tolerance is not a number")
	}
	if s := p.peek(); (s == '+' || s == '-' || s == '0') && p.twoSided(m, a.dim) {
		return p.sameKind(m, a)
	}
	if p.why != "" && p.doubt != "" {
		return false
	}
	p.why = ""
	p.back(at)
	if a.dim == Ratio || a.bare {
		return false
	}
	if digit(p.peek()) {
		keep, doubt, possible := *m, p.doubt, p.possible
		if p.deviation(m, a.dim) && m.Tol != Absolute && p.tolDim == Ratio && p.doubt == doubt {
			return true
		}
		*m, p.doubt, p.possible = keep, doubt, possible
		p.why = ""
		p.back(at)
		return false
	}
	return p.letterBehind(c)
}

// letterBehind reads a tolerance letter of IEC 60062 that stands apart: "4k7 J".
func (p *parser) letterBehind(c *clause) bool {
	a, l := &c.a, p.peek()
	next := byte(' ')
	if p.i+1 < len(p.s) {
		next = p.s[p.i+1]
	}
	if !toleranceLetter(l) || !blank(next) && next != ',' && next != ')' || a.letter != 0 || a.n != 1 || c.m.Shape != Nominal ||
		a.dim != Resistance && a.dim != Capacitance && a.dim != Inductance {
		return false
	}
	if _, two := letterPicofarads[l]; two && a.dim == Capacitance && a.alt[0] == tenPicofarads {
		v := Of(Capacitance, a.alt[0])
		small := v
		pf := mustNumber(MustParseNumber(letterPicofarads[l]).Mul(Number{1, -12}))
		small.Minus, small.Plus, small.Tol = pf, pf, Absolute
		p.doubt = "at 10 pF the letter is used for picofarads and for per cent"
		p.possible = append(p.possible[:0], Possible{Measure: small, If: "the letter means picofarads"}, Possible{Measure: withLetter(v, l), If: "the letter means per cent"})
	} else {
		a.letter = l
	}
	from := p.i
	p.i++
	p.took(from, AsTolerance)
	return true
}

// sameKind refuses a tolerance in a unit that the value does not have.
func (p *parser) sameKind(m *Measure, a *amount) bool {
	if m.Tol == Absolute && p.tolDim != a.dim {
		return p.fail("its tolerance is %s, and the value is %s", p.tolDim.one(), a.dim.one())
	}
	return true
}

// plusMinus takes "±", "+/-", "+-", "+ / -" or "-/+".
func (p *parser) plusMinus() bool {
	if p.i >= len(p.s) {
		return false
	}
	switch c := p.peek(); {
	case c == 0xC2:
		return p.take("±", AsTolerance)
	case c == '+':
		return p.take("+/-", AsTolerance) || p.take("+-", AsTolerance) || p.take("+ / -", AsTolerance) || p.take("+ -", AsTolerance)
	case c == '-':
		return p.take("-/+", AsTolerance)
	case c == 'p':
		return p.take("plus/minus", AsTolerance) || p.take("plus or minus", AsTolerance)
	}
	return false
}

// deviation reads the number and unit of a symmetric tolerance of a value of some dimension.
func (p *parser) deviation(m *Measure, of Dimension) bool {
	p.space()
	if p.i >= len(p.s) || !digit(p.peek()) && p.peek() != '.' {
		return p.fail("the tolerance is not a number")
	}
	keep := p.o
	p.o.Unit, p.o.Usual = "", Usual{}
	if of != None {
		p.o.Of = of
	}
	var a amount
	ok := p.amount(&a)
	p.o = keep
	if !ok || p.settled {
		p.settled = false
		return p.fail("the tolerance is not a number")
	}
	if a.bare && m.Of == None && keep.Unit != "" { // "±5" in a column whose unit is known
		p.assume(&a)
	}
	if !p.setTol(m, &a, a.alt[0], a.alt[0]) {
		return false
	}
	if a.n > 1 {
		other := *m
		p.setTol(&other, &a, a.alt[1], a.alt[1])
		p.doubt = "its tolerance can be read in more than one way"
		p.possible = append(p.possible, Possible{Measure: *m, If: a.when[0]}, Possible{Measure: other, If: a.when[1]})
	}
	return true
}

// setTol fills in a tolerance. A difference of temperatures has no zero to shift.
func (p *parser) setTol(m *Measure, a *amount, minus, plus Number) bool {
	m.Minus, m.Plus = minus, plus
	p.tolDim = a.dim
	var err error
	switch {
	case a.dim == Ratio && a.ppm:
		m.Tol = PPM
		if m.Minus, err = minus.Mul(Whole(10000)); err == nil {
			m.Plus, err = plus.Mul(Whole(10000))
		}
	case a.dim == Ratio:
		m.Tol = Percent
	case a.bare:
		m.Minus, m.Plus = Number{}, Number{}
		return p.fail("the tolerance has no unit")
	default:
		if m.Tol = Absolute; a.u.shift.coef != 0 {
			shift := a.u.shift.Neg()
			if m.Minus, err = minus.Add(shift); err == nil {
				m.Plus, err = plus.Add(shift)
			}
		}
	}
	if err != nil {
		return p.fail("the tolerance has %v", err)
	}
	return true
}

// twoSided reads "+80/-20 %", "-20 / +80 %", "+80 -20 %", "-20 %, +80 %" and "0/+5 %". A temperature written so is a
// range; so is anything else but a ratio that only a blank parts.
func (p *parser) twoSided(m *Measure, of Dimension) bool {
	at := p.here()
	var x, y amount
	sx, ok := p.signed(&x)
	slash := false
	if ok {
		slash = p.take("/", AsTolerance) || p.take(",", AsTolerance)
		var sy int
		sy, ok = p.signed(&y)
		ok = ok && sx*sy <= 0 && sx != sy
	}
	if ok && x.bare && !y.bare {
		ok = p.retake(&x, &y)
		if p.doubt == "its first number has no unit, and is larger than the one that has" {
			p.doubt = ""
		}
	}
	if !ok || x.bare || y.bare || x.dim != y.dim || x.u != y.u || x.dim == Temperature || x.dim == Fahrenheit || !slash && x.dim != Ratio || of != None && x.dim != Ratio && x.dim != of {
		p.back(at)
		p.settled = false
		return false
	}
	both := func(k int) (minus, plus Number) {
		a, b := x.alt[min(k, x.n-1)], y.alt[min(k, y.n-1)]
		if a.Cmp(b) > 0 {
			a, b = b, a
		}
		return a.Neg(), b
	}
	minus, plus := both(0)
	if !p.setTol(m, &y, minus, plus) {
		return false
	}
	if x.n > 1 || y.n > 1 {
		other := *m
		minus, plus = both(1)
		p.setTol(&other, &y, minus, plus)
		p.doubt = "its tolerance can be read in more than one way"
		when := x.when
		if y.n > 1 {
			when = y.when
		}
		p.possible = append(p.possible, Possible{Measure: *m, If: when[0]}, Possible{Measure: other, If: when[1]})
	}
	return true
}

// signed reads a number that carries its sign, or a zero, and the unit behind it.
func (p *parser) signed(a *amount) (sign int, ok bool) {
	p.space()
	if p.i >= len(p.s) {
		return 0, false
	}
	from := p.i
	switch p.peek() {
	case '+':
		sign = 1
	case '-':
		sign = -1
	case '0':
	default:
		return 0, false
	}
	if sign != 0 {
		p.i++
		p.took(from, AsTolerance)
		p.space()
	}
	if p.i >= len(p.s) || !digit(p.peek()) && p.peek() != '.' {
		return 0, false
	}
	keep := p.o
	p.o.Of, p.o.Unit, p.o.Usual = None, "", Usual{}
	defer func() { p.o = keep }()
	start := p.here()
	num, ok := p.numeral()
	if !ok || num.doubt != "" || num.coded || num.form != noFraction || sign == 0 && (num.n != 1 || num.v[0].Sign() != 0) {
		return 0, false
	}
	p.took(start.i, AsTolerance)
	if num.v[0].Sign() == 0 {
		sign = 0
	}
	if !p.withUnit(num, sign < 0, a) {
		p.why = ""
		return 0, false
	}
	return sign, true
}
