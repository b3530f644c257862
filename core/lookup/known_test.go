package lookup

import (
	"cmp"
	"fmt"
	"maps"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

func TestAQuestionByWhatIsNotThereIsNamed(t *testing.T) {
	x := shop(t)
	for _, c := range []struct {
		name       string
		q          Query
		where, key string
	}{
		{name: "nothing asked"},
		{name: "parameters", q: Query{Filters: map[string][]string{"resistance": {"4.7 kΩ"}}, Sort: []Order{{Key: "resistance", Down: true}}, Group: "case", Shown: []string{"number", "tolerance"}}},
		{name: "columns of every part", q: Query{Filters: map[string][]string{"drawer": {"chip-resistors", "resistors"}, "status": {"draft"}, "standing": {"-"}, "manufacturer": {"M"}, "missing": {"symbol"}}, Sort: []Order{{Key: "updated"}}, Group: "manufacturer",
			Shown: []string{"number", "name", "description", "manufacturer", "mpn", "drawer", "status", "standing", "revision", "missing", "updated"}}},
		{name: "what suppliers offer", q: Query{Filters: map[string][]string{"offer.stock": {"5.."}}, Sort: []Order{{Key: "offer.price"}}, Shown: []string{"offer.lead"}}},
		{name: "a set that is given", q: Query{Filters: map[string][]string{"intake": {"IN-1"}}, Sets: map[string][]string{"intake": {}}}},
		{name: "a filter by no parameter", q: Query{Filters: map[string][]string{"span": {"1 mm"}}}, where: "filter", key: "span"},
		{name: "a blank of no parameter", q: Query{Filters: map[string][]string{"span": {"-"}}}, where: "filter", key: "span"},
		{name: "the first of several", q: Query{Filters: map[string][]string{"zz": {"1"}, "aa": {"1"}}}, where: "filter", key: "aa"},
		{name: "a key in capitals is another", q: Query{Filters: map[string][]string{"Resistance": {"1"}}}, where: "filter", key: "Resistance"},
		{name: "a label is no key", q: Query{Sort: []Order{{Key: "Power rating"}}}, where: "sort", key: "Power rating"},
		{name: "a column that is not sorted by", q: Query{Sort: []Order{{Key: "number"}, {Key: "revision"}}}, where: "sort", key: "revision"},
		{name: "a drawer", q: Query{Filters: map[string][]string{"drawer": {"chip-resistors", "chip-resistor"}}}, where: "drawer", key: "chip-resistor"},
		{name: "a drawer by its label", q: Query{Filters: map[string][]string{"drawer": {"Chip resistors"}}}, where: "drawer", key: "Chip resistors"},
		{name: "a group", q: Query{Group: "span"}, where: "group", key: "span"},
		{name: "a column", q: Query{Shown: []string{"number", ""}}, where: "column", key: ""},
		{name: "an offer of nothing", q: Query{Sort: []Order{{Key: "offer.colour"}}}, where: "sort", key: "offer.colour"},
		{name: "what no part has a column of", q: Query{Filters: map[string][]string{"@use": {"no"}}}, where: "filter", key: "@use"},
	} {
		where, key := x.Unknown(c.q)
		assert.Equal(t, c.where, where, c.name)
		assert.Equal(t, c.key, key, c.name)
	}
	where, key := New().Unknown(Query{Filters: map[string][]string{"resistance": {"1"}}})
	assert.Equal(t, [2]string{"filter", "resistance"}, [2]string{where, key}, "before there is a cabinet")
}

func TestASizeThatCannotBeReadIsNamed(t *testing.T) {
	x := shop(t)
	for _, c := range []struct {
		key, text string
		ok        bool
	}{
		{"resistance", "4.7 kΩ", true}, {"resistance", "4k7", true}, {"resistance", "1k..10k", true}, {"resistance", "..10k", true}, {"resistance", "10 kΩ..", true}, {"resistance", "..", false}, {"resistance", "..green", false}, {"resistance", ">= 1k", false}, {"resistance", "1k to 2k", false}, {"resistance", "< 1k", false}, {"resistance", "4k7 ±5%", true}, {"resistance", "-", true},
		{"resistance", "999 MΩ", true}, {"tolerance", "1%", true}, {"case", "0805", true}, {"case", "nothing has it", true},
		{"resistance", "green", false}, {"resistance", "4.7 kV", false}, {"resistance", "", false}, {"resistance", "4k7x", false}, {"tolerance", "1 kΩ", false}, {"resistance", "1k..green", false},
		{"resistance", "10k..1k", true}, {"resistance", "1k..2k foo", false}, {"resistance", "1k..2k..3k", false}, {"resistance", "..1k..2k", false}, {"resistance", "1k..2k..", false},
		{"resistance", "..1k to 2k", false}, {"resistance", "1k to 2k..", false}, {"resistance", "1k..2k to 3k", false}, {"resistance", "1k ±5%..2k", false}, {"resistance", "..2k ±5%", false},
		{"resistance", "at most 1k..", false}, {"resistance", "1k, 2k..", false}, {"tolerance", "±1%..±5%", true}, {"tolerance", "..±5%", true},
		{"resistance", "1k...5k", false}, {"resistance", "...5k", false}, {"resistance", "1k...", false}, {"resistance", "1k.. .5k", true}, {"resistance", "4k7 ±1%", true},
		{"pins", "8...16", true}, {"pins", "...16", false}, {"pins", "8...", false}, {"pins", "8 ±1", false}, {"pins", "8 to 16", true}, {"pins", "16..8", true}, {"pins", "8.5", true},
		{"dielectric", "X7R", true}, {"dielectric", "x7r", true}, {"dielectric", "X7", false}, {"dielectric", "..X7R", false}, {"dielectric", "X7R X5R", false}, {"dielectric", "", false},
		{"rohs", "yes", true}, {"rohs", "no", true}, {"rohs", "Ja", true}, {"rohs", "perhaps", false}, {"rohs", "yes no", false},
		{"pins", "8", true}, {"pins", "8..16", true}, {"pins", "..16", true}, {"pins", "eight", false}, {"pins", "..8 to 16", false}, {"pins", "8..16..32", false}, {"pins", "8..16 x", false},
	} {
		p, text, wrong := x.Unreadable(Query{Filters: map[string][]string{"case": {"0603"}, c.key: {c.text}}})
		if assert.Equal(t, c.ok, !wrong, "%s:%s", c.key, c.text); wrong {
			assert.Equal(t, [2]string{c.key, c.text}, [2]string{p.Key, text})
		}
	}
}

// A range holds just what lies between its ends, however they are written; with anything beside them it is none.
func TestARangeIsTwoEndsAndNothingElse(t *testing.T) {
	x, ohms := shop(t), []int64{220, 4700, 4700, 47000}
	ends := func(t *rapid.T, what string) (text string, n int64) {
		n = rapid.SampledFrom([]int64{1, 219, 220, 221, 4699, 4700, 4701, 10000, 47000, 1000000}).Draw(t, what)
		texts := []string{fmt.Sprintf("%d Ω", n), fmt.Sprintf("%dR", n), fmt.Sprintf("%g k", float64(n)/1000), fmt.Sprintf("%gkΩ", float64(n)/1000)}
		return rapid.SampledFrom(texts).Draw(t, what+" as"), n
	}
	rapid.Check(t, func(t *rapid.T) {
		a, low := ends(t, "from")
		b, high := ends(t, "to")
		switch rapid.IntRange(0, 2).Draw(t, "ends") {
		case 0:
			a, low = "", 0
		case 1:
			b, high = "", 1<<40
		}
		if low > high {
			low, high = high, low
		}
		text := a + rapid.SampledFrom([]string{"..", " .. ", " ..", ".. "}).Draw(t, "mark") + b
		want := 0
		for _, n := range ohms {
			if low <= n && n <= high {
				want++
			}
		}
		q := Query{Filters: map[string][]string{"drawer": {"chip-resistors"}, "resistance": {text}}}
		_, _, wrong := x.Unreadable(q)
		require.False(t, wrong, text)
		require.Equal(t, want, x.Search(q).Total, text)
		more := rapid.SampledFrom([]string{" x", " foo", " 7", " to 9k", "..9k", " ±5%", " V", " ..", ", 9k", "..."}).Draw(t, "more")
		before := rapid.SampledFrom([]string{"x ", "foo ", "at most ", "9k..", "9k, ", "> ", "..."}).Draw(t, "before")
		for _, odd := range []string{text + more, before + text} {
			_, _, wrong = x.Unreadable(Query{Filters: map[string][]string{"resistance": {odd}}})
			require.True(t, wrong, odd)
		}
	})
}

func TestWhatPartsHaveIsHeld(t *testing.T) {
	x := shop(t)
	for _, c := range []struct {
		column, text string
		want         bool
	}{{"status", "released", true}, {"status", "Released", false}, {"status", "", false}, {"status", "rel", false}, {"colour", "red", false}, {"none", "released", false}} {
		assert.Equal(t, c.want, x.Holds(c.column, c.text), "%s %s", c.column, c.text)
	}
}

func TestAddressesFollowANameThatParametersGet(t *testing.T) {
	rename := []cabinet.Step{{Do: cabinet.Rename, Parameter: "height", To: "seated-height"}}
	for in, want := range map[string]string{
		"f=height:1+mm..":                         "f=seated-height%3A1+mm..",
		"f=height%3A1+mm&f=width:height":          "f=seated-height%3A1+mm&f=width:height",
		"sort=-height,number":                     "sort=-seated-height%2Cnumber",
		"sort=number%2Cheight&group=height":       "sort=number%2Cseated-height&group=seated-height",
		"columns=number,height,heights":           "columns=number%2Cseated-height%2Cheights",
		"q=height+1+mm&f=heights:2":               "",
		"group=Height":                            "",
		"":                                        "",
		"f=height":                                "",
		"f=%zz&columns=height":                    "f=%zz&columns=seated-height",
		"f=height:1 %":                            "f=seated-height%3A1+%25",
		"f=height:1%":                             "f=seated-height%3A1%25",
		"f=height:±10%&sort=height":               "f=seated-height%3A%C2%B110%25&sort=seated-height",
		"%66=he%69ght:50 % of it&%zz=height":      "%66=seated-height%3A50+%25+of+it&%zz=height",
		"drawer=height&status=draft&pieces=5":     "",
		"beside=part&f=height:-&f=height:1%26f=2": "beside=part&f=seated-height%3A-&f=seated-height%3A1%26f%3D2",
	} {
		got, changed := FollowAddress(in, rename)
		if want == "" {
			assert.False(t, changed, in)
			want = in
		} else {
			assert.True(t, changed, in)
		}
		assert.Equal(t, want, got, in)
	}
	got, _ := FollowAddress("f=height:1", []cabinet.Step{{Do: cabinet.Rename, Parameter: "height", To: "h"}, {Do: cabinet.Rename, Parameter: "h", To: "z"}})
	assert.Equal(t, "f=z%3A1", got)
	got, changed := FollowAddress("f=height:1", []cabinet.Step{{Do: cabinet.Retire, Parameter: "height"}})
	assert.False(t, changed)
	assert.Equal(t, "f=height:1", got, "it is refused by name")
}

// Whatever an address holds, one that is renamed and renamed back asks what it asked, and nothing else than names changes.
func TestAnAddressThatFollowsThereAndBackAsksTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		key := rapid.SampledFrom([]string{"height", "width", "drawer", "-", "", "a,b", "h:1", "größe"})
		in := url.Values{}
		for range rapid.IntRange(0, 5).Draw(t, "n") {
			in.Add("f", key.Draw(t, "key")+":"+rapid.String().Draw(t, "value"))
			in.Add(rapid.SampledFrom([]string{"sort", "columns"}).Draw(t, "list"), strings.Join([]string{"-" + key.Draw(t, "k1"), key.Draw(t, "k2")}, ","))
			in.Set("q", rapid.String().Draw(t, "q"))
			in.Set("group", key.Draw(t, "group"))
		}
		there, changed := FollowAddress(in.Encode(), []cabinet.Step{{Do: cabinet.Rename, Parameter: "height", To: "seated-height"}})
		back, again := FollowAddress(there, []cabinet.Step{{Do: cabinet.Rename, Parameter: "seated-height", To: "height"}})
		assert.Equal(t, changed, again)
		out, err := url.ParseQuery(back)
		assert.NoError(t, err)
		assert.Equal(t, in, out)
		if !changed {
			assert.Equal(t, in.Encode(), there)
		}
	})
}

