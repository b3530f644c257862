// Command jolly is Jolly Drawer: the service (jolly serve), the demo (jolly demo) and every client command.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/cli"
	"jollydrawer/internal/api"
	"jollydrawer/internal/dbserver"
	"jollydrawer/internal/store"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	app := cli.New()
	app.Commands = append([]*ucli.Command{serveCommand(), demoCommand(), openapiCommand(), grantsCommand()}, app.Commands...)
	if err := cli.Run(ctx, app, os.Args); err != nil {
		code := cli.ExitCode(err)
		if msg := err.Error(); msg != "" && !errors.Is(err, cli.ErrFindings) {
			fmt.Fprintln(os.Stderr, "jolly: "+msg)
		}
		os.Exit(code)
	}
}

func openapiCommand() *ucli.Command {
	return &ucli.Command{Name: "openapi", Usage: "print the OpenAPI 3.1 document of the API; needs no service", Category: "service",
		Action: func(_ context.Context, c *ucli.Command) error {
			raw, err := api.Document()
			if err != nil {
				return err
			}
			_, err = fmt.Fprintln(c.Root().Writer, string(raw))
			return err
		}}
}

func grantsCommand() *ucli.Command {
	return &ucli.Command{Name: "grants", Usage: "print the rights that the service's accounts need on a MariaDB of your own", ArgsUsage: "SCHEMA SERVICE [KEEPER READER]", Category: "service",
		Description: "The keeper is the account of --readout-dsn, which makes the tables that design tools read and may read nothing of the library but states; design\ntools sign in as the reader. The accounts are made before, with CREATE USER.\n\n" +
			"Example:\n  jolly grants jolly \"jolly_service@'10.0.0.%'\" \"jolly_keeper@'10.0.0.%'\" \"jolly_reader@'%'\"",
		Action: func(_ context.Context, c *ucli.Command) error {
			if c.NArg() != 2 && c.NArg() != 4 {
				return cli.Usage("grants needs the schema and the service's account, or beside them the keeper's and the reader's: jolly grants jolly \"jolly_service@'10.0.0.5'\"")
			}
			all := store.Grants(c.Args().Get(0), c.Args().Get(1))
			if c.NArg() == 4 {
				all = append(all, dbserver.ReadoutGrants(c.Args().Get(0), c.Args().Get(1), c.Args().Get(2), c.Args().Get(3))...)
			}
			for _, q := range all {
				fmt.Fprintln(c.Root().Writer, q+";")
			}
			return nil
		}}
}
