package bom

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/finding"
	"jollydrawer/core/names"
)

// A line of a board may stand for another board: a person says which BOM it is. What one board takes of it is what a frozen revision of that BOM is made of, taken as often
// as the line says. A revision never changes and was frozen before whatever is made of it, so that what is made of others always comes to an end; a board that would be
// made of itself, by way of others too, is refused all the same.

// boardWord stands before the identifier of a BOM in the outcome of a decision.
const boardWord = "bom "

// BoardOutcome is the outcome of the decision that a line is another BOM: of one variant, where its board is built in several.
func BoardOutcome(id, variant string) string {
	return strings.TrimSpace(boardWord + id + " " + variant)
}

// BoardIn reads such an outcome.
func BoardIn(outcome string) (id, variant string, is bool) {
	rest, is := strings.CutPrefix(outcome, boardWord)
	id, variant, _ = strings.Cut(rest, " ")
	return id, variant, is
}

// BoardPin is one exact revision of a BOM that a line is.
type BoardPin struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Revision int    `json:"revision"`
	Label    string `json:"label" doc:"What the revision is called"`
	Hash     string `json:"hash" doc:"Of its content"`
	Variant  string `json:"variant,omitempty" doc:"Of its board"`
}

// String names it as people do.
func (p BoardPin) String() string {
	out := p.Name + " revision " + p.Label
	if p.Variant != "" {
		out += ", variant " + p.Variant
	}
	return out
}

// Sub is another BOM that lines of a board are.
type Sub struct {
	Pin       BoardPin // the revision that it is taken at; without one only ID and Name are known
	Newest    string   // the label of the newest that could be taken, where that is another
	Why       string   // why no revision of it can be taken
	Withdrawn string   // the state of the revision, where it may not be used any more
	Lines     []Pinned // what the revision is made of
}

// Subs are the other BOMs that lines of a board are, by the outcome of the decision that says so.
type Subs map[string]Sub

// Board is the BOM that a line is, with its revision; nothing for other lines.
func (s Subs) Board(v *Verdict) (Sub, bool) {
	if v.Kind != Another || v.Chosen == nil {
		return Sub{}, false
	}
	sub, is := s[v.Chosen.Outcome]
	if is && sub.Why == "" && v.Line.Amount != (Amount{}) {
		sub.Why = v.Line.Needs().String() + " is not counted in boards"
	}
	return sub, is
}

// Findings are what is found of a line that is another BOM.
func (s Subs) Findings(v *Verdict) (out []finding.Finding) {
	sub, is := s.Board(v)
	if !is {
		return nil
	}
	say := func(sev finding.Severity, cause, what, mend string) {
		out = append(out, finding.Finding{Severity: sev, Cause: cause, Row: v.Line.Row, What: what, Mend: mend})
	}
	switch {
	case sub.Why != "":
		say(finding.Error, "board-open", sub.Why, "mend it, or choose again")
	case sub.Withdrawn != "":
		say(finding.Error, "pin-withdrawn", fmt.Sprintf("revision %s of %s is %s", sub.Pin.Label, sub.Pin.Name, sub.Withdrawn), "move on to another revision")
	case sub.Newest != "":
		say(finding.Warning, "behind", fmt.Sprintf("the board holds on to revision %s of %s, and revision %s is in use", sub.Pin.Label, sub.Pin.Name, sub.Newest), "look at what differs, and move it on")
	}
	return out
}

// mostNamed is how many records a finding of a board names.
const mostNamed = 5

// Lacking says of a line that is another BOM what suppliers lack of what that is made of, where of says so of a record: one finding of each cause, which names the records.
func (s Subs) Lacking(v *Verdict, of func(id string) []finding.Finding) (out []finding.Finding) {
	sub, is := s.Board(v)
	if !is {
		return nil
	}
	names := map[string][]string{}
	for _, id := range s.Records(v) {
		for _, f := range of(id) {
			if names[f.Cause] == nil {
				out = append(out, f)
			}
			names[f.Cause] = append(names[f.Cause], sub.numberOf(id)+" ("+f.What+")")
		}
	}
	for i := range out {
		f := &out[i]
		all := names[f.Cause]
		more := ""
		if len(all) > mostNamed {
			more = fmt.Sprintf(", and %d more", len(all)-mostNamed)
		}
		f.Text, f.What = "", fmt.Sprintf("of what %s is made of: %s%s", sub.Pin.Name, strings.Join(all[:min(len(all), mostNamed)], ", "), more)
	}
	return out
}

