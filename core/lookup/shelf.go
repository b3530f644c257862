package lookup

import (
	"math/bits"
	"slices"

	"jollydrawer/core/cabinet"
)

// shelf holds the parts of one drawer.
type shelf struct {
	drawer string
	at     uint16
	tpl    *cabinet.Template
	rows   []uint32 // of the index
	nums   []uint64 // part numbers: the head in the upper half, the counter in the lower
	heads  []uint32 // distinct ones of nums, as long as they are few
	live   bitset
	n      int // live ones
	cols   []*column
	byKey  map[string]*column
}

// column holds one parameter of a shelf's parts: codes number the distinct values of this column, 0 the blank.
type column struct {
	key   string
	at    int // among the shelf's columns
	codes codes
	dict  []uint32          // by code: the number of the value
	find  map[uint32]uint32 // number of the value → code
	count []uint32          // by code: live parts
	shown []string          // by code: the value as its parameter wants it shown; nil where that is as people write it
	param *cabinet.Parameter
}

// as sets the parameter whose values the column holds.
func (c *column) as(p *cabinet.Parameter, vals *values) {
	c.param, c.shown = p, nil
	if p == nil || p.Show == "" {
		return
	}
	for _, id := range c.dict {
		c.shown = append(c.shown, p.Shown(vals.all[id]))
	}
}

// text is the value of a code as it is shown.
func (c *column) text(code uint32, vals *values) string {
	if c.shown != nil {
		return c.shown[code]
	}
	return vals.texts[c.dict[code]]
}

// uniform gives the value that all live parts of the shelf have in a column, where it is one and few were ever there.
func (c *column) uniform(live int) (value uint32, ok bool) {
	if len(c.dict) > 4 {
		return 0, false
	}
	for code := 1; code < len(c.dict); code++ {
		if int(c.count[code]) == live {
			return c.dict[code], true
		}
	}
	return 0, false
}

func newShelf(drawer string, at uint16) *shelf {
	return &shelf{drawer: drawer, at: at, byKey: map[string]*column{}}
}

func (s *shelf) template(cab *cabinet.Cabinet, vals *values) {
	s.tpl = nil
	if cab != nil {
		s.tpl, _ = cab.Template(s.drawer)
	}
	for _, c := range s.cols {
		c.as(s.parameter(c.key), vals)
	}
}

// parameter is what the shelf's template says of a column; nil for the columns beside the parameters.
func (s *shelf) parameter(key string) *cabinet.Parameter {
	if s.tpl == nil {
		return nil
	}
	slot, ok := s.tpl.Slot(key)
	if !ok {
		return nil
	}
	return &slot.Parameter
}

func (s *shelf) add(row uint32, num uint64, live bool, cells []cell, vals *values) uint32 {
	local := uint32(len(s.rows))
	s.rows, s.nums = append(s.rows, row), append(s.nums, num)
	s.headed(uint32(num >> 32))
	if int(local)>>6 >= len(s.live) {
		s.live = append(s.live, 0)
	}
	for _, c := range cells {
		col := s.byKey[c.key]
		if col == nil {
			col = &column{key: c.key, at: len(s.cols), codes: zeroCodes(int(local)), dict: []uint32{0}, find: map[uint32]uint32{0: 0}, count: []uint32{uint32(s.n)}}
			col.as(s.parameter(c.key), vals)
			s.cols = append(s.cols, col)
			s.byKey[c.key] = col
		}
		code, ok := col.find[c.value]
		if !ok {
			code = uint32(len(col.dict))
			col.dict, col.count = append(col.dict, c.value), append(col.count, 0)
			col.find[c.value] = code
			if col.shown != nil {
				col.shown = append(col.shown, col.param.Shown(vals.all[c.value]))
			}
			vals.places[c.value] = append(vals.places[c.value], place{s.at, col, code})
		}
		col.codes.add(code)
	}
	for _, col := range s.cols {
		if col.codes.len() == int(local) {
			col.codes.add(0)
		}
		if live {
			col.count[col.codes.at(local)]++
		}
	}
	if live {
		s.live.set(local)
		s.n++
	}
	return local
}

// fewHeads is how many heads of numbers a shelf keeps a list of: a drawer has one or two, unless its parts kept the
// numbers of an older list.
const fewHeads = 8

func (s *shelf) headed(head uint32) {
	if len(s.heads) <= fewHeads && !slices.Contains(s.heads, head) {
		s.heads = append(s.heads, head)
	}
}

// first is a number in the order of all numbers that none of the shelf's comes before.
func (s *shelf) first(rank []uint32) uint64 {
	if len(s.heads) == 0 || len(s.heads) > fewHeads {
		return 0
	}
	low := none
	for _, h := range s.heads {
		low = min(low, rank[h])
	}
	return uint64(low) << 32
}

func (s *shelf) drop(local uint32) {
	if !s.live.has(local) {
		return
	}
	s.live.clear(local)
	s.n--
	for _, col := range s.cols {
		col.count[col.codes.at(local)]--
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
		bad := make([]uint8, len(c.dict))
		for code, id := range c.dict {
			if unsized(vals.all[id]) {
				bad[code] = 1
			}
		}
		c.codes.mark(bad, s.live, into)
	}
}

// list returns the rows of a set: going through a list is quicker than through bits, from the second time on.
func (b bitset) list() []uint32 {
	out := make([]uint32, 0, count(b))
	for w, word := range b {
		for base := uint32(w << 6); word != 0; word &= word - 1 {
			out = append(out, base|uint32(bits.TrailingZeros64(word)))
		}
	}
	return out
}

func count(b bitset) (n int) {
	for _, w := range b {
		n += bits.OnesCount64(w)
	}
	return n
}
