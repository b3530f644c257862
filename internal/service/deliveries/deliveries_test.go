package deliveries_test

import (
	"archive/zip"
	"bytes"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/formatstest"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// brought brings in a file of the demo, or one of a test.
func brought(t *testing.T, h housetest.House, name string, raw []byte, number string) (wire.Delivery, error) {
	t.Helper()
	if raw == nil {
		var err error
		raw, err = os.ReadFile(filepath.Join("..", "..", "..", "demo", "deliveries", name))
		require.NoError(t, err)
	}
	f, err := h.Files.Keep(t.Context(), h.Me, name, bytes.NewReader(raw))
	require.NoError(t, err)
	return h.Deliveries.Bring(t.Context(), h.Me, wire.NewDelivery{Part: number, Files: []part.File{{Hash: f.Hash, Name: f.Name}}})
}

// zipped makes an archive; names and texts alternate.
func zipped(t *testing.T, names ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(names); i += 2 {
		w, err := z.Create(names[i])
		require.NoError(t, err)
		_, err = w.Write([]byte(names[i+1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func kinds(d wire.Delivery) (out []string) {
	for _, m := range d.Models {
		out = append(out, m.Kind)
	}
	slices.Sort(out)
	return out
}

func TestADeliveryIsToldApartAndChangesNothing(t *testing.T) {
	h := housetest.Open(t)
	d, err := brought(t, h, "tidewater dual amplifier.zip", nil, "")
	require.NoError(t, err)
	assert.Equal(t, "DL-00001", d.Number)
	assert.Equal(t, []string{"body", "land pattern", "symbol"}, kinds(d))
	assert.Equal(t, len(d.Models), d.Count)
	for _, m := range d.Models {
		assert.Nil(t, m.Used)
		assert.NotEmpty(t, m.What)
		svg, err := h.Deliveries.Preview(t.Context(), h.Me, d.ID, m.Key, false, true)
		require.NoError(t, err)
		assert.True(t, strings.HasPrefix(string(svg), "<svg"), m.Key)
	}
	_, err = h.Deliveries.Preview(t.Context(), h.Me, d.ID, "nothing", false, false)
	housetest.Fails(t, err, "not-found")
	all, err := h.Models.Library(t.Context())
	require.NoError(t, err)
	assert.Empty(t, all)
	list, err := h.Deliveries.List(t.Context(), h.Me, 0, 10)
	require.NoError(t, err)
	require.Len(t, list.Items, 1)
	again, err := h.Deliveries.Get(t.Context(), h.Me, "DL-00001")
	require.NoError(t, err)
	assert.Equal(t, d, again, "read anew it is the same")
}

func TestWhatIsTakenIsLinkedInOneDeed(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("1k", "A"))
	d, err := brought(t, h, "tidewater dual amplifier.zip", nil, p.Number)
	require.NoError(t, err)
	var use []wire.UsedModel
	for _, m := range d.Models {
		use = append(use, wire.UsedModel{Key: m.Key})
	}
	_, err = h.Deliveries.Use(t.Context(), h.Me, d.ID, d.Version+1, wire.UseDelivery{Part: p.Number, Models: use, Note: "as delivered"})
	housetest.Fails(t, err, "changed-meanwhile")
	_, err = h.Deliveries.Use(t.Context(), h.Me, d.ID, d.Version, wire.UseDelivery{Part: p.Number, Models: append(slices.Clone(use), wire.UsedModel{Key: "nothing"}), Note: "x"})
	require.Error(t, err)
	library, err := h.Models.Library(t.Context())
	require.NoError(t, err)
	assert.Empty(t, library, "a deed that is refused leaves nothing")

	c := h.Me
	c.Deed = store.NewID()
	once, err := h.Deliveries.Use(t.Context(), c, d.ID, d.Version, wire.UseDelivery{Part: p.Number, Models: use, Note: "as delivered"})
	require.NoError(t, err)
	again, err := h.Deliveries.Use(t.Context(), c, d.ID, d.Version, wire.UseDelivery{Part: p.Number, Models: use, Note: "as delivered"})
	require.NoError(t, err, "sent twice, it is done once")
	assert.Equal(t, once, again)
	now, err := h.Parts.Get(t.Context(), h.Me, p.ID)
	require.NoError(t, err)
	require.NotNil(t, now.Draft.Symbol)
	require.NotNil(t, now.Draft.LandPattern)
	require.NotNil(t, now.Draft.Body)
	assert.Equal(t, 1, now.Draft.Symbol.Revision, "released with the note")
	for _, m := range once.Models {
		require.NotNil(t, m.Used, m.Key)
	}

	// The same drawing comes again: the library's own is used in its place.
	second, err := brought(t, h, "tidewater dual amplifier.zip", nil, "")
	require.NoError(t, err)
	q := h.Make(housetest.Resistor("2k", "B"))
	use = nil
	for _, m := range second.Models {
		require.NotEmpty(t, m.Same, m.Key)
		use = append(use, wire.UsedModel{Key: m.Key, Reuse: m.Same[0].ID})
	}
	_, err = h.Deliveries.Use(t.Context(), h.Me, second.ID, second.Version, wire.UseDelivery{Part: q.Number, Models: use})
	require.NoError(t, err)
	other, err := h.Parts.Get(t.Context(), h.Me, q.ID)
	require.NoError(t, err)
	assert.Equal(t, now.Draft.Symbol.ID, other.Draft.Symbol.ID)
	library, err = h.Models.Library(t.Context())
	require.NoError(t, err)
	assert.Len(t, library, 3, "no drawing stands there twice")
}

func TestALibraryOfManyBecomesAnIntakeOnce(t *testing.T) {
	h := housetest.Open(t)
	d, err := brought(t, h, "pier-3 library.zip", nil, "")
	require.NoError(t, err)
	c := h.Me
	c.Deed = store.NewID()
	in := wire.LibraryIntake{Supplier: "Pier 3", Note: "from Pier 3"}
	i, err := h.Deliveries.Intake(t.Context(), c, d.ID, d.Version, in)
	require.NoError(t, err)
	drawings, err := h.Models.Library(t.Context())
	require.NoError(t, err)
	assert.NotEmpty(t, drawings)
	assert.Less(t, len(drawings), d.Count, "drawings that are alike are one")
	again, err := h.Deliveries.Intake(t.Context(), c, d.ID, d.Version, in)
	require.NoError(t, err)
	assert.Equal(t, i.ID, again.ID, "sent twice, it is one intake")
	after, err := h.Models.Library(t.Context())
	require.NoError(t, err)
	assert.Len(t, after, len(drawings))
	_, err = h.Deliveries.Intake(t.Context(), h.Me, d.ID, d.Version, in)
	housetest.Fails(t, err, "changed-meanwhile")
	small, err := brought(t, h, "x.zip", zipped(t, "read me.txt", "nothing here"), "")
	require.NoError(t, err)
	_, err = h.Deliveries.Intake(t.Context(), h.Me, small.ID, small.Version, in)
	require.Error(t, err, "without a symbol there is nothing to take in")
}

func TestHostileArchivesAreToldApartOrRefused(t *testing.T) {
	h := housetest.Open(t)
	_, err := brought(t, h, "out.zip", zipped(t, "../../etc/passwd", "x"), "")
	assert.Contains(t, housetest.Fails(t, err, "delivery-unreadable").Error(), "leads out of it")
	d, err := brought(t, h, "odd.zip", zipped(t, "a/b.txt", "y", "broken.step", "ISO-10303-21;", "broken.edf", "(edif", "twice.txt", "z", "copy of twice.txt", "z"), "")
	require.NoError(t, err)
	assert.Empty(t, d.Models)
	assert.Len(t, d.Files, 5, "every file is named, whatever it is")
	_, err = h.Deliveries.Bring(t.Context(), h.Me, wire.NewDelivery{Files: []part.File{{Hash: strings.Repeat("0", 64), Name: "gone.zip"}}})
	require.Error(t, err)
	var e *deed.Error
	require.ErrorAs(t, err, &e, "a sentence for people")
	_, err = h.Deliveries.Get(t.Context(), h.Me, "DL-99999")
	housetest.Fails(t, err, "not-found")
}

// A body that comes alone for a part with a land pattern is laid on that one, and corrected where its feet tell how it belongs.
func TestABodyIsLaidOnTheLandPatternOfItsPart(t *testing.T) {
	h := housetest.Open(t)
	mm := model.MustLength
	pads := []model.Pad{}
	for i, at := range [][2]string{{"-1.1", "0.95"}, {"-1.1", "-0.95"}, {"1.1", "0"}} {
		pads = append(pads, model.Pad{Number: strconv.Itoa(i + 1), Shape: model.PadRectangle, Width: mm("1.2"), Height: mm("0.6"), At: model.Point{X: mm(at[0]), Y: mm(at[1])}})
	}
	land := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Three leads", LandPattern: &model.LandPattern{Pads: pads}})
	in := housetest.Resistor("1k", "A")
	in.LandPattern = &part.Model{ID: land.ID, Name: land.Name}
	p := h.Make(in)
	lead := func(x, y float64) [6]float64 { return [6]float64{0.5, 0.4, 0.15, x - 0.25, y - 0.2, 0} }
	raw := formatstest.Blocks([][6]float64{{1.3, 2.9, 1, -0.65, -1.45, 0.1}, lead(1.05, 0.95), lead(1.05, -0.95), lead(-1.05, 0)}, nil) // half a turn round
	alone, err := brought(t, h, "body.step", raw, "")
	require.NoError(t, err)
	assert.Empty(t, alone.Models[0].Fit.Findings, "there is nothing to lay it on")
	d, err := brought(t, h, "body.step", raw, p.Number)
	require.NoError(t, err)
	place, certain := d.Models[0].Fit.Certain()
	require.True(t, certain, "%v", d.Models[0].Fit)
	assert.Equal(t, 180*model.Degree, place.TurnZ)
	_, err = h.Deliveries.Use(t.Context(), h.Me, d.ID, d.Version, wire.UseDelivery{Part: p.Number, Models: []wire.UsedModel{{Key: d.Models[0].Key, Correct: &place}}, Note: "as delivered"})
	require.NoError(t, err)
	fit, err := h.Fitting.PinsOnPads(t.Context(), h.Me, p.ID)
	require.NoError(t, err)
	assert.Empty(t, fit.Fit.Findings)
}
