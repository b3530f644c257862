package intakes_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/core/part"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/app"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestNextMonthsFileChangesOnlyWhatChanged(t *testing.T) {
	h := housetest.Open(t)
	made := h.TakeIn(h.Listed("R;Tidewright;P-1;4k7;1%;0805;\nR;Tidewright;P-2;8k2;1%;0805;\n"))
	assert.Equal(t, 2, made.Parts)
	next := h.Listed("R;Tidewright;P-1;4k7;2%;0805;\nR;Tidewright;P-2;8k2;1%;0805;\nR;Sandpiper;S-1;8k2;1%;0805;\nR;Tidewright;P-2;9k1;1%;0603;\n")
	assert.Equal(t, 2, next.Counts["differs"], "what differs waits for a decision")
	assert.Equal(t, map[string]int{"tolerance": 1, "resistance": 1, "case": 1}, next.Differing)
	next = h.EditIntake(next, wire.IntakeEdit{Known: intake.Replace, Like: intake.AsSource, LeaveOut: []int{5}, Policies: map[string]string{"case": intake.Keep}})
	assert.Equal(t, map[string]int{"new": 0, "update": 1, "alternate": 1, "known": 1, "differs": 0, "repeat": 0, "unsorted": 0, "blocked": 0, "left out": 1}, next.Counts)
	taken := h.TakeIn(next)
	assert.Equal(t, 2, taken.Updated)
	one, err := h.Parts.Get(t.Context(), h.Me, made.First)
	require.NoError(t, err)
	assert.Equal(t, "±2 %", h.Value(made.First, "tolerance"))
	assert.Equal(t, 2, one.Version)
	two, err := h.Parts.Get(t.Context(), h.Me, made.Last)
	require.NoError(t, err)
	require.Len(t, two.Draft.Sources, 2, "an alternate is another source of the part")
	_, err = h.Parts.Create(t.Context(), h.Me, housetest.Resistor("1k", "x"))
	require.NoError(t, err)
	resized := h.EditIntake(h.Listed("R;Tidewright;P-1;4k7;2%;0603;\n"), wire.IntakeEdit{Known: intake.Replace})
	rows, err := h.Intakes.Rows(t.Context(), h.Me, housetest.ID(t, resized.ID), "update", "", 0, 10)
	require.NoError(t, err)
	assert.Equal(t, []intake.Change{{Key: "case", Old: "0805", New: "0603"}, {Key: "case-metric", Old: "2012", New: "1608"}}, rows.Items[0].Changes, "the metric code follows the inch code")
	again := h.Listed("R;Tidewright;P-1;4k7;2%;0805;\nR;Sandpiper;S-1;8k2;1%;0805;\n")
	assert.Equal(t, 2, again.Counts["known"])

	// Taken back: the parts are as they were, and the source is free again.
	i, err := h.Intakes.Get(t.Context(), h.Me, housetest.ID(t, next.ID))
	require.NoError(t, err)
	_, err = h.Intakes.TakeBack(t.Context(), h.Me, housetest.ID(t, i.ID), i.Version, wire.TakeBack{Why: "a trial"})
	require.NoError(t, err)
	assert.Equal(t, "±1 %", h.Value(made.First, "tolerance"))
	h.Make(wire.PartEdit{Drawer: "chip-resistors", Values: housetest.Resistor("2k", "").Values, Sources: []part.Source{{Manufacturer: "Sandpiper", MPN: "S-1"}}})
	_, err = h.Intakes.TakeBack(t.Context(), h.Me, housetest.ID(t, i.ID), i.Version+1, wire.TakeBack{Why: "again"})
	housetest.Fails(t, err, "not-taken-in")
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

func TestWhatSomebodyBuiltOnIsNotTakenBack(t *testing.T) {
	h := housetest.Open(t)
	i := h.Listed("R;Tidewright;P-1;4k7;1%;0805;\nR;Tidewright;P-2;8k2;1%;0805;\n")
	made := h.TakeIn(i)
	now, err := h.Intakes.Get(t.Context(), h.Me, housetest.ID(t, i.ID))
	require.NoError(t, err)
	f, err := h.Files.Keep(t.Context(), h.Me, "b.csv", strings.NewReader("Designator;Quantity;Value;Package\nR1;1;4k7;0805\n"))
	require.NoError(t, err)
	b, err := h.BOMs.Bring(t.Context(), h.Me, wire.NewBOM{Name: "Gauge", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	one, err := h.Parts.Get(t.Context(), h.Me, made.First)
	require.NoError(t, err)
	_, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: one.ID}}})
	require.NoError(t, err)
	_, err = h.Intakes.TakeBack(t.Context(), h.Me, housetest.ID(t, i.ID), now.Version, wire.TakeBack{Why: "no"})
	e := housetest.Fails(t, err, "built-on")
	assert.Contains(t, e.What, made.First+" (in the BOM Gauge)")
	assert.Equal(t, "4.7 kΩ", h.Value(made.First, "resistance"))
}

