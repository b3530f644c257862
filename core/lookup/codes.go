package lookup

import "math/bits"

// codes are the numbers of a column, one a row, in the narrowest form that holds the largest of them. Most columns have
// few distinct values: a byte a row keeps a shelf's columns within the processor's caches, which is what counting waits
// for. Only one of the three is in use.
type codes struct {
	b []uint8
	w []uint16
	d []uint32
}

func zeroCodes(n int) codes { return codes{b: make([]uint8, n, n+1)} }

func (c *codes) len() int { return len(c.b) + len(c.w) + len(c.d) }

func (c *codes) at(i uint32) uint32 {
	switch {
	case c.d != nil:
		return c.d[i]
	case c.w != nil:
		return uint32(c.w[i])
	}
	return uint32(c.b[i])
}

// add appends a code, in a wider form from now on where it needs one. What was handed out before stays as it was.
func (c *codes) add(code uint32) {
	if c.d == nil && code > 0xffff {
		wide := make([]uint32, c.len(), c.len()+1)
		for i := range wide {
			wide[i] = c.at(uint32(i))
		}
		c.b, c.w, c.d = nil, nil, wide
	}
	if c.d == nil && c.w == nil && code > 0xff {
		wide := make([]uint16, len(c.b), len(c.b)+1)
		for i, v := range c.b {
			wide[i] = uint16(v)
		}
		c.b, c.w = nil, wide
	}
	switch {
	case c.d != nil:
		c.d = append(c.d, code)
	case c.w != nil:
		c.w = append(c.w, uint16(code))
	default:
		c.b = append(c.b, uint8(code))
	}
}

// tally counts the codes of some rows.
func (c *codes) tally(rows, counts []uint32) {
	switch {
	case c.d != nil:
		tallyOf(c.d, rows, counts)
	case c.w != nil:
		tallyOf(c.w, rows, counts)
	default:
		tallyOf(c.b, rows, counts)
	}
}

func tallyOf[T uint8 | uint16 | uint32](codes []T, rows, counts []uint32) {
	for _, i := range rows {
		counts[codes[i]]++
	}
}

// count counts the values of some rows by their numbers; ids gathers those that were not counted before.
func (c *codes) count(rows, dict, counts, ids []uint32) (blank int, more []uint32) {
	switch {
	case c.d != nil:
		return countOf(c.d, rows, dict, counts, ids)
	case c.w != nil:
		return countOf(c.w, rows, dict, counts, ids)
	}
	return countOf(c.b, rows, dict, counts, ids)
}

func countOf[T uint8 | uint16 | uint32](codes []T, rows, dict, counts, ids []uint32) (blank int, more []uint32) {
	for _, i := range rows {
		code := codes[i]
		if code == 0 {
			blank++
			continue
		}
		id := dict[code]
		if counts[id] == 0 {
			ids = append(ids, id)
		}
		counts[id]++
	}
	return blank, ids
}

// mark sets in into the rows of among whose code is wanted; want holds a 1 for each wanted code.
func (c *codes) mark(want []uint8, among, into bitset) {
	switch {
	case c.d != nil:
		markOf(c.d, want, among, into)
	case c.w != nil:
		markOf(c.w, want, among, into)
	default:
		markOf(c.b, want, among, into)
	}
}

// A word of among that is full or nearly so is gone through without branches, which unordered codes would mislead at
// every other row.
func markOf[T uint8 | uint16 | uint32](codes []T, want []uint8, among, into bitset) {
	for w, word := range among {
		if word == 0 {
			continue
		}
		base := w << 6
		if bits.OnesCount64(word) > 24 && base+64 <= len(codes) {
			var got uint64
			for i, code := range codes[base : base+64] {
				got |= uint64(want[code]) << i
			}
			into[w] |= got & word
			continue
		}
		for word != 0 {
			i := bits.TrailingZeros64(word)
			word &= word - 1
			into[w] |= uint64(want[codes[base|i]]) << i
		}
	}
}
