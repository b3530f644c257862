package intake

import (
	"fmt"
	"slices"
	"strings"
	"sync/atomic"
	"unicode"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
	"jollydrawer/core/measure"
)

// plan is what a build knows of one drawer: which rules fill which of its parameters.
type plan struct {
	t        *cabinet.Template
	fills    []fill
	leading  int // place of the leading parameter; -1
	tol      int // of the tolerance; -1
	identity []int
	like     func(value func(key string) cabinet.Value) []string
	inch     int
	metric   int
	caseAt   int // the parameter that names the case, or -1
}

type fill struct {
	rule int32
	slot uint16
	col  int               // of the rule's field; -1 where the file lacks it or the rule combines several
	memo map[uint32]uint32 // text of the rule's field → reading
}

// plan returns the plan of a drawer; nil where the cabinet has none that holds parts.
func (b *builder) plan(drawer string) *plan {
	if p, ok := b.res.templates[drawer]; ok {
		return p
	}
	t, ok := b.in.Cabinet.Template(drawer)
	if !ok || !t.Leaf {
		b.res.templates[drawer] = nil
		return nil
	}
	p := &plan{t: t, leading: -1, tol: -1, inch: -1, metric: -1, caseAt: -1}
	at := map[string]int{}
	for i, s := range t.Slots {
		at[s.Key] = i
		switch {
		case s.Key == t.Leading:
			p.leading = i
		case s.Deviation && p.tol < 0:
			p.tol = i
		}
		switch s.ChipCode {
		case "inch":
			p.inch = i
		case "metric":
			p.metric = i
		}
		if s.Key == t.Case {
			p.caseAt = i
		}
	}
	for i, r := range b.in.Crosswalk.Fields {
		if key, ok := r.Applies(t); ok {
			col, ok := b.res.col[r.From]
			if !ok {
				col = -1
			}
			p.fills = append(p.fills, fill{int32(i), uint16(at[key]), col, map[uint32]uint32{}})
		}
	}
	for _, key := range t.Identity {
		if i, ok := at[key]; ok {
			p.identity = append(p.identity, i)
		}
	}
	if b.in.Library != nil && len(p.identity) > 0 {
		p.like = b.in.Library.Like(drawer, t.Identity)
	}
	b.res.templates[drawer] = p
	return p
}

// sort chooses the drawer: by hand, by the supplier's kind, by the crosswalk's sorting, by what the row says of
// itself, by the crosswalk's default. Each choice has its reason.
func (b *builder) sort(c *Candidate) *plan {
	cw := &b.in.Crosswalk
	key := b.in.Edits.Drawers[c.Row]
	if key != "" {
		c.Because = "put there by hand"
		if r := b.in.Edits.said[saidOf{c.Row, decision.Drawer, ""}]; r != nil {
			c.Because = "put there by " + who(r)
		}
	} else {
		key, c.Because = b.choose(c)
	}
	if key == "" {
		what := "no drawer is known: the row names no kind"
		if c.Kind != "" {
			what = fmt.Sprintf("no drawer is known for the kind %q", c.Kind)
		}
		b.block(c, Unsorted, "no-drawer:"+c.Kind, cw.Take.Kind, c.Kind, what, "map the kind to a drawer, make a sorting rule, or choose a drawer for the row")
		return nil
	}
	p := b.plan(key)
	if p == nil {
		what := fmt.Sprintf("the cabinet has no drawer %q that holds parts", key)
		if c.Kind != "" && key == cw.Kinds[c.Kind] {
			b.block(c, Unsorted, "no-drawer:"+c.Kind, cw.Take.Kind, c.Kind, fmt.Sprintf("the kind %q goes into a drawer, and ", c.Kind)+what, "map the kind to another drawer")
		} else {
			b.block(c, Unsorted, "drawer-gone:"+key, "", key, what, "change the crosswalk")
		}
		return nil
	}
	c.Drawer = p.t.Key
	return p
}

