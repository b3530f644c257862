package measure

import "strings"

// number reads the digits of one number and says what a comma or point may have meant.
func (p *parser) number() (nums [2]Number, when [2]string, n int) {
	if v, ok := p.plainNumber(); ok {
		nums[0] = v
		return nums, when, 1
	}
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
	negative := p.s[from] == '-'
	text := p.s[body:i]
	if strings.ContainsAny(text, " '") {
		text = strings.NewReplacer(" ", "", "'", "").Replace(text)
		lastMark = body + strings.LastIndexAny(text, ".,")
	}
	p.i = i
	shift, ok := p.exponent()
	if !ok {
		return
	}
	if text == "10" && shift == 0 {
		shift = p.powerOfTen()
	}
	// read takes the digits of text with one mark as the decimal one; 0 for none.
	read := func(decimal byte) {
		var b []byte
		for k := range len(text) {
			switch c := text[k]; {
			case digit(c):
				b = append(b, c)
			case c == decimal:
				b = append(b, '.')
			}
		}
		v, _, err := scanNumber(string(b), '.')
		if err == nil {
			v, err = NewNumber(v.coef, int(v.exp)+shift)
		}
		if err != nil {
			p.fail("it has %v", err)
			n = 0
			return
		}
		if negative {
			v = v.Neg()
		}
		nums[n] = v
		n++
	}
	switch {
	case commas+points == 0:
		read(0)
	case commas == 0 && points == 1 && !(p.o.Mark == MarkComma && thousandLike(text, '.')):
		read('.')
	case commas == 1 && points == 0 && (p.o.Mark == MarkComma || !thousandLike(text, ',')):
		read(',')
	case commas+points == 1:
		mark := text[lastMark-body]
		if p.o.Mark == MarkPoint {
			read('.')
			break
		}
		read(mark)
		read(0)
		when[0], when[1] = string(mark)+" is the decimal mark", string(mark)+" groups thousands"
	case commas > 0 && points > 0 && strings.Count(text, string(text[lastMark-body])) == 1 && grouped(text[:lastMark-body]):
		read(text[lastMark-body])
	case grouped(text):
		read(0)
	default:
		p.fail("%q is no number", string([]byte(text)))
	}
	return
}

// plainNumber reads what nearly all numbers are: a sign, at most 15 digits and at most one point, with nothing after
// them that could belong to the number. It takes no memory.
func (p *parser) plainNumber() (Number, bool) {
	s, i := p.s, p.i
	neg := false
	if s[i] == '-' || s[i] == '+' {
		neg = s[i] == '-'
		i++
	}
	from := i
	var coef int64
	exp, point := 0, false
	for ; i < len(s); i++ {
		c := s[i]
		if digit(c) {
			coef = coef*10 + int64(c-'0')
			if point {
				exp--
			}
			continue
		}
		if c != '.' || point || i+1 >= len(s) || !digit(s[i+1]) {
			break
		}
		point = true
	}
	if i == from || i-from > 16 || point && p.o.Mark == MarkComma {
		return Number{}, false
	}
	if i < len(s) {
		switch s[i] {
		case ',', '.', '\'':
			if i+1 < len(s) && digit(s[i+1]) {
				return Number{}, false
			}
		case 'e', 'E', '*', '^', 0xC2, 0xC3: // an exponent: "e", "×", "·"
			return Number{}, false
		case ' ':
			if i+1 < len(s) && (digit(s[i+1]) || s[i+1] == 'x' || s[i+1] == '*' || s[i+1] == 0xC3) {
				return Number{}, false
			}
		case 'x':
			return Number{}, false
		case 0xE2: // "⁹"
			if i+2 < len(s) && s[i+1] == 0x81 {
				return Number{}, false
			}
		}
	}
	if neg {
		coef = -coef
	}
	n, err := NewNumber(coef, exp)
	if err != nil {
		return n, false
	}
	p.i = i
	return n, true
}

// exponent reads "e-7", "x10^3", "× 10³", "·10-6" after the digits; ok is false where it is out of all range.
func (p *parser) exponent() (e int, ok bool) {
	s, i := p.s, p.i
	if i >= len(s) {
		return 0, true
	}
	super := false
	if s[i] == 'e' || s[i] == 'E' {
		i++
	} else {
		for i < len(s) && s[i] == ' ' {
			i++
		}
		switch rest := s[i:]; {
		case strings.HasPrefix(rest, "x") || strings.HasPrefix(rest, "*"):
			i++
		case strings.HasPrefix(rest, "×") || strings.HasPrefix(rest, "·"):
			i += 2
		default:
			return 0, true
		}
		for i < len(s) && s[i] == ' ' {
			i++
		}
		if !strings.HasPrefix(s[i:], "10") {
			return 0, true
		}
		i += 2
		switch {
		case strings.HasPrefix(s[i:], "^") || strings.HasPrefix(s[i:], "E") || strings.HasPrefix(s[i:], "e"):
			i++
		case i < len(s) && (s[i] == '-' || s[i] == '+'):
		default:
			super = true
		}
	}
	e, end, found := power(s, i, super)
	if found { // "10 x 10 mm" is no power of ten
		p.i = end
	}
	return e, true
}

// powerOfTen reads what follows the 10 of "10^9 Ω" and "10⁹ Ω", and returns the power less the one of the 10 itself.
func (p *parser) powerOfTen() int {
	at, super := p.i, true
	if at < len(p.s) && p.s[at] == '^' {
		at, super = at+1, false
	}
	e, end, ok := power(p.s, at, super)
	if !ok {
		return 0
	}
	p.i = end
	return e - 1
}

// power reads a signed whole number, in superscript digits or in plain ones.
func power(s string, i int, super bool) (e, end int, ok bool) {
	sign := 1
	if i < len(s) && !super && (s[i] == '-' || s[i] == '+') {
		if s[i] == '-' {
			sign = -1
		}
		i++
	} else if super && strings.HasPrefix(s[i:], "⁻") {
		sign, i = -1, i+len("⁻")
	}
	digits := 0
	for i < len(s) && e < 1000 {
		if d := strings.IndexByte("0123456789", s[i]); d >= 0 && !super {
			e, i, digits = e*10+d, i+1, digits+1
			continue
		}
		if !super {
			break
		}
		hit := false
		for d, mark := range [...]string{"⁰", "¹", "²", "³", "⁴", "⁵", "⁶", "⁷", "⁸", "⁹"} {
			if strings.HasPrefix(s[i:], mark) {
				e, i, digits, hit = e*10+d, i+len(mark), digits+1, true
				break
			}
		}
		if !hit {
			break
		}
	}
	return sign * e, i, digits > 0
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

// grouped says whether marks part s into groups of three digits behind a first of at most three.
func grouped(s string) bool {
	k, run := 0, 0
	for i := 0; i <= len(s); i++ {
		if i < len(s) && s[i] != ',' && s[i] != '.' {
			run++
			continue
		}
		if k > 0 && run != 3 || run > 3 || run == 0 {
			return false
		}
		k, run = k+1, 0
	}
	return true
}
