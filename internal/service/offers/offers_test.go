package offers_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"jollydrawer/demo"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/app"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/standin/market"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// suppliers opens a house with the four simulated suppliers.
func suppliers(t *testing.T) (housetest.House, *market.Market) {
	t.Helper()
	m, err := market.Start(demo.Files, "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { _ = m.Close() })
	h := housetest.Open(t, func(o *app.Options) {
		o.Guard = reach.Guard{Inside: []string{m.Host()}}
		o.Secrets = func(name string) (string, bool) { s, ok := market.Secrets[name]; return s, ok }
	})
	for _, name := range []string{"northquay", "harbour-finch", "sandbar", "marsh-lane"} {
		connect(t, h, m, name)
		raw, err := demo.Files.ReadFile("crosswalks/" + name + "-answers.yaml")
		require.NoError(t, err)
		_, err = h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, 0, string(raw))
		require.NoError(t, err)
	}
	raw, err := demo.Files.ReadFile("rates.yaml")
	require.NoError(t, err)
	_, err = h.Offers.ApplyRates(t.Context(), h.Me, 0, wire.RatesEdit{Text: string(raw)})
	require.NoError(t, err)
	return h, m
}

func connect(t *testing.T, h housetest.House, m *market.Market, name string) {
	t.Helper()
	raw, err := demo.Files.ReadFile("connections/" + name + ".yaml")
	require.NoError(t, err)
	_, err = h.Offers.Apply(t.Context(), h.Me, 0, wire.ConnectionEdit{Text: strings.ReplaceAll(string(raw), "http://suppliers.invalid", m.URL)})
	require.NoError(t, err)
}

// ask asks until all have answered.
func ask(t *testing.T, h housetest.House, q wire.SupplierQuestion) wire.SupplierAnswers {
	t.Helper()
	for {
		a, err := h.Offers.Ask(t.Context(), h.Me, q)
		require.NoError(t, err)
		if a.Done {
			return a
		}
		q.Seen, q.Again = a.State, false
	}
}

func TestX(t *testing.T) {
	h, _ := suppliers(t)
	a := ask(t, h, wire.SupplierQuestion{Text: "4k7 0805 1%", Pieces: 250})
	t.Logf("%+v", a.Facts)
	for _, s := range a.Suppliers {
		t.Logf("%+v", s)
	}
	for i, r := range a.Rows {
		if i < 12 {
			t.Logf("%s %s %s %s | %v | fails %v | %s %v differ %v stock %d", r.Manufacturer, r.MPN, r.Label, r.Description, r.Values, r.Fails, r.Stands, r.States, r.Differ, r.Stock)
			for _, o := range r.Offers {
				t.Logf("     %s %s %s buy %+v each %s conv %v %s", o.Supplier, o.Number, o.Packing, o.Buy, o.Each, o.Converted, o.Rate)
			}
		}
	}
}
