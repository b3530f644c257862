package money

import (
	"encoding/json"
	"fmt"
	"math/big"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestPricesAsSuppliersWriteThem(t *testing.T) {
	for _, c := range []struct {
		text, code string
		mark       Mark
		want       string
	}{
		{"12,50 €", "", Unsaid, "12.50 EUR"},
		{"€ 0.0123", "", Unsaid, "0.0123 EUR"},
		{"€12", "", Unsaid, "12.00 EUR"},
		{"EUR 1.234,56", "", Unsaid, "1234.56 EUR"},
		{"1,234.56 USD", "", Unsaid, "1234.56 USD"},
		{"CHF 1'234.50", "", Unsaid, "1234.50 CHF"},
		{"1 234,5 SEK", "", Unsaid, "1234.50 SEK"},
		{"1 234,5", "NOK", Comma, "1234.50 NOK"},
		{"0,123", "EUR", Unsaid, "0.123 EUR"},
		{"1,234", "EUR", Comma, "1.234 EUR"},
		{"1,234", "EUR", Point, "1234.00 EUR"},
		{"1.234", "EUR", Point, "1.234 EUR"},
		{"1.234", "EUR", Comma, "1234.00 EUR"},
		{"1234,5678", "EUR", Unsaid, "1234.5678 EUR"},
		{"12.345.678", "EUR", Unsaid, "12345678.00 EUR"},
		{"$ 0.10", "USD", Unsaid, "0.10 USD"},
		{"$0.10", "CAD", Unsaid, "0.10 CAD"},
		{"120 kr", "SEK", Unsaid, "120.00 SEK"},
		{"¥ 120", "JPY", Unsaid, "120 JPY"},
		{".05", "GBP", Unsaid, "0.05 GBP"},
		{"£.05", "", Unsaid, "0.05 GBP"},
		{"0", "EUR", Unsaid, "0.00 EUR"},
		{"eur 3", "", Unsaid, "3.00 EUR"},
	} {
		got, err := Parse(c.text, c.code, c.mark)
		require.NoError(t, err, c.text)
		assert.Equal(t, c.want, got.String(), c.text)
	}
}

func TestWhatIsNoPriceSaysWhy(t *testing.T) {
	for _, c := range []struct {
		text, code string
		mark       Mark
		why        string
	}{
		{"", "EUR", Unsaid, "it is blank"},
		{"on request", "EUR", Unsaid, "it has no digit"},
		{"1,234", "EUR", Unsaid, "nothing says whether it is in thousands or has three decimals"},
		{"1.234", "EUR", Unsaid, "nothing says whether it is in thousands or has three decimals"},
		{"-3.20", "EUR", Unsaid, "it has a sign"},
		{"−3.20", "EUR", Unsaid, "it has a sign"},
		{"3.20-", "EUR", Unsaid, "it has a sign"},
		{"1e999", "EUR", Unsaid, "something stands within the number"},
		{"1e9", "EUR", Unsaid, "something stands within the number"},
		{"1.2.3", "EUR", Unsaid, "its thousands are not in threes"},
		{"1,2,3", "EUR", Comma, "it has several decimal marks, if the comma is one"},
		{"12,34,567", "EUR", Unsaid, "its thousands are not in threes"},
		{"3.20", "", Unsaid, "nothing says of which currency it is"},
		{"3.20 $", "", Unsaid, `"$" is no currency`},
		{"3.20 $", "EUR", Unsaid, `"$" is no currency`},
		{"3.20 USD", "EUR", Unsaid, "it names USD, and the price is said to be in EUR"},
		{"from 3.20", "EUR", Unsaid, `"from" is no currency`},
		{"3.20 / 100", "EUR", Unsaid, "something stands within the number"},
		{"3.20 per 100", "EUR", Unsaid, "something stands within the number"},
		{"3.20 EUR/100", "EUR", Unsaid, "something stands within the number"},
		{"3.20 pcs", "EUR", Unsaid, `"pcs" is no currency`},
		{"3.20", "BLA", Unsaid, `"BLA" is no currency of ISO 4217`},
		{"3.20", "XXX", Unsaid, `"XXX" is no currency of ISO 4217`},
		{"3.20", "EUR", Comma, "its decimal mark is not the comma"},
		{"3,20", "EUR", Point, "its decimal mark is not the point"},
		{"1,234.5", "EUR", Comma, "its decimal mark is not the comma"},
		{"٣٫٢٠", "EUR", Unsaid, "it has no digit"},
		{"٣", "EUR", Unsaid, "it has no digit"},
		{"€ 3 €", "", Unsaid, "it has something before the number and after it"},
		{"1.", "EUR", Unsaid, ""},
		{"0001.234,5", "EUR", Unsaid, "its thousands are not in threes"},
		{"1.234.567,8.9", "EUR", Unsaid, "its points and commas are in no order"},
		{strings.Repeat("9", 41), "EUR", Unsaid, "it is longer than 40 characters"},
		{strings.Repeat("9", 30), "EUR", Unsaid, "it has more than 24 digits"},
		{"3.\x0020", "EUR", Unsaid, "something stands within the number"},
	} {
		_, err := Parse(c.text, c.code, c.mark)
		if c.why == "" {
			assert.NoError(t, err, c.text)
			continue
		}
		var wrong *Error
		require.ErrorAs(t, err, &wrong, "%q", c.text)
		assert.Equal(t, c.why, wrong.Why, "%q", c.text)
	}
}

// Whatever way a number is written in, it is read as itself or refused: never as another.
func TestAPriceIsReadAsItIsOrNotAtAll(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		whole := rapid.Int64Range(0, 99_999_999).Draw(t, "whole")
		digits := rapid.IntRange(0, 6).Draw(t, "digits")
		decimals := ""
		for range digits {
			decimals += string(rune('0' + rapid.IntRange(0, 9).Draw(t, "digit")))
		}
		mark := rapid.SampledFrom([]Mark{Comma, Point}).Draw(t, "mark")
		point, groups := ".", []string{"", ",", "'", " ", "\u00a0", "\u202f"}
		if mark == Comma {
			point, groups = ",", []string{"", ".", "'", " ", "\u00a0", "\u202f"}
		}
		text := fmt.Sprint(whole)
		group := rapid.SampledFrom(groups).Draw(t, "group")
		for i := len(text) - 3; i > 0 && group != ""; i -= 3 {
			text = text[:i] + group + text[i:]
		}
		if decimals != "" {
			text += point + decimals
		}
		text = fmt.Sprintf(rapid.SampledFrom([]string{"%s", "%s €", "€%s", "€ %s", "EUR %s", "%sEUR", " %s "}).Draw(t, "form"), text)
		want := new(big.Rat).SetInt64(whole)
		if decimals != "" {
			d, _ := new(big.Rat).SetString("0." + decimals)
			want.Add(want, d)
		}
		said := rapid.SampledFrom([]Mark{mark, Unsaid}).Draw(t, "said")
		got, err := Parse(text, "EUR", said)
		if err != nil {
			if said != Unsaid {
				t.Fatalf("%q with its mark said: %v", text, err)
			}
			return
		}
		n, _ := new(big.Rat).SetString(got.Number())
		if n.Cmp(want) != 0 {
			t.Fatalf("%q is read as %s", text, got)
		}
	})
}

