package model

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestLengthsAreExactAndShownAsTheyAreWritten(t *testing.T) {
	for text, want := range map[string]Length{"1.27": 127 * MM / 100, "50 mil": 127 * MM / 100, "0.05in": 127 * MM / 100, "-0.0254": -Mil, "0.001 mil": 254, "1e-3": MM / 1000,
		"0.01968503937 in": 5 * MM / 10, "0.0000001": 1, "12.7000000000": 127 * MM / 10, "100 µm": MM / 10} {
		got, err := ParseLength(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
	for _, text := range []string{"", "NaN", "1e999", "inf", "1.2.3", "0x10", "1,5", "--1", "99999999999999999999", "1e-", "mm", strings.Repeat("1", 400)} {
		_, err := ParseLength(text)
		assert.ErrorContains(t, err, "is no length", text)
	}
	rapid.Check(t, func(t *rapid.T) {
		l := Length(rapid.Int64Range(-int64(Farthest), int64(Farthest)).Draw(t, "l"))
		back, err := ParseLength(l.String())
		require.NoError(t, err)
		assert.Equal(t, l, back)
	})
}

func TestPinNumbersAreOrderedAsPeopleCount(t *testing.T) {
	assert.Equal(t, []string{"1", "2", "10", "A2", "A10", "B1", "AA1", "EP"}, distinct([]string{"EP", "B1", "10", "AA1", "A10", "2", "A2", "1", "10"}))
}

func chip(w, h, x string) *LandPattern {
	p := Pad{Number: "1", Shape: PadRectangle, At: Point{X: -MustLength(x)}, Width: MustLength(w), Height: MustLength(h)}
	q := p
	q.Number, q.At.X = "2", -p.At.X
	return &LandPattern{Pads: []Pad{p, q}}
}

// dual is a package of two rows of n/2 pads.
func dual(n int, pitch, row string) *LandPattern {
	l := &LandPattern{}
	p, r := MustLength(pitch), MustLength(row)
	for i := range n {
		pad := Pad{Number: string(rune('A' + i)), Shape: PadRectangle, Width: MustLength("1.5"), Height: p / 2, At: Point{-r / 2, p*Length(n/2-1)/2 - p*Length(i)}}
		if i >= n/2 {
			pad.At = Point{r / 2, -p*Length(n/2-1)/2 + p*Length(i-n/2)}
		}
		l.Pads = append(l.Pads, pad)
	}
	return l
}

func land(l *LandPattern) *Content { return &Content{Kind: KindLand, Land: l} }

func TestOrderAndTextsDoNotCountAndTheOriginDoes(t *testing.T) {
	a := chip("1.15", "1.4", "0.95")
	a.Shapes = []Shape{{Form: Rectangle, Purpose: Courtyard, Points: []Point{{-2 * MM, -MM}, {2 * MM, MM}}}}
	b := chip("1.15", "1.4", "0.95")
	b.Shapes = []Shape{{Form: Text, Purpose: Silkscreen, Text: "X", Size: MM, Points: []Point{{}}}}
	b.Pads[0], b.Pads[1] = b.Pads[1], b.Pads[0]
	assert.Equal(t, a.Fingerprint(), b.Fingerprint())
	assert.True(t, Same(land(a), land(b)))
	b.Pads[0].Width += MM / 100
	assert.False(t, Same(land(a), land(b)), "10 µm of copper are another drawing")
	assert.Equal(t, []string{"pad 2 up to 0.01 mm apart or of another size"}, Near(a, b, MM/20).What)
	b.Pads[0].Width -= MM / 100
	b.shift(Point{3 * MM, -MM})
	assert.Equal(t, []string{"its origin lies -3, 1 mm beside"}, Near(a, b, MM/20).What)

	s := &Symbol{Pins: []Pin{{Number: "1", Name: "IN", Type: Input, Runs: Right, Length: MM}}}
	other := &Symbol{Pins: []Pin{{Number: "1", Name: "OUT", Type: Input, Runs: Right, Length: MM}}}
	assert.NotEqual(t, s.Fingerprint(), other.Fingerprint(), "two circuits in equal boxes are not one symbol")
}

func TestTwinsAreFoundWhateverTheirTurn(t *testing.T) {
	a, b, c := dual(8, "1.27", "5.4"), dual(8, "1.27", "5.4"), dual(8, "1.27", "5.4")
	for i := range b.Pads { // turned by 90° and a hundredth wider
		b.Pads[i].At = b.Pads[i].At.Turned(90 * Degree)
		b.Pads[i].Turn = 90 * Degree
		b.Pads[i].Width += MM / 100
	}
	c.Pads[0].Number, c.Pads[1].Number = c.Pads[1].Number, c.Pads[0].Number
	var all []Drawing
	for i, l := range []*LandPattern{a, b, a, c, dual(8, "1.27", "7.2")} {
		all = append(all, Drawing{string(rune('a' + i)), l.Fingerprint(), &Content{Kind: KindLand, Land: l}})
	}
	got := Twins(all, MM/20)
	require.Len(t, got, 1)
	assert.Equal(t, []string{"a", "b", "c"}, got[0].IDs)
	assert.False(t, got[0].Exact)
	assert.Equal(t, MM/100, got[0].Most)
	d := Near(a, c, MM/20)
	assert.False(t, d.Same)
	assert.True(t, d.Number, "the pads lie on each other and are numbered otherwise")
}

func TestFeaturesAreWhatPeopleMeasure(t *testing.T) {
	f := dual(8, "1.27", "5.4").Features()
	assert.Equal(t, Features{Pads: 8, Pitch: MustLength("1.27"), Row: MustLength("5.4"), Width: MustLength("6.9"), Height: MustLength("4.445")}, f)
}

func causes(s Sitting) (out []string) {
	for _, c := range s.Findings {
		out = append(out, c.Cause)
	}
	return out
}

func block(x, y, z string) Body {
	w, h, t := MustLength(x)/2, MustLength(y)/2, MustLength(z)
	return Body{Box: Box3{Min: Point3{-w, -h, 0}, Max: Point3{w, h, t}}}
}

func TestPinsAndPadsAgree(t *testing.T) {
	s := &Symbol{Pins: []Pin{{Number: "1", Name: "B", Type: Input}, {Number: "2", Name: "E", Type: Passive}, {Number: "3", Name: "C", Type: Passive}}}
	l := &LandPattern{Pads: []Pad{{Number: "1"}, {Number: "2"}, {Number: "4"}}}
	say := func(m *PinMap) (out []string) {
		for _, f := range CheckPins(s, l, m) {
			out = append(out, f.What)
		}
		return out
	}
	assert.Equal(t, []string{"1 pin is on no pad: 3", "1 pad has no pin: 4"}, say(nil))
	m := &PinMap{Pairs: []Pair{{"1", []string{"1"}}, {"2", []string{"2"}}, {"3", []string{"4"}}}}
	require.NoError(t, m.Check())
	assert.Empty(t, say(m))
	m.Pairs[2].Pads[0] = "9"
	assert.Equal(t, []string{"the pin map sends the pin 3 to the pad 9, which the land pattern does not have", "1 pad has no pin: 4"}, say(m))
	assert.Empty(t, say(&PinMap{Pairs: []Pair{{"1", []string{"1"}}, {"2", []string{"2"}}}, Free: []string{"4"}, NoPad: []string{"3"}}))
	assert.ErrorContains(t, (&PinMap{Pairs: []Pair{{"1", []string{"1"}}, {"2", []string{"1"}}}}).Check(), `the pad "1"`)

	d := ComparePins(s, []ListedPin{{Number: "1", Name: "b"}, {Number: "2", Name: "C"}, {Number: "5", Name: "X"}})
	var what []string
	for _, x := range d {
		what = append(what, x.Number+" "+x.What)
	}
	assert.Equal(t, []string{"1 ", "2 other name", "3 the list lacks this pin", "5 the symbol lacks this pin"}, what)
}

func TestHouseRulesFindAndMend(t *testing.T) {
	house := House{Grid: 127 * MM / 100, PinLength: 254 * MM / 100, TextSize: 127 * MM / 100, LandText: MM, Origin: "centre", Courtyard: MM / 4, Designator: true, Silkscreen: 15 * MM / 100}
	s := Content{Kind: KindSymbol, Name: "S", Symbol: &Symbol{Properties: map[string]string{"VALUE": "10k"}, Pins: []Pin{
		{Number: "1", Type: Passive, Runs: Right, Length: 254 * MM / 100, At: Point{X: -5 * MM}}, {Number: "2", Type: Passive, Runs: Left, Length: 2 * MM, At: Point{X: 508 * MM / 100}}},
		Shapes: []Shape{{Form: Text, Text: "x", Size: MM, Points: []Point{{}}}}}}
	l := Content{Kind: KindLand, Name: "L", Land: chip("1.15", "1.4", "0.95")}
	l.Land.shift(Point{X: MM})
	l.Land.Shapes = []Shape{{Form: Line, Purpose: Silkscreen, Width: MM / 20, Points: []Point{{}, {X: MM}}}}
	for _, c := range []Content{s, l} {
		before := c
		for range 10 {
			found := Check(&c, house, 0)
			if len(found) == 0 {
				break
			}
			_, ok := Mends(found[0].Cause)
			require.True(t, ok, found[0].Cause)
			var err error
			c, err = Mend(&c, found[0].Cause, house)
			require.NoError(t, err)
		}
		assert.Empty(t, Check(&c, house, 0), c.Name)
		assert.NotEmpty(t, Check(&before, house, 0), "the original is left as it was")
	}
}

func TestBadPadsAreNamed(t *testing.T) {
	l := dual(4, "1", "3")
	l.Pads[1].Width = 3 * MM
	l.Pads[1].At.X += 2 * MM
	l.Pads[0].At = l.Pads[1].At.Add(Point{X: MM / 2})
	l.Shapes = []Shape{{Form: Rectangle, Purpose: Courtyard, Points: []Point{{-MM, -MM}, {MM, MM}}}}
	var got []string
	for _, f := range Check(&Content{Land: l}, House{}, MustLength("0.65")) {
		got = append(got, f.Cause)
	}
	assert.Contains(t, got, "pads-overlap")
	assert.Contains(t, got, CauseTight)
	assert.Contains(t, got, "pitch")
}

func table(n int) (out []ListedPin) {
	names := []string{"VDD", "GND", "IN", "OUT", "IO", "NC"}
	types := []string{PowerIn, PowerIn, Input, Output, Bidirectional, NotConnected}
	for i := range n {
		out = append(out, ListedPin{Number: string(rune('A'+i/26)) + string(rune('a'+i%26)), Name: names[i%6] + string(rune('0'+i/6%10)), Type: types[i%6], Unit: names[i%3]})
	}
	return out
}

func TestASymbolIsMadeFromAPinTable(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		list := table(rapid.IntRange(1, 200).Draw(t, "pins"))
		o := Layout{Order: rapid.SampledFrom([]string{"function", "number"}).Draw(t, "order"), OneSide: rapid.Bool().Draw(t, "one side"), ByUnit: rapid.Bool().Draw(t, "units")}
		s, err := MakeSymbol(list, o, nil)
		require.NoError(t, err)
		require.Len(t, s.Pins, len(list))
		type spot struct {
			unit int
			at   Point
		}
		seen := map[spot]bool{}
		for _, p := range s.Pins {
			k := spot{p.Unit, p.At}
			require.False(t, seen[k], "two pins at one point")
			seen[k] = true
			require.Zero(t, p.At.X%s.Grid)
			require.Zero(t, p.At.Y%s.Grid)
		}
		s.Pins[0].At, s.Pins[0].Placed = Point{X: -100 * s.Grid, Y: 7 * s.Grid}, true
		again, err := MakeSymbol(append(list, ListedPin{Number: "new", Name: "X", Type: Input, Unit: list[0].Unit}), o, s)
		require.NoError(t, err)
		for _, p := range again.Pins {
			if p.Number == s.Pins[0].Number {
				require.Equal(t, s.Pins[0].At, p.At, "what was placed by hand stays")
			}
		}
	})
	s, err := MakeSymbol([]ListedPin{{Number: "1", Name: "VDD", Type: PowerIn}, {Number: "2", Name: "GND", Type: PowerIn}, {Number: "3", Name: "A", Type: Input}, {Number: "4", Name: "Y", Type: Output}}, Layout{}, nil)
	require.NoError(t, err)
	var runs []string
	for _, p := range s.Pins {
		runs = append(runs, p.Number+" "+p.Runs)
	}
	assert.ElementsMatch(t, []string{"1 down", "2 up", "3 right", "4 left"}, runs)
	_, err = MakeSymbol([]ListedPin{{Number: "1"}, {Number: "1", Line: 3}}, Layout{}, nil)
	assert.ErrorContains(t, err, "line 3")
}

