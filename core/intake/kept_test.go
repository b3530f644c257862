package intake

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
	"jollydrawer/core/measure/measuretest"
)

// A made file: rows whose numbers, makers, orders and stock repeat and are missing as they are in real files, each known by its key.
type madeFile struct {
	d    *measuretest.Draws
	rows [][]string
}

var madeHeader = []string{"No", "Kind", "Maker", "MPN", "Order", "Value", "Pwr", "Size", "Colour", "Stock"}

func makeFile(d *measuretest.Draws, n int) *madeFile {
	f := &madeFile{d: d}
	pick := func(list ...string) string { return list[d.IntN(len(list))] }
	for i := range n {
		r := []string{"", pick("Res", "Cap", "Odd", ""), pick("Kelpline", "Tidewright", ""), fmt.Sprintf("K-%d", i), "", pick("4k7", "471", "100n", "1,000", "blue"), pick("1/8", "0,1", ""), pick("2012", "big", "1608"), pick("blue", "red"), ""}
		switch d.IntN(6) {
		case 0: // the source of an earlier row, often with other values
			if i > 0 {
				o := f.rows[d.IntN(i)]
				r[2], r[3] = o[2], o[3]
			}
		case 1: // no source, sometimes the house's number or the supplier's
			r[3] = ""
			if d.IntN(2) == 0 {
				r[0] = fmt.Sprintf("H-%d", i)
			} else if d.IntN(2) == 0 {
				r[4] = fmt.Sprintf("O-%d", i/2)
			}
		case 2: // an earlier row again
			if i > 0 {
				r = slices.Clone(f.rows[d.IntN(i)])
			}
		}
		f.rows = append(f.rows, r)
	}
	return f
}

// table lays the rows out in an order, with a stock of its own for each where stock is told, and says which row each place holds.
func (f *madeFile) table(order []int, stock bool) *Table {
	t := NewTable(madeHeader)
	number := 1
	for _, i := range order {
		r := slices.Clone(f.rows[i])
		if stock {
			r[9] = fmt.Sprint(f.d.IntN(1000))
		}
		number += 1 + f.d.IntN(3)
		t.Add(Row{Number: number, Cells: r})
	}
	t.Done()
	return t
}

func (f *madeFile) shuffled() (order []int) {
	for i := range f.rows {
		order = append(order, i)
	}
	for i := len(order) - 1; i > 0; i-- {
		j := f.d.IntN(i + 1)
		order[i], order[j] = order[j], order[i]
	}
	return order
}

func madeCrosswalk(t *testing.T) crosswalk.Crosswalk {
	cw, err := crosswalk.Parse([]byte(crosswalkText))
	require.NoError(t, err)
	return cw
}

// told is what edits say of each row of a file, by the row's cells; rows with the same cells are taken together.
func (f *madeFile) told(t *Table, order []int, ed Edits) map[string][]string {
	out := map[string][]string{}
	for at, i := range order {
		row := int(t.numbers[at])
		var says []string
		if slices.Contains(ed.LeaveOut, row) {
			says = append(says, "out")
		}
		if d := ed.Drawers[row]; d != "" {
			says = append(says, "drawer "+d)
		}
		for _, field := range madeHeader {
			if text, ok := ed.Cells[row][field]; ok {
				says = append(says, field+"="+text)
			}
		}
		if d, ok := ed.Decide[row]; ok {
			says = append(says, d.As+d.Why)
		}
		for _, w := range ed.Waive {
			if slices.Contains(w.Rows, row) {
				says = append(says, w.Cause+w.Why)
			}
		}
		key := strings.Join(f.rows[i], "|")
		slices.Sort(says)
		out[key] = append(out[key], strings.Join(says, ";"))
		slices.Sort(out[key])
	}
	return out
}

