// Package measure turns text such as "4k7", "0,1 µF" or "-40 to +85 °C" into an exact value with a unit, and back.
// It never rounds and never guesses: what has more than one reading is a doubt that names them all.
// It leaves to others which parameter a value belongs to and where the text came from.
package measure

import (
	"cmp"
	"slices"
	"strings"
)

// Shape says how the numbers of a Measure are meant.
type Shape uint8

// The shapes. Nominal is one value, perhaps with a tolerance; Deviation is a tolerance on its own ("±5 %").
const (
	Nominal Shape = iota
	Range
	AtMost
	AtLeast
	Below
	Above
	Deviation
	List   // several values of one kind: "3.3, 5 V"
	Ranges // several ranges of one kind: "1.65 to 3.6 V, 2.3 to 5.5 V"
	Sizes  // length × width, × height, in the order written: "1.6 × 0.8 mm"
)

var shapeNames = [...]string{"nominal", "range", "at-most", "at-least", "below", "above", "deviation", "list", "ranges", "sizes"}

// String returns the shape's name as used in JSON.
func (s Shape) String() string { return shapeNames[s] }

// Measure is an exact number with a unit: a nominal with a tolerance, a range, a limit or a deviation.
// All numbers are in the base unit of Of (tolerances in their own unit). It is a small value that can be compared
// with ==, and two texts that mean the same give equal measures. The zero value means "nothing".
type Measure struct {
	Of        Dimension
	Shape     Shape
	Low, High Number // Nominal: both the value. AtMost and Below: High. AtLeast and Above: Low
	Minus     Number // tolerance downwards, as a positive number
	Plus      Number // tolerance upwards
	Tol       TolUnit
	Typ       Number // what is typical, beside a range or limit
	HasTyp    bool
	Cond      string // under what it holds, a part of the value: "25 °C", "Vgs = 10 V"
	Note      string // what else the text said, in words: "typ", "DC"
	Items     string // the numbers of a List (ascending), Ranges (by their ends) or Sizes (as written), parted by blanks
}

// TolUnit is the unit of a tolerance.
type TolUnit uint8

// The units of a tolerance; Absolute is the base unit of the measure.
const (
	NoTol TolUnit = iota
	Percent
	PPM
	Absolute
)

// String returns "", "%", "ppm" or "absolute".
func (t TolUnit) String() string { return tolNames[t] }

var tolNames = [...]string{"", "%", "ppm", "absolute"}

// IsZero says whether m is nothing at all.
func (m Measure) IsZero() bool { return m == Measure{} }

// Value returns the number a measure is sorted and compared by: the nominal; the bound of a limit; the upper end of a
// range, also where something typical is given beside it; the largest value of a list or of several ranges; the largest
// of the sizes of a body; the larger side of a deviation, per cent and millionths on one scale.
func (m Measure) Value() Number {
	switch m.Shape {
	case AtLeast, Above:
		return m.Low
	case Deviation:
		minus, plus := m.sides()
		if minus.Cmp(plus) > 0 {
			return minus
		}
		return plus
	}
	return m.High
}

// Cmp orders by dimension, then by Value, then by the rest so that only equal measures compare as 0.
func (m Measure) Cmp(o Measure) int {
	if m == o {
		return 0
	}
	if m.Of != o.Of {
		return int(m.Of) - int(o.Of)
	}
	if m.Shape == Deviation && o.Shape == Deviation && (m.Tol == Absolute) != (o.Tol == Absolute) {
		return int(o.Tol) - int(m.Tol)
	}
	c := m.Value().Cmp(o.Value())
	if m.Of == WireGauge { // the larger the gauge, the thinner the wire
		c = -c
	}
	return cmp.Or(c, m.Low.Cmp(o.Low), int(m.Shape)-int(o.Shape), m.InPercent().Plus.Cmp(o.InPercent().Plus), m.InPercent().Minus.Cmp(o.InPercent().Minus),
		strings.Compare(m.Items, o.Items), strings.Compare(m.Cond, o.Cond), m.Typ.Cmp(o.Typ), strings.Compare(m.Note, o.Note),
		int(m.Tol)-int(o.Tol), boolCmp(m.HasTyp, o.HasTyp))
}

func boolCmp(a, b bool) int {
	switch {
	case a == b:
		return 0
	case b:
		return -1
	}
	return 1
}

// Bare returns m without tolerance, what is typical and note, for comparing what is meant to be the same nominal. The
// condition stays: 2 A at 25 °C is not 2 A at 85 °C.
func (m Measure) Bare() Measure {
	if m.Shape != Deviation {
		m.Minus, m.Plus, m.Tol = Number{}, Number{}, NoTol
	}
	m.Note, m.Typ, m.HasTyp = "", Number{}, false
	return m
}

// Same says whether two measures mean the same value: equal numbers, and no contradiction in their conditions (one that
// names none leaves it open).
func (m Measure) Same(o Measure) bool {
	if m.Cond == "" || o.Cond == "" {
		m.Cond, o.Cond = "", ""
	}
	return m.InPercent().Bare() == o.InPercent().Bare()
}

