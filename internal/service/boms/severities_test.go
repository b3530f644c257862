package boms_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/bom"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

// What a house says of a parameter goes on being said of it, whatever it is called, and also where it was said while the name changed.
func TestWhatAHouseSaysOfAParameterFollowsIt(t *testing.T) {
	s, owner, line := testdb.OpenLine(t)
	h := housetest.OpenOn(t, s, owner, 20*time.Millisecond)
	other := h.Colleague()
	released(t, h, "4k7", "TW-4K7")
	b := h.Board(t, "Board A", "Ref,Qty,Value,MPN,Tolerance\nR1,1,4k7,TW-4K7,10 %\n")
	require.NotNil(t, found(b.Lines[0], "tolerance"), "it disagrees in the tolerance")
	assert.Equal(t, finding.Warning, found(b.Lines[0], "tolerance").Severity)
	rename := func(from, to string, also ...string) {
		p, _ := h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: from, To: to}}})
		assert.Equal(t, also, p.Also)
	}
	said := func() string {
		now, err := h.BOMs.Severities(t.Context(), h.Me)
		require.NoError(t, err)
		return now.Text
	}
	as := func(cause string) finding.Severity {
		b, err := h.BOMs.Get(t.Context(), h.Me, b.ID)
		require.NoError(t, err)
		f := found(b.Lines[0], cause)
		require.NotNil(t, f, "%+v", b.Lines[0].Findings)
		return f.Severity
	}
	_, err := h.BOMs.ApplySeverities(t.Context(), h.Me, 0, wire.SeveritiesEdit{Text: "format: jolly-severities/1\ncauses: {tolerance: error}\n"})
	require.NoError(t, err)
	assert.Equal(t, finding.Error, as("tolerance"))
	rename("tolerance", "exactness", "the severities of BOMs")
	assert.Contains(t, said(), "exactness: error")
	assert.NotContains(t, said(), "tolerance")
	assert.Equal(t, finding.Error, as("exactness"))

	came := false
	const look = "SELECT COALESCE(MAX(position)" // with which the write that shows a change begins to look at what others wrote
	line.Before(look, func() {
		came = true
		now, err := other.BOMs.Severities(t.Context(), other.Me)
		require.NoError(t, err)
		_, err = other.BOMs.ApplySeverities(t.Context(), deed.Call{Actor: other.Me.Actor}, now.Version, wire.SeveritiesEdit{Text: "format: jolly-severities/1\ncauses: {exactness: note}\n"})
		require.NoError(t, err)
	})
	rename("exactness", "tolerance", "the severities of BOMs")
	require.True(t, came)
	assert.Contains(t, said(), "tolerance: note")
	assert.Equal(t, finding.Note, as("tolerance"))

	// What a column was said to be of is that parameter, too.
	_, err = h.BOMs.SayColumns(t.Context(), h.Me, b.ID, wire.BOMColumns{Columns: []wire.BOMColumn{{At: 4, Role: bom.Fact, Param: "tolerance"}}})
	require.NoError(t, err)
	of := func() string {
		b, err := h.BOMs.Get(t.Context(), h.Me, b.ID)
		require.NoError(t, err)
		return b.Columns[4].Param
	}
	rename("tolerance", "exactness", "1 layout of BOM columns", "the severities of BOMs")
	assert.Equal(t, "exactness", of())
	assert.Equal(t, finding.Note, as("exactness"))
	came = false
	line.Before(look, func() {
		came = true
		_, err := other.BOMs.SayColumns(t.Context(), deed.Call{Actor: other.Me.Actor}, b.ID, wire.BOMColumns{Columns: []wire.BOMColumn{{At: 4, Role: bom.Fact, Param: "exactness"}}})
		require.NoError(t, err)
	})
	rename("exactness", "tolerance", "1 layout of BOM columns", "the severities of BOMs")
	require.True(t, came)
	assert.Equal(t, "tolerance", of(), "it was said a moment before")
	assert.Equal(t, finding.Note, as("tolerance"))

	h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Retire, Parameter: "qualification"}}})
	assert.Contains(t, said(), "tolerance: note", "of another parameter nothing was said")
}