// What was decided about rows holds for the same rows wherever they stand in the next file, whatever else comes beside them, and for no
// others; and laying it on the file where it was decided is as good as deciding by row number.
func TestDecisionsFindTheirRows(t *testing.T) {
	cw := madeCrosswalk(t)
	made := 0
	for seed := range uint64(120) {
		d := &measuretest.Draws{State: seed}
		f := makeFile(d, 30+d.IntN(40))
		order := f.shuffled()
		table := f.table(order, false)
		var kept Kept
		byRow := Edits{Drawers: map[int]string{}, Cells: map[int]map[string]string{}, Decide: map[int]Decision{}}
		by := NewDecider(table, cw)
		for range 25 {
			row := int(table.numbers[d.IntN(table.Len())])
			var r decision.Record
			ok := false
			switch d.IntN(5) {
			case 0:
				r, ok = by.Out(row)
				if !slices.Contains(byRow.LeaveOut, row) {
					byRow.LeaveOut = append(byRow.LeaveOut, row)
				}
			case 1:
				byRow.Drawers[row] = []string{"resistors", "capacitors"}[d.IntN(2)]
				r, ok = by.Drawer(row, byRow.Drawers[row])
			case 2:
				field, text := madeHeader[d.IntN(8)], fmt.Sprint("t", d.IntN(5))
				if byRow.Cells[row] == nil {
					byRow.Cells[row] = map[string]string{}
				}
				byRow.Cells[row][field] = text
				r, ok = by.Cell(row, field, text, "why")
			case 3:
				byRow.Decide[row] = Decision{As: []string{Fill, Keep}[d.IntN(2)]}
				r, ok = by.Settle(row, byRow.Decide[row])
			case 4:
				cause := fmt.Sprint("c", d.IntN(2))
				if !slices.ContainsFunc(byRow.Waive, func(w Waiver) bool { return w.Cause == cause && w.Rows[0] == row }) {
					byRow.Waive = append(byRow.Waive, Waiver{Cause: cause, Rows: []int{row}})
				}
				r, ok = by.Accept(row, cause, "Value", "")
			}
			require.True(t, ok)
			kept.Put(r)
			made++
		}
		want := f.told(table, order, byRow)
		held, standings := kept.On(table)
		require.Equal(t, want, f.told(table, order, held), "seed %d: on the file itself", seed)
		for _, s := range standings {
			require.Equal(t, Holds, s.Fate, "seed %d: %+v", seed, s.Decision)
			require.Len(t, s.Rows, 1, "seed %d: no decision is wider than its row: %s", seed, s.Decision.About)
		}

		old := Kept{LeaveOut: byRow.LeaveOut, Drawers: byRow.Drawers, Cells: byRow.Cells, Decide: byRow.Decide, Waive: byRow.Waive}
		by.By, by.At = "Maren", time.Date(2026, 11, 2, 0, 0, 0, 0, time.UTC)
		for _, r := range old.CarryOver(by) {
			require.True(t, r.By == "" && r.At.IsZero(), "who carries over did not decide")
		}
		require.False(t, old.Old())
		by.By, by.At = "", time.Time{}
		carried, _ := old.On(table)
		require.Equal(t, want, f.told(table, order, carried), "seed %d: what hung on numbers", seed)

		next := f.shuffled()
		again := f.table(next, true)
		held, _ = kept.On(again)
		got := f.told(again, next, held)
		for key := range want { // identical rows cannot be told from each other but by their stock, which was none then
			require.Equal(t, want[key], got[key], "seed %d: in the next file, %s", seed, key)
		}

		none := kept.Withdraw(table, func(*decision.Record, int) bool { return true })
		require.NotEmpty(t, none)
		require.Empty(t, kept.Decided, "seed %d", seed)
	}
	require.Greater(t, made, 2500)
}

func TestADecisionLaidOnAnotherText(t *testing.T) {
	cw := madeCrosswalk(t)
	cells := func(mpn, value, stock string) []string {
		return []string{"", "Res", "Kelpline", mpn, "", value, "", "", "", stock}
	}
	first := NewTable(madeHeader)
	first.Add(Row{Number: 2, Cells: cells("K-1", "471", "7")})
	by := NewDecider(first, cw)
	by.By, by.In, by.At = "Maren", "IN-00001", time.Date(2026, 11, 2, 3, 0, 0, 0, time.UTC)
	cell, _ := by.Cell(2, "Value", "470", "as the datasheet says")
	accepted, _ := by.Accept(2, "doubt:Value", "Value", "looked at")
	kept := Kept{Decided: []decision.Record{cell, accepted}}
	for _, c := range []struct {
		name      string
		row       []string
		cell, acc Fate
		text      string
	}{
		{"the same again, with another stock", cells("K-1", "471", "9"), Holds, Holds, "470"},
		{"the file says by now what was decided", cells("K-1", "470", ""), Needless, Otherwise, ""},
		{"the file says something else", cells("K-1", "4k7", ""), Otherwise, Otherwise, ""},
		{"another part with the same text", cells("K-2", "471", ""), Absent, Absent, ""},
		{"the number written otherwise is another text", cells("K 1", "471", ""), Absent, Absent, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			table := NewTable(madeHeader)
			table.Add(Row{Number: 5, Cells: c.row})
			ed, standings := kept.On(table)
			assert.Equal(t, c.cell, standings[0].Fate)
			assert.Equal(t, c.acc, standings[1].Fate)
			assert.Equal(t, c.text, ed.Cells[5]["Value"])
			assert.Equal(t, c.acc == Holds, len(ed.Waive) == 1)
		})
	}
	other := NewTable([]string{"MPN", "Maker", "Wert"})
	other.Add(Row{Number: 2, Cells: []string{"K-1", "Kelpline", "471"}})
	_, standings := kept.On(other)
	assert.Equal(t, Absent, standings[0].Fate, "another layout has no such cell")
}

