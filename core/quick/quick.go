// Package quick writes and takes apart the JSON of small things of which a library has millions, without reflection. It knows the
// plain forms only, as encoding/json writes them: what is written in another way is left to that package.
package quick

import (
	"bytes"
	"encoding/json"
	"unicode/utf8"
)

// AppendText appends s as a JSON string, byte for byte as encoding/json writes it (RFC 8259, clause 7). What needs an escape, which
// few texts do, goes through that package.
func AppendText(b []byte, s string) []byte {
	wide := false
	for i := range len(s) {
		switch c := s[i]; {
		case c < ' ' || c == '"' || c == '\\' || c == '<' || c == '>' || c == '&' || c == 0xe2 && i+2 < len(s) && s[i+1] == 0x80 && s[i+2]|1 == 0xa9: // U+2028, U+2029
			return appendEscaped(b, s)
		case c >= utf8.RuneSelf:
			wide = true
		}
	}
	if wide && !utf8.ValidString(s) {
		return appendEscaped(b, s)
	}
	return append(append(append(b, '"'), s...), '"')
}

func appendEscaped(b []byte, s string) []byte {
	quoted, _ := json.Marshal(s) // a string always encodes
	return append(b, quoted...)
}

// AppendBare appends s as a JSON string with no escapes but those that cannot be left out (RFC 8259, clause 7) and U+2028, U+2029: byte
// for byte as encoding/json does where it spares HTML. What is no UTF-8 is appended as it is; whoever writes it has to look.
func AppendBare(b []byte, s string) []byte {
	for i := range len(s) {
		switch c := s[i]; {
		case c < ' ' || c == '"' || c == '\\' || c == 0x7f || c == 0xe2 && i+2 < len(s) && s[i+1] == 0x80 && s[i+2]|1 == 0xa9:
			return appendSparing(b, s)
		}
	}
	return append(append(append(b, '"'), s...), '"')
}

func appendSparing(b []byte, s string) []byte {
	if !utf8.ValidString(s) {
		return append(append(append(b, '"'), s...), '"')
	}
	var w bytes.Buffer
	e := json.NewEncoder(&w)
	e.SetEscapeHTML(false)
	_ = e.Encode(s) // a string always encodes
	return append(b, bytes.TrimSuffix(w.Bytes(), []byte("\n"))...)
}

// Text returns the string that raw is; ok is false where it is none, or one with escapes.
func Text(raw []byte) (s string, ok bool) {
	if raw, ok = bare(raw); !ok {
		return "", false
	}
	return string(raw), true
}

// bare is Text without its quotes, where it stands.
func bare(raw []byte) (inside []byte, ok bool) {
	if len(raw) < 2 || raw[0] != '"' || raw[len(raw)-1] != '"' {
		return nil, false
	}
	inside = raw[1 : len(raw)-1]
	wide := false
	for _, c := range inside {
		if c == '\\' || c == '"' || c < ' ' {
			return nil, false
		}
		wide = wide || c >= utf8.RuneSelf
	}
	return inside, !wide || utf8.Valid(inside)
}

// Members calls f with each member of the object that raw is, its key without quotes and its value as they are written. It returns false where raw is no object
// without blanks whose keys have no escapes, or where f does.
func Members(raw []byte, f func(key, value []byte) bool) bool {
	if len(raw) < 2 || raw[0] != '{' || raw[len(raw)-1] != '}' {
		return false
	}
	i, last := 1, len(raw)-1
	for i < last {
		to := end(raw, i)
		key, ok := bare(raw[i:max(to, i)])
		if !ok || to >= last || raw[to] != ':' {
			return false
		}
		i = to + 1
		if to = end(raw, i); to < 0 || to > last || !f(key, raw[i:to]) {
			return false
		}
		if i, ok = past(raw, to, last); !ok {
			return false
		}
	}
	return true
}

// Items calls f with each item of the list that raw is; see Members.
func Items(raw []byte, f func(item []byte) bool) bool {
	if len(raw) < 2 || raw[0] != '[' || raw[len(raw)-1] != ']' {
		return false
	}
	i, last := 1, len(raw)-1
	for i < last {
		to := end(raw, i)
		if to < 0 || to > last || !f(raw[i:to]) {
			return false
		}
		var ok bool
		if i, ok = past(raw, to, last); !ok {
			return false
		}
	}
	return true
}

// past returns where the next value begins behind one that ends at to: behind a comma that something follows, or at the last bracket.
func past(raw []byte, to, last int) (next int, ok bool) {
	if to == last {
		return to, true
	}
	return to + 1, raw[to] == ',' && to+1 < last
}

// end returns where the value that begins at i ends; -1 where none begins there, or it does not end.
func end(raw []byte, i int) int {
	if i >= len(raw) {
		return -1
	}
	switch raw[i] {
	case '"':
		for i++; i < len(raw); i++ {
			switch raw[i] {
			case '\\':
				i++
			case '"':
				return i + 1
			}
		}
		return -1
	case '{', '[':
		depth := 0
		for ; i < len(raw); i++ {
			switch raw[i] {
			case '"':
				to := end(raw, i)
				if to < 0 {
					return -1
				}
				i = to - 1
			case '{', '[':
				depth++
			case '}', ']':
				if depth--; depth == 0 {
					return i + 1
				}
			}
		}
		return -1
	}
	from := i
	for i < len(raw) && (raw[i] >= '0' && raw[i] <= '9' || raw[i] >= 'a' && raw[i] <= 'z' || raw[i] == '-' || raw[i] == '+' || raw[i] == '.' || raw[i] == 'E') {
		i++
	}
	if i == from {
		return -1
	}
	return i
}
