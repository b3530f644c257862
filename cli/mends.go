package cli

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/internal/wire"
)

// mendCommands are the ways to map, correct and settle an intake before it is taken in.
func mendCommands() []*ucli.Command {
	return []*ucli.Command{
		command("causes", "list what is wrong by cause, largest first, with the ways to mend it", "INTAKE", "jolly intake causes IN-00001", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			i, err := findIntake(ctx, k, c.Args().First())
			if err != nil {
				return err
			}
			return emit(c, i.Causes, func() table { return causeTable(i) })
		}),
		command("mend", "settle a cause in one of the ways that causes lists", "INTAKE CAUSE MEND", "jolly intake mend IN-00001 library-differs fill", 3, 3,
			editing(&ucli.StringFlag{Name: "say", Usage: "what the mend still needs: a drawer, a word, a text, or the reason for accepting"}, yesFlag()), mendCause),
		command("map", "map a field to a parameter or a place, or take over what is suggested", "INTAKE [FIELD TARGET]", "jolly intake map IN-00001 'Pwr(W)' power --unit W", 1, 3, editing(
			&ucli.BoolFlag{Name: "suggested", Usage: "make the rules that are suggested as certain"}, &ucli.StringFlag{Name: "unit", Usage: "of values that carry none"},
			&ucli.StringFlag{Name: "drawer", Usage: "only there and inside"}, &ucli.StringFlag{Name: "mark", Usage: "comma or point"}, &ucli.StringFlag{Name: "doubt", Usage: "which reading is meant where there are several"},
			&ucli.BoolFlag{Name: "fact", Usage: "take the one value out of the text that fits"}, &ucli.StringFlag{Name: "after"}, &ucli.StringFlag{Name: "before"}, &ucli.IntFlag{Name: "word"},
			&ucli.StringFlag{Name: "end", Usage: "low or high end of a range"}, &ucli.StringFlag{Name: "case-system", Usage: "inch or metric"}, yesFlag()), mapField),
		command("coverage", "say which parameters are filled, by which fields", "INTAKE", "jolly intake coverage IN-00001", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			i, err := findIntake(ctx, k, c.Args().First())
			if err != nil {
				return err
			}
			return emit(c, i.Coverage, func() table { return coverageTable(i.Coverage) })
		}),
		command("undo", "take a change of the crosswalk back", "INTAKE CHANGE", "jolly intake undo IN-00001 1", 2, 2, editing(yesFlag()), func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			n, err := numbers(c.Args().Tail())
			if err != nil {
				return err
			}
			return editIntake(ctx, c, k, wire.IntakeEdit{DropChanges: []int{n[0] - 1}})
		}),
		command("leave-out", "leave rows out", "INTAKE ROW...", "jolly intake leave-out IN-00001 17 23", 2, -1, editing(&ucli.BoolFlag{Name: "undo", Usage: "take the decision back"}, everywhereFlag()), leaveRowsOut),
		command("sort", "put rows into a drawer, or make a rule for all that are alike", "INTAKE DRAWER [ROW...]", "jolly intake sort IN-00001 chip-resistors 17 23", 2, -1,
			editing(&ucli.StringFlag{Name: "kind", Usage: "all rows of this kind"}, &ucli.StringFlag{Name: "field", Usage: "all rows whose field ..."}, &ucli.StringFlag{Name: "has", Usage: "... has these words"}, everywhereFlag()), sortRows),
		command("cell", "correct one cell; the file stays as it is", "INTAKE ROW FIELD TEXT", "jolly intake cell IN-00001 17 Value 4k7", 3, 4, editing(&ucli.BoolFlag{Name: "undo", Usage: "the text as it came again"}, &ucli.StringFlag{Name: "why", Usage: "why the cell is corrected"}, &ucli.BoolFlag{Name: "everywhere", Usage: "wherever the field says what it says in this row, in all files of the layout; --try says how many rows and files"}), func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			row, err := numbers(c.Args().Slice()[1:2])
			if err != nil {
				return err
			}
			return editIntake(ctx, c, k, wire.IntakeEdit{Cells: []wire.CellEdit{{Row: row[0], Field: c.Args().Get(2), Text: c.Args().Get(3), Undo: c.Bool("undo"), Why: c.String("why"), Everywhere: c.Bool("everywhere")}}})
		}),
		command("settle", "settle rows that the library has, or that are like a part: replace, fill, keep, alternate, separate", "INTAKE AS [ROW...]", "jolly intake settle IN-00004 fill", 2, -1,
			editing(&ucli.StringFlag{Name: "why", Usage: "the reason, for separate"}, &ucli.BoolFlag{Name: "like", Usage: "without rows: for rows like a part, not for rows that the library has"}, &ucli.StringFlag{Name: "parameter", Usage: "without rows: only values of this parameter"}), settleRows),
	}
}

