package store

import (
	"context"
	"database/sql"
	"errors"

	"gorm.io/gorm"
)

// Sorts of numbers that find a part.
const (
	ownNumber    = "own"
	formerNumber = "former"
)

// giveNumber lets a number find a part and no other. It is ErrNumberTaken where it finds another already, as its own number
// or a former one: all numbers are under one key, so that two who give it at once cannot both have it.
func (t *Tx) giveNumber(number string, head ID, sort string) error {
	return taken(t.db.Exec("INSERT INTO numbers (number, head, sort) VALUES (?,?,?)", number, head, sort).Error, ErrNumberTaken)
}

// AddFormer lets another number find a part.
func (t *Tx) AddFormer(number string, head ID) error { return t.giveNumber(number, head, formerNumber) }

// MoveNumbers lets all numbers of one part, its own included, find another as former ones.
func (t *Tx) MoveNumbers(from, to ID) error {
	return t.db.Exec("UPDATE numbers SET head = ?, sort = ? WHERE head = ?", to, formerNumber, from).Error
}

// ByNumber finds the part that a number leads to: its own or a former one.
func (r Reader) ByNumber(number string) (id ID, err error) {
	err = r.db.Raw("SELECT head FROM numbers WHERE number = ?", number).Row().Scan(&id)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return id, err
}

// Formers lists the former numbers of a part.
func (r Reader) Formers(head ID) (out []string, err error) {
	err = r.db.Raw("SELECT number FROM numbers WHERE head = ? AND sort = ? ORDER BY number", head, formerNumber).Scan(&out).Error
	return out, err
}

// formerNumbers lists the former numbers of the parts that a deed wrote, or of all.
func (r Reader) formerNumbers(deed ID) (map[ID][]string, error) {
	q, args := "SELECT f.number, f.head FROM numbers f WHERE f.sort = ?", []any{formerNumber}
	if !deed.IsZero() {
		q, args = "SELECT f.number, f.head FROM numbers f JOIN heads h ON h.id = f.head WHERE f.sort = ? AND h.deed = ?", []any{formerNumber, deed}
	}
	rows, err := r.db.Raw(q, args...).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[ID][]string{}
	for rows.Next() {
		var number string
		var head ID
		if err := rows.Scan(&number, &head); err != nil {
			return nil, err
		}
		out[head] = append(out[head], number)
	}
	return out, rows.Err()
}

// ReserveNumbers takes n numbers of a prefix's counter and returns the first. It is its own short transaction: numbers
// of a deed that fails afterwards stay unused, and none is ever given twice.
func (s *Store) ReserveNumbers(ctx context.Context, prefix string, n int) (first int64, err error) {
	err = s.small(ctx, func(g *gorm.DB) error {
		if err := g.Exec("INSERT IGNORE INTO counters (prefix, next) VALUES (?, 1)", prefix).Error; err != nil {
			return err
		}
		if err := g.Exec("UPDATE counters SET next = next + ? WHERE prefix = ?", n, prefix).Error; err != nil {
			return err
		}
		var next int64
		if err := g.Raw("SELECT next FROM counters WHERE prefix = ?", prefix).Scan(&next).Error; err != nil {
			return err
		}
		first = next - int64(n)
		return nil
	})
	return first, err
}

// Counters returns the next number of each prefix.
func (r Reader) Counters() (map[string]int64, error) {
	var rows []struct {
		Prefix string
		Next   int64
	}
	err := r.db.Raw("SELECT prefix, next FROM counters").Scan(&rows).Error
	out := map[string]int64{}
	for _, row := range rows {
		out[row.Prefix] = row.Next
	}
	return out, err
}

// takeTurn lets the writes that depend on each other's rows of some kind be one after the other: each writes one row that all
// of them write, so that of two at once, on whatever node, one starts again.
func (t *Tx) takeTurn(kind string) error {
	return t.db.Exec("INSERT INTO counters (prefix, next) VALUES (?, 1) ON DUPLICATE KEY UPDATE next = next + 1", kind).Error
}

// StepPast makes a prefix's counter continue after a number that was given by hand.
func (s *Store) StepPast(ctx context.Context, prefix string, number int64) error {
	return s.small(ctx, func(g *gorm.DB) error {
		if err := g.Exec("INSERT IGNORE INTO counters (prefix, next) VALUES (?, 1)", prefix).Error; err != nil {
			return err
		}
		return g.Exec("UPDATE counters SET next = GREATEST(next, ?) WHERE prefix = ?", number+1, prefix).Error
	})
}
