package money

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"jollydrawer/core/document"
)

// RatesFormat is the format name that a document of exchange rates carries.
const RatesFormat = "jolly-rates/1"

// Rates are dated exchange rates, as somebody loaded them.
type Rates struct {
	Format string `json:"format" yaml:"format"`
	House  string `json:"house,omitempty" yaml:"house,omitempty"` // the currency that the house counts in; blank converts nothing
	From   string `json:"from,omitempty" yaml:"from,omitempty"`   // who says so
	Rates  []Rate `json:"rates" yaml:"rates"`
}

// Rate says that one of a currency was so many of another on a day.
type Rate struct {
	One string `json:"one" yaml:"one"` // ISO 4217
	Is  string `json:"is" yaml:"is"`   // decimal, with a point
	Of  string `json:"of" yaml:"of"`
	On  string `json:"on" yaml:"on"` // such as 2026-11-02
}

// String says a rate in words: "1 GBP = 1.1712 EUR on 2026-11-02".
func (r Rate) String() string { return fmt.Sprintf("1 %s = %s %s on %s", r.One, r.Is, r.Of, r.On) }

// ParseRates reads a document of rates in YAML or JSON and checks it.
func ParseRates(raw []byte) (Rates, error) {
	var r Rates
	if err := document.ReadYAML(raw, "the rates", &r); err != nil {
		return r, err
	}
	return r, r.Check()
}

// Check says what is wrong with the rates by themselves.
func (r Rates) Check() error {
	if r.Format != RatesFormat {
		return fmt.Errorf("the rates have format %q; this version reads %q", r.Format, RatesFormat)
	}
	if c, ok := Currency(r.House); r.House != "" && (!ok || c != r.House) {
		return fmt.Errorf("house: %q is no currency of ISO 4217 in capitals", r.House)
	}
	seen := map[string]bool{}
	for i, x := range r.Rates {
		one, ok := Currency(x.One)
		of, also := Currency(x.Of)
		switch is, err := decimal.NewFromString(x.Is); {
		case !ok || !also || one != x.One || of != x.Of:
			return fmt.Errorf("rate %d: %q or %q is no currency of ISO 4217 in capitals", i+1, x.One, x.Of)
		case one == of:
			return fmt.Errorf("rate %d is of %s against itself", i+1, one)
		case err != nil || is.Sign() <= 0 || strings.ContainsAny(x.Is, "eE") || len(x.Is) > maxText:
			return fmt.Errorf("rate %d: %q is no number above zero with a decimal point", i+1, x.Is)
		case !Day(x.On):
			return fmt.Errorf("rate %d: %q is no day such as 2026-11-02", i+1, x.On)
		}
		pair := []string{one, of}
		slices.Sort(pair)
		if key := pair[0] + pair[1] + x.On; seen[key] {
			return fmt.Errorf("rate %d: %s against %s is said twice for %s", i+1, one, of, x.On)
		} else {
			seen[key] = true
		}
	}
	return nil
}

// Day says whether a text has the form of a date of ISO 8601 and is one, of 1900 or later.
func Day(s string) bool {
	t, err := time.Parse(time.DateOnly, s)
	return err == nil && t.Year() >= 1900
}

// Convert gives a in another currency by the newest rate of a day not after on, with the rate it was converted by. Without one, ok is false. The
// number keeps six digits beyond what the currency is paid in; it is for comparing and showing, and rounded where something is bought.
func (r Rates) Convert(a Amount, to, on string) (converted Amount, by Rate, ok bool) {
	if a.None() {
		return a, by, false
	}
	if a.code == to {
		return a, by, true
	}
	for _, x := range r.Rates {
		if (x.One == a.code && x.Of == to || x.One == to && x.Of == a.code) && x.On <= on && x.On > by.On {
			by, ok = x, true
		}
	}
	if !ok {
		return Amount{}, Rate{}, false
	}
	is, err := decimal.NewFromString(by.Is)
	if err != nil || is.Sign() <= 0 {
		return Amount{}, Rate{}, false
	}
	keep := Digits(to) + 6
	if by.One == a.code {
		return Amount{a.value.Mul(is).RoundBank(keep), to}, by, true
	}
	return Amount{a.value.DivRound(is, keep+6).RoundBank(keep), to}, by, true
}
