package part

import (
	"bytes"
	"encoding/json"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/core/measure"
)

// bare is a content that does not write its canonical form itself.
type bare Content

// anyText draws texts of every kind: with what JSON escapes, with what HTML does, and none at all.
var anyText = rapid.OneOf(rapid.String(), rapid.SampledFrom([]string{"", "<b>&\"\\\u2028\u2029\x7f\n\x00", "4.7 kΩ", "\u2027", "a/b", "null", "\ufffd"}))

// plainText draws texts without escapes.
var plainText = rapid.StringMatching(`[a-zA-Z0-9 Ωµ/-]{0,12}`)

func someOf[T any](t *rapid.T, name string, one func(*rapid.T) T) (out []T) {
	for range rapid.IntRange(0, 3).Draw(t, name) {
		out = append(out, one(t))
	}
	return out
}

func anyModel(t *rapid.T, words *rapid.Generator[string]) Model {
	return Model{ID: words.Draw(t, "id"), Name: words.Draw(t, "name"), Revision: rapid.OneOf(rapid.Int(), rapid.SampledFrom([]int{0, -1, 10, math.MinInt})).Draw(t, "revision"), StandIn: rapid.Bool().Draw(t, "standIn")}
}

func anyFile(t *rapid.T, words *rapid.Generator[string]) File {
	return File{words.Draw(t, "hash"), words.Draw(t, "name")}
}

func anyValue(t *rapid.T, words *rapid.Generator[string]) cabinet.Value {
	switch typ := rapid.SampledFrom([]cabinet.Type{cabinet.Measure, cabinet.Text, cabinet.Choice, cabinet.Number, cabinet.YesNo, cabinet.Link, cabinet.Date, cabinet.Raw}).Draw(t, "type"); typ {
	case cabinet.Measure:
		of, _ := measure.ParseDimension("resistance")
		text := rapid.SampledFrom([]string{"4.7 kΩ", "1 kΩ ±5 %", "1 kΩ +10 -20 %", "≤ 3 Ω", "≥ 3 Ω", "1 to 2 Ω", "1 Ω, 2 Ω, 3 Ω", "1 to 2 Ω, 4 to 5 Ω", "3 Ω @ 25 °C", "3 Ω (typ)"}).Draw(t, "measure")
		r := measure.Parse(text, measure.Options{Of: of})
		require.Equal(t, measure.Read, r.Outcome, text)
		m := r.Measure
		m.Note = rapid.SampledFrom([]string{"", "<at> dawn & dusk"}).Draw(t, "note")
		return cabinet.Value{Type: typ, Measure: m}
	case cabinet.Number:
		return cabinet.Value{Type: typ, Number: rapid.Int64().Draw(t, "number")}
	case cabinet.YesNo:
		return cabinet.Value{Type: typ, Yes: rapid.Bool().Draw(t, "yes")}
	default:
		return cabinet.Value{Type: typ, Text: words.Draw(t, "text")}
	}
}

func anyContent(t *rapid.T, words *rapid.Generator[string]) Content {
	c := Content{Drawer: words.Draw(t, "drawer"), Name: words.Draw(t, "name"), Description: words.Draw(t, "description"), MapLand: words.Draw(t, "mapLand")}
	c.Links = someOf(t, "links", func(t *rapid.T) string { return words.Draw(t, "link") })
	c.Datasheets = someOf(t, "datasheets", func(t *rapid.T) File { return anyFile(t, words) })
	c.Attachments = someOf(t, "attachments", func(t *rapid.T) Attachment { return Attachment{words.Draw(t, "is"), anyFile(t, words)} })
	c.OtherLands = someOf(t, "lands", func(t *rapid.T) OtherLand { return OtherLand{words.Draw(t, "for"), anyModel(t, words)} })
	c.Sources = someOf(t, "sources", func(t *rapid.T) Source {
		return Source{Manufacturer: words.Draw(t, "maker"), MPN: words.Draw(t, "mpn"), Unlike: rapid.MapOfN(words, words, 0, 3).Draw(t, "unlike"),
			Numbers: someOf(t, "numbers", func(t *rapid.T) Number { return Number{words.Draw(t, "supplier"), words.Draw(t, "number")} })}
	})
	for _, place := range []**Model{&c.Symbol, &c.LandPattern, &c.Body, &c.PinMap} {
		if rapid.Bool().Draw(t, "there") {
			m := anyModel(t, words)
			*place = &m
		}
	}
	for range rapid.IntRange(0, 4).Draw(t, "values") {
		if c.Values == nil {
			c.Values = map[string]cabinet.Value{}
		}
		c.Values[words.Draw(t, "key")] = anyValue(t, words)
	}
	return c
}

