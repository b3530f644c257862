package boms

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"jollydrawer/core/bom"
	"jollydrawer/core/buying"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// mostFunctions bounds the functions that one answer works out.
const mostFunctions = 50

// Unite says of each function that a board buys as several parts what its build would come to with one of them: the whole build is bought anew with each, by the board's
// own rules. Nothing is changed by it; one is taken by choosing it for the lines.
func (s *BOMs) Unite(ctx context.Context, c deed.Call, which wire.BOMAt, boards int64) (wire.BOMFunctions, error) {
	out := wire.BOMFunctions{Items: []wire.BOMFunction{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	at, err := s.costedAt(ctx, wire.BOMAt{BOM: which.BOM, Variant: which.Variant})
	if err != nil {
		return out, err
	}
	out.Boards = cmp.Or(boards, int64(at.doc.Build), 1)
	if out.Boards < 1 || out.Boards > buying.MostBoards {
		return out, boardsWrong()
	}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return out, err
	}
	functions := bom.Functions(at.verdicts, cab)
	out.More = max(len(functions)-mostFunctions, 0)
	functions = functions[:len(functions)-out.More]
	if len(functions) == 0 {
		return out, nil
	}
	now, err := s.basket(ctx, at.lines)
	if err != nil {
		return out, err
	}
	before := now.plan(out.Boards, at.doc.Buying)
	out.Sum, out.Missing = before.Sum, missing(before)
	for _, f := range functions {
		item := wire.BOMFunction{Parts: []wire.UnitedPart{}}
		for _, id := range f.Parts {
			e, ok := s.index.ByID(id)
			if !ok {
				continue
			}
			p := wire.UnitedPart{BOMPart: bomPart(e), Rows: f.Rows[id]}
			b, err := s.basket(ctx, bom.United(at.lines, bom.PinOf(e), f.Parts))
			if err != nil {
				return out, err
			}
			after := b.plan(out.Boards, at.doc.Buying)
			p.Sum, p.Missing, p.Short = after.Sum, missing(after), after.Short > before.Short
			switch less := out.Missing - p.Missing; { // sums without other pieces are no comparison
			case less < 0:
				p.Why = fmt.Sprintf("%d more pieces would have no price", -less)
			case less > 0:
				p.Why = fmt.Sprintf("%d pieces have no price as it is", less)
			case unpriced(before, f.Parts) || unpriced(after, f.Parts):
				p.Why = "it has no price"
			default:
				if p.Saves, err = before.Sum.Minus(after.Sum); err != nil {
					p.Why = "the sums are of two currencies"
				}
			}
			item.Parts = append(item.Parts, p)
		}
		slices.SortStableFunc(item.Parts, func(a, b wire.UnitedPart) int {
			return cmp.Or(cmp.Compare(a.Missing, b.Missing), cmp.Compare(b.Saves.Float(), a.Saves.Float()))
		})
		out.Items = append(out.Items, item)
	}
	return out, nil
}

// unpriced says whether some of a few parts have no price in a build.
func unpriced(c buying.Costing, parts []string) bool {
	return slices.ContainsFunc(c.Unbought, func(u buying.Unbought) bool { return slices.Contains(parts, u.Part) })
}

// missing is how many pieces of a build are not in its sum.
func missing(c buying.Costing) (pieces int64) {
	for _, u := range c.Unbought {
		pieces += u.Takes
	}
	for _, b := range c.Bought {
		if c.NoRate > 0 && b.Converted == nil && b.Total.Code() != c.Currency {
			pieces += b.Takes
		}
	}
	return pieces
}
