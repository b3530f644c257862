package bom

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"jollydrawer/core/headings"
)

// A cell of a column of variants is a list: of those that a line is in, or of those that it is not in. Each of its words and signs is a name, a word of such lists, or
// keeps it from being plain. What a name is, the whole column tells: "A B" beside A and B is both of them, and "A from lot 7" is asked about.

// The words of lists, in five languages.
var (
	listAll     = wordSet("all|any|every|each|both|everything|everywhere|always|alle|alles|jede|beide|überall|immer|tous|toutes|tout|partout|toujours|todos|todas|todo|siempre|tutti|tutte|tutto|sempre|common|gemeinsam")
	listBoth    = wordSet("both|beide|ambos|ambas|entrambi|entrambe")
	listNone    = wordSet("none|keine|keiner|aucun|aucune|ninguno|ninguna|nessuno|nessuna|never|nie|nowhere|nirgends")
	listBut     = wordSet("but|except|excepting|excluding|excl|without|ohne|außer|ausser|sauf|sans|excepto|sin|salvo|tranne|senza|eccetto|minus|unless")
	listNot     = wordSet("not|no|nicht|kein|non|pas|dont|neither|weder")
	listOnly    = wordSet("only|just|solely|exclusively|nur|ausschließlich|seulement|uniquement|solo|sólo|solamente|únicamente|soltanto")
	listAnd     = wordSet("and|und|et|or|oder|ou|nor|noch|sowie")
	listAnd1    = wordSet("y|e|o|u|ni") // between names
	listFiller  = wordSet("in|im|for|für|en|pour|para|per|nel|dans|on|of|the|them|these|it|is|are|be|to|do|variant|variants|variante|varianten|variantes|varianti|var|version|versions|versionen|build|builds|board|boards|bom|assembly")
	listRemoved = wordSet("removed|remove|removes|deleted|delete|dropped|drop|weglassen|weggelassen|entfallen|entfällt|entfernt|gestrichen|supprimé|retiré|eliminado|quitado|rimosso|eliminato")
	listUnsure  = wordSet("optional|optionally|opt|tbd|tbc|todo|maybe|perhaps|possibly|if|when|where|falls|wenn|si|se|from|ab|until|till|bis|to|see|siehe|voir|ver|vedi|note|notes|instead|alternative|alternatively|alt|either|yet|later|some|most|various|several|na|n a|unknown|than|ref|refer")
)

// listing is what a column of lists names.
type listing struct {
	names     []string        // as they are written first
	alone     map[string]bool // named by one cell, beside others that more cells name
	said      bool            // somebody said that the column tells variants: names are what its cells have
	blankAsks bool            // an empty cell may mean every variant, or none
	filled    int
	odd       int // cells that are no plain list
}

// membership is what a cell of a column of lists says.
type membership struct {
	every, none, both bool
	in, but           []string
	odd               string // why it is no plain list
}

// listed is a word or sign of a cell: a name where kind is blank.
type listed struct{ kind, text string }

// The kinds of words and signs.
const (
	isAll   = "all"
	isBoth  = "both"
	isNone  = "none"
	isNot   = "not"
	isBut   = "but"
	isThis  = "!"
	isOff   = "off"
	isOnly  = "only"
	isComma = ","
	isSkip  = "filler"
	isColon = ":"
	isOpen  = "("
	isDash  = "-"
)

// foldVariant writes the name of a variant so that two spellings of one are the same: "Low-Cost" is "low cost", and "Lite+" is not "Lite".
func foldVariant(name string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(norm.NFKC.String(name)), func(r rune) bool { return unicode.IsSpace(r) || r == '_' || unicode.Is(unicode.Pd, r) }), " ")
}

func sameVariant(a, b string) bool { return foldVariant(a) == foldVariant(b) }

