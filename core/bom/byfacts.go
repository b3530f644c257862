package bom

import (
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/described"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
)

// Points of what speaks for a record, when many are asked at once. The exact comparing of the few that are left decides.
const (
	forLeading = 8
	forCase    = 4
	forFact    = 3
	forBetter  = 1
)

// looked is how many records are compared exactly.
const looked = 40

// byFacts proposes the records that the facts of a line fit and none contradicts. That a record happens to have one word or number of a line is no reason to take the line for
// that, where nothing tells what kind of part it is or the line says more than that.
func (m *matcher) byFacts(v *Verdict) {
	l := *v.Line
	facts := m.read.facts(l)
	drawers := m.kindsOf(l, facts)
	if len(facts) == 0 || len(drawers) == 0 {
		return
	}
	best, like := m.lib.Best(lookup.Asked{Drawers: drawers, Least: forFact, Limit: looked, Score: func(t *cabinet.Template, key string) func(cabinet.Value) int {
		return m.score(l, facts, t, key)
	}})
	best = slices.DeleteFunc(best, func(e *lookup.Entry) bool { return e.Use == lifecycle.UseNo })
	fit := slices.DeleteFunc(m.rank(l, best), func(c candidate) bool { return c.against > 0 || !c.factsAgree })
	if slices.ContainsFunc(fit, func(c candidate) bool { return c.leads }) { // a record that has the value goes before one that does not say
		fit = slices.DeleteFunc(fit, func(c candidate) bool { return !c.leads })
	}
	told := len(drawers) < len(m.leaves) // what kind of part it is
	fit = slices.DeleteFunc(fit, func(c candidate) bool { return !c.leads && c.agree < 2 && (!told || c.passed) })
	what := m.said(l, facts)
	switch {
	case len(fit) == 0:
		v.because("no part fits %s", what)
	case len(fit) == 1 && like <= 1 && fit[0].unclear == 0:
		v.because("the only part that fits %s", what)
		v.Kind, v.Part, v.Tally = Proposed, fit[0].entry, fit[0].tally
	case len(fit) == 1 && like <= looked:
		v.because("one part fits what is understood of %s", what)
		v.Kind, v.Part, v.Tally = Proposed, fit[0].entry, fit[0].tally
	default:
		v.because("by %s", what)
		n := max(len(fit), like)
		v.Kind, v.Options, v.Tally = Several, entries(fit), fit[0].tally
		if n > len(v.Options) {
			v.because("%d parts fit; the best %d are shown", n, len(v.Options))
		} else {
			v.because("%d parts fit", n)
		}
	}
}

// said tells what a line was asked for.
func (m *matcher) said(l Line, facts []fact) string {
	var out []string
	if letters := l.Letters(); len(letters) > 0 {
		out = append(out, "designator "+strings.Join(letters, ", "))
	}
	if l.Value != "" {
		out = append(out, "value "+l.Value)
	}
	switch {
	case l.Package != "":
		out = append(out, "package "+l.Package)
	case !slices.ContainsFunc(facts, func(f fact) bool { return len(f.cases) > 0 }):
		out = append(out, "no package written")
	}
	for _, f := range l.Facts {
		out = append(out, fmt.Sprintf("%s %s", strings.ToLower(m.read.column(f.Column).Heading), f.Text))
	}
	if l.Description != "" {
		out = append(out, fmt.Sprintf("description %q", l.Description))
	}
	return strings.Join(out, ", ")
}

// kindsOf are the leaf drawers that a line may be of: by its designator letters, and by the words that name a kind.
func (m *matcher) kindsOf(l Line, facts []fact) []string {
	among := m.leaves
	letters := l.Letters()
	if len(letters) > 1 {
		return nil
	}
	if len(letters) == 1 && len(m.letters[letters[0]]) > 0 {
		among = m.letters[letters[0]]
	}
	for _, f := range facts {
		if !f.word || f.role == Package {
			continue
		}
		named := m.judge.drawers[described.Singular(alias(f.bare()))]
		if len(named) == 0 || len(named) > 6 && len(f.text) < 3 {
			continue
		}
		var both []string
		for _, d := range among {
			if named[d] || f.role == Value && m.worded(d) { // the words of a value may be the value

				both = append(both, d)
			}
		}
		if len(both) > 0 {
			among = both
		}
	}
	return among
}

// worded says whether a drawer's leading parameter is a word or text.
func (m *matcher) worded(drawer string) bool {
	t, _ := m.cab.Template(drawer)
	s, ok := t.Slot(t.Leading)
	return ok && s.Type != cabinet.Measure && s.Type != cabinet.Number
}

