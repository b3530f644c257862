package measure

import "strings"

// unit is one way of writing a unit: value in base units = (number + shift) × factor.
type unit struct {
	dim    Dimension
	factor Number
	shift  Number
	note   string // what the spelling says beyond the unit: "DC", "rms"
	ppm    bool   // a ratio in millionths: as a tolerance it stays so
	rare   bool   // spelled as SI has it, but of a size that nobody means: a doubt that names what else it may be
}

type spelling struct {
	dim      Dimension
	words    string // separated by blanks
	prefixes string // those in use
	rare     string // those that SI allows and nobody in the trade means
	factor   string
	note     string
}

// spellings lists how units are written; every prefix listed may stand before every word of its row (SI brochure,
// 9th edition, table 7; IEC 80000-13 for bits and bytes).
var spellings = []spelling{
	{Resistance, "Ω ohm Ohm ohms Ohms R", "umkMGT", "", "1", ""}, {Resistance, "kilohm kilohms Kilohm kiloohm", "", "", "1000", ""}, {Resistance, "megohm megohms Megohm", "", "", "1000000", ""},
	{Resistance, "milliohm milliohms", "", "", "0.001", ""},
	{Capacitance, "F", "fpnum", "kG", "1", ""}, {Capacitance, "farad farads", "", "", "1", ""}, {Capacitance, "mfd MFD uFd µFd", "", "", "0.000001", ""},
	{Inductance, "H", "fpnum", "kM", "1", ""}, {Inductance, "henry henries", "", "", "1", ""},
	{Voltage, "V volt volts Volt Volts", "numk", "fpMG", "1", ""},
	{Voltage, "Vdc VDC", "numk", "M", "1", "DC"}, {Voltage, "Vac VAC", "numk", "M", "1", "AC"},
	{Voltage, "Vrms VRMS", "numk", "M", "1", "rms"}, {Voltage, "Vpp Vp-p Vpkpk VPP", "numk", "M", "1", "p-p"}, {Voltage, "Vpk Vp", "numk", "M", "1", "pk"},
	{Current, "A amp amps Amp Amps ampere amperes", "fpnumk", "MG", "1", ""},
	{Current, "Adc ADC", "fpnumk", "M", "1", "DC"}, {Current, "Aac AAC", "fpnumk", "M", "1", "AC"}, {Current, "Arms ARMS", "fpnumk", "M", "1", "rms"},
	{Power, "W watt watts Watt Watts", "fpnumk", "MG", "1", ""},
	{Frequency, "Hz hertz", "kMGT", "mu", "1", ""},
	{Time, "s sec", "fpnum", "kMGT", "1", ""}, {Time, "second seconds", "", "", "1", ""}, {Time, "min minute minutes", "", "", "60", ""}, {Time, "h hr hrs hour hours", "k", "", "3600", ""}, {Time, "days day", "", "", "86400", ""},
	{Length, "m", "pnumcdk", "MG", "1", ""}, {Length, "metre metres meter meters", "", "", "1", ""}, {Length, "mil mils", "", "", "0.0000254", ""}, {Length, "in inch inches \" ''", "u", "", "0.0254", ""},
	{Length, "ft foot feet", "", "", "0.3048", ""}, {Length, "micron microns", "", "", "0.000001", ""},
	{Temperature, "°C degC deg.C Cel", "", "", "1", ""}, {Fahrenheit, "°F degF deg.F", "", "", "1", ""},
	{Ratio, "% pct percent", "", "", "1", ""}, {Ratio, "ppm PPM", "", "", "0.0001", ""}, {Ratio, "‰", "", "", "0.1", ""}, {Ratio, "ppb PPB", "", "", "0.0000001", ""},
	{Charge, "Ah", "num", "kM", "1", ""},
	{Energy, "Wh", "mk", "MG", "1", ""},
	{Mass, "g gram grams", "numk", "MG", "1", ""},
	{Level, "dB", "", "", "1", ""}, {PowerLevel, "dBm", "", "", "1", ""}, {AntennaGain, "dBi", "", "", "1", ""}, {CarrierLevel, "dBc", "", "", "1", ""},
	{SoundLevel, "dBA dB(A) dBSPL", "", "", "1", ""},
	{LuminousIntensity, "cd", "um", "kM", "1", ""},
	{LuminousFlux, "lm lumen lumens", "mk", "M", "1", ""}, {Illuminance, "lx lux", "mk", "M", "1", ""}, {Luminance, "cd/m² cd/m2 nit nits", "mk", "M", "1", ""},
	{Angle, "° deg degree degrees", "", "", "1", ""},
	{Data, "bit bits b", "kMGT", "", "1", ""}, {Data, "Kibit Kib", "", "", "1024", ""}, {Data, "Mibit Mib", "", "", "1048576", ""}, {Data, "Gibit Gib", "", "", "1073741824", ""},
	{Data, "B byte bytes Byte Bytes", "", "", "8", ""}, {Data, "KiB", "", "", "8192", ""}, {Data, "MiB", "", "", "8388608", ""}, {Data, "GiB", "", "", "8589934592", ""}, {Data, "TiB", "", "", "8796093022208", ""},
	{DataRate, "bit/s bps b/s bits/s baud Bd", "kMGT", "mu", "1", ""}, {DataRate, "B/s Byte/s byte/s Bps", "kMGT", "m", "8", ""},
	{TempCoefficient, "ppm/°C ppm/K ppm/C PPM/°C PPM/C PPM/K ppm/degC", "", "", "1", ""}, {RelativeDrift, "%/°C %/K %/C", "", "", "1", ""},
	{VoltageDrift, "V/°C V/K V/C", "num", "M", "1", ""},
	{Pressure, "Pa", "hkMG", "mu", "1", ""}, {Pressure, "bar", "mk", "M", "100000", ""},
	{WireGauge, "AWG awg", "", "", "1", ""},
	{ElectricCharge, "C coulomb coulombs", "fpnum", "kM", "1", ""}, {PulseEnergy, "J joule joules", "pnumk", "MG", "1", ""},
	{ApparentPower, "VA", "mk", "MG", "1", ""}, {ReactivePower, "var", "mk", "MG", "1", ""},
	{FluxDensity, "T tesla", "pnum", "fkM", "1", ""}, {FluxDensity, "gauss", "", "", "0.0001", ""},
	{Force, "N", "umk", "MG", "1", ""}, {Force, "gf", "k", "", "0.00980665", ""},
	{Torque, "N·m Nm N*m", "umk", "MG", "1", ""}, {Torque, "N·cm Ncm", "", "", "0.01", ""},
	{RotationRate, "rpm RPM r/min rev/min U/min min⁻¹", "k", "", "1", ""},
	{Area, "mm² mm2 mm^2 sqmm", "", "", "1", ""}, {Area, "cm² cm2 cm^2", "", "", "100", ""}, {Area, "m² m2 m^2", "", "", "1000000", ""},
	{SlewRate, "V/s", "mkMG", "u", "1", ""}, {SlewRate, "V/us V/µs", "mk", "M", "1000000", ""}, {SlewRate, "V/ns", "mk", "M", "1000000000", ""}, {SlewRate, "V/ms", "mk", "M", "1000", ""},
	{NoiseDensity, "V/√Hz V/rtHz V/sqrtHz V/√(Hz)", "fpnum", "M", "1", ""}, {CurrentNoise, "A/√Hz A/rtHz A/sqrtHz", "fpnum", "M", "1", ""},
	{ThermalResistance, "K/W °C/W degC/W C/W", "m", "k", "1", ""}, {ThermalConductivity, "W/(m·K) W/mK W/m·K W/(m.K) W/m-K W/(mK) W/(m*K)", "mk", "M", "1", ""},
	{SampleRate, "S/s SPS sps Sa/s", "kMG", "mu", "1", ""}, {MeltingIntegral, "A²s A2s A²·s A^2s A²sec", "", "", "1", ""},
	{Conductance, "S siemens", "pnum", "fkMG", "1", ""}, {Humidity, "%RH %rh %r.h. %rH", "", "", "1", ""}, {Sensitivity, "V/V", "num", "kM", "1", ""},
}

