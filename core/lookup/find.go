package lookup

import (
	"encoding/binary"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/part"
)

// ByID returns a part's entry.
func (x *Index) ByID(id string) (*Entry, bool) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	i, ok := x.row(id)
	if !ok {
		return nil, false
	}
	return x.entry(i), true
}

// ByNumber finds a part by its present number or a former one; the number of a part that was merged away leads to the
// survivor.
func (x *Index) ByNumber(number string) (*Entry, bool) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	i, ok := x.byNumber(strings.ToUpper(strings.TrimSpace(number)))
	if !ok {
		return nil, false
	}
	return x.entry(i), true
}

func (x *Index) byNumber(number string) (found uint32, ok bool) {
	if i, ok := x.former[number]; ok && !x.rows[i].dead {
		return i, true
	}
	x.numFind.each(part.NormaliseMPN(number), func(i uint32) bool {
		if !x.rows[i].dead && strings.ToUpper(string(x.numbers.raw(i))) == number {
			found, ok = i, true
		}
		return !ok
	})
	return found, ok
}

// BySource finds the part that holds a source key (see part.Source.Key).
func (x *Index) BySource(key string) (*Entry, bool) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	_, mpn, _ := strings.Cut(key, "|")
	var e *Entry
	x.mpnFind.each(mpn, func(k uint32) bool {
		r := x.sources[k].row
		if x.rows[r].dead || x.rows[r].gone {
			return true
		}
		if s := (part.Source{Manufacturer: x.names[x.sources[k].maker], MPN: x.mpns.get(k)}); s.Key() == key {
			e = x.entry(r)
		}
		return e == nil
	})
	return e, e != nil
}

// Makers lists the manufacturers of all sources.
func (x *Index) Makers() []string {
	x.mu.RLock()
	defer x.mu.RUnlock()
	seen := make([]bool, len(x.names))
	for _, s := range x.sources {
		if !x.rows[s.row].dead && !x.rows[s.row].gone {
			seen[s.maker] = true
		}
	}
	var out []string
	for i, there := range seen {
		if there {
			out = append(out, x.names[i])
		}
	}
	return out
}

// maxLike is how many parts that are like another are named.
const maxLike = 5

// Like prepares to find, again and again, the parts of a drawer with given values in all of some parameters. What it
// finds is as of now; a part with none of them filled is like nothing.
func (x *Index) Like(drawer string, keys []string) func(value func(key string) cabinet.Value) (numbers []string) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	s := x.byKey[drawer]
	if s == nil {
		return nil
	}
	codes := make([]map[cabinet.Value]uint32, len(keys)) // of what is meant
	meant := make([][]uint32, len(keys))                 // the same, of each code of the column: what is written in two ways has two
	cols := make([]*column, len(keys))
	for i, k := range keys {
		codes[i] = map[cabinet.Value]uint32{{}: 0}
		if cols[i] = s.byKey[k]; cols[i] != nil {
			for code, id := range cols[i].dict {
				v := x.vals.all[id].Meant()
				if _, ok := codes[i][v]; !ok {
					codes[i][v] = uint32(code)
				}
				meant[i] = append(meant[i], codes[i][v])
			}
		}
	}
	found := map[string][]string{}
	raw := make([]byte, 0, 4*len(keys))
	for local, row := range s.rows {
		if !s.live.has(uint32(local)) {
			continue
		}
		raw = raw[:0]
		filled := false
		for i, col := range cols {
			code := uint32(0)
			if col != nil {
				code = meant[i][col.codes.at(uint32(local))]
			}
			filled = filled || code > 0
			raw = binary.BigEndian.AppendUint32(raw, code)
		}
		if filled && len(found[string(raw)]) < maxLike {
			found[string(raw)] = append(found[string(raw)], x.numbers.get(row))
		}
	}
	return func(value func(key string) cabinet.Value) []string {
		raw := make([]byte, 0, 4*len(keys))
		for i, k := range keys {
			code, ok := codes[i][value(k).Meant()]
			if !ok {
				return nil
			}
			raw = binary.BigEndian.AppendUint32(raw, code)
		}
		return found[string(raw)]
	}
}

// ByMPN finds the parts with an MPN that is the same after normalising.
func (x *Index) ByMPN(mpn string) []*Entry {
	key := part.NormaliseMPN(mpn)
	return x.all(&x.mpnFind, key, func(k uint32) (uint32, bool) { return x.sources[k].row, part.NormaliseMPN(x.mpns.get(k)) == key })
}

// BySupplierNumber finds the parts that any supplier sells under a number.
func (x *Index) BySupplierNumber(number string) []*Entry {
	key := part.NormaliseMPN(number)
	return x.all(&x.supFind, key, func(k uint32) (uint32, bool) { return x.supplied[k].row, part.NormaliseMPN(x.supplies.get(k)) == key })
}

