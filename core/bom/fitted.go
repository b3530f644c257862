package bom

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/headings"
)

// What an empty cell of a column about fitting means, and what a cell of it says.
const (
	Fitted    = "fitted"
	NotFitted = "not fitted"
)

// mark is what a cell says of whether a part is fitted.
type mark int

const (
	blankMark    mark = iota
	fittedMark        // says so whatever stands over it: "fitted"
	unfittedMark      // likewise: "DNP"
	yesMark           // says yes to the heading
	noMark            // says no to the heading
	unclearMark
)

// wordSet makes a set of words as headings.Plain writes them.
func wordSet(list string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Split(list, "|") {
		m[headings.Plain(w)] = true
	}
	return m
}

// The words of five languages. A letter that two of them would read otherwise ("F": fitted, false) is in none.
var (
	fittedWords   = wordSet("fit|fitted|populate|populated|pop|p|place|placed|mount|mounted|install|installed|stuffed|assembled|bestückt|bestücken|montiert|montieren|eingesetzt|monté|monter|implanté|câblé|montar|montado|poblado|montato|montare|popolato")
	unfittedWords = wordSet("dnp|dnf|dni|dns|nf|np|do not fit|do not populate|do not place|do not install|do not mount|do not stuff|don't fit|don't populate|not fitted|not populated|not placed|not mounted|not installed|not stuffed|unfitted|unpopulated|no fit|no pop|no populate|nopop|nofit|open|omit|omitted|leave out|left out|left off|" +
		"nicht bestückt|unbestückt|nicht bestücken|nicht montiert|nicht montieren|nb|n b|n.b.|entfällt|nc|non monté|ne pas monter|non câblé|non implanté|no montar|no montado|no poblar|no poblado|sin montar|no monta|non montato|non montare|da non montare|non popolato")
	yesWords = wordSet("yes|y|true|t|1|x|ok|on|ja|j|oui|si|sí|s|wahr|vrai|verdadero|vero")
	noWords  = wordSet("no|n|false|0|none|off|nein|non|falsch|faux|falso")
	yesSigns = []string{"✓", "✔", "☑", "✅", "●", "•"}
	noSigns  = []string{"✗", "✘", "☐", "❌", "-", "–", "—"}
)

// unfitHeadings stand over columns whose marks name what is left off.
var unfitHeadings = wordSet("dnp|dnf|dni|dns|do not fit|do not populate|do not place|do not install|do not mount|do not stuff|don't fit|don't populate|not fitted|not populated|not placed|not mounted|not installed|not stuffed|unfitted|unpopulated|no fit|no pop|no populate|nopop|nofit|omit|omitted|left off|left out|leave out|" +
	"exclude|excluded|exclude from bom|exclude from board|excluded from bom|excluded from board|not on board|not in bom|" +
	"nicht bestückt|unbestückt|nicht bestücken|nicht montiert|nicht montieren|entfällt|non monté|ne pas monter|non câblé|non implanté|no montar|no montado|no poblar|no poblado|sin montar|non montato|non montare|da non montare|non popolato")

// offHeadings are those headings, the longer ones first, as they are looked for inside others.
var offHeadings = func() (out []string) {
	general := wordSet("exclude|excluded|omit|omitted|left off|left out|leave out|entfällt") // of prices and taxes, too
	for h := range unfitHeadings {
		if !general[h] {
			out = append(out, h)
		}
	}
	slices.SortFunc(out, func(a, b string) int { return cmp.Or(len(b)-len(a), cmp.Compare(a, b)) })
	return out
}()

// sides says what a heading, as headings.Plain writes it, names: what is left off ("DNP", "DNP / DNF", "Do not fit (x)"), and beside that what is fitted, so that
// marks below it which only say yes or no are asked for. bare is the heading without the marks that it says it is filled in with, "(y/n)".
func sides(p string) (off, fitted bool, bare string) {
	list := strings.Fields(p)
	for len(list) > 1 && (yesWords[list[len(list)-1]] || noWords[list[len(list)-1]]) && list[len(list)-2] != "not" {
		list = list[:len(list)-1]
	}
	bare = strings.Join(list, " ")
	if unfitHeadings[bare] {
		return true, false, bare
	}
	rest := " " + bare + " "
	for _, h := range offHeadings {
		if strings.Contains(rest, " "+h+" ") {
			off, rest = true, strings.ReplaceAll(rest, " "+h+" ", "  ")
		}
	}
	return off, off && namesFitted(rest), bare
}

// namesFitted says whether one of the words of a heading names what is fitted.
func namesFitted(p string) bool {
	return slices.ContainsFunc(strings.Fields(p), func(w string) bool { return fittedWords[w] && len(w) > 1 })
}

// readMark reads a cell of a column about fitting.
func readMark(cell string) mark {
	cell = strings.TrimSpace(cell)
	p := headings.Plain(cell)
	switch {
	case cell == "":
		return blankMark
	case slices.Contains(yesSigns, cell):
		return yesMark
	case slices.Contains(noSigns, cell):
		return noMark
	case fittedWords[p]:
		return fittedMark
	case unfittedWords[p]:
		return unfittedMark
	case yesWords[p]:
		return yesMark
	case noWords[p]:
		return noMark
	}
	return unclearMark
}

