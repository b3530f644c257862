package intake

import (
	"fmt"

	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
)

// stated says where the supplier states that a product should not be used, or not any more, and the library does not know it yet.
func (b *builder) stated(c *Candidate) {
	field := b.in.Crosswalk.Take.State
	text := b.res.cell(c, field)
	if text == "" || c.State == LeftOut || c.State == Repeat {
		return
	}
	s, ok := lifecycle.Stated(text)
	if !ok {
		b.find(finding.Finding{Severity: finding.Note, Cause: "stated-unknown:" + field, Row: c.Row, Field: field, Text: text, What: fmt.Sprintf("%q does not say how the product stands", text), Mend: "look at what the supplier means by it"})
		return
	}
	if s == lifecycle.Active || c.standing == s || c.standing == lifecycle.Obsolete {
		return
	}
	what := fmt.Sprintf("the supplier says %q of %s: %s", text, orRow(c), s)
	mend := "leave the row out, or take it in and move the part there"
	if c.Existing != "" {
		what += fmt.Sprintf("; %s is %s in the library", c.Existing, c.standing)
		mend = fmt.Sprintf("look at it with the maker, and move %s to %s", c.Existing, s)
	}
	b.find(finding.Finding{Severity: finding.Warning, Cause: "stated:" + string(s), Row: c.Row, Field: field, Text: text, What: what, Mend: mend})
}

// orRow names a candidate by its number, or by its row.
func orRow(c *Candidate) string {
	if c.source.MPN != "" {
		return c.source.MPN
	}
	return fmt.Sprintf("row %d", c.Row)
}
