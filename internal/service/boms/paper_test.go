package boms_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/bom"
	"jollydrawer/formats/pdf"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// sheetOf is a sheet as it is saved.
func sheetOf(t *testing.T, h housetest.House, in wire.BOMSheet) []byte {
	t.Helper()
	var out bytes.Buffer
	require.NoError(t, h.BOMs.Sheet(t.Context(), h.Me, in, &out))
	return out.Bytes()
}

// bring brings a file in that came out before.
func bring(t *testing.T, h housetest.House, name string, raw []byte, layout rows.Layout) wire.BOM {
	t.Helper()
	f, err := h.Files.Keep(t.Context(), h.Me, name+".xml", bytes.NewReader(raw))
	require.NoError(t, err)
	b, err := h.BOMs.Bring(t.Context(), h.Me, wire.NewBOM{Name: name, FileHash: f.Hash, FileName: f.Name, Layout: layout})
	require.NoError(t, err)
	return b
}

// A BOM goes out as IPC-2581 and comes in again as what it was: the same parts at the same places, in each variant.
func TestABOMGoesThroughIPC2581(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Lamp", lamp+"\"R8,R9\",68k,,yes,yes\nR10,10k,NOBODY-7,no,no\n,\"label, 2 languages\",,yes,yes\n")
	b, err := h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 8, None: true, Reason: "a label"}}})
	require.NoError(t, err)
	says := func(b wire.BOM) map[string]string {
		out := map[string]string{}
		for _, l := range b.Lines {
			part := l.Verdict
			if l.Part != nil {
				part += " " + l.Part.Number
			}
			for _, d := range l.Designators {
				if l.Verdict != "not fitted" || out[d] == "" {
					out[d] = strings.Replace(part, "not fitted ", "not fitted", 1)
				}
			}
		}
		return out
	}
	raw := sheetOf(t, h, wire.BOMSheet{BOM: b.ID, Form: bom.FormLines, Format: "xml"})
	for i, variant := range []string{"Harbour", "Open sea"} {
		of, err := h.BOMs.GetOf(t.Context(), h.Me, b.ID, variant)
		require.NoError(t, err)
		want := says(of)
		again := bring(t, h, "Again "+variant, raw, rows.Layout{Sheet: variant})
		got := says(again)
		for d, w := range want {
			assert.Equal(t, strings.Fields(w)[0], strings.Fields(got[d])[0], "%s in %s", d, variant)
			if strings.HasPrefix(w, "linked") {
				assert.Equal(t, w, got[d], "%s in %s", d, variant)
			}
		}
		assert.Len(t, got, len(want))
		assert.Equal(t, []string{"Harbour", "Open sea"}, again.Layout.Sheets)
		one := bring(t, h, "One "+variant, sheetOf(t, h, wire.BOMSheet{BOM: b.ID, Variant: variant, Form: bom.FormLines, Format: "xml"}), rows.Layout{})
		assert.Equal(t, got, says(one), i)
	}
	var out bytes.Buffer
	err = h.BOMs.Sheet(t.Context(), h.Me, wire.BOMSheet{BOM: b.ID, Form: bom.FormPurchase, Format: "xml"}, &out)
	assert.Equal(t, "form-of-bill", typed(t, err))
}

func TestABOMGoesOnPaper(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Lamp", lamp)
	name := "Harbour"
	b, err := h.BOMs.SetBuild(t.Context(), h.Me, b.ID, b.Version, wire.BOMBuild{Boards: 10, Variant: &name})
	require.NoError(t, err)
	b, err = h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "for the meeting"})
	require.NoError(t, err)
	text := func(in wire.BOMSheet) string {
		in.BOM, in.Format = b.ID, "pdf"
		pages, err := pdf.Text(t.Context(), bytes.NewReader(sheetOf(t, h, in)))
		require.NoError(t, err)
		return strings.Join(strings.Fields(strings.Join(pages, " ")), " ")
	}
	f, err := h.BOMs.Revision(t.Context(), h.Me, b.ID, 1)
	require.NoError(t, err)
	for want, in := range map[string]wire.BOMSheet{
		"Lamp as it is now, for review":                  {Form: bom.FormLines},
		"R3 (Open sea) 1 " + b.Lines[2].Part.Number:      {Form: bom.FormLines, Revision: 1},
		"for the meeting":                                {Form: bom.FormAssembly, Revision: 1},
		"content " + f.Hash[:20]:                         {Form: bom.FormNumbers, Revision: 1},
		"Sum for 10":                                     {Form: bom.FormPurchase, Revision: 1},
		"Lamp, variant Open sea, assembly list lamp.csv": {Form: bom.FormAssembly, Variant: "open sea"},
		"R4 0 " + b.Lines[3].Part.Number:                 {Form: bom.FormLines, Variant: "Harbour"},
	} {
		assert.Contains(t, strings.ReplaceAll(text(in), "Lamp.csv", "lamp.csv"), want, "%+v", in)
	}
}
