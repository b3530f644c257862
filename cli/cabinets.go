package cli

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"
	"go.yaml.in/yaml/v3"

	"jollydrawer/client"
	"jollydrawer/core/cabinet"
)

func cabinetCommand() *ucli.Command {
	return group("cabinet", "the drawers and their templates", "library", append([]*ucli.Command{
		command("show", "list the drawers, or one drawer's template", "[DRAWER]", "jolly cabinet show chip-resistors", 0, 1, nil, showCabinet),
		command("apply", "make a document the cabinet in force", "FILE", "jolly cabinet apply demo/cabinet.yaml", 1, 1, nil, applyCabinet),
		command("export", "print the cabinet in force as a document", "", "jolly cabinet export > cabinet.yaml", 0, 0, nil, exportCabinet),
		&ucli.Command{Name: "schema", Usage: "print the JSON Schema of cabinet documents; needs no service", Action: func(_ context.Context, c *ucli.Command) error {
			_, err := fmt.Fprint(c.Root().Writer, cabinet.Schema)
			return err
		}},
		&ucli.Command{Name: "check", Usage: "check a cabinet document; needs no service", ArgsUsage: "FILE", Description: "Example:\n  jolly cabinet check demo/cabinet.yaml",
			Action: func(_ context.Context, c *ucli.Command) error {
				if c.NArg() != 1 {
					return Usage("check needs the file of a cabinet document")
				}
				text, err := readDocument(c.Args().First())
				if err != nil {
					return err
				}
				cab, err := cabinet.Parse([]byte(text))
				if err != nil {
					return err
				}
				return emit(c, map[string]int{"drawers": len(cab.Templates())}, func() table {
					return table{{"Document", "Drawers", "Parameters"}, {"sound", strconv.Itoa(len(cab.Templates())), strconv.Itoa(len(cab.Document.Parameters))}}
				})
			}},
	}, changeCommands()...)...)
}

func showCabinet(ctx context.Context, c *ucli.Command, k *client.Client) error {
	cab, err := k.Cabinet(ctx)
	if err != nil {
		return err
	}
	if c.NArg() == 0 {
		return emit(c, cab, func() table {
			t := table{{"Drawer", "Label", "Inside", "Prefix", "Leading", "Parameters", "Parts"}}
			for _, d := range cab.Drawers {
				t = append(t, []string{d.Key, d.Label, strings.Join(d.Path[:len(d.Path)-1], " / "), d.Prefix, d.Leading, strconv.Itoa(len(d.Slots)), strconv.Itoa(d.Parts)})
			}
			return t
		})
	}
	for _, d := range cab.Drawers {
		if d.Key == c.Args().First() {
			return emit(c, d, func() table {
				t := table{{"Parameter", "Label", "Type", "Required", "From", "Choices"}}
				for _, s := range d.Slots {
					kind, need := s.Type, ""
					if s.Of != "" {
						kind = s.Of
					}
					if s.Required {
						need = "required"
					}
					t = append(t, []string{s.Key, s.Label, kind, need, s.From, strings.Join(s.Choices, ", ")})
				}
				return t
			})
		}
	}
	return fmt.Errorf("the cabinet has no drawer %q: see jolly cabinet show", c.Args().First())
}

func applyCabinet(ctx context.Context, c *ucli.Command, k *client.Client) error {
	text, err := readDocument(c.Args().First())
	if err != nil {
		return err
	}
	was, err := k.Cabinet(ctx)
	if err != nil {
		return err
	}
	now, err := k.ApplyCabinet(ctx, was.Version, text)
	if err != nil {
		return err
	}
	return emit(c, now, func() table {
		did := "applied"
		if now.Version == was.Version {
			did = "unchanged"
		}
		return table{{"Cabinet", "Revision", "Drawers", "Parameters"}, {did, strconv.Itoa(now.Revision), strconv.Itoa(len(now.Drawers)), strconv.Itoa(len(now.Document.Parameters))}}
	})
}

func exportCabinet(ctx context.Context, c *ucli.Command, k *client.Client) error {
	cab, err := k.Cabinet(ctx)
	if err != nil {
		return err
	}
	if c.Bool("json") || c.String("as") == "json" {
		return emit(c, cab.Document, nil)
	}
	raw, err := yaml.Marshal(cab.Document)
	if err != nil {
		return err
	}
	_, err = c.Root().Writer.Write(raw)
	return err
}