// fitted reads a cell below a column's heading; ask says what keeps that from being plain.
func (c Column) fitted(cell string) (says, ask string) {
	off := c.Role == Unfit
	is := readMark(cell)
	if c.both && (is == yesMark || is == noMark) {
		return "", fmt.Sprintf("%q in %s may say either", cell, c.Heading)
	}
	switch is {
	case fittedMark:
		return Fitted, ""
	case unfittedMark:
		return NotFitted, ""
	case yesMark:
		if c.crosses && headings.Plain(cell) == "x" {
			return "", fmt.Sprintf("%q in %s may be a cross or a tick: other cells of it have both", cell, c.Heading)
		}
		return map[bool]string{false: Fitted, true: NotFitted}[off], ""
	case noMark:
		return map[bool]string{false: NotFitted, true: Fitted}[off], ""
	case blankMark:
		switch {
		case c.Blank != "":
			return c.Blank, ""
		case c.ticks:
			return "", fmt.Sprintf("the cell in %s is empty, and no other says that something is left off", c.Heading)
		}
		return "", ""
	}
	return "", fmt.Sprintf("%q in %s does not say whether the part is fitted", cell, c.Heading)
}

// Sided gives a column about fitting the role that its heading tells.
func (c Column) Sided() Column {
	if off, both, _ := sides(headings.Plain(c.Heading)); c.Role == Fit && off && !both {
		c.Role = Unfit
	}
	return c
}

// Seen notes what only the cells of a column together say of its marks: whether an empty cell means anything, and whether "x" is a tick.
func (c Columns) Seen(sample [][]string) Columns {
	out := slices.Clone(c)
	for i := range out {
		col := &out[i]
		col.variant = col.tellsVariants(sample)
		if col.Role != Fit && col.Role != Unfit {
			continue
		}
		_, col.both, _ = sides(headings.Plain(col.Heading))
		n := map[mark]int{}
		x, otherYes := 0, 0
		for _, row := range sample {
			if col.At >= len(row) || headings.Plain(row[col.At]) == headings.Plain(col.Heading) && len(col.Heading) > 1 && !unfittedWords[headings.Plain(row[col.At])] && !fittedWords[headings.Plain(row[col.At])] {
				continue
			}
			m := readMark(row[col.At])
			n[m]++
			if m == yesMark {
				if headings.Plain(row[col.At]) == "x" {
					x++
				} else {
					otherYes++
				}
			}
		}
		col.ticks = col.Role == Fit && n[noMark]+n[unfittedMark] == 0 && n[yesMark]+n[fittedMark] > 0
		col.crosses = x > 0 && otherYes > 0 && n[noMark] == 0
	}
	return out
}

// variantWords head columns that say in which variants of a board a part is, in five languages.
var variantWords = wordSet("variant|variants|variante|varianten|variantes|varianti|bestückungsvariante|bestückungsvarianten")

// tellsVariants says whether a column names the variants of a board, so that lines differ in it, and only its heading was looked at: which of them is built, nobody knows.
func (c Column) tellsVariants(sample [][]string) bool {
	if c.Role != Remark && c.Role != "" || strings.HasSuffix(c.Because, " said so") || !slices.ContainsFunc(strings.Fields(headings.Plain(c.Heading)), func(w string) bool { return variantWords[w] }) {
		return false
	}
	first, other := "", false
	for i, row := range sample {
		cell := ""
		if c.At < len(row) {
			cell = headings.Plain(row[c.At])
		}
		if i == 0 {
			first = cell
		}
		other = other || cell != first
	}
	return other
}

// saysFitting says whether any cell of a column is a mark at all, and whether there is anything in it.
func saysFitting(sample [][]string, at int) (marks, filled int) {
	for _, row := range sample {
		if at >= len(row) {
			continue
		}
		switch readMark(row[at]) {
		case blankMark:
		case unclearMark:
			filled++
		default:
			marks, filled = marks+1, filled+1
		}
	}
	return marks, filled
}

// offMark is what people write beside a value, a package or a remark.
type offMark struct {
	text  string
	plain string // as words; blank for those that are no words of a text
	forms []offForm
}

// offForm is a mark as it is written: by itself, or between brackets.
type offForm struct {
	text      string
	bracketed bool
}

