package lookup

import (
	"fmt"
	"maps"
	"math"
	"math/bits"
	"slices"
	"strconv"
	"strings"
	"sync"

	"jollydrawer/core/lifecycle"
	"jollydrawer/core/money"
	"jollydrawer/core/offer"
	"jollydrawer/core/part"
)

// Columns of what suppliers offer. No parameter has a point in its key.
const (
	colStock   = "offer.stock"   // pieces, all suppliers of all sources together
	colPrice   = "offer.price"   // what Query.Pieces cost at best, in the index's currency
	colLead    = "offer.lead"    // days, of the quickest
	colBuyable = "offer.sources" // sources that somebody sells and nobody calls obsolete
	colNamed   = "offer.named"   // sources that the part names, on offer or not
	colState   = "offer.state"   // standing of the product as suppliers say: of a source the worst, of a part that of its best source
)

// offered says whether a column is one of what suppliers offer.
func offered(key string) bool { return strings.HasPrefix(key, "offer.") }

// Quantities are those for which the index keeps prices; for another one they are worked out when they are asked for.
var Quantities = [...]int64{1, 10, 100, 1000, 10_000}

// usualPieces is the quantity of a question that names none.
const usualPieces = 100

// Supply is what suppliers offer of one source, by its key (part.Source.Key).
type Supply struct {
	Key    string
	Offers []Offered
}

// Offered is an offer and whose it is.
type Offered struct {
	Supplier string
	offer.Brief
}

// supplies is what an index knows of offers, by source. Contents that are built beside share it.
type supplies struct {
	mu       sync.RWMutex
	by       map[string]*Supply
	currency string
}

// rowSupply is what is offered of all sources of a part.
type rowSupply struct {
	of      []*Supply
	stock   int64 // -1: nobody says
	lead    int32 // -1
	buyable uint16
	state   uint8
	atLeast bool
	prices  [len(Quantities)]int64 // millionths; -1: none
}

// InStock is how many pieces of a part suppliers have, of all its sources together. known is false where nobody says.
func (x *Index) InStock(id string) (pieces int64, atLeast, known bool) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	row, ok := x.row(id)
	if !ok {
		return 0, false, false
	}
	r := x.suppliesOf(row)
	if r == nil || r.stock < 0 {
		return 0, false, false
	}
	return r.stock, r.atLeast, true
}

// LeadDays is how long it takes until more of a part come, from the quickest of those who say. known is false where nobody does.
func (x *Index) LeadDays(id string) (days int, known bool) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	row, ok := x.row(id)
	if !ok {
		return 0, false
	}
	r := x.suppliesOf(row)
	if r == nil || r.lead < 0 {
		return 0, false
	}
	return int(r.lead), true
}

// Produced says whether a source of a part is in production, as any of its suppliers says. known is false where none says anything of it.
func (x *Index) Produced(id string) (made, known bool) {
	x.mu.RLock()
	defer x.mu.RUnlock()
	row, ok := x.row(id)
	if !ok {
		return false, false
	}
	r := x.suppliesOf(row)
	if r == nil {
		return false, false
	}
	for _, s := range r.of {
		for _, o := range s.Offers {
			made, known = made || o.Stands == lifecycle.Active, known || o.Stands != ""
		}
	}
	return made, known
}

// states are how products stand, the best first; 0 where nobody says.
var states = lifecycle.Standings

// Supply says what suppliers offer of some sources from now on; one without offers is offered by nobody any more. All prices are of one currency.
func (x *Index) Supply(currency string, all []Supply) {
	for some := range slices.Chunk(all, putAtOnce) {
		x.supply.mu.Lock()
		x.supply.currency = strings.Clone(currency)
		for _, s := range some {
			if s.Offers == nil {
				delete(x.supply.by, s.Key)
				continue
			}
			x.supply.by[s.Key] = &s
		}
		x.supply.mu.Unlock()
		x.mu.Lock()
		for _, s := range some {
			for _, row := range x.rowsOf(s.Key) {
				x.resupply(row)
				if x.late != nil {
					x.late[x.ids.get(row)] = true
				}
			}
		}
		x.mu.Unlock()
	}
}

