package deed

import (
	"strings"
	"unicode"
)

// Said is what somebody says for others to read (a reason, a note, a comment) without space around it and without what is no
// character of a text: signs that control, and what shows nothing. It is blank where nothing is left to be seen; what stands between
// characters that are seen, a line break or the joiner of a script, stays.
func Said(text string) string {
	text = strings.Map(func(r rune) rune {
		if r == unicode.ReplacementChar || unicode.Is(unicode.Cc, r) && r != '\n' && r != '\t' {
			return -1
		}
		return r
	}, strings.ToValidUTF8(text, ""))
	unseen := func(r rune) bool { return !unicode.IsGraphic(r) || unicode.IsSpace(r) || blankLetters[r] }
	return strings.TrimFunc(text, unseen)
}

// blankLetters are letters and marks by class that show nothing.
var blankLetters = map[rune]bool{'\u115f': true, '\u1160': true, '\u3164': true, '\uffa0': true, '\u2800': true, '\u034f': true}
