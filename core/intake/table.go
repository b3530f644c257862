package intake

import (
	"fmt"
	"slices"
	"strings"
	"sync"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

// Row is one row of the file: its number, its cells in the order of the header, and what was wrong with it.
type Row struct {
	Number  int
	Cells   []string
	Problem string
}

// Table holds the rows of a file compactly: each distinct text once, and a number for each cell. A hundred thousand
// rows of thirty fields take some 12 MB and their texts.
type Table struct {
	Header   []string
	texts    []string // by number; 0 is the blank
	find     map[string]uint32
	cells    []uint32 // width to a row
	numbers  []int32
	problems map[int]string // by place of the row

	mu        sync.Mutex
	mpns      map[int]*mpns // by column
	marks     map[int]measure.Mark
	samples   [][]string // what Samples said of the most that was asked
	sampled   int
	suggested map[string][]crosswalk.Suggestion // by what was known
}

// mostSuggested is how many answers about a table's columns are kept.
const mostSuggested = 32

// suggest proposes a mapping for all columns, whatever is mapped: worked out once for what is known. The crosswalks that are known are told by
// where their rules lie: who reads them anew has others.
func (t *Table) suggest(k crosswalk.Known) []crosswalk.Suggestion {
	var key strings.Builder
	fmt.Fprintf(&key, "%p", k.Cabinet)
	for _, c := range k.Earlier {
		fmt.Fprintf(&key, " %p", c.Fields)
	}
	drawers := slices.Clone(k.Drawers)
	slices.Sort(drawers)
	fmt.Fprintf(&key, " %q", drawers)
	t.mu.Lock()
	had, ok := t.suggested[key.String()]
	t.mu.Unlock()
	if ok {
		return slices.Clone(had)
	}
	out := crosswalk.Suggest(t.columns(), k)
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.suggested == nil || len(t.suggested) >= mostSuggested {
		t.suggested = map[string][]crosswalk.Suggestion{}
	}
	t.suggested[key.String()] = out
	return slices.Clone(out)
}

// mpns are the texts of a column by place of the row, as manufacturer part numbers are compared.
type mpns struct {
	norm []string
	hurt []damage
}

// damage is what a spreadsheet did to a text; the zero one is none.
type damage struct{ cause, what string }

// mpnsOf works a column out the first time that somebody asks. The table no longer changes then.
func (t *Table) mpnsOf(column int) *mpns {
	t.mu.Lock()
	defer t.mu.Unlock()
	if n := t.mpns[column]; n != nil {
		return n
	}
	n := &mpns{make([]string, t.Len()), make([]damage, t.Len())}
	for at := range t.Len() {
		text := t.texts[t.cell(at, column)]
		n.norm[at] = part.NormaliseMPN(text)
		n.hurt[at].cause, n.hurt[at].what = damaged(text)
	}
	if t.mpns == nil {
		t.mpns = map[int]*mpns{}
	}
	t.mpns[column] = n
	return n
}

// NewTable returns an empty table with a header.
func NewTable(header []string) *Table {
	return &Table{Header: header, texts: []string{""}, find: map[string]uint32{"": 0}, problems: map[int]string{}}
}

// Add appends a row. Cells beyond the header are dropped: a row that fills them carries a problem that says so.
func (t *Table) Add(r Row) {
	if r.Problem != "" {
		t.problems[len(t.numbers)] = r.Problem
	}
	t.numbers = append(t.numbers, int32(r.Number))
	for i := range t.Header {
		cell := ""
		if i < len(r.Cells) {
			cell = strings.TrimSpace(r.Cells[i])
		}
		t.cells = append(t.cells, t.intern(cell))
	}
}

// intern numbers a text. The row's text is one piece of memory that a cell would keep alive, so a new text is copied.
func (t *Table) intern(s string) uint32 {
	if id, ok := t.find[s]; ok {
		return id
	}
	id := uint32(len(t.texts))
	s = strings.Clone(s)
	t.texts = append(t.texts, s)
	t.find[s] = id
	return id
}

// Done gives back the memory that only adding rows needs.
func (t *Table) Done() { t.find = nil }

// Len is the number of rows.
func (t *Table) Len() int { return len(t.numbers) }

// Row returns the row at a place as it came.
func (t *Table) Row(at int) Row {
	r := Row{Number: int(t.numbers[at]), Cells: make([]string, len(t.Header)), Problem: t.problems[at]}
	for i := range r.Cells {
		r.Cells[i] = t.texts[t.cell(at, i)]
	}
	return r
}

// At returns the place of the row with a number; -1 where there is none.
func (t *Table) At(number int) int {
	lo, hi := 0, len(t.numbers)
	for lo < hi {
		if mid := (lo + hi) / 2; int(t.numbers[mid]) < number {
			lo = mid + 1
		} else {
			hi = mid
		}
	}
	if lo < len(t.numbers) && int(t.numbers[lo]) == number {
		return lo
	}
	return -1
}

func (t *Table) cell(at, column int) uint32 { return t.cells[at*len(t.Header)+column] }

// Samples returns up to n distinct texts of each column that are not blank, the first ones met.
func (t *Table) Samples(n int) [][]string {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.samples == nil || t.sampled < n {
		t.samples, t.sampled = t.sample(n), n
	}
	out := make([][]string, len(t.Header))
	for i, s := range t.samples {
		out[i] = slices.Clone(s[:min(n, len(s))])
	}
	return out
}

func (t *Table) sample(n int) [][]string {
	out := make([][]string, len(t.Header))
	for i := range t.Header {
		seen := map[uint32]bool{0: true}
		for at := 0; at < t.Len() && len(out[i]) < n; at++ {
			if id := t.cell(at, i); !seen[id] && t.texts[id] != t.Header[i] { // a header that comes again is no value
				seen[id] = true
				out[i] = append(out[i], t.texts[id])
			}
		}
	}
	return out
}

// byName is the place of each column by its name; of two of one name, the first.
func (t *Table) byName() map[string]int {
	col := map[string]int{}
	for i, h := range t.Header {
		if _, twice := col[h]; !twice {
			col[h] = i
		}
	}
	return col
}