// offMarks are those marks, the longer ones first. "NF", "NP" and "NC" are not among them: they are a unit, a kind of capacitor and a kind of contact there.
var offMarks = func() (out []offMark) {
	for _, w := range strings.Split("DNP|DNF|DNI|not fitted|not populated|not mounted|not placed|not installed|do not fit|do not populate|do not mount|do not place|do not install|don't fit|don't populate|unfitted|unpopulated|nicht bestückt|nicht bestücken|nicht montiert|unbestückt|n.b.|NB|non monté|ne pas monter|no montar|no montado|sin montar|non montato|non montare|non popolato", "|") {
		m := offMark{text: strings.ToLower(w)}
		if m.text != "nb" && m.text != "n.b." {
			m.plain = headings.Plain(m.text)
		}
		for _, around := range []string{"()", "[]", "<>", "{}", "**"} {
			m.forms = append(m.forms, offForm{around[:1] + m.text + around[1:], true})
		}
		m.forms = append(m.forms, offForm{m.text, false})
		out = append(out, m)
	}
	slices.SortFunc(out, func(a, b offMark) int { return len(b.text) - len(a.text) })
	return out
}()

// markedOff takes such a mark from the beginning or the end of a text: "10k DNP", "10k (DNP)", "DNP/10k".
func markedOff(text string) (rest string, off bool) {
	trim := func(s string) string {
		return strings.TrimFunc(s, func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune("/,;:*_-–|", r) })
	}
	for _, m := range offMarks {
		for _, f := range m.forms {
			cut := len(text) - len(f.text) // a mark has as many bytes in capitals as in small letters; other letters may not
			if cut <= 0 {
				continue
			}
			switch {
			case strings.EqualFold(text[cut:], f.text) && (f.bracketed || !joins(text[:cut], true)):
				if rest := strings.TrimRight(trim(text[:cut]), "([<{ "); rest != "" {
					return rest, true
				}
			case strings.EqualFold(text[:len(f.text)], f.text) && (f.bracketed || !joins(text[len(f.text):], false)) && m.plain != "":
				if rest := trim(text[len(f.text):]); rest != "" {
					return rest, true
				}
			}
		}
	}
	return text, false
}

// joins says whether a text ends, or begins, with what makes one word of it and a mark; points part no words.
func joins(text string, last bool) bool {
	r := []rune(text)
	if len(r) == 0 {
		return false
	}
	at := r[0]
	if last {
		at = r[len(r)-1]
	}
	return unicode.IsLetter(at) || unicode.IsDigit(at) || strings.ContainsRune(".+%'’", at) || !last && at == '-' // "DNP-100" is a number
}

// mentionsOff finds a mark that stands in a text as words of its own; one without a text where there is none.
func mentionsOff(text string) offMark {
	p := " " + headings.Plain(text) + " "
	for _, m := range offMarks {
		if m.plain != "" && strings.Contains(p, " "+m.plain+" ") {
			return m
		}
	}
	return offMark{}
}

// readFitting says whether a line is fitted: by the columns about that, and by the marks that people write beside a value, a package or a remark.
func (l *Line) readFitting(c Columns) {
	var said []string // what the columns say, with their headings
	plain := ""
	ask := func(format string, args ...any) {
		if l.FitAsk == "" {
			l.FitAsk = fmt.Sprintf(format, args...)
		}
	}
	for _, col := range c {
		if col.Role != Fit && col.Role != Unfit || col.At >= len(l.Cells) {
			continue
		}
		says, doubt := col.fitted(strings.TrimSpace(l.Cells[col.At]))
		switch {
		case doubt != "":
			ask("%s", doubt)
		case says == "" || says == plain:
		case plain != "":
			ask("%s, and %s says that it is %s", said[0], col.Heading, says)
		default:
			plain = says
		}
		if says != "" {
			said = append(said, fmt.Sprintf("%s says that it is %s", col.Heading, says))
		}
	}
	for _, col := range c {
		if col.variant && col.At < len(l.Cells) && strings.TrimSpace(l.Cells[col.At]) != "" && plain == "" {
			ask("%s says %q, and it is taken for fitted in every variant", col.Heading, strings.TrimSpace(l.Cells[col.At]))
		}
	}
	off := ""
	for _, cell := range []*string{&l.Value, &l.Package} {
		if rest, is := markedOff(*cell); is {
			off, *cell = "a mark beside "+rest, rest
		} else if leftOff(*cell) {
			off = *cell
		}
	}
	for _, col := range c {
		if col.At >= len(l.Cells) || col.Role != Description && col.Role != Remark && col.Role != "" {
			continue
		}
		cell := strings.TrimSpace(l.Cells[col.At])
		switch mark := mentionsOff(cell); {
		case mark.text == "" || off != "":
		case headings.Plain(cell) == mark.plain:
			off = fmt.Sprintf("%q in %s", cell, col.Heading)
			l.Read = append(l.Read, off+" is taken for not fitted")
		case plain == "":
			ask("%s says %q: is it fitted?", col.Heading, mark.text)
		}
	}
	switch {
	case off != "" && plain == Fitted:
		ask("%s, and %s that it is not", said[0], off)
	case off != "":
		l.NotFitted = true
	}
	l.NotFitted = l.NotFitted || plain == NotFitted
}

// leftOff says whether a value or package is nothing but a mark of what is not fitted; short ones are values: "0", "NC".
func leftOff(cell string) bool {
	p := headings.Plain(cell)
	return len(cell) > 2 && (unfittedWords[p] || noWords[p])
}
