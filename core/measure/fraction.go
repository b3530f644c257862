package measure

import "strings"

// vulgarFraction is a code point that is a fraction.
type vulgarFraction struct {
	mark        string
	over, under int64
}

var vulgarFractions = []vulgarFraction{{"½", 1, 2}, {"¼", 1, 4}, {"¾", 3, 4}, {"⅛", 1, 8}, {"⅜", 3, 8}, {"⅝", 5, 8}, {"⅞", 7, 8}, {"⅕", 1, 5}, {"⅖", 2, 5}, {"⅗", 3, 5}, {"⅘", 4, 5},
	{"⅒", 1, 10}, {"⅓", 1, 3}, {"⅔", 2, 3}, {"⅙", 1, 6}, {"⅚", 5, 6}, {"⅐", 1, 7}, {"⅑", 1, 9}}

// fractionAt returns the vulgar fraction at the start of s, or nil.
func fractionAt(s string) *vulgarFraction {
	if len(s) < 2 || (s[0] != 0xC2 || s[1] < 0xBC) && (s[0] != 0xE2 || s[1] != 0x85) {
		return nil
	}
	for i := range vulgarFractions {
		if strings.HasPrefix(s, vulgarFractions[i].mark) {
			return &vulgarFractions[i]
		}
	}
	return nil
}

func (p *parser) fractionOf(over, under int64) (Number, bool) {
	if under == 0 {
		return Number{}, p.fail("nothing is divided by zero")
	}
	q, err := Whole(over).Quo(Whole(under))
	if err != nil {
		return q, p.fail("the fraction does not come out even")
	}
	return q, true
}

// vulgarBehind adds the "½" of "1½" and "1 ½" to a whole number.
func (p *parser) vulgarBehind(num *numeral) {
	at := p.i
	for at < len(p.s) && blank(p.s[at]) {
		at++
	}
	f := fractionAt(p.s[at:])
	if f == nil {
		return
	}
	if whole, ok := num.v[0].Int64(); num.n != 1 || num.doubt != "" || !ok || whole < 0 {
		p.fail("a fraction stands behind what is no whole number")
		return
	}
	q, ok := p.fractionOf(f.over, f.under)
	if !ok {
		return
	}
	sum, err := num.v[0].Add(q)
	if err != nil {
		p.fail("it has %v", err)
		return
	}
	p.i, num.v[0], num.form = at+len(f.mark), sum, vulgar
}

// fractionBehind reads what follows a whole number in "1/8", "1 1/2" and "1-1/2". It takes nothing where that is no fraction.
func (p *parser) fractionBehind(num *numeral) {
	whole, ok := num.v[0].Int64()
	if !ok || num.n != 1 || num.doubt != "" || num.form != noFraction || num.coded {
		return
	}
	i, form := p.i, plainFraction
	over := whole
	if rest := p.s[i:]; len(rest) > 3 && (blank(rest[0]) || rest[0] == '-') && digit(rest[1]) && rest[1] != '0' {
		k := 1
		for k < len(rest) && digit(rest[k]) {
			k++
		}
		if k > 3 || k+1 >= len(rest) || rest[k] != '/' || !digit(rest[k+1]) {
			return
		}
		if form = mixedBlank; rest[0] == '-' {
			form = mixedDash
		}
		over, i = atoi(rest[1:k]), i+k
	}
	rest := p.s[i:]
	if len(rest) < 2 || rest[0] != '/' || !digit(rest[1]) || rest[1] == '0' {
		return
	}
	k := 1
	for k < len(rest) && digit(rest[k]) && k < 6 {
		k++
	}
	if k < len(rest) && (digit(rest[k]) || (rest[k] == '.' || rest[k] == ',') && k+1 < len(rest) && digit(rest[k+1])) {
		return // "3.3/1.8 V" is a list
	}
	under := atoi(rest[1:k])
	if form != plainFraction && over >= under {
		return // "2 5/3" is no mixed number
	}
	num.over, num.under, num.form, p.i = over, under, form, i+k
	if form != plainFraction {
		num.over += whole * under
	}
}

// customary says whether a fraction is written so and means only that: parts of a watt and of an inch.
func (num *fraction) customary(u unit) bool {
	inch := u.dim == Length && (u.factor == inchFactor)
	powerOfTwo := num.under&(num.under-1) == 0 && num.under <= 128
	switch num.form {
	case plainFraction:
		return u.dim == Power && (num.over == 1 || powerOfTwo && num.over%2 == 1 && num.over < num.under) && u.factor == Whole(1) || inch && powerOfTwo
	case mixedBlank, mixedDash:
		return inch && powerOfTwo
	}
	return true
}

var inchFactor = MustParseNumber("0.0254")

// asFraction turns a fraction that was read into its value, or into a doubt that names the value and what else it may be.
func (p *parser) asFraction(num *numeral, us []unit, neg bool, a *amount) bool {
	if len(us) != 1 {
		return p.fail("a fraction is read only with a unit")
	}
	u := us[0]
	q, ok := p.fractionOf(num.over, num.under)
	if neg {
		q = q.Neg()
	}
	if num.customary(u) {
		if !ok {
			return false
		}
		num.v[0], num.form = q, vulgar
		return true
	}
	p.why = ""
	if num.form != plainFraction || neg {
		return p.fail("it is a mixed number or two values")
	}
	x, e1 := u.base(Whole(num.over))
	y, e2 := u.base(Whole(num.under))
	if e1 != nil || e2 != nil {
		return p.fail("it has numbers that are too long")
	}
	p.doubt = "it is two values or a fraction"
	p.possible = append(p.possible[:0], Possible{Measure: list(u.dim, []Number{x, y}), If: "they are two values"})
	a.dim, a.n, a.alt[0] = u.dim, 1, x
	if ok {
		if q, err := u.base(q); err == nil {
			p.possible = append(p.possible, Possible{Measure: Of(u.dim, q), If: "it is a fraction"})
		}
	}
	p.settled = true
	return true
}
