package store

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"gorm.io/gorm"
)

// Merged is the standing of a part that was merged into another: its number leads to the survivor.
const Merged = "merged"

// Withdrawn is the standing of a part whose intake was taken back: its number is free again, its trail stays.
const Withdrawn = "withdrawn"

// Gone says whether a part of this standing is no part of the library any more.
func Gone(standing string) bool { return standing == Merged || standing == Withdrawn }

// ErrCircle is returned for a successor that leads back to what it would succeed.
var ErrCircle = errors.New("the successor leads back")

// SetSuccessor says which part replaces another; the zero ID withdraws it. A chain that leads back would lead nobody
// anywhere. Whether one does hangs on rows that others may write at the same moment: all who write one take turns.
func (t *Tx) SetSuccessor(head, successor ID, why string) error {
	if successor.IsZero() {
		return t.db.Exec("DELETE FROM successors WHERE head = ?", head).Error
	}
	if err := t.takeTurn("successors"); err != nil {
		return err
	}
	seen := map[ID]bool{}
	for id := successor; !seen[id]; {
		if id == head {
			return ErrCircle
		}
		seen[id] = true
		next, _, err := t.Successor(id)
		if errors.Is(err, ErrNotFound) {
			break
		}
		if err != nil {
			return err
		}
		id = next
	}
	return t.db.Exec("INSERT INTO successors (head, successor, why) VALUES (?,?,?) ON DUPLICATE KEY UPDATE successor = VALUES(successor), why = VALUES(why)", head, successor, why).Error
}

// Successor returns the part that replaces another.
func (r Reader) Successor(head ID) (id ID, why string, err error) {
	err = r.db.Raw("SELECT successor, why FROM successors WHERE head = ?", head).Row().Scan(&id, &why)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return id, why, err
}

// View is a saved set of filters, sorting and columns.
type View struct {
	ID      ID `gorm:"primaryKey"`
	Account ID
	Name    string
	Drawer  string
	Query   string
	Shared  bool
	Version int
	Updated time.Time
}

// TableName is GORM's hook.
func (View) TableName() string { return "views" }

// Views lists an account's own views and those that others share.
func (r Reader) Views(account ID) (out []View, err error) {
	err = r.db.Where("account = ? OR shared", account).Order("drawer, name, id").Limit(1000).Find(&out).Error
	return out, err
}

// ViewsThatSay lists the views of all accounts whose question holds one of some texts.
func (r Reader) ViewsThatSay(texts []string) (out []View, err error) {
	err = r.db.Where(r.says("query", texts)).Order("id").Find(&out).Error
	return out, err
}

// SetViewQuery gives a view another question. One that was saved or removed meanwhile is ErrConflict.
func (t *Tx) SetViewQuery(v View, query string) error {
	r := t.db.Exec("UPDATE views SET query = ?, version = version + 1 WHERE id = ? AND version = ?", query, v.ID, v.Version)
	if r.Error == nil && r.RowsAffected == 0 {
		return ErrConflict
	}
	return r.Error
}

// SaveView keeps a view under its name, in place of the account's earlier one of that name.
func (s *Store) SaveView(ctx context.Context, v *View) error {
	return s.small(ctx, func(g *gorm.DB) error {
		var have View
		r := g.Where("account = ? AND drawer = ? AND name = ?", v.Account, v.Drawer, v.Name).Limit(1).Find(&have)
		if r.Error != nil {
			return r.Error
		}
		if r.RowsAffected > 0 {
			v.ID, v.Version = have.ID, have.Version+1
			return g.Save(v).Error
		}
		v.Version = 1
		return g.Create(v).Error
	})
}

// DropView removes an account's own view.
func (s *Store) DropView(ctx context.Context, account, id ID) error {
	return s.small(ctx, func(g *gorm.DB) error {
		r := g.Where("account = ? AND id = ?", account, id).Delete(&View{})
		if r.Error == nil && r.RowsAffected == 0 {
			return ErrNotFound
		}
		return r.Error
	})
}

// Leading lists the numbers of those parts that others lead to: as a successor, or by a former number.
func (r Reader) Leading(parts []Written) (numbers []string, err error) {
	for from := 0; from < len(parts); from += batch {
		var ids []ID
		for _, w := range parts[from:min(from+batch, len(parts))] {
			if w.Made {
				ids = append(ids, w.Head.ID)
			}
		}
		if len(ids) == 0 {
			continue
		}
		var some []string
		if err := r.db.Raw("SELECT h.number FROM heads h WHERE h.id IN ? AND (EXISTS (SELECT 1 FROM successors s WHERE s.successor = h.id) OR EXISTS (SELECT 1 FROM numbers f WHERE f.head = h.id AND f.sort = 'former'))", ids).Scan(&some).Error; err != nil {
			return nil, err
		}
		numbers = append(numbers, some...)
	}
	return numbers, nil
}
