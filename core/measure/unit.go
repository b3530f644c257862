package measure

import (
	"sort"
	"strings"
)

// Dimension is the kind of thing a measure measures. The zero value means "not known".
type Dimension uint8

// The dimensions, each with its base unit in the table below.
const (
	None Dimension = iota
	Resistance
	Capacitance
	Inductance
	Voltage
	Current
	Power
	Frequency
	Time
	Length
	Temperature
	Ratio
	Charge
	Energy
	Mass
	Level
	LuminousIntensity
	LuminousFlux
	Angle
	Data
	DataRate
	TempCoefficient
	Pressure
	dimensions
)

type dimension struct {
	name string
	base string // as shown
	ucum string // UCUM code of the base unit
	show string // prefixes used for showing, smallest first; "" stands for the base unit
}

var dims = [dimensions]dimension{
	None:              {"", "", "", ""},
	Resistance:        {"resistance", "Ω", "Ohm", "um kMG"},
	Capacitance:       {"capacitance", "F", "F", "pnu "},
	Inductance:        {"inductance", "H", "H", "pnum "},
	Voltage:           {"voltage", "V", "V", "num k"},
	Current:           {"current", "A", "A", "fpnum k"},
	Power:             {"power", "W", "W", "num k"},
	Frequency:         {"frequency", "Hz", "Hz", "m kMG"},
	Time:              {"time", "s", "s", "fpnum "},
	Length:            {"length", "m", "m", "m"},
	Temperature:       {"temperature", "°C", "Cel", " "},
	Ratio:             {"ratio", "%", "%", " "},
	Charge:            {"charge", "Ah", "A.h", "um "},
	Energy:            {"energy", "Wh", "W.h", "m k"},
	Mass:              {"mass", "g", "g", "um k"},
	Level:             {"level", "dB", "dB", " "},
	LuminousIntensity: {"luminous-intensity", "cd", "cd", "um "},
	LuminousFlux:      {"luminous-flux", "lm", "lm", "m "},
	Angle:             {"angle", "°", "deg", " "},
	Data:              {"data", "bit", "bit", " kMG"},
	DataRate:          {"data-rate", "bit/s", "bit/s", " kMG"},
	TempCoefficient:   {"temperature-coefficient", "ppm/°C", "[ppm]/Cel", " "},
	Pressure:          {"pressure", "Pa", "Pa", " hkM"},
}

// String returns the dimension's name, such as "resistance".
func (d Dimension) String() string { return dims[d].name }

// UCUM returns the UCUM code of the base unit (Unified Code for Units of Measure, §2.4).
func (d Dimension) UCUM() string { return dims[d].ucum }

// Base returns the base unit as people write it, such as "Ω".
func (d Dimension) Base() string { return dims[d].base }

// Dimensions lists the names of all dimensions, sorted.
func Dimensions() []string {
	var names []string
	for _, d := range dims[1:] {
		names = append(names, d.name)
	}
	sort.Strings(names)
	return names
}

// ParseDimension finds a dimension by its name.
func ParseDimension(name string) (Dimension, bool) {
	for i, d := range dims {
		if i > 0 && d.name == name {
			return Dimension(i), true
		}
	}
	return None, false
}

// unit is one way of writing a unit: value in base units = number × factor + offset.
type unit struct {
	dim    Dimension
	factor Number
	offset Number
}

type spelling struct {
	dim      Dimension
	words    string // separated by blanks
	prefixes string
	factor   string
}

const wide = "fpnumkMG"

// spellings lists how units are written; every prefix listed may stand before every word of its row.
var spellings = []spelling{
	{Resistance, "Ω ohm Ohm ohms Ohms R", "umkMG", "1"},
	{Capacitance, "F", "fpnum", "1"}, {Capacitance, "farad", "", "1"},
	{Inductance, "H", "pnum", "1"}, {Inductance, "henry", "", "1"},
	{Voltage, "V Vdc VDC Vac VAC Vrms volt volts", "numkM", "1"},
	{Current, "A Adc Arms amp amps", "fpnumkM", "1"},
	{Power, "W watt watts", "numkM", "1"},
	{Frequency, "Hz", "mkMG", "1"},
	{Time, "s sec", wide, "1"}, {Time, "min", "", "60"}, {Time, "h hr hrs hours", "", "3600"},
	{Length, "m", "numck", "1"}, {Length, "mil mils", "", "0.0000254"}, {Length, "in inch inches \" ″", "", "0.0254"},
	{Temperature, "°C degC ℃ Cel", "", "1"},
	{Ratio, "% pct percent", "", "1"}, {Ratio, "ppm PPM", "", "0.0001"},
	{Charge, "Ah", "um", "1"},
	{Energy, "Wh", "mk", "1"},
	{Mass, "g gram grams", "umk", "1"},
	{Level, "dB", "", "1"},
	{LuminousIntensity, "cd", "um", "1"},
	{LuminousFlux, "lm", "m", "1"},
	{Angle, "° deg degrees", "", "1"},
	{Data, "bit bits b", "kMG", "1"},
	{DataRate, "bit/s bps b/s bits/s baud", "kMG", "1"},
	{TempCoefficient, "ppm/°C ppm/K ppm/C PPM/°C PPM/C ppm/℃", "", "1"},
	{Pressure, "Pa", "hkM", "1"}, {Pressure, "bar", "m", "100000"},
}

