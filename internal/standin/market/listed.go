package market

import (
	"fmt"
	"slices"
	"strings"
)

// listed is a product as one supplier lists it.
type listed struct {
	*product
	number string
	stock  int
	prices [5]int
	fault  string
	words  []string
}

// steps are the quantities from which prices hold.
var steps = [5]int{1, 10, 100, 1000, 5000}

// range of one supplier, in the order of its numbers.
func rangeOf(supplier, prefix string, all []product) (out []*listed) {
	for i := range all {
		p := &all[i]
		if !sells(supplier, p) {
			continue
		}
		l := &listed{product: p, number: fmt.Sprintf("%s%05d", prefix, 10000+i*3+chance(3, supplier, p.mpn)), stock: stockOf(supplier, p), prices: priceOf(supplier, p), fault: fault(supplier, p)}
		l.words = wordsOf(l)
		out = append(out, l)
		if l.fault == "twice" {
			again := *l
			again.number += "R"
			out = append(out, &again)
		}
	}
	slices.SortFunc(out, func(a, b *listed) int { return strings.Compare(a.number, b.number) })
	return out
}

// wordsOf are the words that a product is found by.
func wordsOf(l *listed) (words []string) {
	p := l.product
	if p.kind == "" { // found by its numbers alone
		return []string{strings.ToLower(p.mpn), strings.ToLower(l.number)}
	}
	words = append(words, p.value, strings.ToLower(p.mpn), strings.ToLower(l.number), p.kind, kindWords[p.kind])
	words = append(words, strings.Fields(strings.ToLower(p.maker))...)
	words = append(words, strings.Fields(strings.ToLower(p.series))...)
	for k, v := range p.facts {
		switch v = strings.ToLower(v); k {
		case "tolerance":
			words = append(words, v+"%")
		case "voltage":
			words = append(words, v+"v")
		case "power":
			words = append(words, v+"w")
		case "resistance", "capacitance", "inductance":
			v = strings.NewReplacer(" ", "", "µ", "u", "ω", "", "Ω", "").Replace(v)
			words = append(words, v, strings.TrimRight(v, "fh"))
		default:
			words = append(words, v)
		}
	}
	if strings.HasSuffix(p.value, "r") {
		words = append(words, strings.TrimSuffix(p.value, "r"))
	}
	return words
}

var kindWords = map[string]string{"resistor": "resistance", "capacitor": "mlcc", "inductor": "coil", "led": "diode", "header": "connector", "controller": "ic"}

// tolerance is what the supplier says of it, which is not always what the maker says.
func (l *listed) tolerance() string {
	if l.fault == "other tolerance" {
		return map[string]string{"1": "5", "5": "1", "10": "20", "20": "10"}[l.facts["tolerance"]]
	}
	return l.facts["tolerance"]
}

// price of one from a step on, in ten-thousandths.
func (l *listed) price(step int) int {
	if l.fault == "price of zero" && step == 0 {
		return 0
	}
	return l.prices[step]
}

func decimal(tenThousandths int) string {
	return strings.TrimSuffix(strings.TrimSuffix(fmt.Sprintf("%d.%04d", tenThousandths/10000, tenThousandths%10000), "0"), "0")
}

func withComma(s string) string { return strings.ReplaceAll(s, ".", ",") }
