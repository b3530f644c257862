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

func seriesCommand() *ucli.Command {
	return group("series", "one manufacturer's parts under one datasheet", "parts",
		command("list", "list the series", "", "jolly series list", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.SeriesList(ctx, 0, 1000)
			if err != nil {
				return err
			}
			return emit(c, l, func() table {
				t := table{{"Series", "Members", "Datasheets"}}
				for _, s := range l.Items {
					t = append(t, []string{s.Number, strconv.Itoa(s.Members), fileNames(s.Datasheets)})
				}
				return t
			})
		}),
		command("propose", "list the series that parts look as though they were of, and with --accept make them", "[MANUFACTURER]", "jolly series propose Tidewright", 0, 1,
			[]ucli.Flag{&ucli.StringSliceFlag{Name: "accept", Usage: "make the `SERIES`, as it is listed; may be given again"}, &ucli.BoolFlag{Name: "accept-all", Usage: "make all that are listed"}}, proposeSeries),
		command("show", "show a series with its parts", "SERIES", "jolly series show 'Tidewright: TW-0805'", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			s, err := k.Series(ctx, c.Args().First())
			return emitSeries(c, s, err)
		}),
		command("make", "make a series of part numbers", "MANUFACTURER NAME MPN...", "jolly series make Tidewright TW-0805 TW-0805-1K0-F", 2, -1, []ucli.Flag{sheetFlag()}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			a := c.Args().Slice()
			in := wire.SeriesEdit{Manufacturer: a[0], Name: a[1], Members: a[2:], Datasheets: []part.File{}}
			if err := withSheets(ctx, c, k, &in); err != nil {
				return err
			}
			s, err := k.MakeSeries(ctx, in)
			return emitSeries(c, s, err)
		}),
		command("add", "put part numbers into a series, or attach a datasheet to it", "SERIES [MPN...]", "jolly series add 'Tidewright: TW-0805' TW-0805-2K0-F", 1, -1, []ucli.Flag{sheetFlag()}, changeSeries(func(in *wire.SeriesEdit, mpns []string) error {
			in.Members = append(in.Members, mpns...)
			return nil
		})),
		command("remove", "take part numbers out of a series", "SERIES MPN...", "jolly series remove 'Tidewright: TW-0805' TW-0805-2K0-F", 2, -1, nil, changeSeries(func(in *wire.SeriesEdit, mpns []string) error {
			for _, m := range mpns {
				n := len(in.Members)
				in.Members = slices.DeleteFunc(in.Members, func(have string) bool { return part.NormaliseMPN(have) == part.NormaliseMPN(m) })
				if len(in.Members) == n {
					return Usage("%s is not in %s: %s", m, in.Manufacturer, in.Name)
				}
			}
			return nil
		})),
		command("rename", "call a series otherwise", "SERIES NAME", "jolly series rename 'Tidewright: TW-0805' 'TW 0805'", 2, 2, nil, changeSeries(func(in *wire.SeriesEdit, rest []string) error {
			in.Name = rest[0]
			return nil
		})),
	)
}

func sheetFlag() ucli.Flag {
	return &ucli.StringSliceFlag{Name: "datasheet", Usage: "`FILE` to attach, which all its parts have then; may be given again"}
}

// withSheets uploads the datasheets that are to be attached to a series.
func withSheets(ctx context.Context, c *ucli.Command, k *client.Client, in *wire.SeriesEdit) error {
	for _, path := range c.StringSlice("datasheet") {
		f, err := uploadFile(ctx, k, path)
		if err != nil {
			return err
		}
		in.Datasheets = append(in.Datasheets, part.File{Hash: f.Hash, Name: f.Name})
	}
	return nil
}

// changeSeries loads a series, changes what it says, and keeps it.
func changeSeries(change func(in *wire.SeriesEdit, rest []string) error) func(context.Context, *ucli.Command, *client.Client) error {
	return func(ctx context.Context, c *ucli.Command, k *client.Client) error {
		s, err := k.Series(ctx, c.Args().First())
		if err != nil {
			return err
		}
		in := s.Said
		if err := change(&in, c.Args().Tail()); err != nil {
			return err
		}
		if err := withSheets(ctx, c, k, &in); err != nil {
			return err
		}
		s, err = k.ChangeSeries(ctx, s.ID, s.Version, in)
		return emitSeries(c, s, err)
	}
}

func proposeSeries(ctx context.Context, c *ucli.Command, k *client.Client) error {
	l, err := k.SeriesProposals(ctx, c.Args().First(), 0, 500)
	if err != nil {
		return err
	}
	wanted := c.StringSlice("accept")
	if len(wanted) == 0 && !c.Bool("accept-all") {
		return emit(c, l, func() table {
			t := table{{"Series", "Members", "Why", "Such as"}}
			for _, p := range l.Items {
				why := p.Why
				if p.Into != "" {
					why += "; the series is there"
				}
				t = append(t, []string{p.Number(), strconv.Itoa(len(p.Members)), why, strings.Join(p.Members[:min(3, len(p.Members))], ", ")})
			}
			return t
		})
	}
	var made []wire.Series
	for _, p := range l.Items {
		at := slices.Index(wanted, p.Number())
		if at < 0 && !c.Bool("accept-all") {
			continue
		}
		if at >= 0 {
			wanted = slices.Delete(wanted, at, at+1)
		}
		in := wire.SeriesEdit(p.Content)
		var s wire.Series
		if p.Into == "" {
			s, err = k.MakeSeries(ctx, in)
		} else if s, err = k.Series(ctx, p.Into); err == nil {
			all := s.Said
			all.Members = append(all.Members, in.Members...)
			s, err = k.ChangeSeries(ctx, s.ID, s.Version, all)
		}
		if err != nil {
			return err
		}
		made = append(made, s)
	}
	if len(wanted) > 0 {
		return Usage("no series %q is proposed: see jolly series propose", wanted[0])
	}
	return emit(c, made, func() table {
		t := table{{"Series", "Members", "Parts"}}
		for _, s := range made {
			t = append(t, []string{s.Number, strconv.Itoa(len(s.Said.Members)), strconv.Itoa(s.Total)})
		}
		return t
	})
}

func fileNames(all []part.File) string {
	var out []string
	for _, f := range all {
		out = append(out, f.Name)
	}
	return strings.Join(out, ", ")
}

func emitSeries(c *ucli.Command, s wire.Series, err error) error {
	if err != nil {
		return err
	}
	return emit(c, s, func() table {
		t := pairs("Series", s.Number, "Members", strconv.Itoa(len(s.Said.Members)), "Datasheets", fileNames(s.Said.Datasheets), "Note", s.Said.Note)
		for _, p := range s.Parts {
			t = append(t, []string{p.Number, strings.TrimSpace(p.MPN + "  " + p.Description)})
		}
		if n := s.Total - len(s.Parts); n > 0 {
			t = append(t, []string{"", fmt.Sprintf("and %d more", n)})
		}
		for _, m := range s.Absent {
			t = append(t, []string{"not in the library", m})
		}
		return t
	})
}
