package measuretest

import (
	"fmt"
	"strings"

	"jollydrawer/core/measure"
)

var percents = []string{"0.1", "0.25", "0.5", "1", "2", "5", "10", "20"}

func (m *Maker) tolerance() Made {
	k := kinds[m.r.IntN(3)]
	s := m.scaleOf(k)
	n := m.sized(k, s)
	want := measure.Of(k.of, n.value(s.exp))
	pc := pick(m, percents)
	text := n.plain('.') + m.gap() + s.unit
	tol := measure.MustParseNumber(pc)
	switch m.r.IntN(6) {
	case 0: // another unit than the value's
		other := pick(m, []string{"V", "mA", "kg", "Hz"})
		return Made{Text: text + " ±" + pc + " " + other, Of: k.of, Never: true}
	case 1: // the value's own
		want.Minus, want.Plus, want.Tol = number{5, -1}.value(s.exp), number{5, -1}.value(s.exp), measure.Absolute
		return Made{Text: text + " ± 0.5 " + s.unit, Of: k.of, Want: want, Clear: true}
	case 2:
		want.Minus, want.Plus, want.Tol = tol, tol, measure.Percent
		return Made{Text: text + pick(m, []string{", ", "; "}) + "±" + pc + "%", Of: k.of, Want: want, Clear: true}
	case 3:
		want.Minus, want.Plus, want.Tol = tol, tol, measure.Percent
		return Made{Text: text + " (" + pick(m, []string{"±", "+/-", ""}) + pc + pick(m, []string{"%", " %"}) + ")", Of: k.of, Want: want, Clear: true}
	}
	want.Minus, want.Plus, want.Tol = tol, tol, measure.Percent
	return Made{Text: text + " " + pick(m, []string{"±", "± ", "+/-", "+/- ", "+-", ""}) + pc + pick(m, []string{"%", " %"}), Of: k.of, Want: want, Clear: true}
}

func (m *Maker) twoSided() Made {
	up, down := pick(m, []string{"80", "50", "30", "5", "0", "1500"}), pick(m, []string{"20", "10", "0", "2.5"})
	if up == down {
		up = "5"
	}
	want := measure.Measure{Of: measure.Ratio, Shape: measure.Deviation, Minus: measure.MustParseNumber(down), Plus: measure.MustParseNumber(up), Tol: measure.Percent}
	unit := "%"
	if m.r.IntN(4) == 0 || up == "1500" {
		unit, want.Tol = "ppm", measure.PPM
	}
	a, b := "+"+up, "-"+down
	if m.r.IntN(2) == 0 {
		a, b = b, a
	}
	sep := pick(m, []string{"/", " / ", " ", ", "})
	text := a + sep + b + m.gap() + unit
	if m.r.IntN(3) == 0 {
		text = a + unit + sep + b + unit
	}
	if up == "0" && down == "0" {
		return m.twoSided()
	}
	if m.r.IntN(6) == 0 { // one side only
		return Made{Text: "10 kΩ -" + pick(m, percents) + " %", Of: measure.Resistance, Never: true}
	}
	return Made{Text: text, Of: measure.Ratio, Want: want, Clear: true}
}

func (m *Maker) ranges() Made {
	k := pick(m, kinds)
	s := m.scaleOf(k)
	a, b := m.sized(k, s), m.sized(k, s)
	if a.value(0).Cmp(b.value(0)) > 0 {
		a, b = b, a
	}
	if a.value(0) == b.value(0) {
		return m.ranges()
	}
	mark := pick(m, []string{" to ", "...", " ... ", "..", " .. ", "~", " ~ ", " - ", "-", " – ", "…", " through "})
	want := measure.Measure{Of: k.of, Shape: measure.Range, Low: a.value(s.exp), High: b.value(s.exp)}
	lo, hi := a.plain('.'), b.plain('.')
	if k.of == measure.Temperature {
		lo, want.Low = "-"+lo, want.Low.Neg()
	}
	switch m.r.IntN(5) {
	case 0: // a unit at both ends
		return Made{Text: lo + m.gap() + s.unit + mark + hi + m.gap() + s.unit, Of: k.of, Want: want, Clear: true}
	case 1: // a unit at the first end only says nothing of the second
		if len(k.scales) > 2 && s.exp != 0 {
			return Made{Text: lo + " " + s.unit + " to " + hi, Of: k.of, Never: true}
		}
	case 2: // the larger number first, and a prefix
		if s.exp != 0 && k.of != measure.Temperature && !strings.Contains(s.unit, "meg") && s.exp != -2 {
			return Made{Text: hi + " to " + lo + " " + s.unit, Of: k.of, Never: true}
		}
	case 3:
		return Made{Text: pick(m, []string{"from ", "between "}) + lo + " " + s.unit + map[bool]string{true: " and ", false: " to "}[m.r.IntN(2) == 0] + hi + " " + s.unit, Of: k.of, Want: want}
	}
	return Made{Text: lo + mark + hi + m.gap() + s.unit, Of: k.of, Want: want, Clear: true}
}

