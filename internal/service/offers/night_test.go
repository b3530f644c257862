package offers_test

import (
	"database/sql"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/service/offers"
	"jollydrawer/internal/standin/market"
	"jollydrawer/internal/wire"
)

// board makes a BOM of the parts with some numbers.
func board(t *testing.T, h housetest.House, name string, numbers ...string) {
	t.Helper()
	f, err := h.Files.Keep(t.Context(), h.Me, "board.csv", strings.NewReader("Designator,Qty,Part number\nR1,1,"+strings.Join(numbers, "\nR2,1,")+"\n"))
	require.NoError(t, err)
	_, err = h.BOMs.Bring(t.Context(), h.Me, wire.NewBOM{Name: name, FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
}

func TestPartsOnBoardsAreAskedForFirst(t *testing.T) {
	h, m := suppliers(t)
	parts := stocked(t, h, 60)
	h.Level()
	last := parts["TW-0805-1K2-F"] // none before it in any other order
	board(t, h, "Gauge", parts["TW-0805-1K1-F"], last)
	board(t, h, "Float", last)
	m.Happen(market.Sandbar, market.Faults{}) // it is asked one by one: the first question is of what is most used
	asked := m.Questions(market.Sandbar)
	refresh(t, h, wire.RefreshOffers{})
	now := m.Questions(market.Sandbar)[len(asked):]
	require.Greater(t, len(now), 2)
	assert.Contains(t, now[0], "TW-0805-1K2-F", "on two boards")
	assert.Contains(t, now[1], "TW-0805-1K1-F", "on one")

	got := refresh(t, h, wire.RefreshOffers{BOM: "Gauge"})
	assert.Equal(t, 2, got.Sources)
	_, err := h.Offers.Refresh(t.Context(), h.Me, wire.RefreshOffers{BOM: "No such board"})
	assert.ErrorContains(t, err, "BOM")
}

// By night all is asked for once, however many instances there are.
func TestTheNightsRefreshIsStartedOnce(t *testing.T) {
	h, m := suppliers(t)
	stocked(t, h, 3)
	h.Level()
	now := time.Date(2026, 11, 28, 1, 59, 0, 0, time.UTC)
	h.Now = func() time.Time { return now }
	other := h.Beside(reaching(m))
	other.Now = h.Now
	night := func(at offers.Hour) bool {
		one, err := h.Offers.Night(t.Context(), at)
		require.NoError(t, err)
		two, err := other.Offers.Night(t.Context(), at)
		require.NoError(t, err)
		assert.Equal(t, one, two)
		return one
	}
	assert.False(t, night("02:00"), "too early")
	assert.False(t, night(""), "nobody wants it")
	now = now.Add(2 * time.Minute)
	assert.True(t, night("02:00"))
	now = now.Add(time.Hour)
	assert.True(t, night("02:00"), "there is one for this day")
	db, err := sql.Open("mysql", h.Owner)
	require.NoError(t, err)
	defer db.Close()
	var jobs int
	require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM jobs WHERE kind = 'offers-refresh'").Scan(&jobs))
	assert.Equal(t, 1, jobs)
	for text, good := range map[string]bool{"02:30": true, "": true, "2:30": false, "25:00": false, "night": false, "02:30:00": false} {
		_, err := offers.ParseHour(text)
		assert.Equal(t, good, err == nil, text)
	}
}