// choose is the drawer that nobody chose by hand.
func (b *builder) choose(c *Candidate) (key, because string) {
	cw := &b.in.Crosswalk
	if key = cw.Kinds[c.Kind]; key != "" {
		return key, fmt.Sprintf("the kind %q goes there", c.Kind)
	}
	for i := range cw.Sorting {
		if s := &cw.Sorting[i]; s.Holds(b.res.cell(c, s.Field)) {
			return s.Drawer, s.Condition.String()
		}
	}
	if cw.Drawer != "" {
		return cw.Drawer, "the crosswalk's drawer for all rows"
	}
	return b.guess(c)
}

// sorter finds drawers by the words that people use for them.
type sorter struct {
	phrases map[string]map[string]bool // words → leaf drawers
	longest int
	letters map[string][]string // designator letters → leaf drawers
}

// lastSorter is the sorter that was made last: answers of suppliers are many small tables over the same cabinet. A sorter is never changed.
var lastSorter atomic.Pointer[struct {
	of *cabinet.Cabinet
	is *sorter
}]

func newSorter(cab *cabinet.Cabinet) *sorter {
	if last := lastSorter.Load(); last != nil && last.of == cab {
		return last.is
	}
	s := makeSorter(cab)
	lastSorter.Store(&struct {
		of *cabinet.Cabinet
		is *sorter
	}{cab, s})
	return s
}

func makeSorter(cab *cabinet.Cabinet) *sorter {
	s := &sorter{phrases: map[string]map[string]bool{}, letters: map[string][]string{}}
	for _, t := range cab.Templates() {
		if !t.Leaf {
			continue
		}
		names := append([]string{t.Key, t.Label}, t.Search...)
		for _, up := range t.Path[:max(0, len(t.Path)-1)] { // "resistor" alone says less than "chip resistor"
			if u, ok := cab.Template(up); ok {
				names = append(append(names, u.Label), u.Search...)
			}
		}
		for _, n := range names {
			ws := sortingWords(n)
			if len(ws) == 0 {
				continue
			}
			phrase := strings.Join(ws, " ")
			if s.phrases[phrase] == nil {
				s.phrases[phrase] = map[string]bool{}
			}
			s.phrases[phrase][t.Key] = true
			s.longest = max(s.longest, len(ws))
		}
		if t.Designator != "" {
			s.letters[strings.ToUpper(t.Designator)] = append(s.letters[strings.ToUpper(t.Designator)], t.Key)
		}
	}
	return s
}

// sortingWords are the words of a text in small letters, without the plural and without what joins them.
func sortingWords(text string) []string {
	out := strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	for i, w := range out {
		if len(w) > 3 && strings.HasSuffix(w, "s") && !strings.HasSuffix(w, "ss") {
			out[i] = w[:len(w)-1]
		}
	}
	return slices.DeleteFunc(out, func(w string) bool { return w == "and" || w == "or" || w == "the" || w == "of" })
}

// drawer returns the one drawer that a text names best; "" where none or several do.
func (s *sorter) drawer(text string, among []string) (key, said string) {
	ws := sortingWords(text)
	score, words := map[string]int{}, map[string][]string{}
	for i := range ws {
		for n := min(s.longest, len(ws)-i); n > 0; n-- {
			phrase := strings.Join(ws[i:i+n], " ")
			for d := range s.phrases[phrase] {
				if len(among) > 0 && !slices.Contains(among, d) || slices.Contains(words[d], phrase) {
					continue
				}
				score[d] += n
				words[d] = append(words[d], phrase)
			}
		}
	}
	best, second := 0, 0
	for d, n := range score {
		switch {
		case n > best:
			best, second, key = n, best, d
		case n > second:
			second = n
		}
	}
	if best == 0 || best == second {
		return "", ""
	}
	return key, words[key][0] // the longest that stands first
}