// A content is written and read without reflection as the general way does it, byte for byte and field for field.
func TestAContentIsWrittenAndReadAsAnyDocumentIs(t *testing.T) {
	quickly := 0
	rapid.Check(t, func(t *rapid.T) {
		c := anyContent(t, rapid.SampledFrom([]*rapid.Generator[string]{anyText, plainText}).Draw(t, "words"))
		want, hash, err := document.Canonical(bare(c))
		require.NoError(t, err)
		got, same, err := document.Canonical(c)
		require.NoError(t, err)
		require.Equal(t, string(want), string(got))
		assert.Equal(t, hash, same)

		var read Content
		require.NoError(t, json.Unmarshal(want, &read))
		back, err := Decode(want)
		require.NoError(t, err)
		assert.Equal(t, read, back)
		var by Content
		if by.plain(want) {
			quickly++
		}
	})
	assert.NotZero(t, quickly, "no content was read without reflection")
}

func TestWhatIsNoUTF8IsWrittenAsAnyDocumentIs(t *testing.T) {
	for _, c := range []Content{{Drawer: "a\xffb"}, {Drawer: "a", Values: map[string]cabinet.Value{"k\xc3": {Type: cabinet.Text, Text: "v"}}}, {Sources: []Source{{MPN: "\xe2\x80"}}}} {
		want, _, err := document.Canonical(bare(c))
		require.NoError(t, err)
		got, _, err := document.Canonical(c)
		require.NoError(t, err)
		assert.Equal(t, string(want), string(got))
	}
}

// sameAsUnmarshal holds Decode to what json.Unmarshal makes of bytes, which may be anything.
func sameAsUnmarshal(t *testing.T, raw []byte) {
	t.Helper()
	var want Content
	err := json.Unmarshal(raw, &want)
	got, e := Decode(raw)
	assert.Equal(t, err == nil, e == nil, "%s: %v, %v", raw, err, e)
	if err == nil {
		assert.Equal(t, want, got, "%s", raw)
	}
}

func TestBytesInAnyFormAreReadAsTheStandardLibraryReadsThem(t *testing.T) {
	const whole = `{"attachments":[{"file":{"hash":"h","name":"n"},"is":"other"}],"body":{"id":"b","name":"B","revision":2,"standIn":true},"datasheetLinks":["l"],"datasheets":[{"hash":"h","name":"n"}],"description":"d","drawer":"r","mapLand":"m","name":"n","otherLandPatterns":[{"for":"f","model":{"id":"o","name":"O","revision":-1}}],"sources":[{"manufacturer":"A","mpn":"B","numbers":[{"number":"1","supplier":"S"}],"unlike":{"k":"v"}}],"values":{"a":{"number":"8"},"b":{"yes-no":false},"c":{"text":"x"},"d":{"measure":{"low":"4700","of":"resistance","shape":"nominal","unit":"Ohm"}}}}`
	require.True(t, new(Content).plain([]byte(whole)), "it is read without reflection")
	sameAsUnmarshal(t, []byte(whole))
	for i := range whole { // each letter of it missing, doubled, or another
		sameAsUnmarshal(t, []byte(whole[:i]+whole[i+1:]))
		sameAsUnmarshal(t, []byte(whole[:i]+whole[i:i+1]+whole[i:]))
		for _, other := range []string{"0", "\"", "{", "n", " ", "\xff", "D"} {
			sameAsUnmarshal(t, []byte(whole[:i]+other+whole[i+1:]))
		}
	}
	for _, raw := range []string{"", "null", "{}", "[]", `{"drawer":null}`, `{"drawer":1}`, `{"values":null}`, `{"values":{}}`, `{"values":{"a":null}}`, `{"values":{"a":{}}}`, `{"values":{"a":{"number":"x"}}}`, `{"values":{"a":{"yes-no":1}}}`,
		`{"sources":null}`, `{"sources":[]}`, `{"sources":[null]}`, `{"symbol":null}`, `{"symbol":{}}`, `{"symbol":{"revision":01}}`, `{"symbol":{"revision":-0}}`, `{"symbol":{"revision":+1}}`, `{"symbol":{"revision":1.0}}`, `{"symbol":{"revision":1e1}}`,
		`{"symbol":{"revision":99999999999999999999}}`, `{"drawer":"a","drawer":"b"}`, `{"DRAWER":"a"}`, `{"name":"n","drawer":"d"}`, `{"other":1}`, `{"drawer":"\u00e9"}`, `{"drawer":"a"} `, `{"drawer":"a"}x`, `{"sources":[{"unlike":{"a":"1","a":"2"}}]}`, `{"values":{"a":{"text":"1"},"a":{"text":"2"}}}`} {
		sameAsUnmarshal(t, []byte(raw))
	}
}

func FuzzDecode(f *testing.F) {
	f.Add([]byte(`{"drawer":"r","sources":[{"manufacturer":"A","mpn":"B"}],"values":{"a":{"number":"8"}}}`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		sameAsUnmarshal(t, bytes.Clone(raw))
	})
}
