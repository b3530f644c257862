package bom

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

// maxOptions bounds how many records a line proposes.
const maxOptions = 10

// match looks for the record of a line: by the identities that it names, each with the part it leads to, and by its
// facts where it names none. It links where one identity is exact, no other disagrees, nothing contradicts and nothing
// in an identity or fact column was left without sense.
func (m *matcher) match(v *Verdict) {
	l := *v.Line
	v.Kind = Missing
	var found []*lookup.Entry
	add := func(es []*lookup.Entry) {
		for _, e := range es {
			if !slices.ContainsFunc(found, func(o *lookup.Entry) bool { return o.ID == e.ID }) {
				found = append(found, e)
			}
		}
	}
	numbered := m.byNumber(v)
	add(numbered)
	maked := m.byMPN(v)
	add(maked)
	sold := m.bySupplierNumber(v)
	add(sold)
	if len(found) == 0 && l.MPN == "" {
		add(m.insideText(v))
	}
	place := ""
	if len(found) == 0 && l.MPN == "" && l.Amount == (Amount{}) { // what is measured off is no part of a drawer that its words happen to fit
		if m.byFacts(v); v.Kind == Missing {
			found, place = m.misplaced(v)
		}
	}
	if len(found) == 0 {
		if v.Part == nil {
			v.Tally = m.without(l)
		}
		return
	}
	ranked := m.rank(l, found)
	best := ranked[0]
	v.Tally = best.tally
	for i := range v.Tally {
		if b := &v.Tally[i]; place != "" && b.Column == place && b.Says == Unused {
			b.Says, b.Why = Agrees, "a number of the record, whatever its heading says"
		}
	}
	exact := m.exact(l, best.entry, numbered, maked, sold)
	clear := best.against == 0 && best.unclear == 0
	switch {
	case len(found) == 1 && exact && clear && m.letterFits(l, best):
		v.Kind, v.Part = Linked, best.entry
	case len(found) == 1:
		v.Kind, v.Part = Proposed, best.entry
	case best.against == 0 && ranked[1].against > 0: // another identity of the line leads elsewhere
		v.Kind, v.Part, v.Options = Proposed, best.entry, entries(ranked[1:])
	case len(numbered) == 1 && len(found) == 2 && len(maked) == 1: // each contradicts the other: the house's own number goes first
		own := slices.IndexFunc(ranked, func(c candidate) bool { return c.entry.ID == numbered[0].ID })
		v.Kind, v.Part, v.Tally, v.Options = Proposed, ranked[own].entry, ranked[own].tally, entries(ranked[1-own:2-own])
	default:
		v.Kind, v.Options = Several, entries(ranked)
		v.because("%d parts may be meant", len(found))
	}
	if v.Part != nil && v.Line.Number != "" && len(numbered) > 0 && !strings.EqualFold(v.Part.Number, strings.TrimSpace(l.Number)) && part.NormaliseMPN(v.Part.Number) != part.NormaliseMPN(l.Number) && v.Part.ID == numbered[0].ID {
		v.because("it is a former number of %s", v.Part.Number)
		v.behind(l.Number, v.Part.Number)
	}
}

// byNumber finds the parts whose own or former number the line names.
func (m *matcher) byNumber(v *Verdict) []*lookup.Entry {
	n := v.Line.Number
	if n == "" {
		return nil
	}
	es := m.lib.ByNumberLike(n)
	if len(es) > 1 { // written just as one of them has it
		same := slices.DeleteFunc(slices.Clone(es), func(e *lookup.Entry) bool { return !hasNumber(e, n) })
		if len(same) == 1 {
			es = same
		}
	}
	switch len(es) {
	case 0:
		v.because("no part has the number %s", n)
		v.say(finding.Warning, "number-unknown", fmt.Sprintf("the part number %s is not in the library", n), "correct it, or add the part")
	case 1:
		v.because("the part number %s is in the library", n)
	default:
		v.because("%d parts have the number %s but for its punctuation", len(es), n)
	}
	return es
}