var prefixExp = map[byte]int32{'f': -15, 'p': -12, 'n': -9, 'u': -6, 'm': -3, 'c': -2, 'd': -1, 'h': 2, 'k': 3, 'M': 6, 'G': 9, 'T': 12}

// exactUnits maps a spelling in its own case; foldedUnits maps it in small letters to every unit it may stand for.
// lone maps, for a wanted dimension, a single letter that is only a prefix. All are built once, so that looking a
// unit up takes no memory.
var exactUnits, foldedUnits = buildUnits()
var lone = buildLone()

func buildUnits() (exact, folded map[string][]unit) {
	exact, folded = map[string][]unit{}, map[string][]unit{}
	add := func(text string, u unit) {
		if have := exact[text]; len(have) == 0 || have[0].rare {
			exact[text] = []unit{u}
		}
		low := lower(text)
		fresh := true
		for _, have := range folded[low] {
			fresh = fresh && have != u
		}
		if fresh {
			folded[low] = append(folded[low], u)
		}
	}
	for _, s := range spellings {
		for _, word := range strings.Fields(s.words) {
			u := unit{dim: s.dim, factor: MustParseNumber(s.factor), note: s.note, ppm: strings.EqualFold(word, "ppm")}
			add(word, u)
			for k, list := range [...]string{s.prefixes, s.rare} {
				for i := range len(list) {
					p := list[i]
					v := u
					v.factor, v.rare = mustNumber(u.factor.Mul(Number{1, prefixExp[p]})), k == 1
					add(string(p)+word, v)
					if p == 'u' {
						add("µ"+word, v)
					}
					if p == 'M' && s.dim == Resistance {
						add("Meg"+word, v)
						add("MEG"+word, v)
					}
				}
			}
		}
	}
	// A kelvin figure is a temperature shifted by 273.15 exactly (ITS-90).
	add("K", unit{dim: Temperature, factor: Whole(1), shift: MustParseNumber("-273.15")})
	delete(folded, "k")
	// "2.2K" is written for 2.2 kΩ far more often than for kelvin, and nothing in it decides.
	exact["K"] = []unit{{dim: Resistance, factor: Number{1, 3}}, exact["K"][0]}
	// "85C" is written for 85 °C far more often than for coulombs, and nothing in it decides.
	exact["C"] = []unit{{dim: Temperature, factor: Whole(1)}, {dim: ElectricCharge, factor: Whole(1)}}
	// Old catalogues wrote MF and mf for microfarad.
	milli, micro := exact["mF"][0], exact["uF"][0]
	exact["MF"], folded["mf"] = []unit{milli, micro}, []unit{milli, micro}
	for word, sizes := range map[string][2]int64{"kB": {8e3, 8 << 10}, "KB": {8e3, 8 << 10}, "MB": {8e6, 8 << 20}, "GB": {8e9, 8 << 30}, "TB": {8e12, 8 << 40},
		"kbyte": {8e3, 8 << 10}, "Kbyte": {8e3, 8 << 10}, "KByte": {8e3, 8 << 10}, "kByte": {8e3, 8 << 10}, "Mbyte": {8e6, 8 << 20}, "MByte": {8e6, 8 << 20},
		"Kbit": {1e3, 1 << 10}, "Kb": {1e3, 1 << 10}, "KBit": {1e3, 1 << 10}, "KBIT": {1e3, 1 << 10}} {
		exact[word] = []unit{{dim: Data, factor: Whole(sizes[0])}, {dim: Data, factor: Whole(sizes[1])}}
	}
	// The prefix of "kA²s" may belong to the ampere, and is squared then (SI brochure, 5.1), or to the whole.
	for p, e := range map[string]int32{"k": 3, "m": -3, "u": -6, "µ": -6} {
		for _, word := range []string{"A²s", "A2s", "A²·s", "A^2s", "A²sec"} {
			exact[p+word] = []unit{{dim: MeltingIntegral, factor: Number{1, 2 * e}}, {dim: MeltingIntegral, factor: Number{1, e}}}
		}
	}
	delete(folded, "g") // "10G", "10 M" and "10 n" are not grams, metres and newtons
	for _, letter := range []string{"m", "n", "f", "t"} {
		delete(folded, letter)
	}
	return exact, folded
}

