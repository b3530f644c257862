package cli

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/internal/wire"
)

func deliveryCommand() *ucli.Command {
	return group("delivery", "model files as they arrive: archives, libraries, single files", "library",
		command("bring", "bring in files or archives, for a part or without one", "FILE...", "jolly delivery bring tide-logger.zip --part EW-U-00001", 1, -1,
			[]ucli.Flag{&ucli.StringFlag{Name: "part", Usage: "`NUMBER` of the part it is for"}, &ucli.StringFlag{Name: "name"}}, bringDelivery),
		command("list", "list deliveries", "", "jolly delivery list", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Deliveries(ctx, 0, 100)
			if err != nil {
				return err
			}
			return emit(c, l, func() table {
				t := table{{"Number", "Name", "Part", "Files", "Used", "When"}}
				for _, d := range l.Items {
					t = append(t, []string{d.Number, d.Name, d.Part, strconv.Itoa(len(d.Files)), strconv.Itoa(d.Count), d.Updated.Format("2006-01-02 15:04")})
				}
				return t
			})
		}),
		command("show", "show what the files became, and what the library has of it", "DELIVERY", "jolly delivery show DL-00001", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			d, err := k.Delivery(ctx, c.Args().First())
			return deliveryDone(c, d, err)
		}),
		command("use", "take models into the library and link them to the part; all where no key is given", "DELIVERY [KEY...]", "jolly delivery use DL-00001 --reuse 1.0='Chip 0805 nominal' --release 'as delivered'", 1, -1,
			[]ucli.Flag{releaseFlag(), &ucli.StringFlag{Name: "part", Usage: "`NUMBER` of the part; the delivery's own where it is blank"},
				&ucli.StringSliceFlag{Name: "reuse", Usage: "`KEY=NAME`: the library's model instead"}, &ucli.StringSliceFlag{Name: "name", Usage: "`KEY=NAME`: the house's name for it"},
				&ucli.BoolFlag{Name: "reuse-same", Usage: "take the library's model wherever it is the same"}, &ucli.BoolFlag{Name: "correct", Usage: "correct how bodies sit, where there is no doubt"},
				&ucli.StringSliceFlag{Name: "way", Usage: "`KEY=NUMBER` of the way in which a body sits, where boxes allow several"},
				&ucli.BoolFlag{Name: "attach", Usage: "attach datasheets and other files to the part"}}, useDelivery),
		command("intake", "make an intake of a library of many: each drawing once, a part for each symbol", "DELIVERY SUPPLIER", "jolly delivery intake DL-00002 'Pier 3 library' --release 'from the old library'", 2, 2,
			[]ucli.Flag{&ucli.StringFlag{Name: "release", Required: true, Usage: "release `NOTE` of the drawings"}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				d, err := k.Delivery(ctx, c.Args().First())
				if err != nil {
					return err
				}
				i, err := k.LibraryIntake(ctx, d.ID, d.Version, wire.LibraryIntake{Supplier: c.Args().Get(1), Note: c.String("release")})
				if err != nil {
					return err
				}
				return emit(c, i, func() table {
					return pairs("Intake", i.Number, "File", i.FileName, "Next", "jolly intake show "+i.Number)
				})
			}),
	)
}

func bringDelivery(ctx context.Context, c *ucli.Command, k *client.Client) error {
	in := wire.NewDelivery{Name: c.String("name"), Part: c.String("part")}
	for _, path := range c.Args().Slice() {
		f, err := uploadFile(ctx, k, path)
		if err != nil {
			return err
		}
		in.Files = append(in.Files, part.File{Hash: f.Hash, Name: f.Name})
	}
	d, err := k.Deliver(ctx, in)
	return deliveryDone(c, d, err)
}

