package audit_test

import (
	"database/sql"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestVerifyNamesEveryKindOfTampering(t *testing.T) {
	h := housetest.Open(t)
	land := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	e := housetest.Resistor("4k7", "A")
	e.LandPattern = &part.Model{ID: land.ID, Revision: 1}
	p := h.Make(e)
	for _, power := range []string{"125 mW", "250 mW"} {
		var err error
		p, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "checked"})
		require.NoError(t, err)
		e.Values["power"] = power
		p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
		require.NoError(t, err)
	}
	says := func() []string {
		v, err := h.Audit.Verify(t.Context(), h.Me)
		require.NoError(t, err)
		return v.Different
	}
	require.Empty(t, says())
	db, err := sql.Open("mysql", h.Owner)
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

func TestVerifyNamesWhatWasTamperedWith(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("1k", "A"))
	v, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
	require.NoError(t, h.Audit.Seal(t.Context()))
	// The service's own account may change heads: a head that was bent no longer fits its trail.
	_, err = testdb.SQL(t, h.Owner, "UPDATE heads SET trail_seq = 7 WHERE number = ?", p.Number)
	require.NoError(t, err)
	v, err = h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	require.Len(t, v.Different, 1)
	assert.Contains(t, v.Different[0], p.Number)
	_, err = testdb.SQL(t, h.Owner, "DELETE FROM source_keys")
	require.NoError(t, err)
	v, err = h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(v.Different, "\n"), "1 of its sources have no key")
}
