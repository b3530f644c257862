// Package decision holds what a person settled: about what, on which evidence, for how far, who and when. A decision
// hangs on the thing it is about in the words of its source, never on a row number, so that it holds when the same thing
// comes again and is looked at again when the evidence is another.
package decision

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"jollydrawer/core/cabinet"
)

// Kind says what decisions are about.
type Kind string

// The kinds.
const (
	Line   Kind = "line"   // which record a line of a BOM stands for
	Layout Kind = "layout" // what the columns of files with the same headings mean
	Ending Kind = "ending" // that what stands behind a maker's MPNs names a packing

	Reading Kind = "reading" // which record such lines stand for, wherever a file of the same layout and origin says the same

	Out    Kind = "left-out" // that a row of a file is not wanted
	Drawer Kind = "drawer"   // where a row goes
	Cell   Kind = "cell"     // what stands in a cell instead of what the file says
	Settle Kind = "settled"  // what becomes of a row that the library has, or that is like a part
	Accept Kind = "accepted" // that a finding of a row is as it should be
)

// NoPart is the outcome of a line, or of a reading, that stands for no record: a board, a label, a fiducial, a consumable.
const NoPart = "none"

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

	// Of readings:
	Links     bool     `json:"links,omitempty" doc:"It links by itself; otherwise it proposes"`
	Explained []string `json:"explained,omitempty" doc:"What nobody understood in the line, and the reading explains"`

	// Of rows of files: About and Evidence are Words.
	Field  string                   `json:"field,omitempty" doc:"Of a cell: its field; of an accepted finding: the cause"`
	Nth    int                      `json:"nth,omitempty" doc:"Of several rows that nothing tells apart, which one, from 1"`
	Source string                   `json:"source,omitempty" doc:"Key of the manufacturer part number that it is about"`
	Claims map[string]cabinet.Value `json:"claims,omitempty" doc:"Parameter → the value that it says the source has"`
	In     string                   `json:"in,omitempty" doc:"Number of the intake where it was made"`
}

// Key is what the decision hangs on.
func (r Record) Key() string { return string(r.Kind) + "\x00" + r.About + "\x00" + r.Evidence }

// Subject is what a decision about a row of a file is about: two with one subject take each other's place.
func (r Record) Subject() string {
	return string(r.Kind) + "\x00" + r.About + "\x00" + r.Field + "\x00" + strconv.Itoa(r.Nth)
}

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

// WithAll puts decisions in the place of earlier ones about the same things. Of two that are about one thing the later counts.
func WithAll(list []Record, more []Record) []Record {
	type subject struct {
		kind  Kind
		about string
	}
	at := map[subject]int{}
	for i, r := range more {
		at[subject{r.Kind, r.About}] = i
	}
	out := slices.DeleteFunc(slices.Clone(list), func(o Record) bool { _, again := at[subject{o.Kind, o.About}]; return again })
	for i, r := range more {
		if at[subject{r.Kind, r.About}] == i {
			out = append(out, r)
		}
	}
	return out
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
