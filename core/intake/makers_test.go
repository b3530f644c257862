package intake

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
)

func TestOneMakerIsWrittenOneWay(t *testing.T) {
	rows := [][]string{row("Res", "Dunlin magnetics GmbH", "D-1", "", "1k", "", ""), row("Res", "Dunlin Magnetics", "D-2", "", "2k", "", ""), row("Res", "DUNLIN  MAGNETICS", "D-3", "", "3k", "", ""), row("Res", "Dunlin Magnetics", "D-4", "", "4k7", "", "")}
	r := build(t, nil, Edits{}, rows...)
	for i := range r.Candidates {
		assert.Equal(t, "Dunlin Magnetics", r.Candidates[i].Source().Manufacturer, "as most rows write it")
	}
	says := findingsOf(r, "maker-new")
	require.NotEmpty(t, says)
	assert.Equal(t, `the library has no part of the manufacturer "Dunlin Magnetics" yet; rows that write it "DUNLIN  MAGNETICS", "Dunlin magnetics GmbH" are taken for it`, says[0].What)

	two := library{"a": {Content: part.Content{Sources: []part.Source{{Manufacturer: "Dunlin magnetics GmbH"}}}}, "b": {Content: part.Content{Sources: []part.Source{{Manufacturer: "Dunlin Magnetics"}}}}}
	for range 20 { // of several spellings in the library, whatever the order they are told in
		assert.Equal(t, "Dunlin Magnetics", build(t, two, Edits{}, rows...).Candidates[0].Source().Manufacturer)
	}
	apart := build(t, nil, Edits{}, row("Res", "Tidewright", "D-1", "", "1k", "", ""), row("Res", "Kelpline", "D-2", "", "2k", "", ""))
	assert.Equal(t, []string{"Tidewright", "Kelpline"}, []string{apart.Candidates[0].Source().Manufacturer, apart.Candidates[1].Source().Manufacturer})
}
