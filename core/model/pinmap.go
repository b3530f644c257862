package model

import (
	"fmt"
	"sort"
)

// PinMap says which pin of a symbol goes to which pads of a land pattern. A pin may have several pads; a pad has one pin.
type PinMap struct {
	Pairs []Pair `json:"pairs"`
	// Free are pads that carry no pin on purpose, NoPad pins that have no pad on purpose.
	Free  []string `json:"free,omitempty"`
	NoPad []string `json:"noPad,omitempty"`
}

// Pair is a pin and its pads.
type Pair struct {
	Pin  string   `json:"pin"`
	Pads []string `json:"pads"`
}

// Check says why m cannot be kept.
func (m *PinMap) Check() error {
	if len(m.Pairs) > MostPins || len(m.Free) > MostPins || len(m.NoPad) > MostPins {
		return fmt.Errorf("the pin map has more than %d lines", MostPins)
	}
	pins, pads := map[string]bool{}, map[string]string{}
	for _, p := range m.Pairs {
		if p.Pin == "" || pins[p.Pin] {
			return fmt.Errorf("the pin %q is blank or stands in the map twice", clip(p.Pin))
		}
		pins[p.Pin] = true
		if len(p.Pads) == 0 {
			return fmt.Errorf("the pin %q has no pad; mark it as without a pad, or name one", clip(p.Pin))
		}
		for _, pad := range p.Pads {
			if other, ok := pads[pad]; ok || pad == "" {
				return fmt.Errorf("the pad %q is blank or goes to the pins %q and %q", clip(pad), clip(other), clip(p.Pin))
			}
			pads[pad] = p.Pin
		}
	}
	for _, f := range m.Free {
		if pads[f] != "" {
			return fmt.Errorf("the pad %q is marked as free and goes to the pin %q", clip(f), pads[f])
		}
	}
	for _, n := range m.NoPad {
		if pins[n] {
			return fmt.Errorf("the pin %q is marked as without a pad and has one", clip(n))
		}
	}
	return nil
}

// SameNumbers is the pin map that holds where none is named: each pin goes to the pads of its own number.
func SameNumbers(s *Symbol, l *LandPattern) *PinMap {
	m := &PinMap{Pairs: []Pair{}}
	pads := map[string]bool{}
	for _, n := range l.Numbers() {
		pads[n] = true
	}
	for _, n := range s.Numbers() {
		if pads[n] {
			m.Pairs = append(m.Pairs, Pair{Pin: n, Pads: []string{n}})
		}
	}
	return m
}

// Sorted brings m into its canonical order, so that the same map has the same hash.
func (m *PinMap) Sorted() {
	sort.Slice(m.Pairs, func(i, j int) bool { return Before(m.Pairs[i].Pin, m.Pairs[j].Pin) })
	for _, p := range m.Pairs {
		sort.Slice(p.Pads, func(i, j int) bool { return Before(p.Pads[i], p.Pads[j]) })
	}
	for _, l := range [][]string{m.Free, m.NoPad} {
		sort.Slice(l, func(i, j int) bool { return Before(l[i], l[j]) })
	}
}
