package redraw

import (
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/model"
)

// defaultGrid is the grid of a symbol where neither it nor the house names one: 1.27 mm, a twentieth of an inch.
const defaultGrid = 127 * model.MM / 100

// Step is how far a pin, pad or piece of graphics is moved at a time, unless a person chooses otherwise.
func Step(c *model.Content, h model.House) model.Length {
	switch {
	case c.Land != nil:
		return model.MM / 20
	case h.Grid > 0:
		return h.Grid
	case c.Symbol != nil && c.Symbol.Grid > 0:
		return c.Symbol.Grid
	}
	return defaultGrid
}

// ways are the directions a pin runs in, each a quarter turn counter-clockwise after the one before it.
var ways = []string{model.Right, model.Up, model.Left, model.Down}

func pinsOf(s *model.Symbol, h model.House) table {
	grid := Step(&model.Content{Symbol: s}, h)
	t := &rows[model.Pin]{all: &s.Pins, what: "pin", grid: grid,
		at:     func(p model.Pin) model.Point { return p.At },
		points: func(p model.Pin) []model.Point { return []model.Point{p.At} },
		move:   func(p *model.Pin, by model.Point) { p.At, p.Placed = p.At.Add(by), true },
		turn:   turnPin,
		mirror: mirrorPin,
		unit:   func(p model.Pin) int { return p.Unit },
		number: func(p *model.Pin) *string { return &p.Number },
		box: func(p model.Pin) (b model.Box) {
			b.Take(p.At)
			b.Take(p.Inner())
			return b
		},
		columns: []column[model.Pin]{
			{Column{Key: "number", Name: "Number", Is: "text"}, func(p model.Pin) string { return p.Number }, func(p *model.Pin, s string) error { p.Number = strings.TrimSpace(s); return nil }},
			{Column{Key: "name", Name: "Name", Is: "text"}, func(p model.Pin) string { return p.Name }, func(p *model.Pin, s string) error { p.Name = strings.TrimSpace(s); return nil }},
			{Column{Key: "type", Name: "Type", Is: "choice", Choices: model.PinTypes}, func(p model.Pin) string { return p.Type }, func(p *model.Pin, s string) error { p.Type = s; return nil }},
			length("x", "X", func(p *model.Pin) *model.Length { return &p.At.X }, func(p *model.Pin) { p.Placed = true }),
			length("y", "Y", func(p *model.Pin) *model.Length { return &p.At.Y }, func(p *model.Pin) { p.Placed = true }),
			{Column{Key: "runs", Name: "Runs", Is: "choice", Choices: ways, Hint: "From the end that connects towards the body"}, func(p model.Pin) string { return p.Runs }, func(p *model.Pin, s string) error { p.Runs = s; return nil }},
			length("length", "Length", func(p *model.Pin) *model.Length { return &p.Length }, nil),
			yes("hidden", "Hidden", func(p *model.Pin) *bool { return &p.Hidden }),
		},
	}
	t.added = func(after []model.Pin, ch Change) (model.Pin, model.Point, error) {
		return nextPin(s, h, grid, after, ch)
	}
	if len(s.Units) > 1 {
		t.columns = slices.Insert(t.columns, 3, unitColumn(s, func(p *model.Pin) *int { return &p.Unit }, false))
	}
	return t
}

// nextPin is the pin that comes after others, and how far it is from the last.
func nextPin(s *model.Symbol, h model.House, grid model.Length, after []model.Pin, ch Change) (model.Pin, model.Point, error) {
	down := model.Point{Y: -grid}
	if ch.Unit > len(s.Units) && ch.Unit > 1 {
		return model.Pin{}, down, fmt.Errorf("there is no unit %d among %d", ch.Unit, max(len(s.Units), 1))
	}
	if len(after) == 0 {
		length := h.PinLength
		if length == 0 {
			length = 2 * grid
		}
		p := model.Pin{Number: "1", Type: model.Passive, Runs: model.Right, Length: length, Placed: true}
		if p.Unit = ch.Unit; len(s.Units) > 1 {
			p.Unit = max(ch.Unit, 1)
		}
		return p, down, nil
	}
	last := after[len(after)-1]
	p := last
	p.Name = following(last.Name)
	if ch.Unit > 0 && len(s.Units) > 1 {
		p.Unit = ch.Unit
	}
	step := down
	if last.Runs == model.Up || last.Runs == model.Down {
		step = model.Point{X: grid}
	}
	if len(after) > 1 {
		if before := after[0]; before.Runs == last.Runs && before.Unit == last.Unit && before.At != last.At && (before.At.X == last.At.X || before.At.Y == last.At.Y) {
			step = model.Point{X: last.At.X - before.At.X, Y: last.At.Y - before.At.Y}
		}
	}
	return p, step, nil
}

// following is the name of a pin after one of a row that is counted, D1 after D0; none after a name that is not: no name is invented.
func following(name string) string {
	if name == "" || name[len(name)-1] < '0' || name[len(name)-1] > '9' {
		return ""
	}
	return Next(name)
}

func turnPin(p *model.Pin, a model.Angle) error {
	if a%(90*model.Degree) != 0 {
		return fmt.Errorf("a pin turns by quarters, not by %s°", a)
	}
	quarters := int(a/(90*model.Degree))%4 + 4
	p.At, p.Placed = p.At.Turned(quarter(a)), true
	p.Runs = ways[(slices.Index(ways, p.Runs)+quarters)%4]
	return nil
}

// quarter is an angle within one turn.
func quarter(a model.Angle) model.Angle {
	const whole = 360 * model.Degree
	return (a%whole + whole) % whole
}

func mirrorPin(p *model.Pin) {
	p.At.X, p.Placed = -p.At.X, true
	switch p.Runs {
	case model.Left:
		p.Runs = model.Right
	case model.Right:
		p.Runs = model.Left
	}
}

// length is a column of lengths in millimetres. What was written may have its unit.
func length[T any](key, name string, of func(*T) *model.Length, also func(*T)) column[T] {
	return column[T]{Column{Key: key, Name: name, Is: "length"}, func(r T) string { return of(&r).String() }, func(r *T, s string) error {
		l, err := model.ParseLength(s)
		if err != nil {
			return err
		}
		*of(r) = l
		if also != nil {
			also(r)
		}
		return nil
	}}
}

// yes is a column of what is or is not.
func yes[T any](key, name string, of func(*T) *bool) column[T] {
	return column[T]{Column{Key: key, Name: name, Is: "choice", Choices: []string{"", "yes"}}, func(r T) string { return map[bool]string{true: "yes"}[*of(&r)] }, func(r *T, s string) error {
		*of(r) = s == "yes"
		return nil
	}}
}

// unitColumn is the column of the unit of a symbol that has several; where all is true, a row may be in all of them.
func unitColumn[T any](s *model.Symbol, of func(*T) *int, all bool) column[T] {
	choices := slices.Clone(s.Units)
	if all {
		choices = append([]string{"all"}, choices...)
	}
	return column[T]{Column{Key: "unit", Name: "Unit", Is: "choice", Choices: choices}, func(r T) string {
		if n := *of(&r); n > 0 && n <= len(s.Units) {
			return s.Units[n-1]
		}
		return "all"
	}, func(r *T, name string) error {
		*of(r) = slices.Index(s.Units, name) + 1
		return nil
	}}
}
