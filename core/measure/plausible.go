package measure

// bounds say what a value of a dimension can be in electronics: the smallest and largest size, and whether it may lie
// below zero. They are wide; a parameter's own range (Options.Usual) is narrower. Zero is always possible.
type bounds struct {
	low, high string // sizes; blank: no bound
	signed    bool
	floor     string // the lowest value of a signed one
}

var dimensionBounds = [dimensions]bounds{
	Resistance: {"1e-7", "1e15", false, ""}, Capacitance: {"1e-17", "1e4", false, ""}, Inductance: {"1e-13", "1e3", false, ""},
	Voltage: {"1e-9", "5e5", true, ""}, Current: {"1e-15", "3e5", true, ""}, Power: {"1e-12", "1e5", false, ""}, Frequency: {"1e-2", "1e13", false, ""},
	Time: {"1e-15", "1e10", false, ""}, Length: {"1e-10", "1e5", true, ""}, Temperature: {"", "5000", true, "-273.15"}, Ratio: {"", "1e8", true, ""},
	Charge: {"1e-7", "1e5", false, ""}, Energy: {"1e-6", "1e5", false, ""}, Mass: {"1e-7", "1e7", false, ""}, Level: {"", "500", true, ""},
	LuminousIntensity: {"1e-6", "1e5", false, ""}, LuminousFlux: {"1e-4", "9e5", false, ""}, Angle: {"", "36000", true, ""}, Data: {"1", "1e15", false, ""}, DataRate: {"1e-1", "1e14", false, ""},
	TempCoefficient: {"", "1e6", true, ""}, Pressure: {"1", "1e10", true, ""}, WireGauge: {"", "60", true, "-5"}, Fahrenheit: {"", "9000", true, "-459.67"},
	ElectricCharge: {"1e-16", "1e5", true, ""}, PulseEnergy: {"1e-15", "9e5", false, ""}, ApparentPower: {"1e-4", "9e5", false, ""}, ReactivePower: {"1e-4", "9e5", true, ""},
	FluxDensity: {"1e-12", "100", true, ""}, Illuminance: {"1e-6", "9e5", false, ""}, Luminance: {"1e-4", "1e7", false, ""}, Force: {"1e-6", "9e5", true, ""}, Torque: {"1e-7", "1e5", true, ""},
	RotationRate: {"1e-3", "9e5", false, ""}, Area: {"1e-6", "1e9", false, ""}, SlewRate: {"1e-3", "1e13", true, ""}, NoiseDensity: {"1e-13", "1", false, ""}, CurrentNoise: {"1e-18", "1e-2", false, ""},
	ThermalResistance: {"1e-4", "1e4", false, ""}, ThermalConductivity: {"1e-3", "1e4", false, ""}, SampleRate: {"1e-3", "1e13", false, ""}, MeltingIntegral: {"1e-9", "1e9", false, ""},
	Conductance: {"1e-15", "9e5", false, ""}, Humidity: {"", "100", false, ""}, PowerLevel: {"", "200", true, ""}, AntennaGain: {"", "100", true, ""}, CarrierLevel: {"", "300", true, ""}, SoundLevel: {"", "250", true, ""},
}

// span is bounds as numbers.
type span struct {
	low, high, floor          Number
	hasLow, hasHigh, hasFloor bool
	signed                    bool
}

var spans = func() (t [dimensions]span) {
	for d, b := range dimensionBounds {
		s := span{signed: b.signed || Dimension(d) == None || b == (bounds{})}
		if b.low != "" {
			s.low, s.hasLow = MustParseNumber(b.low), true
		}
		if b.high != "" {
			s.high, s.hasHigh = MustParseNumber(b.high), true
		}
		if b.floor != "" {
			s.floor, s.hasFloor = MustParseNumber(b.floor), true
		}
		t[d] = s
	}
	return t
}()

// sensible says whether a number can be a value of a dimension at all.
func sensible(d Dimension, n Number) bool {
	s := &spans[d]
	if n.coef == 0 {
		return true
	}
	if n.coef < 0 {
		if !s.signed || s.hasFloor && n.Cmp(s.floor) < 0 {
			return false
		}
		n = n.Neg()
	}
	return !(s.hasLow && n.Cmp(s.low) < 0 || s.hasHigh && n.Cmp(s.high) > 0)
}

// Usual is the range that the values of one parameter lie in. The zero value says nothing.
type Usual struct {
	Low, High Number
	Size      bool // the sign does not count: a P-channel device at -20 V
	Set       bool
}

// Holds says whether a number lies in the range. Zero does where the range begins at or above it: a jumper is a resistor.
func (u Usual) Holds(n Number) bool {
	if u.Size && n.coef < 0 {
		n = n.Neg()
	}
	return !u.Set || n.coef == 0 || n.Cmp(u.Low) >= 0 && n.Cmp(u.High) <= 0
}

// fits says whether a number may be what was asked for.
func (o *Options) fits(d Dimension, n Number) bool {
	return sensible(d, n) && (d != o.Of || o.Usual.Holds(n))
}

// implausible finds a number of m that cannot be, and says why, in words that all such values share.
func (o *Options) implausible(m *Measure) string {
	odd := func(n Number) string {
		switch {
		case spans[m.Of].hasFloor && n.Cmp(spans[m.Of].floor) < 0:
			return "it lies below what can be: " + show(m.Of, spans[m.Of].floor)
		case n.Sign() < 0 && !spans[m.Of].signed:
			return "no " + m.Of.String() + " is negative"
		case !sensible(m.Of, n):
			return "no " + m.Of.String() + " is so large or so small"
		case m.Of == o.Of && !o.Usual.Holds(n):
			return "it lies outside of what is usual (" + Span(m.Of, o.Usual.Low, o.Usual.High) + ")"
		}
		return ""
	}
	if m.Tol != NoTol {
		if m.Minus.Sign() < 0 || m.Plus.Sign() < 0 {
			return "a tolerance is never negative"
		}
		if minus, plus := m.sides(); m.Shape == Deviation && m.Of == o.Of && !(o.Usual.Holds(minus) && o.Usual.Holds(plus)) {
			return "it lies outside of what is usual (" + Span(m.Of, o.Usual.Low, o.Usual.High) + ")"
		}
		if hundred := Whole(100); m.Tol == Percent && m.Minus.Cmp(hundred) > 0 && m.Of != Ratio {
			return "no tolerance goes down by more than all"
		}
	}
	switch m.Shape {
	case Nominal, AtLeast, Above:
		if why := odd(m.Low); why != "" {
			return why
		}
	case AtMost, Below:
		if why := odd(m.High); why != "" {
			return why
		}
	case Range, List, Ranges, Sizes:
		for _, n := range [...]Number{m.Low, m.High} {
			if why := odd(n); why != "" {
				return why
			}
		}
	}
	if m.HasTyp {
		return odd(m.Typ)
	}
	return ""
}
