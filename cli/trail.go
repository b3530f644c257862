package cli

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/trail"
)

func trailCommand() *ucli.Command {
	which := func(more ...ucli.Flag) []ucli.Flag {
		return append([]ucli.Flag{&ucli.StringFlag{Name: "by", Usage: "sign-in `NAME`"}, &ucli.StringFlag{Name: "kind", Usage: "part, model, bom, intake, want, delivery, cabinet, lifecycle or crosswalk"}, &ucli.StringFlag{Name: "drawer", Usage: "and all in it"},
			&ucli.StringFlag{Name: "file", Usage: "`NAME` or hash of one that came in: all that was done with it"}, &ucli.StringFlag{Name: "from", Usage: "`DAY` or time"}, &ucli.StringFlag{Name: "to", Usage: "`DAY` or time; up to before it"}}, more...)
	}
	asked := func(c *ucli.Command) client.TrailQuery {
		return client.TrailQuery{By: c.String("by"), Kind: c.String("kind"), Drawer: c.String("drawer"), File: c.String("file"), From: c.String("from"), To: c.String("to"), After: c.String("after"), Limit: c.Int("limit")}
	}
	check := &ucli.Command{Name: "check", Usage: "check the hashes of an exported JSON Lines file; needs no service", ArgsUsage: "FILE", Description: "Example:\n  jolly trail check march.jsonl", Action: checkTrail}
	g := group("trail", "who did what, across all things", "service",
		command("list", "list entries, newest first", "", "jolly trail list --by tove --from 2026-11-01", 0, 0,
			which(&ucli.IntFlag{Name: "limit", Value: 50}, &ucli.StringFlag{Name: "after", Usage: "`PLACE` where the page begins, as the page before names it"}), func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				l, err := k.TrailAcross(ctx, asked(c))
				if err != nil {
					return err
				}
				return emit(c, l, func() table {
					t := table{{"When", "What was done"}}
					for _, e := range l.Items {
						t = append(t, []string{e.At.UTC().Format("2006-01-02 15:04:05"), withChanges(e.Says, e.Changes)})
					}
					if l.Next != "" {
						t = append(t, []string{"more", "--after " + l.Next})
					}
					return t
				})
			}),
		command("export", "write entries with their hashes into a file that ends in .csv or .jsonl, oldest first", "FILE", "jolly trail export march.jsonl --from 2026-03-01 --to 2026-04-01", 1, 1, which(), func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			path := c.Args().First()
			format := strings.TrimPrefix(filepath.Ext(path), ".")
			if format != "csv" && format != "jsonl" {
				return usageError{"the file's name ends in .csv or .jsonl"}
			}
			r, err := k.ExportTrail(ctx, asked(c), format)
			if err != nil {
				return err
			}
			defer r.Close()
			return written(c, path, r)
		}))
	g.Commands = append(g.Commands, check)
	return g
}

// withChanges says an entry with what it changed.
func withChanges(says string, all []trail.Change) string {
	for _, c := range all {
		says += fmt.Sprintf(" %s: %s → %s.", c.What, blank(c.Before), blank(c.After))
	}
	return says
}

func blank(s string) string {
	if s == "" {
		return "nothing"
	}
	return s
}

// checkTrail checks an exported file.
func checkTrail(_ context.Context, c *ucli.Command) error {
	if c.NArg() != 1 {
		return usageError{"trail check needs a file: jolly trail check march.jsonl"}
	}
	f, err := os.Open(c.Args().First())
	if err != nil {
		return fmt.Errorf("the file cannot be read: %w", err)
	}
	defer f.Close()
	out, err := trail.Check(f)
	if err != nil {
		return fmt.Errorf("%s: %w", c.Args().First(), err)
	}
	if err := emit(c, out, func() table {
		t := pairs("Entries", fmt.Sprint(out.Entries), "Things", fmt.Sprint(out.Things), "Apart", fmt.Sprintf("%d follow from one that is not in the file", out.Apart), "Wrong", fmt.Sprint(len(out.Wrong)))
		for _, w := range out.Wrong {
			t = append(t, []string{"", w})
		}
		return t
	}); err != nil {
		return err
	}
	if len(out.Wrong) > 0 {
		return ErrFindings
	}
	return nil
}
