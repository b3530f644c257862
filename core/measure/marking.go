package measure

import "strings"

// markings lists, for each letter that stands for the decimal mark, what it multiplies by (IEC 60062, clause 4).
var markings = map[byte][]struct {
	of  Dimension
	exp int
}{
	'R': {{Resistance, 0}}, 'k': {{Resistance, 3}}, 'K': {{Resistance, 3}}, 'M': {{Resistance, 6}}, 'G': {{Resistance, 9}},
	'p': {{Capacitance, -12}}, 'n': {{Capacitance, -9}, {Inductance, -9}},
	'u': {{Capacitance, -6}, {Inductance, -6}}, 'm': {{Capacitance, -3}, {Inductance, -3}, {Resistance, -3}},
	'V': {{Voltage, 0}}, 'A': {{Current, 0}}, 'W': {{Power, 0}},
}

// prefixNoUnit is why "10k" is a doubt where nothing says what it is.
const prefixNoUnit = "it has a prefix and no unit"

// markable says whether a marking code may stand here: a digit, or one of the letters that a code may begin with.
func (p *parser) markable() bool {
	c := p.peek()
	return digit(c) || c == 'R' || c == 'p' || c == 'n' || c == 'u' || c >= 0x80 || p.o.Of == Resistance && (c == 'K' || c == 'k' || c == 'M')
}

// markLetter reads the letter of a marking code at s[i] and its width in bytes.
func markLetter(s string, i int) (c byte, width int) {
	if s[i] < 0x80 {
		return s[i], 1
	}
	if strings.HasPrefix(s[i:], "µ") {
		return 'u', 2
	}
	return 0, 1
}

// marking reads "4k7", "R047", "2n2", "3V3", "4K7J", "104K" and, when no dimension is wanted, "4k" and "100n".
func (p *parser) marking(a *amount) bool {
	s, i := p.s, p.i
	d0 := i
	for i < len(s) && digit(s[i]) {
		i++
	}
	if i >= len(s) || i-d0 > 6 || i-d0 > 1 && s[d0] == '0' {
		return false
	}
	c, width := markLetter(s, i)
	if c == 0 || c == '.' || blank(c) {
		return false
	}
	if i-d0 == 3 || i-d0 == 4 {
		if p.digitCode(s[d0:i], i, a) {
			p.took(d0, AsCode)
			return true
		}
	}
	means := markings[c]
	j := i + width
	for j < len(s) && digit(s[j]) {
		j++
	}
	frac := j - i - width
	if means == nil || frac > 4 && (c != 'R' || frac > 6) || i == d0 && frac == 0 || frac == 0 && (p.o.Of != None || c == 'V' || c == 'A' || c == 'R' || c == 'W' || c == 'G') {
		return false // a plain number with a prefix or unit
	}
	if i == d0 && strings.IndexByte("Rpnu", c) < 0 && p.o.Of != Resistance {
		return false // no other letter stands before the first digit
	}
	if i == d0 && c == 'R' {
		if cs, _, ok := ReadCase(s[i+1 : j]); ok && j == len(s) {
			return p.codeOrCase(cs[0], frac, j, a)
		}
	}
	end, letters, fits := p.markingTail(j, means[0].of, frac)
	if !fits {
		return false
	}
	if frac == 0 {
		p.doubt = prefixNoUnit
	}
	var coef int64
	for k := d0; k < j; k++ {
		if digit(s[k]) {
			coef = coef*10 + int64(s[k]-'0')
		}
	}
	if !p.meanings(c, coef, frac, letters, a) {
		return false
	}
	if letters != 0 && (letters == 'F' && a.dim == Capacitance) {
		p.doubt = "the last letter is a unit or a tolerance"
		p.possible = append(p.possible[:0], Possible{Measure: Of(a.dim, a.alt[0]), If: string(letters) + " is the unit"},
			Possible{Measure: withLetter(Of(a.dim, a.alt[0]), letters), If: string(letters) + " is the tolerance letter"})
	}
	a.raw, a.u = a.alt[0], unit{dim: a.dim, factor: Whole(1)}
	if frac == 0 { // "10-20k": the prefix belongs to both
		a.u.factor, a.word = Number{1, int32(means[0].exp)}, string(c)
		a.raw = Whole(coef)
	}
	a.letter, p.i = letters, end
	p.took(d0, AsCode)
	return true
}

// meanings gives the values that a code may have, by what its letter is used for.
func (p *parser) meanings(c byte, coef int64, frac int, letters byte, a *amount) bool {
	means := markings[c]
	for _, m := range means {
		if p.o.Of != None && m.of != p.o.Of || frac == 0 && m.of == Resistance && c == 'm' {
			continue
		}
		v, err := NewNumber(coef, m.exp-frac)
		if err != nil {
			return false
		}
		if a.n == 0 {
			a.dim, a.alt[0], a.n = m.of, v, 1
			continue
		}
		// The same letter is used on capacitors and inductors: nothing in the text decides.
		if p.doubt == "" {
			p.doubt = "the letter is used for more than one kind of part"
		}
		p.possible = append(p.possible, Possible{Measure: withLetter(Of(m.of, v), letters), If: m.of.isA()})
	}
	if a.n == 0 {
		shift, why := means[0].exp, ""
		if c == 'R' && p.o.Of == Inductance {
			shift, why = -6, "R stands for the decimal point, and the unit is only customary"
		}
		v, err := NewNumber(coef, shift-frac)
		if err != nil {
			return false
		}
		a.dim, a.alt[0], a.n = means[0].of, v, 1
		if why != "" {
			a.dim, p.doubt = Inductance, why
			p.possible = append(p.possible[:0], Possible{Measure: withLetter(Of(Inductance, v), letters), If: "the customary µH is meant"})
		}
	} else if p.doubt != "" {
		p.possible = append([]Possible{{Measure: withLetter(Of(a.dim, a.alt[0]), letters), If: a.dim.isA()}}, p.possible...)
	}
	if c == 'K' && frac == 0 {
		if v, err := NewNumber(coef, 0); err == nil {
			if v, err = v.Add(MustParseNumber("-273.15")); err == nil {
				p.possible = append(p.possible, Possible{Measure: Of(Temperature, v), If: "K is kelvin"})
			}
		}
	}
	return true
}

