package measure

// chipCodes pairs the inch and the metric code of each chip case, as (length, width) in hundredths of an inch and
// tenths of a millimetre (the codes of IEC 60115-8 and EIA RS-198). The same four digits can be in both columns.
var chipCodes = [][2]string{
	{"008004", "0201"}, {"01005", "0402"}, {"0201", "0603"}, {"0402", "1005"}, {"0603", "1608"}, {"0805", "2012"},
	{"1206", "3216"}, {"1210", "3225"}, {"1806", "4516"}, {"1812", "4532"}, {"1825", "4564"}, {"2010", "5025"},
	{"2220", "5750"}, {"2512", "6332"},
}

// CaseFromMetric returns the inch code of a metric chip code.
func CaseFromMetric(metric string) (inch string, ok bool) {
	for _, c := range chipCodes {
		if c[1] == metric {
			return c[0], true
		}
	}
	return "", false
}

// CaseToMetric returns the metric code of an inch chip code.
func CaseToMetric(inch string) (metric string, ok bool) {
	for _, c := range chipCodes {
		if c[0] == inch {
			return c[1], true
		}
	}
	return "", false
}