// lower writes ASCII letters small and leaves Ω and the like.
func lower(s string) string {
	return strings.Map(func(r rune) rune {
		if r >= 'A' && r <= 'Z' {
			return r | 0x20
		}
		return r
	}, s)
}

// buildLone gives a single letter that stands for a prefix where the unit is known from elsewhere: "10k" in a column of
// resistances. A letter whose case does not agree with its prefix, and that has another reading, keeps both.
func buildLone() (t [dimensions][128][]unit) {
	for d := range dimensions {
		has := func(p byte) bool { return strings.IndexByte(dims[d].show, p) >= 0 }
		of := func(ps ...byte) (us []unit) {
			for _, p := range ps {
				us = append(us, unit{dim: d, factor: Number{1, prefixExp[p]}})
			}
			return us
		}
		for c := byte('A'); c <= 'z'; c++ {
			if us := exactUnits[string(c)]; len(us) > 0 && us[0].dim == d && d != Resistance {
				continue // the letter is the unit itself
			}
			switch {
			case !letter(c):
			case c == 'm' && has('M') && has('m'):
				t[d][c] = of('m', 'M')
			case c == 'M' && d == Capacitance:
				t[d][c] = of('m', 'u') // a capital M on a capacitor has meant both
			case c == 'M' && has('M'):
				t[d][c] = of('M')
			case c == 'M' && has('m'):
				t[d][c] = append(of('m'), unit{dim: d, factor: Number{1, 6}})
			case c == 'K' && has('k'):
				t[d][c] = of('k')
			case prefixExp[c] != 0 && (has(c) || c == 'm' && d == Capacitance):
				t[d][c] = of(c)
			case c >= 'A' && c <= 'Z' && has(c|0x20) && prefixExp[c|0x20] != 0:
				t[d][c] = of(c | 0x20)
			}
		}
	}
	t[Length]['M'] = []unit{{dim: Length, factor: Whole(1)}, {dim: Length, factor: Number{1, -3}}}
	t[Time]['m'] = []unit{{dim: Time, factor: Number{1, -3}}, {dim: Time, factor: Whole(60)}}
	t[Time]['M'] = t[Time]['m']
	for c, shift := range map[byte]uint{'K': 10, 'k': 10, 'M': 20, 'G': 30, 'T': 40} { // "64K" of a memory
		size := int64(1) << shift
		t[Data][c] = []unit{{dim: Data, factor: Whole(size)}, {dim: Data, factor: Number{1, int32(shift / 10 * 3)}}, {dim: Data, factor: Whole(8 * size)}}
	}
	return t
}