func editIntake(ctx context.Context, c *ucli.Command, k *client.Client, in wire.IntakeEdit) error {
	i, err := findIntake(ctx, k, c.Args().First())
	if err != nil {
		return err
	}
	return edited(ctx, c, k, i, in)
}

// edited makes an edit of an intake, or with --try says what it would do.
func edited(ctx context.Context, c *ucli.Command, k *client.Client, i wire.Intake, in wire.IntakeEdit) error {
	in.EvenSettled, in.KeepSettled, in.EvenRows = c.Bool("even-settled"), c.Bool("keep-settled"), c.IntSlice("even-row")
	if c.Bool("try") {
		t, err := k.TryIntake(ctx, i.ID, wire.IntakeTry{IntakeEdit: in})
		if err != nil {
			return err
		}
		return emit(c, t, func() table { return triedTable(t) })
	}
	if err := sureOf(ctx, c, k, i, in); err != nil {
		return err
	}
	was := i
	i, err := k.EditIntake(ctx, i.ID, i.Version, in)
	if err != nil {
		return err
	}
	return emit(c, i, func() table { return changedTable(was, i) })
}

// sureOf refuses an edit by a rule that takes rows or values away, unless somebody who knows says so.
func sureOf(ctx context.Context, c *ucli.Command, k *client.Client, i wire.Intake, in wire.IntakeEdit) error {
	if len(in.Changes) == 0 && len(in.DropChanges) == 0 && in.LeaveCause == "" && in.Known != intake.Keep && in.Like != intake.Keep && (in.SettleCause == nil || in.SettleCause.As != intake.Keep) || c.Bool("yes") {
		return nil
	}
	t, err := k.TryIntake(ctx, i.ID, wire.IntakeTry{IntakeEdit: in, Limit: 1})
	if err != nil {
		return err
	}
	if t.LeftOut+t.Lost == 0 {
		return nil
	}
	var goes []string
	if t.LeftOut > 0 {
		goes = append(goes, fmt.Sprintf("leaves out %s", rowsWord(t.LeftOut)))
	}
	if t.Lost > 0 {
		goes = append(goes, fmt.Sprintf("takes %s away (%s)", valuesWord(t.Lost), strings.Join(t.Loses, ", ")))
	}
	return fmt.Errorf("nothing was changed in %s: this %s. Look at them with --try, and say --yes if that is meant", i.Number, strings.Join(goes, " and "))
}

func rowsWord(n int) string {
	if n == 1 {
		return "1 row"
	}
	return fmt.Sprintf("%d rows", n)
}

func valuesWord(n int) string {
	if n == 1 {
		return "1 value"
	}
	return fmt.Sprintf("%d values", n)
}

