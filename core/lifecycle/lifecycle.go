// Package lifecycle holds the three facts that are never mixed: the status of a content (where it is on its way), the standing
// of a thing (how it may be used) and its proof (on how many boards an exact revision worked). A house writes down in a Document
// which states there are, which moves lead from one to the next, who may make them and which gates must hold. Keeping the states
// of things, and asking who somebody is, are left to others.
package lifecycle

import (
	"maps"
	"slices"
)

// Format names the form of lifecycle documents.
const Format = "jolly-lifecycle/1"

// Status says where content is on its way: the key of a state of the status track.
type Status string

// The statuses of the lifecycles that ship. A record with a released revision and newer unreleased edits is Released with a draft
// beside it.
const (
	Draft      Status = "draft"
	InReview   Status = "in review"
	Released   Status = "released"
	Superseded Status = "superseded"
	Withdrawn  Status = "withdrawn"
)

// Standing says how a thing may be used: the key of a state of the standing track.
type Standing string

// The standings of the lifecycles that ship.
const (
	Active    Standing = "active"
	NotForNew Standing = "not for new designs"
	Obsolete  Standing = "obsolete"
)

// Standings are the standings that ship, the best first; blank, which stands for nobody saying, comes before them.
var Standings = []Standing{"", Active, NotForNew, Obsolete}

// Severity is the place of s among Standings; -1 for a house's own.
func (s Standing) Severity() int { return slices.Index(Standings, s) }

// Meaning is what a state of the status track stands for, whatever word a house gives it.
type Meaning string

// The meanings.
const (
	MeansDraft      Meaning = "draft"
	MeansReview     Meaning = "in review"
	MeansUse        Meaning = "in use"
	MeansSuperseded Meaning = "superseded"
	MeansWithdrawn  Meaning = "withdrawn"
)

// Meanings lists the meanings in the order of a content's life.
var Meanings = []Meaning{MeansDraft, MeansReview, MeansUse, MeansSuperseded, MeansWithdrawn}

// OfDraft says whether a state of this meaning is one of content that is not frozen yet.
func (m Meaning) OfDraft() bool { return m == MeansDraft || m == MeansReview }

// Use says whether what is in a state may be used in a design.
type Use string

// The uses.
const (
	UseYes     Use = "yes"
	UseCaution Use = "with caution"
	UseNo      Use = "no"
)

// Shapes are what a state is drawn as beside its word, so that it is told apart without colour.
var Shapes = []string{"ring", "half", "disc", "square", "bar", "cross", "triangle", "diamond"}

// Forbidden acts: what a document may forbid in a state, where it would otherwise only be flagged.
const (
	ForbidCopy   = "copy"   // making a part as a copy of one
	ForbidChoose = "choose" // choosing it for a line of a BOM
	ForbidFreeze = "freeze" // freezing a BOM that uses it
)

// State is a place in a lifecycle.
type State struct {
	Key     string   `json:"key" yaml:"key"`                             // stable; things are kept under it
	Word    string   `json:"word" yaml:"word"`                           // the house's own
	Meaning Meaning  `json:"meaning,omitempty" yaml:"meaning,omitempty"` // of a status; a standing has none
	First   bool     `json:"first,omitempty" yaml:"first,omitempty"`
	Change  bool     `json:"change,omitempty" yaml:"change,omitempty"` // content may change
	Use     Use      `json:"use" yaml:"use"`
	Readout bool     `json:"readout,omitempty" yaml:"readout,omitempty"` // design tools see what is in it
	Shape   string   `json:"shape" yaml:"shape"`
	Forbids []string `json:"forbids,omitempty" yaml:"forbids,omitempty"`
}

// Who says who may make a move or waive a gate: at least a role, of a group where one is named, and not an author of what is
// moved where that is asked.
type Who struct {
	Role      string `json:"role,omitempty" yaml:"role,omitempty"`
	Group     string `json:"group,omitempty" yaml:"group,omitempty"`
	NotAuthor bool   `json:"notAuthor,omitempty" yaml:"notAuthor,omitempty"`
}

// String says who it is in words.
func (w Who) String() string {
	s := w.Role
	if s == "" {
		s = "anybody"
	}
	if w.Group != "" {
		s += " of the group " + w.Group
	}
	if w.NotAuthor {
		s += ", not an author"
	}
	return s
}

// GateUse puts a gate on a move.
type GateUse struct {
	Gate  string            `json:"gate" yaml:"gate" enum:"alternates,datasheet,findings,identity,models,pin map,production,proof,required,review,settled,sources"`
	With  map[string]string `json:"with,omitempty" yaml:"with,omitempty"`   // what the gate wants to know, such as at least: 2
	Waive *Who              `json:"waive,omitempty" yaml:"waive,omitempty"` // who may waive it; nobody where it is missing
}

// String says which gate it is, what it was told and who may waive it.
func (g GateUse) String() string {
	text := g.Gate
	for _, k := range slices.Sorted(maps.Keys(g.With)) {
		text += " " + k + " " + g.With[k]
	}
	if g.Waive != nil {
		text += " (waived by " + g.Waive.String() + ")"
	}
	return text
}

