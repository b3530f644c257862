package lookup

import (
	"cmp"
	"slices"
	"sort"
	"strings"
	"unicode/utf8"

	"github.com/RoaringBitmap/roaring/v2"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/measure"
)

// Query is a question to the library. Blank filters let everything through.
type Query struct {
	Text     string
	Drawers  []string // leaf drawers
	Status   []string // of lifecycle
	Standing []string
	Sort     string // a column: number, description, manufacturer, mpn, drawer, status, standing, updated, or a parameter key
	Down     bool
	Offset   int
	Limit    int
}

// Fact is one thing the text asked for, and how it was read.
type Fact struct {
	Text string `json:"text"`
	As   string `json:"as" doc:"How it was read: words, or a value"`
}

// Answer is one page of parts, the number of all, and how many of them each filter value would give.
type Answer struct {
	Entries []*Entry
	Total   int
	Hidden  int // parts that fit the text but not the filters
	Facts   []Fact
	Drawers map[string]int // counts among all that fit the text and the other filters
	Status  map[lifecycle.Status]int
	Stand   map[lifecycle.Standing]int
}

// Search answers a query.
func (x *Index) Search(q Query) Answer {
	x.mu.RLock()
	defer x.mu.RUnlock()
	a := Answer{Drawers: map[string]int{}, Status: map[lifecycle.Status]int{}, Stand: map[lifecycle.Standing]int{}}
	hits, all := x.text2hits(q.Text, &a)
	var filter [3][]bool // by place: whether the filter lets it through; nil lets everything
	var counts [3][]int
	for k, chosen := range [][]string{q.Drawers, q.Status, q.Standing} {
		counts[k] = make([]int, len(x.places[k].names))
		if len(chosen) > 0 {
			filter[k] = make([]bool, len(x.places[k].names))
			for i, name := range x.places[k].names {
				filter[k][i] = slices.Contains(chosen, name)
			}
		}
	}
	keep := newTop(q)
	see := func(e *Entry) {
		var in [3]bool
		for k, at := range e.places {
			in[k] = filter[k] == nil || filter[k][at]
		}
		for k, at := range e.places { // a facet counts under all filters but its own
			if (k == 0 || in[0]) && (k == 1 || in[1]) && (k == 2 || in[2]) {
				counts[k][at]++
			}
		}
		if !in[0] || !in[1] || !in[2] {
			a.Hidden++
			return
		}
		a.Total++
		keep.offer(e)
	}
	if all {
		for _, e := range x.entries {
			if e != nil {
				see(e)
			}
		}
	} else {
		it := hits.Iterator()
		for it.HasNext() {
			if e := x.entries[it.Next()]; e != nil {
				see(e)
			}
		}
	}
	for k, into := range []func(name string, n int){
		func(s string, n int) { a.Drawers[s] = n }, func(s string, n int) { a.Status[lifecycle.Status(s)] = n }, func(s string, n int) { a.Stand[lifecycle.Standing(s)] = n },
	} {
		for i, n := range counts[k] {
			if n > 0 {
				into(x.places[k].names[i], n)
			}
		}
	}
	a.Entries = keep.page()
	return a
}

// text2hits reads the words of a query and intersects what each hits. all is true where there are no words.
func (x *Index) text2hits(text string, a *Answer) (hits *roaring.Bitmap, all bool) {
	words := strings.Fields(text)
	for i := 0; i < len(words); i++ {
		w := words[i]
		if i+1 < len(words) && plainNumber(w) { // "4.7 kΩ" is one fact
			if r := measure.Parse(w+" "+words[i+1], measure.Options{}); r.Outcome == measure.Read || len(r.Possible) > 1 {
				w += " " + words[i+1]
				i++
			}
		}
		found, as := x.word2hits(w)
		a.Facts = append(a.Facts, Fact{w, as})
		if hits == nil {
			hits = found
		} else {
			hits.And(found)
		}
	}
	return hits, hits == nil
}

func plainNumber(s string) bool {
	_, err := measure.ParseNumber(strings.Replace(s, ",", ".", 1))
	return err == nil
}

func (x *Index) word2hits(w string) (*roaring.Bitmap, string) {
	hits := roaring.New()
	var as []string
	var seen []measureTerm
	for _, m := range readings(w) {
		t := measureTerm{m.Of, m.Value()}
		fresh := true
		for _, s := range seen {
			fresh = fresh && s != t
		}
		if list := x.measures[t]; fresh && len(list) > 0 {
			hits.AddMany(list)
			as = append(as, m.String())
		}
		seen = append(seen, t)
	}
	low := strings.ToLower(w)
	before := hits.GetCardinality()
	list, exact := x.terms[low]
	hits.AddMany(list)
	// Short words hit whole terms only: "1%" must not hit "51%". A number that is a whole term, such as a case code,
	// is that term: "0805" does not mean every part number with these digits in it.
	if utf8.RuneCountInString(low) >= 3 && len(seen) == 0 && !(exact && digits(low)) {
		x.substrings(low, hits)
	}
	if hits.GetCardinality() > before || len(as) == 0 {
		as = append(as, "the words “"+w+"”")
	}
	return hits, strings.Join(as, " or ")
}

