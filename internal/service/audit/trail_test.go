package audit_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/trail"
	"jollydrawer/internal/service/audit"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// said lists what a question to the trail finds, newest first.
func said(t *testing.T, h housetest.House, q audit.TrailQuery) (out []string) {
	t.Helper()
	for {
		l, err := h.Audit.Trail(t.Context(), h.Me, q)
		require.NoError(t, err)
		for _, e := range l.Items {
			out = append(out, e.Says)
		}
		if q.After = l.Next; q.After == "" {
			return out
		}
	}
}

func TestTheTrailAcrossAllThingsIsNarrowed(t *testing.T) {
	h := housetest.Open(t)
	maren := h.As("maren", "librarian")
	begin := h.Now().UTC()
	h.TakeIn(h.Listed("R;Tidewright;I-1;4k7;1%;0805;\nR;Tidewright;I-2;220R;1%;0603;\n"))
	p, err := h.Parts.Create(t.Context(), maren, housetest.Rated("1M", "A"))
	require.NoError(t, err)
	middle := h.Now().UTC()
	e := housetest.Rated("1M", "A")
	e.Values["power"] = "250 mW"
	p, err = h.Parts.Save(t.Context(), maren, p.ID, p.Version, e)
	require.NoError(t, err)
	_, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "checked"})
	require.NoError(t, err)
	own := []string{"Administrator released " + p.Number + " as revision 1: “checked”.", "Maren changed the draft of " + p.Number + ".", "Maren made " + p.Number + "."}
	parts := said(t, h, audit.TrailQuery{Kind: "part", Limit: 2})
	require.Len(t, parts, 5, "in pages, each entry once")
	assert.Equal(t, own, parts[:3])
	assert.Contains(t, parts[3]+parts[4], "made EW-R-00001 from ")
	assert.Equal(t, own[1:], said(t, h, audit.TrailQuery{By: "maren"}))
	assert.Equal(t, own[:2], said(t, h, audit.TrailQuery{From: middle, Kind: "part"}))
	assert.Len(t, said(t, h, audit.TrailQuery{To: middle, From: begin, Kind: "part"}), 3)
	assert.Len(t, said(t, h, audit.TrailQuery{Drawer: "passives"}), 5, "a drawer and all in it")
	assert.Empty(t, said(t, h, audit.TrailQuery{Drawer: "crystals"}))
	ofFile := said(t, h, audit.TrailQuery{File: "list.csv"})
	assert.NotEmpty(t, ofFile)
	for _, s := range ofFile {
		assert.NotContains(t, s, p.Number, "all that was done with a file, and nothing else")
	}
	assert.Empty(t, said(t, h, audit.TrailQuery{File: "list.cs_"}), "a name is no pattern")
	l, err := h.Audit.Trail(t.Context(), h.Me, audit.TrailQuery{By: "maren", Limit: 1})
	require.NoError(t, err)
	assert.Equal(t, []trail.Change{{What: "description", Before: "RES 1MΩ ±1% 125mW 0805", After: "RES 1MΩ ±1% 250mW 0805"}, {What: "mounting", Before: "surface"}, {What: "power", Before: "125 mW", After: "250 mW"}}, l.Items[0].Changes)
	for q, typ := range map[audit.TrailQuery]string{{By: "nobody"}: "not-found", {Kind: "planet"}: "kind-unknown", {Drawer: "none"}: "drawer-unknown", {After: "x"}: "place-unknown", {After: strings.Repeat("A", 38)}: "", {From: middle, To: begin}: "times-turned"} {
		_, err := h.Audit.Trail(t.Context(), h.Me, q)
		var e *deed.Error
		if typ == "" {
			assert.NoError(t, err)
		} else if assert.ErrorAs(t, err, &e, "%+v", q) {
			assert.Equal(t, typ, e.Type)
		}
	}
}

// What is exported is checked without the service, and any letter that is changed in it is noticed.
func TestAnExportedTrailIsChecked(t *testing.T) {
	h := housetest.Open(t)
	for i := range 7 {
		p := h.Make(housetest.Rated("4k7", fmt.Sprintf("=A-%d", i)))
		_, err := h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "\u2028 \"checked\""})
		require.NoError(t, err)
	}
	var b bytes.Buffer
	require.NoError(t, h.Audit.ExportTrail(t.Context(), h.Me, audit.TrailQuery{}, "jsonl", &b))
	c, err := trail.Check(bytes.NewReader(b.Bytes()))
	require.NoError(t, err)
	assert.Empty(t, c.Wrong)
	assert.Equal(t, []int{15, 8, 0}, []int{c.Entries, c.Things, c.Apart}, "seven parts with two entries each, and the cabinet")
	c, err = trail.Check(strings.NewReader(strings.Replace(b.String(), "revision\\\":1", "revision\\\":2", 1)))
	require.NoError(t, err)
	assert.Len(t, c.Wrong, 1)
	b.Reset()
	require.NoError(t, h.Audit.ExportTrail(t.Context(), h.Me, audit.TrailQuery{From: h.Now().Add(-time.Hour), Kind: "part"}, "csv", &b))
	rows, err := csv.NewReader(&b).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 15)
	assert.Equal(t, "hash", rows[0][12])
	b.Reset()
	require.NoError(t, h.Audit.ExportTrail(t.Context(), h.Me, audit.TrailQuery{Kind: "bom"}, "csv", &b))
	assert.Equal(t, 1, strings.Count(b.String(), "\n"), "the head alone")
}
