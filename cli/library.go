package cli

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"
	"go.yaml.in/yaml/v3"

	"jollydrawer/client"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/internal/wire"
)

// command makes a subcommand that talks to the service. args is how many arguments it takes at least and at most;
// -1 is any number.
func command(name, usage, argsUsage, example string, least, most int, flags []ucli.Flag, fn func(context.Context, *ucli.Command, *client.Client) error) *ucli.Command {
	return &ucli.Command{Name: name, Usage: usage, ArgsUsage: argsUsage, Description: "Example:\n  " + example, Flags: flags,
		Action: func(ctx context.Context, c *ucli.Command) error {
			if n := c.NArg(); n < least || most >= 0 && n > most {
				return Usage("%s takes %s: %s", c.FullName(), argsUsage, example)
			}
			k, err := connect(c)
			if err != nil {
				return err
			}
			return fn(ctx, c, k)
		}}
}

func group(name, usage, category string, subs ...*ucli.Command) *ucli.Command {
	return &ucli.Command{Name: name, Usage: usage, Category: category, Commands: subs,
		Action: func(_ context.Context, c *ucli.Command) error {
			if c.NArg() > 0 {
				return Usage("%s has no command %q; see jolly %s --help", name, c.Args().First(), name)
			}
			return ucli.ShowSubcommandHelp(c)
		}}
}

func readDocument(path string) (string, error) {
	raw, err := os.ReadFile(path)
	if err != nil {
		return "", fmt.Errorf("the document cannot be read: %w", err)
	}
	return string(raw), nil
}

func cabinetCommand() *ucli.Command {
	return group("cabinet", "the drawers and their templates", "library", append([]*ucli.Command{
		command("show", "list the drawers, or one drawer's template", "[DRAWER]", "jolly cabinet show chip-resistors", 0, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			cab, err := k.Cabinet(ctx)
			if err != nil {
				return err
			}
			if c.NArg() == 0 {
				return emit(c, cab, func() table {
					t := table{{"Drawer", "Label", "Inside", "Prefix", "Leading", "Parameters", "Parts"}}
					for _, d := range cab.Drawers {
						t = append(t, []string{d.Key, d.Label, strings.Join(d.Path[:len(d.Path)-1], " / "), d.Prefix, d.Leading, strconv.Itoa(len(d.Slots)), strconv.Itoa(d.Parts)})
					}
					return t
				})
			}
			for _, d := range cab.Drawers {
				if d.Key == c.Args().First() {
					return emit(c, d, func() table {
						t := table{{"Parameter", "Label", "Type", "Required", "From", "Choices"}}
						for _, s := range d.Slots {
							kind, need := s.Type, ""
							if s.Of != "" {
								kind = s.Of
							}
							if s.Required {
								need = "required"
							}
							t = append(t, []string{s.Key, s.Label, kind, need, s.From, strings.Join(s.Choices, ", ")})
						}
						return t
					})
				}
			}
			return fmt.Errorf("the cabinet has no drawer %q: see jolly cabinet show", c.Args().First())
		}),
		command("apply", "make a document the cabinet in force", "FILE", "jolly cabinet apply demo/cabinet.yaml", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			text, err := readDocument(c.Args().First())
			if err != nil {
				return err
			}
			was, err := k.Cabinet(ctx)
			if err != nil {
				return err
			}
			now, err := k.ApplyCabinet(ctx, was.Version, text)
			if err != nil {
				return err
			}
			return emit(c, now, func() table {
				did := "applied"
				if now.Version == was.Version {
					did = "unchanged"
				}
				return table{{"Cabinet", "Revision", "Drawers", "Parameters"}, {did, strconv.Itoa(now.Revision), strconv.Itoa(len(now.Drawers)), strconv.Itoa(len(now.Document.Parameters))}}
			})
		}),
		command("export", "print the cabinet in force as a document", "", "jolly cabinet export > cabinet.yaml", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			cab, err := k.Cabinet(ctx)
			if err != nil {
				return err
			}
			if c.Bool("json") || c.String("as") == "json" {
				return emit(c, cab.Document, nil)
			}
			raw, err := yaml.Marshal(cab.Document)
			if err != nil {
				return err
			}
			_, err = c.Root().Writer.Write(raw)
			return err
		}),
		&ucli.Command{Name: "schema", Usage: "print the JSON Schema of cabinet documents; needs no service", Action: func(_ context.Context, c *ucli.Command) error {
			_, err := fmt.Fprint(c.Root().Writer, cabinet.Schema)
			return err
		}},
		&ucli.Command{Name: "check", Usage: "check a cabinet document; needs no service", ArgsUsage: "FILE", Description: "Example:\n  jolly cabinet check demo/cabinet.yaml",
			Action: func(_ context.Context, c *ucli.Command) error {
				if c.NArg() != 1 {
					return Usage("check needs the file of a cabinet document")
				}
				text, err := readDocument(c.Args().First())
				if err != nil {
					return err
				}
				cab, err := cabinet.Parse([]byte(text))
				if err != nil {
					return err
				}
				return emit(c, map[string]int{"drawers": len(cab.Templates())}, func() table {
					return table{{"Document", "Drawers", "Parameters"}, {"sound", strconv.Itoa(len(cab.Templates())), strconv.Itoa(len(cab.Document.Parameters))}}
				})
			}},
	}, changeCommands()...)...)
}

