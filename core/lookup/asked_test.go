package lookup

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/measure"
	"jollydrawer/core/measure/measuretest"
	"jollydrawer/core/part"
)

// stall is an index of made parts, with what each holds.
func stall(t testing.TB, d *measuretest.Draws) (*Index, []*Entry) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	x := New()
	x.SetCabinet(cab)
	pick := func(list ...string) string { return list[d.IntN(len(list))] }
	var all []*Entry
	for i := range 240 {
		c := part.Content{Values: map[string]cabinet.Value{}}
		var values map[string]string
		switch i % 4 {
		case 0:
			c.Drawer = "chip-resistors"
			values = map[string]string{"resistance": pick("220 Ω", "1 kΩ", "4.7 kΩ", "5.1 kΩ", "10 kΩ", "15 kΩ", "20 kΩ", "47 kΩ", "1 MΩ"), "tolerance": pick("0.1 %", "1 %", "5 %"), "power": pick("100 mW", "125 mW", "250 mW"), "case": pick("0402", "0603", "0805")}
		case 1:
			c.Drawer = "ceramic-capacitors"
			values = map[string]string{"capacitance": pick("10 nF", "100 nF", "220 nF", "1 µF", "4.7 µF"), "voltage-rating": pick("6.3 V", "10 V", "16 V", "25 V", "50 V", "100 V"), "dielectric": pick("X7R", "X5R", "C0G"), "case": pick("0402", "0603", "0805")}
		case 2:
			c.Drawer = "mosfets"
			values = map[string]string{"drain-source-voltage": pick("-20 V", "-30 V", "20 V", "30 V", "60 V"), "channel": pick("N", "P"), "drain-current": pick("-2 A", "4 A", "10 A"), "case": pick("SOT-23", "TO-252")}
		default:
			c.Drawer = "regulators"
			values = map[string]string{"output-voltage": pick("1.8 V", "3.3 V", "5 V"), "supply-voltage": pick("2.7 to 5.5 V", "4.5 to 18 V"), "current-rating": pick("200 mA", "500 mA", "1 A"), "case": pick("SOT-23", "SOT-223")}
		}
		tpl, _ := cab.Template(c.Drawer)
		for k, text := range values {
			if slot, ok := tpl.Slot(k); ok {
				if v, problem := slot.Read(text, measure.Options{}); problem == nil {
					c.Values[k] = v
				}
			}
		}
		e := NewEntry(c)
		e.ID, e.Number, e.Version, e.Status, e.Standing = fmt.Sprint(i), fmt.Sprintf("FH-%05d", 1000+i), 1, lifecycle.Released, lifecycle.Active
		all = append(all, e)
	}
	x.Put(all...)
	return x, all
}

// question is a text with what it must find.
type question struct {
	text string
	fits func(e *Entry) bool
}

// valueOf gives the ends of a parameter's value, by size where its sign does not count.
func valueOf(e *Entry, key string, size bool) (low, high measure.Number, ok bool) {
	v := e.Value(key)
	if v.Type != cabinet.Measure {
		return low, high, false
	}
	low, high = ends(v.Measure)
	if size {
		if low, high = unsignedOf(low), unsignedOf(high); low.Cmp(high) > 0 {
			low, high = high, low
		}
	}
	return low, high, true
}

var voltages = map[string]bool{"voltage-rating": false, "drain-source-voltage": true, "output-voltage": true, "supply-voltage": true}

// anyOf says whether one of some parameters holds.
func anyOf(keys map[string]bool, holds func(low, high measure.Number) bool) func(*Entry) bool {
	return func(e *Entry) bool {
		for key, size := range keys {
			if low, high, ok := valueOf(e, key, size); ok && holds(low, high) {
				return true
			}
		}
		return false
	}
}