// InPercent returns a deviation in millionths as one in per cent, which is the same size, and all else as it is.
func (m Measure) InPercent() Measure {
	if m.Shape == Deviation && m.Tol == PPM {
		m.Minus, m.Plus = m.sides()
		m.Tol = Percent
	}
	return m
}

// Around returns what a relative tolerance is of a value in base units: ±5 % of 10 pF is ±0.5 pF. What
// is no relative tolerance comes back as it is.
func (m Measure) Around(value Number, of Dimension) Measure {
	if m.Shape != Deviation || m.Tol != Percent && m.Tol != PPM {
		return m
	}
	minus, plus := m.sides()
	hundredth := Number{1, -2}
	out := Measure{Of: of, Shape: Deviation, Tol: Absolute}
	for _, side := range []struct {
		of   Number
		into *Number
	}{{minus, &out.Minus}, {plus, &out.Plus}} {
		n, err := side.of.Mul(hundredth)
		if err == nil {
			n, err = n.Mul(value)
		}
		if err != nil {
			return m
		}
		*side.into = n
	}
	return out
}

// AsDeviation turns a plain ratio ("5 %") into the deviation people mean by it in a tolerance field ("±5 %").
func (m Measure) AsDeviation() Measure {
	if m.Shape == Nominal && m.Tol == NoTol && m.Of == Ratio {
		m.Shape, m.Minus, m.Plus, m.Tol = Deviation, m.High, m.High, Percent
		m.Low, m.High = Number{}, Number{}
	}
	return m
}

// Of returns a nominal measure of n base units.
func Of(d Dimension, n Number) Measure { return Measure{Of: d, Low: n, High: n} }

// list makes a List of values, in any order and with any repeated; one value is nominal.
func list(d Dimension, values []Number) Measure {
	slices.SortFunc(values, Number.Cmp)
	values = slices.Compact(values)
	if len(values) == 1 {
		return Of(d, values[0])
	}
	return Measure{Of: d, Shape: List, Low: values[0], High: values[len(values)-1], Items: joined(values)}
}

// sizes makes a measure of the dimensions of a body; Low and High are the smallest and largest of them.
func sizes(d Dimension, values []Number) Measure {
	m := Measure{Of: d, Shape: Sizes, Low: slices.MinFunc(values, Number.Cmp), High: slices.MaxFunc(values, Number.Cmp), Items: joined(values)}
	return m
}

// ranges makes a measure of several ranges: low, high, low, high. One range that is repeated is a range.
func ranges(d Dimension, ends []Number) Measure {
	type pair struct{ lo, hi Number }
	var all []pair
	for i := 0; i+1 < len(ends); i += 2 {
		all = append(all, pair{ends[i], ends[i+1]})
	}
	slices.SortFunc(all, func(a, b pair) int { return cmp.Or(a.lo.Cmp(b.lo), a.hi.Cmp(b.hi)) })
	all = slices.Compact(all)
	m := Measure{Of: d, Shape: Range, Low: all[0].lo, High: all[0].hi}
	if len(all) == 1 {
		return m
	}
	m.Shape = Ranges
	flat := make([]Number, 0, len(ends))
	for _, r := range all {
		flat = append(flat, r.lo, r.hi)
		if r.hi.Cmp(m.High) > 0 {
			m.High = r.hi
		}
	}
	m.Items = joined(flat)
	return m
}

func joined(values []Number) string {
	var b []byte
	for i, v := range values {
		if i > 0 {
			b = append(b, ' ')
		}
		b = v.appendTo(b)
	}
	return string(b)
}

// Numbers returns the numbers of m that a range of sensible values must hold: ends, members, what is typical; of a
// deviation both sides, of a ratio in per cent.
func (m Measure) Numbers() []Number {
	var out []Number
	switch m.Shape {
	case Nominal, AtLeast, Above:
		out = append(out, m.Low)
	case AtMost, Below:
		out = append(out, m.High)
	case Deviation:
		minus, plus := m.sides()
		out = append(out, minus, plus)
	default:
		out = append(out, m.Low, m.High)
	}
	if m.HasTyp {
		out = append(out, m.Typ)
	}
	return out
}

// sides returns a tolerance downwards and upwards; one in millionths in per cent, as ratios are kept.
func (m Measure) sides() (minus, plus Number) {
	if m.Tol != PPM {
		return m.Minus, m.Plus
	}
	scale := func(n Number) Number {
		v, err := NewNumber(n.coef, int(n.exp)-4)
		if err != nil {
			return n
		}
		return v
	}
	return scale(m.Minus), scale(m.Plus)
}

// Each returns the numbers of a list, of several ranges (low, high, low, high) or of a body's sizes, or the one value
// of anything else.
func (m Measure) Each() []Number {
	if m.Items == "" {
		return []Number{m.Value()}
	}
	var out []Number
	for _, s := range strings.Fields(m.Items) {
		out = append(out, MustParseNumber(s))
	}
	return out
}
