package bom

import (
	"fmt"
	"sort"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

// Kind is the kind of a verdict.
type Kind string

// The verdicts. Only Linked needs no person: exact evidence that nothing contradicts, or a choice already made.
const (
	Linked   Kind = "linked"
	Proposed Kind = "proposed"
	Several  Kind = "several"
	Missing  Kind = "not in the library"
	Unfitted Kind = "not fitted"
)

// Kinds lists the verdicts in the order they are counted.
var Kinds = []Kind{Linked, Proposed, Several, Missing, Unfitted}

// Verdict is what the library says of one line.
type Verdict struct {
	Line     Line
	Kind     Kind
	Part     *lookup.Entry   // for Linked and Proposed, and Unfitted where a record is known
	Options  []*lookup.Entry // for Several
	Evidence []string
	Findings []finding.Finding
}

// Choice is what a person decided for a line.
type Choice struct {
	Part string `json:"part"` // ID
	By   string `json:"by"`
}

// Library is what matching asks of the library; lookup.Index is one.
type Library interface {
	ByID(id string) (*lookup.Entry, bool)
	ByNumber(number string) (*lookup.Entry, bool)
	ByMPN(mpn string) []*lookup.Entry
	BySupplierNumber(number string) []*lookup.Entry
	ByLeading(m measure.Measure, leading map[string]string) []*lookup.Entry
}

// Reconcile gives every line its verdict. Choices are by row.
func Reconcile(lines []Line, lib Library, cab *cabinet.Cabinet, choices map[int]Choice) []Verdict {
	m := matcher{lib: lib, cab: cab, byLetter: map[string]map[string]string{}}
	for _, t := range cab.Templates() {
		if t.Leaf && t.Designator != "" && t.Leading != "" {
			if m.byLetter[t.Designator] == nil {
				m.byLetter[t.Designator] = map[string]string{}
			}
			m.byLetter[t.Designator][t.Key] = t.Leading
		}
	}
	out := make([]Verdict, len(lines))
	for i, l := range lines {
		out[i] = m.line(l, choices)
	}
	across(out)
	return out
}

type matcher struct {
	lib      Library
	cab      *cabinet.Cabinet
	byLetter map[string]map[string]string // designator letter → leaf drawer → leading parameter
}

func (v *Verdict) say(sev finding.Severity, cause, what, mend string) {
	v.Findings = append(v.Findings, finding.Finding{Severity: sev, Cause: cause, Row: v.Line.Row, What: what, Mend: mend})
}

func (v *Verdict) because(format string, args ...any) {
	v.Evidence = append(v.Evidence, fmt.Sprintf(format, args...))
}

func (m *matcher) line(l Line, choices map[int]Choice) Verdict {
	v := Verdict{Line: l}
	for _, p := range l.Problems {
		v.say(finding.Warning, "unreadable", p, "correct the BOM")
	}
	if len(l.Designators) == 0 && !l.NotFitted {
		v.say(finding.Warning, "no-designator", "the line has no designator", "add it, or make sure that the line belongs on the board")
	}
	if c, ok := choices[l.Row]; ok {
		if e, found := m.lib.ByID(c.Part); found {
			v.because("chosen by %s", c.By)
			if survivor, ok := m.lib.ByNumber(e.Number); e.Gone && ok {
				v.behind(e.Number, survivor.Number)
				e = survivor
			}
			v.Kind, v.Part = Linked, e
			m.disagreements(&v, e)
			m.standing(&v)
			return v
		}
		v.say(finding.Warning, "choice-gone", "the part chosen for this line is no longer there", "choose again")
	}
	m.match(&v)
	m.standing(&v)
	if l.NotFitted {
		v.Kind = Unfitted
		v.because("the BOM says that it is not fitted")
	}
	if l.Quantity >= 0 && l.Quantity != len(l.Designators) && !(l.NotFitted && l.Quantity == 0) {
		v.say(finding.Warning, "quantity", fmt.Sprintf("the quantity is %d, and there are %d designators", l.Quantity, len(l.Designators)), "correct one of the two")
	}
	return v
}

// behind says that a line names a number which leads to another part by now.
func (v *Verdict) behind(was, now string) {
	v.say(finding.Note, "number-behind", fmt.Sprintf("the line is behind: %s leads to %s by now", was, now), "write "+now+" on the drawing when it is next changed")
}

// match tries the evidence from the strongest to the weakest.
func (m *matcher) match(v *Verdict) {
	l := v.Line
	if l.Number != "" {
		if e, ok := m.lib.ByNumber(l.Number); ok {
			v.because("the part number %s is in the library", l.Number)
			if !strings.EqualFold(e.Number, l.Number) {
				v.because("it is a former number of %s", e.Number)
				v.behind(l.Number, e.Number)
			}
			m.settle(v, e, true)
			return
		}
		v.because("no part has the number %s", l.Number)
		v.say(finding.Warning, "number-unknown", fmt.Sprintf("the part number %s is not in the library", l.Number), "correct it, or add the part")
	}
	if l.MPN != "" && m.byMPN(v, l.MPN, true) {
		return
	}
	if l.SupplierNumber != "" {
		if es := m.lib.BySupplierNumber(l.SupplierNumber); len(es) > 0 {
			v.because("a supplier sells it under %s", l.SupplierNumber)
			m.oneOrSeveral(v, es, false)
			return
		}
	}
	if l.MPN == "" && l.Value != "" && m.byMPN(v, l.Value, false) {
		return
	}
	m.byValue(v)
}

func (m *matcher) byMPN(v *Verdict, mpn string, exact bool) bool {
	es := m.lib.ByMPN(mpn)
	if len(es) == 0 {
		if exact {
			v.because("no part has the MPN %s", mpn)
		}
		return false
	}
	where := "the MPN"
	if !exact {
		where = "the value, read as an MPN,"
	}
	v.because("%s %s is in the library", where, mpn)
	if len(es) == 1 {
		if as := spelled(es[0], mpn); as != "" {
			v.because("written there as %s", as)
		}
	}
	m.oneOrSeveral(v, es, exact)
	return true
}

// spelled returns how a record spells an MPN, where that differs.
func spelled(e *lookup.Entry, mpn string) string {
	for _, s := range e.Sources {
		if part.NormaliseMPN(s.MPN) == part.NormaliseMPN(mpn) && s.MPN != mpn {
			return s.MPN
		}
	}
	return ""
}

func (m *matcher) oneOrSeveral(v *Verdict, es []*lookup.Entry, exact bool) {
	if len(es) == 1 {
		m.settle(v, es[0], exact)
		return
	}
	if maker := part.NormaliseMaker(v.Line.Manufacturer); maker != "" {
		var same []*lookup.Entry
		for _, e := range es {
			for _, s := range e.Sources {
				if part.NormaliseMaker(s.Manufacturer) == maker {
					same = append(same, e)
					break
				}
			}
		}
		if len(same) == 1 {
			v.because("and the manufacturer is %s", v.Line.Manufacturer)
			m.settle(v, same[0], exact)
			return
		}
	}
	v.several(es)
}

func (v *Verdict) several(es []*lookup.Entry) {
	v.Kind, v.Options = Several, es
	v.because("%d parts fit", len(es))
}

// settle links where the evidence is exact and nothing contradicts it, and proposes otherwise.
func (m *matcher) settle(v *Verdict, e *lookup.Entry, exact bool) {
	v.Part, v.Kind = e, Proposed
	agree := m.disagreements(v, e)
	if exact && agree {
		v.Kind = Linked
	}
}

// disagreements compares what the line says with the record and returns whether nothing contradicts.
func (m *matcher) disagreements(v *Verdict, e *lookup.Entry) bool {
	l, agree := v.Line, true
	clash := func(cause, what string) {
		agree = false
		v.say(finding.Warning, cause, what, "check which is right before you accept the record")
	}
	if l.MPN != "" {
		makers, found := []string{}, false
		for _, s := range e.Sources {
			if part.NormaliseMPN(s.MPN) == part.NormaliseMPN(l.MPN) {
				found = true
				makers = append(makers, s.Manufacturer)
			}
		}
		if !found {
			clash("mpn", fmt.Sprintf("the MPN is %s, and %s has %s", l.MPN, e.Number, sourceList(e)))
		} else if maker := part.NormaliseMaker(l.Manufacturer); maker != "" {
			same := false
			for _, k := range makers {
				same = same || part.NormaliseMaker(k) == maker
			}
			if !same {
				clash("manufacturer", fmt.Sprintf("the manufacturer is %s, and %s has %s", l.Manufacturer, e.Number, strings.Join(makers, ", ")))
			}
		}
	}
	t, ok := m.cab.Template(e.Drawer)
	if !ok {
		return agree
	}
	if have := e.Value(t.Leading); l.Value != "" && have.Type == cabinet.Measure {
		said, readable := readValue(l.Value, have.Measure.Of)
		switch {
		case readable && said.Bare() != have.Measure.Bare():
			clash("value", fmt.Sprintf("the value is %s, and %s has %s", l.Value, e.Number, have))
		case !readable && part.NormaliseMPN(l.Value) != part.NormaliseMPN(l.MPN) && !sellsAs(e, l.Value):
			v.say(finding.Note, "value-unread", fmt.Sprintf("the value %q could not be compared with %s", l.Value, have), "")
		}
	}
	if have := e.Value(t.Case); l.Package != "" && have.Text != "" {
		if codes := caseTokens(l.Package); !codes[strings.ToUpper(have.Text)] && namesChipCase(codes) && namesChipCase(caseTokens(have.Text)) {
			clash("package", fmt.Sprintf("the package is %s, and %s has %s", l.Package, e.Number, have.Text))
		}
	}
	if letters := l.Letters(); len(letters) > 0 && t.Designator != "" && letters[0] != t.Designator {
		v.say(finding.Note, "designator-letter", fmt.Sprintf("the designators begin with %s, and parts of %s with %s", letters[0], t.Label, t.Designator), "")
	}
	return agree
}

func sellsAs(e *lookup.Entry, mpn string) bool {
	for _, s := range e.Sources {
		if part.NormaliseMPN(s.MPN) == part.NormaliseMPN(mpn) {
			return true
		}
	}
	return false
}

func sourceList(e *lookup.Entry) string {
	var all []string
	for _, s := range e.Sources {
		all = append(all, s.MPN)
	}
	if len(all) == 0 {
		return "none"
	}
	return strings.Join(all, ", ")
}

// readValue reads a BOM value, or its first word: "100n/50V" and "10k 1%" name the leading parameter first. A bare
// number is ohms on a resistor, as drawings write it; on anything else it is not read.
func readValue(s string, of measure.Dimension) (measure.Measure, bool) {
	o := measure.Options{Of: of}
	if of == measure.Resistance {
		o.Unit = "ohm"
	}
	first := strings.FieldsFunc(s, func(r rune) bool { return r == ' ' || r == '/' || r == ';' || r == '_' })
	for _, text := range append([]string{s}, first[:min(1, len(first))]...) {
		if r := measure.Parse(text, o); r.Outcome == measure.Read && r.Measure.Of == of {
			return r.Measure, true
		}
	}
	return measure.Measure{}, false
}

func caseTokens(s string) map[string]bool {
	out := map[string]bool{}
	for _, f := range strings.FieldsFunc(strings.ToUpper(s), func(r rune) bool { return (r < '0' || r > '9') && (r < 'A' || r > 'Z') && r != '-' }) {
		out[f] = true
		out[strings.TrimLeft(f, "RCLD")] = true
	}
	out[strings.ToUpper(strings.TrimSpace(s))] = true
	return out
}

// namesChipCase says whether any of the words is an inch chip code: only those are sure enough to contradict.
func namesChipCase(words map[string]bool) bool {
	for w := range words {
		if _, ok := measure.CaseToMetric(w); ok {
			return true
		}
	}
	return false
}

// byValue proposes records by designator letter, value and package.
func (m *matcher) byValue(v *Verdict) {
	v.Kind = Missing
	l := v.Line
	letters := l.Letters()
	if l.Value == "" || len(letters) != 1 {
		return
	}
	dims := map[measure.Dimension]map[string]string{}
	for drawer, key := range m.byLetter[letters[0]] {
		t, _ := m.cab.Template(drawer)
		slot, _ := t.Slot(key)
		if d, ok := measure.ParseDimension(slot.Of); ok && slot.Type == cabinet.Measure {
			if dims[d] == nil {
				dims[d] = map[string]string{}
			}
			dims[d][drawer] = key
		}
	}
	var hits []*lookup.Entry
	var said measure.Measure
	for d, drawers := range dims {
		if got, ok := readValue(l.Value, d); ok {
			said = got
			hits = append(hits, m.lib.ByLeading(got, drawers)...)
		}
	}
	if said.IsZero() {
		return
	}
	var fit, open []*lookup.Entry
	codes := caseTokens(l.Package)
	for _, e := range hits {
		t, _ := m.cab.Template(e.Drawer)
		c := e.Value(t.Case).Text
		switch {
		case e.Standing == lifecycle.Obsolete:
		case l.Package == "":
			open = append(open, e)
		case c != "" && codes[strings.ToUpper(c)]:
			fit = append(fit, e)
		}
	}
	what := fmt.Sprintf("designator %s and value %s", letters[0], said)
	if l.Package != "" {
		what += " in " + l.Package
	} else {
		fit = open
		what += ", no package written"
	}
	sort.Slice(fit, func(i, j int) bool { return fit[i].Number < fit[j].Number })
	switch len(fit) {
	case 0:
		v.because("no part fits %s", what)
	case 1:
		v.because("the only part that fits %s", what)
		v.Kind, v.Part = Proposed, fit[0]
	default:
		v.because("by %s", what)
		v.several(fit)
	}
}

func (m *matcher) standing(v *Verdict) {
	e := v.Part
	if e == nil {
		return
	}
	switch e.Standing {
	case lifecycle.Obsolete:
		v.say(finding.Error, "obsolete", e.Number+" is obsolete", "choose another part")
	case lifecycle.NotForNew:
		v.say(finding.Warning, "not-for-new", e.Number+" is not for new designs", "choose another part where the design is new")
	}
	if e.Revision == 0 {
		v.say(finding.Warning, "unreleased", e.Number+" is not released", "have it checked and released before you order")
	}
	if len(e.Sources) == 1 {
		v.say(finding.Note, "single-source", e.Number+" has a single source", "")
	}
}

// across finds what only shows when lines are laid side by side.
func across(all []Verdict) {
	at := map[string]int{}
	parts := map[string]int{}
	for i := range all {
		v := &all[i]
		own := map[string]bool{}
		for _, d := range v.Line.Designators {
			if first, twice := at[d]; twice && (first != i || own[d]) {
				where := fmt.Sprintf("row %d", all[first].Line.Row)
				if first == i {
					where = "the same row"
				}
				v.say(finding.Error, "designator-twice", fmt.Sprintf("the designator %s is also in %s", d, where), "give it to one line only")
			} else if !twice {
				at[d] = i
			}
			own[d] = true
		}
		if v.Part == nil || v.Kind == Unfitted {
			continue
		}
		if first, twice := parts[v.Part.ID]; twice {
			v.say(finding.Note, "part-twice", fmt.Sprintf("%s is also in row %d", v.Part.Number, all[first].Line.Row), "join the two lines before ordering")
		} else {
			parts[v.Part.ID] = i
		}
	}
}
