package bom

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// keptBoard is a board of made lines, with what is found of a board: parts twice, designators twice, damaged lines that somebody chose a part for.
func keptBoard(t *testing.T) (*world, []Line) {
	t.Helper()
	w := newWorld(t, 31, 7)
	var lines []Line
	for n := range 240 {
		l := w.write(drawn(w, w.parts), n)
		switch n % 8 {
		case 1:
			w.harm(&l)
		case 2, 3: // the part of another line again
			l.line = lines[w.IntN(len(lines))]
			l.line.Designators, l.line.Row = []string{l.part.t.Designator + "9" + l.line.Designators[0][1:]}, n+2
		case 4:
			l.line.Designators = append(l.line.Designators, lines[len(lines)-1].Designators...)
		case 5:
			l.line.Designators[0] += "A"
		}
		lines = append(lines, l.line)
	}
	return w, lines
}

// What a person accepted hangs on what the lines say and never on where they stand: a title above the table, a blank row or another line among them takes no name from
// any finding.
func TestWhatWasAcceptedStaysWhereverTheRowsGo(t *testing.T) {
	w, lines := keptBoard(t)
	known := Known{Columns: madeColumns}
	accepted := Accepted{}
	found := map[string]int{}
	for _, v := range Reconcile(lines, w.index, w.cab, known) {
		for _, f := range v.Findings {
			d := Accept(&v, f, "looked at")
			d.By = "Maren"
			accepted[d.Key()] = d
			found[f.Cause]++
		}
	}
	for _, cause := range []string{"part-twice", "designator-twice", "single-source"} {
		assert.NotZero(t, found[cause], "the board has nothing of %s: %v", cause, found)
	}
	for name, moved := range map[string]func(i, row int) int{
		"a title above": func(_, row int) int { return row + 4 },
		"blank rows":    func(i, row int) int { return row + i },
		"a wide gap":    func(i, row int) int { return row + 1000*(i/100) },
	} {
		next := slices.Clone(lines)
		for i := range next {
			next[i].Row = moved(i, next[i].Row)
		}
		for _, v := range Reconcile(next, w.index, w.cab, known) {
			for _, f := range accepted.Mark(&v, v.Findings) {
				assert.NotEmpty(t, f.Waived, "%s: row %d: %s: %s", name, v.Line.Row, f.Cause, f.What)
			}
		}
	}
}

// A reviewer's ticks are of parts in places: a file that is sorted another way has the same items with the same values.
func TestTicksStayWhenTheRowsAreSortedAnotherWay(t *testing.T) {
	w, lines := keptBoard(t)
	for i := range lines { // texts that are alike at their beginning
		if i%9 == 0 {
			lines[i].Number, lines[i].MPN, lines[i].Value = "", "", ""
			lines[i].Description = "a bracket that is cut from sheet and bent by the workshop, in form " + string(rune('a'+i%26))
		}
	}
	items := func(lines []Line) map[string]string {
		t.Helper()
		list, err := ReviewItems(PinAll(Reconcile(lines, w.index, w.cab, Known{Columns: madeColumns})))
		require.NoError(t, err)
		out := map[string]string{}
		for _, i := range list {
			out[i.Key] = i.Value + i.Label
		}
		return out
	}
	before := items(lines)
	assert.Greater(t, len(before), 100)
	for range 5 {
		next := slices.Clone(lines)
		for i := range next {
			j := w.IntN(i + 1)
			next[i], next[j] = next[j], next[i]
		}
		for i := range next {
			next[i].Row = i + 2
		}
		after := items(next)
		for key, was := range before {
			assert.Equal(t, was, after[key], key)
		}
		assert.Len(t, after, len(before))
	}
}
