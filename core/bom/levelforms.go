package bom

import (
	"regexp"
	"strconv"
	"strings"

	"golang.org/x/text/unicode/norm"

	"jollydrawer/core/headings"
)

// Files write how deep a line stands in many ways: as a number, with a word or signs before it, as signs alone, as the number of the row in an outline, or in Roman
// numbers. One column is written in one way, which is the one that reads most of its cells.

// levelNames head columns of levels, in five languages.
var levelNames = wordSet("level|levels|lvl|lev|bom level|indent|indent level|structure level|depth|stufe|ebene|stücklistenebene|strukturstufe|gliederungsebene|niveau|niveaux|nivel|nivel bom|livello|livello bom|hierarchy|hierarchy level|hierarchie|baumstufe")

// outlineNames head columns that may number rows as "1.2.3".
var outlineNames = wordSet("item|item no|item number|pos|position|position no|no|find number|find no|line|line no|line number|index|pos nr|posten|repère|partida|voce")

// levelForm is a way of writing levels.
type levelForm struct {
	outline bool // its cells are numbers of rows, whose segments count
	read    func(cell string) (level int, ok bool)
}

var (
	numbered = regexp.MustCompile(`^((?:[.>→\s]|[\-–]{2,}|[\-–]\s)*|(?i:l|level|lvl|stufe|ebene|niveau|nivel|livello|st|n)\.?\s*)([0-9]{1,2})(?:[.,]0+|\.|\)|(?i:st|nd|rd|th))?$`) // 2, 2.0, ..2, L2, Level 2, 2nd
	outline  = regexp.MustCompile(`^(?:[0-9]{1,5}|[A-Z]{1,2})(?:[.\-/][0-9]{1,5})*[.)]?$`)                                                                                         // 1, 1.2, A.2.3
)

var levelForms = []levelForm{
	{read: func(cell string) (int, bool) {
		m := numbered.FindStringSubmatch(cell)
		if m == nil {
			return 0, false
		}
		n, err := strconv.Atoi(m[2])
		return n, err == nil
	}},
	{outline: true, read: func(cell string) (int, bool) { return len(segments(cell)), outline.MatchString(cell) }},
	{read: func(cell string) (int, bool) { // +, ++, +++
		r := []rune(cell)
		return len(r), strings.ContainsRune("+*>.-→|#~", r[0]) && strings.Trim(cell, string(r[0])) == ""
	}},
	{read: func(cell string) (int, bool) {
		n := map[string]int{"I": 1, "II": 2, "III": 3, "IV": 4, "V": 5, "VI": 6, "VII": 7, "VIII": 8}[strings.TrimSuffix(cell, ".")]
		return n, n > 0
	}},
}

// level reads a cell, as levelCell writes it.
func (f levelForm) level(cell string) (int, bool) {
	if cell == "" {
		return 0, false
	}
	return f.read(cell)
}

// levelCell is a cell of levels without blanks around it, and in plain digits.
func levelCell(cell string) string { return strings.TrimSpace(norm.NFKC.String(cell)) }

func segments(cell string) []string {
	return strings.FieldsFunc(cell, func(r rune) bool { return r == '.' || r == '-' || r == '/' || r == ')' })
}

// formOfLevels finds the way in which most of some cells are written; read is how many of those that are filled are. A way that finds no depth in them is none.
func formOfLevels(cells []string) (form levelForm, read, filled int) {
	best := -1
	for _, f := range levelForms {
		n, all, deep, letters := 0, 0, false, true
		for _, c := range cells {
			if c = levelCell(c); c == "" {
				continue
			}
			all++
			if level, ok := f.level(c); ok {
				n++
				s := segments(c)
				deep = deep || f.outline && level > 1 && strings.Trim(s[len(s)-1], "0") != ""
				letters = letters && len(s) == 1 && strings.Trim(c, "0123456789") != ""
			}
		}
		filled = all
		if f.outline && !deep { // 1, 2, 2: levels, or running numbers
			continue
		}
		if n > best {
			best, form, read = n, f, n
		}
	}
	return form, read, filled
}

// cellsAt are the cells of a column.
func cellsAt(sample [][]string, at int) []string {
	out := make([]string, 0, len(sample))
	for _, row := range sample {
		if at < len(row) {
			out = append(out, row[at])
		}
	}
	return out
}

// findLevels gives the column that tells what is part of what its role: one of levels, or one that names what a line is part of.
func findLevels(c Columns, sample [][]string) {
	give := func(i int, because string) {
		c[i].Role, c[i].Meaning, c[i].Param, c[i].Unit, c[i].Because = Level, ACount, "", "", because
	}
	free := func(col Column) bool {
		return (col.Role == "" || col.Role == Remark || col.Role == Fact || parentNames[headings.Plain(col.Heading)]) && !col.said()
	}
	for i, col := range c {
		p := headings.Plain(col.Heading)
		if !free(col) || !levelNames[p] && !outlineNames[p] {
			continue
		}
		form, read, filled := formOfLevels(cellsAt(sample, col.At))
		switch {
		case levelNames[p] && read > 0 && read*2 >= filled, outlineNames[p] && form.outline && read > 1 && read == filled:
			give(i, "its heading says so, and its cells are levels")
			return
		}
	}
	for i, col := range c {
		if !free(col) || !parentNames[headings.Plain(col.Heading)] {
			continue
		}
		if named, filled := namesRows(c, sample, col.At); named > 0 && named*2 >= filled {
			give(i, "its heading says so, and its cells name other rows")
			return
		}
	}
}
