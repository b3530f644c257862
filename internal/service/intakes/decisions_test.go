package intakes_test

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/core/measure/measuretest"
	"jollydrawer/formats/formatstest"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// decisions are all that stand in an intake, by what they are about and how they stand.
func decisions(t *testing.T, h housetest.House, i wire.Intake, fate string) []wire.Decision {
	t.Helper()
	l, err := h.Intakes.Decisions(t.Context(), h.Me, housetest.ID(t, i.ID), fate, 0, 500)
	require.NoError(t, err)
	require.Len(t, l.Items, l.Page.Total)
	return l.Items
}

func TestDecisionsHoldForTheNextFile(t *testing.T) {
	h := housetest.Open(t)
	first := h.Listed("R;Tidewright;P-1;471;1%;0805;\nR;Tidewright;P-2;8k2;9%;0805;\nX;Tidewright;P-3;1k;1%;0805;\nR;Tidewright;P-4;2k;1%;0805;\nR;Tidewright;P-5;odd;1%;0805;\n")
	first = h.EditIntake(first, wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 2, Field: "Value", Text: "470 pF", Why: "typed in haste"}}})
	first = h.EditIntake(first, wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 2, Field: "Value", Text: "470 Ohm", Why: "as the label says"}}})
	first = h.EditIntake(first, wire.IntakeEdit{Rows: []int{4}, Drawer: "chip-resistors"})
	first = h.EditIntake(first, wire.IntakeEdit{LeaveOut: []int{5}})
	odd := causeOf(t, first, "odd")
	first = h.EditIntake(first, wire.IntakeEdit{Waive: &wire.WaiveEdit{Cause: odd.Cause.Cause, Why: "asked the maker"}})
	require.Len(t, first.Waived, 1)
	assert.Equal(t, 4, first.Decisions["holds"], "a later decision about the same cell takes the place of the earlier one")
	before := rowsOf(t, h, first)
	h.TakeIn(first)

	second := h.Listed("R;Tidewright;P-9;3k;1%;0805;\nR;Tidewright;P-5;odd;1%;0805;\nR;Tidewright;P-4;2k;1%;0805;\nX;Tidewright;P-3;1k;1%;0805;\nR;Tidewright;P-1;471;1%;0805;\nR;Tidewright;P-2;8k2;9%;0805;\n")
	assert.Equal(t, 4, second.Decisions["holds"])
	after := rowsOf(t, h, second)
	for _, pair := range [][2]int{{2, 6}, {4, 5}, {5, 4}} {
		was, now := before[pair[0]], after[pair[1]]
		for key, v := range was {
			if key != "state" {
				assert.Equal(t, v, now[key], "row %d: %s", pair[1], key)
			}
		}
	}
	assert.Equal(t, "left out", after[4]["state"])
	assert.Equal(t, "known", after[6]["state"], "what was settled is what the library has")
	assert.False(t, slices.ContainsFunc(second.Causes, func(c wire.Cause) bool { return c.Cause.Cause == odd.Cause.Cause && c.Count > 0 }), "what was accepted is accepted still")

	row, err := h.Intakes.Row(t.Context(), h.Me, housetest.ID(t, second.ID), 6)
	require.NoError(t, err)
	at := slices.IndexFunc(row.Cells, func(c wire.Cell) bool { return c.Field == "Value" })
	assert.Equal(t, "471", row.Cells[at].Text, "the file keeps what it said")
	assert.Contains(t, row.Cells[at].By, "in IN-00001: as the label says")
	assert.Contains(t, row.Origins["resistance"], `which said "471"`)

	list := decisions(t, h, second, "holds")
	cell := list[slices.IndexFunc(list, func(d wire.Decision) bool { return d.Kind == "cell" })]
	assert.Equal(t, map[string]string{"MPN": "P-1", "Maker": "Tidewright"}, cell.About)
	assert.Equal(t, []int{6}, cell.Rows)
	second = h.EditIntake(second, wire.IntakeEdit{Withdraw: []string{cell.ID}})
	assert.Equal(t, 3, second.Decisions["holds"])
	third := h.Listed("R;Tidewright;P-1;471;1%;0805;\nX;Tidewright;P-3;1k;1%;0805;\n")
	assert.Equal(t, map[string]int{"holds": 1}, third.Decisions, "what was taken back holds no longer, and rows that are not there say nothing")

	all, err := h.Intakes.AllDecisions(t.Context(), h.Me, "Pier stock", true, 0, 10)
	require.NoError(t, err)
	require.Len(t, all.Items, 4)
	gone := all.Items[slices.IndexFunc(all.Items, func(d wire.Decision) bool { return d.ID == cell.ID })]
	assert.Contains(t, gone.Withdrawn, "Administrator on ")
	drawer := all.Items[slices.IndexFunc(all.Items, func(d wire.Decision) bool { return d.Kind == "drawer" })]
	n, err := h.Intakes.WithdrawDecisions(t.Context(), h.Me, wire.WithdrawDecisions{IDs: []string{drawer.ID, cell.ID, strings.Repeat("0", 64)}})
	require.NoError(t, err)
	assert.Equal(t, 1, n.Decisions)
	held := decisions(t, h, second, "holds")
	at = slices.IndexFunc(held, func(d wire.Decision) bool { return d.ID == drawer.ID })
	require.GreaterOrEqual(t, at, 0, "an intake that is open keeps what it holds")
	assert.Contains(t, held[at].Withdrawn, "Administrator on ", "and says that it was taken back for later ones")
	assert.Empty(t, h.Listed("X;Tidewright;P-3;1k;1%;0805;\n").Decisions)
	reader := h.As("reader", deed.Reader)
	_, err = h.Intakes.WithdrawDecisions(t.Context(), reader, wire.WithdrawDecisions{IDs: []string{drawer.ID}})
	require.Error(t, err)
}

