package bom

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
	"jollydrawer/core/measure/measuretest"
	"jollydrawer/core/part"
)

// world is a library of made parts of every drawer that a BOM names, and what lines are written from.
type world struct {
	*measuretest.Draws
	cab   *cabinet.Cabinet
	index *lookup.Index
	parts []*madePart
	seen  map[string]int // how many parts have the same facts
}

type madePart struct {
	number, maker, mpn string
	t                  *cabinet.Template
	values             map[string]cabinet.Value
}

var makers = []string{"Tidewright", "Kelpline Components", "Oystercatch Devices", "Brackwater Connectors", "Gannet Time"}

var words = []string{"buck", "quad", "single", "dual", "flash", "serial", "gate", "comparator", "timer", "driver"}

func drawn[T any](w *world, list []T) T { return list[w.IntN(len(list))] }

func newWorld(t testing.TB, seed uint64, each int) *world {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	w := &world{Draws: &measuretest.Draws{State: seed}, cab: cab, index: lookup.New(), seen: map[string]int{}}
	w.index.SetCabinet(cab)
	counters := map[string]int{}
	var entries []*lookup.Entry
	for _, tpl := range cab.Templates() {
		if !tpl.Leaf || tpl.Prefix == "" || tpl.Designator == "" {
			continue
		}
		for range each {
			p := &madePart{t: tpl, values: map[string]cabinet.Value{}, maker: drawn(w, makers)}
			for _, key := range w.keys(tpl) {
				if s, ok := tpl.Slot(key); ok {
					if v := w.value(&s, tpl); !v.IsBlank() {
						p.values[key] = v
					}
				}
			}
			if more, err := tpl.Derive(p.values); err == nil {
				for k, v := range more {
					p.values[k] = v
				}
			}
			counters[tpl.Prefix]++
			p.number = tpl.PartNumber(int64(counters[tpl.Prefix]))
			p.mpn = fmt.Sprintf("%s%c%c-%d%c-%s", strings.ToUpper(p.maker[:2]), 'A'+w.IntN(26), 'A'+w.IntN(26), 100+len(w.parts), 'A'+w.IntN(26), drawn(w, []string{"X", "TQ", "ZW"}))
			w.parts = append(w.parts, p)
			w.seen[p.facts()]++
			e := lookup.NewEntry(part.Content{Drawer: tpl.Key, Values: p.values, Sources: []part.Source{{Manufacturer: p.maker, MPN: p.mpn, Numbers: []part.Number{{Supplier: "Marsh Lane Components", Number: fmt.Sprintf("ML%d-%c", 70000+len(w.parts), 'A'+w.IntN(26))}}}}})
			e.ID, e.Number, e.Standing, e.Revision, e.Version = p.number, p.number, lifecycle.Active, 1, 1
			entries = append(entries, e)
		}
	}
	w.index.Put(entries...)
	return w
}

// keys are the parameters that made parts of a drawer have.
func (w *world) keys(t *cabinet.Template) (out []string) {
	for _, k := range append(append([]string{t.Leading, t.Case}, t.Identity...), t.Columns...) {
		if k != "" && !slices.Contains(out, k) {
			out = append(out, k)
		}
	}
	return out
}

func (w *world) value(s *cabinet.Slot, t *cabinet.Template) cabinet.Value {
	text := ""
	switch s.Type {
	case cabinet.Measure:
		text = w.sized(s)
	case cabinet.Choice:
		text = drawn(w, s.Choices)
	case cabinet.Number:
		text = fmt.Sprint(2 + w.IntN(40))
	case cabinet.Text:
		switch {
		case s.Key == t.Case && (t.Inside("passives") || t.Inside("leds")):
			text = drawn(w, []string{"0402", "0603", "0805", "1206", "1210"})
		case s.Key == t.Case:
			text = drawn(w, []string{"SOT-23", "SOIC-8", "QFN-24", "TSSOP-14", "DIP-8", "TO-220"})
		case s.ChipCode != "":
			return cabinet.Value{}
		default:
			text = drawn(w, words) + " " + drawn(w, words)
		}
	default:
		return cabinet.Value{}
	}
	v, problem := s.Read(text, measure.Options{})
	if problem != nil {
		return cabinet.Value{}
	}
	return v
}

// sized draws a value of the usual sizes of a parameter.
func (w *world) sized(s *cabinet.Slot) string {
	of, _ := measure.ParseDimension(s.Of)
	if s.Deviation {
		return drawn(w, []string{"1 %", "2 %", "5 %", "10 %", "20 %"})
	}
	for range 60 {
		n, err := measure.NewNumber(drawn(w, []int64{10, 12, 15, 18, 22, 27, 33, 39, 47, 56, 68, 82}), w.IntN(24)-13)
		if err != nil {
			continue
		}
		text := measure.Of(of, n).String()
		if v, problem := s.Read(text, measure.Options{}); problem == nil && s.Unusual(v) == "" {
			return text
		}
	}
	return ""
}

