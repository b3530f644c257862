package measure

import (
	"errors"
	"strings"
)

// amount is one number with its unit, or the alternatives it may stand for.
type amount struct {
	alt  [4]Number // in base units
	when [4]string // what would have to be so, for a doubt
	n    int
	dim  Dimension
	bare bool // no unit was written
	ppm  bool
	note string
}

// amount reads one number and its unit: plain, fraction, marking code, wire gauge or scientific.
func (p *parser) amount() (a amount, ok bool) {
	p.space()
	if p.i >= len(p.s) {
		return a, p.fail("a number is missing at the end")
	}
	if c := p.s[p.i] | 0x20; c == 'a' || c == '#' {
		if p.take("AWG") || p.take("#") {
			return p.gauge()
		}
	}
	from := p.i
	if p.markable() {
		if a, ok = p.marking(); ok {
			if p.unitBehind(&a) {
				return a, true
			}
			a, p.doubt, p.possible, p.letter = amount{}, "", nil, 0
		}
		p.i = from
	}
	nums, when, n := p.number()
	if n == 0 {
		if p.why != "" {
			return a, false
		}
		return a, p.fail("no number at character %d (%q)", p.i+1, string(p.s[p.i:]))
	}
	fraction := false
	if n == 1 && p.i+1 < len(p.s) {
		if fraction = p.fraction(&nums[0]); p.why != "" {
			return a, false
		}
	}
	numberEnd := p.i
	p.space()
	unitAt := p.i
	word := p.unitText()
	if word == "" {
		word = p.hyphened()
	}
	if len(word) <= 3 {
		word = p.prefixApart(word, unitAt > numberEnd)
	}
	if notUnit(word, p.o.Of) {
		p.i, word = unitAt, ""
	}
	var us []unit
	if word != "" {
		newtons := word == "N" && unitAt == numberEnd && p.o.Of == None // "100N" on a capacitor, in capitals
		if us = unitsFor(word, p.o.Of); len(us) == 0 || newtons {
			if p.prefixOnly(word, nums[0], &a) {
				return a, true
			}
			return a, p.fail("%q is no unit that is known", string([]byte(word)))
		}
	} else if p.o.Unit != "" {
		us = unitsFor(foldSigns(p.o.Unit), p.o.Of)
		if len(us) != 1 {
			return a, p.fail("the assumed unit %q is not known", p.o.Unit)
		}
	}
	if fraction && (us == nil || us[0].dim != Power && us[0].dim != Length) {
		return p.fractionOrList(from, us)
	}
	if us == nil {
		a.alt[0], a.n, a.bare = nums[0], 1, true
		if n > 1 {
			a.alt[1], a.n = nums[1], 2
		}
		copy(a.when[:], when[:])
		return a, true
	}
	for _, u := range us {
		for k := range n {
			if a.n == len(a.alt) {
				continue
			}
			v, err := u.base(nums[k])
			if err != nil {
				return a, p.fail("it has %v", err)
			}
			if u.dim != us[0].dim {
				p.other(Of(u.dim, v), u.dim.isA())
				continue
			}
			a.alt[a.n], a.when[a.n] = v, when[k]
			if len(us) > 1 {
				a.when[a.n] = word + " means " + shownFactor(u)
			}
			a.n++
		}
	}
	a.dim, a.note, a.ppm = us[0].dim, us[0].note, us[0].ppm
	return a, true
}

