// Package lookup is the in-memory index of the library: it finds parts by number, source, words and values, filters
// and sorts them. It is fed with entries by whoever follows the library, and knows nothing of storage.
package lookup

import (
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
	Drawer      string
	Description string
	Sources     []part.Source
	Missing     []string // models that are missing
	Version     int
	Updated     int64 // Unix microseconds

	values []valueAt
	places [3]uint16 // of drawer, status and standing among the index's, for counting
}

// valueAt is one value of an entry. A library holds few distinct ones: the index keeps one copy of each.
type valueAt struct {
	key   string
	value *cabinet.Value
}

// NewEntry returns an entry with what the index needs of a part's content; the caller fills in the rest.
func NewEntry(c part.Content) *Entry {
	e := &Entry{Drawer: c.Drawer, Description: c.Description, Sources: c.Sources, values: make([]valueAt, 0, len(c.Values))}
	for k, v := range c.Values {
		e.values = append(e.values, valueAt{k, &v})
	}
	for _, place := range []string{"symbol", "land pattern", "body"} {
		if c.Models()[place] == nil {
			e.Missing = append(e.Missing, place)
		}
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

// Index holds the entries. All methods may be called from several goroutines.
type Index struct {
	mu       sync.RWMutex
	entries  []*Entry // nil where an entry was replaced or removed
	live     int
	byID     map[string]uint32
	byNumber map[string]uint32 // present and former numbers, upper case
	byMPN    map[string][]uint32
	bySource map[string]uint32
	bySupply map[string][]uint32
	terms    map[string][]uint32 // what words can hit, lower case → entries, ascending
	measures map[measureTerm][]uint32
	blob     strings.Builder // all terms, each after a line break: searched for substrings
	values   map[cabinet.Value]*cabinet.Value
	words    map[string]string
	places   [3]places // drawers, statuses and standings

	generation uint64
}

type measureTerm struct {
	of    measure.Dimension
	value measure.Number
}

// New returns an empty index.
func New() *Index {
	return &Index{byID: map[string]uint32{}, byNumber: map[string]uint32{}, byMPN: map[string][]uint32{}, bySource: map[string]uint32{},
		bySupply: map[string][]uint32{}, terms: map[string][]uint32{}, measures: map[measureTerm][]uint32{},
		values: map[cabinet.Value]*cabinet.Value{}, words: map[string]string{}}
}

// Generation changes whenever entries do: what was computed from the index under another generation may be stale.
func (x *Index) Generation() uint64 {
	x.mu.RLock()
	defer x.mu.RUnlock()
	return x.generation
}

// Len returns the number of parts.
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
		if i, ok := x.byID[e.ID]; ok && x.entries[i].Version > e.Version {
			continue // two followers may tell of a part in either order
		}
		x.drop(e.ID)
		x.add(e)
	}
	x.generation++
	if len(x.entries) > 1000 && len(x.entries) > 2*x.live {
		x.rebuild()
	}
}

func (x *Index) drop(id string) {
	i, ok := x.byID[id]
	if !ok {
		return
	}
	old := x.entries[i]
	x.entries[i] = nil
	x.live--
	delete(x.byID, id)
	for _, n := range append(old.Former, old.Number) {
		delete(x.byNumber, strings.ToUpper(n))
	}
	for _, s := range old.Sources {
		if k := s.Key(); x.bySource[k] == i {
			delete(x.bySource, k)
		}
	}
}

// rebuild starts over with the live entries, so that replaced ones stop costing memory.
func (x *Index) rebuild() {
	old := x.entries
	fresh := New()
	for _, e := range old {
		if e != nil {
			fresh.add(e)
		}
	}
	x.entries, x.byID, x.byNumber, x.byMPN, x.bySource, x.bySupply = fresh.entries, fresh.byID, fresh.byNumber, fresh.byMPN, fresh.bySource, fresh.bySupply
	x.terms, x.measures, x.values, x.words, x.places = fresh.terms, fresh.measures, fresh.values, fresh.words, fresh.places
	x.blob.Reset()
	x.blob.WriteString(fresh.blob.String())
}

func (x *Index) add(e *Entry) {
	i := uint32(len(x.entries))
	x.entries = append(x.entries, e)
	x.live++
	x.byID[e.ID] = i
	for _, n := range append(append([]string{}, e.Former...), e.Number) {
		x.byNumber[strings.ToUpper(n)] = i
		x.term(n, i)
	}
	for k := range e.values {
		v := &e.values[k]
		v.key, v.value = x.word(v.key), x.share(v.value)
		x.value(*v.value, i)
	}
	e.Drawer = x.word(e.Drawer)
	for k, name := range []string{e.Drawer, string(e.Status), string(e.Standing)} {
		e.places[k] = x.places[k].of(name)
	}
	x.text(e.Description, i)
	x.term(e.Drawer, i)
	for k := range e.Sources {
		s := &e.Sources[k]
		s.Manufacturer = x.word(s.Manufacturer)
		mpn := part.NormaliseMPN(s.MPN)
		x.byMPN[mpn] = append(x.byMPN[mpn], i)
		x.bySource[s.Key()] = i
		x.term(s.MPN, i)
		if low := strings.ToLower(mpn); low != strings.ToLower(s.MPN) {
			x.term(low, i)
		}
		x.text(s.Manufacturer, i)
		for _, n := range s.Numbers {
			key := part.NormaliseMPN(n.Number)
			x.bySupply[key] = append(x.bySupply[key], i)
			x.term(n.Number, i)
		}
	}
}

