package lookup

import (
	"cmp"
	"fmt"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

// dots are the signs of a range that could be taken for a point: "4...10" does not end at .10.
var dots = strings.NewReplacer("...", " to ", "..", " to ", "…", " to ")

// counts reads what is asked of a parameter that holds whole numbers, in all the ways in which a measure is asked for: "4", "4..6",
// "at least 4", "4 or 6". It has no unit of its own, so the text is read under two that have nothing in common: one that brings a
// unit along is not read under both.
func counts(text string) (m measure.Measure, ok bool) {
	text = dots.Replace(text)
	a := measure.Parse(text, measure.Options{Of: measure.RotationRate, Unit: "rpm"})
	b := measure.Parse(text, measure.Options{Of: measure.SoundLevel, Unit: "dBA"})
	if a.Outcome != measure.Read || b.Outcome != measure.Read || a.Measure.Shape != b.Measure.Shape {
		return m, false
	}
	all, other := a.Measure.Each(), b.Measure.Each()
	if len(all) != len(other) {
		return m, false
	}
	for i := range all {
		if all[i].Cmp(other[i]) != 0 {
			return m, false
		}
	}
	return a.Measure, a.Measure.Shape != measure.Deviation
}

// counting says which whole numbers are meant by m behind op, and how that is said.
func counting(op string, m measure.Measure) (holds func(measure.Number) bool, as string) {
	if op == "" || op == ":" || op == "=" {
		op = cmp.Or(limits[m.Shape], "=")
		switch m.Shape {
		case measure.Range:
			return func(n measure.Number) bool { return n.Cmp(m.Low) >= 0 && n.Cmp(m.High) <= 0 }, m.Low.String() + " to " + m.High.String()
		case measure.List:
			var shown []string
			for _, n := range m.Each() {
				shown = append(shown, n.String())
			}
			return func(n measure.Number) bool {
				for _, one := range m.Each() {
					if n.Cmp(one) == 0 {
						return true
					}
				}
				return false
			}, strings.Join(shown, " or ")
		}
	}
	return func(n measure.Number) bool { return compared(n.Cmp(m.Value()), op) }, shownOp(op) + " " + m.Value().String()
}

// counted adds the values of all parameters with whole numbers for which holds is true.
func (v *values) counted(holds func(measure.Number) bool, into valueSet) {
	for i := range v.all {
		if v.all[i].Type == cabinet.Number && holds(measure.Whole(v.all[i].Number)) {
			into[uint32(i)] = true
		}
	}
}

// counts reads the whole numbers behind a parameter's name; ok is false where none stand there.
func (r *reader) counts(c condition, op, label string) (condition, bool) {
	if strings.ToLower(r.words[r.i]) == "not" && !r.last() {
		c.not = !c.not
		r.i++
	}
	for n := min(6, len(r.words)-r.i); n > 0; n-- {
		if n > 1 && parting(r.words[r.i:r.i+n]) || r.ofNext(n) {
			continue
		}
		m, ok := counts(strings.Join(r.words[r.i:r.i+n], " "))
		if !ok {
			continue
		}
		r.i += n
		holds, as := counting(op, m)
		c.ids = valueSet{}
		r.x.vals.counted(holds, c.ids)
		c.fact = Fact{As: label + " " + as, Kind: "value"}
		if c.not {
			c.fact.As = "not " + c.fact.As
		}
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
