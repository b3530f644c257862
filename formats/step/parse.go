// Package step reads what a library needs to know of a STEP file (ISO 10303-21): its unit of length and the bounding box of
// its solids, and writes plain blocks. Whole shapes are left to programs that draw them.
package step

import (
	"bytes"
	"fmt"
	"strconv"
)

// Limits on a file.
const (
	MaxBytes    = 64 << 20
	maxEntities = 3_000_000
	maxDepth    = 50
)

// value is a parameter of an entity: a number, a reference, a text or enumeration, or a list.
type value struct {
	kind byte // 'n' number, '#' reference, 's' text, '.' enumeration, '(' list, 't' typed, '$' none
	num  float64
	ref  int
	text string
	list []value
}

// entity is one record of the data section; a complex one has several parts.
type entity struct {
	name   string
	params []value
	parts  []entity // of a complex entity
}

// part returns the parameters of a named part, of the entity itself or of a complex one.
func (e *entity) part(name string) ([]value, bool) {
	if e == nil {
		return nil, false
	}
	if e.name == name {
		return e.params, true
	}
	for i := range e.parts {
		if e.parts[i].name == name {
			return e.parts[i].params, true
		}
	}
	return nil, false
}

type parser struct {
	raw  []byte
	at   int
	line int
}

// Is says whether raw looks like a STEP file, whatever its name is.
func Is(raw []byte) bool {
	return bytes.Contains(raw[:min(len(raw), 512)], []byte("ISO-10303-21"))
}

func (p *parser) fail(form string, args ...any) error {
	return fmt.Errorf("line %d: %s", p.line, fmt.Sprintf(form, args...))
}

// space passes over blanks and comments.
func (p *parser) space() {
	for p.at < len(p.raw) {
		switch c := p.raw[p.at]; {
		case c == '\n':
			p.line++
			p.at++
		case c == ' ' || c == '\t' || c == '\r':
			p.at++
		case c == '/' && p.at+1 < len(p.raw) && p.raw[p.at+1] == '*':
			end := bytes.Index(p.raw[p.at+2:], []byte("*/"))
			if end < 0 {
				p.at = len(p.raw)
				return
			}
			p.line += bytes.Count(p.raw[p.at:p.at+2+end], []byte("\n"))
			p.at += end + 4
		default:
			return
		}
	}
}

func (p *parser) take(c byte) bool {
	p.space()
	if p.at < len(p.raw) && p.raw[p.at] == c {
		p.at++
		return true
	}
	return false
}

func letter(c byte) bool {
	return c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z' || c >= '0' && c <= '9' || c == '_' || c == '-'
}

func (p *parser) word() string {
	p.space()
	from := p.at
	for p.at < len(p.raw) && letter(p.raw[p.at]) {
		p.at++
	}
	return string(p.raw[from:p.at])
}

// parse reads the data section into entities by number.
func parse(raw []byte) (map[int]*entity, error) {
	p := &parser{raw: raw, line: 1}
	start := bytes.Index(raw, []byte("ENDSEC")) // of the header, whose texts may hold any word
	if start < 0 {
		return nil, fmt.Errorf("the file's header does not end: it is cut off, or no STEP file")
	}
	data := bytes.Index(raw[start:], []byte("DATA"))
	if data < 0 {
		return nil, fmt.Errorf("the file has no DATA section: it is cut off")
	}
	start += data
	p.line += bytes.Count(raw[:start], []byte("\n"))
	p.at = start + 4
	if !p.take(';') { // DATA('name',(…)); of a file with several sections is not read
		return nil, p.fail("the DATA section does not begin as ISO 10303-21 wants")
	}
	out := map[int]*entity{}
	for {
		p.space()
		if p.at >= len(p.raw) {
			return nil, p.fail("the file ends inside its DATA section: it is cut off")
		}
		if p.raw[p.at] != '#' {
			if w := p.word(); w == "ENDSEC" {
				return out, nil
			}
			return nil, p.fail("an entity does not begin with #")
		}
		p.at++
		n, err := strconv.Atoi(p.word())
		if err != nil || !p.take('=') {
			return nil, p.fail("an entity has no number")
		}
		e, err := p.entity()
		if err != nil {
			return nil, err
		}
		if !p.take(';') {
			return nil, p.fail("the entity #%d does not end with ;", n)
		}
		if len(out) >= maxEntities {
			return nil, p.fail("the file has more than %d entities", maxEntities)
		}
		out[n] = e
	}
}

