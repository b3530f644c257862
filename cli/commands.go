package cli

import (
	"context"
	"fmt"
	"os"
	"slices"
	"strconv"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
)

// command makes a subcommand that talks to the service. args is how many arguments it takes at least and at most;
// -1 is any number.
func command(name, usage, argsUsage, example string, least, most int, flags []ucli.Flag, fn func(context.Context, *ucli.Command, *client.Client) error) *ucli.Command {
	return &ucli.Command{Name: name, Usage: usage, ArgsUsage: argsUsage, Description: "Example:\n  " + example, Flags: flags,
		Action: func(ctx context.Context, c *ucli.Command) error {
			if n := c.NArg(); n < least || most >= 0 && n > most {
				return Usage("%s takes %s: %s; its options are in %s --help", c.FullName(), argsUsage, example, c.FullName())
			}
			if slices.Contains(c.Args().Slice(), "") { // a variable of the shell that is not set, most often
				return Usage("%s was given a blank argument; it takes %s: %s", c.FullName(), argsUsage, example)
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

func numbers(texts []string) ([]int, error) {
	var out []int
	for _, s := range texts {
		n, err := strconv.Atoi(s)
		if err != nil {
			return nil, Usage("%q is no row number", s)
		}
		out = append(out, n)
	}
	return out, nil
}
