package cli

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"os"
	"slices"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"
	"golang.org/x/term"

	"jollydrawer/client"
	"jollydrawer/core/finding"
	"jollydrawer/core/intake"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/wire"
)

// findIntake finds an intake by its ID or its number.
func findIntake(ctx context.Context, k *client.Client, key string) (wire.Intake, error) {
	if len(key) == 36 {
		return k.Intake(ctx, key)
	}
	for offset := 0; ; offset += 500 {
		l, err := k.Intakes(ctx, offset, 500)
		if err != nil {
			return wire.Intake{}, err
		}
		for _, i := range l.Items {
			if strings.EqualFold(i.Number, key) {
				return k.Intake(ctx, i.ID)
			}
		}
		if len(l.Items) < 500 {
			return wire.Intake{}, fmt.Errorf("there is no intake %q: see jolly intake list", key)
		}
	}
}

var stateOrder = func() (out []string) {
	for _, s := range intake.States {
		out = append(out, string(s))
	}
	return out
}()

func intakeTable(i wire.Intake) table {
	t := pairs("Intake", i.Number, "Supplier", i.Supplier, "File", i.FileName, "State", i.State)
	if i.Over != "" {
		t = append(t, []string{"Goes over", i.Over})
	}
	if i.Layout != nil {
		t = append(t, []string{"Read as", layoutWords(*i.Layout)})
		for _, n := range i.Layout.Notes {
			t = append(t, []string{"", n})
		}
	}
	t = append(t, mappedRows(i)...)
	t = append(t, []string{"Rows", strconv.Itoa(i.Rows)})
	for _, s := range stateOrder {
		if n := i.Counts[s]; n > 0 {
			t = append(t, []string{"  " + s, strconv.Itoa(n)})
		}
	}
	if len(i.Unmapped) > 0 {
		t = append(t, []string{"Not mapped", strings.Join(i.Unmapped, ", ")})
	}
	for n, g := range i.Suggestions {
		head := ""
		if n == 0 {
			head = "Suggested"
		}
		what := fmt.Sprintf("%s → %s, %s", g.From, g.To, g.Sure)
		if g.Fact {
			what = fmt.Sprintf("%s → %s (the fact in it), %s", g.From, g.To, g.Sure)
		}
		t = append(t, []string{head, what + ": " + g.Reason})
	}
	for n, s := range i.Changes {
		t = append(t, []string{fmt.Sprintf("Change %d", n+1), s})
	}
	if i.Links > 0 {
		t = append(t, []string{"Datasheets", fmt.Sprintf("%d of %d fetched", i.LinksDone, i.Links)})
	}
	for _, s := range []string{i.Notice, i.Problem} {
		if s != "" {
			t = append(t, []string{"Note", s})
		}
	}
	if s := standingWords(i.Decisions); s != "" {
		t = append(t, []string{"Decisions", s})
	}
	for n, c := range i.Causes {
		head := ""
		if n == 0 {
			head = "Causes"
		}
		t = append(t, []string{head, fmt.Sprintf("%s, %d × %s: %s", c.Name, c.Count, c.Severity, c.What)})
	}
	return t
}

// mappedRows say by which crosswalk a file is mapped, which others its supplier has, and which sheets are not in this intake.
func mappedRows(i wire.Intake) (t table) {
	if i.Mapped == "" {
		return nil
	}
	by := i.Mapped
	if i.Revision == 0 {
		by += " (new)"
	}
	if i.Mapped != i.Supplier || len(i.Others) > 0 {
		t = append(t, []string{"Mapped by", by})
	}
	if len(i.Others) > 0 {
		t = append(t, []string{"", "for other layouts: " + strings.Join(i.Others, ", ")})
	}
	if i.Layout != nil && len(i.Layout.Sheets) > 1 {
		others := slices.DeleteFunc(slices.Clone(i.Layout.Sheets), func(s string) bool { return s == i.Layout.Sheet })
		t = append(t, []string{"Not in here", "the sheets " + strings.Join(others, ", ") + ": each is an intake of its own, by --sheet"})
	}
	return t
}

// standingWords says how many decisions stand how in a file.
func standingWords(n map[string]int) string {
	var out []string
	for _, f := range []struct{ fate, form string }{{"holds", "%d hold"}, {"needless", "%d no longer needed: the file says so itself"}, {"otherwise", "%d about cells that say something else now"}, {"absent", "%d about rows that are not in the file"}} {
		if n[f.fate] > 0 {
			out = append(out, fmt.Sprintf(f.form, n[f.fate]))
		}
	}
	return strings.Join(out, ", ")
}