// share keeps one copy of each distinct value: a library holds few of them.
func (x *Index) share(v *cabinet.Value) *cabinet.Value {
	if have, ok := x.values[*v]; ok {
		return have
	}
	x.values[*v] = v
	return v
}

// places numbers the values of a facet, so that counting needs no map.
type places struct {
	names []string
}

func (p *places) of(name string) uint16 {
	for i, n := range p.names {
		if n == name {
			return uint16(i)
		}
	}
	p.names = append(p.names, name)
	return uint16(len(p.names) - 1)
}

func (x *Index) word(s string) string {
	if have, ok := x.words[s]; ok {
		return have
	}
	x.words[s] = s
	return s
}

func (x *Index) term(s string, i uint32) {
	s = strings.ToLower(s)
	if s == "" {
		return
	}
	list, known := x.terms[s]
	if !known {
		x.blob.WriteByte('\n')
		x.blob.WriteString(s)
	} else if list[len(list)-1] == i {
		return
	}
	x.terms[s] = append(list, i)
}

func (x *Index) text(s string, i uint32) {
	for _, w := range strings.FieldsFunc(s, func(r rune) bool { return r == ' ' || r == ',' || r == ';' || r == '\n' || r == '\t' }) {
		x.term(w, i)
	}
}

func (x *Index) value(v cabinet.Value, i uint32) {
	if v.Type != cabinet.Measure {
		x.text(v.String(), i)
		return
	}
	x.term(v.Measure.Short(), i)
	x.term(v.Measure.Marking(), i)
	t := measureTerm{v.Measure.Of, v.Measure.Value()}
	if list := x.measures[t]; len(list) == 0 || list[len(list)-1] != i {
		x.measures[t] = append(list, i)
	}
}

// ByID returns a part's entry.
func (x *Index) ByID(id string) (*Entry, bool) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	i, ok := x.byID[id]
	if !ok {
		return nil, false
	}
	return x.entries[i], true
}

// ByNumber finds a part by its present number or a former one.
func (x *Index) ByNumber(number string) (*Entry, bool) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	i, ok := x.byNumber[strings.ToUpper(strings.TrimSpace(number))]
	if !ok {
		return nil, false
	}
	return x.entries[i], true
}

// HasNumber says whether a part number is taken.
func (x *Index) HasNumber(number string) bool { _, ok := x.ByNumber(number); return ok }

// BySource finds the part that holds a source key (see part.Source.Key).
func (x *Index) BySource(key string) (string, part.Content, bool) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	i, ok := x.bySource[key]
	if !ok {
		return "", part.Content{}, false
	}
	e := x.entries[i]
	return e.Number, part.Content{Drawer: e.Drawer, Description: e.Description, Sources: e.Sources, Values: e.Values()}, true
}

// ByMPN finds the parts with an MPN that is the same after normalising.
func (x *Index) ByMPN(mpn string) []*Entry { return x.all(x.byMPN, part.NormaliseMPN(mpn)) }

// BySupplierNumber finds the parts that any supplier sells under a number.
func (x *Index) BySupplierNumber(number string) []*Entry {
	return x.all(x.bySupply, part.NormaliseMPN(number))
}

func (x *Index) all(in map[string][]uint32, key string) []*Entry {
	if key == "" {
		return nil
	}
	x.mu.RLock()
	defer x.mu.RUnlock()
	var out []*Entry
	for _, i := range in[key] {
		if e := x.entries[i]; e != nil && (len(out) == 0 || out[len(out)-1] != e) {
			out = append(out, e)
		}
	}
	return out
}

// ByLeading finds the parts of the given drawers whose leading parameter has this nominal value.
func (x *Index) ByLeading(m measure.Measure, leading map[string]string) []*Entry {
	x.mu.RLock()
	defer x.mu.RUnlock()
	var out []*Entry
	for _, i := range x.measures[measureTerm{m.Of, m.Value()}] {
		e := x.entries[i]
		if e == nil {
			continue
		}
		key, ok := leading[e.Drawer]
		if v := e.Value(key); ok && v.Type == cabinet.Measure && v.Measure.Bare() == m.Bare() {
			out = append(out, e)
		}
	}
	return out
}

// CountByDrawer counts the parts of each drawer.
func (x *Index) CountByDrawer() map[string]int {
	x.mu.RLock()
	defer x.mu.RUnlock()
	out := map[string]int{}
	for _, e := range x.entries {
		if e != nil {
			out[e.Drawer]++
		}
	}
	return out
}
