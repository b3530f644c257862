package cli

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/wire"
)

func uploadFile(ctx context.Context, k *client.Client, path string) (wire.File, error) {
	f, err := os.Open(path)
	if err != nil {
		return wire.File{}, fmt.Errorf("the file cannot be read: %w", err)
	}
	defer f.Close()
	return k.Upload(ctx, filepath.Base(path), f)
}

func layoutFlags() []ucli.Flag {
	return []ucli.Flag{
		&ucli.StringFlag{Name: "delimiter", Usage: "where it is not found out rightly"}, &ucli.StringFlag{Name: "encoding", Usage: "utf-8, utf-16le, utf-16be or windows-1252"},
		&ucli.StringFlag{Name: "sheet"}, &ucli.StringFlag{Name: "inside", Usage: "file in an archive"}, &ucli.IntFlag{Name: "header-row"},
	}
}

func layoutOf(c *ucli.Command) rows.Layout {
	return rows.Layout{Delimiter: c.String("delimiter"), Encoding: c.String("encoding"), Sheet: c.String("sheet"), Inside: c.String("inside"), HeaderRow: c.Int("header-row")}
}
