package bom

import (
	"cmp"
	"fmt"
	"math/bits"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/headings"
)

// A BOM may tell by levels what is part of what: a row with deeper rows below it is a sub-assembly, which is made of them. What it is made of is taken as often as it
// is, and its designators stand behind its own: R5 of A2 is A2/R5.

// mostPlaces is how many places of a sub-assembly are told apart; of more, its parts are counted, and stand behind the first.
const mostPlaces = 50

// mostTimes is the most pieces of a part that one board can take by way of sub-assemblies.
const mostTimes = 1_000_000_000

// levelNames head columns of levels, in five languages.
var levelNames = wordSet("level|levels|lvl|lev|bom level|indent|indent level|structure level|depth|stufe|ebene|stücklistenebene|strukturstufe|gliederungsebene|niveau|niveaux|nivel|nivel bom|livello|livello bom")

// outlineNames head columns that may number rows as "1.2.3".
var outlineNames = wordSet("item|item no|item number|pos|position|position no|no|find number|find no|line|line no|line number|index|pos nr|posten|repère|partida|voce")

var (
	dotted  = regexp.MustCompile(`^([.\-–>\s]*)([0-9]{1,2})$`)          // 2, ..2, - - 2
	outline = regexp.MustCompile(`^[0-9]{1,5}(?:[.\-][0-9]{1,5})*\.?$`) // 1, 1.2, 1.2.3
)

// levelOf reads a cell of a column of levels: "2", "..2", or the number of a row in an outline, "1.2.1", whose segments count.
func levelOf(cell string, byOutline bool) (level int, ok bool) {
	cell = strings.TrimSpace(cell)
	if byOutline {
		if !outline.MatchString(cell) {
			return 0, false
		}
		return len(segments(cell)), true
	}
	if m := nothing.FindStringSubmatch(cell); m != nil { // 2.0: a number of a workbook
		cell = m[1]
	}
	m := dotted.FindStringSubmatch(cell)
	if m == nil {
		return 0, false
	}
	n, err := strconv.Atoi(m[2])
	return n, err == nil
}

func segments(cell string) []string {
	return strings.FieldsFunc(cell, func(r rune) bool { return r == '.' || r == '-' })
}

// outlined says whether the cells of a column number its rows as an outline: "1", "1.1", "1.2", "2", with more than one segment somewhere. Decimals ("1.0") are none.
func outlined(sample [][]string, at int) bool {
	deep, filled := false, 0
	for _, row := range sample {
		if at >= len(row) || strings.TrimSpace(row[at]) == "" {
			continue
		}
		cell := strings.TrimSpace(row[at])
		if !outline.MatchString(cell) {
			return false
		}
		filled++
		s := segments(cell)
		deep = deep || len(s) > 1 && s[len(s)-1] != "0"
	}
	return deep && filled > 1
}

// findLevels gives the column of levels its role.
func findLevels(c Columns, sample [][]string) {
	for i, col := range c {
		p := headings.Plain(col.Heading)
		if col.Role != "" && col.Role != Remark && col.Role != Fact || strings.HasSuffix(col.Because, " said so") {
			continue
		}
		if !levelNames[p] && !(outlineNames[p] && outlined(sample, col.At)) {
			continue
		}
		numbers, different := 0, map[string]bool{}
		for _, row := range sample {
			if col.At < len(row) && strings.TrimSpace(row[col.At]) != "" {
				_, plain := levelOf(row[col.At], false)
				_, deep := levelOf(row[col.At], true)
				if !plain && !deep {
					numbers = -len(sample) - 1
				}
				numbers++
				different[strings.TrimSpace(row[col.At])] = true
			}
		}
		if numbers <= 0 { // words: "Level: high"
			continue
		}
		c[i].Role, c[i].Meaning, c[i].Param, c[i].Unit = Level, ACount, "", ""
		c[i].Because = "its heading says so, and its cells are levels"
		return
	}
}

// nesting is what the lines above make of those below them.
type nesting struct {
	lines  []Line
	levels []int
	root   int             // the line that is the board itself; -1: none
	named  map[string]bool // places of sub-assemblies without designators
	grown  int             // designators so far
}

// Nest reads the levels of a BOM's lines, in their order: which are sub-assemblies, what stands below them, and how often one board takes it. What is not plain, such
// as a level that jumps, is said of the line.
func Nest(lines []Line, c Columns) {
	at, ok := c.At(Level)
	if !ok {
		return
	}
	cell := func(i int) string {
		if at < len(lines[i].Cells) {
			return strings.TrimSpace(lines[i].Cells[at])
		}
		return ""
	}
	byOutline := false
	for i := range lines {
		s := segments(cell(i))
		byOutline = byOutline || len(s) > 1 && s[len(s)-1] != "0" && outline.MatchString(cell(i)) && !strings.HasPrefix(cell(i), "-")
	}
	n := nesting{lines: lines, levels: make([]int, len(lines)), root: -1, named: map[string]bool{}}
	least, ofLeast := 1<<30, 0
	for i := range lines {
		level, ok := levelOf(cell(i), byOutline)
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
		lines[i].own = len(lines[i].Designators)
		n.grown += lines[i].own
	}
	if ofLeast == 1 && n.levels[0] == least && len(lines) > 1 && len(lines[0].Designators) == 0 {
		n.root = 0
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
	l.LevelAsk = cmp.Or(l.LevelAsk, above.LevelAsk) // what is not plain of the assembly is not plain of its parts
	if k == n.root {
		return
	}
	if above.places == nil {
		above.places = n.placesOf(above)
	}
	l.inside = above.places
	places := above.places
	if n.grown += (len(places) - 1) * len(l.Designators); n.grown > mostGrown {
		n.grown -= (len(places) - 1) * len(l.Designators)
		places = []string{places[0] + "…"}
	}
	var out []string
	for _, p := range places {
		for _, d := range l.Designators {
			out = append(out, p+"/"+d)
		}
	}
	l.Designators = out
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
		if text = strings.Join(strings.Fields(strings.ReplaceAll(text, "/", "-")), "-"); text != "" {
			name = clipped(text)
			break
		}
	}
	prefix := ""
	if len(l.inside) > 0 {
		prefix = l.inside[0] + "/"
	}
	place := prefix + name
	for k := 2; n.named[place]; k++ {
		place = fmt.Sprintf("%s%s-%d", prefix, name, k)
	}
	n.named[place] = true
	return []string{place}
}

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
