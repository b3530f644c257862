package bom

import (
	"cmp"
	"fmt"
	"math/bits"
	"slices"
	"strings"

	"jollydrawer/core/headings"
	"jollydrawer/core/names"
)

// A BOM may tell by levels what is part of what: a row with deeper rows below it is a sub-assembly, which is made of them. What it is made of is taken as often as it
// is, and its designators stand behind its own: R5 of A2 is A2/R5.

// mostPlaces is how many places of a sub-assembly are told apart; of more, its parts are counted, and stand behind the first.
const mostPlaces = 50

// mostLevels is how many sub-assemblies are in each other at most: no board has so many, and a list that says so would have places whose names have no end.
const mostLevels = 40

// mostTimes is the most pieces of a part that one board can take by way of sub-assemblies.
const mostTimes = 1_000_000_000

// nesting is what the lines above make of those below them.
type nesting struct {
	lines  []Line
	levels []int
	root   int         // the line that is the board itself; -1: none
	named  names.Taken // places of sub-assemblies without designators
	grown  int         // designators so far
	items  bool        // levels are numbers of items, under a heading that may mean nothing by them
	said   bool        // somebody said what the column is
}

// Nest reads the levels of a BOM's lines, in their order: which are sub-assemblies, what stands below them, and how often one board takes it. What is not plain, such
// as a level that jumps, is said of the line.
func Nest(lines []Line, c Columns) {
	at, ok := c.At(Level)
	if !ok {
		indented(lines, c)
		return
	}
	cell := func(i int) string {
		if at < len(lines[i].Cells) {
			return levelCell(lines[i].Cells[at])
		}
		return ""
	}
	cells := make([]string, len(lines))
	for i := range lines {
		cells[i] = cell(i)
		lines[i].own = len(lines[i].Designators)
	}
	form, read, _ := formOfLevels(cells)
	column := c[slices.IndexFunc(c, func(col Column) bool { return col.Role == Level })]
	n := nesting{lines: lines, levels: make([]int, len(lines)), root: -1, said: column.said()}
	for i := range lines {
		n.grown += lines[i].own
	}
	if parentNames[headings.Plain(column.Heading)] || read == 0 {
		n.byParents(c, at)
		return
	}
	byOutline := form.outline
	n.items = byOutline && !levelNames[headings.Plain(column.Heading)]
	least, ofLeast := 1<<30, 0
	for i := range lines {
		level, ok := form.level(cells[i])
		if !ok {
			lines[i].unclear("%q is no level: the line is taken for a part of the board itself", cell(i))
			level = -1
		}
		if n.levels[i], lines[i].Level = level, max(level, 0); level >= 0 && level < least {
			least, ofLeast = level, 0
		}
		if level == least {
			ofLeast++
		}
	}
	if ofLeast == 1 && n.levels[0] == least && len(lines) > 1 && len(lines[0].Designators) == 0 {
		n.root = 0
		if q := lines[0].Quantity; q > 1 {
			lines[0].unclear("row %d is the board itself, and says %d: quantities below it may be of one or of all", lines[0].Row, q)
		}
	}
	numbered := map[string]bool{}
	var open []int // the lines above, from the outermost
	for i := range lines {
		l := &lines[i]
		level := n.levels[i]
		if level < 0 {
			open = nil
			continue
		}
		if byOutline && numbered[cell(i)] {
			l.unclear("the number %s stands twice: a cell that was written as a number loses its last 0", cell(i))
		}
		numbered[cell(i)] = true
		for len(open) > 0 && n.levels[open[len(open)-1]] >= level {
			open = open[:len(open)-1]
		}
		switch {
		case len(open) == 0:
			if level > least {
				l.unclear("there is no line of level %d above it", level-1)
			}
		case byOutline && !beneath(cell(i), cell(open[len(open)-1])):
			l.unclear("there is no line %s above it", strings.Join(segments(cell(i))[:level-1], "."))
		case level > n.levels[open[len(open)-1]]+1:
			l.unclear("the level jumps from %d to %d", n.levels[open[len(open)-1]], level)
		}
		if len(open) > 0 {
			n.under(i, open[len(open)-1])
		}
		open = append(open, i)
	}
}

// indented asks of lines whose number or text is written further in than that of the line above it, as parts of a sub-assembly are.
func indented(lines []Line, c Columns) {
	in := func(l Line, at int) (depth int, filled bool) {
		if at >= len(l.Cells) || strings.TrimSpace(l.Cells[at]) == "" {
			return 0, false
		}
		rest := strings.TrimLeft(strings.ReplaceAll(l.Cells[at], "\t", "  "), " \u00a0\u3000")
		depth = len([]rune(strings.ReplaceAll(l.Cells[at], "\t", "  "))) - len([]rune(rest))
		if dots := len(rest) - len(strings.TrimLeft(rest, ".")); dots > 0 && dots < len(rest) && (rest[dots] < '0' || rest[dots] > '9' || dots > 1) { // ".5" is a number
			depth += 2 * dots
		}
		return depth, true
	}
	for _, col := range c {
		if col.Role != Number && col.Role != MPN && col.Role != Description && col.Role != Value && col.Role != "" && !(col.Role == Remark && outlineNames[headings.Plain(col.Heading)]) || col.said() {
			continue
		}
		before, first := 0, true
		for i := range lines {
			depth, filled := in(lines[i], col.At)
			if !filled {
				continue
			}
			if depth >= 2 && !first && before < depth || depth >= 2 && lines[max(i-1, 0)].LevelAsk != "" {
				lines[i].unclear("%q is written further in than the row above it, as what a sub-assembly is made of is", clipped(strings.TrimSpace(lines[i].Cells[col.At])))
			}
			before, first = depth, false
		}
	}
}

