package delimited

import (
	"encoding/json"
	"fmt"
	"io"
)

// Stream writes a list line by line, as CSV with a heading or as JSON, a list of objects.
type Stream struct {
	w     io.Writer
	names []string
	json  bool
	begun bool
}

// NewStream begins a list; names are its columns. As JSON names are the keys.
func NewStream(w io.Writer, names []string, json bool) (*Stream, error) {
	s := &Stream{w: w, names: names, json: json}
	if json {
		return s, nil
	}
	return s, Write(w, [][]string{names})
}

// Add writes lines, each with a text for every column.
func (s *Stream) Add(lines [][]string) error {
	if !s.json {
		return Write(s.w, lines)
	}
	for _, line := range lines {
		one := make(map[string]string, len(line))
		for i, text := range line {
			one[s.names[i]] = text
		}
		raw, err := json.Marshal(one)
		if err != nil {
			return err
		}
		mark := ","
		if !s.begun {
			s.begun, mark = true, "["
		}
		if _, err := fmt.Fprintf(s.w, "%s\n%s", mark, raw); err != nil {
			return err
		}
	}
	return nil
}

// Close ends the list.
func (s *Stream) Close() error {
	if !s.json {
		return nil
	}
	end := "\n]\n"
	if !s.begun {
		end = "[]\n"
	}
	_, err := io.WriteString(s.w, end)
	return err
}
