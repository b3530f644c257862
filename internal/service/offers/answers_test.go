package offers_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/standin/market"
	"jollydrawer/internal/wire"
)

// Questions with known answers: what fits is what the makers say, whichever supplier says it in whichever words; and where a supplier says
// otherwise, that is said.
func TestWhatFitsIsWhatTheMakersSay(t *testing.T) {
	h, _ := suppliers(t)
	refreshLists(t, h)
	rng := rand.New(rand.NewPCG(7, 11))
	all := market.Products()
	by := map[string]market.Known{}
	for _, p := range all {
		by[p.MPN] = p
	}
	looked, fit, disagree, compared := 0, 0, 0, 0
	for range 120 {
		p := all[rng.IntN(len(all))]
		var facts []string
		switch p.Kind {
		case "resistor":
			facts = []string{"resistance", "case", "tolerance"}
		case "capacitor":
			facts = []string{"capacitance", "case", "dielectric", "voltage"}
		default:
			continue
		}
		facts = facts[:2+rng.IntN(len(facts)-1)]
		q := ""
		if rng.IntN(2) == 0 { // suppliers with filters are asked by them then
			q = p.Kind + " "
		}
		least := len(facts) == 4 && rng.IntN(2) == 0 // of the voltage
		if least {
			compared++
		}
		for _, f := range facts {
			v := p.Facts[f]
			switch f {
			case "tolerance":
				v += "%"
			case "voltage":
				if v += "V"; least {
					v = "voltage >= " + v
				}
			case "resistance", "capacitance":
				v = compact(v)
			}
			q += v + " "
		}
		a := ask(t, h, wire.SupplierQuestion{Text: q, Limit: 500})
		for _, s := range a.Suppliers {
			require.Equal(t, "answered", s.State, "%s: %s", s.Supplier, s.Says)
		}
		seen := map[string]wire.OfferedRow{}
		for _, r := range a.Rows {
			looked++
			assert.NotContains(t, seen, r.MPN, "%q: one row a product", q)
			seen[r.MPN] = r
			k, known := by[r.MPN]
			require.True(t, known, r.MPN)
			right := k.Kind == p.Kind
			for _, f := range facts {
				right = right && holds(f, k.Facts[f], p.Facts[f], least)
			}
			if len(r.Differ) > 0 {
				disagree++
				continue
			}
			odd := true // every supplier that lists it says something else than its maker, or too little
			for _, o := range r.Offers {
				odd = odd && k.Listed[o.Supplier] != "" && k.Listed[o.Supplier] != "twice" && k.Listed[o.Supplier] != "price of zero"
			}
			if !odd {
				assert.Equal(t, right, len(r.Fails) == 0, "%q: %s %v fails %v", q, r.MPN, r.Values, r.Fails)
			}
			if len(r.Fails) == 0 {
				fit++
			}
		}
		for _, k := range all {
			right := k.Kind == p.Kind && len(k.Listed) > 0
			for _, f := range facts {
				right = right && holds(f, k.Facts[f], p.Facts[f], least)
			}
			plain := slices.ContainsFunc([]string{market.Northquay, market.Harbour, market.Sandbar, market.MarshLane}, func(s string) bool {
				f, ok := k.Listed[s]
				return ok && (f == "" || f == "twice" || f == "price of zero")
			})
			if right && plain {
				assert.Contains(t, seen, k.MPN, "%q: somebody lists it", q)
			}
		}
	}
	t.Logf("%d products were laid beside what their makers say: %d fit, of %d suppliers disagree", looked, fit, disagree)
	assert.Greater(t, looked, 500)
	assert.Greater(t, compared, 5)
	assert.Greater(t, fit, 100)
}

// holds says whether a product's fact is the one that was asked for, or where the voltage was compared, at least that.
func holds(fact, has, asked string, least bool) bool {
	if !least || fact != "voltage" {
		return has == asked
	}
	var a, b float64
	_, _ = fmt.Sscan(has, &a)
	_, _ = fmt.Sscan(asked, &b)
	return a >= b
}

// compact writes a value as people type it: 4.7 kΩ as 4.7k, 4.7 Ω as 4R7, 100 nF as 100nF.
func compact(v string) string {
	var number, unit string
	_, _ = fmt.Sscanf(v, "%s %s", &number, &unit)
	switch unit {
	case "Ω":
		if whole, part, ok := strings.Cut(number, "."); ok {
			return whole + "R" + part
		}
		return number + "R"
	case "kΩ", "MΩ":
		return number + unit[:1]
	}
	return number + unit
}

// refreshLists fetches the price lists.
func refreshLists(t *testing.T, h housetest.House) {
	t.Helper()
	stocked(t, h, 1)
	refresh(t, h, wire.RefreshOffers{Lists: true})
}

// However many want to know the same at once, each supplier is asked once.
func TestOneQuestionOfManyPeopleIsAskedOnce(t *testing.T) {
	h, m := suppliers(t)
	var wg sync.WaitGroup
	for range 20 {
		wg.Go(func() {
			q := wire.SupplierQuestion{Text: "10k 0603 1%"}
			for {
				a, err := h.Offers.Ask(t.Context(), h.Me, q)
				if !assert.NoError(t, err) || a.Done {
					return
				}
				q.Seen = a.State
			}
		})
	}
	wg.Wait()
	assert.Equal(t, 1, m.Asked(market.Northquay))
	assert.Equal(t, 1, m.Asked(market.Sandbar))
	assert.Equal(t, 2, m.Asked(market.Harbour), "a token, and the question")
}
