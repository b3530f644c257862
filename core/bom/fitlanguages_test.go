package bom

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
)

func TestMarksOfFittingInMoreLanguages(t *testing.T) {
	for cell, want := range map[string]mark{
		"ja": yesMark, "nee": noMark, "nej": noMark, "sim": yesMark, "não": noMark, "tak": yesMark, "nie": noMark, "kyllä": yesMark, "ei": noMark, "ano": yesMark, "ne": noMark, "igen": yesMark, "nem": noMark, "да": yesMark, "НЕТ": noMark, "はい": yesMark, "いいえ": noMark, "是": yesMark, "否": noMark,
		"niet plaatsen": unfittedMark, "niet geplaatst": unfittedMark, "ej monterad": unfittedMark, "ikke montert": unfittedMark, "nie montować": unfittedMark, "geplaatst": fittedMark, "monteras": fittedMark, "未实装": unclearMark,
		"misschien": unclearMark, "niet": unclearMark, "alleen proto": unclearMark,
	} {
		assert.Equal(t, want, readMark(cell), cell)
	}
	for text, off := range map[string]bool{"10k niet plaatsen": true, "100n (ej monterad)": true, "4k7 nie montować": true, "10k geplaatst": false, "SOT-23": false} {
		_, is, _ := markedOff(text)
		assert.Equal(t, off, is, text)
	}
}

// A column headed by a name of a parameter that is a word of fitting too is about fitting where its cells say yes and no.
func TestAColumnOfYesAndNoIsNoParameter(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	for _, heading := range []string{"Montage", "Mounting", "montage"} {
		for _, c := range []struct {
			cells []string
			role  Role
		}{
			{[]string{"ja", "ja", "nee"}, Fit}, {[]string{"yes", "", "no"}, Fit}, {[]string{"x", "DNP", "x"}, Fit}, {[]string{"surface mount", "through hole", "surface mount"}, Fact}, {[]string{"ja", "surface mount", "nee"}, Fact}, {[]string{"", "", ""}, Fact},
		} {
			rows := [][]string{{"R1", c.cells[0]}, {"R2", c.cells[1]}, {"R3", c.cells[2]}}
			got, err := FindColumns([]string{"Ref", heading}, rows, cab)
			require.NoError(t, err)
			assert.Equal(t, c.role, got[1].Role, "%s: %v", heading, c.cells)
		}
	}
}
