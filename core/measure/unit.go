package measure

import "strings"

// unit is one way of writing a unit: value in base units = (number + shift) × factor.
type unit struct {
	dim    Dimension
	factor Number
	shift  Number
	note   string // what the spelling says beyond the unit: "DC", "rms"
	ppm    bool   // a ratio in millionths: as a tolerance it stays so
}

type spelling struct {
	dim      Dimension
	words    string // separated by blanks
	prefixes string
	factor   string
	note     string
}

// spellings lists how units are written; every prefix listed may stand before every word of its row.
var spellings = []spelling{
	{Resistance, "Ω ohm Ohm ohms Ohms R", "umkMGT", "1", ""}, {Resistance, "kilohm kilohms", "", "1000", ""}, {Resistance, "megohm megohms", "", "1000000", ""},
	{Capacitance, "F", "fpnum", "1", ""}, {Capacitance, "farad", "", "1", ""},
	{Inductance, "H", "pnum", "1", ""}, {Inductance, "henry", "", "1", ""},
	{Voltage, "V volt volts Volt Volts", "numkM", "1", ""},
	{Voltage, "Vdc VDC", "numkM", "1", "DC"}, {Voltage, "Vac VAC", "numkM", "1", "AC"},
	{Voltage, "Vrms VRMS", "numkM", "1", "rms"}, {Voltage, "Vpp Vp-p Vpkpk VPP", "numkM", "1", "p-p"}, {Voltage, "Vpk Vp", "numkM", "1", "pk"},
	{Current, "A amp amps Amp Amps ampere", "fpnumk", "1", ""},
	{Current, "Adc ADC", "fpnumk", "1", "DC"}, {Current, "Aac AAC", "fpnumk", "1", "AC"}, {Current, "Arms ARMS", "fpnumk", "1", "rms"},
	{Power, "W watt watts Watt Watts", "numkM", "1", ""},
	{Frequency, "Hz", "mkMGT", "1", ""},
	{Time, "s sec", "fpnum", "1", ""}, {Time, "min", "", "60", ""}, {Time, "h hr hrs hours", "k", "3600", ""}, {Time, "days day", "", "86400", ""},
	{Length, "m", "numck", "1", ""}, {Length, "mil mils", "", "0.0000254", ""}, {Length, "in inch inches \" ″ ''", "", "0.0254", ""},
	{Length, "ft foot feet", "", "0.3048", ""}, {Length, "micron microns", "", "0.000001", ""},
	{Temperature, "°C degC ℃ Cel", "", "1", ""}, {Fahrenheit, "°F degF ℉", "", "1", ""},
	{Ratio, "% pct percent", "", "1", ""}, {Ratio, "ppm PPM", "", "0.0001", ""}, {Ratio, "‰", "", "0.1", ""}, {Ratio, "ppb", "", "0.0000001", ""},
	{Charge, "Ah", "um", "1", ""},
	{Energy, "Wh", "mk", "1", ""},
	{Mass, "g gram grams", "umk", "1", ""},
	{Level, "dB", "", "1", ""}, {PowerLevel, "dBm", "", "1", ""}, {AntennaGain, "dBi", "", "1", ""}, {CarrierLevel, "dBc", "", "1", ""},
	{SoundLevel, "dBA dB(A) dBSPL", "", "1", ""},
	{LuminousIntensity, "cd", "um", "1", ""},
	{LuminousFlux, "lm lumen lumens", "m", "1", ""}, {Illuminance, "lx lux", "mk", "1", ""}, {Luminance, "cd/m² cd/m2 nit nits", "mk", "1", ""},
	{Angle, "° deg degrees", "", "1", ""},
	{Data, "bit bits b", "kMGT", "1", ""}, {Data, "Kibit Kib", "", "1024", ""}, {Data, "Mibit Mib", "", "1048576", ""},
	{Data, "B byte bytes Byte Bytes", "", "8", ""}, {Data, "KiB", "", "8192", ""}, {Data, "MiB", "", "8388608", ""}, {Data, "GiB", "", "8589934592", ""},
	{DataRate, "bit/s bps b/s bits/s baud Bd", "kMGT", "1", ""}, {DataRate, "B/s Byte/s byte/s", "kMG", "8", ""},
	{TempCoefficient, "ppm/°C ppm/K ppm/C PPM/°C PPM/C PPM/K ppm/℃ ppm/degC", "", "1", ""}, {RelativeDrift, "%/°C %/K %/C", "", "1", ""},
	{VoltageDrift, "V/°C V/K V/C", "num", "1", ""},
	{Pressure, "Pa", "hkM", "1", ""}, {Pressure, "bar", "m", "100000", ""},
	{WireGauge, "AWG awg", "", "1", ""},
	{ElectricCharge, "C coulomb", "fpnum", "1", ""}, {PulseEnergy, "J joule joules", "numkM", "1", ""},
	{ApparentPower, "VA", "mkM", "1", ""}, {ReactivePower, "var", "mkM", "1", ""},
	{FluxDensity, "T tesla", "num", "1", ""}, {FluxDensity, "gauss", "", "0.0001", ""},
	{Force, "N", "mk", "1", ""}, {Force, "gf", "k", "0.00980665", ""},
	{Torque, "N·m Nm N*m", "umk", "1", ""}, {Torque, "N·cm Ncm", "", "0.01", ""},
	{RotationRate, "rpm RPM r/min rev/min U/min min⁻¹", "k", "1", ""},
	{Area, "mm² mm2 sqmm", "", "1", ""}, {Area, "cm² cm2", "", "100", ""}, {Area, "m² m2", "", "1000000", ""},
	{SlewRate, "V/s", "mkM", "1", ""}, {SlewRate, "V/us V/µs V/μs", "mk", "1000000", ""}, {SlewRate, "V/ns", "", "1000000000", ""}, {SlewRate, "V/ms", "", "1000", ""},
	{NoiseDensity, "V/√Hz V/rtHz V/sqrtHz V/√(Hz)", "fpnum", "1", ""}, {CurrentNoise, "A/√Hz A/rtHz A/sqrtHz", "fpnum", "1", ""},
	{ThermalResistance, "K/W °C/W degC/W C/W ℃/W", "mk", "1", ""}, {ThermalConductivity, "W/(m·K) W/mK W/m·K W/(m.K) W/m-K", "m", "1", ""},
	{SampleRate, "S/s SPS sps Sa/s", "kMG", "1", ""}, {MeltingIntegral, "A²s A2s A²·s A^2s", "umk", "1", ""},
	{Conductance, "S siemens", "num", "1", ""}, {Humidity, "%RH %rh %r.h. %rH", "", "1", ""}, {Sensitivity, "V/V", "num", "1", ""},
}