func deliveryDone(c *ucli.Command, d wire.Delivery, err error) error {
	if err != nil {
		return err
	}
	return emit(c, d, func() table {
		t := table{{"Key", "Kind", "Name", "What it is", "Beside the library"}}
		for _, f := range d.Files {
			t = append(t, []string{"file", f.Is, f.Path, f.What, ""})
			for _, w := range f.Wrong {
				t = append(t, []string{"not read: " + w}) // a line of its own is never cut
			}
			for _, w := range f.Said {
				t = append(t, []string{"said: " + w})
			}
		}
		for _, m := range d.Models {
			beside := ""
			switch {
			case m.Used != nil:
				beside = "used as " + m.Used.Name
			case len(m.Same) > 0:
				beside = fmt.Sprintf("%s %s, used by %s", m.Same[0].Name, m.Same[0].How, count(m.Same[0].Uses, "part", "parts"))
			case m.Named != nil:
				beside = "another drawing has this name"
			}
			if m.Twin != "" {
				beside = "the same as " + m.Twin + " of this delivery; " + beside
			}
			if m.Asked != "" {
				beside += "; " + m.Asked
			}
			for _, f := range m.Fit.Findings {
				beside += "; " + f.What
			}
			for i, w := range m.Fit.Placings {
				if !w.Certain {
					beside += fmt.Sprintf("; way %d: %s", i+1, w.What)
				}
			}
			t = append(t, []string{m.Key, m.Kind, m.Name, m.What, strings.TrimPrefix(beside, "; ")})
		}
		return t
	})
}

func keyed(list []string, flag string) (map[string]string, error) {
	out := map[string]string{}
	for _, l := range list {
		k, v, ok := strings.Cut(l, "=")
		if !ok {
			return nil, Usage("--%s is KEY=NAME, such as 1.0='Chip 0805 nominal'", flag)
		}
		out[k] = v
	}
	return out, nil
}

func useDelivery(ctx context.Context, c *ucli.Command, k *client.Client) error {
	d, err := k.Delivery(ctx, c.Args().First())
	if err != nil {
		return err
	}
	reuse, err := keyed(c.StringSlice("reuse"), "reuse")
	if err != nil {
		return err
	}
	names, err := keyed(c.StringSlice("name"), "name")
	if err != nil {
		return err
	}
	ways, err := keyed(c.StringSlice("way"), "way")
	if err != nil {
		return err
	}
	in := wire.UseDelivery{Part: c.String("part"), Note: c.String("release"), Models: []wire.UsedModel{}}
	if in.Part == "" {
		in.Part = d.Part
	}
	wanted := map[string]bool{}
	for _, key := range c.Args().Tail() {
		wanted[key] = true
	}
	for _, m := range d.Models {
		if len(wanted) > 0 && !wanted[m.Key] || len(wanted) == 0 && m.Twin != "" { // a twin is taken once
			continue
		}
		u := wire.UsedModel{Key: m.Key, Name: names[m.Key]}
		if u.Name == "" {
			u.Name = m.House
		}
		if name := reuse[m.Key]; name != "" {
			have, err := k.Model(ctx, m.Kind+": "+name)
			if err != nil {
				return err
			}
			u.Reuse = have.ID
		} else if c.Bool("reuse-same") && len(m.Same) > 0 && m.Same[0].Revision > 0 && (m.Same[0].How == "is the same" || m.Same[0].How == "is the same file") {
			u.Reuse = m.Same[0].ID
		}
		if place, ok := m.Fit.Certain(); ok && c.Bool("correct") && u.Reuse == "" {
			u.Correct = &place
		}
		if way := ways[m.Key]; way != "" {
			n, err := strconv.Atoi(way)
			if err != nil || n < 1 || n > len(m.Fit.Placings) {
				return fmt.Errorf("%s can sit in %d ways; %q is none of them: see jolly delivery show %s", m.Name, len(m.Fit.Placings), way, d.Number)
			}
			u.Correct = &m.Fit.Placings[n-1].Place
		}
		in.Models = append(in.Models, u)
	}
	if c.Bool("attach") {
		for _, f := range d.Files {
			if f.Is != "models" && f.Is != "refused" {
				in.Files = append(in.Files, f.Path)
			}
		}
	}
	d, err = k.UseDelivery(ctx, d.ID, d.Version, in)
	return deliveryDone(c, d, err)
}