// unitBehind takes the unit behind a marking code or a prefix: "4k7 ohm", "100n F". It settles what the letter left open,
// and is false where a unit follows that the letter is not customary for: "10m Ω" is no code.
func (p *parser) unitBehind(a *amount) bool {
	at := p.i
	p.space()
	us := exactUnits[p.unitText()]
	if len(us) == 1 && us[0].factor == (Number{1, 0}) && us[0].shift.coef == 0 && at < p.i && p.letter == 0 {
		if us[0].dim == a.dim && p.doubt == "" {
			return true
		}
		for _, o := range p.possible {
			if o.Measure.Of == us[0].dim && o.Measure.Shape == Nominal && o.Measure.Tol == NoTol {
				a.dim, a.alt[0], p.doubt, p.possible = us[0].dim, o.Measure.High, "", nil
				return true
			}
		}
		if p.doubt == prefixNoUnit {
			return false
		}
	}
	p.i = at
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

// prefixApart joins a prefix with the unit that a blank parts from it: "100 k ohm". A lone m behind a blank is a metre.
func (p *parser) prefixApart(word string, blank bool) string {
	if _, ok := p.prefixPower(word); !ok && (word != "m" || blank) || p.i >= len(p.s) || p.s[p.i] != ' ' {
		return word
	}
	at := p.i
	p.space()
	if us := exactUnits[p.unitText()]; len(us) == 1 && us[0].factor == (Number{1, 0}) && us[0].shift.coef == 0 && us[0].note == "" {
		both := strings.TrimSuffix(strings.TrimSuffix(word, "eg"), "EG") + p.s[at+1:p.i]
		if both = strings.ReplaceAll(both, " ", ""); len(unitsFor(both, p.o.Of)) > 0 {
			return both
		}
	}
	p.i = at
	return word
}

// prefixPower is the power of ten of a prefix that may stand without its unit.
func (p *parser) prefixPower(word string) (exp int32, ok bool) {
	switch word {
	case "k", "M", "G", "n", "p", "u":
		return prefixExp[word[0]], true
	case "K", "N", "P", "U":
		return prefixExp[word[0]|0x20], true
	case "µ", "μ":
		return -6, true
	case "Meg", "MEG", "meg":
		return 6, true
	}
	return 0, false
}

// prefixOnly reads "4.7 k" and "10 Meg" where no dimension is wanted: resistances most likely, and a doubt.
func (p *parser) prefixOnly(word string, n Number, a *amount) bool {
	exp, ok := p.prefixPower(word)
	if !ok || p.o.Of != None {
		return false
	}
	plain := n
	n, err := NewNumber(n.coef, int(n.exp+exp))
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
	a.alt[0], a.n, a.dim = n, 1, of[0]
	return true
}

// base converts a number of u to base units, exactly.
func (u unit) base(n Number) (Number, error) {
	if u.shift.coef != 0 {
		var err error
		if n, err = n.Add(u.shift); err != nil {
			return n, err
		}
	}
	if u.factor.coef == 1 {
		return NewNumber(n.coef, int(n.exp)+int(u.factor.exp))
	}
	return n.Mul(u.factor)
}

// other notes a reading in another dimension than the first: the whole is then a doubt.
func (p *parser) other(m Measure, when string) {
	if p.doubt == "" {
		p.doubt = "the unit is used for more than one kind of value"
	}
	p.possible = append(p.possible, Possible{Measure: m, If: when})
}

// fraction reads what follows a whole number in "1/8", "1 1/2" and "1-1/2".
func (p *parser) fraction(n *Number) bool {
	i := p.i
	rest := p.s[i:]
	whole := Number{}
	if (rest[0] == ' ' || rest[0] == '-') && len(rest) > 3 {
		k := 1
		for k < len(rest) && digit(rest[k]) {
			k++
		}
		if k == 1 || k > 3 || k+1 >= len(rest) || rest[k] != '/' || !digit(rest[k+1]) || rest[1] == '0' {
			return false
		}
		whole = *n
		*n = Whole(atoi(rest[1:k]))
		i += k
		rest = p.s[i:]
	}
	if rest[0] != '/' || len(rest) < 2 || !digit(rest[1]) {
		return false
	}
	k := 1
	for k < len(rest) && digit(rest[k]) && k < 6 {
		k++
	}
	if k < len(rest) && (rest[k] == '.' || rest[k] == ',') && k+1 < len(rest) && digit(rest[k+1]) {
		return false // "3.3/1.8 V" is a list
	}
	if rest[1] == '0' && k == 2 && strings.HasPrefix(strings.TrimLeft(strings.ToUpper(rest[2:]), " "), "AWG") {
		*n = mustNumber(Whole(1).Add(n.Neg())) // "4/0 AWG" is gauge -3
		p.i = i + k
		return false
	}
	q, err := n.Quo(Whole(atoi(rest[1:k])))
	if err == nil {
		q, err = q.Add(whole)
	}
	if err != nil {
		q = *n
		p.uneven = true
	}
	*n = q
	p.i = i + k
	return true
}

func atoi(s string) (n int64) {
	for i := range len(s) {
		n = n*10 + int64(s[i]-'0')
	}
	return n
}

// fractionOrList gives both readings of "5/12 V": nothing in it says whether two values or one fraction are meant.
// Fractions are customary for watts and inches only.
func (p *parser) fractionOrList(from int, us []unit) (a amount, ok bool) {
	if len(us) != 1 {
		return a, p.fail("a fraction is read only with a unit")
	}
	text := strings.TrimSpace(p.s[from:p.i])
	k := strings.IndexByte(text, '/')
	x, err1 := ParseNumber(strings.TrimSpace(text[:k]))
	y, _, err2 := scanNumber(text[k+1:], '.')
	if err1 != nil || err2 != nil {
		return a, p.fail("the fraction does not come out even")
	}
	u := us[0]
	bx, e1 := u.base(x)
	by, e2 := u.base(y)
	if e1 != nil || e2 != nil {
		return a, p.fail("it has %v", errors.Join(e1, e2))
	}
	p.doubt = "it is two values or a fraction"
	p.possible = []Possible{{Measure: list(u.dim, []Number{bx, by}), If: "they are two values"}}
	a.dim, a.n = u.dim, 1
	if q, err := x.Quo(y); err == nil {
		if q, err = u.base(q); err == nil {
			p.possible = append(p.possible, Possible{Measure: Of(u.dim, q), If: "it is a fraction"})
			a.alt[0] = q
		}
	}
	p.uneven = false
	return a, true
}

// gauge reads the number after "AWG" or "#": "24", "2/0".
func (p *parser) gauge() (a amount, ok bool) {
	p.space()
	n, end, err := scanNumber(p.s[p.i:], '.')
	if err != nil {
		return a, p.fail("no wire gauge after AWG")
	}
	p.i += end
	if p.take("/0") {
		n = mustNumber(Whole(1).Add(n.Neg()))
	}
	p.take("AWG")
	a.alt[0], a.n, a.dim = n, 1, WireGauge
	return a, true
}

// notUnit says whether a word after a number is a range mark, a limit or a condition. "min" is minutes only where
// a time is wanted.
func notUnit(word string, want Dimension) bool {
	switch len(word) {
	case 1:
		return word == "x" || word == "~"
	case 2, 3, 4, 5, 6, 7:
	default:
		return false
	}
	if word == "min" || word == "MIN" || word == "Min" {
		return want != Time
	}
	switch word {
	case "AC", "DC", "ac", "dc", "to", "TO", "max", "MAX", "Max", "typ", "TYP", "Typ", "rms", "RMS", "pk", "at", "bis", "thru", "or", "and", "up":
		return true
	case "through", "maximum", "typical", "minimum", "nominal", "nom":
		return true
	}
	return false
}

// shownFactor names a unit by its size, such as "mΩ".
func shownFactor(u unit) string {
	for p, e := range prefixExp {
		if u.factor == (Number{1, e}) {
			if p == 'u' {
				return "µ" + dims[u.dim].base
			}
			return string(p) + dims[u.dim].base
		}
	}
	return u.factor.String() + " " + dims[u.dim].base
}

// unitText takes the longest run that is spelled like a unit: letters, Ω, °, %, and a slash between letters.
func (p *parser) unitText() string {
	from := p.i
	for p.i < len(p.s) {
		c := p.s[p.i]
		ok := letter(c) || c == '%' || c == '"' && p.i == from
		switch {
		case c >= 0x80:
			ok = !sign(p.s[p.i:])
		case p.i == from || p.i+1 >= len(p.s):
		case c == '/' || c == '(' && p.s[p.i-1] == '/' || c == '.' && (letter(p.s[p.i-1]) && letter(p.s[p.i+1])):
			next := p.s[p.i+1]
			ok = letter(next) || next >= 0x80 && !sign(p.s[p.i+1:]) || c == '/' && next == '('
		case c == ')' || c == '-':
			ok = strings.IndexByte(p.s[from:p.i], '(') > 0 || c == '-' && p.s[p.i+1] == 'p'
		case c == '2':
			ok = (p.s[p.i-1] == 'm' || p.s[p.i-1] == 'A') && !digit(p.s[p.i+1])
		}
		if !ok && p.i > from && p.i+1 == len(p.s) {
			ok = c == '2' && p.s[p.i-1] == 'm' || c == ')' && strings.IndexByte(p.s[from:p.i], '(') > 0
		}
		if !ok {
			break
		}
		p.i++
	}
	return p.s[from:p.i]
}

// sign says whether s begins with a sign that stands between values and so ends a unit.
func sign(s string) bool {
	for _, mark := range [...]string{"±", "…", "≤", "≥", "×", "÷", "≈", "→"} {
		if strings.HasPrefix(s, mark) {
			return true
		}
	}
	return false
}
