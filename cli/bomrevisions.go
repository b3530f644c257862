package cli

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"
	"regexp"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/bom"
	"jollydrawer/internal/wire"
)

// revisionsOfBOMs are the commands about files, names and revisions of BOMs.
func revisionsOfBOMs() []*ucli.Command {
	return []*ucli.Command{
		command("file", "lay another file of the same board in a BOM's place; decisions stay for lines that say the same", "BOM [FILE]", "jolly bom file tide-logger tide-logger-b.csv", 1, 2, append(layoutFlags(), variantFilesFlag()), replaceBOMFile),
		command("rename", "give a BOM another name", "BOM NAME", "jolly bom rename tide-logger 'Tide logger B'", 2, 2, nil, renameBOM),
		command("remove", "remove a BOM that was never frozen; without --yes only say what that would take with it", "BOM", "jolly bom remove 'Solar charger rev C' --yes", 1, 1, []ucli.Flag{&ucli.BoolFlag{Name: "yes", Usage: "do it"}}, removeBOM),
		command("freeze", "make the next revision: every line pinned to the exact revision of its part", "BOM NOTE", "jolly bom freeze tide-logger 'first build'", 2, 2, []ucli.Flag{&ucli.StringFlag{Name: "anyway", Usage: "why it is frozen with lines that no released record answers"}, &ucli.BoolFlag{Name: "minor", Usage: "only the second figure of its label counts on"}}, freezeBOM),
		command("revisions", "list the revisions of a BOM", "BOM", "jolly bom revisions tide-logger", 1, 1, nil, listBOMRevisions),
		command("revision", "show a revision line by line, with what became otherwise in the library since", "BOM@REVISION", "jolly bom revision tide-logger@1 --behind", 1, 1, []ucli.Flag{&ucli.BoolFlag{Name: "behind", Usage: "only lines of which something is otherwise by now: record, price, stock"}}, showBOMRevision),
		command("compare", "say what two BOMs or revisions differ in, by designator", "BOM[@REVISION] [BOM[@REVISION]]", "jolly bom compare tide-logger@1 tide-logger", 1, 2, []ucli.Flag{variantFlag(), &ucli.StringFlag{Name: "with-variant", Usage: "the variant of the other; usually the same"}}, compareBOMs),
		command("check", "reconcile a file and keep nothing, for a build server: exit code 3 where a finding is as bad as makes it fail", "FILE", "jolly bom check tide-logger.csv --severities severities.yaml", 1, 1,
			append(layoutFlags(), originFlag(), variantFlag(), variantFilesFlag(), &ucli.StringFlag{Name: "severities", Usage: "a file that says how bad findings are, and from which on the check fails"}, &ucli.StringFlag{Name: "bom", Usage: "the BOM whose decisions count; usually the one with the file's name, where there is one"},
				&ucli.IntFlag{Name: "build", Usage: "boards that are built at once"}, &ucli.BoolFlag{Name: "keep", Usage: "open the BOM, or lay the file in its place"}), checkBOM),
	}
}

// variantFlag names a variant of a board.
func variantFlag() ucli.Flag {
	return &ucli.StringFlag{Name: "variant", Usage: "the variant of the board, where it is built in several"}
}

// atVariant reads the BOM@REVISION that comes first, with the variant that a flag names.
func atVariant(ctx context.Context, c *ucli.Command, k *client.Client) (wire.BOMAt, error) {
	which, err := at(ctx, k, c.Args().First())
	which.Variant = c.String("variant")
	return which, err
}

// labelForm is how revisions are labelled where they are not only counted: A, AB, 1.2.
var labelForm = regexp.MustCompile(`^(?:[A-Z]{1,2}|[0-9]+[.][0-9]+)$`)

