package follow_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
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

// A deed over many parts reads no content that the index shows: what it shows then is what a library that is read as a whole does, whether content
// was new, was there, or had been changed since.
func TestWhatADeedOverManyShowsIsWhatIsThere(t *testing.T) {
	h := housetest.Open(t)
	beside := h.Beside() // it hears of everything from the feed
	ctx := t.Context()
	var all []wire.PartBase
	for i := range 35 {
		p := h.Make(housetest.Rated(fmt.Sprintf("%dk", i+1), fmt.Sprintf("RG-%d", i)))
		all = append(all, wire.PartBase{ID: p.ID, Version: p.Version})
	}
	move := func(in wire.MoveThings) {
		t.Helper()
		in.Note, in.Things = "all at once", all
		_, err := h.Lifecycles.Move(ctx, h.Me, in)
		require.NoError(t, err)
		for i := range all {
			all[i].Version++
		}
		fresh := h.Beside()
		for _, b := range all {
			want, ok := fresh.Index.ByID(b.ID)
			require.True(t, ok)
			require.Equal(t, b.Version, want.Version)
			require.NotZero(t, want.Content)
			got, _ := h.Index.ByID(b.ID)
			require.Equal(t, want, got)
			require.Eventually(t, func() bool { got, _ = beside.Index.ByID(b.ID); return got.Version == b.Version }, 20*time.Second, 10*time.Millisecond)
			require.Equal(t, want, got, "in the instance beside")
		}
	}
	move(wire.MoveThings{Move: "release"})
	move(wire.MoveThings{Move: "no new designs"})
	for i := range all { // a draft beside what is in use, of another value
		p, err := h.Parts.Save(ctx, h.Me, all[i].ID, all[i].Version, housetest.Rated(fmt.Sprintf("%dk", i+100), fmt.Sprintf("RG-%d", i)))
		require.NoError(t, err)
		all[i].Version = p.Version
	}
	move(wire.MoveThings{Move: "release"})
	got, _ := h.Index.ByID(all[3].ID)
	assert.Equal(t, "103 kΩ", got.Value("resistance").String())
	assert.Equal(t, 2, got.Revision)
	assert.Equal(t, 35, h.Index.Search(lookup.Query{Text: ">99k"}).Total)
	assert.Zero(t, h.Index.Search(lookup.Query{Text: "<99k"}).Total)
}
