package lookup

import (
	"cmp"
	"math/bits"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

// Answer is one page of parts, the number of all, and what else the question tells.
type Answer struct {
	Rows    []Row
	Total   int
	Hidden  int // parts that fit the text but not the filters
	Facts   []Fact
	Facets  []Facet // of the columns beside the parameters, then of the parameters
	Relax   []Relaxation
	Drawers map[string]int // counts among all that fit the text and the other filters
	Groups  []FacetValue   // of the group column, in order
}

// Relaxation says what leaving a fact out would give, where all of them together give nothing.
type Relaxation struct {
	Fact  string `json:"fact"`
	Write string `json:"write" doc:"The text without the fact, or with the nearest value"`
	As    string `json:"as"`
	Parts int    `json:"parts"`
}

// hits are the parts of one shelf that fit.
type hits struct {
	s    *shelf
	text bitset   // fit the text
	pass bitset   // and all filters
	but  []bitset // by filter: and all filters but this one
	list []uint32 // the rows of pass, once they were asked for
}

func (h *hits) rows() []uint32 {
	if h.list == nil {
		h.list = h.pass.list()
	}
	return h.list
}

// Search answers a query.
func (x *Index) Search(q Query) Answer {
	defer x.hold(q)()
	conds := x.read(q.Text)
	x.locate(conds)
	a := Answer{Facts: []Fact{}, Drawers: map[string]int{}, Relax: []Relaxation{}, Facets: []Facet{}}
	for _, c := range conds {
		f := c.fact
		f.Options = append([]Reading{}, f.Options...)
		a.Facts = append(a.Facts, f)
	}
	filters := x.filters(q)
	var all []hits
	for _, s := range x.shelves {
		if s.n == 0 {
			continue
		}
		text := x.fit(s, conds, -1)
		if text == nil {
			continue
		}
		fits := count(text)
		h := hits{s: s, text: text}
		x.pass(&h, filters)
		n := count(h.pass)
		a.Total += n
		a.Hidden += fits - n
		all = append(all, h)
	}
	x.countDrawers(&a, all, filters)
	if q.Facets {
		a.Facets = x.facets(all, filters)
	}
	if a.Total == 0 && len(conds) > 0 {
		a.Relax = x.relax(conds, filters)
	}
	if q.Group != "" {
		a.Groups = x.groups(all, q.Group)
	}
	a.Rows = x.list(x.page(all, q, a.Total), q.pieces())
	return a
}

// IDs returns the IDs of all parts that a query finds, in its order, at most limit. Walking over them holds no lock
// and no more than one entry.
func (x *Index) IDs(q Query, limit int) []string {
	defer x.hold(q)()
	conds, filters := x.read(q.Text), x.filters(q)
	x.locate(conds)
	var all []hits
	total := 0
	for _, s := range x.shelves {
		h := hits{s: s, text: x.fit(s, conds, -1)}
		if h.text == nil {
			continue
		}
		x.pass(&h, filters)
		total += count(h.pass)
		all = append(all, h)
	}
	q.Offset, q.Limit = 0, limit
	rows := x.page(all, q, total)
	out := make([]string, len(rows))
	for i, r := range rows {
		out[i] = x.ids.get(r)
	}
	return out
}

// fit returns the live parts of a shelf that every condition holds for, but for the one to be left out; nil where
// there are none.
func (x *Index) fit(s *shelf, conds []condition, but int) bitset {
	for k := range conds {
		if c := &conds[k]; k != but && c.fact.Kind != "skipped" && !c.not && !x.may(s, c) {
			return nil
		}
	}
	acc := slices.Clone(s.live)
	var one bitset
	for k := range conds {
		c := &conds[k]
		if k == but || c.fact.Kind == "skipped" || c.drawers[s.drawer] && !c.not {
			continue
		}
		if one == nil {
			one = newBits(len(s.rows))
		}
		clear(one)
		x.mark(s, c, acc, one)
		if c.not {
			acc.andNot(one)
		} else {
			acc.and(one)
		}
		if empty(acc) {
			return nil
		}
	}
	return acc
}

// may says whether a condition can hold for any part of a shelf, from what its columns hold at all.
func (x *Index) may(s *shelf, c *condition) bool {
	if c.drawers[s.drawer] || c.incomplete || c.blank {
		return true
	}
	for _, r := range c.rows {
		if x.rows[r].shelf == s.at {
			return true
		}
	}
	for _, p := range c.at[s.at] {
		if p.col.count[p.code] > 0 {
			return true
		}
	}
	return false
}

func empty(b bitset) bool {
	for _, w := range b {
		if w != 0 {
			return false
		}
	}
	return true
}

// mark sets in into the rows of among that a condition holds for, whatever its "not".
func (x *Index) mark(s *shelf, c *condition, among, into bitset) {
	if c.drawers[s.drawer] {
		copy(into, among)
		return
	}
	for _, r := range c.rows {
		if row := &x.rows[r]; row.shelf == s.at && among.has(row.local) {
			into.set(row.local)
		}
	}
	if c.incomplete {
		s.incomplete(x.vals, into)
	}
	if c.blank {
		col := s.byKey[c.param]
		if col == nil {
			if s.tpl == nil || s.tpl.Has(c.param) {
				copy(into, among)
			}
			return
		}
		want := make([]uint8, len(col.dict))
		want[0] = 1
		col.codes.mark(want, among, into)
		return
	}
	for at := c.at[s.at]; len(at) > 0; {
		col, n := at[0].col, 1
		for n < len(at) && at[n].col == col {
			n++
		}
		want := make([]uint8, len(col.dict))
		for _, p := range at[:n] {
			want[p.code] = 1
		}
		if col.all(want, s.n) {
			copy(into, among)
			return
		}
		col.codes.mark(want, among, into)
		at = at[n:]
	}
}

// locate works out where the values of the conditions stand, column by column.
func (x *Index) locate(conds []condition) {
	for k := range conds {
		c := &conds[k]
		c.at = make([][]place, len(x.shelves))
		for _, set := range [...]struct {
			ids      valueSet
			signless bool
		}{{c.ids, false}, {c.sizes, true}} {
			for id := range set.ids {
				for _, p := range x.vals.places[id] {
					signless := c.sizes != nil && p.col.param != nil && p.col.param.Signless
					if lead, only := c.leads[x.shelves[p.shelf].drawer]; only && lead != p.col.key {
						continue // "ldo 3.3V" is one of 3.3 V, not one that can be fed with it
					}
					if signless == set.signless && (c.param == "" || p.col.key == c.param) {
						c.at[p.shelf] = append(c.at[p.shelf], p)
					}
				}
			}
		}
		for _, at := range c.at {
			slices.SortFunc(at, func(a, b place) int { return cmp.Or(cmp.Compare(a.col.at, b.col.at), cmp.Compare(a.code, b.code)) })
		}
	}
}

// all says whether every live part of the shelf has a wanted code.
func (c *column) all(want []uint8, live int) bool {
	n := 0
	for code, w := range want {
		n += int(w) * int(c.count[code])
	}
	return n == live
}

// codesOf holds a 1 for each code of the column whose value is in a set; nil where none is.
func (c *column) codesOf(ids valueSet) (want []uint8) {
	put := func(code uint32) {
		if want == nil {
			want = make([]uint8, len(c.dict))
		}
		want[code] = 1
	}
	if len(ids) < len(c.dict) {
		for id := range ids {
			if code, ok := c.find[id]; ok {
				put(code)
			}
		}
		return want
	}
	for code, id := range c.dict {
		if code > 0 && ids[id] {
			put(uint32(code))
		}
	}
	return want
}

// relax says, for each fact, how many parts leaving it out would give, and the nearest value that is there.
func (x *Index) relax(conds []condition, filters []filter) []Relaxation {
	out := []Relaxation{}
	for k := range conds {
		if conds[k].fact.Kind == "skipped" {
			continue
		}
		n := 0
		near := map[uint32]int{}
		for _, s := range x.shelves {
			h := hits{s: s, text: x.fit(s, conds, k)}
			if h.text == nil {
				continue
			}
			x.pass(&h, filters)
			n += count(h.pass)
			if c := &conds[k]; c.dim != measure.None && !c.not {
				for _, col := range s.cols {
					if c.param == "" || c.param == col.key {
						x.nearby(col, c.dim, h.pass, near)
					}
				}
			}
		}
		if n == 0 {
			continue
		}
		var words []string
		for o := range conds {
			if o != k {
				words = append(words, conds[o].fact.Text)
			}
		}
		rest := strings.Join(words, " ")
		out = append(out, Relaxation{Fact: conds[k].fact.Text, Write: rest, As: "without " + conds[k].fact.noted(), Parts: n})
		if id, ok := x.nearest(conds[k].value, near); ok {
			v := x.vals.all[id].Measure
			out = append(out, Relaxation{Fact: conds[k].fact.Text, Write: strings.TrimSpace(rest + " " + v.String()), As: "with " + v.String() + " instead of " + conds[k].fact.As, Parts: near[id]})
		}
	}
	slices.SortStableFunc(out, func(a, b Relaxation) int { return cmp.Compare(b.Parts, a.Parts) })
	return out
}

// noted is a fact with what more there is to say of it.
func (f Fact) noted() string {
	if f.Note == "" {
		return f.As
	}
	return f.As + " (" + f.Note + ")"
}

// nearby counts the values of a dimension among the rows of a set.
func (x *Index) nearby(col *column, dim measure.Dimension, rows bitset, into map[uint32]int) {
	if len(col.dict) < 2 || x.vals.all[col.dict[1]].Measure.Of != dim {
		return
	}
	counts := make([]uint32, len(col.dict))
	col.codes.tally(rows.list(), counts)
	for code, n := range counts {
		if v := x.vals.all[col.dict[code]]; n > 0 && v.Type == cabinet.Measure && v.Measure.Of == dim {
			into[col.dict[code]] += int(n)
		}
	}
}

func (x *Index) nearest(to measure.Measure, among map[uint32]int) (best uint32, ok bool) {
	want := to.Value().Float64()
	if want <= 0 {
		return 0, false
	}
	gap := 0.0
	for id := range among {
		have := x.vals.all[id].Measure.Value().Float64()
		if have <= 0 {
			continue
		}
		g := max(have/want, want/have)
		if !ok || g < gap || g == gap && id < best {
			best, gap, ok = id, g, true
		}
	}
	return best, ok && gap < 10
}

// each calls f with every row of a set.
func (b bitset) each(f func(i uint32)) {
	for w, word := range b {
		for word != 0 {
			f(uint32(w<<6 | bits.TrailingZeros64(word)))
			word &= word - 1
		}
	}
}
