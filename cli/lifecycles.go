package cli

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/wire"
)

func lifecycleCommand() *ucli.Command {
	return group("lifecycle", "states, moves and gates, as the house wrote them", "library",
		command("list", "list the lifecycles in force", "", "jolly lifecycle list", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Lifecycles(ctx)
			if err != nil {
				return err
			}
			return emit(c, l, func() table {
				t := table{{"Name", "Of", "Revision", "Counts by", "Statuses", "Standings", "Drawers"}}
				for _, x := range l.Items {
					t = append(t, []string{x.Name, x.Of, orShipped(x.Revision), string(x.Document.Counting), words(x.Document.Status), words(x.Document.Standing), strings.Join(x.Drawers, ", ")})
				}
				return t
			})
		}),
		command("show", "print a lifecycle as a table from state to state; --document prints the document", "NAME", "jolly lifecycle show parts", 1, 1,
			[]ucli.Flag{&ucli.BoolFlag{Name: "document", Usage: "the YAML that apply takes"}}, showLifecycle),
		command("apply", "put a lifecycle document in force; --try says what it would change and writes nothing", "FILE", "jolly lifecycle apply demo/lifecycles/parts.yaml --try", 1, 1,
			[]ucli.Flag{&ucli.BoolFlag{Name: "try"}}, applyLifecycle),
		&ucli.Command{Name: "schema", Usage: "print the JSON Schema of lifecycle documents; needs no service", Action: func(_ context.Context, c *ucli.Command) error {
			_, err := fmt.Fprint(c.Root().Writer, lifecycle.Schema)
			return err
		}},
		command("waivers", "list the waivers of gates, with those that count for nothing any more", "", "jolly lifecycle waivers", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Waivers(ctx, 0, 1000)
			if err != nil {
				return err
			}
			return emit(c, l, func() table { return waiverTable(l.Items) })
		}),
	)
}

func orShipped(revision int) string {
	if revision == 0 {
		return "as shipped"
	}
	return strconv.Itoa(revision)
}

func words(states []lifecycle.State) string {
	var out []string
	for _, s := range states {
		out = append(out, s.Word)
	}
	return strings.Join(out, ", ")
}

func waiverTable(all []wire.GateWaiver) table {
	t := table{{"Thing", "Gate", "Why", "By", "At", "Holds"}}
	for _, w := range all {
		t = append(t, []string{w.Thing, w.Gate, w.Why, w.By, w.At.Local().Format("2006-01-02 15:04"), map[bool]string{true: "fallen: what it was given for has changed", false: "yes"}[w.Fallen]})
	}
	return t
}

func showLifecycle(ctx context.Context, c *ucli.Command, k *client.Client) error {
	l, err := k.Lifecycle(ctx, c.Args().First())
	if err != nil {
		return err
	}
	if c.Bool("document") {
		_, err = fmt.Fprint(c.Root().Writer, l.Text)
		return err
	}
	return emit(c, l, func() table {
		t := table{{"From", "Move", "To", "Who", "Note", "Gates"}}
		for _, m := range l.Document.Moves {
			var gates []string
			for _, g := range m.Gates {
				gates = append(gates, g.String())
			}
			t = append(t, []string{strings.Join(m.From, ", "), m.Key, m.To, m.Who.String(), yesNo(m.Note), strings.Join(gates, "; ")})
		}
		return t
	})
}

func yesNo(b bool) string { return map[bool]string{true: "yes", false: ""}[b] }

