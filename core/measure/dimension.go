package measure

import (
	"sort"
	"strings"
)

// Dimension is the kind of thing a measure measures. The zero value means "not known".
type Dimension uint8

// The dimensions, each with its base unit in the table below. Two units share a dimension only where every value of
// one is an exact decimal in the other; what does not convert exactly (wire gauges, most of °F) has its own.
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
	WireGauge
	Fahrenheit
	ElectricCharge
	PulseEnergy
	ApparentPower
	ReactivePower
	FluxDensity
	Illuminance
	Luminance
	Force
	Torque
	RotationRate
	Area
	SlewRate
	NoiseDensity
	CurrentNoise
	ThermalResistance
	ThermalConductivity
	SampleRate
	MeltingIntegral
	Conductance
	RelativeDrift
	VoltageDrift
	PowerLevel
	AntennaGain
	CarrierLevel
	SoundLevel
	Humidity
	Sensitivity
	dimensions
)

type dimension struct {
	name string
	base string // as shown
	ucum string // UCUM code of the base unit
	show string // prefixes used for showing, smallest first; " " stands for the base unit
}

var dims = [dimensions]dimension{
	None:                {"", "", "", ""},
	Resistance:          {"resistance", "Ω", "Ohm", "um kMGT"},
	Capacitance:         {"capacitance", "F", "F", "pnu "},
	Inductance:          {"inductance", "H", "H", "pnum "},
	Voltage:             {"voltage", "V", "V", "num k"},
	Current:             {"current", "A", "A", "fpnum k"},
	Power:               {"power", "W", "W", "num k"},
	Frequency:           {"frequency", "Hz", "Hz", " kMGT"},
	Time:                {"time", "s", "s", "fpnum "},
	Length:              {"length", "m", "m", "num "},
	Temperature:         {"temperature", "°C", "Cel", " "},
	Ratio:               {"ratio", "%", "%", " "},
	Charge:              {"charge", "Ah", "A.h", "um "},
	Energy:              {"energy", "Wh", "W.h", "m k"},
	Mass:                {"mass", "g", "g", "um k"},
	Level:               {"level", "dB", "dB", " "},
	LuminousIntensity:   {"luminous-intensity", "cd", "cd", "um "},
	LuminousFlux:        {"luminous-flux", "lm", "lm", "m "},
	Angle:               {"angle", "°", "deg", " "},
	Data:                {"data", "bit", "bit", " kMGT"},
	DataRate:            {"data-rate", "bit/s", "bit/s", " kMGT"},
	TempCoefficient:     {"temperature-coefficient", "ppm/°C", "[ppm]/Cel", " "},
	Pressure:            {"pressure", "Pa", "Pa", " hkM"},
	WireGauge:           {"wire-gauge", "AWG", "{AWG}", " "},
	Fahrenheit:          {"fahrenheit", "°F", "[degF]", " "},
	ElectricCharge:      {"electric-charge", "C", "C", "fpnum "},
	PulseEnergy:         {"pulse-energy", "J", "J", "num k"},
	ApparentPower:       {"apparent-power", "VA", "V.A", "m k"},
	ReactivePower:       {"reactive-power", "var", "var", "m k"},
	FluxDensity:         {"flux-density", "T", "T", "num "},
	Illuminance:         {"illuminance", "lx", "lx", "m k"},
	Luminance:           {"luminance", "cd/m²", "cd/m2", "m k"},
	Force:               {"force", "N", "N", "m k"},
	Torque:              {"torque", "N·m", "N.m", "um k"},
	RotationRate:        {"rotation-rate", "rpm", "{rev}/min", " k"},
	Area:                {"area", "mm²", "mm2", " "},
	SlewRate:            {"slew-rate", "V/s", "V/s", "m kMG"},
	NoiseDensity:        {"noise-density", "V/√Hz", "V/{rtHz}", "fpnum "},
	CurrentNoise:        {"current-noise-density", "A/√Hz", "A/{rtHz}", "fpnum "},
	ThermalResistance:   {"thermal-resistance", "K/W", "K/W", "m "},
	ThermalConductivity: {"thermal-conductivity", "W/(m·K)", "W/(m.K)", "m "},
	SampleRate:          {"sample-rate", "S/s", "{S}/s", " kMG"},
	MeltingIntegral:     {"melting-integral", "A²s", "A2.s", " "},
	Conductance:         {"conductance", "S", "S", "num "},
	RelativeDrift:       {"relative-drift", "%/°C", "%/Cel", " "},
	VoltageDrift:        {"voltage-drift", "V/°C", "V/Cel", "num "},
	PowerLevel:          {"power-level", "dBm", "dB[mW]", " "},
	AntennaGain:         {"antenna-gain", "dBi", "{dBi}", " "},
	CarrierLevel:        {"carrier-level", "dBc", "{dBc}", " "},
	SoundLevel:          {"sound-level", "dBA", "{dBA}", " "},
	Humidity:            {"humidity", "%RH", "%{RH}", " "},
	Sensitivity:         {"sensitivity", "V/V", "V/V", "num "},
}

// String returns the dimension's name, such as "resistance".
func (d Dimension) String() string { return dims[d].name }

// UCUM returns the UCUM code of the base unit (Unified Code for Units of Measure, §2.4; in braces, as §2.4.6 has it,
// where UCUM knows no such unit).
func (d Dimension) UCUM() string { return dims[d].ucum }

// one says "a resistance", "an inductance".
func (d Dimension) one() string {
	if d != None && strings.IndexByte("aeiou", d.String()[0]) >= 0 {
		return "an " + d.String()
	}
	return "a " + d.String()
}

// isA is the condition under which a doubtful value is of the dimension.
func (d Dimension) isA() string { return "it is " + d.one() }

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

var dimensionsByName = func() map[string]Dimension {
	m := map[string]Dimension{}
	for i, d := range dims {
		if i > 0 {
			m[d.name] = Dimension(i)
		}
	}
	return m
}()

// ParseDimension finds a dimension by its name.
func ParseDimension(name string) (Dimension, bool) {
	d, ok := dimensionsByName[name]
	return d, ok
}
