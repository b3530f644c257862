package trail

import (
	"fmt"
	"strings"
)

// Act is what a deed did alike to some things of one kind.
type Act struct {
	Kind   string // part, model, bom, want, …
	Action string // of the trail
	Count  int
	Name   string         // of the one thing, where it is one
	Detail map[string]any // of its trail entry; of several things, what the entries of all say
	Where  string         // the drawer or the kind of model, in words; blank where they lie in several
}

// Sentence says what somebody did. Acts that nobody need be told of twice are one: the first says most, the others are counted.
func Sentence(by string, acts []Act) string {
	if by == "" {
		by = "The service"
	}
	if len(acts) == 0 {
		return by + " did something."
	}
	s := by + " " + acts[0].phrase()
	if more := count(acts[1:]); more > 0 {
		s += fmt.Sprintf(", and did more to %s", things("", more))
	}
	return strings.TrimSuffix(s, ".") + note(acts[0])
}

func count(acts []Act) (n int) {
	for _, a := range acts {
		n += a.Count
	}
	return n
}

// things are n things of a kind in words.
func things(kind string, n int) string {
	word := map[string]string{"part": "part", "model": "model", "bom": "BOM", "want": "want", "intake": "intake", "cabinet": "template", "lifecycle": "lifecycle"}[kind]
	if word == "" {
		word = "thing"
	}
	if n == 1 {
		return "1 " + word
	}
	return fmt.Sprintf("%s %ss", Grouped(n), word)
}

// Grouped writes a number with a thin space at each thousand, as it is read best.
func Grouped(n int) string {
	s := fmt.Sprint(n)
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + " " + s[i:]
	}
	return s
}

// object names what an act is about.
func (a Act) object() string {
	switch {
	case a.Count == 1 && a.Name != "":
		if a.Kind == "model" {
			return "the " + strings.Replace(a.Name, ": ", " ", 1)
		}
		if a.Kind == "bom" {
			return "the BOM " + a.Name
		}
		if a.Kind == "want" {
			return "the want " + a.Name
		}
		return a.Name
	case a.Where != "":
		return things(a.Kind, a.Count) + " of " + a.Where
	}
	return things(a.Kind, a.Count)
}

func (a Act) said(key string) string {
	s, _ := a.Detail[key].(string)
	return s
}

// phrase says an act without who did it: "released R-0001 as revision 2".
func (a Act) phrase() string {
	what := a.object()
	switch a.Action {
	case "released":
		label := a.said("revisionLabel")
		if n, ok := a.Detail["revision"].(float64); ok && label == "" {
			label = fmt.Sprint(int(n))
		}
		if a.Count == 1 && label != "" {
			return "released " + what + " as revision " + label
		}
		return "released " + what
	case "moved":
		if a.said("to") != "" {
			if n, ok := a.Detail["revision"].(float64); ok {
				return fmt.Sprintf("moved revision %d of %s from %s to %s", int(n), what, a.said("from"), a.said("to"))
			}
			return fmt.Sprintf("moved %s from %s to %s", what, a.said("from"), a.said("to"))
		}
		return "moved " + what
	case "standing changed":
		if to := a.said("to"); to != "" {
			return "made " + what + " " + to
		}
		return "changed the standing of " + what
	case "brought in", "taken in":
		if a.Kind == "part" || a.Kind == "model" {
			return "made " + what
		}
		return map[string]string{"brought in": "brought in ", "taken in": "took in "}[a.Action] + what
	case "made", "made by intake":
		from := ""
		if file := a.said("file"); file != "" {
			from = " from " + file
			if row, ok := a.Detail["row"].(float64); ok && a.Count == 1 {
				from += fmt.Sprintf(", row %d", int(row))
			}
		}
		return "made " + what + from
	case "wanted":
		if a.Count == 1 && a.said("what") != "" {
			return "wants " + a.said("what") + " (" + a.Name + ")"
		}
		return "wants " + things(a.Kind, a.Count)
	case "taken on":
		return "took on " + what
	case "answered":
		if p := a.said("part"); a.Count == 1 && p != "" {
			return "answered " + what + " with " + p
		}
		return "answered " + what
	case "declined":
		return "declined " + what
	case "open", "opened again":
		return "opened " + what + " again"
	case "draft saved":
		return "changed the draft of " + what
	case "changed by intake":
		if file := a.said("file"); file != "" {
			return "changed " + what + " by the intake of " + file
		}
		return "changed " + what + " by an intake"
	case "merged":
		if into := a.said("into"); a.Count == 1 && into != "" {
			return "merged " + what + " into " + into
		}
		return "merged " + what
	case "went back to a revision":
		return "went back to an earlier revision of " + what
	case "successor named":
		if to := a.said("successor"); a.Count == 1 && to != "" {
			return "named " + to + " the successor of " + what
		}
		return "named a successor of " + what
	case "commented":
		if about := a.said("about"); about != "" {
			what = strings.TrimPrefix(about, "values.") + " of " + what
		}
		if a.said("answers") != "" {
			return "answered a comment on " + what
		}
		return "commented on " + what
	case "held":
		if from := a.said("from"); from != "" {
			return "took over " + what + ", which " + from + " held"
		}
		return "holds " + what + " for editing"
	}
	if verb, ok := plainly[a.Action]; ok {
		return strings.Replace(verb, "%", what, 1)
	}
	return a.Action + ": " + what
}

