package cli_test

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/measure/measuretest"
	"jollydrawer/internal/wire"
)

// asked is what a command answers in JSON.
func asked[T any](x terminal, args ...string) (out T) {
	x.t.Helper()
	stdout, stderr, code := x.run(append([]string{"--json"}, args...)...)
	require.Contains(x.t, []int{0, 3}, code, "%v: %s", args, stderr)
	require.NoError(x.t, json.Unmarshal([]byte(stdout), &out), "%v: %s", args, stdout)
	return out
}

// looks is what the rows of an intake become: by row, all that a preview may name.
func (x terminal) looks(intake string) map[int]map[string]string {
	out := map[int]map[string]string{}
	for _, r := range asked[wire.IntakeRows](x, "intake", "rows", intake, "--limit", "500").Items {
		out[r.Row] = map[string]string{"state": r.State, "drawer": r.Drawer, "source": strings.TrimSpace(r.Manufacturer + " " + r.MPN)}
		for key, v := range r.Values {
			out[r.Row][key] = v
		}
	}
	return out
}

// trade is a supplier of one trade: its heading, how its fields are mapped, and its texts, messy as they come.
type trade struct {
	supplier, drawer, field string
	head                    string
	maps                    [][]string
	values                  []string
}

var trades = []trade{
	{"Marsh resistors", "chip-resistors", "Ohms", "Part;Brand;Ohms;Tol;Size", [][]string{{"Part", "take.mpn"}, {"Brand", "take.manufacturer"}, {"Ohms", "resistance"}, {"Tol", "tolerance"}, {"Size", "case", "--case-system", "inch"}}, []string{"4k7", "471", "1,000", "blue", "2R2", "10"}},
	{"Pier capacitors", "ceramic-capacitors", "Cap", "MPN;Maker;Cap;Tol;Size;Stock", [][]string{{"MPN", "take.mpn"}, {"Maker", "take.manufacturer"}, {"Cap", "capacitance"}, {"Tol", "tolerance"}, {"Size", "case", "--case-system", "inch"}, {"Stock", "-"}}, []string{"100n", "104", "1.000", "0,1", "22p", "?"}},
	{"Quay crystals", "crystals", "Freq", "Number;Made by;Freq;Tol;Text", [][]string{{"Number", "take.mpn"}, {"Made by", "take.manufacturer"}, {"Freq", "frequency"}, {"Text", "take.description"}}, []string{"8 MHz", "16", "12.000", "32,768 kHz", "none"}},
}

// settled is what one person left of one intake: what must stay.
type settled struct {
	trade
	number, path string
	rows         int
	out          map[int]bool
	drawers      map[int]string
	cells        map[int]map[string]string // row → field → text
	values       map[int]map[string]string // row → parameter → value when it was settled
}

