package buying

import (
	"fmt"
	"strings"

	"jollydrawer/core/money"
)

// Otherwise is what became otherwise of what a build takes of a part since it was costed.
type Otherwise struct {
	Part        string   `json:"part" doc:"The record that it was costed for; blank: none was linked"`
	Number      string   `json:"number"`
	Designators []string `json:"designators"`
	Says        []string `json:"says" doc:"What is otherwise, in words"`
}

// Since is what a build would come to now, beside what it came to when it was costed.
type Since struct {
	Day     string       `json:"day" doc:"On which prices and rates are those of now"`
	Sum     money.Amount `json:"sum" doc:"That it would come to"`
	Changes []Otherwise  `json:"changes" doc:"Parts that would be bought otherwise, in the order of the costing"`
}

// SinceThen lays a costing beside that of the same boards on a later day. Of each part it says whether it is bought elsewhere, dearer or cheaper, in other numbers, whether
// it can be had, and whether there is enough. A rate that moved shows in the sum alone.
func SinceThen(was, now Costing) Since {
	out := Since{Day: now.Day, Sum: now.Sum, Changes: []Otherwise{}}
	bought, unbought := map[string]*Bought{}, map[string]*Unbought{}
	for i := range now.Bought {
		b := &now.Bought[i]
		for _, key := range keysOf(b.Part, b.Designators) {
			bought[key] = b
		}
	}
	for i := range now.Unbought {
		u := &now.Unbought[i]
		for _, key := range keysOf(u.Part, u.Designators) {
			unbought[key] = u
		}
	}
	add := func(part, number string, designators []string, says func(*Bought, *Unbought) []string) {
		for _, key := range keysOf(part, designators) {
			b, u := bought[key], unbought[key]
			if b == nil && u == nil {
				continue
			}
			if all := says(b, u); len(all) > 0 {
				out.Changes = append(out.Changes, Otherwise{part, number, append([]string{}, designators...), all})
			}
			return
		}
	}
	for i := range was.Bought {
		b := &was.Bought[i]
		add(b.Part, b.Number, b.Designators, b.since)
	}
	for i := range was.Unbought {
		u := &was.Unbought[i]
		add(u.Part, u.Number, u.Designators, func(b *Bought, _ *Unbought) []string {
			if b == nil {
				return nil
			}
			return []string{fmt.Sprintf("%s has it now, at %s; it could not be bought then", b.Supplier, b.Each)}
		})
	}
	return out
}

// keysOf are what a purchase is found by in another costing: its record, or where that was merged into another, its places.
func keysOf(part string, designators []string) (out []string) {
	if part != "" {
		out = append(out, part)
	}
	if len(designators) > 0 {
		out = append(out, "at "+strings.Join(designators, " "))
	}
	return out
}

// since says what is otherwise of a purchase that was made.
func (b *Bought) since(now *Bought, not *Unbought) (says []string) {
	if now == nil {
		return []string{fmt.Sprintf("it cannot be bought now: %s; it was bought from %s", not.Why, b.Supplier)}
	}
	say := func(format string, args ...any) { says = append(says, fmt.Sprintf(format, args...)) }
	switch {
	case now.Supplier != b.Supplier:
		say("it would be bought from %s at %s, and was from %s at %s", now.Supplier, now.Each, b.Supplier, b.Each)
	case now.MPN != b.MPN || now.Manufacturer != b.Manufacturer:
		say("it would be %s %s at %s, and was %s %s at %s", now.Manufacturer, now.MPN, now.Each, b.Manufacturer, b.MPN, b.Each)
	case now.SupplierNo != b.SupplierNo:
		say("it would be bought as %s at %s, and was as %s at %s", now.SupplierNo, now.Each, b.SupplierNo, b.Each)
	case now.Each != b.Each:
		say("a piece is %s, and was %s", now.Each, b.Each)
	}
	if now.Pieces != b.Pieces {
		say("%d are paid, and %d were", now.Pieces, b.Pieces)
	}
	switch {
	case now.Short && !b.Short && now.Stock != nil:
		say("%s has %d, and %d are bought", now.Supplier, *now.Stock, now.Pieces)
	case !now.Short && b.Short:
		say("there is enough of it now")
	}
	return says
}
