package edif

import (
	"bytes"
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/formats/formatstest"
)

func TestReaderKeepsWhatAllReadersKeep(t *testing.T) {
	mm := model.MustLength
	two := &model.Symbol{Grid: mm("1.27"), Pins: []model.Pin{{Number: "1", Name: "A", Type: model.Input, Runs: model.Right, Length: mm("2.54"), At: model.Point{X: mm("-5.08")}}, {Number: "2", Type: model.Passive, Runs: model.Left, Length: mm("2.54"), At: model.Point{X: mm("5.08")}}},
		Shapes: []model.Shape{{Form: model.Rectangle, Points: []model.Point{{X: mm("-2.54"), Y: mm("-1.27")}, {X: mm("2.54"), Y: mm("1.27")}}}}}
	var good bytes.Buffer
	require.NoError(t, Write(&good, "Tern Quay", []Cell{{Name: "Opto 1", Symbol: two}, {Name: "Box", Symbol: two}}))
	formatstest.Test(t, formatstest.Reader{Good: good.Bytes(), Want: []string{"Opto 1 1A 2", "Box 1A 2"}, Places: `line \d+`, Read: func(raw []byte) (found []string, err error) {
		f, err := Read(raw)
		for _, c := range f.Cells {
			text := c.Name
			for _, p := range c.Symbol.Pins {
				text += " " + p.Number + p.Name
			}
			found = append(found, text)
		}
		if err == nil && len(f.Wrong) > 0 {
			err = fmt.Errorf("%s", f.Wrong[0])
		}
		return found, err
	}})
}
