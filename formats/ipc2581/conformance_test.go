package ipc2581

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
	land := &model.LandPattern{Pads: []model.Pad{{Number: "1", Shape: model.PadRectangle, At: model.Point{X: mm("-0.95")}, Width: mm("1.15"), Height: mm("1.4")}, {Number: "2", Shape: model.PadRound, At: model.Point{X: mm("0.95")}, Width: mm("1"), Height: mm("1"), Hole: mm("0.5")}},
		Shapes: []model.Shape{{Form: model.Rectangle, Purpose: model.Courtyard, Points: []model.Point{{X: mm("-2"), Y: mm("-1")}, {X: mm("2"), Y: mm("1")}}, Width: mm("0.05")}}}
	var good bytes.Buffer
	require.NoError(t, Write(&good, []Package{{Name: "Chip 0805", Height: mm("0.6"), Land: land}, {Name: "Chip 0805 dense", Height: mm("0.5"), Land: land}}))
	formatstest.Test(t, formatstest.Reader{Good: good.Bytes(), Want: []string{"Chip 0805 6000000 [1 -9500000 2 9500000]", "Chip 0805 dense 5000000 [1 -9500000 2 9500000]"}, Places: `line \d+`, Read: func(raw []byte) (found []string, err error) {
		f, err := Read(raw)
		for _, p := range f.Packages {
			var pads []string
			for _, pad := range p.Land.Pads {
				pads = append(pads, fmt.Sprint(pad.Number, " ", int64(pad.At.X)))
			}
			found = append(found, fmt.Sprintf("%s %d %v", p.Name, int64(p.Height), pads))
		}
		if err == nil && len(f.Wrong) > 0 {
			err = fmt.Errorf("%s", f.Wrong[0])
		}
		return found, err
	}})
}
