package cli

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/bom"
	"jollydrawer/internal/wire"
)

// reasonFlag() says why a part is meant though the line contradicts it.
func reasonFlag() ucli.Flag {
	return &ucli.StringFlag{Name: "reason", Usage: "why it is meant though something in the line contradicts it"}
}

var verdictOrder = []string{"linked", "proposed", "several", "not in the library", "no library part", "sub-assembly", "another BOM", "not fitted"}

// openVerdicts are those of lines that nothing answers yet.
var openVerdicts = []string{"proposed", "several", "not in the library"}

func bomTable(b wire.BOM) table {
	t := table{{"Row", "Designators", "Value", "Verdict", "Part", "Evidence and findings"}}
	if len(b.Variants) > 0 {
		t[0] = slices.Insert(t[0], 2, "Variants")
	}
	for _, l := range b.Lines {
		number := ""
		if l.Part != nil {
			number = l.Part.Number
		}
		if l.Board != nil {
			number = takenBoard(*l.Board)
		}
		var says []string
		for _, f := range l.Findings {
			if f.Severity != "note" {
				says = append(says, f.What)
			}
		}
		for _, o := range l.Options {
			number = strings.TrimPrefix(number+" / "+o.Number, " / ")
		}
		value := cmp.Or(l.Value, l.MPN, l.Description)
		written := strings.Repeat("  ", max(0, l.Level-1)) + l.Written
		if l.Times > 1 {
			written += fmt.Sprintf(" (%d ×)", l.Times)
		}
		r := []string{strconv.Itoa(l.Row), written, value, l.Verdict, number, strings.Join(append(says, l.Evidence...), "; ")}
		if len(b.Variants) > 0 {
			in := "all"
			if l.In != nil {
				in = strings.Join(l.In, ", ")
			}
			r = slices.Insert(r, 2, in)
		}
		t = append(t, r)
	}
	return t
}

// lineTable lays a line beside its record: each piece, and what the record says of it.
func lineTable(l wire.BOMLine) table {
	t := table{{"Column", "Written", "Says", "Parameter", "Record", "Why"}}
	for _, b := range l.Tally {
		t = append(t, []string{b.Column, b.Text, string(b.Says), b.Param, b.Record, b.Why})
	}
	if l.Board != nil {
		t = append(t, []string{"", "", "is", "", takenBoard(*l.Board), "another BOM: " + count(l.Board.Lines, "line", "lines")})
	}
	for _, o := range l.Options {
		t = append(t, []string{"", "", "may be", "", o.Number, o.Description})
	}
	if e := l.Ending; e != nil {
		t = append(t, []string{"", "…" + e.Letters, "open", "mpn", "", fmt.Sprintf("where it only names a packing: jolly bom ending '%s' %s", e.Maker, e.Letters)})
	}
	return t
}

// takenBoard names another BOM that a line is, with the revision that is taken.
func takenBoard(b wire.BoardTaken) string {
	out := b.Name
	if b.Label != "" {
		out += "@" + b.Label
	}
	if b.Variant != "" {
		out += " (" + b.Variant + ")"
	}
	return out
}

func summary(b wire.BOM) string {
	var s []string
	all := 0
	for _, v := range verdictOrder {
		if n := b.Counts[v]; n > 0 {
			all += n
			s = append(s, fmt.Sprintf("%d %s", n, v))
		}
	}
	build := ""
	if b.Build > 0 {
		build = fmt.Sprintf("; %d boards in a build", b.Build)
	}
	switch {
	case b.Shown != "":
		build = "; variant " + b.Shown + build
	case len(b.Variants) > 0:
		build = "; variants " + strings.Join(b.Variants, ", ") + build
	}
	if b.Build > 0 && b.Variant != "" {
		build += " of " + b.Variant
	}
	lines := count(all, "line", "lines")
	if len(b.Lines) < all {
		lines = fmt.Sprintf("%d of %s", len(b.Lines), lines)
	}
	return fmt.Sprintf("%s: %s: %s; %s%s", b.Name, lines, strings.Join(s, ", "), count(b.Findings, "finding", "findings"), build)
}

