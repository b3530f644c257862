package measure

import "strings"

// conditionWords are names of conditions that may stand alone in parentheses: the temperature of what.
var conditionWords = map[string]string{"ta": "Ta", "tc": "Tc", "tj": "Tj", "tamb": "Tamb", "tcase": "Tcase", "tl": "Tl", "ts": "Ts", "ambient": "ambient", "case": "case"}

// conditionMark says whether a condition begins here: "@", "at", "when".
func (p *parser) conditionMark() bool {
	s := p.s[p.i:]
	for _, limit := range []string{"at least", "at most"} {
		if len(s) > len(limit) && strings.EqualFold(s[:len(limit)], limit) {
			return false
		}
	}
	if s == "" {
		return false
	}
	return s[0] == '@' || len(s) > 3 && (strings.EqualFold(s[:2], "at") && blank(s[2])) || len(s) > 5 && strings.EqualFold(s[:4], "when") && blank(s[4])
}

// condition reads "@ 25 °C", "at 70 °C", "@ Vgs = 10 V, 25 °C". Each number in it carries a unit, and none is of the
// value's own kind or of a kind that was named before: that would be a second value.
func (p *parser) condition(c *clause) bool {
	p.as = AsCondition
	defer func() { p.as = 0 }()
	from := p.i
	switch {
	case p.peek() == '@':
		p.i++
	case strings.EqualFold(p.s[p.i:p.i+2], "at"):
		p.i += 2
	default:
		p.i += 4
	}
	p.took(from, AsCondition)
	text, ok := p.conditions(c.a.dim)
	if !ok {
		return p.fail("its condition is not understood")
	}
	if c.m.Cond != "" && c.m.Cond != text {
		return p.fail("it names two conditions")
	}
	c.m.Cond = text
	return true
}

// conditions reads the members of a condition up to the end of the text, and writes them alike: "@100MHz" and
// "at 0.1 GHz" are the same.
func (p *parser) conditions(value Dimension) (string, bool) {
	var out []string
	var seen [dimensions]bool
	name := ""
	for !p.end() {
		from := p.here()
		c := p.peek()
		switch {
		case (c == ',' || c == ';' || c == '&' || c == '/') && len(out) > 0 && name == "":
			p.i++
			p.took(from.i, AsCondition)
			if p.end() {
				return "", false
			}
		case c == '=' && name != "":
			p.i++
			p.took(from.i, AsCondition)
			name += " ="
		case digit(c) || c == '-' || c == '+' || c == '.' || c == 0xC2 || c == '<' || c == '>' || c >= 0xE2:
			m, ok := p.oneCondition()
			if !ok || seen[m.Of] || m.Of == value && name == "" {
				return "", false
			}
			if seen[m.Of] = name == ""; name != "" {
				out = append(out, name+" "+m.String())
				name = ""
			} else {
				out = append(out, m.String())
			}
		case letter(c):
			for p.i < len(p.s) && (letter(p.peek()) || digit(p.peek()) && p.i > from.i || p.peek() == '(' && p.i > from.i || p.peek() == ')' && strings.IndexByte(p.s[from.i:p.i], '(') > 0 || p.peek() == '-' || p.peek() == '.') {
				p.i++
			}
			p.took(from.i, AsCondition)
			w := p.s[from.i:p.i]
			if w == "and" && len(out) > 0 && name == "" {
				continue
			}
			if strings.ContainsAny(w, "0123456789") {
				return "", false
			}
			if known, ok := conditionWords[strings.ToLower(w)]; ok {
				w = known
			} else if len(w) > 1 && len(w) < 5 && strings.ToUpper(w) == w {
				w = w[:1] + strings.ToLower(w[1:])
			}
			name = strings.TrimLeft(name+" "+w, " ")
		default:
			return "", false
		}
	}
	if name != "" {
		if strings.HasSuffix(name, "=") {
			return "", false
		}
		out = append(out, name)
	}
	return strings.Join(out, ", "), len(out) > 0
}

// oneCondition reads one value of a condition: a number with its unit, a range, a limit.
func (p *parser) oneCondition() (Measure, bool) {
	keep, doubt, possible := p.o, p.doubt, p.possible
	p.o.Of, p.o.Unit, p.o.Usual, p.o.Tally = None, "", Usual{}, nil
	p.doubt, p.possible = "", nil
	defer func() { p.o = keep }()
	var c clause
	if !digit(p.peek()) {
		p.limitBefore(&c.m)
	}
	if !p.amount(&c.a) || p.settled {
		return c.m, false
	}
	if c.m.Shape == Nominal && p.rangeMark(false) {
		if !p.rangeTo(&c) {
			return c.m, false
		}
	}
	if c.a.bare || c.a.n != 1 || c.b.n > 1 || p.doubt != "" && c.a.dim != Temperature {
		if !(p.doubt == twoKinds && c.a.dim == Temperature) {
			return c.m, false
		}
	}
	p.doubt, p.possible = doubt, possible
	c.m.Of, c.m.Note = c.a.dim, join(c.a.note, c.m.Note)
	return c.m.with(c.a.alt[0], c.b.alt[0]), true
}

// parenthesis reads what stands in parentheses behind a value: a limit, a tolerance, a condition, the same value in
// another unit, or words. A number that is none of these has no place.
func (p *parser) parenthesis(c *clause) bool {
	open := p.i
	close := strings.IndexByte(p.s[open:], ')')
	if close < 0 {
		return p.fail("a parenthesis is not closed")
	}
	close += open
	whole := p.s
	p.i++
	p.took(open, AsSeparator)
	inner := strings.TrimSpace(whole[open+1 : close])
	p.s = whole[:close] // nothing reads past the parenthesis
	ok := inner != "" && p.inside(c, inner)
	p.s = whole
	if !ok {
		return p.fail("%q has no place in the value", string([]byte(whole[open:close+1])))
	}
	p.i = close + 1
	p.pieceClose(close)
	return true
}

