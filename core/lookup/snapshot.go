package lookup

import (
	"encoding/gob"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/part"
)

// Mark says what a snapshot was taken of, so that a stale or foreign one is told apart.
type Mark struct {
	Position int64  // in the feed
	Deed     string // at that position
	Cabinet  string // the content in force
}

// snapshotFormat changes whenever frozen does: an older snapshot is then of no use and is made anew.
const snapshotFormat = 9

// frozen is the index in the form that is written. It is disposable: everything in it can be loaded from the store.
type frozen struct {
	Format                                     int
	Mark                                       Mark
	Values                                     []byte // JSON
	Shelves                                    []frozenShelf
	Shelf, Srcs                                []uint16
	Flags                                      []uint8
	Local, Src, Text, Name, Version, Rev       []uint32
	Updated                                    []int64
	Content                                    []uint64
	IDs, Numbers, Texts, MPNs, Supplies, Built frozenArena
	TextRow                                    []uint32
	Former, Series                             map[uint32][]string
	Heads, Names                               []string
	SourceRow, Maker, First, N                 []uint32
	SuppliedRow, Supplier                      []uint32
}

type frozenShelf struct {
	Drawer  string
	Rows    []uint32
	Nums    []uint64
	Live    []uint64
	Parts   int
	Columns []frozenColumn
}

type frozenColumn struct {
	Key                string
	Bytes              []uint8 // one of the three holds the codes
	Words              []uint16
	Codes, Dict, Count []uint32
}

type frozenArena struct {
	Bytes []byte
	At    []uint32
}

const (
	flagDead = 1 << iota
	flagGone
	flagDraft
	flagBuilt
)

// Save writes the index. Only copying what may still change holds writers off; the writing itself does not.
func (x *Index) Save(w io.Writer, m Mark) error {
	f, rows, values := x.freeze(m)
	f.add(rows)
	var err error
	if f.Values, err = json.Marshal(values); err != nil {
		return fmt.Errorf("lookup: writing the values: %w", err)
	}
	return gob.NewEncoder(w).Encode(f)
}

// add writes rows column by column.
func (f *frozen) add(rows []row) {
	for _, r := range rows {
		flags := uint8(0)
		for flag, on := range map[uint8]bool{flagDead: r.dead, flagGone: r.gone, flagDraft: r.draft, flagBuilt: r.built} {
			if on {
				flags |= flag
			}
		}
		f.Shelf, f.Srcs, f.Flags, f.Local, f.Src = append(f.Shelf, r.shelf), append(f.Srcs, r.srcs), append(f.Flags, flags), append(f.Local, r.local), append(f.Src, r.src)
		f.Text, f.Name, f.Version, f.Rev, f.Updated = append(f.Text, r.text), append(f.Name, r.name), append(f.Version, r.version), append(f.Rev, r.rev), append(f.Updated, r.updated)
		f.Content = append(f.Content, r.content)
	}
}

// freeze copies what may change. Everything else is only ever added to: what is there stays where it is.
func (x *Index) freeze(m Mark) (f *frozen, rows []row, values []cabinet.Value) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	arenaOf := func(a *arena) frozenArena { return frozenArena{a.bytes, a.at} }
	f = &frozen{Format: snapshotFormat, Mark: m, IDs: arenaOf(&x.ids), Numbers: arenaOf(&x.numbers), Texts: arenaOf(&x.texts), MPNs: arenaOf(&x.mpns),
		Supplies: arenaOf(&x.supplies), Built: arenaOf(&x.built), TextRow: x.textRow, Former: map[uint32][]string{}, Series: map[uint32][]string{}, Heads: x.heads, Names: x.names}
	for row, numbers := range x.formerOf {
		f.Former[row] = numbers
	}
	for row, names := range x.seriesOf {
		f.Series[row] = slices.Clone(names)
	}
	for _, s := range x.sources {
		f.SourceRow, f.Maker, f.First, f.N = append(f.SourceRow, s.row), append(f.Maker, s.maker), append(f.First, s.first), append(f.N, s.n)
	}
	for _, s := range x.supplied {
		f.SuppliedRow, f.Supplier = append(f.SuppliedRow, s.row), append(f.Supplier, s.supplier)
	}
	for _, s := range x.shelves {
		fs := frozenShelf{Drawer: s.drawer, Rows: s.rows, Nums: s.nums, Live: slices.Clone(s.live), Parts: s.n}
		for _, c := range s.cols {
			fs.Columns = append(fs.Columns, frozenColumn{Key: c.key, Bytes: c.codes.b, Words: c.codes.w, Codes: c.codes.d, Dict: c.dict, Count: slices.Clone(c.count)})
		}
		f.Shelves = append(f.Shelves, fs)
	}
	return f, slices.Clone(x.rows), x.vals.all
}

// ErrSnapshot is returned for a snapshot that cannot be used; the index is empty then.
var ErrSnapshot = errors.New("the snapshot of the lookup index cannot be used")

