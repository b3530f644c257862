package series

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/part"
)

// Item is one source of a part of the library, as proposals look at it.
type Item struct {
	Manufacturer, MPN string
	Series            string      // as the part's own parameter says it; blank where none does
	Sheets            []part.File // of the part
}

// Proposal is a series that some sources look as though they were of, with why.
type Proposal struct {
	Content
	Why  string `json:"why"`
	Into string `json:"into,omitempty" doc:"Number of the series that has their datasheet, name or stem already: they are its further members"`
}

// fewest are the sources that make a proposal: of those that name a series or share a file two are enough.
const (
	fewest     = 2
	fewestStem = 3
	shortStem  = 3 // letters and digits of a stem
)

// Propose groups sources that are in no series: those whose parts name the same series, then those whose parts have a datasheet in common,
// then those whose numbers have a stem in common. Each source is proposed once. have are the series that there are.
func Propose(items []Item, have []Content) []Proposal {
	p := proposer{in: map[string]bool{}, have: have}
	for i := range have {
		for _, k := range have[i].Keys() {
			p.in[k] = true
		}
	}
	by := map[string][]Item{} // by manufacturer, spellings of one put together
	for _, it := range items {
		if k := (part.Source{Manufacturer: it.Manufacturer, MPN: it.MPN}).Key(); !p.in[k] && part.NormaliseMPN(it.MPN) != "" {
			m := part.NormaliseMaker(it.Manufacturer)
			by[m] = append(by[m], it)
		}
	}
	for _, all := range by {
		slices.SortFunc(all, func(a, b Item) int { return cmp.Compare(a.MPN, b.MPN) })
		p.groups(all, func(it Item) []string { return one(part.NormaliseMPN(it.Series)) }, func(g []Item) (name, why string) {
			return g[0].Series, fmt.Sprintf("%d part numbers are said to be of the series %s", len(g), g[0].Series)
		})
		p.groups(all, func(it Item) (out []string) {
			for _, f := range it.Sheets {
				out = append(out, f.Hash)
			}
			return out
		}, func(g []Item) (name, why string) {
			f := shared(g)
			name = stem(g)
			if name == "" {
				name = strings.TrimSuffix(f.Name, ".pdf")
			}
			return name, fmt.Sprintf("the parts of %d part numbers have the datasheet %s in common", len(g), f.Name)
		})
		p.stems(all)
	}
	slices.SortFunc(p.out, func(a, b Proposal) int {
		return cmp.Or(cmp.Compare(len(b.Members), len(a.Members)), cmp.Compare(a.Number(), b.Number()))
	})
	return p.out
}

func one(s string) []string {
	if s == "" {
		return nil
	}
	return []string{s}
}

type proposer struct {
	in   map[string]bool // source key → it is in a series, or proposed for one
	have []Content
	out  []Proposal
}

func key(it Item) string { return part.Source{Manufacturer: it.Manufacturer, MPN: it.MPN}.Key() }

// groups proposes what items have in common, the largest group first, so that an item with several goes where most go.
func (p *proposer) groups(all []Item, of func(Item) []string, say func([]Item) (name, why string)) {
	by := map[string][]Item{}
	for _, it := range all {
		for _, k := range of(it) {
			by[k] = append(by[k], it)
		}
	}
	keys := make([]string, 0, len(by))
	for k := range by {
		keys = append(keys, k)
	}
	slices.SortFunc(keys, func(a, b string) int { return cmp.Or(cmp.Compare(len(by[b]), len(by[a])), cmp.Compare(a, b)) })
	for _, k := range keys {
		p.propose(by[k], fewest, say)
	}
}

// propose makes a proposal of those of a group that nothing else has taken.
func (p *proposer) propose(all []Item, least int, say func([]Item) (name, why string)) {
	var free []Item
	for _, it := range all {
		if !p.in[key(it)] {
			free = append(free, it)
		}
	}
	into := p.into(free)
	if len(free) == 0 || len(free) < least && into == nil {
		return
	}
	free = free[:min(len(free), MaxMembers)]
	c := Content{Manufacturer: usual(free), Datasheets: []part.File{}}
	for _, it := range free {
		c.Members = append(c.Members, it.MPN)
		p.in[key(it)] = true
	}
	out := Proposal{}
	c.Name, out.Why = say(free)
	if f := shared(free); f.Hash != "" {
		c.Datasheets = []part.File{f}
	}
	if into != nil {
		c.Manufacturer, c.Name, out.Into = into.Manufacturer, into.Name, into.Number()
	}
	c.Tidy()
	if out.Content = c; c.Check() == nil {
		p.out = append(p.out, out)
	}
}

