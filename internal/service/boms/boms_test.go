package boms_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/bom"
	"jollydrawer/core/document"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestABOMIsExportedWithLinkedLinesOnly(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("4k7", "TW-4K7"))
	f, err := h.Files.Keep(t.Context(), h.Me, "bom.csv", strings.NewReader("Ref,Qty,Value,Package,MPN\n\"R1,R2\",2,4k7,0805,TW 4K7\nR3,1,4k7,0805,\nR4,1,=1+1,,\n"))
	require.NoError(t, err)
	b, err := h.BOMs.Bring(t.Context(), h.Me, wire.NewBOM{Name: "Board A", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	assert.Equal(t, map[string]int{"linked": 1, "proposed": 1, "several": 0, "not in the library": 1, "no library part": 0, "sub-assembly": 0, "another BOM": 0, "not fitted": 0}, b.Counts)
	export := func() [][]string {
		var out bytes.Buffer
		require.NoError(t, h.BOMs.Sheet(t.Context(), h.Me, wire.BOMSheet{BOM: "board a", Form: "lines", Format: "csv"}, &out))
		all, err := csv.NewReader(&out).ReadAll()
		require.NoError(t, err)
		return all
	}
	table := export()
	assert.Equal(t, p.Number, table[1][4])
	assert.Empty(t, table[2][4], "a proposal nobody accepted is not ordered from")
	at := slices.Index(table[0], "Value (as written)")
	assert.Equal(t, "'=1+1", table[3][at], "no cell runs as a formula")
	assert.Equal(t, "TW 4K7", table[1][slices.Index(table[0], "MPN (as written)")], "all that came in is kept")
	_, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 99, Part: p.ID}, {Row: 3, Part: deed.NewID().String()}}})
	assert.Len(t, housetest.Fails(t, err, "choices-wrong").Places, 2)
	b, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 3, Part: p.ID}}})
	require.NoError(t, err)
	assert.Equal(t, p.Number, export()[2][4])
	_, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version-1, wire.BOMChoices{Withdraw: []int{3}})
	housetest.Fails(t, err, "changed-meanwhile")
	_, err = h.BOMs.Bring(t.Context(), h.Me, wire.NewBOM{Name: "BOARD A", FileHash: f.Hash, FileName: f.Name})
	housetest.Fails(t, err, "name-taken")
}

func TestAContradictedRecordIsAcceptedByNameWithAReasonAndStaysMarked(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("4k7", "TW-4K7-A"))
	b := h.Board(t, "Board A", "Ref,Qty,Value,MPN\nR1,1,5k1,TW-4K7-A\nR2,1,4k7,TW-4K7-A\n")
	require.Equal(t, "proposed", b.Lines[0].Verdict)
	require.True(t, b.Lines[0].Contradicted)
	assert.Contains(t, b.Lines[0].Tally, bom.Beside{Column: "Value", To: 3, Text: "5k1", Says: bom.Contradicts, Param: "resistance", Record: "4.7 kΩ"})
	require.Equal(t, "linked", b.Lines[1].Verdict)
	_, err := h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.ID}}})
	assert.Contains(t, housetest.Fails(t, err, "choices-wrong").Places[0].Message, "say why it is meant all the same")
	b, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.ID, Reason: "changed on the bench"}}})
	require.NoError(t, err)
	l := b.Lines[0]
	assert.Equal(t, []any{"linked", true, true, "changed on the bench"}, []any{l.Verdict, l.Chosen, l.Contradicted, l.Reason})
	assert.Equal(t, "value", l.Findings[0].Cause, "it stays marked")
}

func TestAChoiceComesUpAgainWhenTheRecordSaysSomethingElse(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("4k7", "TW-4K7-A"))
	b := h.Board(t, "Board A", "Ref,Qty,Value\nR1,1,4k7\n")
	b, err := h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.ID}}})
	require.NoError(t, err)
	require.Equal(t, "linked", b.Lines[0].Verdict)
	_, err = h.Parts.Save(t.Context(), h.Me, p.Number, p.Version, housetest.Resistor("5k1", "TW-4K7-A"))
	require.NoError(t, err)
	b, err = h.BOMs.Get(t.Context(), h.Me, b.ID)
	require.NoError(t, err)
	assert.Equal(t, "proposed", b.Lines[0].Verdict)
	assert.Equal(t, "choice-open", b.Lines[0].Findings[0].Cause)
}

