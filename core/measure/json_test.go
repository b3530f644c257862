package measure_test

import (
	"bytes"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	. "jollydrawer/core/measure"
	"jollydrawer/core/measure/measuretest"
)

// A measure is the same however its JSON is laid out: the plain form is read without reflection, any other with it.
func TestAMeasureIsTheSameFromPlainAndFromIndentedJSON(t *testing.T) {
	n := 0
	for _, class := range measuretest.Classes() {
		maker := measuretest.New(21)
		for range 40 {
			made := maker.Make(class)
			r := Parse(made.Text, Options{Of: made.Of})
			if r.Outcome != Read {
				continue
			}
			raw, err := json.Marshal(r.Measure)
			require.NoError(t, err, made.Text)
			var wide bytes.Buffer
			require.NoError(t, json.Indent(&wide, raw, "", " "))
			var plain, indented Measure
			require.NoError(t, json.Unmarshal(raw, &plain), "%s", raw)
			require.NoError(t, json.Unmarshal(wide.Bytes(), &indented), "%s", raw)
			assert.Equal(t, r.Measure, plain, "%s", raw)
			assert.Equal(t, r.Measure, indented, "%s", raw)
			n++
		}
	}
	assert.Greater(t, n, 400)
}

func TestTextsOfAMeasureAreKeptWhateverTheyHold(t *testing.T) {
	m := MustParse("4.7 kΩ ±1 %")
	m.Note, m.Cond = "a \"note\" with \\ and < and \u2028", "25 °C & more\n"
	raw, err := json.Marshal(m)
	require.NoError(t, err)
	var back Measure
	require.NoError(t, json.Unmarshal(raw, &back))
	assert.Equal(t, m, back)
	for _, text := range []string{`{"of":"resistance"}`, `{"of":"resistance","shape":"nominal","low":"x","unit":"Ohm"}`, `{"of":"resistance","shape":"nominal","low":"1","unit":"V"}`, `{"of":"none such","shape":"nominal","low":"1","unit":""}`, `{"of":"resistance","shape":"list","items":["1"],"unit":"Ohm"}`, `[]`, `"x"`} {
		assert.Error(t, json.Unmarshal([]byte(text), &back), text)
	}
}
