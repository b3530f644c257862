package cli

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/internal/wire"
)

// builtCommands are the commands about boards that were built.
func builtCommands() []*ucli.Command {
	return []*ucli.Command{
		command("built", "note that boards of a revision were built and work; list what was built", "BOM@REVISION [BOARDS WHICH]", "jolly bom built 'Tide logger rev B@1' 40 'lot 7, autumn'", 1, 3, []ucli.Flag{variantFlag()}, saidBuilt),
		command("proof", "show the exact revisions of parts and models that a build used; confirm that they worked, all or some", "BOM@REVISION [NAME...]", "jolly bom proof 'Tide logger rev B@1' --all", 1, -1,
			[]ucli.Flag{&ucli.BoolFlag{Name: "all", Usage: "confirm all that is proposed"}, &ucli.StringFlag{Name: "build", Usage: "which build, by its words; usually the newest"}}, proveBuild),
	}
}

// revisionAt reads BOM@REVISION.
func revisionAt(ctx context.Context, k *client.Client, arg string) (wire.BOMAt, error) {
	which, err := at(ctx, k, arg)
	if err != nil {
		return which, err
	}
	if which.Revision == 0 {
		return which, Usage("%s names no revision: %s@1", arg, arg)
	}
	return which, nil
}

func saidBuilt(ctx context.Context, c *ucli.Command, k *client.Client) error {
	which, err := revisionAt(ctx, k, c.Args().First())
	if err != nil {
		return err
	}
	var f wire.FrozenBOM
	switch c.Args().Len() {
	case 1:
		f, err = k.BOMRevision(ctx, which.BOM, which.Revision)
	case 2:
		return Usage("say which boards were built, too: their lot, place or day")
	default:
		boards, wrong := strconv.Atoi(c.Args().Get(1))
		if wrong != nil || boards < 1 || boards > 1_000_000 {
			return Usage("%q is no number of boards.", c.Args().Get(1))
		}
		f, err = k.BuiltBOM(ctx, which, wire.BuiltBOM{Boards: boards, Which: c.Args().Get(2), Variant: c.String("variant")})
	}
	if err != nil {
		return err
	}
	return emit(c, f.Builds, func() table {
		t := table{{"Boards", "Which", "Variant", "By", "When", "Proves"}}
		for _, b := range f.Builds {
			t = append(t, []string{strconv.Itoa(b.Boards), b.Which, b.Variant, b.By, b.At.Local().Format("2006-01-02 15:04"), count(b.Proved, "exact revision", "exact revisions")})
		}
		return t
	})
}

func proveBuild(ctx context.Context, c *ucli.Command, k *client.Client) error {
	which, err := revisionAt(ctx, k, c.Args().First())
	if err != nil {
		return err
	}
	f, err := k.BOMRevision(ctx, which.BOM, which.Revision)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(f.Builds, func(b wire.BOMBuildMade) bool {
		return c.String("build") == "" || strings.EqualFold(b.Which, c.String("build"))
	})
	if i < 0 {
		return fmt.Errorf("no such build of %s@%d is noted: jolly bom built notes one", which.BOM, which.Revision)
	}
	p, err := k.BuildProof(ctx, which, f.Builds[i].ID)
	if err != nil {
		return err
	}
	in := wire.ConfirmProof{All: c.Bool("all")}
	for _, name := range c.Args().Tail() {
		found := slices.IndexFunc(p.Items, func(x wire.ProofItem) bool { return strings.EqualFold(x.Name, name) })
		if found < 0 {
			return fmt.Errorf("the build did not use %s; nothing was confirmed", name)
		}
		in.Things = append(in.Things, p.Items[found].ID)
	}
	if in.All || len(in.Things) > 0 {
		if p, err = k.ConfirmProof(ctx, which, f.Builds[i].ID, in); err != nil {
			return err
		}
	}
	if err := emit(c, p, func() table { return proofTable(p) }); err != nil {
		return err
	}
	proved := 0
	for _, x := range p.Items {
		if x.Proved {
			proved++
		}
	}
	fmt.Fprintf(c.Root().ErrWriter, "%s revision %d, %s: %d of %s confirmed\n", p.BOM, p.Revision, p.Build.Which, proved, count(len(p.Items), "exact revision", "exact revisions"))
	return nil
}

func proofTable(p wire.BuildProof) table {
	t := table{{"Kind", "Name", "Revision", "Used", "Boards so far", "This build"}}
	for _, x := range p.Items {
		revision := x.Revision
		if !x.Newest {
			revision += " (a newer one is there)"
		}
		says := "proposed"
		if x.Proved {
			says = "confirmed"
		}
		t = append(t, []string{x.Kind, x.Name, revision, strings.Join(x.Used, " "), strconv.Itoa(x.Boards), says})
	}
	return t
}
