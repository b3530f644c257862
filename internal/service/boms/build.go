package boms

import (
	"context"
	"fmt"
	"time"

	"jollydrawer/core/bom"
	"jollydrawer/core/finding"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// SetBuild says how many boards of a BOM are built at once: what suppliers have is laid beside that, and news tell when it is less.
func (s *BOMs) SetBuild(ctx context.Context, c deed.Call, key string, version int, in wire.BOMBuild) (wire.BOM, error) {
	named := ""
	prepare := func(h store.Head, doc bomDoc) error {
		if in.Due != nil && *in.Due != "" {
			if day, err := time.Parse(time.DateOnly, *in.Due); err != nil || day.Year() < 1970 {
				return deed.Fault(deed.Invalid, "day-wrong", fmt.Sprintf("%q is no day.", *in.Due), "Write it as 2027-01-15.")
			}
		}
		if in.Variant == nil {
			return nil
		}
		f, _, err := s.fileOf(ctx, h, doc)
		if err != nil {
			return err
		}
		named, err = variant(f.variants, *in.Variant)
		return err
	}
	return s.change(ctx, c, key, version, in, prepare, func(_ *store.Head, doc *bomDoc) (string, any) {
		was := doc.Build
		doc.Build = in.Boards
		if in.Variant != nil {
			doc.Variant = named
		}
		if in.Yearly != nil {
			doc.Yearly = *in.Yearly
		}
		if in.Due != nil {
			doc.Due = *in.Due
		}
		return "build said", map[string]any{"boards": in.Boards, "before": was, "yearly": doc.Yearly, "variant": doc.Variant, "due": doc.Due}
	})
}

// unmade says of a line that suppliers say how its record stands, and none that a source of it is in production.
func (s *BOMs) unmade(v *bom.Verdict) []finding.Finding {
	if v.Kind != bom.Linked || v.Part == nil {
		return nil
	}
	if made, known := s.index.Produced(v.Part.ID); made || !known {
		return nil
	}
	return []finding.Finding{{Severity: finding.Warning, Cause: "not-made", Row: v.Line.Row, What: "no supplier says that a source of " + v.Part.Number + " is in production still", Mend: "give the part another source, or choose another part"}}
}

// lacking says what suppliers lack for a build of what a line is, by all lines that take it, and whether more come in time: of its record, or of what the board that it is is
// made of.
func (s *BOMs) lacking(v *bom.Verdict, subs bom.Subs, each map[string]int64, doc bomDoc) []finding.Finding {
	if doc.Build == 0 {
		return nil
	}
	today := s.Now().UTC().Truncate(24 * time.Hour)
	due, _ := time.Parse(time.DateOnly, doc.Due) // none where nobody said so
	of := func(id string) []finding.Finding {
		is := bom.Supplied{LeadDays: -1}
		is.Stock, is.AtLeast, is.Known = s.index.InStock(id)
		if days, known := s.index.LeadDays(id); known {
			is.LeadDays = days
		}
		return bom.Lacking(is, each[id]*int64(doc.Build), doc.Build, today, due)
	}
	switch v.Kind {
	case bom.Linked:
		if v.Part != nil {
			return of(v.Part.ID)
		}
	case bom.Another:
		return subs.Lacking(v, of)
	}
	return nil
}
