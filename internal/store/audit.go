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

// Chain returns a head's whole trail, oldest first.
func (r Reader) Chain(head ID) (out []TrailEntry, err error) {
	err = r.db.Where("head = ?", head).Order("seq").Find(&out).Error
	return out, err
}

// SourceKeys lists the keys of the sources that a part holds.
func (r Reader) SourceKeys(head ID) (out []Hash, err error) {
	var rows []struct{ K Hash }
	err = r.db.Raw("SELECT k FROM source_keys WHERE head = ?", head).Scan(&rows).Error
	for _, row := range rows {
		out = append(out, row.K)
	}
	return out, err
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
