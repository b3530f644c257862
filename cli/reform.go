package cli

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/internal/wire"
)

// changeCommands change templates that parts use.
func changeCommands() []*ucli.Command {
	flags := []ucli.Flag{&ucli.StringFlag{Name: "file", Usage: "a whole cabinet document instead of, or laid over, the steps"}, &ucli.StringFlag{Name: "steps", Usage: "`FILE` with a YAML list of steps"},
		&ucli.StringFlag{Name: "note"}, &ucli.BoolFlag{Name: "apply", Usage: "make the change; without it only the preview is shown"}}
	return []*ucli.Command{
		command("change", "change templates that parts use: preview first, then --apply", "[STEP KEY=VALUE...]",
			"jolly cabinet change rename parameter=power to=power-rating label='Power rating'\n  jolly cabinet change retire parameter=qualification --apply\n  jolly cabinet change move drawer=pin-headers to=data-connectors parts=EW-J-00001,EW-J-00002\n  jolly cabinet change retype parameter=pins type=measure of=length", 0, -1, flags, changeCabinet),
		command("undo", "take the last change of templates back by its reverse", "", "jolly cabinet undo --apply", 0, 0, []ucli.Flag{&ucli.BoolFlag{Name: "apply", Usage: "take it back; without it only the preview is shown"}},
			func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				h, err := k.CabinetHistory(ctx)
				if err != nil {
					return err
				}
				if len(h.Items) == 0 || len(h.Items[0].Reverse) == 0 {
					return fmt.Errorf("the last change cannot be taken back: information was lost, or it was a whole document. Earlier revisions of the parts keep their values")
				}
				return runChange(ctx, c, k, wire.CabinetChange{Steps: h.Items[0].Reverse, Note: "took back: " + h.Items[0].Note})
			}),
		command("history", "what was changed in the cabinet", "", "jolly cabinet history", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			h, err := k.CabinetHistory(ctx)
			if err != nil {
				return err
			}
			return emit(c, h, func() table {
				t := table{{"Revision", "When", "Who", "What", "Parts"}}
				for _, r := range h.Items {
					t = append(t, []string{strconv.Itoa(r.Revision), r.At.Local().Format("2006-01-02 15:04"), r.By, r.Note, strconv.Itoa(r.Parts)})
				}
				return t
			})
		}),
		command("use", "how complete a drawer's parts are, and what names it", "DRAWER", "jolly cabinet use chip-resistors", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			u, err := k.DrawerUse(ctx, c.Args().First())
			if err != nil {
				return err
			}
			return emit(c, u, func() table {
				t := table{{"Parameter", "Required", "Filled", ""}}
				for _, s := range u.Filled {
					required, share := "", 0
					if s.Required {
						required = "required"
					}
					if u.Parts > 0 {
						share = s.Parts * 20 / u.Parts
					}
					t = append(t, []string{s.Label, required, fmt.Sprintf("%d of %d", s.Parts, u.Parts), strings.Repeat("█", share) + strings.Repeat("░", 20-share)})
				}
				return t
			})
		}),
		&ucli.Command{Name: "starter", Usage: "print the starter cabinet, to begin with; needs no service", Description: "Example:\n  jolly cabinet starter > cabinet.yaml", Action: func(_ context.Context, c *ucli.Command) error {
			_, err := c.Root().Writer.Write(cabinet.StarterText)
			return err
		}},
	}
}

