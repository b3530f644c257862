package bom

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// node is a line of a made structure: a part, or what it is made of.
type node struct {
	part     string // of the house; blank: a sub-assembly
	quantity int
	named    []string // designators
	below    []*node
}

// made draws a structure a few levels deep.
func madeNodes(t *rapid.T, deep int, next *int) (out []*node) {
	for range rapid.IntRange(1, 4).Draw(t, "lines") {
		n := &node{quantity: rapid.IntRange(1, 5).Draw(t, "quantity")}
		*next++
		if deep > 0 && rapid.IntRange(0, 2).Draw(t, "kind") == 0 {
			if n.below = madeNodes(t, deep-1, next); rapid.Bool().Draw(t, "named") {
				for k := range n.quantity {
					n.named = append(n.named, fmt.Sprintf("A%d%d", *next, k))
				}
			}
		} else {
			n.part = rapid.SampledFrom([]string{"R-001", "R-002", "R-003", "R-005", "R-006"}).Draw(t, "part")
			for k := range n.quantity {
				n.named = append(n.named, fmt.Sprintf("R%d", *next*10+k))
			}
		}
		out = append(out, n)
	}
	return out
}

// takes counts what a structure takes of each part, as one would on paper.
func takes(list []*node, times int, out map[string]int64) map[string]int64 {
	for _, n := range list {
		if n.part != "" {
			out[n.part] += int64(times * n.quantity)
		}
		takes(n.below, times*n.quantity, out)
	}
	return out
}

// flat writes a structure as rows: level, designators, quantity, number, description.
func flat(list []*node, level int, number []int, cell func(level int, number []int) string) (rows [][]string) {
	for i, n := range list {
		at := append(slices.Clone(number), i+1)
		what := "sub-assembly of " + strconv.Itoa(len(n.below))
		rows = append(rows, []string{cell(level, at), strings.Join(n.named, ", "), strconv.Itoa(n.quantity), n.part, map[bool]string{true: "", false: what}[n.part != ""]})
		rows = append(rows, flat(n.below, level+1, at, cell)...)
	}
	return rows
}

func TestStructuresTakeWhatTheyTakeOnPaper(t *testing.T) {
	lib, cab := house(t)
	outlineOf := func(_ int, number []int) string {
		var s []string
		for _, n := range number {
			s = append(s, strconv.Itoa(n))
		}
		return strings.Join(s, ".")
	}
	rapid.Check(t, func(t *rapid.T) {
		next := 0
		tree := append(madeNodes(t, 3, &next), &node{quantity: 2, below: []*node{{part: "R-001", quantity: 1, named: []string{"R9000"}}}})
		form := rapid.SampledFrom([]string{"numbers", "from 0", "dots", "decimals", "outline", "item", "with the board", "words", "signs", "roman", "letters", "slashes", "wide", "parents"}).Draw(t, "form")
		head, cell, first := "Level", func(level int, _ []int) string { return strconv.Itoa(level) }, 1
		switch form {
		case "from 0":
			first = 0
		case "dots":
			cell = func(level int, _ []int) string { return strings.Repeat(".", level) + strconv.Itoa(level) }
		case "decimals":
			cell = func(level int, _ []int) string { return strconv.Itoa(level) + ".0" }
		case "words":
			before := rapid.SampledFrom([]string{"L%d", "Level %d", "lvl %d", "Stufe %d", "Niveau %d", "L.%d", "%d)", "%d."}).Draw(t, "word")
			cell = func(level int, _ []int) string { return fmt.Sprintf(before, level) }
		case "signs":
			sign := rapid.SampledFrom([]string{"+", "*", ">", ".", "-", "→", "|"}).Draw(t, "sign")
			cell = func(level int, _ []int) string { return strings.Repeat(sign, level) }
		case "roman":
			cell = func(level int, _ []int) string { return []string{"I", "II", "III", "IV", "V"}[level-1] }
		case "wide":
			cell = func(level int, _ []int) string { return string([]rune("０１２３４５")[level]) }
		case "letters":
			cell = func(_ int, number []int) string {
				at := outlineOf(0, number)
				return string(rune('A'+number[0]-1)) + strings.TrimPrefix(at, strconv.Itoa(number[0]))
			}
		case "slashes":
			cell = func(_ int, number []int) string { return strings.ReplaceAll(outlineOf(0, number), ".", "/") }
		case "outline", "parents":
			cell = outlineOf
		case "item":
			head, cell = rapid.SampledFrom([]string{"Item", "Pos", "Find number"}).Draw(t, "heading"), outlineOf
		}
		rows := flat(tree, first, nil, cell)
		if form == "with the board" {
			rows = append([][]string{{"0", "", "1", "", "Tide logger"}}, rows...)
		}
		header := []string{head, "Designator", "Quantity", "Part number", "Description"}
		if form == "parents" { // each row is named, and names the one that it is part of
			header[0] = rapid.SampledFrom([]string{"Parent", "Next assembly", "Übergeordnete Baugruppe", "Parent item"}).Draw(t, "heading")
			header = append(header, "Item")
			for i, r := range rows {
				at := r[0]
				above := ""
				if k := strings.LastIndexByte(at, '.'); k > 0 {
					above = "no-" + at[:k]
				}
				rows[i] = append([]string{above}, append(slices.Clone(r[1:]), "no-"+at)...)
			}
			if rapid.Bool().Draw(t, "order") { // rows need not stand below what they are part of
				slices.Reverse(rows)
			}
		}
		lines, cols := readAll(t, cab, header, rows)
		if _, ok := cols.At(Level); !ok {
			t.Fatalf("no levels in %q: %+v", rows, cols)
		}
		vs := Reconcile(lines, lib, cab, Known{Columns: cols})
		for _, v := range vs {
			if v.Line.LevelAsk != "" || slices.Contains(causesOf(v), "designator-twice") || slices.Contains(causesOf(v), "quantity") {
				t.Fatalf("%q: %q %q %v", rows, v.Line.Cells, v.Line.LevelAsk, v.Findings)
			}
		}
		want, got := takes(tree, 1, map[string]int64{}), Subs{}.Each(vs)
		if fmt.Sprint(want) != fmt.Sprint(got) {
			t.Fatalf("%q: takes %v and is read as %v", rows, want, got)
		}
		total := 0
		for _, n := range want {
			total += int(n)
		}
		pieces := 0
		for _, p := range PinAll(vs) {
			if p.Part != nil {
				pieces += p.Quantity
			}
		}
		assert.Equal(t, total, pieces)
	})
}

