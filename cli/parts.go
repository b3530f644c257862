package cli

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/part"
	"jollydrawer/internal/wire"
)

func editFlags() []ucli.Flag {
	return []ucli.Flag{
		&ucli.StringSliceFlag{Name: "source", Usage: "`MANUFACTURER|MPN[|SUPPLIER|NUMBER]`; may be given again for alternates"},
		&ucli.StringFlag{Name: "description", Usage: "blank: built from the values"},
		&ucli.StringFlag{Name: "symbol", Usage: "name of a released symbol"},
		&ucli.StringFlag{Name: "land-pattern", Usage: "name of a released land pattern"},
		&ucli.StringFlag{Name: "pin-map", Usage: "name of a pin map"},
		&ucli.StringFlag{Name: "body", Usage: "name of a released body"},
		&ucli.StringSliceFlag{Name: "datasheet", Usage: "`FILE` to attach, or a link to one that is fetched later"},
		&ucli.StringFlag{Name: "keep-separate", Usage: "`WHY` the part stands beside another with the same MPN"},
	}
}

// applyEdit lays flags and key=value arguments over an edit.
func applyEdit(ctx context.Context, c *ucli.Command, k *client.Client, e *wire.PartEdit, sets []string) error {
	if e.Values == nil {
		e.Values = map[string]string{}
	}
	for _, s := range sets {
		key, v, ok := strings.Cut(s, "=")
		if !ok {
			return Usage("%q is not KEY=VALUE, such as resistance=4k7", s)
		}
		e.Values[key] = v
	}
	if c.IsSet("source") {
		e.Sources = nil
		for _, s := range c.StringSlice("source") {
			f := strings.Split(s, "|")
			if len(f) != 2 && len(f) != 4 {
				return Usage("--source is MANUFACTURER|MPN or MANUFACTURER|MPN|SUPPLIER|NUMBER, not %q", s)
			}
			src := part.Source{Manufacturer: f[0], MPN: f[1]}
			if len(f) == 4 {
				src.Numbers = []part.Number{{Supplier: f[2], Number: f[3]}}
			}
			e.Sources = append(e.Sources, src)
		}
	}
	if c.IsSet("description") {
		e.Description = c.String("description")
	}
	e.KeepSeparate = c.String("keep-separate")
	for _, path := range c.StringSlice("datasheet") {
		if part.IsLink(path) {
			e.Links = append(e.Links, path)
			continue
		}
		f, err := uploadFile(ctx, k, path)
		if err != nil {
			return err
		}
		e.Datasheets = append(e.Datasheets, part.File{Hash: f.Hash, Name: f.Name})
	}
	for flag, into := range map[string]**part.Model{"symbol": &e.Symbol, "land-pattern": &e.LandPattern, "body": &e.Body, "pin-map": &e.PinMap} {
		if !c.IsSet(flag) {
			continue
		}
		if c.String(flag) == "" {
			*into = nil
			continue
		}
		m, err := k.Model(ctx, strings.ReplaceAll(flag, "-", " ")+": "+c.String(flag))
		if err != nil {
			return err
		}
		*into = &part.Model{ID: m.ID, Name: m.Name, Revision: m.Revision}
	}
	return nil
}

func partCommand() *ucli.Command {
	return group("part", "library parts", "library", slices.Concat(findCommands(), onePart(), pasteCommands(), relationCommands(), pinsCommands(), holdCommands(), lives("part", "EW-R-00001", nil, findPart))...)
}

