package intake

import (
	"regexp"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/measure"
)

// commaColumn matches a decimal comma that can group no thousands: "0,47", "4,7", "12,5 V".
var commaColumn = regexp.MustCompile(`^[<>≤≥±~+-]*\s*(?:0,[0-9]+|[0-9]+,[0-9]{1,2}|[0-9]+,[0-9]{4,})(?:[^0-9,.]|$)`)

// mark is the decimal mark that a rule's texts are read with, wherever they are: what the crosswalk says; otherwise a comma where the
// column has written one that can be nothing else, so that "4.700" beside "0,47" is a doubt. What the rule itself says goes before it
// (see crosswalk.Rule.Options).
func (r *Result) mark(rule crosswalk.Rule) measure.Mark {
	if m := r.in.Crosswalk.Mark(); m != measure.MarkUnknown {
		return m
	}
	for _, field := range rule.Inputs() {
		if col, ok := r.col[field]; ok {
			if m := r.in.Table.shownMark(col); m != measure.MarkUnknown {
				return m
			}
		}
	}
	return measure.MarkUnknown
}

// shownMark is the decimal mark that the texts of a column show, looked for once.
func (t *Table) shownMark(col int) measure.Mark {
	t.mu.Lock()
	defer t.mu.Unlock()
	if m, known := t.marks[col]; known {
		return m
	}
	if t.marks == nil {
		t.marks = map[int]measure.Mark{}
	}
	t.marks[col] = measure.MarkUnknown
	seen := map[uint32]bool{}
	for at := range t.Len() {
		id := t.cell(at, col)
		if seen[id] {
			continue
		}
		seen[id] = true
		if commaColumn.MatchString(t.texts[id]) {
			t.marks[col] = measure.MarkComma
			break
		}
	}
	return t.marks[col]
}
