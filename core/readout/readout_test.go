package readout

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

func template(t require.TestingT, parameters []cabinet.Parameter, uses ...cabinet.Use) *cabinet.Template {
	d := cabinet.Drawer{Key: "valves", Label: "Valves", Prefix: "V", Digits: 4}
	for _, p := range parameters {
		d.Parameters = append(d.Parameters, cabinet.Use{Key: p.Key})
	}
	if uses != nil {
		d.Parameters = uses
	}
	c, err := cabinet.New(cabinet.Document{Format: cabinet.Format, Parameters: parameters, Drawers: []cabinet.Drawer{d}})
	require.NoError(t, err)
	out, ok := c.Template("valves")
	require.True(t, ok)
	return out
}

func names(s Shape) (out []string) {
	for _, c := range s.Columns {
		out = append(out, c.Name)
	}
	return out
}

func TestColumnsAreCalledAsParametersAre(t *testing.T) {
	text := func(key string) cabinet.Parameter {
		return cabinet.Parameter{Key: key, Label: key, Type: cabinet.Text}
	}
	pressure := func(key string) cabinet.Parameter {
		return cabinet.Parameter{Key: key, Label: key, Type: cabinet.Measure, Of: "length"}
	}
	long := strings.Repeat("a", 48)
	for _, c := range []struct {
		parameters []cabinet.Parameter
		want       []string
		notes      []string
	}{
		{[]cabinet.Parameter{text("seat-material"), pressure("bore")}, []string{"seat_material", "bore", "bore_number"}, []string{}},
		{[]cabinet.Parameter{text("order")}, []string{"order_"}, []string{`The column of the parameter "order" is called order_, because order is a word of SQL.`}},
		{[]cabinet.Parameter{pressure("range")}, []string{"range_", "range_number"}, []string{`The column of the parameter "range" is called range_, because range is a word of SQL.`}},
		{[]cabinet.Parameter{text("description"), text("mpn")}, []string{"description_", "mpn_"}, []string{
			`The column of the parameter "description" is called description_, because there is another column description.`, `The column of the parameter "mpn" is called mpn_, because there is another column mpn.`}},
		{[]cabinet.Parameter{pressure("bore"), text("bore-number")}, []string{"bore", "bore_number_", "bore_number"}, []string{`The column of the parameter "bore" is called bore_number_, because there is another column bore_number.`}},
		{[]cabinet.Parameter{pressure(long)}, []string{long, long + "_number"}, []string{}},
	} {
		s := ShapeOf(template(t, c.parameters))
		assert.Equal(t, c.want, names(s))
		assert.Equal(t, c.notes, s.Notes())
	}
}

var plain = regexp.MustCompile(`^[a-z_][a-z0-9_]{0,63}$`)

// Whatever a name is, what is made of it may be written into a statement as it is; and two that are plain already stay apart.
func TestAnyNameBecomesAPlainOne(t *testing.T) {
	words := strings.Fields(mariadbReserved + " " + odbcReserved)
	rapid.Check(t, func(t *rapid.T) {
		name := rapid.OneOf(rapid.String(), rapid.StringMatching(`[a-zA-Z0-9_-]{0,90}`), rapid.SampledFrom(words)).Draw(t, "name")
		got := Plain(name)
		assert.Regexp(t, plain, got)
		assert.False(t, IsKeyword(got), got)
		assert.Equal(t, got, Plain(got), "what is plain stays as it is")
	})
	assert.NotEqual(t, Plain(strings.Repeat("x", 64)+"a"), Plain(strings.Repeat("x", 64)+"b"))
	assert.Len(t, Plain(strings.Repeat("x", 65)), 64)
	assert.Equal(t, strings.Repeat("x", 64), Plain(strings.Repeat("x", 64)))
	assert.Equal(t, "n_", Plain(""))
	assert.Equal(t, "n_3d", Plain("3d"))
	assert.Equal(t, "read_write_", Plain("read_write"))
}

