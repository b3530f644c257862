package lookup

import (
	"cmp"
	"slices"
	"strings"
)

// ranking is the order of the distinct values of one column over all shelves.
type ranking struct {
	size int // of all dictionaries when it was made
	rank []uint32
}

// MaxOrder is how many columns a list is sorted by.
const MaxOrder = 3

// hold takes the lock for reading once the rankings that a query needs are there. Only making them writes.
func (x *Index) hold(q Query) (release func()) {
	for {
		x.mu.RLock()
		if x.ready(q) {
			return x.mu.RUnlock
		}
		x.mu.RUnlock()
		x.prepare(q)
	}
}

func (x *Index) ready(q Query) bool {
	ready := len(x.headRank) == len(x.heads)
	for _, o := range x.orders(q) {
		ready = ready && (offered(o.Key) || x.ranked(o.Key))
	}
	return ready
}

func (x *Index) prepare(q Query) {
	x.mu.Lock()
	defer x.mu.Unlock()
	if len(x.headRank) != len(x.heads) {
		x.headRank = make([]uint32, len(x.heads))
		order := make([]uint32, len(x.heads))
		for i := range order {
			order[i] = uint32(i)
		}
		slices.SortFunc(order, func(a, b uint32) int { return cmp.Compare(x.heads[a], x.heads[b]) })
		for at, i := range order {
			x.headRank[i] = uint32(at)
		}
	}
	for _, o := range x.orders(q) {
		if !offered(o.Key) {
			x.makeRanking(o.Key)
		}
	}
}

// orders is what a query sorts by: the group first, then what was asked for.
func (x *Index) orders(q Query) []Order {
	var out []Order
	if q.Group != "" {
		out = append(out, Order{Key: q.Group})
	}
	for _, o := range q.Sort {
		if !slices.ContainsFunc(out, func(have Order) bool { return have.Key == o.Key }) && len(out) <= MaxOrder {
			out = append(out, o)
		}
	}
	return out
}

// special are the columns that no shelf holds as codes.
func special(key string) bool {
	return key == "number" || key == "description" || key == "mpn" || key == "drawer" || key == "updated" || key == "name"
}

func (x *Index) dictSize(key string) (n int) {
	for _, s := range x.shelves {
		if c := s.byKey[key]; c != nil {
			n += len(c.dict)
		}
	}
	return n
}

func (x *Index) ranked(key string) bool {
	r := x.ranks[key]
	return special(key) || r != nil && r.size == x.dictSize(key)
}

func (x *Index) makeRanking(key string) {
	if x.ranked(key) {
		return
	}
	r := &ranking{size: x.dictSize(key), rank: make([]uint32, len(x.vals.all))}
	var ids []uint32
	for _, s := range x.shelves {
		c := s.byKey[key]
		if c == nil {
			continue
		}
		for _, id := range c.dict[1:] {
			if r.rank[id] == 0 {
				r.rank[id] = 1
				ids = append(ids, id)
			}
		}
	}
	slices.SortFunc(ids, func(a, b uint32) int { return compareValues(x.vals.all[a], x.vals.all[b]) })
	next := uint32(0)
	for i, id := range ids {
		if i == 0 || compareValues(x.vals.all[ids[i-1]], x.vals.all[id]) != 0 {
			next++
		}
		r.rank[id] = next
		if unsized(x.vals.all[id]) {
			r.rank[id] = none
		}
	}
	r.rank[0] = none
	x.ranks[key] = r
}

// none is the rank of what has no size: it comes last whichever way it is sorted.
const none = ^uint32(0)

// candidate is a row with what it is sorted by.
type candidate struct {
	keys [MaxOrder + 1]uint32
	num  uint64 // rank of the number's head, and its counter
	row  uint32
}

func (a *candidate) compare(b *candidate) int {
	for k := range a.keys {
		if a.keys[k] != b.keys[k] {
			return cmp.Compare(a.keys[k], b.keys[k])
		}
	}
	return cmp.Or(cmp.Compare(a.num, b.num), cmp.Compare(a.row, b.row))
}

// page returns the rows of the wanted page in order. A page near the front is picked with a heap, one far behind by
// sorting all.
func (x *Index) page(all []hits, q Query, total int) []uint32 {
	limit := q.Limit
	if limit <= 0 {
		limit = 50
	}
	if q.Offset >= total {
		return nil
	}
	orders := x.orders(q)
	texts := slices.ContainsFunc(orders, func(o Order) bool {
		return special(o.Key) && o.Key != "number" && o.Key != "drawer" && o.Key != "updated"
	})
	want := min(q.Offset+limit, total)
	keep := top{want: want, heap: make([]candidate, 0, min(want, 1024))}
	if texts || want > 4096 {
		keep.want = total
	}
	each := make([]*hits, len(all))
	for i := range all {
		each[i] = &all[i]
	}
	if len(orders) == 0 { // by number: those that come first leave nothing to look at in the others
		slices.SortFunc(each, func(a, b *hits) int { return cmp.Compare(a.s.first(x.headRank), b.s.first(x.headRank)) })
	}
	for _, h := range each {
		x.offer(h, orders, q.pieces(), &keep)
	}
	if texts {
		x.sortByText(keep.heap, orders)
	} else {
		slices.SortFunc(keep.heap, func(a, b candidate) int { return a.compare(&b) })
	}
	out := make([]uint32, 0, limit)
	for i := q.Offset; i < want; i++ {
		out = append(out, keep.heap[i].row)
	}
	return out
}