// listWords takes a cell apart; odd says what in it is neither a name nor of a list.
func listWords(cell string) (out []listed, odd string) {
	if strings.ContainsFunc(cell, func(r rune) bool {
		return unicode.Is(unicode.Cf, r) || unicode.IsControl(r) && r != '\n' && r != '\t' && r != '\r'
	}) {
		return nil, "it has marks that nobody sees"
	}
	text := strings.TrimSpace(norm.NFKC.String(strings.ReplaceAll(cell, "\n", ",")))
	if inner, is := strings.CutPrefix(text, "("); is && strings.HasSuffix(inner, ")") && strings.ContainsAny(inner, ",;/+&|") && !strings.Contains(inner, "(") {
		text = strings.TrimSuffix(inner, ")")
	}
	for _, long := range [][2]string{{"w/o", "without"}, {"W/O", "without"}, {"other than", "except"}, {"apart from", "except"}, {"don't", "dont"}, {"n/a", "n?a"}, {"N/A", "n?a"}} {
		text = strings.ReplaceAll(text, long[0], long[1])
	}
	r := []rune(text)
	inWord := func(i int) bool {
		return i >= 0 && i < len(r) && (unicode.IsLetter(r[i]) || unicode.IsDigit(r[i]) || unicode.IsMark(r[i]))
	}
	for i := 0; i < len(r); i++ {
		switch {
		case (r[i] == '.' || r[i] == '-') && i+1 < len(r) && r[i+1] == r[i]:
			return nil, fmt.Sprintf("%q is of no name", string(r[i:i+2]))
		case unicode.IsSpace(r[i]) || strings.ContainsRune("\"“”„«»'‘’.)]", r[i]):
		case strings.ContainsRune(",;|/&、", r[i]), r[i] == '+' && i > 0 && i < len(r)-1 && (inWord(i-1) == inWord(i+1)):
			out = append(out, listed{isComma, string(r[i])})
		case r[i] == '!' && inWord(i+1):
			out = append(out, listed{isThis, "!"})
		case r[i] == ':':
			out = append(out, listed{isColon, ":"})
		case r[i] == '(' || r[i] == '[':
			out = append(out, listed{isOpen, "("})
		case (unicode.Is(unicode.Pd, r[i]) || r[i] == '−') && i > 0 && !inWord(i-1) && !inWord(i+1):
			out = append(out, listed{isDash, "-"})
		case inWord(i) || r[i] == '#' && inWord(i+1):
			from := i
			for i+1 < len(r) && (inWord(i+1) || strings.ContainsRune("-–—.'’_°+", r[i+1]) && (inWord(i+2) && r[i+1] != '+' || r[i+1] == '+' && !inWord(i+2) && (i+2 == len(r) || r[i+2] != ' ' || !inWord(i+3)))) {
				i++
			}
			out = append(out, listed{"", string(r[from : i+1])})
		default:
			return nil, fmt.Sprintf("%q is of no name", string(r[i]))
		}
	}
	for i := range out {
		if out[i].kind == "" {
			out[i].kind = listKind(out, i)
		}
		if out[i].kind == "?" {
			return nil, fmt.Sprintf("%q leaves it open", out[i].text)
		}
	}
	return out, ""
}

// listKind says what a word is: blank where it is of a name, and "?" where it leaves open what is meant.
func listKind(all []listed, i int) string {
	w := all[i].text
	p := headings.Plain(w)
	if len([]rune(w)) == 1 && (unicode.IsUpper([]rune(w)[0]) || !listAnd1[p] || i == 0 || i == len(all)-1) {
		return ""
	}
	switch {
	case listUnsure[p], doubts[p]:
		return "?"
	case listBoth[p]:
		return isBoth
	case listAll[p]:
		return isAll
	case listNone[p]:
		return isNone
	case listBut[p]:
		return isBut
	case listNot[p]:
		return isNot
	case leaves(p), turned(p), lefts[p], listRemoved[p]:
		return isOff
	case listOnly[p]:
		return isOnly
	case listAnd[p], listAnd1[p]:
		return isComma
	case acts[p], listFiller[p]:
		return isSkip
	}
	return ""
}

// read says in which variants a cell puts its line. An empty one puts it into every one.
func (l *listing) read(cell string) membership {
	if cell = strings.TrimSpace(cell); cell == "" || cell == "*" {
		return membership{every: true}
	}
	words, odd := listWords(cell)
	if odd != "" {
		return membership{odd: odd}
	}
	r := listReader{listing: l, words: words, before: isComma}
	for i := range words {
		r.take(i)
	}
	r.flush()
	r.end()
	return r.m
}