func TestChoicesOfTheOldFormAreCarriedOver(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("4k7", "TW-4K7-A"))
	b := h.Board(t, "Board A", "Ref,Qty,Value\nR1,1,10k\nR2,1,10k\n")
	// The document as the last version wrote it: choices by row.
	head, err := h.Store.Read(t.Context()).HeadByNumber(store.KindBOM, "Board A")
	require.NoError(t, err)
	rewrite(t, h, head, "jolly-bom/1", func(doc map[string]any) {
		doc["choices"] = map[string]any{"3": map[string]any{"part": p.ID, "by": "Maren"}}
	})
	b, err = h.BOMs.Get(t.Context(), h.Me, b.ID)
	require.NoError(t, err)
	assert.False(t, b.Lines[0].Chosen)
	assert.True(t, b.Lines[1].Chosen)
	b, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Withdraw: []int{3}})
	require.NoError(t, err)
	assert.False(t, b.Lines[1].Chosen)
}

func TestWhatAPersonSaysOfColumnsHoldsForFilesWithTheSameHeadings(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("4k7", "TW-4K7-A"))
	text := "Ref,Stock id,Wert,Zzz\nR1," + p.Number + ",4k7,\n"
	b := h.Board(t, "Board A", strings.Replace(text, p.Number, "TW-4K7-A", 1))
	assert.Empty(t, b.Confirmed)
	assert.Equal(t, bom.Value, b.Columns[2].Role, "the heading is German")
	assert.Equal(t, bom.NotUsed, b.Columns[3].Meaning)
	_, err := h.BOMs.SayColumns(t.Context(), h.Me, b.ID, wire.BOMColumns{Columns: []wire.BOMColumn{{At: 9, Role: bom.Value}, {At: 1, Role: "nonsense"}, {At: 2, Role: bom.Fact, Param: "nothing"}}})
	assert.Len(t, housetest.Fails(t, err, "columns-wrong").Places, 3)
	_, err = h.BOMs.SayColumns(t.Context(), h.Me, b.ID, wire.BOMColumns{Columns: []wire.BOMColumn{{At: 0, Role: bom.Remark}}})
	housetest.Fails(t, err, "no-designators")
	b, err = h.BOMs.SayColumns(t.Context(), h.Me, b.ID, wire.BOMColumns{Columns: []wire.BOMColumn{{At: 1, Role: bom.MPN}}})
	require.NoError(t, err)
	assert.Equal(t, "linked", b.Lines[0].Verdict)
	other := h.Board(t, "Board B", strings.Replace(text, p.Number, "TW-4K7-A", 1))
	assert.Equal(t, b.Confirmed, other.Confirmed)
	assert.NotEmpty(t, other.Confirmed)
	assert.Equal(t, "linked", other.Lines[0].Verdict, "said once for all files with these headings")
	assert.NotEmpty(t, h.Board(t, "Board C", "Ref,Stock id,Wert\nR1,x,4k7\n").Columns)
}

