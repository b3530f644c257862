// Package measuretest makes texts of values that are known beforehand, in the styles and with the noise that suppliers'
// files have, so that a reader of values can be held against the right answer.
package measuretest

import (
	"fmt"
	"strings"

	"jollydrawer/core/measure"
)

// Made is a text with what it means.
type Made struct {
	Class string
	Text  string
	Of    measure.Dimension
	Mark  measure.Mark
	// Want is the one right reading; where Clear is false it must be doubted or left unread, and a reading that is not
	// Want is wrong in any case.
	Want  measure.Measure
	Clear bool
	Never bool // no reading is right: nothing in the text says what is meant
}

// scale is a unit as a style writes it: its spelling, and its power of ten over the base unit.
type scale struct {
	unit string
	exp  int
}

// kind is a dimension with sensible sizes and the ways to write its unit.
type kind struct {
	of     measure.Dimension
	scales []scale
	low    int // power of ten of sensible values
	high   int
}

var kinds = []kind{
	{measure.Resistance, []scale{{"Ω", 0}, {"ohm", 0}, {"Ohm", 0}, {"R", 0}, {"kΩ", 3}, {"kohm", 3}, {"kOhm", 3}, {"KOhm", 3}, {"MΩ", 6}, {"mΩ", -3}, {"GΩ", 9}, {"k\u2126", 3}, {"megohm", 6}}, -3, 9},
	{measure.Capacitance, []scale{{"pF", -12}, {"nF", -9}, {"µF", -6}, {"uF", -6}, {"μF", -6}, {"mF", -3}, {"F", 0}, {"㎌", -6}}, -12, -1},
	{measure.Inductance, []scale{{"nH", -9}, {"µH", -6}, {"uH", -6}, {"mH", -3}, {"H", 0}}, -10, 0},
	{measure.Voltage, []scale{{"V", 0}, {"mV", -3}, {"kV", 3}, {"µV", -6}, {"volts", 0}, {"Volt", 0}}, -5, 4},
	{measure.Current, []scale{{"A", 0}, {"mA", -3}, {"µA", -6}, {"nA", -9}, {"kA", 3}, {"uA", -6}, {"amps", 0}}, -9, 3},
	{measure.Power, []scale{{"W", 0}, {"mW", -3}, {"µW", -6}, {"kW", 3}, {"watts", 0}}, -5, 4},
	{measure.Frequency, []scale{{"Hz", 0}, {"kHz", 3}, {"MHz", 6}, {"GHz", 9}, {"MHZ", 6}, {"KHz", 3}}, 0, 11},
	{measure.Time, []scale{{"ns", -9}, {"µs", -6}, {"ms", -3}, {"s", 0}, {"us", -6}, {"sec", 0}}, -10, 2},
	{measure.Length, []scale{{"mm", -3}, {"µm", -6}, {"m", 0}, {"cm", -2}, {"nm", -9}}, -8, 1},
	{measure.Temperature, []scale{{"°C", 0}, {"degC", 0}, {"℃", 0}, {"ºC", 0}}, 0, 2},
	{measure.Charge, []scale{{"mAh", -3}, {"Ah", 0}, {"µAh", -6}}, -4, 2},
	{measure.Mass, []scale{{"g", 0}, {"mg", -3}, {"kg", 3}}, -4, 3},
	{measure.LuminousIntensity, []scale{{"mcd", -3}, {"cd", 0}}, -3, 2},
	{measure.DataRate, []scale{{"kbit/s", 3}, {"Mbit/s", 6}, {"Gbit/s", 9}, {"Mbps", 6}, {"kbps", 3}}, 2, 10},
	{measure.Pressure, []scale{{"kPa", 3}, {"MPa", 6}, {"Pa", 0}, {"hPa", 2}}, 1, 8},
	{measure.ElectricCharge, []scale{{"nC", -9}, {"pC", -12}, {"µC", -6}}, -12, -5},
	{measure.ThermalResistance, []scale{{"K/W", 0}, {"°C/W", 0}}, -2, 3},
	{measure.SampleRate, []scale{{"kS/s", 3}, {"MS/s", 6}, {"ksps", 3}, {"MSPS", 6}}, 1, 9},
	{measure.TempCoefficient, []scale{{"ppm/°C", 0}, {"ppm/K", 0}}, 0, 3},
	{measure.Force, []scale{{"N", 0}, {"mN", -3}, {"kN", 3}}, -3, 3},
}