func crosswalkCommand() *ucli.Command {
	return group("crosswalk", "which fields of a supplier fill which parameters", "library",
		command("list", "list the crosswalks", "", "jolly crosswalk list", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Crosswalks(ctx, 0, 1000)
			if err != nil {
				return err
			}
			return emit(c, l, func() table {
				t := table{{"Supplier", "Revision", "Changed"}}
				for _, x := range l.Items {
					t = append(t, []string{x.Supplier, strconv.Itoa(x.Revision), x.Updated.Local().Format("2006-01-02 15:04")})
				}
				return t
			})
		}),
		command("show", "print a supplier's crosswalk as a document", "SUPPLIER", "jolly crosswalk show 'Marsh Lane Components'", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			x, err := k.Crosswalk(ctx, c.Args().First())
			if err != nil {
				return err
			}
			if c.Bool("json") || c.String("as") == "json" {
				return emit(c, x, nil)
			}
			_, err = fmt.Fprint(c.Root().Writer, x.Text)
			return err
		}),
		command("apply", "make a document the crosswalk of the supplier it names", "FILE", "jolly crosswalk apply demo/crosswalks/marsh-lane.yaml", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			text, err := readDocument(c.Args().First())
			if err != nil {
				return err
			}
			doc, err := crosswalk.Parse([]byte(text))
			if err != nil {
				return err
			}
			version := 0
			was, err := k.Crosswalk(ctx, doc.Supplier)
			var e *client.Error
			if err == nil {
				version = was.Version
			} else if !errors.As(err, &e) || e.Status != http.StatusNotFound {
				return err
			}
			now, err := k.ApplyCrosswalk(ctx, version, text)
			if err != nil {
				return err
			}
			return emit(c, now, func() table {
				return table{{"Crosswalk", "Revision", "Rules"}, {now.Supplier, strconv.Itoa(now.Revision), strconv.Itoa(len(doc.Fields))}}
			})
		}),
	)
}

func uploadFile(ctx context.Context, k *client.Client, path string) (wire.File, error) {
	f, err := os.Open(path)
	if err != nil {
		return wire.File{}, fmt.Errorf("the file cannot be read: %w", err)
	}
	defer f.Close()
	return k.Upload(ctx, filepath.Base(path), f)
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

func verifyCommand() *ucli.Command {
	x := command("verify", "recompute hashes, trails and projections, and name every difference", "", "jolly verify", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
		j, err := k.StartVerify(ctx)
		if err == nil {
			j, err = waitJob(ctx, k, j, "records")
		}
		if err == nil && j.Verified == nil {
			err = errors.New(j.Error)
		}
		if err != nil {
			return err
		}
		v := *j.Verified
		if err := emit(c, v, func() table {
			t := pairs("Records", strconv.Itoa(v.Heads), "Contents", strconv.Itoa(v.Contents), "Trail entries", strconv.Itoa(v.Entries), "Differences", strconv.Itoa(len(v.Different)))
			for _, d := range v.Different {
				t = append(t, []string{"Different", d})
			}
			return t
		}); err != nil {
			return err
		}
		if len(v.Different) > 0 {
			return ErrFindings
		}
		return nil
	})
	x.Category = "service"
	return x
}
