package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/model"
	"jollydrawer/internal/wire"
)

func releaseFlag() ucli.Flag {
	return &ucli.StringFlag{Name: "release", Usage: "release it at once, with this `NOTE`"}
}

func modelCommand() *ucli.Command {
	kind := &ucli.StringFlag{Name: "kind", Usage: "symbol, land pattern, body or pin map"}
	own := []*ucli.Command{
		command("list", "list models", "[WORDS]", "jolly model list 0805 --only findings", 0, 1, []ucli.Flag{kind,
			&ucli.StringFlag{Name: "only", Usage: "unused, draft, stand-in or findings"}, &ucli.IntFlag{Name: "limit", Value: 100}},
			func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				l, err := k.Models(ctx, c.Args().First(), c.String("kind"), c.String("only"), 0, c.Int("limit"))
				if err != nil {
					return err
				}
				return emit(c, l, func() table { return modelTable(l.Items) })
			}),
		command("show", "show a model, what the checks say of it, its twins and what uses it", "NAME or ID", "jolly model show 'Chip 0805 nominal'", 1, 1, []ucli.Flag{kind}, showModel),
		command("add", "add a model from its file, or a new draft of one that is there", "KIND NAME FILE", "jolly model add symbol Resistor demo/models/resistor.symbol.json", 3, 3,
			[]ucli.Flag{&ucli.StringFlag{Name: "note", Usage: "what it is"}, releaseFlag()}, addModel),
		command("stand-in", "make a plain block that stands in for a body", "NAME LENGTH WIDTH HEIGHT", "jolly model stand-in 'Chip 1210' 3.2 2.5 1.1", 4, 4, []ucli.Flag{releaseFlag()}, standIn),
		command("release", "release a model's draft", "NAME NOTE", "jolly model release Resistor 'drawn to house rules'", 2, 2, []ucli.Flag{kind}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			m, err := findModel(ctx, k, c, c.Args().First())
			if err == nil {
				m, err = k.ReleaseModel(ctx, m.ID, m.Version, c.Args().Get(1))
			}
			return modelDone(c, m, err)
		}),
		command("export", "write a model in a form: own, edif, ipc2581, pad-table, step, original or svg", "NAME FORM", "jolly model export 'Chip 0805 nominal' ipc2581 > chip.xml", 2, 2,
			[]ucli.Flag{kind, &ucli.StringFlag{Name: "to", Usage: "`FILE` to write; standard output where it is blank"}}, exportModel),
		command("pins", "lay a symbol's pins beside an independent list: a pin table or an IBIS file", "NAME FILE", "jolly model pins 'Tide logger' datasheet-pins.csv", 2, 2, []ucli.Flag{listFlag()}, comparePins),
		command("make-symbol", "make a symbol from a pin table", "NAME FILE", "jolly model make-symbol 'Tide logger' pins.csv --release 'from the datasheet'", 2, 2, []ucli.Flag{releaseFlag(),
			&ucli.StringFlag{Name: "order", Value: "function", Usage: "function or number"}, &ucli.BoolFlag{Name: "one-side", Usage: "all pins on the left"},
			&ucli.BoolFlag{Name: "by-unit", Usage: "a unit for each group of the table"}, listFlag()}, makeSymbol),
		command("make-land-pattern", "make land patterns from the figures of a package, by IPC-7351B, or from a table of pads", "[NAME FILE]", "jolly model make-land-pattern --family 'gull wing dual' --pins 8 --pitch 1.27 --span 5.8..6.2 --lead-length 0.4..1.27 --lead-width 0.31..0.51 --body 3.8..4x4.8..5", 0, 2, landFlags(), makeLand),
		command("table", "a drawing's pins, pads or graphics as a table", "NAME", "jolly model table 'Chip 0805 nominal' --of graphics", 1, 1, []ucli.Flag{kind, ofFlag()}, showTable),
		command("change", "change a drawing in its table; what is kept is a draft", "NAME", "jolly model change 'Chip 0805 nominal' --rows 1-2 --set width=1.1", 1, 1, append(changeFlags(), kind), changeDrawing),
		command("copy", "make a draft of another name with the same drawing", "NAME NEW", "jolly model copy 'Chip 0805 nominal' 'Chip 0805 wide'", 2, 2, []ucli.Flag{kind}, copyModel),
		command("diff", "compare two revisions of a model, each by what it is called; draft is what is not released", "NAME FROM TO", "jolly model diff 'Chip 0805 nominal' 1 2", 3, 3, []ucli.Flag{kind}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			m, err := findModel(ctx, k, c, c.Args().First())
			if err != nil {
				return err
			}
			n, titles, err := revisions(c, m.Revs)
			if err != nil {
				return err
			}
			d, err := k.ModelDiff(ctx, m.ID, n[0], n[1])
			if err != nil {
				return err
			}
			return emit(c, d, func() table {
				t := table{{"What", titles[0], titles[1]}}
				for _, x := range d.Differences {
					t = append(t, []string{x.Label, x.From, x.To})
				}
				return t
			})
		}),
		command("trail", "who did what to a model", "NAME", "jolly model trail 'Chip 0805 nominal'", 1, 1, []ucli.Flag{kind}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			m, err := findModel(ctx, k, c, c.Args().First())
			if err != nil {
				return err
			}
			l, err := k.ModelTrail(ctx, m.ID, 0, 1000)
			if err != nil {
				return err
			}
			return emit(c, l, func() table { return trailTable(l) })
		}),
		command("check", "what the checks say of all models, by cause", "", "jolly model check --kind symbol", 0, 0, []ucli.Flag{kind}, checkModels),
		command("mend", "settle one cause on all models that have it, or on some", "CAUSE [NAME...]", "jolly model mend off-grid --release 'onto the house grid'", 1, -1, []ucli.Flag{kind, releaseFlag()}, mendModels),
		command("accept", "accept a finding with a reason", "NAME CAUSE WHY", "jolly model accept 'Tide logger' pin-length 'agreed with the drawing office'", 3, 3, []ucli.Flag{kind}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			m, err := findModel(ctx, k, c, c.Args().First())
			if err == nil {
				m, err = k.WaiveModel(ctx, m.ID, m.Version, wire.ModelWaive{Cause: c.Args().Get(1), Why: c.Args().Get(2)})
			}
			return modelDone(c, m, err)
		}),
		command("sign", "sign that the newest revision was checked against a datasheet", "NAME AGAINST", "jolly model sign 'Tide logger' 'datasheet rev C, page 4'", 2, 2, []ucli.Flag{kind}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			m, err := findModel(ctx, k, c, c.Args().First())
			if err == nil {
				m, err = k.SignModel(ctx, m.ID, m.Version, c.Args().Get(1))
			}
			return modelDone(c, m, err)
		}),
		&ucli.Command{Name: "schema", Usage: "print the JSON Schema of the documents of models; needs no service", Action: func(_ context.Context, c *ucli.Command) error {
			raw, err := model.Schema()
			if err == nil {
				_, err = fmt.Fprintln(c.Root().Writer, string(raw))
			}
			return err
		}},
		command("twins", "models that are the same, or nearly the same", "", "jolly model twins --kind 'land pattern'", 0, 0, []ucli.Flag{kind}, listTwins),
		command("merge", "make models lead to one that is the same", "KEEP GONE...", "jolly model merge 'Chip 0805 nominal' 'R 0805' --why 'one drawing' --move-all", 2, -1, []ucli.Flag{kind,
			&ucli.StringFlag{Name: "why", Required: true}, &ucli.BoolFlag{Name: "move-all", Usage: "all parts that use them take the survivor"},
			&ucli.StringSliceFlag{Name: "move", Usage: "`NUMBER` of a part that takes the survivor"},
			&ucli.StringSliceFlag{Name: "different", Usage: "`NAME` of one that is merged although it is not the same"}}, mergeModels),
		command("unmerge", "take the merging of a model back, with the parts that took the survivor", "NAME", "jolly model unmerge 'R 0805' --why 'another density'", 1, 1, []ucli.Flag{kind, &ucli.StringFlag{Name: "why", Required: true}}, unmergeModel),
		command("like", "land patterns like one, or by what is measured", "[NAME]", "jolly model like --pads 8 --pitch 1.27 --row 5.4 --within 0.2", 0, 1, []ucli.Flag{&ucli.IntFlag{Name: "pads"},
			&ucli.StringFlag{Name: "pitch"}, &ucli.StringFlag{Name: "row"}, &ucli.StringFlag{Name: "within", Usage: "how far they may differ; 0.05 mm where blank"}}, likeModels),
		command("rename", "replace words in the names of models", "FIND REPLACE NAME...", "jolly model rename 'Brackwater ' '' 'Brackwater Chip 0402'", 3, -1, []ucli.Flag{kind}, renameModels),
		command("take-newer", "move parts to the newest revision of a model", "NAME [NUMBER...]", "jolly model take-newer 'Chip 0805 nominal'", 1, -1, []ucli.Flag{kind}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			m, err := findModel(ctx, k, c, c.Args().First())
			if err != nil {
				return err
			}
			out, err := k.TakeNewer(ctx, m.ID, c.Args().Tail())
			return mended(c, out, err)
		}),
	}
	return group("model", "symbols, land patterns and bodies", "library", append(own, lives("model", "'Chip 0805 nominal'", []ucli.Flag{kind}, findModelVersion)...)...)
}

