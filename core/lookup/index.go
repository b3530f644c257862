// Package lookup is the in-memory index of the library: it finds parts by number, source, words and values, filters,
// counts, groups and sorts them. It is fed with entries by whoever follows the library, and knows nothing of storage.
//
// Parts lie in shelves, one a drawer, and a shelf keeps one column of small numbers for each parameter: a fact is a
// set of distinct values, so that answering means going through a few columns, and a count is one more such pass.
package lookup

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"sync"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

// Entry is what the index knows of one part. Entries are never changed once added; a newer one replaces them.
type Entry struct {
	ID          string
	Number      string
	Former      []string
	Status      lifecycle.Status
	Standing    lifecycle.Standing
	Revision    int
	HasDraft    bool // there is unreleased work beside the released revision
	Gone        bool // merged into another part: only numbers lead to it
	Drawer      string
	Name        string
	Description string
	Sources     []part.Source
	Missing     []string // models that are missing, and "datasheet", "source"
	Version     int
	Updated     int64 // Unix microseconds

	values []valueAt
}

// valueAt is one value of an entry.
type valueAt struct {
	key   string
	value *cabinet.Value
	text  string // as people write it; "" where nobody worked it out yet
}

// NewEntry returns an entry with what the index needs of a part's content; the caller fills in the rest.
func NewEntry(c part.Content) *Entry {
	e := &Entry{Drawer: c.Drawer, Name: c.Name, Description: c.Description, Sources: c.Sources, values: make([]valueAt, 0, len(c.Values))}
	for k, v := range c.Values {
		e.values = append(e.values, valueAt{key: k, value: &v})
	}
	slices.SortFunc(e.values, func(a, b valueAt) int { return cmp.Compare(a.key, b.key) })
	for _, place := range []string{"symbol", "land pattern", "body"} {
		if c.Models()[place] == nil {
			e.Missing = append(e.Missing, place)
		}
	}
	if len(c.Datasheets) == 0 {
		e.Missing = append(e.Missing, "datasheet")
	}
	if len(c.Sources) == 0 {
		e.Missing = append(e.Missing, "source")
	}
	return e
}

// Value returns the value of a parameter; blank where there is none.
func (e *Entry) Value(key string) cabinet.Value {
	for i := range e.values {
		if e.values[i].key == key {
			return *e.values[i].value
		}
	}
	return cabinet.Value{}
}

// Values returns all values by parameter.
func (e *Entry) Values() map[string]cabinet.Value {
	out := make(map[string]cabinet.Value, len(e.values))
	for _, v := range e.values {
		out[v.key] = *v.value
	}
	return out
}

// Shown calls f with each value and its text as people write it.
func (e *Entry) Shown(f func(key string, v cabinet.Value, text string)) {
	for i := range e.values {
		v := &e.values[i]
		if v.text == "" {
			v.text = v.value.String()
		}
		f(v.key, *v.value, v.text)
	}
}

// Index holds the entries. All methods may be called from several goroutines.
type Index struct {
	mu      sync.RWMutex
	cab     *cabinet.Cabinet
	lexicon lexicon
	shelves []*shelf
	byKey   map[string]*shelf // by drawer
	vals    *values
	live    int

	rows     []row
	ids      arena
	numbers  arena
	texts    arena // descriptions that no pattern built
	textRow  []uint32
	idFind   chains
	numFind  chains
	former   map[string]uint32 // former numbers, in capitals
	formerOf map[uint32][]string
	heads    []string // what stands before the counter of part numbers
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

	ranks      map[string]*ranking
	generation uint64
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
	text    uint32 // description + 1; 0: the drawer's pattern built it
	name    uint32 // number of the value with the name + 1; 0: the drawer's rule built it
	version uint32
	rev     uint32
	updated int64
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
	x := &Index{}
	x.reset()
	return x
}