func (m *Maker) limits() Made {
	k := pick(m, kinds[:9])
	s := m.scaleOf(k)
	n := m.sized(k, s)
	v, text := n.value(s.exp), n.plain('.')+m.gap()+s.unit
	most, least := measure.Measure{Of: k.of, Shape: measure.AtMost, High: v}, measure.Measure{Of: k.of, Shape: measure.AtLeast, Low: v}
	switch m.r.IntN(8) {
	case 0:
		return Made{Text: pick(m, []string{"≤ ", "<= ", "≤", "max. ", "max ", "up to ", "at most ", "Max: ", "maximum "}) + text, Of: k.of, Want: most, Clear: true}
	case 1:
		return Made{Text: pick(m, []string{"≥ ", ">= ", "≥", "min. ", "min ", "at least ", "Min: ", "minimum "}) + text, Of: k.of, Want: least, Clear: true}
	case 2:
		return Made{Text: text + pick(m, []string{" max", " max.", " (max)", " MAX", " maximum", " (MAXIMUM)", " (Max.)"}), Of: k.of, Want: most, Clear: true}
	case 3:
		return Made{Text: text + pick(m, []string{" min.", " (min)", " minimum", " (Minimum)"}), Of: k.of, Want: least, Clear: k.of != measure.Time}
	case 4, 5: // what is typical beside a limit
		high := number{n.digits * 2, n.exp}
		want := measure.Measure{Of: k.of, Shape: measure.AtMost, High: high.value(s.exp), Typ: v, HasTyp: true}
		return Made{Text: text + " typ" + pick(m, []string{", ", "; ", "., ", " / "}) + high.plain('.') + m.gap() + s.unit + " max", Of: k.of, Want: want, Clear: true}
	case 6:
		mid, high := number{n.digits * 2, n.exp}, number{n.digits * 3, n.exp}
		want := measure.Measure{Of: k.of, Shape: measure.Range, Low: v, High: high.value(s.exp), Typ: mid.value(s.exp), HasTyp: true}
		if m.r.IntN(2) == 0 {
			return Made{Text: n.plain('.') + "/" + mid.plain('.') + "/" + high.plain('.') + " " + s.unit + " (min/typ/max)", Of: k.of, Want: want, Clear: k.of != measure.Power && k.of != measure.Length && n.exp < 0}
		}
		return Made{Text: fmt.Sprintf("%s %s min, %s %s typ, %s %s max", n.plain('.'), s.unit, mid.plain('.'), s.unit, high.plain('.'), s.unit), Of: k.of, Want: want, Clear: k.of != measure.Time}
	}
	return Made{Text: "< " + text, Of: k.of, Want: measure.Measure{Of: k.of, Shape: measure.Below, High: v}, Clear: true}
}

func (m *Maker) conditions() Made {
	k := kinds[3+m.r.IntN(2)]
	s := m.scaleOf(k)
	n := m.sized(k, s)
	text := n.plain('.') + m.gap() + s.unit
	want := measure.Of(k.of, n.value(s.exp))
	at := []struct{ text, cond string }{{"25 °C", "25 °C"}, {"70°C", "70 °C"}, {"85 ℃", "85 °C"}, {"100 MHz", "100 MHz"}, {"1kHz", "1 kHz"}}
	c := pick(m, at)
	switch m.r.IntN(5) {
	case 0: // two values, each under its own condition
		other := m.sized(k, s)
		return Made{Text: text + " @ 25 °C, " + other.plain('.') + " " + s.unit + " @ 85 °C", Of: k.of, Never: true}
	case 1:
		other := m.sized(k, s)
		return Made{Text: text + " (Ta), " + other.plain('.') + " " + s.unit + " (Tc)", Of: k.of, Never: true}
	case 2: // something that has no place
		return Made{Text: text + " at " + c.text + " " + pick(m, []string{"0805", "100", "3"}), Of: k.of, Never: true}
	case 3:
		want.Cond = pick(m, []string{"Ta", "Tc", "Tj"})
		return Made{Text: text + " (" + want.Cond + ")", Of: k.of, Want: want, Clear: true}
	}
	want.Cond = c.cond
	return Made{Text: text + pick(m, []string{" @ ", "@", " at ", " @"}) + c.text, Of: k.of, Want: want, Clear: true}
}

