package answers

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"jollydrawer/core/connection"
)

func TestAFieldThatASupplierDoesNotSayAnyMore(t *testing.T) {
	of := func(n int, kind string, fields ...string) (out []connection.Product) {
		for i := range n {
			p := connection.Product{MPN: fmt.Sprint(kind, i), Kind: kind}
			for _, f := range fields {
				p.Fields = append(p.Fields, connection.Field{Name: f, Text: "1"})
			}
			out = append(out, p)
		}
		return out
	}
	found := map[string]int{"product.mpn": 12, "offers.stock": 3, "product.state": 0}
	before := Places(resistors, append(of(6, "Resistors", "R", "Tol", "Colour"), of(6, "Coils", "L")...), found)
	assert.Equal(t, []string{"field R of Resistors", "field Tol of Resistors", "offers.stock", "product.mpn"}, before, "only what the crosswalk reads")
	for _, c := range []struct {
		claim    string
		products []connection.Product
		found    map[string]int
		missed   []string
	}{
		{"all is there", of(12, "Resistors", "R", "Tol"), map[string]int{"product.mpn": 12, "offers.stock": 1}, nil},
		{"another kind says nothing of resistors", of(12, "Coils", "L"), map[string]int{"product.mpn": 12, "offers.stock": 1}, nil},
		{"a field is called otherwise", of(12, "Resistors", "Resistance", "Tol"), map[string]int{"product.mpn": 12, "offers.stock": 1}, []string{"field R of Resistors"}},
		{"a path leads nowhere", of(12, "Resistors", "R", "Tol"), map[string]int{"product.mpn": 12}, []string{"offers.stock"}},
		{"too few to say", of(4, "Resistors", "Tol"), map[string]int{"product.mpn": 4}, nil},
		{"enough of a kind and too few for a path", of(5, "Resistors", "Tol"), map[string]int{"product.mpn": 5}, []string{"field R of Resistors"}},
		{"nothing was found", nil, nil, nil},
	} {
		assert.Equal(t, c.missed, Missed(before, Places(resistors, c.products, c.found), resistors, c.products), c.claim)
	}
}
