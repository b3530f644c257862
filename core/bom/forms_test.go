package bom

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/buying"
)

const formsHead = "format: jolly-sheets/1\nsheets:\n"

func TestAHouseHasSheetsOfItsOwn(t *testing.T) {
	f, err := ParseForms([]byte(formsHead + `  - name: Bestellliste
    of: purchase
    columns:
      - {take: Supplier, head: Lieferant}
      - {take: MPN}
      - {take: Buy, head: Menge}
      - {head: Kostenstelle, text: "4711"}
      - {take: "Extended price in the house's currency", head: Summe}
    sort: [Supplier, Buy]
`))
	require.NoError(t, err)
	s, ok := f.Named(" bestellliste ")
	require.True(t, ok)
	at := func(name string) int { return slices.Index(buying.SheetColumns, name) }
	row := func(supplier, mpn, buy, sum string) []string {
		r := make([]string, len(buying.SheetColumns))
		r[0], r[at("Supplier")], r[at("MPN")], r[at("Buy")], r[buying.HouseAt] = "EW-1", supplier, mpn, buy, sum
		return r
	}
	head := slices.Clone(buying.SheetColumns)
	head[buying.HouseAt] = "Extended price (EUR)"
	last := make([]string, len(head))
	last[0], last[buying.HouseAt] = "Sum for 4 boards", "7.50"
	usual := [][]string{head, row("B", "b-1", "100", "5.00"), row("A", "a-2", "20", "1.50"), row("A", "a-1", "3", "1.00"), row("", "", "", ""), last}
	was := slices.Clone(usual)
	table, numbers := s.Make(usual, map[int]bool{at("Buy"): true, buying.HouseAt: true})
	assert.Equal(t, [][]string{{"Lieferant", "MPN", "Menge", "Kostenstelle", "Summe"}, {"A", "a-1", "3", "4711", "1.00"}, {"A", "a-2", "20", "4711", "1.50"}, {"B", "b-1", "100", "4711", "5.00"}, {"", "", "", "4711", ""}, {"Sum for 4 boards", "", "", "", "7.50"}}, table,
		"by supplier and then by size; what is blank behind; the sum below")
	assert.Equal(t, map[int]bool{0: false, 1: false, 2: true, 3: false, 4: true}, numbers)
	assert.Equal(t, was, usual, "the usual sheet stays as it is")

	s.Columns = s.Columns[:2]
	table, _ = s.Make(usual, nil)
	assert.Len(t, table, 5, "a sum without its column is none")
	s.Sort = nil
	table, _ = s.Make(usual, nil)
	assert.Equal(t, []string{"B", "b-1"}, table[1], "in the order of the usual sheet where nobody says another")

	own, err := ParseForms([]byte(formsHead + "  - {name: Placing, of: assembly, columns: [{take: Designator}, {take: Fitted in Harbour, head: H}, {take: Fitted in Lake}]}\n"))
	require.NoError(t, err)
	usual, _ = AssemblySheet([]Pinned{{Designators: []string{"R10", "R2"}, Quantity: 2, In: []string{"Lake"}}}, "Harbour")
	table, _ = own.Sheets[0].Make(usual, nil)
	assert.Equal(t, [][]string{{"Designator", "H", "Fitted in Lake"}, {"R2", "no", ""}, {"R10", "no", ""}}, table, "a column of other boards is blank")
}

