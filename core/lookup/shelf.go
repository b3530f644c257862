package lookup

import (
	"math/bits"

	"jollydrawer/core/cabinet"
)

// shelf holds the parts of one drawer.
type shelf struct {
	drawer string
	at     uint16
	tpl    *cabinet.Template
	rows   []uint32 // of the index
	nums   []uint64 // part numbers: the head in the upper half, the counter in the lower
	live   bitset
	n      int // live ones
	cols   []*column
	byKey  map[string]*column
}

// column holds one parameter of a shelf's parts: codes number the distinct values of this column, 0 the blank.
type column struct {
	key   string
	codes []uint32
	dict  []uint32          // by code: the number of the value
	find  map[uint32]uint32 // number of the value → code
	count []uint32          // by code: live parts
}

func newShelf(drawer string, at uint16) *shelf {
	return &shelf{drawer: drawer, at: at, byKey: map[string]*column{}}
}

func (s *shelf) template(cab *cabinet.Cabinet) {
	s.tpl = nil
	if cab != nil {
		s.tpl, _ = cab.Template(s.drawer)
	}
}

func (s *shelf) add(row uint32, num uint64, live bool, cells []cell, vals *values) uint32 {
	local := uint32(len(s.rows))
	s.rows, s.nums = append(s.rows, row), append(s.nums, num)
	if int(local)>>6 >= len(s.live) {
		s.live = append(s.live, 0)
	}
	for _, c := range cells {
		col := s.byKey[c.key]
		if col == nil {
			col = &column{key: c.key, codes: make([]uint32, local, local+1), dict: []uint32{0}, find: map[uint32]uint32{0: 0}, count: []uint32{uint32(s.n)}}
			s.cols = append(s.cols, col)
			s.byKey[c.key] = col
		}
		code, ok := col.find[c.value]
		if !ok {
			code = uint32(len(col.dict))
			col.dict, col.count = append(col.dict, c.value), append(col.count, 0)
			col.find[c.value] = code
			vals.at(c.value, c.key)
		}
		col.codes = append(col.codes, code)
	}
	for _, col := range s.cols {
		if len(col.codes) == int(local) {
			col.codes = append(col.codes, 0)
		}
		if live {
			col.count[col.codes[local]]++
		}
	}
	if live {
		s.live.set(local)
		s.n++
	}
	return local
}

func (s *shelf) drop(local uint32) {
	if !s.live.has(local) {
		return
	}
	s.live.clear(local)
	s.n--
	for _, col := range s.cols {
		col.count[col.codes[local]]--
	}
}

// required lists the columns that the template wants filled; nil stands for one that no part has.
func (s *shelf) required() (cols []*column) {
	if s.tpl == nil {
		return nil
	}
	for _, slot := range s.tpl.Slots {
		if slot.Required {
			cols = append(cols, s.byKey[slot.Key])
		}
	}
	return cols
}

// incomplete marks the parts that lack a required value, or hold one that was never read.
func (s *shelf) incomplete(vals *values, into bitset) {
	for _, c := range s.required() {
		if c == nil {
			copy(into, s.live)
			return
		}
		bad := make([]bool, len(c.dict))
		for code, id := range c.dict {
			bad[code] = unsized(vals.all[id])
		}
		c.mark(bad, s.live, into)
	}
}

// mark sets in into the rows of among whose code is wanted.
func (c *column) mark(want []bool, among, into bitset) {
	for w, word := range among {
		for word != 0 {
			i := w<<6 | bits.TrailingZeros64(word)
			word &= word - 1
			if want[c.codes[i]] {
				into[w] |= 1 << (i & 63)
			}
		}
	}
}

// tally counts the codes of the rows of a set.
func (c *column) tally(rows bitset, counts []uint32) {
	codes := c.codes
	for w, word := range rows {
		base := w << 6
		if word == ^uint64(0) {
			for _, code := range codes[base : base+64] {
				counts[code]++
			}
			continue
		}
		for word != 0 {
			counts[codes[base|bits.TrailingZeros64(word)]]++
			word &= word - 1
		}
	}
}

func count(b bitset) (n int) {
	for _, w := range b {
		n += bits.OnesCount64(w)
	}
	return n
}