func causeOf(t *testing.T, i wire.Intake, text string) wire.Cause {
	t.Helper()
	at := slices.IndexFunc(i.Causes, func(c wire.Cause) bool { return slices.Contains(c.Examples, text) })
	require.GreaterOrEqual(t, at, 0, "%+v", i.Causes)
	return i.Causes[at]
}

// planted is one source whose value somebody settled, and what other files say of it later.
type planted struct {
	mpn, wrote, settled, truth string
	wrong                      bool
}

// A hundred wrong decisions and a thousand right ones: of the wrong each comes up when another file, or the supplier's own next one, says what is
// so; of the right none does.
func TestWrongDecisionsComeUp(t *testing.T) {
	h := housetest.Open(t)
	d := &measuretest.Draws{State: 1616}
	var all []planted
	var file strings.Builder
	for n := range 1100 {
		ohms := 100 + d.IntN(9000)
		p := planted{mpn: fmt.Sprintf("P-%d", n), wrote: fmt.Sprintf("%d?", n), truth: fmt.Sprintf("%d Ohm", ohms), wrong: n%11 == 0}
		p.settled = p.truth
		if p.wrong {
			p.settled = fmt.Sprintf("%d Ohm", ohms+1+d.IntN(500))
		} else if d.IntN(3) == 0 {
			p.settled = fmt.Sprintf("%d.%03d kOhm", ohms/1000, ohms%1000) // the same, written otherwise
		}
		all = append(all, p)
		fmt.Fprintf(&file, "R;Tidewright;%s;%s;1%%;0805;\n", p.mpn, p.wrote)
	}
	i := h.Listed(file.String())
	var cells []wire.CellEdit
	for n, p := range all {
		cells = append(cells, wire.CellEdit{Row: n + 2, Field: "Value", Text: p.settled})
	}
	i = h.EditIntake(i, wire.IntakeEdit{Cells: cells})
	require.Equal(t, 1100, i.Decisions["holds"])

	comesUp := func(i wire.Intake, prefix string) map[string]bool {
		out := map[string]bool{}
		for offset := 0; ; offset += 500 {
			l, err := h.Intakes.Rows(t.Context(), h.Me, housetest.ID(t, i.ID), "", "", offset, 500)
			require.NoError(t, err)
			for _, r := range l.Items {
				for _, f := range r.Findings {
					if strings.HasPrefix(f.Cause, prefix) {
						out[r.MPN] = true
					}
				}
			}
			if offset+500 >= l.Page.Total {
				return out
			}
		}
	}
	check := func(what string, up map[string]bool, shown func(n int) bool) {
		wrong, right := 0, 0
		for n, p := range all {
			if !shown(n) {
				continue
			}
			if p.wrong {
				wrong++
				assert.True(t, up[p.mpn], "%s: %s was settled wrongly as %s", what, p.mpn, p.settled)
			} else {
				right++
				assert.False(t, up[p.mpn], "%s: %s was settled rightly as %s", what, p.mpn, p.settled)
			}
		}
		assert.NotZero(t, wrong*right, what)
	}
	// Another supplier's file, while the first is open and after it was taken in: half of the sources each, in another order.
	_, err := h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, 0, "format: jolly-crosswalk/1\nsupplier: Marsh Lane\ntake: {manufacturer: Brand, mpn: Part}\ndrawer: chip-resistors\nfields: [{from: R, to: resistance}]\n")
	require.NoError(t, err)
	other := func(half int) wire.Intake {
		var text strings.Builder
		text.WriteString("Part;Brand;R\n")
		for n := len(all) - 1; n >= 0; n-- {
			if n%2 == half {
				fmt.Fprintf(&text, "%s;TIDEWRIGHT;%s\n", strings.ToLower(all[n].mpn), all[n].truth)
			}
		}
		f, err := h.Files.Keep(t.Context(), h.Me, "other.csv", strings.NewReader(text.String()))
		require.NoError(t, err)
		o, err := h.Intakes.Open(t.Context(), h.Me, wire.NewIntake{Supplier: "Marsh Lane", FileHash: f.Hash, FileName: f.Name})
		require.NoError(t, err)
		return o
	}
	upper := func(up map[string]bool) map[string]bool {
		out := map[string]bool{}
		for k := range up {
			out[strings.ToUpper(k)] = true
		}
		return out
	}
	check("another supplier", upper(comesUp(other(0), "against:")), func(n int) bool { return n%2 == 0 })
	h.TakeIn(i)
	h.Level()
	check("another supplier, later", upper(comesUp(other(1), "against:")), func(n int) bool { return n%2 == 1 })

	// The supplier's own next file: cells say what is so, or what they said.
	var next strings.Builder
	for n, p := range all {
		says := p.truth
		if n%2 == 1 {
			says = p.wrote
		}
		fmt.Fprintf(&next, "R;Tidewright;%s;%s;1%%;0805;\n", p.mpn, says)
	}
	again := h.Listed(next.String())
	up := comesUp(again, "decided:")
	for n, p := range all {
		assert.Equal(t, n%2 == 0 && p.settled != p.truth, up[p.mpn], "%s: settled as %s, and the file says what is so", p.mpn, p.settled)
	}
	// What the file says stands; the decisions about it are taken back at once.
	cause := again.Causes[slices.IndexFunc(again.Causes, func(c wire.Cause) bool { return c.Cause.Cause == "decided:Value" })]
	require.True(t, slices.ContainsFunc(cause.Mends, func(m intake.Mend) bool { return m.Decided == "withdraw" }))
	again = h.EditIntake(again, wire.IntakeEdit{Decided: &wire.DecidedEdit{Cause: "decided:Value", As: "withdraw"}})
	assert.Empty(t, comesUp(again, "decided:"))
	assert.Zero(t, again.Decisions["otherwise"])
}

