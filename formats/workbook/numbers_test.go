package workbook

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// What is a number in a column of numbers is one in the workbook; what would not be kept to the digit, or is no number, stays the text that it was.
func TestNumbersAreNumbersOnlyWhereNothingIsLost(t *testing.T) {
	for text, is := range map[string]bool{"0": true, "12": true, "12.50": true, "0.0123": true, "999999999999999": true, "": false, "007": false, "00.5": false, ".5": false, "5.": false, "1e3": false, "-1": false, "1,5": false, "1.2.3": false, "9999999999999999": false, "0.1234567890123456": false, "=1": false, "NaN": false} {
		_, ok := plainNumber(text)
		assert.Equal(t, is, ok, text)
	}
}