func TestSheetsThatCannotBeTaken(t *testing.T) {
	for text, says := range map[string]string{
		"format: jolly-sheets/2":                                                                                                 `format "jolly-sheets/2"`,
		"format: jolly-sheets/1\nsheet: []":                                                                                      "the field sheet is not known",
		formsHead + "  - {name: '', of: purchase}":                                                                               "sheets[0].name",
		formsHead + "  - {name: 'a/b', of: purchase}":                                                                            "cannot be a part of a file's name",
		formsHead + "  - {name: \"a\\tb\", of: purchase}":                                                                        "sheets[0].name",
		formsHead + "  - {name: Purchase, of: purchase}":                                                                         "the name of a usual sheet",
		formsHead + "  - {name: a, of: written}":                                                                                 "no usual sheet",
		formsHead + "  - {name: a, of: purchase}":                                                                                "columns: it has 1 to",
		formsHead + "  - {name: a, of: purchase, columns: [{}]}":                                                                 "columns[0]",
		formsHead + "  - {name: a, of: purchase, columns: [{take: Price}]}":                                                      `no column "Price"; it has Part number`,
		formsHead + "  - {name: a, of: purchase, columns: [{take: MPN, text: x}]}":                                               "not both",
		formsHead + "  - {name: a, of: purchase, columns: [{take: MPN}, {head: MPN, text: x}]}":                                  `"MPN" stands twice`,
		formsHead + "  - {name: a, of: purchase, columns: [{take: MPN}], sort: [Price]}":                                         "sort[0]",
		formsHead + "  - {name: a, of: numbers, columns: [{take: Write}]}\n  - {name: A, of: numbers, columns: [{take: Write}]}": "stands twice",
		formsHead + "  - {name: a, of: assembly, columns: [{take: Row}]}":                                                        "no column",
		"format: jolly-sheets/1\n---\nformat: jolly-sheets/1":                                                                    "second document",
	} {
		_, err := ParseForms([]byte(text))
		assert.ErrorContains(t, err, says, text)
	}
	many := formsHead
	for i := range mostSheets + 1 {
		many += "  - {name: s" + strings.Repeat("x", i) + ", of: numbers, columns: [{take: Write}]}\n"
	}
	_, err := ParseForms([]byte(many))
	assert.ErrorContains(t, err, "more than 50")
}

// Whatever a house takes of a sheet, each of its rows is one of the usual ones, cell for cell, and none is lost.
func TestASheetOfTheHouseLosesNoRow(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		of := rapid.SampledFrom([]string{FormLines, FormPurchase, FormAssembly, FormNumbers}).Draw(t, "of")
		always, _, _, _ := formColumns(of)
		takes := rapid.SliceOfNDistinct(rapid.IntRange(0, len(always)-1), 1, len(always), func(i int) int { return i }).Draw(t, "takes")
		s := HouseForm{Name: "x", Of: of, Sort: rapid.SliceOfN(rapid.SampledFrom(always), 0, 3).Draw(t, "sort")}
		for _, i := range takes {
			s.Columns = append(s.Columns, FormColumn{Take: always[i]})
		}
		require.NoError(t, s.check())
		usual := [][]string{always}
		for range rapid.IntRange(0, 12).Draw(t, "rows") {
			r := make([]string, len(always))
			for i := range r {
				r[i] = rapid.SampledFrom([]string{"", "R2", "R10", "9", "10", "2.50", "x"}).Draw(t, "cell")
			}
			usual = append(usual, r)
		}
		var want []string
		for k, r := range usual[1:] {
			if of == FormPurchase && k == len(usual)-2 && !slices.Contains(takes, buying.HouseAt) {
				continue
			}
			cells := []string{}
			for n, i := range takes {
				if c := r[i]; of == FormPurchase && k == len(usual)-2 && n == 0 && c == "" && !slices.Contains(takes, 0) {
					cells = append(cells, r[0])
				} else {
					cells = append(cells, c)
				}
			}
			want = append(want, strings.Join(cells, "|"))
		}
		table, _ := s.Make(usual, map[int]bool{1: true})
		var got []string
		for _, r := range table[1:] {
			got = append(got, strings.Join(r, "|"))
		}
		assert.ElementsMatch(t, want, got)
	})
}

func FuzzForms(f *testing.F) {
	f.Add([]byte(formsHead + "  - {name: a, of: purchase, columns: [{take: MPN}]}\n"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		forms, err := ParseForms(raw)
		if err != nil {
			return
		}
		for _, s := range forms.Sheets {
			always, _, _, _ := formColumns(s.Of)
			s.Make([][]string{always, make([]string, len(always)), make([]string, len(always))}, nil)
		}
	})
}
