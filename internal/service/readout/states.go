package readout

import (
	"slices"

	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
)

// writeStates writes what the parts of each drawer are in each state, by the rules as a write leaves them. It is said of every key
// that any lifecycle of parts knows or any part is in, so that no part is without.
func (s *Readout) writeStates(t *store.Tx) error {
	rules, err := s.Policy.Rules(t.Reader)
	if err != nil {
		return err
	}
	all, err := statesOf(t.Reader, rules)
	if err != nil {
		return err
	}
	return t.SetReadoutStates(all)
}

var usesOf = map[lifecycle.Use]int{lifecycle.UseYes: 0, lifecycle.UseCaution: 1, lifecycle.UseNo: 2}

func statesOf(r store.Reader, rules policy.Rules) (out []store.ReadoutState, err error) {
	cab, _ := rules.Cabinet()
	if cab == nil {
		return nil, nil
	}
	states, standings, err := r.StatesOfParts()
	if err != nil {
		return nil, err
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
	return out, nil
}
