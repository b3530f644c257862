// Package objects reads JSON as rows (RFC 8259): an array of objects, JSON Lines, or an object that wraps one array.
// Members of nested objects become fields with dots in their names.
package objects

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"

	"jollydrawer/formats/rows"
)

// sampled is how many objects are looked at to find out which fields there are; maxDepth how deep members are taken
// apart: what lies deeper stays JSON text.
const (
	sampled  = 2000
	maxDepth = 6
)

type reader struct {
	dec    *json.Decoder
	src    io.Closer
	list   bool // between [ and ]
	ended  bool // the ] was read
	n      int
	header []string
	at     map[string]int
	ahead  []object
	lim    rows.Limits
}

type object struct {
	n       int
	members []member
}

type member struct{ name, text string }

// Open starts reading r, which it closes in the end.
func Open(r io.ReadCloser, lim rows.Limits) (rows.Reader, error) {
	in := bufio.NewReader(r)
	if bom, err := in.Peek(3); err == nil && bytes.Equal(bom, []byte("\xEF\xBB\xBF")) {
		_, _ = in.Discard(3)
	}
	first, err := firstByte(in)
	if err != nil {
		return nil, err
	}
	x := &reader{dec: json.NewDecoder(in), src: r, lim: lim, at: map[string]int{}, list: first == '['}
	x.dec.UseNumber()
	if x.list {
		if _, err := x.dec.Token(); err != nil {
			return nil, x.broken(err)
		}
	}
	for len(x.ahead) < sampled {
		o, ok, err := x.read()
		if err != nil {
			return nil, err
		}
		if !ok {
			break
		}
		x.ahead = append(x.ahead, o)
		for _, m := range o.members {
			if _, known := x.at[m.name]; !known {
				x.at[m.name] = len(x.header)
				x.header = append(x.header, m.name)
			}
		}
	}
	if len(x.ahead) == 0 {
		return nil, rows.Errorf("The file holds no objects: it must be a JSON array of objects, or one object a line.")
	}
	header, err := rows.CheckHeader(x.header, lim)
	if err != nil {
		return nil, err
	}
	x.header = header
	return x, nil
}

func firstByte(in *bufio.Reader) (byte, error) {
	for {
		b, err := in.ReadByte()
		if err != nil {
			return 0, rows.Errorf("The file is empty.")
		}
		if b != ' ' && b != '\n' && b != '\r' && b != '\t' {
			return b, in.UnreadByte()
		}
	}
}

// broken says where the JSON is wrong.
func (x *reader) broken(err error) error {
	var syntax *json.SyntaxError
	switch {
	case errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF):
		return rows.Errorf("The JSON ends behind object %d, at byte %d, before it is complete: export it again.", x.n, x.dec.InputOffset())
	case errors.As(err, &syntax):
		return rows.Errorf("The JSON is broken behind object %d, at byte %d (%v): correct it, or export it again.", x.n, x.dec.InputOffset(), err)
	}
	return fmt.Errorf("reading the file: %w", err)
}

func (x *reader) read() (object, bool, error) {
	if x.ended {
		return object{}, false, nil
	}
	if x.list && !x.dec.More() {
		x.ended = true
		if _, err := x.dec.Token(); err != nil {
			return object{}, false, x.broken(err)
		}
		return object{}, false, nil
	}
	var raw json.RawMessage
	err := x.dec.Decode(&raw)
	if errors.Is(err, io.EOF) && !x.list {
		return object{}, false, nil
	}
	if err != nil {
		return object{}, false, x.broken(err)
	}
	if x.n == 0 && !x.list {
		if inner, ok := wrapped(raw); ok {
			x.dec = json.NewDecoder(bytes.NewReader(inner))
			x.dec.UseNumber()
			x.list = true
			if _, err := x.dec.Token(); err != nil {
				return object{}, false, x.broken(err)
			}
			return x.read()
		}
	}
	x.n++
	o := object{n: x.n}
	if err := flatten(raw, "", 0, &o.members); err != nil {
		return o, false, rows.Errorf("Entry %d of the file is no object: every row must be one, such as {\"mpn\": \"…\"}.", x.n)
	}
	return o, true, nil
}

// wrapped finds the one array of objects in an object such as {"parts": […]}.
func wrapped(raw json.RawMessage) (json.RawMessage, bool) {
	var o map[string]json.RawMessage
	if json.Unmarshal(raw, &o) != nil {
		return nil, false
	}
	var found json.RawMessage
	for _, v := range o {
		var list []json.RawMessage
		if json.Unmarshal(v, &list) == nil && len(list) > 0 && bytes.HasPrefix(bytes.TrimSpace(list[0]), []byte("{")) {
			if found != nil {
				return nil, false
			}
			found = v
		}
	}
	return found, found != nil
}

// flatten lists the members of an object in their order. Decoding into a map would lose the order, and one of two
// members of the same name.
func flatten(raw json.RawMessage, prefix string, depth int, into *[]member) error {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber()
	if t, err := d.Token(); err != nil || t != json.Delim('{') {
		return errors.New("no object")
	}
	for d.More() {
		t, err := d.Token()
		if err != nil {
			return err
		}
		name, _ := t.(string)
		var v json.RawMessage
		if err := d.Decode(&v); err != nil {
			return err
		}
		v = bytes.TrimSpace(v)
		if v[0] == '{' && depth < maxDepth {
			if err := flatten(v, prefix+name+".", depth+1, into); err != nil {
				return err
			}
			continue
		}
		*into = append(*into, member{prefix + name, text(v)})
	}
	return nil
}

// text is a value as a cell: strings without quotes, lists of plain values parted by commas, what is deeper as JSON.
func text(v json.RawMessage) string {
	switch v[0] {
	case '"':
		var s string
		_ = json.Unmarshal(v, &s)
		return s
	case 'n':
		return ""
	case '[':
		var list []json.RawMessage
		_ = json.Unmarshal(v, &list)
		var out []string
		for _, e := range list {
			e = bytes.TrimSpace(e)
			if e[0] == '{' || e[0] == '[' {
				return string(v)
			}
			out = append(out, text(e))
		}
		return strings.Join(out, ", ")
	}
	return string(v)
}

func (x *reader) Header() []string    { return x.header }
func (x *reader) Layout() rows.Layout { return rows.Layout{Format: "json", Encoding: "utf-8"} }
func (x *reader) Close() error        { return x.src.Close() }

func (x *reader) Next() (rows.Row, bool, error) {
	for {
		var o object
		if len(x.ahead) > 0 {
			o, x.ahead = x.ahead[0], x.ahead[1:]
		} else {
			var ok bool
			var err error
			if o, ok, err = x.read(); err != nil || !ok {
				return rows.Row{}, false, err
			}
		}
		r := rows.Row{Number: o.n, Cells: make([]string, len(x.header))}
		for _, m := range o.members {
			i, known := x.at[m.name]
			switch {
			case !known && m.text != "":
				r.Problem = fmt.Sprintf("it has a member %q that none of the first %d objects has", m.name, sampled)
			case known && r.Cells[i] != "" && m.text != r.Cells[i]:
				r.Problem = fmt.Sprintf("it has the member %q twice", m.name)
			case known:
				r.Cells[i] = m.text
			}
		}
		if r.Blank() && r.Problem == "" {
			continue
		}
		if r.Problem == "" {
			rows.CheckRow(&r, len(x.header), x.lim)
		}
		return r, true, nil
	}
}
