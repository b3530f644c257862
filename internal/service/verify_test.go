package service_test

import (
	"database/sql"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/wire"
)

func TestVerifyNamesEveryKindOfTampering(t *testing.T) {
	h := open(t)
	land := h.keep(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: twoPads("0.95")})
	e := resistor("4k7", "A")
	e.LandPattern = &part.Model{ID: land.ID, Revision: 1}
	p := h.make(e)
	for _, power := range []string{"125 mW", "250 mW"} {
		var err error
		p, err = h.Release(t.Context(), h.me, p.ID, p.Version, wire.Release{Note: "checked"})
		require.NoError(t, err)
		e.Values["power"] = power
		p, err = h.SaveDraft(t.Context(), h.me, p.ID, p.Version, e)
		require.NoError(t, err)
	}
	says := func() []string {
		v, err := h.Verify(t.Context(), h.me)
		require.NoError(t, err)
		return v.Different
	}
	require.Empty(t, says())
	db, err := sql.Open("mysql", h.owner)
	require.NoError(t, err)
	defer db.Close()
	id := "UNHEX(REPLACE('" + p.ID + "', '-', ''))"
	for _, c := range []struct{ spoil, mend, says string }{
		{"UPDATE contents c JOIN revisions r ON r.content = c.id SET c.bytes = REPLACE(c.bytes, '4700', '4800') WHERE r.head = " + id + " AND r.number = 1",
			"UPDATE contents c JOIN revisions r ON r.content = c.id SET c.bytes = REPLACE(c.bytes, '4800', '4700') WHERE r.head = " + id + " AND r.number = 1", "bytes of its revision 1"},
		{"UPDATE uses SET child_revision = 7 WHERE parent = " + id + " AND place = 'released land pattern'", "UPDATE uses SET child_revision = 1 WHERE parent = " + id, "where-used names a model as its released land pattern"},
		{"DELETE FROM source_keys WHERE head = " + id, "", "1 of its sources have no key"},
		{"UPDATE heads SET released = (SELECT content FROM revisions WHERE head = " + id + " AND number = 1) WHERE id = " + id, "", "what is in use is not its newest revision"},
		{"DELETE FROM trail WHERE head = " + id + " AND seq = 2", "", "does not follow from the one before"},
	} {
		r, err := db.Exec(c.spoil)
		require.NoError(t, err)
		n, err := r.RowsAffected()
		require.NoError(t, err)
		require.Positive(t, n, c.spoil)
		found := says()
		require.NotEmpty(t, found, c.spoil)
		assert.Contains(t, found[len(found)-1]+found[0], c.says)
		if c.mend != "" {
			_, err = db.Exec(c.mend)
			require.NoError(t, err)
			require.Empty(t, says())
		}
	}
}
