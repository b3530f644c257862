package model

import (
	"fmt"
	"slices"
	"sort"
	"strings"
)

// MostPins is how many pins or pads one model may have.
const MostPins = 4096

// Pin types: what a pin does, electrically.
const (
	Input         = "input"
	Output        = "output"
	Bidirectional = "bidirectional"
	Passive       = "passive"
	PowerIn       = "power in"
	PowerOut      = "power out"
	OpenCollector = "open collector"
	OpenEmitter   = "open emitter"
	TriState      = "tri-state"
	NotConnected  = "not connected"
)

// PinTypes lists the pin types.
var PinTypes = []string{Input, Output, Bidirectional, Passive, PowerIn, PowerOut, OpenCollector, OpenEmitter, TriState, NotConnected}

// The directions a pin runs in, from the end that connects towards the body of the symbol.
const (
	Right = "right"
	Left  = "left"
	Up    = "up"
	Down  = "down"
)

var runs = map[string]Point{Right: {1, 0}, Left: {-1, 0}, Up: {0, 1}, Down: {0, -1}}

// Symbol is a schematic symbol of one or several units.
type Symbol struct {
	Grid   Length   `json:"grid,omitzero"`
	Units  []string `json:"units,omitempty"` // names of the units where there are several
	Pins   []Pin    `json:"pins"`
	Shapes []Shape  `json:"shapes,omitempty"`
	// Properties are what stood written on the symbol when it arrived: they belong to the part, not to the drawing.
	Properties map[string]string `json:"properties,omitempty"`
}

// Pin is a pin of a symbol. At is the end that connects; the pin runs from there towards the body.
type Pin struct {
	Number string `json:"number"`
	Name   string `json:"name,omitempty"`
	Type   string `json:"type"`
	Unit   int    `json:"unit,omitempty"` // counted from 1; 0 where the symbol has one unit only
	At     Point  `json:"at"`
	Runs   string `json:"runs"`
	Length Length `json:"length"`
	Hidden bool   `json:"hidden,omitempty"`
	Placed bool   `json:"placed,omitempty"` // by hand: a layout made anew leaves it where it is
}

// Inner returns the end of the pin that touches the body.
func (p Pin) Inner() Point {
	d := runs[p.Runs]
	return Point{p.At.X + d.X*p.Length, p.At.Y + d.Y*p.Length}
}

// Label is the pin's name, or nothing where the name says no more than the number.
func (p Pin) Label() string {
	if n := strings.TrimSpace(p.Name); n != p.Number && n != "~" {
		return n
	}
	return ""
}

// Check says why s cannot be kept: the first thing that no drawing may have.
func (s *Symbol) Check() error {
	if len(s.Pins) == 0 {
		return fmt.Errorf("the symbol has no pins; a symbol needs one at least")
	}
	if len(s.Pins) > MostPins {
		return fmt.Errorf("the symbol has %d pins; at most %d are read", len(s.Pins), MostPins)
	}
	if s.Grid < 0 {
		return fmt.Errorf("the grid of %s mm is negative", s.Grid)
	}
	for i, p := range s.Pins {
		if err := s.checkPin(p); err != nil {
			return fmt.Errorf("pin %d of the list (%q): %w", i+1, clip(p.Number), err)
		}
	}
	if len(s.Properties) > 500 {
		return fmt.Errorf("the symbol carries %d properties; at most 500 are read", len(s.Properties))
	}
	for k, v := range s.Properties {
		if len(k) > 200 || len(v) > 4000 {
			return fmt.Errorf("the property %q is longer than 4,000 characters", clip(k))
		}
	}
	return checkShapes(s.Shapes)
}

func (s *Symbol) checkPin(p Pin) error {
	switch {
	case strings.TrimSpace(p.Number) == "":
		return fmt.Errorf("it has no number")
	case len(p.Number) > 40 || len(p.Name) > 120:
		return fmt.Errorf("its number or name is longer than 120 characters")
	case !slices.Contains(PinTypes, p.Type):
		return fmt.Errorf("its type %q is none of %s", clip(p.Type), strings.Join(PinTypes, ", "))
	case runs[p.Runs] == Point{}:
		return fmt.Errorf("it runs %q; a pin runs right, left, up or down", clip(p.Runs))
	case p.Length < 0 || p.Length > Farthest:
		return fmt.Errorf("its length of %s mm is not between 0 and %s mm", p.Length, Farthest)
	case p.Unit < 0 || p.Unit > max(len(s.Units), 1):
		return fmt.Errorf("it is in unit %d of %d", p.Unit, max(len(s.Units), 1))
	}
	return near(p.At)
}

func checkShapes(all []Shape) error {
	if len(all) > 20000 {
		return fmt.Errorf("the drawing has %d pieces of graphics; at most 20,000 are read", len(all))
	}
	for i, g := range all {
		if err := g.Check(); err != nil {
			return fmt.Errorf("graphics %d of the list: %w", i+1, err)
		}
	}
	return nil
}

// Bounds returns the box that holds pins and graphics of one unit; of all units where unit is 0.
func (s *Symbol) Bounds(unit int) (b Box) {
	for _, p := range s.Pins {
		if unit == 0 || p.Unit == 0 || p.Unit == unit {
			b.Take(p.At)
			b.Take(p.Inner())
		}
	}
	for _, g := range s.Shapes {
		if unit == 0 || g.Unit == 0 || g.Unit == unit {
			b.TakeBox(g.Bounds())
		}
	}
	return b
}

// Numbers returns the distinct pin numbers in their natural order.
func (s *Symbol) Numbers() []string {
	all := make([]string, 0, len(s.Pins))
	for _, p := range s.Pins {
		all = append(all, p.Number)
	}
	return distinct(all)
}

func distinct(all []string) []string {
	seen := map[string]bool{}
	out := all[:0]
	for _, n := range all {
		if !seen[n] {
			seen[n] = true
			out = append(out, n)
		}
	}
	sort.Slice(out, func(i, j int) bool { return Before(out[i], out[j]) })
	return out
}

// Before orders pin numbers as people count: 2 before 10, A2 before A10, A10 before B1, AA1 after Y9.
func Before(a, b string) bool {
	for a != "" && b != "" {
		da, ra := run(a)
		db, rb := run(b)
		if digit(a[0]) && digit(b[0]) {
			x, y := strings.TrimLeft(da, "0"), strings.TrimLeft(db, "0")
			if len(x) != len(y) {
				return len(x) < len(y)
			}
			if x != y {
				return x < y
			}
		} else if da != db {
			if !digit(a[0]) && !digit(b[0]) && len(da) != len(db) {
				return len(da) < len(db)
			}
			return da < db
		}
		a, b = ra, rb
	}
	return len(a) < len(b)
}

func digit(c byte) bool { return c >= '0' && c <= '9' }

// run splits s after its first run of digits or of other characters.
func run(s string) (head, rest string) {
	i := 1
	for i < len(s) && digit(s[i]) == digit(s[0]) {
		i++
	}
	return s[:i], s[i:]
}