func layoutWords(l rows.Layout) string {
	s := l.Format
	for _, w := range []string{l.Encoding, quoteIf(l.Delimiter)} {
		if w != "" {
			s += " " + w
		}
	}
	if l.Sheet != "" {
		s += fmt.Sprintf(", sheet %q", l.Sheet)
	}
	if l.Inside != "" {
		s += fmt.Sprintf(", %s of %d in the archive", l.Inside, len(l.Files))
	}
	if l.HeaderRow > 0 {
		s += fmt.Sprintf(", header in row %d", l.HeaderRow)
	}
	return s
}

func quoteIf(s string) string {
	if s == "" {
		return ""
	}
	return "delimiter " + strconv.Quote(s)
}

// severityAtLeast says whether an intake has findings of a severity, or a worse one, that nobody waived.
func severityAtLeast(i wire.Intake, least string) bool {
	order := []finding.Severity{finding.Note, finding.Warning, finding.Error}
	for _, c := range i.Causes {
		if c.Count > 0 && slices.Index(order, c.Severity) >= slices.Index(order, finding.Severity(least)) {
			return true
		}
	}
	return i.Problem != ""
}

func unlessFlag() ucli.Flag {
	return &ucli.StringFlag{Name: "unless", Usage: "do not take in, and end with exit code 3, where a finding of this severity or a worse one is left: note, warning or error",
		Validator: func(s string) error {
			if s != "note" && s != "warning" && s != "error" {
				return fmt.Errorf("%q is no severity: use note, warning or error", s)
			}
			return nil
		}}
}

func intakeCommand() *ucli.Command {
	cmd := group("intake", "bring in a file: open, map, check, mend, take in", "work",
		command("open", "open an intake for a file, or for a table of another MariaDB", "SUPPLIER [FILE]", "jolly intake open 'Marsh Lane Components' demo/suppliers/marsh-lane.csv", 1, 2, append(slices.Clone(layoutFlags()), databaseFlags()...), func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			i, err := openIntake(ctx, c, k)
			if err != nil {
				return err
			}
			return emit(c, i, func() table { return intakeTable(i) })
		}),
		command("run", "open, check and take in, for a job that runs by night", "SUPPLIER [FILE]", "jolly intake run 'Marsh Lane Components' demo/suppliers/marsh-lane.csv --unless error --known fill", 1, 2,
			append(append(slices.Clone(layoutFlags()), databaseFlags()...), unlessFlag(), knownFlag(), &ucli.BoolFlag{Name: "datasheets", Usage: "fetch the datasheets that the rows name"}), runIntake),
		command("list", "list the intakes, newest first", "", "jolly intake list", 0, 0, nil, listIntakes),
		command("show", "say what taking in would do, and what stands in its way", "INTAKE", "jolly intake show IN-00001", 1, 1, nil, showIntake),
		command("rows", "list rows and what they would become", "INTAKE", "jolly intake rows IN-00001 --state blocked", 1, 1, []ucli.Flag{&ucli.StringFlag{Name: "state", Usage: strings.Join(stateOrder, ", ")},
			&ucli.StringFlag{Name: "cause"}, &ucli.IntFlag{Name: "limit", Value: 100}, &ucli.IntFlag{Name: "offset"}}, listRows),
		command("row", "show one row: its cells as they came, and where each value comes from", "INTAKE ROW", "jolly intake row IN-00001 17", 2, 2, nil, showRow),
		command("findings", "list every finding", "INTAKE", "jolly intake findings IN-00001", 1, 1, []ucli.Flag{&ucli.IntFlag{Name: "limit", Value: 200}, &ucli.IntFlag{Name: "offset"}}, listFindings),
		command("take-in", "take the intake in: all or nothing", "INTAKE", "jolly intake take-in IN-00001 --unless error", 1, 1, []ucli.Flag{&ucli.BoolFlag{Name: "leave-blocked", Usage: "leave out the rows that cannot be taken in"}, &ucli.BoolFlag{Name: "even-settled", Usage: "also where the changed crosswalk changes rows of other open intakes that somebody settled"}, unlessFlag()}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			i, err := findIntake(ctx, k, c.Args().First())
			if err != nil {
				return err
			}
			return takeIn(ctx, c, k, i, c.Bool("leave-blocked"))
		}),
		command("take-back", "withdraw what an intake made, as long as nobody has built on it", "INTAKE", "jolly intake take-back IN-00001 --why 'wrong file'", 1, 1, []ucli.Flag{&ucli.StringFlag{Name: "why", Required: true}}, takeBack),
		command("again", "go over the file of an intake again, with the crosswalk as it is now", "INTAKE", "jolly intake again IN-00001", 1, 1, nil, goOver),
		command("standings", "move the parts of which the supplier states it to a standing: obsolete, or not for new designs", "INTAKE STANDING", "jolly intake standings IN-00001 obsolete --note 'as the supplier says'", 2, 2,
			[]ucli.Flag{&ucli.StringFlag{Name: "note", Usage: "why"}, &ucli.StringFlag{Name: "to", Usage: "`KEY` of the state, where the house's lifecycle calls it otherwise"}, &ucli.IntSliceFlag{Name: "row", Usage: "only the part of this `ROW`; may be given again"}},
			func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				i, err := findIntake(ctx, k, c.Args().First())
				if err != nil {
					return err
				}
				m, err := k.MoveStated(ctx, i.ID, wire.MoveStated{Stated: c.Args().Get(1), To: c.String("to"), Note: c.String("note"), Rows: c.IntSlice("row")})
				return emitMoved(c, m, err)
			}),
		command("datasheets", "fetch the datasheets that the rows name", "INTAKE", "jolly intake datasheets IN-00001", 1, 1, nil, fetchIntake),
	)
	cmd.Commands = append(append(cmd.Commands, mendCommands()...), decisionCommands()...)
	return cmd
}