// facts is what tells a part from others.
func (p *madePart) facts() string {
	out := p.t.Designator
	for _, k := range []string{p.t.Leading, p.t.Case} {
		out += "|" + p.values[k].String()
	}
	return out
}

// madeLine is a line with the record it was written from.
type madeLine struct {
	line  Line
	part  *madePart
	exact bool   // an identity that links
	harm  string // what was damaged
}

var madeColumns = Columns{{At: 0, Heading: "Ref", Role: Designator}, {At: 1, Heading: "No", Role: Number}, {At: 2, Heading: "MPN", Role: MPN}, {At: 3, Heading: "Maker", Role: Manufacturer},
	{At: 4, Heading: "Value", Role: Value}, {At: 5, Heading: "Package", Role: Package}, {At: 6, Heading: "Text", Role: Description}}

// written writes a value as people do.
func (w *world) written(v cabinet.Value) string {
	s := v.String()
	if v.Type != cabinet.Measure {
		return s
	}
	switch w.IntN(5) {
	case 0:
		return strings.ReplaceAll(s, " ", "")
	case 1:
		if m := v.Measure.Marking(); m != "" {
			return m
		}
	case 2:
		return strings.ReplaceAll(strings.ReplaceAll(s, "Ω", "ohm"), "µ", "u")
	case 3:
		return strings.Replace(s, " ", "\u00a0", 1)
	}
	return s
}

// packaged writes a case as drawings do.
func (w *world) packaged(p *madePart) string {
	c := p.values[p.t.Case].Text
	metric, chip := measure.CaseToMetric(c)
	if !chip {
		return drawn(w, []string{c, strings.ReplaceAll(c, "-", ""), strings.ToLower(c), strings.Replace(c, "-", " ", 1)})
	}
	letter := p.t.Designator[:1]
	return drawn(w, []string{c, letter + c, strings.ToLower(letter) + "-" + c, letter + "_" + c + "_" + metric + "Metric", c + " (" + metric + " Metric)", "RESC" + metric + "X55N", metric + " metric", c + " inch", c + "/" + metric})
}

// write writes a line for a part, in one of the ways that BOMs have.
func (w *world) write(p *madePart, n int) madeLine {
	l := Line{Row: n + 2, Written: fmt.Sprintf("%s%d", p.t.Designator, n+1), Quantity: 1}
	l.Designators = []string{l.Written}
	out := madeLine{part: p, exact: true}
	switch w.IntN(6) {
	case 0:
		l.Number = drawn(w, []string{p.number, strings.ToLower(p.number), strings.ReplaceAll(p.number, "-", " "), strings.ReplaceAll(p.number, "-", "")})
	case 1, 2:
		l.MPN, l.Manufacturer = p.mpn, drawn(w, []string{p.maker, strings.ToUpper(p.maker), p.maker + " Ltd"})
	case 3:
		l.MPN = drawn(w, []string{p.mpn, strings.ReplaceAll(p.mpn, "-", ""), strings.ToLower(p.mpn)})
	default:
		out.exact = false
	}
	if v := p.values[p.t.Leading]; !v.IsBlank() && (!out.exact || w.IntN(3) > 0) {
		l.Value = w.written(v)
	}
	if v := p.values[p.t.Case]; !v.IsBlank() && (!out.exact || w.IntN(2) > 0) {
		l.Package = w.packaged(p)
	}
	if w.IntN(3) == 0 || l.Value == "" && !out.exact {
		l.Description = w.describe(p)
	}
	out.line = l
	return out
}

// describe writes a description from what the drawer's own would hold.
func (w *world) describe(p *madePart) string {
	var out []string
	if first, _, ok := strings.Cut(p.t.Description, " "); ok && !strings.Contains(first, "{") {
		out = append(out, first)
	}
	for _, k := range p.t.Identity {
		if v := p.values[k]; !v.IsBlank() && k != p.t.Case && v.Type == cabinet.Measure && w.sole(p.t, k) {
			out = append(out, strings.ReplaceAll(v.String(), " ", ""))
		}
	}
	if len(out) < 2 {
		return ""
	}
	return strings.Join(out, drawn(w, []string{" ", ", ", "; "}))
}

// sole says whether a parameter is the only one of its kind in a drawer, so that its values need no name.
func (w *world) sole(t *cabinet.Template, key string) bool {
	s, _ := t.Slot(key)
	n := 0
	for i := range t.Slots {
		if o := &t.Slots[i]; o.Type == s.Type && o.Of == s.Of && o.Deviation == s.Deviation {
			n++
		}
	}
	return n == 1
}

