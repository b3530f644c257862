package lookup

import (
	"slices"
	"strings"
	"sync/atomic"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/part"
)

// columns that a query may name beside the parameters.
var namedColumns = map[string]string{"status": colStatus, "standing": colStanding, "manufacturer": colMaker, "maker": colMaker, "drawer": "drawer", "kind": "drawer", "missing": colMissing}

// parameterAt finds the parameter whose label, key or synonym the words begin with, and how many words that takes.
func (x *Index) parameterAt(words []string) (key, label string, n int) {
	for n = min(4, len(words)); n > 0; n-- {
		name := strings.ToLower(strings.Join(words[:n], " "))
		if column, ok := namedColumns[name]; ok {
			return column, name, n
		}
		if p, ok := x.lexicon.parameters[name]; ok {
			return p[0], p[1], n
		}
	}
	return "", "", 0
}

// lexicon is what the words of the cabinet mean in a query, in small letters.
type lexicon struct {
	parameters map[string][2]string // name → key and label
	drawers    map[string]map[string]bool
}

// lastLexicon is the lexicon that was made last: many a small index is built over the same cabinet. A lexicon is never changed.
var lastLexicon atomic.Pointer[struct {
	of *cabinet.Cabinet
	is lexicon
}]

func newLexicon(cab *cabinet.Cabinet) lexicon {
	if last := lastLexicon.Load(); last != nil && last.of == cab {
		return last.is
	}
	l := makeLexicon(cab)
	lastLexicon.Store(&struct {
		of *cabinet.Cabinet
		is lexicon
	}{cab, l})
	return l
}

func makeLexicon(cab *cabinet.Cabinet) lexicon {
	l := lexicon{map[string][2]string{}, map[string]map[string]bool{}}
	if cab == nil {
		return l
	}
	put := func(name string, p cabinet.Parameter) {
		if _, taken := l.parameters[strings.ToLower(name)]; !taken {
			l.parameters[strings.ToLower(name)] = [2]string{p.Key, p.Label}
		}
	}
	for _, p := range cab.Document.Parameters {
		put(p.Label, p)
		put(p.Key, p)
	}
	for _, p := range cab.Document.Parameters { // labels and keys go before synonyms
		for _, s := range p.Synonyms {
			if len(s) > 1 {
				put(s, p)
			}
		}
	}
	for _, t := range cab.Templates() {
		words := append([]string{t.Key, t.Label}, t.Search...)
		for _, w := range strings.Fields(t.Label) {
			words = append(words, w, w+"s", strings.TrimSuffix(w, "s"))
		}
		for _, w := range words {
			w = strings.ToLower(w)
			if l.drawers[w] == nil {
				l.drawers[w] = map[string]bool{}
			}
			for _, inner := range cab.Templates() {
				if inner.Inside(t.Key) {
					l.drawers[w][inner.Key] = true
				}
			}
		}
	}
	return l
}

func digits(s string) bool { return s != "" && strings.Trim(s, "0123456789") == "" }

// drawersNamed finds the drawers whose key, label or search word is a word, with all that lie inside them.
func (x *Index) drawersNamed(word string) map[string]bool {
	return x.lexicon.drawers[strings.ToLower(word)]
}

// word reads what is no value: a part number, an MPN or a piece of one, a drawer, a word of any text.
func (x *Index) word(w string) condition {
	up := strings.ToUpper(w)
	c := condition{ids: valueSet{}, drawers: x.drawersNamed(w), fact: Fact{As: "“" + w + "”", Kind: "words"}}
	c.ids.add(x.vals.terms[up])
	if len(c.drawers) > 0 {
		c.fact.Note = "a kind of part"
		c.fact.Kind = "name"
	}
	if i, ok := x.byNumber(up); ok {
		c.rows = append(c.rows, i)
	}
	if key := part.NormaliseMPN(w); len(key) > 2 {
		c.rows = append(c.rows, x.numbered(key)...)
	}
	for _, e := range []struct {
		find *chains
		row  func(k uint32) (uint32, string)
	}{{&x.mpnFind, func(k uint32) (uint32, string) { return x.sources[k].row, x.mpns.get(k) }}, {&x.supFind, func(k uint32) (uint32, string) { return x.supplied[k].row, x.supplies.get(k) }}} {
		if key := part.NormaliseMPN(w); key != "" {
			e.find.each(key, func(k uint32) bool {
				if r, s := e.row(k); part.NormaliseMPN(s) == key {
					c.rows = append(c.rows, r)
				}
				return true
			})
		}
	}
	if len([]rune(w)) < 3 {
		return c
	}
	known := len(c.ids)+len(c.rows)+len(c.drawers) > 0
	if where := x.columnsOf(c.ids); len(where) > 0 && len(c.drawers) == 0 {
		c.fact.Note = strings.Join(where, " or ")
	}
	if !known || !digits(w) {
		x.texts.containing(up, func(i uint32) { c.rows = append(c.rows, x.textRow[i]) })
	}
	if known { // it is that word: "0805" does not mean every part number with these digits in it
		return c
	}
	x.vals.blob.containing(up, func(i uint32) { c.ids.add(x.vals.terms[x.vals.byTerm[i]]) })
	x.numbers.containing(up, func(i uint32) { c.rows = append(c.rows, i) })
	x.mpns.containing(up, func(i uint32) { c.rows = append(c.rows, x.sources[i].row) })
	x.supplies.containing(up, func(i uint32) { c.rows = append(c.rows, x.supplied[i].row) })
	if len(c.ids)+len(c.rows) > 0 {
		c.fact.Note = "in any text"
	}
	return c
}

// known says whether a word is one of any value, number or kind of part.
func (x *Index) known(w string) bool {
	return len(x.vals.terms[strings.ToUpper(w)]) > 0 || len(x.drawersNamed(w)) > 0
}

// alsoSaid says whether a word means more than a part number.
func (x *Index) alsoSaid(w string) bool { return x.known(w) }

// saysJust says whether some value, or a part number, is a text and nothing else.
func (x *Index) saysJust(text string) bool {
	_, numbered := x.byNumber(strings.ToUpper(text))
	return numbered || len(x.vals.terms[strings.ToUpper(text)]) > 0
}

// just is the condition that a value or part number is a text.
func (x *Index) just(text string) (c condition) {
	c = x.word(text)
	return c
}

// columnsOf names the columns that hold any of some values, at most three.
func (x *Index) columnsOf(ids valueSet) (out []string) {
	keys := map[string]bool{}
	for id := range ids {
		for _, p := range x.vals.places[id] {
			keys[p.col.key] = true
		}
	}
	for key := range keys {
		label, _ := x.named(key)
		out = append(out, label)
	}
	slices.Sort(out)
	out = slices.Compact(out)
	return out[:min(3, len(out))]
}
