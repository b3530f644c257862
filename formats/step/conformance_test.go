package step

import (
	"bytes"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/formats/formatstest"
)

func TestReaderKeepsWhatAllReadersKeep(t *testing.T) {
	mm := model.MustLength
	var good bytes.Buffer
	box := model.Box3{Min: model.Point3{X: mm("-1"), Y: mm("-0.6")}, Max: model.Point3{X: mm("1"), Y: mm("0.6"), Z: mm("0.5")}}
	require.NoError(t, WriteBlock(&good, "Chip", box, time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC)))
	formatstest.Test(t, formatstest.Reader{Good: good.Bytes(), Want: []string{fmt.Sprint(box)}, Places: `line \d+`, Read: func(raw []byte) ([]string, error) {
		s, err := Read(raw)
		if err != nil {
			return nil, err
		}
		return []string{fmt.Sprint(s.Box)}, nil
	}})
}
