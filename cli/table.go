package cli

import (
	"fmt"
	"io"
	"strings"
	"unicode/utf8"
)

// width is what a printed table keeps within.
const width = 100

// print writes the table in columns. Where it would be wider than a line, its last column runs over several lines;
// only where the other columns leave no room for that are the widest of them cut, with an ellipsis, never the first.
func (t table) print(w io.Writer) error {
	if len(t) == 0 {
		return nil
	}
	cols := 0
	for _, r := range t {
		cols = max(cols, len(r))
	}
	wide := make([]int, cols)
	for _, r := range t {
		for i, c := range r {
			r[i] = plain(c)
			wide[i] = max(wide[i], utf8.RuneCountInString(r[i]))
		}
	}
	last := cols - 1
	left := func() int {
		n := width
		for _, k := range wide[:last] {
			n -= k + 2
		}
		return n
	}
	for left() < min(wide[last], 40) {
		widest := -1
		for i := 1; i < last; i++ {
			if wide[i] > 12 && (widest < 0 || wide[i] > wide[widest]) {
				widest = i
			}
		}
		if widest < 0 {
			break
		}
		wide[widest]--
	}
	wide[last] = min(wide[last], max(left(), 20))
	var b strings.Builder
	for _, r := range t {
		line := ""
		for i := range last {
			cell := ""
			if i < len(r) {
				cell = r[i]
			}
			n := utf8.RuneCountInString(cell)
			if n > wide[i] {
				cell, n = string([]rune(cell)[:wide[i]-1])+"…", wide[i]
			}
			line += cell + strings.Repeat(" ", wide[i]-n+2)
		}
		indent := utf8.RuneCountInString(line)
		if len(r) == cols {
			for n, part := range wrap(r[last], wide[last]) {
				if n > 0 {
					line += "\n" + strings.Repeat(" ", indent)
				}
				line += part
			}
		}
		b.WriteString(strings.TrimRight(line, " ") + "\n")
	}
	_, err := fmt.Fprint(w, b.String())
	return err
}

// plain keeps a cell from outside from steering the terminal.
func plain(s string) string {
	return strings.Map(func(r rune) rune {
		if r < 0x20 || r == 0x7F {
			return ' '
		}
		return r
	}, s)
}

// wrap breaks a text at blanks into lines of at most n characters; a longer word stays whole.
func wrap(s string, n int) []string {
	var out []string
	line := ""
	for _, word := range strings.Fields(s) {
		if line != "" && utf8.RuneCountInString(line)+1+utf8.RuneCountInString(word) > n {
			out = append(out, line)
			line = ""
		}
		if line != "" {
			line += " "
		}
		line += word
	}
	return append(out, line)
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