// onePart are the commands for one part at a time.
func onePart() []*ucli.Command {
	return []*ucli.Command{
		command("offers", "show what suppliers offer of a part, and what a number of pieces costs", "NUMBER", "jolly part offers EW-R-00001 --pieces 250", 1, 1, []ucli.Flag{&ucli.Int64Flag{Name: "pieces", Value: 1, Usage: "how many are to be bought: prices are of so `MANY`"}}, partOffers),
		command("show", "show a part", "NUMBER", "jolly part show EW-R-00001", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			p, err := k.Part(ctx, c.Args().First())
			if err != nil {
				return err
			}
			return emit(c, p, func() table { return partTable(p) })
		}),
		command("make", "make a part by hand from a drawer's template", "DRAWER KEY=VALUE...", "jolly part make chip-resistors resistance=4k7 tolerance=1% case=0805 --source 'Tidewright|TW-0805-4K7'", 1, -1,
			append([]ucli.Flag{&ucli.StringFlag{Name: "number", Usage: "keep a number given elsewhere"}}, editFlags()...), func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				e := wire.PartEdit{Drawer: c.Args().First(), Number: c.String("number")}
				if err := applyEdit(ctx, c, k, &e, c.Args().Tail()); err != nil {
					return err
				}
				return showMade(ctx, c, k.MakePart, e)
			}),
		command("copy", "make a part from one that is nearly the same; sources and datasheets are not copied", "NUMBER KEY=VALUE...", "jolly part copy EW-R-00001 resistance=5k1 --source 'Tidewright|TW-0805-5K1'", 1, -1, editFlags(), func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			e, err := k.CopyOf(ctx, c.Args().First())
			if err != nil {
				return err
			}
			if err := applyEdit(ctx, c, k, &e, c.Args().Tail()); err != nil {
				return err
			}
			return showMade(ctx, c, k.MakePart, e)
		}),
		command("edit", "change a part's draft", "NUMBER KEY=VALUE...", "jolly part edit EW-R-00001 power=125mW", 1, -1, editFlags(), func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			p, err := k.Part(ctx, c.Args().First())
			if err != nil {
				return err
			}
			e := p.Newest().Edit()
			if err := applyEdit(ctx, c, k, &e, c.Args().Tail()); err != nil {
				return err
			}
			return showMade(ctx, c, func(ctx context.Context, e wire.PartEdit) (wire.Part, error) {
				return k.SaveDraft(ctx, p.ID, p.Version, e)
			}, e)
		}),
		command("datasheets", "fetch the datasheets that parts name only by a link", "NUMBER...", "jolly part datasheets EW-R-00001", 1, -1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			j, err := k.FetchLinked(ctx, c.Args().Slice())
			f, err := fetched(ctx, k, j, err)
			return emitFetched(c, f, err)
		}),
		command("release", "release drafts: one, several, an intake, or all that a search finds", "NUMBER... or none with --find, --drawer or --intake", "jolly part release EW-R-00001 --note 'checked against datasheet rev C'", 0, -1,
			[]ucli.Flag{&ucli.StringFlag{Name: "note", Required: true, Usage: "what was made or changed"}, &ucli.StringFlag{Name: "find", Usage: "release all complete drafts that these `WORDS` find"},
				&ucli.StringSliceFlag{Name: "drawer", Usage: "with or instead of --find: only this drawer"}, &ucli.StringSliceFlag{Name: "intake", Usage: "with or instead of --find: only what taking this `INTAKE` in made or changed"}}, releaseParts),
		command("diff", "compare two revisions, each by what it is called; draft is what is not released", "NUMBER FROM TO", "jolly part diff EW-R-00001 1 2", 3, 3, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			p, err := k.Part(ctx, c.Args().First())
			if err != nil {
				return err
			}
			n, titles, err := revisions(c, p.Revisions)
			if err != nil {
				return err
			}
			d, err := k.Diff(ctx, p.ID, n[0], n[1])
			if err != nil {
				return err
			}
			return emit(c, d, func() table {
				t := table{{"Field", titles[0], titles[1]}}
				for _, x := range d.Changes {
					t = append(t, []string{x.Path, x.Old, x.New})
				}
				return t
			})
		}),
		command("back", "make an earlier revision the draft again", "NUMBER REVISION", "jolly part back EW-R-00001 1 --why 'the newer datasheet was withdrawn'", 2, 2,
			[]ucli.Flag{&ucli.StringFlag{Name: "why", Usage: "for the trail"}, &ucli.BoolFlag{Name: "replace-draft", Usage: "the draft that is there may go"},
				&ucli.BoolFlag{Name: "leave-out", Usage: "values without a place under the present templates may go"}}, goBack),
		command("trail", "who did what to a part", "NUMBER", "jolly part trail EW-R-00001", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Trail(ctx, c.Args().First(), 0, 1000)
			if err != nil {
				return err
			}
			return emit(c, l, func() table { return trailTable(l) })
		}),
		command("drawing", "write what a design tool takes of a part, its facts with it: its symbol as edif or svg, or its land pattern as ipc2581", "NUMBER FORM", "jolly part drawing EW-R-00001 edif --to r.edif", 2, 2,
			[]ucli.Flag{&ucli.StringFlag{Name: "to", Usage: "`FILE` to write; standard output where it is blank"}}, exportDrawing),
		command("standing", "say how a part may be used", "NUMBER STANDING WHY", "jolly part standing EW-R-00001 obsolete 'maker stopped it'", 3, 3, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			p, err := k.Part(ctx, c.Args().First())
			if err == nil {
				p, err = k.SetStanding(ctx, p.ID, p.Version, wire.Standing{Standing: c.Args().Get(1), Why: c.Args().Get(2)})
			}
			if err != nil {
				return err
			}
			return emit(c, p, func() table { return table{{"Number", "Standing"}, {p.Number, p.Standing}} })
		}),
	}
}

