package cli

import (
	"strconv"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/formats/rows"
)

func layoutFlags() []ucli.Flag {
	return []ucli.Flag{
		&ucli.StringFlag{Name: "delimiter", Usage: "where it is not found out rightly"}, &ucli.StringFlag{Name: "encoding", Usage: "utf-8, utf-16le, utf-16be or windows-1252"},
		&ucli.StringFlag{Name: "sheet"}, &ucli.StringFlag{Name: "inside", Usage: "file in an archive"}, &ucli.IntFlag{Name: "header-row"},
	}
}

func layoutOf(c *ucli.Command) rows.Layout {
	return rows.Layout{Delimiter: c.String("delimiter"), Encoding: c.String("encoding"), Sheet: c.String("sheet"), Inside: c.String("inside"), HeaderRow: c.Int("header-row")}
}

func numbers(texts []string) ([]int, error) {
	var out []int
	for _, s := range texts {
		n, err := strconv.Atoi(s)
		if err != nil {
			return nil, Usage("%q is no row number", s)
		}
		out = append(out, n)
	}
	return out, nil
}
