package store

import (
	"context"
	"time"

	"gorm.io/gorm"
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
func (r Reader) AccountBy(column string, v any) (a Account, err error) {
	q := r.db.Where(map[string]any{column: v}).Limit(1).Find(&a)
	if q.Error == nil && q.RowsAffected == 0 {
		return a, ErrNotFound
	}
	return a, q.Error
}

// Accounts lists all accounts by login.
func (r Reader) Accounts(offset, limit int) (out []Account, err error) {
	err = r.db.Order("login").Offset(offset).Limit(limit).Find(&out).Error
	return out, err
}

// FirstAdministrator is the administrator who is there longest; what the installation does by itself is done in that name.
func (r Reader) FirstAdministrator(role string) (a Account, err error) {
	q := r.db.Where("role = ? AND NOT disabled", role).Order("created, id").Limit(1).Find(&a)
	if q.Error == nil && q.RowsAffected == 0 {
		return a, ErrNotFound
	}
	return a, q.Error
}

// AccountNames are the names of people by their accounts; who is not there is left out.
func (r Reader) AccountNames(ids []ID) (map[ID]string, error) {
	out := make(map[ID]string, len(ids))
	if len(ids) == 0 {
		return out, nil
	}
	var all []Account
	if err := r.db.Select("id, name").Where("id IN ?", ids).Find(&all).Error; err != nil {
		return nil, err
	}
	for _, a := range all {
		out[a.ID] = a.Name
	}
	return out, nil
}

// SessionBy finds the account of a session that has not expired.
func (r Reader) SessionBy(hash Hash) (ses Session, a Account, err error) {
	q := r.db.Where("hash = ? AND expires > NOW(6)", hash).Limit(1).Find(&ses)
	if q.Error != nil || q.RowsAffected == 0 {
		if q.Error == nil {
			q.Error = ErrNotFound
		}
		return ses, a, q.Error
	}
	a, err = r.AccountBy("id", ses.Account)
	return ses, a, err
}

// TokenBy finds the account of a token that has not expired.
func (r Reader) TokenBy(hash Hash) (a Account, err error) {
	var t Token
	q := r.db.Where("hash = ? AND expires > NOW(6)", hash).Limit(1).Find(&t)
	if q.Error != nil || q.RowsAffected == 0 {
		if q.Error == nil {
			q.Error = ErrNotFound
		}
		return a, q.Error
	}
	return r.AccountBy("id", t.Account)
}

// AddSession opens a session and removes those that have expired.
func (s *Store) AddSession(ctx context.Context, ses Session) error {
	return s.small(ctx, func(g *gorm.DB) error {
		if err := g.Exec("DELETE FROM sessions WHERE expires < NOW(6)").Error; err != nil {
			return err
		}
		return once(g).Create(&ses).Error
	})
}

// DropSession ends a session.
func (s *Store) DropSession(ctx context.Context, hash Hash) error {
	return s.small(ctx, func(g *gorm.DB) error { return g.Exec("DELETE FROM sessions WHERE hash = ?", hash).Error })
}

// AddAccount makes an account. A login that is taken is ErrNumberTaken.
func (t *Tx) AddAccount(a *Account) error { return taken(t.db.Create(a).Error, ErrNumberTaken) }

// UpdateAccount writes a changed account, which is still at the version it was read at, and ends its sessions; all but one where one
// is to be kept.
func (t *Tx) UpdateAccount(a *Account, keep Hash) error {
	base := a.Version
	a.Version++
	u := t.db.Model(&Account{}).Where("id = ? AND version = ?", a.ID, base).Select("role", "disabled", "password", "version").Updates(a)
	if u.Error == nil && u.RowsAffected == 0 {
		u.Error = ErrConflict
	}
	if u.Error != nil {
		return u.Error
	}
	return t.db.Exec("DELETE FROM sessions WHERE account = ? AND hash <> ?", a.ID, keep).Error
}

// Tokens lists an account's newest tokens.
func (r Reader) Tokens(account ID) (out []Token, err error) {
	err = r.db.Where("account = ?", account).Order("created DESC").Limit(200).Find(&out).Error
	return out, err
}

// AddToken keeps a token.
func (s *Store) AddToken(ctx context.Context, t Token) error {
	return s.small(ctx, func(g *gorm.DB) error { return once(g).Create(&t).Error })
}

// DropToken ends an account's own token.
func (s *Store) DropToken(ctx context.Context, account, id ID) error {
	return s.small(ctx, func(g *gorm.DB) error {
		return g.Exec("DELETE FROM tokens WHERE id = ? AND account = ?", id, account).Error
	})
}