func showBOM(c *ucli.Command, b wire.BOM) error {
	if b.Problem != "" {
		return errors.New(b.Problem)
	}
	if err := emit(c, b, func() table { return bomTable(b) }); err != nil {
		return err
	}
	sayLines(c, b)
	return nil
}

// sayLines says how the lines of a BOM stand, and which rows of its file are none.
func sayLines(c *ucli.Command, b wire.BOM) {
	w := c.Root().ErrWriter
	fmt.Fprintln(w, summary(b))
	for i, s := range b.Skipped {
		if i == 10 {
			fmt.Fprintf(w, "and %d more rows are no lines\n", len(b.Skipped)-i)
			break
		}
		fmt.Fprintf(w, "row %d is no line, %q: %s\n", s.Row, s.Text, s.Why)
	}
}

func bomCommand() *ucli.Command {
	own := []*ucli.Command{
		command("open", "bring in a BOM and reconcile it", "FILE [NAME]", "jolly bom open demo/boms/tide-logger.csv", 1, 2, append(layoutFlags(), originFlag(), variantFilesFlag()), bringBOM),
		command("list", "list the BOMs", "", "jolly bom list", 0, 0, nil, listBOMs),
		command("show", "show every line with its verdict", "BOM", "jolly bom show tide-logger --open", 1, 1, []ucli.Flag{variantFlag(), &ucli.BoolFlag{Name: "open", Usage: "only lines that nothing answers yet"}, &ucli.StringFlag{Name: "verdict", Usage: strings.Join(verdictOrder, ", ")}}, showVerdicts),
		command("line", "show one line beside its record, piece by piece", "BOM LINE", "jolly bom line tide-logger R36", 2, 2, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			_, l, err := namedLine(ctx, c, k)
			if err != nil {
				return err
			}
			return emit(c, l, func() table { return lineTable(l) })
		}),
		command("columns", "show what the columns were taken for, change it (also what an empty cell means: fit:fitted, \"fit:not fitted\"), and confirm it for all files with these headings", "BOM [HEADING=ROLE...]", "jolly bom columns tide-logger 'House number=number'", 1, -1,
			[]ucli.Flag{&ucli.BoolFlag{Name: "confirm", Usage: "they are right as they are"}}, nameColumns),
		command("accept", "accept the proposals of lines, or all that nothing contradicts", "BOM [LINE...]", "jolly bom accept tide-logger --all", 1, -1, append(learnFlags(), &ucli.BoolFlag{Name: "all", Usage: "every line with one proposal that nothing contradicts"}), acceptLines),
		command("choose", "choose a part for a line", "BOM LINE NUMBER", "jolly bom choose tide-logger R34 EW-R-00048", 3, 3, learnFlags(), chooseForLine),
		command("withdraw", "take choices back", "BOM LINE...", "jolly bom withdraw tide-logger R34", 2, -1, nil, withdrawChoices),
		command("ending", "say that an ending of a maker's MPNs names a packing only, for all BOMs; list them", "[MAKER ENDING]", "jolly bom ending Tidewright TR", 0, 2, []ucli.Flag{&ucli.BoolFlag{Name: "withdraw", Usage: "it is none after all"}}, confirmEnding),
		command("build", "say how many boards are built at once, to be told where suppliers have less, and in which variant", "BOM BOARDS", "jolly bom build tide-logger 40 --yearly 500", 2, 2, []ucli.Flag{variantFlag(), &ucli.IntFlag{Name: "yearly", Usage: "boards that are built in a year"}, &ucli.StringFlag{Name: "due", Usage: "the `DAY` of the build, such as 2027-01-15: lines say what comes after it"}}, sayBuild),
		command("export", "write a BOM as a sheet: completed, as it was written, for purchasing, for assembly, or the numbers for the drawing", "BOM[@REVISION] FILE", "jolly bom export tide-logger tide-logger-order.xlsx --form purchase --boards 40", 2, 2,
			[]ucli.Flag{&ucli.StringFlag{Name: "form", Value: "lines", Usage: strings.Join(bom.Forms, ", ")}, variantFlag(), &ucli.Int64Flag{Name: "boards", Usage: "boards that are bought for; usually those of its build"}}, exportBOM),
		command("causes", "list the findings of a BOM by what they have in common", "BOM", "jolly bom causes tide-logger", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			b, err := k.BOM(ctx, c.Args().First())
			if err != nil {
				return err
			}
			return emit(c, b.Causes, func() table { return causesTable(b) })
		}),
	}
	return group("bom", "lay a BOM beside the library", "work", slices.Concat(own, readingCommands(), boardCommands(), costOfBOMs(), revisionsOfBOMs(), builtCommands(), findingsOfBOMs(), livesOfBOMs())...)
}

