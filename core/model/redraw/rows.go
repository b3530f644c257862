package redraw

import (
	"fmt"
	"slices"

	"jollydrawer/core/model"
)

// column is a column with how its cells are read and written.
type column[T any] struct {
	Column
	get func(T) string
	set func(*T, string) error
}

// rows is a list of a drawing with all that a change needs to know of its kind of row.
type rows[T any] struct {
	all     *[]T
	what    string // one row, in words
	columns []column[T]
	at      func(T) model.Point   // the place by which it is aligned and spread
	points  func(T) []model.Point // that say where it is
	move    func(*T, model.Point)
	turn    func(*T, model.Angle) error // about the origin
	mirror  func(*T)                    // in the upright line through the origin
	box     func(T) model.Box
	unit    func(T) int
	number  func(*T) *string // nil where rows have no numbers
	added   func(after []T, ch Change) (T, model.Point, error)
	grid    model.Length // on which turning leaves what lies on it; none where it is zero
}

func (t *rows[T]) size() int { return len(*t.all) }

func (t *rows[T]) list(of string) List {
	out := List{Of: of, Columns: []Column{}, Rows: make([]Row, 0, len(*t.all))}
	for _, c := range t.columns {
		out.Columns = append(out.Columns, c.Column)
	}
	for _, r := range *t.all {
		row := Row{Cells: make([]string, 0, len(t.columns)), Unit: t.unit(r)}
		for _, c := range t.columns {
			row.Cells = append(row.Cells, c.get(r))
		}
		b := t.box(r)
		row.Box = [4]float64{b.Min.X.Millimetres(), b.Min.Y.Millimetres(), b.Max.X.Millimetres(), b.Max.Y.Millimetres()}
		out.Rows = append(out.Rows, row)
	}
	return out
}

func (t *rows[T]) change(ch Change) ([]int, error) {
	switch ch.Do {
	case Set:
		return ch.Rows, t.set(ch)
	case Move:
		t.each(ch.Rows, func(r *T) { t.move(r, ch.By) })
		return ch.Rows, nil
	case Turn:
		return ch.Rows, t.about(ch.Rows, func(r *T) error { return t.turn(r, ch.Angle) })
	case Mirror:
		return ch.Rows, t.about(ch.Rows, func(r *T) error { t.mirror(r); return nil })
	case Add:
		return t.add(ch)
	case Copy:
		return t.copy(ch)
	case Remove:
		return t.remove(ch.Rows), nil
	case Align:
		return ch.Rows, t.align(ch.Rows, ch.Value)
	case Spread:
		return ch.Rows, t.spread(ch.Rows, ch.Value)
	case Snap:
		return ch.Rows, t.snap(ch.Rows, ch.Value)
	case Number:
		return ch.Rows, t.renumber(ch.Rows, ch.Value)
	}
	return nil, fmt.Errorf("%q is no change of a drawing", ch.Do)
}

func (t *rows[T]) each(rows []int, do func(*T)) {
	for _, r := range rows {
		do(&(*t.all)[r])
	}
}

// set writes cells of one column.
func (t *rows[T]) set(ch Change) error {
	at := slices.IndexFunc(t.columns, func(c column[T]) bool { return c.Key == ch.Column })
	if at < 0 {
		return fmt.Errorf("%s have no column %q", t.what+"s", ch.Column)
	}
	if len(ch.Values) > 0 && len(ch.Values) != len(ch.Rows) {
		return fmt.Errorf("there are %d values for %d rows: give one for each, or one for all", len(ch.Values), len(ch.Rows))
	}
	for i, r := range ch.Rows {
		value := ch.Value
		if len(ch.Values) > 0 {
			value = ch.Values[i]
		}
		c, row := t.columns[at], &(*t.all)[r]
		if value == c.get(*row) {
			continue
		}
		if c.Choices != nil && !slices.Contains(c.Choices, value) {
			return fmt.Errorf("%s, row %d: %q is none of %s", c.Name, r+1, clip(value), words(c.Choices))
		}
		if err := c.set(row, value); err != nil {
			return fmt.Errorf("%s, row %d: %w", c.Name, r+1, err)
		}
	}
	return nil
}

