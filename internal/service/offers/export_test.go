package offers_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// A list of offers says what the part pages say, of each part that has them.
func TestOffersAreWrittenAsALine(t *testing.T) {
	h, _ := suppliers(t)
	stocked(t, h, 30)
	h.Level()
	var none bytes.Buffer
	require.NoError(t, h.Offers.Export(t.Context(), h.Me, 0, "json", &none))
	assert.Equal(t, "[]\n", none.String())
	refresh(t, h, wire.RefreshOffers{Lists: true})
	var b bytes.Buffer
	require.NoError(t, h.Offers.Export(t.Context(), h.Me, 250, "csv", &b))
	lines, err := csv.NewReader(bytes.NewReader(b.Bytes())).ReadAll()
	require.NoError(t, err)
	of := map[string][][]string{}
	for _, l := range lines[1:] {
		of[l[0]] = append(of[l[0]], l)
	}
	require.Greater(t, len(of), 20)
	for number, list := range of {
		o, err := h.Offers.OfPart(t.Context(), h.Me, number, 250)
		require.NoError(t, err)
		require.Len(t, list, len(o.Sources[0].Offers), number)
		for _, l := range list {
			found := false
			for _, x := range o.Sources[0].Offers {
				if x.Supplier == l[3] && x.Number == l[4] && x.Packing == l[5] {
					found = true
					if x.Buy == nil {
						assert.Empty(t, l[13])
					} else {
						assert.Equal(t, x.Buy.Total.String(), l[13])
					}
				}
			}
			assert.True(t, found, "%v", l)
		}
	}
	b.Reset()
	require.NoError(t, h.Offers.Export(t.Context(), h.Me, 0, "json", &b))
	var items []map[string]string
	require.NoError(t, json.Unmarshal(b.Bytes(), &items))
	assert.Len(t, items, len(lines)-1)
	assert.Equal(t, "100", items[0]["Pieces"])
	nobody := h.Me
	nobody.Actor.Role = deed.Role("nobody")
	assert.Error(t, h.Offers.Export(t.Context(), nobody, 0, "csv", &b))
}