// Maker draws texts. The same seed draws the same ones.
type Maker struct{ r *Draws }

// New returns a maker.
func New(seed uint64) *Maker { return &Maker{&Draws{seed}} }

// Draws are numbers that follow from a seed (splitmix64), so that nothing here is left to chance.
type Draws struct{ State uint64 }

func (d *Draws) next() uint64 {
	d.State += 0x9e3779b97f4a7c15
	z := d.State
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return z ^ z>>31
}

// IntN draws one of 0 to n-1.
func (d *Draws) IntN(n int) int { return int(d.next() % uint64(n)) }

// Int64N draws one of 0 to n-1.
func (d *Draws) Int64N(n int64) int64 { return int64(d.next() % uint64(n)) }

func pick[T any](m *Maker, list []T) T { return list[m.r.IntN(len(list))] }

// number is a decimal with its digits: digits × 10^exp.
type number struct {
	digits int64
	exp    int
}

func (n number) value(exp int) measure.Number {
	v, err := measure.NewNumber(n.digits, n.exp+exp)
	if err != nil {
		panic(err)
	}
	return v
}

// plain writes a number as digits with a decimal mark.
func (n number) plain(mark byte) string {
	s := fmt.Sprint(n.digits)
	if n.exp >= 0 {
		return s + strings.Repeat("0", n.exp)
	}
	for len(s) <= -n.exp {
		s = "0" + s
	}
	cut := len(s) + n.exp
	return s[:cut] + string(mark) + s[cut:]
}

// sized draws a number that is sensible for a kind when written with a scale.
func (m *Maker) sized(k kind, s scale) number {
	for range 200 {
		n := number{digits: int64(1 + m.r.IntN(9999)), exp: -m.r.IntN(4)}
		if m.r.IntN(3) == 0 {
			n = number{digits: pick(m, []int64{1, 10, 100, 22, 33, 47, 5, 12, 15, 68, 220, 330, 470, 25, 50, 16, 63}), exp: 0}
		}
		size := len(fmt.Sprint(n.digits)) - 1 + n.exp + s.exp
		if size >= k.low && size <= k.high {
			return n
		}
	}
	return number{digits: 1}
}

func (m *Maker) gap() string {
	return pick(m, []string{"", " ", " ", "  ", "\u00a0", "\t"})
}

// scaleOf draws a scale in which some number of the kind is sensible.
func (m *Maker) scaleOf(k kind) scale {
	for range 50 {
		if s := pick(m, k.scales); s.exp >= k.low-3 && s.exp <= k.high {
			return s
		}
	}
	return k.scales[0]
}

// Classes names the classes of texts that Make knows.
func Classes() []string {
	out := make([]string, len(makers))
	for i, c := range makers {
		out[i] = c.class
	}
	return out
}

// Make draws a text of a class.
func (m *Maker) Make(class string) Made {
	for _, c := range makers {
		if c.class == class {
			made := c.make(m)
			made.Class = class
			if m.r.IntN(4) == 0 { // blanks around a cell are no part of it
				made.Text = pick(m, []string{" ", "\u00a0", ""}) + made.Text + pick(m, []string{" ", "\t", ""})
			}
			return made
		}
	}
	panic("measuretest: no class " + class)
}