// Twenty intakes of three trades, and two hundred steps in changing order: cells, rows and mends of any kind. After each step every row that
// somebody settled is as they left it, and what was shown before is what changed. Taken in and opened again, each file is clean.
func TestWhatIsSettledStaysSettledThroughTwoHundredMends(t *testing.T) {
	x := sit(t)
	_, stderr, code := x.run("cabinet", "apply", "../demo/cabinet.yaml")
	require.Zero(t, code, stderr)
	d := &measuretest.Draws{State: 200}
	do := func(args ...string) {
		t.Helper()
		_, stderr, code := x.run(args...)
		require.Contains(t, []int{0, 3}, code, "%v: %s", args, stderr)
	}
	var all []*settled
	for n := range 20 {
		s := &settled{trade: trades[n%3], rows: 12, out: map[int]bool{}, drawers: map[int]string{}, cells: map[int]map[string]string{}, values: map[int]map[string]string{}}
		var text strings.Builder
		text.WriteString(s.head + "\n")
		width := strings.Count(s.head, ";") + 1
		for r := range s.rows {
			cells := []string{fmt.Sprintf("X%dR%d", n, r), []string{"Tidewright", "Kelpline"}[d.IntN(2)], s.trade.values[d.IntN(len(s.trade.values))], []string{"1%", "5%", "9"}[d.IntN(3)], []string{"0805", "0603"}[d.IntN(2)], "7"}
			text.WriteString(strings.Join(cells[:width], ";") + "\n")
		}
		s.path = filepath.Join(x.work, fmt.Sprintf("list%d.csv", n))
		require.NoError(t, os.WriteFile(s.path, []byte(text.String()), 0o644))
		i := asked[wire.Intake](x, "intake", "open", s.supplier, s.path)
		s.number = i.Number
		for _, m := range s.maps {
			do(append([]string{"intake", "map", s.number}, append(m, "--yes")...)...)
		}
		sort := []string{"intake", "sort", s.number, s.drawer}
		for r := range s.rows {
			sort = append(sort, strconv.Itoa(r+2))
			s.drawers[r+2] = s.drawer
		}
		do(sort...)
		all = append(all, s)
	}
	made, moved, refused := 0, 0, 0
	for step := 0; step < 200; step++ {
		s := all[d.IntN(len(all))]
		row := 2 + d.IntN(s.rows)
		field := s.field
		var args []string
		named := 0
		switch d.IntN(6) {
		case 0, 1:
			args, named = []string{"intake", "cell", s.number, strconv.Itoa(row), field, s.trade.values[d.IntN(len(s.trade.values))]}, row
		case 2:
			args, named = []string{"intake", "leave-out", s.number, strconv.Itoa(row)}, row
		case 3:
			args, named = []string{"intake", "leave-out", s.number, strconv.Itoa(row), "--undo"}, row
		default:
			causes := asked[[]wire.Cause](x, "intake", "causes", s.number)
			if len(causes) == 0 {
				continue
			}
			c := causes[d.IntN(len(causes))]
			if len(c.Mends) == 0 { // rows that say nothing to sort them by
				continue
			}
			m := c.Mends[d.IntN(len(c.Mends))]
			say := map[string]string{"drawer": s.drawer, "word": s.trade.values[0], "text": "1%"}[m.Needs]
			if m.Waive {
				say = "looked at"
			}
			if m.Choice != nil || m.Change != nil && m.Change.Drop != nil { // another thing, and a field that goes with all that was settled of it
				continue
			}
			args = []string{"intake", "mend", s.number, c.Name, m.Name, "--say", say}
			if d.IntN(2) == 0 { // the identifier that JSON shows is as good as the name
				args[3] = c.Cause.Cause
			}
			args = append(args, "--yes")
		}
		before := x.looks(s.number)
		tried := asked[wire.IntakeTried](x, append(slices.Clone(args), "--try")...)
		require.Equal(t, before, x.looks(s.number), "%v: a preview changes nothing", args)
		_, stderr, code := x.run(args...)
		after := x.looks(s.number)
		if code == 1 && tried.Settled > 0 {
			refused++
			assert.Contains(t, stderr, "settled", "%v", args)
			require.Equal(t, before, after, "%v: what would change a settled row changes nothing", args)
			continue
		}
		require.Contains(t, []int{0, 3}, code, "%v: %s", args, stderr)
		made++
		want, got := []int{}, []int{}
		for _, m := range tried.Moved {
			want = append(want, m.Row)
		}
		slices.Sort(want)
		for r := 2; r < s.rows+2; r++ {
			if !assert.ObjectsAreEqual(before[r], after[r]) {
				got = append(got, r)
			}
		}
		require.Equal(t, want, got, "%v: the rows that were named are those that changed", args)
		moved += len(got)

		if named > 0 {
			switch args[1] {
			case "cell":
				if s.cells[row] == nil {
					s.cells[row] = map[string]string{}
				}
				s.cells[row][field] = args[5]
				s.values[row] = after[row]
			case "leave-out":
				if s.out[row] = len(args) == 4; !s.out[row] { // takes back what was decided about the row
					delete(s.out, row)
					delete(s.drawers, row)
					delete(s.cells, row)
					delete(s.values, row)
				}
			}
		}
		if args[1] == "mend" && args[4] == "leave-out" {
			for r, look := range after {
				if look["state"] == "left out" {
					s.out[r] = true
				}
			}
		}
		for r := range s.out {
			require.Equal(t, "left out", after[r]["state"], "%v: row %d of %s", args, r, s.number)
		}
		for r, drawer := range s.drawers {
			if !s.out[r] {
				require.Equal(t, drawer, after[r]["drawer"], "%v: row %d of %s", args, r, s.number)
			}
		}
		for r := range s.cells {
			detail := asked[wire.IntakeRowDetail](x, "intake", "row", s.number, strconv.Itoa(r))
			for _, c := range detail.Cells {
				if text, ok := s.cells[r][c.Field]; ok {
					require.True(t, c.Edited || c.Text == text, "%v: row %d of %s", args, r, s.number)
					require.True(t, c.Text == text || c.Corrected == text, "%v: row %d of %s", args, r, s.number)
				}
			}
			leading := map[string]string{"chip-resistors": "resistance", "ceramic-capacitors": "capacitance", "crystals": "frequency"}[s.drawer]
			if was := s.values[r][leading]; !s.out[r] && r != row && s.values[r]["state"] == "new" && after[r]["drawer"] == s.drawer && !strings.HasPrefix(args[len(args)-1], "--even") {
				if v := after[r][leading]; v != was && was != s.cells[r][field] { // a text that was not read may become readable
					require.Equal(t, was, v, "%v: row %d of %s", args, r, s.number)
				}
			}
		}
	}
	t.Logf("%d steps made, %d rows changed, %d refused because they would have changed what was settled", made, moved, refused)
	assert.Greater(t, made, 120)
	assert.NotZero(t, refused)
	elsewhere := 0
	for _, s := range all {
		shown := asked[wire.Intake](x, "intake", "show", s.number)
		decided, left := shown.Decisions["holds"]+shown.Decisions["needless"], shown.Counts["blocked"]+shown.Counts["unsorted"]
		if _, stderr, code := x.run("intake", "take-in", s.number, "--leave-blocked"); code == 1 { // its mapping would change what is settled in another that lies open
			require.Contains(t, stderr, "which is open, the crosswalk would change")
			elsewhere++
			do("intake", "take-in", s.number, "--leave-blocked", "--even-settled")
		}
		was := asked[wire.DecisionList](x, "intake", "decisions", s.number, "--limit", "500")
		again := asked[wire.Intake](x, "intake", "open", s.supplier, s.path)
		assert.Equal(t, shown.Decisions, again.Decisions, "%s: all that was decided stands as it stood", s.number)
		assert.Len(t, was.Items, decided)
		looks := x.looks(again.Number)
		for r := range s.out {
			assert.Equal(t, "left out", looks[r]["state"], "row %d of %s opened again", r, s.number)
		}
		assert.Zero(t, again.Counts["update"]+again.Counts["differs"]+again.Counts["alternate"], "%s opened again is clean: %v", s.number, again.Counts)
		assert.LessOrEqual(t, again.Counts["new"], left, "%s: only rows that could not be taken in before: %v", s.number, again.Counts)
	}
	assert.NotZero(t, elsewhere, "what is settled in one intake stays so when another is taken in")
}