// A line is the product over the size of its lot, exactly, rounded once and half to even.
func TestALineIsRoundedOnceHalfToEven(t *testing.T) {
	for _, c := range []struct {
		price  string
		n, per int64
		want   string
	}{
		{"0.005", 1, 1, "0.00 EUR"}, {"0.015", 1, 1, "0.02 EUR"}, {"0.0123", 100, 1, "1.23 EUR"}, {"0.125", 1, 1, "0.12 EUR"}, {"0.135", 1, 1, "0.14 EUR"},
		{"1.00", 1, 3, "0.33 EUR"}, {"12.50", 250, 100, "31.25 EUR"}, {"0.01", 1, 2, "0.00 EUR"}, {"0.03", 1, 2, "0.02 EUR"}, {"0.0100000001", 1, 2, "0.01 EUR"},
	} {
		assert.Equal(t, c.want, Must(c.price, "EUR").Line(c.n, c.per).String(), c)
	}
	assert.Equal(t, "2 JPY", Must("1.5", "JPY").Line(1, 1).String())
	assert.Equal(t, "0 JPY", Must("0.5", "JPY").Line(1, 1).String())
	rapid.Check(t, func(t *rapid.T) {
		micro, n, per := rapid.Int64Range(0, 1e9).Draw(t, "micro"), rapid.Int64Range(1, 1e6).Draw(t, "n"), rapid.Int64Range(1, 1000).Draw(t, "per")
		a, err := New(fmt.Sprintf("%d.%06d", micro/1e6, micro%1e6), "EUR")
		if err != nil {
			t.Fatal(err)
		}
		cents := new(big.Rat).SetFrac64(micro, 1e4)
		cents.Mul(cents, big.NewRat(n, per))
		down := new(big.Int).Quo(cents.Num(), cents.Denom())
		rest := new(big.Rat).Sub(cents, new(big.Rat).SetInt(down))
		if half := rest.Cmp(big.NewRat(1, 2)); half > 0 || half == 0 && down.Bit(0) == 1 {
			down.Add(down, big.NewInt(1))
		}
		want := new(big.Rat).SetFrac(down, big.NewInt(100))
		got, _ := new(big.Rat).SetString(a.Line(n, per).Number())
		if got.Cmp(want) != 0 {
			t.Fatalf("%d × %s ÷ %d is %s, want %s", n, a, per, got, want)
		}
	})
}