// laid builds a file of the made header with what is kept laid on it.
func laid(t *testing.T, kept Kept, claims Claims, rows ...[]string) (*Result, *Table) {
	t.Helper()
	cab, err := cabinet.Parse([]byte(cabinetText))
	require.NoError(t, err)
	cw := madeCrosswalk(t)
	cw.Take.Description = "Colour"
	table := NewTable(madeHeader)
	for i, r := range rows {
		table.Add(Row{Number: i + 2, Cells: r})
	}
	ed, _ := kept.On(table)
	return Build(Input{File: "f", Name: "f.csv", Table: table, Crosswalk: cw, Cabinet: cab, Edits: ed, Claims: claims}), table
}

func findingsOf(r *Result, causes ...string) (out []finding.Finding) {
	for _, f := range r.Findings {
		if slices.ContainsFunc(causes, func(c string) bool { return strings.HasPrefix(f.Cause, c) }) {
			out = append(out, f)
		}
	}
	return out
}

func TestWhatSpeaksAgainstADecisionComesUp(t *testing.T) {
	row := func(kind, mpn, value, power, says string) []string {
		return []string{"", kind, "Kelpline", mpn, "", value, power, "", says, ""}
	}
	_, table := laid(t, Kept{}, nil, row("Odd", "K-1", "471", "1", "RES"))
	by := NewDecider(table, madeCrosswalk(t))
	by.take.Description = "Colour"
	by.By, by.In, by.At = "Maren", "IN-00001", time.Date(2026, 11, 2, 3, 0, 0, 0, time.UTC)
	cell, _ := by.Cell(2, "Value", "470 Ohm", "")
	power, _ := by.Cell(2, "Pwr", "0,1", "misprint")
	drawer, _ := by.Drawer(2, "resistors")
	kept := Kept{Decided: []decision.Record{cell, power, drawer}}
	all := []string{"decided", "neighbour", "against"}

	r, _ := laid(t, kept, nil, row("Odd", "K-1", "471", "1", "RES"))
	assert.Empty(t, findingsOf(r, all...), "nothing is new")
	assert.Equal(t, "put there by Maren on 2026-11-02 in IN-00001", r.Candidates[0].Because)
	assert.Equal(t, "100 mW", r.Value(0, "power").String())
	o := r.Origins(0)["values.power"]
	assert.Equal(t, `f.csv, row 2, field "Pwr", which said "1"; Maren wrote "0,1" on 2026-11-02: misprint`, o.String())

	r, _ = laid(t, kept, nil, row("Odd", "K-1", "4k7", "1", "RES"))
	require.Len(t, findingsOf(r, all...), 1)
	assert.Equal(t, `"471" in "Value" was corrected to "470 Ohm" (Maren on 2026-11-02 in IN-00001), and the file says "4k7" now, which stands`, findingsOf(r, all...)[0].What)
	assert.Equal(t, "4.7 kΩ", r.Value(0, "resistance").String())

	r, _ = laid(t, kept, nil, row("Cap", "K-1", "471", "1", "RES"))
	require.Len(t, findingsOf(r, all...), 1)
	assert.Equal(t, `the row was put into resistors (Maren on 2026-11-02 in IN-00001) when it said Colour "RES", Kind "Odd"; what it says now puts it into capacitors: the kind "Cap" goes there`, findingsOf(r, all...)[0].What)
	assert.Equal(t, "resistors", r.Candidates[0].Drawer, "it stays where it was put")

	r, _ = laid(t, kept, nil, row("Odd", "K-1", "471", "1", "RES 0.25W"))
	require.Len(t, findingsOf(r, all...), 1)
	assert.Equal(t, "Power was corrected to 100 mW, and the row's own description says 250 mW", findingsOf(r, all...)[0].What)
	r, _ = laid(t, kept, nil, row("Odd", "K-1", "471", "1", "RES 100mW 50V"))
	assert.Empty(t, findingsOf(r, all...), "a description that agrees says nothing")

	elsewhere := cell
	elsewhere.Claims = map[string]cabinet.Value{"resistance": r.Value(0, "resistance")}
	claims := func(key string) []decision.Record {
		if key == cell.Source {
			return []decision.Record{elsewhere}
		}
		return nil
	}
	r, _ = laid(t, Kept{}, claims, row("Res", "K-1", "4k7", "", ""), row("Res", "K-2", "4k7", "", ""), row("Res", "K 1", "470 Ohm", "", ""))
	require.Len(t, findingsOf(r, all...), 1, "%v", r.Findings)
	assert.Equal(t, `Resistance of Kelpline K-1 is 4.7 kΩ here, and was settled as 470 Ω (Maren on 2026-11-02 in IN-00001, where the file said Value "471")`, findingsOf(r, all...)[0].What)
	assert.Empty(t, findingsOf(first(laid(t, kept, claims, row("Odd", "K-1", "471", "1", "RES"))), all...), "what is settled here is not held against itself")
}

func first(r *Result, _ *Table) *Result { return r }
