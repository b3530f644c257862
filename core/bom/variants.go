package bom

import (
	"slices"
	"strings"
	"unicode"

	"jollydrawer/core/headings"
)

// A board may be built in variants: some lines are in all of them, others in some. Two lines may share a designator where no variant has both: another part is there
// in each. What says so are a column that lists the variants of a line, or a column for each variant, of ticks or of quantities.

// mostVariants is how many variants a column of marks or lists may tell; more are something else.
const mostVariants = 24

// Variants are the names of a board's variants: as their columns say, or in the order in which lines name them.
func (c Columns) Variants() (out []string) {
	add := func(name string) {
		if name != "" && !holds(out, name) {
			out = append(out, name)
		}
	}
	for _, col := range c {
		if col.Role == Fit || col.Role == Unfit || col.Role == Quantity {
			add(col.Variant)
		}
	}
	for _, col := range c {
		if col.Role == Variants && col.lists != nil {
			for _, name := range col.lists.names {
				add(name)
			}
			if len(col.lists.names) == 1 && len(out) == 1 { // those that are not marked are in a board without it
				add("without " + out[0])
			}
		}
	}
	return out
}

// VariantNamed finds a variant by its name, whatever the capitals and marks.
func VariantNamed(all []string, name string) (string, bool) {
	i := slices.IndexFunc(all, func(o string) bool { return sameVariant(o, name) })
	if i < 0 {
		return "", false
	}
	return all[i], true
}

// holds says whether a variant is among some.
func holds(all []string, name string) bool {
	_, ok := VariantNamed(all, name)
	return ok
}

// plainVariant are headings that name nothing but variants; of others ("Option") it is asked.
var plainVariant = wordSet("variant|variants|variante|varianten|variantes|varianti|bom variant|bom variants|board variant|board variants|assembly variant|assembly variants|build variant|build variants|in variant|in variants|fitted in|fitted in variant|variant name|bestückungsvariante|bestückungsvarianten")

// sideWords stand beside a word about fitting and name no variant.
var sideWords = wordSet("top|bottom|side|by|date|machine|hand|manual|automatic|auto|smd|smt|tht|through|hole|height|position|quantity|qty|count|part|parts|type|method|process|supplier|price|stock|available|needed|required|ordered|order|total|sum|spare|note|reason|remark|comment")

// countWords stand over quantities, in five languages.
var countWords = wordSet("qty|qnty|quantity|count|pcs|pieces|menge|anzahl|stück|stk|stck|quantité|qté|nombre|cantidad|cant|quantità|qtà|pezzi")

// ofVariant takes a heading such as "Fitted Lite", "DNP (B)", "Qty Pro" or "Variant A" apart: what its cells say, and of which variant.
func ofVariant(heading string) (role Role, stem, name string, ok bool) {
	var rest, stems []string
	off, fit, count, variant := false, false, false, false
	list := strings.FieldsFunc(heading, func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '.' && r != '+' && r != '\''
	})
	for i := 0; i < len(list); i++ {
		p := headings.Plain(list[i])
		switch {
		case len(list[i]) == 1 && unicode.IsUpper(rune(list[i][0])): // a name, and no word
			rest = append(rest, list[i])
			continue
		case leaves(p), lefts[p], turned(p):
			off = true
		case negations[p]:
			off = true
		case variantWords[p] && !doubts[p], p == "var" || p == "version":
			variant = true
		case plainActs[p] || acts[p] && (off || fit):
			fit = true
		case countWords[p]:
			count = true
		case fillers[p], p == "in" || p == "for" || p == "per" || p == "from" || p == "on" || p == "of" || p == "board" || p == "bom" || p == "assembly" || p == "build":
		case sideWords[p]:
			return "", "", "", false
		default:
			rest = append(rest, list[i])
			continue
		}
		stems = append(stems, p)
	}
	if n := len(rest); n > 2 && yesWords[headings.Plain(rest[n-2])] && noWords[headings.Plain(rest[n-1])] { // "Fitted Lite (y/n)"
		rest = rest[:n-2]
	}
	name = strings.Join(rest, " ")
	if name == "" || len(rest) > 3 || !off && !fit && !count && !variant || strings.Trim(name, "0123456789.") == "" && !variant && !fit && !off {
		return "", "", "", false
	}
	switch {
	case count && !off && !fit:
		role = Quantity
	case off:
		role = Unfit
	default:
		role = Fit
	}
	return role, strings.Join(stems, " "), name, true
}