var prefixExp = map[byte]int32{'f': -15, 'p': -12, 'n': -9, 'u': -6, 'm': -3, 'c': -2, 'h': 2, 'k': 3, 'M': 6, 'G': 9, 'T': 12}

// exactUnits maps a spelling in its own case; foldedUnits maps it in small letters to every unit it may stand for.
// lone maps, for a wanted dimension, a single letter that is only a prefix. All are built once, so that looking a
// unit up takes no memory.
var exactUnits, foldedUnits = buildUnits()
var lone = buildLone()

// variants writes a spelling with each code point that µ and Ω have.
func variants(s string) []string {
	out := []string{s}
	for _, sign := range []struct{ from, to string }{{"u", "µ"}, {"u", "μ"}} {
		if strings.HasPrefix(s, sign.from) {
			out = append(out, sign.to+s[1:])
		}
	}
	for _, o := range out {
		if strings.Contains(o, "Ω") {
			out = append(out, strings.Replace(o, "Ω", "\u2126", 1))
		}
	}
	return out
}

func buildUnits() (exact, folded map[string][]unit) {
	exact, folded = map[string][]unit{}, map[string][]unit{}
	add := func(text string, u unit, micro bool) {
		all := []string{text}
		if micro || strings.Contains(text, "Ω") {
			all = variants(text)
		}
		for _, v := range all {
			exact[v] = []unit{u}
			low := strings.ToLower(v)
			low = strings.Map(func(r rune) rune { // ToLower changes Ω and Å too; only the letters of ASCII fold here
				if r == 'ω' {
					return 'Ω'
				}
				return r
			}, low)
			fresh := true
			for _, have := range folded[low] {
				fresh = fresh && have != u
			}
			if fresh {
				folded[low] = append(folded[low], u)
			}
		}
	}
	for _, s := range spellings {
		for _, word := range strings.Fields(s.words) {
			u := unit{dim: s.dim, factor: MustParseNumber(s.factor), note: s.note, ppm: strings.EqualFold(word, "ppm")}
			add(word, u, false)
			for i := range len(s.prefixes) {
				p := s.prefixes[i]
				v := u
				v.factor = mustNumber(u.factor.Mul(Number{1, prefixExp[p]}))
				add(string(p)+word, v, p == 'u')
				if p == 'M' && s.dim == Resistance {
					add("Meg"+word, v, false)
				}
			}
		}
	}
	// A kelvin figure is a temperature shifted by 273.15 exactly (ITS-90).
	add("K", unit{dim: Temperature, factor: Whole(1), shift: MustParseNumber("-273.15")}, false)
	delete(folded, "k")
	// "2.2K" is written for 2.2 kΩ far more often than for kelvin, and nothing in it decides.
	exact["K"] = []unit{{dim: Resistance, factor: Number{1, 3}}, exact["K"][0]}
	// "85C" is written for 85 °C far more often than for coulombs, and nothing in it decides.
	exact["C"] = []unit{{dim: Temperature, factor: Whole(1)}, {dim: ElectricCharge, factor: Whole(1)}}
	// Old catalogues wrote MF for microfarad; KB of memory counts 1000 or 1024.
	exact["MF"] = []unit{exact["mF"][0], exact["uF"][0]}
	for word, sizes := range map[string][2]int64{"kB": {8000, 8192}, "KB": {8000, 8192}, "MB": {8e6, 8 << 20}, "GB": {8e9, 8 << 30}, "Kbit": {1000, 1024}, "Kb": {1000, 1024}} {
		exact[word] = []unit{{dim: Data, factor: Whole(sizes[0])}, {dim: Data, factor: Whole(sizes[1])}}
	}
	folded["mhz"] = exact["MHz"] // nobody writes millihertz in capitals
	delete(folded, "g")          // "10G", "10 M" and "10 n" are not grams, metres and newtons
	for _, letter := range []string{"m", "n", "f", "t"} {
		delete(folded, letter)
	}
	return exact, folded
}

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
			case c == 'M' && has('M'):
				t[d][c] = of('M')
			case c == 'M' && has('m') && d == Capacitance, c == 'M' && d == Capacitance:
				t[d][c] = of('m', 'u') // a capital M on a capacitor has meant both
			case c == 'M' && has('m'):
				t[d][c] = of('m')
			case c == 'K' && has('k'):
				t[d][c] = of('k')
			case prefixExp[c] != 0 && (has(c) || c == 'm' && d == Capacitance):
				t[d][c] = of(c)
			case c >= 'A' && c <= 'Z' && has(c|0x20) && prefixExp[c|0x20] != 0:
				t[d][c] = of(c | 0x20)
			}
		}
	}
	return t
}