var makers = []struct {
	class string
	make  func(m *Maker) Made
}{
	{"plain", (*Maker).plainValue}, {"marking codes", (*Maker).code}, {"decimal commas and groups", (*Maker).marks}, {"side by side", (*Maker).sideBySide}, {"fractions", (*Maker).fractions},
	{"tolerances", (*Maker).tolerance}, {"two-sided", (*Maker).twoSided}, {"ranges", (*Maker).ranges}, {"limits", (*Maker).limits}, {"conditions", (*Maker).conditions}, {"remarks", (*Maker).remarks},
	{"lists", (*Maker).lists}, {"sizes", (*Maker).sizes}, {"case of letters", (*Maker).letters}, {"powers of ten", (*Maker).powers},
}

func (m *Maker) plainValue() Made {
	k := pick(m, kinds)
	s := m.scaleOf(k)
	n := m.sized(k, s)
	text := n.plain('.') + m.gap() + s.unit
	if m.r.IntN(8) == 0 && strings.HasPrefix(text, "0.") {
		text = text[1:]
	}
	if m.r.IntN(10) == 0 {
		text = "+" + text
	}
	return Made{Text: text, Of: k.of, Want: measure.Of(k.of, n.value(s.exp)), Clear: true}
}

func (m *Maker) code() Made {
	codes := []struct {
		of     measure.Dimension
		letter string
		exp    int
	}{{measure.Resistance, "k", 3}, {measure.Resistance, "K", 3}, {measure.Resistance, "R", 0}, {measure.Resistance, "M", 6}, {measure.Capacitance, "n", -9}, {measure.Capacitance, "p", -12}, {measure.Capacitance, "u", -6}, {measure.Capacitance, "µ", -6},
		{measure.Inductance, "n", -9}, {measure.Inductance, "u", -6}, {measure.Voltage, "V", 0}, {measure.Current, "A", 0}}
	c := pick(m, codes)
	whole, frac := m.r.IntN(999), 1+m.r.IntN(99)
	digits := len(fmt.Sprint(frac))
	n := number{int64(whole)*int64(pow(digits)) + int64(frac), -digits}
	return Made{Text: fmt.Sprintf("%d%s%d", whole, c.letter, frac), Of: c.of, Want: measure.Of(c.of, n.value(c.exp)), Clear: true}
}

func pow(n int) int {
	p := 1
	for range n {
		p *= 10
	}
	return p
}

// marks writes numbers with commas and groups, with and without the file's mark being known.
func (m *Maker) marks() Made {
	k := pick(m, kinds)
	s := m.scaleOf(k)
	n := m.sized(k, s)
	switch m.r.IntN(4) {
	case 0: // a comma that cannot group
		for n.exp == -3 || n.exp == 0 || n.digits < 10 {
			n = number{int64(11 + m.r.IntN(8888)), -1 - m.r.IntN(2)}
		}
		return m.sensible(k, s, n, Made{Text: n.plain(',') + m.gap() + s.unit, Of: k.of, Want: measure.Of(k.of, n.value(s.exp)), Clear: true})
	case 1: // three digits behind a comma: the file decides
		n = number{int64(1000 + m.r.IntN(8999)), -3}
		mark := pick(m, []measure.Mark{measure.MarkComma, measure.MarkPoint, measure.MarkUnknown})
		made := Made{Text: n.plain(',') + m.gap() + s.unit, Of: k.of, Mark: mark, Want: measure.Of(k.of, n.value(s.exp)), Clear: mark != measure.MarkUnknown, Never: mark == measure.MarkUnknown}
		if mark == measure.MarkPoint {
			n = number{n.digits, 0}
			made.Want = measure.Of(k.of, n.value(s.exp))
		}
		return m.sensible(k, s, n, made)
	case 2: // two groups and more, or a group and a decimal mark
		a, b, c := 1+m.r.IntN(99), m.r.IntN(1000), m.r.IntN(1000)
		mark := pick(m, []string{",", ".", "'", "\u202f", "\u00a0"})
		n = number{int64(a)*1e6 + int64(b)*1e3 + int64(c), 0}
		return m.sensible(k, s, n, Made{Text: fmt.Sprintf("%d%s%03d%s%03d", a, mark, b, mark, c) + " " + s.unit, Of: k.of, Want: measure.Of(k.of, n.value(s.exp)), Clear: true})
	}
	a, b, c := 1+m.r.IntN(99), m.r.IntN(1000), m.r.IntN(10)
	pair := pick(m, [][2]string{{",", "."}, {".", ","}})
	n = number{int64(a)*1e4 + int64(b)*10 + int64(c), -1}
	return m.sensible(k, s, n, Made{Text: fmt.Sprintf("%d%s%03d%s%d%s%s", a, pair[0], b, pair[1], c, m.gap(), s.unit), Of: k.of, Want: measure.Of(k.of, n.value(s.exp)), Clear: true})
}

