package client

import (
	"context"
	"net/http"
	"time"

	"jollydrawer/internal/wire"
)

// SignIn opens a session and makes a token with it; the session ends again. c.Token is set to the token's secret.
func (c *Client) SignIn(ctx context.Context, login, password, name string, days int) (wire.Token, error) {
	res, err := c.send(ctx, request{method: http.MethodPost, path: "/session", body: wire.SignIn{Login: login, Password: password}, version: -1})
	if err != nil {
		return wire.Token{}, err
	}
	cookies := res.Cookies()
	var me wire.Me
	if err := decode(res, &me); err != nil {
		return wire.Token{}, err
	}
	session := &Client{Base: c.Base, HTTP: &http.Client{Timeout: time.Minute, Transport: cookieTransport{cookies, me.CSRF}}}
	t, err := post[wire.Token](ctx, session, "/tokens", wire.NewToken{Name: name, Days: days})
	if err != nil {
		return t, err
	}
	c.Token = t.Secret
	_, err = do[struct{}](ctx, session, request{method: http.MethodDelete, path: "/session", version: -1})
	return t, err
}

type cookieTransport struct {
	cookies []*http.Cookie
	csrf    string
}

func (t cookieTransport) RoundTrip(r *http.Request) (*http.Response, error) {
	for _, k := range t.cookies {
		r.AddCookie(k)
	}
	r.Header.Set("X-CSRF-Token", t.csrf)
	return http.DefaultTransport.RoundTrip(r)
}

// Me says who is signed in.
func (c *Client) Me(ctx context.Context) (wire.Me, error) { return get[wire.Me](ctx, c, "/me", nil) }

// Accounts lists the accounts.
func (c *Client) Accounts(ctx context.Context) ([]wire.Account, error) {
	return get[[]wire.Account](ctx, c, "/accounts", nil)
}

// AddAccount makes an account.
func (c *Client) AddAccount(ctx context.Context, in wire.NewAccount) (wire.Account, error) {
	return post[wire.Account](ctx, c, "/accounts", in)
}

// ChangeAccount changes an account.
func (c *Client) ChangeAccount(ctx context.Context, id string, in wire.AccountChange) (wire.Account, error) {
	return change[wire.Account](ctx, c, http.MethodPatch, "/accounts/"+seg(id), -1, in)
}

// ChangePassword changes your own password; your sessions in browsers end.
func (c *Client) ChangePassword(ctx context.Context, in wire.OwnPassword) (wire.Account, error) {
	return post[wire.Account](ctx, c, "/me/password", in)
}

// Tokens lists your own tokens.
func (c *Client) Tokens(ctx context.Context) ([]wire.Token, error) {
	return get[[]wire.Token](ctx, c, "/tokens", nil)
}

// AddToken makes a token.
func (c *Client) AddToken(ctx context.Context, in wire.NewToken) (wire.Token, error) {
	return post[wire.Token](ctx, c, "/tokens", in)
}

// DropToken ends a token.
func (c *Client) DropToken(ctx context.Context, id string) ([]wire.Token, error) {
	return change[[]wire.Token](ctx, c, http.MethodDelete, "/tokens/"+seg(id), -1, nil)
}

// Groups lists the groups of people.
func (c *Client) Groups(ctx context.Context) (wire.GroupList, error) {
	return get[wire.GroupList](ctx, c, "/groups", nil)
}

// AddGroup makes a group.
func (c *Client) AddGroup(ctx context.Context, in wire.GroupEdit) (wire.GroupList, error) {
	return post[wire.GroupList](ctx, c, "/groups", in)
}

// ChangeGroup says anew who is in a group.
func (c *Client) ChangeGroup(ctx context.Context, id string, version int, in wire.GroupEdit) (wire.GroupList, error) {
	return change[wire.GroupList](ctx, c, http.MethodPut, "/groups/"+seg(id), version, in)
}

// DropGroup removes a group.
func (c *Client) DropGroup(ctx context.Context, id string, version int) (wire.GroupList, error) {
	return change[wire.GroupList](ctx, c, http.MethodDelete, "/groups/"+seg(id), version, nil)
}