// status is a state with the label of its revision; blank where nothing is released.
func status(s, label string, draft bool) string {
	if label != "" {
		s += " " + label
		if draft {
			s += " + draft"
		}
	}
	return s
}

func showMade(ctx context.Context, c *ucli.Command, fn func(context.Context, wire.PartEdit) (wire.Part, error), e wire.PartEdit) error {
	p, err := fn(ctx, e)
	if err != nil {
		return err
	}
	if err := emit(c, p, func() table { return partTable(p) }); err != nil {
		return err
	}
	if len(p.Alike) > 0 {
		fmt.Fprintf(c.Root().ErrWriter, "%s equals %s in every parameter that identifies a part of its drawer: change one, or use that part.\n", p.Number, strings.Join(p.Alike, ", "))
	}
	return nil
}

func partTable(p wire.Part) table {
	n := p.Newest()
	t := pairs("Number", p.Number, "Name", n.Name, "Description", n.Description, "Drawer", n.Drawer, "Status", status(p.Status, p.States.Label, p.Draft != nil), "Standing", p.Standing)
	for _, v := range n.Values {
		from := ""
		if v.Origin != nil {
			from = v.Origin.String()
			if v.Origin.Written != "" && v.Origin.Written != v.Text {
				from += fmt.Sprintf(", written %q", v.Origin.Written)
			}
		}
		if v.Text != "" {
			t = append(t, []string{v.Label, v.Text, from})
		}
	}
	for _, s := range n.Sources {
		var sold []string
		for _, x := range s.Numbers {
			sold = append(sold, x.Supplier+" "+x.Number)
		}
		t = append(t, []string{"Source", s.Manufacturer + " " + s.MPN, strings.Join(sold, "; ")})
	}
	for _, f := range n.Datasheets {
		t = append(t, []string{"Datasheet", f.Name})
	}
	for _, l := range n.Links {
		t = append(t, []string{"Datasheet", l, "not fetched yet"})
	}
	for _, place := range []struct {
		name string
		m    *part.Model
	}{{"Symbol", n.Symbol}, {"Land pattern", n.LandPattern}, {"Body", n.Body}} {
		if place.m != nil {
			t = append(t, []string{place.name, fmt.Sprintf("%s, revision %d", place.m.Name, place.m.Revision)})
		}
	}
	for _, former := range p.Former {
		t = append(t, []string{"Former number", former})
	}
	if p.Successor != nil {
		t = append(t, []string{"Replaced by", p.Successor.Number, p.Successor.Why})
	}
	if p.MergedTo != "" {
		t = append(t, []string{"Merged into", p.MergedTo})
	}
	if len(p.Alike) > 0 {
		t = append(t, []string{"Alike", strings.Join(p.Alike, ", "), "equal in the identifying parameters"})
	}
	for _, f := range n.Findings {
		t = append(t, []string{"Finding", string(f.Severity), f.What})
	}
	for i, r := range t {
		if len(r) < 3 { // what stands alone has the rest of the line for itself
			t[i] = append(r, "")
		}
	}
	return t
}

