// Package names gives names that no other thing has: the second of a name is counted. It takes as long for many things of one name as for many of several, since files from
// outside may have a hundred thousand of one. And it says whether people can see a name at all.
package names

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Bracketed is the usual way in which the second thing of a name is called: "lead (2)".
func Bracketed(name string, n int) string { return fmt.Sprintf("%s (%d)", name, n) }

// Taken are names that are taken, whatever the size of their letters. The zero value has none.
type Taken struct {
	asked map[string]int // how often a name was asked for
}

// Add says that a name is taken.
func (t *Taken) Add(name string) {
	if t.asked == nil {
		t.asked = map[string]int{}
	}
	t.asked[strings.ToLower(name)]++
}

// Free takes a name: as it is where nobody has it, or else counted from 2 on, as counted writes it. What counted writes must be another name for each number.
func (t *Taken) Free(name string, counted func(name string, n int) string) string {
	out := name
	for key := strings.ToLower(name); t.asked[strings.ToLower(out)] > 0; {
		t.asked[key]++
		out = counted(name, t.asked[key])
	}
	t.Add(out)
	return out
}

// Shown says whether people can see and tell a name: it has a letter, digit, sign or symbol, no control, none of the marks that turn the direction of what stands around
// it (Unicode UAX #9, section 2), and at most so many characters.
func Shown(name string, most int) bool {
	seen := false
	for _, r := range name {
		if unicode.IsControl(r) || r == unicode.ReplacementChar || unicode.Is(unicode.Bidi_Control, r) {
			return false
		}
		seen = seen || unicode.IsGraphic(r) && !unicode.IsSpace(r) && !unicode.IsMark(r) && !showsNothing[r]
	}
	return seen && utf8.RuneCountInString(name) <= most
}

// showsNothing are letters by class that nobody sees: the fillers of Hangul, and the blank of Braille.
var showsNothing = map[rune]bool{'\u115f': true, '\u1160': true, '\u3164': true, '\uffa0': true, '\u2800': true}
