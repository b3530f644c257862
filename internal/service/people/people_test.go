package people_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// Who changes a password has it, stays signed in where they do so and nowhere else, and nothing of either is kept but its hash.
func TestChangingOnesOwnPassword(t *testing.T) {
	h := housetest.Open(t)
	const first, next = "a-long-password", "another-long-word"
	_, err := h.People.AddAccount(t.Context(), h.Me, wire.NewAccount{Login: "tove", Name: "Tove", Role: "reader", Password: first})
	require.NoError(t, err)
	signIn := func(password string) (string, error) {
		_, secret, err := h.People.SignIn(t.Context(), wire.SignIn{Login: "tove", Password: password})
		return secret, err
	}
	here, err := signIn(first)
	require.NoError(t, err)
	elsewhere, err := signIn(first)
	require.NoError(t, err)
	tove, _, err := h.People.BySession(t.Context(), here)
	require.NoError(t, err)
	_, _, err = h.People.BySession(t.Context(), elsewhere)
	require.NoError(t, err)
	c := deed.Call{Actor: tove}
	token, err := h.People.AddToken(t.Context(), c, wire.NewToken{Name: "nightly", Days: 1})
	require.NoError(t, err)
	for _, in := range []struct{ password, next, fault string }{
		{"wrong", next, "password-wrong"}, {"", next, "password-wrong"}, {next, next, "password-wrong"},
		{first, first, "password-same"}, {first, "short", "password-weak"}, {first, "", "password-weak"}, {first, "hello-TOVE-hello", "password-weak"},
	} {
		_, err = h.People.ChangePassword(t.Context(), c, here, wire.OwnPassword{Password: in.password, Next: in.next})
		housetest.Fails(t, err, in.fault)
	}
	_, err = h.People.ChangePassword(t.Context(), deed.Call{}, here, wire.OwnPassword{Password: first, Next: next})
	housetest.Fails(t, err, "not-signed-in")

	_, err = h.People.ChangePassword(t.Context(), c, here, wire.OwnPassword{Password: first, Next: next})
	require.NoError(t, err)
	_, _, err = h.People.BySession(t.Context(), here)
	require.NoError(t, err, "the session it was done from goes on")
	_, _, err = h.People.BySession(t.Context(), elsewhere)
	require.ErrorIs(t, err, store.ErrNotFound, "the others end")
	_, err = h.People.ByToken(t.Context(), token.Secret)
	require.NoError(t, err, "tokens are ended one by one")
	_, err = signIn(first)
	housetest.Fails(t, err, "sign-in-refused")
	_, err = signIn(next)
	require.NoError(t, err)
}

func TestSigningIn(t *testing.T) {
	h := housetest.Open(t)
	for _, in := range []wire.SignIn{{Login: "admin", Password: "wrong"}, {Login: "nobody", Password: "a-long-password"}, {}} {
		_, _, err := h.People.SignIn(t.Context(), in)
		housetest.Fails(t, err, "sign-in-refused")
	}
	_, err := h.People.AddAccount(t.Context(), h.Me, wire.NewAccount{Login: "tove", Name: "Tove", Role: "engineer", Password: "short"})
	housetest.Fails(t, err, "password-weak")
	_, err = h.People.AddAccount(t.Context(), h.Me, wire.NewAccount{Login: "tove", Name: "Tove", Role: "owner", Password: "a-long-password"})
	housetest.Fails(t, err, "role-unknown")
	a, err := h.People.AddAccount(t.Context(), h.Me, wire.NewAccount{Login: "tove", Name: "Tove", Role: "engineer", Password: "a-long-password"})
	require.NoError(t, err)
	_, err = h.People.AddAccount(t.Context(), h.Me, wire.NewAccount{Login: "TOVE", Name: "Tove", Role: "engineer", Password: "a-long-password"})
	housetest.Fails(t, err, "login-taken")
	_, secret, err := h.People.SignIn(t.Context(), wire.SignIn{Login: "tove", Password: "a-long-password"})
	require.NoError(t, err)
	tove, _, err := h.People.BySession(t.Context(), secret)
	require.NoError(t, err)
	token, err := h.People.AddToken(t.Context(), deed.Call{Actor: tove}, wire.NewToken{Name: "nightly", Days: 1})
	require.NoError(t, err)
	id, err := deed.ParseID(a.ID)
	require.NoError(t, err)
	off := true
	_, err = h.People.ChangeAccount(t.Context(), h.Me, id, wire.AccountChange{Disabled: &off})
	require.NoError(t, err)
	_, _, err = h.People.BySession(t.Context(), secret)
	assert.ErrorIs(t, err, store.ErrNotFound, "sessions of a disabled account end")
	_, err = h.People.ByToken(t.Context(), token.Secret)
	assert.ErrorIs(t, err, store.ErrNotFound, "and its tokens")
	_, _, err = h.People.SignIn(t.Context(), wire.SignIn{Login: "tove", Password: "a-long-password"})
	housetest.Fails(t, err, "sign-in-refused")
	_, err = h.People.ChangeAccount(t.Context(), h.Me, h.Me.Actor.ID, wire.AccountChange{Role: "reader"})
	housetest.Fails(t, err, "own-account")
	made, err := h.People.FirstAccount(t.Context(), "second", "Second", "a-long-password")
	require.NoError(t, err)
	assert.False(t, made, "there is a first account only once")
}
