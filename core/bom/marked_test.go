package bom

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/decision"
)

func saidNone(l Line) decision.Record {
	return decision.Record{Kind: decision.Line, About: l.About(), Evidence: l.Evidence(), Outcome: decision.NoPart, Reason: "it is a label", By: "Maren"}
}

// Labels and boards have no designators: what is said of one holds for it and for no other, whatever the order of the lines.
func TestLinesWithoutDesignatorsAreToldApart(t *testing.T) {
	lib, cab := house(t)
	label, board, wire := Line{Row: 2, Quantity: 1, Description: "label 20x10"}, Line{Row: 3, Quantity: 1, Description: "bare board rev C"}, Line{Row: 4, Quantity: 2, Description: "wire red"}
	for _, lines := range [][]Line{{label, board, wire}, {wire, board, label}} {
		vs := Reconcile(lines, lib, cab, Known{Columns: benchColumns, Decisions: []decision.Record{saidNone(label), saidNone(wire)}})
		for _, v := range vs {
			marked := v.Line.Description != board.Description
			assert.Equal(t, marked, v.Kind == Marked, v.Line.Description)
			assert.NotContains(t, causesOf(v), "choice-open")
			assert.Equal(t, !marked, len(causesOf(v)) > 0 && causesOf(v)[0] == "no-designator", v.Line.Description)
		}
	}
	old := saidNone(label)
	old.About = "" // as it was kept before
	vs := Reconcile([]Line{label, board}, lib, cab, Known{Columns: benchColumns, Decisions: []decision.Record{old}})
	assert.Equal(t, Marked, vs[0].Kind)
	assert.NotEqual(t, Marked, vs[1].Kind)
	assert.NotContains(t, causesOf(vs[1]), "choice-open")
}

func TestALineThatIsNoPartIsSettledUntilItSaysSomethingElse(t *testing.T) {
	lib, cab := house(t)
	l := Line{Row: 2, Designators: []string{"FID1"}, Quantity: 1, Value: "fiducial"}
	known := Known{Columns: benchColumns, Decisions: []decision.Record{saidNone(l)}}
	v := Reconcile([]Line{l}, lib, cab, known)[0]
	require.Equal(t, Marked, v.Kind)
	assert.Nil(t, v.Open())
	assert.Empty(t, Hindrances([]Verdict{v}))
	p := PinAll([]Verdict{v})[0]
	assert.True(t, p.NoPart)
	assert.Equal(t, []string{"Maren", "it is a label"}, []string{p.By, p.Reason})
	assert.Zero(t, Ready([]Pinned{p}, lib, nil, nil).Lines)
	assert.Empty(t, Uses([]Pinned{p}))
	l.Value = "10k"
	v = Reconcile([]Line{l}, lib, cab, known)[0]
	assert.NotEqual(t, Marked, v.Kind)
	assert.Contains(t, causesOf(v), "choice-open")
}

// What is taught of such lines marks the next ones where the person said so, and never one that names a part.
func TestLinesThatAreNoPartAreTaught(t *testing.T) {
	w := newWorld(t, 5, 3)
	p := w.parts[0]
	l := Line{Row: 2, Designators: []string{"FID7"}, Quantity: 1, Value: "fiducial"}
	reconcile := func(l Line, r decision.Record) Verdict {
		r.By = "Maren"
		return Reconcile([]Line{l}, w.index, w.cab, Known{Columns: madeColumns, Readings: []decision.Record{r}})[0]
	}
	v := reconcile(l, LearnNone(l, true))
	assert.Equal(t, Marked, v.Kind)
	assert.Equal(t, "Maren", PinAll([]Verdict{v})[0].By)
	assert.Equal(t, Missing, reconcile(l, LearnNone(l, false)).Kind)
	other := l
	other.Value = "fiducial 2"
	assert.Equal(t, Missing, reconcile(other, LearnNone(l, true)).Kind)
	named := Line{Row: 2, Designators: []string{p.t.Designator + "1"}, MPN: p.mpn, Manufacturer: p.maker}
	v = reconcile(named, LearnNone(named, true))
	assert.Equal(t, Proposed, v.Kind)
	assert.Contains(t, causesOf(v), "reading-against")
}
