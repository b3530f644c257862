package market

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// filterFields are the fields by which two of the suppliers filter, each in its words, and the fact that each says.
var filterFields = map[string]map[string]string{
	Northquay: {"Resistance": "resistance", "Capacitance": "capacitance", "Inductance": "inductance", "Tolerance": "tolerance", "Rated voltage": "voltage", "Rated power": "power", "Dielectric": "dielectric", "Case (inch)": "case", "Saturation current": "isat"},
	Harbour:   {"r_nom": "resistance", "c_nom": "capacitance", "l_nom": "inductance", "tol": "tolerance", "v_max": "voltage", "p_max": "power", "diel": "dielectric", "size_inch": "case", "i_sat": "isat"},
}

var filterForm = regexp.MustCompile(`^(.+?)(>=|<=|=)(.+)$`)

// narrow leaves those of a supplier's products for which filters such as "Resistance=4700" and "Rated voltage>=25" hold; of a field that it does not
// know it takes no notice.
func narrow(supplier string, all []*listed, filters []string) []*listed {
	out := slices.Clone(all)
	for _, f := range filters {
		m := filterForm.FindStringSubmatch(f)
		if m == nil {
			continue
		}
		fact := filterFields[supplier][m[1]]
		if fact == "" {
			continue
		}
		want, number := amountOf(m[3])
		out = slices.DeleteFunc(out, func(l *listed) bool {
			text := l.facts[fact]
			if fact == "tolerance" {
				text = l.tolerance()
			}
			has, ok := amountOf(text)
			switch {
			case text == "":
				return true
			case !number || !ok || fact == "case":
				return !strings.EqualFold(text, m[3])
			case m[2] == ">=":
				return has < want*(1-1e-9)
			case m[2] == "<=":
				return has > want*(1+1e-9)
			}
			return has < want*(1-1e-9) || has > want*(1+1e-9)
		})
	}
	return out
}

// ofClass leaves those of a class, in a supplier's word for a kind.
func ofClass(all []*listed, class string, words map[string]string) []*listed {
	if class == "" {
		return all
	}
	return slices.DeleteFunc(slices.Clone(all), func(l *listed) bool { return words[l.kind] != class || l.fault == "no kind" })
}

// amountOf reads "4.7 kΩ", "±1 %" and "100 nF" as a number of the unit.
func amountOf(text string) (float64, bool) {
	s := strings.TrimLeft(strings.TrimSpace(text), "±+/-")
	end := strings.IndexFunc(s, func(r rune) bool { return (r < '0' || r > '9') && r != '.' })
	if end < 0 {
		end = len(s)
	}
	n, err := strconv.ParseFloat(s[:end], 64)
	if err != nil {
		return 0, false
	}
	unit := strings.TrimSpace(s[end:])
	for prefix, by := range map[string]float64{"p": 1e-12, "n": 1e-9, "µ": 1e-6, "u": 1e-6, "k": 1e3, "M": 1e6} {
		if strings.HasPrefix(unit, prefix) && (prefix != "m" || len(unit) > 1) {
			return n * by, true
		}
	}
	if strings.HasPrefix(unit, "m") && len(unit) > 1 {
		return n / 1e3, true
	}
	return n, true
}
