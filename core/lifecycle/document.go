package lifecycle

import (
	_ "embed" // for the documents that ship
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"jollydrawer/core/document"
	"jollydrawer/core/names"
)

// Schema is the JSON Schema (draft 2020-12) of lifecycle documents.
//
//go:embed schema.json
var Schema string

// The lifecycles that ship. They ask for no second person, so that a house of one can work.
var (
	//go:embed parts.yaml
	partsText []byte
	//go:embed models.yaml
	modelsText []byte
	//go:embed boms.yaml
	bomsText []byte
)

// Kinds are the kinds of things that a document can be of. There ships one of each, under that name.
var Kinds = []string{"parts", "models", "boms"}

// Shipped returns the text of a lifecycle that ships: parts, models or boms.
func Shipped(name string) ([]byte, bool) {
	text, ok := map[string][]byte{"parts": partsText, "models": modelsText, "boms": bomsText}[name]
	return text, ok
}

var (
	nameForm = regexp.MustCompile(`^[a-z][a-z0-9-]{0,47}$`)
	keyForm  = regexp.MustCompile(`^[a-z][a-z0-9]*([ -][a-z0-9]+)*$`)
)

// What the database has room for, and what nobody can survey any more.
const (
	maxKey    = 24
	maxStates = 40
	maxMoves  = 200
)

// Roles that a move or a waiver may ask for, in rising order; who reads only moves nothing.
var Roles = []string{"engineer", "librarian", "administrator"}

// kept are the keys under which things leave their lifecycle: merged into another, taken back with their intake.
var kept = []string{"merged", "withdrawn"}

// Parse reads a lifecycle document in YAML or JSON and checks it. Unknown fields are refused, so that a misspelt one is not
// silently without effect.
func Parse(raw []byte) (*Lifecycle, error) {
	var doc Document
	if err := document.ReadYAML(raw, "the lifecycle document", &doc); err != nil {
		return nil, err
	}
	return New(doc)
}

// FromJSON reads a document that Parse accepted earlier.
func FromJSON(raw []byte) (*Lifecycle, error) {
	var doc Document
	if err := json.Unmarshal(raw, &doc); err != nil {
		return nil, fmt.Errorf("lifecycle: %w", err)
	}
	return New(doc)
}

// New checks a document. The error names the state or the move that is wrong.
func New(doc Document) (*Lifecycle, error) {
	l := &Lifecycle{Document: doc, states: map[string]State{}, status: map[string]bool{}, gates: map[string][]gateOn{}}
	for _, check := range []func() error{l.checkNames, l.checkStates, l.checkMoves, l.checkWays, l.checkBecomes} {
		if err := check(); err != nil {
			return nil, err
		}
	}
	return l, nil
}

func (l *Lifecycle) checkNames() error {
	d := &l.Document
	switch {
	case d.Format != Format:
		return fmt.Errorf("the lifecycle document has format %q; this version reads %q", d.Format, Format)
	case !nameForm.MatchString(d.Name):
		return fmt.Errorf("the lifecycle has the name %q: use small letters, digits and dashes, beginning with a letter, at most 48", d.Name)
	case !slices.Contains(Kinds, d.Of):
		return fmt.Errorf("the lifecycle %q is of %q: use parts, models or boms", d.Name, d.Of)
	case len(d.Status)+len(d.Standing) > maxStates || len(d.Moves) > maxMoves:
		return fmt.Errorf("the lifecycle %q has %d states and %d moves: at most %d and %d are kept", d.Name, len(d.Status)+len(d.Standing), len(d.Moves), maxStates, maxMoves)
	}
	if d.Counting == "" {
		d.Counting = Numbers
	}
	return d.Counting.check()
}

func (l *Lifecycle) checkStates() error {
	d, words := &l.Document, map[string]string{}
	for _, track := range []struct {
		name   string
		states []State
	}{{"status", d.Status}, {"standing", d.Standing}} {
		var firsts []string
		for _, s := range track.states {
			if err := s.check(track.name); err != nil {
				return err
			}
			if _, twice := l.states[s.Key]; twice {
				return fmt.Errorf("two states have the key %q: give each its own, in status and standing together", s.Key)
			}
			word := track.name + "\n" + strings.ToLower(s.Word)
			if other, twice := words[word]; twice {
				return fmt.Errorf("the states %q and %q are both called %q: nobody could tell them apart", other, s.Key, s.Word)
			}
			l.states[s.Key], words[word] = s, s.Key
			if track.name == "status" {
				l.status[s.Key] = true
			}
			if s.First {
				firsts = append(firsts, s.Key)
			}
		}
		if len(firsts) != 1 {
			return fmt.Errorf("the %s track has %d first states%s: mark just one with first: true", track.name, len(firsts), named(firsts))
		}
	}
	for _, m := range []Meaning{MeansDraft, MeansUse, MeansSuperseded} {
		if !slices.ContainsFunc(d.Status, func(s State) bool { return s.Meaning == m }) {
			return fmt.Errorf("no status means %q: a lifecycle needs one", m)
		}
	}
	return nil
}