// Supplied says of how many sources the index knows offers.
func (x *Index) Supplied() int {
	x.supply.mu.RLock()
	defer x.supply.mu.RUnlock()
	return len(x.supply.by)
}

// rowsOf are the live rows that have a source.
func (x *Index) rowsOf(key string) (rows []uint32) {
	_, mpn, _ := strings.Cut(key, "|")
	x.mpnFind.each(mpn, func(k uint32) bool {
		r := x.sources[k].row
		if !x.rows[r].dead && x.sourceKey(k) == key && !slices.Contains(rows, r) {
			rows = append(rows, r)
		}
		return true
	})
	return rows
}

func (x *Index) sourceKey(k uint32) string {
	return part.Source{Manufacturer: x.names[x.sources[k].maker], MPN: x.mpns.get(k)}.Key()
}

// resupply looks up what is offered of a row's sources.
func (x *Index) resupply(row uint32) {
	r := &x.rows[row]
	x.supply.mu.RLock()
	var of []*Supply
	if len(x.supply.by) > 0 {
		for k := r.src; k < r.src+uint32(r.srcs); k++ {
			if s := x.supply.by[x.sourceKey(k)]; s != nil {
				of = append(of, s)
			}
		}
	}
	x.supply.mu.RUnlock()
	at := uint32(0)
	if int(row) < len(x.supplyAt) {
		at = x.supplyAt[row]
	}
	if of == nil && at == 0 {
		return
	}
	if n := len(x.rows); len(x.supplyAt) < n {
		x.supplyAt = append(x.supplyAt, make([]uint32, n-len(x.supplyAt))...)
	}
	if at == 0 {
		x.supplyOf = append(x.supplyOf, rowSupply{})
		at = uint32(len(x.supplyOf))
		x.supplyAt[row] = at
	}
	if of == nil {
		x.supplyAt[row] = 0
		return
	}
	x.supplyOf[at-1] = together(of)
}

// together is what the sources of a part offer together.
func together(of []*Supply) rowSupply {
	r := rowSupply{of: of, stock: -1, lead: -1}
	for _, s := range of {
		most := map[string]int64{} // what one supplier has in several packings may be the same pieces
		worst := uint8(0)
		for _, o := range s.Offers {
			if o.Stock >= 0 {
				most[o.Supplier] = max(most[o.Supplier], o.Stock)
				r.atLeast = r.atLeast || o.AtLeast
			}
			if o.LeadDays >= 0 && (r.lead < 0 || o.LeadDays < r.lead) {
				r.lead = o.LeadDays
			}
			worst = max(worst, uint8(max(0, o.Stands.Severity())))
		}
		for _, n := range most {
			r.stock = max(r.stock, 0) + n
		}
		if worst < 3 {
			r.buyable++
		}
		if worst > 0 && (r.state == 0 || worst < r.state) {
			r.state = worst
		}
	}
	for i, n := range Quantities {
		r.prices[i] = r.worth(n)
	}
	return r
}

// worth is what n pieces cost at best; what is in stock goes before what is not. -1: there is no price.
func (r *rowSupply) worth(n int64) int64 {
	best, lacking := int64(-1), false
	for _, s := range r.of {
		for k := range s.Offers {
			total, short, ok := s.Offers[k].Total(n)
			if ok && (best < 0 || lacking && !short || lacking == short && total < best) {
				best, lacking = total, short
			}
		}
	}
	return best
}

// price is worth with what is kept.
func (r *rowSupply) price(n int64) int64 {
	if i := slices.Index(Quantities[:], n); i >= 0 {
		return r.prices[i]
	}
	return r.worth(n)
}

// value is what a column of offers says of a row; ok is false where nobody says.
func (r *rowSupply) value(key string, pieces int64) (v int64, ok bool) {
	switch key {
	case colStock:
		v = r.stock
	case colPrice:
		v = r.price(pieces)
	case colLead:
		v = int64(r.lead)
	case colBuyable:
		v = int64(r.buyable)
	case colState:
		v = int64(r.state)
		return v, v > 0
	default:
		return 0, false
	}
	return v, v >= 0
}