func modelTable(all []wire.ModelRow) table {
	t := table{{"Name", "Kind", "What", "Status", "Rev", "Uses", "Findings"}}
	for _, m := range all {
		t = append(t, []string{m.Name, m.Kind, m.What, m.Status, strconv.Itoa(m.Revision), strconv.Itoa(m.Uses), strconv.Itoa(m.Findings)})
	}
	return t
}

func modelDone(c *ucli.Command, m wire.Model, err error) error {
	if err != nil {
		return err
	}
	return emit(c, m, func() table { return modelTable([]wire.ModelRow{m.ModelRow}) })
}

func mended(c *ucli.Command, out wire.Mended, err error) error {
	if err != nil {
		return err
	}
	return emit(c, out, func() table {
		t := table{{"What", "Name"}}
		for _, m := range out.Models {
			t = append(t, []string{"model", m})
		}
		for _, p := range out.Parts {
			t = append(t, []string{"part", p})
		}
		for _, l := range out.Left {
			t = append(t, []string{"left as it was", l})
		}
		return t
	})
}

// findModel finds a model by ID or by its exact name; two kinds with one name are told apart by --kind.
func findModel(ctx context.Context, k *client.Client, c *ucli.Command, key string) (wire.Model, error) {
	if len(key) == 36 && strings.Count(key, "-") == 4 {
		return k.Model(ctx, key)
	}
	if kind := c.String("kind"); kind != "" {
		return k.Model(ctx, kind+": "+key)
	}
	l, err := k.Models(ctx, key, "", "", 0, 1000)
	if err != nil {
		return wire.Model{}, err
	}
	var found []wire.ModelRow
	for _, m := range l.Items {
		if strings.EqualFold(m.Name, key) {
			found = append(found, m)
		}
	}
	switch len(found) {
	case 0:
		return wire.Model{}, fmt.Errorf("there is no model named %q", key)
	case 1:
		return k.Model(ctx, found[0].ID)
	}
	return wire.Model{}, fmt.Errorf("%d models are named %q: say which with --kind", len(found), key)
}

