package cli

import (
	"fmt"
	"io"
	"strings"
	"unicode/utf8"
)

// width is what a printed table keeps within.
const width = 100

// print writes the table in columns. Where it would be wider than a line, the widest columns are cut, with an
// ellipsis, never a number or a name in the first column.
func (t table) print(w io.Writer) error {
	if len(t) == 0 {
		return nil
	}
	cols := len(t[0])
	wide := make([]int, cols)
	for _, r := range t {
		for i := range min(cols, len(r)) {
			wide[i] = max(wide[i], utf8.RuneCountInString(r[i]))
		}
	}
	total := func() int {
		n := 2 * (cols - 1)
		for _, k := range wide {
			n += k
		}
		return n
	}
	for total() > width {
		widest := -1
		for i := 1; i < cols; i++ {
			if wide[i] > 12 && (widest < 0 || wide[i] > wide[widest]) {
				widest = i
			}
		}
		if widest < 0 {
			break
		}
		wide[widest]--
	}
	var b strings.Builder
	for _, r := range t {
		line := ""
		for i := range cols {
			cell := ""
			if i < len(r) {
				cell = strings.Map(func(r rune) rune {
					if r < 0x20 || r == 0x7F { // a cell from outside must not steer the terminal
						return ' '
					}
					return r
				}, r[i])
			}
			n := utf8.RuneCountInString(cell)
			if n > wide[i] {
				cell, n = string([]rune(cell)[:wide[i]-1])+"…", wide[i]
			}
			line += cell + strings.Repeat(" ", wide[i]-n+2)
		}
		b.WriteString(strings.TrimRight(line, " ") + "\n")
	}
	_, err := fmt.Fprint(w, b.String())
	return err
}

// pairs prints what belongs to one thing, one line each; blanks are left out.
func pairs(kv ...string) table {
	t := table{}
	for i := 0; i+1 < len(kv); i += 2 {
		if kv[i+1] != "" {
			t = append(t, []string{kv[i], kv[i+1]})
		}
	}
	return t
}