// suppliesOf is what is offered of a row; nil: nothing that is known.
func (x *Index) suppliesOf(row uint32) *rowSupply {
	if int(row) >= len(x.supplyAt) || x.supplyAt[row] == 0 {
		return nil
	}
	return &x.supplyOf[x.supplyAt[row]-1]
}

// supplyValue is what a column of offers says of a row.
func (x *Index) supplyValue(row uint32, key string, pieces int64) (v int64, ok bool) {
	if key == colNamed {
		return int64(x.rows[row].srcs), true
	}
	if r := x.suppliesOf(row); r != nil {
		return r.value(key, pieces)
	}
	return 0, false
}

// pieces is how many a question is about.
func (q Query) pieces() int64 {
	if q.Pieces <= 0 {
		return usualPieces
	}
	return q.Pieces
}

// between is what a filter of offers lets through: any of some ranges, ends included.
type between struct{ from, to int64 }

// supplyFilter reads a filter of offers: "250..", "..28", "1", a state by its word, "-" for what nobody says. What cannot be read lets nothing through.
func supplyFilter(key string, texts []string, pieces int64) filter {
	f := filter{key: key, pieces: pieces}
	for _, text := range texts {
		if text = strings.TrimSpace(text); text == "-" {
			f.blank = true
		} else if b, err := supplyRange(key, text); err == nil {
			f.ranges = append(f.ranges, b)
		}
	}
	return f
}

// CheckSupplyFilter says in a sentence what is wrong with a filter of offers; nil for filters of other columns.
func CheckSupplyFilter(key, text string) error {
	if !offered(key) || strings.TrimSpace(text) == "-" {
		return nil
	}
	_, err := supplyRange(key, strings.TrimSpace(text))
	return err
}

func supplyRange(key, text string) (b between, err error) {
	if _, ok := supplyColumns[key]; !ok {
		return b, fmt.Errorf("%q is none of %s", key, strings.Join(slices.Sorted(maps.Keys(supplyColumns)), ", "))
	}
	if key == colState {
		i := slices.IndexFunc(states, func(s lifecycle.Standing) bool { return strings.EqualFold(string(s), text) })
		if i < 1 {
			return b, fmt.Errorf("%q is none of active, not for new designs and obsolete", text)
		}
		return between{int64(i), int64(i)}, nil
	}
	low, high, ranged := strings.Cut(text, "..")
	low, high = strings.TrimSpace(low), strings.TrimSpace(high)
	if low == "" && high == "" {
		return b, fmt.Errorf("%q is no number and no range: write 100.. for 100 and more", text)
	}
	b = between{math.MinInt64, math.MaxInt64}
	for to, end := range map[*int64]string{&b.from: low, &b.to: high} {
		if end == "" {
			continue
		}
		n, ok := supplyNumber(key, end)
		if !ok {
			return b, fmt.Errorf("%q is no number such as 100", end)
		}
		*to = n
	}
	if !ranged {
		b.to = b.from
	}
	return b, nil
}

// supplyNumber reads an end of a range: whole, or of a price with decimals, with a point.
func supplyNumber(key, text string) (int64, bool) {
	if key != colPrice {
		n, err := strconv.ParseInt(text, 10, 64)
		return n, err == nil
	}
	a, err := money.Parse(text, "EUR", money.Point) // whatever the currency: the index has one
	if err != nil {
		return 0, false
	}
	return offer.Millionths(a, 1, 1)
}

// through marks the rows of a shelf that a filter of offers lets through.
func (x *Index) through(f *filter, s *shelf, among, into bitset) {
	for w, word := range among {
		for ; word != 0; word &= word - 1 {
			local := uint32(w<<6 + bits.TrailingZeros64(word))
			v, ok := x.supplyValue(s.rows[local], f.key, f.pieces)
			if !ok && f.blank || ok && slices.ContainsFunc(f.ranges, func(b between) bool { return b.from <= v && v <= b.to }) {
				into.set(local)
			}
		}
	}
}

// supplyRank is what a row is sorted by in a column of offers: what nobody says comes last. A price is kept to seven digits; the same ones go by number.
func (x *Index) supplyRank(row uint32, key string, pieces int64) uint32 {
	v, ok := x.supplyValue(row, key, pieces)
	switch {
	case !ok:
		return none
	case key == colPrice:
		return min(math.Float32bits(float32(v)), none-1) // positive floats have the order of their bits
	}
	return uint32(min(v, int64(none-1)))
}

