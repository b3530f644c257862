package wire

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"jollydrawer/core/part"
)

func TestACopyKeepsNothingThatNamesTheOldPart(t *testing.T) {
	c := PartContent{Drawer: "amplifiers", Name: "CUA2-SO8", Description: "AMP", Values: []Value{{Key: "case", Text: "SO-8"}, {Key: "note", Text: "see the page of cua2 so8"}, {Key: "channels", Text: "2"}},
		Sources: []part.Source{{Manufacturer: "Curlew", MPN: "CUA2-SO8"}}, Datasheets: []part.File{{Name: "CUA2.pdf"}}, Symbol: &part.Model{ID: "s", Name: "CUA2-SO8"}, PinMap: &part.Model{ID: "p", Name: "pins"},
		LandPattern: &part.Model{ID: "l", Name: "SO-8 nominal"}, OtherLands: []part.OtherLand{{For: "hand", Model: part.Model{Name: "CUA2-SO8 roomy"}}, {For: "dense", Model: part.Model{Name: "SO-8 tight"}}},
		Attachments: []part.Attachment{{Is: "simulation"}}}
	e := c.Copy()
	assert.Equal(t, map[string]string{"case": "SO-8", "channels": "2"}, e.Values)
	assert.Empty(t, e.Sources)
	assert.Empty(t, e.Datasheets)
	assert.Empty(t, e.Attachments)
	assert.Empty(t, e.Name+e.Description)
	assert.Nil(t, e.Symbol)
	assert.Nil(t, e.PinMap, "a pin map belongs to its symbol")
	assert.Equal(t, "SO-8 nominal", e.LandPattern.Name)
	assert.Len(t, e.OtherLands, 1)
	assert.Equal(t, "CUA2-SO8", c.Symbol.Name, "the original stays as it was")
}
