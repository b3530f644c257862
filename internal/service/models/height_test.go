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

// A body of each chip case on a part of each: only those of another case are findings, whichever way they lie.
func TestABodyOfAnotherCase(t *testing.T) {
	h := housetest.Open(t)
	mm := model.MustLength
	sizes := map[string][2]string{"0201": {"0.6", "0.3"}, "0402": {"1", "0.5"}, "0603": {"1.6", "0.8"}, "0805": {"2", "1.25"}, "1206": {"3.2", "1.6"}, "1210": {"3.2", "2.5"}, "2512": {"6.35", "3.2"}}
	n := 0
	for of, size := range sizes {
		l, w := mm(size[0])/2, mm(size[1])/2
		if n++; n%2 == 0 {
			l, w = w, l
		}
		body := h.Model(wire.ModelEdit{Kind: "body", Name: "Chip " + of, Body: &model.Body{StandIn: true, Box: model.Box3{Min: model.Point3{X: -l, Y: -w}, Max: model.Point3{X: l, Y: w, Z: model.MM / 2}}}})
		for is := range sizes {
			e := housetest.Resistor("1k", of+is)
			e.Body = &part.Model{ID: body.ID, Revision: 1}
			e.Values["case"] = is
			p := h.Make(e)
			got := ""
			for _, x := range p.Newest().Findings {
				if x.Cause == "body-case" {
					got = x.What
				}
			}
			assert.Equal(t, of != is, got != "", "a body of %s on a part of %s: %s", of, is, got)
		}
	}
}
