package store

import (
	"context"
	"time"
)

// Account is a person who may sign in.
type Account struct {
	ID       ID `gorm:"primaryKey"`
	Login    string
	Name     string
	Role     string
	Password string // argon2id, encoded
	Disabled bool
	Version  int
	Created  time.Time
}

// TableName is GORM's hook.
func (Account) TableName() string { return "accounts" }

// Session is a signed-in browser; only the hash of its secret is kept.
type Session struct {
	Hash    Hash `gorm:"primaryKey"`
	Account ID
	Csrf    string
	Created time.Time
	Expires time.Time
}

// TableName is GORM's hook.
func (Session) TableName() string { return "sessions" }

// Token is a personal API token; only the hash of its secret is kept.
type Token struct {
	ID      ID `gorm:"primaryKey"`
	Account ID
	Name    string
	Hash    Hash
	Created time.Time
	Expires time.Time
}

// TableName is GORM's hook.
func (Token) TableName() string { return "tokens" }

// AccountBy finds an account by "id" or "login".
func (s *Store) AccountBy(ctx context.Context, column string, v any) (a Account, err error) {
	r := s.Read(ctx).Where(map[string]any{column: v}).Limit(1).Find(&a)
	if r.Error == nil && r.RowsAffected == 0 {
		return a, ErrNotFound
	}
	return a, r.Error
}

// Accounts lists all accounts by login.
func (s *Store) Accounts(ctx context.Context, offset, limit int) (out []Account, err error) {
	err = s.Read(ctx).Order("login").Offset(offset).Limit(limit).Find(&out).Error
	return out, err
}

// SessionBy finds the account of a session that has not expired.
func (s *Store) SessionBy(ctx context.Context, hash Hash) (ses Session, a Account, err error) {
	r := s.Read(ctx).Where("hash = ? AND expires > NOW(6)", hash).Limit(1).Find(&ses)
	if r.Error != nil || r.RowsAffected == 0 {
		if r.Error == nil {
			r.Error = ErrNotFound
		}
		return ses, a, r.Error
	}
	a, err = s.AccountBy(ctx, "id", ses.Account)
	return ses, a, err
}

// TokenBy finds the account of a token that has not expired.
func (s *Store) TokenBy(ctx context.Context, hash Hash) (a Account, err error) {
	var t Token
	r := s.Read(ctx).Where("hash = ? AND expires > NOW(6)", hash).Limit(1).Find(&t)
	if r.Error != nil || r.RowsAffected == 0 {
		if r.Error == nil {
			r.Error = ErrNotFound
		}
		return a, r.Error
	}
	return s.AccountBy(ctx, "id", t.Account)
}
