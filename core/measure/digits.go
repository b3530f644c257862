package measure

import "strings"

// numeral is a number as it was written: the one or two values that its marks allow.
type numeral struct {
	v      [2]Number
	when   [2]string // what would have to be so
	n      int
	doubt  string // why even a single value is not sure
	coded  bool   // it begins with a zero as no number does: "0805"
	ohms   Number // "4E7" and "1e5" may be marking codes of resistors
	marked bool
	fraction
}

// fraction is one as it was written: what stands over and under the line.
type fraction struct {
	over, under int64
	form        fractionForm
}

// fractionForm says how a fraction was written.
type fractionForm uint8

const (
	noFraction fractionForm = iota
	plainFraction
	mixedBlank // "1 1/2"
	mixedDash  // "1-1/2"
	vulgar     // "½", "1½"
)

const blankGroups = "the blank groups thousands"

// numeral reads the digits of one number without its sign, and says what a comma, point or blank may have meant.
func (p *parser) numeral() (num numeral, ok bool) {
	if v, fine := p.plainNumber(); fine {
		num.v[0], num.n = v, 1
		return num, true
	}
	from := p.i
	if f := fractionAt(p.s[p.i:]); f != nil {
		p.i += len(f.mark)
		num.v[0], ok = p.fractionOf(f.over, f.under)
		num.n, num.form = 1, vulgar
		return num, ok
	}
	d := p.digits()
	if d.len == 0 {
		return num, false
	}
	text := p.s[from : from+d.len]
	if d.grouping != 0 {
		if d.grouping == ' ' && !p.o.Groups && !surelyGrouped(text) {
			num.doubt = "the blank between its digits may group thousands or part two numbers"
		}
		text = strings.ReplaceAll(text, string(d.grouping), "")
	}
	p.i = from + d.len
	shift, exponent := p.exponent(&num, text)
	if p.why != "" {
		return num, false
	}
	if text == "10" && !exponent {
		shift = p.powerOfTen()
	}
	if len(text) > 1 && text[0] == '0' && text[1] != '.' && text[1] != ',' && d.grouping == 0 {
		num.coded = true
	}
	read := func(decimal byte, when string) {
		if num.n == len(num.v) || p.why != "" {
			return
		}
		v, err := number(text, decimal)
		if err == nil {
			v, err = NewNumber(v.coef, int(v.exp)+shift)
		}
		if err != nil {
			p.fail("it has %v", err)
			return
		}
		num.v[num.n], num.when[num.n] = v, when
		num.n++
	}
	if !p.marked(&num, text, d, read) {
		return num, false
	}
	if num.n > 0 && num.doubt != "" && num.when[0] == "" {
		num.when[0] = blankGroups
	}
	if p.why == "" && !exponent {
		p.vulgarBehind(&num)
	}
	return num, p.why == ""
}

// written is how the digits of a number stand.
type written struct {
	len            int // in bytes
	commas, points int
	grouping       byte // the blank or apostrophe that groups thousands; 0 where none does
}

// digits looks how far the digits of a number go from here, with the marks and blanks between them.
func (p *parser) digits() (d written) {
	from := p.i
	for i := from; i < len(p.s); i++ {
		switch c := p.s[i]; {
		case digit(c):
		case c == ' ' || c == hard || c == '\'':
			groups := groupsFrom(p.s[from:], i-from, c) > 0
			if d.grouping == 0 && groups {
				d.grouping = c
			}
			if d.grouping != c || !groups {
				return d
			}
		case c == '.' || c == ',':
			if i+1 >= len(p.s) || !digit(p.s[i+1]) || c == ',' && i == from {
				return d
			}
			if c == ',' {
				d.commas++
			} else {
				d.points++
			}
		default:
			return d
		}
		d.len = i + 1 - from
	}
	return d
}

// marked reads text, which has no blanks any more, by what its commas and points can be: read is called with the decimal mark, 0 for
// none, for each way, with what would have to be so. It is false where it is no number.
func (p *parser) marked(num *numeral, text string, d written, read func(decimal byte, when string)) bool {
	mark, last := byte(0), strings.LastIndexAny(text, ".,")
	if last >= 0 {
		mark = text[last]
	}
	known := map[Mark]byte{MarkPoint: '.', MarkComma: ','}[p.o.Mark]
	switch {
	case d.commas+d.points == 0:
		read(0, "")
	case d.commas+d.points == 1 && thousandLike(text, mark):
		switch {
		case known == mark && mark == ',', known == '.' && mark == '.', known == 0 && mark == '.':
			read(mark, "")
		case known == '.' && mark == ',':
			read(0, "")
		default:
			read(mark, string(mark)+" is the decimal mark")
			read(0, string(mark)+" groups thousands")
		}
	case d.commas+d.points == 1:
		read(mark, "")
		if known == '.' && mark == ',' {
			num.doubt, num.when[0] = "the file writes decimals with a point, and this has a comma", ", is the decimal mark"
		}
	case d.commas > 0 && d.points > 0 && strings.Count(text, string(mark)) == 1 && grouped(text[:last], other(mark)):
		read(mark, "")
	case (d.commas == 0 || d.points == 0) && grouped(text, mark):
		read(0, "")
	default:
		return p.fail("%q is no number", string([]byte(text)))
	}
	return true
}

func other(mark byte) byte {
	if mark == '.' {
		return ','
	}
	return '.'
}