// at reads BOM@REVISION, by the number of the revision or by what it is called; a BOM by itself is as it is now.
func at(ctx context.Context, k *client.Client, arg string) (wire.BOMAt, error) {
	i := strings.LastIndexByte(arg, '@')
	if i <= 0 {
		return wire.BOMAt{BOM: arg}, nil
	}
	name, revision := arg[:i], arg[i+1:]
	if n, err := strconv.Atoi(revision); err == nil && n > 0 {
		return wire.BOMAt{BOM: name, Revision: n}, nil
	}
	if labelForm.MatchString(revision) {
		all, err := k.BOMRevisions(ctx, name)
		for _, v := range all.Items {
			if v.Label == revision {
				return wire.BOMAt{BOM: name, Revision: v.Revision}, nil
			}
		}
		if err == nil {
			err = fmt.Errorf("%s has no revision %s: list them with jolly bom revisions", name, revision)
		}
		return wire.BOMAt{}, err
	}
	return wire.BOMAt{BOM: arg}, nil
}

func replaceBOMFile(ctx context.Context, c *ucli.Command, k *client.Client) error {
	b, err := k.BOM(ctx, c.Args().First())
	if err != nil {
		return err
	}
	f, err := bomFileOf(ctx, c, k, c.Args().Get(1))
	if err != nil {
		return err
	}
	if b, err = k.ReplaceBOMFile(ctx, b.ID, b.Version, f); err != nil {
		return err
	}
	return showBOM(c, b)
}

func removeBOM(ctx context.Context, c *ucli.Command, k *client.Client) error {
	b, err := k.BOM(ctx, c.Args().First())
	if err != nil {
		return err
	}
	if b.Revision > 0 {
		return fmt.Errorf("%s has %s, which stay: it is not removed", b.Name, count(b.Revision, "frozen revision", "frozen revisions"))
	}
	if !c.Bool("yes") {
		chosen := 0
		for _, l := range b.Lines {
			if l.Chosen {
				chosen++
			}
		}
		fmt.Fprintf(c.Root().ErrWriter, "%s would be removed with what people decided for %s; --yes does it\n", b.Name, count(chosen, "line", "lines"))
		return nil
	}
	gone, err := k.RemoveBOM(ctx, b.ID, b.Version)
	if err != nil {
		return err
	}
	return emit(c, gone, func() table {
		return table{{"Removed", "Decisions that went with it"}, {gone.Name, strconv.Itoa(gone.Decisions)}}
	})
}

func renameBOM(ctx context.Context, c *ucli.Command, k *client.Client) error {
	b, err := k.BOM(ctx, c.Args().First())
	if err != nil {
		return err
	}
	if b, err = k.RenameBOM(ctx, b.ID, b.Version, wire.BOMName{Name: c.Args().Get(1)}); err != nil {
		return err
	}
	return emit(c, b, func() table { return pairs("Name", b.Name) })
}

func freezeBOM(ctx context.Context, c *ucli.Command, k *client.Client) error {
	b, err := k.BOM(ctx, c.Args().First())
	if err != nil {
		return err
	}
	if b, err = k.FreezeBOM(ctx, b.ID, b.Version, wire.FreezeBOM{Note: c.Args().Get(1), Anyway: c.String("anyway"), Minor: c.Bool("minor")}); err != nil {
		return err
	}
	f, err := k.BOMRevision(ctx, b.ID, b.Revision)
	if err != nil {
		return err
	}
	return emit(c, f.BOMRevision, func() table {
		pins := 0
		for _, l := range f.Lines {
			if l.Part != nil {
				pins++
			}
		}
		t := pairs("Revision", fmt.Sprintf("%s %s", b.Name, f.Label), "State", f.State.Word, "Note", f.Note, "Lines", strconv.Itoa(len(f.Lines)), "Pinned", strconv.Itoa(pins), "Hash", f.Hash)
		if f.Cost != nil {
			t = append(t, []string{"Build", fmt.Sprintf("%d boards, %s", f.Build, orNothing(f.Cost.Sum.String()))})
		}
		return t
	})
}

// orNothing writes a sum, or that there is none.
func orNothing(sum string) string {
	if sum == "" {
		return "no sum"
	}
	return sum
}

func listBOMRevisions(ctx context.Context, c *ucli.Command, k *client.Client) error {
	l, err := k.BOMRevisions(ctx, c.Args().First())
	if err != nil {
		return err
	}
	return emit(c, l, func() table {
		t := table{{"Revision", "State", "Note", "By", "When", "Hash"}}
		for _, v := range l.Items {
			state := v.State.Word
			if v.Why != "" {
				state += ": " + v.Why
			}
			t = append(t, []string{v.Label, state, v.Note, v.By, v.At.Local().Format("2006-01-02 15:04"), v.Hash[:12]})
		}
		return t
	})
}

