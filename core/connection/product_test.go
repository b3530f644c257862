package connection

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestDetailsAddWhatAListLeftOut(t *testing.T) {
	p := Product{MPN: "TW-1", Kind: "Resistors", Fields: []Field{{"Resistance", "4.7 kΩ"}}}
	was := p.Fields
	assert.True(t, p.Complete(Product{MPN: "TW-1", Kind: "Others", Datasheet: "https://a.example/tw.pdf", Fields: []Field{{"resistance", "5 kΩ"}, {"Height", "0.5 mm"}}, Models: []Linked{{Address: "https://a.example/tw.zip"}}}))
	assert.Equal(t, Product{MPN: "TW-1", Kind: "Resistors", Datasheet: "https://a.example/tw.pdf", Fields: []Field{{"Resistance", "4.7 kΩ"}, {"Height", "0.5 mm"}}, Models: []Linked{{Address: "https://a.example/tw.zip"}}}, p)
	assert.Equal(t, []Field{{"Resistance", "4.7 kΩ"}}, was, "the answer stays as it came")
	assert.False(t, p.Complete(Product{Kind: "Others", Fields: []Field{{"HEIGHT", "1 mm"}}}), "what it says stays")
	assert.False(t, p.Complete(Product{}))
}