// unitsFor finds what a unit spelling may mean. More than one result is a doubt.
func unitsFor(text string, want Dimension) []unit {
	if len(text) == 1 && text[0] < 0x80 {
		if us := lone[want][text[0]]; us != nil {
			return us
		}
	} else if text == "µ" {
		return lone[want]['u']
	} else if len(text) == 3 && strings.EqualFold(text, "meg") {
		return lone[want]['M']
	}
	exact := exactUnits[text]
	if len(exact) > 1 {
		return among(exact, want)
	}
	if len(exact) == 1 && (want == None || exact[0].dim == want) {
		return exact
	}
	if len(exact) == 0 && len(text) > 1 && text[0] == 'K' { // no unit begins with a capital K but the kelvin's
		if us := exactUnits[smallK(text)]; len(us) == 1 && (want == None || us[0].dim == want) {
			return us
		}
	}
	folded := foldedOf(text)
	if len(exact) == 0 {
		return usual(among(folded, want), text)
	}
	if fit := of(folded, want); len(fit) > 0 && shouting(text) {
		return usual(fit, text)
	} else if len(fit) > 0 { // "5 h" where henries are wanted
		return append(exact[:1:1], fit...)
	}
	return exact
}

var kUnits = func() map[string]string {
	m := map[string]string{}
	for word := range exactUnits {
		if word[0] == 'k' {
			m["K"+word[1:]] = word
		}
	}
	return m
}()

func smallK(text string) string { return kUnits[text] }

// usual leaves out of what an inexact spelling may mean the sizes that nobody means, where others are left; of the ways
// to write a data rate the one whose letters agree in all but the prefix goes first.
func usual(us []unit, text string) []unit {
	if len(us) < 2 {
		return us
	}
	var out []unit
	for _, u := range us {
		if !u.rare {
			out = append(out, u)
		}
	}
	if len(out) == 2 && out[0].dim == DataRate && len(text) > 1 {
		other := string(text[0]^0x20) + text[1:]
		if us := exactUnits[other]; len(us) == 1 && us[0].dim == DataRate {
			return us
		}
	}
	if len(out) == 0 {
		return us
	}
	return out
}

// counted keeps or makes the units of memory that a source counts in: a prefix of ten's powers is one of two's where the
// source says so. What names its powers of two (Kibit) stays.
func counted(us []unit, b Binary) (out []unit) {
	for _, u := range us {
		bits, ok := u.factor.Int64()
		if !ok {
			return us
		}
		for k, dec := 1, int64(1000); k <= 4; k, dec = k+1, dec*1000 {
			two := int64(1) << (10 * k)
			switch {
			case b == BinaryPowers && (bits == dec || bits == 8*dec):
				u.factor = Whole(bits / dec * two)
			case b == DecimalPowers && len(us) > 1 && (bits == two || bits == 8*two):
				u.factor = Whole(bits / two * dec)
			}
		}
		fresh := true
		for _, have := range out {
			fresh = fresh && have != u
		}
		if fresh {
			out = append(out, u)
		}
	}
	return out
}

// others are the further meanings of a spelling that SI reads as u: what its letters may have meant in another case.
func others(text string, u unit, want Dimension) (out []unit) {
	for _, o := range foldedOf(text) {
		if o != u && !o.rare && (o.dim == u.dim || o.dim == want) {
			out = append(out, o)
		}
	}
	return out
}

