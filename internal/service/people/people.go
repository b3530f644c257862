// Package people has the accounts, sessions and tokens: who may sign in, and as what.
package people

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"jollydrawer/internal/auth"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// People keeps the accounts. Its methods may be called from several goroutines.
type People struct {
	*deed.Desk
	Needs      Needs     // what stands on groups; nil where nothing does
	Passwords  auth.Cost // of those that are set from now on
	remembered remembered
}

// New returns the accounts of an installation.
func New(d *deed.Desk) *People { return &People{Desk: d, Passwords: auth.Usual} }

// sessionTime is how long a browser stays signed in.
const sessionTime = 12 * time.Hour

func actor(a store.Account) deed.Actor {
	return deed.Actor{ID: a.ID, Login: a.Login, Name: a.Name, Role: deed.Role(a.Role)}
}

func me(a deed.Actor, csrf string) wire.Me {
	return wire.Me{ID: a.ID.String(), Login: a.Login, Name: a.Name, Role: string(a.Role), May: deed.May(a.Role), CSRF: csrf}
}

// SignIn checks a password and opens a session; secret goes into the cookie.
func (s *People) SignIn(ctx context.Context, in wire.SignIn) (who wire.Me, secret string, err error) {
	a, err := s.Store.Read(ctx).AccountBy("login", in.Login)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return who, "", err
	}
	hash := a.Password
	if a.Disabled {
		hash = ""
	}
	if !s.Passwords.Check(hash, in.Password) {
		return who, "", deed.Fault(deed.Stranger, "sign-in-refused", "The name or the password is wrong.", "Try again, or ask an administrator for a new password.")
	}
	secret = auth.NewSecret()
	ses := store.Session{Hash: auth.SecretHash(secret), Account: a.ID, Csrf: auth.NewSecret(), Created: store.Stamp(s.Now()), Expires: store.Stamp(s.Now().Add(sessionTime))}
	return me(actor(a), ses.Csrf), secret, s.Store.AddSession(ctx, ses)
}

// SignOut ends a session.
func (s *People) SignOut(ctx context.Context, secret string) error {
	defer s.remembered.forget()
	return s.Store.DropSession(ctx, auth.SecretHash(secret))
}

// BySession returns who a session belongs to and its CSRF token.
func (s *People) BySession(ctx context.Context, secret string) (deed.Actor, string, error) {
	return s.remembered.get(secret, func(hash [32]byte) (deed.Actor, string, error) {
		ses, a, err := s.Store.Read(ctx).SessionBy(hash)
		if err == nil && a.Disabled {
			err = store.ErrNotFound
		}
		return actor(a), ses.Csrf, err
	})
}

// ByToken returns who an API token belongs to.
func (s *People) ByToken(ctx context.Context, secret string) (deed.Actor, error) {
	a, _, err := s.remembered.get(secret, func(hash [32]byte) (deed.Actor, string, error) {
		a, err := s.Store.Read(ctx).TokenBy(hash)
		if err == nil && a.Disabled {
			err = store.ErrNotFound
		}
		return actor(a), "", err
	})
	return a, err
}

// Me says who is signed in.
func (s *People) Me(_ context.Context, c deed.Call, csrf string) (wire.Me, error) {
	return me(c.Actor, csrf), deed.Allow(c, deed.OpRead)
}

func account(a store.Account) wire.Account {
	return wire.Account{ID: a.ID.String(), Login: a.Login, Name: a.Name, Role: a.Role, Disabled: a.Disabled}
}

// Accounts lists the accounts.
func (s *People) Accounts(ctx context.Context, c deed.Call) ([]wire.Account, error) {
	if err := deed.Allow(c, deed.OpAccountManage); err != nil {
		return nil, err
	}
	all, err := s.Store.Read(ctx).Accounts(0, 1000)
	out := []wire.Account{}
	for _, a := range all {
		out = append(out, account(a))
	}
	return out, err
}

// strong refuses a password that is too easy to find.
func strong(password, login string) error {
	if err := auth.CheckStrength(password, login); err != nil {
		return deed.Fault(deed.Invalid, "password-weak", "That will not do: "+err.Error()+".", "Choose another password.")
	}
	return nil
}

// AddAccount makes an account.
func (s *People) AddAccount(ctx context.Context, c deed.Call, in wire.NewAccount) (wire.Account, error) {
	if err := deed.Allow(c, deed.OpAccountManage); err != nil {
		return wire.Account{}, err
	}
	return s.addAccount(ctx, c, in)
}

func (s *People) addAccount(ctx context.Context, c deed.Call, in wire.NewAccount) (wire.Account, error) {
	if err := strong(in.Password, in.Login); err != nil {
		return wire.Account{}, err
	}
	if !slices.Contains(deed.Roles, deed.Role(in.Role)) {
		return wire.Account{}, deed.Fault(deed.Invalid, "role-unknown", fmt.Sprintf("%q is no role.", in.Role), "Use reader, engineer, librarian or administrator.")
	}
	hash := s.Passwords.Hash(in.Password)
	d, err := s.NewDeed(c, deed.OpAccountManage, in.Login)
	if err != nil {
		return wire.Account{}, err
	}
	a := store.Account{ID: store.NewID(), Login: in.Login, Name: in.Name, Role: in.Role, Password: hash, Version: 1, Created: d.At}
	_, err = s.Store.Do(ctx, d, func(t *store.Tx) (any, error) {
		return account(a), t.AddAccount(&a)
	})
	if errors.Is(err, store.ErrNumberTaken) {
		return wire.Account{}, deed.Fault(deed.Clash, "login-taken", fmt.Sprintf("There is an account %s already.", in.Login), "Choose another name.")
	}
	return account(a), deed.Sentence(err, "account")
}

