// Package model holds symbols, land patterns, bodies and pin maps: their geometry with exact lengths, how they are drawn,
// what tells one drawing from another, and what a check says of them. Reading and writing files of other forms is left to
// formats, keeping and releasing to the service.
package model

import (
	"fmt"
	"slices"
	"strings"
)

// Kind is the kind of a model.
type Kind string

// The kinds. A pin map is kept as models are, with drafts and revisions of its own.
const (
	KindSymbol Kind = "symbol"
	KindLand   Kind = "land pattern"
	KindBody   Kind = "body"
	KindPinMap Kind = "pin map"
)

// Kinds lists the kinds.
var Kinds = []Kind{KindSymbol, KindLand, KindBody, KindPinMap}

// Content is what a revision of a model freezes: its drawing, and the file it came from.
type Content struct {
	Kind     Kind         `json:"kind"`
	Name     string       `json:"name"`
	FileHash string       `json:"fileHash,omitempty"` // the original, as it came
	FileName string       `json:"fileName,omitempty"`
	Note     string       `json:"note,omitempty"`
	Symbol   *Symbol      `json:"symbol,omitempty"`
	Land     *LandPattern `json:"landPattern,omitempty"`
	Body     *Body        `json:"body,omitempty"`
	PinMap   *PinMap      `json:"pinMap,omitempty"`
}

// Drawn says whether c has its drawing.
func (c *Content) Drawn() bool {
	return c.Symbol != nil || c.Land != nil || c.Body != nil || c.PinMap != nil
}

// StandsIn says whether c is a plain block instead of a body.
func (c *Content) StandsIn() bool { return c.Body != nil && c.Body.StandIn }

// Check says why c cannot be kept.
func (c *Content) Check() error {
	if err := CheckName(c.Name); err != nil {
		return err
	}
	count := 0
	for kind, there := range map[Kind]bool{KindSymbol: c.Symbol != nil, KindLand: c.Land != nil, KindBody: c.Body != nil, KindPinMap: c.PinMap != nil} {
		if there {
			count++
			if kind != c.Kind {
				return fmt.Errorf("the model is a %s and its drawing is a %s", c.Kind, kind)
			}
		}
	}
	if count > 1 {
		return fmt.Errorf("a model holds one drawing, not %d", count)
	}
	switch {
	case c.Symbol != nil:
		return c.Symbol.Check()
	case c.Land != nil:
		return c.Land.Check()
	case c.Body != nil:
		return c.Body.Check()
	case c.PinMap != nil:
		return c.PinMap.Check()
	}
	for _, k := range Kinds {
		if c.Kind == k {
			return nil
		}
	}
	return fmt.Errorf("%q is no kind of model: use symbol, land pattern, body or pin map", clip(string(c.Kind)))
}

// CheckName says why a model cannot have this name.
func CheckName(name string) error {
	if strings.TrimSpace(name) == "" || len(name) > 100 {
		return fmt.Errorf("a model needs a name of at most 100 characters")
	}
	for _, r := range name {
		if r < ' ' || r == 0x7f {
			return fmt.Errorf("the name %q has a control character in it", clip(name))
		}
	}
	return nil
}

// Normalise brings c into the one form in which it is kept, so that the same drawing has the same hash: the pins of a
// symbol with one unit are in no unit by number, empty lists are left out, a pin map is in order.
func (c *Content) Normalise() {
	c.Name = strings.Join(strings.Fields(c.Name), " ")
	if s := c.Symbol; s != nil {
		if len(s.Units) < 2 {
			s.Units = nil
			for i := range s.Pins {
				s.Pins[i].Unit = 0
			}
			for i := range s.Shapes {
				s.Shapes[i].Unit = 0
			}
		}
		s.shared()
		slices.SortStableFunc(s.Pins, func(a, b Pin) int { return a.Unit - b.Unit })
		slices.SortStableFunc(s.Shapes, func(a, b Shape) int { return a.Unit - b.Unit })
		if len(s.Properties) == 0 {
			s.Properties = nil
		}
		middles(s.Shapes)
	}
	if l := c.Land; l != nil {
		for i := range l.Pads {
			l.Pads[i].normal()
		}
	}
	if c.Land != nil {
		middles(c.Land.Shapes)
	}
	if c.PinMap != nil {
		c.PinMap.Sorted()
	}
}

// shared makes one of the graphics that all units draw alike.
func (s *Symbol) shared() {
	if len(s.Units) < 2 {
		return
	}
	key := func(g Shape) string { g.Unit = 0; return fmt.Sprint(g) }
	in := map[string]map[int]bool{}
	for _, g := range s.Shapes {
		k := key(g)
		if in[k] == nil {
			in[k] = map[int]bool{}
		}
		in[k][g.Unit] = true
	}
	kept := make([]Shape, 0, len(s.Shapes))
	for _, g := range s.Shapes {
		units := in[key(g)]
		if g.Unit != 0 && !units[0] && len(units) == len(s.Units) {
			if g.Unit > 1 {
				continue
			}
			g.Unit = 0
		}
		kept = append(kept, g)
	}
	s.Shapes = kept
}

// middles puts the middle point of each arc half-way along it, to the nanometre: forms that write a centre lose which
// point it was.
func middles(all []Shape) {
	const nm = MM / 1_000_000
	for i := range all {
		if g := &all[i]; g.Form == Arc {
			c, clockwise := Centre(g.Points)
			m := Between(g.Points[0], g.Points[2], c, clockwise)
			g.Points = []Point{g.Points[0], {Length(divRound(int64(m.X), int64(nm))) * nm, Length(divRound(int64(m.Y), int64(nm))) * nm}, g.Points[2]}
		}
	}
}
