// Package lookup is the in-memory index of the library: it finds parts by number, source, words and values, filters,
// counts, groups and sorts them. It is fed with entries by whoever follows the library, and knows nothing of storage.
//
// Parts lie in shelves, one a drawer, and a shelf keeps one column of small numbers for each parameter: a fact is a
// set of distinct values, so that answering means going through a few columns, and a count is one more such pass.
package lookup

import (
	"cmp"
	"iter"
	"maps"
	"slices"
	"strings"
	"sync"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/part"
)

// Index holds the entries. All methods may be called from several goroutines. Nothing that takes long holds its lock: what has
// to be built over all entries is built beside them, and takes their place.
type Index struct {
	mu sync.RWMutex
	contents
	generation uint64
	touches    []touch // the newest ones, oldest first
	forgotten  uint64  // generation of the newest touch that is not remembered

	building sync.Mutex       // one contents is built beside at a time
	coming   *cabinet.Cabinet // while one is: under which
	late     map[string]bool  // and the IDs of entries that were put since it began

	supply *supplies
}

// contents is what an index holds.
type contents struct {
	cab     *cabinet.Cabinet
	lexicon lexicon
	shelves []*shelf
	byKey   map[string]*shelf // by drawer
	vals    *values
	live    int

	rows     []row
	ids      arena
	numbers  arena
	texts    arena // descriptions that no pattern built, which words of a query are looked for in
	built    arena // the others: what they say is found by the values
	textRow  []uint32
	idFind   chains
	numFind  chains
	former   map[string]uint32   // former numbers, in capitals
	oldLike  map[string][]uint32 // rows by the letters and digits of their former numbers
	formerOf map[uint32][]string
	seriesOf map[uint32][]string // row → names of its series
	bySeries map[string][]uint32 // name as MPNs are compared → rows, dead ones included
	heads    []string            // what stands before the counter of part numbers
	headAt   map[string]uint32
	headRank []uint32 // by head: its place in the alphabet

	sources  []source
	mpns     arena
	mpnFind  chains // by normalised MPN
	supplied []supplied
	supplies arena
	supFind  chains // by normalised supplier number
	names    []string
	nameAt   map[string]uint32 // makers and suppliers

	ranks map[string]*ranking

	supplyAt []uint32 // by row: place among supplyOf + 1; shorter than rows where the last have none
	supplyOf []rowSupply
}

// row is what the index keeps of a part beside its columns.
type row struct {
	shelf   uint16
	srcs    uint16
	dead    bool
	gone    bool
	draft   bool
	local   uint32
	src     uint32 // first of its sources
	text    uint32 // description + 1; 0: none
	built   bool   // the drawer's pattern built the description
	name    uint32 // number of the value with the name + 1; 0: the drawer's rule built it
	version uint32
	rev     uint32
	updated int64
	content uint64
}

type source struct {
	row   uint32
	maker uint32
	first uint32 // of its supplier numbers
	n     uint32
}

type supplied struct{ row, supplier uint32 }

// New returns an empty index.
func New() *Index {
	x := &Index{supply: &supplies{by: map[string]*Supply{}}}
	x.reset()
	return x
}

func (x *Index) reset() {
	x.byKey, x.vals, x.former, x.headAt, x.nameAt, x.ranks = map[string]*shelf{}, newValues(), map[string]uint32{}, map[string]uint32{}, map[string]uint32{}, map[string]*ranking{}
	x.formerOf, x.textRow, x.oldLike = map[uint32][]string{}, nil, map[string][]uint32{}
	x.seriesOf, x.bySeries = map[uint32][]string{}, map[string][]uint32{}
	x.shelves, x.rows, x.live, x.heads, x.headRank, x.sources, x.supplied, x.names = nil, nil, 0, nil, nil, nil, nil, nil
	x.ids, x.numbers, x.texts, x.mpns, x.supplies, x.built = arena{}, arena{}, arena{}, arena{}, arena{}, arena{plain: true}
	x.idFind, x.numFind, x.mpnFind, x.supFind = chains{}, chains{}, chains{}, chains{}
	x.supplyAt, x.supplyOf = nil, nil
}

// SetCabinet gives the index the cabinet whose names and words queries may use. Entries keep the texts that they have until
// somebody builds them anew. Where somebody else is about to give it the same one, it does not wait for that.
func (x *Index) SetCabinet(cab *cabinet.Cabinet) {
	if x.has(cab) {
		return
	}
	x.building.Lock()
	defer x.building.Unlock()
	if !x.has(cab) {
		x.replace(cab)
	}
}

// has says whether the index has a cabinet, or is about to.
func (x *Index) has(cab *cabinet.Cabinet) bool {
	x.mu.RLock()
	defer x.mu.RUnlock()
	return x.cab == cab || x.coming == cab && cab != nil
}

// Cabinet returns the cabinet that the index was given last, or nil.
func (x *Index) Cabinet() *cabinet.Cabinet {
	x.mu.RLock()
	defer x.mu.RUnlock()
	return x.cab
}

