package e2e

import (
	"archive/zip"
	"bytes"
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/client"
	"jollydrawer/core/part"
	"jollydrawer/internal/wire"
)

// zipBomb is a workbook that would unpack to a hundred times its size and more.
func zipBomb(t *testing.T) string {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.Create("xl/worksheets/sheet1.xml")
	require.NoError(t, err)
	_, err = w.Write(make([]byte, 40<<20))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return b.String()
}

func TestBadInputGetsASentenceAndLeavesNothingBehind(t *testing.T) {
	owner, dsn := freshSchema(t, shared)
	i := serve(t, owner, dsn, "--max-upload", "8")
	k := i.admin(t)
	stocked(t, k)
	const csv = "Order code;Maker;Maker part no.;Category;Capacitance;Voltage;Dielectric;Size\n"
	intake := func(text string) func() error {
		return func() error { _, err := openIntake(t, k, "Marsh Lane Components", "file.csv", text); return err }
	}
	cabinet := func(text string) func() error {
		return func() error {
			now, err := k.Cabinet(t.Context())
			require.NoError(t, err)
			_, err = k.ApplyCabinet(t.Context(), now.Version, text)
			return err
		}
	}
	bom := func(text string) func() error {
		return func() error {
			f, err := k.Upload(t.Context(), "bom.csv", strings.NewReader(text))
			if err == nil {
				_, err = k.BringBOM(t.Context(), wire.NewBOM{Name: "Board", FileHash: f.Hash, FileName: f.Name})
			}
			return err
		}
	}
	deliver := func(text string) func() error {
		return func() error {
			f, err := k.Upload(t.Context(), "models", strings.NewReader(text))
			if err != nil {
				return err
			}
			d, err := k.Deliver(t.Context(), wire.NewDelivery{Files: []part.File{{Hash: f.Hash, Name: f.Name}}})
			if err != nil || d.Count > 0 || len(d.Files) == 0 {
				return err
			}
			return keptAsItCame(d.Files[0].What + strings.Join(d.Files[0].Wrong, " "))
		}
	}
	symbol := func(pins string) func() error {
		return deliver(`{"format":"jolly-symbol/2","name":"S","pins":[` + pins + `]}`)
	}
	pad := func(w string) func() error {
		return deliver(`{"format":"jolly-land-pattern/2","name":"L","pads":[{"number":"1","shape":"round","at":{"x":"0","y":"0"},"width":` + w + `,"height":"1"}]}`)
	}
	const onePin = `{"number":"1","type":"input","at":{"x":"0","y":"0"},"runs":"up","length":"1"}`
	const head = "format: jolly-cabinet/1\n"
	for name, c := range map[string]struct {
		do   func() error
		says string
	}{
		"an empty file":              {intake(""), "is empty"},
		"a binary file called .csv":  {intake("\x7fELF\x02\x01\x01\x00\x00\x00\x00\x00\x03\x00\x3e"), "not a text file"},
		"a header with no rows":      {intake(csv), "no rows"},
		"broken UTF-8":               {intake(csv + "1;Kelpline;K-1;Ceramic capacitors;1 µF;5 V;X7R;0805\n2;K\xc3(;K-2;;;;;\n"), "is not UTF-8"},
		"a file over the limit":      {intake(strings.Repeat("x", 9<<20)), "more than 8 MB"},
		"an XLSX that is a zip bomb": {intake(zipBomb(t)), "would unpack"},
		"an archive that is a bomb":  {deliver(zipBomb(t)), "would unpack"},
		"an archive in an archive":   {deliver(zipOf(t, "inner", zipOf(t, "a", "b"))), "inside an archive"},
		"a path that escapes":        {deliver(zipOf(t, "../../etc/x.step", "ISO-10303-21;")), "leads out of it"},
		"EDIF without its brackets":  {deliver("(edif x (edifVersion 2 0 0)"), "brackets are open"},
		"EDIF 100,000 deep":          {deliver("(edif x " + strings.Repeat("(a ", 100_000)), "nested more than"},
		"XML with entities":          {deliver(`<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/passwd">]><IPC-2581>&a;</IPC-2581>`), "document type"},
		"a STEP file over the limit": {deliver("ISO-10303-21;" + strings.Repeat(" ", 9<<20)), "more than 8 MB"},
		"a STEP file cut off":        {deliver("ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=CARTESIAN_POINT('',(1."), "cut off"},
		"a pad of no size":           {pad(`"0"`), "not above zero"},
		"a pad of negative size":     {pad(`"-1"`), "not above zero"},
		"a pad of ten metres":        {pad(`"10 m"`), "which no pad has"},
		"a pad of 1e999":             {pad(`1e999`), "is no length"},
		"a pad of NaN":               {pad(`NaN`), "no JSON"},
		"5,000 pins":                 {symbol(onePin + strings.Repeat(","+onePin, 4999)), "5000 pins"},
		"a symbol without pins":      {symbol(""), "no pins"},
		"a drawer inside itself":     {cabinet(head + "parameters: []\ndrawers: [{key: a, label: A, parent: b}, {key: b, label: B, parent: a}]\n"), "lie inside each other"},
		"two parameters of one name": {cabinet(head + "parameters: [{key: x, label: X, type: text}, {key: x, label: Y, type: text}]\ndrawers: []\n"), "defined twice"},
		"a drawer with one twice":    {cabinet(head + "parameters: [{key: x, label: X, type: text}]\ndrawers: [{key: a, label: A, parameters: [{key: x}, {key: x}]}]\n"), "names the parameter \"x\" twice"},
		"a document that is no YAML": {cabinet("{{{"), "cannot be read"},
		"a YAML that unfolds itself": {cabinet("a: &a [x,x,x,x,x,x,x,x,x]\nb: &b [*a,*a,*a,*a,*a,*a,*a,*a]\nc: &c [*b,*b,*b,*b,*b,*b,*b,*b]\nd: [*c,*c,*c,*c,*c,*c,*c]\n"), "cannot be read"},
		"a BOM without designators":  {bom("Item,Qty\n1,2\n"), "no column of designators"},
		"a BOM that is no table":     {bom("%PDF-1.7"), "is a PDF"},
		"ohms for a capacitance": {func() error {
			_, err := k.MakePart(t.Context(), wire.PartEdit{Drawer: "ceramic-capacitors", Values: map[string]string{"capacitance": "10 kΩ"}})
			return err
		}, "it is a resistance, and a capacitance is wanted"},
		"a parameter of another drawer": {func() error {
			_, err := k.MakePart(t.Context(), wire.PartEdit{Drawer: "ceramic-capacitors", Values: map[string]string{"resistance": "10 kΩ"}})
			return err
		}, "is not in the template"},
		"a source with half a name": {func() error {
			_, err := k.MakePart(t.Context(), wire.PartEdit{Drawer: "ceramic-capacitors", Sources: []part.Source{{Manufacturer: "Kelpline"}}})
			return err
		}, "needs a manufacturer and a manufacturer part number"},
		"a number with a line break": {func() error {
			_, err := k.MakePart(t.Context(), wire.PartEdit{Drawer: "ceramic-capacitors", Number: "A\nB"})
			return err
		}, "cannot be a part number"},
		"the crosswalk of another supplier": {func() error {
			f, err := openIntake(t, k, "Harbour & Finch", "file.csv", csv+"1;Kelpline;K-1;Ceramic capacitors;1 µF;5 V;X7R;0805\n")
			if err == nil {
				_, err = k.TakeIn(t.Context(), f.ID, f.Version, "", wire.TakeIn{Digest: f.Digest})
			}
			return err
		}, "has no crosswalk yet; there is one for Harbour & Finch"},
	} {
		err := c.do()
		assert.ErrorContains(t, err, c.says, name)
		var e *client.Error
		if errors.As(err, new(keptAsItCame)) {
			continue
		}
		if assert.ErrorAs(t, err, &e, name) {
			assert.Less(t, e.Status, 500, name)
			assert.GreaterOrEqual(t, e.Status, 400, name)
		}
	}
	// Rows that are wrong are named; the others come in, and what could not be read is kept and marked.
	in, err := openIntake(t, k, "Marsh Lane Components", "mixed.csv", csv+"1;Kelpline;K-1;Ceramic capacitors;10 kΩ;5 V;X7R;0805\n2;Kelpline;K-2;Ceramic capacitors;1 µF;5 V;X7R;0805;9;9;9\n=cmd();Kelpline;@K-3;Ceramic capacitors;2 µF;5 V;X7R;0805\n")
	require.NoError(t, err)
	assert.Equal(t, map[string]int{"new": 2, "known": 0, "differs": 0, "repeat": 0, "blocked": 1, "left out": 0, "update": 0, "alternate": 0, "unsorted": 0}, in.Counts)
	made := takeIn(t, k, in)
	p, err := k.Part(t.Context(), made.First)
	require.NoError(t, err)
	assert.Equal(t, "10 kΩ", p.Draft.Edit().Values["capacitance"])
	_, err = k.Release(t.Context(), p.ID, p.Version, "try")
	assert.ErrorContains(t, err, "could not be read")

	all, err := k.Parts(t.Context(), client.PartQuery{})
	require.NoError(t, err)
	assert.Equal(t, 2, all.Page.Total, "nothing else was left behind")
	models, err := k.Models(t.Context(), "", "", "", 0, 1)
	require.NoError(t, err)
	assert.Zero(t, models.Page.Total)
	boms, err := k.BOMs(t.Context(), 0, 10)
	require.NoError(t, err)
	assert.Zero(t, boms.Page.Total)
	v, err := k.Verify(t.Context())
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

// zipOf packs one file.
func zipOf(t *testing.T, name, text string) string {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.Create(name)
	require.NoError(t, err)
	_, err = w.Write([]byte(text))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return b.String()
}

// keptAsItCame is what a delivery says of a file that it keeps and does not read.
type keptAsItCame string

func (k keptAsItCame) Error() string { return string(k) }
