package cli

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"unicode/utf8"

	ucli "github.com/urfave/cli/v3"
	"golang.org/x/term"
)

// narrow is what a printed table keeps within where nobody looks on, and the least that it needs.
const narrow = 100

// widthOf is how wide a table may be: as wide as the terminal that it is printed on.
func widthOf(w io.Writer) int {
	if f, ok := w.(*os.File); ok && term.IsTerminal(int(f.Fd())) {
		if n, _, err := term.GetSize(int(f.Fd())); err == nil {
			return max(n, narrow)
		}
	}
	return narrow
}

// print writes the table in columns. Where it would be wider than a line, its last column runs over several lines;
// only where the other columns leave no room for that are the widest of them cut, with an ellipsis, never the first.
func (t table) print(w io.Writer) error {
	if len(t) == 0 {
		return nil
	}
	width := widthOf(w)
	cols := 0
	for _, r := range t {
		cols = max(cols, len(r))
	}
	wide := make([]int, cols)
	for _, r := range t {
		for i, c := range r {
			r[i] = plain(c)
			if len(r) > 1 || cols == 1 { // a line of its own keeps to no column
				wide[i] = max(wide[i], utf8.RuneCountInString(r[i]))
			}
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
		if len(r) == 1 && cols > 1 {
			b.WriteString(strings.Join(wrap(r[0], width), "\n") + "\n")
			continue
		}
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

// written writes what is read into a file, which is there whole or not at all, and says so.
func written(c *ucli.Command, path string, r io.Reader) error {
	tmp, err := os.CreateTemp(filepath.Dir(path), ".jolly-*")
	if err != nil {
		return fmt.Errorf("the file cannot be written: %w", err)
	}
	defer os.Remove(tmp.Name())
	n, err := io.Copy(tmp, r)
	if e := tmp.Close(); err == nil {
		err = e
	}
	if err == nil {
		err = os.Chmod(tmp.Name(), 0o644)
	}
	if err == nil {
		err = os.Rename(tmp.Name(), path)
	}
	if err != nil {
		return fmt.Errorf("the file could not be written whole, and was left out: %w", err)
	}
	return emit(c, map[string]any{"file": path, "bytes": n}, func() table {
		return table{{"Written", "Bytes"}, {path, strconv.FormatInt(n, 10)}}
	})
}