// hasNumber says whether a part has, or had, a number just so but for capitals.
func hasNumber(e *lookup.Entry, n string) bool {
	n = strings.TrimSpace(n)
	return strings.EqualFold(e.Number, n) || slices.ContainsFunc(e.Former, func(f string) bool { return strings.EqualFold(f, n) })
}

// byMPN finds the parts that are bought under the line's MPN: as written, normalised, and with the ending for a packing
// left off, which proposes only. The maker decides between several.
func (m *matcher) byMPN(v *Verdict) []*lookup.Entry {
	mpn := v.Line.MPN
	if mpn == "" {
		return nil
	}
	es := m.lib.ByMPN(mpn)
	if len(es) == 0 {
		if es = m.withoutEnding(mpn); len(es) > 0 {
			v.because("no part has the MPN %s; without its ending it is in the library as %s", mpn, mpns(es[0]))
		} else {
			v.because("no part has the MPN %s", mpn)
		}
		return es
	}
	if len(es) > 1 && v.Line.Manufacturer != "" {
		if same := slices.DeleteFunc(slices.Clone(es), func(e *lookup.Entry) bool { return !madeBy(e, mpn, v.Line.Manufacturer) }); len(same) == 1 {
			v.because("the MPN %s of %s is in the library", mpn, v.Line.Manufacturer)
			return same
		}
	}
	v.because("the MPN %s is in the library", mpn)
	if as := spelling(es[0], mpn); len(es) == 1 && as != mpn {
		v.because("written there as %s", as)
	}
	return es
}

func mpns(e *lookup.Entry) string {
	var all []string
	for _, s := range e.Sources {
		all = append(all, s.MPN)
	}
	if len(all) == 0 {
		return "none"
	}
	return strings.Join(all, ", ")
}

func madeBy(e *lookup.Entry, mpn, maker string) bool {
	key, who := part.NormaliseMPN(mpn), part.NormaliseMaker(maker)
	return slices.ContainsFunc(e.Sources, func(s part.Source) bool {
		return part.NormaliseMPN(s.MPN) == key && part.NormaliseMaker(s.Manufacturer) == who
	})
}

func (m *matcher) bySupplierNumber(v *Verdict) []*lookup.Entry {
	n := v.Line.SupplierNumber
	if n == "" {
		return nil
	}
	es := m.lib.BySupplierNumber(n)
	if len(es) > 0 {
		v.because("a supplier sells it under %s", n)
	}
	return es
}

// insideText finds an MPN or own number that stands in the value or the description; such a find is a proposal.
func (m *matcher) insideText(v *Verdict) []*lookup.Entry {
	for _, cell := range []struct{ what, text string }{{"value", v.Line.Value}, {"description", v.Line.Description}} {
		words := append([]string{cell.text}, strings.FieldsFunc(cell.text, func(r rune) bool { return r == ' ' || r == ',' || r == ';' || r == '(' || r == ')' })...)
		for _, w := range words {
			if !m.namesPart(w) {
				continue
			}
			if es := m.lib.ByMPN(w); len(es) > 0 {
				v.because("%s, in the %s, is an MPN in the library", w, cell.what)
				return es
			}
			if m.own(w) {
				if es := m.lib.ByNumberLike(w); len(es) > 0 {
					v.because("%s, in the %s, is a part number in the library", w, cell.what)
					return es
				}
			}
		}
	}
	return nil
}

// misplaced finds an MPN that fills a cell of a column for numbers of another kind, or of one whose heading says nothing. Such a find
// is a proposal, and only where nothing else is and nothing contradicts: it is said which column it stands in, so that somebody can say what the column is.
func (m *matcher) misplaced(v *Verdict) (found []*lookup.Entry, column string) {
	for _, c := range m.known.Columns {
		if c.At >= len(v.Line.Cells) || c.Role != "" && c.Role != Number && c.Role != SupplierNumber {
			continue
		}
		w := strings.TrimSpace(v.Line.Cells[c.At])
		if !m.namesPart(w) || !m.mpnIsName(w) {
			continue
		}
		if es := m.fitting(*v.Line, m.lib.ByMPN(w)); len(es) > 0 {
			v.because("%s, in the column %s, is an MPN in the library", w, c.Heading)
			return es, c.Heading
		}
		if c.Role != "" {
			continue
		}
		if es := m.fitting(*v.Line, m.lib.BySupplierNumber(w)); len(es) > 0 {
			v.because("%s, in the column %s, is what a supplier sells it under", w, c.Heading)
			return es, c.Heading
		}
	}
	return nil, ""
}