func pinsCommands() []*ucli.Command {
	return []*ucli.Command{
		command("pins", "show which pin goes to which pad, and how the body sits", "NUMBER", "jolly part pins EW-R-00001", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			p, err := k.PinsOnPads(ctx, c.Args().First())
			return pinsDone(c, p, err)
		}),
		command("map", "give a part a pin map: PIN=PAD pairs over pins on pads of their own number", "NUMBER [PIN=PAD[,PAD]...]", "jolly part map EW-Q-00001 B=1 E=2 C=3 --release 'from the datasheet'", 1, -1,
			[]ucli.Flag{releaseFlag(), &ucli.StringFlag{Name: "name"}, &ucli.StringSliceFlag{Name: "free", Usage: "`PAD` without a pin on purpose"},
				&ucli.StringSliceFlag{Name: "no-pad", Usage: "`PIN` without a pad on purpose"}, &ucli.BoolFlag{Name: "same", Usage: "back to pins on pads of their own number"}}, mapPins),
		command("land", "add a land pattern for another assembly or density, make it the default, or remove it; of a part alone, list them", "NUMBER [add|default|remove NAME]", "jolly part land EW-R-00001 add 'Chip 0805 hand' --for 'hand assembly'", 1, 3,
			[]ucli.Flag{&ucli.StringFlag{Name: "for", Usage: "`WHAT` it is for; of a new default: what the old one is for from now on"}}, chooseLand),
		command("place-body", "correct how a part's body sits on its pads, as proposed", "NUMBER", "jolly part place-body EW-U-00001 --release 'turned by 90°'", 1, 1,
			[]ucli.Flag{releaseFlag(), &ucli.BoolFlag{Name: "only-here", Usage: "for this land pattern only"}, &ucli.IntFlag{Name: "way", Usage: "`NUMBER` of the way, where boxes allow several"}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
				p, err := k.PinsOnPads(ctx, c.Args().First())
				if err != nil {
					return err
				}
				place, err := placing(p, c.Int("way"))
				if err != nil {
					return err
				}
				p, err = k.PlaceBody(ctx, p.Part, p.Version, wire.PlaceBody{Place: place, OnlyHere: c.Bool("only-here"), Note: c.String("release")})
				return pinsDone(c, p, err)
			}),
	}
}

// placing is the way that was chosen, or the only one where it is certain.
func placing(p wire.PinsOnPads, way int) (model.Placement, error) {
	ways := p.Fit.Placings
	if place, ok := p.Fit.Certain(); ok && way == 0 {
		return place, nil
	}
	switch {
	case len(ways) == 0 && len(p.Fit.Findings) == 0:
		return model.Placement{}, fmt.Errorf("%s: nothing is wrong with how the body sits, as far as its box and its feet tell", p.Part)
	case len(ways) == 0:
		return model.Placement{}, fmt.Errorf("%s: %s; %s", p.Part, p.Fit.Findings[0].What, p.Fit.Findings[0].Mend)
	case way < 1 || way > len(ways):
		all := make([]string, len(ways))
		for i, w := range ways {
			all[i] = fmt.Sprintf("%d: %s", i+1, w.What)
		}
		return model.Placement{}, fmt.Errorf("%s: boxes allow several ways; say which with --way (%s)", p.Part, strings.Join(all, "; "))
	}
	return ways[way-1].Place, nil
}

func pinsDone(c *ucli.Command, p wire.PinsOnPads, err error) error {
	if err != nil {
		return err
	}
	err = emit(c, p, func() table {
		t := table{{"Pin", "Name", "Type", "Pads", "List", "What"}}
		for _, r := range p.Rows {
			pads := strings.Join(r.Pads, ", ")
			if r.NoPad {
				pads = "none, on purpose"
			}
			t = append(t, []string{r.Pin, r.Name, r.Type, pads, r.Listed, r.What})
		}
		for _, f := range p.Findings {
			t = append(t, []string{string(f.Severity), f.Cause, "", "", "", f.What})
		}
		for _, f := range p.Fit.Findings {
			t = append(t, []string{string(f.Severity), f.Cause, "", "", "", f.What + "; " + f.Mend})
		}
		for i, w := range p.Fit.Placings {
			t = append(t, []string{"way " + strconv.Itoa(i+1), "", "", "", "", w.What})
		}
		return t
	})
	if err == nil && len(p.Findings)+len(p.Fit.Findings) > 0 {
		return ErrFindings
	}
	return err
}

