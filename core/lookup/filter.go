package lookup

import (
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

// filter is one facet's choice.
type filter struct {
	key     string
	ids     valueSet
	blank   bool
	drawers map[string]bool
	rows    map[uint32]bool // of the index, where it names parts
	ranges  []between       // of what suppliers offer
	pieces  int64
}

// filters reads the chosen values; what names no value there is fits nothing.
func (x *Index) filters(q Query) (out []filter) {
	in := q.Filters
	keys := make([]string, 0, len(in))
	for k, vs := range in {
		if len(vs) > 0 {
			keys = append(keys, k)
		}
	}
	slices.Sort(keys)
	for _, k := range keys {
		if offered(k) {
			out = append(out, supplyFilter(k, in[k], q.pieces()))
			continue
		}
		f := filter{key: k, ids: valueSet{}}
		if set, ok := q.Sets[k]; ok {
			f.rows = make(map[uint32]bool, len(set))
			for _, id := range set {
				if i, there := x.row(id); there {
					f.rows[i] = true
				}
			}
			out = append(out, f)
			continue
		}
		if k == "drawer" {
			f.drawers = map[string]bool{}
			for _, d := range in[k] {
				f.drawers[d] = true
				if x.cab == nil {
					continue
				}
				for _, t := range x.cab.Templates() {
					if t.Inside(d) {
						f.drawers[t.Key] = true
					}
				}
			}
			out = append(out, f)
			continue
		}
		p, _ := x.parameter(k)
		for _, text := range in[k] {
			x.choose(&f, text, p)
		}
		out = append(out, f)
	}
	return out
}

// choose adds a chosen value; ok is false where it is none that the parameter could have, such as a size that cannot be read, or no
// choice of it.
func (x *Index) choose(f *filter, text string, p cabinet.Parameter) (ok bool) {
	if text == "-" {
		f.blank = true
		return true
	}
	unread := false // it stands so in a list of values, where nobody could read it: it is not what it could be read as
	for _, i := range x.vals.terms[strings.ToUpper(text)] {
		if v := x.vals.all[i]; v.Type == cabinet.Raw && v.String() == text {
			f.ids[i], unread = true, true
		}
	}
	if unread {
		return true
	}
	dim, ok := measure.ParseDimension(p.Of)
	measured := ok && dim != measure.None
	op, size := ended(strings.TrimSpace(text))
	if (measured || op != "") && strings.Contains(text, "...") { // "1...5 k" may end at 0.5 k
		return false
	}
	if p.Type == cabinet.Number {
		if m, ok := wholeNumbers(size); ok && m.Tol == measure.NoTol && (op == "" || m.Shape == measure.Nominal) {
			holds, _ := asked(op, m)
			x.vals.whole(holds, f.ids)
			return true
		}
	}
	if measured {
		if op == "" {
			words := strings.Fields(text)
			if from, to, _, n := x.rangeAt(words, measure.Options{Of: dim}); n > 0 && n == len(words) {
				x.vals.within(from, to, f.ids)
				return true
			}
		}
		if r := measure.Parse(strings.TrimSpace(size), measure.Options{Of: dim, Mark: measure.MarkPoint}); r.Outcome == measure.Read && (op == "" || limit(r)) {
			if op != "" {
				x.vals.compare(op, measure.Of(r.Measure.Of, r.Measure.Value()), f.ids)
				return true
			}
			same := false // what reads as more than one value is found as it stands; who means a comparison gets no answer to another question
			for _, i := range x.vals.of[dim] {
				if x.vals.all[i].Measure.InPercent() == r.Measure.InPercent() {
					f.ids[i], same = true, true
				}
			}
			return same || r.Measure.Shape == measure.Nominal || r.Measure.Shape == measure.Deviation
		}
	}
	found, possible := false, p.Type == cabinet.Text || p.Type == cabinet.Link
	switch p.Type {
	case cabinet.Choice, cabinet.YesNo, cabinet.Date: // in another spelling, too
		if v, problem := p.Read(text, measure.Options{}); problem == nil && v.Type == p.Type {
			text, possible = v.String(), true
		}
	}
	for _, i := range x.vals.terms[strings.ToUpper(text)] {
		if v := x.vals.all[i]; strings.EqualFold(v.String(), text) || slices.ContainsFunc(x.vals.members(i), func(m string) bool { return strings.EqualFold(m, text) }) {
			f.ids[i], found = true, true
		}
	}
	return found || possible
}

// ended takes a range with one end, "..10 k" or "10 k..", as the comparison that it is; op is blank where it is none.
func ended(text string) (op, size string) {
	if most, ok := strings.CutPrefix(text, ".."); ok {
		return "<=", most
	}
	if least, ok := strings.CutSuffix(text, ".."); ok {
		return ">=", least
	}
	return "", text
}

// of marks the rows of a shelf that a filter lets through.
func (f *filter) of(s *shelf, among, into bitset) {
	if f.drawers != nil {
		if f.drawers[s.drawer] {
			copy(into, among)
		}
		return
	}
	if f.rows != nil {
		among.each(func(i uint32) {
			if f.rows[s.rows[i]] {
				into.set(i)
			}
		})
		return
	}
	col := s.byKey[f.key]
	if col == nil {
		if f.blank {
			copy(into, among)
		}
		return
	}
	want := col.codesOf(f.ids)
	if f.blank {
		if want == nil {
			want = make([]uint8, len(col.dict))
		}
		want[0] = 1
	}
	if want != nil {
		col.codes.mark(want, among, into)
	}
}

// pass works out which parts all filters let through, and which all but one.
func (x *Index) pass(h *hits, filters []filter) {
	if len(filters) == 0 {
		h.pass = h.text
		return
	}
	each := make([]bitset, len(filters))
	h.pass = slices.Clone(h.text)
	for k := range filters {
		each[k] = newBits(len(h.s.rows))
		if offered(filters[k].key) {
			x.through(&filters[k], h.s, h.text, each[k])
		} else {
			filters[k].of(h.s, h.text, each[k])
		}
		h.pass.and(each[k])
	}
	for k := range filters {
		but := slices.Clone(h.text)
		for o := range filters {
			if o != k {
				but.and(each[o])
			}
		}
		h.but = append(h.but, but)
	}
}
