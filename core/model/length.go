package model

import (
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Length is an exact length: a count of tenths of a nanometre, so that every nanometre and every thousandth of a mil
// (25.4 nm) is a whole number. The zero value is no length. In documents it is decimal text in millimetres.
type Length int64

// Lengths of one unit.
const (
	MM   Length = 10_000_000
	Mil  Length = 254_000
	Inch        = 1000 * Mil
	// Farthest is the farthest a drawing may reach from its origin: two metres, more than any board.
	Farthest = 2000 * MM
)

var unitsOfLength = []struct {
	name string
	of   Length
}{{"mm", MM}, {"mil", Mil}, {"thou", Mil}, {"µm", MM / 1000}, {"um", MM / 1000}, {"cm", 10 * MM}, {"inch", Inch}, {"in", Inch}, {"\"", Inch}, {"m", 1000 * MM}}

// ParseLength reads a decimal with an optional unit: "1.27", "1.27 mm", "50 mil", "0.05 in". A number without a unit is in
// millimetres. What is finer than a tenth of a nanometre is rounded to it, which undoes the conversions of files that
// write 0.5 mm as 0.0196850394 inch.
func ParseLength(s string) (Length, error) { return ParseLengthIn(s, MM) }

// ParseLengthIn reads s like [ParseLength], with another unit for a bare number.
func ParseLengthIn(s string, bare Length) (Length, error) {
	t := strings.TrimSpace(s)
	for _, u := range unitsOfLength {
		if rest, ok := strings.CutSuffix(t, u.name); ok {
			t, bare = strings.TrimSpace(rest), u.of
			break
		}
	}
	l, ok := scaled(t, int64(bare))
	if !ok {
		return 0, fmt.Errorf("%q is no length: write a number of millimetres such as 1.27, or one with its unit such as 50 mil", clip(s))
	}
	return Length(l), nil
}

// scaled multiplies a decimal text with a whole number and rounds half away from zero. It refuses what is no plain or
// scientific decimal, and what does not fit.
func scaled(t string, by int64) (int64, bool) {
	if len(t) == 0 || len(t) > 60 {
		return 0, false
	}
	digits, point, exponent, any, frac := int64(0), 0, 0, false, false
	negative := false
	rest := t
	switch rest[0] {
	case '-':
		negative, rest = true, rest[1:]
	case '+':
		rest = rest[1:]
	}
	for i := 0; i < len(rest); i++ {
		switch c := rest[i]; {
		case c >= '0' && c <= '9':
			any = true
			if digits > (math.MaxInt64-9)/10 {
				if !frac {
					return 0, false
				}
				continue // digits far behind the point that no length can hold
			}
			digits = digits*10 + int64(c-'0')
			if frac {
				point++
			}
		case c == '.' && !frac:
			frac = true
		case (c == 'e' || c == 'E') && any:
			n, err := strconv.Atoi(rest[i+1:])
			if err != nil || n > 30 || n < -60 {
				return 0, false
			}
			exponent = n
			i = len(rest)
		default:
			return 0, false
		}
	}
	if !any {
		return 0, false
	}
	// digits × by × 10^(exponent-point), in 128 bits by splitting where it must.
	power := exponent - point
	value := float64(digits) * float64(by) * math.Pow10(power)
	if math.Abs(value) > 9e17 {
		return 0, false
	}
	out, ok := exactly(digits, by, power)
	if !ok {
		return 0, false
	}
	if negative {
		out = -out
	}
	return out, true
}

// exactly returns digits × by × 10^power, rounded half up.
func exactly(digits, by int64, power int) (int64, bool) {
	for power > 0 && digits != 0 {
		if digits > math.MaxInt64/10 {
			return 0, false
		}
		digits, power = digits*10, power-1
	}
	for power < 0 && by%10 == 0 {
		by, power = by/10, power+1
	}
	for power < 0 && digits%10 == 0 && digits != 0 {
		digits, power = digits/10, power+1
	}
	for digits > math.MaxInt64/max(by, 1) { // more digits than any length: the last ones are below a tenth of a nanometre
		if power >= 0 {
			return 0, false
		}
		digits, power = digits/10, power+1
	}
	out := digits * by
	for ; power < -1; power++ {
		out /= 10
	}
	if power == -1 {
		out = (out + 5) / 10
	}
	return out, true
}

// MustLength is [ParseLength] for constants: it panics where s is no length.
func MustLength(s string) Length {
	l, err := ParseLength(s)
	if err != nil {
		panic(err)
	}
	return l
}

// String returns l in millimetres, with the digits it needs: "1.27".
func (l Length) String() string { return decimal(int64(l), 7) }

// Mils returns l in mil, rounded to a thousandth: "50".
func (l Length) Mils() string { return decimal(divRound(int64(l)*1000, int64(Mil)), 3) }

// Millimetres returns l as a float, for drawing only.
func (l Length) Millimetres() float64 { return float64(l) / float64(MM) }

// MarshalText writes the decimal text of documents.
func (l Length) MarshalText() ([]byte, error) { return []byte(l.String()), nil }

// UnmarshalJSON reads decimal text or a plain JSON number, both in millimetres.
func (l *Length) UnmarshalJSON(b []byte) error {
	var err error
	*l, err = ParseLength(unquote(b))
	return err
}

// UnmarshalText reads what stands in a YAML document.
func (l *Length) UnmarshalText(b []byte) (err error) {
	*l, err = ParseLength(string(b))
	return err
}

// Angle is an exact angle: a count of thousandths of a degree, counter-clockwise.
type Angle int32

// Degree is one degree.
const Degree Angle = 1000

// ParseAngle reads a decimal number of degrees and brings it into [0°, 360°).
func ParseAngle(s string) (Angle, error) {
	v, ok := scaled(strings.TrimSpace(strings.TrimSuffix(s, "°")), int64(Degree))
	if !ok {
		return 0, fmt.Errorf("%q is no angle: write a number of degrees such as 90", clip(s))
	}
	return Angle(((v % 360000) + 360000) % 360000), nil
}

// String returns a in degrees: "90".
func (a Angle) String() string { return decimal(int64(a), 3) }

// Radians returns a for computing.
func (a Angle) Radians() float64 { return float64(a) * math.Pi / 180000 }

// MarshalText writes the decimal text of documents.
func (a Angle) MarshalText() ([]byte, error) { return []byte(a.String()), nil }

// UnmarshalJSON reads decimal text or a plain JSON number of degrees.
func (a *Angle) UnmarshalJSON(b []byte) error {
	var err error
	*a, err = ParseAngle(unquote(b))
	return err
}

// UnmarshalText reads decimal text in degrees.
func (a *Angle) UnmarshalText(b []byte) (err error) {
	*a, err = ParseAngle(string(b))
	return err
}

// unquote returns the text of a JSON string or number.
func unquote(b []byte) string {
	var s string
	if len(b) > 0 && b[0] == '"' && json.Unmarshal(b, &s) == nil {
		return s
	}
	return string(b)
}

func decimal(v int64, places int) string {
	sign := ""
	if v < 0 {
		sign, v = "-", -v
	}
	s := strconv.FormatInt(v, 10)
	if len(s) <= places {
		s = strings.Repeat("0", places+1-len(s)) + s
	}
	whole, frac := s[:len(s)-places], strings.TrimRight(s[len(s)-places:], "0")
	if frac == "" {
		if whole == "0" {
			return "0"
		}
		return sign + whole
	}
	return sign + whole + "." + frac
}

func divRound(a, b int64) int64 {
	if a < 0 {
		return -divRound(-a, b)
	}
	return (a + b/2) / b
}

func clip(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}