// A range with one end in a filter lets through what the comparison in words does, and no more.
func TestARangeWithOneEndIsAComparison(t *testing.T) {
	x := shop(t)
	all := x.Search(Query{Limit: 1000}).Total
	require.Positive(t, all)
	for _, c := range []struct{ key, text, words string }{
		{"resistance", "..10k", "resistance <= 10k"}, {"resistance", "10 kΩ..", "resistance >= 10k"}, {"resistance", "4k7..", "resistance >= 4k7"}, {"resistance", "..220R", "resistance <= 220"},
		{"power", "..125 mW", "power rating <= 125 mW"}, {"power", "0.125 W ..", "power rating >= 0.125 W"}, {"voltage-rating", "25V..", "voltage rating >= 25 V"}, {"voltage-rating", "..1 V", "voltage rating <= 1 V"},
	} {
		ends := x.Search(Query{Filters: map[string][]string{c.key: {c.text}}, Limit: 1000})
		words := x.Search(Query{Text: c.words, Limit: 1000})
		assert.Equal(t, numbersOf(words), numbersOf(ends), "%s:%s as %s", c.key, c.text, c.words)
	}
	some := x.Search(Query{Filters: map[string][]string{"resistance": {"..10k"}}}).Total + x.Search(Query{Filters: map[string][]string{"resistance": {"10k.."}}}).Total
	exact := x.Search(Query{Filters: map[string][]string{"resistance": {"10k"}}}).Total
	blank := x.Search(Query{Filters: map[string][]string{"resistance": {"-"}}}).Total
	assert.Equal(t, all-blank+exact, some, "both ends hold")
}

