package intakes_test

import (
	"errors"
	"fmt"
	"slices"
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/core/measure/measuretest"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// written is what all tables of the house's database hold.
func written(t *testing.T, h housetest.House) map[string]string {
	t.Helper()
	return h.Written()
}

// rowsOf is what an intake's rows become: by row, all that the preview names.
func rowsOf(t *testing.T, h housetest.House, i wire.Intake) map[int]map[string]string {
	t.Helper()
	l, err := h.Intakes.Rows(t.Context(), h.Me, housetest.ID(t, i.ID), "", "", 0, 1000)
	require.NoError(t, err)
	require.Len(t, l.Items, l.Page.Total)
	out := map[int]map[string]string{}
	for _, r := range l.Items {
		out[r.Row] = map[string]string{"state": r.State, "drawer": r.Drawer, "source": strings.TrimSpace(r.Manufacturer + " " + r.MPN)}
		for key, v := range r.Values {
			out[r.Row][key] = v
		}
	}
	return out
}

// An edit's preview writes nothing, names exactly the rows that the edit changes then, with what they were and become, and sets those apart
// that somebody settled before. Tried with edits of every kind in any order, on rows that are new, known, alike, doubtful and unsorted.
func TestAPreviewNamesWhatChangesAndWritesNothing(t *testing.T) {
	h := housetest.Open(t)
	h.TakeIn(h.Listed("R;Tidewright;P-1;4k7;1%;0805;\nR;Tidewright;P-2;8k2;1%;0805;\n"))
	var file strings.Builder
	kinds, values, sizes := []string{"R", "R", "R", "Widerst.", ""}, []string{"4k7", "8k2", "471", "1,000", "10k", "blue", "2R2"}, []string{"0805", "0603", "2012", "x"}
	d := &measuretest.Draws{State: 16}
	for n := range 40 {
		fmt.Fprintf(&file, "%s;%s;P-%d;%s;%s;%s;\n", kinds[d.IntN(5)], []string{"Tidewright", "TW"}[d.IntN(2)], 1+n%30, values[d.IntN(7)], []string{"1%", "5%", "?"}[d.IntN(3)], sizes[d.IntN(4)])
	}
	i := h.Listed(file.String())
	beside := h.Beside() // which works everything out for itself
	some := func() (rows []int) {
		for range 1 + d.IntN(4) {
			if r := 2 + d.IntN(40); !slices.Contains(rows, r) {
				rows = append(rows, r)
			}
		}
		return rows
	}
	word := func(from, to string, of []string) wire.IntakeEdit {
		return wire.IntakeEdit{Changes: []crosswalk.Change{{Rule: &crosswalk.Rule{From: from, To: to, Words: map[string]string{of[d.IntN(len(of))]: []string{"470", "1k", "0805"}[d.IntN(3)]}}}}}
	}
	edits := []func() wire.IntakeEdit{
		func() wire.IntakeEdit { return wire.IntakeEdit{LeaveOut: some()} },
		func() wire.IntakeEdit { return wire.IntakeEdit{TakeBack: some()} },
		func() wire.IntakeEdit {
			return wire.IntakeEdit{Rows: some(), Drawer: []string{"chip-resistors", "ceramic-capacitors"}[d.IntN(2)]}
		},
		func() wire.IntakeEdit {
			return wire.IntakeEdit{Rows: some(), Decide: &intake.Decision{As: []string{intake.Keep, intake.Fill, intake.Replace}[d.IntN(3)]}}
		},
		func() wire.IntakeEdit {
			return wire.IntakeEdit{Cells: []wire.CellEdit{{Row: some()[0], Field: []string{"Value", "Size", "Tol", "MPN", "Kind"}[d.IntN(5)], Text: []string{"3k3", "0402", "2%", "Q-9", "R"}[d.IntN(5)]}}}
		},
		func() wire.IntakeEdit { return word("Value", "@leading", values) },
		func() wire.IntakeEdit { return word("Size", "case", sizes) },
		func() wire.IntakeEdit {
			return wire.IntakeEdit{Changes: []crosswalk.Change{{Kinds: map[string]string{"Widerst.": "chip-resistors"}}}}
		},
		func() wire.IntakeEdit {
			return wire.IntakeEdit{Changes: []crosswalk.Change{{Makers: map[string]string{"TW": "Tidewright"}}}}
		},
		func() wire.IntakeEdit {
			return wire.IntakeEdit{Known: []string{intake.Replace, intake.Fill, intake.Keep, intake.Ask}[d.IntN(4)]}
		},
		func() wire.IntakeEdit { return wire.IntakeEdit{Suggested: true} },
		func() wire.IntakeEdit { return wire.IntakeEdit{DropChanges: []int{0}} },
	}
	changed, settled, refused, left := 0, 0, 0, 0
	for step := range 60 {
		in := edits[d.IntN(len(edits))]()
		if len(in.DropChanges) > 0 && len(i.Changes) == 0 {
			continue
		}
		before, rows := written(t, h), rowsOf(t, beside, i)
		tried, err := h.Intakes.Try(t.Context(), h.Me, housetest.ID(t, i.ID), wire.IntakeTry{IntakeEdit: in, Limit: 1000})
		require.Equal(t, before, written(t, h), "step %d: a preview writes nothing", step)
		now, failed := h.Intakes.Edit(t.Context(), h.Me, housetest.ID(t, i.ID), i.Version, in)
		wide := len(in.Changes) > 0 || in.Known != "" || in.Suggested
		if e := new(deed.Error); errors.As(failed, &e) && e.Type == "settled" { // what somebody settled stays, until it is said
			require.Positive(t, tried.Settled)
			require.Equal(t, rows, rowsOf(t, beside, i))
			refused++
			if next, ok := leavingSettled(t, h, beside, i, in, rows, tried.Moved); ok { // the rest changes and they stay
				i = next
				left++
				continue
			}
			in.EvenSettled = true
			now, failed = h.Intakes.Edit(t.Context(), h.Me, housetest.ID(t, i.ID), i.Version, in)
		} else if wide && failed == nil {
			require.Zero(t, tried.Settled, "step %d: %+v", step, in)
		}
		if failed != nil {
			require.Error(t, err, "what cannot be made cannot be previewed either: %v", failed)
			assert.Equal(t, failed.Error(), err.Error())
			continue
		}
		require.NoError(t, err)
		i = now
		after := rowsOf(t, beside, i)
		require.Equal(t, after, rowsOf(t, h, i), "step %d: what was worked out ahead is what another instance works out", step)
		require.Equal(t, differing(rows, after), movedOf(tried.Moved), "step %d: %+v", step, in)
		require.Equal(t, tried.Rows, len(tried.Moved))
		require.True(t, sort.SliceIsSorted(tried.Moved, func(a, b int) bool { return tried.Moved[a].Settled != "" && tried.Moved[b].Settled == "" }), "those that are settled come first")
		changed += tried.Rows
		settled += tried.Settled
	}
	assert.Greater(t, changed, 100)
	assert.Greater(t, settled, 5)
	assert.Positive(t, refused)
	assert.Positive(t, left)
	reader := h.Me
	reader.Actor.Role = deed.Reader
	_, err := h.Intakes.Try(t.Context(), reader, housetest.ID(t, i.ID), wire.IntakeTry{})
	housetest.Fails(t, err, "not-allowed")
}

// leavingSettled makes an edit that leaves alone what somebody settled: it is not made at all, or its preview names what it changes and each
// thing that was settled is what it was.
func leavingSettled(t *testing.T, h, beside housetest.House, i wire.Intake, in wire.IntakeEdit, rows map[int]map[string]string, moved []intake.Moved) (wire.Intake, bool) {
	t.Helper()
	in.KeepSettled = true
	tried, err := h.Intakes.Try(t.Context(), h.Me, housetest.ID(t, i.ID), wire.IntakeTry{IntakeEdit: in, Limit: 1000})
	require.NoError(t, err)
	now, err := h.Intakes.Edit(t.Context(), h.Me, housetest.ID(t, i.ID), i.Version, in)
	if err != nil {
		housetest.Fails(t, err, "settled")
		require.Equal(t, rows, rowsOf(t, beside, i))
		return i, false
	}
	after := rowsOf(t, beside, now)
	require.Equal(t, differing(rows, after), movedOf(tried.Moved))
	for _, m := range moved {
		for _, v := range m.Moves {
			if v.Settled != "" && v.What != "number" {
				require.Equal(t, rows[m.Row][v.What], after[m.Row][v.What], "row %d: %s", m.Row, v.Settled)
			}
		}
	}
	return now, true
}

// differing are the rows that are another thing afterwards: what about them, from what to what.
func differing(was, now map[int]map[string]string) map[int][]string {
	out := map[int][]string{}
	for row, a := range was {
		b := now[row]
		keys := map[string]bool{}
		for k := range a {
			keys[k] = true
		}
		for k := range b {
			keys[k] = true
		}
		for k := range keys {
			if a[k] != b[k] {
				out[row] = append(out[row], k+": "+a[k]+" → "+b[k])
			}
		}
		sort.Strings(out[row])
	}
	for row, all := range out {
		if len(all) == 0 {
			delete(out, row)
		}
	}
	return out
}

func movedOf(all []intake.Moved) map[int][]string {
	out := map[int][]string{}
	for _, m := range all {
		for _, v := range m.Moves {
			if from, to := strings.TrimSuffix(v.From, " (not read)"), strings.TrimSuffix(v.To, " (not read)"); v.What != "number" && from != to {
				out[m.Row] = append(out[m.Row], v.What+": "+from+" → "+to)
			}
		}
		sort.Strings(out[m.Row])
	}
	return out
}

// A text that somebody settled is not read anew by a later rule, a corrected cell is not overruled, a row put into a drawer by hand is not
// sorted again: the later edit says which rows it would change and changes nothing, until it is told that it may.
func TestWhatSomebodySettledStaysSettled(t *testing.T) {
	rule := func(r crosswalk.Rule) wire.IntakeEdit {
		return wire.IntakeEdit{Changes: []crosswalk.Change{{Rule: &r}}}
	}
	for _, x := range []struct {
		name, file     string
		settle, undoes wire.IntakeEdit
		says           string
	}{
		{"a settled text", "R;Tidewright;P-1;471;1%;0805;\nR;Tidewright;P-2;22;1%;0805;\n", rule(crosswalk.Rule{From: "Value", To: "@leading", Words: map[string]string{"471": "470 ohm"}}), rule(crosswalk.Rule{From: "Value", To: "@leading", Unit: "kOhm"}), `row 2, resistance from 470 Ω to 471 kΩ ("471" was settled as "470 ohm")`},
		{"a corrected cell", "R;Tidewright;P-1;4k7;1%;0805;\n", wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 2, Field: "Tol", Text: "5%"}}}, rule(crosswalk.Rule{From: "Tol", To: "tolerance", Words: map[string]string{"5%": "10%"}}), `tolerance from ±5 % to ±10 % (the cell "Tol" was corrected to "5%")`},
		{"a row left out by hand stays out", "R;Tidewright;P-1;4k7;1%;0805;\n", wire.IntakeEdit{LeaveOut: []int{2}}, rule(crosswalk.Rule{From: "Tol", To: "tolerance", Words: map[string]string{"1%": "10%"}}), ""},
		{"a row of its own drawer", "R;Tidewright;P-1;100;1%;0805;\n", wire.IntakeEdit{Rows: []int{2}, Drawer: "ferrite-beads"}, wire.IntakeEdit{Changes: []crosswalk.Change{{Kinds: map[string]string{"R": "thermistors"}}}}, ""},
	} {
		h := housetest.Open(t)
		i := h.EditIntake(h.Listed(x.file), x.settle)
		before := rowsOf(t, h, i)
		tried, err := h.Intakes.Try(t.Context(), h.Me, housetest.ID(t, i.ID), wire.IntakeTry{IntakeEdit: x.undoes})
		require.NoError(t, err, x.name)
		_, err = h.Intakes.Edit(t.Context(), h.Me, housetest.ID(t, i.ID), i.Version, x.undoes)
		if x.says == "" {
			require.NoError(t, err, x.name)
			assert.Zero(t, tried.Settled, x.name)
			continue
		}
		assert.Contains(t, housetest.Fails(t, err, "settled").Error(), x.says, x.name)
		assert.Equal(t, before, rowsOf(t, h, i), x.name)
		assert.Equal(t, 1, tried.Settled, x.name)
		x.undoes.EvenSettled = true
		i = h.EditIntake(i, x.undoes)
		assert.Equal(t, differing(before, rowsOf(t, h, i)), movedOf(tried.Moved), x.name)
	}
}

// A cause that was accepted as a whole and is taken back is found again at once, here and elsewhere.
func TestAWholeCauseThatIsTakenBackIsFoundAgain(t *testing.T) {
	h := housetest.Open(t)
	var file strings.Builder
	for n := range 5001 { // more than are accepted one by one
		fmt.Fprintf(&file, "R;Tidewright;WC-%d;4k7;1%%;0805;\n", n)
	}
	i := h.Listed(file.String())
	count := func(at housetest.House) (n int) {
		now, err := at.Intakes.Get(t.Context(), h.Me, housetest.ID(t, i.ID))
		require.NoError(t, err)
		for _, c := range now.Causes {
			if c.Cause.Cause == "no-datasheet" {
				n = c.Count
			}
		}
		return n
	}
	require.Equal(t, 5001, count(h))
	i = h.EditIntake(i, wire.IntakeEdit{Waive: &wire.WaiveEdit{Cause: "no-datasheet", Why: "none is needed"}})
	assert.Zero(t, count(h))
	i = h.EditIntake(i, wire.IntakeEdit{DropWaivers: []int{0}})
	assert.Equal(t, []int{5001, 5001}, []int{count(h), count(h.Beside())})
}