func (x *Index) all(in *chains, key string, at func(k uint32) (row uint32, same bool)) []*Entry {
	if key == "" {
		return nil
	}
	x.mu.RLock()
	defer x.mu.RUnlock()
	var hits []uint32
	in.each(key, func(k uint32) bool {
		if r, same := at(k); same && !x.rows[r].dead && !x.rows[r].gone && !slices.Contains(hits, r) {
			hits = append(hits, r)
		}
		return true
	})
	slices.Sort(hits)
	return x.entries(hits)
}

// Each calls f with the entries of all parts of a drawer, or of all drawers for "", until it returns false: each part that is
// there when it begins, once, whatever is put or built anew meanwhile, as it is then or was until then.
func (x *Index) Each(drawer string, f func(*Entry) bool) {
	x.mu.RLock()
	then := &Index{contents: x.contents} // what is built anew takes its place in x, and leaves this one be
	var rows []uint32
	for i := range then.rows {
		if r := &then.rows[i]; !r.dead && !r.gone && (drawer == "" || then.shelves[r.shelf].drawer == drawer) {
			rows = append(rows, uint32(i))
		}
	}
	x.mu.RUnlock()
	for _, i := range rows {
		x.mu.RLock()
		e := then.entry(i)
		x.mu.RUnlock()
		if !f(e) {
			return
		}
	}
}

// Holding is which parts hold a value of some parameters.
type Holding struct {
	Released, Drafts int      // how many are released, and how many are not
	Edited           []string // the IDs of released parts with a draft beside, whether or not they hold one: their drafts may
	Some             []*Entry // a few of those that hold one
}

// Holding finds the parts that hold a value of one of some parameters. It takes a fraction of what reading the parts does.
func (x *Index) Holding(parameters []string, some int) (h Holding) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	for _, s := range x.shelves {
		var cols []*column
		for _, key := range parameters {
			if c := s.byKey[key]; c != nil {
				cols = append(cols, c)
			}
		}
		for local, i := range s.rows {
			if !s.live.has(uint32(local)) {
				continue
			}
			r := &x.rows[i]
			if r.rev > 0 && r.draft {
				h.Edited = append(h.Edited, strings.Clone(x.ids.get(i)))
				continue
			}
			if !slices.ContainsFunc(cols, func(c *column) bool { return c.codes.at(uint32(local)) > 0 }) {
				continue
			}
			if r.rev > 0 {
				h.Released++
			} else {
				h.Drafts++
			}
			if len(h.Some) < some {
				h.Some = append(h.Some, x.entry(i))
			}
		}
	}
	return h
}

// Some returns a few parts of some drawers.
func (x *Index) Some(drawers []string, most int) (out []*Entry) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	for _, d := range drawers {
		s := x.byKey[d]
		if s == nil {
			continue
		}
		for _, i := range s.rows {
			if len(out) == most {
				return out
			}
			if r := &x.rows[i]; !r.dead && !r.gone {
				out = append(out, x.entry(i))
			}
		}
	}
	return out
}

// CountByDrawer counts the parts of each drawer.
func (x *Index) CountByDrawer() map[string]int {
	x.mu.RLock()
	defer x.mu.RUnlock()
	out := map[string]int{}
	for _, s := range x.shelves {
		if s.n > 0 {
			out[s.drawer] = s.n
		}
	}
	return out
}

// Alike lists the numbers of parts of a drawer whose values equal the given ones in every one of the keys; a part with
// none of them filled is like nothing.
func (x *Index) Alike(drawer string, keys []string, values map[string]cabinet.Value, but string, limit int) (numbers []string) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	s := x.byKey[drawer]
	filled := false
	for _, k := range keys {
		filled = filled || !values[k].IsBlank()
	}
	if s == nil || !filled {
		return nil
	}
	acc := slices.Clone(s.live)
	for _, k := range keys {
		col := s.byKey[k]
		if col == nil {
			if values[k].IsBlank() {
				continue
			}
			return nil
		}
		want := make([]uint8, len(col.dict))
		any := false
		for code, id := range col.dict {
			if x.vals.all[id].Meant() == values[k].Meant() {
				want[code], any = 1, true
			}
		}
		if !any {
			return nil
		}
		same := newBits(len(s.rows))
		col.codes.mark(want, acc, same)
		acc = same
	}
	acc.each(func(i uint32) {
		if row := s.rows[i]; len(numbers) < limit && string(x.ids.raw(row)) != but {
			numbers = append(numbers, x.numbers.get(row))
		}
	})
	return numbers
}
