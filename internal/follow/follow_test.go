package follow_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// Content that an instance cannot read stops nothing else: neither its feed while it runs nor its start.
func TestAContentThatCannotBeReadIsSetAsideAndTheFeedGoesOn(t *testing.T) {
	for name, spoil := range map[string]string{
		"a later form":  "UPDATE contents c JOIN heads h ON h.draft = c.id SET c.format = 'jolly-part/9' WHERE h.number = ?",
		"damaged bytes": "UPDATE contents c JOIN heads h ON h.draft = c.id SET c.bytes = '{' WHERE h.number = ?",
	} {
		t.Run(name, func(t *testing.T) {
			h := housetest.Open(t)
			bad, good := h.Make(housetest.Resistor("1k", "A")), h.Make(housetest.Resistor("2k", "B"))
			_, err := testdb.SQL(t, h.Owner, spoil, bad.Number)
			require.NoError(t, err)
			// A deed of another instance writes both: the feed brings it.
			_, err = testdb.SQL(t, h.Owner, "UPDATE heads SET version = version + 1, deed = UNHEX('0102030405060708090A0B0C0D0E0F10') WHERE kind = 'part'")
			require.NoError(t, err)
			_, err = testdb.SQL(t, h.Owner, "INSERT INTO deeds (id, kind, at, request, result) VALUES (UNHEX('0102030405060708090A0B0C0D0E0F10'), 'part.edit', NOW(6), REPEAT('x', 32), '{}')")
			require.NoError(t, err)
			_, err = testdb.SQL(t, h.Owner, "INSERT INTO outbox (deed, kind, at) VALUES (UNHEX('0102030405060708090A0B0C0D0E0F10'), 'part.edit', NOW(6))")
			require.NoError(t, err)
			require.Eventually(t, func() bool { e, ok := h.Index.ByID(good.ID); return ok && e.Version == good.Version+1 }, 10*time.Second, 10*time.Millisecond, "the rest goes on")
			require.Eventually(t, func() bool { return len(h.Follower.Aside()) == 1 }, 10*time.Second, 10*time.Millisecond)
			assert.Equal(t, []string{bad.Number}, h.Follower.Aside())
			_, found := h.Index.ByID(bad.ID)
			assert.False(t, found, "nothing stale is found of it")
			later := h.Make(housetest.Resistor("3k", "C"))
			_, found = h.Index.ByID(later.ID)
			assert.True(t, found)
			require.NoError(t, h.Follower.Load(t.Context()), "and an instance that starts does so too")
			assert.Equal(t, []string{bad.Number}, h.Follower.Aside())
			_, err = h.Parts.Get(t.Context(), h.Me, bad.Number)
			require.Error(t, err, "its page says so instead of showing it wrongly")

			// The instance is brought to the version that reads it.
			_, err = testdb.SQL(t, h.Owner, "UPDATE contents c JOIN heads h ON h.draft = c.id JOIN heads g ON g.number = ? JOIN contents d ON d.id = g.draft SET c.format = d.format, c.bytes = d.bytes WHERE h.number = ?", good.Number, bad.Number)
			require.NoError(t, err)
			require.NoError(t, h.Follower.Load(t.Context()))
			assert.Empty(t, h.Follower.Aside())
			_, found = h.Index.ByID(bad.ID)
			assert.True(t, found)
		})
	}
}
