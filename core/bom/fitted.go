package bom

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

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

// The words of many languages. A letter that two of them would read otherwise ("F": fitted, false) is in none.
var (
	yesWords = wordSet("yes|y|true|t|1|x|ok|ja|j|oui|si|sí|s|wahr|vrai|verdadero|vero|sim|tak|kyllä|ano|igen|evet|да|はい|是|有")
	noWords  = wordSet("no|n|false|0|none|nein|non|falsch|faux|falso|nee|nej|nei|não|nie|ei|ne|nem|hayır|нет|いいえ|否|无|無")
	yesSigns = []string{"✓", "✔", "☑", "✅", "●", "•"}
	noSigns  = []string{"✗", "✘", "☐", "❌", "-", "–", "—"}
)

// unfitHeadings stand over columns whose marks name what is left off, beside those that say so in words.
var unfitHeadings = wordSet("nf|np|n f|n p|not on board|not in bom")

// sides says what a heading, as headings.Plain writes it, names: what is left off ("DNP", "DNP / DNF", "Do not fit (x)"), and beside that what is fitted, so that
// marks below it which only say yes or no are asked for. bare is the heading without the marks that it says it is filled in with, "(y/n)".
func sides(p string) (off, both bool, bare string) {
	list := strings.Fields(p)
	for len(list) > 1 && (yesWords[list[len(list)-1]] || noWords[list[len(list)-1]]) && list[len(list)-2] != "not" {
		list = list[:len(list)-1]
	}
	bare = strings.Join(list, " ")
	s := sayingOf(bare)
	off = s.off && (!s.general || !s.rest) && !tellsVariants(bare) || unfitHeadings[bare]
	return off, off && s.on, bare
}

// fitRole is the role of a column whose heading names nothing but fitting: in words that are used of other things too ("Assembly", "Load") only where cells answer it.
func fitRole(heading string, sample [][]string, at int) (Role, string) {
	_, _, bare := sides(headings.Plain(heading))
	s := sayingOf(bare)
	if _, _, name, one := ofVariant(heading); !s.on || s.off || s.doubt || s.rest || tellsVariants(bare) || one && len(name) == 1 {
		return "", ""
	}
	if marks, _ := saysFitting(sample, at); marks == 0 && !plainlyFitting(heading) {
		return "", ""
	}
	return Fit, "its heading says whether a part is fitted"
}

// plainlyFitting says whether a heading is about fitting in words that are used of nothing else: such a column is never passed over.
func plainlyFitting(heading string) bool {
	p := headings.Plain(heading)
	return unfitHeadings[p] || sayingOf(p).plainly() || slices.ContainsFunc(strings.Fields(p), func(w string) bool { return plainActs[w] })
}