func numbersOf(a Answer) (out []string) {
	for _, r := range a.Rows {
		out = append(out, r.Number)
	}
	return out
}

// Every value that a list counts finds as many parts as it counts, whatever it is and whether anybody could read it, alone and with another.
func TestWhatIsCountedIsFound(t *testing.T) {
	x := shop(t)
	cab := x.cab
	tpl, _ := cab.Template("electrolytic-capacitors")
	for i, text := range []string{"1.000 µF", "1,000 µF", "1 µF", "1000 µF", "..", "-5", "≥ 10 µF", "10 µF or 22 µF", "4.7 µF to 10 µF", "green", "GREEN", "10 µF ±20 %", "1k..2k", "…", "10 µF.."} {
		slot, _ := tpl.Slot("capacitance")
		val, problem := slot.Read(text, measure.Options{})
		if problem != nil {
			val = cabinet.Value{Type: cabinet.Raw, Text: text}
		}
		e := NewEntry(part.Content{Drawer: "electrolytic-capacitors", Values: map[string]cabinet.Value{"capacitance": val}})
		e.ID, e.Number, e.Status, e.Standing = fmt.Sprint("raw", i), fmt.Sprintf("Q-%d", i), lifecycle.Draft, lifecycle.Active
		x.Put(e)
	}
	counted := 0
	for _, drawer := range []string{"", "electrolytic-capacitors", "ceramic-capacitors", "chip-resistors", "regulators", "schottky-diodes"} {
		where := map[string][]string{}
		if drawer != "" {
			where["drawer"] = []string{drawer}
		}
		for _, f := range x.Search(Query{Filters: where, Facets: true, Limit: 1}).Facets {
			for _, v := range f.Values {
				text, first := cmp.Or(v.Value, "-"), cmp.Or(f.Values[0].Value, "-")
				q := Query{Filters: maps.Clone(where)}
				q.Filters[f.Key] = []string{text}
				_, _, wrong := x.Unreadable(q)
				assert.False(t, wrong, "%s:%s", f.Key, text)
				assert.Equal(t, v.Parts, x.Search(q).Total, "%s:%s in %s", f.Key, text, drawer)
				if first != text && f.Key != "missing" { // a part may lack several
					q.Filters[f.Key] = []string{first, text}
					assert.Equal(t, v.Parts+f.Values[0].Parts, x.Search(q).Total, "%s:%s and %s in %s", f.Key, first, text, drawer)
				}
				counted++
			}
		}
	}
	assert.Greater(t, counted, 60)
}

