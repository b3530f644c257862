package intakes

import (
	"context"
	"fmt"
	"slices"

	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// MoveStated moves the parts of which an intake's supplier says that they should not be used, or not any more: those that its rows stand for
// while it is open, and those that it made once it is taken in. They go by the move of their lifecycle that leads there, with its gates.
func (s *Intakes) MoveStated(ctx context.Context, c deed.Call, id store.ID, in wire.MoveStated) (wire.Moved, error) {
	return s.lives.MoveFound(ctx, c, []any{"stated", id, in}, func() (wire.MoveThings, error) {
		to := in.To
		if to == "" {
			to = in.Stated
		}
		out := wire.MoveThings{To: to, Note: in.Note}
		h, doc, err := s.loadIntake(ctx, id)
		if err != nil {
			return out, err
		}
		e, err := s.evaluate(ctx, h, doc)
		if err != nil {
			return out, err
		}
		var found []string
		for _, f := range e.result.Findings {
			if f.Cause != statedCause(in.Stated) || len(in.Rows) > 0 && !slices.Contains(in.Rows, f.Row) {
				continue
			}
			k := &e.result.Candidates[e.table.At(f.Row)]
			if k.Part != "" && !slices.Contains(found, k.Part) {
				found = append(found, k.Part)
				out.Things = append(out.Things, wire.PartBase{ID: k.Part, Version: k.Version})
			}
		}
		if len(found) == 0 {
			return out, deed.Fault(deed.Invalid, "none-stated", fmt.Sprintf("No row of %s says %s of a part of the library that is not so already.", h.Number, in.Stated), "Rows that are not taken in yet are no parts yet.")
		}
		return out, nil
	})
}

// statedCause is the cause of findings that a supplier states a standing.
func statedCause(standing string) string { return "stated:" + standing }

// statedOf counts the rows that become parts of which the supplier says that they should not be used, or not any more.
func (e *evaluation) statedOf(made []madePart) map[string]int {
	row := map[int]bool{}
	for _, m := range made {
		row[e.result.Candidates[m.at].Row] = true
	}
	out := map[string]int{}
	for _, standing := range []lifecycle.Standing{lifecycle.NotForNew, lifecycle.Obsolete} {
		for _, f := range e.result.Findings {
			if f.Cause == statedCause(string(standing)) && row[f.Row] {
				out[string(standing)]++
			}
		}
	}
	return out
}
