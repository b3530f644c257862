package lookup

import (
	"cmp"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

// values keeps one copy of each distinct value of the library, numbered, and finds them by word, size and dimension.
// A library holds few distinct ones. Number 0 is the blank value.
type values struct {
	all    []cabinet.Value
	texts  []string  // by number: the value as people write it
	floats []float64 // by number: about its size, to compare quickly; exact comparing decides between equal ones
	find   chains
	sets   map[uint32][]string // by number: the members of a value that is a set of several
	terms  map[string][]uint32 // words of values, in capitals
	blob   arena               // the terms, to look for pieces of words
	byTerm []string
	sizes  map[measureTerm][]uint32
	of     map[measure.Dimension][]uint32
	places [][]place // by number: where the value stands
}

// place is one column of one shelf that holds a value, and the code that it has there.
type place struct {
	shelf uint16
	col   *column
	code  uint32
}

type measureTerm struct {
	of    measure.Dimension
	value measure.Number
}

func newValues() *values {
	v := &values{sets: map[uint32][]string{}, terms: map[string][]uint32{}, sizes: map[measureTerm][]uint32{}, of: map[measure.Dimension][]uint32{}}
	v.number(cabinet.Value{})
	return v
}

// valueHash is the same for equal values.
func valueHash(v cabinet.Value) string {
	var room [256]byte
	return string(v.AppendJSON(room[:0]))
}

// number returns the number of a value, a new one where it is not known yet.
func (vs *values) number(v cabinet.Value) uint32 {
	key := valueHash(v)
	found, ok := uint32(0), false
	vs.find.each(key, func(i uint32) bool {
		if vs.all[i] == v {
			found, ok = i, true
		}
		return !ok
	})
	if ok {
		return found
	}
	i := uint32(len(vs.all))
	v.Text = strings.Clone(v.Text) // the original may keep a whole document alive
	v.Measure.Note, v.Measure.Cond, v.Measure.Items = strings.Clone(v.Measure.Note), strings.Clone(v.Measure.Cond), strings.Clone(v.Measure.Items)
	vs.all, vs.texts = append(vs.all, v), append(vs.texts, v.String())
	size := 0.0
	if v.Type == cabinet.Measure {
		size = v.Measure.Value().Float64()
	}
	vs.floats, vs.places = append(vs.floats, size), append(vs.places, nil)
	vs.find.add(hashOf(key))
	switch v.Type {
	case "":
	case cabinet.Measure:
		for _, n := range v.Measure.Each() {
			t := measureTerm{v.Measure.Of, n}
			vs.sizes[t] = append(vs.sizes[t], i)
		}
		vs.of[v.Measure.Of] = append(vs.of[v.Measure.Of], i)
		for _, words := range []string{v.Measure.Note, v.Measure.Cond} {
			if words != "" {
				vs.term(words, i)
			}
		}
	default:
		text := v.String()
		vs.term(text, i)
		if strings.Contains(text, several) { // each member of a set is a term, also one of several words
			vs.sets[i] = strings.Split(text, several)
			for _, m := range vs.sets[i] {
				vs.term(m, i)
			}
		}
		for _, w := range wordsOf(text) {
			vs.term(w, i)
		}
	}
	return i
}

func (vs *values) term(s string, i uint32) {
	s = strings.ToUpper(s)
	list, known := vs.terms[s]
	if known && list[len(list)-1] == i {
		return
	}
	if !known {
		vs.blob.add(s)
		vs.byTerm = append(vs.byTerm, s)
	}
	vs.terms[s] = append(list, i)
}

// valueSet is a set of value numbers.
type valueSet map[uint32]bool

func (s valueSet) add(ids []uint32) {
	for _, i := range ids {
		s[i] = true
	}
}

// equal adds the values that a measure stands for when somebody names it: the same size, a list that has it, a range
// that holds it.
func (vs *values) equal(m measure.Measure, into valueSet) {
	if m.Items != "" || m.Shape == measure.Range {
		for _, i := range vs.of[m.Of] {
			if v := vs.all[i].Measure; v.Shape == m.Shape && v.Low == m.Low && v.High == m.High && v.Items == m.Items && holdsUnder(m, v) {
				into[i] = true
			}
		}
		return
	}
	for _, i := range vs.sizes[measureTerm{m.Of, m.Value()}] {
		if holdsUnder(m, vs.all[i].Measure) {
			into[i] = true
		}
	}
	if m.Shape == measure.Nominal {
		for _, i := range vs.of[m.Of] {
			if v := vs.all[i].Measure; holdsUnder(m, v) && within(v, m.High) {
				into[i] = true
			}
		}
	}
}

// holdsUnder says whether a value may be meant by one that is asked for: a question without a condition finds a value
// under any; one that names its condition finds those under the same, and those that name none.
func holdsUnder(asked, v measure.Measure) bool {
	return asked.Cond == "" || v.Cond == "" || asked.Cond == v.Cond
}

// within says whether a number lies in a range, or in one of several.
func within(v measure.Measure, n measure.Number) bool {
	ends := []measure.Number{v.Low, v.High}
	switch v.Shape {
	case measure.Range:
	case measure.Ranges:
		ends = v.Each()
	default:
		return false
	}
	for i := 0; i+1 < len(ends); i += 2 {
		if ends[i].Cmp(n) <= 0 && ends[i+1].Cmp(n) >= 0 {
			return true
		}
	}
	return false
}

// compare adds the values for which "value op m" holds: for >= and > the upper end counts, for <= and < the lower.
func (vs *values) compare(op string, m measure.Measure, into valueSet) {
	for _, i := range vs.of[m.Of] {
		v := vs.all[i].Measure
		if deviation := v.Shape == measure.Deviation; deviation != (m.Shape == measure.Deviation) && deviation {
			v = measure.Of(v.Of, v.Value())
		}
		low, high := ends(v)
		if holds(op, low, high, m.Value()) {
			into[i] = true
		}
	}
}

// holds says whether "value op x" is true of a value between two ends.
func holds(op string, low, high, x measure.Number) bool {
	switch op {
	case ">=":
		return high.Cmp(x) >= 0
	case ">":
		return high.Cmp(x) > 0
	case "<=":
		return low.Cmp(x) <= 0
	case "<":
		return low.Cmp(x) < 0
	}
	return low.Cmp(x) <= 0 && high.Cmp(x) >= 0
}

// ends are the lowest and highest number of a value, as far as comparing goes.
func ends(v measure.Measure) (low, high measure.Number) {
	switch v.Shape {
	case measure.AtMost, measure.Below:
		return v.High, v.High
	case measure.AtLeast, measure.Above:
		return v.Low, v.Low
	case measure.Deviation:
		return v.Value(), v.Value()
	}
	return v.Low, v.High
}

// sized is compare, and equal for "=", by size alone: for parameters whose sign does not count.
func (vs *values) sized(op string, m measure.Measure, into valueSet) {
	want := unsignedOf(m.Value())
	for _, i := range vs.of[m.Of] {
		v := vs.all[i].Measure
		if (v.Shape == measure.Deviation) != (m.Shape == measure.Deviation) && v.Shape == measure.Deviation && op == "=" {
			continue
		}
		low, high := ends(v)
		if low, high = unsignedOf(low), unsignedOf(high); low.Cmp(high) > 0 {
			low, high = high, low
		}
		if op == "=" && !(holdsUnder(m, v) && low == want && high == want) {
			continue
		}
		if op == "=" || holds(op, low, high, want) {
			into[i] = true
		}
	}
}

func unsignedOf(n measure.Number) measure.Number {
	if n.Sign() < 0 {
		return n.Neg()
	}
	return n
}

// withinSizes is within by size alone.
func (vs *values) withinSizes(from, to measure.Measure, into valueSet) {
	vs.within(from, to, into)
	lo, hi := unsignedOf(from.Value()), unsignedOf(to.Value())
	if lo.Cmp(hi) > 0 {
		lo, hi = hi, lo
	}
	for _, i := range vs.of[from.Of] {
		v := vs.all[i].Measure
		if v.Shape == measure.Nominal && v.High.Sign() < 0 {
			if n := v.High.Neg(); n.Cmp(lo) >= 0 && n.Cmp(hi) <= 0 {
				into[i] = true
			} else {
				delete(into, i)
			}
		}
	}
}

// within adds the values between two ends; a range counts when all of it is between them.
func (vs *values) within(from, to measure.Measure, into valueSet) {
	lo, hi := from.Value(), to.Value()
	if lo.Cmp(hi) > 0 {
		lo, hi = hi, lo
	}
	for _, i := range vs.of[from.Of] {
		v := vs.all[i].Measure
		low, high := v.Value(), v.Value()
		if v.Items != "" || v.Shape == measure.Range {
			low = v.Low
		}
		if low.Cmp(lo) >= 0 && high.Cmp(hi) <= 0 {
			into[i] = true
		}
	}
}

// unsized says whether a value has no size to sort by: it is blank, or was never read.
func unsized(v cabinet.Value) bool { return v.IsBlank() || v.Type == cabinet.Raw }

// compareValues orders values by size, texts by their letters; what has no size comes last.
func compareValues(a, b cabinet.Value) int {
	if ua, ub := unsized(a), unsized(b); ua || ub {
		if ua == ub {
			return cmp.Compare(a.Text, b.Text)
		}
		if ua {
			return 1
		}
		return -1
	}
	if a.Type == cabinet.Measure && b.Type == cabinet.Measure {
		return a.Measure.Cmp(b.Measure)
	}
	if a.Type == cabinet.Number && b.Type == cabinet.Number {
		return cmp.Compare(a.Number, b.Number)
	}
	return cmp.Compare(a.String(), b.String())
}