func showModel(ctx context.Context, c *ucli.Command, k *client.Client) error {
	m, err := findModel(ctx, k, c, c.Args().First())
	for _, of := range model.Kinds { // a name that was merged away leads on, for looking
		if err == nil {
			break
		}
		if led, e := k.Model(ctx, string(of)+": "+c.Args().First()); e == nil {
			m, err = led, nil
		}
	}
	if err != nil {
		return err
	}
	return emit(c, m, func() table {
		t := pairs("Name", m.Name, "Kind", m.Kind, "What", m.What, "Status", m.Status, "Revision", strconv.Itoa(m.Revision), "File", m.FileName, "Merged into", m.Merged, "Asked as", m.AskedAs, "ID", m.ID)
		for _, f := range m.Checks {
			t = append(t, []string{string(f.Severity), f.Cause + ": " + f.What + accepted(f.Waived)})
		}
		for _, w := range m.Twins {
			t = append(t, []string{"Twin", fmt.Sprintf("%s (%s, used by %d parts)", w.Name, w.How, w.Uses)})
		}
		for _, s := range m.Signed {
			t = append(t, []string{"Checked", fmt.Sprintf("revision %d by %s on %s against %s", s.Revision, s.By, s.At.Format("2006-01-02"), s.Against)})
		}
		for _, u := range m.UsedBy {
			newer := ""
			if u.Newer {
				newer = ", a newer one is there"
			}
			t = append(t, []string{"Used by", fmt.Sprintf("%s (%s, revision %d%s)", u.Part, u.Place, u.Revision, newer)})
		}
		return t
	})
}

func accepted(why string) string {
	if why == "" {
		return ""
	}
	return " (accepted: " + why + ")"
}

func addModel(ctx context.Context, c *ucli.Command, k *client.Client) error {
	f, err := uploadFile(ctx, k, c.Args().Get(2))
	if err != nil {
		return err
	}
	in := wire.ModelEdit{Kind: c.Args().Get(0), Name: c.Args().Get(1), FileHash: f.Hash, FileName: f.Name, Note: c.String("note")}
	return keepModel(ctx, c, k, in)
}

