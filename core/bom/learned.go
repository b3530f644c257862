package bom

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
	"jollydrawer/core/lookup"
)

// Asks is what a line asks for in the words of its source: its designator letters, and every cell of an identity or a fact. A learned reading hangs on it.
func Asks(l Line) string { return asks(l, true) }

func asks(l Line, named bool) string {
	return strings.Join(l.Letters(), ",") + "\n" + l.evidence(named)
}

// Matters is what of a record a reading hangs on: its drawer and the parameters that identify its parts. A reading is void when it changes.
func Matters(e *lookup.Entry, cab *cabinet.Cabinet) string {
	out := []string{e.Drawer}
	if t, ok := cab.Template(e.Drawer); ok {
		for _, k := range mattering(t) {
			if v := e.Value(k); !v.IsBlank() {
				out = append(out, k+" "+v.Meant().String())
			}
		}
	}
	return strings.Join(out, "; ")
}

// mattering are the parameters that identify parts of a drawer, with the leading one and the case, sorted.
func mattering(t *cabinet.Template) []string {
	keys := slices.Clone(t.Identity)
	for _, k := range []string{t.Leading, t.Case} {
		if k != "" && !slices.Contains(keys, k) {
			keys = append(keys, k)
		}
	}
	slices.Sort(keys)
	return keys
}

// Learn makes a reading of what a person chose for a line: next time a line that says the same is proposed the part, or linked to it where links is set.
// What nobody understood in the line is what the reading explains. Scope, By and At are the caller's.
func Learn(l Line, e *lookup.Entry, tally []Beside, links bool, cab *cabinet.Cabinet) decision.Record {
	r := decision.Record{Kind: decision.Reading, About: Asks(l), Evidence: Matters(e, cab), Outcome: e.ID, Against: against(tally), Links: links}
	for _, b := range tally {
		if b.Says == NotUnderstood {
			r.Explained = append(r.Explained, b.piece())
		}
	}
	return r
}

// LearnNone makes a reading of a line that a person marked as no part of the library.
func LearnNone(l Line, links bool) decision.Record {
	return decision.Record{Kind: decision.Reading, About: Asks(l), Outcome: decision.NoPart, Links: links}
}

// piece names a piece of a line by its column and its text.
func (b Beside) piece() string { return b.Column + ": " + b.Text }

// taught lays what a person taught for lines that say the same beside what was found. It links only where the person said so, the record is what it was in
// what matters, a fact or a number of the line agrees, and nothing else speaks against it or is not understood. Exact evidence for another part is not overruled: then it asks.
func (m *matcher) taught(v *Verdict) {
	if len(m.readings) == 0 || v.Line.Silent() {
		return
	}
	d := m.readings[Asks(*v.Line)]
	if d == nil {
		if d = m.readings[asks(*v.Line, false)]; d == nil {
			return
		}
		once := *d // other lines may have been meant: it is shown, and links no more
		once.Links = false
		d = &once
	}
	who := fmt.Sprintf("%s on %s", d.By, d.At.UTC().Format(time.DateOnly))
	if d.Outcome == decision.NoPart {
		switch {
		case v.Kind == Linked:
			v.say(finding.Warning, "reading-against", fmt.Sprintf("%s took such lines for no part of the library, and the line names %s", who, v.Part.Number), "withdraw the reading where it is wrong")
			v.Kind = Proposed
		case d.Links:
			v.Kind, v.Part, v.Options, v.Ending, v.Reading, v.Tally = Marked, nil, nil, nil, d, m.without(*v.Line)
			v.because("%s took such lines for no part of the library", who)
		default:
			v.because("%s took such lines for no part of the library", who)
		}
		return
	}
	e, found := m.lib.ByID(d.Outcome)
	if found && e.Gone {
		survivor, ok := m.lib.ByNumber(e.Number)
		if found = ok; ok {
			e = survivor
		}
	}
	if !found {
		v.say(finding.Warning, "reading-void", "the part that "+who+" took such lines for is no longer there", "withdraw the reading, or teach another")
		return
	}
	if v.Kind == Linked && v.Part.ID == e.ID {
		v.because("as %s took such lines for", who)
		return
	}
	others := v.Options
	if v.Part != nil {
		others = append([]*lookup.Entry{v.Part}, others...)
	}
	others = slices.DeleteFunc(slices.Clone(others), func(o *lookup.Entry) bool { return o.ID == e.ID })
	if v.Kind == Linked {
		v.Kind, v.Options = Proposed, append([]*lookup.Entry{e}, others[1:]...)
		v.say(finding.Warning, "reading-against", fmt.Sprintf("%s took such lines for %s, and the line names %s", who, e.Number, v.Part.Number), "choose one of them, and withdraw the reading where it is wrong")
		return
	}
	v.Part, v.Kind, v.Options, v.Tally, v.Ending, v.Reading = e, Proposed, others[:min(len(others), maxOptions)], m.tally(*v.Line, e), nil, d
	v.because("%s took such lines for %s", who, e.Number)
	agrees, clear := false, true
	for i := range v.Tally {
		b := &v.Tally[i]
		switch {
		case b.Says == NotUnderstood && slices.Contains(d.Explained, b.piece()):
			b.Says, b.Param, b.Record, b.Why = Agrees, "", e.Number, "so "+who
		case b.Says == NotUnderstood, b.Says == Contradicts:
			clear = false
		case b.Says == Agrees:
			agrees = agrees || b.Param != "" && b.Param != "drawer" && b.Param != "manufacturer" // of which there are many parts
		}
	}
	t, known := m.cab.Template(e.Drawer)
	switch now := Matters(e, m.cab); {
	case e.ID != d.Outcome || now != d.Evidence:
		v.say(finding.Warning, "reading-void", fmt.Sprintf("%s is otherwise in what matters than when %s took such lines for it: it was %s, and is %s", e.Number, who, d.Evidence, now), "accept it anew, or choose another part")
	case d.Links && agrees && clear && known && m.lettersOf(*v.Line, t): // what may not be used is found on its boards by being linked, and is a finding there
		v.Kind = Linked
	}
}

// readings are what people taught, by what lines ask; the later word counts.
func readings(list []decision.Record) map[string]*decision.Record {
	out := map[string]*decision.Record{}
	for i := range list {
		if d := &list[i]; d.Kind == decision.Reading && d.Withdrawn == "" {
			out[d.About] = d
		}
	}
	return out
}
