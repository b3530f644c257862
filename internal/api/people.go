package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

const cookieName = "jolly_session"

type sessionOutput struct {
	SetCookie http.Cookie `header:"Set-Cookie"`
	Body      wire.Me
}

func (s *Server) cookie(secret string, age int) http.Cookie {
	return http.Cookie{Name: cookieName, Value: secret, Path: "/", MaxAge: age, HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: s.SecureCookie}
}

// tooMany is what somebody hears who guesses passwords.
var tooMany = deed.Fault(deed.Crowded, "too-many-tries", "Too many passwords were tried from your address.", "Wait a minute, then try again.")

// people adds the routes of sessions, tokens and accounts.
func (s *Server) people(_ *gin.Engine, api huma.API) {
	get, post, del := http.MethodGet, http.MethodPost, http.MethodDelete
	v := s.Service
	huma.Register(api, huma.Operation{OperationID: "sign-in", Method: post, Path: "/api/v1/session", Summary: "Sign in with name and password", Tags: []string{"people"}, Errors: []int{401, 422, 429},
		Security: []map[string][]string{}}, func(ctx context.Context, in *struct{ Body wire.SignIn }) (*sessionOutput, error) {
		if !s.mayTry(ctx) {
			return nil, s.toProblem(ctx, tooMany)
		}
		me, secret, err := v.People.SignIn(ctx, in.Body)
		if err != nil {
			return nil, s.toProblem(ctx, err)
		}
		return &sessionOutput{s.cookie(secret, 12*3600), me}, nil
	})
	huma.Register(api, huma.Operation{OperationID: "sign-out", Method: del, Path: "/api/v1/session", Summary: "Sign out", Tags: []string{"people"}, DefaultStatus: 204},
		func(ctx context.Context, in *struct {
			Secret string `cookie:"jolly_session"`
		}) (*struct {
			SetCookie http.Cookie `header:"Set-Cookie"`
		}, error) {
			if err := v.People.SignOut(ctx, in.Secret); err != nil {
				return nil, s.toProblem(ctx, err)
			}
			return &struct {
				SetCookie http.Cookie `header:"Set-Cookie"`
			}{s.cookie("", -1)}, nil
		})
	register(s, api, get, "/me", "me", "people", "Who is signed in", func(ctx context.Context, c deed.Call, _ *none) (wire.Me, error) {
		return v.People.Me(ctx, c, csrfOf(ctx))
	})
	register(s, api, post, "/me/password", "change-own-password", "people", "Change your password; your other sessions end", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Secret string `cookie:"jolly_session"`
		Body   wire.OwnPassword
	}) (wire.Account, error) {
		if !s.mayTry(ctx) {
			return wire.Account{}, tooMany
		}
		return v.People.ChangePassword(ctx, c, in.Secret, in.Body)
	})
	register(s, api, get, "/tokens", "list-tokens", "people", "Your API tokens", func(ctx context.Context, c deed.Call, _ *none) ([]wire.Token, error) { return v.People.Tokens(ctx, c) })
	register(s, api, post, "/tokens", "make-token", "people", "Make an API token; its secret is shown once", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Body wire.NewToken
	}) (wire.Token, error) {
		return v.People.AddToken(ctx, c, in.Body)
	})
	register(s, api, del, "/tokens/{id}", "drop-token", "people", "End a token", func(ctx context.Context, c deed.Call, in *ByID) ([]wire.Token, error) {
		i, err := id(in.ID)
		if err == nil {
			err = v.People.DropToken(ctx, c, i)
		}
		if err != nil {
			return nil, err
		}
		return v.People.Tokens(ctx, c)
	})
	register(s, api, get, "/accounts", "list-accounts", "people", "All accounts", func(ctx context.Context, c deed.Call, _ *none) ([]wire.Account, error) {
		return v.People.Accounts(ctx, c)
	})
	register(s, api, post, "/accounts", "make-account", "people", "Make an account", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		Body wire.NewAccount
	}) (wire.Account, error) {
		return v.People.AddAccount(ctx, c, in.Body)
	})
	register(s, api, http.MethodPatch, "/accounts/{id}", "change-account", "people", "Change an account's role, password or whether it may sign in", func(ctx context.Context, c deed.Call, in *struct {
		Writing
		ID   string `path:"id" format:"uuid"`
		Body wire.AccountChange
	}) (wire.Account, error) {
		i, err := id(in.ID)
		if err != nil {
			return wire.Account{}, err
		}
		return v.People.ChangeAccount(ctx, c, i, in.Body)
	})
	s.groups(api)
}

// groups adds the routes of groups of people.
func (s *Server) groups(api huma.API) {
	v := s.Service
	register(s, api, http.MethodGet, "/groups", "list-groups", "people", "Groups of people, and what they answer for", func(ctx context.Context, c deed.Call, _ *none) (wire.GroupList, error) {
		return v.People.Groups(ctx, c)
	})
	register(s, api, http.MethodPost, "/groups", "make-group", "people", "Make a group", func(ctx context.Context, c deed.Call, in *body[wire.GroupEdit]) (wire.GroupList, error) {
		return v.People.SaveGroup(ctx, c, "", 0, in.Body)
	})
	register(s, api, http.MethodPut, "/groups/{key}", "change-group", "people", "Say anew who is in a group and what it answers for", func(ctx context.Context, c deed.Call, in *partChange[wire.GroupEdit]) (wire.GroupList, error) {
		return change(in, func(key string, version int, b wire.GroupEdit) (wire.GroupList, error) {
			return v.People.SaveGroup(ctx, c, key, version, b)
		})
	})
	register(s, api, http.MethodDelete, "/groups/{key}", "drop-group", "people", "Remove a group that no lifecycle names", func(ctx context.Context, c deed.Call, in *struct {
		BasedOn
		Key string `path:"key"`
	}) (wire.GroupList, error) {
		n, err := in.version()
		if err != nil {
			return wire.GroupList{}, err
		}
		return v.People.DropGroup(ctx, c, in.Key, n)
	})
}