func TestWhatStandsWhere(t *testing.T) {
	lib, cab := house(t)
	lines, cols := readAll(t, cab, []string{"Level", "Designator", "Qty", "Number", "Description", "Fitted"}, [][]string{
		{"1", "A1, A2", "2", "", "sensor head", ""}, {"2", "R1", "1", "R-001", "", ""}, {"2", "", "3", "", "lid", ""}, {"3", "R1-R2", "2", "R-002", "", ""}, {"3", "", "0.5 m", "", "wire", ""},
		{"1", "", "1", "", "lid", "no"}, {"2", "R7", "1", "R-001", "", ""}, {"1", "R1", "1", "R-005", "", ""}, {"1", "", "1", "", "lid", ""}, {"2", "R7", "1", "R-001", "", ""}})
	vs := Reconcile(lines, lib, cab, Known{Columns: cols})
	says := []string{}
	for _, v := range vs {
		says = append(says, fmt.Sprintf("%s|%s|%d%s", v.Kind, strings.Join(v.Line.Designators, " "), v.Line.Pieces(), v.Line.Needs()))
	}
	assert.Equal(t, []string{"sub-assembly|A1 A2|2", "linked|A1/R1 A2/R1|2", "sub-assembly||6", "linked|A1/lid/R1 A1/lid/R2|12", "not in the library||03 m",
		"not fitted||1", "not fitted|lid/R7|1", "linked|R1|1", "sub-assembly||1", "linked|lid-2/R7|1"}, says)
	for _, v := range vs {
		assert.NotContains(t, causesOf(v), "designator-twice")
		assert.NotContains(t, causesOf(v), "quantity")
	}
	table, _ := AssemblySheet(PinAll(vs))
	placed := map[string]string{}
	for _, r := range table[1:] {
		placed[r[0]] += r[2]
	}
	assert.Equal(t, []string{"1", "6", "6"}, []string{placed["A1/R1"], placed["A1/lid/R1"], placed["A1/lid/R2"]}, "three lids on each of two heads, whose places are not told apart")
}

// What is not plain is said, and no revision is made of it as a promise.
// stairs are so many rows, each in the one above.
func stairs(n int) (rows [][]string) {
	for i := range n {
		rows = append(rows, []string{fmt.Sprint(i + 1), fmt.Sprint("A", i+1), "1"})
	}
	return rows
}