// fitting leaves of some parts those that nothing of the line contradicts.
func (m *matcher) fitting(l Line, es []*lookup.Entry) []*lookup.Entry {
	return slices.DeleteFunc(slices.Clone(es), func(e *lookup.Entry) bool { return m.candidate(l, e).against > 0 })
}

// namesPart says whether a word can be an MPN: it is no value, case code or plain number.
func (m *matcher) namesPart(w string) bool {
	if len(w) < 4 || len(w) > 60 || strings.Trim(w, "0123456789") == "" {
		return false
	}
	if _, _, is := measure.ReadCase(w); is {
		return false
	}
	r := m.judge.parse(w, measure.None, "")
	return r.Outcome == measure.Unreadable
}

// exact says whether one of the identities that lead to a part is sure enough to link by itself.
func (m *matcher) exact(l Line, e *lookup.Entry, numbered, maked, sold []*lookup.Entry) bool {
	one := func(es []*lookup.Entry) bool { return len(es) == 1 && es[0].ID == e.ID }
	if one(numbered) && (m.own(l.Number) || m.known.Confirmed) {
		return true
	}
	if one(maked) && spelling(e, l.MPN) != "" && m.mpnIsName(l.MPN) {
		if l.Manufacturer != "" {
			return madeBy(e, l.MPN, l.Manufacturer)
		}
		return oneMaker(e, l.MPN)
	}
	if _, ok := m.packed(l, e); ok && one(maked) && m.mpnIsName(l.MPN) && len(m.lib.ByMPN(l.MPN)) == 0 {
		return true
	}
	if one(sold) && l.Supplier != "" {
		for _, s := range e.Sources {
			for _, n := range s.Numbers {
				if part.NormaliseMPN(n.Number) == part.NormaliseMPN(l.SupplierNumber) && part.NormaliseMaker(n.Supplier) == part.NormaliseMaker(l.Supplier) {
					return true
				}
			}
		}
	}
	return false
}

// mpnIsName says whether an MPN can be nothing else: no value, case code or plain digits.
func (m *matcher) mpnIsName(mpn string) bool {
	s := strings.TrimSpace(mpn)
	if strings.Trim(s, "0123456789") == "" {
		return false
	}
	if _, _, is := measure.ReadCase(s); is {
		return false
	}
	r := m.judge.parse(s, measure.None, "")
	return r.Outcome == measure.Unreadable
}

func oneMaker(e *lookup.Entry, mpn string) bool {
	makers := map[string]bool{}
	for _, s := range e.Sources {
		if part.NormaliseMPN(s.MPN) == part.NormaliseMPN(mpn) {
			makers[part.NormaliseMaker(s.Manufacturer)] = true
		}
	}
	return len(makers) == 1
}

// candidate is a record with the line laid beside it.
type candidate struct {
	entry                    *lookup.Entry
	tally                    []Beside
	agree, against, unclear  int
	leads                    bool // the value agrees with the leading parameter
	factsAgree, letterAgrees bool
	passed                   bool // a word of the line is passed over
}

func entries(list []candidate) (out []*lookup.Entry) {
	for _, c := range list[:min(len(list), maxOptions)] {
		out = append(out, c.entry)
	}
	return out
}

// rank lays a line beside records and orders them: what contradicts least, agrees most, may be used, is released.
func (m *matcher) rank(l Line, es []*lookup.Entry) []candidate {
	out := make([]candidate, len(es))
	for i, e := range es {
		out[i] = m.candidate(l, e)
	}
	slices.SortStableFunc(out, func(a, b candidate) int {
		return cmp.Or(cmp.Compare(a.against, b.against), -yes(a.leads, b.leads), cmp.Compare(b.agree, a.agree), cmp.Compare(usable(a.entry), usable(b.entry)),
			cmp.Compare(min(b.entry.Revision, 1), min(a.entry.Revision, 1)), cmp.Compare(a.entry.Number, b.entry.Number))
	})
	return out
}

