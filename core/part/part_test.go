package part

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/measure"
)

func TestNormalising(t *testing.T) {
	assert.Equal(t, NormaliseMPN("tw-0805 4k7/F"), NormaliseMPN("TW08054K7-F"))
	assert.NotEqual(t, NormaliseMPN("AB12+"), NormaliseMPN("AB12"))
	assert.Equal(t, NormaliseMaker("Tidewright Components Ltd."), NormaliseMaker("TIDEWRIGHT COMPONENTS"))
	assert.NotEqual(t, NormaliseMaker("Co"), "", "a name made of a legal word alone stays a name")
}

func TestCheckNamesWhatKeepsAPartFromRelease(t *testing.T) {
	c, err := cabinet.New(cabinet.Document{Format: cabinet.Format,
		Parameters: []cabinet.Parameter{{Key: "resistance", Label: "Resistance", Type: cabinet.Measure, Of: "resistance"}},
		Drawers:    []cabinet.Drawer{{Key: "resistors", Label: "Resistors", Parameters: []cabinet.Use{{Key: "resistance", Required: true}}}}})
	require.NoError(t, err)
	tpl, _ := c.Template("resistors")
	causes := func(p Content) (out []string) {
		for _, f := range Check(p, tpl) {
			if f.Severity == finding.Error {
				out = append(out, f.Cause)
			}
		}
		return
	}
	ohms := cabinet.Value{Type: cabinet.Measure, Measure: measure.MustParse("4k7")}
	farads := cabinet.Value{Type: cabinet.Measure, Measure: measure.MustParse("1 nF")}
	assert.Equal(t, []string{"required:resistance"}, causes(Content{}))
	assert.Empty(t, causes(Content{Values: map[string]cabinet.Value{"resistance": ohms}}))
	assert.Equal(t, []string{"value:resistance"}, causes(Content{Values: map[string]cabinet.Value{"resistance": farads}}))
	assert.Equal(t, []string{"not-in-template:colour"}, causes(Content{Values: map[string]cabinet.Value{"resistance": ohms, "colour": {Type: cabinet.Text, Text: "red"}}}))
	twice := []Source{{Manufacturer: "Kelpline Ltd", MPN: "A-1"}, {Manufacturer: "Kelpline", MPN: "A1"}}
	assert.Equal(t, []string{"source-twice"}, causes(Content{Values: map[string]cabinet.Value{"resistance": ohms}, Sources: twice}))
	assert.Equal(t, []string{"model-unreleased"}, causes(Content{Values: map[string]cabinet.Value{"resistance": ohms}, Symbol: &Model{Name: "R"}}))
}
