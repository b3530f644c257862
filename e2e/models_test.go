package e2e

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/client"
	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/step"
	"jollydrawer/internal/wire"
)

// modelled stocks a library with the demo's models, released, and two parts without any.
func modelled(t *testing.T, k *client.Client) (amplifier, transistor wire.Part) {
	t.Helper()
	stocked(t, k)
	for _, m := range []struct{ kind, name, file string }{{"land pattern", "SOIC-8 nominal", "soic-8-nominal.land.json"}, {"land pattern", "Chip 0603 nominal", "chip-0603-nominal.land.json"},
		{"land pattern", "Chip 0805 nominal", "chip-0805-nominal.land.json"}, {"symbol", "Resistor", "resistor.symbol.json"}} {
		f, err := k.Upload(t.Context(), m.file, strings.NewReader(file(t, "models/"+m.file)))
		require.NoError(t, err)
		made, err := k.MakeModel(t.Context(), wire.ModelEdit{Kind: m.kind, Name: m.name, FileHash: f.Hash, FileName: f.Name})
		require.NoError(t, err)
		_, err = k.ReleaseModel(t.Context(), made.ID, made.Version, "drawn to house rules")
		require.NoError(t, err)
	}
	make := func(drawer, mpn string, values map[string]string) wire.Part {
		p, err := k.MakePart(t.Context(), wire.PartEdit{Drawer: drawer, Values: values, Sources: []part.Source{{Manufacturer: "Tidewater", MPN: mpn}}})
		require.NoError(t, err)
		return p
	}
	return make("analog-and-interface", "TW-DUAL", map[string]string{"function": "dual amplifier"}), make("bipolar-transistors", "BW-Q1", nil)
}

// delivered is the whole path of a delivery: a browser ends a page that is given a relative one.
func delivered(t *testing.T, name string) string {
	t.Helper()
	path, err := filepath.Abs(filepath.Join("..", "demo", "deliveries", name))
	require.NoError(t, err)
	return path
}

