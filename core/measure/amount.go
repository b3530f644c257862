package measure

import "strings"

// amount reads one number and its unit: plain, fraction, marking code or scientific.
func (p *parser) amount() (a amount, ok bool) {
	p.space()
	from := p.i
	if a, ok = p.marking(); ok {
		return a, true
	}
	p.i = from
	nums, when, n := p.number()
	if n == 0 {
		if p.i >= len(p.s) {
			return a, p.fail("a number is missing at the end")
		}
		return a, p.fail("no number at character %d (%q)", p.i+1, p.s[p.i:])
	}
	if p.i < len(p.s) && p.s[p.i] == '/' && n == 1 && p.i+1 < len(p.s) && digit(p.s[p.i+1]) {
		p.i++
		d, _, k := p.number()
		q, err := nums[0].Quo(d[0])
		if k != 1 || err != nil {
			return a, p.fail("the fraction does not come out even")
		}
		nums[0] = q
	}
	p.space()
	unitAt := p.i
	word := p.unitText()
	if notUnit(word, p.o.Of) {
		p.i, word = unitAt, ""
	}
	us := []unit(nil)
	if word != "" {
		if us = unitsFor(word, p.o.Of); len(us) == 0 {
			return a, p.fail("%q is no unit that is known", word)
		}
	} else if p.o.Unit != "" {
		us = unitsFor(foldSigns(p.o.Unit), p.o.Of)
		if len(us) != 1 {
			return a, p.fail("the assumed unit %q is not known", p.o.Unit)
		}
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
			if a.n == len(a.alt) || u.dim != us[0].dim {
				continue
			}
			v, err := nums[k].Mul(u.factor)
			if err == nil {
				v, err = v.Add(u.offset)
			}
			if err != nil {
				return a, p.fail("it has %v", err)
			}
			a.alt[a.n], a.when[a.n] = v, when[k]
			if len(us) > 1 {
				a.when[a.n] = word + " means " + shownFactor(u)
			}
			a.n++
		}
	}
	a.dim, a.note = us[0].dim, unitNote(word)
	return a, true
}