// score says how the values of one parameter of a drawer stand to the facts of a line; nil where none is about it.
func (m *matcher) score(l Line, facts []fact, t *cabinet.Template, key string) func(cabinet.Value) int {
	s, _ := t.Slot(key)
	var about []func(cabinet.Value) int
	if key == t.Leading && s.Type != cabinet.Measure && l.Value != "" {
		about = append(about, func(v cabinet.Value) int {
			if sameText(l.Value, v) {
				return forLeading
			}
			return 0
		})
	}
	for i := range facts {
		f := facts[i]
		if f.skip != "" || f.param == unknownName {
			continue
		}
		switch {
		case key == t.Case && (f.role == Package && packageChoice(f, t) == nil || f.role != Package && f.role != Value && len(f.cases) > 0):
			about = append(about, func(v cabinet.Value) int { return m.caseScore(f, t, v) })
		case f.param != "":
			if f.param == key {
				about = append(about, func(v cabinet.Value) int {
					b := m.judge.besideOne(f, &s, v, t)
					return points(b.Says, forFact)
				})
			}
		case s.Type == cabinet.Measure && (f.role == Value && key == t.Leading || len(f.readings) > 0 && len(f.cases) == 0):
			if score := m.measureScore(f, &s, t); score != nil {
				about = append(about, score)
			}
		case s.Type == cabinet.Choice && f.word:
			if said, ok := choiceOf(&s.Parameter, f.bare()); ok {
				about = append(about, func(v cabinet.Value) int {
					switch {
					case v.IsBlank():
						return 0
					case v.Text == said:
						return forFact
					}
					return lookup.Out
				})
			}
		case s.Type == cabinet.Number && f.number:
			if whole, ok := wholeNumber(f.text); ok {
				about = append(about, func(v cabinet.Value) int {
					if !v.IsBlank() && whole == v.Number {
						return forFact
					}
					return 0
				})
			}
		case s.Type == cabinet.Text && f.word && key != t.Case:
			w := alias(f.text)
			about = append(about, func(v cabinet.Value) int {
				if !v.IsBlank() && hasWord(v.Text, w) {
					return forFact
				}
				return 0
			})
		}
	}
	if about == nil {
		return nil
	}
	return func(v cabinet.Value) int {
		sum := 0
		for _, f := range about {
			p := f(v)
			if p <= lookup.Out {
				return lookup.Out
			}
			sum += p
		}
		return sum
	}
}

func points(s Says, agree int) int {
	switch s {
	case Agrees:
		return agree
	case Better:
		return forBetter
	case Contradicts:
		return lookup.Out
	}
	return 0
}

// caseScore compares a case fact with one value of the case parameter.
func (m *matcher) caseScore(f fact, t *cabinet.Template, v cabinet.Value) int {
	if v.IsBlank() {
		return 0
	}
	p := points(m.judge.besideCase(Beside{}, f, v, t).Says, forCase)
	if len(f.readings) > 0 { // "R0805" may be 80.5 mΩ all the same
		return max(p, 0)
	}
	return p
}

// measureScore compares a value with one parameter. The leading parameter decides where the value column names it; any
// other decides where it is the only one of its kind in the drawer.
func (m *matcher) measureScore(f fact, s *cabinet.Slot, t *cabinet.Template) func(cabinet.Value) int {
	of, _ := measure.ParseDimension(s.Of)
	var readings []measure.Measure
	leading := f.role == Value && s.Key == t.Leading
	if leading {
		readings = m.judge.valueReadings(f, s)
	} else {
		for _, r := range f.readings {
			if r.Of == of && (s.Deviation || r.Shape != measure.Deviation) {
				readings = append(readings, r)
			}
		}
	}
	if len(readings) == 0 {
		if leading && f.certain && f.readings[0].Shape != measure.Deviation && m.judge.leading[f.readings[0].Of.String()] && !m.elsewhere(f, t) {
			return func(cabinet.Value) int { return lookup.Out } // "100 nF" is no resistor
		}
		return nil
	}
	alone := 0
	for i := range t.Slots {
		if o := &t.Slots[i]; o.Type == cabinet.Measure && o.Of == s.Of && o.Deviation == s.Deviation {
			alone++
		}
	}
	most := forFact
	if s.Key == t.Leading {
		most = forLeading
	}
	return func(v cabinet.Value) int {
		if v.IsBlank() {
			if leading {
				return lookup.Out
			}
			return 0
		}
		says := m.judge.any(Beside{}, s, readings, v).Says
		if says == Better && s.Key == t.Leading && slices.Contains(t.Identity, s.Key) {
			says = Contradicts
		}
		if says == Contradicts && (alone > 1 || f.role == Value && !leading && m.worded(t.Key)) { // or it is a word of the value: "reference 2.5 V"
			return 0
		}
		return points(says, most)
	}
}

// elsewhere says whether another parameter of a drawer may hold a fact.
func (m *matcher) elsewhere(f fact, t *cabinet.Template) bool {
	for _, r := range f.readings {
		for i := range t.Slots {
			if t.Slots[i].Of == r.Of.String() {
				return true
			}
		}
	}
	return false
}
