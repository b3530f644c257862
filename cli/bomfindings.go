package cli

import (
	"cmp"
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
		command("unite", "say which functions a board buys as several parts, and what its build would save with one; with a part take that one for the lines of the others", "BOM [PART]", "jolly bom unite 'Radar head rev A' EW-R-00044 --reason 'one reel'", 1, 2,
			[]ucli.Flag{variantFlag(), &ucli.Int64Flag{Name: "boards", Usage: "boards of the build; usually those of the BOM"}, &ucli.StringFlag{Name: "reason", Usage: "kept with each line"}}, uniteBOM),
		command("sheets", "list the sheets of the house beside the usual ones, or with a file keep that; --text prints the document", "[FILE]", "jolly bom sheets demo/sheets.yaml", 0, 1,
			[]ucli.Flag{&ucli.BoolFlag{Name: "text", Usage: "print the document"}}, bomSheets),
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

func uniteBOM(ctx context.Context, c *ucli.Command, k *client.Client) error {
	b, err := k.BOM(ctx, c.Args().First())
	if err != nil {
		return err
	}
	all, err := k.BOMFunctions(ctx, wire.BOMAt{BOM: b.ID, Variant: c.String("variant")}, c.Int64("boards"))
	if err != nil {
		return err
	}
	if keep := c.Args().Get(1); keep != "" {
		return takeFunction(ctx, c, k, b, all, keep)
	}
	err = emit(c, all, func() table {
		t := table{{"Function", "Part", "Rows", "Build with it alone", "Saves", "Description"}}
		for n, f := range all.Items {
			for _, p := range f.Parts {
				var rows []string
				for _, r := range p.Rows {
					rows = append(rows, strconv.Itoa(r))
				}
				saves := cmp.Or(p.Saves.String(), p.Why)
				if p.Short {
					saves += ", short"
				}
				t = append(t, []string{strconv.Itoa(n + 1), p.Number, strings.Join(rows, " "), orNothing(p.Sum.String()), saves, p.Description})
			}
		}
		return t
	})
	switch {
	case err != nil:
	case len(all.Items) == 0:
		fmt.Fprintf(c.Root().ErrWriter, "%s buys each function as one part\n", b.Name)
	default:
		fmt.Fprintf(c.Root().ErrWriter, "%d boards of %s: %s as it is, without %s\n", all.Boards, b.Name, orNothing(all.Sum.String()), count(int(all.Missing), "piece that has no price", "pieces that have no price"))
	}
	return err
}

// takeFunction chooses a part for the lines of all parts of its function.
func takeFunction(ctx context.Context, c *ucli.Command, k *client.Client, b wire.BOM, all wire.BOMFunctions, keep string) error {
	for _, f := range all.Items {
		at := slices.IndexFunc(f.Parts, func(p wire.UnitedPart) bool { return strings.EqualFold(p.Number, keep) })
		if at < 0 {
			continue
		}
		in := wire.BOMChoices{}
		for i, p := range f.Parts {
			for _, row := range p.Rows {
				if i != at {
					in.Choose = append(in.Choose, wire.BOMChoice{Row: row, Part: f.Parts[at].ID, Reason: cmp.Or(c.String("reason"), "one part for one function")})
				}
			}
		}
		after, err := k.ChooseBOM(ctx, b.ID, b.Version, in)
		if err != nil {
			return err
		}
		return emit(c, after, func() table {
			return pairs("BOM", after.Name, "Part", f.Parts[at].Number, "Lines", strconv.Itoa(len(in.Choose)))
		})
	}
	return fmt.Errorf("%s buys no function as several parts of which %s is one: list them with jolly bom unite", b.Name, keep)
}

// ofHouse is a document that the house has one of: as it is in force, or as the file makes it that is named.
func ofHouse[D any](ctx context.Context, c *ucli.Command, now func(context.Context) (D, error), apply func(D, string) (D, error)) (doc D, err error) {
	doc, err = now(ctx)
	path := c.Args().First()
	if err != nil || path == "" {
		return doc, err
	}
	text, err := readDocument(path)
	if err != nil {
		return doc, err
	}
	return apply(doc, text)
}

func bomSheets(ctx context.Context, c *ucli.Command, k *client.Client) error {
	s, err := ofHouse(ctx, c, k.SheetForms, func(s wire.SheetForms, text string) (wire.SheetForms, error) {
		return k.ApplySheetForms(ctx, s.Version, text)
	})
	if err != nil {
		return err
	}
	if c.Bool("text") {
		_, err = fmt.Fprint(c.Root().Writer, s.Text)
		return err
	}
	return emit(c, s, func() table {
		t := table{{"Sheet", "Made of", "Columns"}}
		for _, f := range s.Sheets {
			t = append(t, []string{f.Name, f.Of, strconv.Itoa(f.Columns)})
		}
		return t
	})
}

func bomSeverities(ctx context.Context, c *ucli.Command, k *client.Client) error {
	s, err := ofHouse(ctx, c, k.BOMSeverities, func(s wire.Severities, text string) (wire.Severities, error) {
		return k.ApplyBOMSeverities(ctx, s.Version, text)
	})
	if err != nil {
		return err
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