// yes is 1 where only a holds, and -1 where only b does.
func yes(a, b bool) int {
	switch {
	case a == b:
		return 0
	case a:
		return 1
	}
	return -1
}

// usable is 0 where a part may be used, more where it may only with caution, and most where it may not.
func usable(e *lookup.Entry) int {
	return max(0, slices.Index([]lifecycle.Use{lifecycle.UseYes, lifecycle.UseCaution, lifecycle.UseNo}, e.Use))
}

func (m *matcher) candidate(l Line, e *lookup.Entry) candidate {
	c := candidate{entry: e, tally: m.tally(l, e)}
	t, known := m.cab.Template(e.Drawer)
	value := m.read.heading(Value)
	for _, b := range c.tally {
		switch b.Says {
		case Agrees:
			c.agree++
			c.leads = c.leads || known && b.Param == t.Leading && b.Column == value
			c.factsAgree = c.factsAgree || b.Param != "mpn" && b.Param != "number" && b.Param != "manufacturer" && b.Param != "supplierNumber"
		case Contradicts:
			c.against++
		case NotUnderstood:
			c.unclear++
		case Unused:
			c.passed = c.passed || b.Why == forPeople
		}
	}
	if known {
		c.letterAgrees = m.lettersOf(l, t)
		if s, ok := t.Slot(t.Leading); ok && s.Type != cabinet.Measure {
			c.leads = l.Value != "" && sameText(l.Value, e.Value(t.Leading))
		}
	}
	return c
}

// sameText says whether a cell names a text or choice of a record, all of it.
func sameText(cell string, v cabinet.Value) bool {
	return !v.IsBlank() && alias(strings.Join(strings.Fields(cell), " ")) == alias(v.String())
}

// lettersOf says whether the designators do not speak against a drawer: they begin with its letter, or with one that no
// drawer has.
func (m *matcher) lettersOf(l Line, t *cabinet.Template) bool {
	for _, letter := range l.Letters() {
		if !strings.EqualFold(letter, t.Designator) && t.Designator != "" && len(m.letters[letter]) > 0 {
			return false
		}
	}
	return true
}

// letterFits says whether the designators let a line be linked: letters that speak against the drawer count, unless an
// MPN leads there and the line's value is the record's too.
func (m *matcher) letterFits(l Line, c candidate) bool {
	return c.letterAgrees || l.MPN != "" && c.leads
}

// tally lays every cell of a line beside a record.
func (m *matcher) tally(l Line, e *lookup.Entry) (out []Beside) {
	out = m.identities(l, e)
	t, ok := m.cab.Template(e.Drawer)
	if !ok {
		return out
	}
	whole := l.Value != "" && sameText(l.Value, e.Value(t.Leading)) // the record says all of the cell, word for word
	if whole {
		out = append(out, Beside{Column: m.read.heading(Value), To: len(l.Value), Text: l.Value, Says: Agrees, Param: t.Leading, Record: e.Value(t.Leading).String()})
	}
	for _, f := range m.read.facts(l) {
		if !whole || f.role != Value {
			out = append(out, m.judge.beside(f, e, t))
		}
	}
	if !m.lettersOf(l, t) {
		out = append(out, Beside{Column: m.read.heading(Designator), To: len(l.Written), Text: strings.Join(l.Letters(), ", "), Says: Unused, Param: "drawer", Record: t.Designator,
			Why: fmt.Sprintf("parts of %s begin with %s", t.Label, t.Designator)})
	}
	return append(out, m.leftOut(l)...)
}