// notUnit says whether a word after a number is a range mark, a limit or a condition. "min" is minutes only where
// a time is wanted.
func notUnit(word string, want Dimension) bool {
	switch strings.ToLower(word) {
	case "to", "through", "max", "maximum", "typ", "typical", "minimum", "ac", "dc", "rms", "pk", "at":
		return true
	case "min":
		return want != Time
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
	return dims[u.dim].base
}

// unitNote keeps what a unit's spelling says beyond the unit itself.
func unitNote(word string) string {
	switch low := strings.ToLower(word); {
	case low == "ppm":
		return "ppm"
	case low == "vdc" || low == "adc":
		return "DC"
	case low == "vac":
		return "AC"
	case strings.HasSuffix(low, "rms"):
		return "rms"
	}
	return ""
}

// unitText takes the longest run that is spelled like a unit: letters, Ω, °, %, and a slash between letters.
func (p *parser) unitText() string {
	from := p.i
	for p.i < len(p.s) {
		c := p.s[p.i]
		ok := letter(c) || c == '%' || c == '"' || c >= 0x80 && !strings.HasPrefix(p.s[p.i:], "±") &&
			!strings.HasPrefix(p.s[p.i:], "…") && !strings.HasPrefix(p.s[p.i:], "≤") && !strings.HasPrefix(p.s[p.i:], "≥")
		if c == '/' && p.i > from && p.i+1 < len(p.s) && (letter(p.s[p.i+1]) || p.s[p.i+1] >= 0x80) {
			ok = true
		}
		if !ok {
			break
		}
		p.i++
	}
	return p.s[from:p.i]
}

// number reads the digits of one number and says what a comma or point may have meant.
func (p *parser) number() (nums [2]Number, when [2]string, n int) {
	from := p.i
	i := from
	if i < len(p.s) && (p.s[i] == '-' || p.s[i] == '+') {
		i++
		for i < len(p.s) && p.s[i] == ' ' {
			i++
		}
	}
	body := i
	commas, points, lastMark := 0, 0, -1
	for ; i < len(p.s); i++ {
		c := p.s[i]
		if group := groupMark(p.s[body:], i-body); group > 0 {
			i += group // "10 000": the blank groups thousands
			continue
		}
		if c == '.' || c == ',' {
			if i+1 >= len(p.s) || !digit(p.s[i+1]) {
				break
			}
			if c == ',' {
				commas++
			} else {
				points++
			}
			lastMark = i
		} else if !digit(c) {
			break
		}
	}
	if i == body {
		return
	}
	sign := ""
	if p.s[from] == '-' {
		sign = "-"
	}
	read := func(text string) {
		v, _, err := scanNumber(text, '.')
		if err != nil {
			p.fail("it has %v", err)
			n = 0
			return
		}
		nums[n] = v
		n++
	}
	exponent := ""
	end := i
	if _, e, err := scanNumber("1"+p.s[i:], '.'); err == nil && e > 1 && i < len(p.s) && (p.s[i] == 'e' || p.s[i] == 'E') {
		exponent, end = p.s[i:i+e-1], i+e-1
	}
	text := p.s[body:i]
	if strings.ContainsAny(text, " '") {
		text = strings.NewReplacer(" ", "", "'", "").Replace(text)
		lastMark = body + strings.LastIndexAny(text, ".,")
	}
	p.i = end
	plain := func(decimal byte) string {
		var b []byte
		for k := range len(text) {
			switch c := text[k]; {
			case digit(c):
				b = append(b, c)
			case c == decimal:
				b = append(b, '.')
			}
		}
		return sign + string(b) + exponent
	}
	switch {
	case commas+points == 0:
		read(text)
		if exponent != "" || sign != "" {
			n = 0
			read(sign + text + exponent)
		}
	case commas == 0 && points == 1 && !(p.o.Mark == MarkComma && thousandLike(text, '.')):
		if sign == "" && exponent == "" {
			read(text)
		} else {
			read(sign + text + exponent)
		}
	case commas == 1 && points == 0 && (p.o.Mark == MarkComma || !thousandLike(text, ',')):
		read(plain(','))
	case commas+points == 1:
		mark := text[lastMark-body]
		if p.o.Mark == MarkPoint {
			read(plain('.'))
			break
		}
		read(plain(mark))
		read(plain(0))
		when[0], when[1] = string(mark)+" is the decimal mark", string(mark)+" groups thousands"
	case commas > 0 && points > 0 && strings.Count(text, string(text[lastMark-body])) == 1:
		read(plain(text[lastMark-body]))
	case grouped(text):
		read(plain(0))
	default:
		p.fail("%q is no number", text)
	}
	return
}

// groupMark returns the length of a blank or apostrophe that parts two groups of thousands at s[i], or 0: one to three
// digits stand before the first, three and no more after each, and no decimal mark came before.
func groupMark(s string, i int) int {
	if i == 0 || i+3 >= len(s) || s[i] != ' ' && s[i] != '\'' || strings.ContainsAny(s[:i], ".,") {
		return 0
	}
	first := strings.IndexAny(s[:i+1], " '")
	if first > 3 || s[0] == '0' || (i-first)%4 != 0 {
		return 0
	}
	if !digit(s[i+1]) || !digit(s[i+2]) || !digit(s[i+3]) || i+4 < len(s) && digit(s[i+4]) {
		return 0
	}
	return 1
}

// thousandLike says whether a single mark could be a thousands separator: "1,000", but not "0,100" or "4,7".
func thousandLike(s string, mark byte) bool {
	k := strings.IndexByte(s, mark)
	return k > 0 && k <= 3 && len(s)-k == 4 && s[0] != '0'
}

func grouped(s string) bool {
	parts := strings.FieldsFunc(s, func(r rune) bool { return r == ',' || r == '.' })
	for k, part := range parts {
		if k > 0 && len(part) != 3 || k == 0 && len(part) > 3 {
			return false
		}
	}
	return true
}

// markings lists, for each letter that stands for the decimal mark, what it multiplies by (IEC 60062, clause 4).
var markings = map[byte][]struct {
	of  Dimension
	exp int
}{
	'R': {{Resistance, 0}}, 'k': {{Resistance, 3}}, 'K': {{Resistance, 3}}, 'M': {{Resistance, 6}},
	'p': {{Capacitance, -12}}, 'n': {{Capacitance, -9}, {Inductance, -9}},
	'u': {{Capacitance, -6}, {Inductance, -6}}, 'm': {{Capacitance, -3}, {Inductance, -3}},
	'V': {{Voltage, 0}}, 'A': {{Current, 0}},
}

// marking reads "4k7", "R047", "2n2", "3V3", and, when no dimension is wanted, "4k" and "100n".
func (p *parser) marking() (a amount, ok bool) {
	s, i := p.s, p.i
	d0 := i
	for i < len(s) && digit(s[i]) {
		i++
	}
	if i >= len(s) || i-d0 > 6 {
		return a, false
	}
	c := s[i]
	means := markings[c]
	j := i + 1
	for j < len(s) && digit(s[j]) {
		j++
	}
	if means == nil || j-i-1 > 4 || i == d0 && j == i+1 || j < len(s) && (letter(s[j]) || s[j] == '.' && j > i+1 || s[j] >= 0x80) {
		return a, false
	}
	if j == i+1 && (p.o.Of != None || c == 'V' || c == 'A' || c == 'R') {
		return a, false // a plain number with a prefix or unit
	}
	if i == d0 && strings.IndexByte("Rpnu", c) < 0 {
		return a, false // no other letter stands before the first digit
	}
	if j == i+1 {
		p.doubt = "it has a prefix and no unit"
	}
	var coef int64
	for k := d0; k < j; k++ {
		if k != i {
			coef = coef*10 + int64(s[k]-'0')
		}
	}
	dim := None
	for _, m := range means {
		if p.o.Of != None && m.of != p.o.Of {
			continue
		}
		v, err := NewNumber(coef, m.exp-(j-i-1))
		if err != nil {
			return a, false
		}
		if dim == None {
			dim = m.of
			a.alt[0], a.n = v, 1
		} else {
			// The same letter is used on capacitors and inductors: nothing in the text decides.
			p.doubt = "the letter is used for more than one kind of part"
			p.possible = append(p.possible, Possible{Of(m.of, v), "it is an " + m.of.String()})
		}
	}
	switch {
	case dim == None && c == 'R' && p.o.Of == Inductance:
		v, err := NewNumber(coef, -6-(j-i-1))
		if err != nil {
			return a, false
		}
		p.doubt, dim = "R stands for the decimal point, and the unit is only customary", Inductance
		p.possible = []Possible{{Of(Inductance, v), "the customary µH is meant"}}
		a.alt[0], a.n = v, 1
	case dim == None:
		v, err := NewNumber(coef, means[0].exp-(j-i-1))
		if err != nil {
			return a, false
		}
		dim, a.alt[0], a.n = means[0].of, v, 1
	case p.doubt != "":
		p.possible = append([]Possible{{Of(dim, a.alt[0]), "it is a " + dim.String()}}, p.possible...)
	}
	if c == 'K' && j == i+1 {
		if v, err := NewNumber(coef, 0); err == nil {
			if v, err = v.Add(MustParseNumber("-273.15")); err == nil {
				p.possible = append(p.possible, Possible{Of(Temperature, v), "K is kelvin"})
			}
		}
	}
	a.dim, p.i = dim, j
	return a, true
}
