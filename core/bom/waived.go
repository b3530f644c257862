package bom

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
)

// moving are causes whose words change from day to day without anything that was accepted being otherwise: how much suppliers have, and when more come.
var moving = []string{"stock-short", "lead-late"}

// rowNamed is how findings name another row of the file.
var rowNamed = regexp.MustCompile(`\brow \d+`)

// wherever is what was found without the rows that it names: a title above the table moves them all, and nothing is otherwise.
func wherever(what string) string { return rowNamed.ReplaceAllString(what, "row") }

// acceptance is what a waiver of a finding hangs on: the line with the cause, and what was seen: what the line says, the exact revision of its record, and what was
// found. It counts for nothing as soon as that is another.
func acceptance(v *Verdict, f finding.Finding) (about, evidence string) {
	about = f.Cause + "\n" + v.Line.About()
	evidence = v.Line.Evidence()
	if v.Part != nil {
		evidence += fmt.Sprintf("\nrecord %s revision %d", v.Part.ID, v.Part.Revision)
	}
	if !slices.Contains(moving, f.Cause) {
		evidence += "\n" + wherever(f.What)
	}
	return about, evidence
}

// Accept is the decision that a finding of a line is as it should be; who and when is for the caller to say.
func Accept(v *Verdict, f finding.Finding, reason string) decision.Record {
	about, evidence := acceptance(v, f)
	return decision.Record{Kind: decision.Accept, About: about, Evidence: evidence, Outcome: "accepted", Reason: reason, Field: f.Cause}
}

// Accepted are the waivers of findings that people gave, by what they hang on.
type Accepted map[string]decision.Record

// AcceptedIn finds the waivers of findings among decisions.
func AcceptedIn(all []decision.Record) Accepted {
	out := Accepted{}
	for _, d := range all {
		if d.Kind == decision.Accept && d.Withdrawn == "" {
			if at := strings.LastIndexByte(d.Evidence, '\n') + 1; at > 0 { // given when rows were a part of it
				d.Evidence = d.Evidence[:at] + wherever(d.Evidence[at:])
			}
			out[d.Key()] = d
		}
	}
	return out
}

// Mark marks the findings of a line that somebody accepted, with the reason and the name.
func (a Accepted) Mark(v *Verdict, all []finding.Finding) []finding.Finding {
	if len(a) == 0 {
		return all
	}
	out := slices.Clone(all)
	for i := range out {
		about, evidence := acceptance(v, out[i])
		if d, is := a[decision.Record{Kind: decision.Accept, About: about, Evidence: evidence}.Key()]; is {
			out[i].Waived = d.Reason + " (" + d.By + ")"
		}
	}
	return out
}
