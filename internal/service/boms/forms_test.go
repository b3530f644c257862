package boms_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

func TestAHouseMakesSheetsOfItsOwn(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Board A", costly)
	sheet := func(form, format string) (string, error) {
		var out bytes.Buffer
		err := h.BOMs.Sheet(t.Context(), h.As("rita", deed.Reader), wire.BOMSheet{BOM: b.ID, Form: form, Format: format, Boards: 10}, &out)
		return out.String(), err
	}
	_, err := sheet("Order", "csv")
	e := housetest.Fails(t, err, "form-unknown")
	assert.NotContains(t, e.Mend, "Order")
	s, err := h.BOMs.SheetForms(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Equal(t, 0, s.Version)
	text := "format: jolly-sheets/1\nsheets:\n  - name: Order\n    of: purchase\n    columns: [{take: Supplier}, {take: MPN}, {take: Buy, head: Pieces}, {head: Centre, text: W2}, {take: \"Extended price in the house's currency\", head: Sum}]\n    sort: [MPN]\n"
	s, err = h.BOMs.ApplySheetForms(t.Context(), h.Me, 0, wire.SheetFormsEdit{Text: text})
	require.NoError(t, err)
	assert.Equal(t, []wire.SheetForm{{Name: "Order", Of: "purchase", Columns: 5}}, s.Sheets)
	_, err = h.BOMs.ApplySheetForms(t.Context(), h.Me, 0, wire.SheetFormsEdit{Text: text + "  - {name: b, of: numbers, columns: [{take: Write}]}\n"})
	housetest.Fails(t, err, "changed-meanwhile")
	_, err = h.BOMs.ApplySheetForms(t.Context(), h.Me, s.Version, wire.SheetFormsEdit{Text: strings.Replace(text, "{take: MPN}", "{take: Maker}", 1)})
	housetest.Fails(t, err, "sheets-wrong")
	_, err = h.BOMs.ApplySheetForms(t.Context(), h.As("ingo", deed.Engineer), s.Version, wire.SheetFormsEdit{Text: text})
	housetest.Fails(t, err, "not-allowed")

	got, err := sheet("order", "csv")
	require.NoError(t, err)
	assert.Equal(t, "Supplier,MPN,Pieces,Centre,Sum\nCorner Shop,TW-1,100,W2,2.00\nCorner Shop,TW-2,10,W2,4.00\n,TW-3,,W2,\n,,,W2,\nSum for 10 boards,,,,6.00\n", strings.ReplaceAll(got, "\r", ""))
	for _, format := range []string{"xlsx", "json", "pdf"} {
		got, err := sheet("Order", format)
		require.NoError(t, err, format)
		assert.Greater(t, len(got), 200, format)
	}
	name, err := h.BOMs.SheetName(t.Context(), h.Me, wire.BOMSheet{BOM: b.ID, Form: "Order", Format: "xlsx"})
	require.NoError(t, err)
	assert.Equal(t, "Board A Order 2026-11-29.xlsx", name)
	_, err = sheet("Orders", "csv")
	assert.Contains(t, housetest.Fails(t, err, "form-unknown").Mend, "numbers, Order.")
}
