package model

import (
	"fmt"
	"strings"

	"jollydrawer/core/finding"
)

// CheckPins says what is wrong between a symbol, a land pattern and the pin map between them. Without a map the numbers
// must agree.
func CheckPins(s *Symbol, l *LandPattern, m *PinMap) []finding.Finding {
	var say says
	named := m != nil
	if m == nil {
		m = SameNumbers(s, l)
	}
	pins, pads := set(s.Numbers()), set(l.Numbers())
	toPad, toPin := map[string]bool{}, map[string]bool{}
	for _, n := range m.NoPad {
		toPad[n] = true
		if !pins[n] {
			say.say(finding.Error, "map-stale", "pin map", "take it out of the map", "the pin map marks the pin %s, which the symbol does not have", clip(n))
		}
	}
	for _, n := range m.Free {
		toPin[n] = true
		if !pads[n] {
			say.say(finding.Error, "map-stale", "pin map", "take it out of the map", "the pin map marks the pad %s, which the land pattern does not have", clip(n))
		}
	}
	for _, p := range m.Pairs {
		toPad[p.Pin] = true
		if !pins[p.Pin] {
			say.say(finding.Error, "map-stale", "pin map", "take it out of the map", "the pin map names the pin %s, which the symbol does not have", clip(p.Pin))
		}
		for _, pad := range p.Pads {
			toPin[pad] = true
			if !pads[pad] {
				say.say(finding.Error, "map-stale", "pin map", "give the pin another pad", "the pin map sends the pin %s to the pad %s, which the land pattern does not have", clip(p.Pin), clip(pad))
			}
		}
	}
	var lone, bare []string
	for _, p := range s.Numbers() {
		if !toPad[p] {
			lone = append(lone, p)
		}
	}
	for _, p := range l.Numbers() {
		if !toPin[p] {
			bare = append(bare, p)
		}
	}
	how := "map them to pads, or mark them as without a pad"
	if !named {
		how = "make a pin map, or use models whose numbers agree"
	}
	if len(lone) > 0 {
		say.say(finding.Error, "pin-without-pad", "pin map", how, "%s on no pad: %s", count(len(lone), "pin is", "pins are"), list(lone))
	}
	if len(bare) > 0 {
		say.say(finding.Error, "pad-without-pin", "pin map", "map them to pins, or mark them as free", "%s no pin: %s", count(len(bare), "pad has", "pads have"), list(bare))
	}
	// A lead in a hole that is not plated is held by copper on one side at most, and by none where the hole takes it all.
	unplated := map[string]bool{}
	plated := map[string]bool{}
	for _, p := range l.Pads {
		unplated[p.Number] = unplated[p.Number] || p.Hole > 0 && p.Unplated
		plated[p.Number] = plated[p.Number] || p.Hole == 0 || !p.Unplated
	}
	var loose []string
	for _, p := range m.Pairs {
		for _, pad := range p.Pads {
			if unplated[pad] && !plated[pad] {
				loose = append(loose, p.Pin)
			}
		}
	}
	if len(loose) > 0 {
		say.say(finding.Error, "pin-unplated", "land pattern", "plate the hole, or map the pin to another pad", "%s on a hole that is not plated: %s", count(len(loose), "pin is", "pins are"), list(loose))
	}
	return say.all
}

func count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

func set(all []string) map[string]bool {
	out := make(map[string]bool, len(all))
	for _, s := range all {
		out[s] = true
	}
	return out
}

func plainName(s string) string {
	return strings.Map(func(r rune) rune {
		switch r {
		case ' ', '_', '-', '.', '/', '(', ')':
			return -1
		}
		return r
	}, strings.ToLower(s))
}

// PinDifference is one line of a symbol's pins beside an independent list.
type PinDifference struct {
	Number string `json:"number"`
	Symbol string `json:"symbol" doc:"Name in the symbol; blank where it has no such pin"`
	Listed string `json:"listed" doc:"Name in the list; blank where it has no such pin"`
	Type   string `json:"type,omitempty" doc:"Type in the symbol"`
	Says   string `json:"says,omitempty" doc:"Type in the list"`
	What   string `json:"what" doc:"How they differ; blank where they agree"`
}

// ComparePins lays the pins of a symbol beside a list of another origin, line by line in the order of the numbers. Names are
// the same if they differ in case and punctuation only.
func ComparePins(s *Symbol, listed []ListedPin) []PinDifference {
	type both struct {
		pin  *Pin
		list *ListedPin
	}
	all, numbers := map[string]*both{}, []string{}
	at := func(n string) *both {
		if all[n] == nil {
			all[n] = &both{}
			numbers = append(numbers, n)
		}
		return all[n]
	}
	for i := range s.Pins {
		at(s.Pins[i].Number).pin = &s.Pins[i]
	}
	for i := range listed {
		at(listed[i].Number).list = &listed[i]
	}
	out := []PinDifference{}
	for _, n := range distinct(numbers) {
		b := all[n]
		d := PinDifference{Number: n}
		if b.pin != nil {
			d.Symbol, d.Type = b.pin.Name, b.pin.Type
		}
		if b.list != nil {
			d.Listed, d.Says = b.list.Name, b.list.Type
		}
		switch {
		case b.pin == nil:
			d.What = "the symbol lacks this pin"
		case b.list == nil:
			d.What = "the list lacks this pin"
		case plainName(b.pin.Name) != plainName(b.list.Name) && b.list.Name != "":
			d.What = "other name"
		case b.list.Type != "" && b.list.Type != b.pin.Type:
			d.What = "other type"
		}
		out = append(out, d)
	}
	return out
}