func TestLevelsThatAreNotPlain(t *testing.T) {
	lib, cab := house(t)
	for name, c := range map[string]struct {
		head string
		rows [][]string // level, designator, quantity
		ask  []string   // what the lines that are not plain say
	}{
		"a jump":                              {"Level", [][]string{{"1", "A1", "2"}, {"3", "R1", "1"}, {"1", "R2", "1"}}, []string{"the level jumps from 1 to 3"}},
		"deeper before the first":             {"Level", [][]string{{"2", "R1", "1"}, {"1", "R2", "1"}, {"1", "R3", "1"}}, []string{"there is no line of level 1 above it"}},
		"a blank among them":                  {"Level", [][]string{{"1", "A1", "1"}, {"2", "R1", "1"}, {"", "R2", "1"}, {"2", "R3", "1"}}, []string{`"" is no level: the line is taken for a part of the board itself`, "there is no line of level 1 above it"}},
		"no quantity of the assembly":         {"Level", [][]string{{"1", "", ""}, {"2", "R1", "1"}, {"1", "R2", "1"}}, []string{"how many of the sub-assembly in row 2 are taken is not said in pieces"}},
		"metres of an assembly":               {"Level", [][]string{{"1", "", "2 m"}, {"2", "R1", "1"}, {"1", "R2", "1"}}, []string{"how many of the sub-assembly in row 2 are taken is not said in pieces"}},
		"too many":                            {"Level", [][]string{{"1", "", "900000"}, {"2", "", "900000"}, {"3", "R1", "1"}, {"1", "R2", "1"}}, []string{"a board would take it more than 1000000000 times"}},
		"levels without an end":               {"Level", stairs(mostLevels + 3), []string{"it is more than 40 levels down", "it is more than 40 levels down"}},
		"an outline with a hole":              {"Level", [][]string{{"1", "A1", "1"}, {"1.1", "R1", "1"}, {"2.1", "R2", "1"}, {"3", "R3", "1"}}, []string{"there is no line 2 above it"}},
		"an outline out of its place":         {"Level", [][]string{{"1", "A1", "1"}, {"1.1", "R1", "1"}, {"2", "A2", "1"}, {"1.2", "R2", "1"}}, []string{"there is no line 1 above it"}},
		"a number that lost its nought":       {"Item", [][]string{{"1", "A1", "1"}, {"1.1", "R1", "1"}, {"1.9", "R2", "1"}, {"1.1", "R3", "1"}}, []string{"the number 1.1 stands twice: a cell that was written as a number loses its last 0"}},
		"a negative number":                   {"Level", [][]string{{"1", "A1", "1"}, {"-2", "R1", "1"}, {"1", "R2", "1"}}, []string{`"-2" is no level: the line is taken for a part of the board itself`}},
		"half a level":                        {"Level", [][]string{{"1", "A1", "1"}, {"½", "R1", "1"}, {"1", "R2", "1"}}, []string{`"1⁄2" is no level: the line is taken for a part of the board itself`}},
		"the board itself in tens":            {"Level", [][]string{{"0", "", "10"}, {"1", "R1", "1"}, {"1", "R2", "1"}}, []string{"row 2 is the board itself, and says 10: quantities below it may be of one or of all", "row 2 is the board itself, and says 10: quantities below it may be of one or of all", "row 2 is the board itself, and says 10: quantities below it may be of one or of all"}},
		"an item that may be an alternate":    {"Item", [][]string{{"1", "R1", "1"}, {"1.1", "", "1"}, {"2", "R2", "1"}}, []string{"the item below it may be an alternate of it, or what it is made of", "the item below it may be an alternate of it, or what it is made of"}},
		"what is not plain above is so below": {"Level", [][]string{{"1", "A1", "2"}, {"3", "A2", "1"}, {"4", "R1", "1"}, {"1", "R2", "1"}}, []string{"the level jumps from 1 to 3", "the level jumps from 1 to 3"}},
	} {
		var rows [][]string
		for _, r := range c.rows {
			rows = append(rows, append(slices.Clone(r), "4k7"))
		}
		lines, cols := readAll(t, cab, []string{c.head, "Designator", "Quantity", "Value"}, rows)
		var asks []string
		for _, l := range lines {
			if l.LevelAsk != "" {
				asks = append(asks, l.LevelAsk)
			}
		}
		assert.Equal(t, c.ask, asks, name)
		hindered := slices.ContainsFunc(Hindrances(Reconcile(lines, lib, cab, Known{Columns: cols})), func(h Hindrance) bool { return h.Cause == "level-unclear" })
		assert.True(t, hindered, name)
	}
}

