package cli

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strconv"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/crosswalk"
	"jollydrawer/internal/wire"
)

func crosswalkCommand() *ucli.Command {
	return group("crosswalk", "which fields of a supplier fill which parameters", "library",
		command("list", "list the crosswalks", "", "jolly crosswalk list", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			l, err := k.Crosswalks(ctx, 0, 1000)
			if err != nil {
				return err
			}
			return emit(c, l, func() table {
				t := table{{"Crosswalk", "Revision", "Changed"}}
				for _, x := range l.Items {
					t = append(t, []string{x.Number, strconv.Itoa(x.Revision), x.Updated.Local().Format("2006-01-02 15:04")})
				}
				return t
			})
		}),
		command("show", "print a crosswalk as a document: of a supplier, or of one of its layouts", "CROSSWALK", "jolly crosswalk show 'Marsh Lane Components'", 1, 1, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			x, err := k.Crosswalk(ctx, c.Args().First())
			if err != nil {
				return err
			}
			if c.Bool("json") || c.String("as") == "json" {
				return emit(c, x, nil)
			}
			_, err = fmt.Fprint(c.Root().Writer, x.Text)
			return err
		}),
		command("apply", "make a document the crosswalk of the supplier it names", "FILE", "jolly crosswalk apply demo/crosswalks/marsh-lane.yaml", 1, 1, []ucli.Flag{&ucli.BoolFlag{Name: "try", Usage: "show which rows of open intakes would change, those that somebody settled first, and apply nothing"},
			&ucli.BoolFlag{Name: "even-settled", Usage: "also where it changes rows of open intakes that somebody settled"}}, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
			text, err := readDocument(c.Args().First())
			if err != nil {
				return err
			}
			doc, err := crosswalk.Parse([]byte(text))
			if err != nil {
				return err
			}
			if c.Bool("try") {
				t, err := k.TryCrosswalk(ctx, text)
				if err != nil {
					return err
				}
				return emit(c, t, func() table { return touchesTable(t) })
			}
			version := 0
			was, err := k.Crosswalk(ctx, doc.Number())
			var e *client.Error
			if err == nil {
				version = was.Version
			} else if !errors.As(err, &e) || e.Status != http.StatusNotFound {
				return err
			}
			now, err := k.PutCrosswalk(ctx, version, wire.CrosswalkEdit{Text: text, EvenSettled: c.Bool("even-settled")})
			if err != nil {
				return err
			}
			return emit(c, now, func() table {
				return table{{"Crosswalk", "Revision", "Rules"}, {now.Number, strconv.Itoa(now.Revision), strconv.Itoa(len(doc.Fields))}}
			})
		}),
	)
}

// touchesTable names the rows of open intakes that a crosswalk would change.
func touchesTable(t wire.CrosswalkTried) table {
	if len(t.Intakes) == 0 {
		return table{{fmt.Sprintf("No row of an open intake would change by %s.", t.Number)}}
	}
	var out table
	for _, i := range t.Intakes {
		out = append(out, []string{i.Number, i.FileName})
		out = append(out, triedTable(i.Tried)...)
	}
	return out
}
