package measure

import "strings"

// clause is one value with all that belongs to it: limit, second end, tolerance, condition, remark.
type clause struct {
	m    Measure // shape, tolerance, condition and note; the numbers come from the amounts
	a, b amount
	more []amount // further sizes of a body
}

// amounts is how many amounts a clause has, and at gives one by its place.
func (c *clause) amounts() int {
	if c.b.n > 0 {
		return 2
	}
	return 1 + len(c.more)
}

func (c *clause) at(i int) *amount {
	switch {
	case i == 0:
		return &c.a
	case c.b.n > 0:
		return &c.b
	}
	return &c.more[i-1]
}

// whole reads a text: a tolerance alone, or one clause, or several that make one value together.
func (p *parser) whole() (Measure, bool) {
	if m, ok, is := p.deviationAlone(); is {
		return m, ok
	}
	var c clause
	if !p.clause(&c) {
		return c.m, false
	}
	if p.end() || p.settled {
		if !p.settled {
			p.settle(&c)
		}
		return c.m, p.why == ""
	}
	return p.several(c)
}

// clause reads [limit] amount [range amount | × amount] and what stands behind it.
func (p *parser) clause(c *clause) bool {
	p.space()
	if p.i < len(p.s) && !digit(p.peek()) {
		p.limitBefore(&c.m)
		if p.dcUpTo(c) {
			return p.behind(c)
		}
	}
	if !p.amount(&c.a) || p.settled {
		return p.why == ""
	}
	if note := c.m.Note; (note == "AC" || note == "DC") && c.a.dim != Voltage && c.a.dim != Current && c.a.dim != Power {
		return p.fail("%s stands before what is no voltage, current or power", note)
	}
	if p.i >= len(p.s) {
		return true
	}
	if (c.m.Shape == Nominal || c.m.Shape == AtLeast) && p.rangeMark(c.m.Shape == AtLeast) {
		if !p.rangeTo(c) {
			return false
		}
	} else if c.m.Shape == Nominal && !p.bySizes(c) {
		return false
	}
	return p.behind(c)
}

// rangeTo reads the upper end of a range.
func (p *parser) rangeTo(c *clause) bool {
	dashed := p.dashed
	if !p.amount(&c.b) || p.settled {
		return p.fail("the upper end of the range is no single number")
	}
	if c.a.bare && !c.b.bare && !p.retake(&c.a, &c.b) {
		return false
	}
	if c.a.dim == WireGauge && c.b.bare && c.b.n == 1 { // "AWG 22 to 26": the unit stands before both
		p.gaugeOf(c.b.alt[0], &c.b)
		c.b.bare = false
	}
	if c.a.dim != c.b.dim || c.a.bare != c.b.bare {
		return p.fail("its two ends have different units")
	}
	if c.a.n > 1 || c.b.n > 1 {
		p.doubt = "its ends can be read in more than one way"
	}
	c.m.Shape = Range
	if dashed && c.a.alt[0].Cmp(c.b.alt[0]) > 0 && c.a.dim != WireGauge {
		p.doubt = "the dash may part two ends or be a minus"
	}
	return true
}

// dcUpTo reads "DC to 6 GHz": a band that begins at 0 Hz.
func (p *parser) dcUpTo(c *clause) bool {
	if c.m.Note != "DC" {
		return false
	}
	at := p.here()
	if p.rangeMark(false) && p.amount(&c.b) && c.b.dim == Frequency && c.b.n == 1 {
		c.a = amount{n: 1, dim: Frequency, u: c.b.u, word: c.b.word}
		c.m.Shape, c.m.Note = Range, ""
		return true
	}
	p.back(at)
	p.why, c.b = "", amount{}
	return false
}

// bySizes reads the further dimensions of a body: "1.6 x 0.8 mm", `0.063" L x 0.031" W`.
func (p *parser) bySizes(c *clause) bool {
	p.axis(c.a.dim)
	for p.by() {
		var b amount
		if !p.amount(&b) || p.settled {
			return p.fail("a size is missing behind the ×")
		}
		p.axis(b.dim)
		if c.more = append(c.more, b); len(c.more) > 2 {
			return p.fail("a body has three dimensions at most")
		}
	}
	if c.more == nil {
		return true
	}
	for i := c.amounts() - 2; i >= 0; i-- {
		if c.at(i).bare && !c.at(i+1).bare && !p.retake(c.at(i), c.at(i+1)) {
			return false
		}
	}
	for i := range c.amounts() {
		switch a := c.at(i); {
		case a.n != 1:
			return p.fail("its sizes can be read in more than one way")
		case a.bare && (p.o.Of == None || p.o.Of == Length):
			return p.fail("its sizes have no unit")
		case a.dim != Length || a.bare:
			return p.fail("only lengths stand side by side with ×")
		}
	}
	if p.doubt == "its first number has no unit, and is larger than the one that has" {
		p.doubt = "" // "10 x 5 mm": the sizes of a body share their unit
	}
	c.m.Shape = Sizes
	return true
}

