package intake

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/finding"
	"jollydrawer/core/measure"
	"jollydrawer/core/origin"
	"jollydrawer/core/part"
	"jollydrawer/internal/golden"
)

// shop is the list of testdata/shop.csv under its crosswalk, beside a library of three parts and three models.
func shop(t *testing.T, edits Edits) *Result {
	t.Helper()
	doc := cabinet.Starter()
	for i := range doc.Drawers {
		if doc.Drawers[i].Key == "chip-resistors" {
			doc.Drawers[i].Models = cabinet.Models{Symbol: "Resistor", LandPattern: "Any chip", LandPatterns: map[string]string{"0805": "Chip 0805"}}
		}
	}
	cab, err := cabinet.New(doc)
	require.NoError(t, err)
	text, err := os.ReadFile(filepath.Join("testdata", "shop.yaml"))
	require.NoError(t, err)
	cw, err := crosswalk.Parse(text)
	require.NoError(t, err)
	text, err = os.ReadFile(filepath.Join("testdata", "shop.csv"))
	require.NoError(t, err)
	var table *Table
	n := 1
	for line := range strings.Lines(string(text)) {
		if cells := strings.Split(strings.TrimRight(line, "\n"), "|"); table == nil {
			table = NewTable(cells)
		} else {
			table.Add(Row{Number: n, Cells: cells})
		}
		n++
	}
	lib := library{}
	tpl, _ := cab.Template("chip-resistors")
	for i, ohms := range []string{"10 kΩ", "13 kΩ", "15 kΩ"} {
		values := map[string]cabinet.Value{}
		for key, text := range map[string]string{"resistance": ohms, "tolerance": "±1 %", "power": "125 mW", "case": "0805"} {
			s, _ := tpl.Slot(key)
			v, problem := s.Read(text, measure.Options{})
			require.Nil(t, problem)
			values[key] = v
		}
		more, err := tpl.Derive(values)
		require.NoError(t, err)
		for k, v := range more {
			values[k] = v
		}
		src := part.Source{Manufacturer: "Tidewright", MPN: []string{"LIB-1", "LIB-2", "LIB-9"}[i], Numbers: []part.Number{{Supplier: "Tern Quay Stock", Number: []string{"L1", "L2", "L9"}[i]}}}
		p := part.Content{Drawer: "chip-resistors", Values: values, Sources: []part.Source{src}}
		p.Description, p.Symbol = tpl.Describe(values), &part.Model{ID: "m", Name: "Resistor", Revision: 1}
		lib[src.Key()] = Existing{ID: fmt.Sprint("id", i), Number: fmt.Sprintf("R-00%d00", []int{7, 8, 9}[i]), Version: 1, Content: p}
	}
	models := func(kind, name string) (part.Model, bool) {
		for _, have := range []string{"symbol/Resistor", "land pattern/Chip 0805", "land pattern/Any chip"} {
			if have == kind+"/"+name {
				return part.Model{ID: have, Name: name, Revision: 2}, true
			}
		}
		return part.Model{}, false
	}
	return Build(Input{File: "f", Name: "shop.csv", Table: table, Crosswalk: cw, Cabinet: cab, Library: lib, Models: models, Edits: edits, Next: map[string]int64{"R": 950}})
}

// told writes down all that a result says.
func told(r *Result) string {
	var out strings.Builder
	for i, c := range r.Candidates {
		cells := r.in.Table.Row(c.at).Cells
		fmt.Fprintf(&out, "%d %s\n    %s", c.Row, strings.TrimRight(strings.Join(cells, "|"), "| "), c.State)
		if c.Drawer != "" {
			fmt.Fprintf(&out, " in %s (%s)", c.Drawer, c.Because)
		}
		if c.Why != "" {
			fmt.Fprintf(&out, ": %s", c.Why)
		}
		fmt.Fprintln(&out)
		if r.templates[c.Drawer] == nil {
			continue
		}
		r.EachValue(i, func(key string, v cabinet.Value, o origin.Origin, p *cabinet.Problem) {
			fmt.Fprintf(&out, "    %s = %s", key, v)
			if o.Written != v.String() {
				fmt.Fprintf(&out, " from %q", o.Written)
			}
			if o.Rule != "" {
				fmt.Fprintf(&out, " (%s)", o.Rule)
			}
			if p != nil {
				fmt.Fprintf(&out, " ! %s; %s", p.Why, p.Mend)
			}
			fmt.Fprintln(&out)
		})
		p := r.Content(i)
		fmt.Fprintf(&out, "    %q", p.Description)
		for _, m := range []*part.Model{p.Symbol, p.LandPattern} {
			if m != nil {
				fmt.Fprintf(&out, " with %s", m.ID)
			}
		}
		for _, s := range p.Sources {
			fmt.Fprintf(&out, " %s %s", s.Manufacturer, s.MPN)
			for _, n := range s.Numbers {
				fmt.Fprintf(&out, " %s", n.Number)
			}
		}
		if left := r.Unused(i); len(left) > 0 {
			fmt.Fprintf(&out, " unused %q", left)
		}
		fmt.Fprintln(&out)
	}
	for _, c := range finding.Group(r.Findings) {
		fmt.Fprintf(&out, "%s %s ×%d in %v %q: %s; %s\n", c.Severity, c.Cause, c.Count, c.Rows, c.Examples, c.What, c.Mend)
		if c.Waived > 0 {
			fmt.Fprintf(&out, "    %d accepted\n", c.Waived)
		}
		for _, m := range r.Mends(c) {
			fmt.Fprintf(&out, "    - %s\n", m.Label)
		}
	}
	for _, c := range r.Coverage() {
		fmt.Fprintf(&out, "%s: %d rows, %d facts unused\n", c.Drawer, c.Rows, c.Unused)
		for _, p := range c.Parameters {
			fmt.Fprintf(&out, "    %s from %q: %d filled, %d unread, required %v\n", p.Key, p.From, p.Filled, p.Unread, p.Required)
		}
	}
	for _, s := range States {
		fmt.Fprintf(&out, "%s %d\n", s, r.Counts[s])
	}
	return out.String()
}

