package boms

import (
	"context"
	"fmt"
	"slices"

	"jollydrawer/core/bom"
	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// distinct is how many things decisions are about.
func distinct(all []decision.Record) int { return len(decision.WithAll(nil, all)) }

// Waive accepts the findings of one cause, of some lines or of all that have it, with a reason; a blank reason takes that back. Each waiver is of what was found in that
// line: it counts for nothing once the line, its record or what is found is another.
func (s *BOMs) Waive(ctx context.Context, c deed.Call, key string, version int, in wire.WaiveFindings) (wire.BOM, error) {
	why := deed.Said(in.Why)
	var made []decision.Record
	prepare := func(h store.Head, doc bomDoc) error {
		vs, f, err := s.reconcile(ctx, h, doc)
		if err != nil {
			return err
		}
		laid := blank()
		if _, err := s.lay(ctx, &laid, vs, f, h, doc, bom.Severities{}); err != nil {
			return err
		}
		made = nil
		open := 0
		for i := range vs {
			for _, x := range laid.Lines[i].Findings {
				switch {
				case why == "" && x.Waived == "": // nothing to take back
				case x.Cause != in.Cause || len(in.Rows) > 0 && !slices.Contains(in.Rows, vs[i].Line.Row):
				case vs[i].Open() != nil: // what is found of a proposal is settled with the line
					open++
				default:
					d := bom.Accept(&vs[i], x, why)
					d.By, d.At = c.Actor.Name, s.Now().UTC()
					made = append(made, d)
				}
			}
		}
		if len(made) == 0 && open > 0 {
			return deed.Fault(deed.Invalid, "line-open", fmt.Sprintf("%q was found of records that are only proposed: %d of these lines are open.", in.Cause, open), "Accept the record with a reason, or choose another.")
		}
		if len(made) == 0 && why == "" {
			return deed.Fault(deed.Invalid, "no-such-waiver", fmt.Sprintf("Nobody accepted the finding %q in any of these lines.", in.Cause), "Look at the BOM again: it may be taken back.")
		}
		if len(made) == 0 {
			return deed.Fault(deed.Invalid, "no-such-finding", fmt.Sprintf("No line of these has the finding %q.", in.Cause), "Look at the BOM again: it may be settled.")
		}
		return nil
	}
	return s.change(ctx, c, key, version, in, prepare, func(_ *store.Head, doc *bomDoc) (string, any) {
		action := "findings accepted"
		doc.Decisions = decision.WithAll(doc.Decisions, made)
		if why == "" {
			action = "acceptance taken back"
			doc.Decisions = doc.Decisions[:len(doc.Decisions)-distinct(made)]
		}
		return action, map[string]any{"cause": finding.Name(in.Cause), "lines": len(made), "why": why}
	})
}