func (x *Index) reset() {
	x.byKey, x.vals, x.former, x.headAt, x.nameAt, x.ranks = map[string]*shelf{}, newValues(), map[string]uint32{}, map[string]uint32{}, map[string]uint32{}, map[string]*ranking{}
	x.formerOf, x.textRow = map[uint32][]string{}, nil
	x.shelves, x.rows, x.live, x.heads, x.headRank, x.sources, x.supplied, x.names = nil, nil, 0, nil, nil, nil, nil, nil
	x.ids, x.numbers, x.texts, x.mpns, x.supplies = arena{}, arena{}, arena{}, arena{}, arena{}
	x.idFind, x.numFind, x.mpnFind, x.supFind = chains{}, chains{}, chains{}, chains{}
}

// SetCabinet gives the index the cabinet whose names and words queries may use.
func (x *Index) SetCabinet(cab *cabinet.Cabinet) {
	x.mu.Lock()
	defer x.mu.Unlock()
	if x.cab == cab {
		return
	}
	old := x.entriesOfPatterns(cab)
	x.cab, x.lexicon = cab, newLexicon(cab)
	for _, s := range x.shelves {
		s.template(cab)
	}
	for _, e := range old {
		x.drop(e.ID)
		x.add(e)
	}
	x.generation++
}

// Cabinet returns the cabinet that the index was given last, or nil.
func (x *Index) Cabinet() *cabinet.Cabinet {
	x.mu.RLock()
	defer x.mu.RUnlock()
	return x.cab
}

