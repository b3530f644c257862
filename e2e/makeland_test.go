package e2e

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/client"
	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/internal/wire"
)

// comesBack writes a model in a form, brings the file in again, and holds that it is the same model; it returns the delivery.
func comesBack(t *testing.T, k *client.Client, run func(args ...string) (string, string, int), name, form string) wire.Delivery {
	t.Helper()
	file := filepath.Join(t.TempDir(), "made."+form)
	_, stderr, code := run("model", "export", name, form, "--to", file)
	require.Zero(t, code, stderr)
	raw, err := os.ReadFile(file)
	require.NoError(t, err)
	f, err := k.Upload(t.Context(), filepath.Base(file), bytes.NewReader(raw))
	require.NoError(t, err)
	d, err := k.Deliver(t.Context(), wire.NewDelivery{Files: []part.File{{Hash: f.Hash, Name: f.Name}}})
	require.NoError(t, err)
	require.Len(t, d.Models, 1)
	assert.Equal(t, []any{name, "is the same"}, []any{d.Models[0].Same[0].Name, d.Models[0].Same[0].How})
	return d
}

// A ball grid, a package with four rows, a connector and a chip are made from the figures of their drawings, seen while they are typed,
// kept, and come back as they were after they were written in the other form and brought in again.
func TestLandPatternsAreMadeFromFigures(t *testing.T) {
	owner, dsn := freshSchema(t, shared)
	i := serve(t, owner, dsn)
	k := i.admin(t)
	i.as(t, "maren", "librarian")
	p := window(t, i, "maren")
	run := person(t, i)
	p.goTo("/models/make-land-pattern")
	for _, c := range []struct {
		family string
		fields [][2]string
		name   string
		pads   int
	}{
		{"ball grid", [][2]string{{"Rows", "12"}, {"Columns", "12"}, {"Pitch, mm", "0.8"}, {"Diameter of a ball, mm", "0.45"}, {"Body, left to right, mm", "9.9 .. 10.1"}, {"Body, top to bottom, mm", "9.9 .. 10.1"}}, "ball grid 144 10 x 10 nominal", 144},
		{"no-lead quad", [][2]string{{"Pins", "48"}, {"Pitch, mm", "0.5"}, {"Over the ends of the terminals, mm", "6.9 .. 7.1"}, {"Length of a terminal, mm", "0.3 .. 0.5"}, {"Width of a terminal, mm", "0.18 .. 0.3"}, {"Body, left to right, mm", "7"}, {"Body, top to bottom, mm", "7"}, {"Thermal pad, width, mm", "5.6"}, {"Thermal pad, height, mm", "5.6"}}, "no-lead quad 48 7 x 7 nominal", 49},
		{"pins in holes", [][2]string{{"Pins", "10"}, {"Rows", "2"}, {"Pitch, mm", "2.54"}, {"From row to row, mm", "2.54"}, {"Width of a terminal, mm", "0.6 .. 0.7"}, {"Body, left to right, mm", "5"}, {"Body, top to bottom, mm", "12.7"}}, "pins in holes 10 5 x 12.7 nominal", 10},
		{"chip", [][2]string{{"Over the ends of the terminals, mm", "1.5 .. 1.7"}, {"Length of a terminal, mm", "0.2 .. 0.5"}, {"Width of a terminal, mm", "0.7 .. 0.9"}}, "chip 2 1.6 x 0.8 nominal", 2},
	} {
		p.choose("Family", c.family)
		for _, f := range c.fields {
			p.fill(f[0], f[1])
		}
		p.see(c.name)
		p.press("Keep the land pattern")
		p.see("Kept: " + c.name)
		m, err := k.Model(t.Context(), "land pattern: "+c.name)
		require.NoError(t, err)
		assert.Equal(t, 1, m.Revision)
		require.Len(t, m.Released.LandPattern.Pads, c.pads)
		assert.Empty(t, comesBack(t, k, run, c.name, "ipc2581").Files[0].Said)
	}

	// From a table of pads, whose unit is asked for where it is not said.
	p.choose("Made from", "table")
	p.fill("Table of pads, as pasted", "Number;X;Y;Width;Hole\n1;-50;0;63;35\n2;50;0;63;35")
	p.see("say in which unit the table is")
	p.choose("Unit, where the headings name none", "mil")
	p.fill("Name of the land pattern", "Two holes")
	p.press("Keep the land pattern")
	p.see("Kept: Two holes")
	m, err := k.Model(t.Context(), "land pattern: Two holes")
	require.NoError(t, err)
	assert.Equal(t, model.MustLength("-1.27"), m.Released.LandPattern.Pads[0].At.X)
}
