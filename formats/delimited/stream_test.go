package delimited

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/formats/rows"
)

// A list says the same as CSV and as JSON, however it is cut into pieces; as CSV every cell is harmless.
func TestAStreamSaysTheSameInBothForms(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		names := []string{"Part", "Says"}
		cell := rapid.StringOf(rapid.RuneFrom([]rune("ab =+-@,\"\n;1ä")))
		lines := rapid.SliceOfN(rapid.SliceOfN(cell, 2, 2), 0, 6).Draw(t, "lines")
		cut := rapid.IntRange(0, len(lines)).Draw(t, "cut")
		write := func(js bool) []byte {
			var b bytes.Buffer
			s, err := NewStream(&b, names, js)
			require.NoError(t, err)
			require.NoError(t, s.Add(lines[:cut]))
			require.NoError(t, s.Add(lines[cut:]))
			require.NoError(t, s.Close())
			return b.Bytes()
		}
		var objects []map[string]string
		require.NoError(t, json.Unmarshal(write(true), &objects))
		table, err := csv.NewReader(bytes.NewReader(write(false))).ReadAll()
		require.NoError(t, err)
		require.Equal(t, names, table[0])
		require.Len(t, objects, len(lines))
		require.Len(t, table, len(lines)+1)
		for i, line := range lines {
			for k, name := range names {
				assert.Equal(t, line[k], objects[i][name])
				assert.Equal(t, rows.SafeCell(line[k]), table[i+1][k])
				assert.Equal(t, line[k], rows.AsWritten(table[i+1][k]))
			}
		}
	})
}
