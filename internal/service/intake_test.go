package service_test

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/core/part"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service"
	"jollydrawer/internal/wire"
)

const listHead = "Kind;Maker;MPN;Value;Tol;Size;Sheet\n"

// listed applies a crosswalk and opens an intake of rows under listHead.
func (h house) listed(rows string) wire.Intake {
	h.t.Helper()
	if _, err := h.Crosswalk(h.t.Context(), h.me, "Pier stock"); err != nil {
		_, err := h.ApplyCrosswalk(h.t.Context(), h.me, 0, "format: jolly-crosswalk/1\nsupplier: Pier stock\ntake: {kind: Kind, manufacturer: Maker, mpn: MPN, datasheet: Sheet}\nkinds: {R: chip-resistors}\nfields: [{from: Value, to: '@leading'}, {from: Tol, to: tolerance}, {from: Size, to: case, caseSystem: inch}]\n")
		require.NoError(h.t, err)
	}
	f, err := h.KeepFile(h.t.Context(), h.me, "list.csv", strings.NewReader(listHead+rows))
	require.NoError(h.t, err)
	i, err := h.OpenIntake(h.t.Context(), h.me, wire.NewIntake{Supplier: "Pier stock", FileHash: f.Hash, FileName: f.Name})
	require.NoError(h.t, err)
	return i
}

func (h house) edit(i wire.Intake, e wire.IntakeEdit) wire.Intake {
	h.t.Helper()
	i, err := h.EditIntake(h.t.Context(), h.me, id(h.t, i.ID), i.Version, e)
	require.NoError(h.t, err)
	return i
}

func (h house) takeIn(i wire.Intake) wire.TakenIn {
	h.t.Helper()
	j, err := h.TakeIn(h.t.Context(), h.me, id(h.t, i.ID), i.Version, wire.TakeIn{Digest: i.Digest})
	require.NoError(h.t, err)
	j = h.wait(j)
	require.NotNil(h.t, j.TakenIn, j.Error)
	return *j.TakenIn
}

func TestNextMonthsFileChangesOnlyWhatChanged(t *testing.T) {
	h := open(t)
	made := h.takeIn(h.listed("R;Tidewright;P-1;4k7;1%;0805;\nR;Tidewright;P-2;8k2;1%;0805;\n"))
	assert.Equal(t, 2, made.Parts)
	next := h.listed("R;Tidewright;P-1;4k7;2%;0805;\nR;Tidewright;P-2;8k2;1%;0805;\nR;Sandpiper;S-1;8k2;1%;0805;\nR;Tidewright;P-2;9k1;1%;0603;\n")
	assert.Equal(t, 2, next.Counts["differs"], "what differs waits for a decision")
	assert.Equal(t, map[string]int{"tolerance": 1, "resistance": 1, "case": 1}, next.Differing)
	next = h.edit(next, wire.IntakeEdit{Known: intake.Replace, Like: intake.AsSource, LeaveOut: []int{5}, Policies: map[string]string{"case": intake.Keep}})
	assert.Equal(t, map[string]int{"new": 0, "update": 1, "alternate": 1, "known": 1, "differs": 0, "repeat": 0, "unsorted": 0, "blocked": 0, "left out": 1}, next.Counts)
	taken := h.takeIn(next)
	assert.Equal(t, 2, taken.Updated)
	one, err := h.Part(t.Context(), h.me, made.First)
	require.NoError(t, err)
	assert.Equal(t, "±2 %", h.value(made.First, "tolerance"))
	assert.Equal(t, 2, one.Version)
	two, err := h.Part(t.Context(), h.me, made.Last)
	require.NoError(t, err)
	require.Len(t, two.Draft.Sources, 2, "an alternate is another source of the part")
	_, err = h.CreatePart(t.Context(), h.me, resistor("1k", "x"))
	require.NoError(t, err)
	resized := h.edit(h.listed("R;Tidewright;P-1;4k7;2%;0603;\n"), wire.IntakeEdit{Known: intake.Replace})
	rows, err := h.IntakeRows(t.Context(), h.me, id(t, resized.ID), "update", "", 0, 10)
	require.NoError(t, err)
	assert.Equal(t, []intake.Change{{Key: "case", Old: "0805", New: "0603"}, {Key: "case-metric", Old: "2012", New: "1608"}}, rows.Items[0].Changes, "the metric code follows the inch code")
	again := h.listed("R;Tidewright;P-1;4k7;2%;0805;\nR;Sandpiper;S-1;8k2;1%;0805;\n")
	assert.Equal(t, 2, again.Counts["known"])

	// Taken back: the parts are as they were, and the source is free again.
	i, err := h.Intake(t.Context(), h.me, id(t, next.ID))
	require.NoError(t, err)
	_, err = h.TakeBack(t.Context(), h.me, id(t, i.ID), i.Version, wire.TakeBack{Why: "a trial"})
	require.NoError(t, err)
	assert.Equal(t, "±1 %", h.value(made.First, "tolerance"))
	h.make(wire.PartEdit{Drawer: "chip-resistors", Values: resistor("2k", "").Values, Sources: []part.Source{{Manufacturer: "Sandpiper", MPN: "S-1"}}})
	_, err = h.TakeBack(t.Context(), h.me, id(t, i.ID), i.Version+1, wire.TakeBack{Why: "again"})
	fails(t, err, "not-taken-in")
	v, err := h.Verify(t.Context(), h.me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

func TestWhatSomebodyBuiltOnIsNotTakenBack(t *testing.T) {
	h := open(t)
	i := h.listed("R;Tidewright;P-1;4k7;1%;0805;\nR;Tidewright;P-2;8k2;1%;0805;\n")
	made := h.takeIn(i)
	now, err := h.Intake(t.Context(), h.me, id(t, i.ID))
	require.NoError(t, err)
	f, err := h.KeepFile(t.Context(), h.me, "b.csv", strings.NewReader("Designator;Quantity;Value;Package\nR1;1;4k7;0805\n"))
	require.NoError(t, err)
	b, err := h.BringBOM(t.Context(), h.me, wire.NewBOM{Name: "Gauge", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	one, err := h.Part(t.Context(), h.me, made.First)
	require.NoError(t, err)
	_, err = h.ChooseBOM(t.Context(), h.me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: one.ID}}})
	require.NoError(t, err)
	_, err = h.TakeBack(t.Context(), h.me, id(t, i.ID), now.Version, wire.TakeBack{Why: "no"})
	e := fails(t, err, "built-on")
	assert.Contains(t, e.What, made.First+" (in the BOM Gauge)")
	assert.Equal(t, "4.7 kΩ", h.value(made.First, "resistance"))
}

func TestChangesOfTheMappingAreTakenBackOrBecomeTheCrosswalk(t *testing.T) {
	h := open(t)
	i := h.listed("R;TW;P-1;4k7;1%;0805;\n")
	i = h.edit(i, wire.IntakeEdit{Changes: []crosswalk.Change{{Makers: map[string]string{"TW": "Tidewright"}}, {Rule: &crosswalk.Rule{Constant: "surface", To: "mounting"}}}})
	require.Len(t, i.Changes, 2)
	assert.Equal(t, `"TW" is Tidewright`, i.Changes[0])
	i = h.edit(i, wire.IntakeEdit{DropChanges: []int{1}})
	require.Len(t, i.Changes, 1)
	_, err := h.EditIntake(t.Context(), h.me, id(t, i.ID), i.Version, wire.IntakeEdit{Changes: []crosswalk.Change{{Rule: &crosswalk.Rule{From: "Value", To: "nowhere"}}}})
	fails(t, err, "change-wrong")
	_, err = h.EditIntake(t.Context(), h.me, id(t, i.ID), i.Version, wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 9, Field: "Value", Text: "1k"}}})
	fails(t, err, "no-cell")
	// The cabinet changes while the intake lies open: it says so, and what was looked at before is not taken in.
	_, err = h.AddChoice(t.Context(), h.me, intake.NewChoice{Parameter: "mounting", Choice: "buried"})
	require.NoError(t, err)
	_, err = h.TakeIn(t.Context(), h.me, id(t, i.ID), i.Version, wire.TakeIn{Digest: i.Digest})
	fails(t, err, "preview-stale")
	i, err = h.Intake(t.Context(), h.me, id(t, i.ID))
	require.NoError(t, err)
	assert.Contains(t, i.Notice, "The cabinet changed")
	taken := h.takeIn(i)
	assert.Equal(t, 2, taken.Revision)
	cw, err := h.Crosswalk(t.Context(), h.me, "Pier stock")
	require.NoError(t, err)
	assert.Contains(t, cw.Text, "TW: Tidewright", "said once, it serves every later intake")
}