// Decisions are about rows, and not about what a crosswalk makes of them: a better mapping keeps them.
func TestDecisionsOutliveTheMapping(t *testing.T) {
	h := housetest.Open(t)
	f, err := h.Files.Keep(t.Context(), h.Me, "raw.csv", strings.NewReader("Art;Who;Ohms\nA-1;Tidewright;1k\nA-2;Tidewright;2k\nA-1;Kelpline;3k\n"))
	require.NoError(t, err)
	i, err := h.Intakes.Open(t.Context(), h.Me, wire.NewIntake{Supplier: "Quay", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	i = h.EditIntake(i, wire.IntakeEdit{LeaveOut: []int{3}, Rows: []int{2, 4}, Drawer: "chip-resistors"})
	i = h.EditIntake(i, wire.IntakeEdit{Changes: []crosswalk.Change{{Take: map[string]string{"mpn": "Art", "manufacturer": "Who"}}, {Rule: &crosswalk.Rule{From: "Ohms", To: "resistance"}}}})
	assert.Equal(t, map[string]int{"new": 2, "left out": 1}, nonZero(i.Counts))
	i = h.EditIntake(i, wire.IntakeEdit{TakeBack: []int{3, 4}})
	assert.Equal(t, 1, i.Decisions["holds"])
	rows := rowsOf(t, h, i)
	assert.Equal(t, "chip-resistors", rows[2]["drawer"])
	assert.NotEqual(t, "left out", rows[3]["state"])
}

func nonZero(counts map[string]int) map[string]int {
	out := map[string]int{}
	for k, n := range counts {
		if n > 0 {
			out[k] = n
		}
	}
	return out
}

// A board that contradicts what somebody settled brings it up on its line; one that agrees says nothing of it.
func TestBoardsBringUpWrongDecisions(t *testing.T) {
	h := housetest.Open(t)
	d := &measuretest.Draws{State: 77}
	var file, board strings.Builder
	board.WriteString("Ref,Qty,MPN,Maker,Value,Package\n")
	var cells []wire.CellEdit
	wrong := map[string]bool{}
	for n := range 110 {
		mpn, ohms := fmt.Sprintf("B%dX", n), 100+d.IntN(9000)
		settled := ohms
		if n%11 == 0 {
			settled, wrong[mpn] = ohms+1+d.IntN(500), true
		}
		fmt.Fprintf(&file, "R;Tidewright;%s;?%d;1%%;0805;\n", mpn, n)
		cells = append(cells, wire.CellEdit{Row: n + 2, Field: "Value", Text: fmt.Sprintf("%d Ohm", settled)})
		fmt.Fprintf(&board, "R%d,1,%s,Tidewright,%d Ohm,0805\n", n+1, mpn, ohms)
	}
	i := h.EditIntake(h.Listed(file.String()), wire.IntakeEdit{Cells: cells})
	h.TakeIn(i)
	h.Level()
	up := map[string]bool{}
	for _, l := range h.Board(t, "Tide gauge", board.String()).Lines {
		for _, f := range l.Findings {
			if f.Cause == "against-settled:resistance" {
				up[l.MPN] = true
				assert.Contains(t, f.What, "because Administrator settled it so on ")
				assert.Contains(t, f.What, "in IN-00001, where the file said Value \"?")
			}
		}
	}
	assert.Equal(t, wrong, up)
}

// A datasheet's text is laid beside the rows that name it: a file about other parts, and a line that says another value, are findings.
func TestDatasheetsAreReadBesideTheirRows(t *testing.T) {
	h := housetest.Open(t)
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, raw := range map[string][]byte{
		"list.csv":        []byte(housetest.ListHead + "R;Tidewright;TWA1-4K7;4k7;1%;0805;sheets/twa.pdf\nR;Tidewright;TWA1-8K2;82k;1%;0805;sheets/twa.pdf\nR;Tidewright;QX-1;1k;1%;0805;sheets/twa.pdf\nR;Tidewright;QX-2;2k;1%;0805;sheets/scan.pdf\n"),
		"sheets/twa.pdf":  formatstest.PDF([]string{"Tidewright TWA series", "TWA1-4K7   4.7 kOhm   1 %", "TWA1-8K2   8.2 kOhm   1 %"}),
		"sheets/scan.pdf": formatstest.PDF(nil),
	} {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write(raw)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	h.Listed("R;Tidewright;P-1;4k7;1%;0805;\n") // makes the crosswalk
	f, err := h.Files.Keep(t.Context(), h.Me, "list.zip", &b)
	require.NoError(t, err)
	i, err := h.Intakes.Open(t.Context(), h.Me, wire.NewIntake{Supplier: "Pier stock", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	j, err := h.Intakes.FetchDatasheets(t.Context(), h.Me, housetest.ID(t, i.ID))
	require.NoError(t, err)
	require.Equal(t, "done", h.Wait(j).State)
	l, err := h.Intakes.Rows(t.Context(), h.Me, housetest.ID(t, i.ID), "", "", 0, 10)
	require.NoError(t, err)
	got := map[string]string{}
	for _, r := range l.Items {
		for _, f := range r.Findings {
			if strings.HasPrefix(f.Cause, "datasheet") {
				got[r.MPN] = f.What
			}
		}
	}
	assert.Equal(t, map[string]string{
		"TWA1-8K2": `Resistance is 82 kΩ, and the line of TWA1-8K2 in twa.pdf says 8.2 kΩ: "TWA1-8K2 8.2 kOhm 1 %"`,
		"QX-1":     "twa.pdf names neither QX-1 nor a series that it begins with",
		"QX-2":     "scan.pdf has no text, as a file that was scanned: it could not be compared with the row",
	}, got)
}

// Several people at two instances decide about one intake at once: each decision that was answered is kept, here and for later files, and taking
// them back at once takes each back once.
func TestDecidingAtOnceLosesNothing(t *testing.T) {
	h := housetest.Open(t)
	var file strings.Builder
	const people, each = 4, 6
	for n := range people * each {
		fmt.Fprintf(&file, "R;Tidewright;D%dX;?;1%%;0805;\n", n)
	}
	i := h.Listed(file.String())
	id := housetest.ID(t, i.ID)
	instances := []housetest.House{h, h.Beside()}
	var group sync.WaitGroup
	for p := range people {
		at := instances[p%2]
		group.Go(func() {
			for n := range each {
				for {
					now, err := at.Intakes.Get(t.Context(), at.Me, id)
					if !assert.NoError(t, err) {
						return
					}
					_, err = at.Intakes.Edit(t.Context(), at.Me, id, now.Version, wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 2 + p*each + n, Field: "Value", Text: fmt.Sprintf("%d Ohm", p*each+n+1)}}})
					var e *deed.Error
					if errors.As(err, &e) && e.Kind == deed.Clash { // somebody else was quicker: look again
						continue
					}
					if !assert.NoError(t, err) {
						return
					}
					break
				}
			}
		})
	}
	group.Wait()
	list := decisions(t, h, h.Listed(file.String()), "holds")
	require.Len(t, list, people*each, "all are remembered for the next file")
	now, err := instances[1].Intakes.Get(t.Context(), h.Me, id)
	require.NoError(t, err)
	assert.Equal(t, people*each, now.Decisions["holds"])
	rows := rowsOf(t, h, now)
	for n := range people * each {
		assert.Equal(t, fmt.Sprintf("%d Ω", n+1), rows[n+2]["resistance"])
	}
	var ids []string
	for _, d := range list {
		ids = append(ids, d.ID)
	}
	var gone atomic.Int64
	for p := range people {
		group.Go(func() {
			w, err := instances[p%2].Intakes.WithdrawDecisions(t.Context(), h.Me, wire.WithdrawDecisions{IDs: ids})
			assert.NoError(t, err)
			gone.Add(int64(w.Decisions))
		})
	}
	group.Wait()
	assert.EqualValues(t, people*each, gone.Load())
	assert.Empty(t, h.Listed(file.String()).Decisions)
}

// Hostile headings and texts are words as any other: decisions about them hold, and nothing answers that it failed.
func TestDecisionsAboutHostileWords(t *testing.T) {
	h := housetest.Open(t)
	long := strings.Repeat("Ä", 3000)
	text := "\"\";MPN;MPN;\"a \"\"quoted\"\" {field}\";=1+1\n" +
		"x;A-1;second;v1;=cmd\ny;" + long + ";;v2;\nz;A-1;third;'; DROP TABLE decisions;--\nw;A-2;;\u202etxe;\n"
	f, err := h.Files.Keep(t.Context(), h.Me, "odd.csv", strings.NewReader(text))
	require.NoError(t, err)
	open := func() wire.Intake {
		i, err := h.Intakes.Open(t.Context(), h.Me, wire.NewIntake{Supplier: "Ödd \u202e house", FileHash: f.Hash, FileName: f.Name})
		require.NoError(t, err)
		return i
	}
	i := open()
	i = h.EditIntake(i, wire.IntakeEdit{Changes: []crosswalk.Change{{Take: map[string]string{"mpn": "MPN"}}}})
	made := 0
	for row := range rowsOf(t, h, i) {
		for _, field := range i.Fields {
			i = h.EditIntake(i, wire.IntakeEdit{Cells: []wire.CellEdit{{Row: row, Field: field, Text: "mended " + field}}})
			made++
		}
	}
	require.NotZero(t, made)
	again := open()
	again = h.EditIntake(again, wire.IntakeEdit{Changes: []crosswalk.Change{{Take: map[string]string{"mpn": "MPN"}}}})
	assert.Equal(t, i.Decisions, again.Decisions)
	for row := range rowsOf(t, h, again) {
		d, err := h.Intakes.Row(t.Context(), h.Me, housetest.ID(t, again.ID), row)
		require.NoError(t, err)
		seen := map[string]bool{}
		for _, c := range d.Cells {
			if !seen[c.Field] {
				assert.Equal(t, "mended "+c.Field, c.Corrected, "row %d, %q", row, c.Field)
			}
			seen[c.Field] = true
		}
	}
}

// The house's own numbers of rows that the library has under another find their parts from then on.
func TestNumbersOfKnownRowsAreKept(t *testing.T) {
	h := housetest.Open(t)
	one, two := h.Make(housetest.Rated("4k7", "N-1")), h.Make(housetest.Rated("8k2", "N-2"))
	i := h.Listed("R;Tidewright;N-1;4k7;1%;0805;JW-1\nR;Tidewright;N-2;8k2;1%;0805;JW-2\nR;Tidewright;N-3;1k;1%;0805;JW-3\n")
	i = h.EditIntake(i, wire.IntakeEdit{Changes: []crosswalk.Change{{Take: map[string]string{"number": "Sheet", "datasheet": ""}}}})
	at := slices.IndexFunc(i.Causes, func(c wire.Cause) bool { return c.Cause.Cause == "former-number" })
	require.GreaterOrEqual(t, at, 0, "%+v", i.Causes)
	assert.Equal(t, 2, i.Causes[at].Count)
	assert.True(t, i.Causes[at].Mends[0].Numbers)
	reader := h.As("reads", deed.Reader)
	_, err := h.Intakes.KeepNumbers(t.Context(), reader, housetest.ID(t, i.ID), wire.KeepNumbers{})
	require.Error(t, err, "who only reads changes no part")
	n, err := h.Intakes.KeepNumbers(t.Context(), h.Me, housetest.ID(t, i.ID), wire.KeepNumbers{Rows: []int{3}})
	require.NoError(t, err)
	assert.Equal(t, 1, n.Numbers)
	n, err = h.Intakes.KeepNumbers(t.Context(), h.Me, housetest.ID(t, i.ID), wire.KeepNumbers{})
	require.NoError(t, err)
	assert.Equal(t, 1, n.Numbers, "what was kept is not kept twice")
	h.Level()
	for number, part := range map[string]wire.Part{"JW-1": one, "JW-2": two} {
		p, err := h.Parts.Get(t.Context(), h.Me, number)
		require.NoError(t, err)
		assert.Equal(t, part.ID, p.ID)
		assert.Equal(t, []string{number}, p.Former)
	}
	now, err := h.Intakes.Get(t.Context(), h.Me, housetest.ID(t, i.ID))
	require.NoError(t, err)
	assert.False(t, slices.ContainsFunc(now.Causes, func(c wire.Cause) bool { return c.Cause.Cause == "former-number" }))
	_, err = h.Intakes.KeepNumbers(t.Context(), h.Me, housetest.ID(t, i.ID), wire.KeepNumbers{})
	require.ErrorContains(t, err, "No row brings a number")
}

// What an earlier version kept by row numbers holds as it did, and with the next edit hangs on words and is remembered.
func TestWhatHungOnRowNumbersIsCarriedOver(t *testing.T) {
	h := housetest.Open(t)
	file := "R;Tidewright;V-1;4?7;1%;0805;\nX;Tidewright;V-2;2k;1%;0805;\nR;Tidewright;V-3;3k;1%;0805;\nR;Tidewright;V-4;odd;1%;0805;\n"
	i := h.Listed(file)
	odd := causeOf(t, i, "odd")
	_, err := h.Store.Do(t.Context(), store.Deed{ID: store.NewID(), Kind: "earlier", At: time.Now().UTC()}, func(tx *store.Tx) (any, error) {
		head, err := tx.HeadAt(store.KindIntake, housetest.ID(t, i.ID), i.Version)
		if err != nil {
			return nil, err
		}
		doc := map[string]any{"supplier": i.Supplier, "fileHash": i.FileHash, "fileName": i.FileName, "layout": map[string]any{}, "edits": map[string]any{"leaveOut": []int{4}, "drawers": map[string]string{"3": "chip-resistors"},
			"cells": map[string]any{"2": map[string]string{"Value": "4k7"}}, "waive": []map[string]any{{"cause": odd.Cause.Cause, "rows": []int{5}, "why": "asked", "who": "Tove"}}}}
		if err := deed.SaveDraft(tx, &head, "jolly-intake/2", doc); err != nil {
			return nil, err
		}
		return nil, tx.Update(&head, "decided", nil)
	})
	require.NoError(t, err)
	h.Level()
	now, err := h.Intakes.Get(t.Context(), h.Me, housetest.ID(t, i.ID))
	require.NoError(t, err)
	before := rowsOf(t, h, now)
	assert.Equal(t, []string{"4.7 kΩ", "chip-resistors", "left out"}, []string{before[2]["resistance"], before[3]["drawer"], before[4]["state"]})
	assert.Empty(t, h.Listed(file).Decisions, "nothing is remembered of it yet")
	now = h.EditIntake(now, wire.IntakeEdit{Known: intake.Fill})
	assert.Equal(t, before, rowsOf(t, h, now))
	assert.Equal(t, 4, now.Decisions["holds"])
	next := h.Listed("R;Tidewright;V-9;9k;1%;0805;\n" + file)
	assert.Equal(t, 4, next.Decisions["holds"])
	for _, d := range decisions(t, h, next, "") {
		assert.Equal(t, map[bool]string{true: "Tove"}[d.Kind == "accepted"], d.By, "who decided is not who carried it over")
	}
}
