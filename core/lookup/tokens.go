package lookup

import (
	"strings"
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
		switch {
		case c == '"' && (quoted || b.Len() == 0):
			if quoted && b.Len() > 0 {
				out = append(out, "\""+b.String()) // a mark at the front keeps it a phrase
				b.Reset()
			}
			quoted = !quoted
		case quoted:
			b.WriteRune(c)
		case c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == ';' || c == '\u00a0' || c == ',' && (i+1 == len(rs) || rs[i+1] == ' '):
			flush()
		case c == '≥' || c == '≤' || c == '<' || c == '>' || c == '=':
			flush()
			op := string(c)
			switch {
			case c == '≥':
				op = ">="
			case c == '≤':
				op = "<="
			case i+1 < len(rs) && rs[i+1] == '=' && c != '=':
				op, i = op+"=", i+1
			}
			out = append(out, op)
		case c == ':' && b.Len() > 1 && i+1 < len(rs) && rs[i+1] != '/' && !(rs[i-1] >= '0' && rs[i-1] <= '9'):
			flush()
			out = append(out, ":")
		default:
			b.WriteRune(c)
		}
	}
	flush()
	return out
}

func operator(w string) bool {
	return w == ">=" || w == "<=" || w == ">" || w == "<" || w == "=" || w == ":"
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
