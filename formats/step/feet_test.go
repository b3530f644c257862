package step

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/formats/formatstest"
)

func TestWhatABodyStandsOn(t *testing.T) {
	body := [6]float64{2, 3, 1, -1, -1.5, 0.1}
	lead := func(x, y float64) [6]float64 { return [6]float64{0.4, 0.4, 0.8, x - 0.2, y - 0.2, 0} }
	for _, c := range []struct {
		name   string
		blocks [][6]float64
		feet   string
	}{
		{"three leads", [][6]float64{body, lead(-1.2, 1), lead(-1.2, -1), lead(1.2, 0)}, "-1.4,-1.2–-1,-0.8 -1.4,0.8–-1,1.2 1,-0.2–1.4,0.2"},
		{"a block alone stands on one face, which tells nothing", [][6]float64{body}, ""},
		{"what hangs higher than solder is thick is no foot", [][6]float64{body, lead(-1.2, 1), lead(1.2, 0), {0.4, 0.4, 1, 1, 1, 0.06}}, "-1.4,0.8–-1,1.2 1,-0.2–1.4,0.2"},
		{"what hangs lower than it is thick is one", [][6]float64{body, lead(-1.2, 1), {0.4, 0.4, 1, 1, 1, 0.04}}, "-1.4,0.8–-1,1.2 1,1–1.4,1.4"},
		{"a face that lies around two others is none", [][6]float64{{4, 4, 1, -2, -2, 0}, lead(-1.2, 1), lead(1.2, 0)}, "-1.4,0.8–-1,1.2 1,-0.2–1.4,0.2"},
		{"a face in the middle is one", [][6]float64{body, lead(-1.2, 1), lead(1.2, 0), {1, 1, 1, -0.5, -0.5, 0}}, "-1.4,0.8–-1,1.2 -0.5,-0.5–0.5,0.5 1,-0.2–1.4,0.2"},
		{"one face that stands in the file twice", [][6]float64{body, lead(-1.2, 1), lead(-1.2, 1), lead(1.2, 0)}, "-1.4,0.8–-1,1.2 1,-0.2–1.4,0.2"},
		{"pins below the board", [][6]float64{body, {0.4, 0.4, 4, -1, 0, -3}, {0.4, 0.4, 4, 0.6, 0, -3}}, "-1,0–-0.6,0.4 0.6,0–1,0.4"},
	} {
		got, err := Read(formatstest.Blocks(c.blocks, nil))
		require.NoError(t, err, c.name)
		var feet []string
		for _, f := range got.Feet {
			feet = append(feet, fmt.Sprintf("%s,%s–%s,%s", f.Min.X, f.Min.Y, f.Max.X, f.Max.Y))
		}
		assert.Equal(t, c.feet, strings.Join(feet, " "), c.name)
		b := model.Body{Box: got.Box, Feet: got.Feet, Mark: got.Mark}
		assert.NoError(t, b.Check(), c.name)
	}
	var many [][6]float64
	for i := range model.MostFeet + 1 {
		many = append(many, lead(float64(i%40), float64(i/40)))
	}
	got, err := Read(formatstest.Blocks(many, nil))
	require.NoError(t, err)
	assert.Empty(t, got.Feet, "more than a land pattern has pads")
}

func TestTheMarkBesideTheFirstPin(t *testing.T) {
	body := [][6]float64{{4, 5, 1.5, -2, -2.5, 0}}
	for _, c := range []struct {
		name  string
		discs [][4]float64
		mark  string
	}{
		{"none", nil, ""},
		{"a dimple near a corner", [][4]float64{{-1.4, 1.9, 1.45, 0.5}}, "-1.4,1.9"},
		{"its bottom and its edge are one", [][4]float64{{-1.4, 1.9, 1.45, 0.5}, {-1.4, 1.9, 1.5, 0.5}}, "-1.4,1.9"},
		{"in the middle", [][4]float64{{0, 0.1, 1.5, 0.5}}, ""},
		{"two of them", [][4]float64{{-1.4, 1.9, 1.45, 0.5}, {1.4, 1.9, 1.45, 0.5}}, ""},
		{"below the middle of the body", [][4]float64{{-1.4, 1.9, 0.6, 0.5}}, ""},
		{"too large", [][4]float64{{-0.5, 0.5, 1.5, 2}}, ""},
	} {
		got, err := Read(formatstest.Blocks(body, c.discs))
		require.NoError(t, err, c.name)
		mark := ""
		if got.Mark != nil {
			mark = got.Mark.X.String() + "," + got.Mark.Y.String()
		}
		assert.Equal(t, c.mark, mark, c.name)
	}
}