func TestModelsArriveAndFitInTheConsole(t *testing.T) {
	owner, dsn := freshSchema(t, shared)
	i := serve(t, owner, dsn)
	k := i.admin(t)
	amp, npn := modelled(t, k)
	i.as(t, "maren", "librarian")
	p := window(t, i, "maren")

	// An archive is dropped on a part: the library's land pattern is reused, the body that lies turned is corrected.
	p.goTo("/parts/" + amp.Number)
	p.upload("Drop model files here", delivered(t, "tidewater dual amplifier.zip"))
	p.see("What was dropped on " + amp.Number)
	p.see("SOIC-8 nominal is the same")
	p.see("it is turned by 90°")
	p.see("reuse SOIC-8 nominal (revision 1)")
	p.fill("Name in the library", "Dual amplifier")
	p.choose("How the body sits", "1")
	p.press("Take and link to the part")
	p.see("the models are linked in its draft")
	p.see("Dual amplifier, revision 1")
	p.see("SOIC-8 nominal, revision 1")
	p.see("simulation: amp.lib")
	p.press("Pins on pads")
	p.see("Every pin is on a pad")
	p.see("The body sits on its pads")

	// A transistor's pins are named and its pads numbered: the map is mended, and checked again.
	p.goTo("/parts/" + npn.Number)
	p.upload("Drop model files here", delivered(t, "npn small signal.zip"))
	p.see("What was dropped on")
	p.press("Take and link to the part")
	p.see("3 pins are on no pad: B, C, E")
	p.press("Pins on pads")
	for pin, pad := range map[string]string{"B": "1", "E": "2", "C": "3"} {
		steps(t, p.b, p.b.Type(`[aria-label="Pads of pin `+pin+`"]`, pad))
	}
	p.press("Save the pin map")
	p.see("by the pin map NPN on SOT23 3 pads")
	p.see("Every pin is on a pad")

	// A body that was taken as it came is corrected where it is seen, before and after side by side.
	f, err := k.Upload(t.Context(), "turned.step", strings.NewReader(block(t, "4.9", "6", "1.6")))
	require.NoError(t, err)
	turned, err := k.MakeModel(t.Context(), wire.ModelEdit{Kind: "body", Name: "Turned", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	_, err = k.ReleaseModel(t.Context(), turned.ID, turned.Version, "as it came")
	require.NoError(t, err)
	now, err := k.Part(t.Context(), amp.Number)
	require.NoError(t, err)
	e := now.Newest().Edit()
	e.Body = &part.Model{ID: turned.ID, Revision: 1}
	_, err = k.SaveDraft(t.Context(), now.ID, now.Version, e)
	require.NoError(t, err)
	p.goTo("/parts/" + amp.Number + "/pins")
	p.see("Boxes allow several readings")
	p.press("It is so: turn it by 270°")
	p.see("The body sits on its pads")
	p.press("Show in 3D")
	p.see("Turn with the mouse or the arrow keys")

	// A symbol with 48 pins and its thermal pad from a pin table, laid out by function, seen before it is kept.
	p.goTo("/models/make-symbol")
	p.upload("or a file", pinTable(t))
	p.see("49 pins")
	p.fill("Name of the symbol", "Tide controller")
	p.press("Keep the symbol")
	p.see("Tide controller")
	p.see("Released revision 1")
	p.see("49 pins")
	m, err := k.Model(t.Context(), "symbol: Tide controller")
	require.NoError(t, err)
	assert.Len(t, m.Released.Symbol.Pins, 49)

	// Twins: the same drawing under another name is merged away, and its users follow.
	doc, err := k.MakeModel(t.Context(), wire.ModelEdit{Kind: "land pattern", Name: "SO8 of a supplier", LandPattern: landOf(t, k, "SOIC-8 nominal")})
	require.NoError(t, err)
	_, err = k.ReleaseModel(t.Context(), doc.ID, doc.Version, "as it came")
	require.NoError(t, err)
	now, err = k.Part(t.Context(), npn.Number)
	require.NoError(t, err)
	e = now.Newest().Edit()
	e.OtherLands = []part.OtherLand{{For: "hand assembly", Model: part.Model{ID: doc.ID, Revision: 1}}}
	_, err = k.SaveDraft(t.Context(), now.ID, now.Version, e)
	require.NoError(t, err)
	p.goTo("/models/twins")
	p.see("2 land patterns are the same")
	steps(t, p.b, p.b.Press(`main input[type=radio]:not(:checked)`)) // the house's own name is kept
	p.press("Merge…")
	p.fill("Why", "one drawing under two names")
	p.press("Merge 1")
	p.see("No twins")
	now, err = k.Part(t.Context(), npn.Number)
	require.NoError(t, err)
	assert.Equal(t, "SOIC-8 nominal", now.Draft.OtherLands[0].Model.Name, "its users follow")
	gone, err := k.Model(t.Context(), "land pattern: SO8 of a supplier")
	require.NoError(t, err)
	assert.Equal(t, "SOIC-8 nominal", gone.Name, "the name leads to the survivor")

	// A check on all models, settled with one click.
	offGrid(t, k)
	p.goTo("/models/checks")
	p.see("1 pin does not connect on the grid of 1.27 mm: 1")
	p.press("move the pins onto the grid on all 1")
	p.see("1 models mended as drafts")
	mended, err := k.Model(t.Context(), "symbol: Old lamp")
	require.NoError(t, err)
	assert.Equal(t, model.MustLength("-5.08"), mended.Draft.Symbol.Pins[0].At.X)
	v, err := k.Verify(t.Context())
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

func landOf(t *testing.T, k *client.Client, name string) *model.LandPattern {
	t.Helper()
	m, err := k.Model(t.Context(), "land pattern: "+name)
	require.NoError(t, err)
	return m.Released.LandPattern
}

func TestModelsArriveAndFitOnTheCommandLine(t *testing.T) {
	owner, dsn := freshSchema(t, shared)
	i := serve(t, owner, dsn)
	k := i.admin(t)
	amp, npn := modelled(t, k)
	run := person(t, i)
	do := func(args ...string) string {
		t.Helper()
		out, stderr, code := run(args...)
		require.Contains(t, []int{0, 3}, code, "%v: %s", args, stderr)
		return out
	}
	brought := do("delivery", "bring", delivered(t, "tidewater dual amplifier.zip"), "--part", amp.Number)
	assert.Contains(t, brought, "SOIC-8 nominal is the same")
	body := regexp.MustCompile(`(\d+\.\d+)\s+body`).FindStringSubmatch(brought)
	require.NotNil(t, body, brought)
	do("delivery", "use", "DL-00001", "--reuse-same", "--way", body[1]+"=1", "--attach", "--name", "0.0=Dual amplifier", "--release", "as delivered")
	out := do("part", "show", amp.Number)
	assert.Contains(t, out, "SOIC-8 nominal, revision 1")
	assert.Contains(t, out, "Dual amplifier, revision 1")
	_, _, code := run("part", "pins", amp.Number)
	assert.Zero(t, code, "nothing is left to say of the amplifier")

	do("delivery", "bring", delivered(t, "npn small signal.zip"), "--part", npn.Number)
	do("delivery", "use", "DL-00002", "--release", "as delivered", "--attach")
	assert.Contains(t, do("part", "pins", npn.Number), "3 pins are on no pad: B, C, E")
	do("part", "map", npn.Number, "B=1", "E=2", "C=3", "--release", "from the datasheet")
	assert.NotContains(t, do("part", "pins", npn.Number), "on no pad")

	assert.Contains(t, do("model", "make-symbol", "Tide controller", pinTable(t), "--release", "from the datasheet"), "49 pins")
	assert.Contains(t, do("model", "list", "tide"), "released")
	do("model", "rename", "Tide", "Estuary", "Tide controller")
	do("model", "release", "Estuary controller", "renamed to the house's name")
	do("model", "sign", "Estuary controller", "datasheet rev B, page 1")
	assert.Contains(t, do("model", "show", "Estuary controller"), "against datasheet rev B, page 1")
	assert.Contains(t, do("model", "like", "--pads", "8", "--pitch", "1.27", "--within", "0.1"), "SOIC-8 nominal")

	// What is written in a form is read back as the same drawing.
	dir := t.TempDir()
	for name, form := range map[string]string{"Estuary controller": "edif", "SOIC-8 nominal": "ipc2581", "Resistor": "own"} {
		to := filepath.Join(dir, form)
		require.NoError(t, os.WriteFile(to, []byte(do("model", "export", name, form)), 0o644))
		var d wire.Delivery
		require.NoError(t, json.Unmarshal([]byte(do("--json", "delivery", "bring", to)), &d))
		require.NotEmpty(t, d.Models[0].Same, form)
		assert.Equal(t, []any{name, "is the same"}, []any{d.Models[0].Same[0].Name, d.Models[0].Same[0].How})
	}

	// Twins, checks, and the folder that a design tool reads.
	do("model", "add", "land pattern", "SO8 twice", filepath.Join("..", "demo", "models", "soic-8-nominal.land.json"), "--release", "as it came")
	assert.Contains(t, do("model", "twins"), "SO8 twice")
	assert.Contains(t, do("model", "merge", "SOIC-8 nominal", "SO8 twice", "--why", "one drawing", "--move-all"), "SO8 twice")
	assert.NotContains(t, do("model", "twins"), "SO8 twice")
	offGrid(t, k)
	assert.Contains(t, do("model", "check"), "off-grid")
	assert.Contains(t, do("model", "mend", "off-grid", "--release", "onto the grid"), "Old lamp")
	assert.NotContains(t, do("model", "check"), "off-grid")
	do("part", "release", amp.Number, "--note", "with its models")
	folder := filepath.Join(dir, "for the tool")
	for range 2 { // a second time changes nothing that a tool sees
		do("readout", "folder", folder)
		raw, err := os.ReadFile(filepath.Join(folder, "library", "index.json"))
		require.NoError(t, err)
		var index struct {
			Parts []struct {
				Part   string
				Symbol struct {
					Files []struct{ Path, SHA256 string }
				}
			}
		}
		require.NoError(t, json.Unmarshal(raw, &index))
		require.Len(t, index.Parts, 1)
		assert.Equal(t, amp.Number, index.Parts[0].Part)
		for _, f := range index.Parts[0].Symbol.Files {
			assert.FileExists(t, filepath.Join(folder, "library", f.Path))
		}
	}
}

func TestAnOldLibraryOfManySymbols(t *testing.T) {
	owner, dsn := freshSchema(t, shared)
	i := serve(t, owner, dsn)
	k := i.admin(t)
	modelled(t, k)
	run := person(t, i)
	do := func(args ...string) string {
		t.Helper()
		out, stderr, code := run(args...)
		require.Contains(t, []int{0, 3}, code, "%v: %s", args, stderr)
		return out
	}
	before, err := k.Models(t.Context(), "", "symbol", "", 0, 1)
	require.NoError(t, err)
	do("delivery", "bring", delivered(t, "pier-3 library.zip"))
	do("delivery", "intake", "DL-00001", "Pier 3", "--release", "from the library of Pier 3")
	after, err := k.Models(t.Context(), "", "symbol", "", 0, 1)
	require.NoError(t, err)
	assert.Equal(t, 40, after.Page.Total-before.Page.Total, "300 symbols, 40 drawings")
	do("intake", "map", "IN-00001", "--suggested")
	do("intake", "sort", "IN-00001", "chip-resistors", "--kind", "resistor")
	do("intake", "sort", "IN-00001", "ceramic-capacitors", "--kind", "capacitor")
	do("intake", "sort", "IN-00001", "wire-to-board-connectors", "--kind", "connector")
	assert.Contains(t, do("intake", "causes", "IN-00001"), "no released land pattern named")
	assert.Contains(t, do("intake", "take-in", "IN-00001"), "Drafts made    300")
	p, err := k.Parts(t.Context(), client.PartQuery{Text: "BWP-0805-10K-25", Limit: 1})
	require.NoError(t, err)
	require.Len(t, p.Items, 1)
	got, err := k.Part(t.Context(), p.Items[0].ID)
	require.NoError(t, err)
	assert.Equal(t, "RES", got.Draft.Symbol.Name)
	assert.Equal(t, "Chip 0805 nominal", got.Draft.LandPattern.Name, "the library's own drawing under the old library's name")
	used, err := k.Model(t.Context(), "symbol: RES")
	require.NoError(t, err)
	assert.Equal(t, 140, used.Uses)

	// Bringing the same library again makes no drawing and no part.
	do("delivery", "bring", delivered(t, "pier-3 library.zip"))
	do("delivery", "intake", "DL-00002", "Pier 3", "--release", "again")
	again, err := k.Models(t.Context(), "", "symbol", "", 0, 1)
	require.NoError(t, err)
	assert.Equal(t, after.Page.Total, again.Page.Total)
	assert.Contains(t, do("intake", "show", "IN-00002"), "known")
	v, err := k.Verify(t.Context())
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

// offGrid keeps a symbol that the house would not draw like this.
func offGrid(t *testing.T, k *client.Client) {
	t.Helper()
	_, err := k.MakeModel(t.Context(), wire.ModelEdit{Kind: "symbol", Name: "Old lamp", Symbol: &model.Symbol{Pins: []model.Pin{
		{Number: "1", Type: model.Passive, Runs: model.Right, Length: model.MustLength("2.54"), At: model.Point{X: model.MustLength("-5")}}}}})
	require.NoError(t, err)
}

// pinTable unpacks the pin table of a delivery.
func pinTable(t *testing.T) string {
	t.Helper()
	z, err := zip.OpenReader(delivered(t, "BW-CTL48 models.zip"))
	require.NoError(t, err)
	defer z.Close()
	r, err := z.Open("BW CTL48/pins.csv")
	require.NoError(t, err)
	raw, err := io.ReadAll(r)
	require.NoError(t, err)
	to := filepath.Join(t.TempDir(), "pins.csv")
	require.NoError(t, os.WriteFile(to, raw, 0o644))
	return to
}

// block is a STEP file of a block about the origin.
func block(t *testing.T, x, y, z string) string {
	t.Helper()
	w, h := model.MustLength(x)/2, model.MustLength(y)/2
	var b bytes.Buffer
	require.NoError(t, step.WriteBlock(&b, "block", model.Box3{Min: model.Point3{X: -w, Y: -h}, Max: model.Point3{X: w, Y: h, Z: model.MustLength(z)}}, time.Unix(0, 0)))
	return b.String()
}
