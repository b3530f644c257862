package measure_test

import (
	"math/big"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	. "jollydrawer/core/measure"
	"jollydrawer/core/measure/measuretest"
)

// The second reader is written from the texts of the standards alone, plainly and slowly, and shares nothing with the
// first: SI brochure (9th edition) 5.4.3 for a value and its unit, table 7 for prefixes; ISO 80000-1, 7.3 for digits;
// IEC 60062, clause 4 for letters in place of the decimal mark. It reads less, and where both read they must agree.

var siPrefixes = map[string]int{"f": -15, "p": -12, "n": -9, "µ": -6, "μ": -6, "u": -6, "m": -3, "c": -2, "": 0, "k": 3, "M": 6, "G": 9, "T": 12}

var siUnits = map[string]Dimension{"Ω": Resistance, "\u2126": Resistance, "ohm": Resistance, "F": Capacitance, "H": Inductance, "V": Voltage, "A": Current, "W": Power, "Hz": Frequency, "s": Time, "m": Length, "°C": Temperature, "%": Ratio,
	"Ah": Charge, "Wh": Energy, "g": Mass, "cd": LuminousIntensity, "lm": LuminousFlux, "lx": Illuminance, "Pa": Pressure, "J": PulseEnergy, "N": Force, "T": FluxDensity, "S": Conductance, "bit/s": DataRate, "bps": DataRate, "VA": ApparentPower, "S/s": SampleRate, "K/W": ThermalResistance, "ppm/°C": TempCoefficient, "dB": Level, "dBm": PowerLevel}

type second struct {
	low, high *big.Rat
	of        Dimension
	tol       *big.Rat // per cent
}

var (
	secondNumber = `([+-]?\d+(?:\.\d+)?|[+-]?\.\d+)`
	secondUnit   = `(f|p|n|µ|μ|u|m|c|k|M|G|T)?(Ω|\x{2126}|ohm|F|Hz|H|VA|V|Ah|A|Wh|W|bit/s|bps|S/s|S|s|m|°C|%|g|cd|lm|lx|Pa|J|N|T|K/W|ppm/°C|dBm|dB)`
	secondValue  = regexp.MustCompile(`^` + secondNumber + `[ \x{a0}]*` + secondUnit + `$`)
	secondTol    = regexp.MustCompile(`^` + secondNumber + `[ \x{a0}]*` + secondUnit + ` ?(?:±|\+/-) ?(\d+(?:\.\d+)?) ?%$`)
	secondRange  = regexp.MustCompile(`^` + secondNumber + `[ \x{a0}]*` + secondUnit + `(?: to | ?\.\.\. ?| ?~ ?)` + secondNumber + `[ \x{a0}]*` + secondUnit + `$`)
	secondBare   = regexp.MustCompile(`^` + secondNumber + `(?: to | ?\.\.\. ?| ?~ ?)` + secondNumber + `[ \x{a0}]*` + secondUnit + `$`)
	zeroLed      = regexp.MustCompile(`(^|[^\d.])0\d`) // "05" is no number of ISO 80000-1
	secondCode   = regexp.MustCompile(`^(\d{0,3})([RkKMpnuµ])(\d{1,4})$`)
)

func rat(s string) *big.Rat {
	r, ok := new(big.Rat).SetString(strings.TrimPrefix(s, "+"))
	if !ok {
		panic(s)
	}
	return r
}

func times(r *big.Rat, exp int) *big.Rat {
	ten := new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(max(exp, -exp))), nil))
	if exp < 0 {
		return new(big.Rat).Quo(r, ten)
	}
	return new(big.Rat).Mul(r, ten)
}

func readSecond(text string, of Dimension) (second, bool) {
	text = strings.Trim(text, " \t\u00a0")
	if zeroLed.MatchString(text) && secondCode.FindStringSubmatch(text) == nil {
		return second{}, false
	}
	value := func(n, prefix, unit string) (*big.Rat, Dimension, bool) {
		d, ok := siUnits[unit]
		return times(rat(n), siPrefixes[prefix]), d, ok && (of == None || d == of)
	}
	switch {
	case secondTol.MatchString(text):
		g := secondTol.FindStringSubmatch(text)
		v, d, ok := value(g[1], g[2], g[3])
		return second{low: v, high: v, of: d, tol: rat(g[4])}, ok
	case secondValue.MatchString(text):
		g := secondValue.FindStringSubmatch(text)
		v, d, ok := value(g[1], g[2], g[3])
		return second{low: v, high: v, of: d}, ok
	case secondRange.MatchString(text):
		g := secondRange.FindStringSubmatch(text)
		a, d, ok1 := value(g[1], g[2], g[3])
		b, e, ok2 := value(g[4], g[5], g[6])
		if a.Cmp(b) > 0 {
			a, b = b, a
		}
		return second{low: a, high: b, of: d}, ok1 && ok2 && d == e
	case secondBare.MatchString(text):
		g := secondBare.FindStringSubmatch(text)
		a, d, ok := value(g[1], g[3], g[4])
		b, _, _ := value(g[2], g[3], g[4])
		return second{low: a, high: b, of: d}, ok && a.Cmp(b) < 0
	case secondCode.MatchString(text):
		g := secondCode.FindStringSubmatch(text)
		d := map[string]Dimension{"R": Resistance, "k": Resistance, "K": Resistance, "M": Resistance, "p": Capacitance}[g[2]]
		if d == None {
			d = of
		}
		exp := map[string]int{"R": 0, "k": 3, "K": 3, "M": 6, "p": -12, "n": -9, "u": -6, "µ": -6}[g[2]]
		v := times(rat("0"+g[1]+"."+g[3]), exp)
		return second{low: v, high: v, of: d}, d == of && (of == Resistance || of == Capacitance || of == Inductance)
	}
	return second{}, false
}