func (p *parser) entity() (*entity, error) {
	if p.take('(') {
		e := &entity{}
		for !p.take(')') {
			name := p.word()
			if name == "" || !p.take('(') {
				return nil, p.fail("a complex entity has a part without a name")
			}
			params, err := p.list(0)
			if err != nil {
				return nil, err
			}
			e.parts = append(e.parts, entity{name: name, params: params})
			if len(e.parts) > 100 {
				return nil, p.fail("a complex entity has more than 100 parts")
			}
		}
		return e, nil
	}
	name := p.word()
	if name == "" || !p.take('(') {
		return nil, p.fail("an entity has no name")
	}
	params, err := p.list(0)
	return &entity{name: name, params: params}, err
}

// list reads parameters up to the closing bracket.
func (p *parser) list(depth int) ([]value, error) {
	if depth > maxDepth {
		return nil, p.fail("brackets are nested more than %d deep", maxDepth)
	}
	var out []value
	if p.take(')') {
		return out, nil
	}
	for {
		v, err := p.value(depth)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
		if p.take(')') {
			return out, nil
		}
		if !p.take(',') {
			if p.at >= len(p.raw) {
				return nil, p.fail("the file ends inside an entity: it is cut off")
			}
			return nil, p.fail("a comma or bracket is missing")
		}
	}
}

func (p *parser) value(depth int) (value, error) {
	p.space()
	if p.at >= len(p.raw) {
		return value{}, p.fail("the file ends inside an entity: it is cut off")
	}
	switch c := p.raw[p.at]; {
	case c == '$' || c == '*':
		p.at++
		return value{kind: '$'}, nil
	case c == '#':
		p.at++
		n, err := strconv.Atoi(p.word())
		if err != nil {
			return value{}, p.fail("a reference has no number")
		}
		return value{kind: '#', ref: n}, nil
	case c == '(':
		p.at++
		l, err := p.list(depth + 1)
		return value{kind: '(', list: l}, err
	case c == '\'':
		return p.text()
	case c == '.':
		p.at++
		w := p.word()
		if p.at >= len(p.raw) || p.raw[p.at] != '.' {
			return value{}, p.fail("an enumeration does not end with a full stop")
		}
		p.at++
		return value{kind: '.', text: w}, nil
	case c == '"':
		end := bytes.IndexByte(p.raw[p.at+1:], '"')
		if end < 0 {
			return value{}, p.fail("a binary value does not end")
		}
		p.at += end + 2
		return value{kind: 's'}, nil
	case c >= '0' && c <= '9' || c == '-' || c == '+':
		from := p.at
		for p.at < len(p.raw) && (letter(p.raw[p.at]) || p.raw[p.at] == '.' || p.raw[p.at] == '+') {
			p.at++
		}
		f, err := strconv.ParseFloat(string(p.raw[from:p.at]), 64)
		if err != nil {
			return value{}, p.fail("%q is no number", clip(p.raw[from:p.at]))
		}
		return value{kind: 'n', num: f}, nil
	default:
		name := p.word()
		if name == "" || !p.take('(') {
			return value{}, p.fail("a parameter cannot be read")
		}
		l, err := p.list(depth + 1)
		return value{kind: 't', text: name, list: l}, err
	}
}

// text reads a string in apostrophes; two of them stand for one.
func (p *parser) text() (value, error) {
	from := p.at + 1
	for i := from; i < len(p.raw); i++ {
		switch p.raw[i] {
		case '\n':
			p.line++
		case '\'':
			if i+1 < len(p.raw) && p.raw[i+1] == '\'' {
				i++
				continue
			}
			p.at = i + 1
			return value{kind: 's', text: string(p.raw[from:i])}, nil
		}
	}
	return value{}, p.fail("a text does not end")
}

func clip(b []byte) string { return string(b[:min(len(b), 30)]) }
