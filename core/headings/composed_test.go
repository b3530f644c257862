package headings

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestHeadingsComposedOfKnownWordsMeanWhatTheirWordsDo(t *testing.T) {
	for heading, want := range map[string]string{
		"Artikelnummer Hersteller": "manufacturer part number", "PN Manufacturer": "manufacturer part number", "Manufacturer's Part Number": "manufacturer part number", "Tillverkarens artikelnr": "manufacturer part number",
		"Fabrikantnummer": "manufacturer part number", "メーカー型番": "manufacturer part number", "型号": "manufacturer part number", "OEM P/N": "manufacturer part number", "Numer katalogowy producenta": "",
		"Fabrikant": "manufacturer", "Marca": "manufacturer", "制造商": "manufacturer", "Producent": "manufacturer", "Назва": "",
		"Leverancier": "supplier", "Artikelnr. Lieferant": "supplier number", "Leverantörsartikelnummer": "supplier number", "Bestelnummer": "supplier number", "供应商编号": "supplier number",
		"Aantal": "quantity", "Qty/Assy": "quantity", "Menge je Baugruppe": "quantity", "数量": "quantity", "Кол-во": "", "Ilość na płytkę": "quantity",
		"Waarde": "value", "Value/Rating": "value", "Component value": "value", "值": "value", "Behuizing": "package", "Case/Package": "package", "封装": "package", "Omschrijving": "description", "部品番号": "part number", "位号": "designator",
		"Herstellerartikelnummer": "manufacturer part number", "leverantörensartikelnr": "supplier number", "メーカー部品番号": "manufacturer part number",
		// what only seems so
		"Herstellerde nummer": "", "Herstellers": "manufacturer", "Herstellerxnummer": "", "Nummerhersteller": "manufacturer part number", "rnummer": "", strings.Repeat("part ", 14) + "number": "part number", strings.Repeat("part ", 15) + "number": "",
		"Build quantity": "", "Total qty": "", "Qty per reel": "", "Order quantity": "", "Manufacturer code": "", "Manufacturer value": "", "Vendor part (mfr)": "", "Type": "", "Part": "", "Code": "", "Ref": "", "": "", "Package quantity": "", "PCB quantity": "", "Leiterplattenmenge": "", "Quantity of boards": "", "Menge Leiterplatte": "quantity", "Board quantity per": "quantity", "Number of parts": "", "Número de pieza": "part number", "Numero di componenti": "", "Numero di componente": "part number", "Nombre de pièces": "", "Manufacturing number": "", "Manufacturing part number": "manufacturer part number", "品牌": "manufacturer", "物料编码": "part number", "内部物料编码": "part number", "Part name": "", "Supplier description": "",
	} {
		assert.Equal(t, want, Composed(heading), heading)
	}
}

// In whatever language and order the words stand, together or apart, a heading means what they mean; a word that nobody knows leaves it open.
func TestAWordThatIsNotKnownLeavesAHeadingOpen(t *testing.T) {
	words := map[string][]string{}
	for _, line := range strings.Split(strings.TrimSpace(wordsText), "\n") {
		notion, list, _ := strings.Cut(line, " = ")
		words[notion] = strings.Fields(list)
	}
	var sets []string
	for set := range composed {
		sets = append(sets, set)
	}
	rapid.Check(t, func(t *rapid.T) {
		set := rapid.SampledFrom(sets).Draw(t, "set")
		var out []string
		for _, notion := range strings.Fields(set) {
			out = append(out, rapid.SampledFrom(words[notion]).Draw(t, "word"))
		}
		out = rapid.Permutation(out).Draw(t, "order")
		between := rapid.SampledFrom([]string{" ", "-", "/", ". ", "_", " de ", " of the "}).Draw(t, "between")
		heading := strings.Join(out, between)
		if rapid.Bool().Draw(t, "capitals") {
			heading = strings.ToUpper(heading)
		}
		want := composed[set]
		notion := func(n string) int {
			return slices.IndexFunc(out, func(w string) bool { return slices.Contains(words[n], w) })
		}
		if board := notion("board"); board >= 0 && notion("per") < 0 && board < notion("quantity") {
			want = "" // "Board quantity" is how many boards
		}
		require.Equal(t, want, Composed(heading), heading)

		odd := rapid.SampledFrom([]string{"total", "build", "lot", "reel", "old", "former", "second", "alt", "price", "min", "max", "2", "x", "gesamt", "früher", "旧", "preis"}).Draw(t, "odd")
		k := rapid.IntRange(0, len(out)).Draw(t, "at")
		spoiled := strings.Join(append(append(append([]string{}, out[:k]...), odd), out[k:]...), " ")
		require.Empty(t, Composed(spoiled), spoiled)
	})
}

// A word is of one notion, and no word between others is a notion.
func TestAWordOfHeadingsIsOfOneNotion(t *testing.T) {
	seen := map[string]string{}
	for _, line := range strings.Split(strings.TrimSpace(wordsText), "\n") {
		notion, list, _ := strings.Cut(line, " = ")
		for _, w := range strings.Fields(list) {
			p := Plain(w)
			require.NotContains(t, p, " ", w)
			require.Contains(t, []string{"", notion}, seen[p], "%q is under %q and %q", w, seen[p], notion)
			require.False(t, between[p], w)
			seen[p] = notion
		}
	}
}

// A heading that is nearly composed in very many ways is looked at in each place once.
func TestAHostileCompoundIsGivenUpSoon(t *testing.T) {
	dead := map[string]bool{}
	w := strings.Repeat("parts", 15) + "xq"
	_, ok := partsOf(w, dead)
	assert.False(t, ok)
	assert.LessOrEqual(t, len(dead), len(w))
	assert.Empty(t, Composed(w))
}
