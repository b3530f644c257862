package lifecycles_test

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/finder"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestReleasesFreezeAndAreAllOrNothing(t *testing.T) {
	h := housetest.Open(t)
	good, bare := h.Make(housetest.Resistor("1k", "A")), h.Make(wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": "2k"}})
	bases := func(ps ...wire.Part) (out []wire.PartBase) {
		for _, p := range ps {
			out = append(out, wire.PartBase{ID: p.ID, Version: p.Version})
		}
		return
	}
	_, err := h.Lifecycles.ReleaseMany(t.Context(), h.Me, wire.BulkRelease{Note: "both", Parts: bases(good, bare)})
	bad := housetest.Fails(t, err, "not-ready")
	assert.Contains(t, bad.Error(), "Case, Tolerance are required and blank")
	now, err := h.Parts.Get(t.Context(), h.Me, good.ID)
	require.NoError(t, err)
	assert.Zero(t, now.Revision, "none of the two was released")
	_, err = h.Lifecycles.Release(t.Context(), h.Me, good.ID, good.Version, wire.Release{Note: "  "})
	housetest.Fails(t, err, "no-note")
	r, err := h.Lifecycles.Release(t.Context(), h.Me, good.ID, good.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
	assert.Nil(t, r.Draft)
	_, err = h.Lifecycles.Release(t.Context(), h.Me, r.ID, r.Version, wire.Release{Note: "again"})
	housetest.Fails(t, err, "not-ready")
	_, err = h.Lifecycles.Release(t.Context(), h.Me, r.ID, good.Version, wire.Release{Note: "stale"})
	assert.NotNil(t, housetest.Fails(t, err, "part-changed").Current)
	e := r.Released.Edit()
	e.Values["power"] = "250 mW"
	r, err = h.Parts.Save(t.Context(), h.Me, r.ID, r.Version, e)
	require.NoError(t, err)
	assert.Equal(t, "released", r.Status, "a draft beside a revision does not change what others see")
	d, err := h.Parts.Diff(t.Context(), h.Me, r.ID, 1, 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"description", "values.power"}, []string{d.Changes[0].Path, d.Changes[1].Path})
	_, err = h.Parts.Diff(t.Context(), h.Me, r.ID, 1, 7)
	housetest.Fails(t, err, "not-found")
	l, err := h.Finder.Search(t.Context(), h.Me, finder.Query{Text: "250mW"})
	require.NoError(t, err)
	assert.Zero(t, l.Page.Total, "a search finds what is released")
}

// Many who release at once: each waits at most for the others, and none for a connection that another one holds.
func TestFortyFiveReleasesOfTenPartsAtOnce(t *testing.T) {
	h := housetest.Open(t)
	const calls, parts = 45, 10
	lots := make([]wire.BulkRelease, calls)
	for i := range lots {
		lots[i].Note = "all at once"
		for k := range parts {
			p := h.Make(housetest.Rated("4k7", fmt.Sprintf("P-%d-%d", i, k)))
			lots[i].Parts = append(lots[i].Parts, wire.PartBase{ID: p.ID, Version: p.Version})
		}
	}
	ctx, cancel := context.WithTimeout(t.Context(), time.Minute)
	defer cancel()
	failed := make(chan error, calls)
	for _, in := range lots {
		go func() {
			done, err := h.Lifecycles.ReleaseMany(ctx, h.Me, in)
			if err == nil && done.Parts != parts {
				err = fmt.Errorf("%d parts were released", done.Parts)
			}
			failed <- err
		}()
	}
	for range calls {
		assert.NoError(t, <-failed)
	}
	l, err := h.Finder.Search(t.Context(), h.Me, finder.Query{Filters: map[string][]string{"status": {"released"}}})
	require.NoError(t, err)
	assert.Equal(t, calls*parts, l.Page.Total)
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}
