package answers

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"jollydrawer/core/connection"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/offer"
)

func TestAFieldThatASupplierDoesNotSayAnyMore(t *testing.T) {
	stock := int64(5)
	of := func(n int, kind string, state string, offers []offer.Offer, fields ...string) (out []connection.Product) {
		for i := range n {
			p := connection.Product{MPN: fmt.Sprint(kind, i), Kind: kind, State: state, Offers: offers}
			for _, f := range fields {
				p.Fields = append(p.Fields, connection.Field{Name: f, Text: "1"})
			}
			out = append(out, p)
		}
		return out
	}
	there, none := []offer.Offer{{Stock: &stock}}, []offer.Offer{{}}
	first := append(of(12, "Resistors", "ok", there, "R", "Tol", "Colour"), of(3, "Coils", "ok", there, "R")...)
	before := Places(resistors, first)
	assert.Equal(t, []string{"field R of “Resistors”", "field Tol of “Resistors”", "offers.stock of “Resistors”", "product.kind", "product.state of “Resistors”"}, before, "what nearly all of enough say, and the crosswalk reads")
	for _, c := range []struct {
		claim    string
		products []connection.Product
		missed   []string
	}{
		{"all is there", of(12, "Resistors", "ok", there, "R", "Tol"), nil},
		{"another kind says nothing of resistors", of(12, "Coils", "", none, "L"), nil},
		{"a field is called otherwise", of(12, "Resistors", "ok", there, "Resistance", "Tol"), []string{"field R of “Resistors”"}},
		{"a path leads nowhere", of(6, "Resistors", "ok", none, "R", "Tol"), []string{"offers.stock of “Resistors”"}},
		{"too few to say", of(4, "Resistors", "", none), nil},
		{"one of many says it still", append(of(11, "Resistors", "ok", none, "R", "Tol"), of(1, "Resistors", "ok", there, "R", "Tol")...), nil},
		{"no kinds any more", of(12, "", "ok", there, "R", "Tol"), []string{"product.kind"}},
		{"nothing was found", nil, nil},
	} {
		assert.Equal(t, c.missed, Missed(before, resistors, c.products), c.claim)
	}
	assert.Equal(t, []string{"field Tol of “Resistors”", "product.kind"}, Still(before, resistors, of(1, "Resistors", "", none, "Tol")))
	rare := append(of(8, "Resistors", "", there, "R"), of(2, "Resistors", "ends", there, "R")...)
	assert.NotContains(t, Places(resistors, rare), "product.state of “Resistors”", "what only some say may be absent")

	named := resistors
	named.Fields = append(slices.Clone(named.Fields), crosswalk.Rule{From: "Number of turns", To: "turns"})
	pots := of(12, "Networks of resistors", "", none, "Number of turns")
	said := Places(named, pots)
	assert.Contains(t, said, "field Number of turns of “Networks of resistors”", "names that have the word of in them")
	assert.Contains(t, Missed(said, named, of(12, "Networks of resistors", "", none)), "field Number of turns of “Networks of resistors”")
}
