package boms

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/buying"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/offers"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// usualQuantities are those that a costing is drawn for where nobody names others.
var usualQuantities = []int64{1, 10, 100, 1000}

// mostQuantities is how many quantities one costing is drawn for.
const mostQuantities = 20

// SetBuying says how a BOM's parts are bought.
func (s *BOMs) SetBuying(ctx context.Context, c deed.Call, key string, version int, in buying.Rules) (wire.BOM, error) {
	prepare := func(store.Head, bomDoc) error {
		cab, _, err := s.cabinets.InForce(ctx)
		if err != nil {
			return err
		}
		bad := deed.Fault(deed.Invalid, "buying-wrong", "Nothing was saved:", "")
		seen := map[string]bool{}
		for i, sp := range in.Spares {
			at := fmt.Sprintf("spares[%d].drawer", i)
			if _, ok := cab.Template(sp.Drawer); !ok && sp.Drawer != "" {
				bad.Places = append(bad.Places, wire.ProblemDetail{Location: at, Message: fmt.Sprintf("there is no drawer %q", sp.Drawer)})
			} else if seen[sp.Drawer] {
				bad.Places = append(bad.Places, wire.ProblemDetail{Location: at, Message: fmt.Sprintf("the drawer %q is named twice", sp.Drawer)})
			}
			seen[sp.Drawer] = true
		}
		for _, name := range in.Prefer {
			if slices.ContainsFunc(in.Exclude, func(x string) bool { return strings.EqualFold(x, name) }) {
				bad.Places = append(bad.Places, wire.ProblemDetail{Location: "prefer", Message: name + " is preferred and excluded"})
			}
		}
		if len(bad.Places) > 0 {
			return bad
		}
		return nil
	}
	return s.change(ctx, c, key, version, in, prepare, func(_ *store.Head, doc *bomDoc) (string, any) {
		doc.Buying = in
		return "buying said", in
	})
}

// Cost works out what builds of a BOM come to, by what suppliers said last: all of it for a number of boards, and the sums for others. A revision of 0 is the BOM
// as it is now; boards of 0 are those of its build.
func (s *BOMs) Cost(ctx context.Context, c deed.Call, which wire.BOMAt, boards int64, others []int64) (wire.BOMCost, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.BOMCost{}, err
	}
	at, err := s.costedAt(ctx, which)
	if err != nil {
		return wire.BOMCost{}, err
	}
	boards = cmp.Or(boards, int64(at.doc.Build), 1)
	if len(others) == 0 {
		others = usualQuantities
	}
	others = append(slices.Clone(others), boards)
	slices.Sort(others)
	others = slices.Compact(others)
	if others[0] < 1 || others[len(others)-1] > buying.MostBoards || len(others) > mostQuantities {
		return wire.BOMCost{}, boardsWrong()
	}
	b, err := s.basket(ctx, at.lines)
	if err != nil {
		return wire.BOMCost{}, err
	}
	out := wire.BOMCost{BOM: at.head.ID.String(), Name: at.name, Variants: append([]string{}, at.variants...), Variant: at.variant, Rules: at.doc.Buying, Points: []wire.CostPoint{}}
	out.Costing = b.plan(boards, at.doc.Buying)
	for _, n := range others {
		p := out.Costing
		if n != boards {
			p = b.plan(n, at.doc.Buying)
		}
		out.Points = append(out.Points, wire.CostPoint{Boards: n, Sum: p.Sum, Board: p.Board, Unbought: len(p.Unbought), NoRate: p.NoRate, Short: p.Short, Suppliers: len(p.Suppliers), LeadDays: p.LeadDays})
	}
	out.Ready = b.ready(at.lines, s.index, out.Costing)
	return out, nil
}

// boardsWrong refuses builds that nobody makes.
func boardsWrong() error {
	return deed.Fault(deed.Invalid, "boards-wrong", fmt.Sprintf("A build has 1 to %d boards, and at most %d quantities are worked out at once.", buying.MostBoards, mostQuantities), "")
}

// basket is what the lines of a BOM have to be bought of, with what is offered of it.
type basket struct {
	wanted []buying.Wanted
	left   []buying.Unbought // lines that no offer can be looked up for
	market offers.Market
	made   map[string]bool // parts of which a source is in production
}