// agree compares the two readers on one text; it says what differs, or nothing where one of them does not read.
func agree(text string, of Dimension) string {
	r := Parse(text, Options{Of: of})
	s, ok := readSecond(text, of)
	if !ok || r.Outcome != Read {
		return ""
	}
	m := r.Measure
	same := func(n Number, r *big.Rat) bool { return rat(n.String()).Cmp(r) == 0 }
	shape := Nominal
	if s.low.Cmp(s.high) != 0 {
		shape = Range
	}
	switch {
	case m.Of != s.of, m.Shape != shape && !(m.Shape == Range && same(m.Low, s.low)), !same(m.Low, s.low), !same(m.High, s.high):
		return text + " is " + m.String() + " to the one, " + s.low.RatString() + " to " + s.high.RatString() + " " + s.of.String() + " to the other"
	case (s.tol != nil) != (m.Tol == Percent), s.tol != nil && (!same(m.Plus, s.tol) || !same(m.Minus, s.tol)):
		return text + " has the tolerance of " + m.String() + " to the one only"
	}
	return ""
}

func TestTwoReadersAgreeOnMadeAndMutatedTexts(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	both, bad := 0, 0
	for _, class := range measuretest.Classes() {
		maker := measuretest.New(77)
		for range rounds() / 2 {
			made := maker.Make(class)
			for _, text := range []string{made.Text, mutate(r, made.Text), mutate(r, mutate(r, made.Text))} {
				for _, of := range []Dimension{made.Of, None} {
					if _, ok := readSecond(text, of); ok {
						both++
					}
					if says := agree(text, of); says != "" {
						if bad++; bad < 20 {
							assert.Fail(t, "the readers disagree", says)
						}
					}
				}
			}
		}
	}
	t.Logf("two readers: %d texts, made and mutated, that both may read: %d disagreements", both, bad)
	assert.Greater(t, both, rounds(), "texts that the second reader reads")
}

// mutate changes a character of a text: drops it, doubles it, swaps it with its neighbour, or puts in one that does harm.
func mutate(r *rand.Rand, text string) string {
	s := []rune(text)
	if len(s) == 0 {
		return text
	}
	i := r.IntN(len(s))
	switch r.IntN(4) {
	case 0:
		return string(s[:i]) + string(s[i+1:])
	case 1:
		return string(s[:i+1]) + string(s[i:])
	case 2:
		j := min(i+1, len(s)-1)
		s[i], s[j] = s[j], s[i]
		return string(s)
	}
	harm := []rune(" .,-+/kmMµ0159½²()@x~\u00a0\u200b%e")
	return string(s[:i]) + string(harm[r.IntN(len(harm))]) + string(s[i:])
}

func TestTwoReadersAgreeOnAnyText(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`[+-]?[0-9]{1,4}([.,][0-9]{1,3})?[ ]?(k|M|m|µ|n|p|G)?(Ω|F|H|V|A|W|Hz|s|m|%|°C)( ?(to|\.\.\.|~|±) ?[0-9]{1,3}(\.[0-9])? ?(k|m|µ)?(Ω|V|A|%|Hz))?`).Draw(t, "text")
		of := Dimension(rapid.IntRange(0, 12).Draw(t, "of"))
		if says := agree(text, of); says != "" {
			t.Fatal(says)
		}
	})
}

// pieces says what is wrong with the tally of a text that was read: gaps, overlaps, a number that is only a remark.
func badTally(text string, tally Tally) string {
	end := 0
	for _, p := range tally {
		if int(p.From) < end || p.To <= p.From || int(p.To) > len(text) {
			return "pieces overlap or leave the text"
		}
		if strings.Trim(text[end:p.From], " \t\r\n\u00a0\u202f\u2009\u2007\u2008\u3000\u2002\u2003\ufeff\u200b") != "" {
			return "a piece of the text has no place: " + text[end:p.From]
		}
		if p.As == AsRemark && strings.ContainsAny(text[p.From:p.To], "0123456789") {
			return "a number is only a remark"
		}
		end = int(p.To)
	}
	if strings.Trim(text[end:], " \t\r\n\u00a0\u202f\u2009\u2007\u3000\ufeff\u200b") != "" {
		return "the end of the text has no place: " + text[end:]
	}
	return ""
}

func TestEveryCharacterIsAccountedFor(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	for _, class := range measuretest.Classes() {
		maker := measuretest.New(5)
		for range rounds() / 3 {
			text := maker.Make(class).Text
			if r.IntN(2) == 0 {
				text = mutate(r, text)
			}
			var tally Tally
			if Parse(text, Options{Tally: &tally}).Outcome == Read {
				if bad := badTally(text, tally); bad != "" {
					t.Fatalf("%q: %s %v", text, bad, tally)
				}
			}
		}
	}
}

func FuzzReaders(f *testing.F) {
	for _, s := range []string{"4k7", "1,000 µF", "-40 to +85 °C", "+80/-20 %", "600 Ω @ 100 MHz", "\xff\x00", "1/8W", "2.7/3.3/3.6 V (min/typ/max)", "1½ in", "1.6 x 0.8 mm", "5 A (Tc = 25 °C)"} {
		f.Add(s, uint8(1))
	}
	f.Fuzz(func(t *testing.T, text string, d uint8) {
		if len(text) > 250 {
			return // longer than any value; the readers of the tests are slow
		}
		of := Dimension(int(d) % (len(Dimensions()) + 1))
		var tally Tally
		if r := Parse(text, Options{Of: of, Tally: &tally}); r.Outcome == Read {
			if bad := badTally(text, tally); bad != "" {
				t.Fatalf("%q: %s", text, bad)
			}
		}
		if says := agree(text, of); says != "" {
			t.Fatal(says)
		}
	})
}
