package boms_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/bom"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

func TestABOMComesOutInItsForms(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Board A", "Some board\n"+costly+"\"=1+1\",1,,,\n")
	b, err := h.BOMs.SetBuild(t.Context(), h.Me, b.ID, b.Version, wire.BOMBuild{Boards: 10})
	require.NoError(t, err)
	b, err = h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "first", Anyway: "by hand"})
	require.NoError(t, err)
	sheet := func(in wire.BOMSheet) [][]string {
		in.BOM, in.Format = b.ID, "csv"
		var out bytes.Buffer
		require.NoError(t, h.BOMs.Sheet(t.Context(), h.Me, in, &out))
		all, err := csv.NewReader(&out).ReadAll()
		require.NoError(t, err)
		return all
	}
	written := sheet(wire.BOMSheet{Form: bom.FormWritten})
	assert.Equal(t, []string{"Ref", "Qty", "Value", "MPN", "Fit", "Library part number"}, written[0][:6], "its own columns in their order")
	assert.Equal(t, []string{"R1,R2", "2", "4k7", "TW-1", ""}, written[1][:5])
	assert.NotEmpty(t, written[1][5])
	assert.Equal(t, "'=1+1", written[7][0], "no cell runs as a formula")
	again := h.Board(t, "Board B", tableOf(t, written)) // what went out comes in again as it was
	for i, l := range again.Lines[:6] {
		assert.Equal(t, []any{b.Lines[i].Written, b.Lines[i].Quantity, b.Lines[i].MPN, b.Lines[i].Verdict == "linked"}, []any{l.Written, l.Quantity, l.MPN, l.Verdict == "linked"})
	}
	order := sheet(wire.BOMSheet{Form: bom.FormPurchase})
	assert.Equal(t, "Sum for 10 boards", order[len(order)-1][0])
	assert.Equal(t, "6.00", order[len(order)-1][16])
	shop(t, h, "Isle Two", "EUR", "T1,Tidewright,TW-1,active,9000,1,0.001\n")
	frozen := sheet(wire.BOMSheet{Form: bom.FormPurchase, Revision: 1})
	assert.Equal(t, order, frozen, "a revision is ordered as it was frozen")
	assert.NotEqual(t, order, sheet(wire.BOMSheet{Form: bom.FormPurchase}))
	assert.Equal(t, "Sum for 20 boards", func() string {
		s := sheet(wire.BOMSheet{Form: bom.FormPurchase, Revision: 1, Boards: 20})
		return s[len(s)-1][0]
	}())
	assert.Len(t, sheet(wire.BOMSheet{Form: bom.FormAssembly}), 9)
	assert.Len(t, sheet(wire.BOMSheet{Form: bom.FormNumbers, Revision: 1}), 5)
	for form, revision := range map[string]int{bom.FormPurchase: 1, bom.FormLines: 0, bom.FormWritten: 0, bom.FormAssembly: 1, bom.FormNumbers: 0} { // the same as records
		table := sheet(wire.BOMSheet{Form: form, Revision: revision})
		var out bytes.Buffer
		require.NoError(t, h.BOMs.Sheet(t.Context(), h.Me, wire.BOMSheet{BOM: b.ID, Form: form, Revision: revision, Format: "json"}, &out))
		d := json.NewDecoder(&out)
		d.UseNumber()
		var all []map[string]any
		require.NoError(t, d.Decode(&all), form)
		require.Len(t, all, len(table)-1)
		for r, row := range table[1:] {
			for i, cell := range row {
				name := table[0][i]
				if cell == "" || name == "" {
					continue
				}
				assert.Equal(t, strings.TrimPrefix(cell, "'"), fmt.Sprint(all[r][name]), "%s: %s", form, name)
			}
		}
	}
	name, err := h.BOMs.SheetName(t.Context(), h.Me, wire.BOMSheet{BOM: "board a", Revision: 1, Form: "purchase", Format: "xlsx"})
	require.NoError(t, err)
	assert.Equal(t, "Board A revision 1 purchase 2026-11-29.xlsx", name)
	for says, in := range map[string]wire.BOMSheet{"form-unknown": {Form: "poem", Format: "csv"}, "format-unknown": {Form: "lines", Format: "doc"}, "form-of-draft": {Form: "written", Revision: 1, Format: "csv"}, "no-revision": {Form: "assembly", Revision: 9, Format: "csv"}} {
		in.BOM = b.ID
		housetest.Fails(t, h.BOMs.Sheet(t.Context(), h.Me, in, &bytes.Buffer{}), says)
	}
}

func tableOf(t *testing.T, table [][]string) string {
	var out strings.Builder
	require.NoError(t, csv.NewWriter(&out).WriteAll(table))
	return out.String()
}