func (s *BOMs) basket(ctx context.Context, lines []bom.Pinned) (b basket, err error) {
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return b, err
	}
	at := map[string]int{}
	var sources []part.Source
	var entries []*lookup.Entry
	for i := range lines {
		l := &lines[i]
		if l.NotFitted || l.Assembly {
			continue
		}
		left := buying.Unbought{Description: strings.Join(strings.Fields(l.Value+" "+l.Package+" "+l.MPN+" "+l.Description), " "), Designators: l.Designators, Takes: int64(l.Quantity), Manufacturer: l.Manufacturer, MPN: l.MPN}
		if l.Amount != "" {
			left.Description = strings.TrimSpace(left.Description + ", " + l.Amount + " a board")
		}
		if l.Part != nil {
			left.Part, left.Number, left.Description, left.Manufacturer, left.MPN = l.Part.ID, l.Part.Number, l.Part.Description, l.Part.Manufacturer, l.Part.MPN
		}
		var e *lookup.Entry
		known := false
		if l.Part != nil {
			e, known = s.index.ByID(l.Part.ID)
		}
		if known && e.Gone { // merged away since: its survivor is bought
			if now, ok := s.index.ByNumber(l.Part.Number); ok {
				e = now
			}
		}
		switch {
		case l.NoPart:
			left.Why = "it is no part of the library: " + l.Reason
		case l.Part == nil:
			left.Why = "no record is linked"
		case l.Amount != "":
			left.Why = l.Amount + " is not counted in pieces"
		case l.Quantity == 0:
			left.Why = "its quantity is 0"
		case !known:
			left.Why = "its record is no longer there"
		case len(e.Sources) == 0:
			left.Why = "its record has no source"
		}
		if left.Why != "" {
			b.left = append(b.left, left)
			continue
		}
		k, twice := at[e.ID]
		if !twice {
			k = len(b.wanted)
			at[e.ID] = k
			b.wanted = append(b.wanted, buying.Wanted{Part: e.ID, Number: e.Number, Description: e.Description, Drawers: drawersOf(cab, e.Drawer), Kind: kindOf(cab, e.Drawer), Maker: e.Sources[0].Manufacturer, MPN: e.Sources[0].MPN})
			sources, entries = append(sources, e.Sources...), append(entries, e)
		}
		w := &b.wanted[k]
		w.Each += int64(l.Quantity)
		w.Designators = append(w.Designators, l.Designators...)
	}
	if b.market, err = s.market.Market(ctx, sources); err != nil {
		return b, err
	}
	b.made = map[string]bool{}
	for k, e := range entries {
		w := &b.wanted[k]
		slices.SortFunc(w.Designators, bom.ByDesignator)
		for n, src := range e.Sources {
			w.Sources = append(w.Sources, src.Manufacturer+" "+src.MPN)
			for _, o := range b.market.By[src.Key()] {
				o.Alternate = n > 0
				w.Offers = append(w.Offers, o)
				if stands, ok := lifecycle.Stated(o.State); ok && stands == lifecycle.Active && !o.Gone {
					b.made[e.ID] = true
				}
			}
		}
	}
	return b, nil
}

// kindOf is what parts of a drawer are called.
func kindOf(cab *cabinet.Cabinet, key string) string {
	if t, ok := cab.Template(key); ok {
		return t.Label
	}
	return key
}

// drawersOf are a drawer and those that it lies inside, the nearest first.
func drawersOf(cab *cabinet.Cabinet, key string) []string {
	out := []string{key}
	if t, ok := cab.Template(key); ok {
		for _, p := range slices.Backward(t.Path) {
			if p != key {
				out = append(out, p)
			}
		}
	}
	return out
}

func (b *basket) plan(boards int64, rules buying.Rules) buying.Costing {
	c := buying.Plan(b.wanted, boards, buying.Terms{Rules: rules, Rates: b.market.Rates, Day: b.market.Day})
	for _, l := range b.left {
		l.Takes *= boards
		c.Unbought = append(c.Unbought, l)
	}
	return c
}

// ready counts lines by how ready they are for the build that was worked out.
func (b *basket) ready(lines []bom.Pinned, lib bom.Library, c buying.Costing) bom.Readiness {
	there := map[string]bool{}
	for _, x := range c.Bought {
		there[x.Part] = !x.Short && x.Stock != nil
	}
	return bom.Ready(lines, lib, func(id string) bool { return b.made[id] }, func(id string) bool { return there[id] })
}
