package store

import (
	"context"
	"time"

	"gorm.io/gorm"
)

// Place is something that answers of a connection say: a path of its document, or a field of products of a kind.
type Place struct {
	Connection ID     `gorm:"primaryKey"`
	Version    int    `gorm:"primaryKey"` // of the connection's document
	Place      string `gorm:"primaryKey"`
	Seen       time.Time
	Missed     *time.Time // since when answers with enough products do not say it any more
}

// TableName is GORM's hook.
func (Place) TableName() string { return "connection_places" }

// PlacesOf lists what answers of a connection said, under a version of its document.
func (r Reader) PlacesOf(connection ID, version int) (out []Place, err error) {
	err = r.db.Where("connection = ? AND version = ?", connection, version).Order("place").Limit(5000).Find(&out).Error
	return out, err
}

// MissedPlaces lists what connections do not say any more, by the version of their document that is in force.
func (r Reader) MissedPlaces() (out []Place, err error) {
	err = r.db.Raw("SELECT p.* FROM connection_places p JOIN heads h ON h.id = p.connection AND h.version = p.version WHERE p.missed IS NOT NULL ORDER BY p.connection, p.place LIMIT 1000").Scan(&out).Error
	return out, err
}

// KeepPlaces keeps what an answer said, and what it did not say that answers before it did.
func (s *Store) KeepPlaces(ctx context.Context, connection ID, version int, said, missed []string, at time.Time) error {
	if len(said)+len(missed) == 0 {
		return nil
	}
	return s.small(ctx, func(g *gorm.DB) error {
		rows := newInsert("connection_places", "connection, version, place, seen")
		for _, p := range said {
			rows.add(connection, version, p, at)
		}
		rows.then = " ON DUPLICATE KEY UPDATE seen = VALUES(seen), missed = NULL"
		if err := rows.run(g); err != nil {
			return err
		}
		if len(missed) == 0 {
			return nil
		}
		return g.Exec("UPDATE connection_places SET missed = ? WHERE connection = ? AND version = ? AND place IN ? AND missed IS NULL", at, connection, version, missed).Error
	})
}
