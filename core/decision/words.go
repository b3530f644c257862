package decision

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
)

// Words are cells of a row as its file writes them: field → text. They say which row a decision is about, and what was seen of it.
type Words map[string]string

// String writes the words so that ReadWords reads them, and the same words the same way.
func (w Words) String() string {
	if len(w) == 0 {
		return ""
	}
	raw, _ := json.Marshal(map[string]string(w)) // of strings only, with the keys in order
	return string(raw)
}

// ReadWords reads what String writes.
func ReadWords(s string) (w Words, err error) {
	if s == "" {
		return nil, nil
	}
	if err := json.Unmarshal([]byte(s), &w); err != nil {
		return nil, fmt.Errorf("%q are no words of a row: %w", s, err)
	}
	return w, nil
}

// Fields lists the fields, sorted.
func (w Words) Fields() []string { return slices.Sorted(maps.Keys(w)) }

// Say writes the words for people: what is blank is left out.
func (w Words) Say() string {
	var out []string
	for _, f := range w.Fields() {
		if w[f] != "" {
			out = append(out, fmt.Sprintf("%s %q", f, w[f]))
		}
	}
	return strings.Join(out, ", ")
}
