package measure

import "strings"

// maxClauses bounds how many values one text may list.
const maxClauses = 24

var listWords = []string{",", ";", "/", "|", "&", "or", "and"}

// several reads the further clauses of a text, and makes one value of them all: a list, several ranges, or a minimum,
// what is typical and a maximum. What it cannot join is left over.
func (p *parser) several(first clause) (Measure, bool) {
	all := append(make([]clause, 0, 4), first)
	for !p.end() && p.order == nil {
		at := p.i
		if len(all) == maxClauses {
			return first.m, p.fail("it lists more than %d values", maxClauses)
		}
		parted := p.takeAny(listWords, AsSeparator)
		if !parted && !p.limited(&all[len(all)-1]) {
			return first.m, p.leftOver(at)
		}
		if p.end() {
			return first.m, p.fail("it ends with a mark that parts values")
		}
		var next clause
		p.space()
		if c := p.peek(); !parted && (digit(c) || c == '-' || c == '+') && all[len(all)-1].m.Shape == Nominal && all[len(all)-1].m.Note != "typ" {
			return first.m, p.leftOver(at)
		}
		begin := p.i
		if !p.clause(&next) || p.settled {
			if p.order == nil {
				p.why = ""
				return first.m, p.leftOver(begin)
			}
			break
		}
		all = append(all, next)
	}
	if p.why != "" {
		return first.m, false
	}
	if p.slashed(all) {
		return first.m, p.fail("it is a fraction or several values")
	}
	if !p.shareUnits(all) {
		return first.m, p.fail("one of its values has no unit")
	}
	for i := range all {
		if all[i].a.dim != all[0].a.dim {
			return first.m, p.fail("it holds values of different kinds: %s and %s", all[0].a.dim, all[i].a.dim)
		}
	}
	for i := range all {
		if c := &all[i]; c.a.n > 1 || c.b.n > 1 || p.doubt != "" {
			if p.doubt == "" || len(p.possible) > 0 {
				p.doubt, p.possible = "its values can be read in more than one way", nil
			}
			return first.m, true
		}
	}
	return p.combined(all)
}

// slashed says whether a slash parts numbers where people write fractions, or numbers with signs: those are no list.
func (p *parser) slashed(all []clause) bool {
	last := &all[len(all)-1].a
	slash, signed := false, false
	for _, piece := range p.pieces[:p.n] {
		slash = slash || piece.As == AsSeparator && p.s[piece.From] == '/'
		signed = signed || piece.As == AsSign
	}
	return slash && (signed || all[0].a.bare && (last.dim == Length || last.dim == Power)) || signed && last.dim == Ratio
}

func (p *parser) leftOver(from int) bool {
	for from < len(p.s) && blank(p.s[from]) {
		from++
	}
	return p.fail("%q is left over at character %d", string([]byte(p.s[from:])), from+1)
}

// limited says whether the next clause may follow without a mark between: both carry a limit of their own.
func (p *parser) limited(before *clause) bool {
	if before.m.Shape == Nominal && before.m.Note != "typ" {
		return false
	}
	at, n := p.i, p.n
	var m Measure
	ok := p.limitBefore(&m)
	p.i, p.n = at, n
	return ok || digit(p.peek())
}

// shareUnits gives each value that was written without a unit the one behind a later value.
func (p *parser) shareUnits(all []clause) bool {
	var amounts []*amount
	for i := range all {
		amounts = append(amounts, &all[i].a)
		if all[i].b.n > 0 {
			amounts = append(amounts, &all[i].b)
		}
	}
	p.assume(amounts...)
	for i := len(amounts) - 2; i >= 0; i-- {
		if amounts[i].bare && !amounts[i+1].bare && !p.retake(amounts[i], amounts[i+1]) {
			return false
		}
	}
	for i := range all {
		c := &all[i]
		if c.a.bare || c.b.bare {
			return false
		}
		if c.m.Shape == Sizes {
			return p.fail("it lists the sizes of several bodies")
		}
		c.m.Of, c.m.Note = c.a.dim, join(c.a.note, c.m.Note)
		c.m = withLetter(c.m.with(c.a.alt[0], c.b.alt[0]), c.a.letter)
	}
	return true
}

// combined makes one measure of several.
func (p *parser) combined(all []clause) (Measure, bool) {
	m, ok := p.joined(all)
	if !ok {
		return m, false
	}
	if p.doubt == "" {
		p.check(&m, &all[0].a)
	}
	return m, true
}

