package bom

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
)

// The name of a package has letters and digits, from the first letter of the alphabet to its last.
func TestPackagesAreNamedByLettersWithDigits(t *testing.T) {
	for text, want := range map[string]bool{
		"SOT-23": true, "sot-23": true, "A1": true, "Z9": true, "a1": true, "z9": true, "0805 M": true, "7-m": true,
		"": false, "0805": false, "SOT": false, "sot": false, "@1": false, "[1": false, "`1": false, "{1": false, "12 / 5": false, "5 µ": false,
	} {
		assert.Equal(t, want, namesPackage(text), text)
	}
}

// One cell is no column: what stands once below a heading that says nothing may have the form of our numbers by chance.
func TestOneCellMakesNoColumnOfNumbers(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	resistors, ok := cab.Template("chip-resistors")
	require.True(t, ok)
	one, two := resistors.Prefix+"-00001", resistors.Prefix+"-00002"
	for _, c := range []struct {
		name string
		rows [][]string
		want Role
	}{
		{"once", [][]string{{"R1", one}, {"R2", ""}, {"R3", " "}}, ""},
		{"twice", [][]string{{"R1", one}, {"R2", ""}, {"R3", two}}, Number},
		{"and another text", [][]string{{"R1", one}, {"R2", two}, {"R3", "by hand"}}, ""},
	} {
		cols, err := FindColumns([]string{"Ref", "Whatsit"}, c.rows, cab)
		require.NoError(t, err)
		assert.Equal(t, c.want, cols[1].Role, c.name)
	}
}
