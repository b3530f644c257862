package cli

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strconv"

	ucli "github.com/urfave/cli/v3"
	"golang.org/x/term"

	"jollydrawer/client"
	"jollydrawer/internal/wire"
)

// saved is what sign-in leaves for later commands.
type saved struct {
	Server string `json:"server"`
	Token  string `json:"token"`
}

func savedPath() (string, error) {
	if p := os.Getenv("JOLLY_CLIENT_FILE"); p != "" {
		return p, nil
	}
	dir, err := os.UserConfigDir()
	return filepath.Join(dir, "jolly", "client.json"), err
}

func signInCommand() *ucli.Command {
	return &ucli.Command{Name: "sign-in", Usage: "sign in and keep a token for later commands", ArgsUsage: "LOGIN", Category: "people",
		Description: "The password is asked for, or taken from JOLLY_PASSWORD.\n\nExample:\n  jolly sign-in --server http://127.0.0.1:8090 maren",
		Flags:       []ucli.Flag{&ucli.IntFlag{Name: "days", Value: 30, Usage: "how long the token holds"}},
		Action: func(ctx context.Context, c *ucli.Command) error {
			if c.NArg() != 1 {
				return Usage("sign-in needs your sign-in name")
			}
			password := os.Getenv("JOLLY_PASSWORD")
			if password == "" {
				if !term.IsTerminal(int(os.Stdin.Fd())) {
					return Usage("there is no terminal to ask for the password: set JOLLY_PASSWORD")
				}
				fmt.Fprint(os.Stderr, "Password: ")
				raw, err := term.ReadPassword(int(os.Stdin.Fd()))
				fmt.Fprintln(os.Stderr)
				if err != nil {
					return err
				}
				password = string(raw)
			}
			server := c.String("server")
			if server == "" {
				server = "http://127.0.0.1:8090"
			}
			host, _ := os.Hostname()
			k := client.New(server, "")
			if _, err := k.SignIn(ctx, c.Args().First(), password, "command line on "+host, c.Int("days")); err != nil {
				return err
			}
			path, err := savedPath()
			if err != nil {
				return err
			}
			if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
				return err
			}
			raw, err := json.Marshal(saved{k.Base, k.Token})
			if err != nil {
				return err
			}
			if err := os.WriteFile(path, raw, 0o600); err != nil {
				return err
			}
			return emit(c, map[string]string{"server": k.Base, "login": c.Args().First()}, func() table {
				return table{{"Signed in as", "At"}, {c.Args().First(), k.Base}}
			})
		}}
}

func accountCommand() *ucli.Command {
	return group("account", "people who may sign in", "people",
		command("list", "list the accounts", "", "jolly account list", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			all, err := k.Accounts(ctx)
			if err != nil {
				return err
			}
			return emit(c, all, func() table {
				t := table{{"Login", "Name", "Role", "May sign in"}}
				for _, a := range all {
					t = append(t, []string{a.Login, a.Name, a.Role, map[bool]string{true: "no", false: "yes"}[a.Disabled]})
				}
				return t
			})
		}),
		command("add", "make an account; its password is taken from JOLLY_NEW_PASSWORD", "LOGIN NAME ROLE", "JOLLY_NEW_PASSWORD=… jolly account add tove 'Tove Lindqvist' engineer", 3, 3, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			a, err := k.AddAccount(ctx, wire.NewAccount{Login: c.Args().Get(0), Name: c.Args().Get(1), Role: c.Args().Get(2), Password: os.Getenv("JOLLY_NEW_PASSWORD")})
			if err != nil {
				return err
			}
			return emit(c, a, func() table { return table{{"Login", "Name", "Role"}, {a.Login, a.Name, a.Role}} })
		}),
		command("change", "change an account's role, or whether it may sign in", "LOGIN", "jolly account change tove --role librarian", 1, 1,
			[]ucli.Flag{&ucli.StringFlag{Name: "role"}, &ucli.BoolFlag{Name: "disable"}, &ucli.BoolFlag{Name: "enable"}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				all, err := k.Accounts(ctx)
				if err != nil {
					return err
				}
				for _, a := range all {
					if a.Login != c.Args().First() {
						continue
					}
					in := wire.AccountChange{Role: c.String("role"), Password: os.Getenv("JOLLY_NEW_PASSWORD")}
					if c.Bool("disable") || c.Bool("enable") {
						off := c.Bool("disable")
						in.Disabled = &off
					}
					a, err := k.ChangeAccount(ctx, a.ID, in)
					if err != nil {
						return err
					}
					return emit(c, a, func() table { return table{{"Login", "Name", "Role"}, {a.Login, a.Name, a.Role}} })
				}
				return fmt.Errorf("there is no account %q", c.Args().First())
			}),
	)
}

func passwordCommand() *ucli.Command {
	p := command("password", "change your password, taken from JOLLY_PASSWORD, to JOLLY_NEW_PASSWORD", "", "JOLLY_PASSWORD=… JOLLY_NEW_PASSWORD=… jolly password", 0, 0, nil,
		func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			in := wire.OwnPassword{Password: os.Getenv("JOLLY_PASSWORD"), Next: os.Getenv("JOLLY_NEW_PASSWORD")}
			if in.Password == "" || in.Next == "" {
				return Usage("set JOLLY_PASSWORD to your present password and JOLLY_NEW_PASSWORD to the one that is to take its place")
			}
			a, err := k.ChangePassword(ctx, in)
			if err != nil {
				return err
			}
			return emit(c, a, func() table {
				return table{{"Password of", "Note"}, {a.Login, "sessions in browsers have ended; tokens hold on"}}
			})
		})
	p.Category = "people"
	return p
}

func tokenCommand() *ucli.Command {
	return group("token", "your API tokens", "people",
		command("list", "list your tokens", "", "jolly token list", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			all, err := k.Tokens(ctx)
			if err != nil {
				return err
			}
			return emit(c, all, func() table {
				t := table{{"Name", "Made", "Holds until", "ID"}}
				for _, x := range all {
					t = append(t, []string{x.Name, x.Created.Local().Format("2006-01-02"), x.Expires.Local().Format("2006-01-02"), x.ID})
				}
				return t
			})
		}),
		command("make", "make a token; its secret is shown once", "NAME", "jolly token make 'nightly import'", 1, 1, []ucli.Flag{&ucli.IntFlag{Name: "days", Value: 365}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			x, err := k.AddToken(ctx, wire.NewToken{Name: c.Args().First(), Days: c.Int("days")})
			if err != nil {
				return err
			}
			return emit(c, x, func() table { return table{{"Name", "Secret"}, {x.Name, x.Secret}} })
		}),
		command("drop", "end a token", "ID", "jolly token drop 0197…", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			all, err := k.DropToken(ctx, c.Args().First())
			if err != nil {
				return err
			}
			return emit(c, all, func() table { return table{{"Tokens left"}, {strconv.Itoa(len(all))}} })
		}),
	)
}