// foldedOf looks a spelling up in small letters.
func foldedOf(text string) []unit {
	var low [24]byte
	if len(text) > len(low) {
		return nil
	}
	for i := range len(text) {
		c := text[i]
		if c >= 'A' && c <= 'Z' {
			c |= 0x20
		}
		low[i] = c
	}
	return foldedUnits[string(low[:len(text)])]
}

// of keeps the units of a dimension.
func of(us []unit, want Dimension) (fit []unit) {
	for _, u := range us {
		if u.dim == want {
			fit = append(fit, u)
		}
	}
	return fit
}

// among keeps the units of the wanted dimension where there are any.
func among(us []unit, want Dimension) []unit {
	if len(us) == 1 || want == None {
		return us
	}
	if fit := of(us, want); len(fit) > 0 {
		return fit
	}
	return us
}

// shouting says whether a spelling is all capitals, as in a source that has no small letters.
func shouting(s string) bool {
	n := 0
	for i := range len(s) {
		if s[i] >= 'a' && s[i] <= 'z' || s[i] >= 0x80 {
			return false
		}
		if s[i] >= 'A' && s[i] <= 'Z' {
			n++
		}
	}
	return n > 1
}

// UnitOf says whether a text is a unit of a dimension, and of that only.
func UnitOf(unit, dimension string) bool {
	d, ok := ParseDimension(dimension)
	us := unitsFor(foldSigns(unit), d)
	return ok && len(us) == 1 && us[0].dim == d
}

// KnownUnit says whether a text is a unit of any dimension.
func KnownUnit(unit string) bool { return unit != "" && len(unitsFor(foldSigns(unit), None)) > 0 }

// unitText takes the longest run that is spelled like a unit: letters, Ω, °, %, and a slash between letters.
func (p *parser) unitText() string {
	from := p.i
	for p.i < len(p.s) {
		c := p.peek()
		ok := letter(c) || c == '%' || c == '"' && (p.i == from || p.s[p.i-1] == 'u' || p.s[p.i-1] == 0xB5) || c == '\'' && p.i+1 < len(p.s) && p.s[p.i+1] == '\'' && p.i == from || c == '\'' && p.i == from+1 && p.s[from] == '\''
		next := byte(0)
		if p.i+1 < len(p.s) {
			next = p.s[p.i+1]
		}
		switch {
		case c >= 0x80:
			ok = !sign(p.s[p.i:]) && fractionAt(p.s[p.i:]) == nil
		case p.i == from:
		case c == '/' || c == '(' && p.s[p.i-1] == '/' || (c == '.' || c == '*') && letter(p.s[p.i-1]) && letter(next):
			ok = letter(next) || next >= 0x80 && !sign(p.s[p.i+1:]) || c == '/' && next == '('
		case c == '(':
			ok = strings.HasPrefix(p.s[p.i:], "(A)") && strings.HasSuffix(p.s[from:p.i], "dB")
		case c == ')' || c == '-':
			ok = strings.IndexByte(p.s[from:p.i], '(') > 0 || c == '-' && (next == 'p' && p.s[p.i-1] == 'p' || next == 'K' && strings.HasPrefix(p.s[from:p.i], "W/m"))
		case c == '^':
			ok = next == '2' && (p.s[p.i-1] == 'm' || p.s[p.i-1] == 'A')
		case c == '2':
			ok = (p.s[p.i-1] == 'm' || p.s[p.i-1] == 'A' || p.s[p.i-1] == '^') && !digit(next)
		}
		if !ok {
			break
		}
		p.i++
	}
	return p.s[from:p.i]
}

// sign says whether s begins with a sign that stands between values and so ends a unit.
func sign(s string) bool {
	for _, mark := range [...]string{"±", "…", "≤", "≥", "×", "÷", "≈", "→"} {
		if strings.HasPrefix(s, mark) {
			return true
		}
	}
	return false
}

// shownFactor names a unit by its size, such as "mΩ".
func shownFactor(u unit) string {
	for p, e := range prefixExp {
		if u.factor == (Number{1, e}) {
			if p == 'u' {
				return "µ" + dims[u.dim].base
			}
			return string(p) + dims[u.dim].base
		}
	}
	return u.factor.String() + " " + dims[u.dim].base
}

// base converts a number of u to base units, exactly.
func (u unit) base(n Number) (Number, error) {
	if u.shift.coef != 0 {
		var err error
		if n, err = n.Add(u.shift); err != nil {
			return n, err
		}
	}
	if u.factor.coef == 1 {
		return NewNumber(n.coef, int(n.exp)+int(u.factor.exp))
	}
	return n.Mul(u.factor)
}
