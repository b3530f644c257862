package store

import (
	"encoding/json"
	"fmt"
	"time"

	"jollydrawer/core/decision"

	"gorm.io/gorm"
)

// Decision is a decision about rows of a supplier's files, as later files ask for it.
type Decision struct {
	ID          Hash `gorm:"primaryKey"` // of the scope and of what it is about: a later one about the same takes its place
	Scope       string
	Intake      ID     // where it was made last
	Source      string // key of the manufacturer part number it is about; blank where there is none
	Claims      bool   // it says which values the source has
	Body        string
	Account     ID
	At          time.Time
	WithdrawnBy ID
	Withdrawn   *time.Time
}

// TableName is GORM's hook.
func (Decision) TableName() string { return "decisions" }

// Record is the decision as it was kept.
func (d Decision) Record() (r decision.Record, err error) {
	err = json.Unmarshal([]byte(d.Body), &r)
	return r, err
}

// SaveDecisions keeps decisions, each in the place of an earlier one about the same.
func (t *Tx) SaveDecisions(all []Decision) error {
	in := newInsert("decisions", "id, scope, intake, source, claims, body, account, at")
	in.then = " ON DUPLICATE KEY UPDATE intake = VALUES(intake), source = VALUES(source), claims = VALUES(claims), body = VALUES(body), account = VALUES(account), at = VALUES(at), withdrawn_by = NULL, withdrawn = NULL"
	for _, d := range all {
		in.add(d.ID, d.Scope, d.Intake, d.Source, d.Claims, d.Body, d.Account, d.At)
	}
	return in.run(t.db)
}

// WithdrawDecisions marks decisions as withdrawn; those that are not there, or are withdrawn, stay as they are.
func (t *Tx) WithdrawDecisions(ids []Hash, by ID, at time.Time) (n int, err error) {
	for from := 0; from < len(ids); from += rowsAtOnce {
		q := t.db.Exec("UPDATE decisions SET withdrawn_by = ?, withdrawn = ? WHERE id IN ? AND withdrawn IS NULL", by, at, ids[from:min(from+rowsAtOnce, len(ids))])
		if q.Error != nil {
			return n, q.Error
		}
		n += int(q.RowsAffected)
	}
	return n, nil
}

// DecisionQuery narrows the list of decisions; the zero value is all that are in force.
type DecisionQuery struct {
	Scope  string
	Intake ID
	Claims bool // only those that say which values a source has
	All    bool // also what was withdrawn
}

func (q DecisionQuery) on(db *gorm.DB) *gorm.DB {
	db = db.Model(&Decision{})
	if q.Scope != "" {
		db = db.Where("scope = ?", q.Scope)
	}
	if !q.Intake.IsZero() {
		db = db.Where("intake = ?", q.Intake)
	}
	if q.Claims {
		db = db.Where("claims")
	}
	if !q.All {
		db = db.Where("withdrawn IS NULL")
	}
	return db
}

// Decisions lists decisions, the newest first.
func (r Reader) Decisions(q DecisionQuery, offset, limit int) (out []Decision, err error) {
	return out, q.on(r.db).Order("at DESC, id").Offset(offset).Limit(limit).Find(&out).Error
}

// ClaimsOf returns the decisions in force that say which values some sources have.
func (r Reader) ClaimsOf(sources []string) (out []Decision, err error) {
	for from := 0; from < len(sources); from += 1000 {
		var some []Decision
		if err := r.db.Where("source IN ? AND claims AND withdrawn IS NULL", sources[from:min(from+1000, len(sources))]).Order("at, id").Find(&some).Error; err != nil {
			return nil, err
		}
		out = append(out, some...)
	}
	return out, nil
}

// CountDecisions counts decisions.
func (r Reader) CountDecisions(q DecisionQuery) (n int64, err error) {
	return n, q.on(r.db).Count(&n).Error
}

// DecisionsByID loads decisions; what is not there is left out.
func (r Reader) DecisionsByID(ids []Hash) (out []Decision, err error) {
	return out, r.db.Where("id IN ?", ids).Find(&out).Error
}

// DecidedAt is a mark that changes whenever a decision is made or withdrawn that says which values a source has, other than in one intake; the zero ID
// leaves none aside.
func (r Reader) DecidedAt(but ID) (string, error) {
	var n, gone int64
	var last *time.Time
	q := r.db.Model(&Decision{}).Select("COUNT(*), COUNT(withdrawn), MAX(at)").Where("claims")
	if !but.IsZero() { // the zero one is NULL, which is unlike nothing
		q = q.Where("intake <> ?", but)
	}
	if err := q.Row().Scan(&n, &gone, &last); err != nil {
		return "", err
	}
	if last == nil {
		return "0", nil
	}
	return fmt.Sprintf("%d.%d.%d", n, gone, last.UnixMicro()), nil
}