func mapPins(ctx context.Context, c *ucli.Command, k *client.Client) error {
	p, err := k.PinsOnPads(ctx, c.Args().First())
	if err != nil {
		return err
	}
	in := wire.MapPins{Name: c.String("name"), Note: c.String("release"), Same: c.Bool("same"), Map: model.PinMap{Pairs: []model.Pair{}, Free: c.StringSlice("free"), NoPad: c.StringSlice("no-pad")}}
	said, err := keyed(c.Args().Tail(), "map")
	if err != nil {
		return Usage("a pair is PIN=PAD, such as B=1")
	}
	taken := map[string]bool{}
	for _, pads := range said {
		for _, d := range strings.Split(pads, ",") {
			taken[d] = true
		}
	}
	for _, r := range p.Rows {
		pads := []string{}
		if own, ok := said[r.Pin]; ok {
			pads = strings.Split(own, ",")
			delete(said, r.Pin)
		} else {
			for _, d := range r.Pads {
				if !taken[d] {
					pads = append(pads, d)
				}
			}
		}
		if len(pads) > 0 {
			in.Map.Pairs = append(in.Map.Pairs, model.Pair{Pin: r.Pin, Pads: pads})
		}
	}
	for pin := range said {
		return fmt.Errorf("the symbol has no pin %q", pin)
	}
	p, err = k.MapPins(ctx, p.Part, p.Version, in)
	return pinsDone(c, p, err)
}

func readoutCommand() *ucli.Command {
	return group("readout", "what design tools read", "library",
		command("show", "which tables design tools find, and where; with a drawer, its columns", "[DRAWER]", "jolly readout show chip-resistors", 0, 1, nil, showReadout),
		command("folder", "write the model files of all released parts, or of one, into a folder", "DIR [NUMBER]", "jolly readout folder /srv/models", 1, 2, nil, writeFolder))
}

// writeFolder writes the files of the readout folder beside those that are there, and then moves the whole at once: DIR/library
// is a link that always leads to one complete state.
func writeFolder(ctx context.Context, c *ucli.Command, k *client.Client) error {
	dir := c.Args().First()
	r, err := k.ReadoutFolder(ctx, c.Args().Get(1))
	if err != nil {
		return err
	}
	defer r.Close()
	raw, err := readAll(r)
	if err != nil {
		return err
	}
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw))) // the service's own, as large as its library
	if err != nil {
		return fmt.Errorf("the answer of the service is no archive: %w", err)
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return fmt.Errorf("the folder cannot be made: %w", err)
	}
	state, err := os.MkdirTemp(dir, ".state-")
	if err != nil {
		return fmt.Errorf("the folder cannot be written: %w", err)
	}
	var written int64
	for _, f := range z.File {
		if !filepath.IsLocal(filepath.FromSlash(f.Name)) {
			return fmt.Errorf("the archive holds the path %q, which leads out of the folder", f.Name)
		}
		r, err := f.Open()
		if err != nil {
			return err
		}
		content, err := io.ReadAll(r)
		r.Close()
		if err != nil {
			return fmt.Errorf("%s: %w", f.Name, err)
		}
		to := filepath.Join(state, filepath.FromSlash(f.Name))
		if err := os.MkdirAll(filepath.Dir(to), 0o755); err != nil {
			return err
		}
		if err := os.WriteFile(to, content, 0o644); err != nil {
			return fmt.Errorf("the folder cannot be written: %w", err)
		}
		written += int64(len(content))
	}
	if err := os.Chmod(state, 0o755); err != nil {
		return err
	}
	if err := switchTo(dir, filepath.Base(state)); err != nil {
		return err
	}
	out := wire.ReadoutFolder{Files: len(z.File), Bytes: written}
	return emit(c, out, func() table {
		return pairs("Folder", filepath.Join(dir, "library"), "Files", strconv.Itoa(out.Files), "Bytes", strconv.FormatInt(out.Bytes, 10))
	})
}

// switchTo makes DIR/library lead to a state in one step, and removes states older than the one before.
func switchTo(dir, state string) error {
	link := filepath.Join(dir, "library")
	before, _ := os.Readlink(link) // none the first time
	next := filepath.Join(dir, state+".link")
	if err := os.Symlink(state, next); err != nil {
		return fmt.Errorf("the folder cannot be switched: %w", err)
	}
	if err := os.Rename(next, link); err != nil {
		return fmt.Errorf("the folder cannot be switched: %w", err)
	}
	old, err := filepath.Glob(filepath.Join(dir, ".state-*"))
	if err != nil {
		return err
	}
	for _, o := range old { // a tool may still be reading the state before this one
		if b := filepath.Base(o); b != state && b != before {
			if err := os.RemoveAll(o); err != nil {
				return err
			}
		}
	}
	return nil
}