// changedTable says what an edit changed of an intake: the counts that moved, the causes that went and came.
func changedTable(was, now wire.Intake) table {
	t := pairs("Intake", now.Number, "State", now.State)
	for _, s := range stateOrder {
		if a, b := was.Counts[s], now.Counts[s]; a != b {
			t = append(t, []string{"  " + s, fmt.Sprintf("%d, was %d", b, a)})
		}
	}
	count := func(i wire.Intake) map[string]wire.Cause {
		out := map[string]wire.Cause{}
		for _, c := range i.Causes {
			out[c.Name] = c
		}
		return out
	}
	before, after := count(was), count(now)
	for _, c := range was.Causes {
		if left := after[c.Name].Count; left < c.Count {
			t = append(t, []string{"Settled", fmt.Sprintf("%s: %d, was %d", c.Name, left, c.Count)})
		}
	}
	for _, c := range now.Causes {
		if had := before[c.Name].Count; had < c.Count {
			t = append(t, []string{"Came up", fmt.Sprintf("%s: %d, was %d: %s", c.Name, c.Count, had, c.What)})
		}
	}
	for n := len(was.Changes); n < len(now.Changes); n++ {
		t = append(t, []string{fmt.Sprintf("Change %d", n+1), now.Changes[n]})
	}
	if a, b := len(was.Unmapped), len(now.Unmapped); a != b {
		t = append(t, []string{"Not mapped", fmt.Sprintf("%d fields, was %d", b, a)})
	}
	if a, b := was.Decisions["holds"], now.Decisions["holds"]; a != b {
		t = append(t, []string{"Decisions", fmt.Sprintf("%d hold, was %d", b, a)})
	}
	if now.Problem != "" {
		t = append(t, []string{"Note", now.Problem})
	}
	left := 0
	for _, c := range now.Causes {
		left += c.Count
	}
	return append(t, []string{"Left", counted(left, "finding") + " of " + counted(len(now.Causes), "cause")})
}

func tryFlag() ucli.Flag {
	return &ucli.BoolFlag{Name: "try", Usage: "show which rows would change, those that somebody settled first, and change nothing"}
}

func yesFlag() ucli.Flag {
	return &ucli.BoolFlag{Name: "yes", Usage: "also where that leaves rows out or takes values away"}
}

func everywhereFlag() ucli.Flag {
	return &ucli.BoolFlag{Name: "everywhere", Usage: "all rows of the same manufacturer part numbers, in all files of the layout; --try says how many rows and files"}
}

// editing are the flags of a command that edits an intake: looking first, and what becomes of rows that somebody settled before. Without one of
// those, an edit that would change any is not made.
func editing(more ...ucli.Flag) []ucli.Flag {
	return append(more, tryFlag(), &ucli.BoolFlag{Name: "even-settled", Usage: "also rows that somebody settled before"}, &ucli.BoolFlag{Name: "keep-settled", Usage: "all but rows that somebody settled before, which are kept as they are"},
		&ucli.IntSliceFlag{Name: "even-row", Usage: "also this `ROW` that somebody settled before; may be given again"})
}

// triedTable names the rows that an edit would change, and how many more there are.
func triedTable(t wire.IntakeTried) table {
	out := table{{"Row", "MPN", "What", "Text", "From", "To", "Settled before"}}
	for _, m := range t.Moved {
		for n, v := range m.Moves {
			row, mpn, settled := "", "", ""
			if n == 0 {
				row, mpn, settled = strconv.Itoa(m.Row), m.MPN, m.Settled
			}
			out = append(out, []string{row, mpn, v.What, v.Text, v.From, v.To, settled})
		}
	}
	all := fmt.Sprintf("%d rows would change", t.Rows)
	if t.Rows == 1 {
		all = "1 row would change"
	}
	if t.Settled > 0 {
		all += fmt.Sprintf(", %d of them settled before", t.Settled)
	}
	if t.LeftOut > 0 {
		all += fmt.Sprintf("; %s left out", rowsWord(t.LeftOut))
	}
	if t.Lost > 0 {
		all += fmt.Sprintf("; %s gone (%s)", valuesWord(t.Lost), strings.Join(t.Loses, ", "))
	}
	if e := t.Elsewhere; e != nil && e.Of == 0 {
		all += "; no other file of the layout is there"
	} else if e != nil {
		all += fmt.Sprintf("; of %d other files of the layout %d have it, in %s", e.Of, e.Files, rowsWord(e.Rows))
		if len(e.Named) > 0 {
			all += ": " + strings.Join(e.Named, ", ")
		}
	}
	if t.Problem != "" {
		all += "; " + t.Problem
	}
	return append(out, []string{all})
}

func causeTable(i wire.Intake) table {
	t := table{{"Cause", "Rows", "Severity", "What, and ways to mend it"}}
	for _, c := range i.Causes {
		t = append(t, []string{c.Name, strconv.Itoa(c.Count), string(c.Severity), c.What})
		for _, mend := range c.Mends {
			t = append(t, []string{"", "", "", mend.Name + ": " + mend.Label})
		}
	}
	return t
}