func sayBuild(ctx context.Context, c *ucli.Command, k *client.Client) error {
	boards, err := strconv.Atoi(c.Args().Get(1))
	if err != nil || boards < 0 || boards > 1_000_000 {
		return Usage("%q is no number of boards.", c.Args().Get(1))
	}
	b, err := k.BOM(ctx, c.Args().First())
	if err != nil {
		return err
	}
	in := wire.BOMBuild{Boards: boards}
	if c.IsSet("variant") {
		in.Variant = new(c.String("variant"))
	}
	if c.IsSet("due") {
		in.Due = new(c.String("due"))
	}
	if c.IsSet("yearly") {
		in.Yearly = new(c.Int("yearly"))
	}
	if b, err = k.BuildBOM(ctx, b.ID, b.Version, in); err != nil {
		return err
	}
	return showBOM(c, b)
}

// namedLine loads the BOM and the line that the first two arguments name.
func namedLine(ctx context.Context, c *ucli.Command, k *client.Client) (b wire.BOM, l wire.BOMLine, err error) {
	if b, err = k.BOM(ctx, c.Args().First()); err == nil {
		l, err = lineOf(b, c.Args().Get(1))
	}
	return b, l, err
}

// lineOf finds a line by its row number, or by one of its designators; a designator that is in two lines is none.
func lineOf(b wire.BOM, arg string) (wire.BOMLine, error) {
	n, err := strconv.Atoi(arg)
	var found []wire.BOMLine
	for _, l := range b.Lines {
		if err == nil && l.Row == n || err != nil && slices.ContainsFunc(l.Designators, func(d string) bool { return strings.EqualFold(d, arg) }) {
			found = append(found, l)
		}
	}
	switch {
	case len(found) == 1:
		return found[0], nil
	case len(found) > 1:
		return wire.BOMLine{}, fmt.Errorf("%s is in rows %d and %d of %s: give the row", arg, found[0].Row, found[1].Row, b.Name)
	case err == nil:
		return wire.BOMLine{}, fmt.Errorf("%s has no line in row %d", b.Name, n)
	}
	return wire.BOMLine{}, fmt.Errorf("%s has no line with the designator %s", b.Name, arg)
}

// boardOf is what a BOM is called that nobody names: as its file.
func boardOf(path string) string { return strings.TrimSuffix(filepath.Base(path), filepath.Ext(path)) }

func bringBOM(ctx context.Context, c *ucli.Command, k *client.Client) error {
	path, name := boardArgs(c)
	f, err := bomFileOf(ctx, c, k, path)
	if err != nil {
		return err
	}
	b, err := k.BringBOM(ctx, wire.NewBOM{Name: name, FileHash: f.FileHash, FileName: f.FileName, Layout: f.Layout, Files: f.Files, Origin: c.String("origin")})
	if err != nil {
		return err
	}
	return showBOM(c, b)
}

// boardArgs are the file and the name of a board, of FILE [NAME], or of NAME where each variant has a file.
func boardArgs(c *ucli.Command) (path, name string) {
	if len(c.StringSlice(variantFiles)) > 0 {
		return "", c.Args().First()
	}
	path = c.Args().First()
	return path, cmp.Or(c.Args().Get(1), boardOf(path))
}

// variantFiles is the option that names the files of variants.
const variantFiles = "variant-file"

func variantFilesFlag() ucli.Flag {
	return &ucli.StringSliceFlag{Name: variantFiles, Usage: "instead of FILE, for each variant of the board: `NAME=FILE`, such as 'East=mast-east.csv'; several"}
}