var prefixExp = map[byte]int32{'f': -15, 'p': -12, 'n': -9, 'u': -6, 'm': -3, 'c': -2, 'h': 2, 'k': 3, 'M': 6, 'G': 9}

// exactUnits maps a spelling in its own case; foldedUnits maps lower case to every unit it may stand for.
var exactUnits, foldedUnits = buildUnits()

func buildUnits() (map[string]unit, map[string][]unit) {
	exact, folded := map[string]unit{}, map[string][]unit{}
	add := func(text string, u unit) {
		exact[text] = u
		low := strings.ToLower(text)
		for _, have := range folded[low] {
			if have == u {
				return
			}
		}
		folded[low] = append(folded[low], u)
	}
	for _, s := range spellings {
		for _, word := range strings.Fields(s.words) {
			factor := MustParseNumber(s.factor)
			add(word, unit{dim: s.dim, factor: factor})
			for i := range len(s.prefixes) {
				p := s.prefixes[i]
				f := mustNumber(factor.Mul(Number{1, prefixExp[p]}))
				add(string(p)+word, unit{dim: s.dim, factor: f})
				if p == 'M' && s.dim == Resistance {
					add("Meg"+word, unit{dim: s.dim, factor: f})
				}
			}
		}
	}
	// A kelvin figure is a temperature shifted by 273.15 exactly (ITS-90).
	add("K", unit{Temperature, Whole(1), MustParseNumber("-273.15")})
	delete(folded, "k")
	return exact, folded
}

// foldSigns rewrites the several code points of µ and Ω to the one the tables know.
func foldSigns(s string) string {
	for i := range len(s) {
		if s[i] >= 0x80 {
			return signs.Replace(s)
		}
	}
	return s
}

var signs = strings.NewReplacer("µ", "u", "μ", "u", "\u2126", "Ω", "º", "°", "％", "%", "−", "-", "–", "-", "—", "-", "\u00a0", " ", "\u202f", " ", "\u2009", " ", "∼", "~", "～", "~", "⁓", "~")

// unitsFor finds what a unit spelling may mean. More than one result is a doubt.
func unitsFor(text string, want Dimension) []unit {
	if want != None {
		if us := prefixOnly(text, want); us != nil {
			return us
		}
	}
	if text == "MF" { // old catalogues wrote it for microfarad
		return []unit{exactUnits["mF"], exactUnits["uF"]}
	}
	u, ok := exactUnits[text]
	folded := foldedUnits[strings.ToLower(text)]
	if ok && (len(folded) < 2 || !shouting(text)) {
		return []unit{u}
	}
	if len(folded) > 1 && want != None {
		var fit []unit
		for _, f := range folded {
			if f.dim == want {
				fit = append(fit, f)
			}
		}
		if len(fit) > 0 {
			return fit
		}
	}
	if ok && len(folded) == 0 {
		return []unit{u}
	}
	return folded
}

// shouting says whether a spelling is all capitals, as in a source that has no small letters.
func shouting(s string) bool {
	n := 0
	for _, r := range s {
		if r >= 'a' && r <= 'z' {
			return false
		}
		if r > 127 {
			return false
		}
		if r >= 'A' && r <= 'Z' {
			n++
		}
	}
	return n > 1
}

// prefixOnly reads a lone prefix ("4.7 k", "100n") as one of the wanted base unit. A case that could mean two
// prefixes gives both.
func prefixOnly(text string, want Dimension) []unit {
	has := func(p byte) bool { return strings.IndexByte(dims[want].show, p) >= 0 }
	of := func(ps ...byte) (us []unit) {
		for _, p := range ps {
			us = append(us, unit{dim: want, factor: Number{1, prefixExp[p]}})
		}
		return us
	}
	if strings.EqualFold(text, "meg") && has('M') {
		return of('M')
	}
	if len(text) != 1 || exactUnits[text].dim == want && want != Resistance {
		return nil
	}
	switch c := text[0]; {
	case c == 'm' && has('M') && has('m'):
		return of('m', 'M')
	case c == 'M' && has('M'):
		return of('M')
	case c == 'M' && has('m'):
		return of('m', 'u') // a capital M on a capacitor has meant both
	case c == 'K' && has('k'):
		return of('k')
	case prefixExp[c] != 0 && has(c):
		return of(c)
	case c >= 'A' && c <= 'Z' && has(c|0x20):
		return of(c | 0x20)
	}
	return nil
}