func showBOMRevision(ctx context.Context, c *ucli.Command, k *client.Client) error {
	which, err := revisionAt(ctx, k, c.Args().First())
	if err != nil {
		return err
	}
	f, err := k.BOMRevision(ctx, which.BOM, which.Revision)
	if err != nil {
		return err
	}
	behind := map[int]string{}
	for _, d := range f.Behind {
		behind[d.Row] = strings.Join(d.Says, "; ")
	}
	market := map[string]string{}
	if f.Now != nil {
		for _, ch := range f.Now.Changes {
			market[ch.Part] = strings.Join(ch.Says, "; ")
		}
	}
	since := func(l *bom.Pinned) string {
		var says []string
		if l.Of == "" && behind[l.Row] != "" {
			says = append(says, behind[l.Row])
		}
		if l.Part != nil && !l.NotFitted && market[l.Part.ID] != "" {
			says = append(says, market[l.Part.ID])
		}
		return strings.Join(says, "; ")
	}
	err = emit(c, f, func() table {
		t := table{{"Designators", "Qty", "Part", "Rev", "MPN", "Description", "Since"}}
		for _, l := range f.Lines {
			says := since(&l)
			if c.Bool("behind") && says == "" {
				continue
			}
			r := []string{strings.Join(l.Designators, " "), quantityOf(&l), "", "", l.MPN, strings.TrimSpace(l.Value + " " + l.Package), says}
			if l.In != nil {
				r[0] += " (" + strings.Join(l.In, ", ") + ")"
			}
			if l.NotFitted {
				r[1] = "not fitted"
			}
			if p := l.Part; p != nil {
				r[2], r[3], r[4], r[5] = p.Number, p.Rev(), p.MPN, p.Description
			}
			t = append(t, r)
		}
		return t
	})
	if err == nil {
		fmt.Fprintf(c.Root().ErrWriter, "%s revision %s (%s): %s; %s behind\n", f.Name, f.Label, f.State.Word, count(len(f.Lines), "line", "lines"), count(len(f.Behind), "line", "lines"))
		if f.Now != nil {
			fmt.Fprintf(c.Root().ErrWriter, "its build of %d would come to %s on %s, and came to %s on %s; %s bought otherwise\n", f.Cost.Boards, orNothing(f.Now.Sum.String()), f.Now.Day, orNothing(f.Cost.Sum.String()), f.Cost.Day, count(len(f.Now.Changes), "part", "parts"))
		}
	}
	return err
}

func quantityOf(l *bom.Pinned) string {
	if l.Amount != "" {
		return l.Amount
	}
	return strconv.Itoa(l.Quantity)
}

func compareBOMs(ctx context.Context, c *ucli.Command, k *client.Client) error {
	from, err := atVariant(ctx, c, k)
	if err != nil {
		return err
	}
	to := wire.BOMAt{BOM: from.BOM, Revision: from.Revision}
	if c.Args().Len() == 2 {
		if to, err = at(ctx, k, c.Args().Get(1)); err != nil {
			return err
		}
	}
	to.Variant = cmp.Or(c.String("with-variant"), from.Variant)
	if c.Args().Len() == 1 && from.Variant == to.Variant {
		if from.Revision == 0 {
			return Usage("compare needs two: a BOM or a revision beside %s, such as %s@1, or two variants", from.BOM, from.BOM)
		}
		to.Revision = 0
	}
	d, err := k.CompareBOMs(ctx, from, to)
	if err != nil {
		return err
	}
	err = emit(c, d, func() table {
		t := table{{"Change", "Designators", "Before", "After"}}
		for _, ch := range d.Changes {
			t = append(t, []string{strings.Join(ch.What, ", "), strings.Join(ch.Designators, " "), lineInWords(ch.Before), lineInWords(ch.After)})
		}
		for _, r := range d.Renumbered {
			t = append(t, []string{"numbered anew?", strings.Join(r.From, " "), strings.Join(r.To, " "), r.Part})
		}
		return t
	})
	if err == nil {
		fmt.Fprintf(c.Root().ErrWriter, "%s beside %s: %s, %s as before\n", d.From, d.To, count(len(d.Changes), "change", "changes"), count(d.Same, "designator", "designators"))
		fmt.Fprintf(c.Root().ErrWriter, "a board of %d: %s, then %s\n", d.Boards, costInWords(d.Before), costInWords(d.After))
	}
	return err
}