func TestDatasheetsAreFetchedOnceAndOnlyFromWhereItIsAllowed(t *testing.T) {
	h := open(t)
	asked := 0
	web := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		asked++
		switch r.URL.Path {
		case "/good.pdf":
			_, _ = w.Write([]byte("%PDF-1.4 a series"))
		case "/page.pdf":
			_, _ = w.Write([]byte("<html>sign in first</html>"))
		default:
			http.NotFound(w, r)
		}
	}))
	defer web.Close()
	rows := "R;Tidewright;P-1;4k7;1%;0805;" + web.URL + "/good.pdf\nR;Tidewright;P-2;8k2;1%;0805;" + web.URL + "/good.pdf\nR;Tidewright;P-3;1k;1%;0805;" + web.URL + "/page.pdf\nR;Tidewright;P-4;2k;1%;0805;" + web.URL + "/gone.pdf\nR;Tidewright;P-5;3k;1%;0805;file:///etc/passwd\n"
	i := h.listed(rows)
	run := func() wire.Fetched {
		t.Helper()
		j, err := h.FetchDatasheets(t.Context(), h.me, id(t, i.ID))
		require.NoError(t, err)
		j = h.wait(j)
		require.NotNil(t, j.Fetched, j.Error)
		return *j.Fetched
	}
	assert.Equal(t, wire.Fetched{Links: 4, Files: 0, Dead: 4}, run(), "nothing inside is asked unless it is allowed")
	assert.Zero(t, asked)
	h.Guard = reach.Guard{Inside: []string{strings.TrimPrefix(web.URL, "http://")}}
	assert.Equal(t, wire.Fetched{Links: 4, Files: 1, Dead: 3}, run())
	i, err := h.Intake(t.Context(), h.me, id(t, i.ID))
	require.NoError(t, err)
	var says []string
	for _, c := range i.Causes {
		says = append(says, c.What)
	}
	all := strings.Join(says, "\n")
	assert.Contains(t, all, "what is there is no PDF")
	assert.Contains(t, all, "the link is dead (the answer is 404)")
	assert.Contains(t, all, "links of the kind file are not followed")
	made := h.takeIn(i)
	p, err := h.Part(t.Context(), h.me, made.First)
	require.NoError(t, err)
	require.Len(t, p.Draft.Datasheets, 1)
	assert.Equal(t, "good.pdf", p.Draft.Datasheets[0].Name)
}

func id(t *testing.T, text string) service.ID {
	t.Helper()
	out, err := service.ParseID(text)
	require.NoError(t, err)
	return out
}