// foldSigns rewrites rare code points to the ones the tables know; ordinary texts come back as they are.
func foldSigns(s string) string {
	for i := 0; i < len(s); i++ {
		if s[i] < 0x80 {
			continue
		}
		two := s[i:min(i+2, len(s))]
		switch {
		case two == "µ" || two == "μ" || two == "Ω" || two == "°" || two == "±" || two == "²" || two == "·":
			i++
		case strings.HasPrefix(s[i:], "\u2126"):
			i += 2
		default:
			return signs.Replace(s)
		}
	}
	return s
}

var signs = strings.NewReplacer("º", "°", "％", "%", "−", "-", "–", "-", "—", "-", "‐", "-", "‑", "-", "\u00a0", " ", "\u202f", " ", "\u2009", " ",
	"\u2007", " ", "∼", "~", "～", "~", "⁓", "~", "＋", "+", "＜", "<", "＞", ">", "≦", "≤", "≧", "≥", "⩽", "≤", "⩾", "≥", "½", "1/2", "¼", "1/4", "¾", "3/4",
	"⅛", "1/8", "⁄", "/", "㎂", "µA", "㎌", "µF", "㏀", "kΩ", "㏁", "MΩ", "㎒", "MHz", "㎐", "Hz", "㎜", "mm", "㎛", "µm", "㎎", "mg", "’", "'", "\u200b", "", "\ufeff", "")

// unitsFor finds what a unit spelling may mean. More than one result is a doubt.
func unitsFor(text string, want Dimension) []unit {
	if len(text) == 1 && text[0] < 0x80 {
		if us := lone[want][text[0]]; us != nil {
			return us
		}
	} else if text == "µ" || text == "μ" {
		return lone[want]['u']
	} else if len(text) == 3 && strings.EqualFold(text, "meg") {
		return lone[want]['M']
	}
	exact := exactUnits[text]
	if len(exact) == 1 && (exact[0].dim == want || !shouting(text)) && !(shouting(text) && len(foldedOf(text)) > 1) {
		return exact
	}
	if len(exact) > 1 {
		return among(exact, want)
	}
	if folded := foldedOf(text); len(folded) > 0 {
		return among(folded, want)
	}
	return exact
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

// among keeps the units of the wanted dimension where there are any.
func among(us []unit, want Dimension) []unit {
	if len(us) == 1 || want == None {
		return us
	}
	var fit []unit
	for _, u := range us {
		if u.dim == want {
			fit = append(fit, u)
		}
	}
	if len(fit) > 0 {
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
