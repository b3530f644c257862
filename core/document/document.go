// Package document gives every content document its canonical bytes, its hash and its differences. It knows nothing
// of what a document means; parts, templates, models and BOMs all pass through it.
package document

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"sort"
	"strconv"
	"strings"
	"unicode/utf8"

	"jollydrawer/core/quick"
)

// Hash is the SHA-256 of a document's canonical bytes.
type Hash [sha256.Size]byte

// String writes the hash in hexadecimal.
func (h Hash) String() string { return hex.EncodeToString(h[:]) }

// Writer is a document that writes its canonical form itself, because a library has very many of it.
type Writer interface {
	// AppendCanonical appends what Canonical would come to without it; ok is false where it leaves that to Canonical.
	AppendCanonical(b []byte) (out []byte, ok bool)
}

// Canonical returns the canonical JSON of v: keys sorted, no blanks, no HTML escapes. Numbers of the trade must be
// decimal strings already; a JSON number with a fraction is refused, because its bytes would depend on the writer.
func Canonical(v any) ([]byte, Hash, error) {
	if w, is := v.(Writer); is {
		if out, ok := w.AppendCanonical(make([]byte, 0, 1024)); ok && utf8.Valid(out) {
			return out, sha256.Sum256(out), nil
		}
	}
	raw, err := json.Marshal(v)
	if err != nil {
		return nil, Hash{}, fmt.Errorf("document: %w", err)
	}
	out, ok := sorted(make([]byte, 0, len(raw)), raw)
	if !ok {
		if out, err = rewritten(raw); err != nil {
			return nil, Hash{}, err
		}
	}
	return out, sha256.Sum256(out), nil
}

// rewritten is the canonical form of any JSON.
func rewritten(raw []byte) ([]byte, error) {
	tree, err := decode(raw)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	if err := write(&b, tree); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// sorted appends the canonical form of plain JSON, which most documents are but for some texts; ok is false where raw is written
// in another way, or holds what is refused.
func sorted(b, raw []byte) (out []byte, ok bool) {
	switch {
	case len(raw) == 0:
		return nil, false
	case raw[0] == '{':
		type member struct {
			key   string
			value []byte
		}
		var few [12]member
		all := few[:0]
		if !quick.Members(raw, func(key, value []byte) bool {
			all = append(all, member{string(key), value})
			return true
		}) {
			return nil, false
		}
		slices.SortFunc(all, func(a, b member) int { return strings.Compare(a.key, b.key) })
		b = append(b, '{')
		for i, m := range all {
			if i > 0 {
				if b = append(b, ','); all[i-1].key == m.key {
					return nil, false
				}
			}
			if b, ok = text(b, m.key); !ok {
				return nil, false
			}
			if b, ok = sorted(append(b, ':'), m.value); !ok {
				return nil, false
			}
		}
		return append(b, '}'), true
	case raw[0] == '[':
		b = append(b, '[')
		first, fine := true, true
		if !quick.Items(raw, func(item []byte) bool {
			if !first {
				b = append(b, ',')
			}
			first = false
			b, fine = sorted(b, item)
			return fine
		}) {
			return nil, false
		}
		return append(b, ']'), true
	case raw[0] == '"':
		if s, plain := quick.Text(raw); plain {
			return text(b, s)
		}
		var s string
		if json.Unmarshal(raw, &s) != nil {
			return nil, false
		}
		return text(b, s)
	case raw[0] == 't' || raw[0] == 'f' || raw[0] == 'n':
		return append(b, raw...), true
	}
	if _, err := strconv.ParseInt(string(raw), 10, 64); err != nil {
		return nil, false
	}
	return append(b, raw...), true
}

// text appends a string as a document writes it.
func text(b []byte, s string) ([]byte, bool) { return quick.AppendBare(b, s), utf8.ValidString(s) }

func decode(raw []byte) (any, error) {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber()
	var tree any
	if err := d.Decode(&tree); err != nil {
		return nil, fmt.Errorf("document: %w", err)
	}
	return tree, nil
}

func write(b *bytes.Buffer, v any) error {
	switch v := v.(type) {
	case map[string]any:
		keys := make([]string, 0, len(v))
		for k := range v {
			keys = append(keys, k)
		}
		sort.Strings(keys)
		b.WriteByte('{')
		for i, k := range keys {
			if i > 0 {
				b.WriteByte(',')
			}
			writeString(b, k)
			b.WriteByte(':')
			if err := write(b, v[k]); err != nil {
				return err
			}
		}
		b.WriteByte('}')
	case []any:
		b.WriteByte('[')
		for i, e := range v {
			if i > 0 {
				b.WriteByte(',')
			}
			if err := write(b, e); err != nil {
				return err
			}
		}
		b.WriteByte(']')
	case string:
		writeString(b, v)
	case json.Number:
		if _, err := strconv.ParseInt(v.String(), 10, 64); err != nil {
			return fmt.Errorf("document: the number %s must be written as decimal text", v)
		}
		b.WriteString(v.String())
	case bool:
		b.WriteString(strconv.FormatBool(v))
	case nil:
		b.WriteString("null")
	}
	return nil
}

func writeString(b *bytes.Buffer, s string) { b.Write(quick.AppendBare(b.AvailableBuffer(), s)) }

// Change is one field that differs between two documents. Path is dotted, list places are numbers from 1;
// Old or New is "" where the field is missing there.
type Change struct {
	Path string `json:"path"`
	Old  string `json:"old,omitempty"`
	New  string `json:"new,omitempty"`
}

// Diff lists the leaf fields in which two canonical documents differ, sorted by path.
func Diff(a, b []byte) ([]Change, error) {
	left, right := map[string]string{}, map[string]string{}
	for _, side := range []struct {
		raw  []byte
		into map[string]string
	}{{a, left}, {b, right}} {
		if len(side.raw) == 0 {
			continue
		}
		tree, err := decode(side.raw)
		if err != nil {
			return nil, err
		}
		flatten("", tree, side.into)
	}
	var out []Change
	for path, old := range left {
		if now := right[path]; now != old {
			out = append(out, Change{path, old, now})
		}
	}
	for path, now := range right {
		if _, ok := left[path]; !ok {
			out = append(out, Change{path, "", now})
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Path < out[j].Path })
	return out, nil
}

func flatten(path string, v any, into map[string]string) {
	at := func(k string) string {
		if path == "" {
			return k
		}
		return path + "." + k
	}
	switch v := v.(type) {
	case map[string]any:
		for k, e := range v {
			flatten(at(k), e, into)
		}
	case []any:
		for i, e := range v {
			flatten(at(strconv.Itoa(i+1)), e, into)
		}
	case nil:
	default:
		into[path] = fmt.Sprint(v)
	}
}
