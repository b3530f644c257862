// Package said is about the sentences in which readers say what they left out or refused: they can be read, and each stands once.
package said

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Printable is a text without characters that nobody can see, as a damaged file brings them into a message.
func Printable(text string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || r == utf8.RuneError {
			return '?'
		}
		return r
	}, text)
}

// Once leaves out what was said before.
func Once(all []string) (out []string) {
	seen := make(map[string]bool, len(all))
	for _, t := range all {
		if !seen[t] {
			seen[t] = true
			out = append(out, t)
		}
	}
	return out
}