func databaseFlags() []ucli.Flag {
	return []ucli.Flag{
		&ucli.StringFlag{Name: "mapped-by", Usage: "`CROSSWALK` of the supplier, where the one whose headings the file has is not meant"},
		&ucli.StringFlag{Name: "database", Usage: "`DSN` of another MariaDB instead of a file: ACCOUNT:PASSWORD@tcp(HOST:PORT)/SCHEMA; JOLLY_FOREIGN_DSN keeps the password off the command line", Sources: ucli.EnvVars("JOLLY_FOREIGN_DSN")},
		&ucli.StringFlag{Name: "table", Usage: "the table to read there"}, &ucli.StringFlag{Name: "query", Usage: "or one SELECT"},
	}
}

func knownFlag() ucli.Flag {
	return &ucli.StringFlag{Name: "known", Usage: "how rows that the library has with other values are settled: ask, replace, fill or keep"}
}

func openIntake(ctx context.Context, c *ucli.Command, k *client.Client) (wire.Intake, error) {
	in := wire.NewIntake{Supplier: c.Args().First(), Layout: layoutOf(c), Mapped: c.String("mapped-by")}
	switch {
	case c.NArg() == 2:
		f, err := uploadFile(ctx, k, c.Args().Get(1))
		if err != nil {
			return wire.Intake{}, err
		}
		in.FileHash, in.FileName = f.Hash, f.Name
	case c.String("database") != "":
		in.Database = &wire.Database{DSN: c.String("database"), Table: c.String("table"), Query: c.String("query")}
	default:
		return wire.Intake{}, Usage("an intake needs a FILE, or --database with --table or --query")
	}
	return k.OpenIntake(ctx, in)
}

