package readout_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// folder reads what WriteFolder writes.
func folder(t *testing.T, h housetest.House, number string) map[string]string {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, h.Readout.WriteFolder(t.Context(), h.Me, number, &b))
	z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	require.NoError(t, err)
	out := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		raw, err := io.ReadAll(r)
		require.NoError(t, err)
		assert.NotContains(t, out, f.Name, "each file once")
		out[f.Name] = string(raw)
	}
	return out
}

func TestTheFolderHoldsWhatIsReleasedAndNothingElse(t *testing.T) {
	h := housetest.Open(t)
	symbol := h.Model(wire.ModelEdit{Kind: "symbol", Name: "Resistor", Symbol: housetest.TwoPins("1", "2")})
	land := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip 0805", LandPattern: housetest.TwoPads("0.95")})
	make := func(mpn string, release bool) wire.Part {
		e := housetest.Resistor("1k", mpn)
		e.Symbol, e.LandPattern = &part.Model{ID: symbol.ID, Revision: 1}, &part.Model{ID: land.ID, Revision: 1}
		p := h.Make(e)
		if release {
			var err error
			p, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "x"})
			require.NoError(t, err)
		}
		return p
	}
	one, two, draft := make("A", true), make("B", true), make("C", false)
	files := folder(t, h, "")
	index := ""
	symbols, lands := 0, 0
	for name, text := range files {
		switch {
		case strings.HasPrefix(name, "symbols/"):
			symbols++
		case strings.HasPrefix(name, "land-patterns/"):
			lands++
		case strings.HasSuffix(name, ".json"):
			index += text
		}
	}
	assert.Positive(t, symbols)
	assert.Positive(t, lands)
	assert.True(t, json.Valid([]byte(index)), index)
	assert.Contains(t, index, one.Number)
	assert.Contains(t, index, two.Number)
	assert.NotContains(t, index, draft.Number, "a draft is no promise")

	alone := folder(t, h, one.Number)
	assert.Len(t, alone, len(files), "two parts with the same models need the same files")
	err := h.Readout.WriteFolder(t.Context(), h.Me, draft.Number, io.Discard)
	housetest.Fails(t, err, "not-released")
	err = h.Readout.WriteFolder(t.Context(), h.Me, "R-99999", io.Discard)
	housetest.Fails(t, err, "not-found")

	// A newer draft of the model and of the part changes nothing that is read out.
	_, err = h.Models.Save(t.Context(), h.Me, h.ModelID(land), land.Version, wire.ModelEdit{Kind: "land pattern", Name: "Chip 0805", LandPattern: housetest.TwoPads("1.2")})
	require.NoError(t, err)
	e := one.Released.Edit()
	e.LandPattern = nil
	_, err = h.Parts.Save(t.Context(), h.Me, one.ID, one.Version, e)
	require.NoError(t, err)
	again := folder(t, h, "")
	for name, text := range files {
		if !strings.HasSuffix(name, ".json") || strings.Contains(name, "/") {
			assert.Equal(t, text, again[name], name)
		}
	}
}