func (m *Maker) remarks() Made {
	k := pick(m, kinds[:8])
	s := m.scaleOf(k)
	n := m.sized(k, s)
	text := n.plain('.') + m.gap() + s.unit
	want := measure.Of(k.of, n.value(s.exp))
	switch m.r.IntN(4) {
	case 0:
		other := m.sized(k, s)
		if other.value(0) == n.value(0) {
			return m.remarks()
		}
		return Made{Text: text + " (" + other.plain('.') + " " + s.unit + ")", Of: k.of, Never: true}
	case 1:
		return Made{Text: text + pick(m, []string{" (note 3)", " (2 pcs)", " (see 4)", " (3)", " #2", " x2", ", 0805", " 2 pins", " 50", " /7"}), Of: k.of, Never: true}
	case 2:
		want.Note = "(" + pick(m, []string{"shielded", "see text", "per pin"}) + ")"
		return Made{Text: text + " " + want.Note, Of: k.of, Want: want, Clear: true}
	}
	return Made{Text: text + " (" + text + ")", Of: k.of, Want: want, Clear: true}
}

func (m *Maker) lists() Made {
	k := pick(m, kinds[3:9])
	s := m.scaleOf(k)
	a, b := m.sized(k, s), m.sized(k, s)
	if a.value(0).Cmp(b.value(0)) >= 0 {
		return m.lists()
	}
	items := a.value(s.exp).String() + " " + b.value(s.exp).String()
	want := measure.Measure{Of: k.of, Shape: measure.List, Low: a.value(s.exp), High: b.value(s.exp), Items: items}
	ta, tb := a.plain('.')+m.gap()+s.unit, b.plain('.')+m.gap()+s.unit
	switch m.r.IntN(4) {
	case 0: // values of two kinds are no list
		return Made{Text: ta + ", " + pick(m, []string{"5 kg", "3 cd", "10 %RH"}), Of: k.of, Never: true}
	case 1: // ranges
		c, d := number{b.digits * 2, b.exp}, number{b.digits * 3, b.exp}
		text := fmt.Sprintf("%s %s ~ %s %s, %s %s ~ %s %s", a.plain('.'), s.unit, b.plain('.'), s.unit, c.plain('.'), s.unit, d.plain('.'), s.unit)
		return Made{Text: text, Of: k.of, Want: measure.Measure{Of: k.of, Shape: measure.Ranges, Low: a.value(s.exp), High: d.value(s.exp),
			Items: items + " " + c.value(s.exp).String() + " " + d.value(s.exp).String()}, Clear: true}
	}
	return Made{Text: ta + pick(m, []string{", ", "; ", " or ", " & ", " and "}) + tb, Of: k.of, Want: want, Clear: true}
}

func (m *Maker) sizes() Made {
	one := func() number { return number{int64(5 + m.r.IntN(995)), -m.r.IntN(3)} }
	a, b, c := one(), one(), one()
	unit := pick(m, []scale{{"mm", -3}, {"cm", -2}})
	by := pick(m, []string{" x ", "x", " × ", "×", " X "})
	text, items := a.plain('.')+" "+unit.unit+by+b.plain('.')+" "+unit.unit, []string{a.value(unit.exp).String(), b.value(unit.exp).String()}
	values := []measure.Number{a.value(unit.exp), b.value(unit.exp)}
	switch m.r.IntN(4) {
	case 0:
		text += by + c.plain('.') + " " + unit.unit
		items, values = append(items, c.value(unit.exp).String()), append(values, c.value(unit.exp))
	case 1:
		text = a.plain('.') + by + b.plain('.') + " " + unit.unit
	case 2: // a count and a value are no body
		return Made{Text: fmt.Sprintf("%d x %s kΩ", 2+m.r.IntN(8), a.plain('.')), Of: measure.Resistance, Never: true}
	}
	low, high := values[0], values[0]
	for _, v := range values {
		if v.Cmp(low) < 0 {
			low = v
		}
		if v.Cmp(high) > 0 {
			high = v
		}
	}
	return Made{Text: text, Of: measure.Length, Want: measure.Measure{Of: measure.Length, Shape: measure.Sizes, Low: low, High: high, Items: strings.Join(items, " ")}, Clear: true}
}

