package main

import (
	table "encoding/csv"
	"fmt"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/bom"
	"jollydrawer/core/buying"
	"jollydrawer/core/money"
	"jollydrawer/core/offer"
)

// costing measures what is worked out of a BOM in memory: the comparison of two of 10,000 lines beside reading both as CSV, and the cost of 1,000 lines for five
// quantities beside adding up one price a line with the same amounts.
func costing() error {
	before, after := boardOf(10_000, 0), boardOf(10_000, 7)
	text := csvOf(before)
	other := csvOf(after)
	var read, compared []time.Duration
	changes := 0
	for range 15 {
		start := time.Now()
		for _, t := range []string{text, other} {
			if _, err := table.NewReader(strings.NewReader(t)).ReadAll(); err != nil {
				return err
			}
		}
		read = append(read, time.Since(start))
		start = time.Now()
		changes = len(bom.Compare(before, after).Changes)
		compared = append(compared, time.Since(start))
	}
	fmt.Println("Two BOMs of 10,000 lines beside each other, by designator")
	fmt.Printf("  %d changes: %v (target 200ms); encoding/csv over both files %v: %.1f times\n", changes, middle(compared).Round(time.Millisecond), middle(read).Round(time.Millisecond), float64(middle(compared))/float64(middle(read)))

	all := offered1000()
	quantities := []int64{1, 10, 100, 1000, 10_000}
	var planned, few, added []time.Duration
	for range 15 {
		start := time.Now()
		for _, n := range quantities {
			buying.Plan(all, n, buying.Terms{Rates: money.Rates{House: "EUR"}, Day: "2026-11-29"})
		}
		planned = append(planned, time.Since(start))
		start = time.Now()
		for _, n := range quantities {
			buying.Plan(all, n, buying.Terms{Rates: money.Rates{House: "EUR"}, Day: "2026-11-29", Rules: buying.Rules{Few: true}})
		}
		few = append(few, time.Since(start))
		start = time.Now()
		for _, n := range quantities {
			var sum money.Amount
			for i := range all {
				for k := range all[i].Offers {
					sum, _ = sum.Add(all[i].Offers[k].Breaks[0].Price.Line(n, 1))
				}
			}
		}
		added = append(added, time.Since(start))
	}
	fmt.Println("The cost of 1,000 lines with six offers each, for five quantities")
	fmt.Printf("  for the lowest sum %v, from few suppliers %v (target 200ms); multiplying and adding one price of each offer %v: %.1f and %.1f times\n\n", middle(planned).Round(time.Millisecond), middle(few).Round(time.Millisecond), middle(added).Round(time.Millisecond),
		float64(middle(planned))/float64(middle(added)), float64(middle(few))/float64(middle(added)))
	return nil
}

// middle is the median.
func middle(all []time.Duration) time.Duration {
	slices.Sort(all)
	return all[len(all)/2]
}

// boardOf is a BOM of lines with three designators each; every seventh line, from which on, has another part.
func boardOf(lines, other int) []bom.Pinned {
	out := make([]bom.Pinned, lines)
	for i := range out {
		p := bom.Pinned{Row: i + 2, Quantity: 3, Part: &bom.Pin{ID: fmt.Sprintf("p%d", i%700), Number: fmt.Sprintf("EW-R-%05d", i%700), Revision: 1, Description: "RES 4.7kΩ ±1% 0805"}, Value: "4k7", Package: "0805"}
		if other > 0 && i%other == 0 {
			p.Part = &bom.Pin{ID: "another", Number: "EW-R-99999", Revision: 1}
		}
		for d := range 3 {
			p.Designators = append(p.Designators, fmt.Sprintf("R%d", 3*i+d+1))
		}
		out[i] = p
	}
	return out
}

func csvOf(lines []bom.Pinned) string {
	var b strings.Builder
	w := table.NewWriter(&b)
	for _, l := range lines {
		_ = w.Write([]string{strings.Join(l.Designators, ", "), fmt.Sprint(l.Quantity), l.Value, l.Package, l.Part.Number, l.Part.Description})
	}
	w.Flush()
	return b.String()
}

// offered1000 are 1,000 parts that six suppliers offer, with five breaks each.
func offered1000() []buying.Wanted {
	out := make([]buying.Wanted, 1000)
	for i := range out {
		w := buying.Wanted{Part: fmt.Sprint(i), Number: fmt.Sprintf("EW-R-%05d", i), Drawers: []string{"chip-resistors", "passives"}, Each: int64(1 + i%9)}
		for s := range 6 {
			stock := int64(100 * (1 + (i*7+s*13)%900))
			o := buying.Offered{Supplier: fmt.Sprintf("Supplier %d", s), Maker: "Tidewright", MPN: "TW", Offer: offer.Offer{Number: fmt.Sprintf("%d-%d", s, i), Stock: &stock, Minimum: int64(1 + s), Multiple: int64(1 + i%5)}}
			for b, from := range []int64{1, 10, 100, 1000, 5000} {
				o.Breaks = append(o.Breaks, offer.Break{From: from, Price: money.Must(fmt.Sprintf("0.%04d", 900-100*b+(i*31+s*17)%90), "EUR")})
			}
			w.Offers = append(w.Offers, o)
		}
		out[i] = w
	}
	return out
}