// into is the series that all of some items name, or whose datasheet all of them have.
func (p *proposer) into(all []Item) *Content {
	if len(all) == 0 {
		return nil
	}
	m := part.NormaliseMaker(all[0].Manufacturer)
	for i := range p.have {
		c := &p.have[i]
		if part.NormaliseMaker(c.Manufacturer) != m {
			continue
		}
		name := part.NormaliseMPN(c.Name)
		named, filed := true, true
		for _, it := range all {
			named = named && part.NormaliseMPN(it.Series) == name
			filed = filed && slices.ContainsFunc(it.Sheets, func(f part.File) bool {
				return slices.ContainsFunc(c.Datasheets, func(o part.File) bool { return o.Hash == f.Hash })
			})
		}
		if named || filed {
			return c
		}
	}
	return nil
}

// stems proposes sources whose numbers begin alike and that nothing else says anything of.
func (p *proposer) stems(all []Item) {
	by := map[string][]Item{}
	for _, it := range all {
		if s := head(it.MPN); s != "" && !p.in[key(it)] && it.Series == "" && len(it.Sheets) == 0 {
			by[s] = append(by[s], it)
		}
	}
	keys := make([]string, 0, len(by))
	for k := range by {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	for _, k := range keys {
		p.propose(by[k], fewestStem, func(g []Item) (name, why string) {
			name = stem(g)
			return name, fmt.Sprintf("%d part numbers begin with %s", len(g), name)
		})
	}
}

// head is what a part number begins with: its letters, with the digits behind them up to the next mark or letter. Numbers without such a
// beginning tell nothing.
func head(mpn string) string {
	letters, end := 0, 0
	for i, r := range mpn {
		switch {
		case unicode.IsLetter(r) && letters == i:
			letters = i + len(string(r))
			end = letters
		case unicode.IsDigit(r) && letters > 0:
			end = i + 1
		default:
			if end == i && end > letters && letters > 1 || end == letters && letters >= shortStem {
				return mpn[:end]
			}
			return ""
		}
	}
	return ""
}

// stem is the beginning that the numbers of some items have in common, up to a border: no cut through letters or through digits.
func stem(all []Item) string {
	common := all[0].MPN
	for _, it := range all[1:] {
		for !strings.HasPrefix(it.MPN, common) {
			common = common[:len(common)-1]
		}
	}
	border := func(mpn string, n int) bool {
		if n >= len(mpn) {
			return true
		}
		a, b := rune(mpn[n-1]), rune(mpn[n])
		return !(unicode.IsLetter(a) && unicode.IsLetter(b) || unicode.IsDigit(a) && unicode.IsDigit(b))
	}
	for len(common) > 0 && slices.ContainsFunc(all, func(it Item) bool { return !border(it.MPN, len(common)) }) {
		common = common[:len(common)-1]
	}
	common = strings.TrimRight(common, "-_/. ")
	if len(part.NormaliseMPN(common)) < 2 {
		return ""
	}
	return common
}

// shared is the first datasheet that all items have; the zero file where they share none.
func shared(all []Item) part.File {
	for _, f := range all[0].Sheets {
		if !slices.ContainsFunc(all, func(it Item) bool {
			return !slices.ContainsFunc(it.Sheets, func(o part.File) bool { return o.Hash == f.Hash })
		}) {
			return f
		}
	}
	return part.File{}
}

// usual is the spelling of the manufacturer that most items have, of several the first.
func usual(all []Item) (best string) {
	n := map[string]int{}
	for _, it := range all {
		n[it.Manufacturer]++
	}
	for _, it := range all {
		if best == "" || n[it.Manufacturer] > n[best] {
			best = it.Manufacturer
		}
	}
	return best
}