// identities lays what names a part beside a record's own names.
func (m *matcher) identities(l Line, e *lookup.Entry) (out []Beside) {
	put := func(role Role, text, record string, says Says, why string) {
		out = append(out, Beside{Column: m.read.heading(role), To: len(text), Text: text, Says: says, Param: string(role), Record: record, Why: why})
	}
	if l.Number != "" {
		switch key := part.NormaliseMPN(l.Number); {
		case part.NormaliseMPN(e.Number) == key, slices.ContainsFunc(e.Former, func(f string) bool { return part.NormaliseMPN(f) == key }):
			put(Number, l.Number, e.Number, Agrees, "")
		case len(m.lib.ByNumberLike(l.Number)) > 0:
			put(Number, l.Number, e.Number, Contradicts, "it is the number of another part")
		default:
			put(Number, l.Number, e.Number, NotUnderstood, "no part has it")
		}
	}
	if l.MPN != "" {
		switch {
		case len(e.Sources) == 0:
			put(MPN, l.MPN, "", Silent, "")
		case slices.ContainsFunc(e.Sources, func(s part.Source) bool { return part.NormaliseMPN(s.MPN) == part.NormaliseMPN(l.MPN) }):
			put(MPN, l.MPN, spelling(e, l.MPN), Agrees, "")
		case len(m.lib.ByMPN(l.MPN)) == 0 && len(endings(e, l.MPN)) > 0:
			more := endings(e, l.MPN)[0].Letters
			if who, ok := m.packed(l, e); ok {
				put(MPN, l.MPN, mpns(e), Agrees, more+" names a packing, as "+who+" confirmed")
			} else {
				put(MPN, l.MPN, mpns(e), NotUnderstood, "the same but for "+more)
			}
		default:
			put(MPN, l.MPN, mpns(e), Contradicts, "")
		}
	}
	if l.Manufacturer != "" && len(e.Sources) > 0 {
		var makers []string
		same := false
		for _, s := range e.Sources {
			if l.MPN != "" && part.NormaliseMPN(s.MPN) != part.NormaliseMPN(l.MPN) && sells(e, l.MPN) {
				continue
			}
			makers = append(makers, s.Manufacturer)
			same = same || part.NormaliseMaker(s.Manufacturer) == part.NormaliseMaker(l.Manufacturer)
		}
		says := Contradicts
		if same {
			says = Agrees
		}
		put(Manufacturer, l.Manufacturer, strings.Join(makers, ", "), says, "")
	}
	if l.SupplierNumber != "" {
		has := func(o *lookup.Entry) bool { return o.ID == e.ID }
		switch es := m.lib.BySupplierNumber(l.SupplierNumber); {
		case slices.ContainsFunc(es, has):
			put(SupplierNumber, l.SupplierNumber, l.SupplierNumber, Agrees, "")
		case len(es) > 0:
			put(SupplierNumber, l.SupplierNumber, es[0].Number, Contradicts, "it is sold as another part")
		default:
			put(SupplierNumber, l.SupplierNumber, "", Silent, "")
		}
	}
	return out
}

// leftOut names the cells that are no evidence.
func (m *matcher) leftOut(l Line) (out []Beside) {
	for _, c := range m.known.Columns {
		if c.At >= len(l.Cells) || strings.TrimSpace(l.Cells[c.At]) == "" || c.Role == Designator || c.Role == Quantity || c.Role == Fit {
			continue
		}
		if c.Role == "" || c.Role == Remark || c.Role == Supplier {
			text := strings.TrimSpace(l.Cells[c.At])
			out = append(out, Beside{Column: c.Heading, To: len(text), Text: text, Says: Unused, Why: c.Because})
		}
	}
	return out
}

// without lists what the pieces of a line were taken for where no record is laid beside it.
func (m *matcher) without(l Line) (out []Beside) {
	words := false // whether the last piece is words
	for _, f := range m.read.facts(l) {
		if n := len(out) - 1; words && f.word && f.skip == "" && f.param == "" && out[n].Column == f.column && out[n].To+1 == f.from { // a sentence is one piece
			out[n].To, out[n].Text = f.to, out[n].Text+" "+f.text
			continue
		}
		words = f.word && f.skip == "" && f.param == ""
		b := Beside{Column: f.column, From: f.from, To: f.to, Text: f.text, Says: Silent, Why: "there is no record to compare it with", Param: f.param}
		if f.skip != "" {
			b.Says, b.Why = Unused, f.skip
		} else if f.param == unknownName {
			b.Says, b.Param, b.Why = NotUnderstood, "", "nothing is known by the name that stands before it"
		}
		out = append(out, b)
	}
	return append(out, m.leftOut(l)...)
}
