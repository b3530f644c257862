package bom

import (
	"fmt"
	"time"

	"jollydrawer/core/finding"
	"jollydrawer/core/offer"
)

// Supplied is what suppliers say of a record, of all of its sources together.
type Supplied struct {
	Stock    int64
	AtLeast  bool // they have that or more
	Known    bool // some supplier says
	LeadDays int  // until more come, from the quickest; -1: nobody says
}

// Lacking says that suppliers have less of a record than a build of so many boards takes, and where a date is said that more come after it. today and due are days, at
// midnight UTC; a zero due is none.
func Lacking(s Supplied, need int64, boards int, today, due time.Time) (out []finding.Finding) {
	if !s.Known || s.Stock >= need {
		return nil
	}
	has := offer.StockText(&s.Stock, s.AtLeast)
	out = append(out, finding.Finding{Severity: finding.Warning, Cause: "stock-short", Text: has, What: fmt.Sprintf("suppliers have %s of it, and a build of %d boards takes %d", has, boards, need), Mend: "order early, or give the part another source"})
	if due.IsZero() || s.LeadDays < 0 {
		return out
	}
	if comes := today.AddDate(0, 0, s.LeadDays); comes.After(due) {
		out = append(out, finding.Finding{Severity: finding.Warning, Cause: "lead-late", What: fmt.Sprintf("more of it come in %d days, on %s, and the build is on %s", s.LeadDays, comes.Format(time.DateOnly), due.Format(time.DateOnly)), Mend: "order what there is, give the part another source, or build later"})
	}
	return out
}