// keepModel makes a model, or a new draft of the one that has its name, and releases it where a note is given.
func keepModel(ctx context.Context, c *ucli.Command, k *client.Client, in wire.ModelEdit) error {
	m, err := k.Model(ctx, in.Kind+": "+in.Name)
	if err == nil {
		m, err = k.SaveModel(ctx, m.ID, m.Version, in)
	} else {
		m, err = k.MakeModel(ctx, in)
	}
	if err == nil && c.String("release") != "" {
		m, err = k.ReleaseModel(ctx, m.ID, m.Version, c.String("release"))
	}
	return modelDone(c, m, err)
}

func exportModel(ctx context.Context, c *ucli.Command, k *client.Client) error {
	m, err := findModel(ctx, k, c, c.Args().First())
	if err != nil {
		return err
	}
	var r io.ReadCloser
	if form := c.Args().Get(1); form == "svg" {
		r, err = k.ModelPreview(ctx, m.ID, "day")
	} else {
		r, err = k.ModelFile(ctx, m.ID, form)
	}
	if err != nil {
		return err
	}
	return writeOut(c, r)
}

// writeOut writes what was read to the file of --to, or to standard output, and closes it.
func writeOut(c *ucli.Command, r io.ReadCloser) error {
	defer r.Close()
	if to := c.String("to"); to != "" {
		return keepFile(to, r)
	}
	_, err := io.Copy(c.Root().Writer, r)
	return err
}

func exportDrawing(ctx context.Context, c *ucli.Command, k *client.Client) error {
	r, err := k.PartDrawing(ctx, c.Args().First(), c.Args().Get(1))
	if err != nil {
		return err
	}
	return writeOut(c, r)
}

// keepFile writes a file whole or not at all.
func keepFile(to string, r io.Reader) error {
	f, err := os.CreateTemp(filepath.Dir(to), ".jolly-")
	if err != nil {
		return fmt.Errorf("no file can be made there: %w", err)
	}
	defer os.Remove(f.Name())
	if _, err := io.Copy(f, r); err != nil {
		f.Close()
		return fmt.Errorf("the file was cut off: %w", err)
	}
	if err := f.Close(); err != nil {
		return err
	}
	return os.Rename(f.Name(), to)
}

func comparePins(ctx context.Context, c *ucli.Command, k *client.Client) error {
	m, err := k.Model(ctx, "symbol: "+c.Args().First())
	if err != nil {
		return err
	}
	f, err := uploadFile(ctx, k, c.Args().Get(1))
	if err != nil {
		return err
	}
	p, err := k.ComparePins(ctx, m.ID, wire.PinsBeside{File: f.Hash, PinChoice: wire.PinChoice{List: c.String("list")}})
	if err != nil {
		return err
	}
	if err := chosen(p.PinReading, len(p.Lines), p.Wrong); err != nil {
		return err
	}
	err = emit(c, p, func() table {
		t := table{{"Pin", "Symbol", "List", "Type", "List says", "What"}}
		for _, l := range p.Lines {
			t = append(t, []string{l.Number, l.Symbol, l.Listed, l.Type, l.Says, l.What})
		}
		return t
	})
	if err == nil && p.Differ > 0 {
		return ErrFindings
	}
	return err
}

// listFlag chooses one of several pin lists of a file.
func listFlag() ucli.Flag {
	return &ucli.StringFlag{Name: "list", Usage: "`NAME` of the component or package, where the file has pin lists of several"}
}

// chosen refuses where no pins were taken: a file holds several pin lists and none was chosen, or no column holds the numbers.
func chosen(r wire.PinReading, pins int, wrong []string) error {
	switch {
	case len(r.Lists) > 1 && r.List == "":
		return fmt.Errorf("the file holds several pin lists; choose one with --list: %s", strings.Join(r.Lists, ", "))
	case pins == 0 && len(wrong) > 0:
		return errors.New(wrong[0])
	}
	return nil
}

