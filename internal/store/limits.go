package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
)

// AskLimits are a person's usual limits of questions to suppliers about a drawer; about a blank one, of all others.
type AskLimits struct {
	Account      ID     `gorm:"primaryKey"`
	Drawer       string `gorm:"primaryKey"`
	Pieces       int64
	Stock        int64
	InProduction bool
	Packing      string
	Updated      time.Time
}

// TableName is GORM's hook.
func (AskLimits) TableName() string { return "ask_limits" }

// AskLimitsOf returns a person's usual limits of the first of some drawers that has any.
func (r Reader) AskLimitsOf(account ID, drawers []string) (l AskLimits, ok bool, err error) {
	for _, d := range drawers {
		err = r.db.Where("account = ? AND drawer = ?", account, d).First(&l).Error
		if err == nil || !errors.Is(err, gorm.ErrRecordNotFound) {
			return l, err == nil, err
		}
	}
	return AskLimits{}, false, nil
}

// KeepAskLimits keeps a person's usual limits.
func (s *Store) KeepAskLimits(ctx context.Context, l AskLimits) error {
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("REPLACE INTO ask_limits (account, drawer, pieces, stock, in_production, packing, updated) VALUES (?,?,?,?,?,?,?)", l.Account, l.Drawer, l.Pieces, l.Stock, l.InProduction, l.Packing, l.Updated).Error
	})
}