// offer gives the parts of a shelf to the page.
func (x *Index) offer(h *hits, orders []Order, pieces int64, keep *top) {
	if len(orders) == 0 && keep.full && h.s.first(x.headRank) >= keep.heap[0].num {
		return
	}
	type by struct {
		codes *codes
		rank  []uint32 // by code
		down  bool
		key   string
	}
	var bys []by
	for _, o := range orders {
		b := by{down: o.Down, key: o.Key}
		if c := h.s.byKey[o.Key]; c != nil && !special(o.Key) {
			b.codes, b.rank = &c.codes, make([]uint32, len(c.dict))
			for code, id := range c.dict {
				b.rank[code] = x.ranks[o.Key].rank[id]
			}
		}
		bys = append(bys, b)
	}
	heads := make([]uint64, len(x.headRank))
	for i, rank := range x.headRank {
		heads[i] = uint64(rank) << 32
	}
next:
	for _, local := range h.rows() {
		num := h.s.nums[local]
		c := candidate{num: heads[num>>32] | num&0xffffffff}
		if keep.full && len(bys) == 0 && c.num >= keep.heap[0].num {
			continue
		}
		c.row = h.s.rows[local]
		for k := range bys {
			b := &bys[k]
			var v uint32
			switch {
			case b.codes != nil:
				v = b.rank[b.codes.at(local)]
			case offered(b.key):
				v = x.supplyRank(c.row, b.key, pieces)
			case b.key == "drawer":
				v = uint32(h.s.at)
			case b.key == "updated":
				v = uint32(x.rows[c.row].updated / 1e6)
			case b.key == "number":
				if b.down && k == len(bys)-1 {
					c.num = ^c.num
				}
				continue
			case special(b.key):
			default:
				v = none
			}
			if b.down && v != none {
				v = none - 1 - v
			}
			c.keys[k] = v
			if k == 0 && keep.full && v > keep.heap[0].keys[0] {
				continue next
			}
		}
		keep.offer(c)
	}
}

// sortByText sorts by columns that are texts of their own for each part.
func (x *Index) sortByText(rows []candidate, orders []Order) {
	type keyed struct {
		c     candidate
		texts [MaxOrder + 1]string
	}
	all := make([]keyed, len(rows))
	for i, c := range rows {
		all[i].c = c
		for k, o := range orders {
			switch o.Key {
			case "mpn":
				if r := x.rows[c.row]; r.srcs > 0 {
					all[i].texts[k] = x.mpns.get(r.src)
				}
			case "description", "name":
				e := x.entry(c.row)
				all[i].texts[k] = e.Description
				if o.Key == "name" {
					all[i].texts[k] = e.Name
				}
			}
		}
	}
	slices.SortFunc(all, func(a, b keyed) int {
		for k, o := range orders {
			n := cmp.Compare(a.c.keys[k], b.c.keys[k])
			if a.texts[k] != b.texts[k] {
				n = strings.Compare(a.texts[k], b.texts[k])
				if o.Down {
					n = -n
				}
				if a.texts[k] == "" || b.texts[k] == "" { // what has none comes last
					n = cmp.Compare(len(b.texts[k]), len(a.texts[k]))
				}
			}
			if n != 0 {
				return n
			}
		}
		return a.c.compare(&b.c)
	})
	for i := range all {
		rows[i] = all[i].c
	}
}

// top keeps the first entries in the wanted order without sorting all of them.
type top struct {
	heap []candidate // once full, the worst of the kept is on top
	want int
	full bool
}

func (t *top) offer(c candidate) {
	if !t.full {
		t.heap = append(t.heap, c)
		if t.full = len(t.heap) >= t.want; t.full {
			for i := len(t.heap)/2 - 1; i >= 0; i-- {
				t.sink(i)
			}
		}
		return
	}
	if t.want == 0 || c.compare(&t.heap[0]) >= 0 {
		return
	}
	t.heap[0] = c
	t.sink(0)
}

func (t *top) sink(i int) {
	h := t.heap
	for {
		worst := i
		for _, k := range [2]int{2*i + 1, 2*i + 2} {
			if k < len(h) && h[k].compare(&h[worst]) > 0 {
				worst = k
			}
		}
		if worst == i {
			return
		}
		h[i], h[worst] = h[worst], h[i]
		i = worst
	}
}