// plainly are actions that need no more than their thing, which stands in the place of %.
var plainly = map[string]string{
	"applied": "put % in force", "changed": "changed %", "signed": "signed the review list of %", "gate waived": "waived a gate of %", "waiver withdrawn": "took back a waiver of %",
	"proved": "noted built boards for %", "removed": "removed %", "built": "noted that boards of % were built", "proof confirmed": "confirmed what was built of % as a proof", "took over": "let % take over what was merged into it", "merging taken back": "took back the merging of %", "gave back": "let % give back what was merged into it", "former number added": "gave % a former number", "put into a series": "put % into a series", "taken out of a series": "took % out of a series", "offers changed": "found that suppliers say otherwise of %", "price list uploaded": "uploaded a price list for %", "series renamed": "renamed the series of %", "datasheet fetched": "put the file of its datasheet in the place of a link of %", "made an intake": "made an intake of %",
	"records chosen": "chose records for lines of %", "lines wanted": "wanted what lines of % lack", "build said": "said how many boards of % are built at once", "buying said": "said how the parts of % are bought", "frozen": "froze a revision of %", "file replaced": "laid another file in the place of that of %", "columns confirmed": "said what the columns of % mean", "finding accepted": "accepted a finding of %", "findings accepted": "accepted findings of %", "acceptance taken back": "took back what was accepted of %", "moved on": "let % take newer revisions of its parts", "decided": "decided about %", "decisions taken back": "took back decisions made in %",
	"used": "took models from %", "taken back": "took back %", "withdrawn": "withdrew %", "ticked": "ticked items of %", "unticked": "took back ticks of %", "taken": "took % to review", "let go of": "let go of %",
	"readings taught": "taught what lines stand for (%)", "reading withdrawn": "took back what lines stand for (%)", "part replaced": "put another part in the place of one on %", "origin said": "said where the files of % come from", "ending withdrawn": "took back an ending for %", "template changed": "changed % with its template", "opened": "opened %", "models linked": "linked models to %", "model replaced": "replaced a model of %", "newer model taken": "let % take a newer model", "body placed": "placed the body of %", "pin map changed": "changed the pin map of %", "land patterns chosen": "changed the land patterns of %", "land pattern swapped under its pin map": "put another land pattern under the pin map of %",
	"taken for review": "took % to review", "ending confirmed": "confirmed an ending for %", "change taken back": "took back what an intake changed of %", "withdrawn with its intake": "withdrew % with its intake",
	"comment settled": "settled a comment on %", "comment open again": "opened a comment on % again", "no longer held": "let go of %",
	"edited": "changed %", "line reconciled": "reconciled a line of %", "reconciled": "reconciled %", "mended": "mended %", "renamed": "renamed %", "carried over": "carried % over to the changed templates",
}

// Known says whether there are words for an action.
func Known(action string) bool {
	probe := Act{Kind: "part", Action: action, Count: 1, Name: "x"}
	return probe.phrase() != action+": x"
}

// note is what the person said about it, and the full stop.
func note(a Act) string {
	said := ""
	for _, key := range []string{"note", "why", "text"} {
		if said = strings.Join(strings.Fields(a.said(key)), " "); said != "" {
			break
		}
	}
	if said == "" {
		return "."
	}
	if r := []rune(said); len(r) > 200 {
		said = string(r[:199]) + "…"
	}
	return ": “" + said + "”."
}