// costInWords says what a board comes to, and what is not in it.
func costInWords(c wire.BoardCost) string {
	s := orNothing(c.Board.String())
	if c.Missing > 0 {
		s += fmt.Sprintf(" without %d that have no price", c.Missing)
	}
	return s
}

// lineInWords says what a line is of.
func lineInWords(l *bom.Pinned) string {
	if l == nil {
		return ""
	}
	s := strings.Join(strings.Fields(cmp.Or(strings.TrimSpace(l.Value+" "+l.Package+" "+l.MPN), l.Description)), " ")
	if l.Part != nil {
		s = fmt.Sprintf("%s rev %s %s", l.Part.Number, l.Part.Rev(), l.Part.Description)
	}
	if l.NotFitted {
		s += ", not fitted"
	}
	if l.In != nil {
		s += ", in " + strings.Join(l.In, ", ")
	}
	if l.Amount != "" || l.Quantity != len(l.Designators) {
		s += ", " + quantityOf(l)
	}
	return s
}

func checkBOM(ctx context.Context, c *ucli.Command, k *client.Client) error {
	path, board := boardArgs(c)
	in := wire.CheckBOM{BOM: c.String("bom"), Build: c.Int("build"), Variant: c.String("variant"), Origin: c.String("origin")}
	if p := c.String("severities"); p != "" {
		text, err := readDocument(p)
		if err != nil {
			return err
		}
		in.Severities = text
	}
	name := cmp.Or(in.BOM, board)
	kept, err := k.BOM(ctx, name)
	there := err == nil
	if e := new(client.Error); err != nil && (in.BOM != "" && !c.Bool("keep") || !errors.As(err, &e) || e.Status != http.StatusNotFound) {
		return err
	}
	if there {
		in.BOM = kept.ID
	} else {
		in.BOM = ""
	}
	f, err := bomFileOf(ctx, c, k, path)
	if err != nil {
		return err
	}
	in.FileHash, in.FileName, in.Layout, in.Files = f.FileHash, f.FileName, f.Layout, f.Files
	found, err := k.CheckBOM(ctx, in)
	if err != nil {
		return err
	}
	if c.Bool("keep") {
		if there {
			_, err = k.ReplaceBOMFile(ctx, kept.ID, kept.Version, f)
		} else {
			_, err = k.BringBOM(ctx, wire.NewBOM{Name: name, FileHash: f.FileHash, FileName: f.FileName, Layout: f.Layout, Files: f.Files, Build: in.Build, Origin: in.Origin})
		}
		if err != nil {
			return err
		}
	}
	if found.Name == "" {
		found.Name = name
	}
	if err := emit(c, found, func() table { return causesTable(found.BOM) }); err != nil {
		return err
	}
	sayLines(c, found.BOM)
	if found.Fails {
		return ErrFindings
	}
	return nil
}

// causesTable lists the findings of a BOM by what they have in common.
func causesTable(b wire.BOM) table {
	t := table{{"Severity", "Cause", "Lines", "Rows", "For instance"}}
	for _, x := range b.Causes {
		var rows []string
		for _, r := range x.Rows[:min(5, len(x.Rows))] {
			rows = append(rows, strconv.Itoa(r))
		}
		if len(x.Rows) > 5 {
			rows = append(rows, "…")
		}
		lines := strconv.Itoa(x.Count)
		if x.Waived > 0 {
			lines += fmt.Sprintf(" (%d accepted)", x.Waived)
		}
		t = append(t, []string{string(x.Severity), x.Name, lines, strings.Join(rows, " "), x.What})
	}
	return t
}
