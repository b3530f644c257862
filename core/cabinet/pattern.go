package cabinet

import (
	"fmt"
	"strings"
)

// Pattern builds a description from parameters. {key} stands for a value in short form; a stretch in [square
// brackets] vanishes, fixed words and all, when none of its values is there. "RES {resistance}[ {tolerance}][, {case}]".
type Pattern struct{ nodes []node }

type node struct {
	text  string
	key   string
	group []node
}

// ParsePattern reads a pattern; the error names the place.
func ParsePattern(s string) (*Pattern, error) {
	nodes, end, err := parseNodes(s, 0, false)
	if err == nil && end != len(s) {
		err = fmt.Errorf("a ] without its [ at character %d of %q", end+1, s)
	}
	if err != nil {
		return nil, err
	}
	return &Pattern{nodes}, nil
}

func parseNodes(s string, i int, inside bool) ([]node, int, error) {
	var out []node
	from := i
	flush := func() {
		if i > from {
			out = append(out, node{text: s[from:i]})
		}
	}
	for i < len(s) {
		switch s[i] {
		case '{':
			flush()
			end := strings.IndexByte(s[i:], '}')
			if end < 2 {
				return nil, i, fmt.Errorf("the { at character %d of %q names no parameter", i+1, s)
			}
			out = append(out, node{key: s[i+1 : i+end]})
			i += end + 1
			from = i
		case '[':
			flush()
			if inside {
				return nil, i, fmt.Errorf("a [ inside another at character %d of %q", i+1, s)
			}
			group, end, err := parseNodes(s, i+1, true)
			if err == nil && (end >= len(s) || s[end] != ']') {
				err = fmt.Errorf("the [ at character %d of %q is not closed", i+1, s)
			}
			if err != nil {
				return nil, i, err
			}
			out = append(out, node{group: group})
			i = end + 1
			from = i
		case ']':
			flush()
			return out, i, nil
		default:
			i++
		}
	}
	flush()
	return out, i, nil
}

// Keys lists the parameters the pattern names.
func (p *Pattern) Keys() []string {
	var keys []string
	var walk func([]node)
	walk = func(ns []node) {
		for _, n := range ns {
			if n.key != "" {
				keys = append(keys, n.key)
			}
			walk(n.group)
		}
	}
	walk(p.nodes)
	return keys
}

// Fill builds the text. Blank and unread values count as missing.
func (p *Pattern) Fill(values map[string]Value) string {
	s, _ := fill(p.nodes, values)
	return strings.Join(strings.Fields(s), " ")
}

func fill(ns []node, values map[string]Value) (string, bool) {
	var b strings.Builder
	any := false
	for _, n := range ns {
		switch {
		case n.group != nil:
			if s, ok := fill(n.group, values); ok {
				b.WriteString(s)
				any = true
			}
		case n.key != "":
			if v := values[n.key]; !v.IsBlank() && v.Type != Raw {
				any = true
				if v.Type == Measure {
					b.WriteString(v.Measure.Short())
				} else {
					b.WriteString(v.String())
				}
			}
		default:
			b.WriteString(n.text)
		}
	}
	return b.String(), any
}

// String gives the pattern back as it was written.
func (p *Pattern) String() string {
	var b strings.Builder
	var walk func([]node)
	walk = func(ns []node) {
		for _, n := range ns {
			switch {
			case n.group != nil:
				b.WriteByte('[')
				walk(n.group)
				b.WriteByte(']')
			case n.key != "":
				b.WriteString("{" + n.key + "}")
			default:
				b.WriteString(n.text)
			}
		}
	}
	walk(p.nodes)
	return b.String()
}
