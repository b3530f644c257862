package bom

import (
	"fmt"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestFourTimesTheLinesTakeFourTimesTheRoom lays out boards that are all of one thing, as a broken export or somebody who means harm writes them: what is made of four times
// the lines takes about four times as much, wherever it goes.
func TestFourTimesTheLinesTakeFourTimesTheRoom(t *testing.T) {
	w := newWorld(t, 3, 4)
	mpn := w.parts[0].mpn
	for _, s := range []struct {
		name, header string
		row          func(i int) string
	}{
		{"one designator", "Ref,Qty,Value", func(int) string { return "R1,1,10k" }},
		{"one maker's number", "Ref,Qty,MPN", func(i int) string { return fmt.Sprintf("R%d,1,%s", i, mpn) }},
		{"one description", "Ref,Qty,Description", func(int) string { return ",1,screw M3" }},
		{"nothing said", "Ref,Qty,Value", func(i int) string { return fmt.Sprintf("J%d,1,", i) }},
		{"one sub-assembly again and again", "Level,Ref,Qty,Description", func(i int) string { return fmt.Sprintf("%d,,2,head", 1+i%2) }},
		{"an outline with one root", "Level,Ref,Qty,Description", func(i int) string { return fmt.Sprintf("1.%d,R%d,1,head", i, i) }},
		{"each part of the one above", "Parent,Part number,Ref,Qty", func(i int) string { return fmt.Sprintf("X%d,X%d,R%d,1", i, i+1, i) }},
		{"each part of itself", "Parent,Part number,Ref,Qty", func(i int) string { return fmt.Sprintf("X,X,R%d,1", i) }},
		{"two alternates of one place", "Ref,Qty,Value,Fitted in A,Fitted in B", func(i int) string { return "R1,1,10k," + []string{"yes,no", "no,yes"}[i%2] }},
		{"one board without designators", "Ref,Qty,Description,Board", func(int) string { return ",2,head,yes" }},
	} {
		room := func(n int) uint64 {
			header := strings.Split(s.header, ",")
			var rows [][]string
			for i := range n {
				rows = append(rows, strings.Split(s.row(i), ","))
			}
			columns, err := FindColumns(header, rows[:50], w.cab)
			require.NoError(t, err, s.name)
			var before, after runtime.MemStats
			runtime.ReadMemStats(&before)
			lines := make([]Line, n)
			for i, cells := range rows {
				lines[i] = ReadLine(i+2, cells, columns)
			}
			Nest(lines, columns)
			TellApart(lines)
			laid := Begin(lines, w.index, w.cab, Known{Columns: columns})
			verdicts := laid.Again(nil).Verdicts()
			pins := PinAll(verdicts)
			if header[len(header)-1] == "Board" {
				for i := range pins {
					pins[i].Board = &BoardPin{ID: "1", Name: "Head", Label: "1"}
				}
				pins, err = Expanded(pins, func(BoardPin) []Pinned { return []Pinned{{Row: 2, Designators: []string{"R1"}, Quantity: 1}} })
				require.NoError(t, err)
			}
			other := OwnLines(pins)
			for i := range other {
				other[i].Quantity++
			}
			Compare(pins, other)
			Otherwise(verdicts, verdicts, nil)
			Hindrances(verdicts)
			AssemblySheet(PinnedOf(pins, "A"))
			NumbersSheet(pins)
			Uses(pins)
			Behind(pins, w.index)
			_, err = ReviewItems(pins)
			require.NoError(t, err)
			runtime.ReadMemStats(&after)
			return after.TotalAlloc - before.TotalAlloc
		}
		room(50) // what is worked out once
		few, many := room(1_000), room(4_000)
		assert.Less(t, many, 6*few, "%s: %d MB, and of four times the lines %d MB", s.name, few>>20, many>>20)
	}
}
