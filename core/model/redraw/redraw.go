// Package redraw is the table beside a drawing: the pins, pads and graphics of a symbol or land pattern as rows of cells, and the changes
// that a person makes to them. Each change takes a drawing and gives another one, so that whoever holds both can go back. Drawing, checking
// and keeping are left to the package model and to the service.
package redraw

import (
	"fmt"
	"slices"

	"jollydrawer/core/model"
)

// The lists of a drawing.
const (
	Pins     = "pins"
	Pads     = "pads"
	Graphics = "graphics"
)

// What a change does.
const (
	Set     = "set"     // cells of one column: Value in all rows, or Values one for each
	Move    = "move"    // by By
	Turn    = "turn"    // by Angle, counter-clockwise, about the middle of the rows
	Mirror  = "mirror"  // left to right, about the middle of the rows
	Add     = "add"     // Count rows after the last one, numbered on from Value where it is given
	Copy    = "copy"    // the rows, turned about the origin by Angle and moved by By, numbered on
	Remove  = "remove"  // the rows
	Align   = "align"   // to the left, right, top or bottom of the rows, as Value says
	Spread  = "spread"  // evenly from the first to the last, or by the distance Value
	Snap    = "snap"    // onto the grid Value
	Number  = "number"  // on from Value, in the order of Rows
	Settle  = "settle"  // the cause Value of a finding, as the house wants it
	Drawing = "drawing" // what is said of the drawing as a whole: Column is grid or units, or density, mounting or overhang
)

// Deeds lists what a change can do.
var Deeds = []string{Set, Move, Turn, Mirror, Add, Copy, Remove, Align, Spread, Snap, Number, Settle, Drawing}

// MostAdded is how many rows one change adds.
const MostAdded = 1000

// Change is one step of a person at the table.
type Change struct {
	Do     string      `json:"do" enum:"set,move,turn,mirror,add,copy,remove,align,spread,snap,number,settle,drawing"`
	Of     string      `json:"of,omitempty" enum:"pins,pads,graphics," doc:"The list whose rows are changed"`
	Rows   []int       `json:"rows,omitempty" maxItems:"20000" doc:"Rows of that list, counted from 0, in the order in which they are numbered"`
	Column string      `json:"column,omitempty" maxLength:"40" doc:"set: key of the column; drawing: grid, units, density, mounting or overhang"`
	Value  string      `json:"value,omitempty" maxLength:"40000" doc:"set: what is written into the cells; add, number: the first number; add of graphics: their form; align: left, right, top or bottom; spread, snap: a length; settle: a cause"`
	Values []string    `json:"values,omitempty" maxItems:"20000" doc:"set: one for each row, instead of the same in all"`
	By     model.Point `json:"by,omitzero" doc:"move, copy, add: how far, mm"`
	Angle  model.Angle `json:"angle,omitempty" doc:"turn, copy: degrees, counter-clockwise"`
	Count  int         `json:"count,omitempty" minimum:"0" maximum:"1000" doc:"add: how many; one where it is not given"`
	Unit   int         `json:"unit,omitempty" minimum:"0" maximum:"4096" doc:"add: the unit of a symbol that has several"`
}

// Apply makes a change to a copy of c and returns it with the rows of the changed list that the person goes on with: those that were
// changed, added or copied. c is left as it was. A change that cannot be made is an error that says which row and why.
func Apply(c model.Content, h model.House, ch Change) (model.Content, []int, error) {
	out := copied(c)
	if ch.Do == Settle {
		out, err := model.Mend(&out, ch.Value, h)
		return out, ch.Rows, err
	}
	if ch.Do == Drawing {
		return out, ch.Rows, drawing(&out, ch.Column, ch.Value)
	}
	t, err := listOf(&out, h, ch.Of)
	if err != nil {
		return c, nil, err
	}
	chosen := make([]bool, t.size())
	for _, r := range ch.Rows {
		if r < 0 || r >= t.size() {
			return c, nil, fmt.Errorf("there is no row %d among the %d %s", r+1, t.size(), ch.Of)
		}
		if chosen[r] {
			return c, nil, fmt.Errorf("row %d of the %s is named twice", r+1, ch.Of)
		}
		chosen[r] = true
	}
	const most = 2 * model.Farthest // from one end of what can be drawn to the other
	if ch.By.X > most || ch.By.X < -most || ch.By.Y > most || ch.By.Y < -most {
		return c, nil, fmt.Errorf("the step of %s, %s mm is farther than %s mm", ch.By.X, ch.By.Y, most)
	}
	if len(ch.Rows) == 0 && ch.Do != Add {
		return c, nil, fmt.Errorf("no row is chosen: choose those that the change is for")
	}
	selected, err := t.change(ch)
	if err != nil {
		return c, nil, err
	}
	return out, selected, Whole(&out)
}