func TestAmountsOfTwoCurrenciesAreNeverAddedUp(t *testing.T) {
	_, err := Must("1", "EUR").Add(Must("1", "USD"))
	assert.ErrorIs(t, err, ErrOtherCurrency)
	_, err = Must("1", "EUR").Compare(Must("1", "USD"))
	assert.ErrorIs(t, err, ErrOtherCurrency)
	sum, err := Must("0.1", "EUR").Add(Must("0.2", "EUR"))
	require.NoError(t, err)
	assert.True(t, sum.Equal(Must("0.30", "EUR")))
	sum, err = Amount{}.Add(Must("0.2", "EUR"))
	require.NoError(t, err)
	assert.Equal(t, "0.20 EUR", sum.String())
	assert.Equal(t, "0.125 EUR", Must("12.5", "EUR").Each(100).String())
}

func TestAnAmountInJSONIsText(t *testing.T) {
	raw, err := json.Marshal([]Amount{Must("0.1", "EUR"), {}})
	require.NoError(t, err)
	assert.JSONEq(t, `["0.10 EUR",""]`, string(raw))
	var back []Amount
	require.NoError(t, json.Unmarshal(raw, &back))
	assert.True(t, back[0].Equal(Must("0.10", "EUR")))
	assert.True(t, back[1].None())
	assert.Error(t, json.Unmarshal([]byte(`["1e9 EUR"]`), &back))
}

func TestConversionNamesItsRate(t *testing.T) {
	r, err := ParseRates([]byte("format: jolly-rates/1\nrates:\n- {one: GBP, is: \"1.25\", of: EUR, on: 2026-11-02}\n- {one: GBP, is: \"1.20\", of: EUR, on: 2026-10-01}\n- {one: EUR, is: \"10\", of: NOK, on: 2026-11-02}\n"))
	require.NoError(t, err)
	got, by, ok := r.Convert(Must("2", "GBP"), "EUR", "2026-11-27")
	require.True(t, ok)
	assert.Equal(t, "2.50 EUR", got.String()[:4]+" EUR")
	assert.True(t, got.Equal(Must("2.5", "EUR")))
	assert.Equal(t, "1 GBP = 1.25 EUR on 2026-11-02", by.String())
	got, by, ok = r.Convert(Must("2", "GBP"), "EUR", "2026-11-01")
	require.True(t, ok)
	assert.True(t, got.Equal(Must("2.4", "EUR")), "the rate of the day, not a later one")
	assert.Equal(t, "2026-10-01", by.On)
	got, _, ok = r.Convert(Must("2.5", "EUR"), "GBP", "2026-11-27")
	require.True(t, ok)
	assert.True(t, got.Equal(Must("2", "GBP")), "the other way round")
	_, _, ok = r.Convert(Must("2", "GBP"), "NOK", "2026-11-27")
	assert.False(t, ok, "no rate says so")
	_, _, ok = r.Convert(Must("2", "GBP"), "EUR", "2026-09-01")
	assert.False(t, ok, "nothing is known of that day")
	same, _, ok := r.Convert(Must("2", "NOK"), "NOK", "2026-01-01")
	assert.True(t, ok)
	assert.True(t, same.Equal(Must("2", "NOK")))
}

