package measure

import "strings"

// Case is a chip case by both of its codes. The same four digits can stand in either column: 0402 metric is 01005
// inch, and not 0402 inch.
type Case struct{ Inch, Metric string }

// String shows a case by both codes.
func (c Case) String() string { return c.Inch + " inch (" + c.Metric + " metric)" }

// chipCases pairs the inch and the metric code of each chip case, as length and width in hundredths of an inch and in
// tenths of a millimetre (IEC 60115-8 and IEC 61188-7 use the metric ones; the trade mostly the inch ones).
var chipCases = []Case{
	{"008004", "0201"}, {"009005", "03015"}, {"01005", "0402"}, {"0201", "0603"}, {"0202", "0606"}, {"0303", "0808"},
	{"0402", "1005"}, {"0404", "1010"}, {"0504", "1310"}, {"0505", "1414"}, {"0508", "1220"}, {"0603", "1608"}, {"0605", "1614"}, {"0612", "1632"}, {"0805", "2012"},
	{"0806", "2016"}, {"1008", "2520"}, {"1111", "2828"}, {"1206", "3216"}, {"1210", "3225"}, {"1218", "3246"}, {"1411", "3528"}, {"1606", "4015"},
	{"1806", "4516"}, {"1808", "4520"}, {"1812", "4532"}, {"1825", "4564"}, {"2010", "5025"}, {"2020", "5050"}, {"2211", "5728"}, {"2220", "5750"}, {"2225", "5763"}, {"2312", "6032"},
	{"2512", "6332"}, {"2725", "7162"}, {"2728", "7271"}, {"2816", "7142"}, {"2917", "7343"}, {"2920", "7351"}, {"3920", "9851"},
}

var casesByInch, casesByMetric = func() (inch, metric map[string]Case) {
	inch, metric = map[string]Case{}, map[string]Case{}
	for _, c := range chipCases {
		inch[c.Inch], metric[c.Metric] = c, c
	}
	return
}()

// CaseFromMetric returns the inch code of a metric chip code.
func CaseFromMetric(metric string) (inch string, ok bool) {
	c, ok := casesByMetric[metric]
	return c.Inch, ok
}

// CaseToMetric returns the metric code of an inch chip code.
func CaseToMetric(inch string) (metric string, ok bool) {
	c, ok := casesByInch[inch]
	return c.Metric, ok
}

// caseSystemOf is one of the two systems of chip codes.
type caseSystemOf uint8

const (
	inchCodes caseSystemOf = iota + 1
	metricCodes
)

// caseSystems are the words that name the system of a chip code.
var caseSystems = map[string]caseSystemOf{"inch": inchCodes, "imperial": inchCodes, "in": inchCodes, "i": inchCodes, "\"": inchCodes, "eia": inchCodes, "metric": metricCodes, "m": metricCodes, "mm": metricCodes}

// ReadCase reads a chip code: "0805", "2012 metric", "metric 2012", "0402 inch", "1005M", "0603 (1608 metric)". A code that both
// systems have and that names none is a doubt; ok is false for a text that is no chip code.
func ReadCase(text string) (cases []Case, why string, ok bool) {
	s := strings.ToLower(strings.TrimSpace(text))
	if len(s) > 40 {
		return nil, "", false
	}
	for _, lead := range []string{"case ", "size "} {
		s = strings.TrimPrefix(s, lead)
	}
	if word, code, ok := strings.Cut(s, " "); ok && caseSystems[strings.Trim(word, ",():")] != 0 && len(code) <= 6 { // the system stands first
		s = code + " " + strings.Trim(word, ",():")
	}
	n := 0
	for n < len(s) && digit(s[n]) {
		n++
	}
	if n < 4 || n > 6 {
		return nil, "", false
	}
	code, rest := s[:n], strings.Trim(s[n:], " ,()[]")
	in, isInch := casesByInch[code]
	me, isMetric := casesByMetric[code]
	switch {
	case rest == "":
	case caseSystems[rest] == inchCodes:
		return []Case{in}, "", isInch
	case caseSystems[rest] == metricCodes:
		return []Case{me}, "", isMetric
	default:
		if second, _, both := ReadCase(rest); both && len(second) == 1 && (second[0] == in || second[0] == me) {
			return second, "", true
		}
		if second, _, both := ReadCase(rest); both && len(second) == 2 && isInch && second[0] != second[1] {
			for _, c := range second {
				if c == in || c == me {
					return []Case{c}, "", true
				}
			}
		}
		return nil, "", false
	}
	switch {
	case isInch && isMetric:
		return []Case{in, me}, "the code is used in inch and in metric, for different cases", true
	case isInch:
		return []Case{in}, "", true
	case isMetric:
		return []Case{me}, "", true
	}
	return nil, "", false
}