// Drawers of any parameters have columns of names that differ even where capitals do not count, at most five indexed numbers beside
// the leading one, and a row as wide as they are.
func TestShapesOfAnyTemplate(t *testing.T) {
	keys := append([]string{"a", "b", "a-number", "b-number", "a-number-number", "order", "order-number", "name", "revision", "part-number", "number", "select", strings.Repeat("z", 48)}, "value", "case", "length")
	types := []cabinet.Type{cabinet.Measure, cabinet.Text, cabinet.Number, cabinet.YesNo, cabinet.Date, cabinet.Link}
	rapid.Check(t, func(t *rapid.T) {
		chosen := rapid.SliceOfNDistinct(rapid.SampledFrom(keys), 1, len(keys), rapid.ID[string]).Draw(t, "keys")
		var parameters []cabinet.Parameter
		var uses []cabinet.Use
		want := len(chosen)
		for _, k := range chosen {
			p := cabinet.Parameter{Key: k, Label: k, Type: rapid.SampledFrom(types).Draw(t, "type")}
			if p.Type == cabinet.Measure {
				p.Of = "voltage"
				want++
			}
			parameters = append(parameters, p)
			uses = append(uses, cabinet.Use{Key: k, Required: rapid.Bool().Draw(t, "required")})
		}
		s := ShapeOf(template(t, parameters, uses...))
		require.Len(t, s.Columns, want)
		seen, indexed := map[string]bool{}, 0
		for _, f := range Fixed {
			seen[f.Name] = true
		}
		for _, c := range s.Columns {
			assert.Regexp(t, plain, c.Name)
			assert.False(t, seen[c.Name], c.Name)
			seen[c.Name] = true
			if c.Indexed {
				indexed++
				assert.Equal(t, Double, c.Type)
			}
		}
		assert.LessOrEqual(t, indexed, mostIndexed)
		assert.Len(t, s.Row("V-0001", &part.Content{Drawer: "valves"}), len(Kept)+want)
		assert.Equal(t, s.Hash(), ShapeOf(template(t, parameters, uses...)).Hash())
	})
}

func TestARowSaysWhatTheContentSays(t *testing.T) {
	parameters := []cabinet.Parameter{
		{Key: "bore", Label: "Bore", Type: cabinet.Measure, Of: "length"}, {Key: "seat", Label: "Seat", Type: cabinet.Choice, Choices: []string{"PTFE", "steel"}}, {Key: "ports", Label: "Ports", Type: cabinet.Number},
		{Key: "vented", Label: "Vented", Type: cabinet.YesNo}, {Key: "until", Label: "Until", Type: cabinet.Date}, {Key: "page", Label: "Page", Type: cabinet.Link}, {Key: "drift", Label: "Drift", Type: cabinet.Measure, Of: "ratio", Deviation: true},
	}
	tpl := template(t, parameters)
	c := part.Content{Drawer: "valves", Description: "Ball valve", Values: map[string]cabinet.Value{}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: "BV-1"}, {Manufacturer: "Other", MPN: "X"}},
		Datasheets: []part.File{{Hash: strings.Repeat("ab", 32), Name: "bv.pdf"}}, Symbol: &part.Model{ID: "x", Name: "Valve", Revision: 2}}
	for key, text := range map[string]string{"bore": "12.7 mm", "seat": "PTFE", "ports": "3", "vented": "yes", "until": "2031-02-28", "page": "https://tidewright.example/bv", "drift": "±5 %"} {
		slot, ok := tpl.Slot(key)
		require.True(t, ok)
		v, problem := slot.Read(text, measure.Options{})
		require.Nil(t, problem, "%s %+v", key, problem)
		c.Values[key] = v
	}
	s := ShapeOf(tpl)
	row := map[string]any{}
	for i, v := range s.Row("V-0001", &c) {
		if i < len(Kept) {
			row[Kept[i].Name] = v
		} else {
			row[s.Columns[i-len(Kept)].Name] = v
		}
	}
	sheet := make([]byte, 32)
	for i := range sheet {
		sheet[i] = 0xab
	}
	assert.Equal(t, map[string]any{"number": "V-0001", "description": "Ball valve", "name": nil, "manufacturer": "Tidewright", "mpn": "BV-1", "datasheet_hash": sheet, "datasheet_name": "bv.pdf", "symbol": "Valve", "land_pattern": nil, "body": nil,
		"bore": "12.7 mm", "bore_number": 0.0127, "seat": "PTFE", "ports": int64(3), "vented": true, "until": "2031-02-28", "page": "https://tidewright.example/bv", "drift": "±5 %", "drift_number": 5.0}, row)
	for text, number := range map[string]float64{"±5 %": 5, "±200 ppm": 0.02, "±20000 ppm": 2, "±0.05 %": 0.05, "-20 ppm, +10 ppm": 0.002} {
		slot, _ := tpl.Slot("drift")
		v, problem := slot.Read(text, measure.Options{})
		require.Nil(t, problem, text)
		c.Values["drift"] = v
		at := slices.IndexFunc(s.Columns, func(c Column) bool { return c.Name == "drift_number" })
		assert.InEpsilon(t, number, s.Row("V-0001", &c)[len(Kept)+at], 1e-12, "%s in per cent, beside all others", text)
	}
	c.Values["ports"] = cabinet.Value{Type: cabinet.Raw, Text: "three"}
	c.Datasheets[0].Hash = "no hash"
	got := s.Row("V-0001", &c)
	assert.Nil(t, got[5], "what is no hash is no address")
	for i, col := range s.Columns {
		if col.Name == "ports" {
			assert.Nil(t, got[len(Kept)+i], "what is no number is none")
		}
	}
}