// releaseParts releases the parts named, or all drafts that a search finds, in deeds of at most 500. Parts that are
// not complete are named and left as they are when they come from a search.
func releaseParts(ctx context.Context, c *ucli.Command, k *client.Client) error {
	var bases []wire.PartBase
	skipped := 0
	if c.NArg() > 0 {
		for _, number := range c.Args().Slice() {
			p, err := k.Part(ctx, number)
			if err != nil {
				return fmt.Errorf("%s: %w", number, err)
			}
			bases = append(bases, wire.PartBase{ID: p.ID, Version: p.Version})
		}
	} else {
		if !c.IsSet("find") && !c.IsSet("drawer") && !c.IsSet("intake") {
			return Usage("release needs part numbers, --find, --drawer or --intake")
		}
		for offset := 0; ; offset += 500 {
			l, err := k.Parts(ctx, client.PartQuery{Text: c.String("find"), Drawers: c.StringSlice("drawer"), Filters: intakeFilters(c), Status: []string{"draft"}, Offset: offset, Limit: 500})
			if err != nil {
				return err
			}
			for _, row := range l.Items {
				bases = append(bases, wire.PartBase{ID: row.ID, Version: row.Version})
			}
			if len(l.Items) < 500 {
				break
			}
		}
	}
	done := wire.Released{Numbers: []string{}}
	if len(bases) > 0 {
		in := wire.MoveThings{Note: c.String("note"), Things: bases, Skip: c.NArg() == 0}
		if in.Skip {
			p, err := k.PreviewMove(ctx, in)
			if err != nil {
				return err
			}
			for _, r := range p.Cannot {
				fmt.Fprintf(c.Root().ErrWriter, "%s: %s (%s)\n", count(r.Count, "part stays a draft", "parts stay drafts"), r.What, strings.Join(r.Things, ", "))
			}
			if p.Things == 0 {
				bases, skipped = nil, len(bases)
			}
		}
		if len(bases) > 0 {
			m, err := k.Move(ctx, in)
			if err != nil {
				return err
			}
			done.Parts, done.Numbers, skipped = m.Things, m.Numbers, m.Left
		}
	}
	if err := emit(c, done, func() table {
		return table{{"Released", "Left as drafts"}, {strconv.Itoa(done.Parts), strconv.Itoa(skipped)}}
	}); err != nil {
		return err
	}
	if skipped > 0 {
		return ErrFindings
	}
	return nil
}

func trailTable(l wire.TrailList) table {
	t := table{{"No.", "When", "What was done"}}
	for _, e := range l.Items {
		t = append(t, []string{strconv.Itoa(e.Seq), e.At.Local().Format("2006-01-02 15:04:05"), withChanges(e.Says, e.Changes)})
	}
	return t
}

func goBack(ctx context.Context, c *ucli.Command, k *client.Client) error {
	p, err := k.Part(ctx, c.Args().First())
	if err != nil {
		return err
	}
	n, err := revisionNamed(p.Revisions, c.Args().Get(1))
	if err != nil {
		return err
	}
	if n == 0 {
		return Usage("back needs a revision, such as 1")
	}
	if p, err = k.GoBack(ctx, p.ID, p.Version, wire.GoBack{Revision: n, Why: c.String("why"), ReplaceDraft: c.Bool("replace-draft"), LeaveOut: c.Bool("leave-out")}); err != nil {
		return err
	}
	return emit(c, p, func() table { return partTable(p) })
}

// revisions reads the two revisions that are compared, behind what they are of, and what each is called.
func revisions(c *ucli.Command, all []wire.Revision) (numbers [2]int, titles [2]string, err error) {
	for i := range numbers {
		if numbers[i], err = revisionNamed(all, c.Args().Get(i+1)); err != nil {
			return numbers, titles, err
		}
		titles[i] = "Draft"
		for _, r := range all {
			if r.Number == numbers[i] {
				titles[i] = "Revision " + r.Label
			}
		}
	}
	return numbers, titles, nil
}

// revisionNamed finds a revision by what it is called, or by its number; 0 and draft are the draft.
func revisionNamed(all []wire.Revision, name string) (int, error) {
	if name == "0" || strings.EqualFold(name, "draft") {
		return 0, nil
	}
	var called []string
	for _, r := range all {
		if strings.EqualFold(r.Label, name) {
			return r.Number, nil
		}
		called = append(called, r.Label)
	}
	if n, err := strconv.Atoi(name); err == nil && slices.ContainsFunc(all, func(r wire.Revision) bool { return r.Number == n }) {
		return n, nil
	}
	if len(called) == 0 {
		return 0, fmt.Errorf("there is no revision %q: nothing of it is released yet", name)
	}
	return 0, fmt.Errorf("there is no revision %q: those that there are are called %s; draft is what is not released", name, strings.Join(called, ", "))
}