// takeIn takes an intake in and waits for it.
func takeIn(ctx context.Context, c *ucli.Command, k *client.Client, i wire.Intake, leaveBlocked bool) error {
	if least := c.String("unless"); least != "" && severityAtLeast(i, least) {
		if err := emit(c, i, func() table { return intakeTable(i) }); err != nil {
			return err
		}
		fmt.Fprintf(os.Stderr, "jolly: %s has findings of the severity %s or worse; nothing was taken in. See jolly intake causes %s\n", i.Number, least, i.Number)
		return ErrFindings
	}
	if i.Problem != "" {
		return errors.New(i.Problem)
	}
	j, err := k.TakeIn(ctx, i.ID, i.Version, "", wire.TakeIn{Digest: i.Digest, LeaveBlocked: leaveBlocked, EvenSettled: c.Bool("even-settled")})
	if err == nil {
		j, err = waitJob(ctx, k, j, "parts")
	}
	if err != nil {
		return err
	}
	if j.TakenIn == nil {
		return errors.New(j.Error)
	}
	return emit(c, j.TakenIn, func() table {
		t := pairs("Intake", j.TakenIn.Intake, "Drafts made", strconv.Itoa(j.TakenIn.Parts), "First", j.TakenIn.First, "Last", j.TakenIn.Last, "Parts changed", strconv.Itoa(j.TakenIn.Updated))
		for _, s := range stateOrder {
			if n := j.TakenIn.Counts[s]; n > 0 && s != "new" && s != "update" {
				t = append(t, []string{"Rows " + s, strconv.Itoa(n)})
			}
		}
		for _, s := range slices.Sorted(maps.Keys(j.TakenIn.Stated)) {
			t = append(t, []string{"Stated " + s, fmt.Sprintf("%d: jolly intake standings %s %s moves them", j.TakenIn.Stated[s], j.TakenIn.Intake, strconv.Quote(s))})
		}
		return t
	})
}

// waitJob shows a job's progress where a person looks on.
func waitJob(ctx context.Context, k *client.Client, j wire.Job, what string) (wire.Job, error) {
	live := term.IsTerminal(int(os.Stderr.Fd()))
	j, err := k.WaitJob(ctx, j.ID, func(j wire.Job) {
		if live {
			fmt.Fprintf(os.Stderr, "\r%d of %d %s", j.Done, j.Total, what)
		}
	})
	if live {
		fmt.Fprintln(os.Stderr)
	}
	return j, err
}

// fetched waits for a job that fetches datasheets.
func fetched(ctx context.Context, k *client.Client, j wire.Job, err error) (*wire.Fetched, error) {
	if err == nil {
		j, err = waitJob(ctx, k, j, "links")
	}
	if err == nil && j.Fetched == nil {
		err = errors.New(j.Error)
	}
	return j.Fetched, err
}

func rowTable(r wire.IntakeRowDetail) table {
	t := table{{"", "As it came", "What it became"}, {"State", r.State, r.Why}, {"Drawer", r.Kind, strings.TrimSpace(r.Drawer + " " + parenthesised(r.Because))}}
	for _, c := range r.Cells {
		if c.Text == "" && !c.Edited {
			continue
		}
		text := c.Text
		if c.Edited {
			text += " (corrected: " + c.Corrected + "; " + c.By + ")"
		}
		t = append(t, []string{c.Field, text, ""})
	}
	keys := make([]string, 0, len(r.Values))
	for key := range r.Values {
		keys = append(keys, key)
	}
	slices.Sort(keys)
	for _, key := range keys {
		t = append(t, []string{"→ " + key, r.Origins[key], r.Values[key]})
	}
	for _, ch := range r.Changes {
		t = append(t, []string{"change", ch.Key + ": " + ch.Old, ch.New})
	}
	for _, f := range r.Findings {
		t = append(t, []string{string(f.Severity), f.Field, f.What})
	}
	return t
}

func parenthesised(s string) string {
	if s == "" {
		return ""
	}
	return "(" + s + ")"
}

func runIntake(ctx context.Context, c *ucli.Command, k *client.Client) error {
	i, err := openIntake(ctx, c, k)
	if err == nil && c.String("known") != "" {
		i, err = k.EditIntake(ctx, i.ID, i.Version, wire.IntakeEdit{Known: c.String("known")})
	}
	if err == nil && c.Bool("datasheets") && i.Links > 0 {
		j, started := k.FetchDatasheets(ctx, i.ID)
		if _, err = fetched(ctx, k, j, started); err == nil {
			i, err = k.Intake(ctx, i.ID)
		}
	}
	if err != nil {
		return err
	}
	return takeIn(ctx, c, k, i, true)
}

func listIntakes(ctx context.Context, c *ucli.Command, k *client.Client) error {
	l, err := k.Intakes(ctx, 0, 200)
	if err != nil {
		return err
	}
	return emit(c, l, func() table {
		t := table{{"Intake", "Supplier", "File", "State", "Changed"}}
		for _, i := range l.Items {
			t = append(t, []string{i.Number, i.Supplier, i.FileName, i.State, i.Updated.Local().Format("2006-01-02 15:04")})
		}
		return t
	})
}

