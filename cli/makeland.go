package cli

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/model"
	"jollydrawer/internal/wire"
)

func landFlags() []ucli.Flag {
	return []ucli.Flag{releaseFlag(),
		&ucli.StringFlag{Name: "family", Usage: strings.Join(model.Families, ", ")},
		&ucli.StringSliceFlag{Name: "density", Usage: "most, nominal or least; several make several", Value: []string{"nominal"}},
		&ucli.IntFlag{Name: "pins"}, &ucli.IntFlag{Name: "pins-across", Usage: "of four rows: in each of the upper and lower ones"}, &ucli.StringFlag{Name: "pitch", Usage: "mm, or with a unit: 50mil"},
		&ucli.StringFlag{Name: "span", Usage: "`LEAST..GREATEST` over the ends of the terminals"}, &ucli.StringFlag{Name: "span-across", Usage: "the same of the upper and lower rows"},
		&ucli.StringFlag{Name: "lead-length", Usage: "of the part that is soldered"}, &ucli.StringFlag{Name: "lead-width", Usage: "of pins in holes their thickness"},
		&ucli.StringFlag{Name: "body", Usage: "`WIDTHxLENGTH`, each a figure or LEAST..GREATEST"}, &ucli.StringFlag{Name: "thermal", Usage: "`WIDTHxHEIGHT` of a thermal pad"},
		&ucli.IntFlag{Name: "rows"}, &ucli.IntFlag{Name: "columns"}, &ucli.StringFlag{Name: "ball", Usage: "diameter of a ball"}, &ucli.StringFlag{Name: "missing", Usage: "`BALLS` that are not there: D4-D9,E4"},
		&ucli.StringFlag{Name: "row-spacing", Usage: "of pins in holes in two rows"}, &ucli.StringFlag{Name: "count", Usage: "pins in two rows are numbered round or across"},
		&ucli.StringFlag{Name: "name", Usage: "`PATTERN` of the names: {family} {pins} {pitch} {width} {length} {density}"},
		&ucli.StringFlag{Name: "unit", Usage: "of a table of pads whose headings name none: mm, mil, inch or µm"},
		&ucli.BoolFlag{Name: "try", Usage: "show what would be made, and keep nothing"}}
}

func landFigures(c *ucli.Command) (f model.Figures, err error) {
	f = model.Figures{Family: c.String("family"), Pins: c.Int("pins"), PinsAcross: c.Int("pins-across"), Rows: c.Int("rows"), Columns: c.Int("columns"), Missing: c.String("missing"), Count: c.String("count"), Name: c.String("name")}
	width, length, _ := strings.Cut(c.String("body"), "x")
	thermalX, thermalY, _ := strings.Cut(c.String("thermal"), "x")
	for _, r := range []struct {
		flag, text string
		into       *model.Range
	}{{"span", c.String("span"), &f.Span}, {"span-across", c.String("span-across"), &f.SpanAcross}, {"lead-length", c.String("lead-length"), &f.LeadLength}, {"lead-width", c.String("lead-width"), &f.LeadWidth}, {"body", width, &f.BodyWidth}, {"body", length, &f.BodyLength}} {
		if r.text == "" {
			continue
		}
		if *r.into, err = model.ParseRange(r.text); err != nil {
			return f, Usage("--%s %v", r.flag, err)
		}
	}
	for _, l := range []struct {
		flag, text string
		into       *model.Length
	}{{"pitch", c.String("pitch"), &f.Pitch}, {"ball", c.String("ball"), &f.Ball}, {"row-spacing", c.String("row-spacing"), &f.RowSpacing}, {"thermal", thermalX, &f.ThermalX}, {"thermal", thermalY, &f.ThermalY}} {
		if l.text == "" {
			continue
		}
		if *l.into, err = model.ParseLength(l.text); err != nil {
			return f, Usage("--%s: %v", l.flag, err)
		}
	}
	return f, nil
}

func makeLand(ctx context.Context, c *ucli.Command, k *client.Client) error {
	in := wire.LandTry{Densities: c.StringSlice("density"), Unit: c.String("unit")}
	var edit wire.ModelEdit
	switch {
	case c.Args().Len() == 2:
		f, err := uploadFile(ctx, k, c.Args().Get(1))
		if err != nil {
			return err
		}
		in.File, in.Name, in.Densities = f.Hash, c.Args().First(), nil
		edit.FileHash, edit.FileName = f.Hash, f.Name
	case c.String("family") == "" || c.Args().Len() > 0:
		return Usage("make-land-pattern needs a --family with its figures, or a NAME and a FILE with a table of pads")
	default:
		f, err := landFigures(c)
		if err != nil {
			return err
		}
		in.Figures = &f
	}
	tried, err := k.TryLand(ctx, in)
	if err != nil {
		return err
	}
	if c.Bool("try") {
		return emit(c, tried, func() table {
			t := table{{"Name", "Pads", "What", "mm"}}
			for _, m := range tried.Made {
				t = append(t, []string{m.Name, strconv.Itoa(len(m.Land.Pads)), "", ""})
				for _, w := range m.Workings {
					t = append(t, []string{"", "", w.What, w.Value.String()})
				}
				for _, f := range m.Findings {
					t = append(t, []string{"", "", string(f.Severity) + ": " + f.What, ""})
				}
			}
			return t
		})
	}
	for _, m := range tried.Made {
		edit.Kind, edit.Name, edit.LandPattern = "land pattern", m.Name, m.Land
		if err := keepModel(ctx, c, k, edit); err != nil {
			return fmt.Errorf("%s: %w", m.Name, err)
		}
	}
	return nil
}