func TestDocumentsOfOurOwnForm(t *testing.T) {
	old := `{"format":"jolly-symbol/1","name":"R","grid":"1.27","pins":[{"number":"1","name":"1","type":"passive","x":"-5.08","y":"0"},{"number":"2","name":"2","type":"passive","x":"5.08","y":"0"}]}`
	all, wrong, err := ReadDocument([]byte(old))
	require.NoError(t, err)
	require.Empty(t, wrong)
	require.Equal(t, Left, all[0].Symbol.Pins[1].Runs, "the first format is upgraded")
	raw, err := WriteDocument(&all[0])
	require.NoError(t, err)
	again, _, err := ReadDocument(raw)
	require.NoError(t, err)
	assert.Equal(t, all, again)
	for text, want := range map[string]string{
		`{"format":"jolly-symbol/2","name":"S","pins":[]}`:  "no pins",
		`{"format":"jolly-symbol/9","name":"S"}`:            "is not known here",
		`{"format":"jolly-symbol/2","name":"S","colour":1}`: `the field "colour" is not known`,
		`{"format":"jolly-land-pattern/2","name":"L","pads":[{"number":"1","shape":"rectangle","at":{"x":"0","y":"0"},"width":"0","height":"1"}]}`:                                                "not above zero",
		`{"format":"jolly-land-pattern/2","name":"L","pads":[{"number":"1","shape":"rectangle","at":{"x":"0","y":"0"},"width":"-1","height":"1"}]}`:                                               "not above zero",
		`{"format":"jolly-land-pattern/2","name":"L","pads":[{"number":"1","shape":"rectangle","at":{"x":"0","y":"0"},"width":"10 m","height":"1"}]}`:                                             "which no pad has",
		`{"format":"jolly-land-pattern/2","name":"L","pads":[{"number":"1","shape":"rectangle","at":{"x":"0","y":"0"},"width":"1e999","height":"1"}]}`:                                            "is no length",
		`{"format":"jolly-land-pattern/2","name":"L","pads":[{"number":"1","shape":"rectangle","at":{"x":NaN,"y":"0"},"width":"1","height":"1"}]}`:                                                "it is no JSON",
		`{"format":"jolly-symbol/2","name":"S","pins":[` + strings.TrimSuffix(strings.Repeat(`{"number":"1","type":"input","at":{"x":"0","y":"0"},"runs":"up","length":"1"},`, 5000), ",") + `]}`: "5000 pins",
	} {
		_, _, err := ReadDocument([]byte(text))
		assert.ErrorContains(t, err, want, clip(text))
	}
}