// perVariant gives columns their variant where several have headings that differ in it only, and cells that answer them.
func perVariant(c Columns, sample [][]string) {
	for i, col := range c {
		if (col.Role == "" || col.Role == Remark) && plainVariant[headings.Plain(col.Heading)] {
			if l := listingOf(sample, col.At, false); l.plain() && len(l.names) > 1 {
				names := l.names
				c[i].Role, c[i].Meaning, c[i].Because = Variants, ACount, "its cells name the variants "+strings.Join(names, ", ")
			}
		}
	}
	groups := map[string][]int{}
	names := map[int]string{}
	roles := map[int]Role{}
	for i, col := range c {
		if col.Role != "" && col.Role != Remark && col.Role != Fit && col.Role != Unfit && col.Role != Quantity {
			continue
		}
		role, stem, name, ok := ofVariant(col.Heading)
		if !ok || !answers(role, c, sample, i) {
			continue
		}
		key := string(role) + " " + stem
		groups[key], names[i], roles[i] = append(groups[key], i), name, role
	}
	for _, group := range groups {
		if len(group) < 2 || len(group) > mostVariants {
			continue
		}
		for _, i := range group {
			c[i].Role, c[i].Variant, c[i].Meaning = roles[i], names[i], ACount
			c[i].Because = "its heading names the variant " + names[i]
		}
	}
}

// answers says whether the cells of a column can be what its heading asks for: marks, or quantities that are none or all of a line.
func answers(role Role, c Columns, sample [][]string, at int) bool {
	if role != Quantity {
		marks, filled := saysFitting(sample, at)
		return marks > 0 && marks == filled
	}
	where, ok := c.At(Designator)
	none, bad := false, 0
	for _, row := range sample {
		n, cell := 0, ""
		if at < len(row) {
			cell = noneOfIt(row[at])
		}
		if ok && where < len(row) {
			n = len(ReadDesignators(row[where], -1).List)
		}
		switch got := ReadCount(cell, n); {
		case got.Problem != "" || got.Amount != (Amount{}):
			bad++ // its line is asked about
		case got.Pieces <= 0:
			none = true
		case n > 0 && got.Pieces != n:
			return false
		}
	}
	return (none || bad > 0) && bad*4 <= len(sample)
}

// noneOfIt is the cell of a quantity of one variant, without a sign that says none.
func noneOfIt(cell string) string {
	if slices.Contains(noSigns, strings.TrimSpace(cell)) {
		return ""
	}
	return cell
}