func TestRatesThatAreRefused(t *testing.T) {
	for doc, why := range map[string]string{
		"format: jolly-rates/2\nrates: []":                                                                                                   `the rates have format "jolly-rates/2"; this version reads "jolly-rates/1"`,
		"format: jolly-rates/1\nrates: [{one: GBP, is: \"0\", of: EUR, on: 2026-11-02}]":                                                     `rate 1: "0" is no number above zero with a decimal point`,
		"format: jolly-rates/1\nrates: [{one: GBP, is: \"1e3\", of: EUR, on: 2026-11-02}]":                                                   `rate 1: "1e3" is no number above zero with a decimal point`,
		"format: jolly-rates/1\nrates: [{one: GBP, is: \"1,2\", of: EUR, on: 2026-11-02}]":                                                   `rate 1: "1,2" is no number above zero with a decimal point`,
		"format: jolly-rates/1\nrates: [{one: gbp, is: \"1.2\", of: EUR, on: 2026-11-02}]":                                                   `rate 1: "gbp" or "EUR" is no currency of ISO 4217 in capitals`,
		"format: jolly-rates/1\nrates: [{one: EUR, is: \"1.2\", of: EUR, on: 2026-11-02}]":                                                   `rate 1 is of EUR against itself`,
		"format: jolly-rates/1\nrates: [{one: GBP, is: \"1.2\", of: EUR, on: \"2026-02-30\"}]":                                               `rate 1: "2026-02-30" is no day such as 2026-11-02`,
		"format: jolly-rates/1\nrates: [{one: GBP, is: \"1.2\", of: EUR, on: 2026-11-02}, {one: EUR, is: \"0.8\", of: GBP, on: 2026-11-02}]": `rate 2: EUR against GBP is said twice for 2026-11-02`,
		"format: jolly-rates/1\nrates: [{one: GBP, is: \"1.2\", of: EUR, on: 2026-11-02, who: me}]":                                          "the field who is not known",
	} {
		_, err := ParseRates([]byte(doc))
		require.Error(t, err, doc)
		assert.Contains(t, err.Error(), why)
	}
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"12,50 €", "CHF 1'234.50", "1e9", "-3", "0x10", ".5", "1.234.567,89"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for _, m := range []Mark{Unsaid, Comma, Point} {
			a, err := Parse(text, "EUR", m)
			if err != nil {
				continue
			}
			digits := func(s string) string {
				return strings.TrimLeft(strings.Map(func(r rune) rune {
					if r < '0' || r > '9' {
						return -1
					}
					return r
				}, s), "0")
			}
			// Every digit of the text is in the amount, in its order, and no other.
			if strings.TrimRight(digits(text), "0") != strings.TrimRight(digits(a.Number()), "0") || a.Sign() < 0 {
				t.Fatalf("%q is read as %s", text, a)
			}
		}
	})
}

// A sign that several countries use is of the currency that is said where that one is written so, and of none else.
func TestSignsOfSeveralCurrencies(t *testing.T) {
	for sign, codes := range map[string]string{
		"$": "USD CAD AUD NZD SGD HKD TWD MXN ARS CLP COP", "¥": "JPY CNY", "kr": "SEK NOK DKK ISK", "kr.": "DKK", "Kr": "SEK", "Kr.": "NOK", "Fr.": "CHF", "Fr": "CHF", "SFr.": "CHF", "zł": "PLN", "Kč": "CZK",
	} {
		for _, code := range strings.Fields("USD CAD AUD NZD SGD HKD TWD MXN ARS CLP COP JPY CNY SEK NOK DKK ISK CHF PLN CZK EUR GBP RSD KWD JOD VND BHD MKD AED IQD") {
			a, err := Parse(sign+" 12.50", code, Point)
			fits := slices.Contains(strings.Fields(codes), code) || strings.EqualFold(sign, "kr") && strings.Contains("SEK NOK DKK ISK", code) || strings.EqualFold(sign, "kr.") && strings.Contains("SEK NOK DKK ISK", code)
			assert.Equal(t, fits, err == nil, "%s as %s: %v", sign, code, a)
			if fits {
				assert.Equal(t, code, a.Code())
			}
		}
	}
}

func TestDays(t *testing.T) {
	for text, want := range map[string]bool{"2026-11-28": true, "2024-02-29": true, "2026-02-29": false, "2000-02-29": true, "1900-02-28": true, "1900-02-29": false, "1899-12-31": false, "1900-01-01": true, "2026-12-31": true, "2026-12-32": false, "2026-13-01": false, "2026-00-10": false, "2026-10-00": false,
		"2026-04-30": true, "2026-04-31": false, "2026-+1-01": false, "2026- 1-01": false, "2026-1-1": false, "28.11.2026": false, "": false, "2026-11-28T00:00:00Z": false, "٢٠٢٦-11-28": false} {
		assert.Equal(t, want, Day(text), text)
	}
}

