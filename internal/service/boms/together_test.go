package boms_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// variantFiles keeps a file of each variant: name, file name, text.
func variantFiles(t *testing.T, h housetest.House, all ...[3]string) (out []wire.VariantFile) {
	t.Helper()
	for _, f := range all {
		kept, err := h.Files.Keep(t.Context(), h.Me, f[1], strings.NewReader(f[2]))
		require.NoError(t, err)
		out = append(out, wire.VariantFile{Variant: f[0], FileHash: kept.Hash, FileName: f[1]})
	}
	return out
}

const (
	eastFile = "Mast board;;;\nRef;Qty;Value;MPN\nR1, R2;2;4k7;TW-1\nR3;1;10k;TW-2\nA1;1;as drawn;\nTotal;4;;\n"
	westFile = "MPN,Ref,Value,Qty\nTW-1,\"R1,R2\",4k7,2\nTW-3,R3,33k,1\n,A1,as drawn,1\n"
)

func TestABoardIsPutTogetherOfTheFilesOfItsVariants(t *testing.T) {
	h := market(t)
	files := variantFiles(t, h, [3]string{"with radio", "mast-radio.csv", eastFile}, [3]string{"without radio", "mast-plain.csv", westFile})
	b, err := h.BOMs.Bring(t.Context(), h.Me, wire.NewBOM{Name: "Mast", Files: files})
	require.NoError(t, err)
	assert.Equal(t, []string{"with radio", "without radio"}, b.Variants)
	assert.Equal(t, "mast-radio.csv + mast-plain.csv", b.FileName)
	assert.Equal(t, []string{"mast-radio.csv", "mast-plain.csv"}, []string{b.Files[0].FileName, b.Files[1].FileName})
	require.NotEmpty(t, b.Skipped)
	assert.Contains(t, b.Skipped[0].Why, "mast-radio.csv: ", "what was passed over in a file is said")
	var lines []string
	for _, l := range b.Lines {
		lines = append(lines, strings.Join(l.Designators, " ")+" "+l.MPN+" "+l.Verdict+" ["+strings.Join(l.In, ", ")+"]")
	}
	assert.Equal(t, []string{"R1 R2 TW-1 linked []", "R3 TW-2 linked [with radio]", "A1  not in the library []", "R3 TW-3 linked [without radio]"}, lines)

	// what all variants have in common is decided once, and counts in each
	b, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: b.Lines[2].Row, None: true, Reason: "an antenna"}}})
	require.NoError(t, err)
	for variant, want := range map[string]map[string]int64{"with radio": {"TW-1": 20, "TW-2": 10, "": 10}, "without radio": {"TW-1": 20, "TW-3": 10, "": 10}} {
		c, err := h.BOMs.Cost(t.Context(), h.Me, wire.BOMAt{BOM: "mast", Variant: variant}, 10, nil)
		require.NoError(t, err)
		took := map[string]int64{}
		for _, x := range c.Bought {
			took[x.MPN] += x.Takes
		}
		for _, x := range c.Unbought {
			took[x.MPN] += x.Takes
		}
		assert.Equal(t, want, took, variant)
	}
	var sheet bytes.Buffer
	require.NoError(t, h.BOMs.Sheet(t.Context(), h.Me, wire.BOMSheet{BOM: "mast", Form: "written", Format: "csv", Variant: "without radio"}, &sheet))
	assert.Contains(t, sheet.String(), "In with radio")
	assert.Contains(t, sheet.String(), "R3,1,10k,TW-2,fitted,not fitted,,,,,\n", "a row of the other variant has no record in this one")
	b = frozen(t, h, b)

	// other files of the same board: what was decided holds
	files = variantFiles(t, h, [3]string{"with radio", "mast-radio.csv", eastFile}, [3]string{"without radio", "mast-plain.csv", strings.ReplaceAll(westFile, "TW-3,R3,33k,1\n", "")}, [3]string{"spare", "mast-spare.csv", "Ref,Qty,Value,MPN\nA1,1,as drawn,\nR1,1,4k7,TW-1\n"})
	b, err = h.BOMs.SetFile(t.Context(), h.Me, b.ID, b.Version, wire.BOMFile{Files: files})
	require.NoError(t, err)
	lines = nil
	for _, l := range b.Lines {
		lines = append(lines, strings.Join(l.Designators, " ")+" "+l.Verdict+" ["+strings.Join(l.In, ", ")+"]")
	}
	assert.Equal(t, []string{"R1 linked []", "R2 linked [with radio, without radio]", "R3 linked [with radio]", "A1 no library part []"}, lines)
	cmp, err := h.BOMs.Compare(t.Context(), h.Me, wire.BOMAt{BOM: "mast", Revision: 1}, wire.BOMAt{BOM: "mast"})
	require.NoError(t, err)
	said := map[string]string{}
	for _, x := range cmp.Changes {
		said[strings.Join(x.Designators, " ")] += strings.Join(x.What, "+")
	}
	assert.Equal(t, map[string]string{"R2": "variant", "R3": "removed"}, said, "in which variants R2 is, and 33k at R3")
	b, err = h.BOMs.SetFile(t.Context(), h.Me, b.ID, b.Version, wire.BOMFile{FileHash: files[0].FileHash, FileName: "mast.csv"})
	require.NoError(t, err)
	assert.Equal(t, []any{0, 0, 3}, []any{len(b.Variants), len(b.Files), len(b.Lines)}, "one file again")

	found, err := h.BOMs.Check(t.Context(), h.Me, wire.CheckBOM{Files: files, Variant: "spare"})
	require.NoError(t, err)
	assert.Equal(t, []any{[]string{"with radio", "without radio", "spare"}, "spare"}, []any{found.Variants, found.Shown})
}

func TestFilesOfVariantsThatAreRefused(t *testing.T) {
	h := market(t)
	files := variantFiles(t, h, [3]string{"East", "east.csv", eastFile}, [3]string{"West", "west.csv", westFile}, [3]string{"None", "none.csv", "A,B\n1,2\n3,4\n"})
	east, west, none := files[0], files[1], files[2]
	again := west
	again.Variant = "EAST"
	for _, c := range []struct {
		in         wire.NewBOM
		kind, says string
	}{
		{wire.NewBOM{}, "file-missing", "No file is named"},
		{wire.NewBOM{FileHash: east.FileHash, FileName: "x.csv", Files: files[:2]}, "file-twice", "not both"},
		{wire.NewBOM{Files: files[:1]}, "not-together", "2 to 24 variants"},
		{wire.NewBOM{Files: []wire.VariantFile{east, again}}, "not-together", "both of the variant EAST"},
		{wire.NewBOM{Files: []wire.VariantFile{east, none}}, "no-designators", "none.csv: The BOM was not read"},
		{wire.NewBOM{Files: []wire.VariantFile{east, {Variant: "West", FileName: "gone.csv", FileHash: strings.Repeat("ab", 32)}}}, "file-missing", "There is no such file"},
	} {
		c.in.Name = "Mast"
		_, err := h.BOMs.Bring(t.Context(), h.Me, c.in)
		housetest.Fails(t, err, c.kind)
		assert.ErrorContains(t, err, c.says)
	}
	_, err := h.BOMs.Get(t.Context(), h.Me, "mast")
	housetest.Fails(t, err, "not-found")
}
