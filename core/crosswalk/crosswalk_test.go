package crosswalk

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

const head = "format: jolly-crosswalk/1\nsupplier: Marsh Lane\n"

func TestACrosswalkThatIsWrongSaysWhere(t *testing.T) {
	for text, says := range map[string]string{
		"format: other/1\nsupplier: x\n":                         `has format "other/1"`,
		"format: jolly-crosswalk/1\n":                            "names no supplier",
		head + "decimalMark: dot\n":                              "use comma or point",
		head + "fields: [{from: A}]\n":                           "rule 1 of the crosswalk lacks",
		head + "fields: [{from: A, to: b, caseSystem: miles}]\n": "use inch or metric",
		head + "feilds: []\n":                                    "field feilds not found",
	} {
		_, err := Parse([]byte(text))
		assert.ErrorContains(t, err, says, text)
	}
}

func TestACrosswalkIsHeldAgainstTheCabinet(t *testing.T) {
	cab, err := cabinet.New(cabinet.Document{Format: cabinet.Format, Parameters: []cabinet.Parameter{{Key: "x", Label: "X", Type: cabinet.Text}},
		Drawers: []cabinet.Drawer{{Key: "all", Label: "All"}, {Key: "leaf", Label: "Leaf", Parent: "all", Leading: "x", Parameters: []cabinet.Use{{Key: "x"}}}}})
	require.NoError(t, err)
	for text, says := range map[string]string{
		head + "drawer: nowhere\n":                                "which the cabinet lacks",
		head + "drawer: all\n":                                    "holds other drawers, not parts",
		head + "kinds: {Odd: nowhere}\n":                          `the kind "Odd"`,
		head + "fields: [{from: A, to: y}]\n":                     "which the parameter dictionary lacks",
		head + "fields: [{from: A, to: x, drawers: [nowhere]}]\n": "a rule names the drawer",
	} {
		c, err := Parse([]byte(text))
		require.NoError(t, err, text)
		assert.ErrorContains(t, c.CheckAgainst(cab), says, text)
	}
	c, err := Parse([]byte(head + "decimalMark: point\ndrawer: leaf\nfields: [{from: A, to: '@leading', drawers: [all]}]\n"))
	require.NoError(t, err)
	require.NoError(t, c.CheckAgainst(cab))
	assert.Equal(t, measure.MarkPoint, c.Mark())
	leaf, _ := cab.Template("leaf")
	key, ok := c.Fields[0].Applies(leaf)
	assert.True(t, ok, "a rule for a drawer holds inside it too")
	assert.Equal(t, "x", key)
}

func TestRulesRewriteCellsAndSayHow(t *testing.T) {
	for _, c := range []struct {
		rule       Rule
		cell       string
		text, note string
	}{
		{Rule{}, " 4k7 ", "4k7", ""},
		{Rule{Words: map[string]string{"big": "1206"}}, "big", "1206", `"big" stands for "1206"`},
		{Rule{System: "metric"}, "2012", "0805", "metric 2012 is inch 0805"},
		{Rule{System: "metric"}, "0402", "01005", "metric 0402 is inch 01005"},
		{Rule{System: "metric"}, "SMB", "SMB", ""},
		{Rule{System: "inch"}, "0402", "0402", ""},
		{Rule{Unit: "mΩ"}, "5", "5", "without a unit, mΩ is meant"},
	} {
		text, note := c.rule.Rewrite(c.cell)
		assert.Equal(t, []string{c.text, c.note}, []string{text, note}, c.cell)
	}
}
