package money

import (
	"fmt"
	"slices"
	"strings"

	"github.com/shopspring/decimal"
)

// Mark is the decimal mark of the texts of one source.
type Mark string

// The marks. A source that nobody asked has none, and then a text must tell by itself.
const (
	Unsaid Mark = ""
	Comma  Mark = "comma"
	Point  Mark = "point"
)

// Error says which text is no amount, and why.
type Error struct{ Text, Why string }

func (e *Error) Error() string { return fmt.Sprintf("%q is no price: %s", e.Text, e.Why) }

// Parse reads a price as a supplier writes it: "12,50 €", "EUR 0.0123", "1.234,56", "CHF 1'234.50". code is the currency where the text names
// none; where it names another one, that is an error. Every character has to be accounted for: letters that are no currency, two numbers, a
// sign or an exponent are errors, and so is what can be read in two ways, such as "1,234" where nobody said which mark is the decimal one.
func Parse(text, code string, mark Mark) (Amount, error) {
	fail := func(why string, args ...any) (Amount, error) {
		shown := []rune(text)
		if len(shown) > maxText {
			shown = append(shown[:maxText-1], '…')
		}
		return Amount{}, &Error{string(shown), fmt.Sprintf(why, args...)}
	}
	s := strings.TrimSpace(text)
	if s == "" {
		return fail("it is blank")
	}
	if len(s) > maxText {
		return fail("it is longer than %d characters", maxText)
	}
	first, last := strings.IndexAny(s, "0123456789"), strings.LastIndexAny(s, "0123456789")
	if first < 0 {
		return fail("it has no digit")
	}
	if first > 0 && (s[first-1] == '.' || s[first-1] == ',') { // ".05"
		first--
	}
	before, number, after := strings.TrimSpace(s[:first]), s[first:last+1], strings.TrimSpace(s[last+1:])
	if strings.ContainsAny(before+after, "-−+") {
		return fail("it has a sign")
	}
	if after == "." { // an abbreviation's
		after = ""
	}
	if before != "" && after != "" {
		return fail("it has something before the number and after it")
	}
	named := before + after
	switch given, known := Currency(code); {
	case named != "":
		c, ok := Currency(named)
		switch {
		case !ok && signOf(named, given):
		case !ok:
			return fail("%q is no currency", named)
		case code != "" && c != given:
			return fail("it names %s, and the price is said to be in %s", c, code)
		default:
			code = c
		}
	case code == "":
		return fail("nothing says of which currency it is")
	case !known:
		return fail("%q is no currency of ISO 4217", code)
	}
	plain, why := plainNumber(number, mark)
	if why != "" {
		return fail("%s", why)
	}
	d, err := decimal.NewFromString(plain)
	if err != nil {
		return fail("%q is no number", number)
	}
	if d.NumDigits() > maxDigits {
		return fail("it has more than %d digits", maxDigits)
	}
	c, _ := Currency(code)
	return Amount{d, c}, nil
}

// dollars are the currencies that are written with $: not those whose code ends as a dollar's does, such as the dinars' and the dong's.
var dollars = []string{"USD", "CAD", "AUD", "NZD", "SGD", "HKD", "TWD", "BSD", "BBD", "BMD", "BND", "BZD", "FJD", "GYD", "JMD", "KYD", "LRD", "NAD", "SBD", "SRD", "TTD", "XCD", "MXN", "ARS", "CLP", "COP", "UYU", "DOP"}

// signOf says whether a sign that several currencies share is one of the given currency.
func signOf(sign, code string) bool {
	switch sign {
	case "$":
		return slices.Contains(dollars, code)
	case "¥":
		return code == "JPY" || code == "CNY"
	case "kr", "kr.", "Kr", "Kr.":
		return code == "SEK" || code == "NOK" || code == "DKK" || code == "ISK"
	case "Fr.", "Fr", "SFr.":
		return code == "CHF"
	case "zł":
		return code == "PLN"
	case "Kč":
		return code == "CZK"
	}
	return false
}

// plainNumber writes a number with a decimal point and no groups, or says why it cannot be told.
func plainNumber(s string, mark Mark) (plain, why string) {
	s = strings.Map(func(r rune) rune {
		switch r {
		case '\u00a0', '\u202f', '\u2009':
			return ' '
		case '’', '´':
			return '\''
		}
		return r
	}, s)
	if strings.Trim(s, "0123456789.,' ") != "" || strings.ContainsFunc(s, func(r rune) bool { return r > 127 }) {
		return "", "something stands within the number"
	}
	point := rune(0)
	switch commas, points := strings.Count(s, ","), strings.Count(s, "."); {
	case commas > 0 && points > 0: // the last of the two parts the decimals, once
		point = rune(s[strings.LastIndexAny(s, ".,")])
		if strings.Count(s, string(point)) > 1 {
			return "", "its points and commas are in no order"
		}
	case commas+points == 1:
		point = rune(s[strings.IndexAny(s, ".,")])
		i := strings.IndexRune(s, point)
		head := s[:i]
		thousands := len(s)-i-1 == 3 && head != "" && len(head) <= 3 && head[0] != '0'
		isComma := point == ','
		switch {
		case thousands && mark == Unsaid:
			return "", "nothing says whether it is in thousands or has three decimals"
		case mark == Comma && !isComma, mark == Point && isComma:
			if !thousands {
				return "", fmt.Sprintf("its decimal mark is not the %s", mark)
			}
			point = 0
		}
	case commas+points > 1: // groups of thousands only
		if mark == Comma && commas > 0 || mark == Point && points > 0 {
			return "", fmt.Sprintf("it has several decimal marks, if the %s is one", mark)
		}
	}
	if mark == Comma && point == '.' || mark == Point && point == ',' {
		return "", fmt.Sprintf("its decimal mark is not the %s", mark)
	}
	whole, decimals := s, ""
	if point != 0 {
		whole, decimals, _ = strings.Cut(s, string(point))
		if decimals == "" || strings.Trim(decimals, "0123456789") != "" {
			return "", "something stands within its decimals"
		}
	}
	digits, ok := ungrouped(whole)
	if !ok {
		return "", "its thousands are not in threes"
	}
	if digits == "" {
		digits = "0"
	}
	if point != 0 {
		return digits + "." + decimals, ""
	}
	return digits, ""
}

// ungrouped leaves out the marks between thousands: one kind of them, every three digits.
func ungrouped(s string) (digits string, ok bool) {
	i := strings.IndexAny(s, ".,' ")
	if i < 0 {
		return s, true
	}
	groups := strings.Split(s, s[i:i+1])
	for n, g := range groups {
		if strings.Trim(g, "0123456789") != "" || n > 0 && len(g) != 3 || n == 0 && (g == "" || len(g) > 3 || g[0] == '0') {
			return "", false
		}
	}
	return strings.Join(groups, ""), true
}