func TestChangesOfTheMappingAreTakenBackOrBecomeTheCrosswalk(t *testing.T) {
	h := housetest.Open(t)
	i := h.Listed("R;TW;P-1;4k7;1%;0805;\n")
	i = h.EditIntake(i, wire.IntakeEdit{Changes: []crosswalk.Change{{Makers: map[string]string{"TW": "Tidewright"}}, {Rule: &crosswalk.Rule{Constant: "surface", To: "mounting"}}}})
	require.Len(t, i.Changes, 2)
	assert.Contains(t, i.Changes[0], `"TW" is Tidewright`+" (Administrator on ")
	i = h.EditIntake(i, wire.IntakeEdit{DropChanges: []int{1}})
	require.Len(t, i.Changes, 1)
	_, err := h.Intakes.Edit(t.Context(), h.Me, housetest.ID(t, i.ID), i.Version, wire.IntakeEdit{Changes: []crosswalk.Change{{Rule: &crosswalk.Rule{From: "Value", To: "nowhere"}}}})
	housetest.Fails(t, err, "change-wrong")
	_, err = h.Intakes.Edit(t.Context(), h.Me, housetest.ID(t, i.ID), i.Version, wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 9, Field: "Value", Text: "1k"}}})
	housetest.Fails(t, err, "no-cell")
	// The cabinet changes while the intake lies open: it says so, and what was looked at before is not taken in.
	_, err = h.Reform.AddChoice(t.Context(), h.Me, intake.NewChoice{Parameter: "mounting", Choice: "buried"})
	require.NoError(t, err)
	_, err = h.Intakes.TakeIn(t.Context(), h.Me, housetest.ID(t, i.ID), i.Version, wire.TakeIn{Digest: i.Digest})
	housetest.Fails(t, err, "preview-stale")
	i, err = h.Intakes.Get(t.Context(), h.Me, housetest.ID(t, i.ID))
	require.NoError(t, err)
	assert.Contains(t, i.Notice, "The cabinet changed")
	taken := h.TakeIn(i)
	assert.Equal(t, 2, taken.Revision)
	cw, err := h.Cabinets.Crosswalk(t.Context(), h.Me, "Pier stock")
	require.NoError(t, err)
	assert.Contains(t, cw.Text, "TW: Tidewright", "said once, it serves every later intake")
}

