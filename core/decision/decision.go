// Package decision holds what a person settled: about what, on which evidence, for how far, who and when. A decision
// hangs on the thing it is about in the words of its source, never on a row number, so that it holds when the same thing
// comes again and is looked at again when the evidence is another.
package decision

import (
	"slices"
	"strings"
	"time"
)

// Kind says what decisions are about.
type Kind string

// The kinds.
const (
	Line   Kind = "line"   // which record a line of a BOM stands for
	Layout Kind = "layout" // what the columns of files with the same headings mean
	Ending Kind = "ending" // that what stands behind a maker's MPNs names a packing
)

// Record is one decision.
type Record struct {
	Kind      Kind      `json:"kind"`
	About     string    `json:"about" doc:"What it is about, in the words of the source: designators of a line, headings of a file, a maker"`
	Evidence  string    `json:"evidence,omitempty" doc:"What was seen"`
	Outcome   string    `json:"outcome" doc:"What was decided"`
	Against   []string  `json:"against,omitempty" doc:"What spoke against it and was accepted"`
	Reason    string    `json:"reason,omitempty"`
	Scope     string    `json:"scope,omitempty" doc:"How far it holds; blank: where it was made"`
	By        string    `json:"by"`
	At        time.Time `json:"at,omitzero"`
	Withdrawn string    `json:"withdrawn,omitempty" doc:"Who withdrew it"`
}

// Key is what the decision hangs on.
func (r Record) Key() string { return string(r.Kind) + "\x00" + r.About + "\x00" + r.Evidence }

// Designators writes the designators of a line as what a decision is about: sorted, each once.
func Designators(list []string) string {
	all := slices.Clone(list)
	slices.Sort(all)
	return strings.Join(slices.Compact(all), " ")
}

// With puts a decision in the place of an earlier one about the same thing.
func With(list []Record, r Record) []Record {
	out := slices.DeleteFunc(slices.Clone(list), func(o Record) bool { return o.Kind == r.Kind && o.About == r.About })
	return append(out, r)
}

// Without takes the decision about a thing back; had is false where there was none.
func Without(list []Record, kind Kind, about string) (out []Record, had bool) {
	out = slices.DeleteFunc(slices.Clone(list), func(o Record) bool { return o.Kind == kind && o.About == about })
	return out, len(out) < len(list)
}

// New returns what speaks against a decision now and did not when it was made.
func (r Record) New(against []string) (more []string) {
	for _, a := range against {
		if !slices.Contains(r.Against, a) {
			more = append(more, a)
		}
	}
	return more
}