// stepOf reads a step from words such as rename parameter=power to=power-rating.
func stepOf(args []string) (cabinet.Step, error) {
	s := cabinet.Step{Do: args[0]}
	for _, a := range args[1:] {
		key, v, ok := strings.Cut(a, "=")
		if !ok {
			return s, Usage("%q is not KEY=VALUE, such as parameter=power", a)
		}
		switch key {
		case "parameter":
			s.Parameter = v
		case "to":
			s.To = v
		case "label":
			s.Label = v
		case "type":
			s.Type = cabinet.Type(v)
		case "of":
			s.Of = v
		case "choices":
			s.Choices = strings.Split(v, ",")
		case "show":
			s.Show = v
		case "assumeUnit":
			s.AssumeUnit = v
		case "drawer":
			s.Drawer = v
		case "parts":
			s.Parts = strings.Split(v, ",")
		case "into": // PARAMETER:TAKE[:MARK]
			f := strings.SplitN(v, ":", 3)
			if len(f) < 2 {
				return s, Usage("into is PARAMETER:TAKE, such as voltage-min:low, or PARAMETER:before:/")
			}
			off := cabinet.SplitOff{Parameter: f[0], Take: f[1]}
			if len(f) == 3 {
				off.Mark = f[2]
			}
			s.Into = append(s.Into, off)
		default:
			return s, Usage("a step has no %q: use parameter, to, label, type, of, choices, show, assumeUnit, into, drawer or parts", key)
		}
	}
	return s, nil
}

func changeCabinet(ctx context.Context, c *ucli.Command, k *client.Client) error {
	in := wire.CabinetChange{Note: c.String("note")}
	if c.NArg() > 0 {
		s, err := stepOf(c.Args().Slice())
		if err != nil {
			return err
		}
		in.Steps = append(in.Steps, s)
	}
	if path := c.String("steps"); path != "" {
		text, err := readDocument(path)
		if err != nil {
			return err
		}
		if err := document.ReadYAML([]byte(text), "the steps in "+path, &in.Steps); err != nil {
			return err
		}
	}
	if path := c.String("file"); path != "" {
		text, err := readDocument(path)
		if err != nil {
			return err
		}
		in.Text = text
	}
	if len(in.Steps) == 0 && in.Text == "" {
		return Usage("change needs a step, --steps FILE or --file FILE")
	}
	return runChange(ctx, c, k, in)
}

// runChange shows the preview and, where asked, makes the change.
func runChange(ctx context.Context, c *ucli.Command, k *client.Client, in wire.CabinetChange) error {
	p, err := k.PreviewChange(ctx, in)
	if err != nil {
		return err
	}
	if !c.Bool("apply") {
		if err := emit(c, p, func() table { return previewTable(p) }); err != nil {
			return err
		}
		fmt.Fprintln(c.Root().ErrWriter, "Nothing was changed. Add --apply to make the change.")
		return nil
	}
	in.Digest = p.Digest
	j, err := k.ChangeCabinet(ctx, p.Version, in)
	if err == nil {
		j, err = k.WaitJob(ctx, j.ID, nil)
	}
	if err != nil {
		return err
	}
	if j.State != "done" {
		return fmt.Errorf("%s", j.Error)
	}
	return emit(c, j, func() table {
		return pairs("Cabinet revision", strconv.Itoa(j.Changed.Revision), "Parts changed", strconv.Itoa(j.Changed.Parts), "New revisions", strconv.Itoa(j.Changed.Released), "Changed drafts", strconv.Itoa(j.Changed.Drafts))
	})
}

func previewTable(p wire.ChangePreview) table {
	undo := "no: information is lost"
	if p.Undoable {
		undo = "yes"
	}
	t := pairs("Parts that change", strconv.Itoa(p.Parts), "  get a new revision", strconv.Itoa(p.Released), "  wait in a draft", strconv.Itoa(p.Drafts), "Become incomplete", strconv.Itoa(p.Incomplete),
		"Values not carried over", strconv.Itoa(p.LossCount), "Crosswalks that follow", strings.Join(p.Crosswalks, ", "), "What else follows", strings.Join(p.Also, ", "), "Can be taken back", undo)
	for _, l := range p.Losses[:min(len(p.Losses), 20)] {
		t = append(t, []string{l.Number + " " + l.Parameter, l.Text + ": " + l.Why})
	}
	for _, s := range p.Samples {
		if s.Was != s.Description {
			t = append(t, []string{s.Number, s.Was + " → " + s.Description})
		}
	}
	return t
}
