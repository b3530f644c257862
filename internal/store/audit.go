package store

import (
	"context"

	"gorm.io/gorm"
)

// HeadsAfter lists heads of a kind, or of all for a blank one, by ID, from the one behind after on.
func (r Reader) HeadsAfter(kind string, after ID, limit int) (out []Head, err error) {
	q := r.db.Order("id").Limit(limit)
	if kind != "" {
		q = q.Where("kind = ?", kind)
	}
	if !after.IsZero() {
		q = q.Where("id > ?", after)
	}
	return out, q.Find(&out).Error
}

// CountHeads counts the heads of all kinds.
func (r Reader) CountHeads() (n int64, err error) {
	err = r.db.Model(&Head{}).Count(&n).Error
	return n, err
}

// Chains returns the whole trails of some heads, oldest entry first.
func (r Reader) Chains(heads []ID) (map[ID][]TrailEntry, error) {
	var all []TrailEntry
	err := r.db.Where("head IN ?", heads).Order("head, seq").Find(&all).Error
	return byKey(all, func(e TrailEntry) ID { return e.Head }), err
}

// RevisionsOf returns the revisions of some heads, newest first.
func (r Reader) RevisionsOf(heads []ID) (map[ID][]Revision, error) {
	var all []Revision
	err := r.db.Where("head IN ?", heads).Order("head, number DESC").Find(&all).Error
	return byKey(all, func(x Revision) ID { return x.Head }), err
}

// SourceKeysOf returns the keys of the sources that some parts hold.
func (r Reader) SourceKeysOf(heads []ID) (map[ID][]Hash, error) {
	var rows []struct {
		Head ID
		K    Hash
	}
	err := r.db.Raw("SELECT head, k FROM source_keys WHERE head IN ?", heads).Scan(&rows).Error
	out := map[ID][]Hash{}
	for _, row := range rows {
		out[row.Head] = append(out[row.Head], row.K)
	}
	return out, err
}

// UsesBy returns the uses of some heads.
func (r Reader) UsesBy(parents []ID) (map[ID][]Use, error) {
	var all []Use
	err := r.db.Raw("SELECT parent, place, child, child_revision FROM uses WHERE parent IN ?", parents).Scan(&all).Error
	return byKey(all, func(u Use) ID { return u.Parent }), err
}

// OwnNumbers returns the numbers that find some parts as their own.
func (r Reader) OwnNumbers(heads []ID) (map[ID][]string, error) {
	var rows []struct {
		Head   ID
		Number string
	}
	err := r.db.Raw("SELECT head, number FROM numbers WHERE head IN ? AND sort = ?", heads, ownNumber).Scan(&rows).Error
	out := map[ID][]string{}
	for _, row := range rows {
		out[row.Head] = append(out[row.Head], row.Number)
	}
	return out, err
}

func byKey[T any](all []T, key func(T) ID) map[ID][]T {
	out := map[ID][]T{}
	for _, x := range all {
		out[key(x)] = append(out[key(x)], x)
	}
	return out
}

// TrailEnds walks over the ends of all trails, by head.
func (r Reader) TrailEnds(each func(head ID, end Hash) error) error {
	rows, err := r.db.Raw("SELECT id, trail_hash FROM heads ORDER BY id").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var id ID
		var hash Hash
		if err := rows.Scan(&id, &hash); err != nil {
			return err
		}
		if err := each(id, hash); err != nil {
			return err
		}
	}
	return rows.Err()
}

// AddSeal keeps a root over the ends of trails. Rival instances collide on the number of the seal.
func (s *Store) AddSeal(ctx context.Context, heads int, root Hash) error {
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("INSERT INTO seals (n, at, heads, root) SELECT COALESCE(MAX(n), 0) + 1, NOW(6), ?, ? FROM seals", heads, root).Error
	})
}