func coverageTable(all []intake.Coverage) table {
	t := table{{"Drawer", "Parameter", "Filled", "Unread", "From"}}
	for _, d := range all {
		t = append(t, []string{fmt.Sprintf("%s (%d rows)", d.Label, d.Rows), "", "", "", ""})
		for _, p := range d.Parameters {
			label, from := p.Label, strings.Join(p.From, ", ")
			if p.Required {
				label += " *"
			}
			if from == "" && p.ByHand {
				from = "to be filled by hand"
			}
			if from == "" && !p.Required {
				continue
			}
			t = append(t, []string{"", label, strconv.Itoa(p.Filled), strconv.Itoa(p.Unread), from})
		}
		if d.Unused > 0 {
			t = append(t, []string{"", fmt.Sprintf("%d facts in the descriptions are not used", d.Unused), "", "", ""})
		}
	}
	return t
}

func mendCause(ctx context.Context, c *ucli.Command, k *client.Client) error {
	i, err := findIntake(ctx, k, c.Args().First())
	if err != nil {
		return err
	}
	cause, mend, err := chosenMend(i, c.Args().Get(1), c.Args().Get(2))
	if err != nil {
		return err
	}
	say := c.String("say")
	if (mend.Needs != "" || mend.Waive || mend.Stated != "") && say == "" {
		need := mend.Needs
		if need == "" {
			need = "reason"
		}
		return Usage("%q needs a %s: give it with --say", mend.Label, need)
	}
	in := wire.IntakeEdit{}
	switch {
	case mend.Known != "" || mend.Like != "":
		in.SettleCause = &wire.SettleCause{Cause: cause.Cause.Cause, As: mend.Known + mend.Like}
	case mend.Choice != nil && c.Bool("try"):
		t, err := k.TryIntake(ctx, i.ID, wire.IntakeTry{Choice: mend.Choice})
		if err != nil {
			return err
		}
		return emit(c, t, func() table { return triedTable(t) })
	case mend.Choice != nil:
		if _, err := k.AddChoice(ctx, *mend.Choice); err != nil {
			return err
		}
		if i, err = k.Intake(ctx, i.ID); err != nil {
			return err
		}
		return emit(c, i, func() table { return intakeTable(i) })
	case (mend.Numbers || mend.Stated != "") && c.Bool("try"):
		return Usage("%q changes parts at once, and no row", mend.Label)
	case mend.Stated != "":
		m, err := k.MoveStated(ctx, i.ID, wire.MoveStated{Stated: mend.Stated, Note: say})
		return emitMoved(c, m, err)
	case mend.Numbers:
		n, err := k.KeepNumbers(ctx, i.ID, wire.KeepNumbers{})
		if err != nil {
			return err
		}
		return emit(c, n, func() table { return pairs("Former numbers kept", strconv.Itoa(n.Numbers)) })
	case mend.Waive:
		in.Waive = &wire.WaiveEdit{Cause: cause.Cause.Cause, Why: say}
	case mend.LeaveOut:
		in.LeaveCause = cause.Cause.Cause
	case mend.Decided != "":
		in.Decided = &wire.DecidedEdit{Cause: cause.Cause.Cause, As: mend.Decided}
	case mend.Change != nil:
		in.Changes = []crosswalk.Change{said(*mend.Change, mend.Needs, say)}
	}
	return edited(ctx, c, k, i, in)
}

// chosenMend finds a cause by its name, or by the identifier that JSON shows, and a way to mend it by its name.
func chosenMend(i wire.Intake, cause, mend string) (wire.Cause, intake.Mend, error) {
	at := slices.IndexFunc(i.Causes, func(c wire.Cause) bool { return c.Name == cause || c.Cause.Cause == cause })
	if at < 0 {
		return wire.Cause{}, intake.Mend{}, Usage("%s has no cause %q: see jolly intake causes %s", i.Number, cause, i.Number)
	}
	c := i.Causes[at]
	m := slices.IndexFunc(c.Mends, func(m intake.Mend) bool { return m.Name == mend })
	if m < 0 {
		var names []string
		for _, m := range c.Mends {
			names = append(names, m.Name)
		}
		return c, intake.Mend{}, Usage("there is no mend %q for %s: choose one of %s", mend, c.Name, strings.Join(names, ", "))
	}
	return c, c.Mends[m], nil
}