// Generation changes whenever entries do: what was computed from the index under another generation may be stale.
func (x *Index) Generation() uint64 {
	x.mu.RLock()
	defer x.mu.RUnlock()
	return x.generation
}

// Len returns the number of parts that can be found.
func (x *Index) Len() int {
	x.mu.RLock()
	defer x.mu.RUnlock()
	return x.live
}

// putAtOnce is how many entries are added while the lock is held, builtAtOnce how many are copied.
const (
	putAtOnce   = 50
	builtAtOnce = 500
)

// Put adds entries or replaces those with the same ID. They become visible some at a time. What it leaves of those it replaced
// is for Tidy.
func (x *Index) Put(entries ...*Entry) {
	for some := range slices.Chunk(entries, putAtOnce) {
		x.put(some)
	}
}

// Tidy builds the contents anew where replaced entries cost more memory than those that are there, and says whether it did. It
// takes long, and nobody waits for it but who calls it.
func (x *Index) Tidy() bool {
	if !x.worn() {
		return false
	}
	x.building.Lock()
	defer x.building.Unlock()
	if !x.worn() { // somebody else was quicker
		return false
	}
	x.replace(nil)
	return true
}

func (x *Index) put(entries []*Entry) {
	x.mu.Lock()
	defer x.mu.Unlock()
	for _, e := range entries {
		i, there := x.row(e.ID)
		if there && int(x.rows[i].version) > e.Version {
			continue
		}
		var before *Entry
		if there {
			before = x.entry(i)
		}
		x.touched(before, e)
		x.bring([]*Entry{e})
		if x.late != nil {
			x.late[e.ID] = true
		}
	}
	x.generation++
}

// Remove takes an entry out.
func (x *Index) Remove(id string) {
	x.mu.Lock()
	defer x.mu.Unlock()
	if i, ok := x.row(id); ok {
		x.touched(x.entry(i), nil)
	}
	x.drop(id)
	if x.late != nil {
		x.late[id] = true
	}
	x.generation++
}

// worn says whether replaced entries cost more memory than those that are there.
func (x *Index) worn() bool {
	x.mu.RLock()
	defer x.mu.RUnlock()
	return len(x.rows) > 2000 && len(x.rows) > 2*x.live+x.live/4
}

// replace builds the contents anew under a cabinet; see Renew.
func (x *Index) replace(cab *cabinet.Cabinet) { _ = x.renew(cab, nil) }

// Renew gives the index a cabinet, or nil to keep the one that it has by then, and entries that replace many of its own, or stand
// beside them. All is built beside what is
// asked meanwhile and takes its place at once; what was put since it began is brought over last, and only the last few of that
// hold anybody up. An error of entries leaves the index as it was.
func (x *Index) Renew(cab *cabinet.Cabinet, entries iter.Seq2[[]*Entry, error]) error {
	x.building.Lock()
	defer x.building.Unlock()
	return x.renew(cab, entries)
}

func (x *Index) renew(cab *cabinet.Cabinet, entries iter.Seq2[[]*Entry, error]) error {
	cab = cmp.Or(cab, x.Cabinet())
	next := New()
	next.cab, next.lexicon, next.supply = cab, newLexicon(cab), x.supply
	x.mu.Lock()
	x.late, x.coming = map[string]bool{}, cab
	n := len(x.rows)
	x.mu.Unlock()
	if entries != nil {
		for some, err := range entries {
			if err != nil {
				x.mu.Lock()
				x.late, x.coming = nil, nil
				x.mu.Unlock()
				return err
			}
			next.bring(some)
		}
	}
	for from := 0; from < n; from += builtAtOnce {
		next.bring(x.entriesBeyond(next, from, min(from+builtAtOnce, n)))
	}
	for {
		x.mu.Lock()
		ids := slices.Collect(maps.Keys(x.late))
		if len(ids) <= putAtOnce {
			next.follow(ids, x.entriesAt(ids))
			x.contents, x.late, x.coming = next.contents, nil, nil
			x.generation++
			if entries != nil { // nobody remembers each of them
				x.touches, x.forgotten = nil, x.generation
			}
			x.mu.Unlock()
			return nil
		}
		x.late = map[string]bool{}
		x.mu.Unlock()
		for some := range slices.Chunk(ids, builtAtOnce) {
			next.follow(some, x.entriesOfIDs(some))
		}
	}
}

// bring adds entries or replaces those that are there, but for newer ones: two followers may tell of a part in either order.
func (x *Index) bring(entries []*Entry) {
	for _, e := range entries {
		i, there := x.row(e.ID)
		if there && int(x.rows[i].version) > e.Version {
			continue
		}
		x.drop(e.ID)
		x.add(e)
	}
}

// follow does what was done elsewhere to entries with these IDs: those that are there are brought, the others were taken out.
func (x *Index) follow(ids []string, there []*Entry) {
	left := map[string]bool{}
	for _, e := range there {
		left[e.ID] = true
	}
	for _, id := range ids {
		if !left[id] {
			x.drop(id)
		}
	}
	x.bring(there)
}

