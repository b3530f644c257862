// Package market is four simulated suppliers with some 5,000 made-up products between them: real HTTP servers on loopback, each with another way to
// be asked, another tree of kinds, other words and units, and life's faults. Nothing outside this machine is ever asked.
package market

import (
	_ "embed"
	"encoding/csv"
	"fmt"
	"hash/fnv"
	"strconv"
	"strings"
)

// product is one product as its maker knows it; suppliers say it in their words.
type product struct {
	maker, mpn, series, sheet string
	kind                      string // resistor, capacitor, inductor, bead, led, header, controller; blank for what is only listed by name
	group, text               string // of what is only listed by name
	times                     int    // so much dearer than a resistor
	value                     string // the leading one, compact: 4k7, 100n, 2u2
	facts                     map[string]string
	state                     string // active, last, over
	models                    string // archive of models, where the maker has one
}

// e24 are the values of IEC 60063 with two digits.
var e24 = []int{10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91}

// tolerances that are made, by whether a maker is one for precision.
var tolerances = map[bool][]string{false: {"F", "J"}, true: {"B"}}

var e6 = []int{10, 15, 22, 33, 47, 68}

// sized writes two digits times a power of ten with a prefix letter in place of the point: 47, 2 → 4K7.
func sized(digits, power int, letters []string, base string) string {
	// digits × 10^power, in units of letters[0]
	group, within := (power+1)/3, (power+1)%3
	letter := base
	if group > 0 {
		letter = letters[group-1]
	}
	d := fmt.Sprint(digits)
	switch within {
	case 0: // d.d
		return d[:1] + letter + strings.TrimSuffix(d[1:], "0")
	case 1:
		return d + letter
	}
	return d + "0" + letter
}

// spoken writes two digits times a power of ten with a point and a prefix: 47, 2 → "4.7 k".
func spoken(digits, power int, prefixes []string) string {
	group, within := (power+1)/3, (power+1)%3
	p := ""
	if group > 0 {
		p = prefixes[group-1]
	}
	d := fmt.Sprint(digits)
	switch within {
	case 0:
		if d[1] == '0' {
			return d[:1] + " " + p
		}
		return d[:1] + "." + d[1:] + " " + p
	case 1:
		return d + " " + p
	}
	return d + "0 " + p
}

// chance is a number from 0 to n-1 that is always the same for the same words.
func chance(n int, words ...string) int {
	h := fnv.New32a()
	for _, w := range words {
		_, _ = h.Write([]byte(w + "\x00"))
	}
	return int(h.Sum32()>>3) % n
}

