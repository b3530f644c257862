// Package names gives names that no other thing has: the second of a name is counted. It takes as long for many things of one name as for many of several, since files from
// outside may have a hundred thousand of one.
package names

import (
	"fmt"
	"strings"
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