// codeOrCase gives both readings of "R0603": 60.3 mΩ, and a resistor of case 0603, which people write far more often.
func (p *parser) codeOrCase(c Case, frac, end int, a *amount) bool {
	v, err := NewNumber(atoi(p.s[end-frac:end]), -frac)
	if err != nil {
		return false
	}
	p.doubt = "it is a marking code or names a case"
	p.possible = append(p.possible[:0], Possible{Measure: Of(Resistance, v), If: Resistance.isA()}, Possible{Case: c, If: "it names a case"})
	at := p.i
	a.dim, a.alt[0], a.n, p.i = Resistance, v, 1, end
	p.took(at, AsCode)
	return true
}

// markingTail reads what stands right behind a marking code: nothing, its unit, or a tolerance letter.
func (p *parser) markingTail(j int, of Dimension, frac int) (end int, letters byte, ok bool) {
	s := p.s
	if j+1 < len(s) && s[j] == '/' && letter(s[j+1]) {
		return j, 0, false // "10K/W" is a thermal resistance
	}
	if j >= len(s) || !letter(s[j]) && s[j] < 0x80 && !(s[j] == '.' && frac > 0) {
		return j, 0, true
	}
	if frac == 0 {
		return j, 0, s[j] >= 0x80 && sign(s[j:])
	}
	save := p.i
	p.i = j
	word := p.unitText()
	end = p.i
	p.i = save
	us := exactUnits[word]
	unit := len(us) == 1 && us[0].factor == (Number{1, 0}) && us[0].shift.coef == 0
	switch {
	case word == "H" && (of == Inductance || of == Capacitance && (p.o.Of == None || p.o.Of == Inductance)):
		return j, 0, true // 3 % is no tolerance in use; the unit is read behind the code
	case len(word) == 1 && toleranceLetter(word[0]) && (of == Resistance || of == Capacitance || of == Inductance):
		return end, word[0], true
	case word == "":
		return j, 0, sign(s[j:])
	}
	return j, 0, unit && (us[0].dim == of || p.o.Of == us[0].dim || p.o.Of == None)
}

// digitCode reads three digits, or four on a resistor, with a tolerance letter behind them: "104K" on a capacitor is
// 10 × 10⁴ pF ±10 % (IEC 60062, clauses 4 and 5). Where the letter may also be a prefix or a unit it is a doubt.
func (p *parser) digitCode(code string, at int, a *amount) bool {
	of := p.o.Of
	c := p.s[at]
	if of != Resistance && of != Capacitance && of != Inductance || !toleranceLetter(c) || at+1 < len(p.s) && (letter(p.s[at+1]) || digit(p.s[at+1]) || p.s[at+1] >= 0x80) {
		return false
	}
	v, ok := codeValue(code, of)
	if !ok {
		return false
	}
	if us := unitsFor(string(c), of); len(us) > 0 && us[0].dim == of {
		if of == Resistance {
			return false // "100K" is a hundred kilohms on every list
		}
		p.doubt = "the letter is a prefix, a unit or a tolerance"
		for _, u := range us {
			if n, err := u.base(Whole(atoi(code))); err == nil {
				p.possible = append(p.possible, Possible{Measure: Of(of, n), If: string(c) + " means " + shownFactor(u)})
			}
		}
		p.possible = append(p.possible, Possible{Measure: withLetter(Of(of, v), c), If: "it is a marking code with a tolerance letter"})
	}
	a.alt[0], a.raw, a.n, a.dim, a.u = v, v, 1, of, unit{dim: of, factor: Whole(1)}
	a.letter, p.i = c, at+1
	return true
}

// codeValue reads "104" as 10 × 10⁴ and, on a resistor, "1002" as 100 × 10² in the customary unit (IEC 60062,
// clause 4: pF, µH, Ω). The multiplier 9 stands for 10⁻¹ on capacitors, where so many powers of ten do not occur.
func codeValue(s string, d Dimension) (Number, bool) {
	unit := map[Dimension]int{Resistance: 0, Capacitance: -12, Inductance: -6}
	shift, ok := unit[d]
	if !ok || s == "" || s[0] == '0' || len(s) != 3 && (len(s) != 4 || d != Resistance) {
		return Number{}, false
	}
	for i := range len(s) {
		if !digit(s[i]) {
			return Number{}, false
		}
	}
	last := len(s) - 1
	e := int(s[last] - '0')
	if e == 9 && d == Capacitance {
		e = -1
	}
	n, err := NewNumber(atoi(s[:last]), e+shift)
	return n, err == nil
}