// letters writes units whose case decides: what SI reads as mega where milli must be meant, bits and bytes, minutes.
func (m *Maker) letters() Made {
	n := number{int64(1 + m.r.IntN(900)), 0}
	cases := []struct {
		unit  string
		of    measure.Dimension
		exp   int
		clear bool
		by    int64
	}{{"MPa", measure.Pressure, 6, true, 1}, {"mPa", measure.Pressure, -3, false, 1}, {"MWh", measure.Energy, 6, false, 1}, {"mWh", measure.Energy, -3, true, 1}, {"MN", measure.Force, 6, false, 1}, {"mN", measure.Force, -3, true, 1},
		{"MBps", measure.DataRate, 6, true, 8}, {"Mbps", measure.DataRate, 6, true, 1}, {"MB/s", measure.DataRate, 6, true, 8}, {"Mbit/s", measure.DataRate, 6, true, 1}, {"GB/s", measure.DataRate, 9, true, 8}, {"MV", measure.Voltage, 6, false, 1}, {"mV", measure.Voltage, -3, true, 1},
		{"MW", measure.Power, 6, false, 1}, {"mW", measure.Power, -3, true, 1}, {"Ms", measure.Time, 6, false, 1}, {"ms", measure.Time, -3, true, 1}, {"MΩ", measure.Resistance, 6, true, 1}, {"mΩ", measure.Resistance, -3, true, 1}, {"MHz", measure.Frequency, 6, true, 1}, {"mHz", measure.Frequency, -3, false, 1},
		{"Mm", measure.Length, 6, false, 1}, {"mm", measure.Length, -3, true, 1}, {"MJ", measure.PulseEnergy, 6, false, 1}, {"mJ", measure.PulseEnergy, -3, true, 1}, {"mS", measure.Conductance, -3, true, 1}, {"MA", measure.Current, 6, false, 1}, {"mA", measure.Current, -3, true, 1}}
	c := pick(m, cases)
	v, _ := n.value(c.exp).Mul(measure.Whole(c.by))
	of := c.of
	if m.r.IntN(3) == 0 {
		of = measure.None
	}
	return Made{Text: n.plain('.') + m.gap() + c.unit, Of: of, Want: measure.Of(c.of, v), Clear: c.clear}
}

func (m *Maker) powers() Made {
	k := pick(m, kinds[:7])
	n := number{int64(11 + m.r.IntN(988)), -1}
	e := k.low + 2 + m.r.IntN(max(1, k.high-k.low-3))
	unit := k.scales[0]
	for _, s := range k.scales {
		if s.exp == 0 {
			unit = s
		}
	}
	if unit.exp != 0 {
		return m.powers()
	}
	e = min(max(e, k.low-1), k.high-2)
	sup := strings.NewReplacer("0", "⁰", "1", "¹", "2", "²", "3", "³", "4", "⁴", "5", "⁵", "6", "⁶", "7", "⁷", "8", "⁸", "9", "⁹", "-", "⁻").Replace(fmt.Sprint(e))
	text := pick(m, []string{fmt.Sprintf("%se%d", n.plain('.'), e), fmt.Sprintf("%sE%+03d", n.plain('.'), e), fmt.Sprintf("%s x 10^%d", n.plain('.'), e), fmt.Sprintf("%s × 10%s", n.plain('.'), sup), fmt.Sprintf("%s·10%s", n.plain('.'), sup)})
	made := Made{Text: text + " " + unit.unit, Of: k.of, Want: measure.Of(k.of, n.value(e)), Clear: true}
	return m.sensible(k, scale{exp: e}, n, made)
}