// readMark reads a cell of a column about fitting.
func readMark(cell string) mark {
	cell = strings.TrimSpace(cell)
	switch {
	case cell == "":
		return blankMark
	case strings.ContainsFunc(cell, struck), strings.Contains(cell, "?"):
		return unclearMark
	case slices.Contains(yesSigns, cell):
		return yesMark
	case slices.Contains(noSigns, cell):
		return noMark
	}
	p, says := headings.Plain(cell), sayingOf(cell)
	switch {
	case says.plainly(), shortMarks[p], p == "open":
		return unfittedMark
	case yesWords[p]:
		return yesMark
	case noWords[p]:
		return noMark
	case p == "p", says.on && !says.off && !says.rest && !says.doubt:
		return fittedMark
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
		if col.Role == Variants {
			col.lists = listingOf(sample, col.At, col.said())
			col.lists.blankAsks = !col.lists.said && slices.ContainsFunc(spoken(col.Heading), func(w string) bool { return plainActs[w] })
			continue
		}
		col.unsaid = col.undecided(sample)
		if col.Role != Fit && col.Role != Unfit {
			continue
		}
		bare := ""
		_, col.both, bare = sides(headings.Plain(col.Heading))
		if _, _, name, ok := ofVariant(col.Heading); ok && sayingOf(bare).rest && col.Variant == "" && !col.said() {
			col.apart = name
		}
		n := map[mark]int{}
		x, otherYes := 0, 0
		for _, row := range sample {
			if col.At >= len(row) {
				continue
			}
			m := readMark(row[col.At])
			if again := len(col.Heading) > 1 && headings.Plain(row[col.At]) == headings.Plain(col.Heading); again && m != fittedMark && m != unfittedMark {
				continue
			}
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

// variantWords stand over columns that say in which variants of a board a part is, in five languages.
var variantWords = wordSet("variant|variants|variante|varianten|variantes|varianti|variation|variations|option|options|optionen|opción|opciones|opzione|opzioni|config|configuration|configurations|konfiguration|konfigurationen|configuración|configurazione|bestückungsvariante|bestückungsvarianten|bestückungsoption|ausführung")

// tellsVariants says whether a heading, as headings.Plain writes it, names the variants of a board.
func tellsVariants(p string) bool {
	return slices.ContainsFunc(strings.Fields(p), func(w string) bool { return variantWords[w] })
}

// undecided says why nobody knows what a column that tells lines apart means for whether they are fitted, where only its heading was looked at: it names the variants of
// a board, of which nobody said which is built; or it has nothing but ticks and crosses below a heading that is not known.
func (c Column) undecided(sample [][]string) string {
	variants := tellsVariants(headings.Plain(c.Heading))
	if c.Role != Remark && c.Role != "" || c.said() || !variants && (c.Role != "" || c.Heading == "") {
		return ""
	}
	first, other, ticks, filled := "", false, 0, 0
	for i, row := range sample {
		cell := ""
		if c.At < len(row) {
			cell = row[c.At]
		}
		m := readMark(cell)
		if cell = cmp.Or(headings.Plain(cell), strings.TrimSpace(cell)); m != blankMark { // of a sign there are no words
			filled++
			if m != unclearMark {
				ticks++
			}
		}
		if i == 0 {
			first = cell
		}
		other = other || cell != first
	}
	switch {
	case !other:
	case variants:
		return "it is taken for fitted in every variant"
	case c.Role == "" && filled > 0 && ticks == filled:
		return "nobody said whether that is about being fitted"
	}
	return ""
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

// readFitting says whether a line is fitted: by the columns about that, and by the marks that people write beside a value, a package or a remark.
func (l *Line) readFitting(c Columns) {
	var said []string // what the columns say, with their headings
	plain := ""
	for _, col := range c {
		if col.Role != Fit && col.Role != Unfit || col.Variant != "" || col.At >= len(l.Cells) {
			continue
		}
		says, doubt := col.fitted(strings.TrimSpace(l.Cells[col.At]))
		switch {
		case doubt != "":
			l.askFit("%s", doubt)
		case says == NotFitted && col.apart != "":
			l.askFit("%s says that it is not fitted, and its heading names %q: it may be so in one variant only", col.Heading, col.apart)
		case says == "" || says == plain:
		case plain != "":
			l.askFit("%s, and %s says that it is %s", said[0], col.Heading, says)
		default:
			plain = says
		}
		if says != "" {
			said = append(said, fmt.Sprintf("%s says that it is %s", col.Heading, says))
		}
	}
	for _, col := range c {
		if col.unsaid != "" && col.At < len(l.Cells) && strings.TrimSpace(l.Cells[col.At]) != "" && plain == "" && !sayingOf(l.Cells[col.At]).plainly() {
			l.askFit("%s says %q, and %s", col.Heading, strings.TrimSpace(l.Cells[col.At]), col.unsaid)
		}
	}
	off := ""
	for _, cell := range []*string{&l.Value, &l.Package} {
		if terse(*cell) {
			continue
		}
		rest, is, may := markedOff(*cell)
		switch {
		case is:
			off, *cell = "a mark beside "+rest, rest
		case leftOff(*cell):
			off = *cell
		case plain == "" && (may || mayMeanOff(*cell, l.Letters())):
			l.askFit("%q may say that it is not fitted", *cell)
		}
	}
	for _, col := range c {
		if col.At >= len(l.Cells) {
			continue
		}
		cell := strings.TrimSpace(l.Cells[col.At])
		if cell == "" || col.Role != Description && col.Role != Remark && col.Role != "" && strings.ContainsAny(cell, "0123456789") { // no mark has a digit
			continue
		}
		s := sayingOf(cell)
		whole := s.plainly() && !s.general || (col.Role == Remark || col.Role == "") && s.plainly()
		switch col.Role {
		case Description, Remark, "":
		case MPN, Number, SupplierNumber, Fact:
			if !whole { // a part number may have such letters in it
				continue
			}
			l.unsay(cell)
		case Manufacturer, Supplier:
			if whole {
				l.askFit("%s says %q: is it fitted?", col.Heading, cell)
			}
			continue
		default:
			continue
		}
		switch {
		case off != "":
		case whole:
			off = fmt.Sprintf("%q in %s", cell, col.Heading)
			l.Read = append(l.Read, off+" is taken for not fitted")
		case plain != "":
		case s.off && (!s.general || omits.MatchString(cell)), s.doubt && !s.rest && col.Role != Description:
			l.askFit("%s says %q: is it fitted?", col.Heading, clipped(cell))
		}
	}
	if l.Quantity == 0 && len(l.Designators) > 0 && off == "" && plain != NotFitted {
		l.askFit("the quantity is 0, and there are designators")
	}
	switch {
	case off != "" && plain == Fitted:
		l.askFit("%s, and %s that it is not", said[0], off)
	case off != "":
		l.NotFitted = true
	}
	l.NotFitted = l.NotFitted || plain == NotFitted
}

// askFit notes the first thing that keeps it from being plain whether a line is fitted.
func (l *Line) askFit(format string, args ...any) {
	if l.FitAsk == "" {
		l.FitAsk = fmt.Sprintf(format, args...)
	}
}

// unsay takes what is a mark, and no number or value of a part, from a line.
func (l *Line) unsay(mark string) {
	for _, cell := range []*string{&l.MPN, &l.Number, &l.SupplierNumber} {
		if *cell == mark {
			*cell = ""
		}
	}
	l.Facts = slices.DeleteFunc(l.Facts, func(f Cell) bool { return f.Text == mark })
}

// clipped is a text short enough to be named in a sentence.
func clipped(text string) string {
	if r := []rune(text); len(r) > 60 {
		return string(r[:60]) + "…"
	}
	return text
}

// leftOff says whether a value or package is nothing but a mark of what is not fitted; short ones are values: "0", "NC".
func leftOff(cell string) bool {
	p := headings.Plain(cell)
	return p == "open" || len(cell) > 2 && noWords[p] || sayingOf(cell).plainly()
}