func digits(s string) bool { return strings.Trim(s, "0123456789") == "" }

// readings lists what a word may mean as a value, in every dimension.
func readings(w string) []measure.Measure {
	r := measure.Parse(w, measure.Options{})
	if r.Outcome == measure.Read {
		return []measure.Measure{r.Measure}
	}
	var out []measure.Measure
	for _, p := range r.Possible {
		out = append(out, p.Measure)
	}
	return out
}

// substrings adds the entries of every term that contains low. Going through one long text is quicker than any list.
func (x *Index) substrings(low string, hits *roaring.Bitmap) {
	blob := x.blob.String()
	for at := 0; at < len(blob); {
		k := strings.Index(blob[at:], low)
		if k < 0 {
			return
		}
		from := strings.LastIndexByte(blob[:at+k+1], '\n') + 1
		to := len(blob)
		if e := strings.IndexByte(blob[at+k:], '\n'); e >= 0 {
			to = at + k + e
		}
		hits.AddMany(x.terms[blob[from:to]])
		at = to
	}
}

// sortKey is what an entry is sorted by, worked out once: nothing sorts last, then numbers, then texts.
type sortKey struct {
	none  bool
	value *cabinet.Value
	n     int64
	text  string
}

func keyOf(e *Entry, column string) sortKey {
	switch column {
	case "", "number":
		return sortKey{text: e.Number}
	case "updated":
		return sortKey{n: e.Updated}
	case "description":
		return sortKey{text: e.Description}
	case "drawer":
		return sortKey{text: e.Drawer}
	case "status":
		return sortKey{text: string(e.Status)}
	case "standing":
		return sortKey{text: string(e.Standing)}
	case "manufacturer", "mpn":
		if len(e.Sources) == 0 {
			return sortKey{none: true}
		}
		if column == "mpn" {
			return sortKey{text: e.Sources[0].MPN}
		}
		return sortKey{text: e.Sources[0].Manufacturer}
	}
	for i := range e.values {
		if e.values[i].key == column {
			v := e.values[i].value
			return sortKey{none: unsized(*v), value: v}
		}
	}
	return sortKey{none: true}
}

// compare orders two keys; what has no value comes last whichever way it is sorted.
func (k sortKey) compare(o sortKey, down bool) int {
	if k.none != o.none {
		if k.none {
			return 1
		}
		return -1
	}
	var c int
	switch {
	case k.none:
		return 0
	case k.value != nil && k.value == o.value:
		return 0
	case k.value != nil && o.value != nil:
		c = compareValues(*k.value, *o.value)
	default:
		c = cmp.Or(cmp.Compare(k.n, o.n), cmp.Compare(k.text, o.text))
	}
	if down {
		return -c
	}
	return c
}

type candidate struct {
	key sortKey
	e   *Entry
}

// top keeps the first offset+limit entries in the wanted order without sorting all of them.
type top struct {
	q    Query
	heap []candidate // the worst of the kept on top
	want int
}

func newTop(q Query) *top {
	if q.Limit <= 0 {
		q.Limit = 50
	}
	return &top{q: q, want: q.Offset + q.Limit}
}

func (t *top) less(a, b *candidate) bool {
	if c := a.key.compare(b.key, t.q.Down); c != 0 {
		return c < 0
	}
	return a.e.Number < b.e.Number
}

func (t *top) offer(e *Entry) {
	c := candidate{keyOf(e, t.q.Sort), e}
	h := t.heap
	if len(h) < t.want {
		h = append(h, c)
		for i := len(h) - 1; i > 0; {
			up := (i - 1) / 2
			if !t.less(&h[up], &h[i]) {
				break
			}
			h[up], h[i] = h[i], h[up]
			i = up
		}
		t.heap = h
		return
	}
	if t.want == 0 || !t.less(&c, &h[0]) {
		return
	}
	h[0] = c
	for i := 0; ; {
		worst := i
		for _, k := range [2]int{2*i + 1, 2*i + 2} {
			if k < len(h) && t.less(&h[worst], &h[k]) {
				worst = k
			}
		}
		if worst == i {
			return
		}
		h[i], h[worst] = h[worst], h[i]
		i = worst
	}
}

func (t *top) page() []*Entry {
	sort.Slice(t.heap, func(i, j int) bool { return t.less(&t.heap[i], &t.heap[j]) })
	var out []*Entry
	for i := t.q.Offset; i < len(t.heap); i++ {
		out = append(out, t.heap[i].e)
	}
	return out
}

// unsized says whether a value has no size to sort by: it is blank, or was never read.
func unsized(v cabinet.Value) bool { return v.IsBlank() || v.Type == cabinet.Raw }

func compareValues(a, b cabinet.Value) int {
	if a.Type == cabinet.Measure && b.Type == cabinet.Measure {
		return a.Measure.Cmp(b.Measure)
	}
	if a.Type == cabinet.Number && b.Type == cabinet.Number {
		return cmp.Compare(a.Number, b.Number)
	}
	return cmp.Compare(a.String(), b.String())
}