func applyLifecycle(ctx context.Context, c *ucli.Command, k *client.Client) error {
	text, err := readDocument(c.Args().First())
	if err != nil {
		return err
	}
	p, err := k.PreviewLifecycle(ctx, text)
	if err != nil {
		return err
	}
	if c.Bool("try") {
		return emit(c, p, func() table {
			t := table{{"What", "Would be"}}
			if p.New {
				t = append(t, []string{"lifecycle " + p.Name, "new"})
			}
			for _, g := range p.Gone {
				t = append(t, []string{fmt.Sprintf("%s is gone; %s in it", g.Was.Word, count(g.Things, "thing", "things")), "become " + g.Becomes.Word})
			}
			for _, s := range p.Added {
				t = append(t, []string{"state " + s, "new"})
			}
			for _, m := range p.Moves {
				t = append(t, []string{"move", m})
			}
			if p.Counting != "" {
				t = append(t, []string{"revisions", "counted by " + p.Counting})
			}
			if len(t) == 1 {
				t = append(t, []string{"nothing", "another: moves, states and counting are those in force"})
			}
			return t
		})
	}
	l, err := k.ApplyLifecycle(ctx, p.Version, text)
	if err != nil {
		return err
	}
	return emit(c, l, func() table {
		return table{{"Lifecycle", "Revision", "States", "Moves"}, {l.Name, strconv.Itoa(l.Revision), strconv.Itoa(len(l.Document.Status) + len(l.Document.Standing)), strconv.Itoa(len(l.Document.Moves))}}
	})
}

func count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return strconv.Itoa(n) + " " + many
}

// lives are the commands of where a thing is, for parts and for models alike. find names the thing.
func lives(noun, example string, flags []ucli.Flag, find func(context.Context, *client.Client, *ucli.Command, string) (id string, version int, err error)) []*ucli.Command {
	with := func(more ...ucli.Flag) []ucli.Flag { return append(append([]ucli.Flag{}, flags...), more...) }
	life := func(ctx context.Context, k *client.Client, c *ucli.Command) (wire.Life, error) {
		id, _, err := find(ctx, k, c, c.Args().First())
		if err != nil {
			return wire.Life{}, err
		}
		return k.Life(ctx, id)
	}
	return []*ucli.Command{
		command("life", "say where a "+strings.Replace(noun, "bom", "BOM", 1)+" is, and what keeps it from going on", "NAME", "jolly "+noun+" life "+example, 1, 1, flags, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := life(ctx, k, c)
			if err != nil {
				return err
			}
			return emit(c, l, func() table { return lifeTable(l) })
		}),
		command("move", "move it on by a move of its lifecycle; --try says what keeps it from it, and writes nothing", "NAME... MOVE", "jolly "+noun+" move "+example+" 'ask for review'", 2, -1,
			with(&ucli.StringFlag{Name: "note"}, &ucli.StringFlag{Name: "revision", Usage: "`LABEL` of the revision that is moved; the newest where it is blank"}, &ucli.BoolFlag{Name: "minor", Usage: "only the second figure of its label counts on"},
				&ucli.BoolFlag{Name: "skip", Usage: "leave those that cannot be moved"}, &ucli.BoolFlag{Name: "try"}), func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				args := c.Args().Slice()
				in := wire.MoveThings{Move: args[len(args)-1], Note: c.String("note"), Revision: c.String("revision"), Minor: c.Bool("minor"), Skip: c.Bool("skip")}
				for _, name := range args[:len(args)-1] {
					id, version, err := find(ctx, k, c, name)
					if err != nil {
						return fmt.Errorf("%s: %w", name, err)
					}
					in.Things = append(in.Things, wire.PartBase{ID: id, Version: version})
				}
				return move(ctx, c, k, in)
			}),
		command("waive", "let it pass a gate, with a reason; - takes that back", "NAME GATE WHY", "jolly "+noun+" waive "+example+" datasheet 'the maker sends it next week'", 3, 3, flags, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := life(ctx, k, c)
			if err != nil {
				return err
			}
			l, err = k.Waive(ctx, l.ID, l.Version, c.Args().Get(1), strings.TrimPrefix(c.Args().Get(2), "-"))
			if err != nil {
				return err
			}
			return emit(c, l, func() table { return waiverTable(l.Waivers) })
		}),
		command("proof", "note the built boards on which its newest revision worked", "NAME BOARDS WHICH", "jolly "+noun+" proof "+example+" 20 'tide gauge C, lot 3'", 3, 3, flags, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			boards, err := strconv.Atoi(c.Args().Get(1))
			if err != nil {
				return Usage("%q is no number of boards", c.Args().Get(1))
			}
			l, err := life(ctx, k, c)
			if err != nil {
				return err
			}
			l, err = k.Prove(ctx, l.ID, l.Version, wire.Prove{Boards: boards, Which: c.Args().Get(2)})
			if err != nil {
				return err
			}
			return emit(c, l, func() table {
				t := table{{"Boards", "Which", "By", "Content"}}
				for _, p := range l.Proofs {
					t = append(t, []string{strconv.Itoa(p.Boards), p.Which, p.By, map[bool]string{true: "as it is now", false: "an earlier one"}[p.Current]})
				}
				return t
			})
		}),
	}
}