// numberOf is the number of a record that it is made of.
func (s Sub) numberOf(id string) string {
	for _, l := range s.Lines {
		if l.Part != nil && l.Part.ID == id {
			return l.Part.Number
		}
	}
	return id
}

// Hindrances are what keeps a board from being frozen by what its lines are made of.
func (s Subs) Hindrances(vs []Verdict) (out []Hindrance) {
	for i := range vs {
		if sub, is := s.Board(&vs[i]); is && sub.Why != "" {
			out = append(out, Hindrance{vs[i].Line.Row, "board-open", fmt.Sprintf("%s cannot be taken as it is: %s", vs[i].named(), sub.Why)})
		}
	}
	return out
}

// Pin pins the lines that are other BOMs to the revisions of those. One of which none can be taken stays without a pin, as a line that nothing answers.
func (s Subs) Pin(lines []Pinned, vs []Verdict) {
	for i := range vs {
		if sub, is := s.Board(&vs[i]); is && sub.Why == "" {
			pin := sub.Pin
			lines[i].Board, lines[i].Assembly = &pin, true
		}
	}
}

// Expanded puts below each line that is another BOM what that is made of, as often as it is taken; of has the lines of a pin. What is made of others itself has that in its own
// revision.
func Expanded(lines []Pinned, of func(BoardPin) []Pinned) ([]Pinned, error) {
	out := make([]Pinned, 0, len(lines))
	grown := 0
	var named names.Taken
	for _, l := range lines {
		if l.Board != nil {
			for _, d := range l.Designators {
				named.Add(d)
			}
		}
	}
	for _, l := range lines {
		out = append(out, l)
		if l.Board == nil || l.NotFitted || l.Of != "" {
			continue
		}
		places := l.Designators
		if len(places) == 0 {
			places = []string{named.Free(placeNamed(l.Board.Name), dashed)}
		}
		if len(places) > mostPlaces {
			places = []string{places[0] + "…"}
		}
		for _, c := range of(*l.Board) {
			if l.Quantity > 0 && c.Quantity > mostTimes/l.Quantity {
				return nil, fmt.Errorf("row %d: a board would take more than %d pieces of what %s is made of", l.Row, mostTimes, l.Board)
			}
			at := places
			if grown += len(places) * len(c.Designators); grown > mostGrown {
				grown -= len(places) * len(c.Designators)
				at = []string{places[0] + "…"}
			}
			c.Row, c.Designators, c.Quantity, c.In, c.Of = l.Row, inPlaces(at, c.Designators), c.Quantity*l.Quantity, l.In, cmp.Or(c.Of, l.Board.String())
			if c.Amount != "" {
				c.Amount = amountOf(c.Amount).Times(int64(l.Quantity)).String()
			}
			out = append(out, c)
		}
		if len(out) > mostExpanded {
			return nil, fmt.Errorf("the board is made of more than %d lines with those of the boards that it takes", mostExpanded)
		}
	}
	return out, nil
}

// amountOf reads an amount as String writes it.
func amountOf(text string) Amount {
	number, unit, _ := strings.Cut(text, " ")
	return Amount{number, unit}
}

// mostExpanded bounds the lines of a board with those of the boards that it takes.
const mostExpanded = 50_000

// OwnLines are those that stand in the board's own file.
func OwnLines(lines []Pinned) []Pinned {
	return slices.DeleteFunc(slices.Clone(lines), func(l Pinned) bool { return l.Of != "" })
}

// HoldsBoard says whether lines take another BOM, by its identifier.
func HoldsBoard(lines []Pinned, id string) bool {
	return slices.ContainsFunc(lines, func(l Pinned) bool { return l.Board != nil && l.Board.ID == id })
}
