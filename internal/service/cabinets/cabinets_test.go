package cabinets_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestACrosswalkIsAppliedOnTheVersionThatWasSeen(t *testing.T) {
	h := housetest.Open(t)
	_, err := h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, 0, housetest.CrosswalkText)
	require.NoError(t, err)
	was, err := h.Cabinets.Crosswalk(t.Context(), h.Me, "Marsh Lane")
	require.NoError(t, err)
	now, err := h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, was.Version, strings.Replace(was.Text, "decimalMark: point", "decimalMark: comma", 1))
	require.NoError(t, err)
	assert.Equal(t, was.Revision+1, now.Revision)
	assert.Contains(t, now.Text, "decimalMark: comma")
	_, err = h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, was.Version, was.Text)
	housetest.Fails(t, err, "changed-meanwhile")
	for text, says := range map[string]string{
		"format: jolly-crosswalk/1\nsupplier: Marsh Lane\nfields: [{from: A, to: nowhere}]\n": "nowhere",
		"format: jolly-crosswalk/1\nsupplier: Marsh Lane\ndrawer: resistors\nfields: []\n":    "holds other drawers",
		"format: other": "format",
		"}{":            "cannot be read",
	} {
		_, err := h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, now.Version, text)
		assert.Contains(t, housetest.Fails(t, err, "crosswalk-wrong").Error(), says)
	}
	list, err := h.Cabinets.Crosswalks(t.Context(), h.Me, 0, 10)
	require.NoError(t, err)
	require.Len(t, list.Items, 1)
	assert.Equal(t, now.Version, list.Items[0].Version)
	_, err = h.Cabinets.Crosswalk(t.Context(), h.Me, "Nobody")
	housetest.Fails(t, err, "not-found")
	all, err := h.Cabinets.AllCrosswalks(t.Context())
	require.NoError(t, err)
	assert.Len(t, all, 1)
}

func TestADrawersUseIsCounted(t *testing.T) {
	h := housetest.Open(t)
	_, err := h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, 0, housetest.CrosswalkText)
	require.NoError(t, err)
	h.Make(housetest.Resistor("1k", "A"))
	h.Make(housetest.Rated("2k", "B"))
	bare := housetest.Resistor("3k", "C")
	delete(bare.Values, "case")
	h.Make(bare)
	u, err := h.Cabinets.DrawerUse(t.Context(), h.Me, "chip-resistors")
	require.NoError(t, err)
	assert.Equal(t, []int{3, 1}, []int{u.Parts, u.Incomplete})
	filled := map[string]int{}
	for _, s := range u.Filled {
		filled[s.Key] = s.Parts
	}
	assert.Equal(t, []int{3, 2, 1}, []int{filled["resistance"], filled["case"], filled["power"]})
	assert.Equal(t, []string{"Marsh Lane"}, u.Crosswalks)
	assert.Len(t, u.Samples, 3)
	above, err := h.Cabinets.DrawerUse(t.Context(), h.Me, "resistors")
	require.NoError(t, err)
	assert.Equal(t, 3, above.Parts, "what lies inside counts")
	_, err = h.Cabinets.DrawerUse(t.Context(), h.Me, "nowhere")
	housetest.Fails(t, err, "not-found")
}

func TestPatternsAreTriedOnRealPartsAndChangeNothing(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("4k7", "A"))
	tried, err := h.Cabinets.TryPatterns(t.Context(), h.Me, "chip-resistors", wire.PatternTry{Description: "R {resistance as marking}[ {case}]"})
	require.NoError(t, err)
	require.Len(t, tried, 1)
	assert.Equal(t, []string{p.Number, "R 4k7 0805", p.Draft.Description}, []string{tried[0].Number, tried[0].Description, tried[0].Was})
	_, err = h.Cabinets.TryPatterns(t.Context(), h.Me, "chip-resistors", wire.PatternTry{Description: "R {nothing}"})
	assert.Contains(t, housetest.Fails(t, err, "pattern-wrong").Error(), "{nothing}")
	_, err = h.Cabinets.TryPatterns(t.Context(), h.Me, "nowhere", wire.PatternTry{})
	housetest.Fails(t, err, "not-found")
	now, err := h.Parts.Get(t.Context(), h.Me, p.ID)
	require.NoError(t, err)
	assert.Equal(t, p.Version, now.Version)
	assert.Equal(t, p.Draft.Description, now.Draft.Description)
}