// remove takes rows away; the row that takes the place of the first of them is gone on with.
func (t *rows[T]) remove(rows []int) []int {
	kept, first := (*t.all)[:0:0], len(*t.all)
	for i, r := range *t.all {
		if slices.Contains(rows, i) {
			first = min(first, i)
			continue
		}
		kept = append(kept, r)
	}
	*t.all = kept
	if len(kept) == 0 {
		return []int{}
	}
	return []int{min(first, len(kept)-1)}
}

// add puts new rows behind the last chosen one, each a step further on.
func (t *rows[T]) add(ch Change) ([]int, error) {
	count := max(ch.Count, 1)
	if count > MostAdded {
		return nil, fmt.Errorf("at most %d rows are added at once", MostAdded)
	}
	after := make([]T, 0, 2)
	for _, r := range lastTwo(ch.Rows, len(*t.all)) {
		after = append(after, (*t.all)[r])
	}
	one, step, err := t.added(after, ch)
	if err != nil {
		return nil, err
	}
	if (ch.By != model.Point{}) {
		step = ch.By
	}
	fresh := make([]T, 0, count)
	for i := range count {
		if i > 0 || len(after) > 0 {
			t.move(&one, step)
		}
		fresh = append(fresh, one)
	}
	return t.append(fresh, ch.Value)
}

// lastTwo are the two rows after which a new one comes: of those that are chosen, else of all.
func lastTwo(rows []int, size int) []int {
	if len(rows) == 0 {
		for i := max(size-2, 0); i < size; i++ {
			rows = append(rows, i)
		}
		return rows
	}
	last := rows[len(rows)-1]
	if len(rows) > 1 {
		return []int{rows[len(rows)-2], last}
	}
	if last > 0 {
		return []int{last - 1, last}
	}
	return rows
}

// copy lays the rows down once more.
func (t *rows[T]) copy(ch Change) ([]int, error) {
	fresh := make([]T, 0, len(ch.Rows))
	for _, r := range ch.Rows {
		one := (*t.all)[r]
		if ch.Angle != 0 {
			if err := t.turn(&one, ch.Angle); err != nil {
				return nil, err
			}
		}
		t.move(&one, ch.By)
		fresh = append(fresh, one)
	}
	return t.append(fresh, ch.Value)
}

// append numbers new rows on and puts them at the end of the list.
func (t *rows[T]) append(fresh []T, first string) ([]int, error) {
	if len(*t.all)+len(fresh) > 20000 {
		return nil, fmt.Errorf("the drawing would have %d %ss; at most 20,000 are read", len(*t.all)+len(fresh), t.what)
	}
	if t.number != nil {
		taken, next := map[string]bool{}, first
		for i := range *t.all {
			n := *t.number(&(*t.all)[i])
			taken[n] = true
			if first == "" && n != "" {
				next = n
			}
		}
		if first != "" && taken[first] {
			return nil, fmt.Errorf("the number %s is taken: choose a free one to number on from", clip(first))
		}
		for i := range fresh {
			if n := t.number(&fresh[i]); *n != "" || first != "" {
				for i > 0 && next == "" || taken[next] {
					next = Next(next)
				}
				if next == "" {
					next = "1"
				}
				*n = next
				taken[next] = true
			}
		}
	}
	selected := make([]int, 0, len(fresh))
	for i := range fresh {
		selected = append(selected, len(*t.all)+i)
	}
	*t.all = append(*t.all, fresh...)
	return selected, nil
}

// renumber numbers rows in their order on from a number, whatever they were called; a number that another row keeps is refused.
func (t *rows[T]) renumber(rows []int, first string) error {
	if t.number == nil {
		return fmt.Errorf("graphics have no numbers")
	}
	if first == "" {
		return fmt.Errorf("it is not said from which number on")
	}
	taken := map[string]bool{}
	for i := range *t.all {
		if !slices.Contains(rows, i) {
			taken[*t.number(&(*t.all)[i])] = true
		}
	}
	next := first
	for _, r := range rows {
		if taken[next] {
			return fmt.Errorf("the number %s stands on a row that is not chosen: begin with another number, or choose that row too", clip(next))
		}
		*t.number(&(*t.all)[r]) = next
		next = Next(next)
	}
	return nil
}