// bomFileOf uploads what a BOM is read of: a file, or one of each variant of its board.
func bomFileOf(ctx context.Context, c *ucli.Command, k *client.Client, path string) (wire.BOMFile, error) {
	out := wire.BOMFile{Layout: layoutOf(c)}
	list := c.StringSlice(variantFiles)
	if len(list) == 0 {
		if path == "" {
			return out, Usage("name the file, or one of each variant by --%s", variantFiles)
		}
		f, err := uploadFile(ctx, k, path)
		out.FileHash, out.FileName = f.Hash, f.Name
		return out, err
	}
	if path != "" {
		return out, Usage("name a file, or one of each variant by --%s, not both", variantFiles)
	}
	for _, one := range list {
		name, path, ok := strings.Cut(one, "=")
		if !ok || name == "" || path == "" {
			return out, Usage("--%s is the name of a variant and its file, as East=mast-east.csv, and not %q", variantFiles, one)
		}
		f, err := uploadFile(ctx, k, path)
		if err != nil {
			return out, err
		}
		out.Files = append(out.Files, wire.VariantFile{Variant: name, FileHash: f.Hash, FileName: f.Name, Layout: out.Layout})
	}
	return out, nil
}

func listBOMs(ctx context.Context, c *ucli.Command, k *client.Client) error {
	l, err := k.BOMs(ctx, 0, 200)
	if err != nil {
		return err
	}
	return emit(c, l, func() table {
		t := table{{"Name", "File", "Changed"}}
		for _, b := range l.Items {
			t = append(t, []string{b.Name, b.FileName, b.Updated.Local().Format("2006-01-02 15:04")})
		}
		return t
	})
}

func showVerdicts(ctx context.Context, c *ucli.Command, k *client.Client) error {
	b, err := k.BOMOf(ctx, c.Args().First(), c.String("variant"))
	if err != nil {
		return err
	}
	if c.Bool("open") {
		b.Lines = slices.DeleteFunc(b.Lines, func(l wire.BOMLine) bool { return !slices.Contains(openVerdicts, l.Verdict) })
	}
	if v := c.String("verdict"); v != "" {
		if !slices.Contains(verdictOrder, v) {
			return Usage("--verdict is one of %s", strings.Join(verdictOrder, ", "))
		}
		b.Lines = slices.DeleteFunc(b.Lines, func(l wire.BOMLine) bool { return l.Verdict != v })
	}
	return showBOM(c, b)
}

func nameColumns(ctx context.Context, c *ucli.Command, k *client.Client) error {
	b, err := k.BOM(ctx, c.Args().First())
	if err != nil {
		return err
	}
	in := wire.BOMColumns{Columns: []wire.BOMColumn{}}
	for _, arg := range c.Args().Tail() {
		heading, role, ok := strings.Cut(arg, "=")
		at := slices.IndexFunc(b.Columns, func(col bom.Column) bool { return col.Heading == heading })
		if !ok || at < 0 {
			return Usage("%q is no HEADING=ROLE of this file", arg)
		}
		one := wire.BOMColumn{At: b.Columns[at].At, Role: bom.Role(role)}
		if param, is := strings.CutPrefix(role, "fact:"); is {
			one.Role, one.Param = bom.Fact, param
		}
		for _, r := range []bom.Role{bom.Fit, bom.Unfit, bom.Quantity} {
			if of, is := strings.CutPrefix(role, string(r)+" in "); is {
				one.Role, one.Variant = r, of
			}
		}
		if mark, blank, is := strings.Cut(role, ":"); is && (mark == string(bom.Fit) || mark == string(bom.Unfit)) {
			one.Role, one.Blank = bom.Role(mark), blank
		}
		in.Columns = append(in.Columns, one)
	}
	if len(in.Columns) > 0 || c.Bool("confirm") {
		if b, err = k.BOMColumns(ctx, b.ID, in); err != nil {
			return err
		}
	}
	if b.Confirmed != "" {
		fmt.Fprintf(c.Root().ErrWriter, "confirmed by %s for all files with these headings\n", b.Confirmed)
	}
	return emit(c, b.Columns, func() table {
		t := table{{"Column", "Role", "Means", "Because"}}
		for _, col := range b.Columns {
			role := string(col.Role)
			if col.Param != "" {
				role += ":" + col.Param
			}
			if col.Variant != "" {
				role += " in " + col.Variant
			}
			if col.Blank != "" {
				role += ":" + col.Blank
			}
			means := string(col.Meaning)
			if means == "" {
				means = "not used"
			}
			t = append(t, []string{col.Heading, role, means, col.Because})
		}
		return t
	})
}