// guess sorts a row by its kind's words, its description and its designator; where they do not agree on one drawer,
// the row stays unsorted.
func (b *builder) guess(c *Candidate) (drawer, because string) {
	take := &b.in.Crosswalk.Take
	letters := strings.ToUpper(strings.TrimRightFunc(b.res.cell(c, take.Designator), func(r rune) bool { return unicode.IsDigit(r) || unicode.IsSpace(r) || r == '?' }))
	k := [3]string{c.Kind, b.res.cell(c, take.Description), letters}
	if g, ok := b.guesses[k]; ok {
		return g[0], g[1]
	}
	if b.sorter == nil {
		b.sorter = newSorter(b.in.Cabinet)
	}
	among := b.sorter.letters[letters]
	byKind, kindSaid := b.sorter.drawer(c.Kind, among)
	byText, textSaid := b.sorter.drawer(k[1], among)
	switch {
	case byKind != "" && (byText == "" || byText == byKind):
		drawer, because = byKind, fmt.Sprintf("its kind says %q", kindSaid)
	case byKind == "" && byText != "" && c.Kind == "":
		drawer, because = byText, fmt.Sprintf("its description says %q", textSaid)
	case byKind == "" && byText == "" && len(among) == 1 && !b.sorter.other(c.Kind, among[0]) && !b.sorter.other(k[1], among[0]):
		drawer, because = among[0], "its designator letter is "+letters
	}
	if drawer == "" && c.Kind == "" && byText == "" {
		return b.byFields(c, among)
	}
	b.guesses[k] = [2]string{drawer, because}
	return drawer, because
}

// byFields sorts a row by the fields that are filled: into the one drawer whose leading parameter is among them and
// that has all of them, choices included. Rows with the same fields and choices share the answer.
func (b *builder) byFields(c *Candidate, among []string) (drawer, because string) {
	var filled []string
	texts := map[string]string{}
	sign := [3]string{"\x00fields", strings.Join(among, ","), ""}
	for i := range b.in.Crosswalk.Fields {
		r := &b.in.Crosswalk.Fields[i]
		p, ok := b.in.Cabinet.Parameter(r.To)
		if text := b.res.cell(c, r.From); ok && r.From != "" && text != "" && texts[p.Key] == "" {
			filled = append(filled, p.Key)
			texts[p.Key] = text
			sign[2] += p.Key + "="
			if p.Type == cabinet.Choice {
				sign[2] += text
			}
			sign[2] += ";"
		}
	}
	if g, ok := b.guesses[sign]; ok {
		return g[0], g[1]
	}
	for _, t := range b.in.Cabinet.Templates() {
		if !t.Leaf || len(among) > 0 && !slices.Contains(among, t.Key) || !slices.Contains(filled, t.Leading) {
			continue
		}
		fits := true
		for _, key := range filled {
			slot, has := t.Slot(key)
			if fits = fits && has; has && slot.Type == cabinet.Choice {
				_, problem := slot.Read(texts[key], measure.Options{})
				fits = fits && problem == nil
			}
		}
		if !fits {
			continue
		}
		if drawer != "" { // two would do: a person says which
			drawer = ""
			break
		}
		drawer, because = t.Key, "it alone has all of the filled fields: "+strings.Join(filled, ", ")
	}
	if drawer == "" {
		because = ""
	}
	b.guesses[sign] = [2]string{drawer, because}
	return drawer, because
}

// block gives a row an error: it cannot be taken in as it is.
func (b *builder) block(c *Candidate, as State, cause, field, text, what, mend string) {
	if c.State != Blocked && c.State != Unsorted {
		c.State, c.Why = as, what
	}
	b.find(finding.Finding{Severity: finding.Error, Cause: cause, Row: c.Row, Field: field, Text: text, What: what, Mend: mend})
}

// other says whether a text names drawers, and a given one is not among them.
func (s *sorter) other(text, drawer string) bool {
	all := s.candidates(text)
	return len(all) > 0 && !all[drawer]
}

// candidates are all drawers that a text names in any way.
func (s *sorter) candidates(text string) map[string]bool {
	drawers := map[string]bool{}
	ws := sortingWords(text)
	for i := range ws {
		for n := min(s.longest, len(ws)-i); n > 0; n-- {
			for d := range s.phrases[strings.Join(ws[i:i+n], " ")] {
				drawers[d] = true
			}
		}
	}
	return drawers
}