// by takes the × between two sizes.
func (p *parser) by() bool {
	p.space()
	from := p.i
	switch {
	case p.i >= len(p.s):
		return false
	case p.peek() == 'x' || p.peek() == 'X' || p.peek() == '*':
		p.i++
	case strings.HasPrefix(p.s[p.i:], "×"):
		p.i += len("×")
	default:
		return false
	}
	p.took(from, AsSeparator)
	return true
}

// axis takes the letter that names a dimension behind a length: "0.063\" L".
func (p *parser) axis(d Dimension) {
	if d != Length {
		return
	}
	for _, w := range [...]string{"L", "W", "H", "T", "D", "length", "width", "height", "long", "wide", "high"} {
		if p.take(w, AsAxis) {
			return
		}
	}
}

// behind reads what stands behind the numbers of a clause: tolerance, limit, remarks, condition, parentheses.
func (p *parser) behind(c *clause) bool {
	for !p.end() {
		at := p.here()
		if p.peek() == ',' || p.peek() == ';' {
			p.i++
			p.took(at.i, AsSeparator)
			if p.end() {
				return p.fail("it ends with a comma")
			}
		}
		if p.addition(c) {
			if p.why != "" {
				return false
			}
			continue
		}
		if p.why != "" {
			return false
		}
		p.back(at)
		return true
	}
	return true
}

// addition reads one thing that belongs to the clause before it; false where what comes next is none.
func (p *parser) addition(c *clause) bool {
	m, a := &c.m, &c.a
	s := p.peek()
	switch {
	case m.Tol == NoTol && p.tolerance(c):
		return true
	case p.why != "":
		return false
	case s == '(':
		return p.parenthesis(c)
	case p.limitAfter(m):
		return true
	case p.conditionMark():
		return p.condition(c)
	}
	from := p.i
	for _, w := range [...]string{"AC", "DC", "rms", "pk", "p-p", "nominal", "nom.", "nom", "approx.", "each", "abs.", "per side"} {
		if p.take(w, AsRemark) {
			m.Note = join(m.Note, spellNote(p.s[from:p.i]))
			return true
		}
	}
	if a.dim == Length {
		p.axis(Length)
		return p.i > from
	}
	return false
}

func spellNote(s string) string {
	switch strings.ToLower(s) {
	case "ac", "dc":
		return strings.ToUpper(s)
	}
	return strings.ToLower(s)
}

// assume gives amounts that carry no unit the one that is known from elsewhere.
func (p *parser) assume(as ...*amount) {
	if p.o.Unit == "" {
		return
	}
	for _, a := range as {
		if a.n > 0 && !a.bare {
			return // a unit is written somewhere: it is meant for all
		}
	}
	unit := foldSigns(p.o.Unit)
	us := unitsFor(unit, p.o.Of)
	if len(us) != 1 {
		p.fail("the assumed unit %q is not known", p.o.Unit)
		return
	}
	for _, a := range as {
		if a.n == 0 {
			continue
		}
		if a.part.form != noFraction && !a.part.customary(us[0]) {
			p.fail("a fraction is customary for watts and inches only")
			return
		}
		for k := range a.n {
			n, err := us[0].base(a.alt[k])
			if err != nil {
				p.fail("it has %v", err)
				return
			}
			a.alt[k] = n
		}
		a.dim, a.bare, a.u, a.word, a.note, a.ppm = us[0].dim, false, us[0], unit, us[0].note, us[0].ppm
	}
}

// settle fills in the numbers, and turns alternatives, a missing unit, a wrong kind of unit or what cannot be into a
// doubt.
func (p *parser) settle(c *clause) {
	m, a, b := &c.m, &c.a, &c.b
	p.assume(a, b)
	if p.why != "" {
		return
	}
	m.Note = join(a.note, m.Note)
	if a.bare {
		p.withoutUnit(c)
		return
	}
	m.Of = a.dim
	if m.Shape == Sizes {
		all := []Number{a.alt[0]}
		for i := range c.more {
			all = append(all, c.more[i].alt[0])
		}
		note, cond := m.Note, m.Cond
		*m = sizes(a.dim, all)
		m.Note, m.Cond = note, cond
		p.check(m, a)
		return
	}
	fill := func(x, y Number) Measure {
		w := withLetter(m.with(x, y), a.letter)
		if w.Of == Fahrenheit && p.o.Of != Fahrenheit {
			if c, ok := w.celsius(); ok {
				return c
			}
		}
		return w
	}
	if a.n > 1 || b.n > 1 {
		if p.doubt == "" || p.doubt == twoKinds {
			p.doubt = "it can be read in more than one way"
		}
		for k := range max(a.n, b.n) {
			when := a.when[min(k, a.n-1)]
			if when == "" && b.n > 1 {
				when = b.when[min(k, b.n-1)]
			}
			p.possible = append(p.possible, Possible{Measure: fill(a.alt[min(k, a.n-1)], b.alt[min(k, max(0, b.n-1))]), If: when})
		}
		return
	}
	was := *m
	*m = fill(a.alt[0], b.alt[0])
	if p.doubt != "" {
		p.doubtful(c, was)
		return
	}
	p.check(m, a)
}