// A line that names what it is part of is a part of that, unless it cannot be.
func TestLinesThatNameWhatTheyArePartOf(t *testing.T) {
	_, cab := house(t)
	for name, c := range map[string]struct {
		rows  [][]string // number, parent, quantity, MPN
		times []int64
		ask   string
	}{
		"plain":                    {[][]string{{"P", "", "2", ""}, {"Q", "P", "3", ""}, {"S", "Q", "1", ""}}, []int64{1, 2, 6}, ""},
		"below before above":       {[][]string{{"S", "Q", "1", ""}, {"Q", "P", "3", ""}, {"P", "", "2", ""}}, []int64{6, 2, 1}, ""},
		"two that hold each other": {[][]string{{"P", "Q", "2", ""}, {"Q", "P", "3", ""}, {"S", "", "1", ""}}, nil, "it is part of itself, by way of row"},
		"one that holds itself":    {[][]string{{"P", "P", "2", ""}, {"Q", "P", "3", ""}}, nil, "it is part of itself, by way of row 2"},
		"a name that nothing has":  {[][]string{{"P", "", "2", ""}, {"Q", "P", "3", ""}, {"S", "X", "1", ""}}, nil, `no row is "X"`},
		"a name that two have":     {[][]string{{"P", "", "2", ""}, {"P", "", "1", ""}, {"Q", "P", "3", ""}}, nil, `"P" stands in rows 2 and 3`},
		"bought, and made":         {[][]string{{"P", "", "2", "TW-1"}, {"Q", "P", "3", ""}}, nil, "it may be bought as it is, or made of them"},
	} {
		var rows [][]string
		for i, r := range c.rows {
			rows = append(rows, append(slices.Clone(r), fmt.Sprintf("X%d", i)))
		}
		lines, _ := readAll(t, cab, []string{"Number", "Parent", "Qty", "MPN", "Designator"}, rows)
		var times []int64
		ask := ""
		for _, l := range lines {
			times, ask = append(times, l.times()), cmp.Or(ask, l.LevelAsk)
		}
		assert.Contains(t, ask, c.ask, name)
		if c.ask == "" {
			assert.Empty(t, ask, name)
			assert.Equal(t, c.times, times, name)
		}
	}
}

// Where no column tells levels, texts that are written further in than the row above them are asked about.
func TestIndentedTextsAreAskedAbout(t *testing.T) {
	_, cab := house(t)
	for name, c := range map[string]struct {
		cells []string
		asked []bool
	}{
		"blanks":    {[]string{"P-100", "  Q-200", "  Q-201", "S-300"}, []bool{false, true, true, false}},
		"tabs":      {[]string{"P-100", "\tQ-200", "S-300"}, []bool{false, true, false}},
		"dots":      {[]string{"P-100", ".Q-200", "..Q-201", "S-300"}, []bool{false, true, true, false}},
		"one blank": {[]string{"P-100", " Q-200", "S-300"}, []bool{false, false, false}},
		"all alike": {[]string{"  P-100", "  Q-200", "  S-300"}, []bool{false, false, false}},
		"a number":  {[]string{"0.5", ".25", "1"}, []bool{false, false, false}},
	} {
		var rows [][]string
		for i, cell := range c.cells {
			rows = append(rows, []string{fmt.Sprintf("X%d", i), "1", cell})
		}
		lines, _ := readAll(t, cab, []string{"Designator", "Quantity", "Drawing"}, rows)
		var asked []bool
		for _, l := range lines {
			asked = append(asked, l.LevelAsk != "")
		}
		assert.Equal(t, c.asked, asked, name)
	}
}

func TestWhatIsNoColumnOfLevels(t *testing.T) {
	_, cab := house(t)
	for name, c := range map[string]struct {
		head  string
		cells []string
	}{
		"words":             {"Level", []string{"high", "low", "1"}},
		"running numbers":   {"Item", []string{"1", "2", "3"}},
		"running decimals":  {"Item", []string{"1.0", "2.0", "3.0"}},
		"empty":             {"Level", []string{"", "", ""}},
		"words in an item":  {"Item", []string{"1.1", "note", "1.2"}},
		"another heading":   {"Tolerance", []string{"1", "2", "2"}},
		"level of moisture": {"Moisture level", []string{"1", "3", "3"}},
	} {
		var rows [][]string
		for i, cell := range c.cells {
			rows = append(rows, []string{cell, fmt.Sprintf("R%d", i+1), "1", "4k7"})
		}
		lines, cols := readAll(t, cab, []string{c.head, "Designator", "Quantity", "Value"}, rows)
		_, ok := cols.At(Level)
		assert.False(t, ok, name)
		for _, l := range lines {
			assert.Equal(t, []any{1, "", false}, []any{l.Pieces(), l.LevelAsk, l.Assembly}, name)
		}
	}
}

// A structure cannot make the service fall: the designators of a BOM are bounded, and its pieces are counted all the same.
func TestALargeStructureIsCountedAndBounded(t *testing.T) {
	_, cab := house(t)
	rows := [][]string{}
	for level := 1; level <= 8; level++ {
		var named []string
		for k := range 9 {
			named = append(named, fmt.Sprintf("A%d%d", level, k))
		}
		rows = append(rows, []string{strconv.Itoa(level), strings.Join(named, " "), "9", ""})
	}
	rows = append(rows, []string{"9", "R1 R2", "2", "4k7"})
	lines, _ := readAll(t, cab, []string{"Level", "Designator", "Quantity", "Value"}, rows)
	last := lines[len(lines)-1]
	assert.Equal(t, 2*9*9*9*9*9*9*9*9, last.Pieces())
	n := 0
	for _, l := range lines {
		n += len(l.Designators)
	}
	assert.Less(t, n, mostGrown)
}
