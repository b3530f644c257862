package lookup

import (
	"cmp"
	"math"
	"slices"
	"strings"
	"sync"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

// Facet counts the values of one column among the parts that fit the text and all filters but the column's own.
type Facet struct {
	Key    string       `json:"key"`
	Label  string       `json:"label"`
	Type   string       `json:"type"`
	Values []FacetValue `json:"values" doc:"Measures by size, others by count; at most 60"`
	Steps  []FacetStep  `json:"steps" doc:"Ranges in even steps, for measures with many values"`
	More   int          `json:"more" doc:"Values that are not listed"`
	Blank  int          `json:"blank" doc:"Parts without a value"`
}

// FacetValue is one value and how many parts have it.
type FacetValue struct {
	Value string `json:"value"`
	Parts int    `json:"parts"`
}

// FacetStep is a range and how many parts lie in it; Range is what a filter takes.
type FacetStep struct {
	Range string `json:"range"`
	Label string `json:"label"`
	Parts int    `json:"parts"`
}

// maxFacetValues is how many values a facet lists.
const maxFacetValues = 60

// countDrawers counts the parts of each drawer under all filters but the drawer's own.
func (x *Index) countDrawers(a *Answer, all []hits, filters []filter) {
	own := slices.IndexFunc(filters, func(f filter) bool { return f.key == "drawer" })
	for _, h := range all {
		rows := h.pass
		if own >= 0 {
			rows = h.but[own]
		}
		if n := count(rows); n > 0 {
			a.Drawers[h.s.drawer] = n
		}
	}
}

// facets counts the columns that all drawers with hits have in common: for one drawer, all of its template.
func (x *Index) facets(all []hits, filters []filter) []Facet {
	out := []Facet{}
	for _, key := range []string{colStatus, colStanding, colMaker, colMissing} {
		if f := x.facet(key, all, filters); len(f.Values) > 0 {
			out = append(out, f)
		}
	}
	out = append(out, x.supplyFacets(all, filters)...)
	var within []hits
	for _, h := range all {
		if !empty(h.pass) {
			within = append(within, h)
		}
	}
	if len(within) == 0 || within[0].s.tpl == nil {
		return out
	}
	chosen := map[string]bool{}
	for _, f := range filters {
		chosen[f.key] = true
	}
	for _, slot := range within[0].s.tpl.Slots {
		common := true
		for _, h := range within[1:] {
			common = common && h.s.tpl != nil && h.s.tpl.Has(slot.Key)
		}
		if common {
			if f := x.facet(slot.Key, all, filters); len(f.Values) > 0 || chosen[slot.Key] {
				out = append(out, f)
			}
		}
	}
	return out
}

// counted is the number of parts of each distinct value of a column.
type counted struct {
	ids    []uint32
	counts []uint32 // by number of the value
	blank  int
}

// tallies are lent for counting: an array over all values is quicker than a map, and is cleared where it was used.
var tallies = sync.Pool{New: func() any { return new([]uint32) }}

func (x *Index) lend() *[]uint32 {
	t, ok := tallies.Get().(*[]uint32)
	if !ok || len(*t) < len(x.vals.all) {
		fresh := make([]uint32, len(x.vals.all)+len(x.vals.all)/4)
		t = &fresh
	}
	return t
}

// giveBack clears what was counted and lets others use the array.
func (c *counted) giveBack(t *[]uint32) {
	for _, id := range c.ids {
		(*t)[id] = 0
	}
	tallies.Put(t)
}

// counted counts into an array that was lent; the caller gives it back with the ids as they are now.
func (x *Index) counted(key string, all []hits, filters []filter, lent *[]uint32) counted {
	own := slices.IndexFunc(filters, func(f filter) bool { return f.key == key })
	c := counted{counts: *lent}
	var codes []uint32
	for k := range all {
		h := &all[k]
		rows := h.rows()
		if own >= 0 {
			rows = h.but[own].list()
		}
		col := h.s.byKey[key]
		if col == nil {
			if h.s.tpl == nil || h.s.tpl.Has(key) {
				c.blank += len(rows)
			}
			continue
		}
		if id, ok := col.uniform(h.s.n); ok {
			if c.counts[id] == 0 && len(rows) > 0 {
				c.ids = append(c.ids, id)
			}
			c.counts[id] += uint32(len(rows))
			continue
		}
		if len(rows) < 2*len(col.dict) { // fewer parts than values
			var blank int
			blank, c.ids = col.codes.count(rows, col.dict, c.counts, c.ids)
			c.blank += blank
			continue
		}
		counts := col.count // of the whole shelf, which is kept
		if len(rows) < h.s.n {
			if len(codes) < len(col.dict) {
				codes = make([]uint32, 2*len(col.dict))
			}
			counts = codes[:len(col.dict)]
			clear(counts)
			col.codes.tally(rows, counts)
		}
		c.blank += int(counts[0])
		for code, n := range counts {
			if code > 0 && n > 0 {
				id := col.dict[code]
				if c.counts[id] == 0 {
					c.ids = append(c.ids, id)
				}
				c.counts[id] += n
			}
		}
	}
	return c
}

// label and type of a column.
func (x *Index) named(key string) (label, typ string) {
	switch key {
	case colStatus, colStanding, colMaker, colMissing:
		return strings.ToUpper(key[:1]) + key[1:], "text"
	}
	if x.cab != nil {
		if p, ok := x.cab.Parameter(key); ok {
			return p.Label, string(p.Type)
		}
	}
	return key, "text"
}

func (x *Index) facet(key string, all []hits, filters []filter) Facet {
	f := Facet{Key: key, Values: []FacetValue{}, Steps: []FacetStep{}}
	f.Label, f.Type = x.named(key)
	lent := x.lend()
	c := x.counted(key, all, filters, lent)
	used := counted{ids: slices.Clone(c.ids)}
	defer used.giveBack(lent)
	f.Blank = c.blank
	if key == colMaker || key == colMissing || key == colStatus {
		f.Values = x.memberCounts(c)
		f.cut()
		return f
	}
	if f.Type == string(cabinet.Measure) && len(c.ids) > 12 {
		f.Steps = x.steps(c)
	}
	c.sort()
	if f.More = max(0, len(c.ids)-maxFacetValues); f.More > 0 {
		c.ids = c.ids[:maxFacetValues]
	}
	if f.Type == string(cabinet.Measure) || f.Type == string(cabinet.Number) {
		slices.SortFunc(c.ids, x.bySize)
	}
	f.Values = make([]FacetValue, len(c.ids))
	for i, id := range c.ids {
		f.Values[i] = FacetValue{x.vals.texts[id], int(c.counts[id])}
	}
	return f
}

// sort puts the values with most parts first; of equals, the one that was there first.
func (c *counted) sort() {
	keys := make([]uint64, len(c.ids)) // numbers sort quicker than what a function compares
	for i, id := range c.ids {
		keys[i] = uint64(^c.counts[id])<<32 | uint64(id)
	}
	slices.Sort(keys)
	for i, k := range keys {
		c.ids[i] = uint32(k)
	}
}

// memberCounts counts sets: each counts for all of its members.
func (x *Index) memberCounts(c counted) []FacetValue {
	out := make([]FacetValue, 0, len(c.ids))
	at := make(map[string]int, len(c.ids))
	add := func(member string, n int) {
		i, ok := at[member]
		if !ok {
			i, at[member] = len(out), len(out)
			out = append(out, FacetValue{Value: member})
		}
		out[i].Parts += n
	}
	for _, id := range c.ids {
		if m, ok := x.vals.sets[id]; ok {
			for _, one := range m {
				add(one, int(c.counts[id]))
			}
		} else {
			add(x.vals.all[id].Text, int(c.counts[id]))
		}
	}
	slices.SortFunc(out, func(a, b FacetValue) int { return cmp.Or(b.Parts-a.Parts, strings.Compare(a.Value, b.Value)) })
	return out
}

// bySize orders values by number as compareValues does.
func (x *Index) bySize(a, b uint32) int {
	va, vb := &x.vals.all[a], &x.vals.all[b]
	if fa, fb := x.vals.floats[a], x.vals.floats[b]; fa != fb && va.Type == cabinet.Measure && vb.Type == cabinet.Measure && va.Measure.Shape == measure.Nominal && vb.Measure.Shape == measure.Nominal &&
		va.Measure.Of == vb.Measure.Of && va.Measure.Of != measure.WireGauge {
		return cmp.Compare(fa, fb)
	}
	return compareValues(*va, *vb)
}

func (f *Facet) cut() {
	if f.More = max(0, len(f.Values)-maxFacetValues); f.More > 0 {
		f.Values = f.Values[:maxFacetValues]
	}
}

// edge is where a step begins: 1, 2 or 5 times a power of ten.
type edge struct {
	mark int64
	exp  int
}

// stepTexts keeps how each step is written, by dimension and its two ends: there are some hundreds.
var stepTexts sync.Map

type stepKey struct {
	of       measure.Dimension
	from, to edge
}

// step is the range between two edges. It includes both ends; the upper one belongs to the next step, so it is drawn
// in by one part in a million.
func step(k stepKey) (FacetStep, bool) {
	if have, ok := stepTexts.Load(k); ok {
		return have.(FacetStep), true
	}
	from, err := measure.NewNumber(k.from.mark, k.from.exp)
	if err != nil {
		return FacetStep{}, false
	}
	to, err := measure.NewNumber(k.to.mark, k.to.exp)
	if err != nil {
		return FacetStep{}, false
	}
	below, err := to.Mul(measure.MustParseNumber("0.999999"))
	if err != nil {
		return FacetStep{}, false
	}
	low := measure.Of(k.of, from).String()
	s := FacetStep{Range: low + " .. " + measure.Of(k.of, below).String(), Label: low + " to " + measure.Of(k.of, to).String()}
	stepTexts.Store(k, s)
	return s, true
}

// steps parts the sizes into ranges that begin at 1, 2 and 5 of each decade where they span little, at powers of ten
// where they span much.
func (x *Index) steps(c counted) []FacetStep {
	lo, hi := math.Inf(1), 0.0
	var single []uint32 // zero and less lie in no decade
	var dim measure.Dimension
	for _, id := range c.ids {
		v := &x.vals.all[id]
		if v.Type != cabinet.Measure {
			continue
		}
		size := x.vals.floats[id]
		if size <= 0 {
			single = append(single, id)
			continue
		}
		lo, hi, dim = min(lo, size), max(hi, size), v.Measure.Of
	}
	if dim == measure.None {
		return []FacetStep{}
	}
	marks := []int64{1}
	if hi/lo < 1e3 {
		marks = []int64{1, 2, 5}
	}
	var edges []edge
	var numbers []measure.Number
	var sizes []float64
	for e := int(math.Floor(math.Log10(lo))) - 1; e <= int(math.Ceil(math.Log10(hi)))+1; e++ {
		for _, m := range marks {
			if n, err := measure.NewNumber(m, e); err == nil {
				edges, numbers, sizes = append(edges, edge{m, e}), append(numbers, n), append(sizes, n.Float64())
			}
		}
	}
	parts := make([]int, len(edges))
	for _, id := range c.ids {
		size := x.vals.floats[id]
		if size <= 0 || x.vals.all[id].Type != cabinet.Measure {
			continue
		}
		k := len(sizes) - 1
		for k > 0 && sizes[k] > size {
			k--
		}
		if k > 0 && sizes[k] == size && x.vals.all[id].Measure.Value().Cmp(numbers[k]) < 0 { // floats that are equal may stand for what is not
			k--
		}
		parts[k] += int(c.counts[id])
	}
	out := []FacetStep{}
	slices.SortFunc(single, func(a, b uint32) int { return compareValues(x.vals.all[a], x.vals.all[b]) })
	for _, id := range single {
		text := x.vals.texts[id]
		out = append(out, FacetStep{Range: text, Label: text, Parts: int(c.counts[id])})
	}
	for k, n := range parts {
		if n == 0 || k+1 == len(edges) {
			continue
		}
		if s, ok := step(stepKey{dim, edges[k], edges[k+1]}); ok {
			s.Parts = n
			out = append(out, s)
		}
	}
	return out
}

// groups counts a column's values in the order of the groups.
func (x *Index) groups(all []hits, key string) []FacetValue {
	out := []FacetValue{}
	if key == "drawer" {
		for _, h := range all {
			if n := count(h.pass); n > 0 {
				out = append(out, FacetValue{h.s.drawer, n})
			}
		}
		return out
	}
	lent := x.lend()
	c := x.counted(key, all, nil, lent)
	defer func() { c.giveBack(lent) }()
	slices.SortFunc(c.ids, func(a, b uint32) int { return compareValues(x.vals.all[a], x.vals.all[b]) })
	for _, id := range c.ids {
		out = append(out, FacetValue{strings.ReplaceAll(x.vals.all[id].String(), several, ", "), int(c.counts[id])})
	}
	if c.blank > 0 {
		out = append(out, FacetValue{"", c.blank})
	}
	return out
}

// Completeness counts, for each parameter of a drawer, the parts that have a value which was read.
func (x *Index) Completeness(drawer string) (parts, incomplete int, filled map[string]int) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	filled = map[string]int{}
	for _, s := range x.shelves {
		if s.n == 0 || s.drawer != drawer && (s.tpl == nil || !s.tpl.Inside(drawer)) {
			continue
		}
		parts += s.n
		lacking := newBits(len(s.rows))
		s.incomplete(x.vals, lacking)
		incomplete += count(lacking)
		for _, c := range s.cols {
			for code, n := range c.count {
				if n > 0 && !unsized(x.vals.all[c.dict[code]]) {
					filled[c.key] += int(n)
				}
			}
		}
	}
	return parts, incomplete, filled
}