func (p *parser) joined(all []clause) (Measure, bool) {
	first := all[0].m
	if p.order != nil {
		if len(p.order) != len(all) {
			return first, p.fail("it names %d limits for %d values", len(p.order), len(all))
		}
		for i := range all {
			if all[i].m.Shape != Nominal || all[i].m.Tol != NoTol || all[i].m.Note != "" {
				return first, p.fail("its values carry limits of their own")
			}
			if all[i].m.Shape = p.order[i]; p.order[i] == Nominal {
				all[i].m.Note = "typ"
			}
			all[i].m = all[i].m.with(all[i].a.alt[0], all[i].a.alt[0])
			if p.order[i] == AtLeast {
				all[i].m.High = Number{}
			} else if p.order[i] == AtMost {
				all[i].m.Low = Number{}
			}
		}
	}
	cond := all[len(all)-1].m.Cond
	same, plain, span, tol := true, true, true, false
	for i := range all {
		m := &all[i].m
		same = same && m.Note == all[0].m.Note
		plain = plain && m.Shape == Nominal && m.Note != "typ"
		span = span && m.Shape == Range
		tol = tol || m.Tol != NoTol
		if i < len(all)-1 && m.Cond != "" && m.Cond != cond || plain && m.Cond != cond || span && m.Cond != cond {
			return p.underConditions(all)
		}
	}
	switch {
	case tol:
		return first, p.fail("it lists values with a tolerance each")
	case plain && same:
		values := make([]Number, len(all))
		for i := range all {
			values[i] = all[i].a.alt[0]
		}
		m := list(first.Of, values)
		m.Note, m.Cond = first.Note, cond
		return m, true
	case span && same:
		ends := make([]Number, 0, 2*len(all))
		for i := range all {
			ends = append(ends, all[i].m.Low, all[i].m.High)
		}
		m := ranges(first.Of, ends)
		m.Note, m.Cond = first.Note, cond
		return m, true
	case plain || span:
		return p.underConditions(all) // "250 VAC, 30 VDC"
	}
	return p.limits(all, cond)
}

// underConditions doubts values that hold under different conditions, and names each.
func (p *parser) underConditions(all []clause) (Measure, bool) {
	p.doubt, p.possible = "it gives several values, each under its own condition", nil
	for i := range all {
		m := all[i].m
		if p.o.Of != None && m.Of != p.o.Of {
			continue
		}
		when := m.Cond
		if when == "" {
			when = m.Note
		}
		if when == "" {
			when = "nothing said"
		}
		p.possible = append(p.possible, Possible{Measure: m, If: "the value at " + when + " is meant"})
	}
	return all[0].m, true
}

// limits joins a minimum, what is typical and a maximum.
func (p *parser) limits(all []clause, cond string) (Measure, bool) {
	out := Measure{Of: all[0].m.Of, Cond: cond}
	low, high := false, false
	for i := range all {
		m := all[i].m
		note := m.Note
		twice := false
		switch m.Shape {
		case Nominal:
			if note != "typ" && note != "nominal" {
				return out, p.fail("it gives a value and limits beside it")
			}
			twice, note = out.HasTyp, ""
			out.Typ, out.HasTyp = m.High, true
		case AtLeast:
			twice, low, out.Low = low, true, m.Low
		case AtMost:
			twice, high, out.High = high, true, m.High
		case Range:
			twice, low, high, out.Low, out.High = low || high, true, true, m.Low, m.High
		default:
			return out, p.fail("its limits do not go together")
		}
		if twice {
			return out, p.fail("it gives the same limit twice")
		}
		out.Note = join(out.Note, note)
	}
	switch {
	case low && high:
		out.Shape = Range
	case high:
		out.Shape = AtMost
	case low:
		out.Shape = AtLeast
	}
	if low && high && out.Low.Cmp(out.High) > 0 || out.HasTyp && (low && out.Typ.Cmp(out.Low) < 0 || high && out.Typ.Cmp(out.High) > 0) {
		p.doubt = "its minimum, typical and maximum are out of order"
		return out, true
	}
	return out, true
}

// limitOrder reads "min/typ/max" inside parentheses.
func limitOrder(text string) (order []Shape) {
	for _, w := range strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return strings.ContainsRune(" /,;.-", r) || r == hard }) {
		switch w {
		case "min", "minimum":
			order = append(order, AtLeast)
		case "typ", "typical", "nom", "nominal":
			order = append(order, Nominal)
		case "max", "maximum":
			order = append(order, AtMost)
		default:
			return nil
		}
	}
	if len(order) < 2 {
		return nil
	}
	return order
}