// The newest rate of a day not after the one that is asked for holds; of today's too.
func TestTheRateOfADay(t *testing.T) {
	r := Rates{Format: RatesFormat, House: "EUR", Rates: []Rate{{One: "GBP", Is: "1.10", Of: "EUR", On: "2026-11-01"}, {One: "EUR", Is: "0.80", Of: "GBP", On: "2026-11-10"}, {One: "GBP", Is: "1.30", Of: "EUR", On: "2026-11-20"}, {One: "SEK", Is: "0.09", Of: "EUR", On: "2026-11-05"}}}
	require.NoError(t, r.Check())
	for on, want := range map[string]string{"2026-10-31": "", "2026-11-01": "11.00 EUR", "2026-11-09": "11.00 EUR", "2026-11-10": "12.50 EUR", "2026-11-19": "12.50 EUR", "2026-11-20": "13.00 EUR", "2030-01-01": "13.00 EUR"} {
		got, by, ok := r.Convert(Must("10", "GBP"), "EUR", on)
		assert.Equal(t, want != "", ok, on)
		assert.Equal(t, want, got.String(), on)
		assert.LessOrEqual(t, by.On, on)
	}
	back, _, ok := r.Convert(Must("13", "EUR"), "GBP", "2026-12-01")
	require.True(t, ok)
	assert.Equal(t, "10.00 GBP", back.String())
	_, _, ok = r.Convert(Must("1", "SEK"), "GBP", "2026-12-01")
	assert.False(t, ok, "there is no rate of the two")
	_, _, ok = r.Convert(Amount{}, "EUR", "2026-12-01")
	assert.False(t, ok)
	same, _, ok := r.Convert(Must("1", "DKK"), "DKK", "1990-01-01")
	assert.True(t, ok)
	assert.Equal(t, "1.00 DKK", same.String())
}

// TestALineIsRoundedAsFractionsAre lays what a line comes to beside exact fractions: small numbers, large ones, and those at the half.
func TestALineIsRoundedAsFractionsAre(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		number := fmt.Sprintf("%d.%0*d", rapid.Int64Range(0, []int64{9, 99_999, 99_999_999_999}[rapid.IntRange(0, 2).Draw(t, "size")]).Draw(t, "whole"), rapid.IntRange(1, 9).Draw(t, "digits"), rapid.Int64Range(0, 9999).Draw(t, "part"))
		n := rapid.Int64Range(0, 2_000_000_000).Draw(t, "n")
		per := rapid.SampledFrom([]int64{1, 2, 8, 10, 100, 1000, 3, 2_000_000}).Draw(t, "per")
		code := rapid.SampledFrom([]string{"EUR", "JPY", "KWD"}).Draw(t, "code")
		got := Must(number, code).Line(n, per)
		want, ok := new(big.Rat).SetString(number)
		require.True(t, ok)
		want.Mul(want, big.NewRat(n, per))
		scale := new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(Digits(code))), nil))
		want.Mul(want, scale)
		q, rest := new(big.Int).QuoRem(want.Num(), want.Denom(), new(big.Int))
		if c := rest.Lsh(rest, 1).Cmp(want.Denom()); c > 0 || c == 0 && q.Bit(0) == 1 {
			q.Add(q, big.NewInt(1))
		}
		is, ok := new(big.Rat).SetString(got.Number())
		require.True(t, ok)
		require.Zero(t, is.Mul(is, scale).Cmp(new(big.Rat).SetInt(q)), "%s times %d, for %d: %s", number, n, per, got)
	})
}

func TestADifferenceIsOfOneCurrency(t *testing.T) {
	for _, c := range [][3]string{{"3.50", "1.25", "2.25 EUR"}, {"1", "1.50", "-0.50 EUR"}, {"2", "2", "0.00 EUR"}} {
		d, err := Must(c[0], "EUR").Minus(Must(c[1], "EUR"))
		require.NoError(t, err)
		assert.Equal(t, c[2], d.String())
		back, err := d.Add(Must(c[1], "EUR"))
		require.NoError(t, err)
		assert.True(t, back.Equal(Must(c[0], "EUR")))
	}
	_, err := Must("1", "EUR").Minus(Must("1", "SEK"))
	require.ErrorIs(t, err, ErrOtherCurrency)
	d, err := Must("1", "EUR").Minus(Amount{})
	require.NoError(t, err)
	assert.Equal(t, "1.00 EUR", d.String())
	d, err = Amount{}.Minus(Must("1", "EUR"))
	require.NoError(t, err)
	assert.Equal(t, "-1.00 EUR", d.String())
}