// Whole says why a drawing cannot be looked at: what no drawing may have, but that it has no pin or pad yet.
func Whole(c *model.Content) error {
	var shapes []model.Shape
	switch {
	case c.Symbol != nil:
		if len(c.Symbol.Pins) > 0 {
			return c.Symbol.Check()
		}
		shapes = c.Symbol.Shapes
	case c.Land != nil:
		if len(c.Land.Pads) > 0 {
			return c.Land.Check()
		}
		shapes = c.Land.Shapes
	}
	for i, g := range shapes {
		if err := g.Check(); err != nil {
			return fmt.Errorf("graphics %d of the list: %w", i+1, err)
		}
	}
	return nil
}

// copied returns a drawing whose lists can be changed without changing c. What hangs on a row is replaced, never changed in place.
func copied(c model.Content) model.Content {
	if c.Symbol != nil {
		s := *c.Symbol
		s.Units, s.Pins, s.Shapes = slices.Clone(s.Units), slices.Clone(s.Pins), slices.Clone(s.Shapes)
		c.Symbol = &s
	}
	if c.Land != nil {
		l := *c.Land
		l.Pads, l.Shapes = slices.Clone(l.Pads), slices.Clone(l.Shapes)
		c.Land = &l
	}
	return c
}

// List is one of the lists of a drawing as a table.
type List struct {
	Of      string   `json:"of"`
	Columns []Column `json:"columns"`
	Rows    []Row    `json:"rows"`
}

// Column is a column of the table.
type Column struct {
	Key     string   `json:"key"`
	Name    string   `json:"name" doc:"Heading"`
	Is      string   `json:"is" enum:"text,length,angle,choice,points" doc:"What its cells hold"`
	Choices []string `json:"choices,omitempty"`
	Hint    string   `json:"hint,omitempty"`
}

// Row is a row of the table, with the box that it fills in the drawing, mm; none where it is not in sight.
type Row struct {
	Cells []string   `json:"cells" nullable:"false"`
	Box   [4]float64 `json:"box" doc:"Left, lower, right and upper side, mm"`
	Unit  int        `json:"unit,omitempty" doc:"Of a symbol with several: the unit it is in; 0 in all"`
}

// Lists returns a drawing's lists as tables: pins or pads first, then the graphics.
func Lists(c *model.Content) (out []List) {
	for _, of := range []string{Pins, Pads, Graphics} {
		if t, err := listOf(c, model.House{}, of); err == nil {
			out = append(out, t.list(of))
		}
	}
	return out
}

// table is one of the lists of a drawing, whatever its rows are.
type table interface {
	size() int
	list(of string) List
	change(Change) ([]int, error)
}

func listOf(c *model.Content, h model.House, of string) (table, error) {
	switch {
	case of == Pins && c.Symbol != nil:
		return pinsOf(c.Symbol, h), nil
	case of == Pads && c.Land != nil:
		return padsOf(c.Land), nil
	case of == Graphics && c.Symbol != nil:
		return graphicsOf(&c.Symbol.Shapes, c.Symbol, nil, h), nil
	case of == Graphics && c.Land != nil:
		return graphicsOf(&c.Land.Shapes, nil, c.Land, h), nil
	}
	return nil, fmt.Errorf("a %s has no list of %q: it has %s", c.Kind, of, map[bool]string{true: "pins and graphics", false: "pads and graphics"}[c.Symbol != nil])
}
