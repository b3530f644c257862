package store

import (
	"time"
)

// Want is how far somebody's want is; what is wanted is the content of its head.
type Want struct {
	Head     ID `gorm:"primaryKey"`
	WantedBy ID
	State    string
	TakenBy  ID // who is at it, or settled it
	Part     ID // that answers it
	Why      string
	Asked    time.Time
	Settled  *time.Time
}

// TableName is GORM's hook.
func (Want) TableName() string { return "wants" }

// Want loads a want.
func (r Reader) Want(head ID) (out Want, err error) {
	q := r.db.Where("head = ?", head).Limit(1).Find(&out)
	if q.Error == nil && q.RowsAffected == 0 {
		return out, ErrNotFound
	}
	return out, q.Error
}

// WantQuery narrows the list of wants; blank is any.
type WantQuery struct {
	States   []string
	WantedBy ID
	Part     ID
	// SettledSince leaves out what was settled before, and what is not settled; the zero time leaves out nothing.
	SettledSince time.Time
}

// Wants lists wants, those that wait longest first, with their heads.
func (r Reader) Wants(q WantQuery, offset, limit int) (out []Want, heads map[ID]Head, total int64, err error) {
	db := r.db
	if len(q.States) > 0 {
		db = db.Where("state IN ?", q.States)
	}
	if !q.WantedBy.IsZero() {
		db = db.Where("wanted_by = ?", q.WantedBy)
	}
	if !q.Part.IsZero() {
		db = db.Where("part = ?", q.Part)
	}
	if !q.SettledSince.IsZero() {
		db = db.Where("settled >= ?", q.SettledSince)
	}
	if out, total, err = page[Want](db, "asked, head", offset, limit); err != nil {
		return nil, nil, 0, err
	}
	ids := make([]ID, 0, len(out))
	for _, w := range out {
		ids = append(ids, w.Head)
	}
	all, err := r.HeadsByID(ids)
	heads = map[ID]Head{}
	for _, h := range all {
		heads[h.ID] = h
	}
	return out, heads, total, err
}

// CountWants counts the wants by state.
func (r Reader) CountWants() (map[string]int, error) {
	var rows []struct {
		State string
		N     int
	}
	err := r.db.Raw("SELECT state, COUNT(*) AS n FROM wants GROUP BY state").Scan(&rows).Error
	out := map[string]int{}
	for _, row := range rows {
		out[row.State] = row.N
	}
	return out, err
}

// AddWants adds the rows of new wants.
func (t *Tx) AddWants(all []Want) error {
	in := newInsert("wants", "head, wanted_by, state, why, asked")
	for _, w := range all {
		in.add(w.Head, w.WantedBy, w.State, w.Why, w.Asked)
	}
	return in.run(t.db)
}

// SaveWant writes how far a want is.
func (t *Tx) SaveWant(w Want) error {
	return t.db.Exec("UPDATE wants SET state = ?, taken_by = ?, part = ?, why = ?, settled = ? WHERE head = ?", w.State, w.TakenBy, w.Part, w.Why, w.Settled, w.Head).Error
}