func TestAConfirmedEndingHoldsForAllBOMsOfTheMaker(t *testing.T) {
	h := housetest.Open(t)
	h.Make(housetest.Resistor("4k7", "TW-4K7-A"))
	b := h.Board(t, "Board A", "Ref,Qty,Value,MPN\nR1,1,4k7,TW-4K7-A/TR\n")
	require.Equal(t, "proposed", b.Lines[0].Verdict)
	ask := b.Lines[0].Ending
	require.NotNil(t, ask)
	engineer := h.Me
	engineer.Actor.Role = deed.Engineer
	_, err := h.BOMs.SayEnding(t.Context(), engineer, wire.MPNEnding{Maker: ask.Maker, Ending: ask.Letters})
	housetest.Fails(t, err, "not-allowed")
	for _, wrong := range []wire.MPNEnding{{Ending: "TR"}, {Maker: "Tidewright"}, {Maker: "Tidewright", Ending: "-/"}, {Maker: "Tidewright", Ending: "TR123"}} {
		_, err = h.BOMs.SayEnding(t.Context(), h.Me, wrong)
		require.Error(t, err)
	}

	for _, maker := range []string{strings.Repeat("Maker", 40), "Mühle", "Muhle", "😀 & Co", "'; DROP TABLE heads; --"} {
		_, err = h.BOMs.SayEnding(t.Context(), h.Me, wire.MPNEnding{Maker: maker, Ending: "TR"})
		require.NoError(t, err, maker)
	}

	said := make(chan error)
	letters := []string{ask.Letters, "R", "T7", "REEL", "B", "CT"}
	for _, l := range letters {
		go func() {
			_, err := h.BOMs.SayEnding(t.Context(), h.Me, wire.MPNEnding{Maker: ask.Maker, Ending: l})
			said <- err
		}()
	}
	for range letters {
		require.NoError(t, <-said)
	}
	all, err := h.BOMs.Endings(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Len(t, all.Items, 5+len(letters), "what several say at once is all kept")

	b = h.Board(t, "Board B", "Ref,Qty,Value,MPN\nR1,1,4k7,TW-4K7-A-TR\nR2,1,5k1,TW-4K7-A-TR\n")
	assert.Equal(t, "linked", b.Lines[0].Verdict)
	assert.Equal(t, "proposed", b.Lines[1].Verdict, "the value still speaks against it")
	_, err = h.BOMs.SayEnding(t.Context(), h.Me, wire.MPNEnding{Maker: ask.Maker, Ending: "tr", Withdraw: true})
	require.NoError(t, err)
	b, err = h.BOMs.Get(t.Context(), h.Me, "Board A")
	require.NoError(t, err)
	assert.Equal(t, "proposed", b.Lines[0].Verdict)
}

func TestSeveralWhoConfirmTheSameColumnsAtOnce(t *testing.T) {
	h := housetest.Open(t)
	b := h.Board(t, "Board A", "Ref,Qty,Value,Our code\nR1,1,4k7,1022\n")
	said := make(chan error)
	for range 6 {
		go func() {
			_, err := h.BOMs.SayColumns(t.Context(), h.Me, b.ID, wire.BOMColumns{Columns: []wire.BOMColumn{{At: 3, Role: bom.Number}}})
			said <- err
		}()
	}
	for range 6 {
		assert.NoError(t, <-said)
	}
}

// rewrite puts the content of a head as an earlier version of the program wrote it.
func rewrite(t *testing.T, h housetest.House, head store.Head, format string, change func(doc map[string]any)) {
	t.Helper()
	c, err := h.Store.Read(t.Context()).Content(head.Draft)
	require.NoError(t, err)
	doc := map[string]any{}
	require.NoError(t, json.Unmarshal(c.Bytes, &doc))
	change(doc)
	raw, hash, err := document.Canonical(doc)
	require.NoError(t, err)
	_, err = h.Store.Do(t.Context(), store.Deed{ID: store.NewID(), Kind: "bom.edit", At: store.Stamp(time.Now())}, func(tx *store.Tx) (any, error) {
		c := store.Content{ID: store.NewID(), Head: head.ID, Hash: store.Hash(hash), Format: format, Bytes: raw}
		head.Draft = c.ID
		if err := tx.AddContent(&c); err != nil {
			return nil, err
		}
		return nil, tx.Update(&head, "as the last version wrote it", nil)
	})
	require.NoError(t, err)
}

// A BOM that was never frozen can be removed: it is in no list and no answer any more, and its name is free; one that was frozen stays.
func TestABOMIsRemoved(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Board A", "Ref,Qty,MPN\nR1,1,TW-1\nR2,1,TW-2\n")
	part := b.Lines[0].Part
	b, err := h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: part.ID}}})
	require.NoError(t, err)
	_, err = h.BOMs.Remove(t.Context(), h.As("rita", deed.Reader), b.ID, b.Version)
	assert.Equal(t, "not-allowed", typed(t, err))
	_, err = h.BOMs.Remove(t.Context(), h.Me, b.ID, b.Version-1)
	assert.Equal(t, "changed-meanwhile", typed(t, err))
	gone, err := h.BOMs.Remove(t.Context(), h.Me, b.ID, b.Version)
	require.NoError(t, err)
	assert.Equal(t, wire.RemovedBOM{Name: "Board A", Decisions: 1}, gone)
	_, err = h.BOMs.Get(t.Context(), h.Me, b.ID)
	assert.ErrorContains(t, err, "no")
	all, err := h.BOMs.List(t.Context(), h.Me, 0, 10)
	require.NoError(t, err)
	assert.Empty(t, all.Items)
	used, err := h.BOMs.WhereUsed(t.Context(), h.Me, wire.UsedAsked{Part: part.Number})
	require.NoError(t, err)
	assert.Empty(t, used.Items[0].Boards)
	again := h.Board(t, "Board A", "Ref,Qty,MPN\nR1,1,TW-1\n")
	_, err = h.BOMs.Remove(t.Context(), h.Me, again.ID, again.Version)
	require.NoError(t, err, "twice the same name")
	kept := h.Board(t, "Board A", "Ref,Qty,MPN\nR1,1,TW-1\n")
	kept, err = h.BOMs.Freeze(t.Context(), h.Me, kept.ID, kept.Version, wire.FreezeBOM{Note: "first"})
	require.NoError(t, err)
	_, err = h.BOMs.Remove(t.Context(), h.Me, kept.ID, kept.Version)
	assert.Equal(t, "bom-frozen", typed(t, err))
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}