// sensible withdraws the claim that a text is clear where its value is of a size that the kind does not have.
func (m *Maker) sensible(k kind, s scale, n number, made Made) Made {
	size := len(fmt.Sprint(n.digits)) - 1 + n.exp + s.exp
	if size < k.low || size > k.high {
		made.Clear = false
	}
	return made
}

// sideBySide puts two numbers beside each other that nothing joins.
func (m *Maker) sideBySide() Made {
	k := pick(m, kinds)
	s := m.scaleOf(k)
	n := m.sized(k, s)
	first := pick(m, []string{"0805", "0603", "1206", "2", "10", "100", "-40", "5", "47", "0.5", "1/8", "4k7"})
	text := first + pick(m, []string{" ", "  ", "\t"}) + n.plain('.') + m.gap() + s.unit
	return Made{Text: text, Of: pick(m, []measure.Dimension{k.of, measure.None}), Never: true}
}

func (m *Maker) fractions() Made {
	under := pick(m, []int64{2, 4, 8, 16, 32})
	over := 1 + 2*m.r.Int64N(under/2)
	whole := m.r.Int64N(20)
	vulgar := map[[2]int64]string{{1, 2}: "½", {1, 4}: "¼", {3, 4}: "¾", {1, 8}: "⅛", {3, 8}: "⅜", {5, 8}: "⅝", {7, 8}: "⅞"}
	inch := measure.MustParseNumber("0.0254")
	q, _ := measure.Whole(whole*under + over).Quo(measure.Whole(under))
	f, _ := measure.Whole(over).Quo(measure.Whole(under))
	inches := func(n measure.Number) measure.Measure {
		v, _ := n.Mul(inch)
		return measure.Of(measure.Length, v)
	}
	unit := pick(m, []string{"\"", " in", " inch", "in"})
	sign := vulgar[[2]int64{over, under}]
	switch m.r.IntN(6) {
	case 0:
		return Made{Text: fmt.Sprintf("%d/%d%s", over, under, unit), Of: measure.Length, Want: inches(f), Clear: true}
	case 1:
		if whole > 0 {
			return Made{Text: fmt.Sprintf("%d%s%d/%d%s", whole, pick(m, []string{" ", "-"}), over, under, unit), Of: measure.Length, Want: inches(q), Clear: true}
		}
	case 2:
		if sign != "" && whole > 0 {
			return Made{Text: fmt.Sprintf("%d%s%s%s", whole, pick(m, []string{"", " "}), sign, unit), Of: measure.Length, Want: inches(q), Clear: true}
		}
	case 3:
		if sign != "" && whole > 0 {
			return Made{Text: fmt.Sprintf("%d%s%sW", whole, sign, m.gap()), Of: measure.Power, Want: measure.Of(measure.Power, q), Clear: true}
		}
	case 4:
		if whole > 0 {
			return Made{Text: fmt.Sprintf("%d - %d/%d%s", whole, over, under, unit), Of: measure.Length, Never: true}
		}
	}
	return Made{Text: fmt.Sprintf("%d/%d%sW", 1, under, m.gap()), Of: measure.Power, Want: measure.Of(measure.Power, mustQuo(1, under)), Clear: true}
}

func mustQuo(a, b int64) measure.Number {
	q, err := measure.Whole(a).Quo(measure.Whole(b))
	if err != nil {
		panic(err)
	}
	return q
}
