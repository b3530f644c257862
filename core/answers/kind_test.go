package answers

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"jollydrawer/core/lookup"
)

func TestTheKindThatAQuestionIsAbout(t *testing.T) {
	cab := starter(t)
	for text, want := range map[string]string{
		"chip resistor 4k7": "chip-resistors", "resistor": "resistors", "4k7 0805 1%": "resistors", "ceramic capacitor 0805": "ceramic-capacitors", "capacitor >=25V": "capacitors",
		"0805": "", "TW-0805-4K7-F": "", "zebra": "", "resistance 4k7": "", "10 pF 0402": "capacitors",
	} {
		assert.Equal(t, want, Kind(cab, lookup.Tell(cab, text)), text)
	}
}