// said puts what a person says into the blank of a mend.
func said(ch crosswalk.Change, needs, say string) crosswalk.Change {
	switch needs {
	case "drawer":
		for kind := range ch.Kinds {
			ch.Kinds[kind] = say
		}
		if ch.Drawer != nil {
			ch.Drawer = &say
		}
	case "text":
		ch.Rule.Constant = say
	case "word":
		for text, word := range ch.Rule.Words {
			if word == "" {
				ch.Rule.Words[text] = say
			}
		}
	}
	return ch
}

func mapField(ctx context.Context, c *ucli.Command, k *client.Client) error {
	if c.Bool("suggested") {
		return editIntake(ctx, c, k, wire.IntakeEdit{Suggested: true})
	}
	if c.NArg() != 3 {
		return Usage("map needs a FIELD and a TARGET, or --suggested")
	}
	field, target := c.Args().Get(1), c.Args().Get(2)
	if place, ok := strings.CutPrefix(target, "take."); ok {
		return editIntake(ctx, c, k, wire.IntakeEdit{Changes: []crosswalk.Change{{Take: map[string]string{place: field}}}})
	}
	if target == "-" {
		return editIntake(ctx, c, k, wire.IntakeEdit{Changes: []crosswalk.Change{{Unused: []string{field}}}})
	}
	rule := crosswalk.Rule{From: field, To: target, Unit: c.String("unit"), Mark: c.String("mark"), Doubt: c.String("doubt"), End: c.String("end"), System: c.String("case-system")}
	if d := c.String("drawer"); d != "" {
		rule.Drawers = []string{d}
	}
	if c.Bool("fact") || c.String("after") != "" || c.String("before") != "" || c.Int("word") != 0 {
		rule.Piece = &crosswalk.Piece{Fact: c.Bool("fact"), After: c.String("after"), Before: c.String("before"), Word: c.Int("word")}
	}
	return editIntake(ctx, c, k, wire.IntakeEdit{Changes: []crosswalk.Change{{Rule: &rule}}})
}

func leaveRowsOut(ctx context.Context, c *ucli.Command, k *client.Client) error {
	list, err := numbers(c.Args().Tail())
	if err != nil {
		return err
	}
	in := wire.IntakeEdit{LeaveOut: list, Everywhere: c.Bool("everywhere")}
	if c.Bool("undo") {
		in = wire.IntakeEdit{TakeBack: list}
	}
	return editIntake(ctx, c, k, in)
}

func sortRows(ctx context.Context, c *ucli.Command, k *client.Client) error {
	drawer := c.Args().Get(1)
	in := wire.IntakeEdit{}
	switch {
	case c.String("kind") != "":
		in.Changes = []crosswalk.Change{{Kinds: map[string]string{c.String("kind"): drawer}}}
	case c.String("field") != "":
		in.Changes = []crosswalk.Change{{Sorting: &crosswalk.Sorting{Condition: crosswalk.Condition{Field: c.String("field"), Has: c.String("has"), Filled: c.String("has") == ""}, Drawer: drawer}}}
	default:
		list, err := numbers(c.Args().Slice()[2:])
		if err != nil {
			return err
		}
		if len(list) == 0 {
			return Usage("sort needs rows, --kind, or --field with --has")
		}
		in.Drawer, in.Rows, in.Everywhere = drawer, list, c.Bool("everywhere")
	}
	return editIntake(ctx, c, k, in)
}

func settleRows(ctx context.Context, c *ucli.Command, k *client.Client) error {
	list, err := numbers(c.Args().Slice()[2:])
	if err != nil {
		return err
	}
	as := c.Args().Get(1)
	in := wire.IntakeEdit{Decide: &intake.Decision{As: as, Why: c.String("why")}, Rows: list}
	if len(list) == 0 {
		in = wire.IntakeEdit{Known: as}
		if key := c.String("parameter"); key != "" {
			in = wire.IntakeEdit{Policies: map[string]string{key: as}}
		}
		if c.Bool("like") || as == intake.AsSource {
			in = wire.IntakeEdit{Like: as}
		}
	}
	return editIntake(ctx, c, k, in)
}