// entriesBeyond returns the entries of some rows that next does not have, or has in an older version.
func (x *Index) entriesBeyond(next *Index, from, to int) (out []*Entry) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	for i := from; i < to; i++ {
		if x.rows[i].dead {
			continue
		}
		if j, there := next.row(string(x.ids.raw(uint32(i)))); !there || next.rows[j].version < x.rows[i].version {
			out = append(out, x.entry(uint32(i)))
		}
	}
	return out
}

func (x *Index) entriesOfIDs(ids []string) []*Entry {
	x.mu.RLock()
	defer x.mu.RUnlock()
	return x.entriesAt(ids)
}

func (x *Index) entriesAt(ids []string) (out []*Entry) {
	for _, id := range ids {
		if i, ok := x.row(id); ok {
			out = append(out, x.entry(i))
		}
	}
	return out
}

// Showing returns entries, by their IDs, of those that were made of the content that is said of each: what else a part's entry
// says can be changed without a look at its content.
func (x *Index) Showing(content map[string]uint64) map[string]*Entry {
	x.mu.RLock()
	defer x.mu.RUnlock()
	out := make(map[string]*Entry, len(content))
	for id, made := range content {
		if i, ok := x.row(id); ok && made != 0 && x.rows[i].content == made {
			out[id] = x.entry(i)
		}
	}
	return out
}

// row finds the live row of an ID.
func (x *Index) row(id string) (found uint32, ok bool) {
	x.idFind.each(id, func(i uint32) bool {
		if !x.rows[i].dead && string(x.ids.raw(i)) == id {
			found, ok = i, true
		}
		return !ok
	})
	return found, ok
}

func (x *Index) drop(id string) {
	i, ok := x.row(id)
	if !ok {
		return
	}
	r := &x.rows[i]
	r.dead = true
	if !r.gone {
		x.live--
	}
	for _, n := range x.formerOf[i] {
		if up := strings.ToUpper(n); x.former[up] == i {
			delete(x.former, up)
		}
	}
	delete(x.formerOf, i)
	delete(x.seriesOf, i)
	x.shelves[r.shelf].drop(r.local)
}

func (x *Index) add(e *Entry) {
	i := uint32(len(x.rows))
	s := x.byKey[e.Drawer]
	if s == nil {
		s = newShelf(strings.Clone(e.Drawer), uint16(len(x.shelves)))
		s.template(x.cab, x.vals)
		x.shelves = append(x.shelves, s)
		x.byKey[s.drawer] = s
	}
	r := row{shelf: s.at, gone: e.Gone, draft: e.HasDraft, version: uint32(e.Version), rev: uint32(e.Revision), updated: e.Updated, content: e.Content,
		src: uint32(len(x.sources)), srcs: uint16(len(e.Sources))}
	head, counter := x.splitNumber(e.Number)
	var first part.Source
	if len(e.Sources) > 0 {
		first = e.Sources[0]
	}
	switch {
	case e.Description == "":
	case s.tpl != nil && s.tpl.DescribeFrom(e.Value) == e.Description:
		r.text, r.built = x.built.add(e.Description)+1, true
	default:
		r.text = x.texts.add(e.Description) + 1
		x.textRow = append(x.textRow, i)
	}
	if e.Name != "" && (s.tpl == nil || s.tpl.NameFrom(e.Value, first.Manufacturer, first.MPN) != e.Name) {
		r.name = x.vals.number(cabinet.Value{Type: cabinet.Text, Text: e.Name}) + 1
	}
	r.local = s.add(i, uint64(head)<<32|uint64(counter), !e.Gone, x.cells(e), x.vals)
	x.ids.add(e.ID)
	x.idFind.add(hashOf(e.ID))
	x.numbers.add(e.Number)
	x.numFind.add(hashOf(part.NormaliseMPN(e.Number)))
	for _, n := range e.Former {
		x.former[strings.ToUpper(n)] = i
		x.oldLike[part.NormaliseMPN(n)] = append(x.oldLike[part.NormaliseMPN(n)], i)
		x.formerOf[i] = append(x.formerOf[i], strings.Clone(n))
	}
	for _, s := range e.Series {
		x.ofSeries(i, strings.Clone(s))
	}
	for _, src := range e.Sources {
		x.sources = append(x.sources, source{row: i, maker: x.name(src.Manufacturer), first: uint32(len(x.supplied)), n: uint32(len(src.Numbers))})
		x.mpns.add(src.MPN)
		x.mpnFind.add(hashOf(part.NormaliseMPN(src.MPN)))
		for _, n := range src.Numbers {
			x.supplied = append(x.supplied, supplied{i, x.name(n.Supplier)})
			x.supplies.add(n.Number)
			x.supFind.add(hashOf(part.NormaliseMPN(n.Number)))
		}
	}
	x.rows = append(x.rows, r)
	x.resupply(i)
	if !e.Gone {
		x.live++
	}
}
