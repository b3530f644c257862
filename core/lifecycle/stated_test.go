package lifecycle

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestWhatSuppliersSayOfAProduct(t *testing.T) {
	words := 0
	for want, all := range statedWords {
		for _, w := range all {
			for _, text := range []string{w, strings.ToUpper(w), " " + strings.ReplaceAll(w, " ", "-") + " ", strings.ReplaceAll(w, " ", "  "), "(" + w + ")", "Status: " + w, "Product " + w} {
				got, ok := Stated(text)
				assert.True(t, ok, text)
				assert.Equal(t, want, got, text)
				words++
			}
		}
	}
	assert.Greater(t, words, 500)
	for _, text := range []string{"", "-", "not obsolete", "obsolete?yes", "in stock", "5000", "new", "active low", "activex", "EOL 2027", "Obsolete, use TW-2", "n/a", "production 2024"} {
		_, ok := Stated(text)
		assert.False(t, ok, "%q says nothing that is known", text)
	}
	seen := map[string]Standing{}
	for s, all := range statedWords {
		for _, w := range all {
			before, twice := seen[w]
			assert.False(t, twice, "%q means %s and %s", w, before, s)
			seen[w] = s
		}
	}
}
