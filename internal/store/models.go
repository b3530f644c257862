package store

import (
	"time"
)

// ModelHeads lists the heads of all models, merged ones left out, by name.
func (r Reader) ModelHeads() (out []Head, err error) {
	err = r.db.Where("kind = ? AND standing <> ?", KindModel, Merged).Order("number").Find(&out).Error
	return out, err
}

// ReleasedModels lists the heads of models that were ever released, those that are merged away too, in a fixed order.
func (r Reader) ReleasedModels(offset, limit int) (out []Head, err error) {
	err = r.db.Where("kind = ? AND revision > 0", KindModel).Order("id").Offset(offset).Limit(limit).Find(&out).Error
	return out, err
}

// ContentsOf loads several pieces of content, at most a few hundred at once.
func (r Reader) ContentsOf(ids []ID) (out []Content, err error) {
	if len(ids) == 0 {
		return nil, nil
	}
	err = r.db.Where("id IN ?", ids).Find(&out).Error
	return out, err
}

// UseCounts returns how many parts use each model, in a draft or released.
func (r Reader) UseCounts() (map[ID]int, error) {
	var rows []struct {
		Child ID
		N     int
	}
	err := r.db.Raw("SELECT child, COUNT(DISTINCT parent) AS n FROM uses GROUP BY child").Scan(&rows).Error
	out := make(map[ID]int, len(rows))
	for _, row := range rows {
		out[row.Child] = row.N
	}
	return out, err
}

// ModelWaiver is a finding on a model that a person accepted.
type ModelWaiver struct {
	Head    ID `gorm:"primaryKey"`
	Cause   string
	Why     string
	Account ID
	At      time.Time
}

// TableName is GORM's hook.
func (ModelWaiver) TableName() string { return "model_waivers" }

// ModelWaivers lists the waivers of one model; of all models where head is zero.
func (r Reader) ModelWaivers(head ID) (out []ModelWaiver, err error) {
	q := r.db.Order("head, cause")
	if !head.IsZero() {
		q = q.Where("head = ?", head)
	}
	return out, q.Find(&out).Error
}

// WaiveModel keeps a waiver; a blank reason removes it.
func (t *Tx) WaiveModel(w ModelWaiver) error {
	if w.Why == "" {
		return t.db.Exec("DELETE FROM model_waivers WHERE head = ? AND cause = ?", w.Head, w.Cause).Error
	}
	return t.db.Exec("INSERT INTO model_waivers (head, cause, why, account, at) VALUES (?,?,?,?,?) ON DUPLICATE KEY UPDATE why = VALUES(why), account = VALUES(account), at = VALUES(at)",
		w.Head, w.Cause, w.Why, w.Account, w.At).Error
}
