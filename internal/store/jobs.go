package store

import (
	"context"
	"time"

	"gorm.io/gorm"
)

// Job states.
const (
	JobWaiting = "waiting"
	JobRunning = "running"
	JobDone    = "done"
	JobFailed  = "failed"
	JobStopped = "stopped"
)

// Job is long work that any instance may carry on.
type Job struct {
	ID         ID `gorm:"primaryKey"`
	Kind       string
	Deed       ID
	Account    ID
	Head       ID
	Payload    string
	State      string
	Fence      int
	LeaseUntil *time.Time
	Done       int64
	Total      int64
	Stop       bool
	Attempts   int
	Sole       *string // what only one job at a time may be about; gone once it has ended
	Result     string
	Error      string
	Created    time.Time
	Updated    time.Time
}

// TableName is GORM's hook.
func (Job) TableName() string { return "jobs" }

// Job loads a job.
func (r Reader) Job(id ID) (j Job, err error) {
	q := r.db.Where("id = ?", id).Limit(1).Find(&j)
	if q.Error == nil && q.RowsAffected == 0 {
		return j, ErrNotFound
	}
	return j, q.Error
}

// JobOfDeed loads the job that carries out a deed.
func (r Reader) JobOfDeed(deed ID) (j Job, err error) {
	q := r.db.Where("deed = ?", deed).Limit(1).Find(&j)
	if q.Error == nil && q.RowsAffected == 0 {
		return j, ErrNotFound
	}
	return j, q.Error
}

// LastJob loads the newest job about a head.
func (r Reader) LastJob(head ID) (j Job, err error) {
	q := r.db.Where("head = ?", head).Order("created DESC").Limit(1).Find(&j)
	if q.Error == nil && q.RowsAffected == 0 {
		return j, ErrNotFound
	}
	return j, q.Error
}

// AddJob queues a job.
func (s *Store) AddJob(ctx context.Context, j *Job) error {
	return s.small(ctx, func(g *gorm.DB) error { return g.Create(j).Error })
}

// KindsOfJobs lists the kinds of which ClaimJob may find a job.
func (s *Store) KindsOfJobs(ctx context.Context) (kinds []string, err error) {
	err = s.reads.WithContext(ctx).Raw("SELECT DISTINCT kind FROM jobs WHERE state = 'waiting' OR state = 'running' AND lease_until < NOW(6)").Scan(&kinds).Error
	return kinds, err
}

// ClaimJob takes a job of a kind that waits, or whose holder's lease has run out. The fence it returns must be named in every
// later write, so that a holder that slept too long can do no harm.
func (s *Store) ClaimJob(ctx context.Context, kind string, lease time.Duration) (j Job, ok bool, err error) {
	r := s.reads.WithContext(ctx).Raw("SELECT * FROM jobs WHERE kind = ? AND (state = 'waiting' OR state = 'running' AND lease_until < NOW(6)) ORDER BY created LIMIT 1", kind).Scan(&j)
	if r.Error != nil || r.RowsAffected == 0 {
		return j, false, r.Error
	}
	err = s.small(ctx, func(g *gorm.DB) error {
		u := g.Exec("UPDATE jobs SET state = 'running', fence = fence + 1, attempts = attempts + 1, lease_until = NOW(6) + INTERVAL ? MICROSECOND, updated = NOW(6) "+
			"WHERE id = ? AND fence = ? AND (state = 'waiting' OR state = 'running' AND lease_until < NOW(6))", lease.Microseconds(), j.ID, j.Fence)
		ok = u.RowsAffected == 1
		return u.Error
	})
	j.Fence++
	j.Attempts++
	return j, ok && err == nil, err
}

