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

// lacking says what suppliers lack of a line's record for a build, by all lines that are linked to it, and whether more come in time.
func (s *BOMs) lacking(v *bom.Verdict, each map[string]int64, doc bomDoc) []finding.Finding {
	if doc.Build == 0 || v.Kind != bom.Linked || v.Part == nil {
		return nil
	}
	is := bom.Supplied{LeadDays: -1}
	is.Stock, is.AtLeast, is.Known = s.index.InStock(v.Part.ID)
	if days, known := s.index.LeadDays(v.Part.ID); known {
		is.LeadDays = days
	}
	due, _ := time.Parse(time.DateOnly, doc.Due) // none where nobody said so
	return bom.Lacking(is, each[v.Part.ID]*int64(doc.Build), doc.Build, s.Now().UTC().Truncate(24*time.Hour), due)
}