// Load fills an empty index from what Save wrote, if accept agrees with its mark.
func (x *Index) Load(r io.Reader, accept func(Mark) bool) (m Mark, err error) {
	x.mu.Lock()
	defer x.mu.Unlock()
	defer func() {
		if p := recover(); p != nil { // a damaged file may point anywhere
			err = fmt.Errorf("%w: %v", ErrSnapshot, p)
		}
		if err != nil {
			x.reset()
		}
	}()
	var f frozen
	if err := gob.NewDecoder(r).Decode(&f); err != nil {
		return m, fmt.Errorf("%w: %v", ErrSnapshot, err)
	}
	if f.Format != snapshotFormat || !accept(f.Mark) {
		return m, fmt.Errorf("%w: it is of another library, or stale", ErrSnapshot)
	}
	x.reset()
	return f.Mark, x.thaw(&f)
}

func (x *Index) thaw(f *frozen) error {
	var vals []cabinet.Value
	if err := json.Unmarshal(f.Values, &vals); err != nil {
		return fmt.Errorf("%w: %v", ErrSnapshot, err)
	}
	for i, v := range vals {
		if got := x.vals.number(v); got != uint32(i) {
			return fmt.Errorf("%w: value %d is there twice", ErrSnapshot, i)
		}
	}
	x.ids, x.numbers, x.texts, x.mpns, x.supplies = f.IDs.thaw(), f.Numbers.thaw(), f.Texts.thaw(), f.MPNs.thaw(), f.Supplies.thaw()
	x.built = arena{bytes: f.Built.Bytes, at: f.Built.At, plain: true}
	x.textRow, x.heads, x.names = f.TextRow, f.Heads, f.Names
	for i, h := range x.heads {
		x.headAt[h] = uint32(i)
	}
	for i, n := range x.names {
		x.nameAt[n] = uint32(i)
	}
	x.rows = make([]row, len(f.Shelf))
	for i := range x.rows {
		fl := f.Flags[i]
		r := row{shelf: f.Shelf[i], srcs: f.Srcs[i], dead: fl&flagDead > 0, gone: fl&flagGone > 0, draft: fl&flagDraft > 0, built: fl&flagBuilt > 0, local: f.Local[i], src: f.Src[i],
			text: f.Text[i], name: f.Name[i], version: f.Version[i], rev: f.Rev[i], updated: f.Updated[i], content: f.Content[i]}
		x.rows[i] = r
		if !r.dead && !r.gone {
			x.live++
		}
		x.idFind.add(hashOf(string(x.ids.raw(uint32(i)))))
		x.numFind.add(hashOf(part.NormaliseMPN(string(x.numbers.raw(uint32(i))))))
	}
	for row, numbers := range f.Former {
		x.formerOf[row] = numbers
		for _, n := range numbers {
			x.former[strings.ToUpper(n)] = row
			x.oldLike[part.NormaliseMPN(n)] = append(x.oldLike[part.NormaliseMPN(n)], row)
		}
	}
	for row, names := range f.Series {
		for _, n := range names {
			x.ofSeries(row, n)
		}
	}
	x.sources = make([]source, len(f.SourceRow))
	for i := range x.sources {
		x.sources[i] = source{f.SourceRow[i], f.Maker[i], f.First[i], f.N[i]}
		x.mpnFind.add(hashOf(part.NormaliseMPN(x.mpns.get(uint32(i)))))
	}
	x.supplied = make([]supplied, len(f.SuppliedRow))
	for i := range x.supplied {
		x.supplied[i] = supplied{f.SuppliedRow[i], f.Supplier[i]}
		x.supFind.add(hashOf(part.NormaliseMPN(x.supplies.get(uint32(i)))))
	}
	for i, fs := range f.Shelves {
		s := newShelf(fs.Drawer, uint16(i))
		s.rows, s.nums, s.live, s.n = fs.Rows, fs.Nums, fs.Live, fs.Parts
		for _, num := range s.nums {
			s.headed(uint32(num >> 32))
		}
		for _, fc := range fs.Columns {
			c := &column{key: fc.Key, at: len(s.cols), codes: codes{fc.Bytes, fc.Words, fc.Codes}, dict: fc.Dict, count: fc.Count, find: make(map[uint32]uint32, len(fc.Dict))}
			for code, id := range c.dict {
				c.find[id] = uint32(code)
				if code > 0 {
					x.vals.places[id] = append(x.vals.places[id], place{s.at, c, uint32(code)})
				}
			}
			s.cols = append(s.cols, c)
			s.byKey[c.key] = c
		}
		s.template(x.cab, x.vals)
		x.shelves = append(x.shelves, s)
		x.byKey[s.drawer] = s
	}
	x.generation++
	x.forgotten = x.generation
	return nil
}

func (f frozenArena) thaw() arena {
	a := arena{bytes: f.Bytes, at: f.At}
	if slices.ContainsFunc(a.bytes, func(c byte) bool { return c >= 'a' && c <= 'z' }) {
		a.fold = slices.Clone(a.bytes)
		capitals(a.fold)
	}
	return a
}
