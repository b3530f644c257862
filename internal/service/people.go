package service

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"jollydrawer/internal/auth"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// sessionTime is how long a browser stays signed in.
const sessionTime = 12 * time.Hour

func actor(a store.Account) Actor {
	return Actor{ID: a.ID, Login: a.Login, Name: a.Name, Role: Role(a.Role)}
}

func me(a Actor, csrf string) wire.Me {
	return wire.Me{ID: a.ID.String(), Login: a.Login, Name: a.Name, Role: string(a.Role), May: may(a.Role), CSRF: csrf}
}

// SignIn checks a password and opens a session; secret goes into the cookie.
func (s *Service) SignIn(ctx context.Context, in wire.SignIn) (who wire.Me, secret string, err error) {
	a, err := s.Store.AccountBy(ctx, "login", in.Login)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return who, "", err
	}
	hash := a.Password
	if a.Disabled {
		hash = ""
	}
	if !auth.CheckPassword(hash, in.Password) {
		return who, "", fault(Stranger, "sign-in-refused", "The name or the password is wrong.", "Try again, or ask an administrator for a new password.")
	}
	secret = auth.NewSecret()
	ses := store.Session{Hash: auth.SecretHash(secret), Account: a.ID, Csrf: auth.NewSecret(), Created: store.Stamp(s.Now()), Expires: store.Stamp(s.Now().Add(sessionTime))}
	err = s.Store.Small(ctx, func(g *gorm.DB) error {
		if err := g.Exec("DELETE FROM sessions WHERE expires < NOW(6)").Error; err != nil {
			return err
		}
		return g.Create(&ses).Error
	})
	return me(actor(a), ses.Csrf), secret, err
}

// SignOut ends a session.
func (s *Service) SignOut(ctx context.Context, secret string) error {
	defer s.known.forget()
	return s.Store.Small(ctx, func(g *gorm.DB) error {
		return g.Exec("DELETE FROM sessions WHERE hash = ?", store.Hash(auth.SecretHash(secret))).Error
	})
}

// BySession returns who a session belongs to and its CSRF token.
func (s *Service) BySession(ctx context.Context, secret string) (Actor, string, error) {
	return s.known.get(secret, func(hash [32]byte) (Actor, string, error) {
		ses, a, err := s.Store.SessionBy(ctx, hash)
		if err == nil && a.Disabled {
			err = store.ErrNotFound
		}
		return actor(a), ses.Csrf, err
	})
}

// ByToken returns who an API token belongs to.
func (s *Service) ByToken(ctx context.Context, secret string) (Actor, error) {
	a, _, err := s.known.get(secret, func(hash [32]byte) (Actor, string, error) {
		a, err := s.Store.TokenBy(ctx, hash)
		if err == nil && a.Disabled {
			err = store.ErrNotFound
		}
		return actor(a), "", err
	})
	return a, err
}

// Me says who is signed in.
func (s *Service) Me(_ context.Context, c Call, csrf string) (wire.Me, error) {
	return me(c.Actor, csrf), allow(c, OpRead)
}

func account(a store.Account) wire.Account {
	return wire.Account{ID: a.ID.String(), Login: a.Login, Name: a.Name, Role: a.Role, Disabled: a.Disabled}
}

// Accounts lists the accounts.
func (s *Service) Accounts(ctx context.Context, c Call) ([]wire.Account, error) {
	if err := allow(c, OpAccountManage); err != nil {
		return nil, err
	}
	all, err := s.Store.Accounts(ctx, 0, 1000)
	out := []wire.Account{}
	for _, a := range all {
		out = append(out, account(a))
	}
	return out, err
}

// AddAccount makes an account.
func (s *Service) AddAccount(ctx context.Context, c Call, in wire.NewAccount) (wire.Account, error) {
	if err := allow(c, OpAccountManage); err != nil {
		return wire.Account{}, err
	}
	return s.addAccount(ctx, c, in)
}

func (s *Service) addAccount(ctx context.Context, c Call, in wire.NewAccount) (wire.Account, error) {
	if err := auth.CheckStrength(in.Password, in.Login); err != nil {
		return wire.Account{}, fault(Invalid, "password-weak", "That will not do: "+err.Error()+".", "Choose another password.")
	}
	if !slices.Contains(Roles, Role(in.Role)) {
		return wire.Account{}, fault(Invalid, "role-unknown", fmt.Sprintf("%q is no role.", in.Role), "Use reader, engineer, librarian or administrator.")
	}
	hash := auth.HashPassword(in.Password)
	d, err := s.newDeed(c, OpAccountManage, in.Login)
	if err != nil {
		return wire.Account{}, err
	}
	a := store.Account{ID: store.NewID(), Login: in.Login, Name: in.Name, Role: in.Role, Password: hash, Version: 1, Created: d.At}
	_, err = s.Store.Do(ctx, d, func(t *store.Tx) (any, error) {
		var n int64
		if err := t.Model(&store.Account{}).Where("login = ?", in.Login).Count(&n).Error; err != nil {
			return nil, err
		}
		if n > 0 {
			return nil, fault(Clash, "login-taken", fmt.Sprintf("There is an account %s already.", in.Login), "Choose another name.")
		}
		return account(a), t.Create(&a).Error
	})
	return account(a), sentence(err, "account")
}

