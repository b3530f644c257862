package bom

import (
	"fmt"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Made lines, a third of them damaged, stand in sub-assemblies and variants: what they are linked to is what they would be by themselves, no line wrongly, and what a
// board takes of each part in each variant is what it takes on paper.
func TestMadeLinesInSubAssembliesAndVariantsAreLinkedAsByThemselves(t *testing.T) {
	w := newWorld(t, 23, 8)
	header := []string{"Level", "Designator", "Qty", "Part number", "MPN", "Manufacturer", "Value", "Package", "Description", "Fitted Harbour", "Fitted Open sea"}
	variants := []string{"Harbour", "Open sea"}
	type truth struct {
		line  *madeLine // nil: a sub-assembly
		times int64
		in    [2]bool
	}
	var rows [][]string
	var truths []truth
	mark := map[bool]string{true: "yes", false: "no"}
	type place struct {
		times int64
		in    [2]bool
	}
	open := []place{{1, [2]bool{true, true}}}
	made := 1500
	if testing.Short() {
		made = 500
	}
	for n := range made {
		above := open[len(open)-1]
		in := above.in
		switch w.IntN(4) {
		case 0:
			in[0] = false
		case 1:
			in[1] = false
		}
		fitted := [2]bool{in[0] || !above.in[0] && w.IntN(2) == 0, in[1] || !above.in[1] && w.IntN(2) == 0} // what a line says where its assembly is not there counts for nothing
		level := strconv.Itoa(len(open))
		if w.IntN(12) == 0 && len(open) < 5 && n < made-1 { // a sub-assembly, of which the next lines are
			quantity := 1 + w.IntN(4)
			var named []string
			for k := range quantity {
				named = append(named, fmt.Sprintf("A%d", 10*n+k))
			}
			if w.IntN(2) == 0 {
				named = nil
			}
			rows = append(rows, []string{level, strings.Join(named, " "), strconv.Itoa(quantity), "", "", "", "", "", fmt.Sprintf("assembly %d", n), mark[fitted[0]], mark[fitted[1]]})
			truths = append(truths, truth{nil, above.times, in})
			open = append(open, place{above.times * int64(quantity), in})
			level = strconv.Itoa(len(open))
			above, fitted = open[len(open)-1], in
		}
		l := w.write(drawn(w, w.parts), n)
		if n%3 == 0 {
			for range 20 {
				if w.harm(&l) {
					break
				}
			}
		}
		rows = append(rows, []string{level, l.line.Written, "1", l.line.Number, l.line.MPN, l.line.Manufacturer, l.line.Value, l.line.Package, l.line.Description, mark[fitted[0]], mark[fitted[1]]})
		truths = append(truths, truth{&l, above.times, in})
		for len(open) > 1 && w.IntN(5) == 0 {
			open = open[:len(open)-1]
		}
	}
	lines, cols := readAll(t, w.cab, header, rows)
	require.Equal(t, variants, cols.Variants())
	vs := Reconcile(lines, w.index, w.cab, Known{Columns: cols})
	want := []map[string]int64{{}, {}}
	linked := 0
	for i, v := range vs {
		x := truths[i]
		require.Empty(t, v.Line.LevelAsk, "%q", rows[i])
		require.Empty(t, v.Line.FitAsk, "%q", rows[i])
		for k, name := range variants {
			require.Equal(t, x.in[k], v.Line.Is(name) && !v.Line.NotFitted, "%q in %s", rows[i], name)
		}
		if x.line == nil {
			continue
		}
		alone := Reconcile([]Line{x.line.line}, w.index, w.cab, Known{Columns: cols})[0]
		if v.Kind == Unfitted {
			continue // in no variant
		}
		if assert.Equal(t, alone.Kind, v.Kind, "%q", rows[i]) && v.Kind == Linked {
			linked++
			assert.Equal(t, alone.Part.Number, v.Part.Number, "%q", rows[i])
			if x.line.harm == "" {
				assert.Equal(t, x.line.part.number, v.Part.Number, "%q", rows[i])
			}
			for k := range variants {
				if x.in[k] {
					want[k][v.Part.ID] += x.times
				}
			}
		}
	}
	assert.Greater(t, linked, made/5)
	for k, name := range variants {
		assert.Equal(t, want[k], Subs{}.Each(vs, name), name)
	}
}
