package models_test

import (
	"bytes"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/step"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// A body that is higher than its part may be, or far lower, is a finding of the part.
func TestABodyOfAnotherHeight(t *testing.T) {
	h := housetest.Open(t)
	var block bytes.Buffer
	require.NoError(t, step.WriteBlock(&block, "Chip", model.Box3{Min: model.Point3{X: -model.MM, Y: -model.MM / 2}, Max: model.Point3{X: model.MM, Y: model.MM / 2, Z: model.MustLength("0.6")}}, time.Unix(0, 0)))
	f, err := h.Files.Keep(t.Context(), h.Me, "chip.step", &block)
	require.NoError(t, err)
	body := h.Model(wire.ModelEdit{Kind: "body", Name: "Chip", FileHash: f.Hash, FileName: f.Name})
	for says, want := range map[string]bool{"": false, "0.6 mm": false, "0.55 mm": false, "0.5 mm": true, "0.9 mm": false, "1.1 mm": true} {
		e := housetest.Resistor("1k", "A"+strings.ReplaceAll(says, " ", ""))
		e.Body = &part.Model{ID: body.ID, Revision: 1}
		if says != "" {
			e.Values["height"] = says
		}
		p := h.Make(e)
		got := false
		for _, x := range p.Newest().Findings {
			got = got || x.Cause == "body-height"
		}
		assert.Equal(t, want, got, "a part of %q", says)
	}
}
