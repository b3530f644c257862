package supplier

import (
	"encoding/json"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"jollydrawer/core/money"
)

// all are the different texts that a path leads to, in their order; where it leads to one place, that is not looked at twice.
func (r *Reader) all(n node, where string, found map[string]int) []string {
	p := r.at[where]
	if p == nil {
		return nil
	}
	return r.different(p.from(n), where, found)
}

func (r *Reader) different(at []node, where string, found map[string]int) (out []string) {
	for _, x := range at {
		s, ok := x.text()
		if s = short(strings.TrimSpace(s)); ok && s != "" && !slices.Contains(out, s) {
			out = append(out, s)
		}
	}
	if len(out) > 0 {
		found[where]++
	}
	return out
}

// figure is said, of a count or a price. A number of JSON is written with the connection's decimal mark, whatever that is: its own is always the point
// (RFC 8259, clause 6). Different texts of one place are none of them the figure, and are said beside each other, so that nothing is read.
func (r *Reader) figure(n node, where string, found map[string]int) string {
	p := r.at[where]
	if p == nil {
		return ""
	}
	at := p.from(n)
	if len(at) == 1 {
		if j, ok := at[0].(jsonNode); ok {
			if v, ok := j.v.(json.Number); ok {
				found[where]++
				return numberText(v.String(), r.doc.Mark())
			}
		}
	}
	switch all := r.different(at, where, found); len(all) {
	case 0:
		return ""
	case 1:
		return all[0]
	default:
		return clip(strings.Join(all, " | "))
	}
}

// numberText writes a number of JSON so that it is read as itself under a decimal mark: without an exponent, and with a nought behind three decimals where
// no mark is known, as they would be thousands else. What is too long for any figure stays as it is, for whoever refuses it.
func numberText(number string, mark money.Mark) string {
	if plain := strings.Trim(number, "0123456789"); plain == "" || plain == "." && mark == money.Point { // as most are written
		return number
	}
	d, err := decimal.NewFromString(number)
	if err != nil || len(number) > 40 || d.Exponent() > 18 || d.Exponent() < -18 {
		return number
	}
	whole, decimals, fraction := strings.Cut(d.String(), ".")
	switch {
	case !fraction:
		return whole
	case mark == money.Comma:
		return whole + "," + decimals
	case mark == money.Unsaid && len(decimals) == 3:
		return whole + "." + decimals + "0"
	}
	return whole + "." + decimals
}
