package offer

import (
	"cmp"
	"slices"

	"jollydrawer/core/lifecycle"
)

// Join is what two statements of one supplier about one of its numbers in one packing come to: two rows of a list with a price for each quantity, or the
// same offer twice. Where they contradict each other neither is kept, and that is said: nobody can tell which of two prices is the right one.
func Join(a, b Offer) Offer {
	out := a
	out.Problems = slices.Concat(a.Problems, b.Problems)
	for to, from := range map[*string]string{&out.Manufacturer: b.Manufacturer, &out.MPN: b.MPN} {
		*to = cmp.Or(*to, from)
	}
	switch {
	case a.Stock == nil:
		out.Stock, out.AtLeast = b.Stock, b.AtLeast
	case b.Stock != nil && (*a.Stock != *b.Stock || a.AtLeast != b.AtLeast):
		out.say("It says both %s and %s in stock; neither was kept.", StockText(a.Stock, a.AtLeast), StockText(b.Stock, b.AtLeast))
		out.Stock, out.AtLeast = nil, false
	}
	if a.LeadDays == nil || b.LeadDays != nil && *b.LeadDays > *a.LeadDays {
		out.LeadDays = b.LeadDays
	}
	if a.Minimum == 0 || b.Minimum > 0 && b.Minimum < a.Minimum { // of a list with a row for each quantity, the least
		out.Minimum = b.Minimum
	}
	out.Multiple = max(a.Multiple, b.Multiple)
	if a.Until == "" || b.Until != "" && b.Until < a.Until {
		out.Until = b.Until
	}
	out.State = worse(a.State, b.State)
	out.Breaks, out.hurt = slices.Concat(a.Breaks, b.Breaks), a.hurt || b.hurt
	if out.hurt && len(out.Breaks) > 0 { // what the other says is not all of it
		out.Breaks = nil
		out.say("As one of its prices cannot be read, none was kept.")
	}
	out.tidy()
	said := map[string]bool{}
	out.Problems = slices.DeleteFunc(out.Problems, func(p string) bool { was := said[p]; said[p] = true; return was }) // what was said of one statement already
	return out
}

// worse is the one of two states that says less good of a product; the first where that cannot be told.
func worse(a, b string) string {
	rank := func(s string) int {
		stands, ok := lifecycle.Stated(s)
		if s == "" {
			return -1
		}
		if !ok {
			return 0
		}
		return stands.Severity()
	}
	if rank(b) > rank(a) {
		return b
	}
	return a
}

// JoinAll joins the offers that are of one number in one packing, each at the place of its first.
func JoinAll(all []Offer) []Offer {
	if len(all) < 2 {
		return all
	}
	at := map[[2]string]int{}
	out := make([]Offer, 0, len(all))
	for _, o := range all {
		key := [2]string{o.Number, o.Packing}
		if i, ok := at[key]; ok {
			out[i] = Join(out[i], o)
			continue
		}
		at[key] = len(out)
		out = append(out, o)
	}
	return out
}