// RowSupply is what a list shows of what is offered of a part's sources.
type RowSupply struct {
	Stock    *int64 `json:"stock,omitempty" doc:"Pieces, all suppliers of all sources together"`
	AtLeast  bool   `json:"atLeast,omitempty"`
	Price    string `json:"price,omitempty" doc:"What the pieces of the question cost at best, in the house's currency"`
	LeadDays *int   `json:"leadDays,omitempty" doc:"Of the quickest"`
	Sources  int    `json:"sources" doc:"That somebody sells and nobody calls obsolete"`
	State    string `json:"state,omitempty" doc:"Of the product as suppliers say"`
}

// supplyShown is what a list shows of a row.
func (x *Index) supplyShown(row uint32, pieces int64) *RowSupply {
	r := x.suppliesOf(row)
	if r == nil {
		return nil
	}
	out := &RowSupply{AtLeast: r.atLeast, Sources: int(r.buyable), State: string(states[r.state])}
	if r.stock >= 0 {
		n := r.stock
		out.Stock = &n
	}
	if r.lead >= 0 {
		n := int(r.lead)
		out.LeadDays = &n
	}
	if v := r.price(pieces); v >= 0 {
		x.supply.mu.RLock()
		code := x.supply.currency
		x.supply.mu.RUnlock()
		if a, err := money.New(strconv.FormatInt(v, 10), code); err == nil {
			out.Price = a.Line(1, 1_000_000).String()
		}
	}
	return out
}

// supplyColumns are the headings of the columns of offers.
var supplyColumns = map[string]string{colStock: "Stock", colPrice: "Price", colLead: "Lead time (days)", colBuyable: "Sources on offer", colNamed: "Sources", colState: "Product state"}

// SupplyColumn is the heading of a column of offers; ok is false for any other column.
func SupplyColumn(key string) (heading string, ok bool) {
	heading, ok = supplyColumns[key]
	return heading, ok
}

// SupplyText is a column of offers of a row as text; blank where nobody says.
func (r *Row) SupplyText(key string) string {
	s := r.Supply
	switch {
	case key == colNamed:
		return strconv.Itoa(r.Sources)
	case s == nil:
		return ""
	}
	switch key {
	case colStock:
		return offer.StockText(s.Stock, s.AtLeast)
	case colPrice:
		return s.Price
	case colLead:
		if s.LeadDays == nil {
			return ""
		}
		return strconv.Itoa(*s.LeadDays)
	case colBuyable:
		return strconv.Itoa(s.Sources)
	case colState:
		return s.State
	}
	return ""
}

// supplyFacets counts what can be counted of offers, where there are any.
func (x *Index) supplyFacets(all []hits, filters []filter) (out []Facet) {
	if len(x.supplyOf) == 0 {
		return nil
	}
	for _, key := range []string{colState, colBuyable, colNamed} {
		own := slices.IndexFunc(filters, func(f filter) bool { return f.key == key })
		counts := map[int64]int{}
		blank := 0
		for i := range all {
			h := &all[i]
			rows := h.pass
			if own >= 0 {
				rows = h.but[own]
			}
			for w, word := range rows {
				for ; word != 0; word &= word - 1 {
					if v, ok := x.supplyValue(h.s.rows[w<<6+bits.TrailingZeros64(word)], key, usualPieces); ok {
						counts[v]++
					} else {
						blank++
					}
				}
			}
		}
		if len(counts) == 0 {
			continue
		}
		f := Facet{Key: key, Label: supplyColumns[key], Type: "text", Values: []FacetValue{}, Steps: []FacetStep{}, Blank: blank}
		values := make([]int64, 0, len(counts))
		for v := range counts {
			values = append(values, v)
		}
		slices.Sort(values)
		for _, v := range values[:min(len(values), maxFacetValues)] {
			text := strconv.FormatInt(v, 10)
			if key == colState {
				text = string(states[v])
			}
			f.Values = append(f.Values, FacetValue{text, counts[v]})
		}
		f.More = len(values) - len(f.Values)
		out = append(out, f)
	}
	return out
}
