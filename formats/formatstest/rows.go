package formatstest

import (
	"bytes"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/formats/rows"
)

// Rows makes the Read of a reader of rows: its header, then its rows, with what is wrong with each.
func Rows(open func(r io.ReadCloser, lim rows.Limits) (rows.Reader, error), lim rows.Limits) func(raw []byte) ([]string, error) {
	return func(raw []byte) (found []string, err error) {
		x, err := open(io.NopCloser(bytes.NewReader(raw)), lim)
		if err != nil {
			return nil, err
		}
		defer x.Close()
		found = []string{strings.Join(x.Header(), "|")}
		for {
			row, ok, err := x.Next()
			if err != nil || !ok {
				return found, err
			}
			if text := strings.Join(row.Cells, "|"); row.Problem != "" {
				found = append(found, text+" ! "+row.Problem)
			} else {
				found = append(found, text)
			}
		}
	}
}

// Limits holds a reader of rows to its limits: a file under each of them is refused, or its row is named, and not read as if it were
// whole. Wide has more than three columns and a cell of more than ten bytes.
func Limits(t *testing.T, open func(r io.ReadCloser, lim rows.Limits) (rows.Reader, error), wide []byte) {
	for what, lim := range map[string]rows.Limits{
		"columns": {Bytes: 1 << 20, Columns: 3, Cell: 1 << 10},
		"a cell":  {Bytes: 1 << 20, Columns: 100, Cell: 10},
	} {
		found, err := Rows(open, lim)(wide)
		if err == nil {
			require.NotEmpty(t, found, what)
			assert.Contains(t, strings.Join(found, "\n"), " ! ", "%s: neither refused nor named", what)
		} else {
			sentence(t, err, what)
		}
	}
}
