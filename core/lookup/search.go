package lookup

import (
	"cmp"
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
	drawers, statuses, standings := set(q.Drawers), set(q.Status), set(q.Standing)
	keep := newTop(q)
	see := func(e *Entry) {
		in := [3]bool{len(drawers) == 0 || drawers[e.Content.Drawer], len(statuses) == 0 || statuses[string(e.Status)], len(standings) == 0 || standings[string(e.Standing)]}
		// A facet counts under all filters but its own.
		if in[1] && in[2] {
			a.Drawers[e.Content.Drawer]++
		}
		if in[0] && in[2] {
			a.Status[e.Status]++
		}
		if in[0] && in[1] {
			a.Stand[e.Standing]++
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
	a.Entries = keep.page()
	return a
}

func set[T comparable](list []T) map[T]bool {
	m := make(map[T]bool, len(list))
	for _, v := range list {
		m[v] = true
	}
	return m
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
	if list, ok := x.terms[low]; ok {
		hits.AddMany(list)
	}
	// Short words hit whole terms only: "1%" must not hit "51%".
	if utf8.RuneCountInString(low) >= 3 && len(seen) == 0 {
		x.substrings(low, hits)
	}
	if hits.GetCardinality() > before || len(as) == 0 {
		as = append(as, "the words “"+w+"”")
	}
	return hits, strings.Join(as, " or ")
}

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

// top keeps the first offset+limit entries in the wanted order without sorting all of them.
type top struct {
	q    Query
	less func(a, b *Entry) bool
	heap []*Entry // the worst of the kept on top
	want int
}

func newTop(q Query) *top {
	if q.Limit <= 0 {
		q.Limit = 50
	}
	t := &top{q: q, want: q.Offset + q.Limit}
	t.less = func(a, b *Entry) bool {
		c := compare(a, b, q.Sort, q.Down)
		if c == 0 {
			return a.Number < b.Number
		}
		return c < 0
	}
	return t
}

func (t *top) offer(e *Entry) {
	h := t.heap
	if len(h) < t.want {
		h = append(h, e)
		for i := len(h) - 1; i > 0; {
			up := (i - 1) / 2
			if !t.less(h[up], h[i]) {
				break
			}
			h[up], h[i] = h[i], h[up]
			i = up
		}
		t.heap = h
		return
	}
	if t.want == 0 || !t.less(e, h[0]) {
		return
	}
	h[0] = e
	for i := 0; ; {
		worst := i
		for _, k := range [2]int{2*i + 1, 2*i + 2} {
			if k < len(h) && t.less(h[worst], h[k]) {
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
	sort.Slice(t.heap, func(i, j int) bool { return t.less(t.heap[i], t.heap[j]) })
	if t.q.Offset >= len(t.heap) {
		return nil
	}
	return t.heap[t.q.Offset:]
}

// compare orders two entries by a column; what has no value comes last whichever way it is sorted.
func compare(a, b *Entry, column string, down bool) int {
	var c int
	switch column {
	case "", "number":
		c = cmp.Compare(a.Number, b.Number)
	case "updated":
		c = cmp.Compare(a.Updated, b.Updated)
	case "description":
		c = cmp.Compare(a.Content.Description, b.Content.Description)
	case "drawer":
		c = cmp.Compare(a.Content.Drawer, b.Content.Drawer)
	case "status":
		c = cmp.Compare(a.Status, b.Status)
	case "standing":
		c = cmp.Compare(a.Standing, b.Standing)
	case "manufacturer", "mpn":
		sa, sb := firstSource(a, column), firstSource(b, column)
		if (sa == "") != (sb == "") {
			return last(sa == "")
		}
		c = cmp.Compare(sa, sb)
	default:
		va, vb := a.Content.Values[column], b.Content.Values[column]
		if ba, bb := unsized(va), unsized(vb); ba != bb {
			return last(ba)
		}
		c = compareValues(va, vb)
	}
	if down {
		return -c
	}
	return c
}

// unsized says whether a value has no size to sort by: it is blank, or was never read.
func unsized(v cabinet.Value) bool { return v.IsBlank() || v.Type == cabinet.Raw }

func last(aIsBlank bool) int {
	if aIsBlank {
		return 1
	}
	return -1
}

func firstSource(e *Entry, column string) string {
	if len(e.Content.Sources) == 0 {
		return ""
	}
	if column == "mpn" {
		return e.Content.Sources[0].MPN
	}
	return e.Content.Sources[0].Manufacturer
}

func compareValues(a, b cabinet.Value) int {
	if a.Type == cabinet.Measure && b.Type == cabinet.Measure {
		return a.Measure.Cmp(b.Measure)
	}
	if a.Type == cabinet.Number && b.Type == cabinet.Number {
		return cmp.Compare(a.Number, b.Number)
	}
	return cmp.Compare(a.String(), b.String())
}
