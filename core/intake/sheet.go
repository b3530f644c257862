package intake

import (
	"fmt"
	"regexp"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/measure"
)

// What spreadsheets do to files when somebody opens and saves them: leading zeros go, long numbers become powers of ten,
// codes become dates, and cells move to their neighbours' column.

// exponentForm matches a number that a spreadsheet has shortened: "1.2E+11".
var exponentForm = regexp.MustCompile(`^[0-9](?:[.,][0-9]+)?[eE]\+?[0-9]{1,3}$`)

// dateForm matches what spreadsheets make of codes such as 1-3 and 3/4.
var dateForm = regexp.MustCompile(`(?i)^(?:[0-9]{1,2}[-. ](?:jan|feb|mar|mär|apr|may|mai|jun|jul|aug|sep|oct|okt|nov|dec|dez)[a-z]*(?:[-. ][0-9]{2,4})?|(?:jan|feb|mar|mär|apr|may|mai|jun|jul|aug|sep|oct|okt|nov|dec|dez)[a-z]*[-. ][0-9]{2,4}|[0-9]{4}-[0-9]{2}-[0-9]{2}(?:[ T]00:00(?::00)?)?|[0-9]{1,2}[./][0-9]{1,2}[./][0-9]{4})$`)

// damaged says what a spreadsheet has done to an identity; "" where it looks as it was typed.
func damaged(text string) (cause, what string) {
	switch t := strings.TrimSpace(text); {
	case exponentForm.MatchString(t):
		return "spreadsheet-number", "a spreadsheet has shortened it to a power of ten"
	case dateForm.MatchString(t):
		return "spreadsheet-date", "a spreadsheet has made a date of it"
	}
	return "", ""
}

// lostZero says whether a chip code has lost its leading zero: 402 for 0402.
func lostZero(text string) (code string, ok bool) {
	t := strings.TrimSpace(text)
	if len(t) != 3 || strings.Trim(t, "0123456789") != "" {
		return "", false
	}
	code = "0" + t
	_, _, ok = measure.ReadCase(code)
	return code, ok
}

// sheet looks at a value for what a spreadsheet may have done to it.
func (b *builder) sheet(c *Candidate, f fill, slot *cabinet.Slot, r *reading) {
	rule := &b.in.Crosswalk.Fields[f.rule]
	say := func(cause, what, mend string) {
		b.find(finding.Finding{Severity: finding.Warning, Cause: cause + ":" + rule.From, Row: c.Row, Field: rule.From, Param: slot.Key, Text: r.written, What: what, Mend: mend})
	}
	if slot.ChipCode != "" {
		if code, lost := lostZero(r.written); lost {
			say("spreadsheet-zeros", fmt.Sprintf("%q in %q may be %s without its zero", r.written, rule.From, code), "format the column as text in the file, or correct the cells")
		}
		return
	}
	if (slot.Type == cabinet.Measure || slot.Type == cabinet.Number || slot.Type == cabinet.Text) && r.problem != nil || slot.Type == cabinet.Text {
		if cause, what := damaged(r.written); cause != "" {
			say(cause, fmt.Sprintf("%q in %q: %s", r.written, rule.From, what), "format the column as text in the file, or correct the cells")
		}
	}
}

// shifted finds a row whose cells have moved by one column: at least two of them that do not fit their own parameter fit
// the one beside it.
func (b *builder) shifted(c *Candidate, p *plan) {
	bad := 0
	for _, v := range c.vals {
		if r := &b.res.readings[v.reading]; r.problem != nil && !strings.HasPrefix(r.problem.Kind, "doubt") {
			bad++
		}
	}
	if bad < 2 {
		return
	}
	at := map[int]fill{} // by column of the file
	for _, f := range p.fills {
		if col, ok := b.res.col[b.in.Crosswalk.Fields[f.rule].From]; ok {
			at[col] = f
		}
	}
	for _, step := range [...]int{1, -1} {
		n, first := 0, ""
		for col, f := range at {
			other, ok := at[col+step]
			text := b.res.cell(c, b.in.Crosswalk.Fields[f.rule].From)
			if !ok || text == "" || b.reads(p, f, text) || !b.reads(p, other, text) {
				continue
			}
			n++
			if name := b.in.Crosswalk.Fields[f.rule].From; first == "" || b.res.col[name] < b.res.col[first] {
				first = name
			}
		}
		if n >= 2 {
			way := map[int]string{1: "left", -1: "right"}[step]
			b.find(finding.Finding{Severity: finding.Warning, Cause: "shifted-cells", Row: c.Row, Field: first, What: fmt.Sprintf("%d cells of the row, from %q on, fit the column beside them: they have moved to the %s by one", n, first, way),
				Mend: "correct the row in the file, or cell by cell"})
			return
		}
	}
}

// reads says whether a text is a clean value of a rule's parameter, with a unit of its own where it has any.
func (b *builder) reads(p *plan, f fill, text string) bool {
	slot := &p.t.Slots[f.slot]
	if slot.Type == cabinet.Text || slot.Type == cabinet.Link {
		return false // anything is a text
	}
	rule := b.in.Crosswalk.Fields[f.rule]
	rule.Unit = ""
	_, _, problem := rule.Read(slot.Parameter, text, b.res.mark(rule))
	return problem == nil
}