// harm changes one thing that a line says; it is false where there is nothing of the kind to change.
func (w *world) harm(l *madeLine) bool {
	p, line := l.part, &l.line
	other := drawn(w, w.parts)
	for other == p || other.mpn == p.mpn {
		other = drawn(w, w.parts)
	}
	s, _ := p.t.Slot(p.t.Leading)
	switch w.IntN(6) {
	case 0:
		if line.Value == "" || s.Type != cabinet.Measure || s.Better == "more" {
			return false
		}
		v := w.value(&s, p.t)
		if v.IsBlank() || compare(&s, v.Measure, p.values[p.t.Leading]) != Contradicts || s.Signless {
			return false
		}
		l.harm, line.Value = "value", w.written(v)
	case 1:
		c := drawn(w, []string{"0201", "2010", "2512", "SOT-89", "LQFP-48", "1812"})
		if line.Package == "" || strings.Contains(line.Package, c) {
			return false
		}
		l.harm, line.Package = "package", c
	case 2:
		if line.MPN == "" || line.Manufacturer == "" {
			return false
		}
		l.harm, line.Manufacturer = "maker", "Sandpiper Electronics"
	case 3:
		if line.MPN == "" || line.Value == "" && line.Package == "" || other.t == p.t {
			return false
		}
		if line.Manufacturer != "" && other.maker != p.maker {
			return false
		}
		l.harm, line.MPN = "mpn of another part", other.mpn
	case 4:
		if line.Number == "" || line.Value == "" || other.t.Designator == p.t.Designator {
			return false
		}
		l.harm, line.Number = "number of another kind of part", other.number
	case 5:
		tol, ok := p.t.Slot("tolerance")
		v := p.values["tolerance"]
		if !ok || v.IsBlank() || line.Value == "" || !w.sole(p.t, "tolerance") || tol.Type != cabinet.Measure {
			return false
		}
		wrong := "7 %"
		l.harm, line.Value = "tolerance", line.Value+" "+wrong
	}
	return true
}

func TestMadeLinesAreLinkedRightlyOrNotAtAll(t *testing.T) {
	w := newWorld(t, 11, 14)
	var lines []madeLine
	kinds := map[string]bool{}
	made := 3600
	if testing.Short() { // as for every mistake of make mutants
		made = 900
	}
	for n := range made {
		l := w.write(drawn(w, w.parts), n)
		if n%3 == 0 {
			for range 20 {
				if w.harm(&l) {
					break
				}
			}
		}
		kinds[l.part.t.Key] = true
		lines = append(lines, l)
	}
	assert.GreaterOrEqual(t, len(kinds), 40, "kinds of part")
	plain := make([]Line, len(lines))
	for i, l := range lines {
		plain[i] = l.line
	}
	verdicts := Reconcile(plain, w.index, w.cab, Known{Columns: madeColumns})
	exact, linked, single, first, third, bad, open := 0, 0, 0, 0, 0, 0, ""
	harmed := map[string]int{}
	for i, v := range verdicts {
		l := lines[i]
		wrong := func(what string) {
			if bad++; bad < 15 {
				assert.Fail(t, what, "%+v of %s %v (%s) is %s %v: %v", l.line, l.part.number, l.part.values, l.harm, v.Kind, v.Evidence, v.Tally)
			}
		}
		switch {
		case v.Kind == Linked && l.harm != "":
			wrong("a damaged line was linked")
		case v.Kind == Linked && v.Part.Number != l.part.number:
			wrong("linked to another part")
		}
		for _, o := range append(v.Options, v.Part) {
			if o == nil || l.exact || l.harm != "" {
				continue
			}
			if tally := Lay(l.line, o, w.index, w.cab, Known{Columns: madeColumns}); len(against(tally)) > 0 {
				wrong("a record was proposed that the line contradicts: " + o.Number)
			}
		}
		switch {
		case l.harm != "":
			harmed[l.harm]++
		case l.exact:
			exact++
			if v.Kind == Linked {
				linked++
			} else if len(open) < 900 {
				open += fmt.Sprintf("%+v of %s: %s %v %v\n", l.line, l.part.number, v.Kind, v.Evidence, v.Tally)
			}
		case w.seen[l.part.facts()] == 1 && l.line.Value != "" && l.line.Package != "":
			single++
			var shown []string
			if v.Part != nil {
				shown = append(shown, v.Part.Number)
			}
			for _, o := range v.Options {
				shown = append(shown, o.Number)
			}
			if len(shown) > 0 && shown[0] == l.part.number {
				first++
			} else if len(open) < 900 {
				open += fmt.Sprintf("BARE %+v of %s %v: %s %v %v\n", l.line, l.part.number, l.part.values, v.Kind, v.Evidence, shown)
			}
			if slices.Contains(shown[:min(3, len(shown))], l.part.number) {
				third++
			}
		}
	}
	t.Logf("%d lines in %d kinds: %d of %d exact ones linked; of %d that the facts single out %d first, %d among three; damaged %v", len(lines), len(kinds), linked, exact, single, first, third, harmed)
	assert.Zero(t, bad)
	assert.GreaterOrEqual(t, float64(linked)/float64(exact), 0.95, open)
	assert.GreaterOrEqual(t, float64(first)/float64(single), 0.95, open)
	assert.GreaterOrEqual(t, float64(third)/float64(single), 0.99, open)
	assert.GreaterOrEqual(t, len(harmed), 6)
}