// KeepJob reports progress and prolongs the lease. It is ErrConflict when another instance holds the job by now, and
// stop says that somebody asked for the job to be stopped.
func (s *Store) KeepJob(ctx context.Context, j Job, lease time.Duration, done, total int64) (stop bool, err error) {
	err = s.small(ctx, func(g *gorm.DB) error {
		u := g.Exec("UPDATE jobs SET done = ?, total = ?, lease_until = NOW(6) + INTERVAL ? MICROSECOND, updated = NOW(6) WHERE id = ? AND fence = ? AND state = 'running'",
			done, total, lease.Microseconds(), j.ID, j.Fence)
		if u.Error == nil && u.RowsAffected == 0 {
			return ErrConflict
		}
		if u.Error != nil {
			return u.Error
		}
		return g.Raw("SELECT stop FROM jobs WHERE id = ?", j.ID).Scan(&stop).Error
	})
	return stop, err
}

// EndJob closes a job inside the transaction that does its work.
func (t *Tx) EndJob(j Job, result string) error {
	u := t.db.Exec("UPDATE jobs SET state = 'done', sole = NULL, result = ?, done = total, updated = NOW(6) WHERE id = ? AND fence = ? AND state = 'running' AND stop = FALSE", result, j.ID, j.Fence)
	if u.Error == nil && u.RowsAffected == 0 {
		return ErrConflict
	}
	return u.Error
}

// FailJob closes a job that came to nothing.
func (s *Store) FailJob(ctx context.Context, j Job, state, sentence string) error {
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("UPDATE jobs SET state = ?, sole = NULL, error = ?, updated = NOW(6) WHERE id = ? AND fence = ? AND state = 'running'", state, sentence, j.ID, j.Fence).Error
	})
}

// PutBackJob lets a job wait again, for this instance or another one; innocent says that the try does not count.
func (s *Store) PutBackJob(ctx context.Context, j Job, innocent bool) error {
	back := 0
	if innocent {
		back = 1
	}
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("UPDATE jobs SET state = 'waiting', lease_until = NULL, attempts = attempts - ?, updated = NOW(6) WHERE id = ? AND fence = ? AND state = 'running'", back, j.ID, j.Fence).Error
	})
}

// JobAbout loads the job that is on its way about something of which there is one at a time.
func (r Reader) JobAbout(sole string) (j Job, err error) {
	q := r.db.Where("sole = ?", sole).Limit(1).Find(&j)
	if q.Error == nil && q.RowsAffected == 0 {
		return j, ErrNotFound
	}
	return j, q.Error
}

// LastJobOf loads the newest job of a kind about a head.
func (r Reader) LastJobOf(head ID, kind string) (j Job, err error) {
	q := r.db.Where("head = ? AND kind = ?", head, kind).Order("created DESC").Limit(1).Find(&j)
	if q.Error == nil && q.RowsAffected == 0 {
		return j, ErrNotFound
	}
	return j, q.Error
}

// FailedJobs lists jobs of a person that failed since a time, newest first, and says how many there are.
func (r Reader) FailedJobs(account ID, since time.Time, limit int) (out []Job, total int64, err error) {
	return page[Job](r.db.Where("state = ? AND account = ? AND updated >= ?", JobFailed, account, since), "updated DESC, id", 0, limit)
}

// StopJob asks for a job to be stopped.
func (s *Store) StopJob(ctx context.Context, id ID) error {
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("UPDATE jobs SET stop = TRUE, sole = IF(state = 'waiting', NULL, sole), state = IF(state = 'waiting', 'stopped', state), updated = NOW(6) WHERE id = ? AND state IN ('waiting','running')", id).Error
	})
}

// FinishJob closes a job whose work is done and visible already.
func (s *Store) FinishJob(ctx context.Context, j Job, result string) error {
	return s.small(ctx, func(g *gorm.DB) error {
		u := g.Exec("UPDATE jobs SET state = 'done', sole = NULL, result = ?, done = total, updated = NOW(6) WHERE id = ? AND fence = ? AND state = 'running'", result, j.ID, j.Fence)
		if u.Error == nil && u.RowsAffected == 0 {
			return ErrConflict
		}
		return u.Error
	})
}
