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
	"jollydrawer/internal/store"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	app := cli.New()
	app.Commands = append([]*ucli.Command{serveCommand(), demoCommand(), openapiCommand(), grantsCommand()}, app.Commands...)
	if err := app.Run(ctx, os.Args); err != nil {
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
	return &ucli.Command{Name: "grants", Usage: "print the rights that the service's account needs on a MariaDB of your own", ArgsUsage: "SCHEMA ACCOUNT", Category: "service",
		Description: "Example:\n  jolly grants jolly \"jolly_service@'10.0.0.%'\"",
		Action: func(_ context.Context, c *ucli.Command) error {
			if c.NArg() != 2 {
				return cli.Usage("grants needs the schema and the account: jolly grants jolly \"jolly_service@'10.0.0.5'\"")
			}
			for _, q := range store.Grants(c.Args().Get(0), c.Args().Get(1)) {
				fmt.Fprintln(c.Root().Writer, q+";")
			}
			return nil
		}}
}