func showIntake(ctx context.Context, c *ucli.Command, k *client.Client) error {
	i, err := findIntake(ctx, k, c.Args().First())
	if err != nil {
		return err
	}
	if err := emit(c, i, func() table { return intakeTable(i) }); err != nil {
		return err
	}
	if i.Problem != "" || i.Counts["blocked"]+i.Counts["unsorted"] > 0 {
		return ErrFindings
	}
	return nil
}

func listRows(ctx context.Context, c *ucli.Command, k *client.Client) error {
	i, err := findIntake(ctx, k, c.Args().First())
	if err != nil {
		return err
	}
	l, err := k.IntakeRows(ctx, i.ID, c.String("state"), c.String("cause"), c.Int("offset"), c.Int("limit"))
	if err != nil {
		return err
	}
	return emit(c, l, func() table {
		t := table{{"Row", "State", "Drawer", "MPN", "Description", "Why"}}
		for _, r := range l.Items {
			why := r.Why
			if why == "" && len(r.Findings) > 0 {
				why = r.Findings[0].What
			}
			t = append(t, []string{strconv.Itoa(r.Row), r.State, r.Drawer, r.MPN, r.Description, why})
		}
		return t
	})
}

func showRow(ctx context.Context, c *ucli.Command, k *client.Client) error {
	n, err := numbers(c.Args().Slice()[1:])
	if err != nil {
		return err
	}
	i, err := findIntake(ctx, k, c.Args().First())
	if err != nil {
		return err
	}
	r, err := k.IntakeRow(ctx, i.ID, n[0])
	if err != nil {
		return err
	}
	return emit(c, r, func() table { return rowTable(r) })
}

func listFindings(ctx context.Context, c *ucli.Command, k *client.Client) error {
	i, err := findIntake(ctx, k, c.Args().First())
	if err != nil {
		return err
	}
	l, err := k.IntakeFindings(ctx, i.ID, c.Int("offset"), c.Int("limit"))
	if err != nil {
		return err
	}
	return emit(c, l, func() table {
		t := table{{"Row", "Severity", "Field", "Finding", "Mend"}}
		for _, f := range l.Items {
			t = append(t, []string{strconv.Itoa(f.Row), string(f.Severity), f.Field, f.What, f.Mend})
		}
		return t
	})
}

func takeBack(ctx context.Context, c *ucli.Command, k *client.Client) error {
	i, err := findIntake(ctx, k, c.Args().First())
	if err == nil {
		i, err = k.TakeBack(ctx, i.ID, i.Version, c.String("why"))
	}
	if err != nil {
		return err
	}
	return emit(c, i, func() table { return intakeTable(i) })
}

func goOver(ctx context.Context, c *ucli.Command, k *client.Client) error {
	i, err := findIntake(ctx, k, c.Args().First())
	if err == nil {
		i, err = k.GoOver(ctx, i.ID)
	}
	if err != nil {
		return err
	}
	return emit(c, i, func() table { return intakeTable(i) })
}

func fetchIntake(ctx context.Context, c *ucli.Command, k *client.Client) error {
	i, err := findIntake(ctx, k, c.Args().First())
	if err != nil {
		return err
	}
	j, err := k.FetchDatasheets(ctx, i.ID)
	f, err := fetched(ctx, k, j, err)
	return emitFetched(c, f, err)
}

// emitFetched says what became of links, and ends with findings where a file was about other parts.
func emitFetched(c *ucli.Command, f *wire.Fetched, err error) error {
	if err != nil {
		return err
	}
	err = emit(c, f, func() table {
		t := pairs("Links", strconv.Itoa(f.Links), "Distinct files", strconv.Itoa(f.Files), "Dead", strconv.Itoa(f.Dead))
		if f.Parts > 0 {
			t = append(t, []string{"Parts", fmt.Sprintf("%d got their file", f.Parts)})
		}
		for _, o := range f.Other {
			t = append(t, []string{"Left a link", o})
		}
		return t
	})
	if err == nil && len(f.Other) > 0 {
		err = ErrFindings
	}
	return err
}

// emitMoved says what was moved to another standing.
func emitMoved(c *ucli.Command, m wire.Moved, err error) error {
	if err != nil {
		return err
	}
	return emit(c, m, func() table {
		return pairs("Parts moved", strconv.Itoa(m.Things), "Numbers", strings.Join(m.Numbers, ", "))
	})
}