// FirstAccount makes the first administrator on a database that has no accounts; made is false where there are some.
func (s *People) FirstAccount(ctx context.Context, login, name, password string) (made bool, err error) {
	all, err := s.Store.Read(ctx).Accounts(0, 1)
	if err != nil || len(all) > 0 {
		return false, err
	}
	_, err = s.addAccount(ctx, deed.Call{}, wire.NewAccount{Login: login, Name: name, Role: string(deed.Administrator), Password: password})
	var e *deed.Error
	if errors.As(err, &e) && e.Type == "login-taken" {
		return false, nil // another instance was quicker
	}
	return err == nil, err
}

// ChangeAccount changes an account's role, password or whether it may sign in; its sessions end.
func (s *People) ChangeAccount(ctx context.Context, c deed.Call, id store.ID, in wire.AccountChange) (wire.Account, error) {
	defer s.remembered.forget()
	if err := deed.Allow(c, deed.OpAccountManage); err != nil {
		return wire.Account{}, err
	}
	hash := ""
	if in.Password != "" {
		hash = s.Passwords.Hash(in.Password)
	}
	request := []any{id, in.Role, in.Disabled, in.Password != ""}
	return deed.Do(ctx, s.Desk, c, deed.OpAccountManage, "account", request, func(t *store.Tx) (wire.Account, error) {
		a, err := t.AccountBy("id", id)
		if err != nil {
			return wire.Account{}, err
		}
		if a.ID == c.Actor.ID && (in.Disabled != nil && *in.Disabled || in.Role != "" && deed.Role(in.Role) != deed.Administrator) {
			return wire.Account{}, deed.Fault(deed.Invalid, "own-account", "You cannot take your own rights away.", "Let another administrator do it.")
		}
		if in.Role != "" {
			a.Role = in.Role
		}
		if in.Disabled != nil {
			a.Disabled = *in.Disabled
		}
		if hash != "" {
			if err := strong(in.Password, a.Login); err != nil {
				return wire.Account{}, err
			}
			a.Password = hash
		}
		err = t.UpdateAccount(&a, store.Hash{})
		return account(a), err
	})
}

// ChangePassword changes one's own password, of which the present one is asked for. All sessions of the account end but the one whose
// secret is given; tokens hold on, each is ended by itself.
func (s *People) ChangePassword(ctx context.Context, c deed.Call, secret string, in wire.OwnPassword) (wire.Account, error) {
	defer s.remembered.forget()
	if err := deed.Allow(c, deed.OpOwnPassword); err != nil {
		return wire.Account{}, err
	}
	if err := strong(in.Next, c.Actor.Login); err != nil {
		return wire.Account{}, err
	}
	hash := s.Passwords.Hash(in.Next)
	keep := store.Hash{}
	if secret != "" {
		keep = auth.SecretHash(secret)
	}
	// Neither password is part of what the deed is known by: that is kept, and hashed too quickly for it.
	return deed.Do(ctx, s.Desk, c, deed.OpOwnPassword, "account", c.Actor.ID, func(t *store.Tx) (wire.Account, error) {
		a, err := t.AccountBy("id", c.Actor.ID)
		if err != nil {
			return wire.Account{}, err
		}
		if !s.Passwords.Check(a.Password, in.Password) {
			return wire.Account{}, deed.Fault(deed.Invalid, "password-wrong", "That is not your present password.", "Type it again, or ask an administrator for a new one.")
		}
		if s.Passwords.Check(a.Password, in.Next) {
			return wire.Account{}, deed.Fault(deed.Invalid, "password-same", "The new password is the one that you have.", "Choose another password.")
		}
		a.Password = hash
		err = t.UpdateAccount(&a, keep)
		return account(a), err
	})
}

// Tokens lists a person's own tokens.
func (s *People) Tokens(ctx context.Context, c deed.Call) ([]wire.Token, error) {
	if err := deed.Allow(c, deed.OpOwnToken); err != nil {
		return nil, err
	}
	all, err := s.Store.Read(ctx).Tokens(c.Actor.ID)
	out := []wire.Token{}
	for _, t := range all {
		out = append(out, wire.Token{ID: t.ID.String(), Name: t.Name, Created: t.Created, Expires: t.Expires})
	}
	return out, err
}

// AddToken makes a token; its secret is in the answer and nowhere else.
func (s *People) AddToken(ctx context.Context, c deed.Call, in wire.NewToken) (wire.Token, error) {
	if err := deed.Allow(c, deed.OpOwnToken); err != nil {
		return wire.Token{}, err
	}
	if in.Days == 0 {
		in.Days = 365
	}
	secret := auth.TokenPrefix + auth.NewSecret()
	now := store.Stamp(s.Now())
	t := store.Token{ID: store.NewID(), Account: c.Actor.ID, Name: in.Name, Hash: auth.SecretHash(secret), Created: now, Expires: now.AddDate(0, 0, in.Days)}
	err := s.Store.AddToken(ctx, t)
	return wire.Token{ID: t.ID.String(), Name: t.Name, Created: t.Created, Expires: t.Expires, Secret: secret}, err
}

// DropToken ends a token.
func (s *People) DropToken(ctx context.Context, c deed.Call, id store.ID) error {
	defer s.remembered.forget()
	if err := deed.Allow(c, deed.OpOwnToken); err != nil {
		return err
	}
	return s.Store.DropToken(ctx, c.Actor.ID, id)
}