func TestDatasheetsAreFetchedOnceAndOnlyFromWhereItIsAllowed(t *testing.T) {
	inside := make([]string, 1)
	h := housetest.Open(t, func(o *app.Options) { o.Guard = reach.Guard{Inside: inside} })
	var asked atomic.Int32
	web := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		asked.Add(1)
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
	i := h.Listed(rows)
	run := func() wire.Fetched {
		t.Helper()
		j, err := h.Intakes.FetchDatasheets(t.Context(), h.Me, housetest.ID(t, i.ID))
		require.NoError(t, err)
		j = h.Wait(j)
		require.NotNil(t, j.Fetched, j.Error)
		return *j.Fetched
	}
	assert.Equal(t, wire.Fetched{Links: 4, Files: 0, Dead: 4, Other: []string{}}, run(), "nothing inside is asked unless it is allowed")
	assert.Zero(t, asked.Load())
	inside[0] = strings.TrimPrefix(web.URL, "http://")
	assert.Equal(t, wire.Fetched{Links: 4, Files: 1, Dead: 3, Other: []string{}}, run())
	i, err := h.Intakes.Get(t.Context(), h.Me, housetest.ID(t, i.ID))
	require.NoError(t, err)
	var says []string
	for _, c := range i.Causes {
		says = append(says, c.What)
	}
	all := strings.Join(says, "\n")
	assert.Contains(t, all, "what is there is no PDF")
	assert.Contains(t, all, "the link is dead (the answer is 404)")
	assert.Contains(t, all, "links of the kind file are not followed")
	made := h.TakeIn(i)
	p, err := h.Parts.Get(t.Context(), h.Me, made.First)
	require.NoError(t, err)
	require.Len(t, p.Draft.Datasheets, 1)
	assert.Equal(t, "good.pdf", p.Draft.Datasheets[0].Name)
}

func TestAnIntakeFromNoCrosswalkToParts(t *testing.T) {
	h := housetest.Open(t)
	i, id := h.OpenIntake("X-1,Tidewright,A-1,4700,1%,0805,9\n,Tidewright,A-2,10k,1%,0805,9\n,Tidewright,,1,1%,0805,9\n")
	assert.Contains(t, i.Problem, "There is no crosswalk for Marsh Lane yet.")
	assert.NotEmpty(t, i.Suggestions)
	_, err := h.Intakes.TakeIn(t.Context(), h.Me, id, i.Version, wire.TakeIn{Digest: i.Digest})
	housetest.Fails(t, err, "no-crosswalk")
	_, err = h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, 0, housetest.CrosswalkText)
	require.NoError(t, err)
	before, err := h.Intakes.Get(t.Context(), h.Me, id)
	require.NoError(t, err)
	assert.Equal(t, 2, before.Counts["new"])
	assert.Equal(t, []string{"Stock"}, before.Unmapped)
	_, err = h.Intakes.TakeIn(t.Context(), h.Me, id, before.Version, wire.TakeIn{Digest: before.Digest})
	housetest.Fails(t, err, "rows-blocked")
	after, err := h.Intakes.Edit(t.Context(), h.Me, id, before.Version, wire.IntakeEdit{LeaveOut: []int{4}})
	require.NoError(t, err)
	assert.Equal(t, 1, after.Counts["left out"])
	_, err = h.Intakes.TakeIn(t.Context(), h.Me, id, after.Version, wire.TakeIn{Digest: before.Digest})
	housetest.Fails(t, err, "preview-stale")
	_, err = h.Intakes.Edit(t.Context(), h.Me, id, before.Version, wire.IntakeEdit{LeaveOut: []int{2}})
	housetest.Fails(t, err, "changed-meanwhile")
	blocked, err := h.Intakes.Rows(t.Context(), h.Me, id, "new", "", 1, 1)
	require.NoError(t, err)
	assert.Equal(t, 2, blocked.Page.Total)
	assert.Equal(t, "A-2", blocked.Items[0].MPN)

	c := h.Me
	c.Deed = deed.NewID()
	j, err := h.Intakes.TakeIn(t.Context(), c, id, after.Version, wire.TakeIn{Digest: after.Digest})
	require.NoError(t, err)
	done := h.Wait(j)
	require.NotNil(t, done.TakenIn, done.Error)
	assert.Equal(t, []string{"X-1", "EW-R-00001"}, done.TakenIn.Numbers, "a number that the file brings is kept")
	again, err := h.Intakes.TakeIn(t.Context(), c, id, after.Version, wire.TakeIn{Digest: after.Digest})
	require.NoError(t, err)
	assert.Equal(t, j.ID, again.ID, "the same deed is the same job")
	c.Deed = deed.NewID()
	_, err = h.Intakes.TakeIn(t.Context(), c, id, after.Version, wire.TakeIn{Digest: after.Digest})
	housetest.Fails(t, err, "taken-in")
	_, err = h.Intakes.Edit(t.Context(), h.Me, id, after.Version+1, wire.IntakeEdit{LeaveOut: []int{2}})
	housetest.Fails(t, err, "taken-in")
	p, err := h.Parts.Get(t.Context(), h.Me, "X-1")
	require.NoError(t, err)
	for _, v := range p.Draft.Values {
		if v.Key == "resistance" {
			assert.Equal(t, "4.7 kΩ", v.Text)
			assert.Equal(t, "rows.csv, row 2, field \"Ohms\"", v.Origin.String())
			assert.Equal(t, "without a unit, ohm is meant", v.Origin.Rule)
		}
	}
}

