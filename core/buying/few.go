package buying

import (
	"math/bits"
	"slices"

	"jollydrawer/core/offer"
)

// mostTried is how many suppliers are tried in all combinations.
const mostTried = 8

// fewest leaves of the ways to buy each part those from as few suppliers as can serve all of them as well: every part that can be bought is, and none is short that
// need not be. Of several such sets it is the one with the lowest sum. With more suppliers than can all be tried, one is taken away after the other as long as
// that does no harm, and exact is false.
func fewest(ways [][]*Bought) (out [][]*Bought, exact bool) {
	var suppliers []string
	for _, found := range ways {
		for _, b := range found {
			if !slices.Contains(suppliers, b.Supplier) {
				suppliers = append(suppliers, b.Supplier)
			}
		}
	}
	slices.Sort(suppliers)
	if len(suppliers) > 62 {
		return ways, false
	}
	at := map[string]int{}
	for i, s := range suppliers {
		at[s] = i
	}
	set, fits := table(ways, at)
	if !fits {
		return ways, false
	}
	all := uint64(1)<<len(suppliers) - 1
	need := set.serve(all)
	best := all
	if len(suppliers) <= mostTried {
		lowest := need
		for some := uint64(1); some < all; some++ {
			if bits.OnesCount64(some) > bits.OnesCount64(best) {
				continue
			}
			s := set.serve(some)
			if !s.asGoodAs(need) {
				continue
			}
			if bits.OnesCount64(some) < bits.OnesCount64(best) || s.sum < lowest.sum {
				best, lowest = some, s
			}
		}
	} else {
		for i := range suppliers {
			if less := best &^ (1 << i); set.serve(less).asGoodAs(need) {
				best = less
			}
		}
	}
	for i, found := range ways {
		ways[i] = slices.DeleteFunc(slices.Clone(found), func(b *Bought) bool { return best&(1<<at[b.Supplier]) == 0 })
	}
	return ways, len(suppliers) <= mostTried
}

// way is what a subset is weighed by.
type way struct {
	supplier uint64
	short    bool
	counts   bool  // its sum can be added
	sum      int64 // in millionths of the house's currency, which no currency is paid finer than
}

type served struct {
	bought, there, summed int
	sum                   int64
}

// mostSummed bounds what is added up in whole numbers: a thousand million of a currency a purchase.
const mostSummed = 1_000_000_000_000_000

// asGoodAs says whether as many parts can be bought, as many are there, and as many can be summed up.
func (s served) asGoodAs(need served) bool {
	return s.bought == need.bought && s.there == need.there && s.summed == need.summed
}

type weighed [][]way

// table is the ways in short, each part's best first; fits is false where they are more than whole numbers hold.
func table(ways [][]*Bought, at map[string]int) (_ weighed, fits bool) {
	out := make(weighed, 0, len(ways))
	for _, found := range ways {
		var list []way
		for i := range found {
			b := found[i]
			sum, counts := b.sum()
			n, fits := offer.Millionths(sum, 1, 1)
			if counts && (!fits || n > mostSummed) {
				return nil, false
			}
			list = append(list, way{1 << at[b.Supplier], b.Short, counts, n})
		}
		out = append(out, list)
	}
	return out, len(out) < 9000 // so many of the largest still fit
}

// serve says how well a set of suppliers serves: each part by the best way that is left.
func (t weighed) serve(some uint64) (out served) {
	for _, list := range t {
		for i := range list {
			if list[i].supplier&some == 0 {
				continue
			}
			out.bought++
			if !list[i].short {
				out.there++
			}
			if list[i].counts {
				out.summed++
				out.sum += list[i].sum
			}
			break
		}
	}
	return out
}