// However a browser or a hand writes a filter into an address, the parameter's name follows and what is chosen stays as it was.
func TestAnAddressFollowsHoweverItIsWritten(t *testing.T) {
	rename := []cabinet.Step{{Do: cabinet.Rename, Parameter: "height", To: "seated-height"}}
	rapid.Check(t, func(t *rapid.T) {
		key := rapid.SampledFrom([]string{"height", "width", "heights", "seated"}).Draw(t, "key")
		chosen := strings.Join(rapid.SliceOfN(rapid.SampledFrom([]string{"1", "%", "25", " ", "%zz", "µ", "Ω", "..", "±", ":", "=", "+", "&", "%4", "a", "\""}), 0, 6).Draw(t, "chosen"), "")
		var field strings.Builder
		for _, c := range []byte("f=" + key + ":" + chosen) {
			switch how := rapid.IntRange(0, 3).Draw(t, "how"); {
			case c == '=' && !strings.Contains(field.String(), "="): // the one that parts name and value
				field.WriteByte(c)
			case how == 0 || c == '&' || c == '+' || c == '%':
				fmt.Fprintf(&field, "%%%02X", c)
			case how == 1:
				fmt.Fprintf(&field, "%%%02x", c)
			case c == ' ' && how == 2:
				field.WriteByte('+')
			default:
				field.WriteByte(c)
			}
		}
		got, changed := FollowAddress(field.String()+"&status=draft", rename)
		require.Equal(t, key == "height", changed, field.String())
		if !changed {
			require.Equal(t, field.String()+"&status=draft", got)
			return
		}
		now, err := url.ParseQuery(got)
		require.NoError(t, err)
		require.Equal(t, url.Values{"f": {"seated-height:" + chosen}, "status": {"draft"}}, now, field.String())
	})
}