func acceptLines(ctx context.Context, c *ucli.Command, k *client.Client) error {
	if c.Args().Len() == 1 && !c.Bool("all") {
		return Usage("accept needs lines, by row number or designator, or --all")
	}
	b, list, err := namedLines(ctx, c, k)
	if err != nil {
		return err
	}
	var in wire.BOMChoices
	for _, l := range b.Lines {
		named := slices.Contains(list, l.Row)
		if l.Verdict == "proposed" && l.Part != nil && (named || c.Bool("all") && !l.Contradicted) {
			one, err := choiceOf(c, l.Row, l.Part.ID)
			if err != nil {
				return err
			}
			if !l.Contradicted {
				one.Reason = ""
			}
			in.Choose = append(in.Choose, one)
			list = slices.DeleteFunc(list, func(n int) bool { return n == l.Row })
		}
	}
	if len(list) > 0 {
		return fmt.Errorf("rows %v have no proposal to accept; nothing was saved", list)
	}
	if b, err = k.ChooseBOM(ctx, b.ID, b.Version, in); err != nil {
		return err
	}
	return showBOM(c, b)
}

func chooseForLine(ctx context.Context, c *ucli.Command, k *client.Client) error {
	b, l, err := namedLine(ctx, c, k)
	if err != nil {
		return err
	}
	p, err := k.Part(ctx, c.Args().Get(2))
	if err != nil {
		return err
	}
	one, err := choiceOf(c, l.Row, p.ID)
	if err != nil {
		return err
	}
	if b, err = k.ChooseBOM(ctx, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{one}}); err != nil {
		return err
	}
	return showBOM(c, b)
}

// namedLines are the lines of a BOM that the arguments behind it name.
func namedLines(ctx context.Context, c *ucli.Command, k *client.Client) (b wire.BOM, rows []int, err error) {
	if b, err = k.BOM(ctx, c.Args().First()); err != nil {
		return b, nil, err
	}
	for _, arg := range c.Args().Tail() {
		l, err := lineOf(b, arg)
		if err != nil {
			return b, nil, err
		}
		rows = append(rows, l.Row)
	}
	return b, rows, nil
}

func withdrawChoices(ctx context.Context, c *ucli.Command, k *client.Client) error {
	b, rows, err := namedLines(ctx, c, k)
	if err != nil {
		return err
	}
	in := wire.BOMChoices{Withdraw: rows}
	if b, err = k.ChooseBOM(ctx, b.ID, b.Version, in); err != nil {
		return err
	}
	return showBOM(c, b)
}

func confirmEnding(ctx context.Context, c *ucli.Command, k *client.Client) error {
	var all wire.MPNEndings
	var err error
	switch c.Args().Len() {
	case 0:
		all, err = k.MPNEndings(ctx)
	case 2:
		all, err = k.SayMPNEnding(ctx, wire.MPNEnding{Maker: c.Args().First(), Ending: c.Args().Get(1), Withdraw: c.Bool("withdraw")})
	default:
		return Usage("an ending needs its maker: jolly bom ending Tidewright TR")
	}
	if err != nil {
		return err
	}
	return emit(c, all, func() table {
		t := table{{"Maker", "Ending", "Confirmed by"}}
		for _, e := range all.Items {
			t = append(t, []string{e.Maker, e.Ending, e.By})
		}
		return t
	})
}

func exportBOM(ctx context.Context, c *ucli.Command, k *client.Client) error {
	path := c.Args().Get(1)
	format := strings.TrimPrefix(filepath.Ext(path), ".")
	if path == "-" {
		format = "csv"
	}
	which, err := atVariant(ctx, c, k)
	if err != nil {
		return err
	}
	r, err := k.ExportBOM(ctx, wire.BOMSheet{BOM: which.BOM, Revision: which.Revision, Variant: which.Variant, Form: c.String("form"), Boards: c.Int64("boards"), Format: format})
	if err != nil {
		return err
	}
	defer r.Close()
	if path == "-" {
		_, err = io.Copy(c.Root().Writer, r)
		return err
	}
	return written(c, path, r)
}
