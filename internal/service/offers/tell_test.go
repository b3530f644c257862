package offers_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// noted are the entries of a part's trail that say what suppliers say otherwise.
func noted(t *testing.T, h housetest.House, number string) (says []string) {
	t.Helper()
	l, err := h.Parts.Trail(t.Context(), h.Me, number, 0, 100)
	require.NoError(t, err)
	for _, e := range l.Items {
		if e.Action == "offers changed" {
			says = append(says, e.Says)
		}
	}
	return says
}

// What suppliers say otherwise is on the trail of the part, once, and waits on the worklist until somebody has seen to it.
func TestWhatSuppliersSayOtherwiseIsToldOnce(t *testing.T) {
	h, m := suppliers(t)
	parts := stocked(t, h, 6)
	refresh(t, h, wire.RefreshOffers{})
	other := h.Beside(reaching(m))
	number := parts["TW-0402-1K2-F"]
	before := len(noted(t, h, number))
	m.End("TW-0402-1K2-F")
	refresh(t, h, wire.RefreshOffers{Parts: []string{number}})
	for _, at := range []housetest.House{h, other} {
		require.NoError(t, at.Offers.Tell(t.Context(), time.Now()))
	}
	said := noted(t, h, number)
	require.Len(t, said, before+1)
	assert.Contains(t, said[0], "the service found that suppliers say otherwise of "+number)
	assert.Contains(t, said[0], "of the product and says")

	work := func() []wire.WorkItem {
		w, err := h.Worklist.Get(t.Context(), h.Me)
		require.NoError(t, err)
		for _, k := range w.Kinds {
			if k.Key == "offers" {
				return k.Items
			}
		}
		return nil
	}
	items := work()
	require.NotEmpty(t, items)
	assert.Equal(t, []string{"part", number}, []string{items[0].Kind, items[0].Name})
	l, err := h.Offers.News(t.Context(), h.Me, 0, 100)
	require.NoError(t, err)
	var ids []string
	for _, n := range l.Items {
		ids = append(ids, n.ID)
	}
	_, err = h.Offers.Settle(t.Context(), h.Me, wire.SettleNews{IDs: ids})
	require.NoError(t, err)
	assert.Empty(t, work())
	reader := h.Me
	reader.Actor.Role = deed.Reader
	_, _, _, err = h.Offers.Waiting(t.Context(), reader, 8)
	assert.Error(t, err, "who may not see to it has no such work")
}

// A link that leads to another file than the one that was fetched is news; the part keeps the file that it has.
func TestADatasheetWhoseFileChangedIsSaidAndTheOldOneKept(t *testing.T) {
	h, m := suppliers(t)
	q := wire.SupplierQuestion{Text: "4k7 0805 1%"}
	r := of(t, ask(t, h, q), "GR08054K7F")
	got, err := h.Offers.Take(t.Context(), h.Me, wire.SupplierTake{Question: q, Supplier: r.Offers[0].Supplier, Number: r.Offers[0].Number})
	require.NoError(t, err)
	require.NotNil(t, got.Fetching)
	h.Wait(*got.Fetching)
	part := got.Part.Number
	sheet := func() string {
		p, err := h.Parts.Get(t.Context(), h.Me, part)
		require.NoError(t, err)
		require.Len(t, p.Newest().Datasheets, 1)
		return p.Newest().Datasheets[0].Hash
	}
	had := sheet()
	news := func() (says []string) {
		o, err := h.Offers.OfPart(t.Context(), h.Me, part, 1)
		require.NoError(t, err)
		for _, n := range o.News {
			if n.What == "sheet" {
				says = append(says, n.Says)
			}
		}
		return says
	}
	later := time.Now()
	h.Now = func() time.Time { return later }
	again := func() {
		later = later.Add(25 * time.Hour)
		refresh(t, h, wire.RefreshOffers{Parts: []string{part}})
	}
	again()
	assert.Empty(t, news(), "it is the same file")
	m.Correct("grebe-gr.pdf")
	refresh(t, h, wire.RefreshOffers{Parts: []string{part}})
	assert.Empty(t, news(), "it is looked at once a day")
	again()
	require.Len(t, news(), 1)
	assert.Contains(t, news()[0], "grebe-gr.pdf is another one now")
	again()
	assert.Len(t, news(), 1, "said once")
	m.Fence("grebe-gr.pdf", true)
	again()
	assert.Len(t, news(), 1, "a page to sign in is no datasheet")
	m.Fence("grebe-gr.pdf", false)
	again()
	assert.Len(t, news(), 1, "the datasheet is there again, as it was")
	m.Correct("grebe-gr.pdf")
	again()
	assert.Len(t, news(), 2)
	assert.Equal(t, had, sheet())
}