// Move leads from one of some states to another of the same track.
type Move struct {
	Key   string    `json:"key" yaml:"key"`
	Label string    `json:"label" yaml:"label"`
	From  []string  `json:"from" yaml:"from"`
	To    string    `json:"to" yaml:"to"`
	Who   Who       `json:"who" yaml:"who"`
	Note  bool      `json:"note,omitempty" yaml:"note,omitempty"` // a note is wanted
	Gates []GateUse `json:"gates,omitempty" yaml:"gates,omitempty"`
}

// Document is the lifecycle of one kind of thing.
type Document struct {
	Format   string   `json:"format" yaml:"format"`
	Name     string   `json:"name" yaml:"name"`
	Of       string   `json:"of" yaml:"of"`                                 // parts, models or boms
	Counting Counting `json:"counting,omitempty" yaml:"counting,omitempty"` // of revisions; numbers where it is missing
	Status   []State  `json:"status" yaml:"status"`
	Standing []State  `json:"standing" yaml:"standing"`
	Moves    []Move   `json:"moves" yaml:"moves"`
	// Becomes names for each state of an earlier document that is gone the state that its things are in from now on.
	Becomes map[string]string `json:"becomes,omitempty" yaml:"becomes,omitempty"`
}

// states are those of both tracks.
func (d Document) states() []State { return slices.Concat(d.Status, d.Standing) }

// Lifecycle is a checked document. It is not changed any more, and may be read by several goroutines.
type Lifecycle struct {
	Document Document
	states   map[string]State
	status   map[string]bool // keys of the status track
	gates    map[string][]gateOn
}

// gateOn is a gate of a move with what it was told.
type gateOn struct {
	use GateUse
	ask func(Facts) Answer
}

// State returns the state of a key, or the one that a state of an earlier document became.
func (l *Lifecycle) State(key string) (State, bool) {
	for range len(l.Document.Becomes) + 1 {
		if s, ok := l.states[key]; ok {
			return s, true
		}
		key = l.Document.Becomes[key]
	}
	return State{}, false
}

// DraftState returns the state of content that is not frozen: the one of its key, or the first one where it was never moved.
func (l *Lifecycle) DraftState(key string) State {
	if s, ok := l.State(key); ok && s.Meaning.OfDraft() {
		return s
	}
	return l.first(l.Document.Status, MeansDraft)
}

// RevisionState returns the state of the revision that a thing has released last; of one whose key says nothing, the first that
// means in use.
func (l *Lifecycle) RevisionState(key string) State {
	if s, ok := l.State(key); ok && s.Meaning != "" && !s.Meaning.OfDraft() {
		return s
	}
	return l.first(l.Document.Status, MeansUse)
}

// OldState returns the state of a revision that a newer one took the place of; key is what it was moved to since, such as withdrawn.
func (l *Lifecycle) OldState(key string) State {
	if s, ok := l.State(key); ok && (s.Meaning == MeansSuperseded || s.Meaning == MeansWithdrawn) {
		return s
	}
	return l.first(l.Document.Status, MeansSuperseded)
}

// StandingState returns the standing of a thing.
func (l *Lifecycle) StandingState(key string) State {
	if s, ok := l.State(key); ok && s.Meaning == "" {
		return s
	}
	return l.first(l.Document.Standing, "")
}

// first is the state of a meaning that is marked as the first, or stands first.
func (l *Lifecycle) first(of []State, m Meaning) (out State) {
	for i := len(of) - 1; i >= 0; i-- {
		if of[i].Meaning == m && (!out.First || of[i].First) {
			out = of[i]
		}
	}
	return out
}

// Move returns the move of a key.
func (l *Lifecycle) Move(key string) (Move, bool) {
	i := slices.IndexFunc(l.Document.Moves, func(m Move) bool { return m.Key == key })
	if i < 0 {
		return Move{}, false
	}
	return l.Document.Moves[i], true
}

// MovesFrom lists the moves that lead away from a state.
func (l *Lifecycle) MovesFrom(state string) (out []Move) {
	for _, m := range l.Document.Moves {
		if slices.Contains(m.From, state) {
			out = append(out, m)
		}
	}
	return out
}

// Target returns the state that a move leads to, and whether that is a status; otherwise it is a standing.
func (l *Lifecycle) Target(m Move) (to State, status bool) { return l.states[m.To], l.status[m.To] }

// Releases says whether a move freezes content: it leads from what is not frozen to what is in use.
func (l *Lifecycle) Releases(m Move) bool {
	return l.states[m.To].Meaning == MeansUse && slices.ContainsFunc(m.From, func(k string) bool { return l.states[k].Meaning.OfDraft() })
}

// Ask asks the gates of a move, in their order.
func (l *Lifecycle) Ask(move string, f Facts) (out []Answer) {
	for _, g := range l.gates[move] {
		a := g.ask(f)
		a.Gate, a.Waive = g.use.Gate, g.use.Waive
		out = append(out, a)
	}
	return out
}
