package lifecycle

import (
	"fmt"
	"slices"
	"strings"
)

// Change is what a new document makes of an earlier one.
type Change struct {
	Gone     []Gone   // states that are no more
	Without  []string // of them, those of which nobody said what they become
	Added    []string // words of states
	Moves    []string // what is otherwise with the moves, in words
	Counting string   // how revisions are counted from now on, where that is another way; blank otherwise
}

// Gone is a state that is no more, and the one that its things are in from now on.
type Gone struct{ Was, Becomes State }

// Follow lays a new document over the one in force: what became of still earlier states is carried over, so that no thing is ever in
// a state that nobody knows. The document that comes back is the one to be kept.
func (l *Lifecycle) Follow(next Document) (*Lifecycle, Change, error) {
	var c Change
	becomes := map[string]string{}
	for old, now := range l.Document.Becomes {
		becomes[old] = now
	}
	for old, now := range next.Becomes {
		becomes[old] = now
	}
	for _, s := range next.states() {
		delete(becomes, s.Key) // it is a state again, and its things are in it again
	}
	next.Becomes = becomes
	if next.Of != l.Document.Of {
		return nil, c, fmt.Errorf("the lifecycle %q is of %s: it cannot become one of %s", l.Document.Name, l.Document.Of, next.Of)
	}
	has := func(key string) bool {
		return slices.ContainsFunc(next.states(), func(s State) bool { return s.Key == key })
	}
	for _, s := range l.Document.states() {
		if !has(s.Key) && becomes[s.Key] == "" {
			c.Without = append(c.Without, s.Key)
		}
	}
	if len(c.Without) > 0 {
		return nil, c, fmt.Errorf("the state %q is gone, and things may be in it: say under becomes which state they are in from now on", c.Without[0])
	}
	now, err := New(next)
	if err != nil {
		return nil, c, err
	}
	for _, s := range l.Document.states() {
		if has(s.Key) {
			continue
		}
		to, _ := now.State(s.Key)
		if (to.Meaning == "") != (s.Meaning == "") || s.Meaning.OfDraft() != to.Meaning.OfDraft() {
			return nil, c, fmt.Errorf("the state %q (%s) cannot become %q (%s): a draft stays a draft, what is frozen stays frozen, and a standing stays a standing", s.Key, kindOf(s), to.Key, kindOf(to))
		}
		c.Gone = append(c.Gone, Gone{s, to})
	}
	for _, s := range next.states() {
		if _, ok := l.states[s.Key]; !ok {
			c.Added = append(c.Added, s.Word)
		}
	}
	c.Moves = movesChanged(l, now)
	if now.Document.Counting != l.Document.Counting {
		c.Counting = string(now.Document.Counting)
	}
	return now, c, nil
}

func kindOf(s State) string {
	if s.Meaning == "" {
		return "a standing"
	}
	return string(s.Meaning)
}

// movesChanged says in words what is otherwise with the moves.
func movesChanged(was, now *Lifecycle) (out []string) {
	for _, m := range was.Document.Moves {
		n, ok := now.Move(m.Key)
		switch {
		case !ok:
			out = append(out, fmt.Sprintf("%q is gone", m.Label))
			continue
		case m.Who != n.Who:
			out = append(out, fmt.Sprintf("%q is for %s, before for %s", n.Label, n.Who, m.Who))
		}
		if a, b := gateWords(m), gateWords(n); a != b {
			out = append(out, fmt.Sprintf("%q has the gates %s, before %s", n.Label, b, a))
		}
		if a, b := strings.Join(m.From, ", ")+" → "+m.To, strings.Join(n.From, ", ")+" → "+n.To; a != b {
			out = append(out, fmt.Sprintf("%q leads %s, before %s", n.Label, b, a))
		}
		if m.Note != n.Note {
			out = append(out, fmt.Sprintf("%q wants a note: %s", n.Label, map[bool]string{true: "yes", false: "no longer"}[n.Note]))
		}
	}
	for _, n := range now.Document.Moves {
		if _, ok := was.Move(n.Key); !ok {
			out = append(out, fmt.Sprintf("%q is new: %s → %s, for %s", n.Label, strings.Join(n.From, ", "), n.To, n.Who))
		}
	}
	return out
}

func gateWords(m Move) string {
	if len(m.Gates) == 0 {
		return "none"
	}
	var out []string
	for _, g := range m.Gates {
		out = append(out, g.String())
	}
	return strings.Join(out, ", ")
}