func ExamplePlain() {
	for _, name := range []string{"resistance", "Order", "3d"} {
		fmt.Println(Plain(name))
	}
	// Output:
	// resistance
	// order_
	// n_3d
}

// However parameters are renamed, there and back and into each other's names, a table that waits for another one is written as it was.
func TestATableThatGivesWayIsWrittenAsItWas(t *testing.T) {
	calls := []string{"bore", "seat", "range", "bore-number", "stem", "order"}
	rapid.Check(t, func(t *rapid.T) {
		names := slices.Clone(calls[:3]) // what the parameters are called now, by their place
		doc := cabinet.Document{Format: cabinet.Format, Drawers: []cabinet.Drawer{{Key: "valves", Label: "Valves", Prefix: "V", Digits: 4}}}
		for i, key := range names {
			p := cabinet.Parameter{Key: key, Label: "Parameter " + fmt.Sprint(i), Type: cabinet.Text}
			if i == 0 {
				p.Type, p.Of = cabinet.Measure, "length"
			}
			doc.Parameters, doc.Drawers[0].Parameters = append(doc.Parameters, p), append(doc.Drawers[0].Parameters, cabinet.Use{Key: key})
		}
		cab, err := cabinet.New(doc)
		require.NoError(t, err)
		tpl, _ := cab.Template("valves")
		table := ShapeOf(tpl)
		row := func(s Shape) []any {
			c := part.Content{Drawer: "valves", Values: map[string]cabinet.Value{}}
			for i, text := range []string{"12 mm", "PTFE", "wide"} {
				p, ok := cab.Parameter(names[i])
				require.True(t, ok)
				v, problem := p.Read(text, measure.Options{})
				require.Nil(t, problem)
				c.Values[names[i]] = v
			}
			return s.Row("V-0001", &c)
		}
		was, followed := row(table), table
		for range rapid.IntRange(1, 6).Draw(t, "changes") {
			var steps []cabinet.Step
			for range rapid.IntRange(0, 3).Draw(t, "steps") {
				i, to := rapid.IntRange(0, 2).Draw(t, "of"), rapid.SampledFrom(calls).Draw(t, "to")
				if !slices.Contains(names, to) {
					steps = append(steps, cabinet.Step{Do: cabinet.Rename, Parameter: names[i], To: to})
					names[i] = to
				}
			}
			doc, err := cab.Document.Apply(steps)
			require.NoError(t, err)
			cab, err = cabinet.New(doc)
			require.NoError(t, err)
			change := ChangeTo(cab, steps)
			if change.Replaces("valves", table.Hash()) {
				followed = change.Follow(followed)
			} else {
				followed = table
			}
			require.Equal(t, was, row(followed))
			tpl, _ = cab.Template("valves")
			require.Equal(t, ShapeOf(tpl).Hash() != table.Hash(), change.Replaces("valves", table.Hash()))
		}
	})
}