// livesOfBOMs are those of BOMs: what was built of one is said of its revision, and freezing is more than a move.
func livesOfBOMs() []*ucli.Command {
	find := func(ctx context.Context, k *client.Client, _ *ucli.Command, key string) (string, int, error) {
		b, err := k.BOM(ctx, key)
		return b.ID, b.Version, err
	}
	return slices.DeleteFunc(lives("bom", "'Tide logger rev B'", nil, find), func(c *ucli.Command) bool { return c.Name == "proof" })
}

// move carries a move out, or says what it would do.
func move(ctx context.Context, c *ucli.Command, k *client.Client, in wire.MoveThings) error {
	if c.Bool("try") {
		p, err := k.PreviewMove(ctx, in)
		if err != nil {
			return err
		}
		err = emit(c, p, func() table {
			t := table{{"Things", "What", "Mend"}}
			if p.Things > 0 {
				t = append(t, []string{strconv.Itoa(p.Things), "can be moved", ""})
			}
			for _, r := range p.Cannot {
				t = append(t, []string{strconv.Itoa(r.Count), r.What, r.Mend})
			}
			return t
		})
		if err == nil && len(p.Cannot) > 0 {
			err = ErrFindings
		}
		return err
	}
	done, err := k.Move(ctx, in)
	if err != nil {
		return err
	}
	err = emit(c, done, func() table {
		t := table{{"Moved", "Left"}, {strconv.Itoa(done.Things), strconv.Itoa(done.Left)}}
		if len(done.Holders) > 0 {
			t[0], t[1] = append(t[0], "Held by"), append(t[1], strings.Join(done.Holders, ", "))
		}
		return t
	})
	if err == nil && done.Left > 0 {
		err = ErrFindings
	}
	return err
}

func lifeTable(l wire.Life) table {
	t := table{{"What", "Is", "Why not"}, {"status", l.States.Status.Word, ""}}
	if l.States.Draft != nil {
		t = append(t, []string{"draft", l.States.Draft.Word, ""})
	}
	t = append(t, []string{"standing", l.States.Standing.Word, ""})
	if l.Boards > 0 {
		t = append(t, []string{"proof", count(l.Boards, "board", "boards"), ""})
	}
	if l.Hold != nil {
		t = append(t, []string{"held", "by " + l.Hold.By, "until " + l.Hold.Until.UTC().Format("2006-01-02 15:04 UTC") + ": " + l.Hold.Why})
	}
	if len(l.Authors) > 0 {
		t = append(t, []string{"authors", strings.Join(l.Authors, ", "), ""})
	}
	for _, m := range l.Moves {
		var not []string
		if m.Not != "" {
			not = append(not, strings.TrimSuffix(m.Not, "."))
		}
		for _, g := range m.Gates {
			switch {
			case g.Waived:
				not = append(not, fmt.Sprintf("(waived: %s)", g.Why))
			case !g.Holds:
				not = append(not, g.Why)
			}
		}
		t = append(t, []string{"move " + m.Key, "→ " + m.To.Word, strings.Join(not, "; ")})
	}
	return t
}

func findPart(ctx context.Context, k *client.Client, _ *ucli.Command, key string) (string, int, error) {
	p, err := k.Part(ctx, key)
	return p.ID, p.Version, err
}

func findModelVersion(ctx context.Context, k *client.Client, c *ucli.Command, key string) (string, int, error) {
	m, err := findModel(ctx, k, c, key)
	return m.ID, m.Version, err
}
