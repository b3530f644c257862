package store

import "time"

// Build is boards that were built of a revision of a BOM.
type Build struct {
	ID       ID `gorm:"primaryKey"`
	BOM      ID `gorm:"column:bom"`
	Revision int
	Variant  string // of the board; blank where it has none
	Boards   int
	Which    string // lot, place, day: in words
	Account  ID
	At       time.Time
}

// TableName is GORM's hook.
func (Build) TableName() string { return "bom_builds" }

// Builds lists what was built of a revision of a BOM, newest first.
func (r Reader) Builds(bom ID, revision int) (out []Build, err error) {
	err = r.db.Where("bom = ? AND revision = ?", bom, revision).Order("at DESC, id DESC").Limit(1000).Find(&out).Error
	return out, err
}

// AddBuild keeps what was built.
func (t *Tx) AddBuild(b Build) error { return t.db.Create(&b).Error }

// ProofsOf lists the proofs that builds of a BOM gave.
func (r Reader) ProofsOf(builds []ID) (out []Proof, err error) {
	if len(builds) == 0 {
		return nil, nil
	}
	err = r.db.Where("build IN ?", builds).Find(&out).Error
	return out, err
}
