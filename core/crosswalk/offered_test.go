package crosswalk

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
)

// priceHeads and stockHeads are how suppliers head what one costs and how many there are.
var (
	priceHeads = []string{"Price", "Unit price", "Net price", "List price", "Preis", "Stückpreis", "Einzelpreis", "Prix", "Prix unitaire", "Precio", "Precio unitario", "Prezzo", "Prezzo unitario", "単価", "価格"}
	stockHeads = []string{"Stock", "In stock", "Quantity on hand", "Bestand", "Lagerbestand", "En stock", "Stock disponible", "Existencias", "Disponibilidad", "Giacenza", "在庫", "在庫数"}
	prices     = []string{"0,12", "1,40", "12,50", "0,08", "3,99"}
	counts     = []string{"120", "0", "4500", "17", "2600"}
)

// What stands in a heading beside its name says what the number is of. A price of a hundred is none of one, and a stock in thousands, in
// reels or somewhere else is not how many there are.
func TestAHeadingSaysOfHowManyAPriceIs(t *testing.T) {
	ofOne := []string{"%s", "%s (EUR)", "%s [EUR]", "%s in EUR", "%s €", "%s (€)", "%s/EUR", "%s (net)", "%s (excl. VAT)", "%s per piece", "%s / pc", "%s (1 pc)"}
	ofMore := []string{"%s per 100", "%s (per 100)", "%s/100", "%s (€/100)", "%s [EUR/1000]", "%s pro 100 St.", "%s (je 100)", "%s @ 1000", "%s 1000+", "%s (1000+)", "%s (per 1k)", "%s per reel", "%s (reel)", "%s (per m)", "%s (kg)", "%s per pack", "%s (VPE)", "%s (10 pcs)", "%s in ct", "%s (cent)"}
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	suggested := func(heading string, sample []string) string {
		for _, g := range Suggest([]Column{{Name: "MPN", Sample: []string{"TW0805-4K7F", "TW0805-10KF"}}, {Name: heading, Sample: sample}}, Known{Cabinet: cab}) {
			if g.From == heading {
				return g.To
			}
		}
		return ""
	}
	for _, head := range priceHeads {
		for _, form := range ofOne {
			if to := suggested(fmt.Sprintf(form, head), prices); to != "" { // silence is a question, and no fault
				assert.Equal(t, "take.price", to, form, head)
			}
		}
		assert.Equal(t, "take.price", suggested(head, prices), head)
		for _, form := range ofMore {
			assert.Equal(t, "", suggested(fmt.Sprintf(form, head), prices), form, head)
		}
	}
	for _, head := range stockHeads {
		assert.Equal(t, "take.stock", suggested(head, counts), head)
		for _, form := range []string{"%s (k)", "%s (thousands)", "%s (reels)", "%s (weeks)", "%s (date)", "%s at factory", "%s of packs", "%s (days)", "%s value (EUR)", "%s (kg)", "%s min."} {
			assert.NotEqual(t, "take.stock", suggested(fmt.Sprintf(form, head), counts), form, head)
		}
	}
}