func TestTheSchemaKnowsEveryField(t *testing.T) {
	raw, err := Schema()
	require.NoError(t, err)
	var s struct {
		Defs  map[string]any `json:"$defs"`
		OneOf []struct {
			Title      string
			Properties map[string]any
			Required   []string
		}
	}
	require.NoError(t, json.Unmarshal(raw, &s))
	require.Len(t, s.OneOf, 5)
	assert.Contains(t, s.Defs, "Pad")
	for _, d := range s.OneOf {
		if d.Title == SymbolFormat {
			assert.ElementsMatch(t, []string{"format", "name", "pins"}, d.Required)
			assert.Contains(t, d.Properties, "shapes")
		}
	}
}

func TestPreviewsHoldNoScript(t *testing.T) {
	evil := `"><script>alert(1)</script>`
	c := Content{Name: evil, Symbol: &Symbol{Pins: []Pin{{Number: evil, Name: evil, Type: Input, Runs: Right, Length: MM}}, Shapes: []Shape{{Form: Text, Text: evil, Size: MM, Points: []Point{{}}}}}}
	svg := string(c.SVG(Preview{Ink: Day}))
	assert.NotContains(t, svg, "<script")
	assert.Contains(t, svg, "&lt;script")
}

func FuzzReadDocument(f *testing.F) {
	f.Add([]byte(`{"format":"jolly-symbol/1","name":"R","pins":[{"number":"1","type":"passive","x":"-5.08","y":"0"}]}`))
	f.Add([]byte(`{"format":"jolly-models/1","models":[{"format":"jolly-land-pattern/2","name":"L","pads":[{"number":"1","shape":"round","at":{"x":"0","y":"0"},"width":"1","height":"1"}]}]}`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		all, _, err := ReadDocument(raw)
		if err != nil {
			return
		}
		for i := range all {
			c := &all[i]
			c.Normalise()
			c.SVG(Preview{Ink: Night})
			c.Fingerprint()
			Check(c, House{Grid: MM, Origin: "centre", Courtyard: MM}, MM)
			if _, err := WriteDocument(c); err != nil {
				t.Fatal(err)
			}
		}
	})
}