func makeSymbol(ctx context.Context, c *ucli.Command, k *client.Client) error {
	f, err := uploadFile(ctx, k, c.Args().Get(1))
	if err != nil {
		return err
	}
	in := wire.SymbolTry{File: f.Hash, PinChoice: wire.PinChoice{List: c.String("list")}}
	in.Layout.Order, in.Layout.OneSide, in.Layout.ByUnit = c.String("order"), c.Bool("one-side"), c.Bool("by-unit")
	if was, err := k.Model(ctx, "symbol: "+c.Args().First()); err == nil {
		if edit := newestEdit(was); edit != nil {
			in.Earlier = edit.Symbol
		}
	}
	made, err := k.TrySymbol(ctx, in)
	if err != nil {
		return err
	}
	if err := chosen(made.PinReading, len(made.Pins), made.Wrong); err != nil {
		return err
	}
	for _, w := range made.Wrong {
		fmt.Fprintln(c.Root().ErrWriter, w)
	}
	return keepModel(ctx, c, k, wire.ModelEdit{Kind: "symbol", Name: c.Args().First(), Symbol: made.Symbol, FileHash: f.Hash, FileName: f.Name})
}

func newestEdit(m wire.Model) *wire.ModelEdit {
	if m.Draft != nil {
		return m.Draft
	}
	return m.Released
}

func checkModels(ctx context.Context, c *ucli.Command, k *client.Client) error {
	l, err := k.ModelCauses(ctx, c.String("kind"))
	if err != nil {
		return err
	}
	open := 0
	err = emit(c, l, func() table {
		t := table{{"Severity", "Cause", "Models", "Accepted", "For example", "One click"}}
		for _, x := range l.Causes {
			example := x.What
			if len(x.Models) > 0 {
				example = x.Models[0].Name + ": " + example
			}
			t = append(t, []string{string(x.Severity), x.Cause.Cause, strconv.Itoa(x.Count), strconv.Itoa(x.Waived), example, x.Click})
		}
		return t
	})
	for _, x := range l.Causes {
		open += x.Count
	}
	if err == nil && open > 0 {
		return ErrFindings
	}
	return err
}

// modelIDs turns names into IDs.
func modelIDs(ctx context.Context, k *client.Client, c *ucli.Command, names []string) (out []string, err error) {
	for _, n := range names {
		m, err := findModel(ctx, k, c, n)
		if err != nil {
			return nil, err
		}
		out = append(out, m.ID)
	}
	return out, nil
}

func mendModels(ctx context.Context, c *ucli.Command, k *client.Client) error {
	ids, err := modelIDs(ctx, k, c, c.Args().Tail())
	if err != nil {
		return err
	}
	out, err := k.MendModels(ctx, wire.ModelMend{Cause: c.Args().First(), Models: append([]string{}, ids...), Note: c.String("release")})
	return mended(c, out, err)
}

func likeModels(ctx context.Context, c *ucli.Command, k *client.Client) error {
	id := ""
	if name := c.Args().First(); name != "" {
		m, err := k.Model(ctx, "land pattern: "+name)
		if err != nil {
			return err
		}
		id = m.ID
	}
	l, err := k.Like(ctx, id, c.Int("pads"), c.String("pitch"), c.String("row"), c.String("within"))
	if err != nil {
		return err
	}
	return emit(c, l, func() table {
		t := table{{"Name", "Pads", "Pitch", "Row", "How", "Uses"}}
		for _, m := range l.Items {
			t = append(t, []string{m.Name, strconv.Itoa(m.Features.Pads), m.Features.Pitch.String(), m.Features.Row.String(), m.How, strconv.Itoa(m.Uses)})
		}
		return t
	})
}

func renameModels(ctx context.Context, c *ucli.Command, k *client.Client) error {
	ids, err := modelIDs(ctx, k, c, c.Args().Slice()[2:])
	if err != nil {
		return err
	}
	out, err := k.RenameModels(ctx, wire.RenameModels{Models: ids, Find: c.Args().Get(0), Replace: c.Args().Get(1)})
	return mended(c, out, err)
}

func standIn(ctx context.Context, c *ucli.Command, k *client.Client) error {
	var sides [3]model.Length
	for i := range sides {
		l, err := model.ParseLength(c.Args().Get(i + 1))
		if err != nil {
			return Usage("%v", err)
		}
		sides[i] = l
	}
	b := &model.Body{StandIn: true, Box: model.Box3{Min: model.Point3{X: -sides[0] / 2, Y: -sides[1] / 2}, Max: model.Point3{X: sides[0] / 2, Y: sides[1] / 2, Z: sides[2]}}}
	return keepModel(ctx, c, k, wire.ModelEdit{Kind: "body", Name: c.Args().First(), Body: b})
}

// readAll reads an answer that is held in memory, up to the size of the largest archive that is written.
func readAll(r io.Reader) ([]byte, error) {
	const most = 2 << 30
	raw, err := io.ReadAll(io.LimitReader(r, most))
	if err == nil && len(raw) == most {
		err = fmt.Errorf("the folder has more than %d MB", most>>20)
	}
	return raw, err
}