func named(keys []string) string {
	if len(keys) == 0 {
		return ""
	}
	return " (" + strings.Join(keys, ", ") + ")"
}

func (s State) check(track string) error {
	switch {
	case !keyForm.MatchString(s.Key) || len(s.Key) > maxKey:
		return fmt.Errorf("the state %q needs a key of small letters and digits, with single blanks or dashes between them, at most %d", s.Key, maxKey)
	case !names.Shown(s.Word, 40):
		return fmt.Errorf("the state %q needs a word of at most 40 letters, all of which can be seen", s.Key)
	case s.Use != UseYes && s.Use != UseCaution && s.Use != UseNo:
		return fmt.Errorf("the state %q may be used: %q; write yes, with caution or no", s.Key, s.Use)
	case !slices.Contains(Shapes, s.Shape):
		return fmt.Errorf("the state %q has the shape %q: use one of %s", s.Key, s.Shape, strings.Join(Shapes, ", "))
	case track == "standing" && slices.Contains(kept, s.Key):
		return fmt.Errorf("the standing %q is kept for parts that were merged or taken back: choose another key", s.Key)
	case track == "standing" && s.Meaning != "":
		return fmt.Errorf("the standing %q has the meaning %q: only a status has one", s.Key, s.Meaning)
	case track == "status" && !slices.Contains(Meanings, s.Meaning):
		return fmt.Errorf("the status %q has the meaning %q: use draft, in review, in use, superseded or withdrawn", s.Key, s.Meaning)
	case track == "standing" && s.Change:
		return fmt.Errorf("the standing %q says that content may change: that is for a status to say", s.Key)
	case s.Change && !s.Meaning.OfDraft():
		return fmt.Errorf("the status %q means %s, and what is frozen does not change: remove change", s.Key, s.Meaning)
	case s.First && s.Meaning != "" && (s.Meaning != MeansDraft || !s.Change):
		return fmt.Errorf("the status %q is the first: it must mean draft, and its content may change", s.Key)
	case s.Readout && s.Meaning.OfDraft():
		return fmt.Errorf("the status %q is shown to design tools and means %s: they read only what is frozen; remove readout", s.Key, s.Meaning)
	}
	for _, f := range s.Forbids {
		if f != ForbidCopy && f != ForbidChoose && f != ForbidFreeze {
			return fmt.Errorf("the state %q forbids %q: use copy, choose or freeze", s.Key, f)
		}
	}
	return nil
}

// mayFollow says which meanings a move may join.
func mayFollow(from, to Meaning) bool {
	switch from {
	case MeansDraft, MeansReview:
		return to.OfDraft() || to == MeansUse
	case MeansUse:
		return to == MeansUse || to == MeansWithdrawn
	case MeansSuperseded:
		return to == MeansWithdrawn
	}
	return from == MeansWithdrawn && to == MeansUse // withdrawn by mistake
}

func (l *Lifecycle) checkMoves() error {
	seen := map[string]bool{}
	for _, m := range l.Document.Moves {
		if !keyForm.MatchString(m.Key) || len(m.Key) > maxKey || !names.Shown(m.Label, 60) {
			return fmt.Errorf("the move %q needs a key of small letters, digits and dashes, at most %d, and a label of at most 60 letters, all of which can be seen", m.Key, maxKey)
		}
		if seen[m.Key] {
			return fmt.Errorf("two moves have the key %q", m.Key)
		}
		seen[m.Key] = true
		to, ok := l.states[m.To]
		if !ok {
			return fmt.Errorf("the move %q leads to %q, which is no state of the document", m.Key, m.To)
		}
		if len(m.From) == 0 {
			return fmt.Errorf("the move %q leads away from nothing: name the states it begins at", m.Key)
		}
		var drafts int
		for i, key := range m.From {
			from, ok := l.states[key]
			switch {
			case !ok:
				return fmt.Errorf("the move %q begins at %q, which is no state of the document", m.Key, key)
			case slices.Contains(m.From[:i], key):
				return fmt.Errorf("the move %q names %q twice", m.Key, key)
			case key == m.To:
				return fmt.Errorf("the move %q leads from %q to itself", m.Key, key)
			case l.status[key] != l.status[m.To]:
				return fmt.Errorf("the move %q leads from %q to %q: one is a status, the other a standing, and the two are never mixed", m.Key, key, m.To)
			case l.status[key] && !mayFollow(from.Meaning, to.Meaning):
				return fmt.Errorf("the move %q leads from %q (%s) to %q (%s), which no content can do", m.Key, key, from.Meaning, m.To, to.Meaning)
			}
			if from.Meaning.OfDraft() {
				drafts++
			}
		}
		if drafts > 0 && drafts < len(m.From) {
			return fmt.Errorf("the move %q begins at drafts and at what is frozen: make two of it", m.Key)
		}
		if err := m.Who.check("the move " + fmt.Sprintf("%q", m.Key)); err != nil {
			return err
		}
		if err := l.checkGates(m); err != nil {
			return err
		}
	}
	return nil
}

