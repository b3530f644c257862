package edif_test

import (
	"bytes"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/measure/measuretest"
	"jollydrawer/core/model"
	"jollydrawer/core/model/modeltest"
	"jollydrawer/formats/edif"
)

// A part's symbol is written with its facts, and read as the same symbol with the same facts at the same places, whatever they say.
func TestAPartsFactsComeBackWithItsSymbol(t *testing.T) {
	letters := []rune("aZ09 .,;:-+±%&<>\"'\\()[]{}/=µΩé日\t")
	for seed := range uint64(150) {
		s := modeltest.New(seed).Symbol()
		s.Properties = nil
		c := model.Content{Kind: model.KindSymbol, Name: "s", Symbol: s}
		c.Normalise()
		d := &measuretest.Draws{State: seed}
		var texts []model.PartText
		for n := range 1 + d.IntN(6) {
			text := ""
			for range 1 + d.IntN(12) {
				text += string(letters[d.IntN(len(letters))])
			}
			texts = append(texts, model.PartText{Key: []string{"resistance", "case-metric", "value", "mpn", "tolerance", "grid", "number"}[n], Text: text, Shown: d.IntN(2) == 0})
		}
		h := model.House{TextSize: model.MustLength("1.27"), Texts: model.Sides[seed%4]}
		written := c.Symbol.WithTexts(h, texts)
		var b bytes.Buffer
		require.NoError(t, edif.Write(&b, "library", []edif.Cell{{Name: "EW-R-00001", Symbol: written}}))
		f, err := edif.Read(b.Bytes())
		require.NoError(t, err)
		require.Empty(t, f.Wrong, "seed %d", seed)
		require.Len(t, f.Cells, 1)
		got := f.Cells[0].Symbol
		for _, x := range texts {
			assert.Equal(t, x.Text, got.Properties[x.Key], "seed %d, %s", seed, x.Key)
		}
		assert.Equal(t, placesOf(written), placesOf(got), "seed %d", seed)
		assert.True(t, model.Same(&c, &model.Content{Kind: model.KindSymbol, Symbol: got}), "seed %d", seed)
	}
}

// placesOf are the places of the texts that stand for a fact.
func placesOf(s *model.Symbol) map[string]int {
	out := map[string]int{}
	for _, g := range s.Shapes {
		if key, is := model.Placeholder(g.Text); is {
			out[fmt.Sprint(key, g.Points[0], g.Size, g.Turn, g.Unit)]++
		}
	}
	return out
}