// readVariants says in which variants a line is.
func (l *Line) readVariants(c Columns) {
	all := c.Variants()
	if len(all) == 0 {
		return
	}
	in := slices.Clone(all)
	keep := func(if_ func(string) bool) {
		in = slices.DeleteFunc(in, func(n string) bool { return !if_(n) })
	}
	for _, col := range c {
		cell := ""
		if col.At < len(l.Cells) {
			cell = strings.TrimSpace(l.Cells[col.At])
		}
		switch {
		case col.Role == Variants && col.lists != nil:
			m := col.lists.read(cell)
			switch {
			case m.odd != "":
				l.askFit("%s says %q, which is no plain list of variants: %s", col.Heading, clipped(cell), m.odd)
			case cell == "" && col.lists.blankAsks:
				l.askFit("the cell in %s is empty", col.Heading)
			case m.both && len(all) != 2:
				l.askFit("%s says %q, and there are %d variants", col.Heading, clipped(cell), len(all))
			}
			keep(m.has)
		case col.Variant == "":
		case col.Role == Quantity:
			got := ReadCount(noneOfIt(cell), len(l.Designators))
			switch {
			case got.Problem != "":
				l.askFit("%s: %s", col.Heading, got.Problem)
			case got.Pieces <= 0 && got.Amount == (Amount{}):
				keep(func(n string) bool { return !sameVariant(n, col.Variant) })
			case l.Quantity < 0 && got.Amount == (Amount{}):
				l.Quantity = got.Pieces
			case got.Pieces != l.Quantity || got.Amount != l.Amount:
				l.askFit("%s takes %s in %s, and elsewhere it is %d", col.Heading, cell, col.Variant, l.Quantity)
			}
		case col.Role == Fit || col.Role == Unfit:
			says, doubt := col.fitted(cell)
			if cell == "" && col.ticks && col.Blank == "" { // beside ticks of other variants: it is none of this one
				says, doubt = NotFitted, ""
			}
			if doubt != "" {
				l.askFit("%s", doubt)
			}
			if says == NotFitted {
				keep(func(n string) bool { return !sameVariant(n, col.Variant) })
			}
		}
	}
	switch {
	case len(in) == 0:
		l.In, l.NotFitted = []string{}, true
	case len(in) < len(all):
		l.In = in
	}
}

// OfVariant says whether a column of a role can be of one variant.
func OfVariant(r Role) bool { return r == Fit || r == Unfit || r == Quantity }

// Is says whether a line is in a variant of its board; blank is any.
func (l Line) Is(variant string) bool {
	return variant == "" || l.In == nil || holds(l.In, variant)
}

// apart says whether no variant has both of two lines.
func apart(a, b []string) bool {
	return a != nil && b != nil && !slices.ContainsFunc(a, func(n string) bool { return slices.Contains(b, n) })
}

// TellApart notes of lines with the same designators in different variants that a decision for one is none for the other.
func TellApart(lines []Line) {
	at := map[string]int{}
	for i := range lines {
		if lines[i].In == nil || len(lines[i].Designators) == 0 {
			continue
		}
		about := lines[i].About()
		first, twice := at[about]
		if !twice {
			at[about] = i
			continue
		}
		if apart(lines[first].In, lines[i].In) {
			lines[first].shared, lines[i].shared = true, true
		}
	}
}

// Of are the verdicts of one variant of a board: what is not in it is not fitted. Of a blank variant it is all lines that any has.
func Of(vs []Verdict, variant string) []Verdict {
	if variant == "" {
		return vs
	}
	out := slices.Clone(vs)
	for i := range out {
		if v := &out[i]; !v.Line.Is(variant) && v.Kind != Unfitted {
			v.Kind = Unfitted
			v.Evidence = append(slices.Clone(v.Evidence), "it is not in the variant "+variant)
		}
	}
	return out
}

// PinnedOf are the lines of a revision as one variant has them. A line of another variant is left out where its designators have a line in this one.
func PinnedOf(lines []Pinned, variant string) []Pinned {
	if variant == "" {
		return lines
	}
	taken := map[string]bool{}
	for i := range lines {
		if lines[i].is(variant) {
			for _, d := range lines[i].Designators {
				taken[d] = true
			}
		}
	}
	out := make([]Pinned, 0, len(lines))
	for _, l := range lines {
		switch {
		case l.is(variant):
		case len(l.Designators) > 0 && !slices.ContainsFunc(l.Designators, func(d string) bool { return !taken[d] }):
			continue
		default:
			l.NotFitted = true
		}
		l.In = nil // all of them are those of one variant
		out = append(out, l)
	}
	return out
}

func (p *Pinned) is(variant string) bool {
	return variant == "" || p.In == nil || holds(p.In, variant)
}
