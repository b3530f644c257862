package cabinet

import (
	"fmt"
	"strings"
)

// Pattern builds a description or a name from parameters. {key} stands for a value in short form, {key as marking} for
// its marking code (IEC 60062), {key in mil} for it in a unit; {@mpn} and {@manufacturer} stand for the first source. A
// stretch in [square brackets] vanishes, fixed words and all, when none of its values is there.
// "RES {resistance}[ {tolerance}][, {case}]".
type Pattern struct{ nodes []node }

// Keys of patterns that are no parameters.
const (
	KeyMPN          = "@mpn"
	KeyManufacturer = "@manufacturer"
)

// PatternKey is one parameter that a pattern names, and where.
type PatternKey struct {
	Key  string
	Unit string // to show it in; "marking" for the marking code; blank: whichever prefix suits
	At   int    // character, from 1
}

type node struct {
	text  string
	key   *PatternKey
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
			k := &PatternKey{Key: strings.TrimSpace(s[i+1 : i+end]), At: i + 1}
			if key, unit, ok := strings.Cut(k.Key, " in "); ok {
				k.Key, k.Unit = strings.TrimSpace(key), strings.TrimSpace(unit)
			} else if key, ok := strings.CutSuffix(k.Key, " as marking"); ok {
				k.Key, k.Unit = strings.TrimSpace(key), "marking"
			}
			if strings.ContainsAny(k.Key, " {[") || k.Key == "" {
				return nil, i, fmt.Errorf("the { at character %d of %q names no parameter: write {key}, {key in UNIT} or {key as marking}", i+1, s)
			}
			out = append(out, node{key: k})
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
func (p *Pattern) Keys() []PatternKey {
	var keys []PatternKey
	var walk func([]node)
	walk = func(ns []node) {
		for _, n := range ns {
			if n.key != nil {
				keys = append(keys, *n.key)
			}
			walk(n.group)
		}
	}
	walk(p.nodes)
	return keys
}

// Fill builds the text. Blank and unread values count as missing.
func (p *Pattern) Fill(values map[string]Value) string {
	return p.FillFrom(func(key string) Value { return values[key] })
}

// FillFrom builds the text from whoever knows the values.
func (p *Pattern) FillFrom(value func(key string) Value) string {
	s, _ := fill(p.nodes, value)
	return strings.Join(strings.Fields(s), " ")
}

func fill(ns []node, value func(string) Value) (string, bool) {
	var b strings.Builder
	any := false
	for _, n := range ns {
		switch {
		case n.group != nil:
			if s, ok := fill(n.group, value); ok {
				b.WriteString(s)
				any = true
			}
		case n.key != nil:
			if text := n.key.short(value(n.key.Key)); text != "" {
				any = true
				b.WriteString(text)
			}
		default:
			b.WriteString(n.text)
		}
	}
	return b.String(), any
}

// short writes a value as a pattern wants it; "" for what is blank or was never read.
func (k *PatternKey) short(v Value) string {
	switch {
	case v.Type == Raw:
		return ""
	case v.Type != Measure:
		return v.String()
	case k.Unit == "marking":
		if m := v.Measure.Marking(); m != "" {
			return m
		}
	case k.Unit != "":
		if text, ok := v.Measure.Bare().In(k.Unit); ok {
			return strings.ReplaceAll(text, " ", "")
		}
	}
	return v.Measure.Short()
}

// rename returns the pattern with a parameter under its new key.
func (p *Pattern) rename(from, to string) {
	var walk func([]node)
	walk = func(ns []node) {
		for _, n := range ns {
			if n.key != nil && n.key.Key == from {
				n.key.Key = to
			}
			walk(n.group)
		}
	}
	walk(p.nodes)
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
			case n.key != nil && n.key.Unit == "marking":
				b.WriteString("{" + n.key.Key + " as marking}")
			case n.key != nil && n.key.Unit != "":
				b.WriteString("{" + n.key.Key + " in " + n.key.Unit + "}")
			case n.key != nil:
				b.WriteString("{" + n.key.Key + "}")
			default:
				b.WriteString(n.text)
			}
		}
	}
	walk(p.nodes)
	return b.String()
}
