package store

import (
	"context"
	"time"

	"gorm.io/gorm"
)

// ClaimAsked says which of some sources a job may ask a connection for: those that nobody asked it for since a time, and those that the job itself
// began to ask for and did not end, because it was killed. Of two jobs that claim at once each source goes to one.
func (s *Store) ClaimAsked(ctx context.Context, connection, job ID, keys []Hash, since, now time.Time) (mine []Hash, err error) {
	if len(keys) == 0 {
		return nil, nil
	}
	err = s.small(ctx, func(g *gorm.DB) error {
		rows := newInsert("offer_asked", "connection, k, at, job, done")
		for _, k := range keys {
			rows.add(connection, k, time.Unix(0, 0).UTC(), job, true)
		}
		rows.then = " ON DUPLICATE KEY UPDATE at = at"
		return rows.run(g)
	})
	if err != nil {
		return nil, err
	}
	err = s.small(ctx, func(g *gorm.DB) error {
		mine = nil
		if err := g.Raw("SELECT k FROM offer_asked WHERE connection = ? AND k IN ? AND (at < ? OR job = ? AND NOT done) ORDER BY k FOR UPDATE", connection, keys, since, job).Scan(&mine).Error; err != nil || len(mine) == 0 {
			return err
		}
		return g.Exec("UPDATE offer_asked SET at = ?, job = ?, done = FALSE WHERE connection = ? AND k IN ?", now, job, connection, mine).Error
	})
	return mine, err
}

// EndAsked says what became of sources that a job claimed: they were answered, or are to be asked again.
func (s *Store) EndAsked(ctx context.Context, connection, job ID, keys []Hash, answered bool) error {
	if len(keys) == 0 {
		return nil
	}
	return s.small(ctx, func(g *gorm.DB) error {
		if answered {
			return g.Exec("UPDATE offer_asked SET done = TRUE WHERE connection = ? AND job = ? AND k IN ?", connection, job, keys).Error
		}
		return g.Exec("UPDATE offer_asked SET at = '1970-01-01', done = TRUE WHERE connection = ? AND job = ? AND k IN ?", connection, job, keys).Error
	})
}

// AskedAt says when connections were asked for some sources last; never is not in it.
func (r Reader) AskedAt(connection ID, keys []Hash) (map[Hash]time.Time, error) {
	out := map[Hash]time.Time{}
	for from := 0; from < len(keys); from += batch {
		var rows []struct {
			K  Hash
			At time.Time
		}
		if err := r.db.Raw("SELECT k, at FROM offer_asked WHERE connection = ? AND k IN ? AND done AND at > '1971-01-01'", connection, keys[from:min(from+batch, len(keys))]).Scan(&rows).Error; err != nil {
			return nil, err
		}
		for _, row := range rows {
			out[row.K] = row.At
		}
	}
	return out, nil
}
