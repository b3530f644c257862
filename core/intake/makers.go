package intake

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/finding"
	"jollydrawer/core/part"
)

// makers are the manufacturers that the house knows, and how often this file names each.
type makers struct {
	house   map[string]string         // normalised → the house's spelling
	often   map[string]int            // normalised → rows of this file
	first   map[string]string         // normalised → the spelling that most rows of this file have, of several the first
	spelled map[string]map[string]int // normalised → spelling → rows
	norm    map[string]string
	said    map[string]*finding.Finding
	known   map[string]written // as it is written → what is made of it
}

// written is what a manufacturer that a row names is taken for, and what is said of that; nil where it is known.
type written struct {
	name string
	says *finding.Finding
}

func newMakers(cw crosswalk.Crosswalk, lib Library) makers {
	m := makers{house: map[string]string{}, often: map[string]int{}, first: map[string]string{}, spelled: map[string]map[string]int{}, norm: map[string]string{}, said: map[string]*finding.Finding{}, known: map[string]written{}}
	for _, name := range cw.Manufacturers {
		m.house[part.NormaliseMaker(name)] = name
	}
	if lib != nil {
		said := maps.Clone(m.house) // the crosswalk's word goes before the library's
		for _, name := range slices.Sorted(slices.Values(lib.Makers())) {
			n := part.NormaliseMaker(name)
			if _, ok := m.house[n]; !ok && said[n] == "" { // of several spellings in the library, always the same one
				m.house[n] = name
			}
		}
	}
	return m
}

// countMakers goes through the file's manufacturers once, so that a slip can be told from the spelling that most rows have.
func (b *builder) countMakers() {
	cw := &b.in.Crosswalk
	col, ok := b.res.col[cw.Take.Manufacturer]
	if !ok {
		return
	}
	for at := range b.in.Table.Len() {
		name := b.in.Table.texts[b.in.Table.cell(at, col)]
		if house, ok := cw.Manufacturers[name]; ok {
			name = house
		}
		n := b.makers.normalise(name)
		b.makers.often[n]++
		if b.makers.spelled[n] == nil {
			b.makers.spelled[n] = map[string]int{}
		}
		b.makers.spelled[n][name]++
		if most := b.makers.first[n]; most == "" || b.makers.spelled[n][name] > b.makers.spelled[n][most] {
			b.makers.first[n] = name
		}
	}
}

func (m *makers) normalise(name string) string {
	n, ok := m.norm[name]
	if !ok {
		n = part.NormaliseMaker(name)
		m.norm[name] = n
	}
	return n
}

// maker writes a known manufacturer as the house does, and says of an unknown one whether it may be another spelling.
func (b *builder) maker(c *Candidate, text, name string) {
	w, ok := b.makers.known[name]
	if !ok {
		w = b.taken(text, name)
		b.makers.known[name] = w
	}
	c.source.Manufacturer = w.name
	b.say(c, w.says)
}

// taken says what a manufacturer is taken for.
func (b *builder) taken(text, name string) written {
	m := &b.makers
	n := m.normalise(name)
	if house, ok := m.house[n]; ok {
		return written{house, nil}
	}
	if most := m.first[n]; most != "" { // capitals, blanks and the legal form make no other manufacturer
		name = most
	}
	f, ok := m.said[n]
	if !ok {
		f = &finding.Finding{Severity: finding.Note, Cause: "maker-new", Field: b.in.Crosswalk.Take.Manufacturer, Text: text,
			What: fmt.Sprintf("the library has no part of the manufacturer %q yet", name), Mend: "check that it is no other spelling of one that is known"}
		if near := m.near(n); near != "" {
			f.Severity, f.Cause, f.What = finding.Warning, "maker-spelling:"+n, fmt.Sprintf("the manufacturer %q looks like another spelling of %s", name, near)
			f.Mend = fmt.Sprintf("if they are one, say that %q is %s", text, near)
		}
		var others []string
		for _, o := range slices.Sorted(maps.Keys(m.spelled[n])) {
			if o != name {
				others = append(others, strconv.Quote(o))
			}
		}
		if len(others) > 0 {
			f.What += fmt.Sprintf("; rows that write it %s are taken for it", strings.Join(others, ", "))
		}
		m.said[n] = f
	}
	return written{name, f}
}

// near returns the known manufacturer, or one that this file names at least three times as often, that a name is a
// slip or a short form of; "" where there is none, or several.
func (m *makers) near(n string) string {
	found := []string{}
	try := func(norm, spelling string) {
		if norm != n && norm != "" && alikeNames(n, norm) && !slices.Contains(found, spelling) {
			found = append(found, spelling)
		}
	}
	for norm, spelling := range m.house {
		try(norm, spelling)
	}
	if len(found) == 0 {
		for norm, rows := range m.often {
			if rows >= 3*m.often[n] {
				try(norm, m.first[norm])
			}
		}
	}
	if len(found) != 1 {
		return ""
	}
	return found[0]
}

// alikeNames says whether one normalised name may be a slip or a short form of another.
func alikeNames(a, b string) bool {
	if len(a) > len(b) {
		a, b = b, a
	}
	if len(a) >= 5 && strings.HasPrefix(b, a) {
		return true
	}
	limit := 0
	switch {
	case len(a) >= 8:
		limit = 2
	case len(a) >= 4:
		limit = 1
	}
	return limit > 0 && len(b)-len(a) <= limit && distance(a, b) <= limit
}

// distance is the number of letters to change, add, drop or swap with their neighbour to make one text of another.
func distance(a, b string) int {
	before, last, now := make([]int, len(b)+1), make([]int, len(b)+1), make([]int, len(b)+1)
	for j := range last {
		last[j] = j
	}
	for i := 1; i <= len(a); i++ {
		now[0] = i
		for j := 1; j <= len(b); j++ {
			cost := 1
			if a[i-1] == b[j-1] {
				cost = 0
			}
			now[j] = min(last[j]+1, now[j-1]+1, last[j-1]+cost)
			if i > 1 && j > 1 && a[i-1] == b[j-2] && a[i-2] == b[j-1] {
				now[j] = min(now[j], before[j-2]+1)
			}
		}
		before, last, now = last, now, before
	}
	return last[len(b)]
}
