package redraw

import (
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/model"
)

// drawing changes what is said of a drawing as a whole.
func drawing(c *model.Content, what, value string) error {
	value = strings.TrimSpace(value)
	switch {
	case c.Symbol != nil && what == "grid":
		grid := model.Length(0)
		if value != "" {
			var err error
			if grid, err = model.ParseLength(value); err != nil {
				return err
			}
			if grid < 0 {
				return fmt.Errorf("the grid of %s mm is negative", grid)
			}
		}
		c.Symbol.Grid = grid
	case c.Symbol != nil && what == "units":
		return units(c.Symbol, value)
	case c.Land != nil && what == "density":
		return choice(&c.Land.Density, value, model.Densities)
	case c.Land != nil && what == "mounting":
		return choice(&c.Land.Mounting, value, model.Mountings)
	case c.Land != nil && what == "overhang":
		c.Land.Overhang = value == "yes"
	default:
		return fmt.Errorf("nothing called %q is said of a %s as a whole", clip(what), c.Kind)
	}
	return nil
}

func choice(into *string, value string, of []string) error {
	if value != "" && !slices.Contains(of, value) {
		return fmt.Errorf("%q is none of %s", clip(value), words(of))
	}
	*into = value
	return nil
}

// units names the units of a symbol, parted by semicolons. The pins and graphics of a symbol that had one unit are in the first of several,
// its texts in all; a unit that still has pins cannot go.
func units(s *model.Symbol, value string) error {
	var names []string
	for n := range strings.SplitSeq(value, ";") {
		if n = strings.TrimSpace(n); n == "" {
			continue
		}
		if slices.Contains(names, n) || n == "all" || len(n) > 100 {
			return fmt.Errorf("the unit %q needs a name of its own of at most 100 characters, and not \"all\"", clip(n))
		}
		names = append(names, n)
	}
	if len(names) == 1 {
		names = nil
	}
	for _, p := range s.Pins {
		if p.Unit > max(len(names), 1) {
			return fmt.Errorf("the unit %s has the pin %s still: move its pins to another unit first", s.Units[p.Unit-1], clip(p.Number))
		}
	}
	one := len(s.Units) < 2 && len(names) > 1
	for i := range s.Pins {
		if one {
			s.Pins[i].Unit = 1
		} else if names == nil {
			s.Pins[i].Unit = 0
		}
	}
	kept := make([]model.Shape, 0, len(s.Shapes))
	for _, g := range s.Shapes {
		switch {
		case g.Unit > max(len(names), 1):
			continue // the graphics of a unit go with it
		case one && g.Form != model.Text:
			g.Unit = 1
		case names == nil:
			g.Unit = 0
		}
		kept = append(kept, g)
	}
	s.Units, s.Shapes = names, kept
	return nil
}
