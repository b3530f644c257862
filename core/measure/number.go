package measure

import (
	"errors"
	"math"
	"math/big"
	"math/bits"
	"strconv"
)

// Number is an exact decimal: coef × 10^exp. It is a small immutable value that can be compared with ==,
// because every constructor strips trailing zeros. The zero value is the number 0.
//
// A number holds at most 18 significant digits; a longer one is refused rather than rounded.
type Number struct {
	coef int64
	exp  int32
}

// ErrTooLong is returned for numbers that would need more than 18 significant digits or a power of ten beyond ±60.
var ErrTooLong = errors.New("more than 18 significant digits, or too large or small a power of ten")

const (
	maxCoef = 999_999_999_999_999_999
	maxExp  = 60
)

var pow10 = func() (t [19]int64) {
	t[0] = 1
	for i := 1; i < len(t); i++ {
		t[i] = t[i-1] * 10
	}
	return
}()

// NewNumber returns coef × 10^exp in normal form.
func NewNumber(coef int64, exp int) (Number, error) {
	if coef == 0 {
		return Number{}, nil
	}
	for coef%10 == 0 {
		coef /= 10
		exp++
	}
	if coef > maxCoef || coef < -maxCoef || exp > maxExp || exp < -maxExp {
		return Number{}, ErrTooLong
	}
	return Number{coef, int32(exp)}, nil
}

// Whole returns n as a Number; n must have at most 18 digits.
func Whole(n int64) Number { return mustNumber(NewNumber(n, 0)) }

func mustNumber(n Number, err error) Number {
	if err != nil {
		panic(err)
	}
	return n
}

// ParseNumber reads a plain decimal: optional sign, digits with at most one point, optional exponent.
func ParseNumber(s string) (Number, error) {
	n, end, err := scanNumber(s, '.')
	if err == nil && end != len(s) {
		err = errors.New("not a decimal number: " + strconv.Quote(s))
	}
	return n, err
}

// MustParseNumber is ParseNumber for constants.
func MustParseNumber(s string) Number { return mustNumber(ParseNumber(s)) }

var errNoDigits = errors.New("no digits")

// scanNumber reads a decimal with the given decimal mark at the start of s and returns where it ends.
func scanNumber(s string, mark byte) (Number, int, error) {
	i, neg := 0, false
	if i < len(s) && (s[i] == '-' || s[i] == '+') {
		neg = s[i] == '-'
		i++
	}
	var coef int64
	digits, exp, seen, long := 0, 0, false, false
	for ; i < len(s); i++ {
		c := s[i]
		if c == mark && !seen {
			seen = true
			continue
		}
		if c < '0' || c > '9' {
			break
		}
		digits++
		if coef > maxCoef/10 {
			if c != '0' {
				long = true
			}
			if !seen {
				exp++
			}
			continue
		}
		coef = coef*10 + int64(c-'0')
		if seen {
			exp--
		}
	}
	if digits == 0 {
		return Number{}, 0, errNoDigits
	}
	if s[i-1] == mark && seen { // "4." is a number followed by a full stop
		i--
	}
	if i+1 < len(s) && (s[i] == 'e' || s[i] == 'E') {
		j, eneg := i+1, false
		if s[j] == '-' || s[j] == '+' {
			eneg = s[j] == '-'
			j++
		}
		e, from := 0, j
		for ; j < len(s) && s[j] >= '0' && s[j] <= '9' && e < 1000; j++ {
			e = e*10 + int(s[j]-'0')
		}
		if j > from {
			if eneg {
				e = -e
			}
			exp += e
			i = j
		}
	}
	if long {
		return Number{}, i, ErrTooLong
	}
	if neg {
		coef = -coef
	}
	n, err := NewNumber(coef, exp)
	return n, i, err
}

// Mul returns a × b, exactly, or ErrTooLong.
func (a Number) Mul(b Number) (Number, error) {
	hi, lo := bits.Mul64(uint64(abs(a.coef)), uint64(abs(b.coef)))
	exp := int(a.exp) + int(b.exp)
	for hi != 0 || lo > maxCoef {
		q1, r1 := hi/10, hi%10
		q0, r0 := bits.Div64(r1, lo, 10)
		if r0 != 0 {
			return Number{}, ErrTooLong
		}
		hi, lo, exp = q1, q0, exp+1
	}
	c := int64(lo)
	if (a.coef < 0) != (b.coef < 0) {
		c = -c
	}
	return NewNumber(c, exp)
}

