package intakes

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// mostNumbers is how many numbers are kept at once: they are one transaction.
const mostNumbers = 2000

// KeepNumbers lets the numbers that rows bring find the parts that the rows stand for, as former numbers. It is done at once and not when the
// intake is taken in: a number that people look for in a drawing is of use whether or not the rest of the row is wanted.
func (s *Intakes) KeepNumbers(ctx context.Context, c deed.Call, id store.ID, in wire.KeepNumbers) (wire.KeptNumbers, error) {
	numbers := map[store.ID][]string{}
	kept := 0
	request := []any{id, in}
	return deed.DoAfter(ctx, s.Desk, c, deed.OpPartEdit, "part", request, func() error {
		clear(numbers)
		kept = 0
		h, doc, err := s.loadIntake(ctx, id)
		if err != nil {
			return err
		}
		e, err := s.evaluate(ctx, h, doc)
		if err != nil {
			return err
		}
		for _, f := range e.result.Findings {
			if f.Cause != "former-number" || len(in.Rows) > 0 && !slices.Contains(in.Rows, f.Row) {
				continue
			}
			part, err := store.ParseID(e.result.Candidates[e.table.At(f.Row)].Part)
			if err != nil {
				return err
			}
			if !slices.Contains(numbers[part], f.Text) {
				numbers[part] = append(numbers[part], f.Text)
				kept++
			}
		}
		switch {
		case kept == 0:
			return deed.Fault(deed.Invalid, "no-numbers", "No row brings a number that its part does not have.", "Load the intake again.")
		case kept > mostNumbers:
			return deed.Fault(deed.TooLarge, "too-many", fmt.Sprintf("%d numbers cannot be kept at once; nothing was changed.", kept), fmt.Sprintf("Name the rows, at most %d at once.", mostNumbers))
		}
		return nil
	}, func(t *store.Tx) (wire.KeptNumbers, error) {
		var ids []store.ID
		for part := range numbers {
			ids = append(ids, part)
		}
		slices.SortFunc(ids, func(a, b store.ID) int { return slices.Compare(a[:], b[:]) })
		heads, err := t.HeadsByID(ids)
		if err == nil && len(heads) != len(ids) {
			err = store.ErrConflict
		}
		if err != nil {
			return wire.KeptNumbers{}, err
		}
		for i := range heads {
			h := &heads[i]
			if err := policy.Stands(*h); err != nil {
				return wire.KeptNumbers{}, err
			}
			for _, n := range numbers[h.ID] {
				if err := t.AddFormer(n, h.ID); errors.Is(err, store.ErrNumberTaken) {
					return wire.KeptNumbers{}, deed.Fault(deed.Clash, "number-taken", fmt.Sprintf("The number %s was given to another part meanwhile; nothing was changed.", n), "Load the intake again.")
				} else if err != nil {
					return wire.KeptNumbers{}, err
				}
			}
			if err := t.Update(h, "former number added", map[string]any{"number": numbers[h.ID]}); err != nil {
				return wire.KeptNumbers{}, err
			}
		}
		return wire.KeptNumbers{Numbers: kept}, nil
	})
}
