package lookup

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

// dots are the signs of a range that could be taken for a point: "4...10" does not end at .10.
var dots = strings.NewReplacer("...", " to ", "..", " to ", "…", " to ")

// wholeNumbers reads what is asked of a parameter that holds whole numbers, in all the ways in which a measure is asked for: "4",
// "4..6", "at least 4", "4 or 6". It has no unit of its own, so the text is read under two that have nothing in common: one that
// brings a unit along is not read under both.
func wholeNumbers(text string) (m measure.Measure, ok bool) {
	text = dots.Replace(text)
	a := measure.Parse(text, measure.Options{Of: measure.RotationRate, Unit: "rpm"})
	b := measure.Parse(text, measure.Options{Of: measure.SoundLevel, Unit: "dBA"})
	same := func(a, b measure.Number) bool { return a.Cmp(b) == 0 }
	if a.Outcome != measure.Read || b.Outcome != measure.Read || a.Measure.Shape != b.Measure.Shape || !slices.EqualFunc(a.Measure.Each(), b.Measure.Each(), same) {
		return m, false
	}
	return a.Measure, a.Measure.Shape != measure.Deviation
}

// asked says which whole numbers m stands for behind op, and how that is said.
func asked(op string, m measure.Measure) (holds func(measure.Number) bool, as string) {
	if op == "" || op == ":" || op == "=" {
		op = cmp.Or(limits[m.Shape], "=")
		switch m.Shape {
		case measure.Range:
			return func(n measure.Number) bool { return n.Cmp(m.Low) >= 0 && n.Cmp(m.High) <= 0 }, m.Low.String() + " to " + m.High.String()
		case measure.List:
			all := m.Each()
			shown := make([]string, len(all))
			for i, n := range all {
				shown[i] = n.String()
			}
			return func(n measure.Number) bool {
				return slices.ContainsFunc(all, func(one measure.Number) bool { return n.Cmp(one) == 0 })
			}, strings.Join(shown, " or ")
		}
	}
	return func(n measure.Number) bool { return compared(n.Cmp(m.Value()), op) }, shownOp(op) + " " + m.Value().String()
}

// whole adds the whole numbers for which holds is true, of all parameters.
func (v *values) whole(holds func(measure.Number) bool, into valueSet) {
	for i := range v.all {
		if v.all[i].Type == cabinet.Number && holds(measure.Whole(v.all[i].Number)) {
			into[uint32(i)] = true
		}
	}
}

// wholeNumbers reads the whole numbers behind a parameter's name; ok is false where none stand there.
func (r *reader) wholeNumbers(c condition, op, label string) (condition, bool) {
	for n := min(6, len(r.words)-r.i); n > 0; n-- {
		if n > 1 && parting(r.words[r.i:r.i+n]) || r.ofNext(n) {
			continue
		}
		m, ok := wholeNumbers(strings.Join(r.words[r.i:r.i+n], " "))
		if !ok {
			continue
		}
		r.i += n
		holds, as := asked(op, m)
		c.ids = valueSet{}
		r.x.vals.whole(holds, c.ids)
		c.fact = Fact{As: label + " " + as, Kind: "value"}
		return c, true
	}
	if op == "" || op == ":" || op == "=" {
		return c, false
	}
	c.fact = Fact{As: fmt.Sprintf("%q is no number; it was left out", strings.TrimPrefix(r.words[r.i], "\"")), Kind: "skipped"}
	r.i++
	c.ids, c.param = nil, ""
	return c, true
}
