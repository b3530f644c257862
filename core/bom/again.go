package bom

import (
	"reflect"
	"slices"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
)

// Reconciled is a board that was laid beside the library, and all it takes to do so again when people decided for some of its lines: what was found of a line by itself
// hangs on that line's decision alone. It does not change, so that many may read it at once.
type Reconciled struct {
	lines []Line
	lib   Library
	cab   *cabinet.Cabinet
	known Known
	each  []*Verdict          // of each line by itself
	equal *equals             // which records are equal in what identifies their kind
	twice [][]finding.Finding // of the designators of each beside those of the others
	at    map[string][]int    // the lines that a decision may be of, by what it is about
}

// Begin lays lines beside the library. The verdicts point at the lines, which must not change.
func Begin(lines []Line, lib Library, cab *cabinet.Cabinet, known Known) *Reconciled {
	r := &Reconciled{lines: lines, lib: lib, cab: cab, known: known, each: make([]*Verdict, len(lines)), equal: newEquals(cab), twice: across(lines), at: make(map[string][]int, len(lines))}
	m := newMatcher(lib, cab, known)
	for i := range lines {
		v := m.line(&lines[i])
		r.each[i] = &v
		for _, about := range lines[i].abouts() {
			r.at[about] = append(r.at[about], i)
		}
	}
	return r
}

// Again is the board with other decisions; everything else must be as it was. Only lines whose decision is another are looked at anew.
func (r *Reconciled) Again(decisions []decision.Record) *Reconciled {
	next := *r
	next.known.Decisions = decisions
	m := newMatcher(r.lib, r.cab, next.known)
	was := chosenIn(r.known.Decisions)
	touched := map[int]bool{}
	for about, d := range m.chosen {
		if before := was[about]; before == nil || !reflect.DeepEqual(before, d) {
			for _, i := range r.at[about] {
				touched[i] = true
			}
		}
	}
	for about := range was {
		if m.chosen[about] == nil {
			for _, i := range r.at[about] {
				touched[i] = true
			}
		}
	}
	next.each = slices.Clone(r.each)
	for i := range touched {
		v := m.line(&r.lines[i])
		next.each[i] = &v
	}
	return &next
}

// Verdicts are those of all lines, with what only shows when lines are laid side by side.
func (r *Reconciled) Verdicts() []Verdict {
	out := make([]Verdict, len(r.each))
	for i := range out {
		out[i] = *r.each[i]
		out[i].Findings = slices.Clip(out[i].Findings) // what is added is added to these alone
		if len(r.twice[i]) > 0 {
			out[i].Findings = slices.Concat(out[i].Findings, r.twice[i])
		}
	}
	partsTwice(out, r.equal)
	functions(out, r.equal)
	return out
}

// Otherwise says of each line whether what people see of it may be otherwise than before: its verdict is another, it shares its record with such a line, as how many
// pieces a build takes of a record is told of all of its lines, or it is open and asks for the same as such a line. Both are of the same lines; subs are the boards that lines
// are or were: those have revisions of their own, so that lines that are boards are always told.
func Otherwise(before, after []Verdict, subs Subs) []bool {
	out := make([]bool, len(after))
	records, asks := map[string]bool{}, map[string]bool{}
	for i := range after {
		was, is := &before[i], &after[i]
		if alike(was, is) && is.Kind != Another {
			continue
		}
		out[i] = true
		for _, v := range []*Verdict{was, is} {
			if v.Part != nil {
				records[v.Part.ID] = true
			}
			for _, id := range subs.Records(v) {
				records[id] = true
			}
		}
		if (was.Open() != nil || is.Open() != nil) && !is.Line.Silent() {
			asks[Asks(*is.Line)] = true
		}
	}
	for i := range after {
		v := &after[i]
		out[i] = out[i] || v.Part != nil && records[v.Part.ID] || len(asks) > 0 && v.Open() != nil && !v.Line.Silent() && asks[Asks(*v.Line)]
	}
	return out
}

// alike says whether two verdicts of one line are the same.
func alike(a, b *Verdict) bool {
	if a.Kind != b.Kind || a.Part != b.Part || a.Ending != b.Ending || !same(a.Findings, b.Findings) || !same(a.Options, b.Options) || !same(a.Evidence, b.Evidence) {
		return false
	}
	return (a.Chosen == b.Chosen || reflect.DeepEqual(a.Chosen, b.Chosen)) && (a.Reading == b.Reading || reflect.DeepEqual(a.Reading, b.Reading))
}

// same says whether two lists are equal; of one list that is clear at once.
func same[T comparable](a, b []T) bool {
	return len(a) == len(b) && (len(a) == 0 || &a[0] == &b[0] || slices.Equal(a, b))
}

// abouts are what decisions of a line may be about: as they are written, and as they were before lines without designators were told apart.
func (l Line) abouts() []string {
	if len(l.Designators) > 0 {
		return []string{l.About()}
	}
	return []string{l.About(), "", "no designator\n" + l.evidence(false)}
}

// chosenIn are the decisions of lines that hold, by what they are about.
func chosenIn(all []decision.Record) map[string]*decision.Record {
	out := map[string]*decision.Record{}
	for i := range all {
		if d := &all[i]; d.Kind == decision.Line && d.Withdrawn == "" {
			out[d.About] = d
		}
	}
	return out
}
