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
	List // several values of one kind: "3.3, 5 V"
)

var shapeNames = [...]string{"nominal", "range", "at-most", "at-least", "below", "above", "deviation", "list"}

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
	Note      string // what else the text said: "typ", "DC", "@ 100 MHz"
	Items     string // the values of a List, ascending, parted by blanks; Low and High are its ends
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

// Value returns the number a measure is sorted and compared by: the nominal, the bound of a limit, the upper end of
// a range or list, the larger side of a deviation.
func (m Measure) Value() Number {
	switch m.Shape {
	case AtLeast, Above:
		return m.Low
	case Deviation:
		if m.Minus.Cmp(m.Plus) > 0 {
			return m.Minus
		}
		return m.Plus
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
	if m.Shape == Deviation && o.Shape == Deviation && m.Tol != o.Tol {
		return int(o.Tol) - int(m.Tol)
	}
	c := m.Value().Cmp(o.Value())
	if m.Of == WireGauge { // the larger the gauge, the thinner the wire
		c = -c
	}
	return cmp.Or(c, m.Low.Cmp(o.Low), int(m.Shape)-int(o.Shape), m.Plus.Cmp(o.Plus), m.Minus.Cmp(o.Minus),
		strings.Compare(m.Items, o.Items), strings.Compare(m.Note, o.Note))
}

// Bare returns m without tolerance and note, for comparing what is meant to be the same nominal.
func (m Measure) Bare() Measure {
	if m.Shape != Deviation {
		m.Minus, m.Plus, m.Tol = Number{}, Number{}, NoTol
	}
	m.Note = ""
	return m
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
	var b []byte
	for i, v := range values {
		if i > 0 {
			b = append(b, ' ')
		}
		b = v.appendTo(b)
	}
	return Measure{Of: d, Shape: List, Low: values[0], High: values[len(values)-1], Items: string(b)}
}

// Each returns the values of a list, or the one value of anything else.
func (m Measure) Each() []Number {
	if m.Shape != List {
		return []Number{m.Value()}
	}
	var out []Number
	for _, s := range strings.Fields(m.Items) {
		out = append(out, MustParseNumber(s))
	}
	return out
}
