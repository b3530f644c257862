package lookup

import (
	"slices"
	"strings"
	"unicode"
)

// tokens parts a text at blanks, keeps what stands in quotes together, and sets operators apart.
func tokens(text string) (out []string) {
	if len(text) > 2000 {
		text = text[:2000]
	}
	var b strings.Builder
	flush := func() {
		if b.Len() > 0 {
			out = append(out, b.String())
			b.Reset()
		}
	}
	quoted := false
	rs := []rune(strings.ToValidUTF8(text, "�"))
	for i := 0; i < len(rs); i++ {
		c := rs[i]
		next := rune(0)
		if i+1 < len(rs) {
			next = rs[i+1]
		}
		switch {
		case (c == '"' || c == '“' || c == '”' || c == '„') && (quoted || b.Len() == 0):
			if quoted && b.Len() > 0 {
				out = append(out, "\""+b.String()) // a mark at the front keeps it a phrase
				b.Reset()
			}
			quoted = !quoted
		case quoted:
			b.WriteRune(c)
		case c == ',' && (next == 0 || next == ' ' || i > 0 && unicode.IsLetter(rs[i-1]) && unicode.IsDigit(next)): // "100nF,50V"
			flush()
			out = append(out, ",")
		case c == '|':
			flush()
			out = append(out, "or")
		case c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == ';' || c == '\u00a0':
			flush()
		case strings.ContainsRune("≥≤≠≧≦<>=", c) || c == '!' && next == '=':
			flush()
			op, n := comparison(c, next)
			out = append(out, op)
			i += n - 1
		case c == ':' && b.Len() > 1 && next != 0 && next != '/' && !(rs[i-1] >= '0' && rs[i-1] <= '9'):
			flush()
			out = append(out, ":")
		default:
			b.WriteRune(c)
		}
	}
	flush()
	return phrased(out)
}

// standing is the one state whose name begins with a word that means something else.
var standing = strings.Fields("not for new designs")

// phrased makes one word of what belongs together however it is written.
func phrased(words []string) []string {
	for i := 0; i+len(standing) <= len(words); i++ {
		if slices.EqualFunc(words[i:i+len(standing)], standing, strings.EqualFold) {
			words = slices.Replace(words, i, i+len(standing), "\""+strings.Join(standing, " "))
		}
	}
	return words
}

// comparison reads a comparison in any of the ways that people write it, and how many characters that takes.
func comparison(c, next rune) (op string, n int) {
	switch two := string([]rune{c, next}); two {
	case ">=", "=>":
		return ">=", 2
	case "<=", "=<":
		return "<=", 2
	case "<>", "!=", "=!":
		return "!=", 2
	case "==":
		return "=", 2
	}
	switch c {
	case '≥', '≧':
		return ">=", 1
	case '≤', '≦':
		return "<=", 1
	case '≠':
		return "!=", 1
	}
	return string(c), 1
}

func operator(w string) bool {
	switch w {
	case ">=", "<=", ">", "<", "=", ":", "!=":
		return true
	}
	return false
}

// asWritten gives tokens back as a person would write them: read again, they are the same tokens.
func asWritten(words []string) string {
	out := make([]string, len(words))
	for i, w := range words {
		if out[i] = w; strings.HasPrefix(w, "\"") {
			out[i] = w + "\""
		}
	}
	return strings.Join(out, " ")
}