// beneath says whether a number of an outline is one of those directly below another.
func beneath(cell, above string) bool {
	a, b := segments(cell), segments(above)
	return len(a) == len(b)+1 && slices.Equal(a[:len(b)], b)
}

// unclear says of a line why its place among the levels is not plain.
func (l *Line) unclear(format string, args ...any) {
	if l.LevelAsk == "" {
		l.LevelAsk = fmt.Sprintf(format, args...)
	}
}

// under makes a line part of another one, which is a sub-assembly then.
func (n *nesting) under(i, k int) {
	l, above := &n.lines[i], &n.lines[k]
	above.Assembly = true
	switch {
	case n.said:
	case above.MPN != "":
		above.unclear("it names a maker's number and has lines below it: it may be bought as it is, or made of them")
	case n.items && slices.ContainsFunc(above.Letters(), func(letters string) bool { return letters != "A" }):
		above.unclear("the item below it may be an alternate of it, or what it is made of")
	}
	each := uint64(max(above.Quantity, 0))
	switch {
	case above.Quantity >= 0:
	case above.Amount == (Amount{}) && above.own > 0:
		each = uint64(above.own)
	case k == n.root:
		each = 1
	default:
		l.unclear("how many of the sub-assembly in row %d are taken is not said in pieces", above.Row)
		each = 1
	}
	hi, times := bits.Mul64(uint64(above.times()), each)
	if hi > 0 || times > mostTimes {
		l.unclear("a board would take it more than %d times", mostTimes)
		times = mostTimes
	}
	l.Times, l.nested = int64(times), true
	l.NotFitted = l.NotFitted || above.NotFitted
	if above.In != nil {
		if l.In = within(l.In, above.In); len(l.In) == 0 {
			l.NotFitted = true
		}
	}
	if l.deep = above.deep + 1; l.deep > mostLevels {
		l.unclear("it is more than %d levels down", mostLevels)
	}
	l.LevelAsk = cmp.Or(l.LevelAsk, above.LevelAsk) // what is not plain of the assembly is not plain of its parts
	if k == n.root {
		return
	}
	if above.places == nil {
		above.places = n.placesOf(above)
		if above.deep >= mostLevels {
			above.places = above.inside
		}
	}
	l.inside = above.places
	places := above.places
	if n.grown += (len(places) - 1) * len(l.Designators); n.grown > mostGrown {
		n.grown -= (len(places) - 1) * len(l.Designators)
		places = []string{places[0] + "…"}
	}
	l.Designators = inPlaces(places, l.Designators)
}

// inPlaces are designators in each of some places: R5 of A2 is A2/R5.
func inPlaces(places, designators []string) []string {
	out := make([]string, 0, len(places)*len(designators))
	for _, p := range places {
		for _, d := range designators {
			out = append(out, p+"/"+d)
		}
	}
	return out
}

// placeNamed is a name as a place: one word without a stroke.
func placeNamed(name string) string {
	return strings.Join(strings.Fields(strings.ReplaceAll(name, "/", "-")), "-")
}

// mostGrown bounds the designators that the lines of a BOM have together once each place of a sub-assembly has its own.
const mostGrown = 200_000

// placesOf is where the parts of a sub-assembly stand: behind its designators, or behind what it is called where it has none.
func (n *nesting) placesOf(l *Line) []string {
	switch {
	case len(l.Designators) > mostPlaces:
		return []string{l.Designators[0] + "…"}
	case len(l.Designators) > 0:
		return l.Designators
	}
	name := fmt.Sprintf("row-%d", l.Row)
	for _, text := range []string{l.Number, l.MPN, l.Description, l.Value} {
		if text = placeNamed(text); text != "" {
			name = clipped(text)
			break
		}
	}
	prefix := ""
	if len(l.inside) > 0 {
		prefix = l.inside[0] + "/"
	}
	return []string{n.named.Free(prefix+name, dashed)}
}

// dashed is how the second place of a name is called.
func dashed(name string, n int) string { return fmt.Sprintf("%s-%d", name, n) }

// within are the variants of a list that another has too.
func within(list, outer []string) []string {
	if list == nil {
		return outer
	}
	return slices.DeleteFunc(slices.Clone(list), func(n string) bool { return !slices.Contains(outer, n) })
}

// times is how often one board takes what a line is part of.
func (l *Line) times() int64 {
	if !l.nested {
		return 1
	}
	return l.Times
}

// Often is how often one board takes the sub-assembly that a line is part of; 0 where it is part of none, or of one that is there once.
func (l Line) Often() int64 {
	if l.times() == 1 {
		return 0
	}
	return l.Times
}

// Own is how many designators are written in the line, of one piece of the sub-assembly that it is part of.
func (l *Line) Own() int {
	if l.nested || l.Assembly {
		return l.own
	}
	return len(l.Designators)
}
