package cli

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/finding"
	"jollydrawer/internal/wire"
)

// findingsOfBOMs are the commands about what checks say of BOMs, and about what a board holds on to.
func findingsOfBOMs() []*ucli.Command {
	return []*ucli.Command{
		command("accept-finding", "accept the findings of one cause with a reason, of all lines that have it or of some; - takes that back", "BOM CAUSE WHY", "jolly bom accept-finding tide-logger single-source 'agreed with purchasing' --row 12", 3, 3,
			[]ucli.Flag{&ucli.IntSliceFlag{Name: "row", Usage: "only in this row of the file; may be given several times"}}, acceptFindings),
		command("move-on", "take the newer revisions of parts that a board holds on to older ones of: of those that are named, or with --all of every one; without, list them", "BOM [PART...]", "jolly bom move-on tide-logger EW-R-00044", 1, -1,
			[]ucli.Flag{&ucli.BoolFlag{Name: "all", Usage: "of every part that is behind"}}, moveBOMOn),
		command("severities", "print how bad the house takes the findings of its BOMs, or with a file keep that; --causes lists them all", "[FILE]", "jolly bom severities demo/severities.yaml", 0, 1,
			[]ucli.Flag{&ucli.BoolFlag{Name: "causes", Usage: "list every cause, with how bad it is where the house says nothing"}}, bomSeverities),
	}
}

func acceptFindings(ctx context.Context, c *ucli.Command, k *client.Client) error {
	b, err := k.BOM(ctx, c.Args().First())
	if err != nil {
		return err
	}
	in := wire.WaiveFindings{Cause: causeNamed(b, c.Args().Get(1)), Rows: c.IntSlice("row"), Why: strings.TrimPrefix(c.Args().Get(2), "-")}
	if b, err = k.WaiveFindings(ctx, b.ID, b.Version, in); err != nil {
		return err
	}
	return emit(c, b, func() table {
		t := table{{"Row", "Designators", "Finding", "Accepted"}}
		for _, l := range b.Lines {
			for _, f := range l.Findings {
				if f.Cause == in.Cause {
					t = append(t, []string{strconv.Itoa(l.Row), strings.Join(l.Designators, " "), f.What, f.Waived})
				}
			}
		}
		return t
	})
}

// causeNamed is the cause that a name stands for; a cause may be typed as it is.
func causeNamed(b wire.BOM, name string) string {
	for _, l := range b.Lines {
		for _, f := range l.Findings {
			if finding.Name(f.Cause) == name {
				return f.Cause
			}
		}
	}
	return name
}

func moveBOMOn(ctx context.Context, c *ucli.Command, k *client.Client) error {
	b, err := k.BOM(ctx, c.Args().First())
	if err != nil {
		return err
	}
	parts := c.Args().Slice()[1:]
	behind := table{{"Part", "Held at", "In use", "Designators", "Description"}}
	for _, l := range b.Lines {
		if l.Held > 0 && l.Part != nil {
			behind = append(behind, []string{l.Part.Number, strconv.Itoa(l.Held), strconv.Itoa(l.Part.Revision), strings.Join(l.Designators, " "), l.Part.Description})
		}
	}
	if len(parts) == 0 && !c.Bool("all") {
		return emit(c, b, func() table { return behind })
	}
	if b, err = k.MoveBOMOn(ctx, b.ID, b.Version, wire.MoveOnParts{Parts: parts}); err != nil {
		return err
	}
	left := 0
	for _, l := range b.Lines {
		if l.Held > 0 {
			left++
		}
	}
	return emit(c, b, func() table { return pairs("BOM", b.Name, "Lines still behind", strconv.Itoa(left)) })
}

func bomSeverities(ctx context.Context, c *ucli.Command, k *client.Client) error {
	s, err := k.BOMSeverities(ctx)
	if err != nil {
		return err
	}
	if path := c.Args().First(); path != "" {
		text, err := readDocument(path)
		if err != nil {
			return err
		}
		if s, err = k.ApplyBOMSeverities(ctx, s.Version, text); err != nil {
			return err
		}
	}
	if c.Bool("causes") {
		return emit(c, s, func() table {
			t := table{{"Cause", "Severity"}}
			for _, cause := range slices.Sorted(maps.Keys(s.Usual)) {
				t = append(t, []string{cause, string(s.Usual[cause])})
			}
			return t
		})
	}
	if c.Bool("json") || c.String("as") == "json" {
		return emit(c, s, nil)
	}
	_, err = fmt.Fprint(c.Root().Writer, s.Text)
	return err
}