// catalogue lists all products.
func catalogue() (all []product) {
	add := func(p product) {
		p.state = "active"
		switch chance(40, p.mpn, "state") {
		case 0:
			p.state = "over"
		case 1:
			p.state = "last"
		}
		all = append(all, p)
	}
	power := map[string]string{"0402": "0.063", "0603": "0.1", "0805": "0.125", "1206": "0.25"}
	for _, m := range []struct{ maker, form, series, sheet string }{{"Tidewright", "TW-%s-%s-%s", "TW", "tidewright-tw-series.pdf"}, {"Grebe Resistive", "GR%s%s%s", "GR", "grebe-gr.pdf"}, {"Sluice Precision", "SLP-%s%s.%s", "SLP", "sluice-slp.pdf"}} {
		for _, size := range []string{"0402", "0603", "0805", "1206"} {
			for exp := -1; exp <= 5; exp++ {
				for _, d := range e24 {
					for _, tol := range tolerances[m.series == "SLP"] {
						if (d*7+exp+len(size))%3 == 0 && tol == "J" { // not everything is made
							continue
						}
						code := sized(d, exp, []string{"K", "M"}, "R")
						add(product{maker: m.maker, mpn: fmt.Sprintf(m.form, size, code, tol), series: m.series + " " + size, sheet: m.sheet, kind: "resistor", value: strings.ToLower(code),
							facts: map[string]string{"resistance": spoken(d, exp, []string{"k", "M"}) + "Ω", "tolerance": map[string]string{"B": "0.1", "F": "1", "J": "5"}[tol], "power": power[size], "case": size, "tempmin": "-55", "tempmax": "155"}})
					}
				}
			}
		}
	}
	for _, m := range []struct{ maker, form, series, sheet string }{{"Kelpline", "KL%s-%s-%s%s", "KL", "kelpline-kl-series.pdf"}, {"Whimbrel Ceramics", "WC%s/%s/%s/%s", "WC", "whimbrel-wc.pdf"}} {
		for _, size := range []string{"0402", "0603", "0805", "1206"} {
			for _, diel := range []struct {
				name     string
				from, to int
			}{{"C0G", 0, 2}, {"X7R", 2, 6}, {"X5R", 4, 6}} {
				for exp := diel.from; exp <= diel.to; exp++ {
					for _, d := range e6 {
						for _, volts := range []string{"10", "16", "25", "50", "100"} {
							if chance(3, m.series, size, volts, fmt.Sprint(d, exp)) == 0 {
								continue
							}
							code := sized(d, exp-1, []string{"N", "U"}, "P")
							tol := map[string]string{"C0G": "5", "X7R": "10", "X5R": "20"}[diel.name]
							add(product{maker: m.maker, mpn: fmt.Sprintf(m.form, size, code, diel.name, volts), series: m.series + " " + diel.name, sheet: m.sheet, kind: "capacitor", value: strings.ToLower(code),
								facts: map[string]string{"capacitance": spoken(d, exp-1, []string{"n", "µ"}) + map[bool]string{true: "pF", false: "F"}[exp-1 < 2], "tolerance": tol, "voltage": volts, "dielectric": diel.name, "case": size, "tempmin": "-55", "tempmax": map[string]string{"C0G": "125", "X7R": "125", "X5R": "85"}[diel.name]}})
						}
					}
				}
			}
		}
	}
	for exp := -1; exp <= 2; exp++ {
		for i, d := range e6 {
			for _, size := range []string{"0420", "0630", "1050"} {
				code := sized(d, exp, []string{"M"}, "U")
				add(product{maker: "Saltmarsh Magnetics", mpn: "SM" + size + "-" + code, series: "SM" + size, sheet: "saltmarsh-sm.pdf", kind: "inductor", value: strings.ToLower(code),
					facts: map[string]string{"inductance": spoken(d, exp, []string{"m"}) + map[bool]string{true: "µH", false: "H"}[exp+1 < 3], "dcr": fmt.Sprintf("0.%03d", 8+i*7+(exp+1)*90), "isat": fmt.Sprintf("%d.%d", 9-exp*2, i), "case": size, "tempmin": "-40", "tempmax": "85"}})
			}
		}
	}
	for _, colour := range []string{"red", "green", "yellow", "amber", "blue", "white"} {
		for _, size := range []string{"0603", "0805", "1206"} {
			add(product{maker: "Lanternfish Opto", mpn: "LF" + size + strings.ToUpper(colour[:2]), series: "LF" + size, sheet: "lanternfish-lf.pdf", kind: "led", value: colour,
				facts: map[string]string{"colour": colour, "vf": map[string]string{"red": "1.9", "green": "2.1", "yellow": "2.0", "amber": "2.0", "blue": "3.0", "white": "3.0"}[colour], "case": size}})
		}
	}
	for rows := 1; rows <= 2; rows++ {
		for n := 2; n <= 20; n++ {
			add(product{maker: "Pilework", mpn: fmt.Sprintf("PW254-%dX%02d", rows, n), series: "PW254", sheet: "pilework-pw254.pdf", kind: "header", value: fmt.Sprintf("%dx%d", rows, n),
				facts: map[string]string{"poles": fmt.Sprint(rows * n), "pitch": "2.54", "current": "3"}})
		}
	}
	add(product{maker: "Breakwater Logic", mpn: "BW-CTL48", series: "BW-CTL", sheet: "bw-ctl.pdf", kind: "controller", value: "ctl48", models: "BW-CTL48 models.zip",
		facts: map[string]string{"function": "Valve controller", "bits": "48", "supply": "3.3"}})
	for _, p := range named() {
		add(p)
	}
	return all
}

