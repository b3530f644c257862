package model_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"jollydrawer/core/model"
	"jollydrawer/core/model/modeltest"
)

// A resistor from -2.54 to 2.54 mm, 2 mm high.
func resistor(own ...model.Shape) *model.Symbol {
	mm := model.MustLength
	return &model.Symbol{Pins: []model.Pin{{Number: "1", Type: model.Passive, Runs: model.Right, At: model.Point{X: -mm("2.54")}, Length: mm("1.27")}, {Number: "2", Type: model.Passive, Runs: model.Left, At: model.Point{X: mm("2.54")}, Length: mm("1.27")}},
		Shapes: append([]model.Shape{{Form: model.Rectangle, Points: []model.Point{{X: -mm("1.27"), Y: -mm("1")}, {X: mm("1.27"), Y: mm("1")}}}}, own...)}
}

func TestTextsStandWhereTheSymbolOrTheHouseHasThem(t *testing.T) {
	texts := []model.PartText{{Key: "resistance", Text: "4.7 kΩ", Shown: true}, {Key: "tolerance", Text: "±1 %", Shown: true}, {Key: "mpn", Text: "TW-1"}}
	own := model.Shape{Form: model.Text, Text: "{mpn}", Size: 2 * model.MM, Turn: 90 * model.Degree, Points: []model.Point{{X: model.MM, Y: 3 * model.MM}}}
	for _, x := range []struct {
		name string
		h    model.House
		s    *model.Symbol
		want string
	}{
		{"below, in lines", model.House{TextSize: model.MM}, resistor(), "resistance 0 -2.5 1 true; tolerance 0 -4 1 true; mpn 0 0 0 false; "},
		{"of one millimetre where the house says nothing", model.House{}, resistor(), "resistance 0 -2.5 1 true; tolerance 0 -4 1 true; mpn 0 0 0 false; "},
		{"above, the first on top", model.House{TextSize: model.MM, Texts: "above"}, resistor(), "resistance 0 4 1 true; tolerance 0 2.5 1 true; mpn 0 0 0 false; "},
		{"right, beginning at one side", model.House{TextSize: model.MM, Texts: "right"}, resistor(), "resistance 5.34 0.75 1 true; tolerance 4.74 -0.75 1 true; mpn 0 0 0 false; "},
		{"left, ending at one side", model.House{TextSize: model.MM, Texts: "left"}, resistor(), "resistance -5.34 0.75 1 true; tolerance -4.74 -0.75 1 true; mpn 0 0 0 false; "},
		{"the symbol's own place first", model.House{TextSize: model.MM}, resistor(own), "resistance 0 -2.5 1 true; tolerance 0 -4 1 true; mpn 1 3 2 true; "},
	} {
		got := ""
		for _, p := range x.s.PlaceTexts(x.h, texts) {
			got += fmt.Sprintf("%s %s %s %s %t; ", p.Key, p.At.X, p.At.Y, p.Size, p.Shown)
		}
		assert.Equal(t, x.want, got, x.name)
	}
	s := resistor(own).WithTexts(model.House{TextSize: model.MM}, texts)
	assert.Equal(t, map[string]string{"resistance": "4.7 kΩ", "tolerance": "±1 %", "mpn": "TW-1"}, s.Properties)
	assert.Len(t, s.Shapes, 4, "the rectangle, its own text, and two of the house")
	svg := string((&model.Content{Kind: model.KindSymbol, Name: "r", Symbol: s}).SVG(model.Preview{Texts: s.Properties}))
	assert.Contains(t, svg, ">4.7 kΩ<")
	assert.Contains(t, svg, ">TW-1<")
	assert.NotContains(t, svg, "{")
}

// Texts of the house never stand on one another, nor on the box of the symbol, whatever the symbol is.
func TestTextsOfTheHouseStandApart(t *testing.T) {
	for seed := range uint64(300) {
		s := modeltest.New(seed).Symbol()
		texts := []model.PartText{{Key: "a", Text: "4.7 kΩ", Shown: true}, {Key: "b", Text: "±1 %", Shown: true}, {Key: "c", Text: "0805, thick film", Shown: true}}
		h := model.House{TextSize: model.MustLength("1.27"), Texts: model.Sides[seed%4]}
		var boxes []model.Box
		for _, p := range s.PlaceTexts(h, texts) {
			boxes = append(boxes, model.Shape{Form: model.Text, Text: p.Text, Size: p.Size, Points: []model.Point{p.At}}.Bounds())
		}
		boxes = append(boxes, s.Bounds(min(len(s.Units), 1)))
		for i, a := range boxes {
			for _, b := range boxes[:i] {
				apart := a.Max.X <= b.Min.X || b.Max.X <= a.Min.X || a.Max.Y <= b.Min.Y || b.Max.Y <= a.Min.Y
				assert.True(t, apart, "seed %d, %s", seed, h.Texts)
			}
		}
	}
}