// entriesOfPatterns lists the parts whose texts the present patterns build and those of the next cabinet may not: they
// keep the texts that they have until somebody builds them anew.
func (x *Index) entriesOfPatterns(next *cabinet.Cabinet) (out []*Entry) {
	for _, s := range x.shelves {
		if s.tpl == nil {
			continue
		}
		t, ok := next.Template(s.drawer)
		if ok && t.Description == s.tpl.Description && t.Name == s.tpl.Name {
			continue
		}
		for _, i := range s.rows {
			if r := &x.rows[i]; !r.dead && (r.text == 0 || r.name == 0) {
				out = append(out, x.entry(i))
			}
		}
	}
	return out
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

// Put adds entries or replaces those with the same ID.
func (x *Index) Put(entries ...*Entry) {
	x.mu.Lock()
	defer x.mu.Unlock()
	for _, e := range entries {
		if i, ok := x.row(e.ID); ok && int(x.rows[i].version) > e.Version {
			continue // two followers may tell of a part in either order
		}
		x.drop(e.ID)
		x.add(e)
	}
	x.generation++
	if len(x.rows) > 2000 && len(x.rows) > 2*x.live+x.live/4 {
		x.rebuild()
	}
}

// rebuild starts over with the live entries, so that replaced ones stop costing memory.
func (x *Index) rebuild() {
	var keep []*Entry
	for i := range x.rows {
		if !x.rows[i].dead {
			keep = append(keep, x.entry(uint32(i)))
		}
	}
	x.reset()
	for _, e := range keep {
		x.add(e)
	}
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
	x.shelves[r.shelf].drop(r.local)
}

func (x *Index) add(e *Entry) {
	i := uint32(len(x.rows))
	s := x.byKey[e.Drawer]
	if s == nil {
		s = newShelf(strings.Clone(e.Drawer), uint16(len(x.shelves)))
		s.template(x.cab)
		x.shelves = append(x.shelves, s)
		x.byKey[s.drawer] = s
	}
	r := row{shelf: s.at, gone: e.Gone, draft: e.HasDraft, version: uint32(e.Version), rev: uint32(e.Revision), updated: e.Updated,
		src: uint32(len(x.sources)), srcs: uint16(len(e.Sources))}
	head, counter := x.splitNumber(e.Number)
	var first part.Source
	if len(e.Sources) > 0 {
		first = e.Sources[0]
	}
	if e.Description != "" && (s.tpl == nil || s.tpl.DescribeFrom(e.Value) != e.Description) || e.Description == "" && s.tpl != nil && s.tpl.DescribeFrom(e.Value) != "" {
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
	x.numFind.add(hashOf(strings.ToUpper(e.Number)))
	for _, n := range e.Former {
		x.former[strings.ToUpper(n)] = i
		x.formerOf[i] = append(x.formerOf[i], strings.Clone(n))
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
	if !e.Gone {
		x.live++
	}
}

// Columns of every shelf beside its parameters.
const (
	colMaker    = "manufacturer"
	colStatus   = "status"
	colStanding = "standing"
	colMissing  = "missing"
)

// several joins the members of a set into one value: a part's manufacturers, or what it lacks.
const several = "\x00"

type cell struct {
	key   string
	value uint32
}

func (x *Index) cells(e *Entry) []cell {
	text := func(key, s string) cell { return cell{key, x.vals.number(cabinet.Value{Type: cabinet.Text, Text: s})} }
	out := make([]cell, 0, len(e.values)+4)
	for _, v := range e.values {
		out = append(out, cell{v.key, x.vals.number(*v.value)})
	}
	var makers []string
	for _, s := range e.Sources {
		if !slices.Contains(makers, s.Manufacturer) {
			makers = append(makers, s.Manufacturer)
		}
	}
	out = append(out, text(colStatus, string(e.Status)), text(colStanding, string(e.Standing)))
	if len(makers) > 0 {
		out = append(out, text(colMaker, strings.Join(makers, several)))
	}
	if len(e.Missing) > 0 {
		out = append(out, text(colMissing, strings.Join(e.Missing, several)))
	}
	return out
}

func (x *Index) name(s string) uint32 {
	if i, ok := x.nameAt[s]; ok {
		return i
	}
	s = strings.Clone(s)
	i := uint32(len(x.names))
	x.names = append(x.names, s)
	x.nameAt[s] = i
	return i
}

// splitNumber parts a number into what stands before its counter and the counter, so that R-9 sorts before R-10.
func (x *Index) splitNumber(number string) (head, counter uint32) {
	k := len(number)
	for k > 0 && number[k-1] >= '0' && number[k-1] <= '9' && len(number)-k < 9 {
		k--
	}
	n, _ := strconv.ParseUint(number[k:], 10, 32)
	h := number[:k]
	at, ok := x.headAt[h]
	if !ok {
		h = strings.Clone(h)
		at = uint32(len(x.heads))
		x.heads = append(x.heads, h)
		x.headAt[h] = at
		x.headRank = nil
	}
	return at, uint32(n)
}

// entry makes the entry of a row.
func (x *Index) entry(i uint32) *Entry {
	r := &x.rows[i]
	s := x.shelves[r.shelf]
	e := &Entry{ID: x.ids.get(i), Number: x.numbers.get(i), Revision: int(r.rev), HasDraft: r.draft, Gone: r.gone, Drawer: s.drawer, Version: int(r.version), Updated: r.updated,
		values: make([]valueAt, 0, len(s.cols))}
	e.Former = append(e.Former, x.formerOf[i]...)
	for _, c := range s.cols {
		id := c.dict[c.codes[r.local]]
		if id == 0 {
			continue
		}
		v := &x.vals.all[id] // never changed once it is there
		switch c.key {
		case colStatus:
			e.Status = lifecycle.Status(v.Text)
		case colStanding:
			e.Standing = lifecycle.Standing(v.Text)
		case colMissing:
			e.Missing = strings.Split(v.Text, several)
		case colMaker:
		default:
			e.values = append(e.values, valueAt{c.key, v, x.vals.texts[id]})
		}
	}
	for k := r.src; k < r.src+uint32(r.srcs); k++ {
		src := part.Source{Manufacturer: x.names[x.sources[k].maker], MPN: x.mpns.get(k)}
		for n := x.sources[k].first; n < x.sources[k].first+x.sources[k].n; n++ {
			src.Numbers = append(src.Numbers, part.Number{Supplier: x.names[x.supplied[n].supplier], Number: x.supplies.get(n)})
		}
		e.Sources = append(e.Sources, src)
	}
	switch {
	case r.text > 0:
		e.Description = x.texts.get(r.text - 1)
	case s.tpl != nil:
		e.Description = s.tpl.DescribeFrom(e.Value)
	}
	switch {
	case r.name > 0:
		e.Name = x.vals.all[r.name-1].Text
	case s.tpl != nil && len(e.Sources) > 0:
		e.Name = s.tpl.NameFrom(e.Value, e.Sources[0].Manufacturer, e.Sources[0].MPN)
	}
	return e
}

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
	x.numFind.each(number, func(i uint32) bool {
		if !x.rows[i].dead && strings.ToUpper(string(x.numbers.raw(i))) == number {
			found, ok = i, true
		}
		return !ok
	})
	return found, ok
}

// HasNumber says whether a part number is taken.
func (x *Index) HasNumber(number string) bool { _, ok := x.ByNumber(number); return ok }

// BySource finds the part that holds a source key (see part.Source.Key).
func (x *Index) BySource(key string) (string, part.Content, bool) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	_, mpn, _ := strings.Cut(key, "|")
	var e *Entry
	x.mpnFind.each(mpn, func(k uint32) bool {
		r := x.sources[k].row
		if s := (part.Source{Manufacturer: x.names[x.sources[k].maker], MPN: x.mpns.get(k)}); !x.rows[r].dead && !x.rows[r].gone && s.Key() == key {
			e = x.entry(r)
		}
		return e == nil
	})
	if e == nil {
		return "", part.Content{}, false
	}
	return e.Number, part.Content{Drawer: e.Drawer, Name: e.Name, Description: e.Description, Sources: e.Sources, Values: e.Values()}, true
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

func (x *Index) entries(rows []uint32) []*Entry {
	var out []*Entry
	for _, r := range rows {
		out = append(out, x.entry(r))
	}
	return out
}

// ByLeading finds the parts of the given drawers whose leading parameter has this nominal value.
func (x *Index) ByLeading(m measure.Measure, leading map[string]string) []*Entry {
	x.mu.RLock()
	defer x.mu.RUnlock()
	var hits []uint32
	for _, s := range x.shelves {
		c := s.byKey[leading[s.drawer]]
		if c == nil {
			continue
		}
		for _, id := range x.vals.sizes[measureTerm{m.Of, m.Value()}] {
			code, ok := c.find[id]
			if !ok || x.vals.all[id].Measure.Bare() != m.Bare() {
				continue
			}
			for local, have := range c.codes {
				if have == code && s.live.has(uint32(local)) {
					hits = append(hits, s.rows[local])
				}
			}
		}
	}
	slices.Sort(hits)
	return x.entries(hits)
}

// Each calls f with the entries of all parts of a drawer, or of all drawers for "", until it returns false.
func (x *Index) Each(drawer string, f func(*Entry) bool) {
	x.mu.RLock()
	n := len(x.rows)
	x.mu.RUnlock()
	for i := range n {
		x.mu.RLock()
		var e *Entry
		if i < len(x.rows) && !x.rows[i].dead && !x.rows[i].gone && (drawer == "" || x.shelves[x.rows[i].shelf].drawer == drawer) {
			e = x.entry(uint32(i))
		}
		x.mu.RUnlock()
		if e != nil && !f(e) {
			return
		}
	}
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
		want := make([]bool, len(col.dict))
		any := false
		for code, id := range col.dict {
			want[code] = x.vals.all[id] == values[k]
			any = any || want[code]
		}
		if !any {
			return nil
		}
		same := newBits(len(s.rows))
		col.mark(want, acc, same)
		acc = same
	}
	acc.each(func(i uint32) {
		if row := s.rows[i]; len(numbers) < limit && string(x.ids.raw(row)) != but {
			numbers = append(numbers, x.numbers.get(row))
		}
	})
	return numbers
}
