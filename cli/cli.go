// Package cli holds the client commands: words in, tables, JSON or CSV out. It has no logic of its own.
package cli

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"runtime/debug"
	"slices"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/formats/delimited"
)

// ErrFindings ends a command that did its work and has findings to show: exit code 3.
var ErrFindings = errors.New("done with findings")

type usageError struct{ string }

func (e usageError) Error() string { return e.string }

// Usage makes an error of wrong usage: exit code 2.
func Usage(format string, args ...any) error { return usageError{fmt.Sprintf(format, args...)} }

// ExitCode returns 0 done, 1 could not, 2 wrong usage, 3 done with findings.
func ExitCode(err error) int {
	var u usageError
	switch {
	case err == nil:
		return 0
	case errors.As(err, &u):
		return 2
	case errors.Is(err, ErrFindings):
		return 3
	}
	return 1
}

// version is the commit that the program was built from.
func version() string {
	out := "unknown (built outside of its repository)"
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return out
	}
	changed := ""
	for _, s := range info.Settings {
		switch {
		case s.Key == "vcs.revision":
			out = s.Value[:min(len(s.Value), 12)]
		case s.Key == "vcs.time":
			out += " of " + s.Value
		case s.Key == "vcs.modified" && s.Value == "true":
			changed = ", with changes"
		}
	}
	return out + changed + ", " + info.GoVersion
}

// New returns the command tree without the service's own commands.
func New() *ucli.Command {
	root := &ucli.Command{
		Name: "jolly", Usage: "a shared, checked parts library: import, map, release, reconcile", Version: version(), EnableShellCompletion: true, Suggest: true,
		Flags: []ucli.Flag{
			&ucli.StringFlag{Name: "server", Usage: "`URL` of the service", Sources: ucli.EnvVars("JOLLY_SERVER")},
			&ucli.StringFlag{Name: "token", Usage: "API `TOKEN`; better kept in JOLLY_TOKEN or made by sign-in", Sources: ucli.EnvVars("JOLLY_TOKEN")},
			&ucli.StringFlag{Name: "as", Value: "table", Usage: "how to print: table, json or csv"},
			&ucli.BoolFlag{Name: "json", Usage: "the same as --as json"},
		},
		ExitErrHandler: func(context.Context, *ucli.Command, error) {},
		CommandNotFound: func(_ context.Context, c *ucli.Command, name string) {
			fmt.Fprintf(c.Root().ErrWriter, "jolly: there is no command %q; see jolly --help\n", name)
			os.Exit(2)
		},
		Commands: []*ucli.Command{signInCommand(), worklistCommand(), valueCommand(), cabinetCommand(), crosswalkCommand(), lifecycleCommand(), reviewCommand(), intakeCommand(), partCommand(), seriesCommand(), supplierCommand(), offersCommand(), connectionCommand(), viewCommand(), modelCommand(), deliveryCommand(), readoutCommand(), bomCommand(), wantCommand(), noticeCommand(), watchCommand(), commentCommand(),
			accountCommand(), groupCommand(), tokenCommand(), passwordCommand(), trailCommand(), verifyCommand()},
	}
	plainly(root)
	return root
}

// Run carries out a command line. Help that is asked for behind arguments, as by somebody who has typed half of it, is that of the command.
func Run(ctx context.Context, root *ucli.Command, args []string) error {
	return root.Run(ctx, helped(root, args))
}

func helped(root *ucli.Command, args []string) []string {
	at, c := 1, root
	for at < len(args) {
		sub := c.Command(args[at])
		if sub == nil {
			break
		}
		at, c = at+1, sub
	}
	if c == root {
		return args
	}
	for _, a := range args[at:] {
		switch a {
		case "--":
			return args
		case "--help", "-h":
			return append(slices.Clone(args[:at]), "--help")
		}
	}
	return args
}

// plainly lets wrong usage of a command be one sentence on standard error, and not its help among what others read; and what is said with an option be what was typed: a comma
// in it is a decimal mark or part of a name, and parts nothing.
func plainly(c *ucli.Command) {
	c.DisableSliceFlagSeparator = true
	c.OnUsageError = func(_ context.Context, c *ucli.Command, err error, _ bool) error {
		what := strings.Replace(err.Error(), "flag provided but not defined: -", "there is no option --", 1)
		what = strings.NewReplacer("Required flags", "the options", "Required flag", "the option", " not set", " is missing").Replace(what)
		return usageError{fmt.Sprintf("%s: see %s --help", what, c.FullName())}
	}
	for _, k := range c.Commands {
		plainly(k)
	}
}

// connect returns a client from flags, the environment, or the last sign-in.
func connect(c *ucli.Command) (*client.Client, error) {
	s := saved{Server: c.String("server"), Token: c.String("token")}
	if s.Server == "" || s.Token == "" {
		var kept saved
		if path, err := savedPath(); err == nil {
			if raw, err := os.ReadFile(path); err == nil {
				if err := json.Unmarshal(raw, &kept); err != nil {
					return nil, fmt.Errorf("the file %s is damaged: sign in again", path)
				}
			}
		}
		if s.Server == "" {
			s.Server = kept.Server
		}
		if s.Token == "" && s.Server == kept.Server {
			s.Token = kept.Token
		}
	}
	if s.Server == "" {
		s.Server = "http://127.0.0.1:8090"
	}
	if s.Token == "" {
		return nil, errors.New("you are not signed in: jolly sign-in LOGIN, or set JOLLY_TOKEN")
	}
	return client.New(s.Server, s.Token), nil
}

// table is a header and rows of cells.
type table [][]string

// emit prints v as JSON, or the table as a table or CSV.
func emit(c *ucli.Command, v any, t func() table) error {
	w := c.Root().Writer
	switch as := c.String("as"); {
	case c.Bool("json") || as == "json":
		e := json.NewEncoder(w)
		e.SetEscapeHTML(false)
		e.SetIndent("", "  ")
		return e.Encode(v)
	case as == "csv":
		return delimited.Write(w, t())
	case as != "table":
		return Usage("--as is %q: use table, json or csv", as)
	}
	return t().print(w)
}
