// Package money holds exact amounts with their currency: what suppliers' prices are read as, added up in and converted by. It knows which codes
// are currencies (ISO 4217) and how many digits each is paid in; what is bought, and from whom, is left to others.
package money

import (
	"cmp"
	"errors"
	"fmt"
	"strings"

	"github.com/shopspring/decimal"
	"golang.org/x/text/currency"
)

// Amount is a decimal number of a currency. It is a small value that is passed about and never changed; the zero Amount is none at all, which is
// not nothing of a currency.
type Amount struct {
	value decimal.Decimal
	code  string
}

// ErrOtherCurrency says that amounts of two currencies were to be added or compared without a rate.
var ErrOtherCurrency = errors.New("the amounts are of two currencies")

// limits of what is taken for an amount: a price beyond them is a slip.
const (
	maxDigits = 24 // significant digits, and digits after the point
	maxText   = 40
)

// Currency returns the ISO 4217 code that a text means, in capitals: a code in any case, € or £. A sign that several countries use, such as $
// or ¥, tells none.
func Currency(text string) (code string, ok bool) {
	switch text = strings.TrimSpace(text); text {
	case "€":
		return "EUR", true
	case "£":
		return "GBP", true
	}
	u, err := currency.ParseISO(text)
	if err != nil || u.String() == "XXX" || u.String() == "XTS" {
		return "", false
	}
	return u.String(), true
}

// New returns an amount of a number written with a decimal point, such as "0.0123".
func New(number, code string) (Amount, error) {
	c, ok := Currency(code)
	if !ok {
		return Amount{}, fmt.Errorf("%q is no currency of ISO 4217", code)
	}
	if number == "" || strings.Trim(number, "0123456789.-") != "" {
		return Amount{}, fmt.Errorf("%q is no number", number)
	}
	d, err := decimal.NewFromString(number)
	if err != nil || len(number) > maxText {
		return Amount{}, fmt.Errorf("%q is no number", number)
	}
	return Amount{d, c}, nil
}

// Must is New for numbers that are known to be right.
func Must(number, code string) Amount {
	a, err := New(number, code)
	if err != nil {
		panic(err)
	}
	return a
}

// None says whether a is no amount at all.
func (a Amount) None() bool { return a.code == "" }

// Code is the currency of a.
func (a Amount) Code() string { return a.code }

// Number writes the number of a with a decimal point, without a unit and without zeros at its end.
func (a Amount) Number() string { return a.value.String() }

// Float is only for sorting and drawing.
func (a Amount) Float() float64 { f, _ := a.value.Float64(); return f }

// Sign is -1, 0 or 1.
func (a Amount) Sign() int { return a.value.Sign() }

// String writes a as "0.0123 EUR", with at least the digits that the currency is paid in.
func (a Amount) String() string {
	if a.None() {
		return ""
	}
	_, decimals, _ := strings.Cut(a.value.String(), ".")
	return a.value.StringFixed(max(Digits(a.code), int32(len(decimals)))) + " " + a.code
}

// Digits is how many digits after the point a currency is paid in, by ISO 4217: 2 for most, 0 for the yen.
func Digits(code string) int32 {
	u, err := currency.ParseISO(code)
	if err != nil {
		return 2
	}
	scale, _ := currency.Standard.Rounding(u)
	return int32(scale)
}

// Equal says whether a and b are the same amount: 1.50 EUR and 1.5 EUR are.
func (a Amount) Equal(b Amount) bool { return a.code == b.code && a.value.Equal(b.value) }

// Compare orders two amounts of one currency.
func (a Amount) Compare(b Amount) (int, error) {
	if a.code != b.code {
		return cmp.Compare(a.code, b.code), ErrOtherCurrency
	}
	return a.value.Cmp(b.value), nil
}

// Add returns the sum of two amounts of one currency; an amount that is none adds nothing.
func (a Amount) Add(b Amount) (Amount, error) {
	switch {
	case a.None():
		return b, nil
	case b.None():
		return a, nil
	case a.code != b.code:
		return Amount{}, ErrOtherCurrency
	}
	return Amount{a.value.Add(b.value), a.code}, nil
}

// Minus returns what a is more than b, of one currency, below nought where it is less; an amount that is none is nothing of either.
func (a Amount) Minus(b Amount) (Amount, error) {
	if b.None() {
		return a, nil
	}
	return a.Add(Amount{b.value.Neg(), b.code})
}

// Line returns what n pieces cost at a for each per pieces, rounded once to what the currency is paid in, half to even.
func (a Amount) Line(n, per int64) Amount {
	if a.None() || per <= 0 {
		return Amount{}
	}
	if sum, small := line(a.value, n, per, Digits(a.code)); small {
		return Amount{sum, a.code}
	}
	// The division keeps far more digits than are paid, and only the exact half of them is a half.
	product := a.value.Mul(decimal.NewFromInt(n))
	q, rest := product.QuoRem(decimal.NewFromInt(per), maxDigits)
	if !rest.IsZero() {
		q = q.Add(decimal.New(int64(rest.Sign()), -maxDigits-1))
	}
	return Amount{q.RoundBank(Digits(a.code)), a.code}
}

// line works out a line in whole numbers, as nearly all are; small is false where they would not hold it.
func line(value decimal.Decimal, n, per int64, digits int32) (sum decimal.Decimal, small bool) {
	scale := -value.Exponent()
	if scale < 0 || scale > 9 || value.NumDigits() > 9 || n < 0 || n > 1_000_000_000 || per > 1_000_000 {
		return sum, false
	}
	product := value.CoefficientInt64() * n // below 10^18
	if scale <= digits && per == 1 {
		return decimal.New(product, -scale), true
	}
	if scale < digits {
		return sum, false
	}
	by := per
	for ; scale > digits; scale-- {
		by *= 10 // at most 10^15
	}
	q, rest := product/by, product%by
	twice, up := 2*max(rest, -rest), int64(1)
	if product < 0 {
		up = -1
	}
	if twice > by || twice == by && q%2 != 0 {
		q += up
	}
	return decimal.New(q, -digits), true
}

// Each returns the price of one piece of a price for each per pieces, to twelve digits where it does not come out even: for showing and
// sorting, never for adding up.
func (a Amount) Each(per int64) Amount {
	if a.None() || per <= 1 {
		return a
	}
	return Amount{a.value.DivRound(decimal.NewFromInt(per), 12), a.code}
}

// Scaled returns a times a whole number.
func (a Amount) Scaled(n int64) Amount { return Amount{a.value.Mul(decimal.NewFromInt(n)), a.code} }

// MarshalText writes what String does: in JSON an amount is a text, so that no reader makes a float of it.
func (a Amount) MarshalText() ([]byte, error) { return []byte(a.String()), nil }

// UnmarshalText reads what MarshalText writes: a number with a decimal point, a blank and a currency; nothing for none.
func (a *Amount) UnmarshalText(raw []byte) error {
	if len(raw) == 0 {
		*a = Amount{}
		return nil
	}
	number, code, ok := strings.Cut(string(raw), " ")
	if !ok {
		return fmt.Errorf("%q is no amount such as 0.05 EUR", raw)
	}
	read, err := New(number, code)
	*a = read
	return err
}