//go:embed more.csv
var more string

// named are products that are listed by name and price alone: whoever asks for them knows them.
func named() (out []product) {
	rows, err := csv.NewReader(strings.NewReader(more)).ReadAll()
	if err != nil {
		panic("more.csv: " + err.Error()) // it is a part of the program
	}
	for _, r := range rows[1:] {
		times, err := strconv.Atoi(r[4])
		if err != nil {
			panic("more.csv: " + err.Error())
		}
		out = append(out, product{maker: r[0], mpn: r[1], sheet: "catalogue.pdf", group: r[2], text: r[3], times: times, facts: map[string]string{}})
	}
	return out
}

// sells says whether a supplier has a product: each has most, and no two the same.
func sells(supplier string, p *product) bool { return chance(10, supplier, p.mpn) < 7 }

// stockOf is how many a supplier has.
func stockOf(supplier string, p *product) int {
	switch chance(9, supplier, p.mpn, "stock") {
	case 0:
		return 0
	case 1:
		return chance(90, p.mpn, supplier)
	}
	return 100 + chance(80000, supplier, p.mpn, "pieces")
}

// priceOf is the price of one in ten-thousandths, from 1, 10, 100, 1000 and 5000 on.
func priceOf(supplier string, p *product) [5]int {
	base := 80 + chance(400, p.mpn, "base")
	base *= max(p.times, map[string]int{"inductor": 8, "header": 8, "controller": 60}[p.kind], 1)
	base += chance(base/4, supplier, p.mpn, "share")
	return [5]int{base * 4, base * 3, base * 2, base * 3 / 2, base}
}

// fault is what is wrong with what a supplier says of a product; blank for most.
func fault(supplier string, p *product) string {
	switch chance(120, supplier, p.mpn, "fault") {
	case 0:
		return "no kind"
	case 1:
		return "price of zero"
	case 2:
		return "twice"
	case 3:
		return "other tolerance"
	}
	return ""
}

// look finds products by words: each has to begin one of the words that are said of the product, all but one where there are several. What a
// supplier finds is not always what was asked for.
func look(all []*listed, text string) (out []*listed) {
	asked := strings.Fields(strings.ToLower(strings.NewReplacer("±", "", "µ", "u", "μ", "u", "Ω", "", "ω", "").Replace(text)))
	if len(asked) == 0 {
		return nil
	}
	var near []*listed
	for _, p := range all {
		hit := 0
		for _, a := range asked {
			for _, w := range p.words {
				if w == a || len(a) > 3 && strings.HasPrefix(w, a) {
					hit++
					break
				}
			}
		}
		switch {
		case hit == len(asked):
			out = append(out, p)
		case hit == len(asked)-1 && len(asked) > 2 && len(near) < 12:
			near = append(near, p)
		}
	}
	return append(out, near...)
}

// Known is what the makers say of a product, and which suppliers list it: the right answers for whoever tests what was read.
type Known struct {
	Maker, MPN, Kind string
	Facts            map[string]string // resistance, capacitance, tolerance, power, voltage, dielectric, case, in plain words
	Over             bool
	Listed           map[string]string // supplier → what is wrong with what it says; blank: nothing
}

// Products lists all products of which something is said beside the name, with the right answers.
func Products() (out []Known) {
	all := catalogue()
	for i := range all {
		p := &all[i]
		if p.kind == "" {
			continue
		}
		k := Known{Maker: p.maker, MPN: p.mpn, Kind: p.kind, Facts: p.facts, Over: p.state == "over", Listed: map[string]string{}}
		for _, s := range []string{Northquay, Harbour, Sandbar, MarshLane} {
			if sells(s, p) {
				k.Listed[s] = fault(s, p)
			}
		}
		out = append(out, k)
	}
	return out
}