// doubtful lists what a doubt that the reader came upon leaves open.
func (p *parser) doubtful(c *clause, was Measure) {
	m, a, b := c.m, &c.a, &c.b
	switch {
	case m.Shape == Range && (p.doubt == prefixNoUnit || len(p.possible) > 0 && p.possible[0].Measure.Shape == Nominal && p.doubt != twoKinds):
		p.possible = append(p.possible[:0], Possible{Measure: m, If: a.dim.isA()})
	case p.doubt == twoKinds:
		p.possible = append([]Possible{{Measure: m, If: a.dim.isA()}}, p.possible...)
	case p.doubt == "its first number has no unit, and is larger than the one that has":
		p.possible = append(p.possible, Possible{Measure: m, If: "the prefix belongs to both"}, Possible{Measure: was.with(a.raw, b.alt[0]), If: "the first number is in " + a.dim.Base()})
	case len(p.possible) == 0:
		when := a.when[0]
		if when == "" {
			when = b.when[0]
		}
		if when == "" && m.Shape == Range {
			when = "they are the two ends of a range"
		}
		p.possible = append(p.possible, Possible{Measure: m, If: when})
	}
	for k := range p.possible {
		w := &p.possible[k].Measure
		w.Note = join(w.Note, was.Note)
		if w.Note == was.Note+"; "+was.Note {
			w.Note = was.Note
		}
		w.Cond = m.Cond
		if w.Shape == Nominal { // "over 100k" is a limit whatever it is a limit of
			switch m.Shape {
			case AtMost, Below:
				w.Shape, w.Low = m.Shape, Number{}
			case AtLeast, Above:
				w.Shape, w.High = m.Shape, Number{}
			}
		}
		if w.Tol == NoTol && was.Tol != NoTol && w.Shape != Deviation {
			w.Tol, w.Minus, w.Plus = was.Tol, was.Minus, was.Plus
		}
	}
}

// check doubts a value that is of another kind than the one wanted, that SI spells so and nobody means, or that cannot be.
func (p *parser) check(m *Measure, a *amount) {
	if p.o.Of != None && m.Of != p.o.Of {
		p.doubt = m.Of.isA() + ", and " + p.o.Of.one() + " is wanted"
		if m.Of == Fahrenheit {
			p.doubt = "it does not come out even in °C"
		}
		p.possible = append(p.possible[:0], Possible{Measure: *m, If: "the value belongs to another parameter"})
		return
	}
	why := p.o.implausible(m)
	if why == "" && !a.u.rare {
		return
	}
	if p.doubt = why; why == "" {
		p.doubt = "nobody means so many " + a.word
	}
	p.possible = append(p.possible[:0], Possible{Measure: *m, If: "it is meant as it is written"})
	if m.Shape != Nominal && m.Shape < AtMost || m.Shape > Above {
		return
	}
	for _, u := range others(a.word, a.u, p.o.Of) {
		if v, err := u.base(a.raw); err == nil && p.o.fits(u.dim, v) {
			w := *m
			w.Of = u.dim
			p.possible = append(p.possible, Possible{Measure: w.with(v, v), If: a.word + " means " + shownFactor(u)})
		}
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
	if m.Tol == Absolute || m.Items != "" || m.HasTyp {
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

// withoutUnit doubts a number that nothing says the unit of.
func (p *parser) withoutUnit(c *clause) {
	m, a, b := &c.m, &c.a, &c.b
	if m.Shape == Sizes || a.part.form != noFraction {
		p.fail("it has no unit")
		return
	}
	keep := p.possible
	p.doubt, p.possible = "it has no unit", nil
	want := p.o.Of
	if want == None {
		m.Tol, m.Minus, m.Plus = NoTol, Number{}, Number{}
		p.possible = append(p.possible, Possible{Measure: m.with(a.alt[0], b.alt[0]), If: "it is a count"})
		for _, d := range []Dimension{Resistance, Capacitance, Inductance} {
			if code, ok := codeValue(p.s, d); ok {
				p.possible = append(p.possible, Possible{Measure: Of(d, code), If: "it marks a " + d.String() + " (IEC 60062)"})
			}
		}
		p.possible = append(p.possible, keep...)
		return
	}
	m.Of = want
	for k := range a.n {
		when := "the unit is " + dims[want].base
		if a.when[k] != "" {
			when += " and " + a.when[k]
		}
		p.possible = append(p.possible, Possible{Measure: m.with(a.alt[k], b.alt[min(k, max(0, b.n-1))]), If: when})
	}
	if code, ok := codeValue(p.s, want); ok {
		p.possible = append(p.possible, Possible{Measure: m.with(code, code), If: "it is a marking code"})
	}
	p.possible = append(p.possible, keep...)
}
