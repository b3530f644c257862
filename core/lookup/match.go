package lookup

import (
	"cmp"
	"slices"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/part"
)

// ByNumberLike finds the parts whose own number, or a former one, is a number but for capitals, blanks and punctuation:
// "ew r 00044" is EW-R-00044. Two that differ in nothing else are both found.
func (x *Index) ByNumberLike(number string) []*Entry {
	key := part.NormaliseMPN(number)
	if key == "" {
		return nil
	}
	x.mu.RLock()
	defer x.mu.RUnlock()
	return x.entries(x.numbered(key))
}

// numbered finds the rows whose number or former number has these letters and digits; a part that was merged away leads
// to the one that holds its number.
func (x *Index) numbered(key string) (hits []uint32) {
	add := func(i uint32) {
		if !x.rows[i].dead && !x.rows[i].gone && !slices.Contains(hits, i) {
			hits = append(hits, i)
		}
	}
	x.numFind.each(key, func(i uint32) bool {
		if part.NormaliseMPN(string(x.numbers.raw(i))) == key {
			add(i)
		}
		return true
	})
	for _, i := range x.oldLike[key] {
		add(i)
	}
	slices.Sort(hits)
	return hits
}

// Out disqualifies a row.
const Out = -1 << 14

// Asked is what Best looks for.
type Asked struct {
	Drawers []string // the leaf drawers to look in
	// Score says how much a value of a parameter speaks for a part, or Out; nil where the parameter does not matter. It
	// is asked once for each distinct value of a column, the blank one among them.
	Score func(t *cabinet.Template, key string) func(v cabinet.Value) int
	Least int // of points, to be found at all; one or more
	Limit int
}

// scored is a row with its points.
type scored struct {
	points int
	active bool
	rev    bool
	row    uint32
}

// before orders candidates: more points first, then what may be used, then what is released, then by age.
func (a scored) before(b scored) int {
	return cmp.Or(cmp.Compare(b.points, a.points), -boolean(a.active, b.active), -boolean(a.rev, b.rev), cmp.Compare(a.row, b.row))
}

func boolean(a, b bool) int {
	switch {
	case a == b:
		return 0
	case a:
		return 1
	}
	return -1
}

// Best finds the parts that a description fits best, at most Limit of them, and how many have as many points as the
// first. It looks at numbers only, row by row: a value that all parts of a drawer share costs no more than another.
func (x *Index) Best(a Asked) (best []*Entry, like int) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	var top []scored
	for _, drawer := range a.Drawers {
		s := x.byKey[drawer]
		if s == nil || s.tpl == nil {
			continue
		}
		tables := x.tables(s, a)
		if tables == nil {
			continue
		}
		standing := x.standings(s)
		for local := range uint32(len(s.rows)) {
			if !s.live.has(local) {
				continue
			}
			points := 0
			for i := range tables {
				if points += tables[i].at(local); points <= Out/2 {
					break
				}
			}
			if points < a.Least {
				continue
			}
			if len(top) > 0 && points > top[0].points {
				like = 0
			}
			if len(top) == 0 || points >= top[0].points {
				like++
			}
			if len(top) == a.Limit {
				last := &top[len(top)-1]
				if points < last.points || points == last.points && last.active && last.rev {
					continue // as good as the last, and younger
				}
			}
			row := s.rows[local]
			one := scored{points: points, active: standing(local), rev: x.rows[row].rev > 0, row: row}
			at, _ := slices.BinarySearchFunc(top, one, scored.before)
			if at >= a.Limit {
				continue
			}
			if top = slices.Insert(top, at, one); len(top) > a.Limit {
				top = top[:a.Limit]
			}
		}
	}
	for _, t := range top {
		best = append(best, x.entry(t.row))
	}
	return best, like
}

// table holds the points of each code of a column.
type table struct {
	codes  *codes
	narrow []uint8 // the codes, where a byte holds each
	points []int
}

// at is the points of a row.
func (t *table) at(local uint32) int {
	if t.narrow != nil {
		return t.points[t.narrow[local]]
	}
	return t.points[t.codes.at(local)]
}

// tables works out the points of the values of a shelf's columns, the most decisive first; nil where no row can do.
func (x *Index) tables(s *shelf, a Asked) (out []table) {
	for i := range s.tpl.Slots {
		key := s.tpl.Slots[i].Key
		score := a.Score(s.tpl, key)
		if score == nil {
			continue
		}
		c := s.byKey[key]
		if c == nil {
			if score(cabinet.Value{}) <= Out {
				return nil
			}
			continue
		}
		t := table{codes: &c.codes, narrow: c.codes.b, points: make([]int, len(c.dict))}
		some, matters := false, false
		for code, id := range c.dict {
			t.points[code] = score(x.vals.all[id])
			some = some || t.points[code] > Out
			matters = matters || t.points[code] != 0
		}
		if !some {
			return nil
		}
		if matters {
			out = append(out, t)
		}
	}
	slices.SortStableFunc(out, func(a, b table) int { return outs(b) - outs(a) })
	return out
}

func outs(t table) (n int) {
	for _, p := range t.points {
		if p <= Out {
			n++
		}
	}
	return n
}

// standings says of a shelf's rows whether the part may be used in new designs.
func (x *Index) standings(s *shelf) func(local uint32) bool {
	c := s.byKey[colUse]
	if c == nil {
		return func(uint32) bool { return true }
	}
	return func(local uint32) bool { return c.codes.at(local) == 0 }
}
