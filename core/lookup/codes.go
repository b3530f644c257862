package lookup

import (
	"encoding/binary"
	"math/bits"
)

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

// tally adds to counts how many of some rows have each code. counts is as long as there are codes.
func (c *codes) tally(rows, counts []uint32) {
	switch {
	case c.d != nil:
		tallyOf(c.d, rows, counts)
	case c.w != nil:
		tallyOf(c.w, rows, counts)
	default:
		tallyBytes(c.b, rows, counts)
	}
}

func tallyOf[T uint16 | uint32](codes []T, rows, counts []uint32) {
	for _, i := range rows {
		counts[codes[i]]++
	}
}

// tallyBytes counts in two places by turns: most rows of a column have the same few codes, and adding to what was
// written a moment ago is what the processor waits for.
func tallyBytes(codes []uint8, rows, counts []uint32) {
	if len(rows) < 64 {
		for _, i := range rows {
			counts[codes[i]]++
		}
		return
	}
	var even, odd [256]uint32
	k := 0
	for ; k+1 < len(rows); k += 2 {
		even[codes[rows[k]]]++
		odd[codes[rows[k+1]]]++
	}
	if k < len(rows) {
		even[codes[rows[k]]]++
	}
	for code := range counts {
		if code < len(even) {
			counts[code] += even[code] + odd[code]
		}
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
		markBytes(c.b, want, among, into)
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

// markBytes compares eight codes at a time where few are wanted, as is usual.
func markBytes(codes []uint8, want []uint8, among, into bitset) {
	var few [4]uint64
	n := 0
	for code, w := range want {
		if w == 0 {
			continue
		}
		if n == len(few) {
			markOf(codes, want, among, into)
			return
		}
		few[n] = uint64(code) * lowBits
		n++
	}
	whole := len(codes) >> 6
	for w := range min(whole, len(among)) {
		word := among[w]
		if bits.OnesCount64(word) <= 10 {
			for ; word != 0; word &= word - 1 {
				i := bits.TrailingZeros64(word)
				into[w] |= uint64(want[codes[w<<6|i]]) << i
			}
			continue
		}
		for _, f := range few[:n] {
			into[w] |= equal64((*[64]uint8)(codes[w<<6:]), f) & word
		}
	}
	if whole < len(among) {
		markOf(codes[whole<<6:], want, among[whole:], into[whole:])
	}
}

// equal64 has a bit for each of 64 codes that equals the one that is repeated in all bytes of code.
func equal64(codes *[64]uint8, code uint64) (got uint64) {
	for k := 0; k < 64; k += 8 {
		got |= zeros(binary.LittleEndian.Uint64(codes[k:])^code) >> 7 * gather >> 56 << k
	}
	return got
}

const (
	lowBits  = 0x0101010101010101
	lowSeven = 0x7f7f7f7f7f7f7f7f
	gather   = 0x0102040810204080 // brings the lowest bit of each byte together in the highest byte, the first byte's lowest
)

// zeros has the highest bit of each byte that is 0, and no other.
func zeros(v uint64) uint64 { return ^((v&lowSeven + lowSeven) | v | lowSeven) }