func (p *parser) pieceClose(at int) {
	as := p.as
	p.as = 0
	p.took(at, AsSeparator)
	p.as = as
}

// inside reads the text in parentheses; it must take all of it.
func (p *parser) inside(c *clause, inner string) bool {
	p.space()
	from := p.here()
	if order := limitOrder(inner); order != nil && p.order == nil {
		p.i = len(p.s)
		p.took(from.i, AsLimit)
		p.order = order
		return true
	}
	before, doubt, possible := *c, p.doubt, p.possible
	for k := range insideWays {
		if p.way(k, c, inner) && p.end() && p.why == "" {
			return true
		}
		*c, p.doubt, p.possible, p.why, p.settled = before, doubt, possible, "", false
		p.back(from)
	}
	if strings.ContainsAny(inner, "0123456789") || len(inner) == 1 && toleranceLetter(inner[0]) {
		return false
	}
	p.i = len(p.s)
	p.took(from.i, AsRemark)
	if note := spellNote(inner); note == "AC" || note == "DC" {
		c.m.Note = join(c.m.Note, note)
	} else {
		c.m.Note = join(c.m.Note, "("+inner+")")
	}
	return true
}

// insideWays is how many things may stand in parentheses.
const insideWays = 6

// way tries one of them.
func (p *parser) way(k int, c *clause, inner string) bool {
	switch k {
	case 0:
		return p.limitAfter(&c.m)
	case 1:
		return c.m.Tol == NoTol && p.tolerance(c)
	case 2:
		return p.sameTolerance(c)
	case 3:
		return p.conditionMark() && p.condition(c)
	case 4:
		return p.namedCondition(c, inner)
	}
	return p.sameAgain(c)
}

// sameTolerance reads a tolerance that repeats the one there is, as a letter or as a number.
func (p *parser) sameTolerance(c *clause) bool {
	if c.m.Tol == NoTol && c.a.letter == 0 {
		return false
	}
	have := withLetter(c.m.with(c.a.alt[0], c.b.alt[0]), c.a.letter)
	if l := p.peek(); len(p.s)-p.i == 1 && toleranceLetter(l) {
		v := Of(c.a.dim, c.a.alt[0])
		w := withLetter(v, l)
		p.i++
		p.took(p.i-1, AsTolerance)
		return w.Tol == have.Tol && w.Minus == have.Minus && w.Plus == have.Plus
	}
	one := clause{m: Measure{}, a: c.a}
	one.a.letter = 0
	return p.tolerance(&one) && p.why == "" && one.m.Tol == have.Tol && one.m.Minus == have.Minus && one.m.Plus == have.Plus
}

// namedCondition reads a condition without its mark: "(Ta)", "(Tc = 25 °C)", "(VGS = 10 V)".
func (p *parser) namedCondition(c *clause, inner string) bool {
	_, known := conditionWords[strings.ToLower(inner)]
	if !known && strings.IndexByte(inner, '=') < 1 || !letter(inner[0]) {
		return false
	}
	p.as = AsCondition
	defer func() { p.as = 0 }()
	text, ok := p.conditions(c.a.dim)
	if !ok || c.m.Cond != "" && c.m.Cond != text {
		return false
	}
	c.m.Cond = text
	return true
}

// sameAgain reads the value once more, in another unit: "10 mm (0.394 in)". It agrees exactly, or as far as the digits
// go that are written; where only the rounded ones agree, the two readings are a doubt that the whole column shares.
func (p *parser) sameAgain(c *clause) bool {
	if c.a.bare || c.a.n != 1 {
		return false
	}
	p.as = AsSame
	defer func() { p.as = 0 }()
	var again clause
	if !p.amount(&again.a) || p.settled {
		return false
	}
	if c.m.Shape == Range {
		if !p.rangeMark(false) || !p.rangeTo(&again) {
			return false
		}
	} else if !p.bySizes(&again) {
		return false
	}
	if len(again.more) != len(c.more) || again.a.dim != c.a.dim || again.a.n != 1 || again.b.n > 1 {
		return false
	}
	exact, near := true, true
	for i := range c.amounts() {
		mine, yours := c.at(i), again.at(i)
		exact = exact && mine.alt[0] == yours.alt[0]
		near = near && (mine.roundsTo(yours) || yours.roundsTo(mine))
	}
	if exact {
		return true
	}
	if !near {
		return false
	}
	p.doubt = "it is given in two units, which agree only as far as they are rounded"
	for _, v := range []*clause{c, &again} {
		m := v.m
		m.Of, m.Note, m.Cond = v.a.dim, c.m.Note, c.m.Cond
		m = m.with(v.a.alt[0], v.b.alt[0])
		if len(v.more) > 0 {
			all := []Number{v.a.alt[0]}
			for i := range v.more {
				all = append(all, v.more[i].alt[0])
			}
			m = sizes(v.a.dim, all)
		}
		p.possible = append(p.possible, Possible{Measure: m, If: "the value in " + v.a.word + " is meant"})
	}
	p.settled = true
	return true
}

// roundsTo says whether b, written in a's unit with as many digits as a has, is a.
func (a *amount) roundsTo(b *amount) bool {
	diff, err := a.alt[0].Add(b.alt[0].Neg())
	if err != nil {
		return false
	}
	half, err := a.u.factor.Mul(Number{5, min(a.raw.exp, 0) - 1})
	if err != nil {
		return false
	}
	if diff.Sign() < 0 {
		diff = diff.Neg()
	}
	return diff.Cmp(half) <= 0
}