func TestAChangeOfTheLibraryMakesAPreviewStale(t *testing.T) {
	h := housetest.Open(t)
	_, err := h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, 0, housetest.CrosswalkText)
	require.NoError(t, err)
	i, id := h.OpenIntake(",Tidewright,A-1,4700,1%,0805,9\n")
	h.Make(housetest.Resistor("1k", "A-1"))
	_, err = h.Intakes.TakeIn(t.Context(), h.Me, id, i.Version, wire.TakeIn{Digest: i.Digest})
	housetest.Fails(t, err, "preview-stale")
	now, err := h.Intakes.Get(t.Context(), h.Me, id)
	require.NoError(t, err)
	assert.Equal(t, 1, now.Counts["differs"], "the part in the library is left as it is")
}

func TestAStoppedJobLeavesNothing(t *testing.T) {
	h := housetest.Open(t)
	_, err := h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, 0, housetest.CrosswalkText)
	require.NoError(t, err)
	var b strings.Builder
	for n := range 9000 {
		fmt.Fprintf(&b, ",Tidewright,S-%d,%d,1%%,0805,1\n", n, n+1)
	}
	i, id := h.OpenIntake(b.String())
	j, err := h.Intakes.TakeIn(t.Context(), h.Me, id, i.Version, wire.TakeIn{Digest: i.Digest})
	require.NoError(t, err)
	jid, err := deed.ParseID(j.ID)
	require.NoError(t, err)
	_, err = h.Work.Stop(t.Context(), h.Me, jid)
	require.NoError(t, err)
	done := h.Wait(j)
	assert.Equal(t, store.JobStopped, done.State)
	assert.Zero(t, h.Index.Len())
	i, err = h.Intakes.Get(t.Context(), h.Me, id)
	require.NoError(t, err)
	assert.Equal(t, "open", i.State, "it can be taken in again")
}

func TestATableOfSeveralPartsIsNotReadAsOne(t *testing.T) {
	h := housetest.Open(t)
	for _, text := range []string{"MPN;Value;Size\nTW-1;1k;0805\nTW-2;2k;0805", "Maker\tMPN\tResistance\nTidewright\tTW-1\t1k\nTidewright\tTW-2\t2k", "| MPN | Value | Size |\n|---|---|---|\n| A | 1k | 0805 |\n| B | 2k | 0805 |"} {
		_, err := h.Intakes.ReadPart(t.Context(), h.Me, wire.ReadPart{Text: text, Drawer: "chip-resistors"})
		assert.Contains(t, housetest.Fails(t, err, "several-parts").Error(), "a table of 2 parts")
	}
	one, err := h.Intakes.ReadPart(t.Context(), h.Me, wire.ReadPart{Text: "MPN;Maker;Resistance;Case\nTW-1;Tidewright;1 kΩ;0805", Drawer: "chip-resistors"})
	require.NoError(t, err)
	assert.Equal(t, []string{"Tidewright", "TW-1"}, []string{one.Source.Manufacturer, one.Source.MPN})
}
