package workbook

import (
	"bytes"
	"io"
	"testing"

	"github.com/stretchr/testify/require"

	"jollydrawer/formats/formatstest"
	"jollydrawer/formats/rows"
)

func TestReaderKeepsWhatAllReadersKeep(t *testing.T) {
	var good, wide bytes.Buffer
	require.NoError(t, Write(&good, "List", [][]string{{"Maker", "MPN", "Value", "Pins"}, {"Tidewright", "TW-1", "4,7 kΩ", "2"}, {"Kelpline", "=1+1", "100 nF", "3"}}, map[int]bool{3: true}))
	require.NoError(t, Write(&wide, "List", [][]string{{"A", "B", "C", "D", "E"}, {"something long", "2", "3", "4", "5"}, {"1", "2", "3", "4", "5"}}, nil))
	formatstest.Test(t, formatstest.Reader{Good: good.Bytes(), Want: []string{"Maker|MPN|Value|Pins", "Tidewright|TW-1|4,7 kΩ|2", "Kelpline|=1+1|100 nF|3"}, Read: formatstest.Rows(opened, rows.DefaultLimits)})
	formatstest.Limits(t, opened, wide.Bytes())
}

// opened opens a workbook that is read to its end.
func opened(r io.ReadCloser, lim rows.Limits) (rows.Reader, error) {
	defer r.Close()
	raw, err := io.ReadAll(r)
	if err != nil {
		return nil, err
	}
	return Open(raw, rows.Layout{}, lim)
}