// Quo returns a ÷ b where the result is an exact decimal, or ErrTooLong.
func (a Number) Quo(b Number) (Number, error) {
	if b.coef == 0 {
		return Number{}, errors.New("division by zero")
	}
	c, exp := big.NewInt(a.coef), int(a.exp)-int(b.exp)
	d, r := big.NewInt(b.coef), new(big.Int)
	for range 20 {
		q, _ := new(big.Int).QuoRem(c, d, r)
		if r.Sign() == 0 {
			if !q.IsInt64() {
				return Number{}, ErrTooLong
			}
			return NewNumber(q.Int64(), exp)
		}
		c.Mul(c, big.NewInt(10))
		exp--
	}
	return Number{}, ErrTooLong
}

// Add returns a + b, exactly, or ErrTooLong.
func (a Number) Add(b Number) (Number, error) {
	if a.coef == 0 {
		return b, nil
	}
	if b.coef == 0 {
		return a, nil
	}
	if a.exp < b.exp {
		a, b = b, a
	}
	x := new(big.Int).Mul(big.NewInt(a.coef), new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(a.exp-b.exp)), nil))
	x.Add(x, big.NewInt(b.coef))
	exp, ten, r := int(b.exp), big.NewInt(10), new(big.Int)
	for x.Sign() != 0 && !x.IsInt64() {
		if x.QuoRem(x, ten, r); r.Sign() != 0 {
			return Number{}, ErrTooLong
		}
		exp++
	}
	return NewNumber(x.Int64(), exp)
}

// Neg returns -a.
func (a Number) Neg() Number { return Number{-a.coef, a.exp} }

// Sign returns -1, 0 or 1.
func (a Number) Sign() int {
	switch {
	case a.coef < 0:
		return -1
	case a.coef > 0:
		return 1
	}
	return 0
}

// Int64 returns a as an integer and whether it is one that fits.
func (a Number) Int64() (int64, bool) {
	if a.exp < 0 || a.exp > 18 {
		return 0, a.coef == 0
	}
	hi, lo := bits.Mul64(uint64(abs(a.coef)), uint64(pow10[a.exp]))
	if hi != 0 || lo > math.MaxInt64 {
		return 0, false
	}
	if a.coef < 0 {
		return -int64(lo), true
	}
	return int64(lo), true
}

// Cmp returns -1, 0 or 1 as a is less than, equal to or greater than b.
func (a Number) Cmp(b Number) int {
	if a == b {
		return 0
	}
	if sa, sb := a.Sign(), b.Sign(); sa != sb {
		if sa < sb {
			return -1
		}
		return 1
	}
	if a.exp == b.exp {
		if a.coef < b.coef {
			return -1
		}
		return 1
	}
	sign := a.Sign()
	if ma, mb := a.magnitude(), b.magnitude(); ma != mb {
		if ma < mb {
			return -sign
		}
		return sign
	}
	// Equal magnitude: the exponents differ by at most 18, so 128 bits hold the scaled coefficients.
	ca, cb := uint64(abs(a.coef)), uint64(abs(b.coef))
	var ha, hb uint64
	if a.exp > b.exp {
		ha, ca = bits.Mul64(ca, uint64(pow10[a.exp-b.exp]))
	} else {
		hb, cb = bits.Mul64(cb, uint64(pow10[b.exp-a.exp]))
	}
	if ha < hb || (ha == hb && ca < cb) {
		return -sign
	}
	return sign
}

// magnitude is the power of ten of the first digit.
func (a Number) magnitude() int {
	n := 0
	for c := abs(a.coef); c >= 10; c /= 10 {
		n++
	}
	return n + int(a.exp)
}

// Float64 returns the nearest float64: a key for indexes and charts, never a value to keep.
func (a Number) Float64() float64 {
	f, _ := strconv.ParseFloat(strconv.FormatInt(a.coef, 10)+"e"+strconv.Itoa(int(a.exp)), 64)
	return f
}

// String writes a without exponent: "0.0000001", "4700".
func (a Number) String() string { return string(a.appendTo(make([]byte, 0, 24))) }

func (a Number) appendTo(b []byte) []byte {
	if a.coef < 0 {
		b = append(b, '-')
	}
	var buf [20]byte
	d := strconv.AppendInt(buf[:0], abs(a.coef), 10)
	if a.exp >= 0 {
		b = append(b, d...)
		for range a.exp {
			b = append(b, '0')
		}
		return b
	}
	point := len(d) + int(a.exp)
	if point <= 0 {
		b = append(b, "0."...)
		for range -point {
			b = append(b, '0')
		}
		return append(b, d...)
	}
	b = append(b, d[:point]...)
	b = append(b, '.')
	return append(b, d[point:]...)
}

// MarshalText writes the plain decimal; UnmarshalText reads it back.
func (a Number) MarshalText() ([]byte, error) { return a.appendTo(nil), nil }

// UnmarshalText reads what MarshalText wrote.
func (a *Number) UnmarshalText(b []byte) (err error) {
	*a, err = ParseNumber(string(b))
	return err
}

func abs(n int64) int64 {
	if n < 0 {
		return -n
	}
	return n
}