func (w Who) check(what string) error {
	if w.Role == "" && w.Group == "" {
		return fmt.Errorf("%s is for nobody: name a role or a group", what)
	}
	if w.Role != "" && !slices.Contains(Roles, w.Role) {
		return fmt.Errorf("%s asks for the role %q: use engineer, librarian or administrator", what, w.Role)
	}
	return nil
}

func (l *Lifecycle) checkGates(m Move) error {
	for i, use := range m.Gates {
		g, ok := gates[use.Gate]
		if !ok {
			return fmt.Errorf("the move %q has the gate %q, which is not there: use one of %s", m.Key, use.Gate, strings.Join(GateNames(), ", "))
		}
		if slices.ContainsFunc(m.Gates[:i], func(u GateUse) bool { return u.Gate == use.Gate }) {
			return fmt.Errorf("the move %q has the gate %q twice", m.Key, use.Gate)
		}
		if len(g.of) > 0 && !slices.Contains(g.of, l.Document.Of) {
			return fmt.Errorf("the move %q has the gate %q, which is for %s", m.Key, use.Gate, strings.Join(g.of, " and "))
		}
		ask, err := g.with(use.With)
		if err != nil {
			return fmt.Errorf("the gate %q of the move %q: %w", use.Gate, m.Key, err)
		}
		if use.Waive != nil {
			if err := use.Waive.check(fmt.Sprintf("the waiver of the gate %q of the move %q", use.Gate, m.Key)); err != nil {
				return err
			}
		}
		l.gates[m.Key] = append(l.gates[m.Key], gateOn{use, ask})
	}
	return nil
}

// checkWays refuses states that nothing leads to, drafts that never come into use, and standings that nothing leads away from.
func (l *Lifecycle) checkWays() error {
	next := map[string][]string{}
	for _, m := range l.Document.Moves {
		for _, from := range m.From {
			next[from] = append(next[from], m.To)
		}
	}
	reach := func(from string) map[string]bool {
		seen, todo := map[string]bool{from: true}, []string{from}
		for len(todo) > 0 {
			at := todo[0]
			todo = todo[1:]
			for _, to := range next[at] {
				if !seen[to] {
					seen[to], todo = true, append(todo, to)
				}
			}
		}
		return seen
	}
	for _, track := range [][]State{l.Document.Status, l.Document.Standing} {
		first := track[slices.IndexFunc(track, func(s State) bool { return s.First })].Key
		there := reach(first)
		for _, s := range track {
			if s.Meaning == MeansSuperseded { // a newer revision leads to it
				if i := slices.IndexFunc(track, func(o State) bool { return o.Meaning == MeansSuperseded }); track[i].Key != s.Key {
					return fmt.Errorf("the states %q and %q both mean superseded: content gets there by itself, so there can be one only", track[i].Key, s.Key)
				}
				for key := range reach(s.Key) {
					there[key] = true
				}
			}
		}
		for _, s := range track {
			if !there[s.Key] && s.Meaning != MeansSuperseded {
				return fmt.Errorf("nothing leads from %q to the state %q: add a move, or remove the state", first, s.Key)
			}
			if s.Meaning == "" && len(track) > 1 && len(next[s.Key]) == 0 {
				return fmt.Errorf("the standing %q can never be left, not even when it was a mistake: add a move away from it", s.Key)
			}
			if s.Meaning.OfDraft() && !slices.ContainsFunc(l.Document.Status, func(o State) bool { return o.Meaning == MeansUse && reach(s.Key)[o.Key] }) {
				return fmt.Errorf("the status %q can never be left for one that is in use: add a move", s.Key)
			}
		}
	}
	return nil
}

func (l *Lifecycle) checkBecomes() error {
	for old, now := range l.Document.Becomes {
		if _, there := l.states[old]; there {
			return fmt.Errorf("becomes names %q, which is still a state of the document", old)
		}
		if _, ok := l.State(old); !ok {
			return fmt.Errorf("becomes leads from %q to %q, which is no state of the document", old, now)
		}
	}
	return nil
}
