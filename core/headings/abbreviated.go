package headings

import (
	"slices"
	"strings"
)

// numbers are the words for a number, and how they are abbreviated.
var numbers = map[string]bool{"nr": true, "no": true, "num": true, "nummer": true, "number": true, "numero": true}

// phrase is a term of another language made ready for comparing: its words, with "#" for whatever means number.
type phrase struct {
	words   []string
	english string
}

var phrases = func() (out []phrase) {
	for term, english := range terms {
		out = append(out, phrase{hashed(term), english})
	}
	slices.SortFunc(out, func(a, b phrase) int { return slices.Compare(a.words, b.words) })
	return out
}()

// joined maps terms written as one word to their English phrase; "" where two terms that differ in meaning meet.
var joined = func() map[string]string {
	m := map[string]string{}
	for _, p := range phrases {
		key := strings.Join(p.words, "")
		if had, ok := m[key]; ok && had != p.english {
			p.english = ""
		}
		m[key] = p.english
	}
	delete(m, "#")
	return m
}()

// hashed parts a plain heading into words, with "#" for a word that means number, also at the end of a compound.
func hashed(plain string) (out []string) {
	for _, w := range strings.Fields(plain) {
		stem, ok := strings.CutSuffix(w, "nummer")
		if !ok && len(w) > 6 { // "Eigenr." may be cut short elsewhere
			stem, ok = strings.CutSuffix(w, "nr")
		}
		switch {
		case numbers[w]:
			out = append(out, "#")
		case ok && len(stem) > 2:
			out = append(out, stem, "#")
		default:
			out = append(out, w)
		}
	}
	return out
}

// Abbreviated gives the English phrase for a heading whose words are cut short, "Herst.-Nr." or "Tens. nom.": every word
// has at least three letters and begins one of the term's, in their order, or a part of its compound. "" where none or
// terms of several meanings fit. It is a guess, unlike English.
func Abbreviated(heading string) string {
	words := hashed(Plain(heading))
	found := ""
	for _, w := range words {
		if w != "#" && len(w) < 3 {
			return ""
		}
	}
	if len(words) == 0 || slices.Equal(words, []string{"#"}) {
		return ""
	}
	for _, p := range phrases {
		switch {
		case !shortens(words, p.words):
		case found != "" && found != p.english:
			return ""
		default:
			found = p.english
		}
	}
	return found
}

func shortens(words, term []string) bool {
	if slices.Contains(words, "#") != slices.Contains(term, "#") {
		return false
	}
	compound := len(term) == 1 || len(term) == 2 && term[1] == "#"
	if compound {
		rest, ok := term[0], false
		for i, w := range words {
			if w == "#" {
				return i == len(words)-1
			}
			at := strings.Index(rest, w)
			if at < 0 || i == 0 && at > 0 {
				return false
			}
			rest, ok = rest[at+len(w):], true
		}
		return ok
	}
	if len(words) != len(term) {
		return false
	}
	for i, w := range words {
		if !strings.HasPrefix(term[i], w) {
			return false
		}
	}
	return true
}