// ask makes a question with a known answer.
func ask(d *measuretest.Draws) question {
	pick := func(list ...string) string { return list[d.IntN(len(list))] }
	volts := []string{"6.3", "10", "16", "20", "25", "30", "50", "3.3", "5"}
	v := pick(volts...)
	n := measure.MustParseNumber(v)
	unit := pick("V", " V", " V")
	ohms := map[string]bool{"resistance": false}
	switch d.IntN(13) {
	case 12: // a comparison with a value that names no unit
		k := measure.Whole(10000)
		text := pick("10k", "10 k", "10k0", "10 kΩ", "10000 ohm", "10 kOhm")
		switch d.IntN(4) {
		case 0:
			return question{pick("over ", "above ", "more than ", "> ", ">") + text, anyOf(ohms, func(_, high measure.Number) bool { return high.Cmp(k) > 0 })}
		case 1:
			return question{pick("under ", "below ", "less than ", "<") + text, anyOf(ohms, func(low, _ measure.Number) bool { return low.Cmp(k) < 0 })}
		case 2:
			if d.IntN(4) == 0 {
				return question{text + " or more", anyOf(ohms, func(_, high measure.Number) bool { return high.Cmp(k) >= 0 })}
			}
			return question{pick("at least ", "min ", "from ", ">= ", "=>") + text, anyOf(ohms, func(_, high measure.Number) bool { return high.Cmp(k) >= 0 })}
		}
		return question{pick("up to ", "at most ", "max ", "<= ", "=<") + text, anyOf(ohms, func(low, _ measure.Number) bool { return low.Cmp(k) <= 0 })}
	case 0:
		op := pick("over ", "above ", "more than ", "> ", ">")
		return question{op + v + unit, anyOf(voltages, func(_, high measure.Number) bool { return high.Cmp(n) > 0 })}
	case 1:
		op := pick("under ", "below ", "less than ", "< ", "<")
		return question{op + v + unit, anyOf(voltages, func(low, _ measure.Number) bool { return low.Cmp(n) < 0 })}
	case 2:
		op := pick("at least ", "min ", "min. ", ">= ", "≥ ", "=>", ">=")
		return question{op + v + unit, anyOf(voltages, func(_, high measure.Number) bool { return high.Cmp(n) >= 0 })}
	case 3:
		op := pick("up to ", "at most ", "max ", "max. ", "<= ", "≤ ", "=<")
		return question{op + v + unit, anyOf(voltages, func(low, _ measure.Number) bool { return low.Cmp(n) <= 0 })}
	case 4:
		lo, hi := measure.Whole(10000), measure.Whole(20000)
		return question{pick("between 10 and 20k", "10-20 kΩ", "10..20 kΩ", "10k..20k", "10 to 20 kΩ", "between 10 kΩ and 20 kΩ", "resistance between 10 and 20k", "resistance 10..20k", "10 kΩ - 20 kΩ"),
			anyOf(ohms, func(low, high measure.Number) bool { return low.Cmp(lo) >= 0 && high.Cmp(hi) <= 0 })}
	case 5:
		a, b := measure.Whole(4700), measure.Whole(5100)
		return question{pick("4k7 or 5k1", "4k7|5k1", "4.7 kΩ | 5.1 kΩ", "resistance 4k7 or 5k1", "4.7k or 5.1 kΩ", "4k7, 5k1"), anyOf(ohms, func(low, _ measure.Number) bool { return low == a || low == b })}
	case 6:
		return question{pick("tolerance <= 1%", "tolerance max 1%", "tolerance up to 1 %", "tolerance =< 1%", "tolerance at most 1%"), func(e *Entry) bool {
			t := e.Value("tolerance")
			return t.Type == cabinet.Measure && t.Measure.Plus.Cmp(measure.Whole(1)) <= 0
		}}
	case 7:
		c := pick("0402", "0603", "0805")
		return question{pick("case != "+c+" res", "case <> "+c+" res", "res not "+c, "case ≠ "+c+" res", "not "+c+" res"), func(e *Entry) bool { return e.Drawer == "chip-resistors" && e.Value("case").Text != c }}
	case 8: // a P-channel device at -20 V is one of 20 V
		return question{"drain-source voltage " + pick("", "= ") + "20 V", anyOf(map[string]bool{"drain-source-voltage": true}, func(low, _ measure.Number) bool { return low == measure.Whole(20) })}
	case 9: // the value behind a kind is that kind's own
		o := pick("1.8", "3.3", "5")
		want := measure.MustParseNumber(o)
		return question{pick("ldo ", "regulator ", "regulators ") + o + unit, func(e *Entry) bool {
			low, _, ok := valueOf(e, "output-voltage", true)
			return e.Drawer == "regulators" && ok && low == want
		}}
	case 10:
		w := 1000 + d.IntN(240)
		number := fmt.Sprintf("FH-%05d", w)
		return question{pick(number, strings.ToLower(number), fmt.Sprintf("fh %05d", w), fmt.Sprintf("FH%05d", w), fmt.Sprintf("fh_%05d", w)), func(e *Entry) bool { return e.Number == number }}
	}
	a := pick("x7r or x5r", "X7R|X5R", "dielectric:x7r or x5r")
	return question{a, func(e *Entry) bool { return e.Value("dielectric").Text == "X7R" || e.Value("dielectric").Text == "X5R" }}
}

