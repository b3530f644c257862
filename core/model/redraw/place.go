package redraw

import (
	"fmt"
	"slices"

	"jollydrawer/core/model"
)

// middle is the point about which rows are turned and mirrored: the middle of their places where what lies on the grid stays on it, else the
// first point of the first of them. Either stays where it is, so that four quarter turns lead back.
func (t *rows[T]) middle(rows []int) model.Point {
	var b model.Box
	for _, r := range rows {
		for _, p := range t.points((*t.all)[r]) {
			b.Take(p)
		}
	}
	x, y, grid := b.Min.X+b.Max.X, b.Min.Y+b.Max.Y, max(t.grid, 1)
	if x%2 == 0 && y%2 == 0 && x%grid == 0 && y%grid == 0 && (x/grid-y/grid)%2 == 0 {
		return model.Point{X: x / 2, Y: y / 2}
	}
	return t.points((*t.all)[rows[0]])[0]
}

// about does something to rows as if the middle of them were the origin.
func (t *rows[T]) about(rows []int, do func(*T) error) error {
	at := t.middle(rows)
	for _, r := range rows {
		row := &(*t.all)[r]
		t.move(row, model.Point{X: -at.X, Y: -at.Y})
		if err := do(row); err != nil {
			return fmt.Errorf("row %d: %w", r+1, err)
		}
		t.move(row, at)
	}
	return nil
}

// align brings rows to the place of the outermost of them.
func (t *rows[T]) align(rows []int, to string) error {
	var b model.Box
	for _, r := range rows {
		b.Take(t.at((*t.all)[r]))
	}
	by := func(at model.Point) (model.Point, bool) {
		switch to {
		case "left":
			return model.Point{X: b.Min.X - at.X}, true
		case "right":
			return model.Point{X: b.Max.X - at.X}, true
		case "bottom":
			return model.Point{Y: b.Min.Y - at.Y}, true
		case "top":
			return model.Point{Y: b.Max.Y - at.Y}, true
		}
		return at, false
	}
	if _, ok := by(model.Point{}); !ok {
		return fmt.Errorf("rows are aligned left, right, top or bottom, not %q", clip(to))
	}
	t.each(rows, func(r *T) { d, _ := by(t.at(*r)); t.move(r, d) })
	return nil
}

// spread brings rows to even distances along the way in which they lie farther apart: between the first and the last as they are, or by a
// distance from the first on. What lies first along that way stays first.
func (t *rows[T]) spread(rows []int, distance string) error {
	if len(rows) < 2 {
		return fmt.Errorf("one row alone cannot be spread: choose two or more")
	}
	var b model.Box
	for _, r := range rows {
		b.Take(t.at((*t.all)[r]))
	}
	upright := b.Height() > b.Width()
	along := func(r int) model.Length {
		at := t.at((*t.all)[r])
		if upright {
			return -at.Y // from the top down, as people read
		}
		return at.X
	}
	order := slices.Clone(rows)
	slices.SortStableFunc(order, func(a, b int) int { return int(max(min(along(a)-along(b), 1), -1)) })
	first, last := along(order[0]), along(order[len(order)-1])
	each := func(i int) model.Length {
		return first + model.Length(divided(int64(last-first)*int64(i), int64(len(order)-1)))
	}
	if distance != "" {
		d, err := model.ParseLength(distance)
		if err != nil {
			return err
		}
		if d <= 0 {
			return fmt.Errorf("the distance of %s mm is not above zero", d)
		}
		each = func(i int) model.Length { return first + d*model.Length(i) }
	}
	for i, r := range order {
		by := each(i) - along(r)
		if upright {
			t.move(&(*t.all)[r], model.Point{Y: -by})
		} else {
			t.move(&(*t.all)[r], model.Point{X: by})
		}
	}
	return nil
}

// snap brings the places of rows onto a grid.
func (t *rows[T]) snap(rows []int, grid string) error {
	g, err := model.ParseLength(grid)
	if err != nil {
		return err
	}
	if g <= 0 {
		return fmt.Errorf("a grid of %s mm is not above zero", g)
	}
	t.each(rows, func(r *T) {
		at := t.at(*r)
		t.move(r, model.Point{X: onto(at.X, g) - at.X, Y: onto(at.Y, g) - at.Y})
	})
	return nil
}

func onto(l, grid model.Length) model.Length {
	return model.Length(divided(int64(l), int64(grid))) * grid
}

// divided is a ÷ b, rounded half away from zero.
func divided(a, b int64) int64 {
	if a < 0 {
		return -divided(-a, b)
	}
	return (a + b/2) / b
}
