// Package edif reads and writes schematic symbols in EDIF 2 0 0 (EIA-548): the cells of a library with their ports, symbol
// views, figures and properties. Netlists, pages and layouts in a file are passed over.
package edif

import (
	"fmt"
	"strings"

	"jollydrawer/formats/said"
)

// Limits on a file: deeper nesting or more nodes than any real library has.
const (
	maxDepth = 200
	maxNodes = 4_000_000
)

// node is a list or an atom of the file.
type node struct {
	list  []*node // of a list; its first member is the keyword
	text  string  // of an atom
	quote bool    // the atom was a string in quotes
	line  int
	read  bool // of a list: somebody took it in
}

// key is a list's keyword in lower case: EDIF does not tell cases apart.
func (n *node) key() string {
	if n == nil || len(n.list) == 0 || n.list[0].list != nil {
		return ""
	}
	return strings.ToLower(n.list[0].text)
}

// arg returns the member after the keyword, or nothing.
func (n *node) arg(i int) *node {
	if n == nil || i+1 >= len(n.list) {
		return nil
	}
	return n.list[i+1]
}

// child returns the first list of a keyword, which is read with that.
func (n *node) child(key string) *node {
	if n == nil {
		return nil
	}
	for _, c := range n.list {
		if c.key() == key {
			c.read = true
			return c
		}
	}
	return nil
}

// all calls f for each list of a keyword, which is read with that.
func (n *node) all(key string, f func(*node)) {
	if n == nil {
		return
	}
	for _, c := range n.list {
		if c.key() == key {
			c.read = true
			f(c)
		}
	}
}

// quiet takes a list in with all that is in it.
func (n *node) quiet() {
	if n != nil {
		n.read = true
		for _, c := range n.list {
			c.quiet()
		}
	}
}

// unread lists what below n nobody took in, leaving out what says nothing of a symbol.
func (n *node) unread() (out []*node) {
	for i, c := range n.list {
		switch {
		case c.list == nil, i == 0, empty[c.key()]:
		case !c.read:
			out = append(out, c)
		default:
			out = append(out, c.unread()...)
		}
	}
	return out
}

// left says of each list below n that nobody took in, that it was not read.
func (n *node) left() (out []string) {
	for _, c := range n.unread() {
		out = append(out, fmt.Sprintf("line %d: %s was not read", c.line, said.Printable(c.key())))
	}
	return out
}

// empty are lists that say nothing of what a symbol is or how it is wired: remarks, how a tool shows things, and electrical data of
// simulators.
var empty = map[string]bool{"comment": true, "status": true, "userdata": true, "celltype": true, "viewtype": true, "color": true, "visible": true, "justify": true, "bordercolor": true,
	"borderpattern": true, "fillcolor": true, "portdelay": true, "acload": true, "dcfaninload": true, "dcfanoutload": true, "dcmaxfanin": true, "dcmaxfanout": true, "unused": true,
	"boundingbox": true, "timing": true, "simulate": true, "owner": true, "viewmap": true, "permutable": true, "pathdelay": true, "endtype": true, "cornertype": true, "borderwidth": true}

// parse reads the whole file. It keeps its own stack, so that no nesting can exhaust the program's.
func parse(raw []byte) (*node, error) {
	var stack []*node
	line, count := 1, 0
	var root *node
	add := func(n *node) error {
		if count++; count > maxNodes {
			return fmt.Errorf("line %d: the file has more than %d words and lists, more than any library", line, maxNodes)
		}
		if len(stack) == 0 {
			if root != nil {
				return fmt.Errorf("line %d: there is more after the last bracket; an EDIF file is one list", line)
			}
			if n.list == nil {
				return fmt.Errorf("line %d: the file does not begin with a bracket; an EDIF file is one list", line)
			}
			root = n
			return nil
		}
		top := stack[len(stack)-1]
		top.list = append(top.list, n)
		return nil
	}
	for i := 0; i < len(raw); {
		c := raw[i]
		switch {
		case c == '\n':
			line++
			i++
		case c == ' ' || c == '\t' || c == '\r':
			i++
		case c == '(':
			if len(stack) >= maxDepth {
				return nil, fmt.Errorf("line %d: the brackets are nested more than %d deep", line, maxDepth)
			}
			n := &node{list: []*node{}, line: line}
			if err := add(n); err != nil {
				return nil, err
			}
			stack = append(stack, n)
			i++
		case c == ')':
			if len(stack) == 0 {
				return nil, fmt.Errorf("line %d: a bracket closes that was never opened", line)
			}
			stack = stack[:len(stack)-1]
			i++
		case c == '"':
			end := i + 1
			for end < len(raw) && raw[end] != '"' {
				if raw[end] == '\n' {
					line++
				}
				end++
			}
			if end == len(raw) {
				return nil, fmt.Errorf("line %d: a text in quotes does not end", line)
			}
			if err := add(&node{text: unescape(string(raw[i+1 : end])), quote: true, line: line}); err != nil {
				return nil, err
			}
			i = end + 1
		default:
			end := i
			for end < len(raw) && !strings.ContainsRune(" \t\r\n()\"", rune(raw[end])) {
				end++
			}
			if err := add(&node{text: string(raw[i:end]), line: line}); err != nil {
				return nil, err
			}
			i = end
		}
	}
	if len(stack) > 0 {
		return nil, fmt.Errorf("the file ends while %d brackets are open; the innermost opened on line %d (%q)", len(stack), stack[len(stack)-1].line, stack[len(stack)-1].key())
	}
	if root == nil {
		return nil, fmt.Errorf("the file is empty")
	}
	return root, nil
}

// unescape reads the %…% escapes of a string: decimal codes of characters (EIA-548 clause 2.3).
func unescape(s string) string {
	if !strings.Contains(s, "%") {
		return s
	}
	var b strings.Builder
	for {
		before, rest, ok := strings.Cut(s, "%")
		b.WriteString(before)
		if !ok {
			return b.String()
		}
		codes, after, closed := strings.Cut(rest, "%")
		if !closed {
			b.WriteString("%" + rest)
			return b.String()
		}
		for _, c := range strings.Fields(codes) {
			var n int
			if _, err := fmt.Sscanf(c, "%d", &n); err == nil && n > 0 && n < 0x110000 {
				b.WriteRune(rune(n))
			}
		}
		s = after
	}
}

// escape is the other way: what is not plain ASCII goes as codes.
func escape(s string) string {
	var b strings.Builder
	for _, r := range s {
		if r < ' ' || r > '~' || r == '"' || r == '%' {
			fmt.Fprintf(&b, "%%%d%%", r)
		} else {
			b.WriteRune(r)
		}
	}
	return b.String()
}