// FirstAccount makes the first administrator on a database that has no accounts; made is false where there are some.
func (s *Service) FirstAccount(ctx context.Context, login, name, password string) (made bool, err error) {
	all, err := s.Store.Accounts(ctx, 0, 1)
	if err != nil || len(all) > 0 {
		return false, err
	}
	_, err = s.addAccount(ctx, Call{}, wire.NewAccount{Login: login, Name: name, Role: string(Administrator), Password: password})
	var e *Error
	if errors.As(err, &e) && e.Type == "login-taken" {
		return false, nil // another instance was quicker
	}
	return err == nil, err
}

// ChangeAccount changes an account's role, password or whether it may sign in; its sessions end.
func (s *Service) ChangeAccount(ctx context.Context, c Call, id store.ID, in wire.AccountChange) (wire.Account, error) {
	defer s.known.forget()
	if err := allow(c, OpAccountManage); err != nil {
		return wire.Account{}, err
	}
	hash := ""
	if in.Password != "" {
		if err := auth.CheckStrength(in.Password, c.Actor.Login); err != nil {
			return wire.Account{}, fault(Invalid, "password-weak", "That will not do: "+err.Error()+".", "Choose another password.")
		}
		hash = auth.HashPassword(in.Password)
	}
	request := []any{id, in.Role, in.Disabled, in.Password != ""}
	return deed(ctx, s, c, OpAccountManage, "account", request, func(t *store.Tx) (wire.Account, error) {
		var a store.Account
		r := t.Where("id = ?", id).Limit(1).Find(&a)
		if r.Error != nil || r.RowsAffected == 0 {
			return wire.Account{}, errors.Join(r.Error, store.ErrNotFound)
		}
		if a.ID == c.Actor.ID && (in.Disabled != nil && *in.Disabled || in.Role != "" && Role(in.Role) != Administrator) {
			return wire.Account{}, fault(Invalid, "own-account", "You cannot take your own rights away.", "Let another administrator do it.")
		}
		if in.Role != "" {
			a.Role = in.Role
		}
		if in.Disabled != nil {
			a.Disabled = *in.Disabled
		}
		if hash != "" {
			a.Password = hash
		}
		base := a.Version
		a.Version++
		u := t.Model(&store.Account{}).Where("id = ? AND version = ?", id, base).Select("role", "disabled", "password", "version").Updates(&a)
		if u.Error == nil && u.RowsAffected == 0 {
			u.Error = store.ErrConflict
		}
		if u.Error != nil {
			return wire.Account{}, u.Error
		}
		return account(a), t.Exec("DELETE FROM sessions WHERE account = ?", id).Error
	})
}

// Tokens lists a person's own tokens.
func (s *Service) Tokens(ctx context.Context, c Call) ([]wire.Token, error) {
	if err := allow(c, OpOwnToken); err != nil {
		return nil, err
	}
	var all []store.Token
	err := s.Store.Read(ctx).Where("account = ?", c.Actor.ID).Order("created DESC").Limit(200).Find(&all).Error
	out := []wire.Token{}
	for _, t := range all {
		out = append(out, wire.Token{ID: t.ID.String(), Name: t.Name, Created: t.Created, Expires: t.Expires})
	}
	return out, err
}

// AddToken makes a token; its secret is in the answer and nowhere else.
func (s *Service) AddToken(ctx context.Context, c Call, in wire.NewToken) (wire.Token, error) {
	if err := allow(c, OpOwnToken); err != nil {
		return wire.Token{}, err
	}
	if in.Days == 0 {
		in.Days = 365
	}
	secret := auth.TokenPrefix + auth.NewSecret()
	now := store.Stamp(s.Now())
	t := store.Token{ID: store.NewID(), Account: c.Actor.ID, Name: in.Name, Hash: auth.SecretHash(secret), Created: now, Expires: now.AddDate(0, 0, in.Days)}
	err := s.Store.Small(ctx, func(g *gorm.DB) error { return g.Create(&t).Error })
	return wire.Token{ID: t.ID.String(), Name: t.Name, Created: t.Created, Expires: t.Expires, Secret: secret}, err
}

// DropToken ends a token.
func (s *Service) DropToken(ctx context.Context, c Call, id store.ID) error {
	defer s.known.forget()
	if err := allow(c, OpOwnToken); err != nil {
		return err
	}
	return s.Store.Small(ctx, func(g *gorm.DB) error {
		return g.Exec("DELETE FROM tokens WHERE id = ? AND account = ?", id, c.Actor.ID).Error
	})
}
