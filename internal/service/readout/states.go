package readout

import (
	"slices"

	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
)

// writeStates writes what the parts of each drawer are in each state, by the rules as a write leaves them. It is said of every key
// that any lifecycle of parts knows, or knew since anything is said, so that no part is without: a part comes into no other state.
// Everybody who writes parts waits for this, so they are not all asked for theirs, but for the first time.
func (s *Readout) writeStates(t *store.Tx) error {
	rules, err := s.Policy.Rules(t.Reader)
	if err != nil {
		return err
	}
	said, err := t.ReadoutStates()
	if err != nil {
		return err
	}
	var states, standings []string
	for _, s := range said {
		if s.Fact == "status" {
			states = append(states, s.State)
		} else {
			standings = append(standings, s.State)
		}
	}
	if len(said) == 0 {
		if states, standings, err = t.StatesOfParts(); err != nil {
			return err
		}
	}
	return t.SetReadoutStates(said, statesOf(rules, states, standings))
}

var usesOf = map[lifecycle.Use]int{lifecycle.UseYes: 0, lifecycle.UseCaution: 1, lifecycle.UseNo: 2}

// statesOf is what is said of some keys of states and standings, and of those that the lifecycles of parts know.
func statesOf(rules policy.Rules, states, standings []string) (out []store.ReadoutState) {
	cab, _ := rules.Cabinet()
	if cab == nil {
		return nil
	}
	states, standings = append(states, ""), append(standings, store.Merged, store.Withdrawn)
	for _, l := range rules.All() {
		if l.Document.Of != "parts" {
			continue
		}
		for _, s := range l.Document.Status {
			states = append(states, s.Key)
		}
		for _, s := range l.Document.Standing {
			standings = append(standings, s.Key)
		}
		for old := range l.Document.Becomes {
			states, standings = append(states, old), append(standings, old)
		}
	}
	slices.Sort(states)
	slices.Sort(standings)
	for _, t := range cab.Templates() {
		h := store.Head{Kind: store.KindPart, Drawer: t.Key, Released: store.ID{1}}
		say := func(fact, key string, s lifecycle.State, shown bool) {
			out = append(out, store.ReadoutState{Drawer: t.Key, Fact: fact, State: key, Word: s.Word, Uses: usesOf[s.Use], Shown: shown})
		}
		for _, key := range slices.Compact(slices.Clone(states)) {
			h.State = key
			s := rules.Status(h)
			say("status", key, s, s.Readout)
		}
		for _, key := range slices.Compact(slices.Clone(standings)) {
			h.Standing = key
			s := rules.Standing(h)
			say("standing", key, s, s.Readout && !store.Gone(key))
		}
	}
	return out
}