// listReader reads the words of one cell.
type listReader struct {
	*listing
	words []listed
	m     membership

	run, behind []string // words of a name, and what may only stand behind it
	not         bool     // what follows is what the line is not in
	one         bool     // the next name alone is
	parted      bool     // there was a mark between names
	before      string   // the kind of the word before, fillers behind "not" aside
}

// refuse notes the first thing that keeps a cell from being a plain list.
func (r *listReader) refuse(why string, args ...any) {
	if r.m.odd == "" {
		r.m.odd = fmt.Sprintf(why, args...)
	}
}

// flush ends a name.
func (r *listReader) flush() {
	if len(r.run) == 0 {
		return
	}
	names, why := r.resolve(r.run)
	if r.run, r.behind = nil, nil; why != "" {
		r.refuse("%s", why)
	}
	if r.not || r.one {
		r.m.but = append(r.m.but, names...)
	} else {
		r.m.in = append(r.m.in, names...)
	}
	r.one = false
}

// take takes one word.
func (r *listReader) take(i int) {
	w, next := r.words[i], ""
	last := i+1 == len(r.words)
	if !last {
		next = r.words[i+1].kind
	}
	if w.kind != "" && w.kind != isSkip {
		r.flush()
	}
	switch w.kind {
	case "":
		r.run, r.behind = append(append(r.run, r.behind...), w.text), nil
	case isAll:
		r.m.every = true
	case isBoth:
		r.m.both = true
	case isNone:
		r.m.none = true
	case isThis:
		r.one = true
	case isComma:
		if r.parted = true; r.m.none {
			r.refuse("it says none and more")
		}
	case isNot, isBut:
		if r.not = true; w.kind == isNot && i > 0 && last {
			r.refuse("what %q is about is not plain", w.text)
		}
	case isDash: // "all - B"
		if r.not = true; !r.m.every || last {
			r.refuse("%q is of no name", "-")
		}
	case isOff:
		r.off(w, last)
	case isSkip:
		r.skip(w, last)
	case isColon, isOpen:
		if name := last || next == ""; name && (w.kind == isOpen || r.before == "") || next == isColon { // "A (B)", "A: 2"
			r.refuse("%q is of no list", w.text)
		}
	}
	if w.kind != isSkip || r.before != isNot {
		r.before = w.kind
	}
}

// off takes a word of leaving off: "DNP in B", or "B DNP".
func (r *listReader) off(w listed, last bool) {
	switch {
	case len(r.m.in) == 0 && (!r.not || r.before == isNot):
		r.not = true
	case len(r.m.in) == 1 && !r.parted && last:
		r.m.in, r.m.but = nil, r.m.in
	default:
		r.refuse("which of them %q is about is not plain", w.text)
	}
}

// skip takes a word that adds nothing: "Harbour board" is Harbour, and "A in the lid" is asked about. Behind "not" it is what a name is not: "B not fitted".
func (r *listReader) skip(w listed, last bool) {
	if r.before == isNot && len(r.m.in) > 0 {
		if r.m.in, r.m.but, r.not = nil, r.m.in, false; !last || len(r.m.but) > 1 {
			r.refuse("which of them is not %s is not plain", w.text)
		}
	}
	if len(r.run) > 0 {
		r.behind = append(r.behind, w.text)
	}
}

// end says whether what was taken together is one thing.
func (r *listReader) end() {
	m := &r.m
	switch {
	case m.both && len(m.in) == 0: // all that there are, where there are two
		m.every = true
	case m.both:
		if m.both = false; len(m.in) != 2 {
			r.refuse("it says both of %d", len(m.in))
		}
	}
	named := len(m.in) + len(m.but)
	switch {
	case r.not && !m.every && named == 0: // "no variant"
		m.none = len(r.words) > 1 && r.words[0].kind == isNot && !slices.ContainsFunc(r.words, func(w listed) bool { return w.kind == isOff || w.kind == isOnly })
	case m.none && len(m.in) > 0 && len(m.but) == 0: // "none of A"
		m.none, m.in, m.but = false, nil, m.in
	}
	switch {
	case len(m.in) > 0 && (m.every || m.none || len(m.but) > 0), m.none && (m.every || len(m.but) > 0), r.not && m.every && len(m.but) == 0:
		r.refuse("it says two things")
	case !m.every && !m.none && named == 0:
		r.refuse("it names no variant")
	}
}

