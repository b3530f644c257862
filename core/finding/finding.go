// Package finding holds what checks say: how bad, where, why, and what would mend it. Findings that share a cause are
// counted together, because hundreds of them usually come from three or four causes.
package finding

import (
	"crypto/sha256"
	"encoding/binary"
	"slices"
	"sort"
	"strings"
)

// Severity orders findings. An Error keeps a row from being taken in or a part from being released.
type Severity string

// The severities, worst first.
const (
	Error   Severity = "error"
	Warning Severity = "warning"
	Note    Severity = "note"
)

func (s Severity) rank() int {
	switch s {
	case Error:
		return 0
	case Warning:
		return 1
	}
	return 2
}

// AtLeast says whether s is as bad as least, or worse.
func (s Severity) AtLeast(least Severity) bool { return s.rank() <= least.rank() }

// Finding is one thing a check has to say.
type Finding struct {
	Severity Severity `json:"severity"`
	Cause    string   `json:"cause" doc:"What this finding has in common with others, such as unit-missing:resistance"`
	Row      int      `json:"row,omitempty" doc:"Row in the file, from 1"`
	Field    string   `json:"field,omitempty"`
	Param    string   `json:"param,omitempty" doc:"Key of the parameter it is about"`
	Text     string   `json:"text,omitempty" doc:"The text it is about, as written"`
	Waived   string   `json:"waived,omitempty" doc:"Why a person accepts it"`
	What     string   `json:"what" doc:"The finding as a sentence"`
	Mend     string   `json:"mend,omitempty" doc:"What would mend it"`
}

// Cause is a group of findings that one mend would settle.
type Cause struct {
	Cause    string   `json:"cause"`
	Name     string   `json:"name" doc:"A short name of the cause, to be typed; it stays the same"`
	Severity Severity `json:"severity"`
	Count    int      `json:"count"`
	Waived   int      `json:"waived,omitempty" doc:"How many more a person accepted"`
	Field    string   `json:"field,omitempty"`
	Param    string   `json:"param,omitempty"`
	Examples []string `json:"examples,omitempty" doc:"Some of the texts it was found in"`
	What     string   `json:"what" doc:"One of the findings, as an example"`
	Mend     string   `json:"mend,omitempty"`
	Rows     []int    `json:"rows" doc:"The first rows it was found in"`
}

// maxExamples is how many distinct texts a cause names.
const maxExamples = 5

// Group counts findings by cause: worst first, then largest first. Waived findings count apart.
func Group(all []Finding) []Cause {
	var g Grouping
	for i := range all {
		g.Add(&all[i])
	}
	return g.Causes()
}

// Grouping groups findings by cause as they come, so that nobody has to hold all of them. Its zero value has none.
type Grouping struct {
	at  map[string]int
	out []Cause
}

// Add takes one more finding.
func (g *Grouping) Add(f *Finding) {
	i, ok := g.at[f.Cause]
	if !ok {
		if g.at == nil {
			g.at = map[string]int{}
		}
		i = len(g.out)
		g.at[f.Cause] = i
		g.out = append(g.out, Cause{Cause: f.Cause, Name: Name(f.Cause), Severity: f.Severity, Field: f.Field, Param: f.Param, What: f.What, Mend: f.Mend, Rows: []int{}})
	}
	c := &g.out[i]
	if f.Waived != "" {
		c.Waived++
		return
	}
	c.Count++
	if f.Text != "" && len(c.Examples) < maxExamples && !slices.Contains(c.Examples, f.Text) {
		c.Examples = append(c.Examples, f.Text)
	}
	if f.Row > 0 && len(c.Rows) < 20 {
		c.Rows = append(c.Rows, f.Row)
	}
}

// Causes are the groups, the worst first and of those the largest.
func (g *Grouping) Causes() []Cause {
	out := append([]Cause{}, g.out...)
	sort.SliceStable(out, func(i, j int) bool {
		if a, b := out[i].Severity.rank(), out[j].Severity.rank(); a != b {
			return a < b
		}
		return out[i].Count > out[j].Count
	})
	return out
}

// Name is a short name of a cause that people can type: the check, and where it has several causes a few letters that tell this one from
// the others. It depends on nothing but the cause.
func Name(cause string) string {
	check, rest, _ := strings.Cut(cause, ":")
	word, more, _ := strings.Cut(check, " ")
	if rest == "" && more == "" {
		return word
	}
	const letters = "23456789abcdefghjkmnpqrstuvwxyz" // none that is read as another
	sum := sha256.Sum256([]byte(cause))
	n := binary.BigEndian.Uint64(sum[:8])
	out := []byte(word + "-")
	for range 4 {
		out = append(out, letters[n%uint64(len(letters))])
		n /= uint64(len(letters))
	}
	return string(out)
}