func TestQuestionsFindWhatTheyMeanAndSayIt(t *testing.T) {
	d := &measuretest.Draws{State: 41}
	x, all := stall(t, d)
	bad := 0
	find := func(text string) []string {
		var got []string
		for _, r := range x.Search(Query{Text: text, Limit: 1000}).Rows {
			got = append(got, r.Number)
		}
		slices.Sort(got)
		return got
	}
	for range rounds(4000) {
		q, second := ask(d), question{}
		if d.IntN(3) == 0 { // two facts together
			second = ask(d)
			if q.text != second.text && !strings.Contains(q.text+second.text, "or ") && !strings.ContainsAny(q.text+second.text, "|,") && !(strings.Contains(q.text, "V") && strings.Contains(second.text, "V")) { // "min 10 V max 50 V" is one range
				first := q
				q = question{q.text + pick2(d, " ", " and ", ", ") + second.text, func(e *Entry) bool { return first.fits(e) && second.fits(e) }}
			}
		}
		var want []string
		for _, e := range all {
			if q.fits(e) {
				want = append(want, e.Number)
			}
		}
		slices.Sort(want)
		a := x.Search(Query{Text: q.text, Limit: 1000})
		got := find(q.text)
		var shown []string
		for _, f := range a.Facts {
			shown = append(shown, f.As)
		}
		if again := find(strings.Join(shown, " ")); !slices.Equal(again, got) {
			if bad++; bad < 12 {
				assert.Fail(t, "what is shown is not what is matched", "%q is shown as %q: %d and %d hits", q.text, shown, len(got), len(again))
			}
		}
		if !slices.Equal(want, got) {
			if bad++; bad < 12 {
				assert.Fail(t, "a question finds something else", "%q is read as %q: %d hits, %d wanted", q.text, shown, len(got), len(want))
			}
		}
	}
	t.Logf("questions: 4000 asked, %d found something else than meant or shown", bad)
	assert.Zero(t, bad)
}

func pick2(d *measuretest.Draws, list ...string) string { return list[d.IntN(len(list))] }

func TestWhatIsNotUnderstoodIsSaid(t *testing.T) {
	x, _ := stall(t, &measuretest.Draws{State: 41})
	for text, skipped := range map[string]string{"or 4k7": "or", "res over": "over", "4k7 >=": ">=", "tolerance >= much": "tolerance >= much"} {
		var said []string
		for _, f := range x.Search(Query{Text: text}).Facts {
			if f.Kind == "skipped" {
				said = append(said, f.Text)
			}
		}
		assert.Equal(t, []string{skipped}, said, text)
	}
	two := NewEntry(part.Content{Drawer: "chip-resistors"})
	two.ID, two.Number, two.Version = "two", "FH0-1001", 1
	x.Put(two)
	assert.Equal(t, 2, x.Search(Query{Text: "fh01001"}).Total, "two numbers that differ in punctuation only are both offered")
}

func TestADecimalCommaAsksWhatAPointAsks(t *testing.T) {
	x, _ := stall(t, &measuretest.Draws{State: 7})
	found := func(text string) (numbers []string, facts []Fact) {
		a := x.Search(Query{Text: text, Limit: 300})
		for _, row := range a.Rows {
			numbers = append(numbers, row.Number)
		}
		return numbers, a.Facts
	}
	some := 0
	for _, form := range []string{"%s", "%s 0805", "0805 %s", "resistance %s", "resistance >= %s", "> %s", "%s or 10 kΩ", "%s, 10 kΩ", "between %s and 10 kΩ", "not %s", "at least %s", "resistance %s 1%%", "chip resistors %s", "%s ±1 %%", "resistance:%s"} {
		for _, value := range []string{"4.7 kΩ", "5.1 kΩ", "4.7kΩ", "0.22 kΩ", "4.7 µF", "6.3 V", "3.3 V", "1.8 V", "0.1 µF", "0.125 W", "2.7 V"} {
			want, _ := found(fmt.Sprintf(form, value))
			got, facts := found(fmt.Sprintf(form, strings.Replace(value, ".", ",", 1)))
			require.Equal(t, want, got, "%s of %s: %+v", form, value, facts)
			if len(want) > 0 && len(want) < 240 {
				some++
			}
		}
	}
	assert.Greater(t, some, rounds(60), "most of the questions find some")
}