// resolve says which names a run of words is: one, or one each. Before the names of a column are known, it is one.
func (l *listing) resolve(run []string) (names []string, odd string) {
	name := strings.Join(run, " ")
	if known, is := VariantNamed(l.names, name); is {
		if l.alone[known] {
			return []string{known}, "no other line names the variant " + known
		}
		return []string{known}, ""
	}
	if l.names == nil || l.said {
		if len(run) > 3 || len([]rune(name)) > 30 {
			return nil, "it is a sentence"
		}
		return []string{name}, ""
	}
	for _, w := range run {
		known, is := VariantNamed(l.names, w)
		if !is || l.alone[known] {
			return nil, fmt.Sprintf("%q is none of the names of variants that other lines have", clipped(name))
		}
		names = append(names, known)
	}
	return names, ""
}

// listingOf collects the names that the cells of a column have. Where nobody said that it tells variants, what has another name in it, or is a mark, is none.
func listingOf(sample [][]string, at int, said bool) *listing {
	l := &listing{said: said, alone: map[string]bool{}}
	var found []string
	count := map[string]int{}
	for _, row := range sample {
		if at >= len(row) || strings.TrimSpace(row[at]) == "" {
			continue
		}
		l.filled++
		m := (&listing{}).read(row[at])
		if m.odd != "" {
			continue
		}
		for _, name := range slices.Concat(m.in, m.but) {
			if !holds(found, name) {
				found = append(found, name)
			}
			count[foldVariant(name)]++
		}
	}
	marks := slices.ContainsFunc(found, func(n string) bool { return !markLike(n) && strings.Trim(n, "0123456789") != "" }) // 1 and 0 beside A; beside 2 they are names
	for _, name := range found {
		if said || !composed(name, found) && !(marks && markLike(name)) {
			l.names = append(l.names, name)
		}
	}
	often := slices.ContainsFunc(l.names, func(n string) bool { return count[foldVariant(n)] > 1 })
	for _, name := range l.names {
		l.alone[name] = !said && often && count[foldVariant(name)] == 1
	}
	if l.names == nil {
		l.names = []string{}
	}
	for _, row := range sample {
		if at < len(row) && l.read(row[at]).odd != "" {
			l.odd++
		}
	}
	return l
}

// plain says whether the cells of a column are lists of few names, but for some that are asked about.
func (l *listing) plain() bool {
	return l.odd*4 <= l.filled && len(l.names) <= mostVariants && l.filled > 0 && len(l.names) > 0 && (len(l.names) <= 4 || len(l.names)*2 <= l.filled)
}

// markLike says whether a name may be a mark that says yes or no, or that nothing is said.
func markLike(name string) bool {
	p := headings.Plain(name)
	return yesWords[p] || noWords[p] || shortMarks[p]
}

// composed says whether a name is made of others: "A B", "A-C", "Lite 2x" beside Lite, "AB" beside A and B.
func composed(name string, all []string) bool {
	parts := func(s string) []string {
		return strings.FieldsFunc(foldVariant(s), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) && !unicode.IsMark(r) })
	}
	mine := parts(name)
	for _, o := range all {
		theirs := parts(o)
		if sameVariant(o, name) || len(theirs) == 0 || len(theirs) == len(mine) && len([]rune(foldVariant(o))) >= len([]rune(foldVariant(name))) {
			continue
		}
		for i := 0; i+len(theirs) <= len(mine); i++ {
			if slices.Equal(mine[i:i+len(theirs)], theirs) {
				return true
			}
		}
	}
	rest := foldVariant(name)
	for found := true; found && rest != ""; {
		found = false
		for _, o := range all {
			f := foldVariant(o)
			if cut, is := strings.CutPrefix(rest, f); is && !sameVariant(o, name) && len([]rune(f)) <= 2 {
				rest, found = cut, true
				break
			}
		}
	}
	return rest == ""
}

// has says whether a variant is among those of a cell.
func (m membership) has(name string) bool {
	switch {
	case m.none:
		return false
	case len(m.in) > 0:
		return holds(m.in, name)
	}
	return !holds(m.but, name)
}