// number takes the digits of text with one mark as the decimal one; 0 for none.
func number(text string, decimal byte) (Number, error) {
	var b [64]byte
	out := b[:0]
	for k := range len(text) {
		switch c := text[k]; {
		case digit(c):
			out = append(out, c)
		case c == decimal:
			out = append(out, '.')
		}
	}
	v, _, err := scanNumber(string(out), '.')
	return v, err
}

// plainNumber reads what nearly all numbers are: at most 16 digits and at most one point, with nothing after them that
// could belong to the number. It takes no memory.
func (p *parser) plainNumber() (Number, bool) {
	s, i := p.s, p.i
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
	if s[from] == '0' && i > from+1 && s[from+1] != '.' {
		return Number{}, false // a code, or something that only looks like a number
	}
	if i < len(s) {
		switch s[i] {
		case ',', '.', '\'', hard:
			if i+1 < len(s) && digit(s[i+1]) {
				return Number{}, false
			}
		case 'e', 'E', '*', '^', 0xC2, 0xC3: // an exponent: "e", "×", "·"; a superscript; a vulgar fraction
			return Number{}, false
		case ' ':
			if i+1 < len(s) && (digit(s[i+1]) || s[i+1] == 'x' || s[i+1] == '*' || s[i+1] >= 0x80) {
				return Number{}, false
			}
		case 'x':
			return Number{}, false
		case 0xE2: // "⁹", "⅛"
			if i+2 < len(s) && (s[i+1] == 0x81 || s[i+1] == 0x85) {
				return Number{}, false
			}
		}
	}
	n, err := NewNumber(coef, exp)
	if err != nil {
		return n, false
	}
	p.i = i
	return n, true
}

// exponent reads "e-7", "x10^3", "× 10³" after the digits of text. A plain letter between whole numbers, "4E7", may
// be a marking code, of which num takes note.
func (p *parser) exponent(num *numeral, text string) (e int, found bool) {
	s, i := p.s, p.i
	if i >= len(s) {
		return 0, false
	}
	if s[i] == 'e' || s[i] == 'E' {
		e, end, ok := power(s, i+1, false)
		if !ok || end < len(s) && (s[end] == '.' || s[end] == ',') && end+1 < len(s) && digit(s[end+1]) {
			return 0, false
		}
		if digit(s[i+1]) && !strings.ContainsAny(text, ".,") {
			if v, err := NewNumber(atoi(text+s[i+1:end]), -(end - i - 1)); err == nil && len(text)+end-i < 12 {
				num.ohms, num.marked = v, true
			}
		}
		p.i = end
		return e, true
	}
	for i < len(s) && blank(s[i]) {
		i++
	}
	switch rest := s[i:]; {
	case strings.HasPrefix(rest, "x") || strings.HasPrefix(rest, "*"):
		i++
	case strings.HasPrefix(rest, "×") || strings.HasPrefix(rest, "·"):
		i += 2
	default:
		return 0, false
	}
	for i < len(s) && blank(s[i]) {
		i++
	}
	if !strings.HasPrefix(s[i:], "10") {
		return 0, false
	}
	i += 2
	super := true
	if i < len(s) && s[i] == '^' {
		i, super = i+1, false
	}
	e, end, ok := power(s, i, super)
	if !ok { // "10 x 10 mm" is no power of ten
		return 0, false
	}
	p.i = end
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
		if !super {
			if !digit(s[i]) {
				break
			}
			e, i, digits = e*10+int(s[i]-'0'), i+1, digits+1
			continue
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

// groupsFrom says whether the mark at s[i] parts groups of thousands: one to three digits stand before the first, no
// zero first, three and no more after each, and no decimal mark came before.
func groupsFrom(s string, i int, mark byte) int {
	if i == 0 || i+3 >= len(s) || strings.ContainsAny(s[:i], ".,") {
		return 0
	}
	first := strings.IndexByte(s[:i+1], mark)
	if first < 1 || first > 3 || s[0] == '0' || (i-first)%4 != 0 {
		return 0
	}
	if !digit(s[i+1]) || !digit(s[i+2]) || !digit(s[i+3]) || i+4 < len(s) && digit(s[i+4]) {
		return 0
	}
	return 1
}

// surelyGrouped says whether blanks can only group thousands: two groups or more behind the first, one of them 000.
func surelyGrouped(text string) bool {
	groups := strings.Split(strings.SplitN(strings.SplitN(text, ".", 2)[0], ",", 2)[0], " ")
	return len(groups) > 2 && strings.Contains(text, " 000")
}

// thousandLike says whether a single mark could be a thousands separator: "1,000", but not "0,100" or "4,7".
func thousandLike(s string, mark byte) bool {
	k := strings.IndexByte(s, mark)
	return k > 0 && k <= 3 && len(s)-k == 4 && s[0] != '0'
}

// grouped says whether a mark parts s into groups of three digits behind a first of at most three that is not zero.
func grouped(s string, mark byte) bool {
	for k, group := range strings.Split(s, string(mark)) {
		if k > 0 && len(group) != 3 || len(group) == 0 || len(group) > 3 || k == 0 && group[0] == '0' || strings.Trim(group, "0123456789") != "" {
			return false
		}
	}
	return true
}

func atoi(s string) (n int64) {
	for i := range len(s) {
		n = n*10 + int64(s[i]-'0')
	}
	return n
}