func TestAListAsItWasRead(t *testing.T) {
	r := shop(t, Edits{})
	var out strings.Builder
	out.WriteString(told(r))
	for _, n := range []int{1, 2, 4} {
		samples, good, bad := r.Samples(crosswalk.Rule{From: "Value", To: "resistance", Drawers: []string{"chip-resistors"}}, n)
		fmt.Fprintf(&out, "%d samples of Value: %d good, %d bad\n", n, good, bad)
		for _, s := range samples {
			fmt.Fprintf(&out, "    row %d %q is %s %s%s\n", s.Row, s.Written, s.Value, s.Note, s.Problem)
		}
	}
	golden.Equal(t, filepath.Join("testdata", "shop.golden"), out.String())
}

func TestAListAsPeopleDecideIt(t *testing.T) {
	r := shop(t, Edits{Known: Replace, Like: AsSource, Fields: map[string]string{"power": Keep}, LeaveOut: []int{3}, Drawers: map[int]string{24: "leds"}, Cells: map[int]map[string]string{5: {"Value": "51k"}},
		Decide: map[int]Decision{30: {As: Keep, Why: "ours is right"}}, Waive: []Waiver{{Cause: "not-preferred:resistance", Why: "seen", Who: "Maren"}, {Cause: "required:chip-resistors.case", Rows: []int{4}, Why: "trimmed", Who: "Ole"}}})
	golden.Equal(t, filepath.Join("testdata", "decided.golden"), told(r))
}

func TestPastedTextsAsTheyWereRead(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	var out strings.Builder
	for _, text := range []string{
		"RES 4.7k 1% 0805 TW-0805-4K7",
		"MLCC 100nF 50V X7R 0603",
		"Kind\tResistor\nValue\t4k7\nCase\t0805",
		"100 nF 50 V 0603",
		"100 nF 50 V 0603 X7R ceramic",
		"Resistance: about ten\nCase: 0805\nKind: chip resistor",
		"Resistance: 10k\nResistance value: 12k\nCase: 0805\nKind: chip resistor",
		"Colour: warm-white\nIv: 20 mcd\nCase: 0805",
		"Colour: red\nNote: one two three four five six\nSeries: a b c d e f g",
		"Forward voltage: 0.5 V\nReverse voltage: 40 V\nCurrent: 2 A\nType: Schottky",
		"Reverse voltage: 40 V\nCurrent rating: 2 A",
		"nothing at all",
		"Part number: R-00012\nDatasheet: https://example.org/a.pdf\nDescription: RES 10k 0603 5%",
		"16 MHz crystal 18 pF 3225",
		"NPN 40 V 200 mA SOT-23",
		"Case\t0603\nTolerance\t5 %\nResistance\t10 kΩ\nPower\t0.1 W\nMoisture\t1\nBatch\t77",
	} {
		fmt.Fprintf(&out, "%q\n", text)
		p := Paste(ReadFields(text), cab, nil, "")
		fmt.Fprintf(&out, "    drawer %q because %s; by hand %q; %+v %s %s %q\n", p.Drawer, p.Because, p.ByHand, p.Source, p.Number, p.Link, p.Text)
		slices.SortFunc(p.Values, func(a, b Pasting) int { return strings.Compare(a.Key, b.Key) })
		for _, v := range p.Values {
			fmt.Fprintf(&out, "    %s = %s from %q %q: %s %s\n", v.Key, v.Value, v.Field, v.Written, v.Why, v.Problem)
		}
		for _, f := range p.Unused {
			fmt.Fprintf(&out, "    unused %q %q\n", f.Name, f.Text)
		}
		fmt.Fprintf(&out, "    numbers %q\n", p.MPNs)
	}
	golden.Equal(t, filepath.Join("testdata", "pasted.golden"), out.String())
}
